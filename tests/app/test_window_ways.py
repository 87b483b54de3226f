"""Ways through the window: what is dropped on it, left with Escape, opened from the shelf and the ledger, refused by a page, and lost by nobody when it is closed."""

from __future__ import annotations

import json
import time

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, QRect, Qt, QTimer, QUrl
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox, QWidget

from cryonome.app.pages.shared.desk import Place, desk_entries
from cryonome.app.shell.menus import all_actions
from cryonome.app.shell.palette import HelpPage, Palette
from cryonome.app.shell.window import screen_fits
from cryonome.document import document_text, load
from cryonome.document.edits import set_at, study_path
from cryonome.document.kinds import study_kinds
from window_demo import demo_document

GAS = {
    "format": "cryonome/1",
    "fluids": [{"name": "Gas", "parts": [{"component": "methane", "amount": 9}, {"component": "propane", "amount": 1}]}],
}  # fmt: skip
SHEET = "vol%;TBP, °C;density, kg/m3\n5;77;716\n10;112;746\n30;222;814\n50;319;864\n70;428;912\n90;590;978\n"


def dropped(window, *paths, text=""):
    """Drop files, or a text, on the window; tell whether it took them up while they hung over it."""
    data = QMimeData()
    if paths:
        data.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
    if text:
        data.setText(text)
    move = Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    over = QDragEnterEvent(QPoint(300, 300), *move)
    over.ignore()
    window.dragEnterEvent(over)
    window.dropEvent(QDropEvent(QPointF(300, 300), *move))
    window.live.come_to_rest(60)
    return over.isAccepted()


def test_a_document_dropped_is_opened_and_unsaved_work_is_asked_about(window, tmp_path, monkeypatch):
    path = tmp_path / "gas.cryo"
    path.write_text(json.dumps(GAS))
    window.add_sample()
    edited = window.store.document
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Cancel)
    assert dropped(window, path)
    assert window.store.document == edited  # it was cancelled
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    dropped(window, path)
    assert [f.name for f in window.store.document.fluids] == ["Gas"]
    assert window.store.path == path
    assert window.live.fluid_name == "Gas"


def test_sheets_dropped_go_to_the_page_or_are_shown_first(window, tmp_path):
    path = tmp_path / "oil.csv"
    path.write_text(SHEET)
    before = window.store.document
    window.show_desk("cuts")
    dropped(window, path)
    assert window.stack.currentWidget() is window.preview
    assert window.store.document == before
    window.escape()
    assert window.current == "cuts"
    assert window.stack.currentWidget() is not window.preview
    dropped(window, text=SHEET)
    assert [s.name for s in window.store.document.samples[len(before.samples) :]] == ["Pasted sample"]
    assert not dropped(window)  # nothing hangs over it


def test_escape_leaves_one_thing_at_a_time(window):
    window.show_desk("map")
    window.show_lessons()
    window.show_report()
    window.escape()
    assert window.stack.currentWidget() is not window.report
    assert window.lessons.isVisible()
    window.lessons.choice.setFocus()
    window.escape()
    assert not window.lessons.isVisible()
    window.show_welcome()
    window.escape()
    assert window.stack.currentWidget() is window._rooms[window.desks["map"]]
    window.live.come_to_rest()
    window.ledger.say("")
    window.escape()
    assert window.ledger.message.text() == ""  # nothing was being computed

    def waits(watch):
        while True:
            time.sleep(0.01)
            watch.check()

    window.jobs.submit("long", 1, waits)
    window.escape()
    assert "Stopped" in window.ledger.message.text()
    window.live.come_to_rest()
    assert not window.jobs.any_busy()


def test_what_the_shelf_offers_of_an_entry(window):
    offered = []

    def leave():
        menu = QApplication.activePopupWidget()
        offered.append([a.text() for a in menu.actions()])
        menu.close()

    for group in ("samples", "fluids", "studies"):
        QTimer.singleShot(0, leave)
        window.shelf.menu_asked.emit(group, QPoint(10, 10))
    assert offered == [["Rename…", "Duplicate", "Remove"], ["Rename…", "Duplicate", "Remove"], ["Rename…", "Remove"]]
    QTimer.singleShot(0, leave)
    window.shelf.add_study.emit()
    assert offered[-1] == [kind.title for kind in study_kinds().values()]


