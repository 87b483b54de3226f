"""The form of a property table: its axes and the condition held beside a single one, in words and with units."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from ...document.faults import PathParts
from ...document.reader import EMPTY
from ...studies.beginning import in_reader_units
from ...studies.conditions import CONDITIONS
from ...studies.kinds.table import Asked, TableAxis, TableStudy
from ...studies.sentences import Units
from ...units import format_number, from_si, label
from ...wording.entry import entry_of, taken_as
from ..fields import repolish, tip
from .range_form import RangeForm

Store = Callable[[dict[PathParts, object], str], None]
"""Takes cells by their path within the question, and the words of the edit."""

NONE = "none"


class AxisForm:
    """One axis: its condition, and the range of its values."""

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
        self.range = RangeForm(layout, row, self.variable, f"axis {place + 1}", self._store_range)

    def _choose(self, key: str) -> None:
        if self.axis is None or key != self.axis.variable:
            self._store({("axes", self._place, "variable"): key}, "Choose an axis")

    def _store_range(self, cells: dict[str, object], text: str) -> None:
        self._store({("axes", self._place, k): v for k, v in cells.items()}, text)

    def show_axis(
        self, axis: TableAxis | None, values: tuple[float, ...], units: Units, faults: dict[str, str]
    ) -> None:
        """Show an axis as it was entered; ``values`` in SI where they could be read."""
        self.axis = axis
        self.variable.setCurrentIndex(self.variable.findData(axis.variable if axis is not None else NONE))
        own = CONDITIONS.get(axis.variable) if axis is not None else None
        step = "" if axis is None else _step(axis, values, units)
        self.range.show_range(axis, values, step, faults, own.kind if own is not None else None, units)


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
        self._units = Units.of("metric")

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
        fresh = in_reader_units(TableAxis(variable=key, steps=10, **usual_ends(key)), self._units)
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
        kind = CONDITIONS[key].kind
        if list(now) == [key] and text == entry_of(now[key], kind, self._units).whole:
            return
        cells: dict[PathParts, object] = {(k,): None for k in now}
        self._store({**cells, (key,): taken_as(text, now.get(key), kind, self._units)}, "Change what is held")

    def show_question(
        self, study: TableStudy | None, asked: Asked | None, units: Units, faults: dict[str, str]
    ) -> None:
        """Show a question; ``faults`` by the path within it."""
        self._study, self._units = study, units
        for place, form in enumerate(self.axes):
            axis = study.axes[place] if study is not None and place < len(study.axes) else None
            values = (
                tuple(g.value for g in asked.axes[place][1]) if asked is not None and place < len(asked.axes) else ()
            )
            start = f"axes[{place}]."
            form.show_axis(
                axis, values, units, {k.removeprefix(start): m for k, m in faults.items() if k.startswith(start)}
            )
        single = study is not None and len(study.axes) == 1
        self.held.setVisible(single)
        self.value.setVisible(single)
        if study is not None and single:
            held = [k for k in CONDITIONS if getattr(study, k) not in EMPTY]
            key = held[0] if held else next(k for k in CONDITIONS if k != study.axes[0].variable)
            self.held.setCurrentIndex(self.held.findData(key))
            self.value.setText(entry_of(getattr(study, key), CONDITIONS[key].kind, units).whole)
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
