"""The lab sheet: one grid of the boiling curve and the property curves, a row a percent."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Any

import numpy as np
from PySide6.QtCore import Qt

from ....characterization.methods import METHODS, TWO_PART
from ....document import Fault, Sample
from ....document.edits import clean_points, get_at, sample_path, set_at, set_each, update_sample
from ....document.faults import PathParts
from ....document.model import Quantity, Tail, ViscosityCurve
from ....document.reader import cell_text, plain_cell, united_cell
from ....document.sample_points import entered_unit, temperature_unit
from ....exchange.columns import column_meaning, column_unit
from ....exchange.entries import is_header, is_number, point_of
from ....units import SETS, QuantityError, fits, format_number, from_si, label, parse, split
from ...shell.live import Live
from ...widgets.fields import shown_text
from ...widgets.grid import GridModel

SPARE = 1
"""Empty rows kept below the last point, to type into."""

BASIS_LABELS = {"volume": "vol%", "mass": "mass%", "mole": "mol%"}


@dataclass(frozen=True)
class Column:
    """One curve of the sheet: where it stands in the sample, its title, unit and kind of quantity."""

    key: str
    path: tuple[str | int, ...]
    title: str
    unit: str
    kind: str

    def read(self, sample: Sample) -> tuple[Any, ...]:
        """Return the points of the curve; a curve that the sample does not have has none."""
        try:
            found: tuple[Any, ...] = get_at(sample, self.path)
            return found
        except (IndexError, TypeError, AttributeError):
            return ()

    def write(self, sample: Sample, points: tuple[Any, ...]) -> Sample:
        """Return the sample with other points on the curve."""
        if self.key == "tail" and sample.distillation.tail is None:
            sample = set_at(sample, self.path[:-1], Tail())
        return set_at(sample, self.path, points)


@dataclass
class Row:
    """One percent: the cell as entered, and by column the value's cell and its index in the column's curve."""

    percent: object
    cells: dict[int, object] = field(default_factory=dict)
    index: dict[int, int] = field(default_factory=dict)


def with_curves(sample: Sample, **update: object) -> Sample:
    """Return the sample with parts of its property curves changed."""
    return set_each(sample, {("curves", k): v for k, v in update.items()})


def with_distillation(sample: Sample, **update: object) -> Sample:
    """Return the sample with parts of its distillation changed."""
    return set_each(sample, {("distillation", k): v for k, v in update.items()})


def store_distillation(live: Live, update: dict[str, object], text: str) -> None:
    """Change parts of the chosen sample's distillation as one undoable step."""
    name = live.sample_name
    live.store.edit(text, lambda d: update_sample(d, name, lambda s: with_distillation(s, **update)))


def columns(sample: Sample, units: str) -> list[Column]:
    """Return the columns of a sample's sheet beside the percent."""
    own = SETS[units]
    temperature = temperature_unit(sample)
    title = "boiling point" if sample.distillation.method == "TBP" else sample.distillation.method.split("+")[0]
    points = ("distillation", "points")
    out = [Column("temperature", points, title, temperature, "temperature")]
    if sample.distillation.method == TWO_PART:
        pressure = sample.distillation.tail.pressure if sample.distillation.tail else "10 mmHg"
        out.append(Column("tail", ("distillation", "tail", "points"), f"at {pressure}", temperature, "temperature"))
    for key, name in (("density", "density"), ("molar_mass", "molar mass")):
        unit = getattr(sample.display, key) or entered_unit(getattr(sample.curves, key), key) or own[key]
        out.append(Column(key, ("curves", key), name, unit, key))
    for i, curve in enumerate(sample.curves.viscosity):
        unit = entered_unit(curve.points, "dynamic_viscosity") or sample.display.viscosity or "cSt"
        kind = "dynamic_viscosity" if entered_unit(curve.points, "dynamic_viscosity") else "kinematic_viscosity"
        head = f"viscosity {shown_text(curve.at, temperature, 'temperature')} {label(temperature)}"
        out.append(Column("viscosity", ("curves", "viscosity", i, "points"), head, unit, kind))
    for i, quantity in enumerate(sample.curves.quantities):
        out.append(Column("quantity", ("curves", "quantities", i, "points"), quantity.name, quantity.unit, ""))
    return out


def _value(cell: object) -> float | None:
    try:
        return split(cell)[0] if isinstance(cell, str) else None if cell is None else float(cell)  # type: ignore[arg-type]
    except QuantityError:
        return None


