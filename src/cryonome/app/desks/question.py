"""The page *Question*: a kept question of any kind, what it asks and its answer in full."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from pydantic import BaseModel
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QHeaderView, QLabel, QVBoxLayout, QWidget

from ...document import Study
from ...document.edits import get_at, set_at, study_path
from ...document.faults import PathParts, format_path
from ...document.kinds import study_kinds
from ...document.model import Cell
from ...document.reader import cell_text, plain_cell
from ...document.references import asks_another
from ...errors import DomainError
from ...studies.answers import tables
from ...studies.asking import is_number
from ...studies.fluid_lumping import taken_over
from ...studies.table_blocks import Block
from ...studies.table_files import write_answer
from ..fields import capital, elided, section
from ..grid import GridModel, GridView
from ..live import Live
from .desk import Action, Desk, DeskEntry, register

FIXED = ("name", "kind", "reference")

ABOUT = ("fluid", "sample", "of")
WORDED = ("variable", "path", "of", "read", "compact", "scale", "rate_by", "water", "inhibitor", "name")
"""Keys whose cells are words, whatever they look like."""

YES, NO = "yes", "no"
ANSWERS = {YES: True, "true": True, "1": True, NO: False, "false": False, "0": False}
"""What a cell that is on or off may say."""


def _switches(study: Study, path: PathParts) -> bool:
    """Tell whether a cell is on or off."""
    field = type(study).model_fields.get(str(path[0]))
    return len(path) == 1 and field is not None and isinstance(field.default, bool)


def fill_width(grid: GridView) -> None:
    """Let the first column take the room that the others leave; a table that is wider than its grid scrolls."""
    header = grid.horizontalHeader()
    header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    if header.count() and header.length() < grid.viewport().width():
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)


def _offered(study: BaseModel, key: str) -> bool:
    """Tell whether a key of a study is answered by now, or was entered nonetheless, and fits on a line."""
    extra = type(study).model_fields[key].json_schema_extra
    if isinstance(extra, dict) and extra.get("table"):
        return False
    return not (isinstance(extra, dict) and extra.get("later")) or getattr(study, key) is not None


class AsksModel(GridModel):
    """What a question asks: a row a key of its kind, editable as text."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._study: Study | None = None
        self._faults: dict[str, str] = {}
        self._paths: dict[str, PathParts] = {}

    def show(self, study: Study | None, faults: dict[str, str], without: str = "") -> None:
        """Show a question, ``without`` a part that stands elsewhere."""
        self._study, self._faults = study, faults
        leaves = sorted(_leaves(study), key=_order) if study is not None else []
        self._paths = {k: p for k, p in leaves if not without or p[0] != without}
        self.reload()

    def keys(self) -> list[str]:
        """Return the keys that can be set."""
        return list(self._paths)

    def titles(self) -> list[tuple[str, str]]:
        return [("asks", ""), ("", "")]

    def rows(self) -> int:
        return len(self.keys())

    def text(self, row: int, column: int) -> str:
        key = self.keys()[row]
        if column == 0:
            return re.sub(r"\[(\d+)\]", lambda m: f" {int(m.group(1)) + 1}", key).replace(".", ", ").replace("_", " ")
        value = get_at(self._study, self._paths[key])
        if isinstance(value, tuple):
            told = [" + ".join(map(str, v)) if isinstance(v, tuple) else cell_text(v) for v in value]
            # Names may hold commas; groups of names stand apart by semicolons.
            apart = "; " if any("," in t for t in told) or any(isinstance(v, tuple) for v in value) else ", "
            return apart.join(told)
        if isinstance(value, Mapping):
            return ", ".join(f"{name} {cell_text(v)}" for name, v in value.items())
        if isinstance(value, bool):
            return YES if value else NO
        return cell_text(value)

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def muted(self, row: int, column: int) -> bool:
        return column == 0

    def editable(self, row: int, column: int) -> bool:
        return column == 1

    def choices(self, row: int, column: int) -> list[str]:
        document = self._live.document
        key = self.keys()[row]
        if key == "fluid":
            return [f.name for f in document.fluids]
        if key == "of":
            return [s.name for s in document.studies if not asks_another(s)]
        if self._study is not None and _switches(self._study, self._paths[key]):
            return [YES, NO]
        return [s.name for s in document.samples] if key == "sample" else []

    def fault(self, row: int, column: int) -> str:
        if column != 1:
            return ""
        key = self.keys()[row]
        # What is wrong with a part is told at its first cell.
        first = {
            k: m for k, m in self._faults.items() if key == next((n for n in self._paths if n.startswith(k)), None)
        }
        return self._faults.get(key) or next(iter(first.values()), "")

    def input_path(self, row: int, column: int) -> PathParts | None:
        study = self._study
        if study is None or column != 1 or row >= self.rows():
            return None
        path = self._paths[self.keys()[row]]
        if not is_number(get_at(study, path)):
            return None
        return (*study_path(self._live.document, study.name), *path)

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        study = self._study
        if study is None or self._live.document.study(study.name) is None:
            return
        for (row, column), value in cells.items():
            if column != 1 or row >= self.rows():
                continue
            key = self.keys()[row]
            stored: object = plain_cell(value)
            path = self._paths[key]
            if _switches(study, path):
                # What says neither stays as it was typed, and is a fault.
                stored = ANSWERS.get(value.strip().casefold(), value)
            elif isinstance(get_at(study, path), Mapping):
                stored = named_cells(value)
            elif isinstance(get_at(study, path), tuple):
                stored = _listed(value, path[-1] == "groups", [s.name for s in self._live.document.studies])
            elif key in ("fluid", "sample") or (isinstance(get_at(study, path), str) and path[-1] in WORDED):
                stored = value.strip()
            edit = lambda d, p=path, v=stored: set_at(d, (*study_path(d, study.name), *p), v)  # noqa: E731
            self._live.store.edit(f"Change {study.name}", edit)


