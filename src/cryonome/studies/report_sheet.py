"""A lab report as a pasted sheet: tables of tests, a line above each that names it, units in the headers; made into tests that carry what was measured."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ..components import UnknownComponentError, find
from ..document import Document, Study
from ..document.edits import add_study, set_at, study_path
from ..document.field_types import Cell
from ..document.kinds import study_kinds
from ..document.sheets.cells import ExchangeError, read_sheets
from ..units import QuantityError, fits, split
from ..units.endings import kind_of_key
from ..watch import UNWATCHED, Watch
from .kinds.match import MatchStudy

TESTS: tuple[tuple[str, str, str], ...] = (
    ("depletion", r"deplet|\bcvd\b", "Depletion"), ("liberation", r"liberat|differential|\bdl\b", "Liberation"), ("separators", r"separator", "Separators"),
    ("swelling", r"swell", "Swelling"), ("viscosity", r"viscos", "Viscosity"), ("expansion", r"expansion|constant.composition|\bcce\b|pressure.volume", "Expansion"),
    ("saturation", r"saturation|bubble|dew", "Saturation"),
)  # fmt: skip
"""Kind of a test, what its title says, and what it is called; the more telling words first."""

COLUMNS: dict[str, tuple[tuple[str, str], ...]] = {
    "expansion": (
        ("pressure", r"press"), ("relative_volume", r"rel.*vol|v/v"), ("liquid_volume_fraction", r"liq"), ("Y", r"^y\b|y.function"),
        ("density_kg_m3", r"density"), ("viscosity_Pa_s", r"visc"), ("Z", r"^z\b|z.factor|compress|deviation"),
    ),
    "depletion": (
        ("pressure", r"press"), ("liquid_volume_fraction", r"liq"), ("produced_mole_fraction", r"produc|cumul|recover"), ("Z_two_phase", r"two|2.phase"),
        ("Z_gas", r"^z\b|z.factor|gas z|compress|deviation"), ("gas_gravity", r"gravity"), ("gas_viscosity_Pa_s", r"visc"),
    ),
    "liberation": (
        ("pressure", r"press"), ("total_volume_factor", r"total|^bt\b"), ("gas_volume_factor", r"^bg\b|gas.*volume factor"), ("oil_volume_factor", r"^bo\b|oil.*factor|volume factor|fvf"),
        ("solution_gas_m3_m3", r"^rs\b|solution|dissolved|gas.oil|\bgor\b"), ("gas_Z", r"^z\b|z.factor|compress|deviation"), ("gas_gravity", r"gravity"),
        ("gas_viscosity_Pa_s", r"gas visc"), ("oil_viscosity_Pa_s", r"visc"), ("oil_density_kg_m3", r"density"),
    ),
    "separators": (
        ("temperature", r"temp"), ("pressure", r"press"), ("gas_oil_ratio_m3_m3", r"gas.oil|\bgor\b|ratio"), ("gas_gravity", r"gravity"), ("oil_density_kg_m3", r"density"),
    ),
    "swelling": (("saturation_pressure_Pa", r"press"), ("swelling_factor", r"swell|volume"), ("gas_moles", r"gas|mol")),
    "saturation": (("temperature", r"temp"), ("pressure", r"press|saturation|bubble|dew")),
    "viscosity": (("pressure", r"press"), ("viscosity_Pa_s", r"visc"), ("density_kg_m3", r"density")),
}  # fmt: skip
"""What a header may name, by kind of test."""

SINGLES: tuple[tuple[str, str, tuple[str, ...]], ...] = (
    ("temperature", r"^(reservoir |test )?temp", ()), ("saturation.pressure_Pa", r"(saturation|bubble|dew).*(press|point)?", ()),
    ("residual_density_kg_m3", r"resid.*density", ("liberation",)), ("api", r"api", ("separators",)), ("oil_volume_factor", r"volume factor|\bfvf\b", ("separators",)),
    ("gas_oil_ratio_m3_m3", r"total.*(gas|gor)", ("separators",)), ("gas", r"^(injection )?gas$", ("swelling",)),
)  # fmt: skip
"""What a line of a name and a value may be, and in which tests, any where none are named."""

NUMBER = re.compile(r"^[-+−]?\d[\d.,eE+−-]*\s*%?$")


@dataclass
class ReportBlock:
    """A test of a report: its kind and title, temperature as written, single values, and columns of cells by key with the places of the rows."""

    kind: str
    title: str
    temperature: Cell = None
    singles: dict[str, Cell] = field(default_factory=dict)
    columns: dict[str, list[Cell]] = field(default_factory=dict)
    word: str = ""


def report_of(text: str) -> tuple[list[ReportBlock], str]:
    """Return the tests of a pasted report, and a sentence about what could not be read, "" where nothing."""
    lines = [[c.strip() for c in re.split(r"\t|;|\s{3,}", line.strip("\r"))] for line in text.splitlines()]
    found: list[ReportBlock] = []
    block: ReportBlock | None = None
    heads: list[tuple[str, str]] = []
    told = ""
    unread: list[str] = []
    for number, cells in enumerate(lines, 1):
        words = [c for c in cells if c]
        if not words:
            heads = []
            continue
        numbers = [c for c in words if NUMBER.match(c)]
        if block is not None and heads and numbers and NUMBER.match(cells[0] or words[0]):
            told = told or _row(block, heads, cells, number)
            continue
        if block is not None and heads and not numbers and all(_unit_like(c) for c in words):
            heads = [
                (k, cells[i].strip("()[]") if i < len(cells) and cells[i] and not u else u)
                for i, (k, u) in enumerate(heads)
            ]
            continue
        kind = _kind_of(" ".join(words)) if len(numbers) == 0 else None
        maybe = _heads(block.kind, cells) if block is not None and len(words) > 1 else []
        if block is not None and sum(bool(k) for k, _ in maybe) >= 2:
            heads = maybe
            unread += [c for c, (k, _) in zip(cells, maybe) if c and not k and c not in unread]
            continue
        if block is not None and len(words) >= 2 and _single(block, words):
            heads = []
            continue
        guess = _guess(cells) if block is None and len(words) > 1 and not numbers else None
        if guess is not None:
            # A table without a line above it.
            block = ReportBlock(guess, study_kinds()[guess].title)
            found.append(block)
            heads = _heads(guess, cells)
            continue
        if kind is not None:
            title = words[0]
            block = ReportBlock(kind, title, _temperature(" ".join(words)), word=" ".join(words).casefold())
            found.append(block)
            heads = []
            continue
    ready = [b for b in found if b.columns or (b.kind == "saturation" and b.singles)]
    known = next((b.temperature for b in found if b.temperature is not None), None)
    for b in ready:
        b.temperature = b.temperature if b.temperature is not None else known
    if unread and ready and not told:
        told = f"these columns were not understood and are left out: {', '.join(unread[:8])}"
    return ready, told


def report_in(path: Path, watch: Watch = UNWATCHED) -> tuple[list[ReportBlock], str]:
    """Return the tests of a report in a workbook or a CSV file, all its sheets, as :func:`report_of` does. Raises ExchangeError, OSError, Cancelled."""
    lines: list[str] = []
    told: list[str] = []
    for sheet in read_sheets(path, watch):
        # A sheet that is named after its test needs no line that names it.
        lines += ["", sheet.name if _kind_of(sheet.name) is not None else ""]
        lines += ["\t".join(" ".join(c.split()) for c in row) for row in sheet.rows]
        told += sheet.told
    found, unread = report_of("\n".join(lines))
    return found, unread or (told[0] if told else "")


@dataclass(frozen=True)
class Report:
    """What came of a file: the tests in it, and what is to be said, "" for nothing."""

    path: Path
    blocks: tuple[ReportBlock, ...] = ()
    told: str = ""


def read_reports(paths: Sequence[Path], watch: Watch = UNWATCHED) -> list[Report]:
    """Return what is in each file; one that cannot be read says why. Raises Cancelled."""
    out = []
    for path in paths:
        try:
            found, told = report_in(path, watch)
            out.append(Report(path, tuple(found), told))
        except ExchangeError as error:
            out.append(Report(path, told=str(error)))
        except OSError as error:
            out.append(Report(path, told=f"{path.name} cannot be read: {(error.strerror or str(error)).lower()}"))
    return out


def _kind_of(words: str) -> str | None:
    return next((kind for kind, pattern, _ in TESTS if re.search(pattern, words, re.IGNORECASE)), None)


def _temperature(words: str) -> Cell:
    found = re.search(r"(-?\d+(?:\.\d+)?)\s*(°\s?[CFK]|deg ?[CF]|[CFK]\b)", words)
    if found is None:
        return None
    unit = found.group(2).replace(" ", "").replace("°", "deg")
    unit = {"C": "degC", "F": "degF", "degK": "K"}.get(unit, unit)
    return f"{found.group(1)} {unit}"


def _unit_like(cell: str) -> bool:
    text = cell.strip("()[]")
    return text in ("", "-", "–", "%", "fraction", "mol%", "vol%", "mole %") or any(
        _fits(text, k) for k in ("pressure", "temperature", "density", "dynamic_viscosity", "gas_oil_ratio")
    )


def _fits(unit: str, kind: str) -> bool:
    try:
        return bool(unit) and fits(unit, kind)
    except QuantityError:
        return False


def _heads(kind: str, cells: Sequence[str]) -> list[tuple[str, str]]:
    """Return key and unit of every header cell, "" for what is not known."""
    out: list[tuple[str, str]] = []
    for cell in cells:
        inner = re.search(r"[(\[]([^)\]]*)[)\]]\s*$|,\s*([^,]+)$", cell)
        unit = (inner.group(1) or inner.group(2) or "").strip() if inner is not None else ""
        words = cell[: inner.start()] if inner is not None and (_unit_like(unit) or unit) else cell
        if not unit:
            last = words.split()[-1] if len(words.split()) > 1 else ""
            if last and _unit_like(last):
                unit, words = last, words[: -len(last)]
        key = next(
            (
                k
                for k, pattern in COLUMNS[kind]
                if re.search(pattern, words.strip(), re.IGNORECASE) and k not in [o for o, _ in out]
            ),
            "",
        )
        if not key and kind == "depletion":
            key = _component(words)
        out.append((key, unit))
    return out


def _component(words: str) -> str:
    try:
        return f"gas.{find(words.strip()).name}"
    except UnknownComponentError:
        return ""


def _guess(cells: Sequence[str]) -> str | None:
    """Return the kind of test whose columns a header names most of, None where it names none but a pressure."""
    best = max(COLUMNS, key=lambda kind: sum(bool(k) for k, _ in _heads(kind, cells)))
    named = [k for k, _ in _heads(best, cells) if k]
    if set(named) == {"pressure", "viscosity_Pa_s"}:
        return "viscosity"
    return best if len(named) >= 2 and "pressure" in named else None


def _single(block: ReportBlock, words: Sequence[str]) -> bool:
    """Take a line of a name and a value; tell whether it was one."""
    value = " ".join(words[1:])
    if not re.match(r"^[-+−]?\d", value) and words[0].casefold() != "gas":
        return False
    for key, pattern, kinds in SINGLES:
        if re.search(pattern, words[0], re.IGNORECASE) and (not kinds or block.kind in kinds):
            if key == "temperature":
                block.temperature = _temperature(value) or value
            else:
                unit = re.search(r"[(\[]([^)\]]*)[)\]]", words[0])
                block.singles[key] = _cell(value, unit.group(1) if unit is not None else "")
                block.word += f" {words[0].casefold()}"
            return True
    return False


def _cell(text: str, unit: str) -> Cell:
    """Return a cell with the unit of its column where it has none of its own."""
    text = text.strip()
    if not text or text in ("-", "–", "n/a"):
        return None
    try:
        number, own = split(text)
    except QuantityError:
        return text
    unit = unit.strip("()[] ")
    if own or unit in ("", "-", "–", "fraction"):
        return f"{number:.10g} {own}" if own else number
    return f"{number:.10g} {'%' if unit.casefold() in ('%', 'mol%', 'vol%', 'mole %', 'percent') else unit}"


def _row(block: ReportBlock, heads: Sequence[tuple[str, str]], cells: Sequence[str], number: int) -> str:
    """Take a row of a table; return a sentence about what is wrong with it, "" where nothing is."""
    told = ""
    count = max((len(v) for v in block.columns.values()), default=0)
    for i, (key, unit) in enumerate(heads):
        if not key:
            continue
        cell = _cell(cells[i], unit) if i < len(cells) else None
        kind = "pressure" if key == "pressure" else "temperature" if key == "temperature" else kind_of_key(key)[0]
        if kind and isinstance(cell, (int, float)):
            told = told or f"row {number}: {key.replace('_', ' ')} needs its unit; write it in the header"
        block.columns.setdefault(key, [None] * count).append(cell)
    return told


def with_report(document: Document, fluid: str, found: Sequence[ReportBlock]) -> Document:
    """Return a document with the tests of a report about a fluid, and a match of them: the fluid's own where it has one."""
    names = []
    for block in found:
        for study in _studies(document, fluid, block):
            document = add_study(document, study)
            names.append(document.studies[-1].name)
    own = next((s for s in document.studies if isinstance(s, MatchStudy) and s.fluid == fluid), None)
    if own is None:
        return add_study(document, study_kinds()["match"].begin(fluid, None))
    # One that names no tests is of all there are.
    return set_at(document, (*study_path(document, own.name), "tests"), (*own.tests, *names)) if own.tests else document