def merged_rows(sample: Sample, wanted: list[Column]) -> list[Row]:
    """Return the rows of the sheet: the boiling curve's in their order, those of other curves at their percents."""
    rows = [Row(p, {0: v}, {0: i}) for i, (p, v) in enumerate(wanted[0].read(sample))]
    numbers = [_or_low(_value(r.percent)) for r in rows]
    rising = all(a <= b for a, b in pairwise(numbers))
    at: dict[float, list[Row]] = {}
    for row in rows:
        value = _value(row.percent)
        if value is not None:
            at.setdefault(value, []).append(row)
    for c, column in enumerate(wanted[1:], 1):
        for i, (percent, value) in enumerate(column.read(sample)):
            p = _value(percent)
            place = next((r for r in at.get(p, ()) if c not in r.cells), None) if p is not None else None
            if place is None:
                place = Row(percent)
                if p is None:
                    after = len(rows)
                elif rising:
                    after = bisect_right(numbers, p)
                else:
                    after = next((k for k, n in enumerate(numbers) if n > p), len(rows))
                rows.insert(after, place)
                numbers.insert(after, _or_low(p))
                rising = rising and p is not None
                if p is not None:
                    at.setdefault(p, []).append(place)
            place.cells[c] = value
            place.index[c] = i
    return rows


def _or_low(value: float | None) -> float:
    return -1.0 if value is None else value


def is_empty(cell: object) -> bool:
    """Tell whether a cell holds nothing."""
    return cell is None or cell == ""


def _temperature_of(sample: Sample, column: Column) -> float | None:
    """Return the temperature, K, that a column's curve is of, 0 where it is of none; None where it cannot be read."""
    if column.key != "viscosity":
        return 0.0
    cell = sample.curves.viscosity[int(column.path[2])].at
    try:
        return parse(cell if cell is not None else "", "temperature")
    except QuantityError:
        return None


