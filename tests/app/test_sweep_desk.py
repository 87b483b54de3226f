"""The page *Sweep*: begun from cells and answers, inputs chosen by their words, goals taken into the project."""

from __future__ import annotations

import pytest

from ask import become, fill
from cryonome.document import Reader
from cryonome.document.cell_paths import named_path
from cryonome.document.edits import set_at, study_path
from cryonome.questions.asking import asked_about, input_words, inputs_of
from cryonome.questions.varying import read_path


def test_every_number_of_the_project_has_a_path_and_words_of_its_own(window):
    document = window.store.document
    paths = inputs_of(document)
    assert len(paths) > 150
    named = {named_path(p, document): p for p in paths}
    assert len(named) == len(paths)
    for text, path in named.items():
        assert read_path(text, document, Reader()) == path, text
    words = [input_words(p, document) for p in paths]
    assert "amount of n-butane in Selden gas" in words
    assert len(set(words)) > 0.95 * len(words)
    at = paths[words.index("amount of n-butane in Selden gas")]
    assert asked_about(at, document, "").name == "Selden pipeline"


def test_vary_this_from_a_cell_and_read_this_from_an_answer(window):
    window.live.select_fluid("Varnholt recombined")
    window.show_desk("fluid")
    window.live.come_to_rest()
    parts = window.desks["fluid"].grids[0]
    row = next(i for i in range(parts.grid().rows()) if parts.grid().text(i, 0) == "methane")
    path = parts.grid().input_path(row, 1)
    assert parts.grid().input_path(row, 0) is None
    parts.vary_asked.emit(path)
    window.live.come_to_rest()
    desk, study = window.desks["sweep"], window.live.current_study()
    assert (window.current, study.kind, study.of) == ("sweep", "sweep", "reservoir")
    assert window.live.answer(study.name).value["ok"]
    # A value of the same question's answer is read beside what the sweep reads already.
    window.live.select_study("reservoir")
    window.show_desk("state")
    window.live.come_to_rest()
    grid = window.desks["state"].grid
    found = {grid.grid().answer_path(i, j) for i in range(grid.grid().rows()) for j in range(1, 4)}
    assert ("reservoir", "phases.liquid.viscosity_Pa_s") in found
    grid.read_asked.emit("reservoir", "phases.liquid.viscosity_Pa_s")
    window.live.come_to_rest()
    study = window.store.document.study(study.name)
    assert study.read == ("density_kg_m3", "phases.liquid.viscosity_Pa_s")
    assert [p.isVisible() for p in desk.plots] == [True, True, False, False]
    viscosities = [r["read"][1] for r in window.live.answer(study.name).value["rows"]][:6]  # until a gas leaves it
    assert viscosities == sorted(viscosities, reverse=True)  # more methane, thinner oil
    window.store.undo_stack.undo()
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert window.store.document.study(study.name) is None


def test_an_input_is_typed_by_its_words_and_a_second_makes_a_family(window):
    window.open_study("separator pressures")
    window.live.come_to_rest()
    desk = window.desks["sweep"]
    become(desk, ("vary", "path"), "and another input")
    field = desk.bar.fields[("vary", 1, "path")]
    field.edit.setFocus()
    field._entered()
    fill(desk, ("vary", 1, "path"), "temperature of first separator")
    window.live.come_to_rest()
    study = window.store.document.study("separator pressures")
    assert [v.path for v in study.vary][1] == "studies[first separator].temperature"
    assert len(window.live.answer("separator pressures").value["rows"]) == 12 * 11
    become(desk, ("vary", 0, "path"), "this input alone")
    window.live.come_to_rest()
    assert len(window.live.answer("separator pressures").value["rows"]) == 12
    fill(desk, ("vary", "steps"), "0")
    window.live.come_to_rest()
    assert "steps" in desk.told.text()


def test_make_this_equal_finds_the_value_and_takes_it_into_the_project(window):
    window.live.select_study("first separator")
    window.live.come_to_rest()
    window.make_equal("first separator", "vapour_volume_fraction")
    window.live.come_to_rest()
    desk, study = window.desks["sweep"], window.live.current_study()
    assert (window.current, study.kind) == ("sweep", "goal")
    before = window.store.document.study("first separator").temperature
    fill(desk, ("target",), "0.85")
    window.live.come_to_rest()
    answer = window.live.answer(study.name).value
    assert answer["reached"] == pytest.approx(0.85, abs=1e-9)
    assert desk.take_button.isVisible()
    desk.take_button.click()
    window.live.come_to_rest()
    taken = window.store.document.study("first separator").temperature
    assert taken != before
    assert taken.endswith("degC")
    assert window.live.answer("first separator").value["vapour_volume_fraction"] == pytest.approx(0.85, abs=1e-9)
    window.store.undo_stack.undo()
    assert window.store.document.study("first separator").temperature == before
    fill(desk, ("target",), "0.99999")
    window.live.come_to_rest()
    assert "out of reach" in desk.told.text()
    curve = window.live.results["goal curve"].value
    assert curve.read.max() < 0.99999
    assert not desk.take_button.isVisible()


