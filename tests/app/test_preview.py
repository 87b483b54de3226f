"""The page of what was read: blocks ticked and drawn, columns taken for something else, files that cannot be read, and leaving."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from cryonome.app.shell.jobs import Jobs
from cryonome.app.shell.preview import PreviewPage, Read, headline, source_of_text, sources_of, things_of
from cryonome.app.widgets.theme import DARK
from cryonome.exchange import read_text
from cryonome.watch import UNWATCHED

CURVE = (
    "vol%\tTBP, °C\tdensity, kg/m3\n5\t77\t716\n10\t112\t746\n30\t222\t814\n50\t319\t864\n70\t428\t912\n90\t590\t978\n"
)
EXPANSION = "Constant composition expansion at 121 °C\nPressure (bara)\tRelative volume\tDensity (g/cc)\n450\t0.86\t0.55\n331\t1\t0.48\n150\t1.81\t\n"
GAS = "Separator gas\nComponent\tmol%\nN2\t1.0\nC1\t88\nC2\t6\nC3\t5\n"


@pytest.fixture
def page(qtbot, tmp_path):
    """Return the page on three files, read: a curve, a report of a gas and its expansion, and a file that is no table."""
    (tmp_path / "curve.txt").write_text(CURVE)
    (tmp_path / "report.txt").write_text(f"{GAS}\n{EXPANSION}")
    (tmp_path / "broken.xlsx").write_text("no workbook")
    jobs = Jobs()
    made = PreviewPage(jobs)
    qtbot.addWidget(made)
    made.show()
    made.open_paths([tmp_path / "curve.txt", tmp_path / "report.txt", tmp_path / "broken.xlsx", tmp_path / "none.csv"])
    qtbot.waitUntil(lambda: not jobs.any_busy() and bool(made.read), timeout=20_000)
    yield made
    jobs.shut_down()


def settle(page, qtbot):
    qtbot.waitUntil(lambda: not page._jobs.any_busy(), timeout=20_000)


def texts(widget):
    return [widget.item(i).text() for i in range(widget.count())]


def line(page, key):
    return tuple(v.tolist() for v in page.plot._items[f"line line {key}"][1].getData())


def test_blocks_are_listed_with_what_becomes_of_them(page):
    assert [t.split("\n")[0].strip() for t in texts(page.list)] == [
        "1   Boiling curve, TBP, 6 points",
        "2   Composition, mol %, 4 rows",
        "3   Constant composition expansion",
    ]
    assert "test  expansion at 121 °C" in texts(page.list)[2]
    assert page.heading.text() == "What was read in curve.txt, report.txt, broken.xlsx and 1 more"
    assert "3 blocks on 2 sheets." in page.told.text()
    refused = texts(page.left_out)
    assert refused[0].startswith("broken.xlsx")
    assert any(t.startswith("none.csv cannot be read: no such file") for t in refused)
    assert not page.bar.isVisible()


def test_a_block_that_is_unticked_is_not_taken(page, qtbot):
    taken = []
    page.taken.connect(taken.append)
    assert page.take.text() == "take all  Enter"
    page.list.item(1).setCheckState(Qt.CheckState.Unchecked)
    assert page.take.text() == "take the checked ones  Enter"
    assert [b.kind for b in page.chosen()] == ["boiling curve", "expansion"]
    page._fill()  # shown anew, it stays so
    assert page.list.item(1).checkState() == Qt.CheckState.Unchecked
    QTest.keyClick(page.list, Qt.Key.Key_Return)
    assert [[b.kind for b in blocks] for blocks in taken] == [["boiling curve", "expansion"]]
    page.list.item(1).setCheckState(Qt.CheckState.Checked)
    assert page.take.text() == "take all  Enter"
    for i in range(3):
        page.list.item(i).setCheckState(Qt.CheckState.Unchecked)
    assert not page.take.isEnabled()
    page.accept()
    assert len(taken) == 1


def test_the_chosen_block_is_drawn_and_its_cells_stand_beside(page):
    page.list.setCurrentRow(0)
    assert line(page, 0) == ([5, 10, 30, 50, 70, 90], pytest.approx([77, 112, 222, 319, 428, 590]))
    assert (page.plot.x_title.text(), page.plot.y_title.text()) == ("Distilled, %", "Boiling point, °C")
    assert [page.model.text(i, 0) for i in range(3)] == ["vol%", "5", "10"]
    assert page.model.muted(0, 0)
    assert page.model.titles()[1] == ("temperature ▾", "°C")
    page.list.setCurrentRow(1)
    assert not page.plot.isVisible()  # a composition has no curve
    assert page.model.left_aligned(0)
    page.list.setCurrentRow(2)
    assert page.plot.isVisible()
    assert line(page, 0) == ([450, 331, 150], pytest.approx([0.86, 1.0, 1.81]))
    assert (page.plot.x_title.text(), page.plot.y_title.text()) == ("Pressure, bar", "Relative volume")
    page.set_theme(DARK)
    assert page.plot.theme is DARK


def test_a_unit_and_a_basis_are_chosen_and_put_back(page, qtbot):
    page.list.setCurrentRow(0)
    curve = page.blocks()[0][1].samples[0].distillation
    assert (curve.basis, curve.points[0]) == (None, (5, "77 degC"))
    offered = {a.text(): a for a in page.menu_of(1).actions() if a.text()}
    assert offered["in °C"].isChecked()
    assert "As it was read" not in offered
    offered["in °F"].trigger()
    settle(page, qtbot)
    assert page.blocks()[0][1].samples[0].distillation.points[0] == (5, "77 degF")
    assert page.model.titles()[1] == ("temperature ▾", "°F")
    basis = {a.text(): a for a in page.menu_of(0).actions() if a.text()}
    basis["on mass %"].trigger()
    settle(page, qtbot)
    curve = page.blocks()[0][1].samples[0].distillation
    assert (curve.basis, curve.points[0]) == ("mass", (5, "77 degF"))  # the first choice stands
    for column in (0, 1):
        back = next(a for a in page.menu_of(column).actions() if a.text() == "As it was read")
        back.trigger()
        settle(page, qtbot)
    curve = page.blocks()[0][1].samples[0].distillation
    assert (curve.basis, curve.points[0]) == (None, (5, "77 degC"))
    assert page.choices == {}
    assert page.menu_of(99).isEmpty()


def test_a_test_is_taken_for_another(page, qtbot):
    page.list.setCurrentRow(2)
    offered = {a.text(): a for a in page.menu_of(0).actions() if a.text()}
    assert offered["a test of expansion"].isChecked()
    offered["a test of depletion"].trigger()
    settle(page, qtbot)
    assert {a.text(): a for a in page.menu_of(0).actions()}["a test of depletion"].isChecked()
    assert page.blocks()[2][1].tests[0].kind == "depletion"
    assert page.list.currentRow() == 2


def test_a_comma_of_two_readings_is_asked_about(qtbot):
    jobs = Jobs()
    page = PreviewPage(jobs)
    qtbot.addWidget(page)
    text = "Constant composition expansion at 121 °C\nPressure (psia)\tDensity (kg/m3)\n2,650\t480\n3,100\t510\n3,900\t545\n"
    found = read_text(text, "pasted")
    page.open_read([Read(source_of_text(text, "pasted"), found)])
    note = next(t for t in texts(page.notes) + texts(page.left_out) if "two readings" in t)
    assert "2,650" in note
    offered = {a.text(): a for a in page.menu_of(0).actions() if a.text()}
    offered["a comma stands between thousands: 2,650 is 2650"].trigger()
    settle(page, qtbot)
    assert page.blocks()[0][1].tests[0].columns["pressure"][:2] == ["2650 psia", "3100 psia"]
    offered["a comma stands before decimals: 2,650 is 2.65"].trigger()
    settle(page, qtbot)
    assert page.blocks()[0][1].tests[0].columns["pressure"][:2] == ["2.65 psia", "3.1 psia"]
    jobs.shut_down()


def test_leaving_while_it_reads_shows_nothing_late(page, qtbot, tmp_path):
    left = []
    page.left.connect(lambda: left.append(True))
    before = [b.kind for _, b in page.blocks()]
    page._again()
    page.reject()
    settle(page, qtbot)
    qtbot.wait(50)
    assert left == [True]
    assert [b.kind for _, b in page.blocks()] == before


def test_a_sheet_without_anything_says_what_is_wanted(qtbot, tmp_path):
    (tmp_path / "list.txt").write_text("a shopping list\nmilk\neggs\n")
    (source,) = sources_of([tmp_path / "list.txt"], UNWATCHED)
    jobs = Jobs()
    page = PreviewPage(jobs)
    qtbot.addWidget(page)
    page.open_read([Read(source)])
    assert page.heading.text() == "Nothing is known in list"
    assert "a table is wanted whose header names its columns" in page.told.text()
    assert not page.take.isEnabled()
    assert not page.grid.isVisible()
    jobs.shut_down()


def test_blocks_are_told_in_a_few_words():
    many = "\n".join(f"{GAS.replace('Separator gas', f'Sample {k}')}" for k in range(5))
    found = read_text(many, "gases")
    assert [headline(b) for b in found.blocks] == ["Composition, mol %, 4 rows"] * 5
    assert all(things_of(b).startswith(("fluid", "sample")) for b in found.blocks)
    known = read_text(f"{CURVE}\n{EXPANSION}", "report")
    assert things_of(known.blocks[1]) == "test  expansion at 121 °C"
