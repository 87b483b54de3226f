"""The page *Table*: properties over one or two conditions as numbers, curves, contours, a surface, and a formula."""

from __future__ import annotations

from typing import cast

from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHeaderView,
    QLineEdit,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ....document.conditions import CONDITIONS
from ....document.faults import PathParts
from ....fluids.property_choice import Choice
from ....questions.kinds.table import TableAxis, TableStudy
from ....questions.tabulate import Fitted, PropertyTable
from ....telling.table_blocks import of_kind
from ....units import from_si
from ....wording.cells import answer_words
from ...shell.live import Live
from ...widgets.fields import link, page_button, section
from ...widgets.grid import GridView
from ...widgets.layer import LayerSquare
from ...widgets.letters import pixels
from ...widgets.plot import Plot
from ...widgets.plot import Table as PlotTable
from ...widgets.surface import Surface
from ..shared.desk import Action, DeskEntry, register
from ..shared.reference_page import ReferencePage
from ..shared.study_desk import StudyDesk, beside_column, row_of
from .formula import FormulaPage
from .models import ChoiceModel, ChosenModel, ValuesModel
from .results import LOOKED_AT, SHOWN_HERE, declared
from .views import data_of, draw_contours, draw_curves, surface_of

VIEWS = {
    "table": "Table",
    "curves": "Curves",
    "contours": "Contours",
    "surface": "Surface",
    "formula": "Formula",
    "choose": "Properties",
    "reference": "Compared",
}
"""The views of a table with their words."""


BOILING = (
    "pressure_Pa",
    "liquid.density_kg_m3",
    "vapour.density_kg_m3",
    "liquid.enthalpy_J_mol",
    "vapour.enthalpy_J_mol",
)
"""What the boiling line of a pure component is told with."""


