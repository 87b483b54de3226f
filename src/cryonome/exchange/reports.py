"""Tables of laboratory tests: expansions, depletions, liberations, separators, swelling and viscosities, in every usual layout.

Which test a table is, its title says, else its columns. A column is read only where its header names one quantity of the test and its unit
fits that quantity; all others are listed as not read.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from dataclasses import replace

from ..components import named
from ..document.field_types import Cell
from ..units import QuantityError, parse
from ..units.endings import kind_of_key
from .context import Context
from .entries import Entry, entry_of, folded
from .facts import cell_of, labelled, of_plus, temperature_in
from .found import UNREAD, Test
from .grids import cell_at
from .rows import Row
from .words import TEMPERATURE, as_unit, means, unit_in

KINDS: tuple[tuple[str, str], ...] = (
    ("depletion", r"deplet|deplec|\bcvd\b|volume constant|volumen constante|constant[ -]volume|produced wellstream|konstantes volumen|volumekonstant"),
    ("liberation", r"liberat|liberac|differential|differentielle|diferencial|\bdle?\b|\bdv\b|differentialentgasung|vaporization test"), ("separators", r"separator|separador|separateur|stage test|multistage|flash test"),
    ("swelling", r"swell|solubility|quell|gonflement|hinchamiento"), ("viscosity", r"viscos|viskos"),
    ("expansion", r"expansion|constant.composition|constant.mass|\bcce\b|\bcme\b|pressure.volume|\bpv\b|p-v|presion.volumen|composition constante|masse constante|volumetric"),
    ("saturation", r"saturation|bubble|dew|rosee|rocio|burbuja|quality check"),
)  # fmt: skip
"""Kinds of tests and what a title says of them, the more telling first."""

COLUMNS: dict[str, tuple[tuple[str, str], ...]] = {
    "expansion": (
        ("relative_volume", r"rel\w*\.? ?vol|v/v|volume relat|volumen relat|relativ\w* volum|v ?rel|vrel|volume ratio|^v/"),
        ("Y", r"^y\b|y.?func|funct\w* y|fonction y|funcion y"),
        ("liquid_volume_fraction", r"liq|dropout|retrograd|\bsl\b|depot|deposito|flussig"), ("viscosity_Pa_s", r"visc|viskos|\bmu"), ("density_kg_m3", r"dens|dicht|\brho|mass[ae] (?:volum|espec)|peso espec|^ρ"),
        ("Z", r"^z\b|z.?factor|\bz\b|deviation|compressibility fac|super ?compress|facteur de compress|factor de compress|realgas"),
    ),
    "depletion": (
        ("Z_two_phase", r"(?:two|2|bi).?phas\w*|zweiphas|diphas|bifas|\bz ?2p|z2"), ("gas_viscosity_Pa_s", r"visc|viskos|\bmu"), ("gas_gravity", r"gravity|gravedad|\bsg\b|rel\w*\.? dens|densite|dichteverh"),
        ("produced_mole_fraction", r"produc|cumul|recover|np/n|removed|withdrawn|produkt|gp/g|entnommen|produite|producid"),
        ("liquid_volume_fraction", r"liq|dropout|retrograd|\bsl\b|depot|deposito|flussig|condens"),
        ("Z_gas", r"^z\b|z.?factor|\bz\b|deviation|compressibility fac|super ?compress|\bzg\b|facteur de compress|factor de compress|realgas"),
    ),
    "liberation": (
        ("total_volume_factor", r"total (?:form|vol|rel)|\bbtd?b?\b|two.phase (?:form|vol)"), ("gas_volume_factor", r"\bbg\b|gas (?:form|vol)\w*.*fac|gas fvf|fvf,? gas|expansion factor"),
        ("gas_viscosity_Pa_s", r"(?:gas|\bg\b).*visc|visc\w*.*gas|mu ?g\b"), ("oil_viscosity_Pa_s", r"visc|viskos|mu ?o?\b"),
        ("gas_gravity", r"gasdichte|luft ?= ?1|aire? ?= ?1|gas.*(?:gravity|gravedad|rel\w*\.? dens|dens\w* rel)|(?:gravity|gravedad).*gas|air ?= ?1|incremental.*gravity|gravity of"),
        ("liberated", r"liber|evolved|removed|abgegeben|degag"),
        ("solution_gas_m3_m3", r"\brsd?b?\b|in solution|solution|dissol|dissous|disuelto|dissolvid|gelost|gas.?oil|\bgor\b|\brgp\b"),
        ("oil_volume_factor", r"\bbod?b?\b|(?:oil|form)\w*.*fac|volume factor|\bfvf\b|rel\w*\.? oil vol|relative (?:oil )?vol|facteur volum|factor volum|fator volum|volumenfaktor|\bboi?\b"),
        ("gas_Z", r"^z\b|z.?factor|\bz\b|deviation|compressibility fac|\bzg\b|facteur de compress|factor de compress|realgas"),
        ("oil_density_kg_m3", r"dens|dicht|\brho|mass[ae] (?:volum|espec)|peso espec|^ρ"),
    ),
    "separators": (
        ("gas_oil_ratio_m3_m3", r"gas.?[/-]?oil|\bgor\b|\brgp\b|\brsi?\b|gas.?/.?oil"), ("gas_gravity", r"gas.*(?:gravity|gravedad|rel\w*\.? dens|\bsg\b)|(?:gravity|\bsg\b).*gas|air ?= ?1|\bsg gas"),
        ("tank", r"tank.*(?:gravity|dens|api)|\bapi\b.*tank|^°? ?api\b"), ("oil_density_kg_m3", r"dens|dicht|mass[ae] (?:volum|espec)|peso espec|oil.*gravity|liquid.*gravity"),
        ("sep_fvf", r"separator vol|shrink"), ("fvf", r"\bbod?b?\b|volume factor|\bfvf\b|shrink|separator volume"),
    ),
    "swelling": (
        ("density_kg_m3", r"dens|dicht"), ("swelling_factor", r"swell|swoll|volume|quell|gonfl|hincham|v/v|vsat/"), ("viscosity", r"visc"), ("gas_oil_ratio", r"\bgor\b|gas.?oil ratio"),
    ),
    "viscosity": (
        ("ratio", r"ratio|verhalt"), ("gas", r"gas.*visc|visc\w*.*gas|mu ?g\b"), ("viscosity_Pa_s", r"visc|viskos|\bmu|\beta\b|\bcp\b|mpa"), ("density_kg_m3", r"dens|dicht|\brho|mass[ae] (?:volum|espec)|peso espec"),
    ),
}  # fmt: skip
"""What a header may name, by kind of test; the more telling patterns first."""

SHARES = ("liquid_volume_fraction", "produced_mole_fraction", "gas")
"""Keys of shares, which a report may write in percent."""

RATIOS = (
    "relative_volume",
    "Y",
    "Z",
    "Z_gas",
    "Z_two_phase",
    "gas_Z",
    "oil_volume_factor",
    "total_volume_factor",
    "gas_gravity",
    "swelling_factor",
    "fvf",
)
"""Keys of plain numbers, in whatever volumes a header writes them."""

GAS_FACTOR = {
    "bbl/scf": 5.614583333,
    "rb/scf": 5.614583333,
    "bbl/mscf": 5.614583333e-3,
    "rb/mscf": 5.614583333e-3,
    "bbl/kscf": 5.614583333e-3,
    "rb/kscf": 5.614583333e-3,
}
"""Cubic metres a standard cubic metre, by the unit of a gas's formation volume factor."""


