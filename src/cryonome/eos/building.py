"""Equations of state by their name, from components: the one place that knows which class serves which name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import R
from ..errors import DomainError
from .alpha import Alpha, First, Soave
from .alpha_library import fitted_alpha
from .aqueous_library import aqueous_pairs, with_water
from .cpa import CpaEos
from .cpa_library import association, bonding
from .cubic import CubicEos
from .cubic_forms import FORMS, CubicForm
from .equation import Equation
from .helmholtz import HelmholtzEos
from .matching import matched_omega
from .reference_fluids import KUNZ, REFERENCE_FLUIDS
from .saft import SaftEos
from .saft_parameters import saft_sets
from .volume_shift import FAMILIES, shift_slopes, shifts

Array = NDArray[np.float64]

SAFT = "PC-SAFT"
BONDS = "CPA"
PURE_FLUID = "reference"
"""The reference equation of a pure fluid that has one."""


@dataclass(frozen=True)
class Entry:
    """An equation as people meet it: what it is called, its source, its formula set in type, whether its alpha
    function may be chosen, and the place of its colour among a theme's."""

    title: str
    source: str
    formula: str
    alpha: bool
    colour: int


ENTRIES: dict[str, Entry] = {
    name: Entry(form.title or name, form.source, form.formula, form.kappa is not None, form.colour)
    for name, form in FORMS.items()
} | {
    SAFT: Entry(
        SAFT,
        "Gross and Sadowski, Ind. Eng. Chem. Res. 40, 1244 (2001)",
        "<i>A</i><sup>res</sup>/<i>NkT</i> = <i>m̄ ã</i><sup>hs</sup> − Σ <i>x</i><sub>i</sub>(<i>m</i><sub>i</sub> − 1) ln <i>g</i><sub>ii</sub> + "
        "<i>ã</i><sup>disp</sup>",
        False,
        3,
    ),
    BONDS: Entry(
        "CPA",
        "Kontogeorgis et al., Ind. Eng. Chem. Res. 35, 4310 (1996), and Fluid Phase Equilib. 158-160, 201 (1999)",
        "<i>P</i> = <i>R T</i>/(<i>V</i> − <i>b</i>) − <i>a</i>(<i>T</i>)/(<i>V</i>² + <i>bV</i>) − "
        "<i>R T g</i>/(2<i>V</i>) Σ <i>x</i><sub>i</sub> Σ (1 − <i>X</i><sub>A</sub>)",
        True,
        8,
    ),
    PURE_FLUID: Entry(
        "reference equation",
        f"of a pure fluid: {KUNZ}; propane Lemmon, McLinden and Wagner (2009)",
        "<i>A</i><sup>res</sup>/<i>RT</i> = Σ <i>n</i> <i>δ</i><sup>d</sup> <i>τ</i><sup>t</sup> exp(−<i>δ</i><sup>c</sup>) + bells",
        False,
        7,
    ),
}
"""Every equation offered. A new cubic is its form in :mod:`cubic_forms`, and nothing here."""

EQUATIONS: dict[str, str] = {name: entry.source for name, entry in ENTRIES.items()}
"""Every equation offered, with its source."""

ALPHAS: dict[str, str] = {
    "own": "the equation's own at every temperature",
    "smooth": "the equation's own, above the critical temperature an exponential that goes on from it",
    "published": "fitted to published vapour pressures, where the databank has them",
}
"""The alpha functions offered."""

REFERENCE = "PR78"
"""The equation acentric factors of cuts are matched for where none is chosen."""


AQUEOUS_FAMILIES = ("PR", "RK")
"""Families of equations whose pairs of water may differ in phases of water."""


@dataclass(frozen=True)
class Interaction:
    """Interaction parameters ``kij`` (nc, nc) at 298.15 K and, where any depends on temperature, ``slope`` (nc, nc)
    1/K.

    ``warming`` (nc, nc, 2) are the constants of pairs that bond, for cubic plus association. With ``salt``, mol NaCl per kg of water, pairs of water differ in phases of water; ``aqueous`` are places, values
    at 298.15 K and slopes 1/K of those that are the user's own there."""

    kij: Array
    slope: Array | None = None
    salt: float | None = None
    aqueous: tuple[tuple[int, float, float], ...] = ()
    warming: Array | None = None


def equation_of(name: str, components: Sequence[Component], pairs: Interaction, alpha: str = "own") -> Equation:
    """Return the equation called ``name`` for components (nc,), with an alpha function of :data:`ALPHAS`."""
    Tc, Pc, omega = (np.array([getattr(c, k) for c in components]) for k in ("Tc", "Pc", "omega"))
    if name == SAFT:
        sets = saft_sets(components)
        m, sigma, epsilon = (np.array([getattr(s, k) for s in sets]) for k in ("m", "sigma", "epsilon"))
        return SaftEos(m, 1e-10 * sigma, epsilon, pairs.kij, Tc, Pc, omega)
    if name == PURE_FLUID:
        return reference_equation(components)
    form = form_of(name)
    given = fitted_alpha(components, form.family, alpha)
    if name == BONDS:
        return _with_bonds(form, components, pairs, given, alpha == "smooth")
    aqueous = None
    if form.family in AQUEOUS_FAMILIES and (pairs.salt is not None or pairs.aqueous):
        if pairs.salt is not None:
            given = with_water(components, form.family, pairs.salt, given)
        aqueous = aqueous_pairs(components, form, given, pairs.salt, pairs.aqueous, alpha == "smooth")
    return CubicEos(
        form, Tc, Pc, omega, pairs.kij, given, pairs.slope, aqueous, *_factors(components, form), alpha == "smooth"
    )


