"""Samples from the rows of lab sheets, read the way people write them; what is not understood is listed with its cell.

A sheet has lines of a word and a value (density, method, viscosity at 40 degC …) and tables under a header row that names percent
and boiling point, density, molar mass or any other quantity, or species and amounts. Every sheet of a workbook is a sample; a line
``sample`` begins another one on the same sheet.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from ...characterization.methods import CARBON, METHODS, TWO_PART
from ...units import QuantityError, fits, normal_unit, split
from ...units.numbers import plain
from ...watch import UNWATCHED, Watch
from ..field_types import Cell
from ..model import Bulk, Curves, Distillation, LightEnds, PlusFraction, Quantity, Sample, Tail, ViscosityCurve
from ..sample_points import GROUP
from .cells import ExchangeError, Rows, column_name, csv_sheet, read_sheets
from .headers import UNIT_KINDS, basis_in, is_header, is_number, meaning, method_in, unit_of

RESULTS = "results"
"""The first cell of a sheet that holds results and no sample."""

WHOLE = "whole sample "
"""What a line of the whole sample's value of a named quantity begins with."""


@dataclass(frozen=True)
class Note:
    """Something about a cell: it was ``assumed`` to mean something, or it was not read at all."""

    place: str
    text: str
    assumed: bool = False

    def __str__(self) -> str:
        return f"{self.place}: {self.text}"


@dataclass(frozen=True)
class Found:
    """What a file holds: its samples, and the notes about what was assumed or not understood."""

    samples: tuple[Sample, ...] = ()
    notes: tuple[Note, ...] = ()


LINES: tuple[tuple[str, str, str], ...] = (
    (r"sample(?: name| id)?|name", "name", ""), (r"notes?|remarks?|comments?", "note", ""), (r"method|assay method", "method", ""),
    (r"basis", "basis", ""), (r"tail pressure", "tail_pressure", ""), (r"pressure", "pressure", ""),
    (r"(?:°\s*)?api(?: gravity)?|gravity,? ?°?api", "density", "degAPI"),
    (r"sg|s\.g\.?|specific gravity|sp\.? ?gr\.?|relative density|sg 60/60", "density", "SG"),
    (r"density|gravity", "density", "?"), (r"molar mass|molecular weight|mol\.? ?w(?:t|eight)\.?|mw|m\.?w\.?", "molar_mass", "g/mol"),
    (r"watson k|kw|watson factor|characteri[sz]ation factor|k factor", "watson_k", ""),
    (r"ibp|initial(?: boiling)? point|initial", "initial", "?"), (r"fbp|ep|end point|final(?: boiling)? point|final", "final", "?"),
    (r"light ends by", "light_basis", ""), (r"curve of", "light_curve", ""), (r"plus molar mass", "plus_mass", "g/mol"),
    (r"plus density", "plus_density", "?"),
)  # fmt: skip
"""Patterns of a line's word, what it gives, and the unit of a bare number: "?" where it needs its own."""

_KINDS = {
    "density": "density", "plus_density": "density", "molar_mass": "molar_mass", "plus_mass": "molar_mass", "pressure": "pressure",
    "tail_pressure": "pressure", "initial": "temperature", "final": "temperature",
}  # fmt: skip

_STANDARD = re.compile(r"^(density|gravity)\s*(?:at|@)?\s*(15|15\.6|60)\s*°?\s*(c|f|deg ?c|deg ?f)$")
_VISCOSITY = re.compile(r"^(?:kinematic |dynamic |kin\.? |dyn\.? )?visc(?:osity|\.)?\s*(?:at|@)?\s*(.*)$")
_POINTS = {
    "ibp": 0.0,
    "initial": 0.0,
    "ip": 0.0,
    "fbp": 100.0,
    "ep": 100.0,
    "fp": 100.0,
    "final": 100.0,
    "end point": 100.0,
}


