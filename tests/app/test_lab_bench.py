"""The lab bench in the real window: the sheet, light ends, reading, cuts, correlations, blends, spreadsheets."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog

from ask import told
from cryonome.app.shell.ledger import entries
from cryonome.app.widgets.theme import DARK
from cryonome.characterization.correlations import REGISTRY, TITLES
from cryonome.characterization.methods import METHODS
from cryonome.demo import collection
from cryonome.exchange.writing import write_samples
from window_demo import demo_document


def sample(w):
    return w.live.current_sample()


def undo_all(w):
    while w.store.undo_stack.canUndo():
        w.store.undo_stack.undo()
    assert w.store.document == demo_document()


def test_every_curve_has_its_column_and_every_slip_its_cell(window):
    w = window
    w.show_desk("lab")
    model = w.desks["lab"].points
    assert [t for t, _ in model.titles()] == [
        "distilled", "boiling point", "density", "molar mass", "viscosity 100 °F", "sulphur",
    ]  # fmt: skip
    assert model.text(2, 2) == "66"
    model.store_cells({(4, 2): "51.4 lb/ft3", (7, 3): "90", (10, 5): "-1"}, "edit")
    assert sample(w).curves.density[2] == (20, "51.4 lb/ft3")
    assert "falls below the 161.0 g/mol at 30 %" in model.fault(7, 3)
    assert "below zero" in model.fault(10, 5)
    assert not w.live.sample.old  # curves go on without their faulty points
    assert w.desks["lab"].chips.button(0).text().startswith("▲")
    model.store_cells({(4, 2): "2.9 SG"}, "edit")
    assert "what a petroleum fraction can have" in model.fault(4, 2)
    undo_all(w)


def test_a_row_of_its_own_percent_takes_a_property_alone(window):
    w = window
    w.show_desk("lab")
    model = w.desks["lab"].points
    row = model.rows() - 1
    model.store_cells({(row, 0): "35", (row, 2): "39.4 degAPI"}, "type")
    assert (35, "39.4 degAPI") in sample(w).curves.density
    assert len(sample(w).distillation.points) == 13
    shown = [model.text(r, 0) for r in range(model.rows())]
    assert "35" in shown
    undo_all(w)


def test_a_wide_paste_finds_its_columns_by_their_headers(window):
    w = window
    w.show_desk("lab")
    rows = "\n".join(
        f"{d}\t{p}\t{t}"
        for p, t, d in (
            (0, 20, ""),
            (10, 110, "0,745"),
            (30, 222, "0,81"),
            (50, 319, "0,86"),
            (70, 428, "0,91"),
            (90, 590, "0,97"),
        )
    )
    QGuiApplication.clipboard().setText("Specific gravity\tVol% distilled\tTBP (°C)\n" + rows)
    w.desks["lab"].grid.setCurrentIndex(w.desks["lab"].points.index(0, 0))
    w.desks["lab"].grid.paste()
    assert sample(w).distillation.points[1] == (10, "110 degC")
    assert sample(w).curves.density[0] == (10, "0.745 SG")
    assert len(sample(w).curves.density) == 5
    assert w.live.sample.faults == ()
    undo_all(w)


@pytest.mark.parametrize("method", [m for m in METHODS if m not in ("carbon-number", "D86+D1160")])
def test_the_sheet_can_be_read_as_any_method(window, method):
    w = window
    w.show_desk("lab")
    w.desks["lab"].choose_method(method)
    assert w.live.sample.faults == () or method == "D1160"
    assert w.live.characterized().curve.at(np.array([0.5]))[0] > 300.0
    for shown in ("TBP", "D86", "D1160", "D2887", "EFV"):
        w.desks["lab"]._store_display("shown_as", shown)
        assert shown in w.desks["lab"].curve.caption.text()
    for index in range(3):
        w.desks["lab"].show_page(index)
        w.grab()
    undo_all(w)


def test_columns_come_and_go(window, monkeypatch):
    w = window
    w.show_desk("lab")
    w.desks["lab"].add_named_column("80 degC")
    w.desks["lab"].add_named_column("wax, mass%")
    assert [c.title for c in w.desks["lab"].points.columns][-3:] == ["viscosity 176 °F", "sulphur", "wax"]
    w.desks["lab"].points.store_cells({(5, 7): "4", (9, 7): "11"}, "type")
    assert "wax" in w.live.characterized().quantities
    for key in ("molar_mass", "viscosity 0", "quantity 0", "quantity 1"):
        w.desks["lab"].pictures.show_property(key)
        assert w.desks["lab"].pictures.property_choice.currentData() == key
        assert w.desks["lab"].density_plot.data()
    w.desks["lab"].points.remove_column(7)
    assert sample(w).curves.quantities[-1].name == "sulphur"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("nitrogen, ppm", True))
    w.desks["lab"].ask_column()
    assert sample(w).curves.quantities[-1].unit == "ppm"
    w.desks["lab"].grid.setCurrentIndex(w.desks["lab"].points.index(0, 2))
    w.desks["lab"].remove_column()
    assert sample(w).curves.density == ()
    undo_all(w)


def test_light_ends_measured_estimated_and_wrong(window):
    w = window
    w.show_desk("lab")
    w.desks["lab"].show_page("Light ends")
    panel = w.desks["lab"].light_ends
    panel._choose_mode("measured")
    panel.model.store_cells({(0, 1): "0.4", (1, 1): "0.2", (2, 1): "0.9", (3, 1): "0", (4, 1): "1 %"}, "type")
    assert w.live.characterized().light == 5
    assert "Together 2.50 vol%" in panel.note.text()
    QGuiApplication.clipboard().setText("Component\tvol%\nC2\t0,05\npropane\t0,5")
    panel.grid.setCurrentIndex(panel.model.index(0, 0))
    panel.grid.paste()
    assert sample(w).light_ends.amounts["ethane"] == 0.05
    assert sample(w).light_ends.amounts["propane"] == 0.5
    panel.entry.setText("unobtainium")
    panel.add_species()
    assert "unknown component" in panel.fault.text().casefold()
    assert w.desks["lab"].chips.button(1).text().startswith("▲")
    w.store.undo_stack.undo()
    panel.model.store_cells({(0, 1): "160"}, "type")
    assert "outside 0 to 100" in panel.fault.text()
    w.store.undo_stack.undo()
    panel._choose_mode("estimated")
    assert panel.model.muted(1, 1)
    assert float(panel.model.text(panel.model.names().index("n-pentane"), 1)) > 0.1
    panel._choose_mode("absent")
    assert not panel.grid.isVisible()
    undo_all(w)


def test_the_carbon_number_analysis_is_typed_split_and_lumped(window):
    w = window
    w.live.select_sample("Quillmoor condensate")
    w.show_desk("lab")
    assert w.desks["lab"].sheets.currentIndex() == 1
    before = len(w.live.characterized().cuts)
    w.desks["lab"].reading._nested("lumping", {"number": 3})
    assert len(w.live.characterized().cuts) == before - 3
    w.desks["lab"].reading._nested("split", {"model": "exponential"})
    assert ("exponential split" in w.live.sample.error) == w.live.sample.old
    w.store.undo_stack.undo()
    w.desks["lab"].carbon.store_cells({(10, 1): "x"}, "type")
    assert w.desks["lab"].carbon.fault(10, 1)
    assert w.live.sample.old
    w.store.undo_stack.undo()
    QGuiApplication.clipboard().setText("Component\tMole %\nC1\t60\nC6\t5\nC7\t10\nC8\t10\nC9\t5\nC10+\t10")
    w.desks["lab"].carbon_grid.setCurrentIndex(w.desks["lab"].carbon.index(0, 0))
    w.desks["lab"].carbon_grid.paste()
    assert sample(w).distillation.amounts[-1] == ("C10+", 10)
    assert w.live.sample.faults == ()
    w.show_desk("cuts")
    w.live.come_to_rest()
    assert "fractions" in w.desks["cuts"].lumping.text()
    first = w.desks["cuts"].lumping.text()
    w.desks["cuts"].lumping_at.setText("60 degC")
    w.desks["cuts"].lumping_at.editingFinished.emit()
    w.live.come_to_rest()
    assert w.desks["cuts"].lumping.text() != first
    w.desks["cuts"].lumping_at.setText("warm")
    w.desks["cuts"].lumping_at.editingFinished.emit()
    assert "not a temperature" in w.desks["cuts"].lumping.text()
    undo_all(w)


def test_cuts_are_numbered_split_merged_and_named(window):
    w = window
    w.show_desk("cuts")
    desk = w.desks["cuts"]
    desk.choose_way("mass")
    desk.count.setText("9")
    desk.count.editingFinished.emit()
    np.testing.assert_allclose(w.live.characterized().mass_fraction, 1 / 9)
    desk.count.setText("many")
    desk.count.editingFinished.emit()
    assert "many" in desk.count.text()
    assert w.live.sample.old
    w.store.undo_stack.undo()
    desk.grid.selectRow(2)
    desk.split_selected()
    assert len(w.live.characterized().cuts) == 10
    desk.model.store_cells({(0, 0): "front"}, "rename")
    assert w.live.characterized().components[0].name == "Varnholt crude front"
    assert desk.model.text(0, 0) == "front"
    desk.choose_way("regions")
    desk.regions_model.store_cells({(0, 1): "54"}, "type")
    assert w.live.characterized().edge_temperatures[2] - w.live.characterized().edge_temperatures[1] == pytest.approx(
        30.0
    )
    undo_all(w)


def test_products_are_renamed_moved_added_and_removed(window):
    w = window
    w.show_desk("cuts")
    model = w.desks["cuts"].yields_model
    model.store_cells({(0, 0): "gasoline", (0, 2): "392"}, "type")
    y = w.live.characterized().yields[0]
    assert (y.name, y.end) == ("gasoline", pytest.approx(473.15))
    model.store_cells({(5, 0): "coke"}, "type")
    assert len(sample(w).cuts.products) == 6
    assert model.fault(4, 2)  # the last but one has no end yet
    model.store_cells({(4, 2): "700 degC"}, "type")
    assert [y.name for y in w.live.characterized().yields][-1] == "coke"
    model.remove({5})
    assert sum(y.volume for y in w.live.characterized().yields) == pytest.approx(1.0)
    model.usual()
    assert sample(w).cuts.products is None
    undo_all(w)


def test_correlations_tell_their_source_and_their_effect(window):
    w = window
    w.show_desk("cuts")
    w.desks["cuts"].show_page("Reading")
    panel = w.desks["cuts"].correlations
    assert set(panel.combos) == set(TITLES)
    before = w.live.characterized()
    panel.choose("Tc", "cavett")
    assert "Cavett" in panel.sources["Tc"].text()
    assert "Range:" in panel.sources["Tc"].text()
    assert "% against Twu 1984" in panel.effects["Tc"].text()
    after = w.live.characterized()
    assert after.cuts[5].Tc != before.cuts[5].Tc
    assert after.cuts[5].Pc == pytest.approx(before.cuts[5].Pc)
    panel.choose("Tc", "twu-1984")
    assert sample(w).correlations == {}
    for prop, found in REGISTRY.items():
        for key in found:
            panel.choose(prop, key)
            assert not w.live.sample.old, (prop, key)
    undo_all(w)


def test_the_ledger_leads_to_the_page_and_the_cell(window):
    w = window
    w.show_desk("lab")
    w.desks["lab"].points.store_cells({(8, 1): "597"}, "slip")
    w.show_desk("map")
    found = entries(w.live)
    w.show_place(next(e.place for e in found if "597" in e.text))
    assert w.current == "lab"
    assert (w.desks["lab"].grid.currentIndex().row(), w.desks["lab"].grid.currentIndex().column()) == (8, 1)
    w.show_place(
        next(e.place for e in found if e.text.endswith("Acentric factor of the cuts by boiling point matched."))
    )
    assert w.current == "cuts"
    assert w.desks["cuts"].pages.currentIndex() == 2
    undo_all(w)


def test_fluids_are_blended_recombined_and_made_of_series(window):
    w = window
    w.show_desk("fluid")
    desk = w.desks["fluid"]
    desk.entry.setText("Quillmoor reservoir gas")
    desk.amount.setText("10")
    desk.add_part()
    assert w.live.current_fluid().parts[-1].fluid == "Quillmoor reservoir gas"
    assert not w.live.fluid.error
    assert any("share one grid" in s for s in told(w.live.fluid.value.remarks))
    desk.add_pseudo()
    assert desk.form.isVisible()
    desk.form.pseudo["molar_mass"]._commit("180 g/mol")
    desk.form.pseudo["nbp"]._commit("")
    assert w.live.current_fluid().parts[-1].pseudo.molar_mass == "180 g/mol"
    assert w.live.fluid.error == ""
    desk.add_series()
    assert any(n.startswith("Series 350 to 385") for n in w.live.fluid.value.names)
    desk.form.series["step"]._commit("500 K")
    assert "between 1 and 100" in w.live.fluid.error
    w.store.undo_stack.undo()
    before = w.live.current_fluid()
    desk.recombine()
    made = w.live.current_fluid()
    assert made.recombination is not None
    assert w.store.document.fluid(before.name) == before  # the one shown stays as it is
    assert not w.live.fluid.error
    desk.recombination._store("gas_oil_ratio", "x")
    assert w.live.fluid.error
    w.store.undo_stack.undo()
    desk.back_to_parts()
    assert [p.fluid for p in w.live.current_fluid().parts] == [before.name, "Varnholt stock-tank oil"]
    assert w.height() <= 800
    undo_all(w)


def test_a_workbook_of_samples_is_imported_and_exported(window, tmp_path, monkeypatch):
    w = window
    path = tmp_path / "assays.xlsx"
    write_samples(path, collection().samples)
    w.import_paths([path])
    w.live.come_to_rest()
    page = w.preview
    assert page.list.count() == 6
    assert not w.store.undo_stack.canUndo()  # nothing is taken before it was seen
    page.list.item(5).setCheckState(Qt.CheckState.Unchecked)
    page.accept()
    assert len(w.store.document.samples) == 7
    assert "Varnholt crude 2" in [s.name for s in w.store.document.samples]
    w.store.undo_stack.undo()
    assert w.store.document == demo_document()
    told = []
    monkeypatch.setattr(type(w), "tell", lambda _self, what, why: told.append((what, why)))
    half = tmp_path / "half.xlsx"
    half.write_bytes(path.read_bytes()[:500])
    w.import_paths([half, Path(tmp_path / "nowhere.csv")])
    w.live.come_to_rest()
    lines = [w.preview.left_out.item(i).text() for i in range(w.preview.left_out.count())]
    assert "is not a workbook" in lines[0]
    assert "cannot be read" in lines[1]
    assert not w.preview.take.isEnabled()
    w.preview.reject()
    out = tmp_path / "out.xlsx"
    w.export_path(out)
    assert out.stat().st_size > 5000
    w.export_path(out / "in a file.xlsx")
    assert "was not written" in told[-1][0]


@pytest.mark.parametrize("name", [s.name for s in collection().samples])
def test_every_sample_of_the_collection_fills_the_desks(window, name):
    w = window
    w.add_from_collection(name)
    assert w.live.sample.error == ""
    assert not [f for f in w.live.sample.faults if f.severity == "error"]
    w.set_theme(DARK)
    for desk in ("lab", "cuts"):
        w.show_desk(desk)
        w.grab()
    w.add_fluid()
    assert not w.live.fluid.error
    assert w.height() <= 800


def test_whole_sample_numbers_are_typed(window):
    w = window
    w.show_desk("lab")
    row = w.desks["lab"].bulk.viscosity[1]
    row.temperature.setText("80 °C")
    QTest.keyClick(row.temperature, Qt.Key.Key_Return)
    row.value.entry.setText("2.4 cSt")
    QTest.keyClick(row.value.entry, Qt.Key.Key_Return)
    assert sample(w).bulk.viscosity[1] == ("80 °C", "2.4 cSt")
    assert [round(v * 1e6, 2) for _, v in w.live.characterized().viscosity] == [6.21, 2.4]
    row.value.entry.setText("9 cSt")
    QTest.keyClick(row.value.entry, Qt.Key.Key_Return)
    assert "rises with temperature" in w.desks["lab"].bulk_fault.text()
    w.desks["lab"].reading._choose_trust("density", "keep")
    assert sample(w).curves.keep == ("density",)
    undo_all(w)


def test_pressure_basis_and_tail_are_told_and_kept(window):
    w = window
    w.show_desk("lab")
    bar = w.desks["lab"].how
    w.desks["lab"].choose_method("D86")
    bar.pressure.setText("10 mmHg")
    QTest.keyClick(bar.pressure, Qt.Key.Key_Return)
    assert "use D1160 or TBP under vacuum" in w.desks["lab"].curve_fault.text()
    assert w.desks["lab"].chips.button(0).text().startswith("▲")
    bar.pressure.setText("990 mbar")
    QTest.keyClick(bar.pressure, Qt.Key.Key_Return)
    assert sample(w).distillation.pressure == "990 mbar"
    assert w.live.sample.faults == ()
    assert any("Sydney Young" in s for s in told(w.live.characterized().remarks))
    bar.basis.setCurrentIndex(1)
    bar.basis.activated.emit(1)
    assert sample(w).distillation.basis == "mass"
    w.desks["lab"].choose_method("D86+D1160")
    assert w.live.sample.old  # the front reaches to 95 %, the tail is still empty
    rows = {(r, 2): t for r, t in ((7, "300"), (8, "350"), (9, "400"))}
    w.desks["lab"].points.store_cells(rows, "tail")
    assert len(sample(w).distillation.tail.points) == 3
    w.desks["lab"].choose_method("TBP")
    assert len(sample(w).distillation.tail.points) == 3  # typed, so kept
    assert any(f.severity == "warning" and "no effect" in f.message for f in w.live.sample.faults)
    assert not w.live.sample.old
    undo_all(w)


def test_reading_choices_act_and_are_told(window):
    w = window
    w.show_desk("lab")
    w.desks["lab"].show_page("Reading")
    panel = w.desks["lab"].reading
    before = w.live.characterized().curve.temperature[-1]
    panel._end("final", "1500 degF")
    assert w.live.characterized().curve.temperature[-1] == pytest.approx((1500 + 459.67) / 1.8)
    panel._end("final", "900 degF")
    assert "must lie above the last point" in panel.fault.text()
    assert w.desks["lab"].chips.button(2).text().startswith("▲")
    panel._end("final", "")
    w.desks["lab"]._store_display("temperature", "degC")
    for ends in ("distribution", "linear", "probability"):
        panel._store({"ends": ends}, "ends")
        assert w.live.sample.faults == ()
    assert w.live.characterized().curve.temperature[-1] == pytest.approx(before)
    for between in ("linear", "probability", "monotone-cubic"):
        panel._store({"interpolation": between}, "between")
        assert not w.live.sample.old
    w.desks["lab"].choose_method("D86")
    assert "Daubert" in panel.source.text()
    panel._choose_conversion("riazi-daubert-1986")
    assert sample(w).distillation.conversion == "riazi-daubert-1986"
    assert "Oil Gas J." in panel.source.text()
    panel.cracking.click()
    assert sample(w).distillation.cracking
    assert any("thermal cracking" in s for s in told(w.live.characterized().remarks))
    panel._choose_conversion("api-1994")
    assert sample(w).distillation.conversion is None
    undo_all(w)
