"""The tables of the desk *model*: parameters as the equation uses them, and interaction parameters as a matrix."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QColor

from ....components import Component
from ....document.faults import PathParts
from ....document.reader import cell_text, plain_cell
from ....eos import CubicEos
from ....eos.alpha_library import entry_of
from ....eos.aqueous_library import WATER
from ....eos.building import BONDS, family_of
from ....eos.cpa import CpaEos
from ....eos.cpa_library import bonding
from ....eos.helmholtz import HelmholtzEos
from ....eos.saft_parameters import saft_sets
from ....fluids.building import FluidModel
from ....units import format_number
from ...shell.live import Live
from ...widgets.grid import GridModel
from ...widgets.text_rows import TextRows
from ...widgets.theme import Theme

STRONG = 0.15
"""Size of an interaction parameter that is painted in full colour."""

FOLDED_FROM = 14
"""Components from which cuts are folded together at first."""


ALPHA_FROM = "alpha from"
OMEGA_A, OMEGA_B, IN_WATER = "Ωa", "Ωb", "k in water"
"""Columns of the parameters that may be typed in."""


class ParametersModel(TextRows):
    """A row a component: what the equation makes of it at a temperature. Of a cubic the constants Ωa and Ωb, and the
    parameter with water in a phase of water, take a value of one's own; an emptied one is the equation's or the
    library's again."""

    def __init__(self, live: Live) -> None:
        super().__init__([("component", "")])
        self._live = live
        self._components: tuple[Component, ...] = ()
        self._typed: dict[tuple[int, str], object] = {}
        self._numbers: dict[tuple[int, str], float] = {}

    def show_model(self, model: FluidModel | None, eos: str, alpha: str, T: float, unit: str) -> None:
        """Show a fluid's parameters at T K, told in a temperature as text."""
        self._components, self._typed, self._numbers = (() if model is None else model.components), {}, {}
        if model is None:
            self.show([], titles=[("component", "")])
        elif isinstance(model.eos, CubicEos):
            self._show_cubic(model, model.eos, eos, alpha, T, unit)
        elif isinstance(model.eos, HelmholtzEos):
            fluid = model.eos.fluid
            row = [
                model.names[0],
                f"{fluid.Tc:.3f}",
                f"{fluid.rho_c:.2f}",
                str(fluid.n.size),
                str(len(fluid.bell)),
                f"{fluid.coldest:g} to {fluid.hottest:g}",
                f"{fluid.highest / 1e6:g}",
                fluid.source,
            ]
            titles = [
                ("component", ""), ("Tc", "K"), ("ρc", "mol/m³"), ("terms", ""), ("bells", ""), ("valid", "K"), ("up to", "MPa"), ("from", ""),
            ]  # fmt: skip
            self.show([row], titles=titles)
        else:
            sets = saft_sets(model.components)
            rows = [
                [c.name, f"{s.m:.4f}", f"{s.sigma:.4f}", f"{s.epsilon:.2f}", _number(1e6 * v), s.source or "boiling point and density"]
                for c, s, v in zip(model.components, sets, model.substance.shift)
            ]  # fmt: skip
            titles = [
                ("component", ""),
                ("m", "segments"),
                ("σ", "Å"),
                ("ε/k", "K"),
                ("shift", "cm³/mol"),
                ("from", ""),
            ]
            self.show(rows, titles=titles)

    def _show_cubic(self, model: FluidModel, cubic: CubicEos, eos: str, alpha: str, T: float, unit: str) -> None:
        root = cubic.alpha.root(T / cubic.Tc[None])[0][0]
        form = cubic.form
        bonds = cubic.bonds.alone(cubic.nc) if isinstance(cubic, CpaEos) and cubic.bonded else None
        in_water = None if cubic.aqueous is None else cubic.aqueous.value(T / cubic.Tc[None])[0][0]
        self._own()
        rows = []
        for i, c in enumerate(model.components):
            omegas = c.omegas or (form.omega_a, form.omega_b)
            a, b, r, s = cubic.a_critical[i], cubic.b[i], root[i], model.substance.shift[i]
            row = [
                c.name,
                _number(a),
                _number(1e6 * b),
                _number(r * r),
                _number(1e6 * s),
                _alpha_from(c, model, eos, alpha, T),
            ]
            row += [f"{omegas[0]:.5f}", f"{omegas[1]:.5f}"]
            if bonds is not None:
                count, energy, volume = (float(v[i]) for v in bonds)
                row += [f"{count:g} + {count:g}", _number(energy), _number(1e6 * volume)] if count else ["–", "–", "–"]
            self._numbers |= {(i, OMEGA_A): omegas[0], (i, OMEGA_B): omegas[1]}
            if in_water is not None:
                row.append("–" if np.isnan(in_water[i]) else _number(in_water[i]).replace("-", "−"))
                self._numbers[i, IN_WATER] = float(in_water[i])
            rows.append(row)
        titles = [
            ("component", ""),
            ("a at Tc", "Pa·m⁶/mol²"),
            ("b", "cm³/mol"),
            ("alpha", unit),
            ("shift", "cm³/mol"),
            (ALPHA_FROM, ""),
            (OMEGA_A, ""),
            (OMEGA_B, ""),
            *([("bonds", "give + take"), ("ε/R", "K"), ("bβ", "cm³/mol")] if bonds is not None else []),
        ]
        self.show(rows, titles=[*titles, *([(IN_WATER, unit)] if in_water is not None else [])])

    def _own(self) -> None:
        """Find what of the parameters is typed."""
        fluid = self._live.current_fluid()
        if fluid is None:
            return
        place = {c.name: i for i, c in enumerate(self._components)} | {
            c.identity: i for i, c in enumerate(self._components)
        }
        for name, (a, b) in fluid.model.omegas.items():
            if name in place:
                self._typed |= {(place[name], OMEGA_A): a, (place[name], OMEGA_B): b}
        for name, value, *_slope in fluid.model.aqueous_pairs:
            if name in place:
                self._typed[place[name], IN_WATER] = value

    def _what(self, column: int) -> str:
        titles = self.titles()
        what = titles[column][0] if column < len(titles) else ""
        return what if what in (OMEGA_A, OMEGA_B, IN_WATER) else ""

    def edit_text(self, row: int, column: int) -> str:
        what = self._what(column)
        typed = self._typed.get((row, what))
        number = self._numbers.get((row, what), np.nan)
        return cell_text(typed) if typed not in (None, "") else "" if np.isnan(number) else f"{number:.6g}"  # type: ignore[arg-type]

    def editable(self, row: int, column: int) -> bool:
        fluid = self._live.current_fluid()
        what = self._what(column)
        if fluid is None or fluid.made_by is not None or not what or row >= len(self._components):
            return False
        return what != IN_WATER or self._components[row].identity != WATER

    def bold(self, row: int, column: int) -> bool:
        return (row, self._what(column)) in self._typed

    def tip(self, row: int, column: int) -> str:
        what = self._what(column)
        if not what or not self.editable(row, column):
            return ""
        usual = "the library's" if what == IN_WATER else "the equation's"
        if what == IN_WATER and not self.bold(row, column):
            return "Parameter with water in a phase of water, apart from the one of all other phases; type a value of your own"
        return f"Your own; empty it for {usual}" if self.bold(row, column) else "Type a value of your own"

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        fluid = self._live.current_fluid()
        if fluid is None:
            return
        omegas: dict[str, tuple[object, object]] = dict(fluid.model.omegas)
        pairs = {str(name): (value, *rest) for name, value, *rest in fluid.model.aqueous_pairs}
        for (row, column), typed in sorted(cells.items()):
            what, cell = self._what(column), plain_cell(typed)
            if not what or row >= len(self._components):
                continue
            part = self._components[row]
            key = next(
                (k for k in (part.identity, part.name) if k in (omegas if what != IN_WATER else pairs)), part.identity
            )
            if what == IN_WATER:
                pairs.pop(key, None)
                if cell is not None:
                    pairs[key] = (cell,)
                continue
            a, b = omegas.get(key, (self._numbers.get((row, OMEGA_A)), self._numbers.get((row, OMEGA_B))))
            # Both are one's own or neither is.
            if cell is None:
                omegas.pop(key, None)
            else:
                omegas[key] = (cell, b) if what == OMEGA_A else (a, cell)
        changes: dict[PathParts, object] = {
            ("model", "omegas"): omegas,
            ("model", "aqueous_pairs"): tuple((k, *v) for k, v in pairs.items()),
        }
        self._live.set_fluid("Change parameters of components", changes)

    def left_aligned(self, column: int) -> bool:
        return column == 0 or self._worded(column)

    def muted(self, row: int, column: int) -> bool:
        return self._worded(column)

    def _worded(self, column: int) -> bool:
        titles = self.titles()
        return column < len(titles) and titles[column][0] in (ALPHA_FROM, "from")


