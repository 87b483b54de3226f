"""Chains and lines in the window: rows typed, pasted, moved; the line that is drawn; numbers, units, undo; sizes and
profiles."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt

from ask import type_in_cell
from cryonome.demo import demo_document as whole_demo
from cryonome.document.edits import add_study
from cryonome.questions.chains.model import Step

NAME, IS, TAKES, DOES, GIVES = range(5)


def _with(window, name):
    study = whole_demo().study(name)
    if window.store.document.study(name) is None:
        window.store.edit("Add", lambda d: add_study(d, study))
    window.open_study(name)
    window.live.come_to_rest(60)
    return study


@pytest.fixture
def desk(window):
    """Return the page with the demo's train on it."""
    _with(window, "gas train")
    return window.desks["steps"]


def _streams(desk) -> dict[str, list[str]]:
    return {desk.shown.text(r, 0): [desk.shown.text(r, c) for c in range(8)] for r in range(desk.shown.rows())}


def test_a_chain_is_shown_typed_and_undone(window, desk):
    assert desk.found.text().startswith("285.6 kW at the shafts")
    rows = {desk.steps.name_of(r): r for r in range(desk.steps.rows() - 1)}
    assert desk.steps.text(rows["K-1"], DOES) == "to 31 bar, 75 %, 98 % mechanical"
    assert desk.steps.text(rows["gas-gas"], TAKES) == "cool gas, overhead"
    before = _streams(desk)["hot gas"][1]
    type_in_cell(desk.steps_grid, rows["K-1"], DOES, "to 500 psia, 80 %")
    window.live.come_to_rest(60)
    assert window.store.document.study("gas train").steps[0].pressure == "500 psia"
    assert _streams(desk)["hot gas"][1] != before
    window.store.undo_stack.undo()
    window.live.come_to_rest(60)
    assert _streams(desk)["hot gas"][1] == before


def test_a_step_in_the_line_is_its_row_and_its_numbers(window, desk):
    desk.strip.chosen.emit("gas-gas")
    assert desk.numbers_head.text() == "gas-gas, exchanger"
    assert desk.steps.name_of(desk.steps_grid.currentIndex().row()) == "gas-gas"
    told = {desk.numbers.text(r, 0): desk.numbers.text(r, 1) for r in range(desk.numbers.rows())}
    assert told["Least approach"] == "5.000"
    assert desk.plots[1].isVisible()
    # A number's unit is changed there alone, and its path leads to the answer.
    row = next(r for r in range(desk.numbers.rows()) if desk.numbers.text(r, 0) == "Duty")
    assert desk.numbers.answer_path(row, 1) == ("gas train", "steps.gas-gas.duty_W")
    desk.numbers.set_unit(row, 1, "MMBtu/hour")
    window.live.come_to_rest()
    assert desk.numbers.text(row, 2) == "MMBtu/h"
    desk.choose("overhead")
    assert desk.numbers_head.text() == "overhead"
    assert not desk.plots[1].isVisible()


def test_a_stream_is_asked_as_a_fluid(window, desk):
    desk.choose("condensate")
    assert not desk.as_fluid.isHidden()
    desk.ask_of_stream("vapour")
    window.live.come_to_rest(60)
    made = window.store.document.fluids[-1]
    assert (made.made_by.study, made.made_by.stream) == ("gas train", "condensate")
    assert window.live.fluid_name == made.name
    assert "True" in window.desks["vapour"].found.text()
    # Asked again it is the same fluid.
    window.open_study("gas train")
    desk.choose("condensate")
    desk.ask_of_stream("map")
    assert window.store.document.fluids[-1] == made
    window.open_study("gas train")
    window.live.come_to_rest(60)
    desk.choose("K-1")
    assert desk.as_fluid.isHidden()
    # A stream that is called otherwise is the same fluid.
    row = desk.steps.row_of("drum")
    type_in_cell(desk.steps_grid, row, GIVES, "overhead, cold liquid")
    window.live.come_to_rest(60)
    assert window.store.document.fluids[-1].made_by.stream == "cold liquid"


