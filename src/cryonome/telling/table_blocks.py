"""Property tables and sweeps as tables in the reader's units."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..document.conditions import CONDITIONS
from ..units import Numeral, format_number, from_si, label
from ..units.endings import kind_of_key, without_unit
from .sentences import Units


@dataclass(frozen=True)
class Block:
    """A table of an answer: its title, (name, unit) of every column, the rows as text, and the ``paths`` in the
    answer of their numbers, "" where a cell is none."""

    title: str
    columns: list[tuple[str, str]]
    rows: list[list[str]]
    paths: list[list[str]] = field(default_factory=list)


def told(value: float, digits: int = 5) -> str:
    """Return a number with so many digits; a round one without the zeros that say nothing."""
    text = format_number(value, digits)
    if "." in text and "e" not in text and abs(float(text.replace("−", "-")) - value) <= 1e-9 * abs(value):
        return Numeral(text.rstrip("0").rstrip("."), value)
    return text


@dataclass(frozen=True)
class Shown:
    """How the values of one key are shown: their name, unit, kind, and the factor to SI."""

    name: str
    unit: str
    kind: str
    factor: float = 1.0

    def text(self, value: float | None) -> str:
        """Return a value of the answer; nothing where there is none."""
        if value is None:
            return ""
        return told(self.plain(value))

    def short(self, value: float) -> str:
        """Return a value of the answer as a sentence says it."""
        return format_number(self.plain(value), 4)

    def plain(self, value: float) -> float:
        """Return a value of the answer in the unit it is shown in."""
        return from_si(value * self.factor, self.unit, self.kind) if self.kind else value

    def exact(self, value: float) -> str:
        """Return a value that was chosen, without digits that mean nothing."""
        return f"{from_si(value * self.factor, self.unit, self.kind) if self.kind else value:.6g}".replace("-", "−")

    @property
    def head(self) -> tuple[str, str]:
        """Name and unit of a column."""
        return self.name, label(self.unit) if self.unit else ""


def of_key(key: str, units: Units) -> Shown:
    """Return how a property is shown, by its key in an answer: ``vapour.density_kg_m3`` is the vapour's density."""
    kind, factor = kind_of_key(key)
    name = without_unit(key).removeprefix("phases.").replace(".", " ").replace("_", " ")
    return Shown(name, units.of_value(key, kind) if kind else "", kind, factor)


def of_kind(name: str, kind: str, units: Units) -> Shown:
    """Return how values in SI of a kind are shown; fractions and plain numbers have no unit."""
    kind = "" if kind == "fraction" else kind
    return Shown(name, units.unit(kind) if kind else "", kind)


def of_input(path: str, kind: str, units: Units) -> Shown:
    """Return how an input is shown, by its path and what it measures; a plain number of a condition measures what
    that does."""
    name = re.sub(r"\[[^\]]*\]", "", path).rpartition(".")[2]
    own = CONDITIONS.get(name)
    return of_kind(own.title if own else name.replace("_", " "), kind or (own.kind if own else ""), units)


def axes_of(answer: Mapping[str, Any], units: Units) -> list[Shown]:
    """Return how the axes of a table's answer are shown."""
    return [
        of_kind(CONDITIONS[key].title, kind, units)
        for key, kind in zip(answer["variables"], answer["axis_kinds"], strict=True)
    ]


def inputs_of(answer: Mapping[str, Any], units: Units) -> list[Shown]:
    """Return how the inputs of a sweep's answer are shown."""
    return [of_input(path, kind, units) for path, kind in zip(answer["varied"], answer["varied_kinds"], strict=True)]


def varied_of(row: Mapping[str, Any]) -> list[float]:
    """Return the values of the inputs of a sweep's row, of one as of two."""
    return row["vary"] if isinstance(row["vary"], list) else [row["vary"]]


