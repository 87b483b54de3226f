"""A question in a report: its sentence, its answer as one, pictures, tables and notes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..document import Study
from ..language import Verbatim
from ..results.evaluator import Evaluator, Project
from ..telling.answers import tables
from ..telling.sentences import Units
from ..telling.table_blocks import Block
from ..wording.asked import said
from ..wording.spoken import spoken
from .figures import Told, figures_of
from .parts import Heading, Part, Picture, Points, Sentence, Table

MOST_ROWS = 40
"""Rows of a table from which on it is cut where whole tables are not asked for."""
SMALL, SMALL_COLUMNS = 3, 2
"""Rows and columns of tables of single values, which are gathered."""


def answer_parts(
    study: Study,
    answer: Mapping[str, Any],
    project: Project,
    units: Units,
    evaluator: Evaluator,
    pictures: bool = True,
    with_tables: bool = True,
    whole: bool = False,
) -> list[Part]:
    """Return what a report says of a question and its answer."""
    document = project.document
    out: list[Part] = [
        Heading(Verbatim(study.name), 2),
        Sentence(spoken(study, document, units.of_states()).text, "mute"),
    ]
    if not answer["ok"]:
        told = str(answer["error"])
        return [*out, Sentence(f"{told[:1].upper()}{told[1:]}", "fault")]
    out.append(Sentence(said(study, dict(answer), document, units.of_states(), evaluator), "strong"))
    if pictures:
        figures = figures_of(Told(study, answer, project, units))
        for i, figure in enumerate(figures):
            caption = figure.title or (study.name if len(figures) == 1 else f"{study.name}, {i + 1} of {len(figures)}")
            out.append(Picture(figure, f"{study.name}: {figure.title}" if figure.title else caption))
    if with_tables:
        out += [cut(b, whole) for b in joined([b for b in tables(dict(answer), units) if b.rows])]
    notes = tuple(str(n) for n in answer.get("notes", ()))
    if notes:
        out += [Heading("Notes", 3), Points(notes)]
    return out


def joined(blocks: list[Block]) -> list[Block]:
    """Return tables with those of two columns over the same first one joined, as curves over percents are."""
    out: list[Block] = []
    for block in blocks:
        last = next((b for b in out if _alike(b, block)), None)
        if last is None:
            out.append(block)
            continue
        titles = [b.title.rpartition(", points")[0].rpartition(", ")[2] for b in (last, block)]
        columns = [*last.columns, (titles[1], block.columns[1][1])]
        if len(last.columns) == 2:
            columns[1] = (titles[0], last.columns[1][1])
        rows = [[*row, other[1]] for row, other in zip(last.rows, block.rows)]
        out[out.index(last)] = Block(last.title, columns, rows)
    return out


def _alike(first: Block, second: Block) -> bool:
    firsts = [[row[0] for row in b.rows] for b in (first, second)]
    return (
        len(second.columns) == 2
        and first.columns[:1] == second.columns[:1] == [("percent", "")]
        and firsts[0] == firsts[1]
        and first.title.endswith(", points")
        and second.title.endswith(", points")
    )


def cut(block: Block, whole: bool) -> Table:
    """Return a table, without the rows that are too many."""
    if whole or len(block.rows) <= MOST_ROWS:
        return Table(block)
    rows = block.rows[: MOST_ROWS - 8]
    return Table(Block(block.title, block.columns, rows), len(block.rows) - len(rows))
