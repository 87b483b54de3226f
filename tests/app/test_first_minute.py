"""The first minute of a new user: an empty project takes a paste, a file or a key, and everything can be found."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QMessageBox

from ask import lab_of, numbers
from cryonome.app.pages.lab.carbon_picture import composition
from cryonome.app.pages.shared.desk import DeskEntry, desk_entries, place_of
from cryonome.app.pages.shared.map_picture import Labels
from cryonome.app.shell.live import Live
from cryonome.app.shell.menus import all_actions
from cryonome.app.shell.palette import HelpPage, Palette
from cryonome.app.widgets.theme import DARK
from cryonome.demo import collection
from cryonome.document.model import MapDisplay
from cryonome.exchange import read_text
from cryonome.exchange.writing import write_samples
from cryonome.questions import solve

RANGE = "vol%\tTBP, °F\tdensity, °API\n5\t171\t66.0\n10\t234\t58.1\n30\t431\t42.3\n50\t606\t32.3\n70\t803\t23.6\n90\t1094\t13.2\n"
ANALYSIS = (
    "component\tmol%\nN2\t0.9\nC1\t71.2\nC2\t9.1\nC3\t5.4\nnC4\t3.1\nC6\t1.6\nC7\t2.1\nC8\t1.6\nC9\t1.0\nC10+\t4.0\n"
)


@pytest.fixture
def empty(window):
    """Return the window with nothing in it."""
    window.store.undo_stack.setClean()
    window.new()
    window.show_desk("lab")
    window.live.come_to_rest()
    return window


def drop(window, data: QMimeData) -> None:
    """Drop something on the window."""
    event = QDropEvent(
        QPointF(300, 300), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    window.dropEvent(event)
    window.live.come_to_rest()


def test_an_empty_project_says_what_it_takes_and_shows_no_fault(empty):
    lab = empty.desks["lab"]
    assert lab.invitation.isVisible()
    told = " ".join(x.text() for x in lab.invitation.findChildren(QLabel))
    assert "Ctrl+V" in told
    assert "Heptanes plus" in told  # the example
    assert not empty.live.sample.faults
    assert empty.trail.cards["lab"].state.mark != "look"


def test_a_pasted_range_makes_the_sample_and_is_one_step(empty):
    QGuiApplication.clipboard().setText(RANGE)
    empty.paste()
    empty.live.come_to_rest()
    sample = empty.store.document.samples[0]
    assert sample.distillation.points[3] == (50, "606 degF")
    assert sample.curves.density[0] == (5, "66 degAPI")
    assert empty.live.characterized() is not None
    assert not empty.live.sample.faults
    assert not empty.desks["lab"].invitation.isVisible()
    while empty.store.undo_stack.canUndo():
        empty.store.undo_stack.undo()
    assert not empty.store.document.samples
    empty.live.come_to_rest()
    assert empty.desks["lab"].invitation.isVisible()


def test_a_pasted_analysis_makes_a_carbon_number_sample(empty):
    QGuiApplication.clipboard().setText(ANALYSIS)
    empty.paste()
    empty.live.come_to_rest()
    sample = empty.store.document.samples[0]
    assert sample.distillation.method == "carbon-number"
    assert empty.desks["lab"].sheets.currentIndex() == 1


def test_nonsense_on_the_clipboard_is_told_and_loses_nothing(empty):
    QGuiApplication.clipboard().setText("a shopping list")
    empty.paste()
    assert "No lab sheet" in empty.ledger.message.text()
    assert not empty.store.document.samples
    QGuiApplication.clipboard().setText("")
    before = len(empty.store.document.samples)
    empty.paste()
    assert len(empty.store.document.samples) == before


def test_a_dropped_file_or_text_makes_samples(empty, tmp_path):
    path = tmp_path / "sheet.xlsx"
    write_samples(path, collection().samples[:2], {})
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    drop(empty, data)
    empty.live.come_to_rest()
    assert not empty.store.document.samples  # it shows what it read before it takes it
    empty.preview.accept()
    assert [s.name for s in empty.store.document.samples] == [s.name for s in collection().samples[:2]]
    text = QMimeData()
    text.setText(RANGE)
    drop(empty, text)
    assert len(empty.store.document.samples) == 3


def test_typing_opens_an_empty_sheet_with_what_was_typed(empty):
    lab = empty.desks["lab"]
    lab.invitation.setFocus()
    QTest.keyClicks(lab.invitation, "5")
    QApplication.processEvents()
    assert len(empty.store.document.samples) == 1
    assert not lab.invitation.isVisible()
    assert not lab.curve_fault.isVisible()  # a new sample greets without a fault
    assert "appear with" in lab.curve_note.text()


def test_every_action_is_found_by_typing(window):
    palette = Palette(all_actions(window), window)
    every = palette.list.topLevelItemCount()
    assert every > 60
    palette.entry.setText("view map")
    names = [palette.list.topLevelItem(i).text(0) for i in range(palette.list.topLevelItemCount())]
    assert "Map" in names
    assert len(names) < 10
    palette.entry.setText("units field")
    assert palette.list.topLevelItemCount() == 1
    QTest.keyClick(palette.entry, Qt.Key.Key_Return)
    assert palette.chosen.text().endswith("field")
    palette.entry.setText("")
    assert palette.list.topLevelItemCount() == every
    QTest.keyClick(palette.entry, Qt.Key.Key_Down)
    QTest.keyClick(palette.entry, Qt.Key.Key_PageDown)
    assert palette.list.currentIndex().row() == 11
    palette.entry.setText("xyzzy no such thing")
    QTest.keyClick(palette.entry, Qt.Key.Key_Return)
    assert palette.list.topLevelItemCount() == 0


def test_every_desk_has_a_page_of_help_and_a_place(window):
    for entry in desk_entries():
        assert isinstance(entry, DeskEntry)
        assert 5 <= len(entry.help) <= 10, entry.key
        page = HelpPage(entry, window)
        assert entry.title in page.windowTitle()
        window.show_desk(entry.key)
        assert window.current == entry.key
    assert len({e.key for e in desk_entries()}) == len(desk_entries()) == len(window.desks)
    assert place_of(("samples", 0, "distillation", "points", 3)).desk == "lab"
    assert place_of(("samples", 0, "cuts", "boundaries", 1)).desk == "cuts"
    assert place_of(("fluids", 1, "parts", 0)).desk == "fluid"
    assert place_of(("studies", 0, "temperature")).desk == "other"


def test_a_carbon_number_analysis_is_drawn_by_carbon_number(window):
    window.live.select_sample("Quillmoor condensate")
    window.show_desk("lab")
    window.live.come_to_rest()
    sample, result = window.live.current_sample(), window.live.characterized()
    shown = composition(sample, result)
    number, percent = shown.plus
    total = sum(shown.measured.values()) + percent
    assert total == pytest.approx(100.0, abs=0.6)
    assert sum(shown.split.values()) == pytest.approx(percent, rel=0.02)
    assert min(shown.split) >= number
    assert shown.measured[1] > 50.0
    lab = window.desks["lab"]
    assert "Carbon number" in lab.curve.x_title.text()
    assert lab.curve.item.getAxis("left").logMode
    window.live.select_sample("Varnholt crude")
    window.live.come_to_rest()
    assert "Distilled" in lab.curve.x_title.text()
    assert not lab.curve.item.getAxis("left").logMode


@pytest.mark.parametrize("size", [(1280, 760), (1000, 640)])
def test_labels_of_the_map_never_lie_on_one_another(window, size, monkeypatch):
    drawings = []
    made = Labels.__init__
    monkeypatch.setattr(Labels, "__init__", lambda self, *a: (drawings.append(self), made(self, *a))[1])
    window.resize(*size)
    for fluid in [f.name for f in window.store.document.fluids]:
        window.live.select_fluid(fluid)
        window.show_desk("map")
        window.live.come_to_rest()
        window.desks["map"].show_all()
        window.desks["map"]._place_labels()
        boxes = np.array(drawings[-1].taken)
        assert len(boxes) >= 4
        a, b = boxes[:, None, :], boxes[None, :, :]
        meet = (a[..., 0] < b[..., 2]) & (b[..., 0] < a[..., 2]) & (a[..., 1] < b[..., 3]) & (b[..., 1] < a[..., 3])
        marks = (boxes[:, 2] - boxes[:, 0]) < 15.0  # two marks may be close; a label is on none of them
        np.fill_diagonal(meet, False)
        assert not (meet & ~(marks[:, None] & marks[None, :])).any()


def test_the_window_gives_way_at_a_larger_font(qapp, window):
    font = qapp.font()
    larger = qapp.font()
    larger.setPointSizeF(font.pointSizeF() * 1.25)
    qapp.setFont(larger)
    try:
        for key in window.desks:
            window.show_desk(key)
            QApplication.processEvents()
            assert window.minimumSizeHint().width() <= 1280, key
            assert window.minimumSizeHint().height() <= 740, key
    finally:
        qapp.setFont(font)


def test_a_kept_question_answers_the_same_in_the_window_and_on_the_command_line(window):
    window.live.come_to_rest()
    answers = solve(window.store.document)["answers"]
    for study in window.store.document.studies:
        here, there = numbers(window.live.answer(study.name).value), numbers(answers[study.name])
        assert here.keys() == there.keys()
        # Points of a line near its critical point slide along it by a part in 1e7, as those traced beside it do.
        close = 1e-6 if study.kind == "envelope" else 1e-9
        assert [here[k] for k in here] == [
            pytest.approx(there[k], rel=close) if isinstance(there[k], float) else there[k] for k in here
        ], study.name
    assert isinstance(window.live, Live)
    assert len(MapDisplay().quality) == 5


def test_every_kind_of_sheet_is_one_action_from_its_map(empty):
    """A gas analysis, a carbon-number analysis, a D86 certificate, a boiling curve; a whole report is shown first."""
    gas = "Station\tNordhaben\nKomponente\tMol-%\nStickstoff\t1,84\nMethan\t93,10\nEthan\t4,08\nPropan\t0,98\nSumme\t100,00\n"
    d86 = "Sample\tKerosene\nASTM D86\nDensity at 15 °C\t801.2\tkg/m3\n% recovered\t°C\nIBP\t152\n10\t171\n50\t199\n90\t240\nFBP\t259\nLoss\t0.5\n"
    known = "\n".join(
        f"{line}\t{'MW' if k == 0 else '230' if 'C10+' in line else ''}\t{'SG' if k == 0 else '0.83' if 'C10+' in line else ''}"
        for k, line in enumerate(ANALYSIS.split("\n")[:-1])
    )
    for text, name in ((gas, "Pasted sample"), (known, ""), (d86, "Kerosene"), (RANGE, "")):
        QGuiApplication.clipboard().setText(text)
        empty.show_desk("lab")
        empty.desks["lab"].setFocus()
        empty.paste_text(text)
        empty.live.come_to_rest(60)
        assert empty.current == "map"
        assert empty.live.map.value is not None
        assert not name or empty.live.fluid_name == name
    assert not [
        f for f in empty.store.document.fluids if f.name == "Kerosene"
    ]  # it follows its sample until it is changed
    empty.live.select_sample("Kerosene")
    empty.live.set_fluid("Choose an equation", {("model", "eos"): "SRK"})
    assert empty.store.document.fluids[-1].name == "Kerosene"
    assert empty.live.current_fluid().parts[0].sample == "Kerosene"


def test_a_report_is_shown_before_it_is_taken_and_each_column_can_be_changed(empty):
    report = (
        "Reservoir fluid\nComponent\tmol%\tMW\tSG\nCO2\t1.9\nMethane\t71\nPropane\t15\nC7+\t12.1\t150\t0.79\n\n"
        "Constant composition expansion at 121 °C\nPressure (bara)\tRelative volume\tDensity (g/cc)\n450\t0.86\t0.55\n331\t1\t0.48\n150\t1.81\t\n"
    )
    empty.paste_text(report)
    page = empty.preview
    assert empty.stack.currentWidget() is page
    assert page.list.count() == 2
    assert not empty.store.document.samples
    page.list.setCurrentRow(1)
    place = [t[0] for t in page.model.titles()].index("density ▾")
    offered = {a.text(): a for a in page.menu_of(place).actions() if a.text()}
    assert {"relative volume", "not read", "in kg/m³"} <= set(offered)
    offered["not read"].trigger()
    empty.live.come_to_rest()
    assert "density_kg_m3" not in page.blocks()[1][1].tests[0].columns
    empty.set_theme(DARK)
    page.grab()
    QTest.keyClick(page.list, Qt.Key.Key_Return)
    empty.live.come_to_rest(60)
    document = empty.store.document
    assert [s.kind for s in document.studies] == ["expansion", "match"]
    assert document.studies[0].fluid == document.samples[0].name
    assert empty.current == "map"
    empty.store.undo_stack.undo()
    assert not empty.store.document.samples


def test_a_paste_keeps_the_columns_it_does_not_bring(empty, monkeypatch):
    asked = []
    monkeypatch.setattr(QMessageBox, "question", lambda *a: asked.append(a[2]) or QMessageBox.StandardButton.Yes)
    empty.paste_text(RANGE)
    empty.show_desk("lab")
    before = empty.store.document.samples[0]
    assert empty.desks["lab"].take_paste("distilled\tdensity (°API)\n5\t65\n30\t42\n50\t32\n70\t23\n90\t13\n")
    after = empty.store.document.samples[0]
    assert after.distillation.points == before.distillation.points
    assert after.curves.density[0] == (5, "65 degAPI")
    assert len(asked) == 1
    assert "density" in asked[0]


def test_what_is_copied_is_read_back_with_all_its_digits(empty):
    empty.paste_text(RANGE)
    empty.live.come_to_rest(60)
    grid = empty.desks["lab"].grid
    grid.copy_all()
    (back,) = read_text(QGuiApplication.clipboard().text(), "back").samples
    sample = empty.store.document.samples[0]
    assert lab_of(back).temperature == pytest.approx(lab_of(sample).temperature, rel=1e-10)
    assert lab_of(back).density_curve.value == pytest.approx(lab_of(sample).density_curve.value, rel=1e-10)
    cuts = empty.desks["cuts"]
    empty.show_desk("cuts")
    cuts.grids[0].copy_all()
    lines = [line.split("\t") for line in QGuiApplication.clipboard().text().split("\n")]
    column = next(j for j, title in enumerate(lines[0]) if title.startswith("moles"))
    copied = [float(line[column]) for line in lines[1:]]
    assert copied == pytest.approx((100 * empty.live.characterized().mole_fraction).tolist(), rel=1e-11)
