"""The page *Table*: the numbers of the answer in every view, axes typed, properties chosen, formulas taken and refused."""

from __future__ import annotations

import json

import numpy as np
import openpyxl
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from ask import become, fill
from cryonome.app.widgets.theme import DARK
from cryonome.questions.tabulate import PropertyTable


@pytest.fixture
def desk(window):
    window.open_study("Selden pipeline")
    window.live.come_to_rest()
    assert window.current == "table"
    return window.desks["table"]


def test_every_view_shows_the_answer_and_an_edit_of_an_axis_moves_all_of_them(window, desk):
    answer = window.live.answer("Selden pipeline").value
    table = desk.table()
    assert isinstance(table, PropertyTable)
    assert table.values["density_kg_m3"].tolist() == answer["properties"]["density_kg_m3"]
    assert desk.values.text(0, 1) == "58.778"
    assert (desk.values.titles()[1], desk.values.text(3, 0)) == (("60", "bar"), "12.5")
    for view in ("curves", "contours", "surface", "formula", "choose", "table"):
        desk.show_page(view)
        window.live.come_to_rest()
        assert (desk.view, desk.told.text()) == (view, "")
    assert "in 18 steps (19 values)" in " ".join(p.text for p in desk.bar._sentence.parts).replace("  ", " ")
    become(desk, ("axes", 0, "steps"), "the size of a step")
    fill(desk, ("axes", 0, "step"), "5")
    window.live.come_to_rest()
    assert desk.table().shape == (10, 19)
    fill(desk, ("axes", 0, "end"), "40")
    window.live.come_to_rest()
    assert window.store.document.study("Selden pipeline").axes[0].end == "40 degC"
    assert desk.table().axes[0][-1] == pytest.approx(313.15)
    fill(desk, ("axes", 0, "step"), "400")
    window.live.come_to_rest()
    assert "larger than the range" in desk.told.text()
    # What was there stays until something better is.
    assert desk.values.text(0, 1) == "58.778"
    while window.store.undo_stack.canUndo():
        window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert desk.table().shape == (19, 19)
    assert not desk.told.isVisible()


def test_a_large_table_has_a_first_picture_before_all_of_it(window, desk):
    desk.edit_study({("axes", 0, "steps"): 70, ("axes", 1, "steps"): 70}, "x")
    seen = []
    window.live.on({"table first", "table"}, lambda: seen.append(desk.table().shape if desk.table() else None))
    window.live.come_to_rest()
    assert seen[0] == (16, 16)
    assert seen[-1] == (71, 71)
    coarse, fine = desk.table().values["density_kg_m3"][0, 0], desk.table().values["density_kg_m3"][-1, -1]
    assert np.isfinite([coarse, fine]).all()


def test_properties_are_chosen_by_their_words_and_told_apart_by_their_meaning(window, desk):
    desk.show_page("choose")
    window.live.come_to_rest()
    QTest.keyClicks(desk.search, "density")
    names = [(desk.choices.text(i, 1), desk.choices.text(i, 2)) for i in range(desk.choices.rows())]
    assert ("Density", "vapour") in names
    assert ("Standard liquid density", "standard conditions") in names
    row = names.index(("Density", "vapour"))
    # One phase: the vapour's density is the whole's, at the state in the middle of the table.
    assert desk.choices.text(row, 3) == desk.choices.text(names.index(("Density", "the whole")), 3)
    desk.choices.toggle(row)
    assert window.store.document.study("Selden pipeline").properties[-1] == "vapour.density_kg_m3"
    desk.search.clear()
    QTest.keyClicks(desk.search, "speed vapour")
    QTest.keyClick(desk.search, Qt.Key.Key_Return)
    window.live.come_to_rest()
    assert "vapour.speed_of_sound_m_s" in desk.table().values
    desk.choices.toggle(0)
    assert "vapour.speed_of_sound_m_s" not in window.store.document.study("Selden pipeline").properties


