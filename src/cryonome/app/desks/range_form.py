"""The form of a range of values: its ends, the number and the size of steps, each showing what the other makes of it, or a list."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from ...document.field_types import Cell
from ...document.reader import cell_text, plain_cell
from ...studies.ranges import Range
from ...studies.sentences import Units
from ...units import QuantityError, label, split
from ...wording.entry import entry_of, taken, taken_as, usual_unit
from ..fields import repolish, section, tip

StoreCells = Callable[[dict[str, object], str], None]
"""Takes cells of the range by their key, and the words of the edit."""

FIELDS = {"begin": "from", "end": "to", "steps": "steps", "step": "by", "values": "or list"}
"""The fields of a range with their words."""


def pretty(cell: Cell) -> str:
    """Return a cell with its unit as units are written elsewhere; what is no quantity stays as it is."""
    if isinstance(cell, str):
        try:
            number, unit = split(cell)
        except QuantityError:
            return cell
        return f"{number:.10g} {label(unit)}".strip().replace("-", "−") if unit else cell
    return cell_text(cell)


def _whole(cell: Cell, kind: str | None, units: Units) -> str:
    return entry_of(cell, kind, units).whole


class RangeForm:
    """The rows of a range in a grid layout of five columns; the widget ``head`` names it in the first."""

    def __init__(self, layout: QGridLayout, row: int, head: QWidget, name: str, store: StoreCells) -> None:
        self._store = store
        self.range: Range | None = None
        self._kind: str | None = None
        self._units = Units.of("metric")
        layout.addWidget(head, row, 0, 1, 2)
        self.scale = QComboBox()
        self.scale.setAccessibleName(f"Spacing of {name}")
        self.scale.addItem("equal steps", "linear")
        self.scale.addItem("by logarithm", "logarithmic")
        self.scale.activated.connect(lambda _i: self._set_scale(str(self.scale.currentData())))
        layout.addWidget(self.scale, row, 2, 1, 3)
        self.entries: dict[str, QLineEdit] = {}
        self._parts: list[QWidget] = [self.scale]
        for number, (key, words) in enumerate(FIELDS.items()):
            at, column = row + 1 + number // 2, 2 * (number % 2)
            title = section(words, "mute")
            entry = QLineEdit()
            entry.setAccessibleName(f"{words}, {name}")
            entry.setAlignment(Qt.AlignmentFlag.AlignRight)
            if key != "values":
                entry.setFixedWidth(92)
            entry.editingFinished.connect(partial(self._finished, key))
            title.setBuddy(entry)
            layout.addWidget(title, at, column)
            layout.addWidget(entry, at, column + 1, 1, 4 if key == "values" else 1)
            self.entries[key] = entry
            self._parts += [title, entry]
        self.count = section("", "mute")
        layout.addWidget(self.count, row + 1, 4)
        self._parts.append(self.count)

    def _set_scale(self, value: str) -> None:
        if self.range is not None and self.range.scale != value:
            self._store({"scale": value}, "Change a range")

    def _finished(self, key: str) -> None:
        entry = self.entries[key]
        text = entry.text().strip()
        if self.range is None or text == entry.property("shown"):
            return
        cells: dict[str, object] = {key: plain_cell(text) if key == "steps" else self._taken(key, text)}
        if key == "values":
            cells = {"values": tuple(self._taken(key, v) for v in text.split(",") if v.strip()) or None}
        if text:
            # What says the same in another way is let go.
            gone = {
                "values": ("begin", "end", "steps", "step"),
                "steps": ("step", "values"),
                "step": ("steps", "values"),
            }
            cells |= dict.fromkeys(gone.get(key, ("values",)))
        self._store(cells, "Change a range")

    def _taken(self, key: str, text: str) -> Cell:
        """Return what was typed with the unit that is shown: of the range's ends, else the reader's own."""
        kind = "temperature_difference" if key == "step" and self._kind == "temperature" else self._kind
        given = self.range
        shown = [*(given.values or ()), given.begin, given.end] if given is not None else []
        units = [u for c in shown if c not in (None, "") and (u := entry_of(c, self._kind, self._units).unit)]
        if key == "step":
            return taken_as(text, given.step if given is not None else None, kind, self._units)
        return taken(text, units[0] if units else usual_unit(kind, self._units))

    def set_visible(self, visible: bool) -> None:
        """Show or hide the rows; the head stays."""
        for part in self._parts:
            part.setVisible(visible)

    def show_range(
        self,
        given: Range | None,
        values: Sequence[float],
        step: str,
        faults: dict[str, str],
        kind: str | None,
        units: Units,
    ) -> None:
        """Show a range of a ``kind`` as it was entered: its ``values`` where they could be read, the size of its ``step`` in words, and what is wrong by the key
        of the document; a bare number means the unit of the ends, else that of ``units``."""
        self.range, self._kind, self._units = given, kind, units
        self.set_visible(given is not None)
        if given is None:
            return
        self.scale.setCurrentIndex(self.scale.findData(given.scale))
        for key, entry in self.entries.items():
            cell = getattr(given, key)
            told = cell_text if key == "steps" else partial(_whole, kind=kind, units=units)
            text = ", ".join(told(v) for v in cell) if isinstance(cell, tuple) else told(cell)
            text = pretty(cell) if key == "step" else text
            if not (entry.hasFocus() and text == entry.property("shown")):
                entry.setText(text)
            entry.setProperty("shown", text)
            fault = next((m for k, m in faults.items() if k.partition("[")[0] in (FIELDS[key], key)), "")
            entry.setToolTip(tip(fault))
            repolish(entry, "fault", bool(fault))
        self.entries["steps"].setPlaceholderText(str(len(values) - 1) if len(values) else "")
        self.entries["step"].setPlaceholderText(step)
        self.count.setText(f"{len(values)} values" if len(values) else "")
