"""A fault of the program: written down with the document, told once, and nothing lost."""

from __future__ import annotations

import sys

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from cryonome.app.shell.mishaps import Mishaps
from cryonome.document import parse_document
from window_demo import demo_document


def broken() -> None:
    raise IndexError("the list is shorter <b>than</b> that")


def test_what_no_slot_caught_is_written_down_with_its_document_and_told_once(qapp, tmp_path, monkeypatch):
    told: list[tuple[str, str]] = []
    mishaps = Mishaps(demo_document, lambda what, why: told.append((what, why)), tmp_path)
    monkeypatch.setattr(sys, "excepthook", mishaps.caught)
    for _ in range(3):
        with pytest.raises(IndexError) as error:
            broken()
        sys.excepthook(error.type, error.value, error.tb)
    assert len(told) == 1
    assert "your work is kept" in told[0][0]
    (report,) = tmp_path.glob("*.txt")
    assert str(report) in told[0][1]
    text = report.read_text(encoding="utf-8")
    assert "IndexError" in text
    assert parse_document(text[text.index('{\n "format"') :]) == demo_document()


def test_a_fault_while_telling_a_fault_ends_there(tmp_path):
    def tell(_what: str, _why: str) -> None:
        mishaps.caught(ValueError, ValueError("again"), None)
        raise RuntimeError("no window")

    mishaps = Mishaps(demo_document, tell, tmp_path / "a file" / "x")
    with pytest.raises(RuntimeError):
        mishaps.caught(ValueError, ValueError("once"), None)
    mishaps.caught(ValueError, ValueError("once"), None)  # told already


def test_reports_do_not_pile_up(tmp_path):
    for k in range(30):
        (tmp_path / f"{k:02d}.txt").write_text("old")
    mishaps = Mishaps(demo_document, lambda *_: None, tmp_path)
    mishaps.caught(ValueError, ValueError("new"), None)
    assert len(list(tmp_path.glob("*.txt"))) == 20


def test_slots_hand_over_what_they_do_not_catch(qapp, tmp_path, monkeypatch, qtbot):
    told: list[str] = []
    mishaps = Mishaps(demo_document, lambda what, _why: told.append(what), tmp_path)
    with qtbot.captureExceptions() as caught:
        QTimer.singleShot(0, broken)
        qtbot.wait(50)
    for kind, error, trace in caught:
        mishaps.caught(kind, error, trace)
    QApplication.processEvents()
    assert len(told) == 1