def _listed(text: str, groups: bool, names: list[str]) -> tuple[object, ...]:
    """Return a line as a list of cells, of names with commas where semicolons part them, or of groups of names."""
    if groups:
        return tuple(
            tuple(n.strip() for n in group.split(" + ") if n.strip()) for group in text.split(";") if group.strip()
        )
    if text.strip() in names:
        return (text.strip(),)
    return tuple(plain_cell(v) for v in text.split(";" if ";" in text else ",") if v.strip())


def named_cells(text: str) -> dict[str, Cell]:
    """Return cells by name from a line as ``methanol 20 wt%, NaCl 5 wt%``; what has no number keeps an empty cell, which says so."""
    out: dict[str, Cell] = {}
    for item in re.split(r"[;,\n]", text):
        found = re.match(r"\s*(.*?\S)\s*[:=]?\s+([\d.][^\n]*)$", item)
        if found:
            out[found.group(1).strip()] = plain_cell(found.group(2))
        elif item.strip():
            out[item.strip()] = None
    return out


def _leaves(part: BaseModel, own: PathParts = (), told: str = "") -> Iterator[tuple[str, PathParts]]:
    """Return the cells of a question, each by its name as the document writes it and its path."""
    for name, field in type(part).model_fields.items():
        value = getattr(part, name)
        key = f"{told}.{field.alias or name}" if told else field.alias or name
        if not own and (name in FIXED or not _offered(part, name)):
            continue
        if isinstance(value, BaseModel):
            yield from _leaves(value, (*own, name), key)
        elif isinstance(value, tuple) and value and all(isinstance(v, BaseModel) for v in value):
            for i, item in enumerate(value):
                yield from _leaves(item, (*own, name, i), f"{key}[{i}]")
        elif not own or value is not None:
            yield key, (*own, name)


def _order(leaf: tuple[str, PathParts]) -> tuple[int, str, bool]:
    """Return where a cell stands: what the question is about first, then its parts, each by what names it, then the rest."""
    key, path = leaf
    if path[0] in ABOUT:
        return 0, "", False
    if len(path) > 1:
        return 1, key.rpartition(".")[0], path[-1] not in ("variable", "path")
    return 2, "", False


