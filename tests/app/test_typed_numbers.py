"""A bare number means the unit shown beside it, everywhere; units change where a number stands; what is drawn is of what is chosen."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QLineEdit

from ask import type_in_cell
from cryonome.wording.entry import entry_of, in_unit, taken, taken_as, usual_unit
from cryonome.document import edits as change
from cryonome.document import load
from cryonome.document.field_types import RATE
from cryonome.studies import Units
from cryonome.units import parse

FIELD = Units.of("field")


@pytest.mark.parametrize(
    ("typed", "cell", "kind", "si"),
    [
        ("100", None, "temperature", (100 + 459.67) / 1.8), ("100", "40 degC", "temperature", 373.15), ("100", 300, "temperature", 100.0),
        ("14.7", None, "pressure", 101352.9), ("0", "35 psig", "pressure", 101325.0), ("30", None, "fraction", 0.3), ("30", 0.25, "fraction", 0.3),
        ("5 barg", "35 psig", "pressure", 601325.0), ("18", None, "temperature_difference", 10.0), ("9", "2 K", "temperature_difference", 9.0),
    ],
)  # fmt: skip
def test_a_bare_number_is_read_in_the_unit_shown_and_shown_again_in_it(typed, cell, kind, si):
    stored = taken_as(typed, cell, kind, FIELD)
    assert parse(stored, kind) == pytest.approx(si, rel=1e-5)
    shown = entry_of(stored, kind, FIELD)
    assert taken(shown.text, shown.unit) == stored  # what it shows it takes back


def test_words_stay_and_rates_of_any_kind_have_units():
    assert taken_as("warm", "40 degC", "temperature", FIELD) == "warm"
    assert taken_as("", "40 degC", "temperature", FIELD) is None
    assert taken_as("12", "12 MMscf/day", RATE, FIELD) == "12 MMscf/day"
    assert usual_unit(RATE, FIELD) == "bbl/day"
    assert in_unit("100 degC", "temperature", "degF") == "212 degF"
    assert in_unit("warm", "temperature", "degF") == "warm"


def rows_of(model):
    return {key: i for i, key in enumerate(model.keys())}


def test_every_page_of_questions_takes_the_unit_it_shows(window):
    window.set_units("field")
    live, store = window.live, window.store
    for kind, page, key in (
        ("saturation", "question", "temperature"),
        ("vapour_pressure", "vapour", "temperature"),
        ("inhibitor_dose", "hydrates", "temperature"),
    ):
        window.add_study(kind)
        study = live.current_study()
        desk = window.desks[page]
        window.show_desk(page)
        desk.refresh()
        row = rows_of(desk.asks)[key]
        assert desk.asks.text(row, 2) in ("°F", "°C")
        desk.asks.set_unit(row, 2, "degF")
        type_in_cell(desk.asks_grid, row, 1, "100")
        assert getattr(store.document.study(study.name), key) == "100 degF"
        assert (desk.asks.text(row, 1), desk.asks.text(row, 2)) == ("100", "°F")
    # New ones begin round, in the reader's units.
    window.add_study("hydrate")
    asked = live.current_study().pressures
    assert (asked.begin, asked.end) == ("150 psia", "2900 psia")
    window.add_study("flash")
    window.show_desk("state")
    desk = window.desks["state"]
    desk._store("vapour_fraction", "30 %")
    desk.refresh()
    field = desk.fields["vapour_fraction"]
    field.entry.setText("30")
    field._finished()
    assert parse(live.current_study().vapour_fraction, "fraction") == pytest.approx(0.3)
    assert field.entry.text() == "30"


def test_a_unit_is_changed_where_the_number_stands_and_put_back(window):
    live = window.live
    live.select_study("reservoir saturation")
    window.show_desk("question")
    live.come_to_rest()
    model = window.desks["question"].answer
    row = next(r for r in range(model.rows()) if model.text(r, 0) == "pressure")
    column = next(c for c in range(1, len(model.titles())) if model.answer_path(row, c))
    before = float(model.text(row, column))
    units, now = model.unit_of(row, column)
    assert now == "bar"
    assert {"psig", "MPa", "kgf/cm**2"} <= set(units)
    computed = live.evaluator.answers.computed
    model.set_unit(row, column, "psig")
    live.come_to_rest()
    assert float(model.text(row, column)) == pytest.approx(before * 14.5037738 - 14.6959, rel=1e-3)
    assert live.evaluator.answers.computed == computed  # a unit computes nothing
    assert live.document.display.numbers == {"saturation.pressure_Pa": "psig"}
    model.set_unit(row, column, "")
    live.come_to_rest()
    assert float(model.text(row, column)) == before
    assert live.document.display.numbers == {}


def test_whatever_is_picked_or_typed_in_a_choice_opens_again(window, tmp_path):
    window.add_study("hydrate")
    study = window.live.current_study()
    desk = window.desks["hydrates"]
    window.show_desk("hydrates")
    desk.refresh()
    rows = rows_of(desk.asks)
    assert desk.asks.choices(rows["water"], 1) == ["free", "as given"]
    desk.asks.store_cells({(rows["water"], 1): "yes", (rows["pressures.scale"], 1): "log"}, "x")
    window.store.save(tmp_path / "a.cryo")
    again = load(tmp_path / "a.cryo").study(study.name)
    assert (again.water, again.pressures.scale) == ("yes", "log")
    window.live.come_to_rest()
    told = {f.path[-1]: f.message for f in window.live.answer(study.name).faults}
    assert "use 'free' or 'as given'" in told["water"]
    assert "use 'linear' or 'logarithmic'" in told["scale"]
    desk.refresh()
    assert desk.asks.fault(rows_of(desk.asks)["water"], 1)
    assert not any(
        item.isVisible() for plot in desk.plots for _, item in plot._items.values()
    )  # nothing of another answer
    # What the shape refuses stands in its cell as a draft.
    window.add_study("separators")
    window.show_desk("question")
    desk = window.desks["question"]
    desk.refresh()
    row = rows_of(desk.asks)["feed"]
    desk.asks.store_cells({(row, 1): "hot"}, "x")
    desk.refresh()
    assert desk.asks.text(rows_of(desk.asks)["feed"], 1) == "hot"
    assert window.store.document.drafts
    window.store.undo_stack.undo()
    assert not window.store.document.drafts


def test_choosing_a_fluid_leaves_no_question_of_another_on_the_page(window):
    window.live.select_study("cold line hydrates")
    window.show_desk("hydrates")
    window.live.come_to_rest()
    desk = window.desks["hydrates"]
    assert desk.study().fluid == "Quillmoor wet stream" == window.live.fluid_name
    window.live.select_fluid("Varnholt recombined")
    window.live.come_to_rest()
    assert desk.study() is None or desk.study().fluid == "Varnholt recombined"
    if desk.study() is None:
        assert not any(item.isVisible() for plot in desk.plots for _, item in plot._items.values())


def test_a_fluid_follows_its_question_until_it_is_kept(window, monkeypatch):
    live, store = window.live, window.store
    live.select_study("first separator")
    live.come_to_rest()
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_a, **_k: ("liquid", True))
    window.make_fluid()
    name = live.fluid_name
    live.come_to_rest()
    desk = window.desks["fluid"]
    assert desk.made.isVisible()
    assert not desk.grid.isVisible()
    assert "first separator" in desk.made.told.text()
    before = live.model().z.copy()
    place = change.study_path(store.document, "first separator")
    store.edit("warm", lambda d: change.set_at(d, (*place, "temperature"), "80 degC"))
    live.come_to_rest()
    followed = live.model().z.copy()
    assert abs(followed - before).max() > 1e-3
    desk.made.freeze()
    live.come_to_rest()
    assert store.document.fluid(name).made_by is None
    store.edit("cool", lambda d: change.set_at(d, (*place, "temperature"), "30 degC"))
    live.come_to_rest()
    # The same composition, up to the order of its components.
    assert sorted(live.model().z) == pytest.approx(sorted(followed), rel=1e-9)


def test_the_window_asks_for_no_more_than_the_smallest_screen(window):
    window.resize(1024, 600)
    QApplication.processEvents()
    assert window.minimumSizeHint().width() <= 1024
    assert window.minimumSizeHint().height() <= 600
    for key, desk in window.desks.items():
        window.show_desk(key)
        QApplication.processEvents()
        assert (window.width(), window.height()) == (1024, 600), key
        assert desk.width() >= desk.minimumSizeHint().width(), key


def test_an_answer_that_arrives_takes_nothing_from_who_is_typing(window):
    """What is typed goes on in its cell; what was handed over reaches the document, though all is shown anew meanwhile."""
    window.add_study("saturation")
    name = window.live.current_study().name
    desk = window.desks["question"]
    window.show_desk("question")
    desk.refresh()
    row, grid = rows_of(desk.asks)["temperature"], desk.asks_grid
    for last in (False, True):
        index = grid.model().index(row, 1)
        grid.setCurrentIndex(index)
        grid.edit(index)
        editor = grid.findChildren(QLineEdit)[-1]
        editor.selectAll()
        QTest.keyClicks(editor, "77 degC")
        if last:
            QTest.keyClick(editor, Qt.Key.Key_Return)
        desk.asks.reload()
        if not last:
            again = grid.findChildren(QLineEdit)[-1]
            assert again.text() == "77 degC"
            QTest.keyClick(again, Qt.Key.Key_Escape)
            QApplication.processEvents()
            assert window.store.document.study(name).temperature != "77 degC"
    QApplication.processEvents()
    assert window.store.document.study(name).temperature == "77 degC"
