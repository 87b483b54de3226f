"""Links, menus and clicks of the pages *Cuts*, *Table* and *Steps* that typing alone does not reach."""

from __future__ import annotations

from types import SimpleNamespace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtWidgets import QApplication, QPushButton, QToolButton

from cryonome.demo import demo_document as whole_demo
from cryonome.document import Fault
from cryonome.document.edits import add_study
from cryonome.units import from_si

DOES, IS = 3, 1


def chooses(words):
    """Choose an entry of the menu that opens next; return what it offers."""
    seen = []

    def act():
        menu = QApplication.activePopupWidget()
        seen.extend(a.text() for a in menu.actions() if a.text())
        found = next((a for a in menu.actions() if words and a.text().startswith(words)), None)
        menu.close()
        if found is not None:
            found.trigger()

    QTimer.singleShot(0, act)
    return seen


def link(desk, words):
    """Return the link of a page by its words."""
    return next(b for kind in (QPushButton, QToolButton) for b in desk.findChildren(kind) if b.text() == words)


# -- cuts --------------------------------------------------------------------------------------------------------------


@pytest.fixture
def cuts(window):
    window.show_desk("cuts")
    window.live.come_to_rest()
    return window.desks["cuts"]


def click(desk, percent, double=False, shift=False, button=Qt.MouseButton.LeftButton):
    """Click in the picture of the cuts at a percent of the curve."""
    at = desk.plot.box.mapViewToScene(QPointF(percent, 400.0))
    held = Qt.KeyboardModifier.ShiftModifier if shift else Qt.KeyboardModifier.NoModifier
    desk._clicked(SimpleNamespace(button=lambda: button, scenePos=lambda: at, double=lambda: double, modifiers=lambda: held))  # fmt: skip


def test_a_double_click_adds_a_boundary_and_one_with_shift_takes_the_nearest_away(window, cuts):
    edges = 100 * window.live.characterized().edges
    middle = 0.5 * (edges[5] + edges[6])
    click(cuts, middle)  # a single click is none
    assert 100 * window.live.characterized().edges == pytest.approx(edges)
    click(cuts, middle, double=True, button=Qt.MouseButton.RightButton)
    click(cuts, 130.0, double=True)
    assert len(window.live.characterized().edges) == len(edges)
    click(cuts, middle, double=True)
    more = 100 * window.live.characterized().edges
    assert len(more) == len(edges) + 1
    assert np.abs(more - middle).min() < 0.05
    click(cuts, middle + 0.3, shift=True)
    assert 100 * window.live.characterized().edges == pytest.approx(edges, abs=1e-3)
    gap = int(np.argmax(np.diff(edges)))
    click(cuts, 0.5 * (edges[gap] + edges[gap + 1]), shift=True)  # far from any boundary if the cut is wide
    removed = len(edges) - len(window.live.characterized().edges)
    assert removed == (1 if edges[gap + 1] - edges[gap] < 4.0 else 0)


def test_ways_units_and_regions_of_cuts(window, cuts):
    ((title, heads, columns),) = cuts.plot.data()
    result = window.live.characterized()
    assert (title, heads[0]) == ("boundaries", "vol%")
    np.testing.assert_allclose(columns[0], 100 * result.edges)
    unit = cuts._units()["temperature"]
    np.testing.assert_allclose(columns[1], [from_si(float(v), unit, "temperature") for v in result.edge_temperatures])
    cuts.choose_way("boundaries")
    sample = window.live.current_sample()
    assert len(sample.cuts.boundaries) == len(result.edges) - 2
    assert window.live.characterized().edges == pytest.approx(result.edges, abs=1e-5)
    cuts.choose_way("volume")
    window.live.come_to_rest()
    assert window.live.current_sample().cuts.number == len(result.cuts)
    np.testing.assert_allclose(window.live.characterized().volume_fraction, 1 / len(result.cuts), rtol=1e-6)
    cuts.choose_way("regions")
    cuts._store_unit("degF")
    window.live.come_to_rest()
    regions = cuts.regions_model
    assert regions.titles() == [("up to", "°F"), ("width", "°F")]
    last = regions.rows() - 2
    assert regions.text(last, 0) == "the end"
    assert regions.muted(last, 0)
    assert regions.text(regions.rows() - 1, 1) == ""
    assert regions.editable(0, 0)
    regions.store_cells({(0, 1): "2000", (0, 2): "ignored"}, "type")
    window.live.come_to_rest()
    assert "outside 1 to 500 K" in regions.fault(0, 1)
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert regions.fault(0, 1) == ""
    regions.store_cells({(last + 1, 0): "1500 degF", (last + 1, 1): "90"}, "type")
    assert len(window.live.current_sample().cuts.regions) == last + 2


def test_units_of_the_columns_and_names_of_cuts(window, cuts):
    seen = chooses("K")
    cuts._choose_unit(1, QPoint(5, 5))
    assert {"°C", "°F", "K"} <= set(seen)
    window.live.come_to_rest()
    assert cuts.model.titles()[1][1] == "K"
    cuts._choose_unit(9, QPoint(5, 5))  # shares have no unit to choose: nothing opens
    row = window.live.characterized().light + 3
    assert cuts.model.edit_text(row, 0) == window.live.characterized().automatic_names[3][len("Varnholt crude ") :]
    assert "Varnholt crude" in cuts.model.tip(row, 0)
    assert cuts.model.tip(row, 5)  # where a constant is estimated from
    plain = cuts.model.text(row, 0)
    cuts.model.store_cells({(row, 0): "middle", (row, 4): "9"}, "rename")
    assert cuts.model.text(row, 0) == "middle"
    cuts.model.store_cells({(row, 0): ""}, "rename")
    assert cuts.model.text(row, 0) == plain


