"""The lessons beside the window: one is read while its steps are done."""

from __future__ import annotations

import re

from PySide6.QtCore import QSize, Qt, QUrl, Signal
from PySide6.QtGui import QImage, QResizeEvent, QTextCursor, QTextDocument
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from ...lessons import FOLDER, lessons
from ..widgets.theme import LIGHT, Theme

WIDTH = 340
"""Pixels beside the page."""


class _Text(QTextBrowser):
    """A text whose pictures are as wide as it is."""

    def __init__(self) -> None:
        super().__init__()
        self.setOpenLinks(False)
        self.setFrameShape(QTextBrowser.Shape.NoFrame)
        self.setAccessibleName("Lesson")
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.source_text = ""

    def loadResource(self, kind: int, name: QUrl | str) -> object:
        path = FOLDER / (name.toString() if isinstance(name, QUrl) else name)
        if kind != QTextDocument.ResourceType.ImageResource.value or not path.is_file():
            return super().loadResource(kind, name)
        ratio = self.devicePixelRatioF()
        image = QImage(str(path)).scaledToWidth(
            max(100, int((self.viewport().width() - 16) * ratio)), Qt.TransformationMode.SmoothTransformation
        )
        image.setDevicePixelRatio(ratio)
        return image

    def show_text(self, text: str) -> None:
        self.source_text = text
        self.document().clear()
        # Beside a page there is room for small headings, and for lines that wrap.
        self.setMarkdown(re.sub(r"^(#+) ", r"##\1 ", text, flags=re.MULTILINE))
        block = self.document().begin()
        while block.isValid():
            look = block.blockFormat()
            if look.nonBreakableLines():
                look.setNonBreakableLines(False)
                QTextCursor(block).setBlockFormat(look)
            block = block.next()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width() and self.source_text:
            at = self.verticalScrollBar().value()
            self.show_text(self.source_text)
            self.verticalScrollBar().setValue(at)

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, 400)


class LessonsPanel(QWidget):
    """A lesson, and the way to the others."""

    left = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("page")
        self.setFixedWidth(WIDTH)
        self.lessons = lessons()
        self.theme: Theme = LIGHT
        self.choice = QComboBox()
        self.choice.addItems([f"{k}  {one.title}" for k, one in enumerate(self.lessons, 1)])
        self.choice.setAccessibleName("Lesson to read")
        self.choice.currentIndexChanged.connect(self._show)
        self.text = _Text()
        self.before, self.next, leave = QPushButton("the one before"), QPushButton("the next"), QPushButton("close")
        for button in (self.before, self.next):
            button.setObjectName("link")
        leave.setObjectName("quiet")
        self.before.clicked.connect(lambda: self.choice.setCurrentIndex(self.choice.currentIndex() - 1))
        self.next.clicked.connect(lambda: self.choice.setCurrentIndex(self.choice.currentIndex() + 1))
        leave.clicked.connect(self.left.emit)
        below = QHBoxLayout()
        below.addWidget(self.before)
        below.addWidget(self.next)
        below.addStretch(1)
        below.addWidget(leave)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 12, 12, 8)
        layout.addWidget(self.choice)
        layout.addWidget(self.text, 1)
        layout.addLayout(below)
        self._show(0)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.text.document().setDefaultStyleSheet(f"a {{ color: {theme.accent}; }} code {{ color: {theme.accent}; }}")
        self._show(self.choice.currentIndex())

    def _show(self, at: int) -> None:
        self.text.show_text(self.lessons[at].text)
        self.before.setEnabled(at > 0)
        self.next.setEnabled(at < len(self.lessons) - 1)
