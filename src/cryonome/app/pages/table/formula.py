"""The page of a table's formula: what it is worth, its texts to hand over, and its deviation from every cell."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QFontDatabase, QGuiApplication
from PySide6.QtWidgets import QHBoxLayout, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from ....fluids.property_choice import described
from ....questions.compact import LETTERS, Compact
from ....questions.tabulate import Fitted, PropertyTable
from ....telling.sentences import Units
from ....units import format_number
from ...widgets.fields import capital, section
from ...widgets.plot import Plot, pen
from ...widgets.surface import Surface
from ...widgets.theme import Theme
from .views import axis_of, spread, surface_of

TEXTS = {"spreadsheet": "For a spreadsheet", "python": "As Python"}


class FormulaPage(QWidget):
    """The words at the left, the deviations at the right; of one axis as a curve, of two as a surface."""

    def __init__(self, take_part: Callable[[tuple[tuple[float, float], ...]], None]) -> None:
        super().__init__()
        self._fitted: Fitted | None = None
        self._kind = "spreadsheet"
        self.told = section("", "")
        self.told.setWordWrap(True)
        self.part_button = QPushButton("Tabulate that part")
        self.part_button.clicked.connect(lambda: take_part(self._fitted.part) if self._fitted is not None else None)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("The formula")
        self.text.setFont(QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont))
        buttons = QHBoxLayout()
        for kind, words in TEXTS.items():
            button = QPushButton(words)
            button.clicked.connect(lambda _on, k=kind: self.show_text(k))
            buttons.addWidget(button)
        self.copy_button = QPushButton("Copy")
        self.copy_button.clicked.connect(lambda: QGuiApplication.clipboard().setText(self.text.toPlainText()))
        buttons.addWidget(self.copy_button)
        buttons.addStretch(1)
        self.surface = Surface("Deviation of the formula")
        self.curve = Plot("Deviation of the formula")
        left = QVBoxLayout()
        left.addWidget(self.told)
        left.addWidget(self.part_button)
        left.addLayout(buttons)
        left.addWidget(self.text, 1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(18)
        layout.addLayout(left, 2)
        layout.addWidget(self.surface, 3)
        layout.addWidget(self.curve, 3)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.surface.set_theme(theme)
        self.curve.set_theme(theme)

    def show_text(self, kind: str) -> None:
        """Show the formula as a spreadsheet's or as a Python function."""
        self._kind = kind
        found = self._fitted.compact if self._fitted is not None else None
        self.text.setPlainText("" if found is None else found.formula() if kind == "spreadsheet" else found.python())

    def show_fitted(self, fitted: Fitted | None, table: PropertyTable | None, units: Units, error: str) -> None:
        """Show a formula, or why there is none."""
        self._fitted = fitted
        found = fitted.compact if fitted is not None else None
        if fitted is None:
            words = capital(error) if error else "Choose a property at the left and press “Formula of it”."
        else:
            words = capital(fitted.refused) if found is None else self._worth(found, units)
        self.told.setText(words)
        self.part_button.setVisible(bool(fitted is not None and fitted.part))
        for part in (self.text, self.copy_button):
            part.setVisible(found is not None)
        self.show_text(self._kind)
        single = table is not None and len(table.axes) == 1
        there = fitted is not None and fitted.residuals is not None and table is not None
        self.surface.setVisible(not single)
        self.curve.setVisible(single)
        if there and fitted is not None and fitted.residuals is not None and table is not None:
            percent = 100.0 * fitted.residuals
            if single:
                x = axis_of(table, 0, units)
                self.curve.set_titles(x.title, "Deviation, %")
                self.curve.fit_x(*spread(x.values))
                self.curve.fit_y(*spread(percent), padding=0.06)
                self.curve.begin()
                self.curve.line("deviation", x.values, percent, pen(self.curve.theme.accent, 1.8))
                self.curve.end()
            else:
                self.surface.show_data(surface_of(table, fitted.key, percent, units, "Deviation"))
        else:
            self.surface.show_data(None)

    @staticmethod
    def _worth(found: Compact, units: Units) -> str:
        name, of, _ = described(found.key)
        where = ", ".join(
            f"{LETTERS[v]} from {low:.6g} to {high:.6g} {unit}".rstrip()
            for v, (low, high), unit in zip(found.variables, found.ranges, found.units)
        )
        order = " × ".join(str(o) for o in found.orders)
        log = "the logarithm of " if found.logarithm else ""
        return (
            f"A polynomial of order {order} of {log}{name[:1].lower() + name[1:]} of {of}, chosen by points left out: there it is off by "
            f"{format_number(100.0 * found.average_error, 2)} % on average and {format_number(100.0 * found.worst_error, 2)} % at worst. "
            f"It holds for {where}, in SI."
        )
