"""The study ``lumping``: a fluid with fewer components, and what that costs on its lab tests and its envelope."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Fluid, Reader, Study
from ...document.checks import read_study
from ...document.edits import free_name
from ...document.faults import errors
from ...document.field_types import ComponentRef, Plain
from ...document.kinds import StudyKind, register, study_kinds
from ...document.model import OfTests, measured_of, tests_of
from ...document.reader import EMPTY
from ...fluids.fluid_lumping import lumped
from ...fluids.group_search import searched_groups
from ...matching.elsewhere import ElsewhereAnswer, elsewhere
from ...matching.parameters import Datum, datum_of, ours
from ...remarks import Remark
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...results.simulated_tests import LabTest, Simulated, dry, lab_fluid, telling
from ...telling.sentences import Units
from ...watch import UNWATCHED
from ..giving import LUMPED


class LumpingStudy(OfTests):
    """Asks what a fluid becomes with so many ``components``, or with ``groups`` of them by name; what is in no group
    stays alone. ``tests`` are studies of the fluid; none named: all that carry measured values."""

    kind: Literal["lumping"]
    components: Plain = None
    groups: tuple[tuple[ComponentRef, ...], ...] = ()


class GroupAnswer(TypedDict):
    """A component of the lumped fluid and what is in it."""

    name: str
    components: list[str]
    mole_fraction: float


class CostAnswer(TypedDict):
    """What lumping does to a test: the mean difference of all its values in percent, and of measured ones the
    deviation of either fluid, null without any."""

    difference_percent: float | None
    unlumped_deviation_percent: float | None
    lumped_deviation_percent: float | None


class LumpingAnswer(Common):
    """The groups, what they cost, and the lumped fluid as a document takes it."""

    groups: NotRequired[list[GroupAnswer]]
    tests: NotRequired[dict[str, CostAnswer]]
    elsewhere: NotRequired[list[ElsewhereAnswer]]
    fluid: NotRequired[dict[str, object]]


@dataclass(frozen=True)
class Asked:
    """The number of components wanted, None where groups are given by name, and the tests by name."""

    fluid: str
    count: int | None
    groups: tuple[tuple[str, ...], ...]
    tests: tuple[str, ...]


def read(study: LumpingStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked."""
    count = None
    if study.components not in EMPTY:
        here = reader.at("components")
        value = here.number(study.components, "a number of components")
        if value is not None and (value != int(value) or value < 1):
            here.fault(f"{value:g} is no number of components; give a whole number from 1 on")
        elif value is not None:
            count = int(value)
    if (count is None) == (not study.groups) and not reader.bad:
        reader.at("components").fault("give either the number of components or groups of them by name")
    seen: set[str] = set()
    for i, group in enumerate(study.groups):
        for j, name in enumerate(group):
            if name in seen:
                reader.at("groups", i, j).fault(f"'{name}' is in two groups")
            seen.add(name)
    able = [s.name for s in measured_of(document, study.fluid) if study_kinds()[s.kind].test is not None]
    for i, name in enumerate(study.tests):
        reader.at("tests", i).known(name, able, "lab test of this fluid")
    names = tuple(n for n in tests_of(document, study) if n in able and not errors(_faults(document, n)))
    return Asked(study.fluid, count, study.groups, names)


def _faults(document: Document, name: str) -> tuple[Any, ...]:
    found = document.study(name)
    return () if found is None else read_study(found, document).faults


def solve(asked: Asked, context: Context) -> Answer:
    """Return the lumped fluid and what it costs."""
    project, document = context.project, context.project.document
    fluid = context.fluid(asked.fluid)
    model = dry(project.fluid(fluid))
    if asked.count is not None and asked.count >= model.z.size:
        raise NoAnswerError(Remark("warning", "lumping.nothing", "", {"count": asked.count, "own": model.z.size}))
    groups = (
        searched_groups(model, asked.count, _temperatures(asked, document), context.watch.part(0.0, 0.4))
        if asked.count is not None
        else _named(asked, model)
    )
    made = lumped(
        model,
        fluid,
        groups,
        free_name(document, f"{fluid.name}, {len(groups)} component{'s' if len(groups) > 1 else ''}"),
    )
    beside = project.evaluator.at(document.model_copy(update={"fluids": (*document.fluids, made.fluid)}))
    costs = {}
    for k, name in enumerate(asked.tests):
        context.watch.at(0.4 + 0.2 * k / len(asked.tests))
        study = document.study(name)
        if study is not None:
            costs[name] = _cost(study, beside, fluid, made.fluid)
    names = [p.component or (p.pseudo.name if p.pseudo is not None else "") for p in made.fluid.parts]
    answer: Answer = {
        "groups": [
            {
                "name": name,
                "components": [model.components[i].name for i in members],
                "mole_fraction": float(model.z[list(members)].sum()),
            }
            for name, members in zip(names, made.groups)
        ],
        "tests": costs,
        "elsewhere": elsewhere(beside, fluid, made.fluid, context.watch.part(0.6, 1.0)),
        "fluid": made.fluid.model_dump(mode="json", by_alias=True, exclude_defaults=True),
    }
    return {**answer, "notes": [Remark("estimate", "lumping.joined")]}


