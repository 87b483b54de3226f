"""Entry of a single quantity: a label, a field that takes any unit, the unit, and what is estimated."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Mapping
from html import escape

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QToolButton,
    QWidget,
)

from ...document.faults import PathParts
from ...language import said
from ...units import KINDS, Numeral, QuantityError, fits, format_number, from_si, label, normal_unit, parse, split
from .letters import sized


def repolish(widget: QWidget, name: str, value: bool) -> None:
    """Set a property the style sheet looks at."""
    if widget.property(name) != value:
        widget.setProperty(name, value)
        widget.style().unpolish(widget)
        widget.style().polish(widget)


class QuantityField:
    """One row of a form in a grid layout: label, entry, unit, remark.

    ``commit`` takes the text to store: with the field's unit added where a bare number was typed. ``input_path``
    tells the path in the document of what it shows, None where there is nothing to vary."""

    def __init__(self, layout: QGridLayout, row: int, title: str, kind: str, commit: Callable[[str], None]) -> None:
        self.kind, self._commit = kind, commit
        self.unit = ""
        self.on_unit: Callable[[str], None] | None = None
        self.input_path: Callable[[], PathParts | None] | None = None
        self.title = QLabel(title)
        self.title.setObjectName("mute")
        self.entry = QLineEdit()
        self.entry.setAlignment(Qt.AlignmentFlag.AlignRight)
        sized(self.entry, fixed_width=84)
        self.entry.setAccessibleName(title)
        self.title.setBuddy(self.entry)
        self.unit_button = QToolButton()
        self.unit_button.setObjectName("link")
        self.unit_button.setAccessibleName(f"Unit of {title}")
        self.unit_button.setStyleSheet("QToolButton { font-weight: 400; }")
        self.remark = QLabel("")
        self.remark.setTextFormat(Qt.TextFormat.PlainText)
        self.remark.setObjectName("accent")
        layout.addWidget(self.title, row, 0)
        layout.addWidget(self.entry, row, 1)
        layout.addWidget(self.unit_button, row, 2, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self.remark, row, 3)
        self.entry.editingFinished.connect(self._finished)
        self.entry.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.entry.customContextMenuRequested.connect(lambda at: self.context_menu().exec(self.entry.mapToGlobal(at)))
        self.unit_button.clicked.connect(self._choose_unit)
        self._shown = ""

    def set_visible(self, visible: bool) -> None:
        """Show or hide the whole row."""
        for part in (self.title, self.entry, self.unit_button, self.remark):
            part.setVisible(visible)

    def _finished(self) -> None:
        text = self.entry.text().strip()
        if text == self._shown:
            return
        if text and self.unit:
            try:
                _, unit = split(text)
                text = f"{text} {self.unit}" if not unit else text
            except QuantityError:
                pass
        self._shown = self.entry.text().strip()
        self._commit(text)

    def context_menu(self) -> QMenu:
        """Return the entry's own menu, and "Vary this" where the field shows an input that is there."""
        menu = self.entry.createStandardContextMenu()
        path = self.input_path() if self.input_path is not None else None
        vary = getattr(self.entry.window(), "vary_input", None)
        if path is not None and vary is not None:
            menu.addSeparator()
            menu.addAction("Vary this", lambda: vary(path))
        return menu

    def _choose_unit(self) -> None:
        if self.kind not in KINDS:
            return
        below = self.unit_button.mapToGlobal(QPoint(0, self.unit_button.height()))
        unit_menu(self.entry, self.kind, self.unit, self.convert).exec(below)

    def convert(self, unit: str) -> None:
        """Show the field in another unit; a value that is there is converted to it."""
        text = self.entry.text().strip()
        if text:
            with contextlib.suppress(QuantityError):  # what is no quantity stays as it is
                value = from_si(parse(text, self.kind, self.unit), unit, self.kind)
                self._commit(f"{value:.6g} {unit}")
        if self.on_unit is not None:
            self.on_unit(unit)

    def show(self, cell: object, unit: str, estimate: float | None, remark: str, fault: str) -> None:
        """Show the stored cell as it was entered, its unit the field's; where empty, the estimate (SI) in ``unit``."""
        entered = _entered_unit(cell, self.kind)
        unit = unit if entered is None else entered
        self.unit = unit
        self.unit_button.setText(label(unit) if unit else "")
        text = shown_text(cell, unit, self.kind)
        if not self.entry.hasFocus() or self.entry.text().strip() != self._shown or text != self._shown:
            self.entry.setText(text)
        self._shown = text
        self.entry.setPlaceholderText(
            "" if estimate is None else format_number(from_si_plain(estimate, unit, self.kind))
        )
        self.remark.setText(remark if not text else "")
        self.entry.setToolTip(tip(fault))
        repolish(self.entry, "fault", bool(fault))
        repolish(self.entry, "filled", bool(text))


