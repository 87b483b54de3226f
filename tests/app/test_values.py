"""Named values in the window: their page, the shelf, sweeps and goals that read them, and what follows a new name."""

from __future__ import annotations

import pytest

from ask import type_in_cell
from cryonome.document.edits import renamed

NAME, EXPRESSION, VALUE, UNIT = range(4)


@pytest.fixture
def desk(window):
    """Return the page with one value on it."""
    window.show_desk("values")
    page = window.desks["values"]
    page.model.store_cells(
        {
            (page.model.rows() - 1, NAME): "twice the tank",
            (page.model.rows() - 1, EXPRESSION): "2 * [tank].pressure_Pa",
            (page.model.rows() - 1, UNIT): "bar",
        },
        "type",
    )
    window.live.come_to_rest()
    return page


def shelf(window) -> dict[str, str]:
    """Return the lines of the shelf about values by their names."""
    return {name: line for name, line, _ in window.shelf.values.shown}


def test_a_value_is_typed_told_on_the_shelf_and_undone(window, desk):
    row = next(i for i in range(desk.model.rows()) if desk.model.text(i, NAME) == "twice the tank")
    assert desk.model.text(row, VALUE) == "2.0265"
    assert shelf(window)["twice the tank"] == "2.026 bar"
    type_in_cell(desk.grid, row, UNIT, "psi")
    window.live.come_to_rest()
    assert shelf(window)["twice the tank"] == "29.39 psi"
    # What cannot be read stays, with its reason at the cell.
    type_in_cell(desk.grid, row, EXPRESSION, "2 * [tnak].pressure_Pa")
    window.live.come_to_rest()
    assert desk.model.text(row, EXPRESSION) == "2 * [tnak].pressure_Pa"
    assert "did you mean tank" in desk.model.fault(row, EXPRESSION)
    for _ in range(2):
        window.store.undo_stack.undo()
    assert desk.model.fault(row, EXPRESSION) == ""
    # An emptied row goes.
    count = len(window.store.document.values)
    desk.model.store_cells({(row, NAME): "", (row, EXPRESSION): ""}, "clear")
    assert len(window.store.document.values) == count - 1


def test_a_renamed_question_and_a_renamed_value_are_followed(window, desk):
    window.store.edit("Rename", lambda d: renamed(d, "studies", "tank", "stock tank"))
    window.live.come_to_rest()
    value = next(v for v in window.store.document.values if v.name == "twice the tank")
    assert value.expression == "2 * [stock tank].pressure_Pa"
    assert shelf(window)["twice the tank"] == "2.026 bar"


def test_a_value_is_read_by_a_sweep_and_made_equal_by_a_goal(window, desk):
    row = next(i for i in range(desk.model.rows()) if desk.model.text(i, NAME) == "twice the tank")
    study, path = desk.model.answer_path(row, VALUE)
    assert (study, path) == ("tank", "[twice the tank]")
    desk.grid.read_asked.emit(study, path)
    window.live.come_to_rest()
    sweep = window.live.current_study()
    assert (window.current, sweep.kind, sweep.read) == ("sweep", "sweep", ("[twice the tank]",))
    answer = window.live.answer(sweep.name).value
    assert answer["paths"] == ["twice the tank_Pa"]
    assert {r["read"][0] for r in answer["rows"]} == {202650.0}
    window.show_desk("values")
    desk.grid.goal_asked.emit(study, path)
    window.live.come_to_rest()
    goal = window.live.current_study()
    assert (goal.kind, goal.read, goal.target) == ("goal", "[twice the tank]", "2.0265 bar")
