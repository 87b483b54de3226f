"""Fluids that answers give: what a match tuned, what a lumping grouped, one phase of a state, one stream of a train
of separators."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ..document import Fluid, FluidInput, FluidPart
from ..document.kinds import Gives
from ..document.model import OfTests, Pseudo, Study, Tuning
from ..document.read_fluid import PartInput
from ..document.references import about
from ..errors import DomainError
from ..fluids.building import FluidModel
from ..results.evaluator import Project, untuned

Answer = Mapping[str, Any]


def _source(study: Study, project: Project) -> Fluid:
    found = project.document.fluid(about(study))
    if found is None:
        raise DomainError(f"unknown fluid '{about(study)}'")
    return found


def _read(fluid: Fluid, project: Project) -> FluidInput:
    found = project.input_of(fluid)
    if found is None:
        raise DomainError(f"the fluid '{fluid.name}' cannot be made")
    return found


def _tuned(study: OfTests, answer: Answer, stream: str, project: Project) -> Fluid:
    """Return the fluid of a match with what it tuned."""
    source = _source(study, project)
    model = source.model.model_copy(update={"tuned": Tuning.model_validate(answer["tuned"])})
    return source.model_copy(update={"model": model, "variants": (), "id": ""})


def _lumped(study: OfTests, answer: Answer, stream: str, project: Project) -> Fluid:
    return Fluid.model_validate(answer["fluid"])


TUNED = Gives(
    lambda answer: [""] if answer.get("tuned") else [], lambda s, a, n, p: _read(_tuned(s, a, n, p), p), _tuned
)
LUMPED = Gives(lambda answer: [""], lambda s, a, n, p: _read(_lumped(s, a, n, p), p), _lumped)


def phases_of(answer: Answer) -> list[str]:
    """Return the phases of a state by their kind; a second one of a kind has its number."""
    names: list[str] = []
    for phase in answer.get("phases", ()):
        kind = str(phase["kind"])
        count = sum(n.partition(" ")[0] == kind for n in names)
        names.append(f"{kind} {count + 1}" if count else kind)
    return names


def _of_phase(study: Study, answer: Answer, stream: str, project: Project) -> FluidInput:
    return with_amounts(study, dict(answer["phases"][phases_of(answer).index(stream)]["composition"]), project)


def with_amounts(study: Study, x: Mapping[str, float], project: Project) -> FluidInput:
    """Return the fluid of a question with other mole fractions by name, all its components as they are before any
    tuning, which acts on them as it did."""
    source = _source(study, project)
    model, plain = project.fluid(source), project.fluid(untuned(source))
    tuned = _read(source, project)
    # A tuning may name the same components otherwise; their places are the same.
    parts = tuple(
        PartInput(c.identity, c, False, "mole", float(x[name]))
        for c, name in zip(plain.components, model.names, strict=True)
        if x.get(name, 0.0) > 0.0
    )
    return replace(tuned, parts=parts, recombination=None, grid="own", made_by=None)


def _phase_part(study: Study, answer: Answer, stream: str, project: Project) -> Fluid:
    found = answer["phases"][phases_of(answer).index(stream)]["composition"]
    return as_part(study, found, project)


def as_part(study: Study, x: Mapping[str, float], project: Project) -> Fluid:
    """Return a composition of a question's fluid as a part of the document: pure components by name, all others by
    their constants."""
    source = _source(study, project)
    return part_of(source, project.fluid(source), x, f"given by {study.name}")


def part_of(source: Fluid, model: FluidModel, x: Mapping[str, float], note: str) -> Fluid:
    """Return a composition by name, of a ``model`` that is made by the words of ``source``, as a part of the
    document."""
    parts = []
    for c, name in zip(model.components, model.names):
        if x.get(name, 0.0) <= 0.0:
            continue
        if c.kind == "pure" and source.model.tuned is None:
            parts.append(FluidPart(component=c.name, amount=float(x[name])))
            continue
        pseudo = Pseudo(
            name=name, Tc=c.Tc, Pc=c.Pc, omega=c.omega, molar_mass=1e3 * c.molar_mass, Vc=c.Vc, nbp=c.nbp, specific_gravity=c.specific_gravity
        )  # fmt: skip
        parts.append(FluidPart(pseudo=pseudo, amount=float(x[name])))
    there = {p.component or (p.pseudo.name if p.pseudo else "") for p in parts}
    pairs = tuple(
        (model.names[j], model.names[i], float(model.kij[i, j]))
        for i in range(len(model.names))
        for j in range(i)
        if model.kij[i, j] != 0.0 and {model.names[i], model.names[j]} <= there
    )
    own = source.model.model_copy(update={"tuned": None, "kij": "zero", "kij_pairs": pairs})
    return Fluid(name=source.name, parts=tuple(parts), model=own, note=note)


PHASES = Gives(phases_of, _of_phase, _phase_part)


def streams_of(answer: Answer) -> list[str]:
    """Return the gases of a train of separators by their stage, and the oil of the last."""
    rows = answer.get("rows", ())
    gases = [f"gas {i + 1}" for i, row in enumerate(rows) if row.get("gas")]
    return [*gases, *(["oil"] if rows and rows[-1].get("liquid") else [])]


def _stream(answer: Answer, stream: str) -> dict[str, float]:
    rows = answer["rows"]
    return dict(rows[-1]["liquid"] if stream == "oil" else rows[int(stream.split()[1]) - 1]["gas"])


STREAMS = Gives(
    streams_of, lambda s, a, n, p: with_amounts(s, _stream(a, n), p), lambda s, a, n, p: as_part(s, _stream(a, n), p)
)