class SheetModel(GridModel):
    """Rows of the selected sample's curves, with an empty row below."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._sample: Sample | None = None
        self.columns: list[Column] = []
        self._rows: list[Row] = []
        self._faults: dict[tuple[int, int], Fault] = {}
        self._estimates: dict[tuple[int, int], str] = {}
        self.unit = "degC"

    def show(self, sample: Sample | None, faults: Sequence[Fault]) -> None:
        """Show a sample's curves and the faults at their points."""
        before = ([c.title for c in self.columns], len(self._rows))
        self._sample = sample
        self.columns = columns(sample, self._live.document.display.units) if sample else []
        self._rows = merged_rows(sample, self.columns) if sample else []
        self.unit = self.columns[0].unit if self.columns else "degC"
        self._faults = {}
        for fault in faults:
            place = self.place(fault)
            if place is not None:
                self._faults.setdefault(place, fault)
        self._estimates = self._estimated()
        if before == ([c.title for c in self.columns], len(self._rows)):
            self.rewrite()
            self.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, max(len(self.columns), 1))
        else:
            self.reload()

    def _estimated(self) -> dict[tuple[int, int], str]:
        """Return what properties come to at points where nothing was measured, by row and column; shown grey, never
        stored or copied."""
        sample, result = self._sample, self._live.characterized()
        if sample is None or result is None or self._live.sample.old or result.name != sample.name:
            return {}
        basis = sample.distillation.basis or METHODS.get(sample.distillation.method, METHODS["TBP"]).basis
        numbers = [_value(r.percent) for r in self._rows]
        percents = np.array([np.nan if p is None or not 0.0 <= p <= 100.0 else p for p in numbers])
        out: dict[tuple[int, int], str] = {}
        for c, column in enumerate(self.columns):
            if column.key not in ("density", "molar_mass", "viscosity") or column.kind == "dynamic_viscosity":
                continue
            T = _temperature_of(sample, column)
            if T is None:
                continue
            values = result.narrow(percents, basis, column.key, T)
            for r, value in enumerate(values.tolist()):
                if np.isfinite(value) and is_empty(self._rows[r].cells.get(c)):
                    out[r, c + 1] = format_number(from_si(value, column.unit, column.kind), 4)
        return out

    def muted(self, row: int, column: int) -> bool:
        return (row, column) in self._estimates

    def tip(self, row: int, column: int) -> str:
        return (
            "estimated of the narrow fraction there; type a measured value over it" if self.muted(row, column) else ""
        )

    def edit_text(self, row: int, column: int) -> str:
        return "" if self.muted(row, column) else self.text(row, column)

    def copy_text(self, row: int, column: int) -> str:
        return self.edit_text(row, column)

    def place(self, fault: Fault) -> tuple[int, int] | None:
        """Return row and column of the cell a fault is of, None where it is of none."""
        if len(fault.path) < 4:
            return None
        *path, row, cell = fault.path[2:]
        for c, column in enumerate(self.columns):
            if tuple(path) == column.path:
                found = next((k for k, r in enumerate(self._rows) if r.index.get(c) == row), None)
                return None if found is None else (found, 0 if cell == 0 else c + 1)
        return None

    def titles(self) -> list[tuple[str, str]]:
        curve = self._sample.distillation if self._sample else None
        basis = (curve.basis or METHODS.get(curve.method, METHODS["TBP"]).basis) if curve else "volume"
        return [("distilled", BASIS_LABELS.get(basis, "%")), *[(c.title, label(c.unit)) for c in self.columns]]

    def rows(self) -> int:
        return len(self._rows) + SPARE

    def text(self, row: int, column: int) -> str:
        if row >= len(self._rows) or column > len(self.columns):
            return ""
        if column == 0:
            cell = self._rows[row].percent
            return cell_text(cell)  # type: ignore[arg-type]
        if (row, column) in self._estimates:
            return self._estimates[row, column]
        own = self.columns[column - 1]
        return shown_text(self._rows[row].cells.get(column - 1), own.unit, own.kind)

    def input_path(self, row: int, column: int) -> PathParts | None:
        if self._sample is None or row >= len(self._rows) or not 0 < column <= len(self.columns):
            return None
        at = self._rows[row].index.get(column - 1)
        if at is None:
            return None
        own = self.columns[column - 1]
        return (*sample_path(self._live.document, self._sample.name), *own.path, at, 1)

    def fault(self, row: int, column: int) -> str:
        fault = self._faults.get((row, column))
        return fault.message if fault else ""

    def editable(self, row: int, column: int) -> bool:
        return bool(self._live.sample_name)

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        rows = self._copied()
        for (row, column), value in cells.items():
            while row >= len(rows):
                rows.append(Row(None))
            if column == 0:
                rows[row].percent = self._stored(None, value)
            elif column <= len(self.columns):
                rows[row].cells[column - 1] = self._stored(self.columns[column - 1], value)
        self._keep(rows, text)

    def _name(self) -> str:
        return self._sample.name if self._sample is not None else ""

    def _copied(self) -> list[Row]:
        return [Row(r.percent, dict(r.cells), dict(r.index)) for r in self._rows]

    def _stored(self, column: Column | None, value: str, unit: str | None = None) -> float | str | None:
        if column is None or not column.kind:
            return plain_cell(value)
        return united_cell(value, unit or column.unit)

    def paste(self, row: int, column: int, block: list[list[str]]) -> None:
        """Take a block; a header row tells columns and units, and a wide block at the top is a new sheet."""
        header = block[0] if block and is_header(block[0]) else None
        block = [line for line in (block[1:] if header else block) if any(c.strip() for c in line)]
        if not block:
            return
        width = max(len(line) for line in block)
        whole = width >= 2 and row == 0 and len(block) >= 5
        start = 0 if width >= 2 else column
        targets, units = self._targets(header, width, start)
        brought = {t for t in targets if t is not None}
        rows = self._without(brought) if whole else self._copied()
        others = len(rows) if whole else 0
        at = others if whole else row
        for i, line in enumerate(block):
            while at + i >= len(rows):
                rows.append(Row(None))
            for j, value in enumerate(line):
                target = targets[j] if j < len(targets) else None
                if target is None:
                    continue
                if target == 0:
                    rows[at + i].percent = self._percent(value)
                else:
                    own = self.columns[target - 1]
                    rows[at + i].cells[target - 1] = self._stored(own, value, units.get(j))
        if whole:
            _fractions(rows[others:])
            rows = _merged(rows)
        self._keep(rows, "Paste a curve" if whole else "Paste")

    def _percent(self, text: str) -> float | str | None:
        """Return a pasted percent: words for the ends of a distillation as 0 and 100."""
        end = point_of(text) if text.strip() and not is_number(text) else None
        return self._stored(None, text) if end is None else end

    def _without(self, brought: set[int]) -> list[Row]:
        """Return the rows with what other columns hold than those that are brought."""
        rows = []
        for row in self._copied():
            cells = {c: v for c, v in row.cells.items() if c + 1 not in brought and not is_empty(v)}
            if cells:
                rows.append(Row(row.percent, cells))
        return rows

    def replaced(self, block: list[list[str]]) -> str:
        """Return in words what a pasted block would replace, nothing where its columns are empty so far."""
        header = block[0] if block and is_header(block[0]) else None
        lines = [line for line in (block[1:] if header else block) if any(c.strip() for c in line)]
        width = max((len(line) for line in lines), default=0)
        if width < 2 or len(lines) < 5:
            return ""
        targets, _ = self._targets(header, width, 0)
        names = [
            c.title
            for k, c in enumerate(self.columns)
            if k + 1 in targets and any(not is_empty(r.cells.get(k)) for r in self._rows)
        ]
        return " and ".join(names)

    def _targets(self, header: list[str] | None, width: int, start: int) -> tuple[list[int | None], dict[int, str]]:
        """Return the grid's column for every pasted one, and the units the header names."""
        place: list[int | None] = [start + j if start + j <= len(self.columns) else None for j in range(width)]
        units: dict[int, str] = {}
        if header is None:
            return place, units
        keys = ["percent", *[c.key for c in self.columns]]
        titles = ["distilled", *[c.title for c in self.columns]]
        taken: set[int] = set()
        named: list[int | None] = []
        for j in range(width):
            cell = header[j] if j < len(header) else ""
            found = next((k for k, t in enumerate(titles) if t.casefold() in cell.casefold() and k not in taken), None)
            if found is None:
                what = column_meaning(cell)
                found = next((k for k, key in enumerate(keys) if key == what and k not in taken), None)
            if found is not None:
                taken.add(found)
            named.append(found)
            unit = column_unit(cell)
            target = found if found is not None else place[j]
            if unit and target and self._fits(unit, self.columns[target - 1].kind):
                units[j] = unit
        # A header that names no column is only a title over each: the order counts.
        return (named if len(taken) >= 2 or (width == 1 and taken) else place), units

    @staticmethod
    def _fits(unit: str, kind: str) -> bool:
        return bool(kind) and fits(unit, kind)

    def _keep(self, rows: list[Row], text: str) -> None:
        # The sample shown: while the desk is hidden another one may have been selected.
        name, wanted = self._name(), list(self.columns)

        def change(sample: Sample) -> Sample:
            for c, column in enumerate(wanted):
                if c == 0:
                    others = range(1, len(wanted))
                    lines = [
                        (r.percent, r.cells.get(0))
                        for r in rows
                        if not is_empty(r.cells.get(0)) or all(is_empty(r.cells.get(k)) for k in others)
                    ]
                else:
                    lines = [(r.percent, r.cells[c]) for r in rows if not is_empty(r.cells.get(c))]
                points = clean_points(lines)
                if points != column.read(sample):
                    sample = column.write(sample, points)
            return sample

        self._live.store.edit(text, lambda d: update_sample(d, name, change))

    def insert_row(self, row: int) -> None:
        """Insert an empty row."""
        rows = self._copied()
        rows.insert(row, Row(None) if row < len(rows) else Row("", {0: ""}))
        self._keep(rows, "Insert a row")

    def delete_rows(self, chosen: set[int]) -> None:
        """Delete rows."""
        self._keep([r for i, r in enumerate(self._copied()) if i not in chosen], "Delete rows")

    def add_viscosity(self, at: str) -> None:
        """Add a column of viscosities at a temperature."""
        curve = ViscosityCurve(at=at, points=())
        self._edit("Add a column", lambda s: with_curves(s, viscosity=(*s.curves.viscosity, curve)))

    def add_quantity(self, name: str, unit: str) -> None:
        """Add a column of an additive quantity."""
        quantity = Quantity(name=name, unit=unit)
        self._edit("Add a column", lambda s: with_curves(s, quantities=(*s.curves.quantities, quantity)))

    def remove_column(self, column: int) -> None:
        """Remove a viscosity or a named quantity with its column; other columns are emptied."""
        if not 1 < column <= len(self.columns):
            return
        own = self.columns[column - 1]
        if own.key in ("viscosity", "quantity"):
            group = "viscosity" if own.key == "viscosity" else "quantities"
            place = int(own.path[2])

            def change(s: Sample) -> Sample:
                kept = tuple(c for k, c in enumerate(getattr(s.curves, group)) if k != place)
                keep = tuple(k for k in s.curves.keep if k != own.title)
                return with_curves(s, **{group: kept, "keep": keep})

            self._edit("Remove a column", change)
        else:
            self._edit("Empty a column", lambda s: own.write(s, ()))

    def _edit(self, text: str, change: Callable[[Sample], Sample]) -> None:
        name = self._name()
        self._live.store.edit(text, lambda d: update_sample(d, name, change))


def _fractions(rows: list[Row]) -> None:
    """Turn percents that are fractions of one, as 0.05 and 0.5, into percents."""
    numbers = [r.percent for r in rows if isinstance(r.percent, float)]
    if len(numbers) >= 3 and all(0.0 <= p <= 1.0 for p in numbers) and max(numbers) > 0.3:
        for row in rows:
            if isinstance(row.percent, float):
                row.percent = float(f"{100.0 * row.percent:.12g}")


def _merged(rows: list[Row]) -> list[Row]:
    """Return rows with those of one percent joined, in the order of their percents where all are numbers."""
    out: dict[object, Row] = {}
    for number, row in enumerate(rows):
        key = row.percent if isinstance(row.percent, float) else ("row", number)
        known = out.get(key)
        if known is None or set(known.cells) & set(row.cells):
            out[key if known is None else ("row", number)] = Row(row.percent, dict(row.cells))
        else:
            known.cells.update(row.cells)
    joined = list(out.values())
    if all(isinstance(r.percent, float) for r in joined):
        joined.sort(key=lambda r: r.percent if isinstance(r.percent, float) else 0.0)
    return joined
