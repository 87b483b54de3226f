"""The table of a path: its stations as typed, and what the answer tells at each."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from PySide6.QtGui import QColor

from ....document.faults import PathParts
from ....document.reader import cell_text
from ....questions.kinds.path import PathStudy, Station
from ....telling.sentences import Units
from ....units import format_number, from_si, label
from ....wording.entry import entry_of, taken
from ...widgets.fields import shown_text
from ...widgets.grid import GridModel

KEYS = ("name", "temperature", "pressure")
MARGINS = (
    ("to hydrate", "hydrate_margin_K", "temperature_difference"),
    ("to ice", "ice_margin_K", "temperature_difference"),
    ("to solid CO2", "frost_margin_K", "temperature_difference"),
    ("to bubble", "bubble_margin_Pa", "pressure"),
    ("to dew", "dew_margin_K", "temperature_difference"),
    ("to water", "water_margin_K", "temperature_difference"),
)
HAZARDS = ("hydrate_margin_K", "ice_margin_K", "frost_margin_K")
"""Margins whose passing stops a line: told by their ground."""
SPARE = 1


class StationsModel(GridModel):
    """A row a station: name, temperature and pressure are typed or pasted, the rest is read."""

    def __init__(self, store: Callable[[tuple[Station, ...], str], None]) -> None:
        super().__init__()
        self._store = store
        self._stations: tuple[Station, ...] = ()
        self._found: list[Mapping[str, Any]] = []
        self._faults: dict[tuple[int, str], str] = {}
        self._units: Units | None = None
        self._study = ""
        self._fixed = False
        self._margins: tuple[tuple[str, str, str], ...] = MARGINS

    def show(
        self, study: PathStudy | None, answer: Mapping[str, Any] | None, faults: Mapping[PathParts, str], units: Units
    ) -> None:
        """Show a path with its answer; ``faults`` by their path in the question."""
        stations = study.stations if study is not None else ()
        self._fixed = study is not None and bool(study.from_profile)
        if self._fixed:
            stations = tuple(
                Station(name=s["name"], temperature=s["temperature_K"], pressure=s["pressure_Pa"])
                for s in (answer or {}).get("stations", ())
            )
        same = len(stations) == len(self._stations)
        frosts = any(s["margins"].get("frost_margin_K") is not None for s in (answer or {}).get("stations", ()))
        margins = tuple(m for m in MARGINS if frosts or m[1] != "frost_margin_K") if answer else self._margins
        same &= margins == self._margins
        self._margins = margins
        self._stations, self._units, self._study = stations, units.of_states(), study.name if study else ""
        found = answer["stations"] if answer is not None else []
        self._found = found if len(found) == len(stations) else []
        self._faults = {
            (int(p[1]), str(p[2]) if len(p) > 2 else "name"): m
            for p, m in faults.items()
            if p[:1] == ("stations",) and len(p) > 1
        }
        if same:
            self.rewrite()
        else:
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        units = self._units
        if units is None:
            return []
        told = [(title, label(self._unit(kind))) for title, _, kind in self._margins]
        own = [(kind, label(self._unit(kind))) for kind in KEYS[1:]]
        return [("station", ""), *own, ("phases", ""), ("liquid", "vol%"), *told]

    def _unit(self, kind: str) -> str:
        return self._units.unit(kind) if self._units is not None else ""

    def rows(self) -> int:
        return len(self._stations) + (0 if self._fixed else SPARE)

    def text(self, row: int, column: int) -> str:
        if row >= len(self._stations):
            return ""
        if column < len(KEYS):
            cell = getattr(self._stations[row], KEYS[column])
            return cell if column == 0 else shown_text(cell, self._unit(KEYS[column]), KEYS[column])
        if not self._found:
            return ""
        found = self._found[row]
        if column == 3:
            return ", ".join(p[0].upper() for p in found["phases"])
        if column == 4:
            share = found["liquid_volume_fraction"]
            return "" if share is None else format_number(100.0 * share, 3)
        _, key, kind = self._margins[column - 5]
        value = found["margins"][key]
        if value is None:
            return ""
        unit = self._unit(kind)
        plain = (
            from_si(value, unit, kind) if kind != "pressure" else from_si(value, unit, kind) - from_si(0.0, unit, kind)
        )
        return f"{plain:.1f}".replace("-", "−")

    def edit_text(self, row: int, column: int) -> str:
        if not 0 < column < len(KEYS) or row >= len(self._stations):
            return self.text(row, column)
        # In the header's unit it is the number alone, else as it was entered.
        cell = getattr(self._stations[row], KEYS[column])
        unit = entry_of(cell, KEYS[column], self._units).unit if self._units is not None else ""
        return self.text(row, column) if unit == self._unit(KEYS[column]) else cell_text(cell)

    def ground(self, row: int, column: int, theme: Any) -> Any:
        key = self._margins[column - 5][1] if 5 <= column < 5 + len(self._margins) else ""
        if not self._found or row >= len(self._found) or key not in HAZARDS:
            return None
        value = self._found[row]["margins"][key]
        return QColor(theme.fault_ground) if value is not None and value < 0.0 else None

    def tip(self, row: int, column: int) -> str:
        if column == 3 and self._found and row < len(self._found):
            return ", ".join(self._found[row]["phases"])
        return ""

    def left_aligned(self, column: int) -> bool:
        return column in (0, 3)

    def editable(self, row: int, column: int) -> bool:
        return column < len(KEYS) and not self._fixed

    def fault(self, row: int, column: int) -> str:
        return self._faults.get((row, KEYS[column]), "") if column < len(KEYS) else ""

    def answer_path(self, row: int, column: int) -> tuple[str, str] | None:
        if not self._found or column < 5 or row >= len(self._found):
            return None
        return self._study, f"stations[{row}].margins.{self._margins[column - 5][1]}"

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        rows = [dict(zip(KEYS, (s.name, s.temperature, s.pressure))) for s in self._stations]
        touched: set[int] = set()
        for (row, column), value in sorted(cells.items()):
            if column >= len(KEYS) or (row >= len(rows) and not value.strip()):
                continue
            while row >= len(rows):
                rows.append({"name": f"Station {len(rows) + 1}", "temperature": None, "pressure": None})
            rows[row][KEYS[column]] = value.strip() if column == 0 else taken(value, self._unit(KEYS[column]))
            touched.add(row)
        # A row with nothing left in it is removed.
        kept = [r for i, r in enumerate(rows) if i not in touched or any(v not in (None, "") for v in r.values())]
        made = tuple(Station(**{**r, "name": r["name"] or f"Station {i + 1}"}) for i, r in enumerate(kept))
        self._store(made, text)
