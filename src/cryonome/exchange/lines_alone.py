"""What a sheet says in lines alone: a boiling curve of one point a line, and saturation pressures in sentences."""

from __future__ import annotations

import re
from dataclasses import dataclass

from .context import Context
from .entries import Style, entry_of, folded
from .fact import Fact
from .found import Block, Choices, Test
from .gathered import Gathered, sample_of, take
from .raw import Layout, Raw
from .words import method_of


@dataclass
class Lines:
    """The lines of a sheet with what they say; facts that are ``used`` are taken by a table."""

    sheet: str
    name: str
    style: Style
    layout: Layout
    facts: dict[int, list[Fact]]
    used: set[Fact]
    choices: Choices


def curve_of_lines(lines: Lines) -> Block | None:
    """Return a boiling curve whose points are lines of their own: Distillation 10 % | 205."""
    facts = [f for own in lines.facts.values() for f in own]
    points = [f for f in facts if f.what == "point" and f.at and f.value[-1:].isalpha()]
    ends = [f for f in facts if f.what in ("initial", "final") and f.value[-1:].isalpha()]
    if len(points) < 3:
        return None
    table = Raw(
        "points",
        0,
        [1],
        {0: [], 1: []},
        {},
        [(f.row, ["", ""]) for f in points],
        [],
        False,
        points[0].row,
        points[-1].row,
    )
    ctx = Context(lines.sheet, lines.style, table, facts, [], lines.choices, lines.name)
    one = Gathered()
    one.points = [(entry_of(f.at, lines.style or "point").value, f.value) for f in points]
    one.points += [(0.0 if f.what == "initial" else 100.0, f.value) for f in ends]
    said = next((method_of(" ".join(c)) for _, c in lines.layout.lines if method_of(" ".join(c))), "")
    one.method = said or ("D86" if any("recover" in folded(f.text) for f in facts) or len(ends) == 2 else "TBP")
    if not said:
        ctx.note(points[0].row, 0, f"no method is named; the curve is read as {one.method}", True)
    for what in ("density", "molar_mass", "watson_k", "loss", "residue", "recovery", "viscosity", "pressure"):
        for fact in ctx.all(what):
            take(ctx, one, fact)
    lines.used |= {*points, *ends} | ctx.used
    name = next((f.value for f in facts if f.what == "name"), lines.name)
    rows = [f.row for f in points]
    place = f"rows {min(rows) + 1} to {max(rows) + 1}"
    return Block(
        lines.sheet,
        "boiling curve",
        "",
        place,
        samples=(sample_of(one, name),),
        notes=tuple(ctx.notes),
        key=(lines.sheet, min(rows), 0),
    )


def saturations_of_lines(lines: Lines) -> list[Block]:
    """Return saturation pressures that stand in lines with their temperature, where no test takes them."""
    tests: list[Test] = []
    rows: list[int] = []
    for number, facts in lines.facts.items():
        pressure = [f for f in facts if f.what == "saturation" and f not in lines.used and f.value[-1:].isalpha()]
        temperature = [f for f in facts if f.what == "temperature"]
        if pressure and temperature:
            dew = any(re.search(r"dew|\bpd\b|rosee|rocio|tau", folded(f.text)) for f in pressure)
            tests.append(Test("saturation", "", temperature[0].value, {"pressure": pressure[0].value}, dew=dew))
            rows.append(number)
            lines.used |= {*pressure, *temperature}
    if not tests:
        return []
    place = f"rows {min(rows) + 1} to {max(rows) + 1}"
    return [Block(lines.sheet, "saturation", "", place, tests=tuple(tests), key=(lines.sheet, min(rows), 0))]
