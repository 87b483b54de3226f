"""Columns beside the temperatures of a boiling curve: densities, molar masses, viscosities, amounts such as sulphur."""

from __future__ import annotations

import re

from ..document.field_types import Cell
from .context import Context
from .entries import folded
from .fact import cell_of
from .found import UNREAD
from .gathered import Gathered
from .raw import cell_at
from .sentences import temperature_in
from .words import TEMPERATURE, as_unit, basis_of, means, unit_in


def read_property(ctx: Context, column: int, percents: list[float | None], one: Gathered) -> None:
    head = ctx.table.head(column)
    chosen = ctx.choice(column)
    meaning = chosen.meaning or (
        "density"
        if means(head, "density")
        else "molar mass"
        if means(head, "molar_mass")
        else "viscosity"
        if means(head, "viscosity")
        else ""
    )
    texts = [cell_at(c, column) for _, c in ctx.table.body if cell_at(c, column).strip()]
    if texts and all(as_unit(t, "temperature") for t in texts):
        ctx.read(column, "unit of the row")
        return
    if not any(ctx.entry(r, column).is_number for r in ctx.table.body) or meaning == UNREAD:
        if head or meaning == UNREAD:
            ctx.read(column, UNREAD)
        for row in ctx.table.body if not meaning else ():
            text = cell_at(row[1], column).strip()
            if text and (not head or re.search(r"\d", text)):
                ctx.note(row[0], column, f"'{text[:40]}' is not read")
        return
    if not head and not meaning:
        ctx.read(column, UNREAD)
        ctx.note(ctx.head_row(), column, "a column without a header is not read")
        return
    if (
        not meaning
        and (means(head, "cumulative") or re.search(r"distill|recover|evapor", folded(head)))
        and (basis_of(head) or "%" in head)
    ):
        ctx.read(column, UNREAD)
        ctx.note(
            ctx.head_row(),
            column,
            f"'{head}' is a second column of percents and is not read; '{ctx.table.head(ctx.table.axis)}' is",
        )
        return
    key, unit, assumed = quantity_column(ctx, column, head, meaning, one)
    if not key:
        ctx.read(column, UNREAD)
        return
    if _of_cuts(ctx, head):
        percents = _middles(percents)
        ctx.note(
            ctx.head_row(),
            column,
            f"'{head}' is of the cut that ends at each row; its values stand at the middles of the cuts",
            True,
        )
    kind = {"density": "density", "molar mass": "molar_mass"}.get(meaning, "")
    points: list[tuple[Cell, Cell]] = []
    for row, percent in zip(ctx.table.body, percents):
        e = ctx.entry(row, column)
        if e.is_number and percent is not None and not ctx.doubt(row, column):
            own = as_unit(e.unit, kind) if kind and e.unit else ""
            points.append(
                (percent, cell_of(e.value, own or unit) if unit and not key.startswith("quantity") else e.value)
            )
    one.curves[key] = points
    ctx.read(column, meaning or "quantity", unit, assumed=assumed)


def _of_cuts(ctx: Context, head: str) -> bool:
    """Tell whether a property is that of the cut between two rows rather than of the point."""
    return re.search(
        r"of (?:the )?cut|\bcut (?:dens|sg|api|grav)|per cut|fraction (?:dens|sg)|of (?:the )?fraction|der fraktion|de la coupe",
        folded(head),
    ) is not None and not means(ctx.table.head(ctx.table.axis), "mid")


def _middles(percents: list[float | None]) -> list[float | None]:
    """Return the middles between each percent and the one before it, the first from nothing."""
    out: list[float | None] = []
    before = 0.0
    for percent in percents:
        out.append(None if percent is None else float(f"{0.5 * (before + percent):.10g}"))
        before = before if percent is None else percent
    return out


def quantity_column(ctx: Context, column: int, head: str, meaning: str, one: Gathered) -> tuple[str, str, bool]:
    """Return where a property column goes, its unit, and whether that is assumed; "" where it is not read."""
    bare = re.sub(TEMPERATURE, " ", head)
    chosen = ctx.choice(column).unit
    if meaning == "density":
        unit = chosen or unit_in(bare, "density")
        words = folded(head)
        if not unit:
            values = [ctx.entry(r, column).value for r in ctx.table.body if ctx.entry(r, column).is_number]
            if "api" in words:
                unit = "degAPI"
            elif re.search(r"specific|\bs\.?g\b|sp\.? ?gr|relative", words):
                unit = "SG"
            else:
                unit = "kg/m**3" if max(values) > 150 else "g/cm**3"
                ctx.note(
                    ctx.head_row(),
                    column,
                    f"'{head}' names no unit; bare numbers are read as {'kg/m³' if unit == 'kg/m**3' else 'g/cm³'}",
                    True,
                )
                return "density", unit, True
        return "density", unit, False
    if meaning == "molar mass":
        return "molar_mass", chosen or unit_in(bare, "molar_mass") or "g/mol", False
    if meaning == "viscosity":
        unit = chosen or unit_in(bare, "kinematic_viscosity", "dynamic_viscosity")
        at = temperature_in(head, "point")
        if not unit:
            unit = "cSt"
            ctx.note(ctx.head_row(), column, f"'{head}' names no unit; bare numbers are read as cSt", True)
        if not at:
            at = "40 degC"
            ctx.note(ctx.head_row(), column, f"'{head}' names no temperature; it is taken as at 40 °C", True)
        return f"viscosity {at}", unit, not at
    inside = re.search(r"[(\[]([^()\[\]]*)[)\]]\s*$", head)
    unit = inside.group(1).strip() if inside else ""
    name = head[: inside.start()].strip() if inside else head
    told = re.search(r",?\s+(wt\.? ?%|mass ?%|vol\.? ?%|mol ?%|% ?m/m|ppm\w*|mg/kg|%)$", name, re.IGNORECASE)
    if not unit and told:
        unit, name = told.group(1), name[: told.start()].strip(" ,")
    assumed = not unit
    if assumed:
        unit = "mass%"
        ctx.note(ctx.head_row(), column, f"'{head}' is read as a quantity in mass%", True)
    one.units[name] = {"% m/m": "mass%", "%": "mass%"}.get(unit.casefold(), unit)
    return f"quantity {name}", one.units[name], assumed
