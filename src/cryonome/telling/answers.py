"""Answers as tables in words and in the reader's units, for the question's page and the report.

An answer is plain data whose keys end in their SI unit. Nothing here knows a kind of study: keys become words, values
are converted by the ending of their key, and a list becomes a table, with its items side by side where they are few.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeGuard

from ..units import format_number, from_si, label
from ..units.endings import kind_of_key, without_unit
from .measured_tables import checks_block, is_measured, measured_block
from .point_tables import MARKS, columns_of, marks_of, tables_of
from .sentences import Units
from .spread_words import spread_blocks
from .step_tables import chain_blocks
from .table_blocks import Block, goal_block, hydrate_blocks, property_blocks, reference_block, sweep_block, told

BEYOND = "beyond the method"
"""Told for a number that no method stands behind."""

PARTS = ("fluid", "tuned")
"""Keys of an answer that hold a part of a document, for documents and not for the eye."""

NAMED = frozenset({"composition", "incipient", "fugacity_coefficient", "fugacity_Pa"})
"""Keys under which values stand by the name of a component."""

WORDS = {
    "nbp": "boiling point", "Tc": "critical temperature", "Pc": "critical pressure", "Vc": "critical volume",
    "omega": "acentric factor", "api": "gravity, °API", "watson_k": "Watson K", "Z": "compressibility factor Z",
    "incipient": "new phase, mole fraction", "composition": "composition, mole fraction", "light_end": "light end",
    "kind": "kind", "points": "points", "fraction": "mole fraction", "vapour_fraction": "vapour fraction, mole",
}  # fmt: skip
"""Keys and values whose words are not their own letters."""

SIDE_BY_SIDE = 4
"""Items of a list up to this number stand side by side as columns; more of them one below the other."""


@dataclass(frozen=True)
class _Line:
    """One value of an item: its words, its unit, its text and, of a number, its path in the answer; ``group`` is what
    it is of where several things are told by the same words, as of each component."""

    words: str
    unit: str
    text: str
    path: str = ""
    group: str = ""

    @property
    def key(self) -> tuple[str, str, str]:
        """What it is told apart by."""
        return self.group, self.words, self.unit


def words(key: str) -> str:
    """Return a key in words, without its unit."""
    plain_key = without_unit(key)
    return WORDS.get(plain_key, plain_key.replace("_", " "))


def tables(answer: dict[str, Any], units: Units) -> list[Block]:
    """Return an answer as tables in the reader's units, without ``ok``, ``notes`` and ``error``."""
    if {"streams", "steps", "recycles"} <= answer.keys():
        return chain_blocks(answer, units)
    shown = {k: v for k, v in answer.items() if k not in ("ok", "notes", "error", "reference", *PARTS)}
    beside = [reference_block(answer, units)] if answer.get("reference") else []
    first: list[Block] = []
    if "variables" in shown and "properties" in shown:
        first = property_blocks(shown, units)
        shown = {k: _formula(v) for k, v in shown.items() if k == "compact"}
    elif "varied" in shown and "rows" in shown:
        first, shown = [sweep_block(shown, units)], {}
    elif "reads" in shown and "shares" in shown:
        return [*beside, *spread_blocks(answer, units)]
    elif "reached" in shown and "answer" in shown:
        inner = shown.pop("answer")
        return [goal_block(shown, units), *beside, *tables(inner, units)]
    elif "cricondentherm" in shown and "lines" in shown:
        marks = marks_of(shown)
        first = [marks.block(units, " ")] if marks is not None and marks.rows else []
        shown = {k: v for k, v in shown.items() if k not in MARKS}
    elif shown.get("points") and "structure" in shown["points"][0]:
        first = hydrate_blocks(shown, units)
        shown = {k: v for k, v in shown.items() if k in ("quadruple_points", "filled cages")}
    last: list[Block] = []
    if shown.get("checks"):
        last.append(checks_block(shown))
    if is_measured(shown):
        last.append(measured_block(shown, units))
        shown = {k: v for k, v in shown.items() if k not in ("measured", "checks")}
    return beside + first + _Teller(units).blocks("", shown) + last


def _formula(compact: dict[str, Any]) -> dict[str, Any]:
    """Return what is to be read of a formula; what it consists of is for programs."""
    return {
        "property": compact["property"],
        "average error, %": 100.0 * compact["average_error"],
        "worst error, %": 100.0 * compact["worst_error"],
        "coefficients": sum(len(row) for row in compact["coefficients"]),
    }


def _is_items(value: Any) -> TypeGuard[list[dict[str, Any]]]:
    return isinstance(value, (list, tuple)) and bool(value) and all(isinstance(v, dict) for v in value)


def _is_lists(value: Any) -> bool:
    return isinstance(value, (list, tuple)) and bool(value) and all(isinstance(v, (list, tuple)) for v in value)


