"""What the test methods of laboratories state of their precision.

Repeatability r and reproducibility R are the differences that two results of one operator, and of two laboratories,
exceed one time in twenty; a single result then has a standard deviation of r/2.77 or R/2.77 (2.77 is 1.96 times the
root of 2; ASTM E177, ISO 5725-6). All functions take values in SI, (n,), and return (r, R) in SI, (n,)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

TO_DEVIATION = 1.96 * np.sqrt(2.0)
"""What a repeatability or reproducibility is divided by for the standard deviation of one result."""
ICE = 273.15
CST = 1e-6
G_PER_ML = 1e3


@dataclass(frozen=True)
class Precision:
    """The statement of a method: what it is called, its source, and ``of``, which returns r and R of values."""

    key: str
    title: str
    source: str
    of: Callable[[Array], tuple[Array, Array]]


def _each(v: Array, r: float, R: float) -> tuple[Array, Array]:
    return np.full(np.shape(v), r), np.full(np.shape(v), R)


def _d4052(density: Array) -> tuple[Array, Array]:
    return _each(density, 1e-4 * G_PER_ML, 5e-4 * G_PER_ML)


def _d445(viscosity: Array) -> tuple[Array, Array]:
    return 0.017 * viscosity, 0.074 * viscosity


def _d445_hot(viscosity: Array) -> tuple[Array, Array]:
    return 0.011 * (viscosity + 8.0 * CST), 0.038 * (viscosity + 8.0 * CST)


OSMOMETRY = ((0.4, 5e-3, 14e-3), (0.6, 12e-3, 32e-3), (np.inf, 30e-3, 94e-3))
"""Molar mass up to kg/mol, r and R; ASTM D2503, ranges 245 to 399, 400 to 599 and 600 to 800 g/mol."""


def _d2503(mass: Array) -> tuple[Array, Array]:
    place = np.searchsorted([row[0] for row in OSMOMETRY], mass, side="right")
    table = np.array([row[1:] for row in OSMOMETRY])
    return table[place, 0], table[place, 1]


GAS = ((0.001, 1e-4, 2e-4), (0.01, 4e-4, 7e-4), (0.05, 7e-4, 1e-3), (0.10, 8e-4, 1.2e-3), (np.inf, 1e-3, 1.5e-3))
"""Fraction up to, r and R as fractions; ASTM D1945, table of precision."""


def _d1945(fraction: Array) -> tuple[Array, Array]:
    place = np.searchsorted([row[0] for row in GAS], fraction, side="right")
    table = np.array([row[1:] for row in GAS])
    return table[place, 0], table[place, 1]


def _d323(pressure: Array) -> tuple[Array, Array]:
    p = np.asarray(pressure)
    r = np.select([p < 35e3, p <= 100e3, p <= 180e3], [0.7e3, 3.2e3, 2.1e3], 2.8e3)
    R = np.select([p < 35e3, p <= 100e3, p <= 180e3], [2.4e3, 5.2e3, 2.8e3], 4.9e3)
    return r, R


def _d6377(pressure: Array) -> tuple[Array, Array]:
    return _each(pressure, 2.48e3, 5.61e3)


PRECISIONS: dict[str, Precision] = {
    p.key: p
    for p in (
        Precision("D4052", "density, ASTM D4052", "ASTM D4052-96, 0.68 to 0.97 g/mL", _d4052),
        Precision("D445", "kinematic viscosity, ASTM D445", "ASTM D445, residual fuel oils at 50 degC", _d445),
        Precision(
            "D445 hot", "kinematic viscosity, ASTM D445", "ASTM D445, residual fuel oils at 80 and 100 degC", _d445_hot
        ),
        Precision("D2503", "molar mass, ASTM D2503", "ASTM D2503, vapour pressure osmometry", _d2503),
        Precision("D1945", "gas chromatography, ASTM D1945", "ASTM D1945-03, in mol%", _d1945),
        Precision("D323", "Reid vapour pressure, ASTM D323", "ASTM D323, procedures A and C", _d323),
        Precision("D6377", "VPCR4 at 37.8 °C, ASTM D6377", "ASTM D6377", _d6377),
    )
}
"""Statements of methods that measure one number, by key."""

CurvePrecision = Callable[[Array, Array], tuple[Array, Array]]
"""r and R (n,) K of a boiling curve's points at percents (n,) and temperatures (n,) K."""

