"""The parts of the window by themselves: grid, fields, plot, theme, store, trail, shelf, ledger."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog

from cryonome.app.shell.store import Store
from cryonome.app.shell.trail import CardState
from cryonome.app.widgets.fields import shown_text, unit_menu
from cryonome.app.widgets.grid import GridModel, GridView, table_text
from cryonome.app.widgets.letters import base_font
from cryonome.app.widgets.plot import Plot
from cryonome.app.widgets.plot_frame import PlainLogAxis
from cryonome.app.widgets.theme import DARK, LIGHT
from cryonome.document import Document
from cryonome.document.edits import renamed
from cryonome.exchange.columns import column_meaning, column_unit
from cryonome.remarks import KINDS
from window_demo import demo_document


class Sheet(GridModel):
    """A small sheet of texts."""

    def __init__(self) -> None:
        super().__init__()
        self.cells = {(r, c): f"{10 * r + c}" for r in range(3) for c in range(2)}
        self.steps: list[str] = []

    def titles(self):
        return [("percent", "vol%"), ("name", "")]

    def rows(self):
        return 3

    def text(self, row, column):
        return self.cells.get((row, column), "")

    def editable(self, row, column):
        return True

    def store_cells(self, cells, text):
        self.cells.update(cells)
        self.steps.append(text)


@pytest.fixture
def sheet(qtbot):
    view = GridView(Sheet())
    qtbot.addWidget(view)
    view.resize(300, 200)
    view.show()
    return view


def test_copy_cut_paste_and_clear_like_a_spreadsheet(sheet):
    model, keys = sheet.grid(), Qt.KeyboardModifier.ControlModifier
    model.cells[0, 0] = "−4.5"
    sheet.selectAll()
    QTest.keyClick(sheet, Qt.Key.Key_C, keys)
    text = QGuiApplication.clipboard().text()
    assert text.split("\n")[:2] == ["percent (vol%)\tname", "-4.5\t1"]
    sheet.clearSelection()
    sheet.setCurrentIndex(model.index(1, 1))
    QTest.keyClick(sheet, Qt.Key.Key_C, keys)
    assert QGuiApplication.clipboard().text() == "11"
    QTest.keyClick(sheet, Qt.Key.Key_X, keys)
    assert model.cells[1, 1] == ""
    QGuiApplication.clipboard().setText("a\tb\r\nc\td\r\n")
    sheet.setCurrentIndex(model.index(0, 0))
    QTest.keyClick(sheet, Qt.Key.Key_V, keys)
    assert [model.cells[k] for k in ((0, 0), (0, 1), (1, 0), (1, 1))] == ["a", "b", "c", "d"]
    QTest.keyClick(sheet, Qt.Key.Key_Delete)
    assert model.cells[0, 0] == ""
    assert model.steps == ["Cut", "Paste", "Clear cells"]
    QTest.keyClick(sheet, Qt.Key.Key_Return)
    assert sheet.currentIndex().row() == 1
    assert table_text(model, [1], [0], False) == "c"


def test_an_edit_that_changes_nothing_is_no_step(sheet):
    model = sheet.grid()
    assert not model.setData(model.index(0, 0), "0", Qt.ItemDataRole.EditRole)
    assert model.setData(model.index(0, 0), "7", Qt.ItemDataRole.EditRole)
    assert model.steps == ["Edit a cell"]


@pytest.mark.parametrize(
    ("cell", "unit", "kind", "text"),
    [
        ("62 degF", "degF", "temperature", "62"),
        ("62 °F", "degF", "temperature", "62"),
        ("62,50 F", "degF", "temperature", "62.5"),
        ("-40 degC", "degF", "temperature", "−40"),
        (300, "degC", "temperature", "26.85"),
        ("hot", "degC", "temperature", "hot"),
        ("5 psig", "degC", "temperature", "5 psig"),
        ("51.4 lb/ft3", "degAPI", "density", "40.19"),
        (None, "degC", "temperature", ""),
        (11.9, "", "", "11.9"),
    ],
)
def test_a_cell_is_shown_in_its_columns_unit_and_never_lost(cell, unit, kind, text):
    assert shown_text(cell, unit, kind)[: len(text)] == text


def test_units_are_found_in_spreadsheet_headers():
    for cell, what, unit in (
        ("TBP [°C]", "temperature", "degC"),
        ("Temperature (deg F)", "temperature", "degF"),
        ("T, K", "temperature", "K"),
        ("boiling point (degF)", "temperature", "degF"),
        ("Density (lb/ft3)", "density", "lb/ft**3"),
        ("°API", "density", "degAPI"),
        ("MW g/mol", "molar_mass", "g/mol"),
        ("kinematic viscosity, cSt", "viscosity", "cSt"),
        ("vol% distilled", "percent", None),
        ("component", "name", None),
        ("a", None, None),
    ):
        assert column_meaning(cell) == what
        assert (column_unit(cell) or None) == unit


def test_a_unit_menu_offers_the_kinds_units(qtbot):
    chosen = []
    host = Plot("x")
    qtbot.addWidget(host)
    menu = unit_menu(host, "pressure", "bar", chosen.append)
    texts = [a.text() for a in menu.actions()]
    assert "psig" in texts
    assert [a.text() for a in menu.actions() if a.isChecked()] == ["bar"]
    menu.actions()[texts.index("psig")].trigger()
    assert chosen == ["psig"]


def luminance(colour: str) -> float:
    c = QColor(colour)
    parts = [v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4 for v in (c.redF(), c.greenF(), c.blueF())]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(a: str, b: str) -> float:
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=lambda t: t.name)
def test_text_can_be_read_and_phase_colours_are_one_scale(theme):
    for ground in (theme.paper, theme.surface, theme.sunk):
        assert contrast(theme.ink, ground) > 10
        assert contrast(theme.mute, ground) > 3.9
    assert contrast(theme.fault, theme.surface) > 4
    assert theme.phase(0.0) == QColor(theme.liquid)
    assert theme.phase(1.0) == QColor(theme.vapour)
    assert theme.phase(-3.0) == theme.phase(0.0)
    steps = [theme.phase(f) for f in np.linspace(0, 1, 201)]
    jumps = [abs(a.red() - b.red()) + abs(a.green() - b.green()) + abs(a.blue() - b.blue()) for a, b in pairwise(steps)]
    assert max(jumps) <= 8
    assert base_font().pointSizeF() > 8


def test_logarithmic_axes_have_plain_numbers(qtbot):
    host = Plot("x")
    qtbot.addWidget(host)
    axis = host.item.getAxis("left")
    assert isinstance(axis, PlainLogAxis)
    assert axis.logTickStrings(np.log10([0.5, 1, 2, 3, 50, 100]), 1, 1) == ["0.5", "1", "2", "", "50", "100"]


def test_plot_data_of_unequal_length_stands_side_by_side(qtbot):
    plot = Plot("Two lines")
    qtbot.addWidget(plot)
    plot.data = lambda: [("a", ["x", "y"], [[1, 2], [3, float("nan")]]), ("b", ["x"], [[0.1]])]
    assert plot.csv_text().splitlines() == ["a: x,a: y,b: x", "1,3,0.1", "2,,"]
    plot.copy_data()
    assert QGuiApplication.clipboard().text().split("\n")[1] == "1\t3\t0.1"


def test_the_store_is_the_only_way_in(qapp, tmp_path):
    store, seen = Store(demo_document()), []
    store.changed.connect(lambda: seen.append(store.document))
    assert not store.edit("Nothing", lambda d: d)
    assert seen == []
    rename = lambda old, new: lambda d: renamed(d, "samples", old, new)  # noqa: E731
    store.edit("One", rename("Varnholt crude", "A"), "drag")
    store.edit("Two", rename("A", "B"), "drag")
    assert store.undo_stack.count() == 1
    assert store.dirty
    store.undo_stack.undo()
    assert store.document == demo_document()
    assert not store.dirty
    store.undo_stack.redo()
    assert store.document.samples[0].name == "B"
    with pytest.raises(ValueError, match="no file"):
        store.save()
    with pytest.raises(OSError):
        store.save(tmp_path)
    assert store.dirty
    store.keep_copy()
    assert store.autosave.file.exists()
    store.close()
    assert not store.autosave.file.exists()
    store.replace(Document(), None)
    assert store.undo_stack.count() == 0


def test_the_trail_is_reached_by_keys_and_tells_its_state(window):
    trail, chosen = window.trail, []
    trail.chosen.connect(chosen.append)
    assert list(trail.cards) == ["lab", "cuts", "fluid", "model", "match", "answers"]
    QTest.keyClick(trail.cards["match"], Qt.Key.Key_Return)
    assert window.current == "match"
    assert not trail.pages.isVisible()
    QTest.mouseClick(trail.cards["answers"], Qt.MouseButton.LeftButton)
    assert window.current == "map"
    assert trail.pages.isVisible()
    QTest.mouseClick(trail.chips["state"], Qt.MouseButton.LeftButton)
    QTest.mouseClick(trail.cards["answers"], Qt.MouseButton.LeftButton)
    assert chosen == ["match", "map", "state", "state"]
    card = trail.cards["lab"]
    for mark in ("done", "look", "open", "work"):
        card.show_state(CardState(mark, "a line"))
        trail.grab()
        assert mark in card.accessibleDescription()
    assert card._turn.isActive()
    card.show_state(CardState("done", "a line"))
    assert not card._turn.isActive()


def test_shelf_adds_copies_renames_and_removes(window, monkeypatch):
    w = window
    w.duplicate_fluid()
    assert w.live.fluid_name == "Varnholt recombined, copy"
    w.duplicate_sample()
    assert (w.live.sample_name, w.live.fluid_name) == (
        "Varnholt crude, copy",
        "Varnholt crude, copy",
    )  # it is a fluid by default
    QApplication.processEvents()
    assert w.shelf.samples.count() == 3
    assert w.shelf.fluids.count() == 7
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("Second", True))
    w.rename_sample()
    assert w.live.sample_name == "Second"
    assert w.live.current_sample() is not None
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("Varnholt recombined", True))
    told = []
    monkeypatch.setattr(type(w), "tell", lambda _self, what, _why: told.append(what))
    w.live.select_fluid("Varnholt recombined, copy")
    assert w.live.sample_name == "Varnholt crude"  # a fluid shows its own sample
    w.rename_fluid()
    assert "is taken" in told[0]
    w.remove_fluid()
    w.live.select_sample("Second")
    w.remove_sample()
    QApplication.processEvents()
    assert w.shelf.samples.count() == 2
    assert w.live.sample_name
    for _ in range(5):
        w.store.undo_stack.undo()
    assert w.store.document == demo_document()
    w.live.come_to_rest()
    w.shelf.fluids.setCurrentRow(0)
    assert w.live.fluid_name == "Varnholt stock-tank oil"
    assert w.current == "map"
    w.shelf.samples.setCurrentRow(0)


def test_the_ledger_counts_lists_and_leads_to_the_place(window):
    ledger = window.ledger
    assert "estimates" in ledger.counts.text()
    ledger.open(True)
    texts = [ledger.drawer.item(i).text() for i in range(ledger.drawer.count())]
    assert any("density curve is continued below 5 %" in t for t in texts)
    assert any("continued to 100 %" in t for t in texts)
    signs = dict(zip(KINDS[1:], "▲↗↔○"))
    kinds = [next(s for k, s in signs.items() if f" {k}s of one" in t) if t[0] == "▸" else t[0] for t in texts]
    assert kinds == sorted(kinds, key="▲↗↔○".index)
    # Many of one origin stand behind one line, opened by a click.
    gathered = next(i for i, t in enumerate(texts) if t[0] == "▸")
    count = int(texts[gathered].split()[1])
    ledger.drawer.itemClicked.emit(ledger.drawer.item(gathered))
    assert ledger.drawer.count() == len(texts) + count
    ledger._turned = 0.0
    ledger.drawer.itemClicked.emit(ledger.drawer.item(gathered))
    assert ledger.drawer.count() == len(texts)
    row = next(i for i, t in enumerate(texts) if "continued to 100 %" in t)
    ledger.drawer.itemActivated.emit(ledger.drawer.item(row))
    assert window.current == "lab"
    assert window.height() <= 800
    ledger.say("x" * 300)
    assert len(ledger.message.text()) < 100
