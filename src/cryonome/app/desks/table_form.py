"""The form of a property table: its axes and the condition held beside a single one, in words and with units."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from ...document.faults import PathParts
from ...document.model import Cell
from ...document.reader import EMPTY, cell_text, plain_cell
from ...studies.conditions import CONDITIONS
from ...studies.kinds.table import Asked, TableAxis, TableStudy
from ...studies.sentences import Units
from ...units import QuantityError, format_number, from_si, label, split
from ..fields import repolish, section, tip

Store = Callable[[dict[PathParts, object], str], None]
"""Takes cells by their path within the question, and the words of the edit."""

NONE = "none"
FIELDS = {"begin": "from", "end": "to", "steps": "steps", "step": "by", "values": "or list"}
"""The fields of an axis with their words."""


class AxisForm:
    """One axis: its condition, ends, the number and the size of steps (each shows what the other makes of it), or a list."""

    def __init__(self, layout: QGridLayout, row: int, place: int, store: Store) -> None:
        self._place, self._store = place, store
        self.axis: TableAxis | None = None
        self.variable = QComboBox()
        self.variable.setAccessibleName(f"Axis {place + 1}")
        self.variable.setFixedWidth(150)
        for key, condition in CONDITIONS.items():
            self.variable.addItem(condition.title, key)
        if place:
            self.variable.addItem("one axis only", NONE)
        self.variable.activated.connect(lambda _i: self._choose(str(self.variable.currentData())))
        layout.addWidget(self.variable, row, 0, 1, 2)
        self.scale = QComboBox()
        self.scale.setAccessibleName(f"Spacing of axis {place + 1}")
        self.scale.addItem("equal steps", "linear")
        self.scale.addItem("by logarithm", "logarithmic")
        self.scale.activated.connect(lambda _i: self._set("scale", str(self.scale.currentData())))
        layout.addWidget(self.scale, row, 2, 1, 3)
        self.entries: dict[str, QLineEdit] = {}
        self._names: list[QWidget] = []
        for number, (key, words) in enumerate(FIELDS.items()):
            at, column = row + 1 + number // 2, 2 * (number % 2)
            name = section(words, "mute")
            entry = QLineEdit()
            entry.setAccessibleName(f"{words}, axis {place + 1}")
            entry.setAlignment(Qt.AlignmentFlag.AlignRight)
            if key != "values":
                entry.setFixedWidth(92)
            entry.editingFinished.connect(partial(self._finished, key))
            name.setBuddy(entry)
            layout.addWidget(name, at, column)
            layout.addWidget(entry, at, column + 1, 1, 4 if key == "values" else 1)
            self.entries[key] = entry
            self._names.append(name)
        self.count = section("", "mute")
        layout.addWidget(self.count, row + 1, 4)

    def _choose(self, key: str) -> None:
        if self.axis is None or key != self.axis.variable:
            self._store({("axes", self._place, "variable"): key}, "Choose an axis")

    def _set(self, key: str, value: object) -> None:
        if self.axis is not None and getattr(self.axis, key) != value:
            self._store({("axes", self._place, key): value}, "Change an axis")

    def _finished(self, key: str) -> None:
        entry, axis = self.entries[key], self.axis
        text = entry.text().strip()
        if axis is None or text == entry.property("shown"):
            return
        cells: dict[str, object] = {key: plain_cell(self._with_unit(text))}
        if key == "values":
            cells = {"values": tuple(plain_cell(v) for v in text.split(",") if v.strip()) or None}
        if text:
            # What says the same in another way is let go.
            gone = {
                "values": ("begin", "end", "steps", "step"),
                "steps": ("step", "values"),
                "step": ("steps", "values"),
            }
            cells |= dict.fromkeys(gone.get(key, ("values",)))
        self._store({("axes", self._place, k): v for k, v in cells.items()}, "Change an axis")

    def _with_unit(self, text: str) -> str:
        """Return a bare number with the unit of the axis' other end, as it is meant."""
        axis = self.axis
        if axis is None or not text:
            return text
        for other in (axis.begin, axis.end):
            if isinstance(other, str):
                try:
                    if not split(text)[1] and split(other)[1]:
                        return f"{text} {split(other)[1]}"
                except QuantityError:
                    return text
        return text

    def show(self, axis: TableAxis | None, values: tuple[float, ...], units: Units, faults: dict[str, str]) -> None:
        """Show an axis as it was entered; ``values`` in SI where they could be read."""
        self.axis = axis
        self.variable.setCurrentIndex(self.variable.findData(axis.variable if axis is not None else NONE))
        for part in (self.scale, self.count, *self._names, *self.entries.values()):
            part.setVisible(axis is not None)
        if axis is None:
            return
        self.scale.setCurrentIndex(self.scale.findData(axis.scale))
        for key, entry in self.entries.items():
            cell = getattr(axis, key)
            text = ", ".join(pretty(v) for v in cell) if isinstance(cell, tuple) else pretty(cell)
            if not (entry.hasFocus() and text == entry.property("shown")):
                entry.setText(text)
            entry.setProperty("shown", text)
            fault = next((m for k, m in faults.items() if k in (FIELDS[key], key)), "")
            entry.setToolTip(tip(fault))
            repolish(entry, "fault", bool(fault))
        self.entries["steps"].setPlaceholderText(str(len(values) - 1) if values else "")
        self.entries["step"].setPlaceholderText(_step(axis, values, units))
        self.count.setText(f"{len(values)} values" if values else "")