DIESEL = 170.0 + ICE
"""K. A sample whose half boils above this is of group 4 of ASTM D86, diesel fuels and heavier; else of groups 1 to 3."""


def _between(percent: Array, nodes: list[tuple[float, Array, Array]]) -> tuple[Array, Array]:
    """Return r and R (n,) at percents (n,), straight between those stated at ``nodes``, each its percent and r and R
    (n,) for the temperatures of the points."""
    at = np.array([n[0] for n in nodes])
    place = np.clip(np.searchsorted(at, percent, side="right") - 1, 0, at.size - 2)
    share = np.clip((percent - at[place]) / (at[place + 1] - at[place]), 0.0, 1.0)
    rows = np.arange(percent.size)
    out = []
    for k in (1, 2):
        stated = np.array([np.broadcast_to(n[k], percent.shape) for n in nodes])
        out.append((1.0 - share) * stated[place, rows] + share * stated[place + 1, rows])
    return out[0], out[1]


def d86(percent: Array, T: Array) -> tuple[Array, Array]:
    """Return r and R (n,), K, of ASTM D86-15 at percents (n,), automated: tables of groups 1 to 3 and of group 4, stated at the initial point,
    10, 50, 90 and 95 % and the final point; straight between them."""
    t = T - ICE
    half = float(np.interp(50.0, percent, T)) if percent.size > 1 else float(T[0])
    if half < DIESEL:
        nodes = [
            (0.0, 0.0295 * (t + 51.19), 0.0595 * (t + 51.19)),
            (10.0, *_each(t, 1.33, 3.20)),
            (50.0, *_each(t, 0.74, 1.88)),
            (90.0, 0.00755 * (t + 59.77), 0.019 * (t + 59.77)),
            (100.0, *_each(t, 3.33, 7.1)),
        ]
    else:
        nodes = [
            (0.0, 0.018 * t, 0.055 * t),
            (10.0, 0.0094 * t, 0.022 * t),
            (50.0, *_each(t, 0.94, 2.97)),
            (90.0, 0.0041 * t, 0.015 * t),
            (95.0, 0.01515 * (t - 140.0), 0.03 * (t - 140.0)),
            (100.0, *_each(t, 2.2, 7.1)),
        ]
    r, R = _between(percent, nodes)
    return np.maximum(r, LEAST), np.maximum(R, LEAST)


LEAST = 0.1
"""K. No point of a curve is taken to be told better than thermometers are read."""


def d2887(percent: Array, T: Array) -> tuple[Array, Array]:
    """Return r and R of ASTM D2887 (procedure A), stated at the initial point, 5, 10, 20, 30, 40, 50, 90 and 95 % and
    the final point; straight between them."""
    t = T - ICE
    nodes = [
        (0.0, 0.011 * t, 0.066 * t),
        (5.0, 0.0032 * (t + 100.0), 0.015 * (t + 100.0)),
        (10.0, *(np.full(t.shape, 0.8), 0.015 * (t + 100.0))),
        (20.0, *(np.full(t.shape, 0.8), 0.015 * (t + 100.0))),
        (30.0, *(np.full(t.shape, 0.8), 0.013 * (t + 100.0))),
        (40.0, *_each(t, 0.8, 4.3)),
        (50.0, *_each(t, 1.0, 4.3)),
        (90.0, *_each(t, 1.0, 4.3)),
        (95.0, *_each(t, 1.2, 5.0)),
        (100.0, *_each(t, 3.2, 11.8)),
    ]
    r, R = _between(percent, nodes)
    return np.maximum(r, LEAST), np.maximum(R, LEAST)


