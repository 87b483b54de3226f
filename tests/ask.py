"""Short ways for tests to what the studies make of a document."""

from __future__ import annotations

import contextlib
import io
import json
import subprocess
import sys
from collections.abc import Iterable

from cryonome.characterization import CharacterizedSample, LabSample
from cryonome.cli import main
from cryonome.document import Autosave, Document, Sample, read_sample
from cryonome.fluids.building import FluidModel
from cryonome.remarks import Remark
from cryonome.results import Evaluator
from cryonome.telling import Units, sentence


def lab_of(sample: Sample) -> LabSample:
    """Return what a sample says, in SI."""
    lab = read_sample(sample).lab
    assert lab is not None
    return lab


def cuts_of(sample: Sample) -> CharacterizedSample:
    """Return a sample characterized."""
    return Evaluator().at(Document(samples=(sample,))).characterized(sample)


def fluid_of(document: Document, place: int = -1) -> FluidModel:
    """Return a fluid of a document ready to compute."""
    return Evaluator().at(document).fluid(document.fluids[place])


def told(remarks: Iterable[Remark]) -> list[str]:
    """Return remarks as sentences in metric units."""
    return [sentence(r, Units.of("metric")) for r in remarks]


def numbers(answer: object, path: str = "") -> dict[str, object]:
    """Return every leaf of an answer by its path, so that two answers can be compared with a tolerance."""
    if isinstance(answer, dict):
        return {k: v for key, part in answer.items() for k, v in numbers(part, f"{path}.{key}").items()}
    if isinstance(answer, (list, tuple)):
        return {k: v for i, part in enumerate(answer) for k, v in numbers(part, f"{path}[{i}]").items()}
    return {path: answer}


def dies(copy: Autosave) -> None:
    """Make a safety copy look as if its program had been killed."""
    data = json.loads(copy.file.read_text(encoding="utf-8"))
    copy.file.write_text(json.dumps({**data, "born": "0"}), encoding="utf-8")


def type_in_cell(grid, row: int, column: int, text: str) -> None:
    """Type into a cell with the keyboard."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication, QLineEdit

    index = grid.model().index(row, column)
    grid.setCurrentIndex(index)
    grid.edit(index)
    editor = grid.findChildren(QLineEdit)[-1]
    editor.selectAll()
    QTest.keyClicks(editor, text)
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()  # the editor hands its text over in the next turn


def answers(data: dict) -> dict[str, dict]:
    """Return the answers of a document given as plain data, by the names of its studies."""
    from cryonome.document import parse_document
    from cryonome.questions import solve

    return solve(parse_document(json.dumps(data)))["answers"]


def faults(data: dict) -> list:
    """Return what is wrong with a document given as plain data."""
    from cryonome.document import check_document, parse_document

    return check_document(parse_document(json.dumps(data)))


def command(*args: str, stdin: str = "") -> subprocess.CompletedProcess[str]:
    """Run the command line in this process, as it would be alone: its exit status and what it writes."""
    out, err = io.StringIO(), io.StringIO()
    before = sys.argv, sys.stdin
    sys.argv, sys.stdin = ["cryonome", *args], io.TextIOWrapper(io.BytesIO(stdin.encode()), encoding="utf-8")
    try:
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            main()
        status = 0
    except SystemExit as end:
        status = int(end.code or 0)
    finally:
        sys.argv, sys.stdin = before
    return subprocess.CompletedProcess(args, status, out.getvalue(), err.getvalue())


def fill(desk, path: tuple, text: str) -> None:
    """Type into a blank of a page's sentence."""
    field = desk.bar.fields[path]
    field.edit.setText(text)
    field.edit.editingFinished.emit()


def become(desk, path: tuple, words: str) -> None:
    """Let a blank of a page's sentence become what it offers."""
    field = desk.bar.fields[path]
    field.became.emit(field.blank, next(o.cells for o in field.blank.others if o.words == words))
