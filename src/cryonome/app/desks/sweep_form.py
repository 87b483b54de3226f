"""The forms of a sweep and of a goal: which question is asked, what is varied and between what, and what is read."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QFocusEvent
from PySide6.QtWidgets import QComboBox, QCompleter, QGridLayout, QLineEdit, QWidget

from ...document import Document
from ...document.cell_kinds import kind_of_cell
from ...document.cell_paths import named_path
from ...document.edits import get_at
from ...document.faults import PathParts
from ...document.reader import Reader
from ...document.references import asks_another
from ...studies.answer_paths import key_words
from ...studies.asking import around, input_words, inputs_of, is_number, numbers_in
from ...studies.kinds.goal import GoalStudy
from ...studies.kinds.sweep import Asked, SweepStudy, Variation
from ...studies.sentences import Units
from ...studies.varying import read_path
from ...units.endings import kind_of_key
from ...wording.entry import entry_of, taken_as
from ..fields import repolish, section, tip
from .range_form import RangeForm

Store = Callable[[dict[PathParts, object], str], None]


class PathEntry(QLineEdit):
    """An input of the document by its words, chosen from all there are, or by its path."""

    def __init__(self, name: str, store: Callable[[str], None]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self._store = store
        self._paths: dict[str, str] = {}
        self._document: Document | None = None
        self._shown = ""
        self.editingFinished.connect(self._finished)

    def show_path(self, path: str, document: Document, fault: str) -> None:
        """Show a path by its words; nothing for none."""
        if document is not self._document:
            self._document, self._paths = document, {}
        parts = read_path(path, document, Reader()) if path else None
        self._shown = input_words(parts, document) if parts is not None else path
        if not self.hasFocus():
            self.setText(self._shown)
            self.setCursorPosition(0)
        self.setToolTip(tip(fault or path))
        repolish(self, "fault", bool(fault))

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._offer()
        super().focusInEvent(event)

    def _offer(self) -> dict[str, str]:
        """Return every input there is by its words, gathered when somebody types here."""
        document = self._document
        if document is not None and not self._paths:
            self._paths = {input_words(p, document): named_path(p, document) for p in inputs_of(document)}
            completer = QCompleter(list(self._paths), self)
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            self.setCompleter(completer)
        return self._paths

    def _finished(self) -> None:
        text = self.text().strip()
        if text and text != self._shown:
            self._shown = text
            self._store(self._offer().get(text, text))


class OfChoice(QComboBox):
    """The question that is asked."""

    def __init__(self, store: Callable[[str], None]) -> None:
        super().__init__()
        self.setAccessibleName("Question asked")
        self.textActivated.connect(store)

    def show_name(self, name: str, document: Document) -> None:
        """Show the name of the question asked among those there are."""
        names = [s.name for s in document.studies if not asks_another(s)]
        if [self.itemText(i) for i in range(self.count())] != names:
            self.clear()
            self.addItems(names)
        self.setCurrentIndex(self.findText(name))


class SweepForm(QWidget):
    """One or two inputs with their ranges, and the question they are varied in."""

    def __init__(self, store: Store) -> None:
        super().__init__()
        self._store = store
        self._study: SweepStudy | None = None
        self._document = Document()
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setHorizontalSpacing(6)
        layout.setVerticalSpacing(5)
        layout.setColumnStretch(4, 1)
        self.of = OfChoice(lambda name: store({("of",): name}, "Ask another question"))
        layout.addWidget(section("asks", "mute"), 0, 0)
        layout.addWidget(self.of, 0, 1, 1, 4)
        self.paths: list[PathEntry] = []
        self.ranges: list[RangeForm] = []
        for place, words in enumerate(("varies", "and varies")):
            row = 1 + 6 * place
            entry = PathEntry(f"{words}, input {place + 1}", partial(self._set_path, place))
            entry.setPlaceholderText("" if place == 0 else "a second input, or none")
            self.paths.append(entry)
            layout.addWidget(section(words, "mute"), row, 0)
            layout.addWidget(entry, row, 1, 1, 4)
            head = section("", "mute")
            self.ranges.append(
                RangeForm(
                    layout,
                    row + 1,
                    head,
                    f"input {place + 1}",
                    partial(self._set_range, place),
                )
            )

    def _inputs(self) -> list[Variation]:
        if self._study is None:
            return []
        vary = self._study.vary
        return list(vary) if isinstance(vary, tuple) else [vary]

    def _put(self, inputs: list[Variation], text: str) -> None:
        self._store({("vary",): tuple(inputs) if len(inputs) > 1 else inputs[0]}, text)

    def _set_path(self, place: int, path: str) -> None:
        """Vary another input, about its present value."""
        document, inputs = self._document, self._inputs()
        parts = read_path(path, document, Reader())
        present = get_at(document, parts) if parts is not None else None
        low, high = around(present) if is_number(present) else (None, None)
        fresh = Variation(path=path, begin=low, end=high, steps=10)
        inputs[place : place + 1] = [fresh]
        self._put(inputs, "Vary another input")

    def drop_second(self) -> None:
        """Vary one input only."""
        inputs = self._inputs()
        if len(inputs) > 1:
            self._put(inputs[:1], "Vary one input")

    def _set_range(self, place: int, cells: dict[str, object], text: str) -> None:
        inputs = self._inputs()
        if place < len(inputs):
            inputs[place] = inputs[place].model_copy(update=cells)
            self._put(inputs, text)

    def show_question(self, study: SweepStudy, asked: Asked | None, document: Document, faults: dict[str, str]) -> None:
        """Show a sweep."""
        self._study, self._document = study, document
        self.of.show_name(study.of, document)
        inputs = self._inputs()
        for place, (entry, form) in enumerate(zip(self.paths, self.ranges)):
            start = f"vary[{place}]." if isinstance(study.vary, tuple) else "vary."
            own = (
                {k.removeprefix(start): m for k, m in faults.items() if k.startswith(start)}
                if place < len(inputs)
                else {}
            )
            given = inputs[place] if place < len(inputs) else None
            entry.show_path(given.path if given is not None else "", document, own.get("path", ""))
            read = asked.inputs[place] if asked is not None and place < len(asked.inputs) else None
            values = read.values if read is not None else ()
            step = (
                f"{(values[-1] - values[0]) / (len(values) - 1):.4g}"
                if len(values) > 1 and given is not None and given.scale == "linear" and given.values is None
                else ""
            )
            kind = kind_of_cell(given.path, document) if given is not None else None
            form.show_range(given, values, step, own, kind, Units.of(document.display.units))


class GoalForm(QWidget):
    """The input and its ends, what is read, and what it is to be."""

    def __init__(self, store: Store) -> None:
        super().__init__()
        self._store = store
        self._study: GoalStudy | None = None
        self._document = Document()
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setHorizontalSpacing(6)
        layout.setVerticalSpacing(5)
        layout.setColumnStretch(1, 1)
        layout.setColumnStretch(3, 1)
        self.of = OfChoice(lambda name: store({("of",): name}, "Ask another question"))
        self.read = QComboBox()
        self.read.setAccessibleName("Result")
        self.read.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.read.activated.connect(lambda _i: store({("read",): str(self.read.currentData())}, "Read another result"))
        self.path = PathEntry("Input", self._set_path)
        self.target, self.low, self.high = (self._entry(n) for n in ("Target", "Least value", "Largest value"))
        self.target.editingFinished.connect(lambda: self._finished(("target",), self.target))
        self.low.editingFinished.connect(lambda: self._ends(0, self.low))
        self.high.editingFinished.connect(lambda: self._ends(1, self.high))
        rows = (("asks", self.of), ("makes", self.read), ("equal", self.target), ("by", self.path))
        for row, (words, part) in enumerate(rows):
            layout.addWidget(section(words, "mute"), row, 0)
            layout.addWidget(part, row, 1, 1, 3)
        layout.addWidget(section("between", "mute"), 4, 0)
        layout.addWidget(self.low, 4, 1)
        layout.addWidget(section("and", "mute"), 4, 2)
        layout.addWidget(self.high, 4, 3)

    @staticmethod
    def _entry(name: str) -> QLineEdit:
        entry = QLineEdit()
        entry.setAccessibleName(name)
        entry.setAlignment(Qt.AlignmentFlag.AlignRight)
        return entry

    def _units(self) -> Units:
        return Units.of(self._document.display.units).of_states()

    def _finished(self, path: PathParts, entry: QLineEdit) -> None:
        text = entry.text().strip()
        if text != entry.property("shown"):
            study = self._study
            cell = taken_as(text, study.target, _read_kind(study), self._units()) if study is not None else None
            self._store({path: cell}, "Change a goal")

    def _ends(self, place: int, entry: QLineEdit) -> None:
        text = entry.text().strip()
        if self._study is not None and text != entry.property("shown"):
            ends = list(self._study.vary.between)
            kind = kind_of_cell(self._study.vary.path, self._document)
            ends[place] = taken_as(text, ends[place], kind, self._units())
            self._store({("vary", "between"): tuple(ends)}, "Change a goal")

    def _set_path(self, path: str) -> None:
        parts = read_path(path, self._document, Reader())
        present = get_at(self._document, parts) if parts is not None else None
        cells: dict[PathParts, object] = {("vary", "path"): path}
        if is_number(present):
            cells[("vary", "between")] = around(present)
        self._store(cells, "Vary another input")

    def show_question(self, study: GoalStudy, answer: dict | None, document: Document, faults: dict[str, str]) -> None:  # fmt: skip
        """Show a goal; ``answer`` is that of the question asked as it stands."""
        self._study, self._document = study, document
        self.of.show_name(study.of, document)
        found = [path for path, _ in numbers_in(answer)] if answer else []
        paths = list(dict.fromkeys([study.read, *found]))
        if [self.read.itemData(i) for i in range(self.read.count())] != paths:
            self.read.clear()
            for path in paths:
                self.read.addItem(key_words(path), path)
        self.read.setCurrentIndex(self.read.findData(study.read))
        repolish(self.read, "fault", "read" in faults)
        self.path.show_path(study.vary.path, document, faults.get("vary.path", ""))
        for key, entry, cell in (
            ("target", self.target, study.target), ("vary.between", self.low, study.vary.between[0]),
            ("vary.between", self.high, study.vary.between[1]),
        ):  # fmt: skip
            kind = _read_kind(study) if key == "target" else kind_of_cell(study.vary.path, document)
            text = entry_of(cell, kind, self._units()).whole
            if not (entry.hasFocus() and text == entry.property("shown")):
                entry.setText(text)
            entry.setProperty("shown", text)
            fault = next((m for k, m in faults.items() if k.startswith(key)), "")
            entry.setToolTip(tip(fault))
            repolish(entry, "fault", bool(fault))


def _read_kind(study: GoalStudy) -> str:
    """Return what the value that a goal reads measures."""
    in_percent = isinstance(study.target, str) and "%" in study.target
    return kind_of_key(study.read)[0] or ("fraction" if in_percent else "")