SLOPES = np.array([0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 3.5, 4.0])
"""K per percent distilled, at which ASTM D1160 states the precision at 0.13 kPa (1 mmHg)."""
D1160 = {
    "repeatability": (
        np.array([2.4, 2.9, 3.2, 3.4, 3.6, 3.8, 3.9, 4.0]),
        np.array([2.5, 3.0, 3.3, 3.5, 3.7, 3.9, 4.0, 4.2]),
    ),
    "reproducibility": (
        np.array([6.5, 10.0, 13.0, 16.0, 18.0, 21.0, 23.0, 25.0]),
        np.array([3.9, 6.0, 7.8, 9.4, 11.0, 12.0, 13.0, 15.0]),
    ),
}
"""Of 5 to 50 and of 60 to 90 % recovered."""
INITIAL, FINAL = (17.0, 56.0), (3.3, 31.0)


def d1160(percent: Array, T: Array) -> tuple[Array, Array]:
    """Return r and R (n,), K, of ASTM D1160 at 1 mmHg: by the slope of the curve, K per percent, held beyond 0.5 to 4; the
    initial and the final point by themselves."""
    slope = np.gradient(T, percent) if percent.size > 1 else np.ones_like(T)
    out = []
    for k, key in enumerate(("repeatability", "reproducibility")):
        early, late = (np.interp(slope, SLOPES, table) for table in D1160[key])
        share = np.clip((percent - 50.0) / 10.0, 0.0, 1.0)
        middle = (1.0 - share) * early + share * late
        out.append(np.select([percent < 2.0, percent > 97.0], [INITIAL[k], FINAL[k]], middle))
    return out[0], out[1]


@dataclass(frozen=True)
class CurveMethod:
    """The statement of a method that measures a boiling curve."""

    key: str
    title: str
    source: str
    of: CurvePrecision


CURVES: dict[str, CurveMethod] = {
    c.key: c
    for c in (
        CurveMethod("D86", "ASTM D86", "ASTM D86-15, automated, groups 1 to 3 and 4", d86),
        CurveMethod("D2887", "ASTM D2887", "ASTM D2887, procedure A", d2887),
        CurveMethod("D1160", "ASTM D1160", "ASTM D1160 at 1 mmHg", d1160),
    )
}
"""Statements of methods that measure a boiling curve, by the method's key."""

TOLERANCES: dict[tuple[str, str], tuple[float, str]] = {
    ("molar_mass", "twu-1984"): (5.0, "Riazi (ASTM MNL50, 2005), table 2.16: 625 fractions"),
    ("molar_mass", "kesler-lee"): (8.2, "Riazi (ASTM MNL50, 2005), table 2.16: 625 fractions"),
    ("Tc", "twu-1984"): (0.6, "Riazi (ASTM MNL50, 2005), table 2.17: 138 hydrocarbons"),
    ("Tc", "kesler-lee"): (0.7, "Riazi (ASTM MNL50, 2005), table 2.17: 138 hydrocarbons"),
    ("Tc", "cavett"): (3.0, "Riazi (ASTM MNL50, 2005), table 2.17: 138 hydrocarbons"),
    ("Tc", "riazi-daubert-1987"): (1.1, "Riazi (ASTM MNL50, 2005), table 2.17: 138 hydrocarbons"),
    ("Pc", "twu-1984"): (3.9, "Riazi (ASTM MNL50, 2005), table 2.17: 138 hydrocarbons"),
    ("Pc", "kesler-lee"): (4.0, "Riazi (ASTM MNL50, 2005), table 2.17: 138 hydrocarbons"),
    ("Pc", "cavett"): (5.5, "Riazi (ASTM MNL50, 2005), table 2.17: 138 hydrocarbons"),
    ("Pc", "riazi-daubert-1987"): (3.1, "Riazi (ASTM MNL50, 2005), table 2.17: 138 hydrocarbons"),
}
"""Average absolute deviations of correlations, percent, by property and key, as published, with their source."""

TO_NORMAL = float(np.sqrt(0.5 * np.pi))
"""Standard deviation of a normal law by its average absolute deviation."""