def property_blocks(answer: dict[str, Any], units: Units) -> list[Block]:
    """Return a property table: of one axis as columns, of two a table for each property."""
    units = units.of_states()
    axes = axes_of(answer, units)
    columns = {key: of_key(key, units) for key in answer["properties"]}
    first = answer["axes"][0]
    if len(axes) == 1:
        rows = [
            [axes[0].exact(value), *(shown.text(answer["properties"][key][i]) for key, shown in columns.items())]
            for i, value in enumerate(first)
        ]
        return [Block("", [axes[0].head, *(s.head for s in columns.values())], rows)]
    blocks = []
    for key, shown in columns.items():
        name, unit = shown.head
        across = [(axes[1].exact(v), "") for v in answer["axes"][1]]
        corner = f"{axes[0].name} \\ {axes[1].name}", " \\ ".join(a.head[1] for a in axes)
        rows = [
            [axes[0].exact(v), *(shown.text(cell) for cell in line)]
            for v, line in zip(first, answer["properties"][key])
        ]
        blocks.append(Block(f"{name}, {unit}" if unit else name, [corner, *across], rows))
    return blocks


def sweep_block(answer: dict[str, Any], units: Units) -> Block:
    """Return a sweep as a table: what was varied, what was read, and what went wrong."""
    units = units.of_states()
    varied, read = inputs_of(answer, units), [of_key(path, units) for path in answer["paths"]]
    rows = []
    for row in answer["rows"]:
        cells = [s.exact(v) for s, v in zip(varied, varied_of(row))] + [s.text(v) for s, v in zip(read, row["read"])]
        rows.append([*cells, row.get("error", "")])
    failed = any(row[-1] for row in rows)
    heads = [*(s.head for s in varied), *(s.head for s in read)]
    return Block("", [*heads, ("why not", "")] if failed else heads, rows if failed else [r[:-1] for r in rows])


def reference_block(answer: dict[str, Any], units: Units) -> Block:
    """Return ours beside theirs, value by value, with the deviations; the worst is marked and the conditions stand
    beside rows."""
    units = units.of_states()
    rows = answer["reference"]
    relative = [abs(r["relative"]) for r in rows if r["relative"] is not None]
    worst = max(relative, default=0.0)
    told, place = [], _places(answer, units)
    for r in rows:
        key, where = place(r["path"])
        shown = of_key(key, units)
        off = r["absolute"]
        difference = "" if off is None else format_number(shown.plain(r["ours"]) - shown.plain(r["theirs"]), 4)
        share = "" if r["relative"] is None else format_number(100.0 * r["relative"], 3)
        mark = "worst" if worst > 0.0 and r["relative"] is not None and abs(r["relative"]) == worst else ""
        told.append(
            [
                f"{shown.name}{where}",
                shown.text(r["ours"]),
                shown.text(r["theirs"]),
                shown.head[1],
                difference,
                share,
                r.get("error", "of another state" if r.get("other_state") else mark),
            ]
        )
    heads = [
        ("value", ""),
        ("ours", ""),
        ("theirs", ""),
        ("unit", ""),
        ("ours − theirs", ""),
        ("off by", "%"),
        ("", ""),
    ]
    return Block("Beside values from elsewhere", heads, told)


def _places(answer: Mapping[str, Any], units: Units) -> Callable[[str], tuple[str, str]]:
    """Return what tells the key of a reference's path, and where it stands in words: the conditions of a row of a
    sweep or a table."""
    if "paths" in answer and "rows" in answer:
        shown = inputs_of(answer, units)

        def of_row(path: str) -> tuple[str, str]:
            found = re.match(r"rows\[(\d+)\]\.read\[(\d+)\]$", path)
            if found is None or int(found.group(1)) >= len(answer["rows"]):
                return path, ""
            return answer["paths"][int(found.group(2))], _at(shown, varied_of(answer["rows"][int(found.group(1))]))

        return of_row
    if "axes" in answer:
        axes = axes_of(answer, units)

        def of_cell(path: str) -> tuple[str, str]:
            found = re.match(r"properties\.(.+?)((?:\[\d+\])+)$", path)
            places = [int(i) for i in re.findall(r"\d+", found.group(2))] if found is not None else []
            if found is None or any(i >= len(a) for a, i in zip(answer["axes"], places)):
                return path, ""
            return found.group(1), _at(axes, [a[i] for a, i in zip(answer["axes"], places)])

        return of_cell
    return lambda path: (path, "")


