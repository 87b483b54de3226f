"""The desk *Match*: reports pasted, parameters chosen, a fit followed and kept, all of it undone."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from cryonome.demo import demo_document
from cryonome.document.edits import get_at, study_path
from cryonome.questions.kinds.match import MatchStudy

CONDENSATE = "Quillmoor reservoir gas"
REPORT = """Constant composition expansion at 40 °C
Dew point pressure\t118.2 bar
Pressure (bar)\tRelative volume\tDensity (kg/m3)
160\t0.7412\t139.1
140\t0.8388\t
118.2\t1\t103.0
90\t1.3502\t
60\t2.0711\t
30\t4.3050\t
"""


@pytest.fixture
def desk(whole_window):
    window = whole_window
    window.live.select_fluid(CONDENSATE)
    window.show_desk("match")
    assert window.live.come_to_rest(120)
    return window.desks["match"]


def test_the_fit_is_shown_chosen_kept_and_undone(whole_window, desk, qtbot):
    window = whole_window
    match = desk.match()
    assert match is not None
    assert not match.parameters
    answer = desk.side.answer()
    assert answer is not None
    # What is shown is what the question answers.
    assert [desk.side.fit.text(i, 0) for i in range(desk.side.fit.rows())] == [p["label"] for p in answer["parameters"]]
    assert float(desk.side.fit.text(0, 2)) == pytest.approx(answer["parameters"][0]["value"], abs=5e-4)
    panel = desk.panel()
    assert panel is not None
    assert panel.after is not None
    assert panel.deviation(panel.after) < 0.3 * panel.deviation(panel.before)
    assert len(desk.row.small) >= 5
    # A bound typed in the fit's table makes the proposed set the user's own.
    desk.side.fit.store_cells({(0, 4): "0.9"}, "x")
    own = desk.match().parameters
    assert [p.property for p in own] == [p["property"] for p in answer["parameters"]]
    assert own[0].between[0] == 0.9
    window.store.undo_stack.undo()
    # Every change of the choice is a step, and the fit follows by itself.
    before = len(answer["parameters"])
    left_out = next(r.label for r in desk.side.reach.rows if not r.taken and "shift" in r.label)
    desk.side.toggle(left_out)
    assert window.live.come_to_rest(120)
    assert left_out in [p["label"] for p in desk.side.answer()["parameters"]]
    assert len(desk.side.answer()["parameters"]) == before + 1
    desk.side.propose_set()
    assert window.live.come_to_rest(120)
    # Kept, the fluid is tuned and its map another; the match does not ask itself anew.
    desk.side.variants.keep_tuning()
    fluid = window.store.document.fluid(CONDENSATE)
    assert fluid.model.tuned == fluid.variants[0].tuned
    assert "136 points" in fluid.variants[0].note
    assert desk.side.answer()["parameters"] == answer["parameters"]
    assert not desk.side.variants.keep.isEnabled()
    desk.side.variants.use(None, "untuned")
    assert window.store.document.fluid(CONDENSATE).model.tuned is None
    assert len(window.store.document.fluid(CONDENSATE).variants) == 1
    desk.side.variants.lay_over()
    assert [g.name for g in window.store.document.ghosts] == [f"{CONDENSATE}, {fluid.variants[0].name}"]
    desk.side.variants.use(fluid.variants[0].tuned, "x")
    desk.side.variants.drop(fluid.variants[0].name)
    dropped = window.store.document.fluid(CONDENSATE)
    assert (dropped.variants, dropped.model.tuned) == ((), None)
    while window.store.undo_stack.canUndo():
        window.store.undo_stack.undo()
    assert window.store.document == demo_document()


def test_curves_move_as_the_fit_does_and_stopping_keeps_the_best(whole_window, desk, qtbot):
    window = whole_window
    moved: list[int] = []
    window.live.fit_moved.connect(lambda name, moving: moved.append(moving.steps))
    match = desk.match()
    here = study_path(window.store.document, match.name)
    # Another weight is another fit, which nothing remembers.
    window.store.edit("x", lambda d: _set(d, (*here, "weights"), {"Quillmoor depletion": 0.37}))
    qtbot.waitUntil(lambda: len(moved) >= 2, timeout=60000)
    desk.side._end()
    assert window.live.come_to_rest(120)
    assert desk.side.answer()["reason"] in ("stopped", "no further gain")
    assert moved == sorted(moved)
    # A stopped fit may go on, and nothing remembers where it was stopped.
    window.live.ask_again(match.name)
    assert window.live.come_to_rest(120)
    assert desk.side.answer()["reason"] == "no further gain"
    window.store.undo_stack.undo()


def _set(document, path, value):
    from cryonome.document.edits import set_at

    return set_at(document, path, value)


def test_a_report_is_taken_as_tests_and_a_match_and_typed_in(whole_window, qtbot, tmp_path):
    window = whole_window
    window.live.select_fluid("Selden gas")
    window.show_desk("match")
    desk = window.desks["match"]
    assert not desk.side.isVisible()
    assert not desk.take_paste("nothing\tto\tsee")
    # A file that holds none is told, and nothing made of it; the workbook of a report is shown before it is taken.
    (tmp_path / "notes.csv").write_text("nothing,here\n")
    window.import_paths([tmp_path / "notes.csv", tmp_path / "gone.csv"])
    window.live.come_to_rest()
    page = window.preview
    assert any("gone.csv cannot be read" in page.left_out.item(k).text() for k in range(page.left_out.count()))
    assert not page.take.isEnabled()
    page.reject()
    assert window.current == "match"
    (tmp_path / "report.csv").write_text(REPORT.replace("\t", ","))
    window.import_paths([tmp_path / "report.csv"])
    window.live.come_to_rest()
    page.accept()
    window.live.come_to_rest(60)
    made = [s for s in window.store.document.studies if getattr(s, "fluid", "") == "Selden gas"][-2:]
    assert [s.kind for s in made] == ["expansion", "match"]
    assert isinstance(made[1], MatchStudy)
    assert made[0].measured["density_kg_m3"] == ("139.1 kg/m**3", None, "103 kg/m**3", None, None, None)
    assert made[0].temperature == "40 degC"
    window.live.come_to_rest(60)
    desk.show_page("report")
    assert desk.report_grid.isVisible()
    # A wrong value is marked at its cell with a sentence, and nothing typed is lost.
    desk.report.store_cells({(1, 1): "many"}, "x")
    window.live.come_to_rest(60)
    desk.refresh()
    assert "many" in desk.report.fault(1, 1)
    assert desk.report.text(1, 1) == "many"
    desk.report.store_cells({(6, 0): "20", (6, 1): "6.61"}, "x")
    test = window.store.document.study(made[0].name)
    assert (test.pressures[-1], test.measured["relative_volume"][-1]) == ("20 bar", 6.61)
    while window.store.undo_stack.canUndo():
        window.store.undo_stack.undo()
    assert window.store.document == demo_document()


def test_a_failed_check_is_told_and_its_point_marked(whole_window):
    window = whole_window
    window.live.select_fluid("Varnholt recombined")
    window.show_desk("match")
    assert window.live.come_to_rest(120)
    desk = window.desks["match"]
    assert desk.checks.lines[0].text().startswith("▲  Varnholt expansion: The Y-function bends")
    # The picture behind it is a click away: the points, the one that is off, and the line; a click on another brings that back.
    QTest.mouseClick(desk.checks.links[0], Qt.MouseButton.LeftButton)
    (table,) = desk._data()
    assert table[0] == "Y-function"
    off = np.abs(np.array(table[2][1]) / np.array(table[2][2]) - 1.0)
    bad = [k for k, mark in enumerate(desk._seen_check()["marks"]) if mark == "bad"]
    assert len(bad) == 1
    assert off[bad[0]] > 0.05
    assert desk.large_title.text().startswith("Y-function, Varnholt expansion")
    QTest.mouseClick(desk.row.small[0].title, Qt.MouseButton.LeftButton)
    assert not desk.large_title.text().startswith("Y-function")
    assert desk._bad_rows()[("Varnholt expansion",), "relative_volume"] == (9,)
    assert (
        get_at(window.store.document, (*study_path(window.store.document, "Varnholt expansion"), "pressures"))[9]
        == "90 bar"
    )


def test_a_lumped_fluid_is_taken_over_with_its_tests_and_its_rows_are_saved(whole_window, tmp_path, monkeypatch):
    window = whole_window
    window.live.select_study("Varnholt in twelve")
    window.show_desk("separation")
    assert window.live.come_to_rest(120)
    desk = window.desks["separation"]
    assert "with 12 components" in desk.bar.text()
    desk.take_over()
    made = window.store.document.fluids[-1]
    assert len(made.parts) == 12
    own = [s for s in window.store.document.studies if getattr(s, "fluid", "") == made.name]
    assert [s.kind for s in own][-1] == "match"
    assert {"expansion", "liberation", "separators", "swelling", "saturation"} <= {s.kind for s in own}
    window.store.undo_stack.undo()
    assert window.store.document == demo_document()
    window.live.select_study("Varnholt black oil")
    assert window.live.come_to_rest(120)
    monkeypatch.setattr(
        "cryonome.app.pages.shared.study_desk.QFileDialog.getSaveFileName", lambda *_: (str(tmp_path / "b.csv"), "")
    )
    desk.export()
    lines = (tmp_path / "b.csv").read_text().splitlines()
    assert lines[0].startswith("pressure (bar),solution gas (")
    answer = window.live.answer("Varnholt black oil").value
    assert lines.index("") == len(answer["rows"]) + 1
    assert "branches" in lines  # the other tables stand below, none is left out
    assert float(lines[1].split(",")[0]) == pytest.approx(answer["rows"][0]["pressure_Pa"] / 1e5)