def _alpha_from(component: Component, model: FluidModel, eos: str, alpha: str, T: float) -> str:
    """Return where the alpha function of a component is from, as its column says it."""
    if eos != BONDS and component.identity == WATER and model.pairs.salt is not None:
        return "Mathias–Copeman, with salt" if model.pairs.salt > 0.0 else "Mathias–Copeman"
    if eos == BONDS and bonding(component) is not None:
        return "published, with bonds"
    entry = entry_of(component, family_of(eos), alpha)
    if entry is not None:
        return {"Twu": "Twu", "MathiasCopeman": "Mathias–Copeman"}[entry.function]
    return "smooth" if alpha == "smooth" and component.Tc < T else "own"


def _number(value: float) -> str:
    return format_number(float(value), 4)


class PairsMatrix(GridModel):
    """Interaction parameters of every pair; a cell typed in becomes an own pair, an emptied one the library's again."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._groups: list[tuple[str, list[int]]] = []
        self._kij = np.zeros((0, 0))
        self._own: dict[tuple[str, str], int] = {}
        self._components: tuple[Component, ...] = ()
        self.folded: bool | None = None

    def show(self, model: FluidModel | None) -> None:
        """Show a fluid's pairs; its cuts as one where they are folded."""
        before = [g[0] for g in self._groups]
        fluid = self._live.current_fluid()
        if model is None or fluid is None:
            self._groups, self._components = [], ()
        else:
            self._kij, self._components = model.kij, model.components
            cuts = [i for i, c in enumerate(model.components) if c.kind == "cut"]
            fold = len(model.components) >= FOLDED_FROM if self.folded is None else self.folded
            fold = fold and len(cuts) > 1
            self._groups = [(c.name, [i]) for i, c in enumerate(model.components) if not (fold and c.kind == "cut")]
            if fold:
                self._groups.append((f"{len(cuts)} cuts", cuts))
            self._own = {}
            place = {c.identity: c.identity for c in model.components} | {c.name: c.identity for c in model.components}
            for k, (one, other, *_rest) in enumerate(fluid.model.kij_pairs):
                a, b = place.get(str(one)), place.get(str(other))
                if a and b:
                    self._own[min(a, b), max(a, b)] = k
        if before == [g[0] for g in self._groups]:
            self.rewrite()
        else:
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [("k_ij", "")] + [(_short(name), "") for name, _ in self._groups]

    def rows(self) -> int:
        return len(self._groups)

    def _range(self, row: int, column: int) -> tuple[float, float]:
        values = self._kij[np.ix_(self._groups[row][1], self._groups[column - 1][1])]
        return float(values.min()), float(values.max())

    def text(self, row: int, column: int) -> str:
        if column == 0:
            return self._groups[row][0]
        if row == column - 1 and len(self._groups[row][1]) == 1:
            return ""
        low, high = self._range(row, column)
        if max(abs(low), abs(high)) < 5e-4:
            return "0"
        told = f"{low:.3f}" if high - low < 5e-4 else f"{low:.2f}…{high:.2f}"
        return told.replace("-", "−")

    def edit_text(self, row: int, column: int) -> str:
        low, _ = self._range(row, column)
        return f"{low:.4f}"

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def _pair(self, row: int, column: int) -> tuple[str, str] | None:
        if not (row < len(self._groups) and 0 < column <= len(self._groups)):
            return None
        one, other = self._groups[row][1], self._groups[column - 1][1]
        if len(one) != 1 or len(other) != 1 or one == other:
            return None
        a, b = (self._components[i[0]].identity for i in (one, other))
        return (min(a, b), max(a, b))

    def editable(self, row: int, column: int) -> bool:
        return column > 0 and self._pair(row, column) is not None

    def bold(self, row: int, column: int) -> bool:
        return column > 0 and self._pair(row, column) in self._own

    def tip(self, row: int, column: int) -> str:
        if column == 0:
            return self._groups[row][0]
        own = "your own; empty it for the library's" if self.bold(row, column) else "type a value of your own"
        told = f"{self._groups[row][0]} with {self._groups[column - 1][0]}"
        return f"{told}: {own}" if self.editable(row, column) else told

    def ground(self, row: int, column: int, theme: Theme) -> QColor | None:
        if column == 0 or row == column - 1:
            return None
        low, high = self._range(row, column)
        value = high if abs(high) > abs(low) else low
        if abs(value) < 5e-4:
            return None
        colour = QColor(theme.vapour if value > 0 else theme.liquid)
        colour.setAlphaF(0.12 + 0.45 * min(abs(value) / STRONG, 1.0))
        return colour

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        fluid = self._live.current_fluid()
        if fluid is None:
            return
        pairs: list[list[object] | None] = [list(p) for p in fluid.model.kij_pairs]
        for (row, column), value in sorted(cells.items()):
            pair = self._pair(row, column) if column else None
            if pair is None:
                continue
            cell, place = plain_cell(value), self._own.get(pair)
            if place is not None and place < len(pairs):
                old = pairs[place]
                pairs[place] = None if cell is None or old is None else [*old[:2], cell, *old[3:]]
            elif cell is not None:
                pairs.append([*pair, cell])
        kept = tuple(tuple(p) for p in pairs if p is not None)
        self._live.set_fluid("Change interaction parameters", {("model", "kij_pairs"): kept})


def _short(name: str) -> str:
    """Return a component's name as a narrow header: its formula where it is pure and known by one."""
    known = {"nitrogen": "N2", "oxygen": "O2", "hydrogen": "H2", "carbon dioxide": "CO2", "carbon monoxide": "CO",
             "hydrogen sulfide": "H2S", "methane": "C1", "ethane": "C2", "propane": "C3", "isobutane": "iC4", "n-butane": "nC4",
             "isopentane": "iC5", "n-pentane": "nC5", "n-hexane": "nC6", "water": "H2O"}  # fmt: skip
    return known.get(name, name)