@dataclass
class _Gathered:
    """What is gathered of one sample."""

    words: dict[str, str] = field(default_factory=dict)
    viscosity: list[tuple[Cell, Cell]] = field(default_factory=list)
    curves: dict[str, list[tuple[Cell, Cell]]] = field(default_factory=dict)
    units: dict[str, str] = field(default_factory=dict)
    whole: dict[str, Cell] = field(default_factory=dict)
    amounts: list[list[Cell]] = field(default_factory=list)
    light: dict[str, Cell] = field(default_factory=dict)
    begun: bool = False


class _Reader:
    """Gathers one sample at a time from the rows of a sheet."""

    def __init__(self, fallback: str) -> None:
        self.fallback = fallback
        self.samples: list[Sample] = []
        self.notes: list[Note] = []
        self.now = _Gathered()

    def note(self, row: int, column: int, text: str, assumed: bool = False) -> None:
        """Note something about a cell."""
        self.notes.append(Note(f"{self.fallback}, {column_name(column)}{row + 1}", text, assumed))

    # -- lines ----------------------------------------------------------------------------------------------------------

    def line(self, number: int, row: list[str]) -> None:
        """Take a line of a word and a value, its unit behind it or in brackets after the word."""
        first = next(j for j, c in enumerate(row) if c.strip())
        key, rest = row[first], row[first + 1 :]
        value = rest[0].strip() if rest else ""
        if not value and ":" in key:
            key, _, value = (s.strip() for s in key.partition(":"))
        shown = key.strip()
        bracket = re.match(r"^(.*?)\s*[\[(]([^\])]*)[\])]\s*(.*)$", key)
        unit = ""
        if bracket and not bracket.group(1).casefold().startswith(WHOLE):
            key, unit = f"{bracket.group(1)} {bracket.group(3)}".strip(), bracket.group(2)
        elif len(rest) > 1 and rest[1]:
            unit = rest[1]
        word = re.sub(r"\s+", " ", plain(key).strip().rstrip(":").casefold())
        if not value:
            if not self._known(word):
                self.note(number, first, f"'{_short(shown)}' is not read")
            return
        if is_number(value) and unit and not split(value)[1]:
            value = f"{value} {unit}"
        if word.startswith(WHOLE):
            self._whole(key[len(WHOLE) :], value)
        elif not (self._viscosity_line(number, first, word, value) or self._word_line(number, first, word, value)):
            self.note(number, first, f"'{_short(shown)}' with {_short(value)} is not read; its word is not known")

    @staticmethod
    def _known(word: str) -> bool:
        return any(re.fullmatch(pattern, word) for pattern, _, _ in LINES)

    def _whole(self, title: str, value: str) -> None:
        inside = re.search(r"[\[(](.*)[\])]", title)
        name = re.sub(r"\s*[\[(].*[\])]", "", title).strip()
        self.now.units.setdefault(name, inside.group(1) if inside else "mass%")
        self.now.whole[name] = _number(value)

    def _viscosity_line(self, row: int, column: int, word: str, value: str) -> bool:
        found = _VISCOSITY.match(word)
        if found is None:
            return False
        place = found.group(1).strip()
        if not place or not is_number(place) or not fits(split(place)[1], "temperature") or not split(place)[1]:
            self.note(row, column, "a viscosity needs its temperature; write viscosity at 40 degC")
        elif not is_number(value):
            self.note(row, column + 1, f"'{_short(value)}' is no viscosity")
        elif not split(value)[1]:
            self.note(row, column + 1, f"{value} has no unit; write {value} cSt or {value} cP")
        else:
            self.now.viscosity.append((place, value))
        return True

    def _word_line(self, row: int, column: int, word: str, value: str) -> bool:
        now = self.now
        standard = _STANDARD.match(word)
        word = standard.group(1) if standard else word
        at = re.match(r"^density\s*(?:at|@)?\s*([\d.]+\s*°?\s*\w+)$", word)
        if at:
            self.note(row, column, f"a density at {at.group(1)} is not read; give the one at 15 °C or 60 °F")
            return True
        found = next(((name, unit) for pattern, name, unit in LINES if re.fullmatch(pattern, word)), None)
        if found is None:
            return False
        name, bare = found
        if name == "name" and (now.begun or "name" in now.words):
            self.finish()
            now = self.now
        kind = _KINDS.get(name)
        if name in ("method", "basis"):
            value = self._choice(row, column + 1, name, value)
            if not value:
                return True
        if kind is not None and is_number(value):
            number, own = split(value)
            if not own and bare in ("?", "") and not self._plain_density(row, column + 1, kind, number):
                return True
            if not own and bare not in ("?", ""):
                value = f"{value} {bare}"
            elif not own and kind == "density":
                value = f"{value} {'SG' if number < 2.0 else 'kg/m3'}"
        now.words[name] = value
        return True

    def _plain_density(self, row: int, column: int, kind: str, number: float) -> bool:
        """Tell whether a bare number can be one thing only, and say what it is read as; else ask for its unit."""
        if kind == "density" and (0.3 <= number <= 1.3 or 300.0 <= number <= 1300.0):
            self.note(row, column, f"{number:g} is read as {'a specific gravity' if number < 2.0 else 'kg/m³'}", True)
            return True
        example = {"pressure": "mmHg", "temperature": "degC", "density": "kg/m3"}[kind]
        self.note(row, column, f"{number:g} has no unit; write for example {number:g} {example}")
        return False

    def _choice(self, row: int, column: int, name: str, value: str) -> str:
        if name == "basis":
            known = value.casefold() if value.casefold() in ("volume", "mass", "mole") else basis_in(value)
        else:
            known = next((m for m in METHODS if m.casefold() == value.casefold()), None) or method_in(value)
        if known is None:
            self.note(row, column, f"'{_short(value)}' is not a {name} that is known")
        return known or ""

    # -- tables ---------------------------------------------------------------------------------------------------------

    def table(self, number: int, header: list[str], rows: list[tuple[int, list[str]]]) -> None:
        """Take a table under its header; rows carry their number."""
        self.now.begun = True
        meanings = [meaning(c) if c.strip() else None for c in header]
        if "name" in meanings and ("amount" in meanings or "percent" in meanings):
            self._species(meanings, header, rows)
            return
        percent = meanings.index("percent")
        if basis_in(header[percent]):
            self.now.words["header basis"] = str(basis_in(header[percent]))
        percents = self._percents(number, percent, rows)
        for j, title in enumerate(header):
            if j == percent or not title.strip():
                if j != percent and any(_at(row, j) for _, row in rows):
                    self.note(number, j, "a column without a title is not read")
                continue
            key, unit = self._column(number, j, title, meanings[j])
            points: list[tuple[Cell, Cell]] = []
            for (line, row), place in zip(rows, percents):
                value = _at(row, j)
                if value and place is None:
                    self.note(line, percent, f"{_short(value)} has no percent beside it")
                elif value:
                    points.append((place, _cell(value, unit)))
            if points:
                if key in self.now.curves:
                    self.note(number, j, f"'{_short(title)}' is a second column of its kind; the later one is read")
                self.now.curves[key] = points
        for line, row in rows:
            for j in range(len(header), len(row)):
                if row[j]:
                    self.note(line, j, f"'{_short(row[j])}' stands beside the table and is not read")

    def _percents(self, number: int, column: int, rows: list[tuple[int, list[str]]]) -> list[Cell]:
        """Return the percents of a table, the words of initial and final point as 0 and 100, fractions as percents."""
        cells: list[Cell] = []
        for _, row in rows:
            text = _at(row, column)
            cells.append(_POINTS.get(text.casefold().rstrip("."), _number(text)) if text else None)
        values = [c for c in cells if isinstance(c, float)]
        marked = any("%" in _at(row, column) for _, row in rows)
        if len(values) >= 4 and not marked and 0.3 <= max(values) <= 1.0 and min(values) >= 0.0:
            self.note(number, column, "percents between 0 and 1 are read as fractions of the whole", True)
            return [float(f"{100.0 * c:.12g}") if isinstance(c, float) else c for c in cells]
        return cells

    def _column(self, row: int, j: int, title: str, what: str | None) -> tuple[str, str]:
        """Return where a column goes and the unit its bare numbers have."""
        found = unit_of(title)
        unit = found[0] if found is not None else ""
        if what in ("temperature", "tail"):
            method = method_in(title)
            if method is not None and what == "temperature" and "method" not in self.now.words:
                self.now.words["method"] = method
            if not unit:
                unit = "degC"
                self.note(row, j, f"'{_short(title)}' names no unit; bare numbers are read as °C", True)
            second = what == "temperature" and "temperature" in self.now.curves
            return ("tail" if what == "tail" or second else "temperature"), unit
        if what == "density":
            if not unit and "api" in title.casefold():
                unit = "degAPI"
            elif not unit and re.search(r"\bs\.?g\.?\b", title, re.IGNORECASE):
                unit = "SG"
            if not unit:
                unit = "kg/m**3"
                self.note(row, j, f"'{_short(title)}' names no unit; bare numbers are read as kg/m³", True)
            return what, unit
        if what == "molar_mass":
            return what, unit or "g/mol"
        if what == "viscosity":
            at = re.search(r"(-?\d+(?:[.,]\d+)?)\s*(°?\s*(?:deg)?\s*[CFK]\b)", plain(title))
            if not unit:
                unit = "cSt"
                self.note(row, j, f"'{_short(title)}' names no unit; bare numbers are read as cSt", True)
            if at is None:
                self.note(row, j, f"'{_short(title)}' names no temperature; it is taken as at 40 °C", True)
            return (
                f"viscosity {at.group(1)} {normal_unit(at.group(2).replace(' ', ''))}" if at else "viscosity 40 degC",
                unit,
            )
        name = re.sub(r"\s*[\[(].*[\])]", "", title).strip() or title
        inside = re.search(r"[\[(](.*)[\])]", title)
        told = re.search(r",?\s+(wt%|mass%|vol%|mol%|ppm\w*|mg/kg|%)$", name, re.IGNORECASE)
        if inside is None and told:
            name = name[: told.start()].strip()
        self.now.units[name] = inside.group(1) if inside else told.group(1) if told else "mass%"
        if inside is None and not told:
            self.note(row, j, f"'{_short(title)}' is read as a quantity in mass%", True)
        return f"quantity {name}", ""

    def _species(self, meanings: Sequence[str | None], header: list[str], rows: list[tuple[int, list[str]]]) -> None:
        name = meanings.index("name")
        amount = meanings.index("amount") if "amount" in meanings else meanings.index("percent")
        extra = [(j, m) for j, m in enumerate(meanings) if m in ("molar_mass", "density")]
        units = {j: unit_of(header[j]) for j, _ in extra}
        amounts = [_number(_at(row, amount)) for _, row in rows]
        told = [a for a in amounts if isinstance(a, float)]
        share = "%" not in header[amount] and not any("%" in _at(row, amount) for _, row in rows)
        if share and told and 0.97 <= sum(told) <= 1.03 and len(told) >= 2:
            self.note(rows[0][0] - 1, amount, "amounts that add up to 1 are read as fractions of the whole", True)
            amounts = [float(f"{100.0 * a:.12g}") if isinstance(a, float) else a for a in amounts]
        lines: list[list[Cell]] = []
        for (line, row), value in zip(rows, amounts):
            if not _at(row, name):
                self.note(line, name, "an amount without a name is not read")
                continue
            if _at(row, name).strip().casefold() in ("total", "sum"):
                continue
            cells: list[Cell] = [_at(row, name), value]
            values: dict[str, Cell] = {}
            for j, what in extra:
                text, found = _at(row, j), units[j]
                values[str(what)] = _cell(text, found[0] if found else "") if text else None
            cells += [values.get("molar_mass"), values.get("density")]
            while len(cells) > 2 and cells[-1] is None:
                cells.pop()
            lines.append(cells)
        groups = [c for c in lines if (m := GROUP.match(str(c[0]))) and (int(m.group(1)) >= 6 or m.group(2))]
        if groups or self.now.words.get("method", "").casefold() == CARBON:
            self.now.amounts = lines
        else:
            self.now.light = {str(c[0]): c[1] for c in lines}
            basis = basis_in(header[amount])
            if basis and "light_basis" not in self.now.words:
                self.now.words["light_basis"] = basis

    # -- the sample -----------------------------------------------------------------------------------------------------

    def finish(self) -> None:
        """Put together what was gathered."""
        if self.now.curves or self.now.amounts:
            self.samples.append(self._sample())
        self.now = _Gathered()

    def _sample(self) -> Sample:
        now, words = self.now, self.now.words
        method = words.get("method")
        if method is None:
            method = CARBON if now.amounts and "temperature" not in now.curves else "TBP"
        if "tail" in now.curves and method in ("TBP", "D86", TWO_PART):
            method = TWO_PART
        tail = None
        if "tail" in now.curves:
            tail = Tail(pressure=words.get("tail_pressure", "10 mmHg"), points=tuple(now.curves["tail"]))
        number = len(self.samples)
        name = words.get("name") or (self.fallback if not number else f"{self.fallback} {number + 1}")
        titled = words.get("header basis")
        basis = words.get("basis") or (None if titled == METHODS[method].basis else titled)
        named = dict.fromkeys(
            [k.removeprefix("quantity ") for k in now.curves if k.startswith("quantity ")] + list(now.whole)
        )
        return Sample(
            name=name,
            note=words.get("note", ""),
            distillation=Distillation(
                method=method, basis=basis, pressure=words.get("pressure"), tail=tail,
                points=tuple(now.curves.get("temperature", ())), amounts=tuple(tuple(a) for a in now.amounts),
                initial=words.get("initial"), final=words.get("final"),
                plus=PlusFraction(molar_mass=words.get("plus_mass"), density=words.get("plus_density")),
            ),
            bulk=Bulk(
                density=_value(words.get("density")), molar_mass=_value(words.get("molar_mass")),
                watson_k=_value(words.get("watson_k")), viscosity=tuple(now.viscosity),
            ),
            curves=Curves(
                density=tuple(now.curves.get("density", ())), molar_mass=tuple(now.curves.get("molar_mass", ())),
                viscosity=tuple(
                    ViscosityCurve(at=k.removeprefix("viscosity "), points=tuple(p))
                    for k, p in now.curves.items() if k.startswith("viscosity ")
                ),
                quantities=tuple(
                    Quantity(
                        name=name, unit=now.units[name], bulk=now.whole.get(name),
                        points=tuple(now.curves.get(f"quantity {name}", ())),
                    )
                    for name in named
                ),
            ),
            light_ends=LightEnds(
                mode="measured" if now.light else "absent", basis=words.get("light_basis", "volume"),
                curve=words.get("light_curve", "whole"), amounts=now.light,
            ),
        )  # fmt: skip