def _temperatures(asked: Asked, document: Document) -> list[float]:
    """Return the temperatures of the lab tests, K."""
    found = []
    for name in asked.tests:
        study = document.study(name)
        T = getattr(read_study(study, document).asked, "temperature", None) if study is not None else None
        found += [float(T)] if isinstance(T, float) else []
    return found


def _named(asked: Asked, model: Any) -> list[tuple[int, ...]]:
    place = {c.name: i for i, c in enumerate(model.components)} | {
        c.identity: i for i, c in enumerate(model.components)
    }
    groups = []
    for group in asked.groups:
        missing = [n for n in group if n not in place]
        if missing:
            names = tuple(c.name for c in model.components)
            raise NoAnswerError(
                Remark("warning", "match.unknown_component", "", {"name": missing[0], "names": names[:12]})
            )
        groups.append(tuple(place[n] for n in group))
    taken = {i for g in groups for i in g}
    alone: list[tuple[int, ...]] = [(i,) for i in range(model.z.size) if i not in taken]
    return sorted([g for g in groups if g] + alone, key=lambda g: min(model.components[i].nbp for i in g))


def _cost(study: Study, project: Any, one: Fluid, other: Fluid) -> CostAnswer:
    how: LabTest = study_kinds()[study.kind].test
    reading = read_study(study, project.document)
    found = []
    for fluid in (one, other):
        model, ready = how.prepare(reading.asked, project, fluid)
        with np.errstate(all="ignore"):
            found.append(how.simulate(ready, lab_fluid(model), model, None, UNWATCHED))
    data = [d for given in reading.measured.values() if (d := datum_of(given)) is not None]
    return {
        "difference_percent": _difference(*found),
        "unlumped_deviation_percent": _deviation(found[0], data),
        "lumped_deviation_percent": _deviation(found[1], data),
    }


def _difference(one: Simulated, other: Simulated) -> float | None:
    pairs = [(v[0], other.rows[k][0]) for k, v in one.rows.items() if k != "bubble"]
    pairs += [(v, other.singles[k]) for k, v in one.singles.items() if not k.startswith("phases")]
    off: list[float] = []
    for a, b in pairs:
        good = np.isfinite(a) & np.isfinite(b) & (np.abs(a) > 1e-12)
        off += (100.0 * np.abs(b[good] / a[good] - 1.0)).tolist()
    return sum(off) / len(off) if off else None


def _deviation(found: Simulated, data: list[Datum]) -> float | None:
    off = []
    for d in data:
        got = ours(found, d)
        if got is not None:
            off += [
                100.0 * abs(o / v - 1.0)
                for o, v in zip(got[0].tolist(), d.values.tolist())
                if telling(d.key, v) and np.isfinite(o)
            ]
    return sum(off) / len(off) if off else None


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    costs = [c["difference_percent"] for c in answer["tests"].values() if c["difference_percent"] is not None]
    told = f", {sum(costs) / len(costs):.1f} % off on {len(costs)} tests" if costs else ""
    return f"{len(answer['groups'])} components{told}"


def begin(fluid: str, at: tuple[float, float] | None) -> LumpingStudy:
    """Return a new question about a fluid."""
    return LumpingStudy(name=f"Lumping of {fluid}", kind="lumping", fluid=fluid, components=10)


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: what changes most."""
    tests = answer.get("tests") or {}
    worst = max(tests.items(), key=lambda t: t[1]["difference_percent"] or 0.0, default=None)
    told = f"{len(answer['groups'])} components"
    return (
        f"{told}; {worst[0]} changes most, by {worst[1]['difference_percent']:.1f} %."
        if worst is not None
        else f"{told}."
    )


register(
    StudyKind(
        name="lumping", title="Fewer components", meaning="the fluid with fewer components, and what that costs on its lab tests and envelope",
        model=LumpingStudy, answer=LumpingAnswer, read=read, solve=solve, line=line, begin=begin, gives=LUMPED, order=76,
        sentence="How well does {fluid} keep its answers with {components} components[, judged by {tests}][?, in the groups {groups}]?",
        phrases=("fewer components", "lumping", "lump", "lumped"),
        clues={"components": ("components",)},
        says=says,
    )
)  # fmt: skip
