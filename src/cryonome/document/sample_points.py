"""Reading the grids of a sample: valid points in SI, and the faults of the others at their cells."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field

from ..characterization.carbon_analysis import Group
from ..characterization.curve import PointFault, check_points
from ..characterization.property_curves import check_values
from ..components import Component, UnknownComponentError, find, named
from ..units import QuantityError, fits, format_number, from_si, label, normal_unit, split
from .faults import Fault, PathParts
from .field_types import Cell
from .model import Sample
from .reader import EMPTY, Reader

Rows = tuple[tuple[Cell, Cell], ...]
Writer = Callable[[float], str]


LEAST_PERCENT = 1e-9
"""Percent of a sample below which an amount cannot be told from none."""


@dataclass
class Points:
    """Valid points: their rows, percents and values in SI, and the faults of the rest."""

    rows: list[int] = field(default_factory=list)
    percents: list[float] = field(default_factory=list)
    values: list[float] = field(default_factory=list)
    faults: list[Fault] = field(default_factory=list)


def _read(
    cells: Rows,
    at: PathParts,
    read: Callable[[Cell, Reader], float | None],
    check: Callable[[list[float], list[float]], list[PointFault]],
    show: Writer,
    plain: bool = False,
) -> Points:
    """Return the valid points of a grid; rows with both cells empty are skipped, as while a grid is filled in. A
    ``plain`` number is its own value."""
    out = Points()
    rows, percents, values = [], [], []
    for i, (percent, value) in enumerate(cells):
        if percent in EMPTY and value in EMPTY:
            continue
        # Plain numbers are taken as they are, without the reader, since there may be very many.
        p = percent if type(percent) is float else Reader((*at, i, 0), out.faults).number(percent, "a percentage")
        v = value if plain and type(value) is float else read(value, Reader((*at, i, 1), out.faults))
        if p is not None and v is not None:
            rows.append(i)
            percents.append(p)
            values.append(v)
    bad = set()
    for fault in check(percents, values):
        proposal = None if fault.proposal is None else show(fault.proposal)
        hint = "" if proposal is None else f" {proposal}?"
        column = 0 if fault.column == "percent" else 1
        out.faults.append(Fault((*at, rows[fault.index], column), fault.message + hint, "error", proposal))
        bad.add(fault.index)
    keep = [k for k in range(len(rows)) if k not in bad] if bad else range(len(rows))
    out.rows, out.percents, out.values = ([x[k] for k in keep] for x in (rows, percents, values))  # type: ignore[assignment]
    return out


def _temperature(cell: Cell, here: Reader) -> float | None:
    return here.quantity(cell, "temperature")


def temperature_writer(sample: Sample) -> Writer:
    """Return a function that writes a temperature (K) in the unit the sample's curve is shown in."""
    unit = temperature_unit(sample)
    return lambda kelvin: f"{round(from_si(kelvin, unit, 'temperature'), 1):g} {label(unit)}".replace("-", "−")


def temperature_unit(sample: Sample) -> str:
    """Return the unit of a sample's temperature column: chosen, else the first one entered, else degC."""
    return sample.display.temperature or entered_unit(sample.distillation.points, "temperature") or "degC"


def entered_unit(points: Rows, kind: str) -> str | None:
    """Return the first unit of a kind entered in a grid's value column."""
    for _, cell in points:
        if isinstance(cell, str):
            try:
                unit = normal_unit(split(cell)[1])
                if unit and fits(unit, kind):
                    return unit
            except QuantityError:
                continue
    return None


def boiling_points(sample: Sample, path: PathParts = ()) -> Points:
    """Return the valid points of a sample's boiling curve, temperatures in K as entered."""
    at = (*path, "distillation", "points")
    show = temperature_writer(sample)
    return _read(sample.distillation.points, at, _temperature, lambda p, t: check_points(p, t, show), show)


def tail_points(sample: Sample, path: PathParts = ()) -> Points:
    """Return the valid points of the sub-atmospheric tail."""
    tail = sample.distillation.tail
    at = (*path, "distillation", "tail", "points")
    show = temperature_writer(sample)
    return _read(tail.points if tail else (), at, _temperature, lambda p, t: check_points(p, t, show), show)


def property_points(sample: Sample, name: str, path: PathParts = ()) -> Points:
    """Return the valid points of the curve ``density`` (kg/m3) or ``molar_mass`` (kg/mol)."""
    cells: Rows = getattr(sample.curves, name)
    unit = (
        getattr(sample.display, name)
        or entered_unit(cells, name)
        or {"density": "kg/m**3", "molar_mass": "g/mol"}[name]
    )

    def show(value: float) -> str:
        return f"{format_number(from_si(value, unit, name), 4)} {label(unit)}"

    return _read(
        cells,
        (*path, "curves", name),
        lambda c, here: here.quantity(c, name),
        lambda p, v: check_values(name, p, v, show),
        show,
    )


def viscosity(cell: Cell, here: Reader) -> tuple[float, bool] | None:
    """Return a viscosity in SI and whether it is dynamic; a bare number is kinematic."""
    dynamic = _has_unit(cell, "dynamic_viscosity")
    value = here.quantity(cell, "dynamic_viscosity" if dynamic else "kinematic_viscosity")
    if value is None:
        return None
    if value <= 0.0:
        here.fault(f"'{cell}' is not above zero; a viscosity must be")
        return None
    return value, dynamic


def _has_unit(cell: Cell, kind: str) -> bool:
    try:
        unit = split(cell)[1] if isinstance(cell, str) else ""
    except QuantityError:
        return False
    return bool(unit) and fits(unit, kind)


