"""What the test methods of samples state of their own precision, as groups of uncertain cells.

Where a method names both, the part of the reproducibility that is not repeatability is an error that all points of
a curve share: the laboratory's own (ISO 5725-1)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from ...characterization.methods import CARBON, TWO_PART
from ...document import Document, Fluid, Reader, Sample
from ...document.cell_paths import item_names
from ...document.edits import get_at
from ...document.faults import PathParts
from ...document.field_types import Cell
from ...document.reader import EMPTY
from ...remarks import Remark
from ...uncertainty.precision import CURVES, PRECISIONS, TO_DEVIATION
from ...units import QuantityError, fits, split
from ..varying import Scale
from .groups import Group

Array = NDArray[np.float64]

REPEATABILITY, REPRODUCIBILITY = "repeatability", "reproducibility"
HOT = 338.15
"""K, from which on viscosities are taken to be those of ASTM D445 at 80 and 100 degC."""
FLOOR = 0.01
"""Part of an amount below which no sample of it goes: nothing of it would be another fluid."""


def present(cell: Cell, kinds: tuple[str, ...]) -> tuple[Scale, float] | None:
    """Return how a cell that is there is written, and its value in SI, read as the first of ``kinds`` that fits its
    unit; None where it is empty or no such quantity."""
    if cell in EMPTY or cell is None:
        return None
    try:
        number, unit = split(cell) if isinstance(cell, str) else (float(cell), "")
        if not unit and kinds[:1] == ("molar_mass",):
            # The one quantity whose bare number is not SI.
            unit = "g/mol"
        kind = next((k for k in kinds if unit and fits(unit, k)), "")
        if unit and not kind:
            return None
        scale = Scale(unit, kind)
        return scale, scale.si(number)
    except QuantityError:
        return None


class _Cells:
    """Collects cells of one group from a document."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self.paths: list[PathParts] = []
        self.scales: list[Scale] = []
        self.values: list[float] = []
        self.labels: list[str] = []

    def add(self, path: PathParts, *kinds: str, label: str = "") -> float | None:
        """Take a cell where it holds such a quantity, and return its value; ``label`` names it among the others."""
        found = present(get_at(self._document, path), kinds)
        if found is None:
            return None
        self.paths.append(path)
        self.scales.append(found[0])
        self.values.append(found[1])
        self.labels.append(label)
        return found[1]

    def group(
        self, name: str, kind: str, of: tuple[Array, Array], title: str, which: str, **more: object
    ) -> Group | None:
        """Return the group, with the deviations of r and R (n,); None where it has no cells. Points that rise are one
        run of one laboratory, which has an error of its own."""
        if not self.paths:
            return None
        r, R = (np.broadcast_to(v, len(self.paths)) for v in of)
        stated = r if which == REPEATABILITY else np.maximum(R, r)
        one_run = which == REPRODUCIBILITY and more.get("rising")
        common = float(np.mean(1.0 - (r / stated) ** 2)) if one_run else 0.0
        return Group(
            name, tuple(self.paths), tuple(self.scales), tuple(self.values), tuple((stated / TO_DEVIATION).tolist()),
            f"{which} of {title}", kind, common, **more,  # type: ignore[arg-type]
        )  # fmt: skip


def stated_groups(sample: Sample, place: int, document: Document, which: str, remarks: list[Remark]) -> Iterator[Group]:
    """Yield what the methods of a sample at samples[place] state; what states nothing is told."""
    root: PathParts = ("samples", place)
    name = sample.name
    curve = sample.distillation
    if curve.method == CARBON:
        yield from _analysis(sample, root, document, which)
    elif curve.points:
        key = "D86" if curve.method == TWO_PART else curve.method
        if key in CURVES:
            yield from _boiling(sample, key, root, document, which)
        else:
            remarks.append(Remark("warning", "spread.no_statement", values={"sample": name, "method": curve.method}))
    yield from _single(f"{name}: density", (*root, "bulk", "density"), "density", document, which)
    yield from _single(f"{name}: molar mass", (*root, "bulk", "molar_mass"), "molar_mass", document, which)
    for i, (at, _) in enumerate(sample.bulk.viscosity):
        yield from _viscosity(
            f"{name}: viscosity" + (f" {i + 1}" if i else ""), [(*root, "bulk", "viscosity", i, 1)], at, document, which
        )
    for prop in ("density", "molar_mass"):
        cells = _Cells(document)
        for i, _ in enumerate(getattr(sample.curves, prop)):
            cells.add((*root, "curves", prop, i, 1), prop)
        yield from _of_number(cells, f"{name}: curve of {prop.replace('_', ' ')}", prop, which, prop == "molar_mass")
    for k, own in enumerate(sample.curves.viscosity):
        paths: list[PathParts] = [(*root, "curves", "viscosity", k, "points", i, 1) for i, _ in enumerate(own.points)]
        yield from _viscosity(f"{name}: curve of viscosity", paths, own.at, document, which, True)
    if sample.light_ends.mode == "measured":
        cells = _Cells(document)
        for key in sample.light_ends.amounts:
            cells.add((*root, "light_ends", "amounts", key), label=key)
        yield from _amounts(cells, f"{name}: light ends", 100.0, which, False)


