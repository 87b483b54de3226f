"""The example computed without a window."""

from __future__ import annotations

import json

import pytest
from PySide6.QtGui import QImage

from cryonome.app.report import write_report
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
    assert "no bubble or dew point at 400.00 K" in text
    assert "map &lt;x&gt;" in text
    answers = json.loads((page.parent / "answers.json").read_text())["answers"]
    assert f"{100 * answers['cold flash']['vapour_fraction']:.2f} mol%" in text
    for picture in page.parent.glob("*.png"):
        image = QImage(str(picture))
        assert (image.width(), image.height()) == (1280, 800)
        assert picture.name in text
    assert len(list(page.parent.glob("*.png"))) == 8
    assert (page.parent / "phase-map.csv").read_text().startswith("dew: °C")


def test_an_invalid_document_makes_no_report(qapp, tmp_path):
    document = parse_document('{"format": "cryonome/1", "fluids": [{"name": "F"}]}')
    with pytest.raises(DocumentError, match="empty"):
        write_report(document, tmp_path)
