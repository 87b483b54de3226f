"""The page *Parts*: what is typed and pasted into a fluid, the forms of its parts, and where its amounts are told wrong."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from ask import type_in_cell
from cryonome.components import find


@pytest.fixture
def desk(window):
    """Return the page on the demo's gas."""
    window.live.select_fluid("Selden gas")
    window.show_desk("fluid")
    window.live.come_to_rest()
    return window.desks["fluid"]


def amounts(window):
    return {p.component or p.sample or p.fluid or (p.pseudo or p.series).name: p.amount for p in window.live.current_fluid().parts}  # fmt: skip


def test_what_is_typed_is_offered_by_name_formula_and_number(window, desk):
    desk._suggest("124-38-9")
    assert desk._names.stringList() == ["carbon dioxide"]
    desk._suggest("varnholt")
    own = desk._names.stringList()
    assert "Varnholt crude" in own
    assert "Varnholt recombined" in own
    desk._suggest("selden")
    assert "Selden gas" not in desk._names.stringList()  # a fluid is no part of itself
    desk.start_adding()
    QTest.keyClicks(desk.entry, "h2s")
    QTest.keyClick(desk.entry, Qt.Key.Key_Return)
    QTest.keyClicks(desk.amount, "0.5")
    QTest.keyClick(desk.amount, Qt.Key.Key_Return)
    window.live.come_to_rest()
    assert amounts(window)["hydrogen sulfide"] == 0.5
    assert (desk.entry.text(), desk.amount.text()) == ("", "")
    count = len(window.live.current_fluid().parts)
    desk.add_part()  # nothing is typed
    assert len(window.live.current_fluid().parts) == count


def test_shares_beside_the_amounts_are_those_of_the_fluid(window, desk):
    model = window.live.model()
    shown = {desk.parts.text(i, 0): [desk.parts.text(i, j) for j in (2, 3)] for i in range(desk.parts.rows())}
    mass = model.z * model.molar_mass
    for name, share, by_mass in zip(model.names, model.z, mass / mass.sum()):
        assert shown[name] == [f"{100 * share:.2f}", f"{100 * by_mass:.2f}"]
    desk.basis.textActivated.emit("mass")
    window.live.come_to_rest()
    assert desk.parts.titles()[1] == ("amount", "by mass")
    heavy = window.live.model()
    total = sum(heavy.z * heavy.molar_mass)
    given = amounts(window)
    for name, share in zip(heavy.names, heavy.z * heavy.molar_mass / total):
        assert share == pytest.approx(given[name] / sum(given.values()), abs=1e-12)
    window.store.undo_stack.undo()


def test_a_pasted_composition_meets_parts_by_any_of_their_names(window, desk):
    before = window.live.current_fluid().parts
    desk.parts.paste(0, 0, [["Component", "mol%"], ["C1", "80"], ["CO2", "3"], ["nC8", "0.2"]])
    window.live.come_to_rest()
    now = amounts(window)
    assert now["methane"] == 80
    assert now["carbon dioxide"] == 3
    assert now["n-octane"] == 0.2
    assert len(now) == len(before) + 1
    assert window.store.undo_stack.undoText() == "Paste a composition"
    window.store.undo_stack.undo()
    assert window.live.current_fluid().parts == before
    # A name that is not known is kept as typed, and marked.
    desk.parts.paste(0, 0, [["methane", "75"], ["unobtanium", "5"]])
    window.live.come_to_rest()
    assert amounts(window)["unobtanium"] == 5
    row = len(window.live.current_fluid().parts) - 1
    assert "unknown component" in desk.parts.fault(row, 0)
    window.store.undo_stack.undo()
    # One column of numbers goes down the amounts.
    desk.parts.paste(0, 1, [["90"], ["2"]])
    window.live.come_to_rest()
    assert list(amounts(window).values())[:2] == [90, 2]
    window.store.undo_stack.undo()
    assert window.live.current_fluid().parts == before


def test_a_whole_sheet_pasted_on_the_page_goes_into_the_fluid_or_becomes_one(window, desk):
    assert desk.take_paste("Component\tmol%\nmethane\t70\nethane\t30\n")
    window.live.come_to_rest()
    assert amounts(window)["methane"] == 70
    assert not desk.take_paste("Component\twt%\nmethane\t70\nethane\t30\n")  # of another basis: a fluid of its own
    assert not desk.take_paste("Component\tmol%\nn-eicosane\t70\nbenzene\t30\n")  # nothing of it is in the fluid
    assert not desk.take_paste("a shopping list")