def test_a_pasted_grid_gives_the_sweep_its_values_and_stands_beside_them(window):
    window.open_study("separator pressures")
    desk = window.desks["sweep"]
    desk.show_page("reference")
    window.live.come_to_rest()
    desk.reference.paste(
        "pressure (bar)\tvapour fraction\tliquid density (kg/m3)\n5\t0.55\t828\n20\t0.44\t810\n40\t0.37\t790\n"
    )
    window.live.come_to_rest()
    answer = window.live.answer("separator pressures").value
    assert [r["vary"] for r in answer["rows"]] == pytest.approx([5e5, 20e5, 40e5])
    assert [r["theirs"] for r in answer["reference"]] == [0.55, 0.44, 0.37, 828.0, 810.0, 790.0]
    assert all(abs(r["relative"]) < 0.1 for r in answer["reference"])
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert len(window.live.answer("separator pressures").value["rows"]) == 12
    desk.reference.paste("vapour fraction\n0.5\n0.4\n")
    assert "2 rows and the sweep 12" in desk.reference.told.text()


def test_a_state_beside_pasted_values(window):
    window.live.select_fluid("Varnholt recombined")
    window.live.select_study("first separator")
    window.show_desk("state")
    desk = window.desks["state"]
    desk.show_page("reference")
    window.live.come_to_rest()
    desk.reference.paste("vapour fraction\t0.46\nliquid density (lb/ft3)\t51\n[vapour]\nC1\t62\nC2\t14\nC3\t12\n")
    window.live.come_to_rest()
    found = {r["path"]: r for r in window.live.answer("first separator").value["reference"]}
    assert found["phases.liquid.density_kg_m3"]["theirs"] == pytest.approx(816.94, rel=1e-4)
    assert found["phases.vapour.composition.methane"]["theirs"] == pytest.approx(62 / 88)
    assert "normalised" in desk.reference.told.text()
    assert desk.reference.rows.rows() == 7  # with the temperature and pressure that they belong to
    here = study_path(window.live.document, "first separator")
    before = window.live.document
    window.store.edit("Warmer", lambda d: set_at(d, (*here, "temperature"), "80 degC"))
    window.live.come_to_rest()
    other = window.live.answer("first separator").value["reference"]
    assert [r.get("other_state", False) for r in other] == [False, False, True, True, True, True, True]
    assert desk.reference.rows.muted(3, 1)
    assert desk.reference.rows.text(3, 6) == "of another state"
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert window.live.document == before
    desk.reference.paste("[vapour]\nbenzene\t3\nC1\t97\n")
    assert "no such component" in desk.reference.told.text()


def test_a_field_and_a_measured_number_offer_to_be_varied(window):
    window.live.select_fluid("Varnholt recombined")
    window.live.select_study("first separator")
    window.show_desk("state")
    window.live.come_to_rest()
    fields = window.desks["state"].bar.fields
    offered = {k: [a.text() for a in f.menu().actions()] for k, f in fields.items()}
    assert [k[-1] for k, texts in offered.items() if "Vary this" in texts] == ["temperature", "pressure", "rate"]
    window.show_desk("lab")
    window.live.come_to_rest()
    density = window.desks["lab"].bulk.density
    next(a for a in density.context_menu().actions() if a.text() == "Vary this").trigger()
    window.live.come_to_rest()
    study = window.live.current_study()
    assert (study.of, study.vary.path) == ("first separator", "samples[Varnholt crude].bulk.density")
    assert sum(r["ok"] for r in window.live.answer(study.name).value["rows"]) > 5


def test_a_watched_workbook_is_answered_whenever_it_is_saved(window, qtbot, tmp_path):
    path = tmp_path / "line.csv"
    head = "[states_Selden gas]\ntemperature (degC),pressure (bar)\n"
    path.write_text(head + "20,80\n")
    said = []
    window.books.said.connect(said.append)
    window.books.add(path)
    qtbot.waitUntil(lambda: len(said) == 1, timeout=20_000)
    results = tmp_path / "line results.csv"
    assert results.read_text().count("\n20.0,80.0,1.0") == 1
    path.write_text(head + "20,80\n4,120\nhot,90\n")
    qtbot.waitUntil(lambda: len(said) == 2, timeout=20_000)
    assert "2 states answered in line results.csv, 1 without an answer; A5: 'hot'" in said[1]
    assert "\n4.0,120.0,1.0" in results.read_text()
    window.watch_none()
    path.write_text(head + "30,80\n")
    qtbot.wait(1000)
    assert len(said) == 2