def kind_by_words(texts: Sequence[str]) -> str:
    """Return the test that titles name, "" for none; the nearest title counts first."""
    weak = ""
    for text in reversed(texts):
        words = folded(text)
        found = next((kind for kind, pattern in KINDS if re.search(pattern, words)), "")
        if found and not re.search(r"^separator (?:gas|liquid|pressure|temp)", words):
            if found != "saturation":
                return found
            weak = weak or found
    return weak


def read_tests(ctx: Context) -> list[Test]:
    """Return the tests of a table of numbers: one, or several at temperatures side by side."""
    kind = _kind(ctx)
    if not kind or kind == "saturation":
        return _saturations(ctx) if kind else []
    if kind == "swelling":
        return _swelling(ctx)
    axis, unit = _axis(ctx, kind)
    if axis is None:
        return []
    heads = {j: _key(ctx, kind, j) for j in ctx.table.columns if j != axis}
    temperatures = {
        j: t
        for j in heads
        if (t := temperature_in(ctx.table.head(j), ctx.style))
        and heads[j] not in ("temperature", "density_kg_m3", "oil_density_kg_m3")
    }
    groups: list[tuple[str, list[int]]]
    if len(set(temperatures.values())) > 1:
        groups = [(t, [j for j in heads if temperatures.get(j) == t]) for t in dict.fromkeys(temperatures.values())]
    else:
        groups = [(next(iter(temperatures.values()), ""), list(heads))]
    tests = [_test(ctx, kind, axis, unit, columns, heads, t) for t, columns in groups]
    return [t for t in tests if t.columns.get("pressure")]


