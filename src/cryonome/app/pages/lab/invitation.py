"""What an empty desk says: what it takes, one example, and the ways to begin."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from ...widgets.fields import section
from ...widgets.theme import LIGHT, Theme

EXAMPLE = (
    ("component", "amount", "molar mass"), ("", "mol%", "g/mol"), ("CO2", "1.12", ""), ("Methane", "76.40", ""),
    ("Ethane", "8.31", ""), ("Propane", "4.02", ""), ("n-Butane", "2.15", ""), ("Hexanes", "1.90", "84"), ("Heptanes plus", "6.10", "152"),
)  # fmt: skip

TAKES = (
    (
        "A composition",
        "of a gas, a condensate or an oil: names and amounts, copied from a sheet and pasted here (Ctrl+V). It is a fluid at once.",
    ),
    (
        "A boiling curve",
        "TBP, D86, D1160, simulated distillation, or an assay by ranges, with densities and what else stands beside it.",
    ),
    (
        "A lab report",
        "whole: its composition, expansions, depletions, liberations, separators, swelling and viscosities.",
    ),
    ("A workbook", "or CSV file of any of these: drop it on the window, or choose File ▸ Import lab sheets."),
    ("Numbers", "typed one by one: begin typing, and an empty sheet opens."),
)


class Invitation(QWidget):
    """The page of a desk that has nothing yet."""

    typed = Signal(str)

    def __init__(self, ways: list[tuple[str, str, Callable[[], object]]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = LIGHT
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("An empty project")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(32, 24, 32, 24)
        layout.setSpacing(12)
        layout.addWidget(section("Bring in what the laboratory measured", "title"))
        told = section("Everything else follows: cuts, a fluid, its phase map. Nothing has to be set up first.", "mute")
        told.setWordWrap(True)
        layout.addWidget(told)
        layout.addSpacing(8)
        body = QHBoxLayout()
        body.setSpacing(48)
        left = QVBoxLayout()
        left.setSpacing(10)
        for head, text in TAKES:
            label = QLabel(f"<b>{head}</b> {text}")
            label.setTextFormat(Qt.TextFormat.RichText)
            label.setWordWrap(True)
            left.addWidget(label)
        left.addSpacing(8)
        buttons = QHBoxLayout()
        for text, tip, call in ways:
            button = QPushButton(text)
            button.setToolTip(tip)
            button.clicked.connect(lambda _c=False, c=call: c())
            buttons.addWidget(button)
        buttons.addStretch(1)
        left.addLayout(buttons)
        left.addStretch(1)
        body.addLayout(left, 3)
        right = QVBoxLayout()
        right.addWidget(section("A range it takes", "section"))
        self._cells: list[QLabel] = []
        grid = QGridLayout()
        grid.setHorizontalSpacing(24)
        grid.setVerticalSpacing(6)
        for i, row in enumerate(EXAMPLE):
            for j, text in enumerate(row):
                cell = section(text, "mute" if i == 1 else "section" if i == 0 else "")
                cell.setAlignment(Qt.AlignmentFlag.AlignLeft if j == 0 else Qt.AlignmentFlag.AlignRight)
                grid.addWidget(cell, i, j)
                self._cells.append(cell)
        table = QWidget()
        table.setLayout(grid)
        right.addWidget(table, 0, Qt.AlignmentFlag.AlignTop)
        note = section(
            "Any unit, in the header, below it or in a single cell; by mole, mass or volume, as the sheet says. Titles such as "
            "ASTM D86 or Pb = 2650 psig at 220 °F are read too. What is not sure is shown before it is taken.",
            "mute",
        )
        note.setWordWrap(True)
        right.addSpacing(8)
        right.addWidget(note)
        right.addStretch(1)
        body.addLayout(right, 2)
        layout.addLayout(body, 1)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme

    def keyPressEvent(self, event: QKeyEvent) -> None:
        text = event.text()
        if text and text.isprintable() and text.strip():
            self.typed.emit(text)
        else:
            super().keyPressEvent(event)
