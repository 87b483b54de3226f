"""What was read of sheets put into a document: samples, fluids, and tests of a fluid with a match of them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from ..characterization.methods import CARBON
from ..document import Document, Fluid, Sample, Study
from ..document.edits import add_fluid, add_sample, add_study, free_name, set_at, set_each, study_path, update_fluid
from ..document.field_types import Cell
from ..document.kinds import study_kinds
from ..document.sample_points import entered_unit
from ..questions.kinds.match import MatchStudy
from ..units import QuantityError, parse
from .brines import Brine
from .entries import folded
from .found import Found, Test

TITLES = {
    "depletion": "Depletion",
    "liberation": "Liberation",
    "separators": "Separators",
    "swelling": "Swelling",
    "viscosity": "Viscosity",
    "expansion": "Expansion",
    "saturation": "Saturation",
}


def taken(document: Document, found: Found, report_of: str | None = None) -> tuple[Document, list[str]]:
    """Return a document with all that was found, and what could not be taken, in sentences.

    With ``report_of`` the tests of that fluid are taken and nothing else; without it tests go to the one fluid or
    sample that was found with them."""
    if report_of is not None:
        left = [s.name for s in found.samples] + [f.name for f in found.fluids]
        told = (
            [
                f"{', '.join(left)} stand{'s' if len(left) == 1 else ''} there too and {'is' if len(left) == 1 else 'are'} not taken with a report; import the file without it"
            ]
            if left
            else []
        )
        if found.brines:
            document = with_brine(document, report_of, found.brines[0])
        return (with_tests(document, report_of, found.tests) if found.tests else document), told
    document, names = with_samples(document, found.samples, found.fluids)
    document, told = _with_brines(document, found, names)
    if not found.tests:
        return document, told
    main = fluid_of_tests(found, names)
    if not main and not names and len(document.every_fluid) == 1:
        main = document.every_fluid[0].name
    if not main:
        return document, [
            f"{len(found.tests)} lab tests are not taken, since {'no fluid' if not names else 'more than one fluid'} stands with them; name theirs by --report-of"
        ]
    return with_tests(document, main, found.tests), told


def _with_brines(document: Document, found: Found, names: Sequence[str]) -> tuple[Document, list[str]]:
    """Take waters as the salts of the one fluid there is."""
    if not found.brines:
        return document, []
    every = [f.name for f in document.every_fluid]
    main = fluid_of_tests(found, names) or (every[0] if len(every) == 1 else "")
    if not main:
        return document, [
            f"the water is of no one fluid: there {'is none' if not every else 'are several'}; name it by --report-of"
        ]
    return with_brine(document, main, found.brines[0]), [
        f"the water {b.name} is not taken; a fluid has one" for b in found.brines[1:]
    ]


def fluid_of_tests(found: Found, names: Sequence[str]) -> str:
    """Return which of the things found tests are of: the only one, the only composition with a heavy end, or the one
    called a reservoir fluid; "" where that is open."""
    if len(names) == 1:
        return names[0]
    heavy = [n for n, s in zip(names, found.samples) if s.distillation.method == CARBON]
    if len(heavy) == 1:
        return heavy[0]
    called = [
        n for n in names if re.search(r"reservoir|well ?stream|recombined|feed|yacimiento|gisement|lagerst", folded(n))
    ]
    return called[0] if len(called) == 1 else ""


def _cut_in_own_unit(sample: Sample) -> Sample:
    """Return a sample whose cuts are round numbers of the unit it was measured in."""
    unit = entered_unit(sample.distillation.points, "temperature")
    return set_at(sample, ("cuts", "unit"), "degF") if unit in ("degF", "degR") else sample


def with_samples(document: Document, samples: Sequence[Sample], fluids: Sequence[Fluid]) -> tuple[Document, list[str]]:
    """Return a document with samples and fluids under names that are free, and these names."""
    names = []
    for sample in samples:
        name = free_name(document, sample.name)
        names.append(name)
        document = add_sample(document, _cut_in_own_unit(sample).model_copy(update={"name": name}))
    for fluid in fluids:
        name = free_name(document, fluid.name)
        names.append(name)
        document = add_fluid(document, fluid.model_copy(update={"name": name}))
    return document, names


def with_tests(document: Document, fluid: str, tests: Sequence[Test]) -> Document:
    """Return a document with tests of a fluid, and a match of them: the fluid's own where it has one."""
    names = []
    for test in tests:
        document = add_study(document, study_of(document, fluid, test))
        names.append(document.studies[-1].name)
    own = next((s for s in document.studies if isinstance(s, MatchStudy) and s.fluid == fluid), None)
    if own is None:
        return add_study(document, study_kinds()["match"].begin(fluid, None))
    # One that names no tests is of all there are.
    return set_at(document, (*study_path(document, own.name), "tests"), (*own.tests, *names)) if own.tests else document


def with_brine(document: Document, fluid: str, brine: Brine) -> Document:
    """Return a document in which the water of a fluid has the salts of a brine, and a question where hydrates form
    with it."""
    model = study_kinds()["hydrate"].begin(fluid, None)
    salts = {name: f"{share:g} wt%" for name, share in brine.salts}
    document = update_fluid(document, fluid, lambda f: set_at(f, ("model", "salinity"), f"{brine.molality:g} mol/kg"))
    asked = set_each(
        model, {("name",): f"Hydrates of {fluid} with {brine.name or 'its water'}", ("inhibitors",): salts}
    )
    return add_study(document, asked)


def study_of(document: Document, fluid: str, test: Test) -> Study:
    """Return the question that a test is, with what was measured."""
    model: Any = study_kinds()[test.kind].model
    common: dict[str, Any] = {
        "name": f"{TITLES[test.kind]} of {fluid}",
        "kind": test.kind,
        "fluid": fluid,
        "temperature": test.temperature,
    }
    columns = dict(test.columns)
    if test.kind == "saturation":
        key = f"points.{'dew' if test.dew else 'bubble'}.pressure_Pa"
        return model(**common, measured={key: test.singles["pressure"]})  # type: ignore[no-any-return]
    pressures = columns.pop("pressure", [])
    if test.kind == "separators":
        temperatures = columns.pop("temperature", [None] * len(pressures))
        stages = [{"temperature": t, "pressure": p} for t, p in zip(temperatures, pressures)]
        # The sum of the gas is known by the rows.
        return model(**common, stages=stages, measured={**_lists(columns), **test.singles})  # type: ignore[no-any-return]
    if test.kind == "swelling":
        moles = columns.pop("gas_moles", [])
        gas = (
            test.gas
            if document.fluid(test.gas) is not None
            else next((f.name for f in document.fluids if f.name != fluid), fluid)
        )
        return model(**common, gas=gas, gas_moles=tuple(moles), measured=_lists(columns))  # type: ignore[no-any-return]
    order = list(range(len(pressures)))
    if test.kind in ("depletion", "liberation") and len(order) > 1 and _pascal(pressures[0]) < _pascal(pressures[-1]):
        order = order[::-1]
    measured = {k: tuple(v[i] for i in order) for k, v in columns.items()} | test.singles
    return model(**common, pressures=tuple(pressures[i] for i in order), measured=measured)  # type: ignore[no-any-return]


def _lists(columns: dict[str, list[Cell]]) -> dict[str, Any]:
    return {k: tuple(v) for k, v in columns.items()}


def _pascal(cell: Cell) -> float:
    try:
        return parse(cell, "pressure") if isinstance(cell, str) else float(cell or 0.0)
    except QuantityError:
        return 0.0