class TableDesk(StudyDesk):
    """Axes and properties at the left, the values in one of their views at the right."""

    kinds = ("table",)
    files = "Workbook (*.xlsx);;CSV (*.csv);;Interpolation table (*.json)"
    shows = frozenset({"selection", "fluid", "table", "table first", "formula", "choices", "map", "answer"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.subtitle = section("", "mute")
        self.bar.offered = {"properties": self._property_words, "compact": self._property_words}
        self.chosen = ChosenModel()
        self.chosen_grid = GridView(self.chosen)
        self.chosen_grid.setAccessibleName("Properties of the table")
        self.chosen_grid.selectionModel().selectionChanged.connect(lambda *_: self._selected())
        self.choose_button = link(
            "choose",
            lambda: self.show_page("choose"),
            "Search all properties, each with its meaning and value",
        )
        self.remove_button = link("remove", self.remove_property, "Take the chosen property out of the table")
        self.formula_button = link(
            "formula", self.toggle_formula, "Fit a formula of the axes to the chosen property, or to none"
        )
        self.notes = section("", "mute")
        self.notes.setWordWrap(True)
        self.view = "table"
        self.key = ""
        self.views = {k: page_button(words, lambda _on, k=k: self.show_page(k)) for k, words in VIEWS.items()}
        self.heat_chip = LayerSquare("shaded", "accent", "area", self._shade, "Shade the cells by their value")
        self.heat_chip.setChecked(True)
        self.along = QComboBox()
        self.along.setAccessibleName("Axis of the curves")
        self.along.setMinimumWidth(136)
        self.along.activated.connect(lambda _i: self._show_view())
        self.wide_chip = LayerSquare(
            "whole map", "liquid", "line", lambda _on: self._show_view(), "Show the map around the table"
        )
        self.search = QLineEdit()
        self.search.setAccessibleName("Search properties")
        self.search.setPlaceholderText("search a name or meaning, for example heat or vapour")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(lambda _t: self._show_choices())
        self.values = ValuesModel()
        self.grid = GridView(self.values)
        self.grid.setAccessibleName("Values of the table")
        self.grid.horizontalHeader().setSectionsMovable(True)
        self.plot = Plot("Property table")
        self.plot.data = self._data
        self.surface = Surface("Surface of the property")
        self.formula = FormulaPage(self.take_part)
        self.choices = ChoiceModel(self.toggle_property)
        self.choice_grid = GridView(self.choices)
        self.choice_grid.setAccessibleName("Properties to choose")
        self.choice_grid.doubleClicked.connect(lambda index: self.choices.toggle(index.row()))
        self.choice_grid.clicked.connect(
            lambda index: self.choices.toggle(index.row()) if index.column() == 0 else None
        )
        self.search.returnPressed.connect(self._take_first)
        self.stack = QStackedWidget()
        self.reference = ReferencePage(self.edit_study)
        for part in (self.grid, self.plot, self.surface, self.formula, self.choice_grid, self.reference):
            self.stack.addWidget(part)
        self.grids = [self.grid, self.chosen_grid, self.choice_grid]
        self.plots = [self.plot]
        self.themed = [self.heat_chip, self.wide_chip, self.surface, self.formula, self.reference]
        self._arrange()

    def _arrange(self) -> None:
        self.side = QWidget()
        left = QVBoxLayout(self.side)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(6)
        left.addWidget(self.chosen_grid, 1)
        left.addLayout(row_of(self.choose_button, self.remove_button, self.formula_button))
        left.addWidget(self.notes)
        views = row_of(*self.views.values(), spacing=0)
        views.addWidget(self.search, 2)
        for choice in (self.along, self.heat_chip, self.wide_chip, self.subtitle):
            views.addWidget(choice)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addLayout(views)
        right.addWidget(self.stack, 1)
        self.lay_out(beside_column(self.side, right))

    # -- the question ------------------------------------------------------------------------------------------------

    def study(self) -> TableStudy | None:
        """Return the table shown."""
        found = super().study()
        return found if isinstance(found, TableStudy) else None

    def _property_words(self) -> dict[str, str]:
        return {c.key: answer_words(c.key) for c in self._live.results["choices"].value or []}

    def begin_table(self) -> None:
        """Show a draft of a table of the chosen fluid."""
        self.host().show_desk("table")
        self.ask_another()

    def begin_boiling(self) -> None:
        """Ask for the boiling line: of one component from its normal boiling point to its critical one."""
        fluid, model = self._live.current_fluid(), self._live.model()
        if fluid is None or model is None:
            return
        low, high = 200.0, 300.0
        if model.z.size == 1:
            component = model.components[0]
            low, high = min(component.nbp, 0.98 * component.Tc), component.Tc
        unit = self._live.units().unit("temperature")
        ends = [f"{from_si(v, unit, 'temperature'):.6g} {unit}" for v in (low, 0.9999 * high)]
        axis = TableAxis(variable="temperature", begin=ends[0], end=ends[1], steps=20)
        new = TableStudy(
            name=f"Boiling line of {fluid.name}",
            kind="table",
            fluid=fluid.name,
            axes=(axis,),
            vapour_fraction=0,
            properties=BOILING,
        )
        self.host().begin_asking(new)
        self.show_page("curves")

    def toggle_property(self, key: str) -> None:
        """Take a property into the table, or out of it."""
        study = self.study()
        if study is None:
            return
        now = study.properties
        kept = tuple(k for k in now if k != key) if key in now else (*now, key)
        cells: dict[PathParts, object] = {("properties",): kept}
        if study.compact and study.compact not in kept:
            cells[("compact",)] = ""
        self.edit_study(cells, "Choose properties")

    def _take_first(self) -> None:
        if self.choices.rows():
            self.choices.toggle(0)

    def remove_property(self) -> None:
        """Take the chosen property out of the table."""
        if self.key:
            self.toggle_property(self.key)

    def toggle_formula(self) -> None:
        """Ask for a formula of the chosen property, or for none."""
        study = self.study()
        if study is not None and self.key:
            wanted = "" if study.compact == self.key else self.key
            self.edit_study({("compact",): wanted}, "Fit a formula")
            self.show_page("formula" if wanted else "table")

    def take_part(self, part: tuple[tuple[float, float], ...]) -> None:
        """Let the table's axes run over a part of it."""
        study, table, units = self.study(), self._live.results["table"].value, self._live.units()
        if study is None or not isinstance(table, PropertyTable):
            return
        cells: dict[PathParts, object] = {}
        for place, (axis, (low, high)) in enumerate(zip(study.axes, part)):
            shown = of_kind("", table.axis_kinds[place], units.of_states())
            for key, value in (("begin", low), ("end", high)):
                cells[("axes", place, key)] = f"{shown.plain(value):.10g} {shown.unit}" if shown.unit else value
            cells[("axes", place, "values")] = None
            if axis.steps is None:
                cells |= {("axes", place, "step"): None, ("axes", place, "steps"): 20}
        self.edit_study(cells, "Tabulate a part")

    # -- showing -----------------------------------------------------------------------------------------------------

    def show_page(self, page: str) -> None:
        """Open a view."""
        self.view = page if page in VIEWS else self.view
        self.refresh()

    def table(self) -> PropertyTable | None:
        """Return the table as far as it is there: the first picture until all of it is."""
        whole, first = self._live.results["table"], self._live.results["table first"]
        if whole.value is not None and not whole.old:
            return cast("PropertyTable | None", whole.value)
        return cast("PropertyTable | None", first.value if first.value is not None and not first.old else whole.value)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._live.want(LOOKED_AT, "", *SHOWN_HERE)

    def refresh(self) -> None:
        """Show the table."""
        study, live = self.show_head(), self._live
        live.want(LOOKED_AT, study.name if study is not None else "", *SHOWN_HERE)
        self.stack.setVisible(study is not None)
        shown = live.results["table"]
        study = self.study()
        keys = list(study.properties) if study is not None else []
        self.chosen.show(keys)
        if self.key not in keys:
            self.key = keys[0] if keys else ""
        row = keys.index(self.key) if self.key else -1
        if row >= 0 and self.chosen_grid.currentIndex().row() != row:
            self.chosen_grid.selectRow(row)
        header = self.chosen_grid.horizontalHeader()
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self._name_formula()
        table = self.table()
        self.notes.setText("\n".join(table.notes[:4]) if table is not None else "")
        states = "" if table is None else f"{' × '.join(map(str, table.shape))} states"
        working = study is not None and shown.old and not shown.error
        self.subtitle.setText(f"{states}{' · refining …' if working else ''}" if study else "")
        self._show_view()

    def _selected(self) -> None:
        row = self.chosen_grid.currentIndex().row()
        if 0 <= row < len(self.chosen.keys) and self.chosen.keys[row] != self.key:
            self.key = self.chosen.keys[row]
            self._name_formula()
            self._show_view()

    def _name_formula(self) -> None:
        study = self.study()
        on = study is not None and bool(self.key) and study.compact == self.key
        self.formula_button.setText("no formula" if on else "formula")

    def _shade(self, on: bool) -> None:
        self.values.heated = on
        self.grid.viewport().update()

    def _show_view(self) -> None:
        study, table, units = self.study(), self.table(), self._live.units().of_states()
        two = study is not None and len(study.axes) > 1
        # Contours and surfaces are of two axes.
        view = self.view if two or self.view not in ("contours", "surface") else "curves"
        for key, chip in self.views.items():
            chip.setVisible(study is not None and (two or key not in ("contours", "surface")))
            chip.setChecked(key == view)
        self.search.setVisible(view == "choose" and study is not None)
        self.heat_chip.setVisible(view == "table" and study is not None)
        on_map = table is not None and set(table.variables) == {"temperature", "pressure"}
        self.wide_chip.setVisible(view == "contours" and on_map)
        # Meanings want the room.
        self.side.setVisible(study is not None and view != "choose")
        self.along.setVisible(view == "curves" and two)
        pages = {"table": self.grid, "curves": self.plot, "contours": self.plot, "surface": self.surface, "formula": self.formula,
                 "choose": self.choice_grid, "reference": self.reference}  # fmt: skip
        self.stack.setCurrentWidget(pages[view])
        if view == "choose":
            self._show_choices()
            return
        if view == "reference":
            self.reference.show_study(study, self.answer(), units)
            return
        if view == "formula":
            found = self._live.results["formula"]
            value = found.value if isinstance(found.value, Fitted) and not found.old else None
            self.formula.show_fitted(value, self._live.results["table"].value, units, found.error)
            return
        there = table if table is not None and self.key in table.values else None
        if view == "table":
            self.values.show(there, self.key, units)
            few = len(self.values.titles()) < 9
            header = self.grid.horizontalHeader()
            header.setDefaultSectionSize(pixels(66))
            header.setSectionResizeMode(header.ResizeMode.Stretch if few else header.ResizeMode.Fixed)
            header.setSectionResizeMode(0, header.ResizeMode.ResizeToContents)
            for column in range(1, 0 if few else header.count()):
                header.resizeSection(column, pixels(66))
        elif there is not None:
            self._draw(view, there)

    def _draw(self, view: str, table: PropertyTable) -> None:
        units = self._live.units().of_states()
        if view == "surface":
            self.surface.show_data(surface_of(table, self.key, table.values[self.key], units))
            return
        self.plot.set_faint(self._live.results["table"].old and self.table() is self._live.results["table"].value)
        for layer in ("curves", "contours"):
            if layer != view:
                self.plot.begin(layer)
                self.plot.end()
        if view == "contours":
            shown = self._live.map
            draw_contours(
                self.plot,
                self.theme,
                table,
                self.key,
                units,
                None if shown.old else self._live.envelope(),
                self.wide_chip.isChecked(),
            )
            return
        names = [CONDITIONS[v].title for v in table.variables]
        offered = [self.along.itemText(i) for i in range(self.along.count())]
        wanted = [f"over {n}" for n in names]
        if offered != wanted:
            self.along.clear()
            self.along.addItems(wanted)
        along = max(self.along.currentIndex(), 0) if len(names) > 1 else 0
        draw_curves(self.plot, self.theme, table, self.key, along, units)

    def _show_choices(self) -> None:
        study, found = self.study(), self._live.results["choices"].value or []
        chosen = frozenset(study.properties) if study is not None else frozenset()
        self.choices.show(self._possible(found), chosen, self.search.text(), self._live.units().of_states())
        header = self.choice_grid.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(5, QHeaderView.ResizeMode.Stretch)

    def _possible(self, found: list[Choice]) -> list[Choice]:
        """Return properties without those of an aqueous phase where there is no water."""
        model = self._live.model()
        dry = model is not None and model.water is None
        return [c for c in found if not (dry and c.of == "aqueous")]

    def _data(self) -> list[PlotTable]:
        table = self.table()
        return [] if table is None else data_of(table, self._live.units().of_states())

    @classmethod
    def actions_offered(cls) -> list[Action]:
        menu = "&Answers"
        return [
            Action(menu, "Tabulate properties", cls.begin_table, "Ctrl+Alt+T", True),
            Action(menu, "Tabulate the boiling line", cls.begin_boiling, "Ctrl+Alt+Shift+B"),
            Action(menu, "Export the table…", cls.export, "Ctrl+Alt+X"),
        ]


def _line(live: Live) -> str:
    count = sum(s.kind == "table" for s in live.kept())
    return f"{count} tables" if count != 1 else "1 table"


register(
    DeskEntry(
        declares=(declared,),
        key="table", title="Table", order=44, make=TableDesk, mark=lambda _live: "done", line=_line, card="answers",
        needs="fluid", kinds=("table",),
        help=(
            "Properties of the chosen fluid over one or two conditions, all states solved at once.",
            "An axis runs from one value to another in a number of steps or by their size, each shows the other; or over a list.",
            "Of two axes a table shows one property, chosen at the left; of one axis all of them.",
            "Choose properties: each with its meaning, unit and value in the middle of the table, so that none is taken for another.",
            "An empty cell says why: there is no such phase, or no such state.",
            "Curves, contours with the envelope over them, and a surface that turns with the mouse show the same numbers.",
            "Formula of it: a polynomial whose order is chosen by points left out, for a spreadsheet or for Python.",
            "Across a phase boundary a formula is refused; the largest part of the table that would do is offered.",
            "The table is a question of the project: it is kept, undone, and solved by the command line alike.",
            "Right-click the picture or the table for its data.",
        ),
    )
)  # fmt: skip
