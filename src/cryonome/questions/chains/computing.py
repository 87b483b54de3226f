"""A chain computed: feeds of a document's fluids through the steps, one variant or many at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...document import Fluid
from ...equilibrium.phases import Phases
from ...fluids.building import FluidModel
from ...fluids.grid_states import states_at
from ...fluids.joined import joined
from ...fluids.standard import STANDARD_GAS
from ...process import Done, Medium, Step, StepFault, Stream, do
from ...remarks import Remark, said
from ...results.context import Context, NoAnswerError
from ...results.evaluator import Project
from ...results.pair_states import state_at
from .reading import AskedChain, AskedFeed

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Mixture:
    """What a chain is computed with: a model of all components of its feeds, and the mole fractions (nc,) of each
    feed's fluid among them, by the fluid's name; ``source`` is the fluid whose model it is."""

    model: FluidModel
    z: Mapping[str, Array]
    source: Fluid
    remarks: tuple[Remark, ...] = ()


@dataclass(frozen=True)
class Computed:
    """A chain done, and what to say beside what its steps say; ``failed`` (N,) why a variant was not done, None where
    it was, ``row`` (N,) its place among those done."""

    mixture: Mixture
    done: Done
    remarks: tuple[Remark, ...]
    failed: tuple[NoAnswerError | None, ...]
    row: tuple[int, ...]


def mixture_of(asked: AskedChain, project: Project) -> Mixture:
    """Return what a chain is computed with. Raises DomainError where a fluid cannot be made."""
    names = tuple(dict.fromkeys(f.fluid for f in asked.feeds.values()))
    fluids = [_fluid(name, project) for name in names]
    if len(fluids) == 1:
        model = project.fluid(fluids[0])
        return Mixture(model, {names[0]: model.z}, fluids[0], model.remarks)
    inputs = [project.input_of(f) for f in fluids]
    read = [i for i in inputs if i is not None]
    key = ("joined", *(project.fluid_key(f) for f in fluids))
    model, each = project.evaluator.cache.get(key, lambda: joined(read, project.sources()))
    remarks = model.remarks
    if any(i.model != read[0].model for i in read):
        remarks = (
            *remarks,
            Remark("warning", "process.one_model", values={"fluid": names[0], "others": ", ".join(names[1:])}),
        )
    return Mixture(model, dict(zip(names, each)), fluids[0], remarks)


def _fluid(name: str, project: Project) -> Fluid:
    found = project.document.fluid(name)
    assert found is not None  # read as a reference that is there
    return found


def compute(asked: Sequence[AskedChain], context: Context) -> Computed:
    """Return chains of one shape done together. Raises DomainError where a fluid cannot be made, NoAnswerError where
    no variant could be done, Cancelled."""
    first = asked[0]
    mixture = mixture_of(first, context.project)
    model = mixture.model
    medium = Medium(model.eos, model.substance, model.water)
    remarks: list[Remark] = []
    failed: list[NoAnswerError | None] = [None] * len(asked)
    alive = list(range(len(asked)))
    while alive:
        some = [asked[i] for i in alive]
        try:
            feeds = {k: _feed([a.feeds[k] for a in some], mixture, medium, context, remarks) for k in first.feeds}
            done = do(medium, feeds, _steps(some), context.watch)
        except StepFault as fault:
            lost = [i for i, there in enumerate(fault.told.where) if there]
            for i in lost:
                remark = fault.told.of(i)
                assert remark is not None
                failed[alive[i]] = NoAnswerError(remark)
            alive = [a for i, a in enumerate(alive) if i not in lost]
            continue
        except ValueError as error:
            raise NoAnswerError(said(str(error))) from None
        place = {a: i for i, a in enumerate(alive)}
        return Computed(
            mixture,
            done,
            (*mixture.remarks, *remarks),
            tuple(failed),
            tuple(place.get(i, -1) for i in range(len(asked))),
        )
    why = next(f for f in failed if f is not None)
    raise why


def _steps(asked: Sequence[AskedChain]) -> list[Step]:
    """Return the steps with one number a variant."""
    out = []
    for i, step in enumerate(asked[0].steps):
        numbers = {key: np.array([dict(a.steps[i].numbers)[key] for a in asked]) for key, _ in step.numbers}
        out.append(Step(step.name, step.kind, step.takes, step.gives, dict(step.words), numbers, step.outlets))
    return out


def _feed(
    asked: Sequence[AskedFeed], mixture: Mixture, medium: Medium, context: Context, remarks: list[Remark]
) -> Stream:
    """Return a feed of every variant."""
    n, name = len(asked), asked[0].fluid
    fluid = _fluid(name, context.project)
    model = context.project.fluid(fluid)
    mass = float(model.z @ model.molar_mass)
    if n == 1:
        phases: Phases = state_at(fluid, asked[0].given, context, remarks)
    else:
        values = {k: np.array([a.given[k].by_mole(mass) for a in asked]) for k in asked[0].given}
        phases = states_at(model, values, ("molar_volume",), context.watch.silent()).phases
        bad = ~phases.converged
        if bad.any():
            # The first one without a state is asked alone, which tells why.
            state_at(fluid, asked[int(np.argmax(bad))].given, context, [])
    z = np.broadcast_to(mixture.z[name], (n, mixture.model.z.size))
    if model is mixture.model:
        stream = medium.of_phases(phases)
    else:
        stream = medium.at(phases.T, phases.P, z, np.ones(n))
    each = {
        "mole": np.ones(n),
        "mass": medium.mass(z),
        "actual": stream.v,
        "gas": np.full(n, STANDARD_GAS),
        "liquid": z @ medium.substance.liquid_volume,
    }
    return stream.flowing(np.array([a.rate[1] / each[a.rate[0]][i] for i, a in enumerate(asked)]))
