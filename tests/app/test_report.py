"""The report on pages: as PDF without a window, and on its page in the window."""

from __future__ import annotations

import json

import pytest
from PySide6.QtCore import QByteArray, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QMessageBox
from typer.testing import CliRunner

from cryonome.app.reporting.pages import MARGIN, SIZES, laid_out
from cryonome.app.reporting.pdf import write_pdf
from cryonome.app.reporting.type_setting import Drawing, Text, paint, wrapped
from cryonome.cli import app
from cryonome.document import parse_document
from cryonome.reporting.content import report_of
from cryonome.reporting.parts import Content, Heading, Sentence, Table
from cryonome.telling.table_blocks import Block

GAS = {"name": "G", "parts": [{"component": "methane", "amount": 90}, {"component": "propane", "amount": 10}]}
FLASH = {"name": "cold flash", "kind": "flash", "fluid": "G", "temperature": "220 K", "pressure": "20 bar"}
MAP = {"name": "map <x>", "kind": "envelope", "fluid": "G"}
SMALL = json.dumps({"format": "cryonome/1", "title": "A & B", "fluids": [GAS], "studies": [FLASH, MAP]})


def texts(sheet):
    return [i.text for i in sheet.items if isinstance(i, Text)]


def test_the_command_writes_page_pdf_answers_and_pictures(qapp, tmp_path):
    (tmp_path / "d.cryo").write_text(SMALL)
    done = CliRunner().invoke(app, ["report", str(tmp_path / "d.cryo"), "--output", str(tmp_path / "out"), "--paper", "letter"])  # fmt: skip
    assert done.exit_code == 0, done.output
    folder = tmp_path / "out"
    assert "A &amp; B" in (folder / "report.html").read_text()
    pdf = (folder / "report.pdf").read_bytes()
    assert pdf.startswith(b"%PDF")
    assert b"/MediaBox [0 0 612.000000 792.000000]" in pdf
    assert pdf.count(b"/Type /Page\n") == int(done.output.split("on ")[1].split()[0])
    assert set(json.loads((folder / "answers.json").read_text())["answers"]) == {"cold flash", "map <x>"}
    for picture in (folder / "pictures").glob("*.svg"):
        assert QSvgRenderer(QByteArray(picture.read_bytes())).isValid()
    assert len(list((folder / "pictures").glob("*.svg"))) == 2


@pytest.mark.parametrize(("text", "args", "says"), [
    ('{"format": "cryonome/1", "fluids": [{"name": "F"}]}', [], "empty"),
    (SMALL, ["--paper", "foolscap"], "use A4 or Letter"),
])  # fmt: skip
def test_a_wrong_document_or_paper_is_told(qapp, tmp_path, text, args, says):
    (tmp_path / "d.cryo").write_text(text)
    done = CliRunner().invoke(app, ["report", str(tmp_path / "d.cryo"), "--output", str(tmp_path / "out"), *args])
    assert done.exit_code == 2
    assert says in done.output
    assert not (tmp_path / "out" / "report.pdf").exists()


def test_heads_stand_on_every_page_that_a_table_reaches_and_nothing_leaves_the_paper(qapp):
    wide = Block("wide", [(f"column {i}", "kg/m³") for i in range(30)], [[f"{i}.{j}" for j in range(30)] for i in range(120)])  # fmt: skip
    long_name = "a name without an end " * 30
    words = Block("words", [("property", ""), ("source", "")], [["x" * 200, long_name]] * 9)
    parts = (Heading("One"), Sentence(long_name, "strong"), Table(wide, 7), Heading("Two"), Table(words))
    for paper, (width, height) in SIZES.items():
        pages = laid_out(Content("T" * 300, "", (("Made", long_name),), parts, True, paper))
        for number, sheet in enumerate(pages.sheets, 1):
            for item in sheet.items:
                if isinstance(item, Text):
                    left = item.x - item.face.width(item.text) if item.align else item.x
                    assert left >= MARGIN - 0.6
                    assert left + item.face.width(item.text) <= width - MARGIN + 0.6
                    assert 0.0 < item.y < height
            if any("119." in t for t in texts(sheet)):
                assert "column" in " ".join(texts(sheet))
            if number > 1:
                assert f"{number} of {len(pages.sheets)}" in texts(sheet)
        shown = {t for s in pages.sheets for t in texts(s)}
        assert {f"119.{j}" for j in range(30)} <= shown
        assert "7 more rows are not shown here." in shown
        # The contents give the page that each heading is on.
        places = {t: page for t, _, page in pages.places}
        for name in ("One", "Two"):
            assert name in texts(pages.sheets[places[name] - 1])
            row = next(i for i in pages.sheets[1].items if isinstance(i, Text) and i.text == name)
            assert any(isinstance(i, Text) and i.y == row.y and i.text == str(places[name]) for i in pages.sheets[1].items)  # fmt: skip