def _kind(ctx: Context) -> str:
    table = ctx.table
    own = ctx.choice(table.axis).meaning
    if own in COLUMNS:
        return own
    scores = {kind: len({k for j in table.columns if (k := _match(kind, table.head(j)))}) for kind in COLUMNS}
    heads = " ".join(folded(table.head(j)) for j in (table.axis, *table.columns))
    if means(heads, "injected") and re.search(r"swell|satur|volume", heads):
        return "swelling"
    named_ = kind_by_words(ctx.titles)
    columns = [folded(table.head(j)) for j in (table.axis, *table.columns)]
    if (
        len(columns) >= 2
        and any(means(c, "saturated") for c in columns)
        and any(re.search(r"temp|^t\b", c) for c in columns)
        and not any(scores.values())
    ):
        return "saturation"
    if named_ == "saturation":
        named_ = ""
    if re.search(r"stage|stufe|etapa|etage", heads) or (
        re.search(r"\bgor\b|gas.?[/-]?oil", heads) and re.search(r"temp|\bt\b", heads)
    ):
        named_ = named_ if named_ == "separators" else "separators" if scores["separators"] else named_
    if named_ and (scores.get(named_, 0) or named_ in ("depletion",)):
        return named_
    by_sheet = kind_by_words([ctx.sheet, ctx.name])
    if by_sheet and scores.get(by_sheet, 0):
        return by_sheet
    guess = max(scores, key=lambda k: scores[k])
    if not scores[guess]:
        return ""
    keys = {k for j in table.columns if (k := _match(guess, table.head(j)))}
    if {"viscosity_Pa_s"} >= keys - {"ratio", "gas"}:
        guess = "viscosity"
    if scores[guess] < 2 and keys <= {"density_kg_m3", "oil_density_kg_m3", "ratio", "gas"}:
        return ""
    ctx.note(ctx.head_row(), table.axis, f"no line names the test; its columns are those of a test of {guess}", True)
    return guess


def _match(kind: str, head: str) -> str:
    words = folded(head)
    if not words or (
        re.search(r"compressibility(?! ?fac)|compresib\w+(?! ?fac)", words)
        and not re.search(r"\bz\b|z.?fac|deviation", words)
    ):
        return ""
    return next((key for key, pattern in COLUMNS[kind] if re.search(pattern, words)), "")


def _saturations(ctx: Context) -> list[Test]:
    """Return a saturation pressure for each row of temperatures and pressures."""
    table = ctx.table
    columns = [table.axis, *table.columns]
    at = next((j for j in columns if re.search(r"temp|^t\b", folded(table.head(j)))), None)
    pressure = next(
        (j for j in columns if j != at and (means(table.head(j), "pressure") or means(table.head(j), "saturated"))),
        None,
    )
    if at is None or pressure is None:
        return []
    units = {
        j: ctx.choice(j).unit or unit_in(table.head(j), kind)
        for j, kind in ((at, "temperature"), (pressure, "pressure"))
    }
    if not all(units.values()):
        ctx.note(ctx.head_row(), pressure, "pressure needs its unit; write it in the header, as the temperature does")
        return []
    ctx.read(at, "temperature", units[at])
    ctx.read(pressure, "pressure", units[pressure])
    dew = (
        re.search(r"\bdew|rosee|rocio|taupunkt|orvalho", folded(table.head(pressure) + " " + " ".join(ctx.titles)))
        is not None
    )
    out = []
    for row in table.body:
        t, p = ctx.entry(row, at), ctx.entry(row, pressure)
        if t.is_number and p.is_number:
            own = as_unit(p.unit, "pressure") or units[pressure]
            out.append(
                Test("saturation", "", cell_of(t.value, units[at]), {"pressure": cell_of(p.value, own)}, dew=dew)
            )
    return out


