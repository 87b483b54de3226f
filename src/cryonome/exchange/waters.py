"""Tables of ions: water analyses to brines."""

from __future__ import annotations

import re

from .brines import Brine, brine_of, ion_of
from .context import Context
from .entries import folded
from .found import UNREAD
from .raw import cell_at

_UNIT = re.compile(
    r"(?P<litre>mg ?/ ?(?:l\b|dm3|lit)|g ?/ ?(?:l\b|dm3))|(?P<kilo>mg ?/ ?kg|ppm|g ?/ ?kg)|(?P<charge>meq)"
)


def read_waters(ctx: Context) -> list[Brine]:
    """Return a brine for each column of concentrations."""
    table = ctx.table
    ctx.read(table.axis, "ion")
    units = next(
        (
            j
            for j in table.columns
            if sum(bool(_UNIT.search(folded(cell_at(c, j)))) for _, c in table.body) >= 0.6 * len(table.body)
        ),
        None,
    )
    numeric = [j for j in table.columns if j != units and sum(ctx.entry(r, j).is_number for r in table.body) >= 2]
    shown = {j: _UNIT.search(folded(table.head(j))) for j in numeric}
    known = [j for j in numeric if (found := shown[j]) is not None and not found["charge"]] or [
        j for j in numeric if shown[j] is None
    ][:1]
    out: list[Brine] = []
    for j in numeric:
        if j not in known or ctx.choice(j).meaning == UNREAD:
            ctx.read(j, UNREAD)
            ctx.note(ctx.head_row(), j, f"'{table.head(j)}' is not read")
            continue
        text = (
            folded(table.head(j))
            + " "
            + " ".join(folded(t) for t in ctx.titles[-2:])
            + (" " + folded(cell_at(table.body[0][1], units)) if units is not None else "")
        )
        found = _UNIT.search(text)
        litre = found is not None and found["litre"] is not None
        if found is None:
            litre = True
            ctx.note(ctx.head_row(), j, "nothing says in which unit the ions are; mg/L is assumed", True)
        unit = found.group().replace(" ", "") if found is not None else "mg/L"
        thousand = 1000.0 if unit.startswith("g/") else 1.0
        ions: dict[str, float] = {}
        for row in table.body:
            one = ctx.entry(row, j)
            ion = ion_of(cell_at(row[1], table.axis))
            if ion is not None and one.is_number and not ctx.doubt(row, j):
                ions[ion] = ions.get(ion, 0.0) + thousand * one.value
            elif one.kind in ("below", "absent"):
                ctx.note(row[0], j, f"{cell_at(row[1], table.axis)}: '{one.text}' is read as none", True)
        if not ions:
            continue
        title = table.groups.get(j, "") or (
            table.heads[j][0]
            if len(known) > 1 and table.heads.get(j) and not _UNIT.search(folded(table.heads[j][0]))
            else ""
        )
        brine = brine_of(title, ions, litre)
        ctx.read(j, "concentration", unit, assumed=found is None, sample=title)
        out.append(brine)
        salts = ", ".join(f"{name} {share:g} wt%" for name, share in brine.salts)
        ctx.note(
            ctx.head_row(),
            j,
            f"the ions are read as {salts}; of the same ionic strength is {brine.molality:g} mol NaCl per kg of water",
            True,
        )
        if brine.unbalanced > 0.05:
            ctx.note(
                ctx.head_row(), j, f"the charges of the ions do not balance: {100 * brine.unbalanced:.0f} % off", True
            )
    for row in table.sides:
        label = cell_at(row[1], table.axis).strip()
        value = next((ctx.entry(row, j) for j in known if ctx.entry(row, j).is_number), None)
        solids = re.search(r"\btds\b|dissolved solids|abdampf|solidos|solides|total", folded(label)) is not None
        if value is None:
            continue
        if solids and out and abs(value.value / max(out[0].solids, 1e-9) - 1.0) > 0.05:
            ctx.note(
                row[0],
                table.axis,
                f"'{label}' with {value.text} is not what the ions add up to, {out[0].solids:.6g}",
                True,
            )
        elif not solids:
            ctx.note(row[0], table.axis, f"'{label}' with {value.text} is not read")
    return out
