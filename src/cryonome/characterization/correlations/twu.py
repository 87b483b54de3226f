"""The perturbation correlations of Twu."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ...constants import CUBIC_FOOT_PER_POUND_MOLE, PSI
from .registry import Fraction, entry

Array = NDArray[np.float64]

_TWU = "Twu, Fluid Phase Equilib. 16, 137 (1984), eqs. 1 to 24"
_TWU_FORM = "the n-alkane of the same Tb, perturbed by the difference in SG"
_TWU_RANGE = {"nbp": (230.0, 990.0), "sg": (0.50, 1.20)}
_TWU_END = 1050.0
"""K. The n-alkane equations lose their meaning (Tc below Tb) a little above; beyond it the last slope is kept."""


def _twu_alkane(tb: Array) -> tuple[Array, Array, Array, Array]:
    """Return Tc degR, Pc psia, Vc ft3/lbmol and SG of the n-alkane boiling at tb degR."""
    tc = tb / (0.533272 + 0.191017e-3 * tb + 0.779681e-7 * tb**2 - 0.284376e-10 * tb**3 + 0.959468e28 / tb**13)
    a = 1.0 - tb / tc
    pc = (3.83354 + 1.19629 * np.sqrt(a) + 34.8888 * a + 36.1952 * a**2 + 104.193 * a**4) ** 2
    vc = (1.0 - (0.419869 - 0.505839 * a - 1.56436 * a**3 - 9481.70 * a**14)) ** -8.0
    sg = 0.843593 - 0.128624 * a - 3.36159 * a**3 - 13749.5 * a**12
    return tc, pc, vc, sg


def _perturb(f: Array) -> Array:
    return np.asarray(((1.0 + 2.0 * f) / (1.0 - 2.0 * f)) ** 2)


def _twu_critical(nbp: Array, sg: Array) -> tuple[Array, Array, Array]:
    """Return Tc K, Pc Pa, Vc m3/mol."""
    tb = 1.8 * nbp
    tc0, pc0, vc0, sg0 = _twu_alkane(tb)
    root = np.sqrt(tb)
    d = np.exp(5.0 * (sg0 - sg)) - 1.0
    tc = tc0 * _perturb(d * (-0.362456 / root + (0.0398285 - 0.948125 / root) * d))
    d = np.exp(4.0 * (sg0**2 - sg**2)) - 1.0
    vc = vc0 * _perturb(d * (0.466590 / root + (-0.182421 + 3.01721 / root) * d))
    d = np.exp(0.5 * (sg0 - sg)) - 1.0
    f = d * ((2.53262 - 46.1955 / root - 0.00127885 * tb) + (-11.4277 + 252.140 / root + 0.00230535 * tb) * d)
    pc = pc0 * (tc / tc0) * (vc0 / vc) * _perturb(f)
    return np.asarray(tc / 1.8), np.asarray(pc * PSI), np.asarray(vc * CUBIC_FOOT_PER_POUND_MOLE)


def _twu_mass(nbp: Array, sg: Array) -> Array:
    """Return molar mass, kg/mol."""
    tb = 1.8 * nbp
    t = np.log(tb / np.maximum(10.44 - 0.0052 * tb, 0.3))
    for _ in range(12):
        grown = np.exp(5.71419 + 2.71579 * t - 0.286590 * t**2 - 39.8544 / t - 0.122488 / t**2)
        miss = grown - 24.7522 * t + 35.3155 * t**2 - tb
        slope = grown * (2.71579 - 0.573180 * t + 39.8544 / t**2 + 0.244976 / t**3) - 24.7522 + 70.631 * t
        step = np.clip(miss / slope, -0.3, 0.3)
        t = np.clip(t - step, 2.0, 8.0)
        if np.abs(step).max(initial=0.0) < 1e-14:
            break
    ln_m0 = t
    _, _, _, sg0 = _twu_alkane(tb)
    root = np.sqrt(tb)
    d = np.exp(5.0 * (sg0 - sg)) - 1.0
    x = np.abs(0.0123420 - 0.328086 / root)
    return np.asarray(np.exp(ln_m0 * _perturb(d * (x + (-0.0175691 + 0.193168 / root) * d))) * 1e-3)


def _continued(function: Callable[[Array, Array], Array], f: Fraction) -> Array:
    """Return function(nbp, sg), continued beyond the end of Twu's range as a power of nbp."""
    inside = np.minimum(f.nbp, _TWU_END)
    value = np.array(function(inside, f.sg))
    beyond = np.flatnonzero(f.nbp > _TWU_END)
    if beyond.size:
        sg, at_end = f.sg[beyond], value[beyond]
        below = function(np.full(sg.shape, 0.98 * _TWU_END), sg)
        power = np.log(at_end / below) / np.log(1.0 / 0.98)
        value[beyond] = at_end * (f.nbp[beyond] / _TWU_END) ** power
    return np.asarray(value)


@entry("twu-1984", "molar_mass", "Twu 1984", _TWU, _TWU_FORM, _TWU_RANGE)
def _m_twu(f: Fraction) -> Array:
    return _continued(_twu_mass, f)


@entry("twu-1984", "Tc", "Twu 1984", _TWU, _TWU_FORM, _TWU_RANGE)
def _tc_twu(f: Fraction) -> Array:
    return _continued(lambda t, s: _twu_critical(t, s)[0], f)


@entry("twu-1984", "Pc", "Twu 1984", _TWU, _TWU_FORM, _TWU_RANGE)
def _pc_twu(f: Fraction) -> Array:
    return _continued(lambda t, s: _twu_critical(t, s)[1], f)


@entry("twu-1984", "Vc", "Twu 1984", _TWU, _TWU_FORM, _TWU_RANGE)
def _vc_twu(f: Fraction) -> Array:
    return _continued(lambda t, s: _twu_critical(t, s)[2], f)


@entry(
    "twu-1985",
    "viscosity",
    "Twu 1985",
    "Twu, Ind. Eng. Chem. Process Des. Dev. 24, 1287 (1985)",
    "the n-alkane of the same Tb, perturbed by the difference in SG",
    {"nbp": (340.0, 1010.0), "sg": (0.60, 1.20)},
)
def _viscosity_twu(f: Fraction) -> Array:
    """Return kinematic viscosities (n, 2), m2/s, at 100 and 210 degF."""
    tb = 1.8 * np.minimum(f.nbp, _TWU_END)
    tc0, _, _, sg0 = _twu_alkane(tb)
    a = 1.0 - tb / tc0
    at_210 = np.exp(4.73227 - 27.0975 * a + 49.4491 * a**2 - 50.4706 * a**4) - 1.5
    at_100 = np.exp(0.801621 + 1.37179 * np.log(np.maximum(at_210, 1e-3)))
    root = np.sqrt(tb)
    x = np.abs(1.99873 - 56.7394 / root)
    d = f.sg - sg0
    bend = 21.1141 * d**2 / root
    out = []
    for reference, factor in ((at_100, 1.33932), (at_210, 1.0)):
        shift = 450.0 / tb
        # Beyond its range the perturbation has a pole; viscosities there are told to be outside it.
        g = np.clip(factor * x * d - bend, -0.35, 0.35)
        ln_v = np.log(np.maximum(reference, 1e-3) + shift) * _perturb(g)
        out.append(np.maximum(np.exp(np.minimum(ln_v, 40.0)) - shift, 0.05))
    return np.stack(out, axis=-1) * 1e-6