def _axis(ctx: Context, kind: str) -> tuple[int | None, str]:
    """Return the column of pressures and their unit; "" is told where the sheet names none."""
    table = ctx.table
    column = table.axis
    if not means(table.head(column), "pressure"):
        found = next((j for j in table.columns if means(table.head(j), "pressure")), None)
        if found is None:
            return None, ""
        column = found
    unit = ctx.choice(column).unit or unit_in(table.head(column), "pressure")
    if not unit:
        unit = next((u for r in table.body if (u := as_unit(ctx.entry(r, column).unit, "pressure"))), "")
    if not unit:
        unit = next((u for t in reversed(ctx.titles) if (u := unit_in(t, "pressure"))), "")
        if unit:
            ctx.note(
                ctx.head_row(),
                column,
                f"the pressures have no unit of their own; {unit}, which a line above names, is assumed",
                True,
            )
    if not unit:
        ctx.note(ctx.head_row(), column, "pressure needs its unit; write it in the header, for example Pressure (psia)")
    ctx.read(column, "pressure", unit, assumed=not unit)
    return (column, unit) if unit else (None, "")


def _key(ctx: Context, kind: str, column: int) -> str:
    head = ctx.table.head(column)
    chosen = ctx.choice(column).meaning
    if chosen:
        return "" if chosen == UNREAD else chosen
    if kind == "separators" and re.search(r"temp|^t\b", folded(head)):
        return "temperature"
    if kind == "separators" and means(head, "stage") and not _match(kind, head):
        return "stage"
    key = _match(kind, head)
    if key and not (key == "gas_gravity" and of_plus(head)):
        return key
    if kind == "depletion" and not key:
        found = named(re.sub(r"[,(\[].*$|mol\w*\s*%.*$", "", head).strip() or head)
        if found is not None and not found.total:
            return f"gas.{found.label}"
    return ""


def _test(
    ctx: Context, kind: str, axis: int, unit: str, columns: list[int], heads: dict[int, str], temperature: str
) -> Test:
    test = Test(kind, ctx.titles[-1] if ctx.titles else "")
    sides = [r for r in ctx.table.sides if not _is_total(r)]
    rows = [r for r in ctx.table.body if not ctx.doubt(r, axis)]
    pressures: list[Cell] = []
    marked: list[int] = []
    for k, row in enumerate(rows):
        one = ctx.entry(row, axis)
        own = as_unit(one.unit, "pressure") or unit
        pressures.append(cell_of(one.value, own))
        remark = " ".join((one.lead, one.mark, "" if as_unit(one.unit, "pressure") else one.unit))
        if means(remark, "saturated") or (one.mark.startswith("*") and kind == "expansion"):
            marked.append(k)
        test.dew = test.dew or bool(re.search(r"dew|rosee|rocio|tau", folded(remark)))
    test.columns["pressure"] = pressures
    taken: dict[str, int] = {}
    # Of two gas-oil ratios the one by stock-tank oil is the test's.
    by_tank = [
        j
        for j in columns
        if heads[j] == "gas_oil_ratio_m3_m3" and re.search(r"stb|stock|tank|sto\b|residual", folded(ctx.table.head(j)))
    ]
    for j in sorted(columns, key=lambda j: (j not in by_tank, j)):
        if kind == "separators" and heads[j] in ("tank", "fvf") and _whole_of_column(ctx, test, j, heads[j], rows):
            continue
        _column(ctx, test, kind, j, heads[j], rows, taken)
    _liberated(ctx, test)
    _of_total(ctx, test)
    for row in sides:
        _side(ctx, test, row, columns, axis)
    for row in ctx.table.sides:
        if _is_total(row) and kind == "separators":
            _total(ctx, test, row, heads)
    _conditions(ctx, test, temperature, marked)
    return test


def _whole_of_column(ctx: Context, test: Test, column: int, key: str, rows: list[Row]) -> bool:
    """Take the single value of a column of separators, the tank's oil or the volume factor of all stages; tell whether there was one."""
    values = [e for r in rows for e in (ctx.entry(r, column),) if e.is_number]
    if len(values) != 1:
        return False
    if key == "fvf":
        test.singles["oil_volume_factor"] = values[0].value
        ctx.read(column, "volume factor of the oil")
        return True
    unit = (
        "degAPI"
        if "api" in folded(ctx.table.head(column))
        else unit_in(ctx.table.head(column), "density") or as_unit(values[0].unit, "density")
    )
    if unit == "degAPI":
        test.singles["api"] = values[0].value
    elif unit:
        test.singles["tank_density_kg_m3"] = cell_of(values[0].value, unit)
    ctx.read(column, "density of the tank's oil", unit)
    return bool(unit)


def _is_total(row: Row) -> bool:
    return any(re.match(r"(?:total|sum|summe|somme|suma)\b", folded(c)) for c in row[1][:2])


