"""What is asked in the window is a question of the document: begun, kept, renamed, removed, undone."""

from __future__ import annotations

import time

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog

from cryonome.app.shelf import LINE, NAME
from cryonome.document import edits as change
from cryonome.document import load
from cryonome.document.kinds import study_kinds
from cryonome.studies import solve


def lines(window) -> dict[str, str]:
    """Return the shelf's questions with their line."""
    shelf = window.shelf.studies
    return {shelf.item(i).data(NAME): shelf.item(i).data(LINE) for i in range(shelf.count())}


def test_a_question_of_every_kind_is_begun_answered_and_saved(window, tmp_path):
    window.live.select_fluid("Varnholt recombined")
    window.show_desk("map")
    window.live.come_to_rest()
    window.desks["map"].place_probe(400.0, 6e6)
    before = len(window.store.document.studies)
    for kind in study_kinds():
        window.add_study(kind)
    window.live.come_to_rest()
    made = window.store.document.studies[before:]
    assert [s.kind for s in made] == list(study_kinds())
    assert len({s.name for s in window.store.document.studies}) == len(window.store.document.studies)
    for study in made:
        answer = window.live.answer(study.name).value
        # What a goal is to be only its asker knows, and what was measured only the laboratory: what they begin with says so.
        why = {"goal": "out of reach", "match": "nothing to fit"}.get(study.kind, "never")
        assert answer["ok"] or why in answer["error"], study.name
    window.store.save(tmp_path / "q.cryo")
    own = [s.name for s in made if s.kind in ("goal", "sweep", "table", "expansion", "separators")]
    answers = solve(load(tmp_path / "q.cryo"), own)["answers"]
    assert all(answers[name] == window.live.answer(name).value for name in own)
    assert all(a["ok"] for name, a in answers.items() if not name.startswith(("Goal", "Match")))
    for _ in made:
        window.store.undo_stack.undo()
    assert len(window.store.document.studies) == before


def test_a_question_is_renamed_and_removed_with_undo(window, monkeypatch):
    study = window.store.document.study("reservoir")
    window.open_study("reservoir")
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("top of the reservoir", True))
    window.rename_study()
    window.live.come_to_rest()
    assert window.store.document.study("reservoir") is None
    assert window.store.document.study("top of the reservoir").temperature == study.temperature
    assert window.live.session.study_name == "top of the reservoir"
    assert window.live.answer("top of the reservoir").value["ok"]
    window.remove_study()
    assert window.store.document.study("top of the reservoir") is None
    window.store.undo_stack.undo()
    window.store.undo_stack.undo()
    assert window.store.document.study("reservoir") == study


def test_a_question_edited_on_its_page_answers_anew_and_tells_nonsense(window):
    window.open_study("reservoir")
    window.show_desk("question")
    window.live.come_to_rest()
    desk = window.desks["question"]
    keys = desk.asks.keys()
    assert "enthalpy" in keys
    first = window.live.answer("reservoir").value["density_kg_m3"]
    desk.asks.store_cells({(keys.index("temperature"), 1): "150 degC"}, "x")
    window.live.come_to_rest()
    assert window.live.answer("reservoir").value["density_kg_m3"] < first
    desk.asks.store_cells({(keys.index("pressure"), 1): "a lot"}, "x")
    window.live.come_to_rest()
    assert window.live.answer("reservoir").faults
    assert "a lot" in desk.asks.fault(keys.index("pressure"), 1)
    assert window.live.answer("reservoir").old
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert not window.live.answer("reservoir").faults


def test_lines_on_the_shelf_follow_the_units(window):
    window.live.come_to_rest()
    metric = lines(window)
    window.set_units("field")
    window.live.come_to_rest()
    field = lines(window)
    assert metric.keys() == field.keys()
    saturation = next(s.name for s in window.store.document.studies if s.kind == "saturation")
    assert any(saturation in name for name in metric)
    assert any("bar" in line for line in metric.values())
    assert any("psi" in line for line in field.values())


def test_recombining_makes_a_new_fluid_and_leaves_the_old(window):
    window.live.select_fluid("Varnholt stock-tank oil")
    before = window.store.document.fluids
    window.desks["fluid"].recombine()
    after = window.store.document.fluids
    assert after[: len(before)] == before
    made = after[-1]
    assert made.recombination.liquid == "Varnholt stock-tank oil"
    assert window.live.fluid_name == made.name
    window.store.undo_stack.undo()
    assert window.store.document.fluids == before


def test_a_unit_typed_into_a_field_becomes_the_fields_unit(window):
    window.live.select_sample("Varnholt crude")
    window.show_desk("lab")
    entry = window.desks["lab"].bulk.density.entry
    entry.setText("29 API")
    QTest.keyClick(entry, Qt.Key.Key_Return)
    window.live.come_to_rest()
    assert window.store.document.samples[0].bulk.density == "29 API"
    assert window.live.characterized().density == pytest.approx(880.7, abs=1.5)
    assert entry.text() == "29"
    assert "API" in window.desks["lab"].bulk.density.unit_button.text()


def test_six_hundred_unknown_names_pasted_into_a_fluid_are_told_at_once(window):
    window.live.select_fluid("Varnholt recombined")
    before = window.store.document
    start = time.process_time()
    window.desks["fluid"].parts.paste(0, 0, [[f"unknown {i}", str(i)] for i in range(600)])
    assert time.process_time() - start < 5.0  # half a second at rest; it was more than a minute
    assert sum("unknown component" in f.message for f in window.live.fluid.faults) == 600
    window.store.undo_stack.undo()
    assert window.store.document == before


def test_a_table_is_edited_and_read_on_its_page(window):
    window.open_study("condensate properties")
    window.show_desk("question")
    window.live.come_to_rest()
    desk = window.desks["question"]
    axes = desk.rows[0]
    column = {title: i for i, (title, _) in enumerate(axes.titles())}
    assert [axes.text(i, column["variable"]) for i in (0, 1)] == ["temperature", "pressure"]
    shown = [desk.answer.text(row, 0) for row in range(desk.answer.rows())]
    assert shown[:3] == ["Density, kg/m³", "temperature \\ pressure, °C \\ bar", "120"]
    axes.store_cells({(0, column["begin"]): "250 degF"}, "x")
    window.live.come_to_rest()
    assert window.store.document.study("condensate properties").axes[0].begin == "250 degF"
    assert desk.answer.text(2, 0) == "121.111"
    axes.store_cells({(1, column["steps"]): "0"}, "x")
    window.live.come_to_rest()
    assert "whole number" in axes.fault(1, column["steps"])
    window.store.undo_stack.undo()
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert desk.answer.text(2, 0) == "120"


def test_a_sweep_follows_what_it_asks(window):
    window.open_study("separator pressures")
    window.show_desk("question")
    window.live.come_to_rest()
    desk = window.desks["question"]
    assert [desk.answer.text(0, c) for c in range(3)] == ["pressure, bar", "vapour fraction", "liquid density, kg/m³"]
    before = desk.answer.text(1, 1)
    at = change.study_path(window.store.document, "first separator")
    window.store.edit("Warmer", lambda d: change.set_at(d, (*at, "temperature"), "90 degC"))
    window.live.come_to_rest()
    assert float(desk.answer.text(1, 1)) > float(before)