def viscosity_points(sample: Sample, index: int, path: PathParts = ()) -> tuple[Points, bool]:
    """Return the valid points of a viscosity curve and whether it is dynamic (by its first point)."""
    curve = sample.curves.viscosity[index]
    kinds: list[bool] = []

    def read(cell: Cell, here: Reader) -> float | None:
        found = viscosity(cell, here)
        if found is None:
            return None
        kinds.append(found[1])
        if found[1] != kinds[0]:
            here.fault("kinematic and dynamic viscosities stand in one curve; use one kind")
            return None
        return found[0]

    def show(value: float) -> str:
        return (
            f"{format_number(value * (1e3 if kinds and kinds[0] else 1e6), 4)} {'cP' if kinds and kinds[0] else 'cSt'}"
        )

    at = (*path, "curves", "viscosity", index, "points")
    points = _read(curve.points, at, read, lambda p, v: check_values("viscosity", p, v, show), show)
    return points, bool(kinds and kinds[0])


def quantity_points(sample: Sample, index: int, path: PathParts = ()) -> Points:
    """Return the valid points of a named quantity, in its own unit."""
    named = sample.curves.quantities[index]

    def show(value: float) -> str:
        return f"{value:g} {named.unit}"

    def read(cell: Cell, here: Reader) -> float | None:
        if isinstance(cell, str) and cell.strip().endswith(named.unit):
            cell = cell.strip()[: -len(named.unit)].strip() if named.unit else cell
        return here.number(cell, f"an amount in {named.unit}")

    at = (*path, "curves", "quantities", index, "points")
    return _read(named.points, at, read, lambda p, v: check_values(named.name, p, v, show), show, plain=True)


GROUP = re.compile(r"^c\s*-?\s*(\d+)\s*(\+|plus)?$", re.IGNORECASE)


def _group(name: str) -> tuple[int, bool] | None:
    """Return the number of a carbon group and whether it holds all that is heavier, for any usual way to write it;
    None where it is none."""
    match = GROUP.match(name)
    if match is not None:
        return (int(match.group(1)), bool(match.group(2))) if int(match.group(1)) >= 6 or match.group(2) else None
    meant = named(name) if name else None
    return None if meant is None or meant.total or meant.component else (meant.number, meant.plus)


@dataclass
class CarbonRows:
    """The rows of a carbon-number analysis: components and groups with percents, the plus fraction's number and
    percent, molar mass and specific gravity where its row gives them, and the faults."""

    components: list[tuple[Component, float]] = field(default_factory=list)
    groups: list[Group] = field(default_factory=list)
    plus: tuple[int, float, float | None, float | None] | None = None
    faults: list[Fault] = field(default_factory=list)


def carbon_rows(sample: Sample, path: PathParts = ()) -> CarbonRows:
    """Return the rows of a sample's carbon-number analysis."""
    out = CarbonRows()
    whole = Reader((*path, "distillation", "amounts"), out.faults)
    seen: set[str] = set()
    for i, row in enumerate(sample.distillation.amounts):
        if all(c in EMPTY for c in row):
            continue
        cells = (*row, *[None] * 4)[:4]
        name = str(cells[0] or "").strip()
        here, before = whole.at(i), len(out.faults)
        percent = here.at(1).number(cells[1], "a percentage")
        if percent is not None and not 0.0 <= percent <= 100.0:
            here.at(1).fault(f"{name}: {percent:g} % lies outside 0 to 100 %")
        elif percent is not None and 0.0 < percent < LEAST_PERCENT:
            here.at(1).fault(
                f"{name}: {percent:g} % is less than can be told from nothing; write 0 or leave the row out"
            )
        mass = here.at(2).given(cells[2], "molar_mass")
        mass = here.at(2).physical(mass, 0.01, 3.0, f"{name}: a molar mass", "g/mol", 1e3)
        density = here.at(3).given(cells[3], "density")
        sg = None if density is None else from_si(density, "SG", "density")
        if sg is not None and not 0.4 <= sg <= 1.3:
            here.at(3).fault(f"{name}: a specific gravity of {sg:.4g} is outside 0.4 to 1.3")
        group = _group(name)
        key = name.casefold()
        if group is not None:
            carbon, heavier = group
            key = f"c{carbon}{'+' if heavier else ''}"
            if not 6 <= carbon <= 200:
                here.at(0).fault(f"'{name}': a carbon group lies between C6 and C200")
            elif out.plus is not None:
                here.at(0).fault(f"'{name}' stands after the plus fraction C{out.plus[0]}+, which holds it")
            elif len(out.faults) == before and percent is not None:
                if heavier:
                    out.plus = (carbon, percent, mass, sg)
                else:
                    out.groups.append(Group(carbon, percent, mass, sg))
        else:
            try:
                component = find(name)
                key = component.name
                if len(out.faults) == before and percent is not None:
                    out.components.append((component, percent))
            except UnknownComponentError as error:
                missing = "the row has no name; give a component or a group such as C7 or C20+"
                here.at(0).fault(str(error) if name else missing)
        if key in seen:
            here.at(0).fault(f"'{name}' is given twice; join the amounts")
        seen.add(key)
    over = [g.number for g in out.groups if out.plus is not None and g.number >= out.plus[0]]
    if over and out.plus is not None:
        text = f"C{over[0]} belongs to the plus fraction C{out.plus[0]}+; give the group or let the fraction begin above it"
        whole.fault(text)
    total = sum(p for _, p in out.components) + sum(g.percent for g in out.groups) + (out.plus[1] if out.plus else 0.0)
    if total > 101.0:
        whole.fault(f"the amounts add up to {total:.5g} %; they must not exceed 100 %")
    elif 0.0 < total < 99.0:
        whole.fault(f"the amounts add up to {total:.5g} %; they are scaled to 100 %", "warning")
    return out