# -- sheets and files -----------------------------------------------------------------------------------------------------


def read_file(path: Path, watch: Watch = UNWATCHED) -> Found:
    """Return what a CSV or XLSX file holds. Raises ExchangeError, OSError, Cancelled."""
    samples: list[Sample] = []
    notes: list[Note] = []
    for sheet in read_sheets(path, watch):
        notes += [Note(sheet.name, text) for text in sheet.told]
        found = found_in(sheet.rows, sheet.name, watch)
        samples += found.samples
        notes += found.notes
    if not samples:
        raise ExchangeError(
            f"{path.name} holds no sample: no table whose header names percent and boiling point, or species and amount"
        )
    return Found(tuple(samples), tuple(notes))


def read_samples(path: Path) -> list[Sample]:
    """Return the samples of a CSV or XLSX file. Raises ExchangeError and OSError."""
    return list(read_file(path).samples)


def found_in(rows: Iterable[Sequence[str]], fallback: str, watch: Watch = UNWATCHED) -> Found:
    """Return what is on a sheet; ``fallback`` names a sample that is not named there. Raises Cancelled."""
    sheet: Rows = [[c.strip() for c in r] for r in rows]
    if sheet and sheet[0] and sheet[0][0].casefold() == RESULTS:
        return Found()
    reader = _Reader(fallback)
    i = 0
    while i < len(sheet):
        watch.check()
        row = sheet[i]
        width = sum(bool(c) for c in row)
        header, after = _header(sheet, i) if width >= 2 else (None, i)
        if header is not None:
            end = after
            while (
                end < len(sheet) and any(sheet[end]) and not is_header(sheet[end]) and not _is_line(sheet[end], header)
            ):
                end += 1
            reader.table(i, header, list(enumerate(sheet[after:end], after)))
            i = end
            continue
        if width:
            reader.line(i, row)
        i += 1
    reader.finish()
    return Found(tuple(reader.samples), tuple(reader.notes))