def _column(ctx: Context, test: Test, kind: str, column: int, key: str, rows: list[Row], taken: dict[str, int]) -> None:
    head = ctx.table.head(column)
    cells = [ctx.entry(r, column) for r in rows]
    if key == "stage" or not any(e.fills for e in cells) or (not head and not key):
        if any(e.is_number for e in cells) and not head:
            ctx.note(ctx.head_row(), column, "a column without a header is not read")
        return
    if re.match(r"^(?:total|sum|summe)\b", folded(head)) and not key:
        return
    readable = (
        key
        and key not in ("ratio", "gas", "fvf", "sep_fvf", "tank", "viscosity", "gas_oil_ratio")
        and not (kind == "swelling" and key == "density_kg_m3")
    )
    if not readable or key in taken:
        ctx.read(column, UNREAD)
        second = f"; '{ctx.table.head(taken[key])}' is" if key in taken else ""
        ctx.note(ctx.head_row(), column, f"'{head}' is not read{second}")
        return
    unit = _unit(ctx, key, head, column, cells)
    if unit is None:
        ctx.read(column, UNREAD)
        return
    taken[key] = column
    values = [_value(ctx, r, column, e, key, unit) for r, e in zip(rows, cells)]
    test.columns[key] = values
    ctx.read(column, key, unit, sample=temperature_in(head, ctx.style))


def _unit(ctx: Context, key: str, head: str, column: int, cells: list[Entry]) -> str | None:
    """Return the unit of a column, None where the column cannot be read without one."""
    chosen = ctx.choice(column).unit
    if chosen:
        return chosen
    if key.split(".", maxsplit=1)[0] in SHARES:
        return _share_unit(ctx, key, head, column, cells)
    if key == "gas_volume_factor":
        words = folded(head).replace(" ", "")
        return next((u for u in GAS_FACTOR if u in words), "")
    if key in RATIOS:
        values = [e.value for e in cells if e.is_number]
        if re.search(r"%|percent", folded(head)) and values and max(values) > 2.5:
            return "%"
        return ""
    kind = "temperature" if key == "temperature" else "gas_oil_ratio" if key == "liberated" else kind_of_key(key)[0]
    bare = head if key == "temperature" else re.sub(TEMPERATURE, " ", head)
    unit = unit_in(bare, kind) or next((u for e in cells if (u := as_unit(e.unit, kind))), "")
    if not unit and kind == "gas_oil_ratio":
        unit = _by_footnote(ctx, head)
    if unit or not kind:
        return unit
    if kind == "density":
        values = [e.value for e in cells if e.is_number]
        words = folded(head)
        if "api" in words:
            return "degAPI"
        if values and (max(values) < 2.0 or min(values) > 200.0):
            unit = "g/cm**3" if max(values) < 2.0 else "kg/m**3"
            ctx.note(
                ctx.head_row(),
                column,
                f"'{head}' names no unit; its values are read as {'g/cm³' if max(values) < 2 else 'kg/m³'}",
                True,
            )
            return unit
    ctx.note(
        ctx.head_row(),
        column,
        f"'{head}': {key.replace('_', ' ').replace(' m3 m3', '')} needs its unit; write it in the header. The column is not read",
    )
    return None


_GAS_BY_OIL = (
    ("scf/bbl", r"(?:cubic f(?:ee|oo)t|cu\.? ?ft|scf)\b.*\bper\b.*\b(?:barrel|bbl|stb)"), ("sm3/m**3", r"(?:cubic met\w+|m3|sm3)\b.*\bper\b.*(?:cubic met\w+|m3|sm3)"),
)  # fmt: skip


def _by_footnote(ctx: Context, head: str) -> str:
    """Return the unit of a gas-oil ratio that a footnote of its header spells out."""
    for mark in re.findall(r"\((\d|[a-z]|\*+)\)", head):
        words = folded(ctx.footnotes.get(mark, ""))
        unit = next((u for u, pattern in _GAS_BY_OIL if re.search(pattern, words)), "")
        if unit:
            return unit
    return ""


