"""Lab sheets as spreadsheets: samples read from and written to CSV and XLSX.

A sheet is read the way people write them: lines of a word and a value (density, method, viscosity at 40 degC ...), and
tables under a header row that names percent and boiling point, density, molar mass or any other quantity, or species and
amounts. Every sheet of a workbook is a sample; a line ``sample`` begins another one on the same sheet.
"""

from __future__ import annotations

import csv
import io
import re
import zipfile
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

from ..characterization.methods import CARBON, METHODS, TWO_PART
from ..units import QuantityError, from_si, label, normal_unit, parse, split
from .headers import is_header, is_number, meaning, unit_of
from .model import (
    Bulk,
    Cell,
    Curves,
    Distillation,
    LightEnds,
    PlusFraction,
    Quantity,
    Sample,
    Tail,
    ViscosityCurve,
)
from .sample_points import GROUP, entered_unit

Rows = list[list[str]]

RESULTS = "results"
"""The first cell of a sheet that holds results and no sample."""

WORDS = {
    "sample": "name", "name": "name", "note": "note", "method": "method", "basis": "basis", "pressure": "pressure",
    "tail pressure": "tail_pressure", "density": "density", "gravity": "density", "api gravity": "density",
    "specific gravity": "density", "molar mass": "molar_mass", "molecular weight": "molar_mass", "watson k": "watson_k",
    "kw": "watson_k", "light ends by": "light_basis", "light ends": "light_mode", "curve of": "light_curve",
    "plus molar mass": "plus_mass", "plus density": "plus_density",
}  # fmt: skip
"""Words of the lines with a value."""


class ExchangeError(ValueError):
    """A file that holds no sample; the message says why."""


def read_samples(path: Path) -> list[Sample]:
    """Return the samples of a CSV or XLSX file. Raises ExchangeError and OSError."""
    if path.suffix.lower() in (".xlsx", ".xlsm"):
        sheets = _workbook(path)
    else:
        sheets = {path.stem: _csv_rows(path.read_bytes())}
    found: list[Sample] = []
    for name, rows in sheets.items():
        found += samples_of(rows, name)
    if not found:
        raise ExchangeError(
            f"{path.name} holds no sample: no table whose header names percent and boiling point, or species and amount"
        )
    return found


def _workbook(path: Path) -> dict[str, Rows]:
    import openpyxl

    try:
        book = openpyxl.load_workbook(path, data_only=True, read_only=True)
        sheets: dict[str, Rows] = {}
        for sheet in book.worksheets:
            sheets[sheet.title] = [[_text(c) for c in row] for row in sheet.iter_rows(values_only=True)]
        book.close()
    except (zipfile.BadZipFile, KeyError, ValueError, EOFError) as error:
        raise ExchangeError(f"{path.name} is not a workbook that can be read; save it as .xlsx again") from error
    return sheets


def _text(cell: Any) -> str:
    if cell is None:
        return ""
    if isinstance(cell, float):
        return f"{cell:.12g}"
    return str(cell).strip()


def _csv_rows(data: bytes) -> Rows:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    lines = text.splitlines()
    most = max(("\t", ";", ","), key=lambda d: sum(line.count(d) for line in lines[:60]))
    return [[c.strip() for c in row] for row in csv.reader(io.StringIO(text), delimiter=most)]


