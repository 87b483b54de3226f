"""Volume shifts: what an equation's molar volume is too large by, component by component.

V = V_equation - sum x_i c_i. A constant shift leaves every equilibrium where it is (Peneloux, Rauzy and Freze, Fluid
Phase Equilib. 8, 7, 1982): it takes c_i P/(R T) from every ln phi of a component in every phase alike. So the solvers
never see it; volumes, and the enthalpy that follows from them, take it in where properties are computed.

The shifts of petroleum cuts also have a slope in temperature, so that hot oils are as light as their own 60 degF
density says by ASTM D1250. With a shift c(T) the Gibbs energy loses c P and so the entropy gains P dc/dT and the
enthalpy loses (c - T dc/dT) P, of every phase alike: equilibria stay where they are still."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..components.oil_density import expanded_density
from ..constants import ATM, T_60F, R
from ..errors import DomainError
from .equation import Equation

Array = NDArray[np.float64]

SHIFTS: dict[str, str] = {
    "none": "the equation's own volumes",
    "peneloux": "Péneloux, Rauzy and Fréze, Fluid Phase Equilib. 8, 7 (1982); for Peng–Robinson as in Ahmed (2007)",
    "jhaveri-youngren": "Jhaveri and Youngren, SPE Reserv. Eng. 3, 1033 (1988)",
    "density": "each component meets its liquid density at 60 °F, light ones at 0.7 of their critical temperature",
}
"""Every shift offered, with its source."""

FAMILIES = {"peneloux": ("PR", "RK"), "jhaveri-youngren": ("PR",)}
"""The families of equations a shift was made for; any for the others."""

PENELOUX = {"RK": (0.40768, 0.29441), "PR": (0.50033, 0.25969)}
"""Factor and Rackett parameter of c = factor (R Tc/Pc) (parameter - Z_RA), by family."""

_RATIOS = {
    "methane": -0.1540, "ethane": -0.1002, "propane": -0.08501, "isobutane": -0.07935, "n-butane": -0.06413, "isopentane": -0.04350,
    "n-pentane": -0.04183, "n-hexane": -0.01478, "nitrogen": -0.1927, "carbon dioxide": -0.0817, "hydrogen sulfide": -0.1288,
}  # fmt: skip
"""c/b for the Peng-Robinson equation: Jhaveri and Youngren, table 3; inorganic gases Whitson and Brule (2000), table
4.3."""

_SERIES = {"aromatic": (2.516, 0.2008), "naphthene": (3.004, 0.2324)}
_PARAFFINS = (2.258, 0.1823)
"""c/b = 1 - d/M^e with M in g/mol; Jhaveri and Youngren, eq. 12 and table 4."""

ROUNDS = 60

WARM, COLD = 0.9, 0.7
"""Parts of the critical temperature below which 60 degF must lie, and at which a liquid is looked at instead."""


REACH = 300.0
"""K from 60 degF over which a sloping shift bends to a constant: beyond what was measured it does not run away."""
HOT = 423.15
"""K. 150 degC: up to here D1250 holds."""
HOTTEST, NARROW = 0.75, 40.0
"""Part of a cut's critical temperature up to which it is held to D1250, and K above 60 degF below which that tells no
slope."""


@dataclass(frozen=True)
class Shifts:
    """Volume shifts of a mixture: ``constant`` (nc,) m3/mol at 60 degF and ``slope`` (nc,) m3/(mol K) there."""

    constant: Array
    slope: Array

    @classmethod
    def fixed(cls, constant: Array) -> Shifts:
        """Return shifts that are the same at all temperatures."""
        return cls(constant, np.zeros_like(constant))

    def at(self, T: Array) -> Array:
        """Return the shifts (..., nc) at T (...) K."""
        return np.asarray(self.constant + self.slope * warming(T)[0][..., None])

    def by_T(self, T: Array) -> Array:
        """Return the slopes (..., nc) at T (...) K, m3/(mol K)."""
        return np.asarray(self.slope * warming(T)[1][..., None])

    def by_TT(self, T: Array) -> Array:
        """Return the second derivatives (..., nc) at T (...) K, m3/(mol K2)."""
        return np.asarray(self.slope * warming(T)[2][..., None])


def warming(T: Array) -> tuple[Array, Array, Array]:
    """Return what a slope is multiplied by at T (...) K, K, and its two derivatives: T - 60 degF near there, bending
    over :data:`REACH`."""
    bend = np.tanh((np.asarray(T, float) - T_60F) / REACH)
    left = 1.0 - bend**2
    return REACH * bend, left, -2.0 * bend * left / REACH


def shift_slopes(kind: str, components: Sequence[Component], eos: Equation, shift: Array) -> Array:
    """Return the slopes (nc,) m3/(mol K) of the ``shift`` (nc,) of a ``kind``: of cuts held to their density, zero of
    all others.

    A cut has at 150 degC, or at 0.75 of its critical temperature where that is colder, the density that ASTM D1250
    gives it from its own at 60 degF."""
    out = np.zeros(len(components))
    rows = np.array(
        [i for i, c in enumerate(components) if c.kind == "cut" and min(HOT, HOTTEST * c.Tc) > T_60F + NARROW],
        dtype=np.intp,
    )
    if kind != "density" or rows.size == 0:
        return out
    own = [components[i] for i in rows]
    T = np.minimum(HOT, [HOTTEST * c.Tc for c in own])
    pure = eos.pure().take(rows)
    P = vapour_pressures(pure, T, np.array([c.Pc for c in own]))
    state, x = pure.prepare(T, P), np.ones((rows.size, 1))
    Z = state.ln_phi(x, "liquid")[1]
    wanted = np.array([c.molar_mass for c in own]) / expanded_density(np.array([c.specific_gravity for c in own]), T)
    liquid = state.cold(x) & (state.packing(x, Z) > 1.0)
    out[rows] = np.where(liquid, (Z * R * T / P - wanted - shift[rows]) / warming(T)[0], 0.0)
    return out


def shifts(kind: str, components: Sequence[Component], eos: Equation, family: str) -> Array:
    """Return the shifts c (nc,), m3/mol, of a ``kind`` of :data:`SHIFTS` for an equation of a ``family``.

    Raises DomainError where the kind was not made for the family.
    """
    if kind == "density":
        return density_shift(components, eos)
    if kind == "none":
        return np.zeros(len(components))
    if family not in FAMILIES[kind]:
        raise DomainError(f"the volume shift '{kind}' was not made for this equation; use density or none")
    peneloux = _peneloux(components, PENELOUX[family])
    if kind == "peneloux":
        return peneloux
    ratio = np.array([_ratio(c) for c in components])
    least = eos.least_volume(np.eye(len(components)))
    return np.where(np.isnan(ratio), peneloux, ratio * least)


def _peneloux(components: Sequence[Component], constants: tuple[float, float]) -> Array:
    factor, zero = constants
    return np.array([factor * R * c.Tc / c.Pc * (zero - c.rackett) for c in components])


def _ratio(component: Component) -> float:
    """Return c/b, nan for what the paper has no word on."""
    if component.name in _RATIOS and component.kind == "pure":
        return _RATIOS[component.name]
    if component.family not in ("", "n-alkane", "isoalkane", *_SERIES):
        return float("nan")
    d, e = _SERIES.get(component.family, _PARAFFINS)
    return float(1.0 - d / (1e3 * component.molar_mass) ** e)


def density_shift(components: Sequence[Component], eos: Equation) -> Array:
    """Return the shifts (nc,) m3/mol with which every component has its liquid density at 60 degF, at 1 atm or, where
    that is higher, at its vapour pressure. What is there within a tenth of its critical temperature or above it
    (ethane, carbon dioxide, methane) meets the modified Rackett equation (:meth:`Component.saturated_liquid_density`)
    at 0.7 Tc instead: a cubic's volume so near the critical point is off by a fifth, and a shift made there spoils
    all others. Zero where the equation has no liquid."""
    T, molar = reference_liquid(components)
    pure = eos.pure()
    P = vapour_pressures(pure, T, np.array([c.Pc for c in components]))
    state = pure.prepare(T, P)
    x = np.ones((T.size, 1))
    Z = state.ln_phi(x, "liquid")[1]
    liquid = state.cold(x) & (state.packing(x, Z) > 1.0)
    return np.where(liquid, Z * R * T / P - molar, 0.0)


def reference_liquid(components: Sequence[Component]) -> tuple[Array, Array]:
    """Return temperatures K and saturated molar volumes m3/mol (nc,) that liquids are to have: at 60 degF, or at 0.7
    Tc."""
    warm = np.array([WARM * c.Tc > T_60F for c in components])
    T = np.where(warm, T_60F, [COLD * c.Tc for c in components])
    molar = [
        c.standard_liquid_volume if w else c.molar_mass / c.saturated_liquid_density(float(t))
        for c, w, t in zip(components, warm, T)
    ]
    return T, np.array(molar)


def vapour_pressures(pure: Equation, T: Array, Pc: Array) -> Array:
    """Return the vapour pressures (n,) Pa of pure components at T (n,) K, or 1 atm where they are below it."""
    out = np.full(T.shape, ATM)
    x = np.ones((T.size, 1))
    state = pure.prepare(T, out)
    (liquid, dense), (vapour, thin) = state.ln_phi(x, "liquid"), state.ln_phi(x, "vapour")
    # With one root there is one phase, told by its packing.
    boils = np.where(dense == thin, state.packing(x, dense) <= 1.0, (liquid > vapour)[:, 0])
    rows = np.flatnonzero(boils)
    if rows.size:
        out[rows] = _above_an_atmosphere(pure.take(rows), T[rows], Pc[rows])
    return out


def _above_an_atmosphere(pure: Equation, T: Array, Pc: Array) -> Array:
    x = np.ones((T.size, 1))
    ln_p = np.log(Pc) + np.minimum(5.373 * (1.0 + pure.omega[:, 0]) * (1.0 - pure.Tc[:, 0] / T), -0.02)
    for _ in range(ROUNDS):
        state = pure.prepare(T, np.exp(ln_p))
        (liquid, dense), (vapour, thin) = state.ln_phi(x, "liquid"), state.ln_phi(x, "vapour")
        alone = dense == thin
        with np.errstate(divide="ignore", invalid="ignore"):
            step = (liquid - vapour)[:, 0] / (thin - dense)
        # With one root the pressure moves towards where the other begins.
        step = np.where(alone, np.where(state.packing(x, dense) > 1.0, -0.1, 0.1), step)
        ln_p += np.clip(step, -1.0, 1.0)
        if np.abs(step).max() < 1e-11:
            break
    return np.asarray(np.exp(ln_p))
