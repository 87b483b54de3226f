"""Tunings of a fluid: from the document's changes by component id to the physics, and back."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..document.model import Tuning
from ..document.read_model import ModelInput
from ..eos.building import Interaction
from ..remarks import Remark
from ..tuning import Base, Parameter, Tuned
from ..tuning.parameters import single

Array = NDArray[np.float64]


def base_of(model: ModelInput, components: Sequence[Component], z: Array, pairs: Interaction) -> Base:
    """Return a fluid before it is tuned; viscosities have no factor yet."""
    none = np.zeros(z.size)
    return Base(
        tuple(components),
        z,
        model.eos,
        model.alpha,
        model.volume_shift,
        pairs,
        model.viscosity,
        none,
        none,
        model.rule.exponent,
    )


def mark(components: Sequence[Component], z: Array, ids: Sequence[str]) -> str:
    """Return a short mark of the components ``ids``: another where their constants or their shares of each other have
    changed."""
    there = [i for i, c in enumerate(components) if c.identity in ids]
    total = float(z[there].sum()) or 1.0
    parts = []
    for i in there:
        c = components[i]
        numbers = (c.Tc, c.Pc, c.omega, c.molar_mass, float(z[i]) / total)
        parts.append(f"{c.identity}:{','.join(f'{v:.6g}' for v in numbers)}")
    return hashlib.sha256(";".join(sorted(parts)).encode()).hexdigest()[:12]


def ids_of(tuning: Tuning) -> list[str]:
    """Return the ids of the components that a tuning names, each once."""
    return list(dict.fromkeys(i for c in tuning.changes for i in (*c.components, *c.partners)))


def applied_tuning(
    model: ModelInput, components: Sequence[Component], z: Array, pairs: Interaction, remarks: list[Remark]
) -> Tuned | None:
    """Return what the tuning of a model makes of its components, None without one; what it names that is not there is
    told."""
    given = model.tuned
    if given is None or not given.changes:
        return None
    place = {c.name: i for i, c in enumerate(components)} | {c.identity: i for i, c in enumerate(components)}
    parameters, values, missing = [], [], []
    for name, ids, partners, value in given.changes:
        own = tuple(place[i] for i in ids if i in place)
        others = tuple(place[i] for i in partners if i in place)
        missing += [i for i in (*ids, *partners) if i not in place]
        if own and (others or not partners):
            parameters.append(Parameter(name, own, others))
            values.append(value)
    named = list(dict.fromkeys(i for _, own_ids, partner_ids, _ in given.changes for i in (*own_ids, *partner_ids)))
    if missing:
        remarks.append(Remark("warning", "tuned.missing", "tuned", {"names": tuple(dict.fromkeys(missing))}))
    if given.of and not missing and mark(components, z, named) != given.of:
        remarks.append(Remark("warning", "tuned.stale", "tuned"))
    if not parameters:
        return None
    remarks.append(Remark("correction", "tuned.applied", "tuned", {"count": len(parameters)}))
    return single(base_of(model, components, z, pairs), parameters, np.array(values))