class _Reader:
    """Gathers one sample at a time from the rows of a sheet."""

    def __init__(self, fallback: str) -> None:
        self.fallback = fallback
        self.samples: list[Sample] = []
        self._start()

    def _start(self) -> None:
        self.words: dict[str, str] = {}
        self.viscosity: list[tuple[Cell, Cell]] = []
        self.curves: dict[str, list[tuple[Cell, Cell]]] = {}
        self.units: dict[str, str] = {}
        self.amounts: list[list[Cell]] = []
        self.light: dict[str, Cell] = {}

    def line(self, row: list[str]) -> None:
        """Take a line of a word and a value, its unit behind it or in brackets after the word."""
        key, value = row[0], row[1] if len(row) > 1 else ""
        bracket = re.match(r"^(.*?)\s*[\[(](.*)[\])]\s*$", key)
        unit = ""
        if bracket:
            key, unit = bracket.group(1), normal_unit(bracket.group(2))
        elif len(row) > 2 and row[2]:
            unit = normal_unit(row[2])
        word = key.strip().rstrip(":").casefold()
        if value and is_number(value) and unit and not split(value)[1]:
            value = f"{value} {unit}"
        at = re.match(r"^viscosity (?:at|@)\s*(.+)$", word)
        if at and value:
            self.viscosity.append((at.group(1), value))
            return
        name = WORDS.get(word)
        if name is None or not value:
            return
        if name == "name" and (self.curves or self.amounts or "name" in self.words):
            self.finish()
        self.words[name] = value

    def table(self, header: list[str], rows: Rows) -> None:
        """Take a table under its header."""
        meanings = [meaning(c) for c in header]
        if "name" in meanings and ("amount" in meanings or "percent" in meanings):
            self._species(meanings, header, rows)
            return
        percent = meanings.index("percent")
        for j, title in enumerate(header):
            if j == percent or not title:
                continue
            key, unit = self._column(title, meanings[j])
            points: list[tuple[Cell, Cell]] = []
            for row in rows:
                value = row[j] if j < len(row) else ""
                if value:
                    points.append((_number(row[percent]), _cell(value, unit)))
            if points:
                self.curves[key] = points

    def _column(self, title: str, what: str | None) -> tuple[str, str]:
        """Return where a column goes and the unit its bare numbers have."""
        found = unit_of(title)
        unit = found[0] if found is not None else ""
        if (what == "temperature" and "temperature" in self.curves) or what == "tail":
            return "tail", unit or "degC"
        if what == "temperature":
            return "temperature", unit or "degC"
        if what in ("density", "molar_mass"):
            return what, unit or {"density": "kg/m**3", "molar_mass": "g/mol"}[what]
        if what == "viscosity":
            at = re.search(r"(-?\d+(?:[.,]\d+)?)\s*(°?\s*[CFK]\b|deg\s*[CF]|K\b)", title)
            place = f"{at.group(1)} {normal_unit(at.group(2).replace(' ', ''))}" if at else "40 degC"
            return f"viscosity {place}", unit or "cSt"
        name = re.sub(r"[\[(].*[\])]", "", title).strip() or title
        inside = re.search(r"[\[(](.*)[\])]", title)
        self.units[name] = inside.group(1) if inside else "mass%"
        return f"quantity {name}", ""

    def _species(self, meanings: Sequence[str | None], header: list[str], rows: Rows) -> None:
        name = meanings.index("name")
        amount = meanings.index("amount") if "amount" in meanings else meanings.index("percent")
        extra = [(j, m) for j, m in enumerate(meanings) if m in ("molar_mass", "density")]
        units = {j: unit_of(header[j]) for j, _ in extra}
        lines: list[list[Cell]] = []
        for row in rows:
            cells: list[Cell] = [row[name], _number(row[amount] if amount < len(row) else "")]
            values: dict[str, Cell] = {}
            for j, what in extra:
                value = row[j] if j < len(row) else ""
                found = units[j]
                values[str(what)] = _cell(value, found[0] if found else "") if value else None
            cells += [values.get("molar_mass"), values.get("density")]
            while len(cells) > 2 and cells[-1] is None:
                cells.pop()
            lines.append(cells)
        groups = [c for c in lines if (m := GROUP.match(str(c[0]))) and (int(m.group(1)) >= 6 or m.group(2))]
        if groups or self.words.get("method", "").casefold() == CARBON:
            self.amounts = lines
        else:
            self.light = {str(c[0]): c[1] for c in lines}

    def finish(self) -> None:
        """Put together what was gathered."""
        if self.curves or self.amounts:
            self.samples.append(self._sample())
        self._start()

    def _sample(self) -> Sample:
        words = self.words
        method = next((m for m in METHODS if m.casefold() == words.get("method", "").casefold()), words.get("method"))
        if method is None:
            method = CARBON if self.amounts and "temperature" not in self.curves else "TBP"
            method = TWO_PART if "tail" in self.curves else method
        tail = None
        if "tail" in self.curves:
            tail = Tail(pressure=words.get("tail_pressure", "10 mmHg"), points=tuple(self.curves["tail"]))
        number = len(self.samples)
        name = words.get("name") or (self.fallback if not number else f"{self.fallback} {number + 1}")
        return Sample(
            name=name,
            note=words.get("note", ""),
            distillation=Distillation(
                method=method, basis=words.get("basis"), pressure=words.get("pressure"), tail=tail,
                points=tuple(self.curves.get("temperature", ())), amounts=tuple(tuple(a) for a in self.amounts),
                plus=PlusFraction(molar_mass=words.get("plus_mass"), density=words.get("plus_density")),
            ),
            bulk=Bulk(
                density=_value(words.get("density")), molar_mass=_value(words.get("molar_mass")),
                watson_k=_value(words.get("watson_k")), viscosity=tuple(self.viscosity),
            ),
            curves=Curves(
                density=tuple(self.curves.get("density", ())), molar_mass=tuple(self.curves.get("molar_mass", ())),
                viscosity=tuple(
                    ViscosityCurve(at=k.removeprefix("viscosity "), points=tuple(p))
                    for k, p in self.curves.items() if k.startswith("viscosity ")
                ),
                quantities=tuple(
                    Quantity(name=k.removeprefix("quantity "), unit=self.units[k.removeprefix("quantity ")], points=tuple(p))
                    for k, p in self.curves.items() if k.startswith("quantity ")
                ),
            ),
            light_ends=LightEnds(
                mode="measured" if self.light else "absent", basis=words.get("light_basis", "volume"),
                curve=words.get("light_curve", "whole"), amounts=self.light,
            ),
        )  # fmt: skip


