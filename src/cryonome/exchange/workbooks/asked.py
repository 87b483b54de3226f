"""What a workbook asks by name: whole answers of questions of the document as tables, and its named values."""

from __future__ import annotations

from collections.abc import Sequence

from ...document.faults import did_you_mean
from ...errors import DomainError
from ...questions.solving import answer_of, named_values
from ...results.evaluator import Project
from ...telling.sentences import Units
from ...units import label
from ..cells import ExchangeError
from ..table_files import answer_sheets
from .ranges import NamedRange
from .writing import Cells


def answer_cells(ranges: Sequence[NamedRange], project: Project, units: Units) -> tuple[Cells, list[str]]:
    """Return the blocks of everything that ``answers`` ranges name, and what has no answer. Raises ExchangeError with
    the cell for a name that is none."""
    document = project.document
    values = named_values(project) if document.values else {}
    known = [*(s.name for s in document.studies if not s.draft), *values]
    cells: Cells = []
    missing: list[str] = []
    for given in ranges:
        for i, row in enumerate(given.rows):
            for j, name in enumerate(row):
                if not name:
                    continue
                if name not in known:
                    raise ExchangeError(
                        f"{given.place(i, j)}: the document has no question or named value '{name}'{did_you_mean(name, known)}"
                    )
                found = _value(name, values[name]) if name in values else _answer(name, project, units)
                cells += [*found, []]
                if len(found) > 1 and found[1] and found[1][0] == "no answer":
                    missing.append(f"{given.place(i, j)}: '{name}' has no answer: {found[1][1]}")
    return cells, missing


def _value(name: str, value: dict[str, object]) -> Cells:
    if not value["ok"]:
        return [[f"value: {name}"], ["no answer", str(value["error"])]]
    return [[f"value: {name}", float(value["value"]), label(str(value["unit"])) if value["unit"] else ""]]  # type: ignore[arg-type]


def _answer(name: str, project: Project, units: Units) -> Cells:
    study = project.document.study(name)
    assert study is not None
    answer = answer_of(study, project)
    if not answer["ok"]:
        return [[f"question: {name}"], ["no answer", str(answer["error"])]]
    try:
        sheets = answer_sheets(answer, units)
    except DomainError as error:
        return [[f"question: {name}"], ["no answer", str(error)]]
    cells: Cells = [[f"question: {name}"]]
    for title, rows in sheets.items():
        cells.append([title])
        cells += [["" if c is None else c for c in row] for row in rows]
    return cells
