"""The project's files from the window: saved, saved elsewhere, opened broken, changed by another program, exported."""

from __future__ import annotations

import json
from pathlib import Path

import openpyxl
import pytest
from PySide6.QtWidgets import QFileDialog, QMessageBox

from ask import dies
from cryonome.app.shell.window import MainWindow
from cryonome.document import Autosave, document_text, load, parse_document, save

Buttons = QMessageBox.StandardButton
DOC = json.dumps(
    {
        "format": "cryonome/1",
        "title": "T",
        "fluids": [{"name": "G", "parts": [{"component": "propane", "amount": 1}]}],
        "samples": [],
    }
)


@pytest.fixture
def asked(monkeypatch):
    """What message boxes said, and what they answer: the first of ``answers``, else OK."""
    said: list[str] = []
    answers: list[Buttons] = []

    def run(box):
        said.append(f"{box.text()} {box.informativeText()}")
        return answers.pop(0) if answers else Buttons.Ok

    def question(_parent, title, text, *_args):
        said.append(text)
        return answers.pop(0) if answers else Buttons.Discard

    monkeypatch.setattr(QMessageBox, "exec", run)
    monkeypatch.setattr(QMessageBox, "question", question)
    return said, answers


@pytest.fixture
def files(qtbot, asked):
    made = MainWindow(parse_document(DOC))
    qtbot.addWidget(made)
    made.show()
    yield made
    made.close()


def choose(monkeypatch, kind, path):
    monkeypatch.setattr(QFileDialog, f"get{kind}FileName", lambda *_a: (str(path) if path else "", ""))


def retitle(window, title="other"):
    window.store.edit("Title", lambda d: d.model_copy(update={"title": title}))


def test_a_project_without_a_file_asks_for_one_and_gets_its_ending(files, monkeypatch, tmp_path):
    choose(monkeypatch, "Save", None)
    assert not files.save()
    retitle(files)
    choose(monkeypatch, "Save", tmp_path / "hub")
    assert files.save()
    assert files.store.path == tmp_path / "hub.cryo"
    assert load(tmp_path / "hub.cryo").title == "other"
    assert not files.store.dirty
    choose(monkeypatch, "Save", tmp_path / "copy.json")
    assert files.save_as()
    assert {p.name for p in tmp_path.glob("*.*")} >= {"hub.cryo", "copy.json"}


@pytest.mark.parametrize(
    ("answer", "stays", "saved"),
    [(Buttons.Save, True, True), (Buttons.Discard, True, False), (Buttons.Cancel, False, False)],
)
def test_unsaved_edits_are_asked_about_before_a_new_project(files, asked, tmp_path, answer, stays, saved):
    save(tmp_path / "a.cryo", parse_document(DOC))
    assert files.open_path(tmp_path / "a.cryo")
    retitle(files)
    asked[1].append(answer)
    files.new()
    assert (files.store.document.title == "") == stays
    assert (load(tmp_path / "a.cryo").title == "other") == saved
    assert any("Save the changes first" in text for text in asked[0])


def test_a_broken_or_missing_file_leaves_what_is_open(files, asked, monkeypatch, tmp_path):
    (tmp_path / "cut.cryo").write_text(DOC[: len(DOC) // 2])
    choose(monkeypatch, "Open", tmp_path / "cut.cryo")
    files.open_dialog()
    assert files.store.document.title == "T"
    assert "cut.cryo cannot be opened." in asked[0][-1]
    assert not files.open_path(tmp_path / "none.cryo")
    assert "none.cryo cannot be read." in asked[0][-1]
    assert files.store.path is None


def test_edits_of_a_broken_file_that_were_kept_aside_are_offered(files, asked, tmp_path):
    file = tmp_path / "d.cryo"
    save(file, parse_document(DOC))
    kept = Autosave(file)
    kept.store(parse_document(DOC.replace('"T"', '"kept aside"')))
    dies(kept)
    file.write_text("{")
    asked[1].extend([Buttons.Ok, Buttons.Cancel])
    assert not files.open_path(file)
    assert "Edits of d.cryo were kept aside." in asked[0][-1]
    asked[1].extend([Buttons.Ok, Buttons.Yes])
    assert files.open_path(file)
    assert files.store.document.title == "kept aside"
    assert files.store.dirty
    # What is recovered is saved over the broken file only when it is saved.
    assert file.read_text() == "{"


def test_a_file_changed_by_another_program_is_overwritten_only_when_told(files, asked, tmp_path):
    file = tmp_path / "d.cryo"
    save(file, parse_document(DOC))
    files.open_path(file)
    retitle(files, "mine")
    file.write_text(document_text(parse_document(DOC.replace('"T"', '"theirs"'))))
    asked[1].append(Buttons.No)
    assert not files.save()
    assert load(file).title == "theirs"
    assert files.ledger.message.text() == "Not saved; save it under another name"
    asked[1].append(Buttons.Yes)
    assert files.save()
    assert load(file).title == "mine"


def test_a_file_that_cannot_be_written_is_told_and_nothing_is_lost(files, asked, tmp_path):
    retitle(files)
    (tmp_path / "file").write_text("x")
    assert not files._save_to(tmp_path / "file" / "d.cryo")
    assert "The document was not saved." in asked[0][-1]
    assert files.store.dirty
    assert files.store.document.title == "other"


def test_there_is_nothing_to_export_from_a_project_without_samples(files):
    files.export_samples()
    assert files.ledger.message.text() == "There is no sample to export"


def test_samples_and_a_fluid_are_written_to_the_file_that_is_asked_for(window, asked, monkeypatch, tmp_path):
    choose(monkeypatch, "Save", tmp_path / "samples")
    window.export_samples()
    book = openpyxl.load_workbook(tmp_path / "samples.xlsx")
    assert len(book.sheetnames) >= len(window.store.document.samples)
    choose(monkeypatch, "Save", tmp_path / "fluid.csv")
    window.export_fluid()
    assert "Varnholt recombined" in window.ledger.message.text()
    assert "component" in Path(tmp_path / "fluid.csv").read_text(encoding="utf-8").casefold()
    (tmp_path / "file").write_text("x")
    choose(monkeypatch, "Save", tmp_path / "file" / "f.csv")
    window.export_fluid()
    assert "f.csv was not written." in asked[0][-1]
    window.export_path(tmp_path / "file" / "s.xlsx")
    assert "s.xlsx was not written." in asked[0][-1]
