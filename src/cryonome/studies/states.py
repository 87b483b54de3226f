"""The full state of a fluid at a point: phases, fractions, properties."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..eos.cubic import Root
from ..equilibrium.flash import flash_pt
from ..equilibrium.stability import stability
from ..properties import PhaseProperties, phase_properties
from .inputs import FluidModel

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Phase:
    """One phase of a state: kind, mole and mass fraction of the whole, composition (nc,), properties (one state)."""

    kind: str
    fraction: float
    mass_fraction: float
    composition: Array
    properties: PhaseProperties


@dataclass(frozen=True)
class State:
    """A fluid at temperature T K and pressure P Pa: its phases, the lighter first."""

    T: float
    P: float
    vapour_fraction: float
    phases: tuple[Phase, ...]
    converged: bool
    third_phase: bool


THIRD_PHASE = -1e-7
"""Distance below which a phase of a converged split is itself unstable beyond doubt."""


def state_at(model: FluidModel, T: float, P: float, check_third: bool = True) -> State:
    """Return the equilibrium state at T, P. ``check_third`` tests whether a third phase would form."""
    result = flash_pt(model.eos, T, P, model.z)
    converged = bool(result.converged)
    if not bool(result.two_phase):
        kind = "liquid" if bool(result.liquid_x) else "vapour"
        return assemble(model, T, P, [(kind, 1.0, result.x, "stable")], converged, False)
    beta = float(result.vapour_fraction)
    light = "liquid" if bool(result.liquid_y) else "vapour"
    third = False
    if check_third:
        both = np.stack([result.x, result.y])
        again = stability(model.eos, np.full(2, T), np.full(2, P), both, every_trial=True)
        third = bool((again.tm < THIRD_PHASE).any())
    parts: list[tuple[str, float, Array, Root]] = [
        (light, beta, result.y, "stable"),
        ("liquid", 1.0 - beta, result.x, "stable"),
    ]
    return assemble(model, T, P, parts, converged, third)


def assemble(
    model: FluidModel, T: float, P: float, parts: list[tuple[str, float, Array, Root]], converged: bool, third: bool
) -> State:
    """Return a state from its phases: (kind, mole fraction, composition (nc,), root)."""
    properties = [
        phase_properties(model.eos, model.molar_mass, model.cp, np.array([T]), np.array([P]), x[None], root)
        for _, _, x, root in parts
    ]
    mass = [fraction * float(p.molar_mass[0]) for (_, fraction, _, _), p in zip(parts, properties)]
    phases = tuple(
        Phase(kind, fraction, m / sum(mass), x, p) for (kind, fraction, x, _), m, p in zip(parts, mass, properties)
    )
    vapour = sum(p.fraction for p in phases if p.kind == "vapour")
    return State(T, P, vapour, phases, converged, third)