class AnswerModel(GridModel):
    """An answer as its tables, one below the other in one grid, in the reader's units."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: list[list[str]] = []
        self._heads: frozenset[int] = frozenset()
        self._named: frozenset[int] = frozenset()
        self._width = 2
        self._study = ""
        self._paths: dict[tuple[int, int], str] = {}

    def show(self, blocks: list[Block], study: str = "") -> None:
        """Show the tables of a question's answer."""
        self._study = study
        self._paths = {}
        rows: list[list[str]] = []
        heads: set[int] = set()
        named: set[int] = set()
        width = max((len(b.columns) for b in blocks), default=2)
        for block in blocks:
            if block.title:
                heads.add(len(rows))
                rows.append([block.title[0].upper() + block.title[1:]])
            if any(name for name, _ in block.columns):
                heads.add(len(rows))
                rows.append([f"{name}, {unit}" if unit else name for name, unit in block.columns])
                named.update(range(len(rows), len(rows) + len(block.rows)))
                self._remember(block, len(rows))
                rows += block.rows
            else:
                self._remember(block, len(rows))
                # Units stand in the last column of all.
                rows += [[*row[:-1], *[""] * (width - len(row)), row[-1]] for row in block.rows]
        same = len(rows) == len(self._rows) and width == self._width
        self._rows, self._heads, self._named, self._width = rows, frozenset(heads), frozenset(named), width
        if same:
            self.rewrite()
        else:
            self.reload()

    def _remember(self, block: Block, first: int) -> None:
        for i, paths in enumerate(block.paths):
            self._paths |= {(first + i, j): path for j, path in enumerate(paths) if path}

    def answer_path(self, row: int, column: int) -> tuple[str, str] | None:
        path = self._paths.get((row, column))
        return None if path is None or not self._study else (self._study, path)

    def titles(self) -> list[tuple[str, str]]:
        return [("answer", ""), *[("", "")] * (self._width - 1)]

    def rows(self) -> int:
        return len(self._rows)

    def text(self, row: int, column: int) -> str:
        cells = self._rows[row]
        return cells[column] if column < len(cells) else ""

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def bold(self, row: int, column: int) -> bool:
        return row in self._heads

    def muted(self, row: int, column: int) -> bool:
        units = row not in self._heads and row not in self._named
        return units and column > 0 and column == len(self._rows[row]) - 1 > 1


