"""What belongs to a laboratory test beside its columns: conditions, saturation pressure, values of the whole, and
what is brought to another reference."""

from __future__ import annotations

import itertools
import re

from ..document.field_types import Cell
from ..units import QuantityError, parse
from .context import Context
from .entries import entry_of, folded
from .fact import cell_of
from .facts import labelled
from .found import Test
from .raw import cell_at
from .report_words import key_of_column, match_key
from .rows import Row
from .words import as_unit, unit_in


def liberated(ctx: Context, test: Test) -> None:
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
    column = next(j for j in ctx.table.columns if match_key("liberation", ctx.table.head(j)) == "liberated")
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


def of_total(ctx: Context, test: Test) -> None:
    """Bring liquid in percent of the volume at each pressure to the volume at saturation, by the relative volumes."""
    liquid = test.columns.get("liquid_volume_fraction")
    column = next((j for j in ctx.table.columns if key_of_column(ctx, test.kind, j) == "liquid_volume_fraction"), None)
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


def side(ctx: Context, test: Test, row: Row, columns: list[int], axis: int) -> None:
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
        elif fact is not None and fact.what == "volume_factor" and test.kind == "separators":
            test.singles.setdefault("oil_volume_factor", float(fact.value))
        elif fact is not None and fact.what == "density" and test.kind == "separators" and not fact.assumed:
            _tank(test, fact.value)
        elif fact is not None and fact.what == "temperature":
            test.temperature = test.temperature or fact.value
        elif entry_of(text, ctx.style).is_number:
            ctx.note(row[0], j, f"'{label[:40]}' with {text} is not read")


def _tank(test: Test, density: str) -> None:
    """Give a separator test the density of its stock-tank oil, in degrees API where it is told in those."""
    if density.endswith("degAPI"):
        test.singles.setdefault("api", entry_of(density, "point").value)
    else:
        test.singles.setdefault("tank_density_kg_m3", density)


def total(ctx: Context, test: Test, row: Row, heads: dict[int, str]) -> None:
    for j, key in heads.items():
        one = ctx.entry(row, j)
        if one.is_number and key == "gas_oil_ratio_m3_m3":
            unit = unit_in(ctx.table.head(j), "gas_oil_ratio")
            ctx.total = cell_of(one.value, unit)  # compared with the sum of the stages


def conditions(ctx: Context, test: Test, temperature: str, marked: list[int]) -> None:
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
        if api is not None and (api.value.endswith("degAPI") or not api.assumed):
            _tank(test, api.value)
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
