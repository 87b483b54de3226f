"""The views of the page *Sweep*: results searched and chosen, the table, families of curves, holes, and what is copied and written."""

from __future__ import annotations

import csv

import numpy as np
import pytest
from PySide6.QtWidgets import QFileDialog

from cryonome.document.edits import get_at, set_at, study_path
from cryonome.questions.kinds.sweep import Variation


@pytest.fixture
def desk(window):
    """Return the page on the demo's sweep of the separator's pressure, answered."""
    window.open_study("separator pressures")
    window.live.come_to_rest()
    return window.desks["sweep"]


def drawn(plot, kind, key):
    """Return the points of a line or of dots that a plot shows."""
    x, y = plot._items[f"{kind} {key}"][1].getData()
    return np.asarray(x), np.asarray(y)


def vary(window, change):
    """Vary other inputs, or other values of them."""
    here = (*study_path(window.store.document, "separator pressures"), "vary")
    window.store.edit("Vary", lambda d: set_at(d, here, change(get_at(d, here))))
    window.live.come_to_rest()


def found(desk):
    """Return the results listed, by their words."""
    return {desk.results.text(i, 1): i for i in range(desk.results.rows())}


def test_results_are_found_by_their_words_and_ticked(window, desk):
    desk.choose_button.click()
    assert desk.stack.currentWidget() is desk.results_grid
    assert desk.search.isVisible()
    every = desk.results.rows()
    desk.search.setText("Liquid viscosity")
    assert 0 < desk.results.rows() < every / 5
    assert all("liquid" in words and "viscosity" in words for words in found(desk))
    row = next(i for words, i in found(desk).items() if "kinematic" not in words)
    read = window.store.document.study("separator pressures").read
    desk.results_grid.doubleClicked.emit(desk.results.index(row, 1))
    window.live.come_to_rest()
    chosen = window.store.document.study("separator pressures").read
    assert chosen[:-1] == read
    assert chosen[-1] == "phases.liquid.viscosity_Pa_s"
    row = found(desk)["liquid viscosity"]
    assert (desk.results.text(row, 0), desk.results.text(row, 3)) == ("✓", "cP")
    assert desk.results.bold(row, 1)
    (state,) = (
        p["viscosity_Pa_s"] for p in window.live.answer("first separator").value["phases"] if p["kind"] == "liquid"
    )
    assert float(str(desk.results.text(row, 2))) == pytest.approx(1e3 * state, rel=1e-3)
    desk.results_grid.clicked.emit(desk.results.index(row, 2))  # the tick alone takes a click
    assert window.store.document.study("separator pressures").read == chosen
    desk.results_grid.clicked.emit(desk.results.index(row, 0))
    assert window.store.document.study("separator pressures").read == read
    desk.search.setText("no such thing")
    assert desk.results.rows() == 0


def test_a_result_is_removed_from_the_list_and_comes_back_with_undo(window, desk):
    study = window.store.document.study("separator pressures")
    assert desk.read.keys == list(study.read)
    assert [desk.read.text(i, 0) for i in range(2)] == ["Vapour fraction", "Density"]
    desk.read_grid.setCurrentIndex(desk.read.index(1, 0))
    desk.remove_button.click()
    window.live.come_to_rest()
    assert window.store.document.study("separator pressures").read == study.read[:1]
    assert [p.isVisible() for p in desk.plots] == [True, False, False, False]
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert window.store.document.study("separator pressures").read == study.read
    assert [p.isVisible() for p in desk.plots] == [True, True, False, False]


def test_curves_table_and_copied_numbers_are_the_answer(window, desk):
    answer = window.live.answer("separator pressures").value
    bar = [r["vary"] / 1e5 for r in answer["rows"]]
    desk.show_page("plot")
    for place, scale in ((0, 1.0), (1, 1.0)):
        x, y = drawn(desk.plots[place], "line", "0")
        np.testing.assert_allclose(x, bar)
        np.testing.assert_allclose(y, [scale * r["read"][place] for r in answer["rows"]])
    desk.show_page("table")
    shown = [[float(str(desk.table.text(i, j))) for j in range(3)] for i in range(desk.table.rows())]
    np.testing.assert_allclose([r[0] for r in shown], bar, rtol=1e-4)
    np.testing.assert_allclose([r[2] for r in shown], [r["read"][1] for r in answer["rows"]], rtol=1e-3)
    ((title, heads, columns),) = desk.plots[0].data()
    assert (title, heads) == ("sweep", ["pressure, bar", "vapour fraction", "liquid density, kg/m³"])
    np.testing.assert_allclose(columns[0], bar)
    np.testing.assert_allclose(columns[2], [r["read"][1] for r in answer["rows"]])


