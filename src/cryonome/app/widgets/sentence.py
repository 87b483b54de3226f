"""A question as its sentence: words and blanks in lines, edited in place."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from itertools import pairwise

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QLabel, QMenu, QToolButton, QVBoxLayout, QWidget

from ...document import Study
from ...document.cell_paths import named_path
from ...document.edits import set_each
from ...document.faults import PathParts
from ...document.field_types import CELL, FLUIDS, SAMPLES, Cell, Names
from ...document.kinds import study_kinds
from ...language import Verbatim
from ...questions.asking import input_words, inputs_of
from ...questions.varying import is_number
from ...wording.cells import Cells
from ...wording.spoken import Below, Blank, Edit, Part, Said, Sentence, spoken
from ..shell.live import Live
from .blank import BlankField
from .flow import CLOSING, FlowBox


class SentenceView(QWidget):
    """Words and blanks in lines."""

    rows_asked = Signal(str)
    typed = Signal(object, str, str)
    became = Signal(object, object)
    converted = Signal(object, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._sentence = Sentence(())
        self._shape: object = None
        self.fields: dict[PathParts, BlankField] = {}
        self.box = FlowBox(self)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.box)
        self.more = QToolButton()
        self.more.setObjectName("link")
        self.more.setText("more …")
        self.more.setToolTip("Show what is seldom said")
        self.more.clicked.connect(self.show_whole)

    def text(self) -> str:
        """Return the sentence in one line."""
        return self._sentence.text

    def show_whole(self) -> None:
        """Show the clauses that are seldom said."""

    def show_sentence(self, sentence: Sentence) -> None:
        """Lay out the parts anew where the sentence has others, else show them in their places."""
        self._sentence = sentence
        parts = sentence.parts
        shape = (tuple(p.path if isinstance(p, Blank) else p for p in parts), sentence.more)
        for blank in sentence.blanks():
            if blank.path not in self.fields:
                self.fields[blank.path] = self._field()
            self.fields[blank.path].show_blank(blank)
        if shape == self._shape:
            self.box.updateGeometry()
            return
        self._shape = shape
        kept = {b.path for b in sentence.blanks()}
        for widget in self.box.flow.take_all():
            if isinstance(widget, QLabel) or (isinstance(widget, QToolButton) and widget is not self.more):
                widget.hide()
                widget.deleteLater()
        for path in [p for p in self.fields if p not in kept]:
            field = self.fields.pop(path)
            field.hide()
            field.deleteLater()
        for part in parts:
            for widget in self._widgets(part):
                widget.setParent(self.box)
                self.box.flow.addWidget(widget)
                widget.show()
        self.more.setParent(self.box)
        self.box.flow.addWidget(self.more)
        self.more.setVisible(sentence.more)
        edits = [self.fields[b.path].edit for b in sentence.blanks()]
        for first, second in pairwise(edits):
            QWidget.setTabOrder(first, second)
        self.box.updateGeometry()

    def _widgets(self, part: Part) -> list[QWidget]:
        if isinstance(part, Blank):
            return [self.fields[part.path]]
        if isinstance(part, Below):
            button = QToolButton()
            button.setObjectName("link")
            button.setText(part.text)
            button.clicked.connect(lambda: self.rows_asked.emit(part.path))
            return [button]
        return [self._word(word, part) for word in re.findall(r"\S+", part.text)]

    @staticmethod
    def _word(word: str, part: Said) -> QLabel:
        # The sentence was told as a whole; its words are not told one by one.
        label = QLabel(Verbatim(word))
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setObjectName("saidquiet" if part.quiet else "said")
        label.setProperty(CLOSING, word[0] in ",.?;:")
        return label

    def _field(self) -> BlankField:
        field = BlankField(self.box)
        field.typed.connect(self.typed)
        field.became.connect(self.became)
        field.converted.connect(self.converted)
        return field


class SentenceBar(SentenceView):
    """The sentence of a question of the project; every change is an edit that can be undone."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        self._study: Study | None = None
        self._whole = False
        self._seen = ""
        self._faults: Mapping[str, str] = {}
        self._known: Mapping[str, Cell] = {}
        self.offered: dict[str, Callable[[], Mapping[str, str]]] = {}
        """What may be typed in cells of a key, by what is stored: asked for once somebody types there."""
        self.typed.connect(self._typed)
        self.became.connect(self._became)
        self.converted.connect(self._converted)

    def show_study(
        self, study: Study | None, faults: Mapping[str, str], known: Mapping[str, Cell] | None = None
    ) -> None:
        """Show a question; ``faults`` by the path in it, ``known`` values of its answer by the key of a cell."""
        if study is None or study.name != self._seen:
            self._whole, self._seen = False, study.name if study is not None else ""
        self._study, self._faults, self._known = study, faults, known or {}
        self.setVisible(study is not None)
        if study is None:
            return
        live = self._live
        self.show_sentence(
            spoken(study, live.document, live.units().of_states(), faults, live.begun_with(study), known, self._whole)
        )

    def _field(self) -> BlankField:
        field = super()._field()
        field.extra = self._extra
        field.lazy = self._offered
        return field

    def show_whole(self) -> None:
        self._whole = True
        self.show_study(self._study, self._faults, self._known)

    # -- edits -------------------------------------------------------------------------------------------------------

    def _cells(self) -> Cells | None:
        study = self._live.document.study(self._study.name) if self._study is not None else None
        return Cells(study, self._live.document, self._live.units().of_states()) if study is not None else None

    def _typed(self, blank: Blank, text: str, merge: str) -> None:
        cells = self._cells()
        if cells is None:
            return
        mark = cells.mark(blank.path) if blank.write is None else None
        if (
            cells.study.draft
            and isinstance(mark, Names)
            and mark.what in (FLUIDS, SAMPLES)
            and len(blank.path) == 1
            and blank.path[0] != "gas"
        ):
            # A draft asks about the chosen fluid; when another is chosen, it asks about that one.
            if mark.what == FLUIDS and self._live.document.fluid(text) is not None:
                self._live.select_fluid(text)
                return
            if mark.what == SAMPLES and self._live.document.sample(text) is not None:
                self._live.select_sample(text)
                return
        words = f"Change {cells.study.name}"
        key = f"{cells.study.name} {merge}" if merge else ""
        if blank.write is not None:
            self._set(blank.write(text), words, key)
            return
        value = cells.read(blank.path, text)
        changed = study_kinds()[cells.study.kind].follows(cells.study, blank.path, value, cells.document)
        if changed != {blank.path: value}:
            self._set(changed, words, key)
            return
        self._live.store.edit(words, lambda d: Cells(cells.study, d, cells.units).stored(blank.path, value, text), key)

    def _set(self, cells: Edit, words: str, merge: str = "") -> None:
        own = self._cells()
        if own is not None:
            values = {own.place(path): value for path, value in cells.items()}
            self._live.store.edit(words, lambda d: set_each(d, values), merge)

    def _became(self, blank: Blank, cells: Edit) -> None:
        if self._study is not None:
            self._set(cells, f"Change {self._study.name}")

    def _converted(self, blank: Blank, unit: str) -> None:
        cells = self._cells()
        if cells is not None:
            self._set({blank.path: cells.converted(blank.path, unit)}, f"Change a unit of {cells.study.name}")

    def _offered(self, blank: Blank) -> Mapping[str, str]:
        """Return what may be typed in a blank that there is too much of to be offered at once, by what is stored."""
        cells = self._cells()
        if cells is None:
            return {}
        mark = cells.mark(blank.path)
        if isinstance(mark, Names) and mark.what == CELL:
            document = self._live.document
            return {named_path(p, document): input_words(p, document) for p in inputs_of(document)}
        offered = self.offered.get(str(blank.path[-1]))
        return offered() if offered is not None else {}

    def _extra(self, menu: QMenu, blank: Blank) -> None:
        """Offer to vary the number of a blank."""
        cells = self._cells()
        vary = getattr(self.window(), "vary_input", None)
        if cells is not None and vary is not None and is_number(cells.value(blank.path)):
            menu.addSeparator()
            menu.addAction("Vary this", lambda: vary(cells.place(blank.path)))
