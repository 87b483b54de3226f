"""The page of what was read of sheets: every block with the meaning of each column, to be changed there, before
anything is taken."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from pydantic import ValidationError
from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QHBoxLayout,
    QHeaderView,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ...exchange import Block, Choice, ExchangeError, Found
from ...exchange.cells import Sheet, csv_sheet, read_sheets
from ...exchange.found import CHOSEN, DOUBTFUL, SAID, UNREAD, Choices
from ...exchange.offers import BASES, bases, meanings, units, words_of
from ...exchange.reading import read_sheets_of
from ...units import QuantityError, from_si, label, parse
from ...watch import Watch
from ..widgets.fields import elided, section
from ..widgets.grid import GridModel, GridView
from ..widgets.letters import pixels
from ..widgets.plot import Plot, pen
from ..widgets.theme import LIGHT, Theme
from .jobs import Jobs, Outcome

SLOT = "import"


@dataclass(frozen=True)
class Source:
    """Where sheets came from: the name they are shown under, their sheets, and the sentence why there are none."""

    name: str
    sheets: tuple[Sheet, ...] = ()
    error: str = ""


def sources_of(paths: Sequence[Path], watch: Watch) -> list[Source]:
    """Return the sheets of files. Raises Cancelled."""
    out = []
    for k, path in enumerate(paths):
        try:
            out.append(Source(path.stem, tuple(read_sheets(path, watch.part(k / len(paths), (k + 0.5) / len(paths))))))
        except (ExchangeError, ValidationError) as error:
            out.append(Source(path.name, error=str(error)))
        except OSError as error:
            out.append(Source(path.name, error=f"{path.name} cannot be read: {(error.strerror or str(error)).lower()}"))
    return out


def source_of_text(text: str, name: str) -> Source:
    """Return pasted text as a sheet."""
    try:
        return Source(name, (csv_sheet(text, name),))
    except ExchangeError as error:
        return Source(name, error=str(error))


NOTHING = Found()


@dataclass(frozen=True)
class Read:
    """What was found in a source."""

    source: Source
    found: Found = NOTHING


def read_sources(sources: Sequence[Source], choices: Choices, watch: Watch) -> list[Read]:
    """Return what is in each source. Raises Cancelled."""
    out = []
    for k, source in enumerate(sources):
        part = watch.part(k / len(sources), (k + 1) / len(sources))
        out.append(
            Read(source, read_sheets_of(source.sheets, source.name, choices, part) if source.sheets else NOTHING)
        )
    return out


def things_of(block: Block) -> str:
    """Return what a block gives, in words."""
    named = [
        ("sample", [s.name for s in block.samples]),
        ("fluid", [f.name for f in block.fluids]),
        ("brine", [b.name or "water" for b in block.brines]),
    ]
    told = [
        f"{word}{'s' if len(names) > 1 else ''}  {', '.join(names[:3])}{f' and {len(names) - 3} more' if len(names) > 3 else ''}"
        for word, names in named
        if names
    ]
    tests = [f"{t.kind}{f' at {_shown(t.temperature)}' if t.temperature else ''}" for t in block.tests]
    if tests:
        told.append(
            f"test{'s' if len(tests) > 1 else ''}  {', '.join(tests[:2])}{f' and {len(tests) - 2} more' if len(tests) > 2 else ''}"
        )
    return "; ".join(told) or "not read"


def headline(block: Block) -> str:
    """Return a block in a few words."""
    if block.kind == "boiling curve" and block.samples:
        curve = block.samples[0].distillation
        basis = f" by {curve.basis}" if curve.basis else ""
        return f"Boiling curve, {curve.method}{basis}, {len(curve.points)} points"
    if block.kind == "composition":
        column = next((c for c in block.columns if c.meaning == "amount"), None)
        count = len(block.rows)
        return f"Composition, {BASES.get(column.basis, '') if column else ''}, {count} rows"
    words = {"expansion": "Constant composition expansion", "depletion": "Constant volume depletion", "liberation": "Differential liberation", "separators": "Train of separators",
             "swelling": "Swelling test", "viscosity": "Viscosities", "saturation": "Saturation pressures", "assay by ranges": "Assay by boiling ranges", "salts": "Water analysis", "fluid tables": "A fluid as tables"}  # fmt: skip
    return words.get(block.kind, "A table that is not known")


class BlockModel(GridModel):
    """The cells of a block, each column under what it was taken for."""

    headers_ask = True

    def __init__(self) -> None:
        super().__init__()
        self.block: Block | None = None

    def show_block(self, block: Block | None) -> None:
        """Show another block."""
        self.beginResetModel()
        self.block = block
        self.endResetModel()

    def titles(self) -> list[tuple[str, str]]:
        if self.block is None:
            return []
        out = []
        for k in range(len(self.block.keys)):
            column = self.block.column(k)
            if column is None or column.meaning == UNREAD:
                out.append(("not read ▾", ""))
                continue
            below = " ".join(
                p
                for p in (
                    BASES.get(column.basis, ""),
                    label(column.unit) if column.unit not in ("%", "") else "" if column.basis else column.unit,
                )
                if p
            )
            mark = " ?" if column.sure not in (SAID, CHOSEN) else ""
            out.append((f"{words_of(column.meaning)} ▾", f"{below}{mark}"))
        return out

    def rows(self) -> int:
        return 0 if self.block is None else len(self.block.rows) + 1

    def text(self, row: int, column: int) -> str:
        if self.block is None:
            return ""
        return self.block.heads[column] if row == 0 else self.block.rows[row - 1][column]

    def left_aligned(self, column: int) -> bool:
        own = self.block.column(column) if self.block is not None else None
        return own is not None and own.meaning in ("component", "unit of the row", "boiling range")

    def muted(self, row: int, column: int) -> bool:
        own = self.block.column(column) if self.block is not None else None
        return row == 0 or own is None or own.meaning in (UNREAD, "amount, to compare")

    def tip(self, row: int, column: int) -> str:
        return self.text(row, column) if len(self.text(row, column)) > 12 else ""


class PreviewPage(QWidget):
    """What was read: blocks at the left with what was assumed and what was left out, the cells of the chosen one at
    the right."""

    taken = Signal(object)
    """The blocks that are taken, when Enter or *take all* says so."""
    left = Signal()

    def __init__(self, jobs: Jobs, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = LIGHT
        self._jobs = jobs
        self._key: object = None
        self.sources: list[Source] = []
        self.read: list[Read] = []
        self.choices: dict[tuple[str, int, int], Choice] = {}
        self._dropped: set[tuple[int, tuple[str, int, int]]] = set()
        self._listing = False
        self.heading, self.told = section("", "title"), section("", "mute")
        for text in (self.heading, self.told):
            text.setTextFormat(Qt.TextFormat.PlainText)
        self.told.setWordWrap(True)
        self.leave, self.take = QPushButton("leave  Esc"), QPushButton("take all  Enter")
        self.take.setObjectName("link")
        self.leave.setObjectName("quiet")
        self.leave.clicked.connect(self.reject)
        self.take.clicked.connect(self.accept)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setMaximumWidth(300)
        self.list = QListWidget()
        self.list.setObjectName("blocks")
        self.list.setAccessibleName("Blocks found")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(self._choose)
        self.list.itemChanged.connect(self._checked)
        self.notes = QListWidget()
        self.notes.setAccessibleName("Assumed")
        self.notes.setWordWrap(True)
        self.notes_heading = section("Assumed", "section")
        self.left_heading = section("Not read", "section")
        self.left_out = QListWidget()
        self.left_out.setAccessibleName("Not read")
        self.left_out.setWordWrap(True)
        self.model = BlockModel()
        self.grid = GridView(self.model)
        self.grid.setAccessibleName("The cells of the block")
        self.grid.unit_clicked.connect(self._menu)
        self.grid.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        self.plot = Plot("What was read")
        self.plot.setMaximumHeight(230)
        self._lay_out()
        for keys, call in (("Return", self.accept), ("Enter", self.accept)):
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(call)
        jobs.progress.connect(lambda slot, share: self.bar.setValue(round(100.0 * share)) if slot == SLOT else None)
        jobs.finished.connect(self._arrived)

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.addWidget(self.heading, 1)
        top.addWidget(self.leave)
        top.addWidget(self.take)
        side = QVBoxLayout()
        side.setSpacing(8)
        side.addWidget(self.list, 3)
        side.addWidget(self.notes_heading)
        side.addWidget(self.notes, 2)
        side.addWidget(self.left_heading)
        side.addWidget(self.left_out, 2)
        sidebar = QWidget()
        sidebar.setLayout(side)
        side.setContentsMargins(0, 0, 0, 0)
        sidebar.setFixedWidth(300)
        main = QVBoxLayout()
        main.addWidget(self.grid, 3)
        main.addWidget(self.plot, 2)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addWidget(sidebar)
        body.addLayout(main, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 14, 20, 12)
        layout.setSpacing(8)
        layout.addLayout(top)
        layout.addWidget(self.told)
        layout.addWidget(self.bar)
        layout.addLayout(body, 1)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.grid.set_theme(theme)
        self.plot.set_theme(theme)
        self._draw()

    # -- reading
    # ---------------------------------------------------------------------------------------------------------

    def open_paths(self, paths: Sequence[Path]) -> None:
        """Read files off the interface thread and show what is in them."""
        names = ", ".join(p.name for p in paths[:3]) + (f" and {len(paths) - 3} more" if len(paths) > 3 else "")
        self._begin(names)
        self._submit(lambda watch: (s := sources_of(paths, watch), read_sources(s, {}, watch)))

    def open_read(self, read: list[Read], choices: dict[tuple[str, int, int], Choice] | None = None) -> None:
        """Show what was read already."""
        self._begin(", ".join(r.source.name for r in read))
        self.choices = dict(choices or {})
        self.show_read([r.source for r in read], read)

    def _begin(self, names: str) -> None:
        self.choices, self._dropped, self.read, self.sources = {}, set(), [], []
        self.heading.setText(f"Reading {elided(names, 60)} …")
        self._names = elided(names, 60)
        self.told.setText("")
        self.bar.setValue(0)
        self.bar.setVisible(True)
        self._fill()

    def _submit(self, work: Callable[[Watch], object]) -> None:
        self._key = object()
        self._jobs.submit(SLOT, self._key, work)

    def _arrived(self, outcome: Outcome) -> None:
        if outcome.slot != SLOT or outcome.key is not self._key:
            return
        if outcome.value is None:
            self.bar.setVisible(False)
            self.told.setText(outcome.error)
            return
        sources, read = outcome.value
        self.show_read(sources, read)

    def show_read(self, sources: list[Source], read: list[Read]) -> None:
        """Show what was read of sources."""
        self.sources, self.read = list(sources), list(read)
        self.bar.setVisible(False)
        self._fill()

    def _again(self) -> None:
        """Read once more with what was chosen."""
        sources, choices = self.sources, dict(self.choices)
        self._submit(lambda watch: (sources, read_sources(sources, choices, watch)))

    # -- what is shown
    # -------------------------------------------------------------------------------------------------------

    def blocks(self) -> list[tuple[int, Block]]:
        """Return the blocks with the number of their source."""
        return [(k, b) for k, one in enumerate(self.read) for b in one.found.blocks]

    def _fill(self) -> None:
        self._listing = True
        row = max(self.list.currentRow(), 0)
        self.list.clear()
        for number, (source, block) in enumerate(self.blocks(), 1):
            item = QListWidgetItem(f"{number}   {headline(block)}\n     {things_of(block)}")
            item.setToolTip(f"{block.sheet}, {block.place}")
            if block.holds:
                kept = (source, block.key) not in self._dropped
                item.setCheckState(Qt.CheckState.Checked if kept else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        self._listing = False
        self.notes.clear()
        self.left_out.clear()
        self.left_out.addItems([r.source.error for r in self.read if r.source.error])
        for one in self.read:
            for note in sorted(one.found.notes, key=lambda n: DOUBTFUL not in n.text):
                several = len(one.source.sheets) > 1 or len(self.read) > 1
                place = note.place if several else note.place.rpartition(", ")[2]
                (self.notes if note.assumed else self.left_out).addItem(f"{place}: {note.text}")
        for heading, entries in ((self.notes_heading, self.notes), (self.left_heading, self.left_out)):
            heading.setVisible(entries.count() > 0)
            entries.setVisible(entries.count() > 0)
        if self.read:
            self._head()
        count = self.list.count()
        self.list.setCurrentRow(min(row, count - 1))
        self._choose(self.list.currentRow())

    def _head(self) -> None:
        blocks = self.blocks()
        holding = [b for _, b in blocks if b.holds]
        left = sum(not n.assumed for r in self.read for n in r.found.notes)
        sheets = len({(k, b.sheet) for k, b in blocks})
        self.heading.setText(f"What was read in {self._names}" if holding else f"Nothing is known in {self._names}")
        if holding:
            words = (
                f"{len(blocks)} block{'' if len(blocks) == 1 else 's'} on {sheets} sheet{'' if sheets == 1 else 's'}."
            )
            words += f" {left} place{' is' if left == 1 else 's are'} not read." if left else " Everything is read."
            self.told.setText(f"{words} A click on a header takes its column for something else.")
        else:
            self.told.setText(
                "No sample, composition or lab test was found: a table is wanted whose header names its columns with their units."
            )
        self.take.setEnabled(bool(self.chosen()))
        self.take.setText("take all  Enter" if len(self.chosen()) == len(holding) else "take the checked ones  Enter")

    def _choose(self, row: int) -> None:
        blocks = self.blocks()
        block = blocks[row][1] if 0 <= row < len(blocks) else None
        self.model.show_block(block)
        self.grid.setVisible(block is not None and bool(block.rows))
        self.grid.resizeColumnsToContents()
        for j in range(len(self.model.titles())):
            self.grid.setColumnWidth(j, max(pixels(96), min(self.grid.columnWidth(j), pixels(190))))
        self._draw()

    def _checked(self, item: QListWidgetItem) -> None:
        if self._listing:
            return
        source, block = self.blocks()[self.list.row(item)]
        key = (source, block.key)
        if item.checkState() == Qt.CheckState.Checked:
            self._dropped.discard(key)
        else:
            self._dropped.add(key)
        self._head()

    def _draw(self) -> None:
        """Draw the chosen block's curve: temperatures over percents, or the first results of a test over its
        pressures."""
        block = self.model.block
        series = _series(block) if block is not None else None
        self.plot.setVisible(series is not None)
        if series is None:
            return
        x_title, y_title, lines = series
        self.plot.begin()
        colours = (self.theme.accent, self.theme.ink, self.theme.mute)
        for k, (x, y) in enumerate(lines[:6]):
            colour = colours[k % len(colours)]
            self.plot.line(f"line {k}", x, y, pen(colour, 1.5))
            self.plot.dots(f"dots {k}", x, y, pen(colour))
        self.plot.end()
        self.plot.set_titles(x_title, y_title)
        xs, ys = [v for x, _ in lines for v in x], [v for _, y in lines for v in y]
        span = 0.02 * (max(xs) - min(xs) or 1.0)
        self.plot.fit_x(min(xs) - span, max(xs) + span)
        self.plot.fit_y(min(ys), max(ys), 0.06)

    # -- changing
    # ------------------------------------------------------------------------------------------------------------

    def _menu(self, column: int, position: QPoint) -> None:
        menu = self.menu_of(column)
        if not menu.isEmpty():
            menu.exec(position)

    def menu_of(self, place: int) -> QMenu:
        """Return what a column may be taken for instead: meaning, unit, basis."""
        menu = QMenu(self)
        block = self.model.block
        if block is None or not 0 <= place < len(block.keys):
            return menu
        own, key = block.column(place), block.keys[place]
        for meaning in meanings(block, own, place):
            # The axis of a test says which test it is.
            axis = own is not None and own.meaning == "pressure"
            words = f"a test of {meaning}" if axis else words_of(meaning)
            now = block.kind if axis else own.meaning if own is not None else ""
            self._offer(menu, words, now == meaning, key, "meaning", meaning)
        if own is not None:
            for title, values, attribute, shown in (
                ("on", bases(own), "basis", BASES),
                ("in", units(own), "unit", None),
            ):
                if values:
                    menu.addSeparator()
                    for value in values:
                        words = shown[value] if shown else label(value)
                        self._offer(menu, f"{title} {words}", getattr(own, attribute) == value, key, attribute, value)
        if any(DOUBTFUL in n.text for r in self.read for n in r.found.notes):
            menu.addSeparator()
            sheet = (block.sheet, -1, -1)
            self._offer(menu, "a comma stands between thousands: 2,650 is 2650", False, sheet, "meaning", "point")
            self._offer(menu, "a comma stands before decimals: 2,650 is 2.65", False, sheet, "meaning", "comma")
        if key in self.choices:
            menu.addSeparator()
            menu.addAction("As it was read", lambda: self.choose(key, Choice()))
        return menu

    def _offer(self, menu: QMenu, words: str, now: bool, key: tuple[str, int, int], attribute: str, value: str) -> None:
        action = menu.addAction(
            words, lambda: self.choose(key, replace(self.choices.get(key, Choice()), **{attribute: value}))
        )
        action.setCheckable(True)
        action.setChecked(now)

    def choose(self, key: tuple[str, int, int], choice: Choice) -> None:
        """Take a column for something else, and read once more."""
        if choice == Choice():
            self.choices.pop(key, None)
        else:
            self.choices[key] = choice
        self._again()

    # -- taking
    # --------------------------------------------------------------------------------------------------------------

    def chosen(self) -> list[Block]:
        """Return the blocks that are checked and hold something."""
        return [b for k, b in self.blocks() if b.holds and (k, b.key) not in self._dropped]

    def accept(self) -> None:
        """Take what is checked."""
        blocks = self.chosen()
        if blocks and not self._jobs.busy(SLOT):
            self.taken.emit(blocks)

    def reject(self) -> None:
        """Leave everything as it was, and stop reading."""
        self._key = None
        self._jobs.cancel(SLOT)
        self.left.emit()


Series = tuple[str, str, list[tuple[list[float], list[float]]]]


def _series(block: Block) -> Series | None:
    """Return what is drawn of a block: titles of the axes and a line each sample or test, None where there is nothing
    to draw."""
    lines: list[tuple[list[float], list[float]]] = []
    for sample in block.samples:
        points = [
            (float(p), _value(t, "temperature", "degC"))
            for p, t in sample.distillation.points
            if isinstance(p, (int, float))
        ]
        known = [(p, t) for p, t in points if t is not None]
        if len(known) >= 2:
            lines.append(([p for p, _ in known], [t for _, t in known]))
    if lines:
        return "Distilled, %", "Boiling point, °C", lines
    title = ""
    for test in block.tests:
        pressures = [_value(p, "pressure", "bar") for p in test.columns.get("pressure", [])]
        key = next(
            (
                k
                for k in test.columns
                if k not in ("pressure", "temperature", "gas_moles")
                and any(isinstance(v, float) for v in test.columns[k])
            ),
            "",
        )
        pairs = [(p, v) for p, v in zip(pressures, test.columns.get(key, [])) if p is not None and isinstance(v, float)]
        if len(pairs) >= 2:
            title = words_of(key)
            lines.append(([p for p, _ in pairs], [v for _, v in pairs]))
    return ("Pressure, bar", title[:1].upper() + title[1:], lines) if lines else None


def _value(cell: object, kind: str, unit: str) -> float | None:
    try:
        return from_si(parse(cell, kind), unit, kind)  # type: ignore[arg-type]
    except QuantityError:
        return None


def _shown(cell: object) -> str:
    """Return a quantity with its unit as it is printed."""
    number, _, unit = str(cell).partition(" ")
    return f"{number} {label(unit)}".strip()