def _studies(document: Document, fluid: str, block: ReportBlock) -> list[Study]:
    title = next(t for k, _, t in TESTS if k == block.kind)
    model: Any = study_kinds()[block.kind].model
    name = f"{title} of {fluid}"
    columns = dict(block.columns)
    kind = "dew" if "dew" in block.word else "bubble"
    if block.kind == "saturation":
        return _saturations(model, name, fluid, block, kind)
    if block.kind in ("depletion", "liberation", "expansion", "viscosity"):
        pressures = columns.pop("pressure", [])
        order = list(range(len(pressures)))
        if (
            block.kind in ("depletion", "liberation")
            and len(order) > 1
            and _value(pressures[0]) < _value(pressures[-1])
        ):
            order = order[::-1]
        measured = {k: tuple(v[i] for i in order) for k, v in columns.items()} | block.singles
        return [
            model(
                name=name,
                kind=block.kind,
                fluid=fluid,
                temperature=block.temperature,
                pressures=tuple(pressures[i] for i in order),
                measured=measured,
            )
        ]
    if block.kind == "separators":
        T, P = columns.pop("temperature", []), columns.pop("pressure", [])
        stages = [{"temperature": t, "pressure": p} for t, p in zip(T, P)]
        measured = {k: tuple(v) for k, v in columns.items()} | {
            k: v for k, v in block.singles.items() if k != "saturation.pressure_Pa"
        }
        return [
            model(
                name=name,
                kind="separators",
                fluid=fluid,
                temperature=block.temperature,
                stages=stages,
                measured=measured,
            )
        ]
    moles = columns.pop("gas_moles", [])
    gas = str(block.singles.get("gas") or next((f.name for f in document.fluids if f.name != fluid), fluid))
    return [
        model(
            name=name,
            kind="swelling",
            fluid=fluid,
            gas=gas,
            temperature=block.temperature,
            gas_moles=tuple(moles),
            measured={k: tuple(v) for k, v in columns.items()},
        )
    ]


def _saturations(model: Any, name: str, fluid: str, block: ReportBlock, kind: str) -> list[Study]:
    pairs = list(zip(block.columns.get("temperature", []), block.columns.get("pressure", [])))
    if not pairs and "saturation.pressure_Pa" in block.singles:
        pairs = [(block.temperature, block.singles["saturation.pressure_Pa"])]
    return [
        model(name=name, kind="saturation", fluid=fluid, temperature=t, measured={f"points.{kind}.pressure_Pa": p})
        for t, p in pairs
    ]


def _value(cell: Cell) -> float:
    try:
        return split(cell)[0] if isinstance(cell, str) else float(cell or 0.0)
    except QuantityError:
        return 0.0
