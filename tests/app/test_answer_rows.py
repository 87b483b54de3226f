"""The table of an answer: a sentence has a row of its own, and every number is still known by its place."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import Qt

from cryonome.app.pages.shared.answer_model import SENTENCE, AnswerModel
from cryonome.demo import demo_document as whole
from cryonome.telling import Units
from cryonome.telling.table_blocks import Block

CELL = st.one_of(
    st.from_regex(r"[0-9]{1,4}", fullmatch=True), st.sampled_from(["", "bubble", "why " * 20, "because " * 9])
)


@st.composite
def blocks(draw):
    """Return tables with the path of each of their cells, as the cell's own text."""
    out = []
    for k in range(draw(st.integers(1, 3))):
        width = draw(st.integers(2, 4))
        rows = draw(st.lists(st.lists(CELL, min_size=width, max_size=width), min_size=1, max_size=6))
        heads = [(f"c{j}", "") for j in range(width)] if draw(st.booleans()) else [("", "")] * width
        # Of a table without heads the last cell is the unit, which has no place in the answer.
        known = width if heads[0][0] else width - 1
        paths = [
            [f"{k}.{i}.{j}" if t.isdigit() and j < known else "" for j, t in enumerate(row)]
            for i, row in enumerate(rows)
        ]
        out.append(Block(f"block {k}", heads, rows, paths))
    return out


@given(blocks())
def test_numbers_keep_their_paths_and_no_text_is_lost_where_sentences_unfold(found):
    model = AnswerModel()
    model.show(found, "q", Units.of("metric"))
    grid = [[model.text(r, c) for c in range(model.columnCount())] for r in range(model.rows())]
    told = sorted(t for row in grid for t in row if t)
    assert [t for t in told if len(t) > SENTENCE] == sorted(t for b in found for row in b.rows for t in row if len(t) > SENTENCE)  # fmt: skip
    for r, row in enumerate(grid):
        long = [c for c, t in enumerate(row) if len(t) > SENTENCE]
        assert (long == [0]) == (r in model.sentences)
        for c, text in enumerate(row):
            path = model.answer_path(r, c)
            if path is not None:
                k, i, j = map(int, path[1].split("."))
                assert found[k].rows[i][j] == text
    paths = {
        model.answer_path(r, c)[1] for r, row in enumerate(grid) for c in range(len(row)) if model.answer_path(r, c)
    }
    assert paths == {p for b in found for row in b.paths for p in row if p}


def test_a_check_is_read_whole_and_makes_no_column_wide(window):
    tests = [next(s for s in whole().studies if s.kind == kind) for kind in ("expansion", "viscosity")]
    study, other = tests
    window.store.edit("Add", lambda d: d.model_copy(update={"studies": (*d.studies, *tests)}))
    window.live.select_study(study.name)
    window.show_desk("tests")
    window.live.come_to_rest(60)
    desk = window.desks["tests"]
    grid, model = desk.answer_grid, desk.shown
    assert model.sentences
    header = grid.horizontalHeader()
    assert max(header.sectionSize(c) for c in range(1, header.count())) < grid.viewport().width() / 2
    for row in model.sentences:
        assert grid.columnSpan(row, 0) == model.columnCount()
        lines = grid.fontMetrics().boundingRect(0, 0, grid.viewport().width() - 12, 9999, int(Qt.TextFlag.TextWordWrap), model.text(row, 0))  # fmt: skip
        assert grid.rowHeight(row) >= lines.height()
        below = model.text(row - 1, 1)
        assert below in ("good", "doubtful", "bad")
    # The next answer has its own rows: nothing spans them.
    window.live.select_study(other.name)
    window.live.come_to_rest(60)
    assert all(grid.columnSpan(r, 0) == 1 for r in range(model.rows()) if r not in model.sentences)
