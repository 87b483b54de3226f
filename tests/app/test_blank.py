"""A blank of a sentence: typed into, stepped by keys, dragged sideways, picked from, and given another unit."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from cryonome.app.widgets.blank import DRAG, BlankField, step_of
from cryonome.wording.spoken import Blank, Other

PRESSURE = Blank(("pressure",), "18", "bar", "pressure", units=("bar", "psia"))


@pytest.fixture
def field(qtbot):
    """Return a blank that is shown, with what it has said."""
    made = BlankField()
    qtbot.addWidget(made)
    made.said = []
    made.typed.connect(lambda blank, text, merge: made.said.append((blank.path, text, merge)))
    made.show_blank(PRESSURE)
    made.resize(160, 30)
    made.show()
    QApplication.processEvents()
    return made


def words_of(menu):
    return [a.text() for a in menu.actions() if a.text()]


@pytest.mark.parametrize(
    ("key", "text"),
    [(Qt.Key.Key_Up, "19"), (Qt.Key.Key_Down, "17"), (Qt.Key.Key_PageUp, "28"), (Qt.Key.Key_PageDown, "8")],
)
def test_keys_step_by_the_second_digit_as_one_edit(field, key, text):
    QTest.keyClick(field.edit, key)
    QTest.keyClick(field.edit, Qt.Key.Key_Up)
    assert field.said[0][:2] == (("pressure",), text)
    merges = {merge for _, _, merge in field.said}
    assert len(field.said) == 2
    assert len(merges) == 1  # what is stepped on is one step back
    assert merges != {""}


@pytest.mark.parametrize(
    ("value", "kind", "path", "step"),
    [
        (18.0, "pressure", ("pressure",), 1.0), (186.0, "pressure", ("pressure",), 10.0), (0.034, "viscosity", ("x",), 0.001), (-250.0, "energy", ("x",), 10.0),
        (0.0, "pressure", ("x",), 0.1), (92.5, "temperature", ("x",), 1.0), (250.0, None, ("seed",), 1.0), (40.0, "pressure", ("vary", "steps"), 1.0),
        (1.0, "pressure", ("x",), 0.1), (9.99, "pressure", ("x",), 0.1),
    ],
)  # fmt: skip
def test_a_step_is_one_of_a_degree_or_of_the_second_digit(value, kind, path, step):
    assert step_of(value, kind, path) == pytest.approx(step, rel=1e-12)


def test_steps_land_on_round_numbers_and_counts_stay_above_zero(field):
    field.show_blank(replace(PRESSURE, text="18.37"))
    field.step(1)
    assert field.edit.text() == "19"
    field.show_blank(Blank(("vary", "steps"), "2"))
    field.step(-5)
    assert field.edit.text() == "1"
    said = list(field.said)
    for text in ("10, 20, 40", "warm", ""):
        field.show_blank(replace(PRESSURE, text=text))
        field.step(1)
        assert field.edit.text() == text
    assert field.said == said  # a list and a word have no next number


def test_dragging_sideways_steps_the_number(field):
    start = QPoint(8, field.edit.height() // 2)
    QTest.mousePress(field.edit, Qt.MouseButton.LeftButton, pos=start)
    for x in range(1, 3 * DRAG + 2):
        QTest.mouseMove(field.edit, start + QPoint(x, 0))
        QApplication.processEvents()
    QTest.mouseRelease(field.edit, Qt.MouseButton.LeftButton, pos=start + QPoint(3 * DRAG + 1, 0))
    assert field.edit.text() == "21"
    moved = len(field.said)
    QTest.mouseMove(field.edit, start)  # the button is up
    assert len(field.said) == moved


def test_typed_text_is_handed_over_once_and_stays_while_the_blank_is_shown_anew(field):
    field.edit.setFocus()
    field.edit.selectAll()
    QTest.keyClicks(field.edit, "20 psi")
    field.show_blank(PRESSURE)  # an answer arrives
    assert field.edit.text() == "20 psi"
    QTest.keyClick(field.edit, Qt.Key.Key_Return)
    field.edit.editingFinished.emit()
    assert [text for _, text, _ in field.said] == ["20 psi"]
    field.edit.clearFocus()
    field.show_blank(replace(PRESSURE, text="20", unit="psia", fault="too little"))
    assert (field.edit.text(), field.unit.text()) == ("20", "psia")
    assert field.edit.accessibleDescription() == "too little"
    assert "too little" in field.toolTip()


def test_a_choice_is_typed_by_its_words_or_picked(field):
    choices = {"PR78": "Peng-Robinson 1978", "SRK": "Soave"}
    field.show_blank(Blank(("eos",), "Soave", choices=choices))
    menu = field.menu(only_choices=True)
    assert words_of(menu) == list(choices.values())
    assert [a.isChecked() for a in menu.actions()] == [False, True]
    menu.actions()[0].trigger()
    assert field.said[-1] == (("eos",), "PR78", "")
    field.edit.setText("PENG-robinson 1978")
    field.edit.editingFinished.emit()
    assert field.said[-1] == (("eos",), "PR78", "")
    field.edit.setText("van der Waals")  # none of them: it goes as it was typed, and is told by its reader
    field.edit.editingFinished.emit()
    assert field.said[-1] == (("eos",), "van der Waals", "")
    assert not field.unit.isVisible()
    assert field.more.isVisible()
    before = len(field.said)
    QTest.keyClick(field.edit, Qt.Key.Key_Up)  # a word has no next
    assert len(field.said) == before


def test_of_several_names_each_is_picked_and_put_back(field):
    choices = {"PR78": "PR 78", "SRK": "SRK", "CPA": "CPA"}
    field.show_blank(Blank(("equations",), "PR 78, CPA", choices=choices))
    menu = field.menu()
    ticks = {a.text(): a for a in menu.actions() if a.text() in choices.values()}
    assert [ticks[w].isChecked() for w in choices.values()] == [True, False, True]
    ticks["SRK"].trigger()
    assert field.said[-1][1] == "PR78, CPA, SRK"
    ticks["CPA"].trigger()
    assert field.said[-1][1] == "PR78"
    field.edit.setText("srk, Pr 78, VDW")
    field.edit.editingFinished.emit()
    assert field.said[-1][1] == "SRK, PR78, VDW"
    assert not field.more.isVisible()


def test_units_and_other_quantities_are_offered_in_the_menu(field):
    converted, became = [], []
    field.converted.connect(lambda blank, unit: converted.append((blank.path, unit)))
    field.became.connect(lambda blank, cells: became.append(cells))
    other = Other("a temperature instead", {("temperature",): "55 degC"})
    field.extra = lambda menu, blank: menu.addAction(f"Vary {blank.name}")
    field.show_blank(replace(PRESSURE, others=(other,)))
    menu = field.menu()
    assert words_of(menu)[-3:] == ["a temperature instead", "Unit", "Vary pressure"]
    units = next(a.menu() for a in menu.actions() if a.text() == "Unit")
    assert [(a.text(), a.isChecked()) for a in units.actions()] == [("bar", True), ("psia", False)]
    units.actions()[1].trigger()
    next(a for a in menu.actions() if a.text() == other.words).trigger()
    assert converted == [(("pressure",), "psia")]
    assert became == [other.cells]
    assert "Unit" not in words_of(field.menu(only_choices=True))


def test_what_is_too_much_to_offer_is_loaded_when_the_keyboard_arrives(field):
    asked = []

    def all_inputs(blank):
        asked.append(blank.path)
        return {"studies[a].temperature": "temperature of a", "studies[a].pressure": "pressure of a"}

    field.lazy = all_inputs
    field._entered()
    assert asked == []  # a number has nothing to be loaded
    field.show_blank(Blank(("vary", "path"), "temperature of a"))
    field._entered()
    assert asked == [("vary", "path")]
    assert field.edit.completer().model().rowCount() == 2
    field.edit.setText("Pressure of A")
    field.edit.editingFinished.emit()
    assert field.said[-1][1] == "studies[a].pressure"
