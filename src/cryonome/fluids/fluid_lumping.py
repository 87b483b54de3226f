"""A fluid with fewer components: groups proposed by boiling point and similarity, the lumped fluid as a part of the
document, and what it costs on every test."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..characterization.lumping import join_components, summed
from ..components import Component
from ..document import Document, Fluid, FluidPart
from ..document.edits import add_fluid, add_study, free_name
from ..document.kinds import study_kinds
from ..document.model import Detail, Measured, Model, Pseudo, tests_of
from ..eos.building import BONDS
from ..eos.cpa_library import bonding
from ..eos.cubic_forms import FORMS
from .building import FluidModel

Array = NDArray[np.float64]

Groups = list[tuple[int, ...]]
"""Places of the components in each group, by boiling point."""

APART = ("water", "alcohol")
"""Families that never join others."""


@dataclass(frozen=True)
class Lumped:
    """Groups of places of the components, their ``names``, and the fluid they make."""

    groups: tuple[tuple[int, ...], ...]
    names: tuple[str, ...]
    fluid: Fluid


def proposed_groups(components: Sequence[Component], z: Array, count: int) -> Groups:
    """Return ``count`` groups of components (nc,), neighbours in boiling point, joined one by one where that changes
    least.

    What joining two groups of mole fractions z1 and z2 changes is told by z1 z2/(z1 + z2) times the square of their
    distance in ln(Tc), ln(Pc) and omega, the increase of the sum of squares about the groups' means (Ward, J. Am.
    Stat. Assoc. 58, 236 (1963))."""
    order = sorted(range(len(components)), key=lambda i: components[i].nbp)
    features = np.array([[3.0 * np.log(c.Tc), np.log(c.Pc), 2.0 * c.omega] for c in components])
    groups = [[i] for i in order]

    def cost(one: list[int], other: list[int]) -> float:
        if any(components[i].family in APART for i in (*one, *other)):
            return np.inf
        a, b = float(z[one].sum()), float(z[other].sum())
        centres = [np.average(features[g], axis=0, weights=z[g] + 1e-12) for g in (one, other)]
        return a * b / (a + b) * float(((centres[0] - centres[1]) ** 2).sum())

    while len(groups) > max(count, 1):
        costs = [cost(a, b) for a, b in pairwise(groups)]
        k = int(np.argmin(costs))
        if not np.isfinite(costs[k]):
            break
        groups[k : k + 2] = [groups[k] + groups[k + 1]]
    return [tuple(g) for g in groups]


def lumped(model: FluidModel, fluid: Fluid, groups: Sequence[tuple[int, ...]], name: str) -> Lumped:
    """Return a fluid of one component for each group: pure ones stay, others are joined by mass with their
    interaction parameters by mole."""
    group = np.empty(model.z.size, dtype=np.intp)
    for g, members in enumerate(groups):
        group[list(members)] = g
    names = tuple(_name([model.components[i] for i in members], name) for members in groups)
    made = join_components(model.components, model.z, group, names, names)
    z = summed(model.z, group)
    parts = []
    for members, component, share in zip(groups, made, z.tolist()):
        own = model.components[members[0]]
        # A pure component goes by its own name, unless a tuning has made another of it.
        if len(members) == 1 and own.kind == "pure" and fluid.model.tuned is None:
            parts.append(FluidPart(component=own.name, amount=share))
            continue
        c = own if len(members) == 1 else component
        pseudo = Pseudo(
            name=c.name if len(members) == 1 and c.kind == "pure" else component.name,
            Tc=c.Tc,
            Pc=c.Pc,
            omega=c.omega,
            molar_mass=1e3 * c.molar_mass,
            Vc=c.Vc,
            nbp=c.nbp,
            specific_gravity=c.specific_gravity,
        )
        parts.append(FluidPart(pseudo=pseudo, amount=share))
    weight = np.outer(model.z, model.z)
    told = [p.component or (p.pseudo.name if p.pseudo is not None else "") for p in parts]
    pairs: list[tuple[str, str, float] | tuple[str, str, float, float]] = []
    bonds = fluid.model.eos == BONDS
    slopes = model.pairs.slope if model.pairs.slope is not None else np.zeros_like(model.kij)
    for i in range(len(groups)):
        for j in range(i):
            block = np.ix_(list(groups[i]), list(groups[j]))
            value, slope = (float((weight[block] * m[block]).sum() / weight[block].sum()) for m in (model.kij, slopes))
            if bonds and any(bonding(model.components[m]) for m in (*groups[i], *groups[j])):
                # The library knows these, warming with them.
                continue
            if slope != 0.0:
                pairs.append((told[j], told[i], value, slope))
            elif value != 0.0 or bonds:
                pairs.append((told[j], told[i], value))
    own_model = Model(
        eos=fluid.model.eos,
        alpha=fluid.model.alpha,
        kij="library" if bonds else "zero",
        kij_pairs=tuple(pairs),
        volume_shift=fluid.model.volume_shift,
        viscosity=fluid.model.viscosity,
        reference=fluid.model.reference,
        omegas=_omegas(fluid, model, groups, told),
    )
    note = f"{fluid.name} with {len(groups)} of {model.z.size} components"
    inside = {n: tuple(model.components[i].name for i in g) for n, g in zip(told, groups)}
    made_fluid = Fluid(
        name=name, note=note, parts=tuple(parts), model=own_model, detail=Detail(fluid=fluid.name, groups=inside)
    )
    return Lumped(tuple(groups), names, made_fluid)


def _omegas(
    fluid: Fluid, model: FluidModel, groups: Sequence[Sequence[int]], told: Sequence[str]
) -> dict[str, tuple[float, float]]:
    """Return the constants Omega of groups, by mole, where a component of the group has some of its own."""
    form = FORMS.get(fluid.model.eos)
    out = {}
    for members, name in zip(groups, told):
        if form is not None and any(model.components[i].omegas for i in members):
            own = np.array([model.components[i].omegas or (form.omega_a, form.omega_b) for i in members])
            a, b = np.average(own, axis=0, weights=model.z[list(members)]).tolist()
            out[name] = (a, b)
    return out


def _name(members: Sequence[Component], fluid: str) -> str:
    if len(members) == 1:
        return members[0].name
    names = [c.name for c in members]
    # The last goes without what it shares with the first.
    first, last = names[0].split(), names[-1].split()
    shared = next((k for k, (a, b) in enumerate(zip(first, last)) if a != b), 0)
    names[-1] = " ".join(last[shared:])
    return f"{names[0]} to {names[-1]}" if len(names) > 2 else " + ".join(names)


def taken_over(document: Document, answer: Mapping[str, Any]) -> Document:
    """Return a document with the lumped fluid of an answer, the tests it was held against made its own, and a match
    that tunes it anew."""
    made = Fluid.model_validate(answer["fluid"])
    made = made.model_copy(update={"name": free_name(document, made.name)})
    document = add_fluid(document, made)
    for name in answer["tests"]:
        test = document.study(name)
        if isinstance(test, Measured) and test.measured:
            own = {k: v for k, v in test.measured.items() if _has(made, k)}
            document = add_study(
                document,
                test.model_copy(
                    update={"name": f"{test.name}, {len(made.parts)}", "fluid": made.name, "measured": own}
                ),
            )
    begun = study_kinds()["match"].begin(made.name, None)
    return add_study(document, begun) if tests_of(document, begun) else document


def _has(fluid: Fluid, key: str) -> bool:
    """Tell whether a measured key is of something a fluid still has: a composition may be of a component that was
    joined to others."""
    phase, _, name = key.partition(".")
    return phase not in ("gas", "liquid") or name in [
        p.component or (p.pseudo.name if p.pseudo is not None else "") for p in fluid.parts
    ]