def samples_of(rows: Iterable[Sequence[str]], fallback: str) -> list[Sample]:
    """Return the samples on a sheet; ``fallback`` names one that is not named there."""
    return list(found_in(rows, fallback).samples)


def samples_of_text(text: str, fallback: str) -> Found:
    """Return what a pasted range holds, cells apart by tabs or as in a CSV file; no samples where no header tells what it is."""
    try:
        return found_in(csv_sheet(text, fallback).rows, fallback)
    except ExchangeError:
        return Found()


def _header(sheet: Rows, i: int) -> tuple[list[str] | None, int]:
    """Return the header of a table that begins at a row, joined with a row of units below it, and where its values begin."""
    row = sheet[i]
    if not is_header(row):
        return None, i
    below = sheet[i + 1] if i + 1 < len(sheet) else []
    united = bool(below) and _is_table(row) and len(below) <= len(row) and any(below) and all(map(_is_unit, below))
    if united:
        row = [
            f"{title} ({below[j].strip('()[] ')})" if j < len(below) and below[j] else title
            for j, title in enumerate(row)
        ]
    return (row, i + (2 if united else 1)) if _is_table(row) else (None, i)


_UNITS = {"", "wt", "vol", "mass", "mol", "mole", "lv", "ppm", "-", "c", "f", "k"}