def _boiling(sample: Sample, key: str, root: PathParts, document: Document, which: str) -> Iterator[Group]:
    cells, percents = _Cells(document), []
    for i, (percent, _) in enumerate(sample.distillation.points):
        p = Reader().number(percent, "") if percent not in EMPTY else None
        if p is not None and cells.add((*root, "distillation", "points", i, 1), "temperature") is not None:
            percents.append(p)
    if len(percents) > 1:
        method = CURVES[key]
        of = method.of(np.array(percents), np.array(cells.values))
        found = cells.group(
            f"{sample.name}: boiling curve", "temperature_difference", of, method.title, which, rising=True
        )
        if found is not None:
            yield found


def _analysis(sample: Sample, root: PathParts, document: Document, which: str) -> Iterator[Group]:
    """A carbon-number analysis: amounts by chromatography, molar masses and densities of its rows and of its plus
    fraction."""
    amounts, masses, densities = _Cells(document), _Cells(document), _Cells(document)
    for i, row in enumerate(sample.distillation.amounts):
        at = (*root, "distillation", "amounts", i)
        if len(row) > 1:
            amounts.add((*at, 1), label=str(row[0]))
        if len(row) > 2:
            masses.add((*at, 2), "molar_mass")
        if len(row) > 3:
            densities.add((*at, 3), "density")
    yield from _amounts(amounts, f"{sample.name}: analysis", 100.0, which, True)
    yield from _of_number(masses, f"{sample.name}: molar masses of groups", "molar_mass", which, False)
    yield from _of_number(densities, f"{sample.name}: densities of groups", "density", which, False)
    plus = (*root, "distillation", "plus")
    yield from _single(
        f"{sample.name}: molar mass of the plus fraction", (*plus, "molar_mass"), "molar_mass", document, which
    )
    yield from _single(f"{sample.name}: density of the plus fraction", (*plus, "density"), "density", document, which)


STATED: dict[str, str] = {"density": "D4052", "molar_mass": "D2503"}


def _single(name: str, path: PathParts, kind: str, document: Document, which: str) -> Iterator[Group]:
    cells = _Cells(document)
    cells.add(path, kind)
    yield from _of_number(cells, name, kind, which, False)


def _of_number(cells: _Cells, name: str, kind: str, which: str, rising: bool) -> Iterator[Group]:
    method = PRECISIONS[STATED[kind]]
    found = cells.group(name, kind, method.of(np.array(cells.values)), method.title, which, rising=rising)
    if found is not None:
        yield found


def _viscosity(
    name: str, paths: Sequence[PathParts], at: Cell, document: Document, which: str, rising: bool = False
) -> Iterator[Group]:
    cells = _Cells(document)
    for path in paths:
        cells.add(path, "kinematic_viscosity", "dynamic_viscosity")
    if not cells.paths:
        return
    found = present(at, ("temperature",))
    method = PRECISIONS["D445 hot" if found is not None and found[1] >= HOT else "D445"]
    values = np.array(cells.values)
    # The statement is of kinematic viscosities; a dynamic one is told as well in proportion.
    thick = np.array([s.kind == "dynamic_viscosity" for s in cells.scales])
    kinematic = np.where(thick, values / 850.0, values)
    r, R = (v * values / np.where(kinematic > 0.0, kinematic, 1.0) for v in method.of(kinematic))
    group = cells.group(name, cells.scales[0].kind, (r, R), method.title, which, rising=rising)
    if group is not None:
        yield group


def _amounts(cells: _Cells, name: str, whole: float, which: str, closed: bool) -> Iterator[Group]:
    """Amounts of a chromatographic analysis, whose sum is ``whole`` or, of one that is ``closed``, its own."""
    values = np.array(cells.values)
    there = np.flatnonzero(values > 0.0)
    if not there.size:
        return
    cells.paths = [cells.paths[i] for i in there]
    cells.scales = [cells.scales[i] for i in there]
    cells.values = values[there].tolist()
    labels = tuple(cells.labels[i] for i in there)
    method = PRECISIONS["D1945"]
    total = float(values.sum()) if closed else whole
    r, R = (v * total for v in method.of(values[there] / total))
    group = cells.group(
        name,
        "",
        (r, R),
        method.title,
        which,
        closed=closed,
        least=tuple((FLOOR * values[there]).tolist()),
        parts=labels,
    )
    if group is not None:
        yield group


def composition_group(fluid: Fluid, place: int, document: Document, which: str) -> Iterator[Group]:
    """Yield the amounts of a fluid that is written down component by component, as a chromatograph tells them."""
    if len(fluid.parts) < 2 or any(p.sample or p.fluid or p.series for p in fluid.parts):
        return
    cells = _Cells(document)
    for i, name in enumerate(item_names(fluid.parts)):
        if cells.add(("fluids", place, "parts", i, "amount"), label=name) is None:
            return
    yield from _amounts(cells, f"{fluid.name}: composition", 0.0, which, True)
