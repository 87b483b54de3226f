"""Tables by the keyboard and the mouse: choices picked and completed, units changed where they stand, what is asked of a cell, and typing that nothing interrupts."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QColor, QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QStyleOptionViewItem

from cryonome.app.widgets.grid import GridModel, GridView
from cryonome.app.widgets.theme import DARK


class Sheet(GridModel):
    """Three rows: a number with units, a word with choices, a value that can be asked about, and a closed choice."""

    def __init__(self):
        super().__init__()
        self.cells = {(r, c): f"{r}{c}" for r in range(3) for c in range(4)}
        self.units, self.stored, self.bad = {}, [], {}
        self.wide = False

    def titles(self):
        return [("pressure", "bar"), ("component", ""), ("density", "kg/m³"), ("phase", "")] + [
            ("more", "")
        ] * self.wide

    def rows(self):
        return 3

    def text(self, row, column):
        return self.cells.get((row, column), "")

    def editable(self, row, column):
        return column != 2

    def fault(self, row, column):
        return self.bad.get((row, column), "")

    def choices(self, row, column):
        return {1: ["methane", "ethane", "n-butane"], 3: ["vapour", "liquid"]}.get(column, [])

    def closed(self, row, column):
        return column == 3

    def unit_of(self, row, column):
        return (["bar", "psia", ""], self.units.get(row, "bar")) if column == 0 else None

    def unit_cell(self, row, column):
        return column == 0 and row == 2

    def set_unit(self, row, column, unit):
        self.units[row] = unit

    def input_path(self, row, column):
        return ("studies", row, "pressure") if column == 0 else None

    def answer_path(self, row, column):
        return ("state", f"phases.{row}.density_kg_m3") if column == 2 else None

    def ground(self, row, column, theme):
        return QColor(theme.tint) if column == 2 else None

    def bold(self, row, column):
        return row == 0

    def store_cells(self, cells, text):
        self.stored.append((dict(cells), text))
        self.cells.update(cells)


@pytest.fixture
def view(qtbot):
    made = GridView(Sheet())
    qtbot.addWidget(made)
    made.resize(520, 220)
    made.show()
    QApplication.processEvents()
    return made


def editor_at(view, row, column):
    index = view.model().index(row, column)
    view.setCurrentIndex(index)
    view.edit(index)
    return view._editor[0]


def leave(act=None):
    """Do something with the menu that opens next, and close it."""
    seen = []

    def close():
        menu = QApplication.activePopupWidget()
        seen.extend(a.text() for a in menu.actions() if a.text())
        if act is not None:
            act(menu)
        menu.close()

    QTimer.singleShot(0, close)
    return seen


def test_names_are_completed_by_any_part_of_them(view):
    editor = editor_at(view, 1, 1)
    completer = editor.completer()
    completer.setCompletionPrefix("THAN")
    assert [completer.completionModel().index(i, 0).data() for i in range(completer.completionCount())] == ["methane", "ethane"]  # fmt: skip
    assert editor_at(view, 1, 0).completer() is None


def test_a_closed_choice_is_picked_and_what_stands_there_is_offered_too(view):
    index = view.model().index(1, 3)
    view.setCurrentIndex(index)
    view.edit(index)
    picker = view.findChild(QComboBox)
    assert [picker.itemText(i) for i in range(picker.count())] == ["13", "vapour", "liquid"]
    picker.setCurrentText("liquid")
    picker.activated.emit(2)
    QApplication.processEvents()
    assert view.grid().stored == [({(1, 3): "liquid"}, "Edit a cell")]


def test_a_click_on_a_unit_and_the_menu_offer_the_units_of_the_number(view):
    def choose(menu):
        assert [a.isChecked() for a in menu.actions()] == [True, False, False]
        menu.actions()[1].trigger()

    seen = leave(choose)
    view.clicked.emit(view.model().index(2, 0))
    assert seen == ["bar", "psia", "as usual"]
    assert view.grid().units == {2: "psia"}
    view.clicked.emit(view.model().index(1, 0))  # no unit stands there: nothing opens
    view.setCurrentIndex(view.model().index(0, 0))
    seen = leave()
    view._menu(QPoint(5, 5))
    assert seen == ["Copy", "Copy whole table", "Paste", "Clear", "Unit", "Vary this"]
    assert view.units_menu(0, 2) is None


def test_what_may_be_asked_of_a_cell_is_in_its_menu(view):
    asked = []
    view.vary_asked.connect(asked.append)
    view.read_asked.connect(lambda *found: asked.append(("read", *found)))
    view.goal_asked.connect(lambda *found: asked.append(("goal", *found)))

    def press(words):
        return lambda menu: next(a for a in menu.actions() if a.text() == words).trigger()

    view.setCurrentIndex(view.model().index(1, 0))
    leave(press("Vary this"))
    view._menu(QPoint(5, 5))
    view.setCurrentIndex(view.model().index(1, 2))
    seen = leave(press("Read this in a sweep"))
    view._menu(QPoint(5, 5))
    assert "Paste" not in seen  # it cannot be typed in
    leave(press("Make this equal…"))
    view._menu(QPoint(5, 5))
    path = ("state", "phases.1.density_kg_m3")
    assert asked == [("studies", 1, "pressure"), ("read", *path), ("goal", *path)]
    view.setCurrentIndex(view.model().index(-1, -1))
    seen = leave()
    view._menu(QPoint(5, 5))
    assert "Vary this" not in seen


def test_typing_goes_on_when_all_is_shown_anew(view):
    editor = editor_at(view, 1, 0)
    editor.setText("12.5 b")
    editor.setCursorPosition(3)
    view.grid().reload()
    again = view._editor[0]
    assert (again.text(), again.cursorPosition()) == ("12.5 b", 3)
    assert view.grid().stored == []
    QTest.keyClicks(again, "X")
    QTest.keyClick(again, Qt.Key.Key_Return)
    QApplication.processEvents()
    assert view.grid().stored == [({(1, 0): "12.X5 b"}, "Edit a cell")]


def test_what_was_handed_over_goes_into_its_cell_before_all_is_shown_anew(view):
    editor = editor_at(view, 0, 0)
    assert isinstance(editor, QLineEdit)
    editor.setText("77")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    view.grid().reload()  # before the next turn, in which Qt would hand it over
    QApplication.processEvents()
    assert view.grid().cells[0, 0] == "77"
    assert len(view.grid().stored) == 1


def test_selected_cells_are_copied_cut_and_pasted_at_the_first(view):
    model = view.grid()
    selection = view.selectionModel()
    for row, column in ((1, 0), (1, 1), (2, 0), (2, 1)):
        selection.select(model.index(row, column), selection.SelectionFlag.Select)
    view.copy()
    assert QGuiApplication.clipboard().text() == "pressure (bar)\tcomponent\n10\t11\n20\t21"
    QTest.keyClick(view, Qt.Key.Key_X, Qt.KeyboardModifier.ControlModifier)
    assert model.stored[-1] == (dict.fromkeys([(1, 0), (1, 1), (2, 0), (2, 1)], ""), "Cut")
    QGuiApplication.clipboard().setText("5\ta\r\n6\tb\r\n")
    view.paste()
    assert model.stored[-1] == ({(1, 0): "5", (1, 1): "a", (2, 0): "6", (2, 1): "b"}, "Paste")
    before = len(model.stored)
    QGuiApplication.clipboard().setText("  \n")
    view.paste()
    view.clearSelection()
    view.copy()
    view.clear_selected("Clear")
    assert len(model.stored) == before
    assert QGuiApplication.clipboard().text() == "  \n"


def test_hidden_and_moved_columns_are_copied_as_they_are_seen(view):
    view.setColumnHidden(1, True)
    view.horizontalHeader().moveSection(2, 0)
    view.copy_all()
    lines = QGuiApplication.clipboard().text().split("\n")
    assert lines[0] == "density (kg/m³)\tpressure (bar)\tphase"
    assert lines[1] == "02\t00\t03"


def test_enter_goes_down_and_stays_at_the_end(view):
    view.setCurrentIndex(view.model().index(1, 0))
    for row in (2, 2):
        QTest.keyClick(view, Qt.Key.Key_Return)
        assert view.currentIndex().row() == row


def test_headers_cells_and_faults_are_painted_and_told(view):
    model = view.grid()
    model.bad[1, 0] = "'x' is not a pressure"
    model.cells[2, 1] = "a very long name of a component that is cut off " * 3
    model.rewrite()
    assert "is not a pressure" in model.data(model.index(1, 0), Qt.ItemDataRole.ToolTipRole)
    assert model.headerData(0, Qt.Orientation.Horizontal) == "pressure\nbar"
    assert model.headerData(9, Qt.Orientation.Horizontal) is None
    assert model.headerData(0, Qt.Orientation.Vertical) is None
    light = view.grab().toImage()
    view.set_theme(DARK)
    dark = view.grab().toImage()
    assert light != dark
    clicked = []
    view.unit_clicked.connect(lambda section, _at: clicked.append(section))
    view.horizontalHeader().sectionClicked.emit(2)
    assert clicked == [2]
    assert not model.flags(model.index(0, 2)) & Qt.ItemFlag.ItemIsEditable
    assert model.data(model.index(9, 9)) is None
    option = QStyleOptionViewItem()
    view.initViewItemOption(option)
    model.cells[1, 1] = model.cells[0, 1] = "n-hexatriacontane"
    bold, plain = (view.itemDelegate().sizeHint(option, model.index(r, 1)).width() for r in (0, 1))
    assert bold > plain