def _entered_unit(cell: object, kind: str) -> str | None:
    """Return the unit a cell was entered in, None where it has none of the kind."""
    if not isinstance(cell, str) or kind not in KINDS:
        return None
    try:
        unit = normal_unit(split(cell)[1], kind)
    except QuantityError:
        return None
    return unit if unit and fits(unit, kind) else None


def from_si_plain(value: float, unit: str, kind: str) -> float:
    """Return an SI value in a unit, unchanged where the quantity has none."""
    return from_si(value, unit, kind) if kind in KINDS and unit else value


def shown_text(cell: object, unit: str, kind: str) -> str:
    """Return a stored cell as it is shown in a column of ``unit``.

    What was entered in that unit is shown as entered; another unit is converted; what is no quantity stays as it is,
    so that nothing typed is lost.
    """
    if cell is None or cell == "":
        return ""
    if kind not in KINDS:
        return str(cell)
    try:
        if isinstance(cell, str):
            number, entered = split(cell)
            # Not the number's own text: 33,1 and 33.10 mean the same and read the same here.
            if normal_unit(entered, kind) == unit:
                return f"{number:.10g}".replace("-", "−")
        value = from_si(parse(cell, kind), unit, kind)  # type: ignore[arg-type]
    except QuantityError:
        return str(cell)
    return Numeral(f"{value:.6g}".replace("-", "−") if abs(value) < 1e6 else f"{value:.4e}", value)


def unit_menu(parent: QWidget, kind: str, current: str, choose: Callable[[str], None]) -> QMenu:
    """Return a menu of the units of a kind."""
    menu = QMenu(parent)
    for unit in KINDS[kind].units:
        action = menu.addAction(label(unit))
        action.setCheckable(True)
        action.setChecked(unit == current)
        action.triggered.connect(lambda _on, u=unit: choose(u))
    return menu


def elided(name: str, most: int = 48) -> str:
    """Return a name short enough for its place."""
    return name if len(name) <= most else name[: most - 1] + "…"


def capital(text: str) -> str:
    """Return a fault's message as a sentence."""
    return text[:1].upper() + text[1:] + ("" if not text or text[-1] in "?." else ".")


def section(text: str, name: str = "section") -> QLabel:
    """Return a heading."""
    out = QLabel(text)
    # Names are the user's: text is text, whatever it looks like.
    out.setTextFormat(Qt.TextFormat.PlainText)
    out.setObjectName(name)
    return out


def link(words: str, call: Callable[[], object], note: str = "") -> QPushButton:
    """Return an action as an accent word."""
    button = QPushButton(words)
    button.setObjectName("link")
    button.setToolTip(note)
    button.clicked.connect(lambda _=False: call())
    return button


def page_button(words: str, call: Callable[..., object] | None = None, note: str = "") -> QToolButton:
    """Return a page as a word, underlined where it is open."""
    out = QToolButton()
    out.setObjectName("page")
    out.setText(words)
    out.setCheckable(True)
    out.setAutoRaise(True)
    out.setToolTip(note)
    if call is not None:
        out.clicked.connect(call)
    return out


def tip(text: str) -> str:
    """Return a text as a tip that shows it as it stands, broken into lines."""
    return f"<p style='white-space:pre-wrap'>{escape(said(text)[:2000])}</p>" if text else ""


class ChoiceField:
    """One row of a form in a grid layout: label and a list of choices; ``commit`` takes the key chosen."""

    def __init__(
        self,
        layout: QGridLayout,
        row: int,
        title: str,
        choices: Mapping[str, str],
        commit: Callable[[str], None],
        width: int = 222,
    ) -> None:
        self.title = section(title, "mute")
        self.combo = QComboBox()
        self.combo.setAccessibleName(title)
        sized(self.combo, fixed_width=width)
        self.title.setBuddy(self.combo)
        self.fill(choices)
        layout.addWidget(self.title, row, 0)
        layout.addWidget(self.combo, row, 1, 1, 3, Qt.AlignmentFlag.AlignLeft)
        self.combo.activated.connect(lambda _i: commit(str(self.combo.currentData())))

    def fill(self, choices: Mapping[str, str]) -> None:
        """Offer these choices, key to text."""
        present = [(self.combo.itemData(i), self.combo.itemText(i)) for i in range(self.combo.count())]
        if present != list(choices.items()):
            self.combo.clear()
            for key, text in choices.items():
                self.combo.addItem(text, key)

    def show(self, key: str) -> None:
        """Show the stored choice; one that is not offered is shown as it is stored."""
        place = self.combo.findData(key)
        if place < 0:
            self.combo.addItem(key, key)
            place = self.combo.count() - 1
        self.combo.setCurrentIndex(place)

    def set_visible(self, visible: bool) -> None:
        """Show or hide the whole row."""
        self.title.setVisible(visible)
        self.combo.setVisible(visible)
