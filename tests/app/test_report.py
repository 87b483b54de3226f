"""The example computed without a window."""

from __future__ import annotations

import json

import pytest
from PySide6.QtGui import QImage

from cryonome.app.shell.report import write_report
from cryonome.document import DocumentError, parse_document


def test_the_report_holds_answers_pictures_and_failures(qapp, tmp_path):
    gas = {"name": "G", "parts": [{"component": "methane", "amount": 90}, {"component": "propane", "amount": 10}]}
    studies = [
        {"name": "cold flash", "kind": "flash", "fluid": "G", "temperature": "220 K", "pressure": "20 bar"},
        {"name": "no point", "kind": "saturation", "fluid": "G", "temperature": "400 K"},
        {"name": "map <x>", "kind": "envelope", "fluid": "G"},
    ]
    document = parse_document(
        json.dumps({"format": "cryonome/1", "title": "A & B", "fluids": [gas], "studies": studies})
    )
    page = write_report(document, tmp_path / "report")
    text = page.read_text()
    assert "A &amp; B" in text
    assert "There is no bubble or dew point at 126.85 °C" in text
    assert "map &lt;x&gt;" in text
    answers = json.loads((page.parent / "answers.json").read_text())["answers"]
    assert f"vapour {100 * answers['cold flash']['vapour_fraction']:.1f} mol%" in text
    pictures = list(page.parent.glob("*.png"))
    assert [p.name for p in pictures] == ["map-x.png"]  # a plot of its own for each question that has one
    image = QImage(str(pictures[0]))
    assert image.width() > 1000
    colours = {image.pixel(x, y) for x in range(0, image.width(), 7) for y in range(0, image.height(), 7)}
    assert len(colours) > 20  # something is drawn
    assert (page.parent / "map-x.svg").stat().st_size > 5000


def test_an_invalid_document_makes_no_report(qapp, tmp_path):
    document = parse_document('{"format": "cryonome/1", "fluids": [{"name": "F"}]}')
    with pytest.raises(DocumentError, match="empty"):
        write_report(document, tmp_path)
