"""Finding an action by typing: one list of all of them with their shortcuts, filtered as one types; and the help of a
desk."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QAction, QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QLabel,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ..pages.shared.desk import DeskEntry
from ..widgets.fields import section
from ..widgets.letters import pixels


class Palette(QDialog):
    """The list of actions."""

    def __init__(self, actions: list[tuple[str, QAction]], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find an action")
        self._actions = actions
        self.chosen: QAction | None = None
        self.entry = QLineEdit()
        self.entry.setPlaceholderText("Type what you want to do")
        self.entry.setAccessibleName("Find an action")
        self.entry.textChanged.connect(self._filter)
        self.entry.returnPressed.connect(self._take)
        self.entry.installEventFilter(self)
        self.list = QTreeWidget()
        self.list.setAccessibleName("Actions")
        self.list.setColumnCount(3)
        self.list.setHeaderHidden(True)
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.itemActivated.connect(lambda *_: self._take())
        self.list.itemClicked.connect(lambda *_: self._take())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 12, 12, 12)
        layout.addWidget(self.entry)
        layout.addWidget(self.list)
        room = parent.size()
        self.resize(min(600, room.width() - 80), min(520, room.height() - 120))
        self._filter("")

    def _filter(self, text: str) -> None:
        words = text.casefold().split()
        self.list.clear()
        for menu, action in self._actions:
            name = action.text().replace("&", "")
            if all(w in f"{menu} {name}".casefold() for w in words):
                item = QTreeWidgetItem([name, menu, action.shortcut().toString()])
                item.setData(0, Qt.ItemDataRole.UserRole, action)
                item.setTextAlignment(2, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.list.addTopLevelItem(item)
        self._go_to(0)
        for column, width in enumerate((300, 120)):
            self.list.setColumnWidth(column, pixels(width))

    def _go_to(self, row: int) -> None:
        item = self.list.topLevelItem(row)
        if item is not None:
            self.list.setCurrentItem(item)

    def _take(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.chosen = item.data(0, Qt.ItemDataRole.UserRole)
            self.accept()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        # The arrows move in the list while one types.
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 10, Qt.Key.Key_PageUp: -10}.get(
                Qt.Key(event.key())
            )
            if step is not None:
                row = self.list.currentIndex().row() + step
                self._go_to(min(max(row, 0), self.list.topLevelItemCount() - 1))
                return True
        return False


class HelpPage(QDialog):
    """What a desk takes, does and assumes, in ten lines."""

    def __init__(self, entry: DeskEntry, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"About {entry.title}")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 18, 24, 18)
        layout.setSpacing(8)
        layout.addWidget(section(entry.title, "title"))
        for line in entry.help:
            label = QLabel(line)
            label.setTextFormat(Qt.TextFormat.PlainText)
            label.setWordWrap(True)
            layout.addWidget(label)
        layout.addStretch(1)
        layout.addWidget(section("F1 lists every action; Esc closes this page.", "mute"))
        self.resize(min(640, parent.width() - 80), 420)