class _Teller:
    """Writes values in the reader's units."""

    def __init__(self, units: Units) -> None:
        self._units = units.of_states()

    def blocks(self, title: str, branch: dict[str, Any], path: str = "") -> list[Block]:
        """Return the tables of a branch, which stands at a ``path``: its own values first, then what lies below."""
        own: list[_Line] = []
        below: list[Block] = []
        for key, value in branch.items():
            inner = f"{title}, {words(key)}" if title else words(key)
            here = f"{path}.{key}" if path else key
            if isinstance(value, dict) and key not in NAMED and columns_of(value):
                below += [t.block(self._units) for t in tables_of(inner, [value])]
            elif isinstance(value, dict) and key not in NAMED and any(isinstance(v, dict) for v in value.values()):
                plain = {n: part for n, part in value.items() if not isinstance(part, dict)}
                below += self.blocks(inner, plain, here) if plain else []
                for name, part in value.items():
                    if isinstance(part, dict):
                        below += self.blocks(f"{inner}, {name}", part, f"{here}.{name}")
            elif isinstance(value, dict) and key not in NAMED:
                below += self.blocks(inner, value, here)
            elif _is_items(value) and any(columns_of(item) for item in value):
                below += [t.block(self._units) for t in tables_of(inner, value)]
            elif _is_items(value) and not self._with_conditions(value):
                below.append(self._items(inner, value, here))
            elif _is_lists(value) and key != "points":
                rows = [[f"{v:.3f}" if isinstance(v, float) else str(v) for v in row] for row in value]
                below.append(Block(inner, [("", "")] * max(map(len, rows)), rows))
            elif _is_lists(value):
                unit = self._units.unit("temperature")
                columns = [("percent", ""), ("temperature", label(unit))]
                rows = [
                    [f"{p:g}", BEYOND if t is None else format_number(from_si(t, unit, "temperature"), 4)]
                    for p, t in value
                ]
                paths = [["", f"{here}[{i}][1]"] for i in range(len(rows))]
                below.append(Block(inner, columns, rows, paths))
            else:
                own += self._lines(key, value, path)
        if not own:
            return below
        rows, paths = [[x.words, x.text, x.unit] for x in own], [["", x.path] for x in own]
        return [Block(title, [("", ""), ("", ""), ("", "")], rows, paths), *below]

    @staticmethod
    def _with_conditions(items: list[dict[str, Any]]) -> bool:
        """Tell whether items are one value at several temperatures, which reads as values of what holds them."""
        return all(len(item) == 2 and "temperature_K" in item and "pressure_Pa" not in item for item in items)

    def _items(self, title: str, items: list[dict[str, Any]], path: str) -> Block:
        """Return a list of items as a table: few side by side, many one below the other."""
        told = [
            [x for key, value in item.items() for x in self._lines(key, value, f"{path}[{i}]")]
            for i, item in enumerate(items)
        ]
        names = list(dict.fromkeys(x.key for lines in told for x in lines))
        found = [{x.key: x.text for x in lines} for lines in told]
        places = [{x.key: x.path for x in lines} for lines in told]
        if len(items) > SIDE_BY_SIDE:
            # As columns what is told by name says what it is of.
            heads = [(f"{group} {name}".strip(), unit) for group, name, unit in names]
            rows = [[texts.get(name, "") for name in names] for texts in found]
            return Block(title, heads, rows, [[own.get(name, "") for name in names] for own in places])
        head = [("", ""), *(("", "") for _ in items), ("", "")]
        rows = [[name[1], *(texts.get(name, "") for texts in found), name[2]] for name in names]
        return Block(title, head, rows, [["", *(own.get(name, "") for own in places)] for name in names])

    def _lines(self, key: str, value: Any, path: str = "") -> list[_Line]:
        """Return a value at a key below ``path`` as lines: one, or one a component or a temperature."""
        here = f"{path}.{key}" if path else key
        if key in NAMED and isinstance(value, dict):
            kind, factor = kind_of_key(key)
            unit = label(self._units.of_value(key, kind)) if kind else ""
            named = [
                _Line(n, unit, self._named(v, kind, factor, key), f"{here}.{n}", words(key)) for n, v in value.items()
            ]
            return [_Line(words(key), "", ""), *named]
        if isinstance(value, dict):
            return [
                _Line(name, str(part.get("unit", "")), self._text(part.get("value")), f"{here}.{name}.value")
                for name, part in value.items()
                if isinstance(part, dict)
            ]
        if _is_items(value) and self._with_conditions(value):
            at = self._units.unit("temperature")
            return [
                _Line(f"{x.words} at {self._number(item['temperature_K'], 'temperature', 1.0)} {label(at)}", x.unit, x.text, x.path)
                for i, item in enumerate(value)
                for other, inner in item.items() if other != "temperature_K" for x in self._lines(other, inner, f"{here}[{i}]")
            ]  # fmt: skip
        number = here if isinstance(value, (int, float)) and not isinstance(value, bool) else ""
        kind, factor = kind_of_key(key)
        if not kind:
            return [_Line(words(key), "", self._text(value), number)]
        unit = label(self._units.of_value(key, kind))
        missing = BEYOND if kind == "kinematic_viscosity" else "none"
        told = missing if value is None else self._text(value, lambda v: self._number(v, kind, factor, key))
        return [_Line(words(key), unit, told, number)]

    def _named(self, value: float | None, kind: str | None, factor: float, key: str) -> str:
        if value is None:
            return BEYOND
        return self._number(value, kind, factor, key) if kind else _plain(value)

    def _number(self, value: float, kind: str, factor: float, key: str = "") -> str:
        return told(from_si(value * factor, self._units.of_value(key, kind), kind))

    def _text(self, value: Any, number: Callable[[float], str] | None = None) -> str:
        number = number or _plain
        if value is None or value == "":
            return "none"
        if isinstance(value, bool):
            return "yes" if value else "no"
        if not isinstance(value, (int, float, list, tuple)):
            return WORDS.get(str(value), str(value))
        if isinstance(value, (int, float)):
            return number(value)
        if not value:
            return "none"
        if not all(isinstance(v, (int, float)) for v in value):
            return ", ".join(words(v) if isinstance(v, str) and "_" in v else str(v) for v in value)
        return f"{len(value)} values, {number(value[0])} to {number(value[-1])}"


def _plain(value: float) -> str:
    return f"{value:.5g}".replace("-", "−")
