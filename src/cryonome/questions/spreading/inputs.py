"""What a question's uncertain inputs are: cells by their path, what methods state, how far correlations were found
off, and what a fit leaves open."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Annotated

import numpy as np

from ...characterization.correlations import DEFAULTS, TITLES
from ...characterization.lab_sample import FACTORED
from ...document import Document, Reader
from ...document.cell_kinds import kind_at
from ...document.cell_paths import named_path
from ...document.edits import get_at
from ...document.faults import PathParts, errors
from ...document.field_types import Cell, CellPath, FluidRef, OneOf, SampleRef, StudyRef
from ...document.kinds import study_kinds
from ...document.model import Measured, OfTests, Study
from ...document.part import Part
from ...document.read_measured import read_measured
from ...document.reader import EMPTY
from ...errors import DomainError
from ...remarks import Remark
from ...results.evaluator import Project
from ...results.simulated_tests import uncertainty
from ...uncertainty.precision import TO_DEVIATION, TO_NORMAL, TOLERANCES
from ...units import KINDS, QuantityError, parse, split
from ...units.endings import kind_of_key, without_unit
from ..varying import Scale, read_path
from .groups import Group
from .stated import composition_group, present, stated_groups

NORMAL, UNIFORM = "normal", "uniform"
DIFFERENCES = {"temperature": "temperature_difference", "pressure": "pressure_difference"}
POSITIVE = ("density", "molar_mass", "kinematic_viscosity", "dynamic_viscosity", "pressure", "temperature")
"""Kinds of what is never zero or less."""


class UncertainInput(Part):
    """An uncertain input: a cell by its ``path`` with its ``standard_deviation`` or the ``repeatability`` of its test
    (a quantity, or a percentage of it); everything that the methods of a ``sample`` state, or how far its
    ``correlation`` of a property may be off; the composition of a ``fluid``; or what a ``match`` leaves open."""

    path: CellPath | None = None
    sample: SampleRef | None = None
    correlation: Annotated[str | None, OneOf(FACTORED)] = None
    fluid: FluidRef | None = None
    match: StudyRef | None = None
    standard_deviation: Cell = None
    repeatability: Cell = None
    distribution: Annotated[str, OneOf((NORMAL, UNIFORM))] = NORMAL


OWN = ("path", "sample", "fluid", "match")
OF_TESTS = "uncertainty of the test"
"""Where the deviation of a value that was measured in a test comes from."""


def read_inputs(given: Sequence[UncertainInput], document: Document, reader: Reader) -> tuple[Group, ...]:
    """Return the cells that are named one by one, as groups; everything else is looked up where it is sampled. Faults
    tell what is wrong with any of them."""
    out: list[Group] = []
    seen: dict[PathParts, int] = {}
    for i, item in enumerate(given):
        here = reader.at(i)
        named = [k for k in OWN if getattr(item, k)]
        if len(named) != 1:
            told = " and ".join(named) or "nothing"
            here.fault(f"an uncertain input names one of {', '.join(OWN)}; this one names {told}")
            continue
        if item.distribution not in (NORMAL, UNIFORM):
            here.at("distribution").known(item.distribution, (NORMAL, UNIFORM), "distribution")
        if item.path:
            group = _cell(item, document, here)
            if group is None:
                continue
            path = group.cells[0]
            if path in seen:
                here.at("path").fault(f"this cell is uncertain already, by uncertain[{seen[path]}]; leave one out")
                continue
            seen[path] = i
            out.append(group)
        elif item.sample and item.correlation:
            _deviation_of_factor(item, document, here)
        elif item.correlation:
            here.at("correlation").fault("a correlation is that of a sample; name the sample as well")
        elif not (item.standard_deviation in EMPTY and item.repeatability in EMPTY):
            here.at("standard_deviation").fault(
                f"the deviations of a {named[0]} follow from its methods; give one to cells by their path instead"
            )
        if item.match:
            found = document.study(item.match)
            if found is None:
                matches = [s.name for s in document.studies if s.kind == "match"]
                here.at("match").known(item.match, matches, "match")
            elif found.kind != "match":
                here.at("match").fault(f"'{item.match}' is a question of kind {found.kind}; name a match")
    return tuple(out)


def _cell(item: UncertainInput, document: Document, here: Reader) -> Group | None:
    """Return one cell as a group, None with a fault."""
    assert item.path is not None
    path = read_path(item.path, document, here.at("path"))
    if path is None:
        return None
    cell = get_at(document, path)
    declared = kind_at(document, path, document)
    own = "molar_mass" if path[-1] == "molar_mass" else declared
    kinds = tuple(k for k in (own, *KINDS) if k and k in KINDS)
    found = present(cell, kinds)
    if found is None:
        told = "is empty" if cell in EMPTY else f"holds '{cell}', which is no quantity"
        here.at("path").fault(f"{named_path(path, document)} {told}; a sample is drawn around a value that is there")
        return None
    scale, centre = found
    deviation = read_deviation(item, scale, centre, here)
    if deviation is None:
        return None
    flat = item.distribution == UNIFORM
    reach = np.sqrt(3.0) * deviation
    bounded = scale.kind in POSITIVE
    if bounded and flat and centre - reach <= 0.0:
        here.at("standard_deviation").fault("the range reaches to zero and below; give a smaller deviation")
        return None
    least = (1e-3 * centre,) if bounded and not flat and centre > 0.0 else ()
    how = f"{'uniform' if flat else 'normal'}, as given"
    return Group(
        item.path, (path,), (scale,), (centre,), (deviation,), how, DIFFERENCES.get(scale.kind, scale.kind),
        flat=flat, least=least,
    )  # fmt: skip


def read_deviation(item: UncertainInput, scale: Scale, centre: float, here: Reader) -> float | None:
    """Return the standard deviation of a value in SI around its ``centre``, None with a fault: a quantity of its kind,
    a difference in its own unit, or a percentage of the value."""
    both = [k for k in ("standard_deviation", "repeatability") if getattr(item, k) not in EMPTY]
    if len(both) != 1:
        here.at("standard_deviation").fault(
            "give either a standard deviation or a repeatability"
            if both
            else "how uncertain it is is missing; give a standard deviation, or the repeatability of its test"
        )
        return None
    at, cell = here.at(both[0]), getattr(item, both[0])
    try:
        number, unit = split(cell) if isinstance(cell, str) else (float(cell), "")
        if unit == "%" and "%" not in scale.unit:
            found = abs(0.01 * number * centre)
        elif unit in ("", scale.unit):
            own = scale.number(centre)
            found = 0.5 * abs(scale.si(own + number) - scale.si(own - number))
        else:
            found = abs(parse(cell, DIFFERENCES.get(scale.kind, scale.kind) or "fraction"))
    except QuantityError as error:
        at.fault(str(error))
        return None
    if not (0.0 < found < np.inf and number > 0.0):
        at.fault("a deviation is above zero; leave the input out where it is certain")
        return None
    return found / TO_DEVIATION if both[0] == "repeatability" else found


def _deviation_of_factor(item: UncertainInput, document: Document, here: Reader) -> tuple[float, str] | None:
    """Return the standard deviation of the factor on a sample's correlation and where it comes from, None with a
    fault."""
    sample = document.sample(str(item.sample))
    if sample is None or item.correlation not in FACTORED:
        return None  # their cells are told of as what they are declared to be
    if not (item.standard_deviation in EMPTY and item.repeatability in EMPTY):
        found = read_deviation(item, Scale("", ""), 1.0, here)
        return None if found is None else (found, "normal, as given")
    key = sample.correlations.get(item.correlation, DEFAULTS[item.correlation])
    if (item.correlation, key) not in TOLERANCES:
        here.at("correlation").fault(
            f"no published deviation of '{key}' for the {TITLES[item.correlation].lower()} is known here; give a standard deviation, for example 3 %"
        )
        return None
    percent, source = TOLERANCES[item.correlation, key]
    return 0.01 * percent * TO_NORMAL, f"average deviation of {percent:g} %, {source}"


def groups_of(
    given: Sequence[UncertainInput],
    cells: Sequence[Group],
    of: Study,
    which: str,
    project: Project,
    remarks: list[Remark],
) -> tuple[Group, ...]:
    """Return everything that is uncertain of a question ``of``: what is named, else what the methods of all samples
    that it depends on state. ``which`` of repeatability and reproducibility. Raises DomainError where nothing is."""
    document = project.document
    out: list[Group] = list(cells)
    for item in given:
        if item.sample and not item.correlation:
            out += _of_sample(item.sample, document, which, remarks)
        elif item.sample:
            out.append(_factor(item, document))
        elif item.fluid:
            found = list(_of_fluid(item.fluid, document, which))
            if not found:
                raise DomainError(
                    f"the composition of '{item.fluid}' is not written down component by component; name its samples instead"
                )
            out += found
        elif item.match:
            out.append(_fit(item.match, project))
    if not given:
        reached = project.reached(of)
        for sample in reached.samples:
            out += _of_sample(sample.name, document, which, remarks)
        for fluid in reached.fluids:
            out += _of_fluid(fluid.name, document, which)
        if isinstance(of, OfTests):
            out += _measured(of, project)
    seen: set[PathParts] = set()
    kept = []
    for group in out:
        # A cell that is named by itself is not drawn again with its sample.
        if not seen & set(group.cells):
            kept.append(group)
            seen |= set(group.cells)
        elif len(group.cells) > 1:
            rest = [k for k, path in enumerate(group.cells) if path not in seen]
            if rest:
                kept.append(part_of(group, rest))
                seen |= {group.cells[k] for k in rest}
    if not kept:
        raise DomainError(
            "nothing is uncertain: the samples of this question state no method with a published precision; name the inputs under uncertain, each with its standard deviation"
        )
    return tuple(kept)


def part_of(group: Group, places: Sequence[int]) -> Group:
    """Return a group of some of its cells."""
    from dataclasses import replace

    def some(values: tuple) -> tuple:  # type: ignore[type-arg]
        return tuple(values[k] for k in places) if values else ()

    return replace(
        group, cells=some(group.cells), scales=some(group.scales), centre=some(group.centre), deviation=some(group.deviation),
        least=some(group.least), most=some(group.most), parts=some(group.parts), correlation=tuple(some(row) for row in some(group.correlation)), closed=False,
    )  # fmt: skip


def _of_sample(name: str, document: Document, which: str, remarks: list[Remark]) -> Iterator[Group]:
    place = next((i for i, s in enumerate(document.samples) if s.name == name), None)
    if place is None:
        raise DomainError(f"unknown sample '{name}'")
    yield from stated_groups(document.samples[place], place, document, which, remarks)


def _of_fluid(name: str, document: Document, which: str) -> Iterator[Group]:
    place = next((i for i, f in enumerate(document.fluids) if f.name == name), None)
    if place is not None:
        yield from composition_group(document.fluids[place], place, document, which)


def _factor(item: UncertainInput, document: Document) -> Group:
    reader = Reader()
    found = _deviation_of_factor(item, document, reader)
    if found is None:
        raise DomainError(reader.faults[0].message)
    place = next(i for i, s in enumerate(document.samples) if s.name == item.sample)
    prop = str(item.correlation)
    there = present(document.samples[place].factors.get(prop), ("fraction",))
    centre = 1.0 if there is None else there[1]
    return Group(
        f"{item.sample}: {TITLES[prop].lower()} as estimated", (("samples", place, "factors", prop),), (Scale("", ""),),
        (centre,), (found[0] * centre,), found[1], least=(0.5,), most=(2.0,),
    )  # fmt: skip


def _fit(name: str, project: Project) -> Group:
    """Return what a match leaves open of the fluid that its tuning was taken over to. Raises DomainError."""
    document = project.document
    study = document.study(name)
    if study is None:
        raise DomainError(f"unknown study '{name}'")
    wrong = errors(project.read_study(study).faults)
    answer = {} if wrong else project.answer(study)
    if not answer.get("ok"):
        raise DomainError(f"what '{name}' leaves open is not known: it has no answer")
    place = next(
        (i for i, f in enumerate(document.fluids) if f.model.tuned is not None and f.model.tuned.by == name), None
    )
    tuned = None if place is None else document.fluids[place].model.tuned
    parameters = answer["parameters"]
    if tuned is None or len(tuned.changes) != len(parameters):
        raise DomainError(f"no fluid has the tuning of '{name}'; take it over into its fluid first")
    free = [k for k, p in enumerate(parameters) if p["standard_deviation"]]
    if not free:
        raise DomainError(
            f"nothing tells how sure the parameters of '{name}' are: it has no more points than parameters"
        )
    correlation = np.array(answer["correlations"], float)[np.ix_(free, free)]
    return Group(
        f"the fit '{name}'",
        tuple(("fluids", place, "model", "tuned", "changes", k, "value") for k in free),  # type: ignore[misc]
        tuple(Scale("", "") for _ in free),
        tuple(float(tuned.changes[k].value) for k in free),  # type: ignore[arg-type]
        tuple(float(parameters[k]["standard_deviation"]) for k in free),
        "covariance of the fit, within its bounds",
        least=tuple(float(parameters[k]["between"][0]) for k in free),
        most=tuple(float(parameters[k]["between"][1]) for k in free),
        correlation=tuple(tuple(row) for row in correlation.tolist()),
    )


def _measured(of: OfTests, project: Project) -> Iterator[Group]:
    """Yield what was measured in the tests of a match, each value with its uncertainty, in the unit of its key."""
    document = project.document
    held = getattr(of, "held_out", ())
    names = of.tests or of.implied(document)
    for i, test in enumerate(document.studies):
        if test.name not in names or test.name in held or not isinstance(test, Measured):
            continue
        for key, given in read_measured(test, study_kinds()[test.kind].answer, Reader()).items():
            rows = [k for k, v in enumerate(given.values) if v is not None]
            values = [float(given.values[k]) for k in rows]  # type: ignore[arg-type]
            if not rows:
                continue
            root: PathParts = ("studies", i, "measured", key)
            kind, factor = kind_of_key(key)
            yield Group(
                f"{test.name}: {without_unit(key).replace('.', ' ').replace('_', ' ')}",
                tuple((*root, k) if given.rows else root for k in rows),
                tuple(Scale("", "") for _ in rows),
                tuple(values),
                tuple(uncertainty(given, v) for v in values),
                OF_TESTS,
                kind if factor == 1.0 else "",
            )