def _step(axis: TableAxis, values: tuple[float, ...], units: Units) -> str:
    """Return the size of the steps a number of them makes, in the reader's unit."""
    if len(values) < 2 or axis.scale != "linear" or axis.values is not None:
        return ""
    kind = CONDITIONS[axis.variable].kind
    if kind == "fraction":
        return format_number((values[-1] - values[0]) / (len(values) - 1), 4)
    unit = units.unit(kind)
    first, last = (from_si(v, unit, kind) for v in (values[0], values[-1]))
    return f"{format_number((last - first) / (len(values) - 1), 4)} {label(unit)}"


def pretty(cell: Cell) -> str:
    """Return a cell with its unit as units are written elsewhere; what is no quantity stays as it is."""
    if isinstance(cell, str):
        try:
            number, unit = split(cell)
        except QuantityError:
            return cell
        return f"{number:.10g} {label(unit)}".strip().replace("-", "−") if unit else cell
    return cell_text(cell)


class TableForm(QWidget):
    """Both axes, and what is held beside a single one."""

    def __init__(self, store: Store) -> None:
        super().__init__()
        self._store = store
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setHorizontalSpacing(6)
        layout.setVerticalSpacing(5)
        layout.setColumnStretch(4, 1)
        self.axes = [AxisForm(layout, 0, 0, self._store_axis), AxisForm(layout, 5, 1, self._store_axis)]
        layout.setRowMinimumHeight(4, 8)
        self.held = QComboBox()
        self.held.setAccessibleName("Condition held")
        self.held.setFixedWidth(150)
        for key, condition in CONDITIONS.items():
            self.held.addItem(f"at {condition.title}", key)
        self.held.activated.connect(lambda _i: self._hold(str(self.held.currentData()), self.value.text()))
        self.value: QLineEdit = QLineEdit()
        self.value.setAccessibleName("Value held")
        self.value.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.value.editingFinished.connect(lambda: self._hold(str(self.held.currentData()), self.value.text()))
        layout.addWidget(self.held, 10, 0, 1, 2)
        layout.addWidget(self.value, 10, 2, 1, 3)
        self._study: TableStudy | None = None

    def _store_axis(self, cells: dict[PathParts, object], text: str) -> None:
        study = self._study
        if study is None:
            return
        (path, value), *_ = cells.items()
        if path[-1] != "variable":
            self._store(cells, text)
            return
        axes = list(study.axes)
        place = int(path[1])
        if value == NONE:
            held = axes[1].begin if len(axes) > 1 else None
            kept: dict[PathParts, object] = {(axes[1].variable,): held} if len(axes) > 1 else {}
            self._store({("axes",): tuple(axes[:1]), **kept}, text)
            return
        key = str(value)
        other = axes[1 - place] if len(axes) > 1 else None
        if other is not None and other.variable == key:
            self._store({("axes",): tuple(reversed(axes))}, "Exchange the axes")
            return
        fresh = TableAxis(variable=key, steps=10, **usual_ends(key))
        if place < len(axes):
            axes[place] = fresh
        else:
            axes.append(fresh)
        # A condition that is an axis, or a second one held beside two axes, is held no more.
        gone: dict[PathParts, object] = {
            (k,): None for k in CONDITIONS if getattr(study, k) not in EMPTY and (k == key or len(axes) > 1)
        }
        self._store({("axes",): tuple(axes), **gone}, text)

    def _hold(self, key: str, text: str) -> None:
        study = self._study
        if study is None or len(study.axes) > 1:
            return
        now = {k: getattr(study, k) for k in CONDITIONS if getattr(study, k) not in EMPTY}
        if list(now) == [key] and text in (pretty(now[key]), cell_text(now[key])):
            return
        cells: dict[PathParts, object] = {(k,): None for k in now}
        self._store({**cells, (key,): plain_cell(text)}, "Change what is held")

    def show_question(
        self, study: TableStudy | None, asked: Asked | None, units: Units, faults: dict[str, str]
    ) -> None:
        """Show a question; ``faults`` by the path within it."""
        self._study = study
        for place, form in enumerate(self.axes):
            axis = study.axes[place] if study is not None and place < len(study.axes) else None
            values = (
                tuple(g.value for g in asked.axes[place][1]) if asked is not None and place < len(asked.axes) else ()
            )
            start = f"axes[{place}]."
            form.show(axis, values, units, {k.removeprefix(start): m for k, m in faults.items() if k.startswith(start)})
        single = study is not None and len(study.axes) == 1
        self.held.setVisible(single)
        self.value.setVisible(single)
        if study is not None and single:
            held = [k for k in CONDITIONS if getattr(study, k) not in EMPTY]
            key = held[0] if held else next(k for k in CONDITIONS if k != study.axes[0].variable)
            self.held.setCurrentIndex(self.held.findData(key))
            self.value.setText(pretty(getattr(study, key)))
            fault = faults.get(key, "")
            self.value.setToolTip(tip(fault))
            repolish(self.value, "fault", bool(fault))


def usual_ends(key: str) -> dict[str, str | float]:
    """Return ends that an axis of a condition begins with."""
    ends: dict[str, tuple[str | float, str | float]] = {
        "temperature": ("0 degC", "100 degC"), "pressure": ("1 bar", "101 bar"), "enthalpy": ("-20 kJ/mol", "20 kJ/mol"),
        "entropy": ("-50 J/(mol*K)", "50 J/(mol*K)"), "density": ("10 kg/m**3", "110 kg/m**3"),
        "internal_energy": ("-20 kJ/mol", "20 kJ/mol"),
    }  # fmt: skip
    low, high = ends.get(key, (0.0, 1.0))
    return {"begin": low, "end": high}