def test_a_second_input_makes_a_family_whose_lines_are_named_by_it(window, desk):
    temperature = {"path": "studies[first separator].temperature", "from": "40 degC", "to": "80 degC", "steps": 2}
    vary(window, lambda given: (given, Variation.model_validate(temperature)))
    desk.show_page("plot")
    answer = window.live.answer("separator pressures").value
    assert len(answer["rows"]) == 36
    for number, T in enumerate((313.15, 333.15, 353.15)):
        own = [r for r in answer["rows"] if r["vary"][1] == pytest.approx(T)]
        x, y = drawn(desk.plots[0], "line", str(number))
        np.testing.assert_allclose(x, [r["vary"][0] / 1e5 for r in own])
        np.testing.assert_allclose(y, [r["read"][0] for r in own])
    vapour = [drawn(desk.plots[0], "line", str(n))[1] for n in range(3)]
    assert np.all(vapour[0] < vapour[1])
    assert np.all(vapour[1] < vapour[2])
    ((_, heads, columns),) = desk.plots[0].data()
    assert heads[:2] == ["pressure, bar", "temperature, °C"]
    assert sorted(set(np.round(columns[1], 6))) == [40.0, 60.0, 80.0]


def test_a_value_without_an_answer_is_a_cross_and_a_hole(window, desk):
    values = ["10 bar", "20 bar", "450 bar", "40 bar"]
    vary(window, lambda given: Variation.model_validate({"path": given.path, "values": values}))
    here = (*study_path(window.store.document, "separator pressures"), "read")
    window.store.edit("Read", lambda d: set_at(d, here, ("phases.vapour.density_kg_m3",)))
    window.live.come_to_rest()
    desk.show_page("plot")
    rows = window.live.answer("separator pressures").value["rows"]
    assert [r["ok"] for r in rows] == [True, True, False, True]
    assert "vapour" in rows[2]["error"]
    x, y = drawn(desk.plots[0], "line", "0")
    np.testing.assert_allclose(x, [10.0, 20.0, 40.0])
    assert np.all(np.diff(y) > 0.0)
    crosses, feet = drawn(desk.plots[0], "dots", "bad 0")
    assert crosses == pytest.approx([450.0])
    assert feet == pytest.approx([desk.plots[0].box.viewRange()[1][0]], rel=0.5)
    ((_, _, columns),) = desk.plots[0].data()
    assert np.isnan(columns[1][2])


def test_a_goal_draws_its_curve_its_target_and_what_it_found(window, desk):
    window.live.select_study("first separator")
    window.live.come_to_rest()
    desk.begin_goal()
    window.live.come_to_rest()
    study = window.live.current_study()
    assert (study.kind, study.of, study.target) == ("goal", "first separator", 0.5)
    assert not desk.read_grid.isVisible()
    assert not desk.views["table"].isVisible()
    answer = desk.answer()
    assert answer["reached"] == pytest.approx(0.5, abs=1e-9)
    x, y = drawn(desk.plots[0], "line", "0")
    curve = window.live.results["goal curve"].value
    np.testing.assert_allclose(x, curve.values[np.isfinite(curve.read)])
    at, level = drawn(desk.plots[0], "dots", "found")
    scale = window.live.asked(study).input.scale
    assert at[0] == pytest.approx(scale.number(answer["value"]))
    assert list(level) == [0.5] * (1 + len(answer["others"]))
    assert np.interp(at[0], x, y) == pytest.approx(0.5, abs=0.01)
    ((title, heads, columns),) = desk.plots[0].data()
    assert (title, heads) == ("goal", ["input", "result"])
    assert columns[1] == curve.read.tolist()
    # Another result is read by its row, and the goal asks for it.
    desk.show_page("results")
    desk.search.setText("vapour volume fraction")
    desk.results.toggle(0)
    window.live.come_to_rest()
    assert window.live.current_study().read == "vapour_volume_fraction"
    desk.show_page("table")  # a goal has none; its curve stays
    assert desk.stack.currentIndex() == 0


def test_a_sweep_begins_from_the_state_chosen_or_says_what_is_missing(window, desk):
    window.live.select_study("reservoir")
    before = window.store.document
    desk.begin_sweep()
    window.live.come_to_rest()
    study = window.live.current_study()
    assert (study.kind, study.of, study.vary.path) == ("sweep", "reservoir", "studies[reservoir].temperature")
    assert all(r["ok"] for r in window.live.answer(study.name).value["rows"])
    window.store.undo_stack.undo()
    assert window.store.document == before
    window.store.undo_stack.setClean()
    window.new()
    window.show_desk("sweep")
    window.live.come_to_rest()
    desk.begin_sweep()
    desk.begin_goal()
    assert window.store.document.studies == ()
    assert "Choose or make a fluid first" in desk.found.text()
    assert not desk.stack.isVisible()


def test_the_sweep_is_written_as_it_is_answered(window, desk, tmp_path, monkeypatch):
    path = tmp_path / "sweep.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(path), ""))
    desk.export()
    with path.open(encoding="utf-8-sig", newline="") as file:
        rows = list(csv.reader(file))
    answer = window.live.answer("separator pressures").value
    head = next(i for i, r in enumerate(rows) if r and r[0].startswith("pressure"))
    body = [[float(c) for c in r[:3]] for r in rows[head + 1 :] if r and r[0][:1].isdigit()]
    np.testing.assert_allclose([r[0] for r in body], [r["vary"] / 1e5 for r in answer["rows"]], rtol=1e-9)
    np.testing.assert_allclose([r[1] for r in body], [r["read"][0] for r in answer["rows"]], rtol=1e-9)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(path / "x.csv"), ""))
    desk.export()
    assert "x.csv could not be saved" in window.ledger.message.text()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: ("", ""))
    window.ledger.say("")
    desk.export()
    assert window.ledger.message.text() == ""
