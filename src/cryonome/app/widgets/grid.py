"""Tables that behave like a spreadsheet: two-line headers with units, marks on faulty cells, copy and paste."""

from __future__ import annotations

from PySide6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    QPoint,
    QRect,
    QSize,
    Qt,
    QTimer,
    Signal,
)
from PySide6.QtGui import QAction, QColor, QFont, QFontMetrics, QGuiApplication, QKeyEvent, QKeySequence, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QCompleter,
    QHeaderView,
    QLineEdit,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from ...document.faults import PathParts
from ...language import said
from ...units import exact, label
from .fields import tip
from .letters import SIZES, pixels, point_size
from .theme import LIGHT, Theme

Index = QModelIndex | QPersistentModelIndex

_NO = QModelIndex()

MARGIN = 7
"""Pixels between the edge of a cell and its text."""

ROW = 24
"""Pixels that a row is high."""
WIDEST = 14
"""Pixels that no character exceeds; a text whose number of characters fits is not measured."""

# Joined once, since joining flags costs as much as drawing the text.
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextSingleLine
_LINES = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextSingleLine


class GridModel(QAbstractTableModel):
    """Base of the tables. A subclass answers for headers, texts, faults and edits."""

    headers_ask = False
    """Whether a click on a header offers something else for its column, so that it is written as actions are."""

    about_to_reload = Signal()

    def titles(self) -> list[tuple[str, str]]:
        """Return (title, unit) of every column."""
        return []

    def rows(self) -> int:
        """Return the number of rows."""
        return 0

    def text(self, row: int, column: int) -> str:
        """Return what a cell shows."""
        return ""

    def edit_text(self, row: int, column: int) -> str:
        """Return what the editor starts with."""
        return self.text(row, column)

    def copy_text(self, row: int, column: int) -> str:
        """Return what of a cell is copied."""
        return self.text(row, column)

    def fault(self, row: int, column: int) -> str:
        """Return the sentence about a faulty cell, or nothing."""
        return ""

    def editable(self, row: int, column: int) -> bool:
        """Tell whether a cell can be typed in."""
        return False

    def left_aligned(self, column: int) -> bool:
        """Tell whether a column holds words."""
        return False

    def muted(self, row: int, column: int) -> bool:
        """Tell whether a value is estimated rather than measured."""
        return False

    def bold(self, row: int, column: int) -> bool:
        """Tell whether a cell is a heading within the table."""
        return False

    def ground(self, row: int, column: int, theme: Theme) -> QColor | None:
        """Return the colour behind a cell, None for the usual one."""
        return None

    def tip(self, row: int, column: int) -> str:
        """Return the explanation of a cell."""
        return ""

    def choices(self, row: int, column: int) -> list[str]:
        """Return what may be typed in a cell, offered while it is."""
        return []

    def closed(self, row: int, column: int) -> bool:
        """Tell whether a cell is picked from its choices rather than typed."""
        return False

    def unit_of(self, row: int, column: int) -> tuple[list[str], str] | None:
        """Return the units the number of a cell may be shown in and the one it is in, None where it has none of its
        own."""
        return None

    def unit_cell(self, row: int, column: int) -> bool:
        """Tell whether a cell holds a unit, which a click changes."""
        return False

    def set_unit(self, row: int, column: int, unit: str) -> None:
        """Show the number of a cell in another unit; "" puts the usual one back."""

    def input_path(self, row: int, column: int) -> PathParts | None:
        """Return the path in the document of the input a cell shows, None where it shows none."""
        return None

    def answer_path(self, row: int, column: int) -> tuple[str, str] | None:
        """Return the question and the path in its answer that a cell shows, None where it shows none."""
        return None

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        """Take edited cells, as one undoable step."""

    def paste(self, row: int, column: int, block: list[list[str]]) -> None:
        """Take a pasted block with its upper left corner at a cell."""
        cells = {(row + i, column + j): value for i, line in enumerate(block) for j, value in enumerate(line)}
        self.store_cells(cells, "Paste")

    def rewrite(self) -> None:
        """Say that texts may have changed but not the shape."""
        if self.rows() and self.titles():
            self.dataChanged.emit(self.index(0, 0), self.index(self.rows() - 1, len(self.titles()) - 1))

    def reload(self) -> None:
        """Say that everything may have changed, keeping the selection where rows allow, and what is being typed."""
        self.about_to_reload.emit()
        self.beginResetModel()
        self.endResetModel()

    # -- Qt's side -----------------------------------------------------------------------------------------------

    def rowCount(self, parent: Index = _NO) -> int:
        return 0 if parent.isValid() else self.rows()

    def columnCount(self, parent: Index = _NO) -> int:
        return 0 if parent.isValid() else len(self.titles())

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsEnabled
        return flags | Qt.ItemFlag.ItemIsEditable if self.editable(index.row(), index.column()) else flags

    def data(self, index: Index, role: int = 0) -> object:
        if not index.isValid():
            return None
        row, column = index.row(), index.column()
        if role == Qt.ItemDataRole.DisplayRole:
            text = self.text(row, column)
            # What can be typed over is the reader's own.
            return text if self.editable(row, column) else said(text)
        if role == Qt.ItemDataRole.EditRole:
            return self.edit_text(row, column)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignLeft if self.left_aligned(column) else Qt.AlignmentFlag.AlignRight
            return side | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.ToolTipRole:
            return tip(self.fault(row, column) or self.tip(row, column)) or None
        return None

    def setData(self, index: Index, value: object, role: int = 0) -> bool:
        if str(value) == self.edit_text(index.row(), index.column()):
            return False
        self.store_cells({(index.row(), index.column()): str(value)}, "Edit a cell")
        return True

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            titles = self.titles()
            return "\n".join(said(t) for t in titles[section]) if section < len(titles) else None
        return None


