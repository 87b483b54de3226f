"""What another version of the program changed in this document's answers: a page to be read and copied."""

from __future__ import annotations

from html import escape

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from ...questions.changed import Change, changes, of_other_versions
from ...questions.solving import answer_key
from ...wording.changed_words import HEAD, SHOWN, later, rows, summary, why
from .live import Live


def known_changes(live: Live) -> tuple[list[Change], list[str], int]:
    """Return the numbers that differ of the answers there are by now, the versions these were kept by, and how many
    answers are not there yet."""
    project = live.session.project
    found, compared, missing = [], [], 0
    for study, kept in of_other_versions(project.document, project):
        answer = live.evaluator.answers.peek(answer_key(study, project))
        if isinstance(answer, dict):
            found += changes(kept, answer)
            compared.append(kept.version)
        else:
            missing += 1
    return found, compared, missing


class WhatChanged(QDialog):
    """The changes as a table, and the sentences of the changelog below."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("What changed")
        self.resize(860, 560)
        found, compared, missing = known_changes(live)
        heading = QLabel(summary(found, compared) if compared or not missing else "The answers are being computed.")
        heading.setObjectName("title")
        heading.setWordWrap(True)
        self.heading = heading
        self.units = live.units()
        self.table = rows(found, self.units)
        self.text = QTextBrowser()
        self.text.setAccessibleName("What changed")
        self.text.setHtml(self._page(found, compared, missing))
        copy, done = QPushButton("copy the table"), QPushButton("close  Esc")
        copy.setObjectName("link")
        copy.setEnabled(bool(self.table))
        done.setObjectName("quiet")
        copy.clicked.connect(self.copy)
        done.clicked.connect(self.accept)
        buttons = QHBoxLayout()
        buttons.addWidget(copy)
        buttons.addStretch(1)
        buttons.addWidget(done)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 20, 24, 16)
        layout.addWidget(heading)
        layout.addSpacing(8)
        layout.addWidget(self.text, 1)
        layout.addSpacing(8)
        layout.addLayout(buttons)

    def _page(self, found: list[Change], compared: list[str], missing: int) -> str:
        out = []
        if self.table:
            cells = "".join(f'<th align="left">{escape(h)}</th>' for h in HEAD)
            shown = rows(found, self.units, SHOWN)
            body = "".join("<tr>" + "".join(f"<td>{escape(c)}</td>" for c in row) + "</tr>" for row in shown)
            out.append(f'<table cellpadding="5" cellspacing="0"><tr>{cells}</tr>{body}</table>')
            told = "".join(
                f"<p><b>{escape(v)}</b>&nbsp; {escape(text.replace('*', ''))}</p>" for v, text in why(compared)
            )
            out.append(f"<h3>Why</h3>{told or '<p>The changelog names no change of numbers since.</p>'}")
        for newer in later(compared):
            out.append(f"<p>{escape(newer)} is newer than this version, which cannot say what it changed.</p>")
        if missing:
            out.append(f"<p>{missing} answer{'s are' if missing > 1 else ' is'} not there yet.</p>")
        return "".join(out) or "<p>Numbers are kept with the version that gave them whenever the document is saved.</p>"

    def copy(self) -> None:
        """Copy the table, as a spreadsheet takes it."""
        QGuiApplication.clipboard().setText("\n".join("\t".join(row) for row in (HEAD, *self.table)))