def _at(shown: Sequence[Shown], values: Sequence[float]) -> str:
    return " at " + ", ".join(f"{s.exact(v)} {s.head[1]}".strip() for s, v in zip(shown, values))


def goal_block(answer: dict[str, Any], units: Units) -> Block:
    """Return what a goal found: the input, what is reached, and what else reaches it."""
    units = units.of_states()
    varied, read = of_input(answer["varied"], answer["varied_kind"], units), of_key(answer["path"], units)
    rows = [
        [varied.name, varied.text(answer["value"]), varied.head[1]],
        [read.name, read.text(answer["reached"]), read.head[1]],
    ]
    rows += [["also reached at", varied.text(v), varied.head[1]] for v in answer["others"]]
    return Block("", [("", ""), ("", ""), ("", "")], rows)


def hydrate_blocks(answer: dict[str, Any], units: Units) -> list[Block]:
    """Return hydrate limits with a row a condition asked and a column a structure; the first to form is named, with
    the water of the vapour there."""
    units = units.of_states()
    points = answer["points"]
    by_T = all(p["hydrate_side"] in ("above", "below") for p in points)
    asked, found = ("temperature_K", "pressure_Pa") if by_T else ("pressure_Pa", "temperature_K")
    at, value = of_key(asked, units), of_key(found, units)
    structures = sorted(
        {p["structure"] for p in points}, key=lambda s: -sum(p["stable"] for p in points if p["structure"] == s)
    )
    ice = {i["pressure_Pa"]: i["temperature_K"] for i in answer.get("ice", ())}
    rows, paths = [], []
    for condition in dict.fromkeys(p[asked] for p in points):
        own = [(i, p) for i, p in enumerate(points) if p[asked] == condition]
        depth = max(sum(p["structure"] == s for _, p in own) for s in structures)
        for level in range(depth):
            cells, places = [f"{at.plain(condition):.4g}".replace("-", "−")], [f"points[{own[0][0]}].{asked}"]
            for s in structures:
                of_s = [(i, p) for i, p in own if p["structure"] == s]
                there = level < len(of_s)
                cells.append(_limit(value, of_s[level][1], found) if there else "")
                places.append(f"points[{of_s[level][0]}].{found}" if there else "")
            i, first = next(((i, p) for i, p in own if p["stable"]), own[0])
            cells += [first["structure"], f"{1e6 * first['vapour_water_mole_fraction']:.4g}"] if not level else ["", ""]
            places += ["", f"points[{i}].vapour_water_mole_fraction" if not level else ""]
            if ice:
                frozen = ice.get(condition)
                cells.append("" if frozen is None or level else _short(of_key("temperature_K", units).plain(frozen)))
                places.append("")
            rows.append(cells)
            paths.append(places)
    heads = [at.head, *((s, value.head[1]) for s in structures), ("first", ""), ("water held", "ppm mol")]
    if ice:
        heads.append(("ice", of_key("temperature_K", units).head[1]))
    return [Block("", heads, rows, paths)]


def _limit(shown: Shown, point: Mapping[str, Any], key: str) -> str:
    """Return a limit, marked where the hydrate is on its other side."""
    told = _short(shown.plain(point[key])) if key == "temperature_K" else shown.short(point[key])
    mark = {"warmer": " from", "below": " up"}.get(point["hydrate_side"], "")
    return f"{told}{mark}"


def _short(value: float) -> str:
    """Return a temperature to a hundredth, as limits are told."""
    return f"{value:.2f}".replace("-", "−")