def _share_unit(ctx: Context, key: str, head: str, column: int, cells: list[Entry]) -> str | None:
    words = folded(head)
    values = [e.value for e in cells if e.is_number]
    if re.search(r"%|percent|prozent|pourcent|porcent|\bpct\b", words) or any(e.unit.startswith("%") for e in cells):
        return "%"
    if key.startswith("gas."):
        basis = ctx.last("basis")
        if basis is not None and re.search(r"%|percent", folded(basis.text)):
            return "%"
        if values and max(values) > 1.0:
            ctx.note(
                ctx.head_row(),
                column,
                f"'{head}' names no unit; its values are above 1 and are read as mole percents",
                True,
            )
            return "%"
        others = [
            ctx.entry(r, j).value
            for r in ctx.table.body[:1]
            for j in ctx.table.columns
            if ctx.entry(r, j).is_number and named(ctx.table.head(j)) is not None
        ]
        return "%" if others and sum(others) > 2.0 else ""
    if values and max(values) > 1.0:
        ctx.note(
            ctx.head_row(), column, f"'{head}' names no unit; its values are above 1 and are read as percents", True
        )
        return "%"
    if not re.search(r"frac|np/n|/v|ratio|\bsl\b", words) and values and max(values) > 0.0:
        ctx.note(ctx.head_row(), column, f"'{head}' names no unit; its values are read as fractions", True)
    return ""


def _value(ctx: Context, row: Row, column: int, one: Entry, key: str, unit: str) -> Cell:
    if one.kind in ("empty", "absent") or ctx.doubt(row, column):
        return None
    if not one.is_number:
        ctx.note(row[0], column, f"'{one.text[:40]}' is no value of {key.replace('_', ' ')} and is not read")
        return None
    if key.split(".", maxsplit=1)[0] in SHARES or (key in RATIOS and unit == "%"):
        return float(f"{one.value / 100.0:.12g}") if unit == "%" or one.unit == "%" else one.value
    if key == "gas_volume_factor" and unit:
        return float(f"{one.value * GAS_FACTOR[unit]:.9g}")
    if key in RATIOS or key == "gas_volume_factor":
        return one.value
    kind = "temperature" if key == "temperature" else "gas_oil_ratio" if key == "liberated" else kind_of_key(key)[0]
    own = as_unit(one.unit, kind) if kind else ""
    return cell_of(one.value, own or unit)


def _liberated(ctx: Context, test: Test) -> None:
    """Turn gas liberated since saturation, cumulative, into gas still in solution, where that is not given too."""
    gas = test.columns.pop("liberated", None)
    if gas is None or "solution_gas_m3_m3" in test.columns:
        if gas is not None:
            ctx.note(
                ctx.head_row(),
                ctx.table.axis,
                "the gas liberated is not read; the gas in solution, which stands beside it, is",
            )
        return
    column = next(j for j in ctx.table.columns if _match("liberation", ctx.table.head(j)) == "liberated")
    numbers = [entry_of(str(c), "point").value for c in gas if c is not None]
    rising = (
        len(numbers) >= 2
        and all(b >= a for a, b in itertools.pairwise(numbers))
        and not re.search(r"increment|differential|per step", folded(ctx.table.head(column)))
    )
    if not rising or any(c is None for c in gas):
        ctx.note(
            ctx.head_row(),
            column,
            f"'{ctx.table.head(column)}' is gas liberated and no gas in solution; it is not read",
        )
        return
    unit = entry_of(str(gas[0]), "point").unit
    test.columns["solution_gas_m3_m3"] = [cell_of(float(f"{numbers[-1] - n:.10g}"), unit) for n in numbers]
    ctx.note(
        ctx.head_row(),
        column,
        f"'{ctx.table.head(column)}' is gas liberated; what is left in solution is the last value less it",
        True,
    )


def _of_total(ctx: Context, test: Test) -> None:
    """Bring liquid in percent of the volume at each pressure to the volume at saturation, by the relative volumes."""
    liquid = test.columns.get("liquid_volume_fraction")
    column = next((j for j in ctx.table.columns if _key(ctx, test.kind, j) == "liquid_volume_fraction"), None)
    if (
        liquid is None
        or column is None
        or not re.search(
            r"of (?:the )?total|at p\b|of (?:the )?(?:cell )?volume at p|of vt\b|/vt\b|vl/vt",
            folded(ctx.table.head(column)),
        )
    ):
        return
    volumes = test.columns.get("relative_volume")
    if volumes is None:
        del test.columns["liquid_volume_fraction"]
        ctx.note(
            ctx.head_row(),
            column,
            f"'{ctx.table.head(column)}' is of the volume at each pressure, and no relative volumes stand beside it; it is not read",
        )
        return
    test.columns["liquid_volume_fraction"] = [
        None if s is None or not isinstance(v, float) or not isinstance(s, float) else float(f"{s * v:.9g}")
        for s, v in zip(liquid, volumes)
    ]
    ctx.note(
        ctx.head_row(),
        column,
        f"'{ctx.table.head(column)}' is of the volume at each pressure; times the relative volume it is of that at saturation",
        True,
    )


