"""A blank in a sentence: a field that is typed into, picked from, stepped with the arrow keys or dragged sideways,
and shows its unit."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from functools import partial

from PySide6.QtCore import QEvent, QObject, QPoint, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QFontMetrics, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QCompleter, QFrame, QHBoxLayout, QLabel, QLineEdit, QMenu, QToolButton, QWidget

from ...units import QuantityError, label, split
from ...wording.entry import number_text
from ...wording.spoken import Blank
from .fields import repolish, tip

DRAG = 6
"""Pixels to the side that are one step of a number."""

NARROW, WIDE = 22, 420
"""Pixels that a field is at least and at most wide."""

SEVERAL = "tests", "held_out", "equations", "properties", "read"
"""Lists of names, of which several are picked."""


class BlankEdit(QLineEdit):
    """The line of a blank, as wide as its text."""

    stepped = Signal(int)
    entered = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFrame(False)
        self.textChanged.connect(lambda _t: self.updateGeometry())
        self._from: QPoint | None = None
        self._moved = 0

    def sizeHint(self) -> QSize:
        metrics = QFontMetrics(self.font())
        text = self.text() or self.placeholderText()
        return QSize(min(max(metrics.horizontalAdvance(text) + 5, NARROW), WIDE), metrics.height() + 4)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.entered.emit()
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1, Qt.Key.Key_PageUp: 10, Qt.Key.Key_PageDown: -10}
        if event.key() in keys and self.completer() is None:
            self.stepped.emit(keys[Qt.Key(event.key())])
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.modifiers():
            self.editingFinished.emit()
            self.focusNextChild()
            return
        super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from, self._moved = event.position().toPoint(), 0
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is None or self.completer() is not None or (self.selectedText() != self.text() and self._moved == 0 and self.hasSelectedText() and abs(event.position().x() - self._from.x()) < DRAG):  # fmt: skip
            super().mouseMoveEvent(event)
            return
        steps = int((event.position().x() - self._from.x()) / DRAG)
        if steps != self._moved:
            self.stepped.emit(steps - self._moved)
            self._moved = steps

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None
        super().mouseReleaseEvent(event)


class BlankField(QFrame):
    """One blank. ``commit`` takes it with the text typed (or a choice's key) and a key for edits that are one;
    ``become`` takes an edit; ``convert`` a unit."""

    typed = Signal(object, str, str)
    became = Signal(object, object)
    converted = Signal(object, str)
    chosen = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("blank")
        self.blank = Blank((), "")
        self.edit = BlankEdit(self)
        self.unit = QLabel("", self)
        self.unit.setObjectName("blankunit")
        self.unit.setCursor(Qt.CursorShape.PointingHandCursor)
        self.unit.installEventFilter(self)
        self.more = QToolButton(self)
        self.more.setObjectName("blankmore")
        self.more.setText("⌄")
        self.more.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.more.setCursor(Qt.CursorShape.PointingHandCursor)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(4, 0, 4, 0)
        layout.setSpacing(2)
        layout.addWidget(self.edit)
        layout.addWidget(self.unit)
        layout.addWidget(self.more)
        self.edit.editingFinished.connect(self._finished)
        self.edit.stepped.connect(self.step)
        self.edit.entered.connect(self._entered)
        self.edit.textChanged.connect(lambda _t: self.updateGeometry())
        self.more.clicked.connect(self.offer)
        self.edit.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.edit.customContextMenuRequested.connect(lambda at: self.menu().exec(self.edit.mapToGlobal(at)))
        self.extra: Callable[[QMenu, Blank], None] | None = None
        self.lazy: Callable[[Blank], Mapping[str, str]] | None = None
        self._loaded: Mapping[str, str] = {}
        self._shown = ""

    def _entered(self) -> None:
        """Load what may be typed here, where it is too much to be offered at once."""
        if (
            self.lazy is None
            or self.blank.choices
            or self.blank.path[-1:] not in (("path",), ("read",), ("properties",), ("compact",))
        ):
            return
        self._loaded = self.lazy(self.blank)
        if not self._several():
            self._complete([*self._loaded.values()])

    def show_blank(self, blank: Blank) -> None:
        """Show a blank; what is being typed stays while it has the keyboard."""
        before, self.blank = self.blank, blank
        free = not self.edit.hasFocus() or blank.text != self._shown or self.edit.text() == self._shown
        if free and self.edit.text() != blank.text:
            at = self.edit.cursorPosition()
            self.edit.setText(blank.text)
            self.edit.setCursorPosition(min(at, len(blank.text)))
        self._shown = blank.text
        self.edit.setPlaceholderText("…" if not blank.choices else "choose")
        self.edit.setAccessibleName(blank.name)
        self.unit.setText(label(blank.unit) if blank.unit and blank.unit != "1" else "")
        self.unit.setVisible(bool(self.unit.text()))
        self.more.setVisible(bool(blank.choices) and not self._several())
        words = list(blank.choices.values())
        if blank.path[-1:] in (("path",), ("read",), ("properties",), ("compact",)):
            pass
        elif words != list(before.choices.values()) or (words and self.edit.completer() is None):
            self._complete(words if not self._several() else [])
        repolish(self, "quiet", blank.quiet)
        repolish(self, "fault", bool(blank.fault))
        repolish(self.edit, "quiet", blank.quiet)
        repolish(self.edit, "blankfault", bool(blank.fault))
        self.setToolTip(tip(blank.fault))
        self.edit.setAccessibleDescription(blank.fault)
        self.updateGeometry()

    def _several(self) -> bool:
        return self.blank.path[-1:] != () and self.blank.path[-1] in SEVERAL and isinstance(self.blank.path[0], str)

    def _complete(self, words: list[str]) -> None:
        if not words:
            self.edit.setCompleter(None)  # type: ignore[arg-type]
            return
        completer = QCompleter(words, self.edit)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.activated.connect(lambda _t: self._finished())
        self.edit.setCompleter(completer)

    def offer(self) -> None:
        """Offer what may be picked here, and what else the blank may become."""
        self.menu(True).exec(self.mapToGlobal(QPoint(0, self.height())))

    def menu(self, only_choices: bool = False) -> QMenu:
        """Return what can be done with the blank: pick, become another quantity, another unit; and what its page
        adds."""
        blank = self.blank
        menu = QMenu(self) if only_choices else self.edit.createStandardContextMenu()
        if not only_choices:
            menu.addSeparator()
        for key, words in blank.choices.items():
            action = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(words in self._picked())
            action.triggered.connect(lambda _on, k=key: self._pick(k))
        if blank.others and blank.choices:
            menu.addSeparator()
        for other in blank.others:
            menu.addAction(other.words, partial(self.became.emit, self.blank, other.cells))
        if blank.units and not only_choices:
            units = menu.addMenu("Unit")
            self._add_units(units)
        if self.extra is not None and not only_choices:
            self.extra(menu, blank)
        return menu

    def _picked(self) -> list[str]:
        return [t.strip() for t in self.blank.text.split(",")] if self._several() else [self.blank.text]

    def _pick(self, key: str) -> None:
        if self._several():
            now = [k for k, w in self.blank.choices.items() if w in self._picked()]
            kept = [k for k in now if k != key] if key in now else [*now, key]
            self.typed.emit(self.blank, ", ".join(kept), "")
            return
        self.typed.emit(self.blank, key, "")

    def _add_units(self, menu: QMenu) -> None:
        for unit in self.blank.units:
            action = menu.addAction(label(unit))
            action.setCheckable(True)
            action.setChecked(unit == self.blank.unit)
            action.triggered.connect(lambda _on, u=unit: self.converted.emit(self.blank, u))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.unit and event.type() == QEvent.Type.MouseButtonPress and self.blank.units:
            menu = QMenu(self)
            self._add_units(menu)
            menu.exec(self.unit.mapToGlobal(QPoint(0, self.unit.height())))
            return True
        return super().eventFilter(watched, event)

    def _finished(self) -> None:
        text = self.edit.text().strip()
        if text == self._shown:
            return
        choices = self.blank.choices or self._loaded
        if self._several() and choices:
            key = ", ".join(_key_of(t.strip(), choices) for t in text.split(",") if t.strip())
        else:
            key = _key_of(text, choices)
        self._shown = text
        self.typed.emit(self.blank, key, "")

    def step(self, count: int) -> None:
        """Step the number by so many of its own steps."""
        if "," in self.edit.text():
            return
        try:
            number, unit = split(self.edit.text())
        except QuantityError:
            return
        size = step_of(number, self.blank.kind, self.blank.path)
        value = round(number / size + count) * size
        if self.blank.path[-1] == "steps":
            value = max(value, 1.0)
        text = f"{number_text(float(f'{value:.10g}'))} {unit}".strip()
        self.edit.setText(text)
        self._shown = text
        self.typed.emit(self.blank, text, f"step {self.blank.path}")


def _key_of(text: str, choices: Mapping[str, str]) -> str:
    """Return what is stored for words that were typed; other words as they are."""
    return next((k for k, w in choices.items() if w.casefold() == text.casefold()), text)


def step_of(value: float, kind: str | None, path: tuple[str | int, ...]) -> float:
    """Return the step of a number: one of a temperature or a count, else one of its second digit."""
    if path[-1:] == ("steps",) or kind in ("temperature", "temperature_difference", "share") or kind is None:
        return 1.0
    if value == 0.0:
        return 0.1
    return float(10.0 ** (math.floor(math.log10(abs(value)) + 1e-9) - 1))