# -- tables ------------------------------------------------------------------------------------------------------------


@pytest.fixture
def table(window):
    window.open_study("Selden pipeline")
    window.live.come_to_rest()
    return window.desks["table"]


def study(window):
    return window.store.document.study("Selden pipeline")


def test_a_formula_is_asked_for_and_left_and_goes_with_its_property(window, table):
    table.chosen_grid.selectRow(0)
    assert table.formula_button.text() == "no formula"
    table.toggle_formula()
    assert study(window).compact == ""
    assert table.view == "table"
    table.toggle_formula()
    window.live.come_to_rest()
    assert (study(window).compact, table.view) == ("density_kg_m3", "formula")
    table.remove_property()
    window.live.come_to_rest()
    assert "density_kg_m3" not in study(window).properties
    assert study(window).compact == ""  # a formula is of a property of the table
    assert table.key == study(window).properties[0]
    assert "density_kg_m3" not in {k for t in table.plot.data() for k in t[1]}
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert study(window).compact == "density_kg_m3"


def test_the_chosen_property_is_what_every_view_shows_and_its_ground_is_shaded(window, table):
    table.show_page("table")
    table.chosen_grid.selectRow(1)
    key = study(window).properties[1]
    assert table.key == key
    answer = window.live.answer("Selden pipeline").value["properties"][key]
    assert float(str(table.values.text(2, 3))) == pytest.approx(answer[2][2], rel=1e-4)
    assert table.values.ground(2, 3, table.theme) is not None
    table.heat_chip.click()
    assert not table.values.heated
    assert table.values.ground(2, 3, table.theme) is None
    table.heat_chip.click()
    assert table.values.heated
    table.search.setText("liquid")
    table.show_page("choose")
    window.live.come_to_rest()
    rows = [table.choices.text(i, 1) + table.choices.text(i, 2) for i in range(table.choices.rows())]
    assert rows
    assert all("iquid" in r + table.choices.text(i, 5) + table.choices.key(i) for i, r in enumerate(rows))
    first = table.choices.key(0)
    table._take_first()
    assert first in study(window).properties


def test_a_part_of_a_table_is_tabulated(window, table):
    table.take_part(((283.15, 303.15), (8e6, 1e7)))
    window.live.come_to_rest()
    axes = study(window).axes
    assert [(a.begin, a.end) for a in axes] == [("10 degC", "30 degC"), ("80 bar", "100 bar")]
    assert table.table().shape == (19, 19)
    np.testing.assert_allclose(table.table().axes[1][[0, -1]], [8e6, 1e7])
    window.store.undo_stack.undo()
    table.begin_table()
    assert table.study().draft


# -- steps -------------------------------------------------------------------------------------------------------------


@pytest.fixture
def steps(window):
    train = whole_demo().study("gas train")
    window.store.edit("Add", lambda d: add_study(d, train))
    window.open_study("gas train")
    window.live.come_to_rest(60)
    return window.desks["steps"]


def names(window):
    return [s.name for s in window.store.document.study("gas train").steps]


def test_steps_are_offered_added_moved_and_taken_out_by_their_links(window, steps):
    before = names(window)
    steps.steps_grid.setCurrentIndex(steps.steps.index(steps.steps.row_of(before[1]), DOES))
    seen = chooses("valve")
    link(steps, "+ step").click()
    assert any(t.startswith("compressor") for t in seen)
    assert seen[-1].startswith("feed")
    added = names(window)
    assert len(added) == len(before) + 1
    assert added[:2] == before[:2]
    assert window.store.document.study("gas train").steps[2].step == "valve"
    link(steps, "up").click()
    assert names(window)[1] == added[2]
    link(steps, "down").click()
    assert names(window)[2] == added[2]
    link(steps, "remove").click()
    assert names(window) == before
    seen = chooses("feed")
    link(steps, "+ step").click()
    assert len(window.store.document.study("gas train").feeds) == len(whole_demo().study("gas train").feeds) + 1


def test_a_stream_of_the_table_is_chosen_and_asked_of(window, steps):
    row = next(r for r in range(steps.shown.rows()) if steps.shown.text(r, 0) == "overhead")
    steps.answer_grid.setCurrentIndex(steps.shown.index(row, 1))
    assert steps.chosen == "overhead"
    assert steps.as_fluid.isVisible()
    seen = chooses("State")
    steps.as_fluid.click()
    window.live.come_to_rest(60)
    assert seen == ["Map", "Vapour pressure", "Hydrates", "State", "Line size"]
    assert window.current == "state"
    assert window.live.current_fluid().made_by.stream == "overhead"
    made = window.live.fluid_name
    window.show_desk("steps")
    window.open_study("gas train")
    steps.choose("overhead")
    steps.ask_of_stream("map")  # the same stream is the same fluid
    assert window.live.fluid_name == made


def test_pictures_and_notes_are_turned_and_a_fault_leads_to_its_row(window, steps):
    steps.choose("gas-gas")
    assert steps.plots[1].isVisible()
    assert steps.turn_link.text() == "the map"
    steps.turn_link.click()
    assert steps.plots[0].isVisible()
    assert not steps.plots[1].isVisible()
    assert steps.turn_link.text() == "the duty"
    shown = steps.notes_area.isVisible()
    steps.notes_link.click()
    assert steps.notes_area.isVisible() != shown
    place = len(window.store.document.studies) - 1
    steps.select_cell(Fault(("studies", place, "steps", 2, "pressure"), "wrong"))
    assert steps.steps.name_of(steps.steps_grid.currentIndex().row()) == names(window)[2]