def _side(ctx: Context, test: Test, row: Row, columns: list[int], axis: int) -> None:
    """Read a row below the steps that is none: a saturation pressure under its column, a residual density."""
    label = cell_at(row[1], axis).strip() or next((c.strip() for c in row[1] if c.strip()), "")
    for j in columns:
        text = cell_at(row[1], j).strip()
        if not text or not label or text == label:
            continue
        fact = labelled(label, text, cell_at(row[1], j + 1).strip(), ctx.style, row[0], j)
        if fact is not None and fact.what == "saturation":
            test.singles.setdefault("saturation.pressure_Pa", fact.value)
        elif fact is not None and fact.what == "residual_density" and test.kind == "liberation":
            test.singles.setdefault("residual_density_kg_m3", fact.value)
        elif fact is not None and fact.what == "temperature":
            test.temperature = test.temperature or fact.value
        elif entry_of(text, ctx.style).is_number:
            ctx.note(row[0], j, f"'{label[:40]}' with {text} is not read")


def _total(ctx: Context, test: Test, row: Row, heads: dict[int, str]) -> None:
    for j, key in heads.items():
        one = ctx.entry(row, j)
        if one.is_number and key == "gas_oil_ratio_m3_m3":
            unit = unit_in(ctx.table.head(j), "gas_oil_ratio")
            ctx.total = cell_of(one.value, unit)  # compared with the sum of the stages


def _conditions(ctx: Context, test: Test, temperature: str, marked: list[int]) -> None:
    """Complete a test by what the lines around it say, and find its saturation pressure."""
    test.temperature = temperature or test.temperature
    if test.temperature in (None, ""):
        fact = ctx.last("temperature")
        test.temperature = fact.value if fact is not None else None
    saturation = ctx.all("saturation")
    words = folded(" ".join([*ctx.titles, *[f.text for f in saturation]]))
    test.dew = test.dew or test.kind == "depletion" or bool(re.search(r"\bdew|rosee|rocio|taupunkt|condensate", words))
    singles = test.singles
    if test.kind in ("expansion", "depletion", "liberation") and "saturation.pressure_Pa" not in singles:
        inferred = _inferred(test)
        if marked:
            singles["saturation.pressure_Pa"] = test.columns["pressure"][marked[0]]
        elif saturation and saturation[-1].value and not saturation[-1].assumed:
            singles["saturation.pressure_Pa"] = saturation[-1].value
        elif inferred is not None:
            singles["saturation.pressure_Pa"] = inferred
            ctx.note(
                ctx.head_row(),
                ctx.table.axis,
                f"the saturation pressure is taken from the row where {'the relative volume is 1' if test.kind == 'expansion' else 'depletion begins'}: {inferred}",
                True,
            )
    for fact in saturation:
        if fact.assumed:
            ctx.note_fact(fact, f"'{fact.text[:50]}': a saturation pressure needs its unit, and is not read")
    if test.kind == "liberation":
        residual = ctx.last("residual_density")
        if residual is not None:
            singles.setdefault("residual_density_kg_m3", residual.value)
        factor = ctx.last("volume_factor")
        if factor is not None and re.search(r"bubble|satur|\bpb\b|bofb|bob", folded(factor.text)):
            singles["saturated_oil_volume_factor"] = float(factor.value)
    if test.kind == "separators":
        factor, api, ratio = ctx.last("volume_factor"), ctx.last("density"), ctx.last("gas_oil_ratio")
        if factor is not None:
            singles["oil_volume_factor"] = float(factor.value)
        if api is not None:
            if api.value.endswith("degAPI"):
                singles["api"] = entry_of(api.value, "point").value
            elif not api.assumed:
                singles["tank_density_kg_m3"] = api.value
        total = ctx.total or (
            ratio.value if ratio is not None and as_unit(entry_of(ratio.value, "point").unit, "gas_oil_ratio") else ""
        )
        if total:
            _check_total(ctx, test, total)
    gas = ctx.last("gas")
    test.gas = gas.value if gas is not None else ""