class _Header(QHeaderView):
    """Column headers: the title bold, its unit muted below."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(Qt.Orientation.Horizontal, parent)
        self.theme = LIGHT
        self.setSectionsClickable(True)
        self.setHighlightSections(False)

    def sizeHint(self) -> QSize:
        model = self.model()
        units = not isinstance(model, GridModel) or any(unit for _, unit in model.titles()) or not model.titles()
        return QSize(super().sizeHint().width(), pixels(36 if units else 24))

    def paintSection(self, painter: QPainter, rect: QRect, section: int) -> None:
        painter.save()
        painter.fillRect(rect, QColor(self.theme.sunk))
        model = self.model()
        title, unit = model.titles()[section] if isinstance(model, GridModel) else ("", "")
        left = isinstance(model, GridModel) and model.left_aligned(section)
        side = Qt.AlignmentFlag.AlignLeft if left else Qt.AlignmentFlag.AlignRight
        font = QFont(self.font())
        font.setPointSizeF(point_size(8.5))
        font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        worded = isinstance(model, GridModel) and model.headers_ask
        painter.setPen(QColor(self.theme.accent if worded and title.endswith("▾") else self.theme.ink))
        inner = rect.adjusted(5, 3, -7, 0)
        title = painter.fontMetrics().elidedText(title, Qt.TextElideMode.ElideRight, inner.width())
        high = pixels(16)
        painter.drawText(
            QRect(inner.left(), inner.top(), inner.width(), high), side | Qt.AlignmentFlag.AlignVCenter, title
        )
        font.setWeight(QFont.Weight.Normal)
        painter.setFont(font)
        painter.setPen(QColor(self.theme.mute))
        painter.drawText(
            QRect(inner.left(), inner.top() + pixels(15), inner.width(), pixels(15)),
            side | Qt.AlignmentFlag.AlignVCenter,
            unit,
        )
        painter.restore()


_DONE = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Tab, Qt.Key.Key_Backtab)
"""Keys that hand over what was typed."""


class _Delegate(QStyledItemDelegate):
    """Paints a faulty cell with a bar at its left, its ground and its text in the fault's colour."""

    def __init__(self, view: GridView) -> None:
        super().__init__(view)
        self._view = view
        self.fit_letters()

    def fit_letters(self) -> None:
        """Take the letters that the table has now."""
        self._heavy = QFont(self._view.font())
        self._heavy.setWeight(QFont.Weight.DemiBold)
        self._widest = pixels(WIDEST)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        # The text is handed over in the next turn; whatever comes in this one must not lose it.
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() in _DONE:
            self._view.handed_over = True
        return super().eventFilter(watched, event)

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        editor = super().createEditor(parent, option, index)
        self._view.opened(editor, index)
        model = self._view.model()
        choices = model.choices(index.row(), index.column()) if isinstance(model, GridModel) else []
        if choices and isinstance(model, GridModel) and model.closed(index.row(), index.column()):
            return self._picker(parent, model, index, choices)
        if choices and isinstance(editor, QLineEdit):
            completer = QCompleter(choices, editor)
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            editor.setCompleter(completer)
        return editor

    def _picker(self, parent: QWidget, model: GridModel, index: Index, choices: list[str]) -> QWidget:
        """Return a list of choices that is open at once; what stands there and is none of them is offered too."""
        picker = QComboBox(parent)
        now = model.text(index.row(), index.column())
        picker.addItems(choices if now in choices or not now else [now, *choices])
        picker.setCurrentText(now)
        picker.activated.connect(lambda _i: self.commitData.emit(picker))
        picker.activated.connect(lambda _i: self.closeEditor.emit(picker))
        QTimer.singleShot(0, picker, picker.showPopup)
        return picker

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """Return the room a cell wants, in the weight it is painted in."""
        size, model = super().sizeHint(option, index), self._view.model()
        if isinstance(model, GridModel) and model.bold(index.row(), index.column()):
            text = model.text(index.row(), index.column())
            size.setWidth(max(size.width(), QFontMetrics(self._heavy).horizontalAdvance(text) + 2 * MARGIN + 2))
        return size

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Paint a cell. The style would ask the model seven times a cell; what moves with the pointer cannot wait for
        that."""
        model, theme = self._view.model(), self._view.theme
        if not isinstance(model, GridModel):
            super().paint(painter, option, index)
            return
        row, column, rect = index.row(), index.column(), option.rect
        bad, chosen = bool(model.fault(row, column)), bool(option.state & QStyle.StateFlag.State_Selected)
        if chosen or bad:
            painter.fillRect(rect, QColor(theme.tint if chosen else theme.fault_ground))
        else:
            ground = model.ground(row, column, theme)
            if ground is not None:
                painter.fillRect(rect, ground)
        text = model.text(row, column)
        if text:
            inner = rect.adjusted(MARGIN, 0, -MARGIN, 0)
            painter.setFont(self._heavy if model.bold(row, column) else option.font)
            painter.setPen(QColor(theme.fault if bad else theme.mute if model.muted(row, column) else theme.ink))
            side = _LEFT if model.left_aligned(column) else _RIGHT
            if rect.height() >= 2 * option.fontMetrics.height():
                # The row was made high enough for a text of several lines, in the room that is seen.
                side = _LINES
                inner.setWidth(min(inner.width(), self._view.viewport().width() - 2 * MARGIN))
            elif len(text) * self._widest > inner.width():
                text = option.fontMetrics.elidedText(text, Qt.TextElideMode.ElideRight, inner.width())
            painter.drawText(inner, side, text)
        if bad:
            painter.fillRect(QRect(rect.topLeft(), QSize(3, rect.height())), QColor(theme.fault))
        if option.state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(QColor(theme.accent))
            painter.drawRect(rect.adjusted(0, 0, -1, -1))


class GridView(QTableView):
    """A table with spreadsheet keys. ``unit_clicked`` tells a click on a header, for choosing its unit."""

    unit_clicked = Signal(int, QPoint)
    copied = Signal(str)
    vary_asked = Signal(object)
    read_asked = Signal(str, str)
    goal_asked = Signal(str, str)

    def __init__(self, model: GridModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme: Theme = LIGHT
        self._header = _Header(self)
        self.setHorizontalHeader(self._header)
        self._editor: tuple[QWidget, int, int] | None = None
        self._typed: tuple[int, int, str, int] | None = None
        self.handed_over = False
        self.setModel(model)
        model.about_to_reload.connect(self._keep_typing)
        model.modelReset.connect(self._type_on)
        self._delegate = _Delegate(self)
        self.setItemDelegate(self._delegate)
        self.verticalHeader().setVisible(False)
        self._row_height, self._lines = ROW, ("", 0)
        self.verticalHeader().setDefaultSectionSize(pixels(ROW))
        self.setShowGrid(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.AnyKeyPressed
            | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        self._header.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self._header.sectionClicked.connect(self._clicked)
        self.clicked.connect(self._cell_clicked)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._menu)
        self.extra_actions: list[QAction] = []

    def set_row_height(self, usual: int) -> None:
        """Make rows so many pixels high, beside letters of the usual size."""
        self._row_height = usual
        self.verticalHeader().setDefaultSectionSize(pixels(usual))

    def keep_lines(self, count: int, how: str = "fixed_height") -> None:
        """Make the table as high as so many rows and its header: its height, or what it has at the ``least_height``
        or the ``most_height``."""
        self._lines = how, count
        self._fit_lines()

    def _fit_lines(self) -> None:
        how, count = self._lines
        if how:
            SIZES[how](self, self._header.sizeHint().height() + count * self.verticalHeader().defaultSectionSize() + 3)

    def opened(self, editor: QWidget, index: Index) -> None:
        """Take note of the editor of a cell."""
        self._editor, self.handed_over = (editor, index.row(), index.column()), False

    def _keep_typing(self) -> None:
        """Before all is shown anew: what was handed over goes into its cell, what is being typed is kept."""
        self._typed = None
        if self._editor is None or self.state() != QAbstractItemView.State.EditingState:
            return
        editor, row, column = self._editor
        self._editor = None
        if not isinstance(editor, QLineEdit):
            return
        if self.handed_over:
            self.commitData(editor)
            self.closeEditor(editor, QStyledItemDelegate.EndEditHint.NoHint)
        else:
            self._typed = row, column, editor.text(), editor.cursorPosition()

    def _type_on(self) -> None:
        """Go on with what was being typed."""
        typed, self._typed = self._typed, None
        if typed is None:
            return
        row, column, text, cursor = typed
        index = self.grid().index(row, column)
        if not (index.isValid() and self.grid().editable(row, column)):
            return
        self.setCurrentIndex(index)
        self.edit(index)
        if self._editor is not None and isinstance(self._editor[0], QLineEdit):
            self._editor[0].setText(text)
            self._editor[0].setCursorPosition(cursor)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = self._header.theme = theme
        self.verticalHeader().setDefaultSectionSize(pixels(self._row_height))
        self._header.updateGeometry()
        self._delegate.fit_letters()
        self._fit_lines()
        self.viewport().update()
        self._header.viewport().update()

    def _clicked(self, section: int) -> None:
        x = self._header.sectionViewportPosition(section)
        self.unit_clicked.emit(section, self._header.viewport().mapToGlobal(QPoint(x, self._header.height())))

    def _cell_clicked(self, index: Index) -> None:
        """Offer the units of a number where its unit was clicked."""
        menu = (
            self.units_menu(index.row(), index.column()) if self.grid().unit_cell(index.row(), index.column()) else None
        )
        if menu is not None:
            menu.exec(self.viewport().mapToGlobal(self.visualRect(index).bottomLeft()))

    def units_menu(self, row: int, column: int) -> QMenu | None:
        """Return the menu of the units a number may be shown in, None where it has none of its own."""
        found = self.grid().unit_of(row, column)
        if found is None:
            return None
        menu = QMenu("Unit", self)
        for unit in found[0]:
            action = menu.addAction(label(unit) if unit else "as usual")
            action.setCheckable(True)
            action.setChecked(unit == found[1])
            action.triggered.connect(lambda _on, u=unit: self.grid().set_unit(row, column, u))
        return menu

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.paste()
        elif event.matches(QKeySequence.StandardKey.Cut):
            self.copy()
            self.clear_selected("Cut")
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.clear_selected("Clear cells")
        elif (
            event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            and self.state() != QAbstractItemView.State.EditingState
        ):
            here = self.currentIndex()
            below = here.siblingAtRow(here.row() + 1)
            self.setCurrentIndex(below if below.isValid() else here)
        else:
            super().keyPressEvent(event)

    def _menu(self, position: QPoint) -> None:
        menu = QMenu(self)
        editable = any(self.grid().editable(i.row(), i.column()) for i in self.selectedIndexes())
        menu.addAction("Copy", self.copy)
        menu.addAction("Copy whole table", self.copy_all)
        if editable:
            menu.addAction("Paste", self.paste)
            menu.addAction("Clear", lambda: self.clear_selected("Clear cells"))
        self._add_questions(menu)
        if self.extra_actions:
            menu.addSeparator()
            menu.addActions(self.extra_actions)
        menu.exec(self.viewport().mapToGlobal(position))

    def _add_questions(self, menu: QMenu) -> None:
        """Offer what may be asked of the current cell: to vary it, to read it, to make it equal to something."""
        here = self.currentIndex()
        if not here.isValid():
            return
        units = self.units_menu(here.row(), here.column())
        if units is not None:
            menu.addSeparator()
            menu.addMenu(units)
        path = self.grid().input_path(here.row(), here.column())
        read = self.grid().answer_path(here.row(), here.column())
        if path is not None or read is not None:
            menu.addSeparator()
        if path is not None:
            menu.addAction("Vary this", lambda: self.vary_asked.emit(path))
        if read is not None:
            menu.addAction("Read this in a sweep", lambda: self.read_asked.emit(*read))
            menu.addAction("Make this equal…", lambda: self.goal_asked.emit(*read))

    def grid(self) -> GridModel:
        """Return the model as a grid model."""
        model = self.model()
        assert isinstance(model, GridModel)
        return model

    def copy(self) -> None:
        """Copy the selected cells as tab-separated text, with headers where there are several."""
        chosen = self.selectedIndexes()
        if chosen:
            rows = sorted({i.row() for i in chosen})
            columns = sorted({i.column() for i in chosen})
            self._to_clipboard(rows, columns, len(chosen) > 1)

    def copy_all(self) -> None:
        """Copy the whole table with headers."""
        grid = self.grid()
        header = self.horizontalHeader()
        order = [header.logicalIndex(i) for i in range(header.count())] or list(range(len(grid.titles())))
        self._to_clipboard(list(range(grid.rows())), [c for c in order if not self.isColumnHidden(c)], True)

    def _to_clipboard(self, rows: list[int], columns: list[int], headers: bool) -> None:
        text = table_text(self.grid(), rows, columns, headers)
        QGuiApplication.clipboard().setText(text)
        self.copied.emit(f"{len(rows)} rows copied")

    def paste(self) -> None:
        """Paste tab-separated text at the current cell."""
        text = QGuiApplication.clipboard().text()
        block = [line.split("\t") for line in text.replace("\r\n", "\n").replace("\r", "\n").rstrip("\n").split("\n")]
        if text.strip():
            here = self.currentIndex()
            chosen = self.selectedIndexes()
            row = min((i.row() for i in chosen), default=max(here.row(), 0))
            column = min((i.column() for i in chosen), default=max(here.column(), 0))
            self.grid().paste(row, column, block)

    def clear_selected(self, text: str) -> None:
        """Empty the selected cells that can be edited."""
        grid = self.grid()
        cells = {(i.row(), i.column()): "" for i in self.selectedIndexes() if grid.editable(i.row(), i.column())}
        if cells:
            grid.store_cells(cells, text)


def table_text(grid: GridModel, rows: list[int], columns: list[int], headers: bool) -> str:
    """Return cells as tab-separated text: numbers with all their digits and a plain minus, so that a spreadsheet
    reads them."""
    lines = []
    titles = grid.titles()
    if headers:
        lines.append("\t".join(f"{titles[c][0]} ({titles[c][1]})" if titles[c][1] else titles[c][0] for c in columns))
    lines += ["\t".join(exact(grid.copy_text(r, c)).replace("−", "-") for c in columns) for r in rows]
    return "\n".join(lines)