def test_a_formula_is_handed_over_and_refused_across_a_boundary_with_the_part_that_would_do(window, desk):
    desk.show_page("formula")
    window.live.come_to_rest()
    desk.formula.show_text("python")
    desk.formula.copy_button.click()
    scope: dict = {}
    exec(QGuiApplication.clipboard().text(), scope)
    table = desk.table()
    T, P = np.meshgrid(*table.axes, indexing="ij")
    ours = np.array([[scope["compact"](t, p) for t, p in zip(*rows)] for rows in zip(T, P)])
    assert np.abs(ours / table.values["density_kg_m3"] - 1.0).max() < 1e-5
    fill(desk, ("axes", 0, "begin"), "-60")
    fill(desk, ("axes", 1, "begin"), "20")
    window.live.come_to_rest()
    assert "phases change" in desk.formula.told.text()
    desk.formula.part_button.click()
    window.live.come_to_rest()
    assert "off by" in desk.formula.told.text()


def test_the_boiling_line_of_a_pure_component_takes_two_actions(window):
    window.live.select_fluid("Injection carbon dioxide")
    window.show_desk("table")
    desk = window.desks["table"]
    desk.begin_boiling()
    window.live.come_to_rest()
    table = desk.table()
    assert table.shape == (21,)
    # Span and Wagner (1996): 3.485 MPa at 273.15 K.
    assert np.interp(273.15, table.axes[0], table.values["pressure_Pa"]) == pytest.approx(3.485e6, rel=0.02)
    gap = table.values["liquid.density_kg_m3"] - table.values["vapour.density_kg_m3"]
    assert (np.diff(gap) < 0.0).all()
    assert desk.view == "curves"


def test_a_pasted_grid_stands_beside_ours_and_the_files_hold_it(window, desk, tmp_path, monkeypatch):
    table = desk.table()
    theirs = 1.01 * table.values["density_kg_m3"] / 16.018463373960138
    theirs[4, 7] *= 1.05
    rows = ["density (lb/ft3)\t" + "\t".join(f"{p:.6g}" for p in table.axes[1])]
    rows += [f"{t:.6g}\t" + "\t".join(f"{v:.9g}" for v in row) for t, row in zip(table.axes[0], theirs)]
    desk.show_page("reference")
    desk.reference.paste("\n".join(rows))
    window.live.come_to_rest()
    answer = window.live.answer("Selden pipeline").value
    assert len(answer["reference"]) == 361
    relative = [r["relative"] for r in answer["reference"]]
    assert relative[0] == pytest.approx(1 / 1.01 - 1, rel=1e-6)
    marked = [i for i in range(desk.reference.rows.rows()) if desk.reference.rows.text(i, 6) == "worst"]
    assert marked == [4 * 19 + 7]
    assert desk.reference.rows.text(marked[0], 0).startswith("density at 15 °C, 95 bar")
    desk.reference.paste("1\t2\n3\t4")
    assert "19 × 19" in desk.reference.told.text()
    for ending in ("xlsx", "csv", "json"):
        path = tmp_path / f"t.{ending}"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, p=path, **_k: (str(p), ""))
        desk.export()
        assert path.stat().st_size > 1000
    book = openpyxl.load_workbook(tmp_path / "t.xlsx")
    assert book["Density"]["C4"].value == pytest.approx(answer["properties"]["density_kg_m3"][1][1], rel=1e-12)
    assert "compared, SI" in book.sheetnames
    whole = json.loads((tmp_path / "t.json").read_text())
    assert [a["unit"] for a in whole["axes"]] == ["K", "Pa"]
    assert whole["properties"][0]["values"] == answer["properties"]["density_kg_m3"]
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert "reference" not in window.live.answer("Selden pipeline").value


def test_one_axis_and_the_other_way_round(window, desk):
    window.set_theme(DARK)
    become(desk, ("axes", 1, "variable"), "held at one value")
    window.live.come_to_rest()
    study = window.store.document.study("Selden pipeline")
    assert (len(study.axes), study.pressure) == (1, "60 bar")
    assert desk.values.titles()[1] == ("Density", "kg/m³")
    fill(desk, ("axes", 0, "variable"), "vapour fraction")
    window.live.come_to_rest()
    # Above the cricondenbar there is no vapour fraction: the cells are empty and say why.
    fill(desk, ("pressure",), "120 bar")
    window.live.come_to_rest()
    desk.show_page("table")
    assert desk.values.tip(0, 1).startswith("nothing here: ")
