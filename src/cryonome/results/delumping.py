"""What a lumped fluid was lumped from: its components again for questions that need them, and their equilibrium in
the lumped phases.

Leibovici, Stenby and Knudsen, Fluid Phase Equilib. 117, 225 (1996): what a phase of the lumped fluid does to a
component at infinite dilution depends on that component's own constants and on mixture sums that are known, so that
equilibrium ratios of all original components follow without another flash. Here those fugacity coefficients are taken
from the equation itself, with each original component present in no amount, whatever the equation; interaction
parameters with a group are the means over its members."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..document import Fluid
from ..document.edits import set_at, set_each
from ..eos.building import Interaction, equation_of, matched_components
from ..equilibrium.phases import ROOTS, Phases
from ..fluids.building import FluidModel
from ..fluids.fluid_lumping import lumped
from ..remarks import Remark, Value
from .evaluator import Project
from .simulated_tests import dry

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Detailed:
    """The ``model`` of the components that a fluid was lumped from, in the amounts that its groups have now, and the
    place of the ``group`` of each, (nd,) among the lumped components."""

    model: FluidModel
    fluid: Fluid
    group: NDArray[np.intp]


def detailed(project: Project, fluid: Fluid) -> Detailed | None:
    """Return what a fluid was lumped from, None for one that was not or whose groups are no longer there. Raises
    DomainError where that cannot be made."""
    if fluid.detail is None:
        return None
    source = project.document.fluid(fluid.detail.fluid)
    if source is None:
        return None
    key = ("detailed", project.fluid_key(fluid), project.fluid_key(source))
    return project.evaluator.cache.get(key, lambda: _detailed(project, fluid, source))


def _detailed(project: Project, fluid: Fluid, source: Fluid) -> Detailed | None:
    assert fluid.detail is not None
    own, whole = project.fluid(fluid), dry(project.fluid(source))
    members = {name: place for place, n in enumerate(own.names) for name in fluid.detail.groups.get(n, ())}
    if set(whole.names) - set(members):
        return None
    group = np.array([members[n] for n in whole.names], dtype=np.intp)
    total = np.bincount(group, whole.z, own.z.size)
    share = own.z[group] * whole.z / total[group]
    made = lumped(whole, source, [(i,) for i in range(whole.z.size)], f"{fluid.name}, all components").fluid
    parts = tuple(set_at(p, ("amount",), float(z)) for p, z in zip(made.parts, share))
    # Pairs with water, which a laboratory's fluid has none of, are those of the source's rule.
    explicit = set_each(made, {("parts",): parts, ("detail",): None, ("model", "kij"): source.model.kij})
    return Detailed(project.fluid(explicit), explicit, group)


def asked_of(project: Project, fluid: Fluid) -> tuple[Fluid, list[Remark]]:
    """Return the fluid that questions about single components are asked of, with what is to be said: itself, or all
    components that it was lumped from."""
    found = detailed(project, fluid)
    if found is None:
        lost = fluid.detail is not None
        values: dict[str, Value] = {"fluid": fluid.name, "source": fluid.detail.fluid if fluid.detail else ""}
        return fluid, [Remark("warning", "lumping.no_source", "", values)] if lost else []
    told = {"fluid": fluid.name, "count": str(found.model.z.size), "own": str(project.fluid(fluid).z.size)}
    return found.fluid, [Remark("estimate", "lumping.delumped", "", dict(told))]


def holding(project: Project, fluid: Fluid) -> Project:
    """Return the project with a fluid among those that others may be made of."""
    document = project.document
    if document.fluid(fluid.name) is not None:
        return project
    return project.evaluator.at(set_each(document, {("fluids",): (*document.fluids, fluid)}))


def compositions(project: Project, fluid: Fluid, phases: Phases, row: int = 0) -> list[Mapping[str, float]] | None:
    """Return the mole fractions of the original components in the phases of one state, place by place, None of a
    fluid that was not lumped."""
    found = detailed(project, fluid)
    reading = project.input_of(fluid)
    if found is None or reading is None:
        return None
    own, detail = project.fluid(fluid), found.model
    nl, nd = own.z.size, detail.z.size
    members = (found.group[:, None] == np.arange(nl)) * detail.z[:, None]
    share = members / members.sum(axis=0)

    def joined(own: Array, detail: Array) -> Array:
        between = detail @ share
        return np.block([[own, between.T], [between, detail]])

    kij = joined(own.kij, detail.kij)
    slopes = [m.pairs.slope if m.pairs.slope is not None else np.zeros_like(m.kij) for m in (own, detail)]
    slope = joined(*slopes) if any(v.any() for v in slopes) else None
    warming = None
    if own.pairs.warming is not None and detail.pairs.warming is not None:
        each = [joined(own.pairs.warming[..., k], detail.pairs.warming[..., k]) for k in (0, 1)]
        warming = np.stack(each, axis=-1)
    components = matched_components([*own.components, *detail.components], reading.model.eos)
    eos = equation_of(reading.model.eos, components, Interaction(kij, slope, None, (), warming), reading.model.alpha)
    there = np.flatnonzero(phases.present[row])
    x = np.zeros((there.size, nl + nd))
    x[:, :nl] = phases.composition[row, there]
    T, P = np.full(1, phases.T[row]), np.full(1, phases.P[row])
    ln_phi = np.array(
        [
            eos.prepare(T, P).ln_phi(x[k : k + 1], ROOTS[int(phases.root[row, place])])[0][0, nl:]
            for k, place in enumerate(there)
        ]
    )
    weight = np.exp(ln_phi.min(axis=0) - ln_phi)
    out = detail.z * weight / (phases.fraction[row, there] @ weight)
    out /= out.sum(axis=1, keepdims=True)
    by_place = dict(zip(there.tolist(), out))
    return [dict(zip(detail.names, by_place[k].tolist())) if k in by_place else {} for k in range(phases.kind.shape[1])]
