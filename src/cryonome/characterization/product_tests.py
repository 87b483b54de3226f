"""What a distillate's tests would show, estimated: flash, freezing and smoke point, cetane index, each within its
published range."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

RANKINE = 1.8
C0 = 273.15


@dataclass(frozen=True)
class Distillate:
    """A product: ASTM D86 temperatures (3,) K at 10, 50 and 90 %, mean average boiling point K, specific gravity at
    60 degF, density kg/m3 at 15 degC and Watson factor."""

    d86: tuple[float, float, float]
    nbp: float
    specific_gravity: float
    density_15C: float
    watson_k: float


def flash_point(d: Distillate) -> float:
    """Return the closed-cup flash point, K; Riazi and Daubert, Hydrocarbon Processing 66(9), 81 (1987); MNL50 (2005)
    eq. 3.114."""
    T = d.d86[0]
    return float(1.0 / (-0.024209 + 2.84947 / T + 3.4254e-3 * np.log(T)))


def freezing_point(d: Distillate) -> float:
    """Return the freezing point of a jet fuel, K; API Technical Data Book, procedure 2B11.1; MNL50 (2005) eq. 3.128."""
    return (-2390.42 + 1826.0 * d.specific_gravity + 122.49 * d.watson_k - 0.135 * RANKINE * d.nbp) / RANKINE


def smoke_point(d: Distillate) -> float:
    """Return the smoke point of a kerosene, mm; API Technical Data Book, procedure 2B10.1; MNL50 (2005) eq. 3.124."""
    return float(np.exp(-1.028 + 0.474 * d.watson_k - 0.00168 * RANKINE * d.nbp))


def cetane_index(d: Distillate) -> float:
    """Return the calculated cetane index by four variables, procedure A of ASTM D4737 (2010)."""
    T10, T50, T90 = (T - C0 - base for T, base in zip(d.d86, (215.0, 260.0, 310.0)))
    B = float(np.exp(-3.5 * (d.density_15C / 1e3 - 0.85))) - 1.0
    return (
        45.2
        + 0.0892 * T10
        + (0.131 + 0.901 * B) * T50
        + (0.0523 - 0.420 * B) * T90
        + 0.00049 * (T10**2 - T90**2)
        + 107.0 * B
        + 60.0 * B**2
    )


@dataclass(frozen=True)
class Bound:
    """A published range of one input of a method: ``key`` names it, ends in SI."""

    key: str
    low: float
    high: float
    value: Callable[[Distillate], float]

    def off(self, d: Distillate) -> float:
        """Return how far a product lies outside, in widths of the range; infinitely where the value is not known."""
        value = self.value(d)
        far = max(self.low - value, value - self.high, 0.0) / (self.high - self.low)
        return far if np.isfinite(far) else float("inf")


FARTHEST = 0.2
"""Widths of a published range beyond it up to which a method's number is told, as an extrapolation."""


@dataclass(frozen=True)
class ProductTest:
    """A test: the ``key`` of its result in SI (a plain number where it has no unit), its title, source, what it is
    computed by and the range it was published for."""

    key: str
    title: str
    source: str
    function: Callable[[Distillate], float]
    bounds: tuple[Bound, ...]

    def off(self, d: Distillate) -> float:
        """Return how far a product lies outside the published range, in widths of it."""
        return max(b.off(d) for b in self.bounds)


def _nbp(low: float, high: float) -> Bound:
    return Bound("nbp_K", low, high, lambda d: d.nbp)


def _gravity(low: float, high: float) -> Bound:
    return Bound("specific_gravity", low, high, lambda d: d.specific_gravity)


TESTS: tuple[ProductTest, ...] = (
    ProductTest("flash_point_K", "flash point", "Riazi and Daubert (1987)", flash_point, (_nbp(338.0, 863.0),)),
    ProductTest(
        "freezing_point_K", "freezing point", "API procedure 2B11.1", freezing_point,
        (_gravity(0.74, 0.90), _nbp(725.0 / RANKINE, 1130.0 / RANKINE), Bound("watson_k", 11.2, 12.6, lambda d: d.watson_k)),
    ),
    ProductTest(
        "smoke_point_mm", "smoke point", "API procedure 2B10.1", smoke_point,
        (_gravity(0.70, 0.86), _nbp(93.0 + C0, 288.0 + C0), Bound("smoke_point_mm", 15.0, 42.0, smoke_point)),
    ),
    ProductTest(
        "cetane_index", "cetane index", "ASTM D4737", cetane_index,
        (
            Bound("density_kg_m3", 805.0, 895.0, lambda d: d.density_15C), Bound("T10_K", 171.0 + C0, 259.0 + C0, lambda d: d.d86[0]),
            Bound("T50_K", 212.0 + C0, 308.0 + C0, lambda d: d.d86[1]), Bound("T90_K", 251.0 + C0, 363.0 + C0, lambda d: d.d86[2]),
            Bound("cetane_index", 32.5, 56.5, cetane_index),
        ),
    ),
)  # fmt: skip
"""Every test of a product."""