def test_a_name_and_an_amount_are_typed_in_their_cells(window, desk):
    names = [desk.parts.text(i, 0) for i in range(desk.parts.rows())]
    row = names.index("propane")
    type_in_cell(desk.grid, row, 0, "nC4")
    window.live.come_to_rest()
    assert find(window.live.current_fluid().parts[row].component).name == "n-butane"
    window.store.undo_stack.undo()
    type_in_cell(desk.grid, row, 1, "two")
    window.live.come_to_rest()
    assert "two" in desk.parts.fault(row, 1)
    assert "Two" in desk.fault.text() or "two" in desk.fault.text()
    assert desk.parts.text(0, 2) == ""  # shares of what is wrong are not told
    assert "last good result" in desk.plot.caption.text()
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert not desk.fault.isVisible()
    assert desk.parts.input_path(row, 1)[-2:] == (row, "amount")
    assert desk.parts.input_path(row, 0) is None


def test_a_pseudo_component_shows_what_is_estimated_and_takes_what_is_known(window, desk):
    desk.add_pseudo()
    window.live.come_to_rest()
    row = len(window.live.current_fluid().parts) - 1
    assert desk.form.row == row
    assert desk.form.head.text() == "Pseudo-component"
    entries = {key: field.entry for key, field in desk.form.pseudo.items()}
    assert entries["nbp"].text() == "150"
    assert entries["Tc"].placeholderText()
    assert entries["molar_mass"].placeholderText()
    desk.form.pseudo["Tc"]._commit("600 K")
    desk.form.pseudo["specific_gravity"]._commit("0.78 SG")
    window.live.come_to_rest()
    (made,) = (c for c in window.live.model().components if c.name == "Pseudo")
    assert made.Tc == 600.0
    assert made.specific_gravity == pytest.approx(0.78, rel=1e-6)
    desk.form.pseudo["Tc"]._commit("600 bar")
    window.live.come_to_rest()
    assert "where a temperature belongs" in window.live.fluid.faults[0].message
    window.store.undo_stack.undo()
    desk.form.name.setText("Heavy")
    desk.form.name.editingFinished.emit()
    window.live.come_to_rest()
    assert "Heavy" in window.live.model().names
    desk.add_pseudo()
    assert window.live.current_fluid().parts[-1].pseudo.name == "Pseudo"
    desk.add_pseudo()
    assert window.live.current_fluid().parts[-1].pseudo.name == "Pseudo 2"
    desk.grid.setCurrentIndex(desk.parts.index(0, 0))
    assert not desk.form.isVisible()


def test_a_series_makes_components_at_equal_steps(window, desk):
    desk.add_series()
    window.live.come_to_rest()
    assert desk.form.head.text() == "Series over a boiling range"
    desk.form.series["start"]._commit("400 degC")
    desk.form.series["end"]._commit("500 degC")
    desk.form.series["step"]._commit("25 K")
    window.live.come_to_rest()
    made = [c for c in window.live.model().components if c.name.startswith("Series")]
    middles = np.array([c.nbp for c in made]) - 273.15
    np.testing.assert_allclose(middles, [412.5, 437.5, 462.5, 487.5], atol=1.0)
    desk.form.series["end"]._commit("300 degC")
    window.live.come_to_rest()
    assert window.live.fluid.old
    assert window.live.fluid.faults


def test_a_recombination_is_edited_and_turned_back_into_parts(window, desk):
    window.live.select_fluid("Varnholt stock-tank oil")
    desk.recombine()
    window.live.come_to_rest()
    form, made = desk.recombination, window.live.fluid_name
    assert form.isVisible()
    assert not desk.grid.isVisible()
    assert desk.parts_head.text() == "Recombined from"
    form.gas.combo.setCurrentIndex(form.gas.combo.findData("Selden gas"))
    form.gas.combo.activated.emit(form.gas.combo.currentIndex())
    window.live.come_to_rest()
    gas = window.live.model()
    form.ratio._commit("300 sm3/m**3")
    window.live.come_to_rest()
    assert window.live.fluid_name == made
    methane = [m.z[m.names.index("methane")] for m in (gas, window.live.model())]
    assert methane[1] > methane[0] > 0.1
    form.ratio._commit("a lot")
    window.live.come_to_rest()
    assert window.live.fluid.old
    window.store.undo_stack.undo()
    count = len(window.live.current_fluid().parts)
    desk.add_pseudo()  # a recombined fluid takes no part
    assert len(window.live.current_fluid().parts) == count
    desk.back_to_parts()
    assert [p.fluid for p in window.live.current_fluid().parts] == ["Varnholt stock-tank oil", "Selden gas"]
    window.store.undo_stack.setClean()
    window.new()
    desk.recombine()
    assert "recombining takes two fluids" in desk.fault.text().lower()


def test_the_picture_is_the_composition_and_its_data_are_given(window, desk):
    model = window.live.model()
    ((title, heads, columns),) = desk.plot.data()
    assert (title, heads) == ("composition", ["boiling point K", "mol%"])
    np.testing.assert_allclose(columns[1], 100 * model.z)
    np.testing.assert_allclose(columns[0], [c.nbp for c in model.components])
    window.set_units("field")
    window.live.come_to_rest()
    assert desk.plot.x_title.text() == "Boiling point, °F"