def form_of(name: str) -> CubicForm:
    """Return the cubic of an equation that is one or has one in it."""
    return FORMS["SRK" if name == BONDS else name]


def _with_bonds(
    form: CubicForm, components: Sequence[Component], pairs: Interaction, given: Alpha | None, smooth: bool
) -> CpaEos:
    """Return cubic plus association: what bonds has constants of its own."""
    Tc, Pc, omega = (np.array([getattr(c, k) for c in components]) for k in ("Tc", "Pc", "omega"))
    own = [bonding(c) for c in components]
    if not any(own):
        return CpaEos(form, Tc, Pc, omega, pairs.kij, given, pairs.slope, None, *_factors(components, form), smooth)
    a_usual, b_usual = form.omega_a * (R * Tc) ** 2 / Pc, form.omega_b * R * Tc / Pc
    factors = [np.ones(Tc.size) if f is None else f for f in _factors(components, form)]
    a = np.where([b is not None for b in own], [b.a0 if b else 0.0 for b in own] / a_usual, factors[0])
    b = np.where([b is not None for b in own], [b.b if b else 0.0 for b in own] / b_usual, factors[1])
    soave = Soave(np.array([b.c1 if b else np.nan for b in own]))
    alpha = soave if given is None else First((soave, given))
    bonds = association(components, b * b_usual)
    return CpaEos(form, Tc, Pc, omega, pairs.kij, alpha, pairs.slope, None, a, b, smooth, bonds, pairs.warming)


def reference_equation(components: Sequence[Component]) -> HelmholtzEos:
    """Return the reference equation of a pure fluid. Raises DomainError where there is more than one, or none for
    it."""
    known = ", ".join(REFERENCE_FLUIDS)
    if len(components) != 1:
        raise DomainError(
            f"the reference equation is of one pure fluid, and this one has {len(components)} components; choose another equation"
        )
    one = components[0]
    if one.kind != "pure" or one.name not in REFERENCE_FLUIDS:
        raise DomainError(f"there is no reference equation of {one.name} here; there is one of {known}")
    return HelmholtzEos(REFERENCE_FLUIDS[one.name], *(np.array([v]) for v in (one.Tc, one.Pc, one.omega)))


def _factors(components: Sequence[Component], form: CubicForm) -> tuple[Array | None, Array | None]:
    """Return what attraction and covolume (nc,) are multiplied by where components have constants Omega of their own,
    None where none has."""
    if form.omega_b == 0.0 or all(c.omegas is None for c in components):
        return None, None
    usual = (form.omega_a, form.omega_b)
    own = np.array([c.omegas or usual for c in components]) / usual
    return own[:, 0], own[:, 1]


def family_of(name: str) -> str:
    """Return the family an equation takes its fitted parameters from, "" where it has none."""
    return form_of(name).family if name in FORMS or name == BONDS else name


def shift_fits(kind: str, name: str) -> bool:
    """Tell whether a kind of volume shift was made for the equation called ``name``."""
    return kind not in FAMILIES or family_of(name) in FAMILIES[kind]


def volume_shift(kind: str, name: str, components: Sequence[Component], eos: Equation) -> Array:
    """Return the volume shifts (nc,), m3/mol, of an equation called ``name``, none of a reference equation. Raises
    DomainError where the kind has none."""
    if name == PURE_FLUID:
        return np.zeros(len(components))
    out = shifts(kind, components, eos, family_of(name))
    # What bonds has constants made for its own density, which no correlation for the cubic's knows.
    return (
        np.where([bonding(c) is not None for c in components], 0.0, out) if name == BONDS and kind != "density" else out
    )


def volume_slope(kind: str, components: Sequence[Component], eos: Equation, shift: Array) -> Array:
    """Return the slopes (nc,), m3/(mol K), of volume shifts (nc,) m3/mol, none of a reference equation."""
    return np.zeros(len(components)) if isinstance(eos, HelmholtzEos) else shift_slopes(kind, components, eos, shift)


def matched_components(components: Sequence[Component], name: str) -> list[Component]:
    """Return the components, acentric factors that were fitted to the boiling point fitted anew for another
    equation."""
    out = list(components)
    places = [i for i, c in enumerate(components) if c.omega_matched and c.omegas is None]
    if name in (REFERENCE, SAFT, PURE_FLUID) or not places:
        return out
    Tc, Pc, nbp = (np.array([getattr(components[i], k) for i in places]) for k in ("Tc", "Pc", "nbp"))
    for i, omega in zip(places, matched_omega(form_of(name), Tc, Pc, nbp).tolist()):
        out[i] = components[i] if np.isnan(omega) else replace(components[i], omega=omega)
    return out