def samples_of(rows: Iterable[Sequence[str]], fallback: str) -> list[Sample]:
    """Return the samples on a sheet; ``fallback`` names one that is not named there."""
    sheet = [list(r) for r in rows]
    if sheet and sheet[0] and sheet[0][0].strip().casefold() == RESULTS:
        return []
    reader = _Reader(fallback)
    i = 0
    while i < len(sheet):
        row = sheet[i]
        width = sum(bool(c.strip()) for c in row)
        if width >= 2 and is_header(row) and _is_table(row):
            end = i + 1
            while end < len(sheet) and any(c.strip() for c in sheet[end]) and not is_header(sheet[end]):
                end += 1
            reader.table(row, sheet[i + 1 : end])
            i = end
            continue
        if width:
            reader.line(row)
        i += 1
    reader.finish()
    return reader.samples


def samples_of_text(text: str, fallback: str) -> list[Sample]:
    """Return the samples of a pasted range, cells apart by tabs or as in a CSV file; none where no header tells what it is."""
    return samples_of(_csv_rows(text.encode()), fallback)


def _is_table(row: list[str]) -> bool:
    found = {meaning(c) for c in row if c.strip()}
    curve = "percent" in found and len(found - {None}) >= 2
    return (curve or ("name" in found and "amount" in found)) and row[0].strip().casefold() not in WORDS


def _number(text: str) -> Cell:
    try:
        value, unit = split(text)
    except QuantityError:
        return text or None
    return value if unit in ("", "%") else text


def _cell(text: str, unit: str) -> Cell:
    try:
        value, own = split(text)
    except QuantityError:
        return text
    if own:
        return text
    return f"{value:.10g} {unit}" if unit else value


def _value(text: str | None) -> Cell:
    if text is None:
        return None
    return _number(text) if is_number(text) and not split(text)[1] else text


# --- writing -----------------------------------------------------------------------------------------------------


