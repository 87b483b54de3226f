"""What pages that work on a question of the project share: the question, its answer, edits of it, and files of it."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QLayout, QSplitter, QVBoxLayout, QWidget

from ....document import Study, errors
from ....document.edits import set_each, study_path
from ....document.faults import PathParts, format_path
from ....document.field_types import SAMPLES, Cell
from ....document.kinds import study_kinds
from ....document.references import about, is_about_through
from ....errors import DomainError
from ....exchange.table_files import write_answer
from ...shell.live import Live
from ...widgets.fields import capital, elided, link, repolish, section
from ...widgets.letters import sized
from ...widgets.sentence import SentenceBar
from .desk import Desk
from .spreads import told_sure

COLUMN = 236
"""Pixels of the column in which a question is typed."""


class StudyDesk(Desk):
    """A page on questions of ``kinds``, the first that of its draft; it begins with the question as a sentence and
    its answer as one."""

    kinds: tuple[str, ...] = ()
    told: QLabel
    files = ""
    """The files an answer is written to, as a file dialog lists them."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.bar = SentenceBar(live)
        self.found = section("", "answer")
        self.found.setWordWrap(True)
        self.told = section("", "fault")
        self.told.setWordWrap(True)
        self.keep_button = link("keep  Ctrl+Enter", self.keep, "Put this question on the shelf")
        self.new_button = link("ask another", self.ask_another, "Leave this question on the shelf and begin a new one")
        self.state_words = section("", "mute")
        self.other_kinds = {
            k: link(k.replace("_", " "), partial(self.turn_to, k), study_kinds()[k].meaning) for k in self.kinds
        }
        self._kind = self.kinds[0] if self.kinds else ""
        self._fresh_beside: str | None = None

    # -- which question ----------------------------------------------------------------------------------------------

    def kept_questions(self) -> list[Study]:
        """Return the kept questions of the page about the chosen fluid."""
        live = self._live
        return [s for s in live.kept() if s.kind in self.kinds and self.is_own(s)]

    def is_own(self, study: Study) -> bool:
        """Tell whether a question is about what is chosen."""
        if study_kinds()[study.kind].subject == "sample":
            return about(study, SAMPLES) == self._live.sample_name
        return is_about_through(study, self._live.document, self._live.fluid_name)

    def study(self) -> Study | None:
        """Return the question shown: the kept one that is chosen, else the first about what is chosen, else the
        draft."""
        live = self._live
        chosen = live.current_study()
        own = self.kept_questions()
        if (
            self._fresh_beside is not None
            and self._fresh_beside != live.session.study_name
            and chosen is not None
            and chosen.kind in self.kinds
        ):
            self._fresh_beside = None
        if self._fresh_beside is None:
            if chosen is not None and any(s is chosen for s in own):
                self._kind = chosen.kind
                return chosen
            first = next((s for s in own if s.kind == self._kind), None)
            if first is not None:
                return first
        return live.draft(self._kind)

    def _look(self) -> None:
        """Look at the draft of the page where it shows one."""
        shown = self.study()
        shows_draft = shown is None or shown.draft
        self._live.look_at_drafts(
            type(self).__name__, (self._kind,) if shows_draft and self._kind and self.isVisible() else ()
        )

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._live.look_at_drafts(type(self).__name__, ())

    def ask_another(self) -> None:
        """Show a draft beside the questions that are kept."""
        self._fresh_beside = self._live.session.study_name
        self.refresh()

    def turn_to(self, kind: str) -> None:
        """Show a question of another kind of the page: the first that is kept, else a draft."""
        self._kind = kind
        own = [s for s in self.kept_questions() if s.kind == kind]
        self._fresh_beside = None if own else self._live.session.study_name
        if own:
            self._live.select_study(own[0].name)
        self.refresh()

    def show_draft(self, kind: str) -> None:
        """Show the draft of a kind, beside whatever is kept."""
        self._kind = kind
        self._fresh_beside = self._live.session.study_name
        self.refresh()

    def keep(self) -> None:
        """Put the draft shown on the shelf."""
        study = self.study()
        if study is not None and study.draft:
            self._fresh_beside = None
            self._live.keep(study.name)

    # -- its words ---------------------------------------------------------------------------------------------------

    def lay_out(self, *bodies: QWidget | QLayout) -> None:
        """Lay out the page: question and answer as sentences, below them its parts; the last has the room that is
        left."""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 12, 20, 12)
        layout.setSpacing(10 if len(bodies) == 1 else 6)
        layout.addLayout(self.head())
        for i, body in enumerate(bodies):
            room = int(i == len(bodies) - 1)
            if isinstance(body, QWidget):
                layout.addWidget(body, room)
            else:
                layout.addLayout(body, room)

    def head(self) -> QVBoxLayout:
        """Return the sentence, what can be done with the question, and the answer as a sentence."""
        side = QVBoxLayout()
        side.setSpacing(2)
        side.addLayout(row_right(self.keep_button, self.new_button))
        side.addWidget(self.state_words, 0, Qt.AlignmentFlag.AlignRight)
        side.addStretch(1)
        top = QHBoxLayout()
        top.setSpacing(16)
        top.addWidget(self.bar, 1)
        top.addLayout(side)
        answer = QHBoxLayout()
        answer.setSpacing(8)
        answer.addWidget(self.found, 1)
        self.sure = section("", "mute")
        self.sure.setWordWrap(True)
        self.sure.setVisible(False)
        self.or_words: QLabel | None = None
        if len(self.kinds) > 1:
            self.or_words = section("or ask", "mute")
            answer.addWidget(self.or_words)
            for button in self.other_kinds.values():
                answer.addWidget(button)
        out = QVBoxLayout()
        out.setSpacing(6)
        out.addLayout(top)
        out.addLayout(answer)
        out.addWidget(self.sure)
        out.addWidget(self.told)
        return out

    def show_head(self) -> Study | None:
        """Bring the question in step with the project: its sentence, its answer's, and what is wrong. Return it."""
        self._look()
        study, live = self.study(), self._live
        draft = study is not None and study.draft
        self.keep_button.setVisible(draft)
        self.new_button.setVisible(study is not None and not draft)
        for kind, button in self.other_kinds.items():
            button.setVisible(study is not None and kind != study.kind)
        if self.or_words is not None:
            self.or_words.setVisible(study is not None)
        if study is None:
            self.bar.show_study(None, {})
            self.state_words.setText("")
            self.found.setText(self.nothing())
            self.found.setVisible(True)
            self.told.setVisible(False)
            self.sure.setVisible(False)
            return None
        shown = live.answer(study.name)
        wrong = errors(shown.faults)
        faults = {format_path(f.path[2:]): f.message for f in shown.faults if len(f.path) > 2}
        value = shown.value or {}
        self.bar.show_study(study, faults, self.known(value))
        told = wrong[0].message if wrong else shown.error or str(value.get("error", ""))
        self.told.setText(capital(told))
        self.told.setVisible(bool(told))
        answer = self.answer()
        said = self.sentence(study, answer) if answer is not None and not told else ""
        working = shown.old and not told
        self.state_words.setText("working …" if working else "draft until kept" if draft else elided(study.name, 34))
        self.found.setText(said or (" " if not told else ""))
        self.found.setVisible(not told)
        repolish(self.found, "old", working)
        sure = told_sure(live, study, live.units_of(study).of_states())
        self.sure.setText(f"How sure: {sure}" if sure else "")
        self.sure.setVisible(bool(sure))
        return study

    def nothing(self) -> str:
        """Return what is said where nothing can be asked."""
        return "Choose or make a fluid first; every question is about one."

    def known(self, answer: dict[str, Any]) -> dict[str, Cell]:
        """Return values of the answer by the key of a cell, for a blank that becomes another quantity."""
        return {}

    def sentence(self, study: Study, answer: dict[str, Any]) -> str:
        """Return the answer as a sentence."""
        kind, asked = study_kinds()[study.kind], self._live.asked(study)
        units = self._live.units_of(study).of_states()
        if kind.says is not None and asked is not None:
            return kind.says(asked, answer, units)
        return capital(kind.line(answer, units))

    def answer(self) -> dict[str, Any] | None:
        """Return the question's answer, the last good one; None where there is none."""
        study = self.study()
        value = None if study is None else self._live.answer(study.name).value
        return value if value and value.get("ok") else None

    def edit_study(self, cells: dict[PathParts, object], text: str, merge: str = "") -> None:
        """Set cells of the question, by their paths within it, as one step that can be undone; steps of the same
        ``merge`` are one."""
        study = self.study()
        if study is not None:
            here = study_path(self._live.document, study.name)
            values = {(*here, *path): value for path, value in cells.items()}
            self._live.store.edit(text, lambda d: set_each(d, values), merge)

    def export(self) -> None:
        """Choose a file and write the answer to it, by its ending."""
        study, answer = self.study(), self.answer()
        if study is None or answer is None:
            self.told.setText("There is no answer yet that could be written.")
            self.told.setVisible(True)
            return
        chosen, _ = QFileDialog.getSaveFileName(self, "Export", f"{study.name}.xlsx", self.files)
        if not chosen:
            return
        path = Path(chosen)
        path = path if path.suffix else path.with_suffix(".xlsx")
        try:
            write_answer(path, answer, self._live.units())
            self.plots[0].saved.emit(f"Saved {path.name}")
        except (DomainError, OSError) as error:
            self.plots[0].saved.emit(f"{path.name} could not be saved: {error}")