def test_a_question_needs_something_to_be_about(window):
    window.store.undo_stack.setClean()
    window.new()
    for kind, what in (("flash", "fluid"), ("sweep", "question about a state"), ("characterization", "sample")):
        window.add_study(kind)
        assert f"Choose a {what} first" in window.ledger.message.text()
    assert window.store.document.studies == ()
    window.make_equal("none", "density_kg_m3")
    window.read_result("none", "density_kg_m3")
    assert "no input that could be varied" in window.ledger.message.text()
    assert window.store.document.studies == ()


def test_pages_without_a_plot_say_so_and_others_are_copied(window, monkeypatch):
    window.show_desk("values")
    for call in (lambda: window.save_plot("svg"), window.copy_plot):
        window.ledger.say("")
        call()
        assert window.ledger.message.text() == "This desk has no plot"
    window.live.select_fluid("Varnholt recombined")
    window.show_desk("map")
    window.live.come_to_rest()
    window.copy_plot()
    data = QGuiApplication.clipboard().mimeData()
    assert data.hasImage()
    assert "\t" in data.text()
    window.show_desk("components")
    window.live.come_to_rest()
    window.copy_table()
    assert window.ledger.message.text() == "Table copied"
    assert "methane" in QGuiApplication.clipboard().text()


def test_the_ledger_opens_the_question_or_the_page_of_an_entry(window):
    at = study_path(window.store.document, "first separator")
    window.store.edit("Wrong", lambda d: set_at(d, (*at, "temperature"), "warm"))
    window.live.come_to_rest()
    window.show_desk("lab")
    window.ledger.open(True)
    drawer = window.ledger.drawer
    row = next(i for i in range(drawer.count()) if "warm" in drawer.item(i).text())
    drawer.itemActivated.emit(drawer.item(row))
    assert window.current == "state"
    assert window.live.session.study_name == "first separator"
    window.show_place(Place("cuts", "table", None))
    assert window.current == "cuts"


def test_choosing_on_the_shelf_opens_a_page_that_shows_it(window):
    window.show_desk("map")
    window.shelf.sample_chosen.emit("Varnholt crude")
    assert window.current == "lab"
    window.show_desk("cuts")
    window.shelf.sample_chosen.emit("Varnholt crude")
    assert window.current == "cuts"  # it is a page of a sample
    window.shelf.fluid_chosen.emit("Selden gas")
    assert (window.current, window.live.fluid_name) == ("map", "Selden gas")
    window.show_desk("model")
    window.shelf.fluid_chosen.emit("Varnholt recombined")
    assert window.current == "model"
    window.shelf.value_chosen.emit("anything")
    assert window.current == "values"


def test_a_renamed_thing_keeps_its_name_unless_it_is_a_new_one(window, monkeypatch):
    told = []
    monkeypatch.setattr(type(window), "tell", lambda _self, what, _why: told.append(what))
    before = window.store.document
    for answer in (("Varnholt recombined", True), ("   ", True), ("", False), ("Selden gas", True)):
        monkeypatch.setattr(QInputDialog, "getText", lambda *_a, answer=answer, **_k: answer)
        window.live.select_fluid("Varnholt recombined")
        window.rename_fluid()
    assert window.store.document == before
    assert told == ["The name 'Selden gas' is taken."]


def test_what_is_removed_says_who_asked_for_it(window):
    users = [s.name for s in window.store.document.studies if getattr(s, "fluid", "") == "Selden gas"]
    assert len(users) > 3
    window.live.select_fluid("Selden gas")
    window.remove_fluid()
    said = window.ledger.message.text()
    assert said.startswith("Selden gas removed, undo brings it back; Selden pipeline, ")
    window.live.come_to_rest()
    assert window.live.answer(users[0]).faults
    window.store.undo_stack.undo()
    assert window.store.document == demo_document()