def rows_of(sample: Sample) -> list[list[Cell]]:
    """Return a sample as the rows of a sheet that :func:`samples_of` reads back.

    What was measured is written; choices (cuts, correlations, ends) stay in the document.
    """
    curve, bulk = sample.distillation, sample.bulk
    out: list[list[Cell]] = [["sample", sample.name], ["note", sample.note], ["method", curve.method]]
    out += [[k, v] for k, v in (("basis", curve.basis), ("pressure", curve.pressure)) if v not in (None, "")]
    if curve.tail is not None:
        out.append(["tail pressure", curve.tail.pressure])
    values = (("density", bulk.density), ("molar mass", bulk.molar_mass), ("Watson K", bulk.watson_k))
    out += [[k, v] for k, v in values if v not in (None, "")]
    out += [[f"viscosity at {at}", v] for at, v in bulk.viscosity if v not in (None, "")]
    ends = sample.light_ends
    if ends.mode == "measured" and ends.amounts:
        out += [["light ends by", ends.basis], ["curve of", ends.curve], [], ["species", "amount (%)"]]
        out += [[n, a] for n, a in ends.amounts.items()]
    out.append([])
    if curve.method == CARBON:
        extra = (("plus molar mass", curve.plus.molar_mass), ("plus density", curve.plus.density))
        out += [[k, v] for k, v in extra if v not in (None, "")]
        out += [[], ["component", "amount (%)", "molar mass", "density"], *[list(a) for a in curve.amounts]]
        return out
    columns = [_written("boiling point", curve.points, "temperature", "degC")]
    if curve.tail is not None:
        columns.append(_written("tail under vacuum", curve.tail.points, "temperature", "degC"))
    columns.append(_written("density", sample.curves.density, "density", "kg/m**3"))
    columns.append(_written("molar mass", sample.curves.molar_mass, "molar_mass", "g/mol"))
    for v in sample.curves.viscosity:
        dynamic = entered_unit(v.points, "dynamic_viscosity") is not None
        kind, usual = ("dynamic_viscosity", "cP") if dynamic else ("kinematic_viscosity", "cSt")
        columns.append(_written(f"viscosity at {_printed(v.at)}", v.points, kind, usual))
    columns += [(f"{q.name} ({q.unit})", q.points) for q in sample.curves.quantities]
    columns = [c for c in columns if c[1]]
    percents = list(dict.fromkeys(p for _, points in columns for p, _ in points))
    with_numbers = sorted((p for p in percents if isinstance(p, (int, float))), key=float)
    order = [*with_numbers, *[p for p in percents if not isinstance(p, (int, float))]]
    out.append(["percent distilled", *[title for title, _ in columns]])
    for p in order:
        out.append([p, *[next((v for q, v in points if q == p), None) for _, points in columns]])
    return out


def _written(
    title: str, points: tuple[tuple[Cell, Cell], ...], kind: str, usual: str
) -> tuple[str, tuple[tuple[Cell, Cell], ...]]:
    """Return a column as plain numbers in the unit of its header; what is no quantity is written as it stands."""
    unit = entered_unit(points, kind) or usual

    def value(cell: Cell) -> Cell:
        try:
            if isinstance(cell, str) and normal_unit(split(cell)[1]) == unit:
                return split(cell)[0]
            return cell if cell is None or cell == "" else float(f"{from_si(parse(cell, kind), unit, kind):.10g}")
        except QuantityError:
            return cell

    return f"{title} ({label(unit)})", tuple((p, value(v)) for p, v in points)


def _printed(cell: Cell) -> str:
    try:
        value, unit = split(cell) if isinstance(cell, str) else (float(cell or 0.0), "K")
    except QuantityError:
        return str(cell)
    return f"{value:g} {label(normal_unit(unit))}"


def write_samples(path: Path, samples: Sequence[Sample], results: dict[str, list[list[Cell]]] | None = None) -> None:
    """Write samples to XLSX (a sheet each, and one for each table of results) or CSV (one below the other).

    Raises OSError.
    """
    if path.suffix.lower() == ".csv":
        stream = io.StringIO()
        writer = csv.writer(stream, lineterminator="\n")
        for sample in samples:
            writer.writerows([["" if c is None else c for c in row] for row in rows_of(sample)])
            writer.writerow([])
        path.write_text(stream.getvalue(), encoding="utf-8")
        return
    import openpyxl

    book = openpyxl.Workbook()
    book.remove(book.active)
    for sample in samples:
        _fill(book, sample.name, rows_of(sample))
    for title, rows in (results or {}).items():
        _fill(book, title, [[RESULTS, title], [], *rows])
    book.save(path)


def _fill(book: Any, title: str, rows: list[list[Cell]]) -> None:
    # A spreadsheet allows 31 characters and not these in the name of a sheet.
    plain = re.sub(r"[\[\]:*?/\\]", " ", title)[:28].strip() or "sample"
    name, number = plain, 2
    while name in book.sheetnames:
        name, number = f"{plain[:25]} {number}", number + 1
    sheet = book.create_sheet(name)
    for row in rows:
        sheet.append(row)
    for column in sheet.columns:
        width = max((len(str(c.value)) for c in column if c.value is not None), default=8)
        sheet.column_dimensions[column[0].column_letter].width = min(max(width + 2, 9), 40)
