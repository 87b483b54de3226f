"""Asking by typing: a line that becomes a question while one types, with what is not understood underlined."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QKeyEvent, QTextCharFormat, QTextCursor
from PySide6.QtWidgets import QDialog, QListWidget, QPlainTextEdit, QTextEdit, QVBoxLayout, QWidget

from ...document import Study
from ...document.edits import add_study
from ...wording.spoken import spoken
from ...wording.typed import understood, words_known
from ...wording.typed_pieces import Understood
from ..widgets.fields import section
from ..widgets.theme import Theme
from .live import Live

OFFERED = 7
"""Words offered at once."""

EXAMPLES = "for example: hydrates of … from 20 to 250 bar with 25 % methanol · dew point at 40 bar · density at 30 C and 80 bar"


class _Line(QPlainTextEdit):
    """One line of text whose stretches can be underlined."""

    def __init__(self, owner: AskLine) -> None:
        super().__init__()
        self._owner = owner
        self.setAccessibleName("Ask by typing")
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTabChangesFocus(False)
        self.setFixedHeight(self.fontMetrics().height() + 16)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._owner.take()
        elif event.key() == Qt.Key.Key_Tab:
            self._owner.complete()
        elif event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self._owner.go(1 if event.key() == Qt.Key.Key_Down else -1)
        else:
            super().keyPressEvent(event)


class AskLine(QDialog):
    """The line, the words that may come next, and the sentence it stands for."""

    def __init__(self, live: Live, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Ask")
        self._live, self._theme = live, theme
        self.study: Study | None = None
        self._words = words_known(live.document)
        self.line = _Line(self)
        self.line.setPlaceholderText("What do you want to know?")
        self.line.textChanged.connect(self._changed)
        self.list = QListWidget()
        self.list.setAccessibleName("Words")
        self.list.itemClicked.connect(lambda _i: self.complete())
        self.said = section("", "answer")
        self.said.setWordWrap(True)
        self.wrong = section("", "fault")
        self.wrong.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 14, 16, 14)
        layout.setSpacing(8)
        layout.addWidget(self.line)
        layout.addWidget(self.said)
        layout.addWidget(self.wrong)
        layout.addWidget(self.list, 1)
        layout.addWidget(section("Tab completes a word, Enter asks.", "mute"))
        self.resize(min(760, parent.width() - 80), 320)
        self._changed()

    def text(self) -> str:
        """Return what was typed."""
        return self.line.toPlainText().replace("\n", " ")

    def _changed(self) -> None:
        text = self.text()
        live = self._live
        found = understood(text, live.document, live.fluid_name, live.sample_name) if text.strip() else Understood(None)
        self.study = found.study
        self._underline(found)
        self.wrong.setText(_joined(found) if found.unclear and not self._still_typing(found) else "")
        self.wrong.setVisible(bool(self.wrong.text()))
        self.said.setText(self._sentence() if found.study is not None else "" if text.strip() else EXAMPLES)
        self.said.setVisible(bool(self.said.text()))
        self.list.clear()
        part = self._part()
        if part:
            near = [w for w in self._words if w.casefold().startswith(part)] + [
                w for w in self._words if f" {part}" in w.casefold()
            ]
            self.list.addItems(list(dict.fromkeys(near))[:OFFERED])
            self.list.setCurrentRow(0)

    def _still_typing(self, found: Understood) -> bool:
        """Tell whether what is not understood is the word that is being typed, which has a beginning in common with a
        known one."""
        end = len(self.text())
        part = self._part()
        return (
            bool(part)
            and all(u.end >= end for u in found.unclear)
            and any(w.casefold().startswith(part) for w in self._words)
        )

    def _sentence(self) -> str:
        assert self.study is not None
        document = add_study(self._live.document, self.study)
        return spoken(document.studies[-1], document, self._live.units().of_states()).text

    def _underline(self, found: Understood) -> None:
        marks = []
        for u in found.unclear:
            if u.end <= u.start:
                continue
            mark = QTextEdit.ExtraSelection()
            cursor = QTextCursor(self.line.document())
            cursor.setPosition(u.start)
            cursor.setPosition(u.end, QTextCursor.MoveMode.KeepAnchor)
            look = QTextCharFormat()
            look.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
            look.setUnderlineColor(QColor(self._theme.fault))
            mark.cursor, mark.format = cursor, look
            marks.append(mark)
        self.line.setExtraSelections(marks)

    def _part(self) -> str:
        """Return the beginning of a word or name before the cursor."""
        before = self.text()[: self.line.textCursor().position()].casefold()
        words = before.split(" ")
        for count in range(min(4, len(words)), 0, -1):
            part = " ".join(words[-count:])
            if len(part) > 1 and any(w.casefold().startswith(part) and w.casefold() != part for w in self._words):
                return part
        return ""

    def go(self, step: int) -> None:
        """Go to the next word offered."""
        self.list.setCurrentRow(min(max(self.list.currentRow() + step, 0), self.list.count() - 1))

    def complete(self) -> None:
        """Put the word offered into the line."""
        item, part = self.list.currentItem(), self._part()
        if item is None or not part:
            return
        cursor = self.line.textCursor()
        cursor.movePosition(QTextCursor.MoveOperation.Left, QTextCursor.MoveMode.KeepAnchor, len(part))
        cursor.insertText(f"{item.text()} ")
        self.line.setFocus()

    def take(self) -> None:
        """Ask what stands there, where all of it is understood."""
        if self.study is not None:
            self.accept()
        else:
            self.wrong.setText(
                _joined(understood(self.text(), self._live.document, self._live.fluid_name, self._live.sample_name))
            )
            self.wrong.setVisible(True)


def _joined(found: Understood) -> str:
    return "; ".join(u.message for u in found.unclear)
