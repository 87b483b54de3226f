"""The desks model and isotherms, driven as a user does."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPointF

from ask import fill, type_in_cell
from cryonome.app.widgets.theme import DARK
from cryonome.document.reader import cell_text


def choose(combo, key: str) -> None:
    combo.setCurrentIndex(combo.findData(key))
    combo.activated.emit(combo.currentIndex())


def test_the_model_is_chosen_and_its_parameters_follow(window, qtbot):
    window.show_desk("model")
    desk, live = window.desks["model"], window.live
    live.come_to_rest()
    shown = desk.parameters_model
    assert shown.titles()[1:4] == [("a at Tc", "Pa·m⁶/mol²"), ("b", "cm³/mol"), ("alpha", shown.titles()[3][1])]
    names = [shown.text(r, 0) for r in range(shown.rows())]
    methane = names.index("methane")
    assert float(shown.text(methane, 2)) == pytest.approx(26.80, abs=0.01)
    before = live.model()
    choose(desk.shift.combo, "none")
    live.come_to_rest()
    assert float(shown.text(methane, 4)) == 0.0
    # Equilibrium did not move, only the volumes.
    np.testing.assert_array_equal(before.kij, live.model().kij)
    choose(desk.alpha.combo, "published")
    live.come_to_rest()
    assert shown.text(methane, 5) == "Twu"
    choose(desk.equation.combo, "PC-SAFT")
    # Its envelope takes a minute, which nobody waits for.
    qtbot.waitUntil(lambda: [t for t, _ in shown.titles()[1:4]] == ["m", "σ", "ε/k"], timeout=60_000)
    assert float(shown.text(methane, 1)) == 1.0
    assert not desk.alpha.combo.isVisible()
    assert desk.shift.combo.findData("peneloux") < 0
    for _ in range(3):
        window.store.undo_stack.undo()
    live.come_to_rest()
    assert live.current_fluid().model.eos == "PR78"
    assert live.current_fluid().model.volume_shift == "density"


def test_a_shift_that_does_not_fit_another_equation_gives_way(window):
    window.show_desk("model")
    desk, live = window.desks["model"], window.live
    choose(desk.shift.combo, "jhaveri-youngren")
    choose(desk.equation.combo, "SRK")
    live.come_to_rest()
    assert live.current_fluid().model.volume_shift == "density"
    assert not live.fluid.faults


def test_pairs_are_read_painted_and_typed_in_the_matrix(window):
    window.show_desk("model")
    desk, live = window.desks["model"], window.live
    live.come_to_rest()
    matrix = desk.matrix_model
    names = [matrix.text(r, 0) for r in range(matrix.rows())]
    assert names[-1] == "30 cuts"
    row, column = names.index("methane"), names.index("carbon dioxide") + 1
    assert matrix.text(row, column) == "0.092"
    assert matrix.ground(row, column, desk.theme) is not None
    assert matrix.ground(row, names.index("propane") + 1, desk.theme) is not None
    type_in_cell(desk.matrix, row, column, "0.12")
    live.come_to_rest()
    model = live.model()
    i, j = model.names.index("methane"), model.names.index("carbon dioxide")
    assert model.kij[i, j] == model.kij[j, i] == 0.12
    assert matrix.bold(row, column)
    assert matrix.bold(column - 1, row + 1)
    matrix.store_cells({(column - 1, row + 1): ""}, "")
    live.come_to_rest()
    assert live.current_fluid().model.kij_pairs == ()
    desk.fold.click()
    assert matrix.rows() == len(model.names)
    type_in_cell(desk.matrix, row, column, "nonsense")
    live.come_to_rest()
    assert desk.fault.text()
    window.store.undo_stack.undo()


def test_the_rule_and_the_reference_are_edited_and_the_adviser_speaks(window):
    window.show_desk("model")
    desk, live = window.desks["model"], window.live
    live.come_to_rest()
    heavy = live.model().kij[live.model().names.index("methane"), -1]
    desk.scale.entry.setText("0.32")
    desk.scale.entry.editingFinished.emit()
    live.come_to_rest()
    assert live.model().kij[live.model().names.index("methane"), -1] == pytest.approx(2 * heavy)
    choose(desk.reference.combo, "saturated liquid")
    live.come_to_rest()
    assert desk.datum.entry.isVisible()
    assert live.model().substance.reference.state == "saturated liquid"
    told = desk.advice.text()
    assert told.index("PR78") < told.index("van der Waals")
    assert "Robinson and Peng" in desk.source.text()
    window.set_theme(DARK)
    assert DARK.mute in desk.advice.text()


def test_isotherms_are_drawn_compared_and_looked_into(window):
    live = window.live
    live.select_fluid("Injection carbon dioxide")
    window.show_desk("isotherms")
    desk = window.desks["isotherms"]
    live.come_to_rest()
    assert desk.bar.text() == "How is Injection carbon dioxide drawn by PR78, SRK, VDW at 0, 31, 60 °C?"
    rows = {desk.critical_model.text(r, 0): r for r in range(desk.critical_model.rows())}
    assert float(desk.critical_model.text(rows["measured"], 3)) == pytest.approx(94.12, abs=0.01)
    assert desk.deviations_model.rows() == 3
    desk.bar.fields[("equations",)]._pick("PC-SAFT")
    live.come_to_rest()
    assert desk.deviations_model.rows() == 4
    study = desk.study()
    assert study.equations == ("PR78", "SRK", "VDW", "PC-SAFT")
    fill(desk, ("temperatures",), "0 degC, 400 K")
    live.come_to_rest()
    assert [cell_text(c) for c in desk.study().temperatures] == ["0 degC", "400 K"]
    for key in ("linear", "density", "volume"):
        choose(desk.axis, key)
    assert len(desk.plot.csv_text().splitlines()) > 200
    fill(desk, ("temperatures",), "0 degC, cold")
    live.come_to_rest()
    assert "cold" in desk.told.text()
    window.store.undo_stack.undo()
    live.come_to_rest()
    # At 30 bar on the cold isotherm there are three roots, the vapour stable.
    desk.look_at(QPointF(2.75, 30.0))
    live.come_to_rest()
    assert desk.study().kind == "roots"
    assert desk.roots_model.rows() == 3
    assert desk.roots_model.text(2, 5) == "stable"
    assert desk.found.text().startswith("Three; the gas-like")


def test_a_fluid_without_isotherms_is_offered_them(window):
    window.live.select_fluid("Quillmoor reservoir gas")
    window.show_desk("isotherms")
    desk = window.desks["isotherms"]
    window.live.come_to_rest()
    assert desk.study().draft
    assert desk.critical_model.rows() == 1


def test_measured_saturation_is_pasted_in_any_order_and_unit(window):
    live = window.live
    live.select_fluid("Injection carbon dioxide")
    window.show_desk("isotherms")
    desk = window.desks["isotherms"]
    live.come_to_rest()
    sheet = "vapour (kg/m3)\tTemperature, degC\tremark\tPressure (bar)\n97.65\t0\tx\t34.85\n46.64\t-23.15\t\t17.85\n"
    assert desk.take_paste(sheet)
    live.come_to_rest()
    first = desk.study().measured[0]
    assert first.temperature == pytest.approx(273.15)
    assert first.vapour == pytest.approx(44.009e-3 / 97.65)
    assert first.liquid is None
    answer = live.answer(desk.study().name).value
    assert len(answer["measured"]["temperature_K"]) == 2
    assert answer["equations"][0]["deviations_percent"]["pressure"]["worst"] < 1.0
    window.store.undo_stack.undo()
    live.come_to_rest()
    assert desk.study().measured == ()
    for wrong, words in (
        ("1\t2\n3\t4", "header names temperature"),
        ("T K\tP bar\n300\tmany", "Row 2"),
        ("T\tP bar\n300\t5", "needs its unit"),
    ):
        assert desk.take_paste(wrong)
        assert words in desk.told.text()
        assert desk.study().measured == ()


def test_own_constants_and_the_aqueous_parameter_are_typed_in_the_table(window):
    live = window.live
    live.select_fluid("Quillmoor wet stream")
    window.show_desk("model")
    desk = window.desks["model"]
    live.come_to_rest()
    shown = desk.parameters_model
    columns = {title: k for k, (title, _) in enumerate(shown.titles())}
    row = [shown.text(r, 0) for r in range(shown.rows())].index("methane")
    type_in_cell(desk.parameters, row, columns["Ωa"], "0.44")
    assert live.current_fluid().model.omegas == {"methane": (0.44, pytest.approx(0.07780, abs=1e-5))}
    assert shown.bold(row, columns["Ωa"])
    before = live.model().kij.copy()
    type_in_cell(desk.parameters, row, columns["k in water"], "-0.1")
    assert live.current_fluid().model.aqueous_pairs == (("methane", -0.1),)
    # The parameter of the other phases stays.
    np.testing.assert_array_equal(before, live.model().kij)
    shown.store_cells({(row, columns["Ωa"]): "", (row, columns["k in water"]): ""}, "")
    assert (live.current_fluid().model.omegas, live.current_fluid().model.aqueous_pairs) == ({}, ())
    type_in_cell(desk.parameters, row, columns["Ωb"], "thick")
    assert desk.fault.text()
    for _ in range(4):
        window.store.undo_stack.undo()
