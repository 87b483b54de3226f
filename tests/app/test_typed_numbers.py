"""A bare number means the unit shown beside it, everywhere; units change where a number stands; what is drawn is of what is chosen."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog

from ask import become, fill
from cryonome.document import edits as change
from cryonome.document import load
from cryonome.document.field_types import RATE
from cryonome.telling import Units
from cryonome.units import parse
from cryonome.wording.entry import entry_of, in_unit, taken, taken_as, usual_unit

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


def test_every_page_of_questions_takes_the_unit_it_shows(window):
    window.set_units("field")
    live = window.live
    for kind, page, key in (
        ("saturation", "points", "temperature"),
        ("vapour_pressure", "vapour", "temperature"),
        ("inhibitor_dose", "hydrates", "temperature"),
    ):
        window.add_study(kind)
        desk = window.desks[page]
        assert (window.current, desk.study().kind) == (page, kind)
        field = desk.bar.fields[(key,)]
        assert field.blank.unit in ("degF", "degC")
        field.converted.emit(field.blank, "degF")
        fill(desk, (key,), "100")
        assert getattr(desk.study(), key) == "100 degF"
        assert (field.edit.text(), field.unit.text()) == ("100", "°F")
    # New ones begin round, in the reader's units.
    window.add_study("hydrate")
    asked = window.desks["hydrates"].study().pressures
    assert (asked.begin, asked.end) == ("150 psia", "2900 psia")
    window.add_study("flash")
    live.come_to_rest()
    desk = window.desks["state"]
    become(desk, ("temperature",), "vapour fraction")
    fill(desk, ("vapour_fraction",), "30")
    assert parse(desk.study().vapour_fraction, "fraction") == pytest.approx(0.3)
    assert desk.bar.fields[("vapour_fraction",)].edit.text() == "30"


def test_numbers_are_stepped_and_units_stay(window):
    window.open_study("reservoir saturation")
    window.live.come_to_rest()
    desk = window.desks["points"]
    edit = desk.bar.fields[("temperature",)].edit
    edit.setFocus()
    steps = window.store.undo_stack.count()
    for _ in range(3):
        QTest.keyClick(edit, Qt.Key.Key_Up)
    assert window.store.document.study("reservoir saturation").temperature == "95 degC"
    assert window.store.undo_stack.count() == steps + 1  # one step to undo
    QTest.keyClick(edit, Qt.Key.Key_PageDown)
    assert window.store.document.study("reservoir saturation").temperature == "85 degC"


def test_a_unit_is_changed_where_the_number_stands_and_put_back(window):
    live = window.live
    live.select_study("reservoir saturation")
    window.show_desk("points")
    live.come_to_rest()
    model = window.desks["points"].shown
    row, column = 0, 2
    assert model.answer_path(row, column) == ("reservoir saturation", "points[0].pressure_Pa")
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
    desk = window.desks["hydrates"]
    assert list(desk.bar.fields[("water",)].blank.choices) == ["free", "as given"]
    fill(desk, ("water",), "the water it has")
    assert desk.study().water == "as given"
    fill(desk, ("water",), "yes")
    window.keep_question()
    study = desk.study()
    window.store.save(tmp_path / "a.cryo")
    assert load(tmp_path / "a.cryo").study(study.name).water == "yes"
    window.live.come_to_rest()
    told = {f.path[-1]: f.message for f in window.live.answer(study.name).faults}
    assert "use 'free' or 'as given'" in told["water"]
    assert desk.bar.fields[("water",)].blank.fault
    assert not any(
        item.isVisible() for plot in desk.plots for _, item in plot._items.values()
    )  # nothing of another answer
    # What the shape refuses stands in its blank as a draft text.
    window.add_study("separators")
    desk = window.desks["separation"]
    fill(desk, ("feed",), "hot")
    assert desk.bar.fields[("feed",)].edit.text() == "hot"
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
    """What is typed goes on in its blank, though all is shown anew meanwhile; leaving it hands it over."""
    window.add_study("saturation")
    desk = window.desks["points"]
    edit = desk.bar.fields[("temperature",)].edit
    before = desk.study().temperature
    edit.setFocus()
    edit.selectAll()
    QTest.keyClicks(edit, "77 degC")
    desk.refresh()
    window.live.come_to_rest()
    assert desk.bar.fields[("temperature",)].edit is edit
    assert edit.text() == "77 degC"
    assert desk.study().temperature == before
    QTest.keyClick(edit, Qt.Key.Key_Return)
    assert desk.study().temperature == "77 degC"
    # Enter has gone on to the next blank, or out of the sentence.
    assert not edit.hasFocus() or len(desk.bar.fields) == 2
