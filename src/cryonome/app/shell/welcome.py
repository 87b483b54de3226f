"""What is offered at a first start: the lessons, the demo, an empty project, a file."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from ..main_icon import icon

OFFERS = (
    ("lessons", "The lessons", "Five short ones on a made-up tie-back, beside the window: from an assay to a phase map, from a lab report to a tuned fluid, a cold line, a gas train, a table for a spreadsheet."),
    ("demo", "The demo project", "The Varnholt hub: two samples, seven fluids and some fifty questions with their answers, to look around and to change."),
    ("empty", "An empty project", "Paste a range of a spreadsheet, drop a lab sheet on the window, or type a sample."),
    ("open", "A file", "A project that was saved before."),
)  # fmt: skip


class Welcome(QWidget):
    """A page with four ways to begin."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("page")
        sign, heading = QLabel(), QLabel("Where shall it begin?")
        sign.setPixmap(QPixmap(icon().pixmap(72, 72)))
        heading.setObjectName("title")
        top = QHBoxLayout()
        top.addWidget(sign)
        top.addSpacing(12)
        top.addWidget(heading)
        top.addStretch(1)
        column = QVBoxLayout()
        column.addStretch(1)
        column.addLayout(top)
        column.addSpacing(16)
        self.buttons: dict[str, QPushButton] = {}
        for key, words, meaning in OFFERS:
            button, told = QPushButton(words), QLabel(meaning)
            button.setObjectName("link")
            button.setAccessibleDescription(meaning)
            button.clicked.connect(lambda _checked=False, key=key: self.chosen.emit(key))
            told.setObjectName("mute")
            told.setWordWrap(True)
            told.setMaximumWidth(620)
            told.setIndent(4)
            self.buttons[key] = button
            column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
            column.addWidget(told)
            column.addSpacing(10)
        column.addStretch(2)
        layout = QHBoxLayout(self)
        layout.addStretch(1)
        layout.addLayout(column, 3)
        layout.addStretch(1)