def _check_total(ctx: Context, test: Test, total: str) -> None:
    stages = test.columns.get("gas_oil_ratio_m3_m3", [])
    try:
        parts = sum(parse(str(c), "gas_oil_ratio") for c in stages if c is not None)
        whole = parse(total, "gas_oil_ratio")
    except QuantityError:
        return
    if abs(parts / whole - 1.0) > 0.02:
        ctx.note(
            ctx.head_row(),
            ctx.table.axis,
            f"the gas-oil ratios of the stages do not add up to the total of {total}",
            True,
        )


def _inferred(test: Test) -> Cell:
    pressures = test.columns["pressure"]
    if test.kind == "expansion":
        volumes = test.columns.get("relative_volume", [])
        return next((p for p, v in zip(pressures, volumes) if isinstance(v, float) and abs(v - 1.0) < 1e-9), None)
    if test.kind == "depletion":
        produced = test.columns.get("produced_mole_fraction") or test.columns.get("liquid_volume_fraction") or []
        return next((p for p, v in zip(pressures, produced) if v == 0.0), None)
    return None


# -- swelling -------------------------------------------------------------------------------------------------------------


def _swelling(ctx: Context) -> list[Test]:
    table = ctx.table
    columns = [table.axis, *table.columns]
    gas = next((j for j in columns if means(table.head(j), "injected") and not means(table.head(j), "pressure")), None)
    pressure = next(
        (
            j
            for j in columns
            if means(table.head(j), "pressure")
            or (means(table.head(j), "saturated") and unit_in(table.head(j), "pressure"))
        ),
        None,
    )
    if gas is None or pressure is None:
        return []
    head = table.head(gas)
    words = folded(head)
    mixture = re.search(
        r"mixture|of total|total|gemisch|melange|mezcla|%|percent|frac", words
    ) is not None and not re.search(
        r"per mol\w* (?:of )?(?:oil|original|fluid|res)|of (?:original|initial|reservoir) (?:oil|fluid)", words
    )
    if unit_in(head, "gas_oil_ratio") and "mol" not in words:
        ctx.read(gas, UNREAD)
        ctx.note(
            ctx.head_row(),
            gas,
            f"'{head}' is a volume of gas; the moles it is of cannot be told without the oil's molar volume, so the test is not read. Write mol of gas per mol of oil",
        )
        return []
    rows = [r for r in table.body if ctx.entry(r, gas).is_number]
    values = [ctx.entry(r, gas).value for r in rows]
    percent = re.search(r"%|percent|prozent", words) is not None or (mixture and max(values, default=0.0) > 1.0)
    moles: list[Cell] = []
    for value in values:
        share = value / 100.0 if percent else value
        moles.append(float(f"{share / (1.0 - share):.8g}") if mixture and share < 1.0 else float(f"{share:.10g}"))
    ctx.read(gas, "gas of the mixture" if mixture else "gas per mole of fluid", "%" if percent else "mol/mol")
    if mixture:
        ctx.note(
            ctx.head_row(), gas, f"'{head}' is of the mixture; x/(1 - x) moles of gas a mole of fluid are taken", True
        )
    elif not re.search(r"per|/|mol", words):
        ctx.note(ctx.head_row(), gas, f"'{head}' is read as moles of gas a mole of fluid", True)
    test = Test("swelling", ctx.titles[-1] if ctx.titles else "")
    unit = ctx.choice(pressure).unit or unit_in(table.head(pressure), "pressure")
    if not unit:
        ctx.note(
            ctx.head_row(),
            pressure,
            "pressure needs its unit; write it in the header, for example Saturation pressure (psia)",
        )
        return []
    ctx.read(pressure, "saturation_pressure_Pa", unit)
    test.columns = {"gas_moles": moles, "pressure": [""] * len(rows)}
    test.columns["saturation_pressure_Pa"] = [
        _value(ctx, r, pressure, ctx.entry(r, pressure), "saturation_pressure_Pa", unit) for r in rows
    ]
    taken: dict[str, int] = {}
    for j in columns:
        if j not in (gas, pressure):
            _column(ctx, test, "swelling", j, _match("swelling", table.head(j)), rows, taken)
    _conditions(ctx, test, "", [])
    del test.columns["pressure"]
    return [test]


def with_temperature(tests: Sequence[Test]) -> list[Test]:
    """Return tests with a temperature where one of the same report has one."""
    known = next((t.temperature for t in tests if t.temperature), None)
    return [t if t.temperature else replace(t, temperature=known) for t in tests]
