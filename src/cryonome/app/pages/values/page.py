"""The page *Values*: named values over the answers of the project, a row each, told live in their units."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QHeaderView, QVBoxLayout, QWidget

from ....document.edits import set_at
from ....document.model import NamedValue
from ....questions.named_values import ValueAnswer
from ....questions.value_reading import needed
from ....units import format_number
from ...shell.live import Live
from ...widgets.fields import section
from ...widgets.grid import GridModel, GridView
from ...widgets.letters import pixels
from ..shared.desk import Desk, DeskEntry, register
from ..shared.study_desk import heading_row, page_of

NAME, EXPRESSION, VALUE, UNIT = range(4)
FIELDS = {NAME: "name", EXPRESSION: "expression", UNIT: "unit"}


class ValuesModel(GridModel):
    """Name, expression, value and unit; the row below the last begins a new one, one that is emptied goes."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._found: dict[str, ValueAnswer] = {}

    def show(self) -> None:
        """Bring the rows in step with the answers."""
        count = self.rows()
        self._found = self._live.named_values()
        self._values = self._live.document.values
        if count == self.rows():
            self.rewrite()
        else:
            self.reload()

    _values: tuple[NamedValue, ...] = ()

    def titles(self) -> list[tuple[str, str]]:
        return [("name", ""), ("is", ""), ("now", ""), ("in", "")]

    def rows(self) -> int:
        return len(self._values) + 1

    def _row(self, row: int) -> NamedValue | None:
        return self._values[row] if row < len(self._values) else None

    def text(self, row: int, column: int) -> str:
        value = self._row(row)
        if value is None:
            return ""
        if column != VALUE:
            return str(getattr(value, FIELDS[column]))
        found = self._found.get(value.name)
        return format_number(found["value"], 5) if found is not None and found["ok"] else ""

    def edit_text(self, row: int, column: int) -> str:
        value = self._row(row)
        found = self._found.get(value.name) if value is not None else None
        if column == VALUE:
            return repr(found["value"]) if found is not None and found["ok"] else ""
        return self.text(row, column)

    def tip(self, row: int, column: int) -> str:
        value = self._row(row)
        if value is None:
            return "For example: if [tank].TVP_Pa < 1 atm then 0.915 * [tank].VPCR[0].pressure_Pa else [tank].TVP_Pa"
        return str(getattr(value, FIELDS[column])) if column == EXPRESSION else ""

    def fault(self, row: int, column: int) -> str:
        value = self._row(row)
        found = self._found.get(value.name) if value is not None else None
        return found["error"] if column == EXPRESSION and found is not None and not found["ok"] else ""

    def editable(self, row: int, column: int) -> bool:
        return column != VALUE

    def left_aligned(self, column: int) -> bool:
        return column != VALUE

    def answer_path(self, row: int, column: int) -> tuple[str, str] | None:
        value = self._row(row)
        asked = needed((f"[{value.name}]",), self._live.document) if value is not None and column == VALUE else ()
        return (asked[0], f"[{value.name}]") if value is not None and asked else None

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        values = [dict(v) for v in self._live.document.values]
        for (row, column), typed in sorted(cells.items()):
            if column not in FIELDS or (row >= len(values) and not typed.strip()):
                continue
            while row >= len(values):
                values.append({"name": "", "expression": "", "unit": ""})
            values[row][FIELDS[column]] = typed.strip().strip("[]") if column == NAME else typed.strip()
        kept = [v for v in values if v["name"] or v["expression"]]
        taken: set[str] = {s.name for s in self._live.document.studies}
        for value in kept:
            value["name"] = _free(value["name"] or "value", taken)
            taken.add(value["name"])
        made = tuple(NamedValue(**v) for v in kept)
        self._live.store.edit(text, lambda d: set_at(d, ("values",), made))


def _free(name: str, taken: set[str]) -> str:
    own, number = name, 2
    while own in taken:
        own, number = f"{name} {number}", number + 1
    return own


class ValuesDesk(Desk):
    """The page of named values."""

    shows = frozenset({"selection", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.model = ValuesModel(live)
        self.grid = GridView(self.model)
        self.grid.setAccessibleName("Named values")
        self.grids = [self.grid]
        title = section("Values", "title")
        words = section("", "mute")
        words.setWordWrap(True)
        words.setText(
            "Arithmetic over answers: [question].key with + - * / ^, min, max, abs, sqrt, exp, ln, log10, round; numbers with units; if … then … else …, and, or, not."
        )
        header = self.grid.horizontalHeader()
        for column, width in ((NAME, 230), (VALUE, 100), (UNIT, 90)):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Interactive)
            self.grid.setColumnWidth(column, pixels(width))
        rows = QVBoxLayout()
        rows.setSpacing(8)
        rows.addWidget(words)
        rows.addWidget(self.grid, 1)
        body = QHBoxLayout()
        body.addLayout(rows, 1)
        page_of(self, heading_row(title, section("over the answers of this project", "mute")), body)

    def refresh(self) -> None:
        self.model.show()


def _line(live: Live) -> str:
    count = len(live.document.values)
    return f"{count} named {'value' if count == 1 else 'values'}" if count else "none yet"


register(
    DeskEntry(
        key="values", title="Values", order=56, make=ValuesDesk, mark=lambda _live: "done", card="answers", apart=True, line=_line,
        claims=lambda path: "" if path[:1] == ("values",) else None,
        help=(
            "Values of your own, each an expression over answers of this project.",
            "[tank].TVP_Pa is the true vapour pressure of the question 'tank'; [tank].phases.liquid.density_kg_m3 a density of its liquid.",
            "Keys end with the unit they are in; the value is computed in SI and told in the unit you type under 'in'.",
            "Numbers may carry units: 1 atm, 20 degC, 9.81 m/s2. A sum of unlike quantities is refused.",
            "if A < B then X else Y takes only the branch that holds; conditions are joined by and, or, not.",
            "[another value] uses another named value; one that asks for itself is refused.",
            "Renaming a question or a value renames it in every expression.",
            "A sweep reads, and a goal makes equal, a named value as [name]: it is worked out anew with every value of the input.",
            "`cryonome solve` writes the values under 'values'; workbooks take them by name.",
            "A value without a unit is told in SI.",
        ),
    )
)  # fmt: skip