def _is_unit(cell: str) -> bool:
    """Tell whether a cell holds a unit and nothing else."""
    text = cell.strip("()[] ")
    return text.strip("% ").casefold() in _UNITS or any(fits(text, kind) for kind in UNIT_KINDS)


def _is_line(row: list[str], header: list[str]) -> bool:
    """Tell whether a row is a line of a word and a value rather than one of the table above."""
    word = plain(row[0]).casefold().rstrip(":")
    return (
        word not in _POINTS and meaning(header[0]) != "name" and _Reader._known(re.sub(r"\s*[\[(].*", "", word).strip())
    )


def _is_table(row: list[str]) -> bool:
    found = {meaning(c) for c in row if c.strip()}
    curve = "percent" in found and len(found - {None}) >= 2
    return (curve or ("name" in found and "amount" in found)) and not _Reader._known(
        row[0].strip().casefold().rstrip(":")
    )


# -- cells ----------------------------------------------------------------------------------------------------------------


def _at(row: list[str], column: int) -> str:
    return row[column] if column < len(row) else ""


def _short(text: str) -> str:
    return text if len(text) <= 40 else f"{text[:39]}…"


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
    return f"{value:.15g} {unit}" if unit else value


def _value(text: str | None) -> Cell:
    if text is None:
        return None
    return _number(text) if is_number(text) and not split(text)[1] else text