def heading_row(title: QLabel, subtitle: QLabel) -> QHBoxLayout:
    """Return the row at the top of a page; what stands to its right follows."""
    row = QHBoxLayout()
    row.addWidget(title)
    row.addSpacing(4)
    row.addWidget(subtitle, 0, Qt.AlignmentFlag.AlignBottom)
    row.addStretch(1)
    return row


def side_by_side(left: QWidget, right: QWidget, shares: tuple[int, int], widths: tuple[int, int]) -> QSplitter:
    """Return both sides of a page beside each other, with how they share room and how wide they begin."""
    body = QSplitter()
    body.setHandleWidth(20)
    body.setChildrenCollapsible(False)
    for place, part in enumerate((left, right)):
        body.addWidget(part)
        body.setStretchFactor(place, shares[place])
    body.setSizes(list(widths))
    return body


def beside_column(column: QWidget, right: QLayout) -> QHBoxLayout:
    """Return the column in which a question is typed, of its own width, and what stands to its right."""
    sized(column, fixed_width=COLUMN)
    body = QHBoxLayout()
    body.setSpacing(20)
    body.addWidget(column)
    body.addLayout(right, 1)
    return body


def page_of(desk: Desk, *rows: QHBoxLayout) -> None:
    """Lay out a page of rows, one below the other; the last has the room that is left."""
    layout = QVBoxLayout(desk)
    layout.setContentsMargins(20, 10, 20, 12)
    layout.setSpacing(8)
    for i, row in enumerate(rows):
        layout.addLayout(row, int(i == len(rows) - 1))


def row_of(*parts: Any, spacing: int = 6) -> QHBoxLayout:
    """Return widgets in a row, to the left."""
    row = QHBoxLayout()
    row.setSpacing(spacing)
    for part in parts:
        row.addWidget(part)
    row.addStretch(1)
    return row


def row_right(*parts: Any) -> QHBoxLayout:
    """Return widgets in a row, to the right."""
    row = QHBoxLayout()
    row.setSpacing(6)
    row.addStretch(1)
    for part in parts:
        row.addWidget(part)
    return row