class QuestionDesk(Desk):
    """A question and its answer side by side."""

    shows = frozenset({"selection", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.title, self.subtitle = section("", "title"), section("", "mute")
        self.told = QLabel("")
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        self.told.setWordWrap(True)
        self.notes = QLabel("")
        self.notes.setTextFormat(Qt.TextFormat.PlainText)
        self.notes.setObjectName("mute")
        self.notes.setWordWrap(True)
        self.asks, self.answer = AsksModel(live), AnswerModel()
        self.asks_grid, self.answer_grid = GridView(self.asks), GridView(self.answer)
        self.asks_grid.setAccessibleName("What the question asks")
        self.answer_grid.setAccessibleName("The answer")
        self.grids = [self.answer_grid, self.asks_grid]
        heading = QHBoxLayout()
        heading.addWidget(self.title)
        heading.addSpacing(4)
        heading.addWidget(self.subtitle, 0, Qt.AlignmentFlag.AlignBottom)
        heading.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self.asks_grid, 1)
        left.addWidget(self.told)
        left.addWidget(self.notes, 1, Qt.AlignmentFlag.AlignTop)
        body = QHBoxLayout()
        body.setSpacing(24)
        body.addLayout(left, 2)
        body.addWidget(self.answer_grid, 3)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(10)
        layout.addLayout(heading)
        layout.addLayout(body, 1)

    def refresh(self) -> None:
        """Show the chosen question."""
        study = self._live.current_study()
        self.title.setText(elided(study.name) if study else "No question chosen")
        kind = study_kinds()[study.kind] if study else None
        hint = "keep one with P on the map, or with + beside Questions"
        self.subtitle.setText(kind.meaning if kind else hint)
        shown = self._live.answer(study.name) if study else None
        faults = {format_path(f.path[2:]): f.message for f in shown.faults if len(f.path) > 2} if shown else {}
        self.asks.show(study, faults)
        answer = shown.value if shown else None
        elsewhere = study is None or asks_another(study)
        told = tables(answer, self._live.units()) if answer and answer["ok"] else []
        self.answer.show(told, "" if elsewhere or study is None else study.name)
        if study is None or shown is None:
            text = ""
        elif shown.error:
            text = capital(shown.error)
        elif shown.old or answer is None:
            text = "Working …"
        elif not answer["ok"]:
            text = capital(answer["error"])
        else:
            text = kind.line(answer, self._live.units()) if kind else ""
        self.told.setText(text)
        self.notes.setText("\n".join(answer["notes"]) if answer else "")
        self.asks_grid.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        fill_width(self.answer_grid)

    def _answer(self) -> tuple[Study, dict[str, Any]] | None:
        study = self._live.current_study()
        value = None if study is None else self._live.answer(study.name).value
        return (study, value) if study is not None and value and value.get("ok") else None

    def _tell(self, text: str) -> None:
        self.told.setText(text)
        self.told.setVisible(True)

    def export(self) -> None:
        """Choose a file and write the rows of the answer to it, as CSV or as a workbook by its ending."""
        found = self._answer()
        if found is None:
            self._tell("There is no answer yet that could be written.")
            return
        chosen, _ = QFileDialog.getSaveFileName(self, "Save as a table", f"{found[0].name}.xlsx", "*.xlsx *.csv")
        if not chosen:
            return
        path = Path(chosen)
        path = path if path.suffix else path.with_suffix(".xlsx")
        try:
            write_answer(path, found[1], self._live.units())
            self._tell(f"Saved {path.name}")
        except (DomainError, OSError) as error:
            self._tell(f"{path.name} could not be saved: {error}")

    def take_over(self) -> None:
        """Take the fluid of a lumping into the project, with its tests and a match of its own."""
        found = self._answer()
        if found is None or found[0].kind != "lumping":
            self._tell("Choose a question of the kind Fewer components first.")
            return
        self._live.store.edit("Take over the lumped fluid", lambda d: taken_over(d, found[1]))
        self._live.select_fluid(self._live.document.fluids[-1].name)
        self.host().show_desk("match")

    def actions_offered(self) -> list[Action]:
        return [
            Action("&Answers", "Save the rows of the answer as a table…", self.export, "Ctrl+Alt+Shift+W", True),
            Action("&Answers", "Take over the lumped fluid", self.take_over, "Ctrl+Alt+U"),
        ]


register(
    DeskEntry(
        key="question", title="Question", order=41, make=QuestionDesk, card="answers",
        mark=lambda live: "done" if live.current_study() is not None else "open",
        line=lambda live: live.session.study_name or "none chosen",
        claims=lambda path: "" if path[:1] == ("studies",) else None,
        help=(
            "A question is what you ask of a fluid or a sample; it is kept with the project and answered live.",
            "Keep a state from the map with P, the map itself with M, or choose + beside Questions on the shelf.",
            "What it asks stands at the left: type other values, with units; a faulty one says why.",
            "Its answer stands at the right in full, in your units; what you select copies into a sheet.",
            "`cryonome solve` on the saved document answers the same questions with the same numbers, in SI.",
            "The one-line answer on the shelf is in your units and follows every edit.",
            "Rename (F2) and remove a question with the shelf's menu; undo brings it back.",
            "A question whose fluid is removed goes with it; undo brings both back.",
            "Notes tell what was assumed, estimated or found metastable on the way.",
            "An answer that does not exist says so, and why.",
        ),
    )
)  # fmt: skip