def test_a_fluid_is_made_of_an_answer_that_gives_one(window, monkeypatch):
    told = []
    monkeypatch.setattr(type(window), "tell", lambda _self, what, why: told.append((what, why)))
    window.live.select_study("phase envelope")
    window.make_fluid()
    assert told[0][0] == "The chosen question gives no fluid."
    assert "Choose one of these kinds" in told[0][1]
    window.live.select_study("first separator")
    window.live.come_to_rest()
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_a: ("vapour", True))
    window.make_fluid()
    window.live.come_to_rest()
    made = window.store.document.fluids[-1]
    assert (made.name, made.made_by.study, made.made_by.stream) == ("first separator, vapour", "first separator", "vapour")  # fmt: skip
    assert window.current == "fluid"
    answer = window.live.answer("first separator").value
    (vapour,) = (p for p in answer["phases"] if p["kind"] == "vapour")
    model = window.live.fluid.value
    assert dict(zip(model.names, model.z)) == pytest.approx(vapour["composition"], abs=1e-12)
    count = len(window.store.document.fluids)
    window.live.select_study("first separator")
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_a: ("vapour", False))
    window.make_fluid()
    assert len(window.store.document.fluids) == count


def test_closing_asks_before_work_is_lost(window, monkeypatch, tmp_path):
    window.add_sample()
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Cancel)
    event = QCloseEvent()
    window.closeEvent(event)
    assert not event.isAccepted()
    assert window.jobs is not None
    path = tmp_path / "kept.cryo"
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Save)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(path), ""))
    event = QCloseEvent()
    window.closeEvent(event)
    assert event.isAccepted()
    assert document_text(load(path)) == document_text(window.store.document)
    assert not window.store.autosave.file.exists()


def test_help_and_the_list_of_actions_know_the_open_page(window, monkeypatch):
    seen = []
    monkeypatch.setattr(HelpPage, "exec", lambda page: seen.append(page.windowTitle()))
    for entry in desk_entries()[:6]:
        window.show_desk(entry.key)
        window.show_help()
    assert len(set(seen)) == 6

    def choose(palette):
        QTest.keyClicks(palette.entry, "fluid dupl")
        QTest.keyClick(palette.entry, Qt.Key.Key_Return)
        return palette.result()

    monkeypatch.setattr(Palette, "exec", choose)
    count = len(window.store.document.fluids)
    window.find_action()
    assert len(window.store.document.fluids) == count + 1
    monkeypatch.setattr(Palette, "exec", lambda palette: palette.reject() or palette.result())
    window.find_action()
    assert len(window.store.document.fluids) == count + 1


@pytest.mark.parametrize(
    ("size", "place"), [((5000, 4000), (0, 0)), ((600, 400), (-300, -200)), ((600, 400), (5000, 5000))]
)
def test_a_window_stays_on_its_screen(qtbot, size, place):
    made = QWidget()
    qtbot.addWidget(made)
    made.resize(*size)
    made.move(*place)
    made.show()
    screen_fits(made)
    room = made.screen().availableGeometry()
    assert room.contains(QRect(made.frameGeometry()))


def test_a_workbook_is_watched_and_left(window, monkeypatch, tmp_path):
    window.watch_none()
    assert window.ledger.message.text() == "No workbook was watched"
    path = tmp_path / "book.csv"
    path.write_text("[states_Selden gas]\ntemperature (degC),pressure (bar)\n20,80\n")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a: (str(path), ""))
    window.watch_book()
    assert window.books.paths() == [path]
    window.watch_none()
    assert window.ledger.message.text() == "1 workbook no longer watched"
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a: ("", ""))
    window.watch_book()
    assert not window.books.paths()


def test_rows_of_a_sheet_are_never_deleted_unseen(window):
    window.live.select_sample("Varnholt crude")
    window.show_desk("map")
    delete = next(a for _, a in all_actions(window) if a.text() == "Delete rows")
    delete.trigger()
    assert window.current == "lab"