def test_what_cannot_be_is_told_at_its_row(window, desk):
    rows = {desk.steps.name_of(r): r for r in range(desk.steps.rows() - 1)}
    type_in_cell(desk.steps_grid, rows["chiller"], TAKES, "precoled")
    window.live.come_to_rest(30)
    assert "did you mean precooled" in desk.steps.fault(rows["chiller"], TAKES)
    assert not desk.told.isHidden()
    type_in_cell(desk.steps_grid, rows["chiller"], TAKES, "precooled")
    # Words that are not understood stay as they were typed, with their fault; the chain is not answered with less.
    type_in_cell(desk.steps_grid, rows["valve"], DOES, "to 29 furlong")
    window.live.come_to_rest(30)
    assert desk.steps.text(rows["valve"], DOES) == "to 29 furlong"
    assert desk.steps.fault(rows["valve"], DOES)
    type_in_cell(desk.steps_grid, rows["valve"], DOES, "loses 1 bar")
    window.live.come_to_rest(60)
    assert desk.steps.fault(rows["valve"], DOES) == ""
    assert window.store.document.study("gas train").steps[4].pressure_drop == "1 bar"
    type_in_cell(desk.steps_grid, rows["cooler"], DOES, "to 180 °C")
    window.live.come_to_rest(60)
    assert "a cooler removes heat" in desk.told.text()


def test_rows_are_added_pasted_moved_and_removed(window, desk):
    count = desk.steps.rows()
    desk.steps_grid.setCurrentIndex(desk.steps.index(count - 2, DOES))
    desk.steps.insert(count - 2, "pump")
    step = window.store.document.study("gas train").steps[-1]
    assert (step.step, step.takes) == ("pump", "overhead")
    last = desk.steps.rows() - 1
    desk.steps.paste(
        last,
        NAME,
        [["P-2", "pump", "condensate", "to 60 bar", "export"], ["H-1", "heater", "export", "to 30 °C", "warm"]],
    )
    added = window.store.document.study("gas train").steps[-2:]
    assert added[0] == Step(name="P-2", step="pump", takes="condensate", gives="export", pressure="60 bar")
    assert added[1].temperature == "30 °C"
    row = desk.steps.row_of("H-1")
    assert desk.steps.move(row, -1) == row - 1
    assert [s.name for s in window.store.document.study("gas train").steps[-2:]] == ["H-1", "P-2"]
    desk.steps.remove([desk.steps.row_of("pump 1")])
    window.live.come_to_rest(60)
    assert _streams(desk)["warm"][1] == "30.0"
    # A stream that is called otherwise is followed where it goes.
    type_in_cell(desk.steps_grid, desk.steps.row_of("P-2"), GIVES, "cold export")
    assert window.store.document.study("gas train").steps[-2].takes == "cold export"
    desk.steps.store_cells({(desk.steps.rows() - 1, IS): "feed", (desk.steps.rows() - 1, GIVES): "more"}, "feed")
    assert set(window.store.document.study("gas train").feeds) == {"feed", "more"}


def test_a_line_is_sized_and_followed(window, qtbot):
    _with(window, "flowline size")
    desk = window.desks["sizes"]
    assert desk.found.text().startswith("6 in:")
    verdicts = {desk.shown.text(r, 0): desk.shown.text(r, 1) for r in range(desk.shown.rows())}
    assert (verdicts["1"], verdicts["6"], verdicts["8"]) == ("chokes", "least", "passes")
    _with(window, "cold line, computed")
    path = window.desks["path"]
    assert "it enters hydrate" in path.found.text()
    assert not path.stations_grid.isVisible()
    assert path.plots[1].isVisible()
    assert path.row_grids[0].isVisible()
    type_in_cell(path.row_grids[0], 0, 1, "2 km")
    window.live.come_to_rest(60)
    assert window.store.document.study("cold line, computed").legs[0].length == "2 km"
    assert path.answer()["points"][-1]["distance_m"] == pytest.approx(4920.0)
    qtbot.keyClick(path, Qt.Key.Key_Escape)


def test_a_new_fluid_has_a_chain_at_once(window):
    window.live.select_fluid("Quillmoor wet stream")
    window.show_desk("steps")
    window.live.come_to_rest(60)
    desk = window.desks["steps"]
    assert desk.study().draft
    assert desk.study().feeds["feed"].fluid == "Quillmoor wet stream"
    assert "at the shafts" in desk.found.text()
    window.live.select_fluid("Selden gas")
    window.live.come_to_rest(60)
    assert desk.study().feeds["feed"].fluid == "Selden gas"
    desk.keep()
    assert not desk.study().draft
