"""Samples as spreadsheets: what is written is read back as the same sample, and a text never becomes a formula."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

from ..characterization.methods import CARBON, METHODS
from ..document.field_types import Cell
from ..document.files import write_atomic
from ..document.model import Sample
from ..document.sample_points import entered_unit
from ..units import QuantityError, from_si, label, normal_unit, parse, split
from .cells import FORMULA
from .facts import WHOLE
from .reading import RESULTS


def rows_of(sample: Sample) -> list[list[Cell]]:
    """Return a sample as the rows of a sheet that the reader takes back.

    What was measured is written; choices (cuts, correlations, ends) stay in the document.
    """
    curve, bulk = sample.distillation, sample.bulk
    out: list[list[Cell]] = [["sample", sample.name], ["note", sample.note], ["method", curve.method]]
    extra = (
        ("basis", curve.basis),
        ("pressure", curve.pressure),
        ("loss (%)", curve.loss),
        ("residue (%)", curve.residue),
    )
    out += [[k, v] for k, v in extra if v not in (None, "")]
    if curve.tail is not None:
        out.append(["tail pressure", curve.tail.pressure])
    values = (("density", bulk.density), ("molar mass", bulk.molar_mass), ("Watson K", bulk.watson_k))
    out += [[k, v] for k, v in values if v not in (None, "")]
    out += [[k, v] for k, v in (("initial point", curve.initial), ("final point", curve.final)) if v not in (None, "")]
    out += [[f"viscosity at {at}", v] for at, v in bulk.viscosity if v not in (None, "")]
    quantities = sample.curves.quantities
    out += [[f"{WHOLE}{q.name} ({q.unit})", q.bulk] for q in quantities if q.bulk not in (None, "")]
    ends = sample.light_ends
    if ends.mode == "measured" and ends.amounts:
        out += [["light ends by", ends.basis], ["curve of", ends.curve], [], ["species", "amount (%)"]]
        out += [[n, a] for n, a in ends.amounts.items()]
    out.append([])
    if curve.method == CARBON:
        more = (("plus molar mass", curve.plus.molar_mass), ("plus density", curve.plus.density))
        out += [[k, v] for k, v in more if v not in (None, "")]
        out += [
            [],
            ["component", f"amount ({curve.basis or METHODS[CARBON].basis}%)", "molar mass", "density"],
            *[list(a) for a in curve.amounts],
        ]
        return out
    titles, rows = written_columns(sample)
    return [*out, ["percent distilled", *titles], *rows]


def written_columns(sample: Sample) -> tuple[list[str], list[list[Cell]]]:
    """Return what was measured against the percent distilled: the titles of the columns with their units, and rows,
    each its percent first."""
    curve = sample.distillation
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
    return [title for title, _ in columns], [
        [p, *[next((v for q, v in points if q == p), None) for _, points in columns]] for p in order
    ]


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
        write_atomic(path, "".join(f"{csv_text(rows_of(sample))}\n" for sample in samples))
        return
    sheets = [(sample.name, rows_of(sample)) for sample in samples]
    sheets += [(title, [[RESULTS, title], [], *rows]) for title, rows in (results or {}).items()]
    write_atomic(path, workbook(sheets))


def workbook(sheets: Iterable[tuple[str, Sequence[Sequence[Cell]]]]) -> bytes:
    """Return a workbook of sheets with their titles; text in a cell is text, whatever it begins with."""
    import openpyxl

    book = openpyxl.Workbook()
    book.remove(book.active)
    for title, rows in sheets:
        _fill(book, title, rows)
    if not book.worksheets:
        book.create_sheet("empty")
    packed = io.BytesIO()
    book.save(packed)
    return packed.getvalue()


def plain_text(text: str) -> str:
    """Return a text that a file of sheets can hold: what it cannot is marked in its place."""
    return "".join(
        c if (c >= " " or c in "\t\n") and not "\ud800" <= c <= "\udfff" and c not in "\ufffe\uffff" else "\ufffd"
        for c in text
    )


def guarded(cell: Cell) -> Cell:
    """Return a cell of a CSV file that a spreadsheet shows as it stands: text that would be a formula gets an
    apostrophe before it, which is taken off where the file is read."""
    if not isinstance(cell, str):
        return cell
    text = plain_text(cell)
    return f"'{text}" if text.lstrip().startswith(FORMULA) and not _is_value(text) else text


def csv_text(rows: Sequence[Sequence[Cell]]) -> str:
    """Return rows as CSV; text in a cell is text, whatever it begins with."""
    stream = io.StringIO()
    csv.writer(stream, lineterminator="\n").writerows([["" if c is None else guarded(c) for c in row] for row in rows])
    return stream.getvalue()


def _is_value(text: str) -> bool:
    try:
        return bool(split(text))
    except QuantityError:
        return False


def _fill(book: Any, title: str, rows: Sequence[Sequence[Cell]]) -> None:
    # A spreadsheet allows 31 characters and not these in the name of a sheet.
    plain = re.sub(r"[\[\]:*?/\\\x00-\x1f\ud800-\udfff\ufffe\uffff]", " ", title)[:28].strip("' ") or "sample"
    name, number = plain, 2
    while name in book.sheetnames:
        name, number = f"{plain[:25]} {number}", number + 1
    sheet = book.create_sheet(name)
    for i, row in enumerate(rows, 1):
        for j, value in enumerate(row, 1):
            if value is not None:
                cell = sheet.cell(i, j, plain_text(value) if isinstance(value, str) else value)
                if isinstance(value, str):
                    cell.data_type = "s"  # text, whatever it begins with
    for column in sheet.columns:
        width = max((len(str(c.value)) for c in column if c.value is not None), default=8)
        sheet.column_dimensions[column[0].column_letter].width = min(max(width + 2, 9), 40)