def test_wrapping_loses_no_letter(qapp):
    from cryonome.app.reporting.type_setting import Face

    text = "Interaction parameters: library of measured pairs " + "W" * 150
    lines = wrapped(text, Face(9.0), 120.0)
    assert "".join(lines).replace(" ", "") == text.replace(" ", "")
    assert all(Face(9.0).width(line) <= 120.0 for line in lines)


def test_pages_are_painted_with_their_pictures(qapp, tmp_path):
    content = report_of(parse_document(SMALL))
    pages = write_pdf(content, tmp_path / "r.pdf")
    sheet = next(s for s in pages.sheets if any(isinstance(i, Drawing) for i in s.items))
    place = next(i for i in sheet.items if isinstance(i, Drawing))
    image = QImage(596, 842, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    paint(painter, sheet)
    painter.end()
    inside = {image.pixel(x, y) for x in range(int(place.x), int(place.x + place.width), 3) for y in range(int(place.y), int(place.y + place.height), 3)}  # fmt: skip
    assert len(inside) > 20


@pytest.fixture
def small_window(qtbot, monkeypatch):
    from cryonome.app.shell.window import MainWindow

    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    made = MainWindow(parse_document(SMALL))
    qtbot.addWidget(made)
    made.show()
    yield made
    made.close()


def test_what_the_report_holds_is_ticked_kept_and_undone(qtbot, small_window, tmp_path):
    window = small_window
    window.show_report()
    report = window.report
    qtbot.waitUntil(lambda: report.ready is not None, timeout=60000)
    whole = len(report.ready.pages.sheets)
    items = {i.text(0): i for i in report.tree.findItems("*", Qt.MatchFlag.MatchWildcard | Qt.MatchFlag.MatchRecursive)}
    items["map <x>"].setCheckState(0, Qt.CheckState.Unchecked)
    assert window.store.document.report.without_studies == ("map <x>",)
    qtbot.waitUntil(lambda: "map <x>" not in report.ready.content.answers, timeout=60000)
    assert len(report.ready.pages.sheets) < whole
    report.by.setText("the fluids group")
    report.by.editingFinished.emit()
    qtbot.waitUntil(lambda: ("Prepared by", "the fluids group") in report.ready.content.facts, timeout=60000)
    for name in ("r.pdf", "r.html"):
        report.save(tmp_path / name)
        qtbot.waitUntil(lambda name=name: window.ledger.message.text() == f"The report is {name}", timeout=60000)
    assert (tmp_path / "r.pdf").read_bytes().startswith(b"%PDF")
    assert "the fluids group" in (tmp_path / "r.html").read_text()
    report.save(tmp_path / "r.html" / "r.pdf")  # a file is no folder
    qtbot.waitUntil(lambda: "not written" in window.ledger.message.text(), timeout=60000)
    window.store.undo_stack.undo()
    window.store.undo_stack.undo()
    assert window.store.document.report.without_studies == ()
    window.escape()
    assert window.stack.currentWidget() is not report


def test_enter_takes_a_typed_title_and_a_report_being_made_is_not_saved_as_it_was(
    qtbot, small_window, monkeypatch, tmp_path
):
    window, asked = small_window, []

    def file_asked(*_args):
        asked.append(1)
        return str(tmp_path / "r"), ""

    monkeypatch.setattr("cryonome.app.reporting.page.QFileDialog.getSaveFileName", file_asked)
    window.show_report()
    report = window.report
    assert report.ready is None
    report.save_pdf.click()
    assert window.ledger.message.text() == "The report is not made yet"
    qtbot.waitUntil(lambda: report.ready is not None, timeout=60000)
    report.title.setFocus()
    qtbot.keyClicks(report.title, "Gas of the north")
    report._enter()
    assert (asked, window.store.document.report.title) == ([], "Gas of the north")
    # The new title is not in the report that is there: nothing is saved until it is.
    report._enter()
    assert asked == []
    assert window.ledger.message.text() == "The report is not made yet"
    qtbot.waitUntil(lambda: report.ready.content.title == "Gas of the north", timeout=60000)
    qtbot.waitUntil(lambda: not window.jobs.busy("report"), timeout=60000)
    report._enter()
    assert asked == [1]
    qtbot.waitUntil((tmp_path / "r.pdf").exists, timeout=60000)
    assert (tmp_path / "r.pdf").read_bytes().startswith(b"%PDF")
    qtbot.waitUntil(lambda: not window.jobs.busy("report file"), timeout=60000)
