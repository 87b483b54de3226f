"""Properties of a phase of known composition, from the equation of state and the ideal gas."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from ..eos.cubic import CubicEos, Root
from . import ideal_gas

Array = NDArray[np.float64]


@dataclass(frozen=True)
class PhaseProperties:
    """Properties of N states of a phase, (N,) each.

    ``Z``; ``molar_mass`` kg/mol; ``molar_volume`` m3/mol; ``density`` kg/m3; ``enthalpy`` J/mol and ``entropy``
    J/(mol K), zero for the pure ideal gases at 298.15 K and 101325 Pa; ``enthalpy_departure`` and
    ``entropy_departure`` from the ideal gas at the same T and P.
    """

    Z: Array
    molar_mass: Array
    molar_volume: Array
    density: Array
    enthalpy: Array
    entropy: Array
    enthalpy_departure: Array
    entropy_departure: Array


def phase_properties(
    eos: CubicEos, molar_mass: Array, cp: Array, T: Array, P: Array, x: Array, root: Root = "stable"
) -> PhaseProperties:
    """Return the properties of compositions x (N, nc) at T (N,) K and P (N,) Pa.

    ``molar_mass`` (nc,) kg/mol, ``cp`` (nc, k) coefficients of rising powers of T. ``root`` picks the volume of a
    pure fluid on its saturation line, where two are stable.
    """
    state = eos.prepare(T, P).derivatives(x, root)
    mass = x @ molar_mass
    volume = state.Z * R * T / P
    h_res, s_res = state.h_res * R * T, state.s_res * R
    h_ideal = (x * ideal_gas.enthalpy(cp, T)).sum(axis=-1)
    return PhaseProperties(
        Z=state.Z,
        molar_mass=mass,
        molar_volume=volume,
        density=mass / volume,
        enthalpy=h_ideal + h_res,
        entropy=ideal_gas.entropy(cp, T, P, x) + s_res,
        enthalpy_departure=h_res,
        entropy_departure=s_res,
    )
