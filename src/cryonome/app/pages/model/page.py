"""The desk *model*: the equation of state of a fluid, its parameters, and which equation suits it."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from ....document import Fluid
from ....document.read_model import REFERENCES
from ....document.reader import plain_cell
from ....eos.building import ALPHAS, ENTRIES, EQUATIONS, SAFT, shift_fits
from ....eos.interaction import RULE
from ....eos.volume_shift import SHIFTS
from ....fluids.adviser import Advice, advise, gather
from ....properties import AQUEOUS, CORRELATIONS, EQUATION, VISCOSITIES
from ....remarks import kelvin
from ....telling.sentences import sentence
from ....units import SETS
from ...shell.live import Live
from ...widgets.fields import ChoiceField, QuantityField, capital, section, tip
from ...widgets.grid import GridView
from ...widgets.letters import pixels
from ..shared.desk import Action, Desk, DeskEntry, register
from .pairs_model import PairsModel
from .tables import PairsMatrix, ParametersModel

NAMES = {name: entry.title for name, entry in ENTRIES.items()}
"""How equations are shown."""

ALPHA_WORDS = {"own": "the equation's own", "published": "fitted to vapour pressures"}
SHIFT_WORDS = {
    "density": "density at 60 °F",
    "peneloux": "Péneloux",
    "jhaveri-youngren": "Jhaveri–Youngren",
    "none": "none",
}
AQUEOUS_WORDS = {CORRELATIONS: "their correlations", EQUATION: "the equation of state"}
VISCOSITY_WORDS = {
    "fitted-states": "corresponding states, fitted",
    "corresponding-states": "corresponding states",
    "lbc": "Lohrenz–Bray–Clark",
}
VERDICTS = {"fits": "●", "with care": "◐", "unfit": "○"}
ROOM = 273.15 + 25.0


class ModelDesk(Desk):
    """The choices and the adviser on the left, parameters and pairs on the right."""

    shows = frozenset({"fluid", "selection"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.title = section("Model", "title")
        self.formula, self.source = QLabel(), section("", "mute")
        self.formula.setTextFormat(Qt.TextFormat.RichText)
        self.formula.setWordWrap(True)
        self.source.setWordWrap(True)
        form = QGridLayout()
        form.setHorizontalSpacing(12)
        form.setVerticalSpacing(6)
        form.setColumnStretch(3, 1)
        names = {key: NAMES.get(key, key) for key in EQUATIONS}
        self.equation = ChoiceField(form, 0, "Equation of state", names, self.choose_equation)
        self.alpha = ChoiceField(form, 1, "Alpha function", ALPHA_WORDS, lambda k: self._change("alpha", k))
        self.shift = ChoiceField(form, 2, "Volume shift", SHIFT_WORDS, lambda k: self._change("volume_shift", k))
        self.viscosity = ChoiceField(form, 3, "Viscosity by", VISCOSITY_WORDS, lambda k: self._change("viscosity", k))
        self.aqueous = ChoiceField(form, 4, "Aqueous liquids by", AQUEOUS_WORDS, lambda k: self._change("aqueous", k))
        self.reference = ChoiceField(
            form, 5, "Enthalpy is zero for", {r: r.capitalize() for r in REFERENCES}, self._choose_reference
        )
        self.datum = QuantityField(form, 6, "at", "temperature", lambda t: self._nested("reference", "temperature", t))
        kinds = {"library": "the library", "zero": "all zero"}
        self.kij = ChoiceField(form, 7, "Pairs from", kinds, lambda k: self._change("kij", k))
        self.scale = QuantityField(form, 8, "Methane's rule: scale", "", lambda t: self._rule("scale", t))
        self.exponent = QuantityField(form, 9, "and exponent", "", lambda t: self._rule("exponent", t))
        self.fault = section("", "fault")
        self.fault.setWordWrap(True)
        self.advice = QLabel()
        self.advice.setTextFormat(Qt.TextFormat.RichText)
        self.advice.setWordWrap(True)
        self.advice.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.advice.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        scroll = QScrollArea()
        scroll.setObjectName("bare")
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.advice)
        self.parameters_model, self.matrix_model, self.pairs_model = (
            ParametersModel(live),
            PairsMatrix(live),
            PairsModel(live),
        )
        self.parameters, self.matrix = GridView(self.parameters_model), GridView(self.matrix_model)
        self.pairs = GridView(self.pairs_model)
        self.parameters.setAccessibleName("Parameters of the components")
        self.matrix.setAccessibleName("Interaction parameters")
        self.pairs.setAccessibleName("Own interaction parameters")
        self.pairs.keep_lines(2)
        drop = QAction("Remove pairs", self)
        drop.triggered.connect(lambda: self.pairs_model.remove({i.row() for i in self.pairs.selectedIndexes()}))
        self.pairs.extra_actions = [drop]
        self.fold = QCheckBox("cuts together")
        self.fold.setToolTip("Show all cuts as one row and column")
        self.fold.clicked.connect(self._folded)
        self.grids = [self.parameters, self.matrix, self.pairs]
        left = QVBoxLayout()
        left.setSpacing(8)
        for part in (self.title, self.formula, self.source):
            left.addWidget(part)
        left.addLayout(form)
        left.addWidget(self.fault)
        left.addSpacing(4)
        left.addWidget(section("Which equation suits this fluid"))
        left.addWidget(scroll, 1)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(section("Parameters as the equation uses them"))
        right.addWidget(self.parameters, 3)
        above = QHBoxLayout()
        above.addWidget(section("Interaction parameters"))
        above.addStretch(1)
        above.addWidget(self.fold)
        right.addLayout(above)
        right.addWidget(self.matrix, 3)
        right.addWidget(section("Pairs of your own, in place of those", "mute"))
        right.addWidget(self.pairs)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(20, 10, 20, 12)
        layout.setSpacing(28)
        layout.addLayout(left, 5)
        layout.addLayout(right, 9)

    @classmethod
    def actions_offered(cls) -> list[Action]:
        return [Action("F&luid", "Choose the model", cls._open, "Ctrl+Alt+M", True)]

    def _open(self) -> None:
        self.host().show_desk("model")
        self.equation.combo.setFocus()

    # -- edits ---------------------------------------------------------------------------------------------------

    def _change(self, key: str, value: str) -> None:
        self._live.set_fluid(f"Choose the {key.replace('_', ' ')}", {("model", key): value})

    def choose_equation(self, name: str) -> None:
        """Take another equation; a volume shift that was not made for it gives way to the usual one."""
        fluid = self._live.current_fluid()
        values: dict[tuple[str | int, ...], object] = {("model", "eos"): name}
        if fluid is not None and name in EQUATIONS and not shift_fits(fluid.model.volume_shift, name):
            values["model", "volume_shift"] = "density"
        self._live.set_fluid("Choose the equation", values)

    def _choose_reference(self, state: str) -> None:
        self._nested("reference", "state", state)

    def _nested(self, key: str, inner: str, value: object) -> None:
        cell = value if value != "" else None
        self._live.set_fluid(f"Change the {key}", {("model", key, inner): cell})

    def _rule(self, key: str, text: str) -> None:
        self._live.set_fluid("Change methane's rule", {("model", "kij_rule", key): plain_cell(text)})

    def _folded(self, on: bool) -> None:
        self.matrix_model.folded = on
        self.refresh()

    # -- showing -------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the selected fluid's model."""
        fluid, shown, model = self._live.modelled_fluid(), self._live.fluid, self._live.model()
        self.setEnabled(fluid is not None)
        faults = [f for f in shown.faults if "model" in f.path]
        self.fault.setVisible(bool(faults))
        self.fault.setText(capital(faults[0].message) if faults else "")
        self.pairs_model.show(fluid, shown.faults)
        if fluid is None:
            return
        self._show_choices(fluid)
        # The model of a fluid that a question gives is chosen where it comes from.
        for choice in (self.equation, self.alpha, self.shift, self.viscosity, self.aqueous, self.reference, self.kij):
            choice.combo.setEnabled(fluid.made_by is None)
        T, unit = self._temperature()
        self.parameters_model.show_model(model, fluid.model.eos, fluid.model.alpha, T, unit)
        self.matrix_model.show(model)
        many = model is not None and sum(c.kind == "cut" for c in model.components) > 1
        self.fold.setVisible(many)
        self.fold.setChecked(any(" cuts" in self.matrix_model.text(r, 0) for r in range(self.matrix_model.rows())))
        self._widths()
        self.advice.setText(self._advice())

    def _show_choices(self, fluid: Fluid) -> None:
        chosen = fluid.model
        self.equation.show(chosen.eos)
        self.alpha.show(chosen.alpha)
        self.alpha.set_visible(chosen.eos in ENTRIES and ENTRIES[chosen.eos].alpha)
        fitting = {k: w for k, w in SHIFT_WORDS.items() if chosen.eos not in EQUATIONS or shift_fits(k, chosen.eos)}
        self.shift.fill(fitting)
        self.shift.show(chosen.volume_shift)
        self.viscosity.show(chosen.viscosity)
        self.aqueous.show(chosen.aqueous)
        model = self._live.model()
        self.aqueous.set_visible(model is not None and model.water is not None)
        self.reference.show(chosen.reference.state)
        saturated = chosen.reference.state == "saturated liquid"
        self.datum.set_visible(saturated)
        unit = SETS[self._live.document.display.units]["temperature"]
        self.datum.show(chosen.reference.temperature, unit, ROOM, "", "")
        self.kij.show(chosen.kij)
        library = chosen.kij == "library" and chosen.eos not in (SAFT, "ideal")
        for field in (self.scale, self.exponent):
            field.set_visible(library)
        self.scale.show(chosen.kij_rule.scale, "", RULE.scale, "usual", "")
        self.exponent.show(chosen.kij_rule.exponent, "", RULE.exponent, "usual", "")
        self.formula.setText(ENTRIES[chosen.eos].formula if chosen.eos in ENTRIES else "")
        self.source.setText(EQUATIONS.get(chosen.eos, ""))
        for choice, told in (
            (self.alpha, ALPHAS.get(chosen.alpha)),
            (self.shift, SHIFTS.get(chosen.volume_shift)),
            (self.viscosity, VISCOSITIES.get(chosen.viscosity)),
            (self.aqueous, AQUEOUS.get(chosen.aqueous)),
        ):
            choice.combo.setToolTip(tip(told or ""))

    def _temperature(self) -> tuple[float, str]:
        """Return the temperature alpha is shown at: the probe's where it stands somewhere."""
        probe = self._live.session.probe
        T = probe[0] if probe is not None else ROOM
        return T, f"at {self._live.units().text(kelvin(T, 0))}"

    def _widths(self) -> None:
        for grid, first in ((self.parameters, 168), (self.matrix, 150)):
            header = grid.horizontalHeader()
            for column in range(header.count()):
                header.setSectionResizeMode(column, header.ResizeMode.Fixed)
                wide = first if column == 0 else 86 if grid is self.parameters else 62
                header.resizeSection(column, pixels(wide))
            if grid is self.parameters and header.count() > 1:
                header.setSectionResizeMode(header.count() - 1, header.ResizeMode.Stretch)

    def _conditions(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Return the ranges in use: of the fluid's kept states and the probe, else the usual ones."""
        places = [(T, P) for _, T, P in self._live.kept_places()]
        if self._live.session.probe is not None:
            places.append(self._live.session.probe)
        if not places:
            return (273.15, 373.15), (1e5, 2e7)
        T, P = zip(*places)
        return (min(T), max(T)), (min(P), max(P))

    def _advice(self) -> str:
        model = self._live.model()
        if model is None:
            return ""
        T, P = self._conditions()
        return "".join(self._told(a) for a in advise(gather(model, T, P)))

    def _told(self, advice: Advice) -> str:
        units = self._live.units()
        reasons = " ".join(sentence(r, units) for r in advice.reasons)
        name = NAMES.get(advice.eos, advice.eos)
        return (
            f"<p style='margin:0 0 8px 0'><b>{VERDICTS[advice.verdict]} {escape(name)}</b>: {advice.verdict}<br>"
            f"<span style='color:{self.theme.mute}'>{escape(reasons)}</span></p>"
        )


def _line(live: Live) -> str:
    fluid = live.modelled_fluid()
    if fluid is None:
        return "no fluid yet"
    shifted = "" if fluid.model.volume_shift == "none" or fluid.model.eos == "ideal" else ", shifted"
    return f"{NAMES.get(fluid.model.eos, fluid.model.eos)}{shifted}"


def _mark(live: Live) -> str:
    if live.current_fluid() is None:
        return "open"
    return "look" if any("model" in f.path for f in live.fluid.faults) else "done"


register(
    DeskEntry(
        key="model",
        title="Model",
        order=35,
        make=ModelDesk,
        mark=_mark,
        line=_line,
        needs="fluid",
        claims=lambda path: "" if "model" in path or path[:1] in (("kij",), ("equation",), ("viscosity",)) else None,
        help=(
            "The model of a fluid: its equation of state with everything it needs, each fluid its own.",
            "The equation turns temperature, pressure and composition into phases; its formula and source stand above the choices.",
            "Alpha is how attraction falls with temperature: the equation's own, or fitted to published vapour pressures.",
            "A volume shift moves densities, never an equilibrium; the usual one meets each component's density at 60 °F.",
            "Interaction parameters come from a library with its sources, methane with heavier hydrocarbons by a rule.",
            "The matrix is painted by size: amber repels, teal attracts. Type a value for one of your own; empty it for the library's.",
            "A pair of your own may have a slope per kelvin: 0.04 1e-4 in the document.",
            "The adviser reads the fluid and the conditions of its kept states, and says what speaks for and against each equation.",
            "Acentric factors of cuts follow the equation, so that each cut boils at its own boiling point.",
            "Viscosities of liquids are brought to those measured of the samples in them.",
        ),
    )
)
