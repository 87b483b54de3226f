"""Published correlations for the properties of narrow petroleum fractions, as entries of one registry.

An entry knows its property, source, formula in words, range and function; everything that lists, selects or
documents correlations reads the registry. Functions take :class:`Fraction` arrays and return SI values.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

ORDER = ("molar_mass", "Tc", "Pc", "Vc", "omega", "cp")
"""The order of evaluation: an entry may use what stands before it."""


@dataclass(frozen=True)
class Fraction:
    """What is known of n narrow fractions, (n,) each: ``nbp`` K, ``sg`` 60/60 degF, and results so far by name."""

    nbp: Array
    sg: Array
    known: dict[str, Array] = field(default_factory=dict)

    @property
    def watson_k(self) -> Array:
        """Watson factor (n,)."""
        return np.asarray(np.cbrt(1.8 * self.nbp) / self.sg)


@dataclass(frozen=True)
class Correlation:
    """One published correlation; ``limits`` gives the range of a quantity of :class:`Fraction` by name."""

    key: str
    property: str
    title: str
    source: str
    formula: str
    limits: dict[str, tuple[float, float]]
    function: Callable[[Fraction], Array]

    def outside(self, fraction: Fraction) -> NDArray[np.bool_]:
        """Tell which fractions (n,) lie outside the range of validity."""
        out = np.zeros(fraction.nbp.shape, dtype=bool)
        for name, (low, high) in self.limits.items():
            value = fraction.known[name] if name in fraction.known else getattr(fraction, name)
            out |= (value < low) | (value > high)
        return out


REGISTRY: dict[str, dict[str, Correlation]] = {name: {} for name in ORDER}
DEFAULTS: dict[str, str] = {
    "molar_mass": "twu-1984",
    "Tc": "twu-1984",
    "Pc": "twu-1984",
    "Vc": "twu-1984",
    "omega": "lee-kesler",
    "cp": "kesler-lee",
}


def _entry(
    key: str, prop: str, title: str, source: str, formula: str, limits: dict[str, tuple[float, float]]
) -> Callable[[Callable[[Fraction], Array]], Callable[[Fraction], Array]]:
    def register(function: Callable[[Fraction], Array]) -> Callable[[Fraction], Array]:
        REGISTRY[prop][key] = Correlation(key, prop, title, source, formula, limits, function)
        return function

    return register


# --- Riazi and Daubert -------------------------------------------------------------------------------------------

_RD = "Riazi and Daubert, Ind. Eng. Chem. Res. 26, 755 (1987); Riazi, ASTM MNL50 (2005), eqs. 2.46, 2.50 and tables"
_RD_FORM = "a exp(b Tb + c SG + d Tb SG) Tb^e SG^f"
_RD_RANGE = {"nbp": (300.0, 620.0), "sg": (0.60, 0.97)}


def _riazi(f: Fraction, a: float, b: float, c: float, d: float, e: float, g: float) -> Array:
    T, s = f.nbp, f.sg
    return np.asarray(a * np.exp(b * T + c * s + d * T * s) * T**e * s**g)


@_entry(
    "riazi-daubert-1987", "molar_mass", "Riazi–Daubert 1987", _RD, _RD_FORM, {"nbp": (300.0, 850.0), "sg": (0.60, 0.97)}
)
def _m_riazi(f: Fraction) -> Array:
    return _riazi(f, 42.965e-3, 2.097e-4, -7.78712, 2.08476e-3, 1.26007, 4.98308)


@_entry("riazi-daubert-1987", "Tc", "Riazi–Daubert 1987", _RD, _RD_FORM, _RD_RANGE)
def _tc_riazi(f: Fraction) -> Array:
    return _riazi(f, 9.5233, -9.314e-4, -0.544442, 6.4791e-4, 0.81067, 0.53691)


@_entry("riazi-daubert-1987", "Pc", "Riazi–Daubert 1987", _RD, _RD_FORM, _RD_RANGE)
def _pc_riazi(f: Fraction) -> Array:
    return _riazi(f, 3.1958e10, -8.505e-3, -4.8014, 5.749e-3, -0.4844, 4.0846)


@_entry("riazi-daubert-1987", "Vc", "Riazi–Daubert 1987", _RD, _RD_FORM + " (per mass, times M)", _RD_RANGE)
def _vc_riazi(f: Fraction) -> Array:
    per_mass = _riazi(f, 6.049e-2, -2.6422e-3, -0.26404, 1.971e-3, 0.7506, -1.2028)
    return np.asarray(per_mass * 1e-3 * f.known["molar_mass"])


# --- Kesler and Lee ----------------------------------------------------------------------------------------------

_KL = "Kesler and Lee, Hydrocarbon Processing 55(3), 153 (1976)"


@_entry(
    "lee-kesler",
    "molar_mass",
    "Kesler–Lee 1976",
    _KL,
    "polynomial in Tb and SG",
    {"nbp": (288.0, 750.0), "sg": (0.60, 1.0)},
)
def _m_lee_kesler(f: Fraction) -> Array:
    T, s = f.nbp, f.sg
    mass = -12272.6 + 9486.4 * s + (8.3741 - 5.9917 * s) * T
    mass = mass + (1.0 - 0.77084 * s - 0.02058 * s**2) * (0.7465 - 222.466 / T) * 1e7 / T
    mass = mass + (1.0 - 0.80882 * s + 0.02226 * s**2) * (0.3228 - 17.335 / T) * 1e12 / T**3
    return np.asarray(mass * 1e-3)


@_entry(
    "lee-kesler",
    "Tc",
    "Kesler–Lee 1976",
    _KL,
    "189.8 + 450.6 SG + (0.4244 + 0.1174 SG) Tb + (14410 − 100688 SG)/Tb",
    {"nbp": (288.0, 920.0)},
)
def _tc_lee_kesler(f: Fraction) -> Array:
    T, s = f.nbp, f.sg
    return np.asarray(189.8 + 450.6 * s + (0.4244 + 0.1174 * s) * T + (14410.0 - 100688.0 * s) / T)


@_entry(
    "lee-kesler",
    "Pc",
    "Kesler–Lee 1976",
    _KL,
    "ln Pc as a cubic in Tb with coefficients in 1/SG",
    {"nbp": (288.0, 920.0)},
)
def _pc_lee_kesler(f: Fraction) -> Array:
    T, s = f.nbp, f.sg
    ln_bar = 5.689 - 0.0566 / s - (0.43639 + 4.1216 / s + 0.21343 / s**2) * 1e-3 * T
    ln_bar = ln_bar + (0.47579 + 1.182 / s + 0.15302 / s**2) * 1e-6 * T**2
    ln_bar = ln_bar - (2.4505 + 9.9099 / s**2) * 1e-10 * T**3
    return np.asarray(np.exp(ln_bar) * 1e5)


# --- Twu ---------------------------------------------------------------------------------------------------------

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
    return np.asarray(tc / 1.8), np.asarray(pc * 6894.757293168), np.asarray(vc * 6.242796057614e-5)


def _twu_mass(nbp: Array, sg: Array) -> Array:
    """Return molar mass, kg/mol."""
    tb = 1.8 * nbp
    lo, hi = np.full_like(tb, np.log(8.0)), np.full_like(tb, np.log(3000.0))
    for _ in range(60):
        t = 0.5 * (lo + hi)
        trial = (
            np.exp(5.71419 + 2.71579 * t - 0.286590 * t**2 - 39.8544 / t - 0.122488 / t**2)
            - 24.7522 * t
            + 35.3155 * t**2
        )
        lo, hi = np.where(trial < tb, t, lo), np.where(trial < tb, hi, t)
    ln_m0 = 0.5 * (lo + hi)
    _, _, _, sg0 = _twu_alkane(tb)
    root = np.sqrt(tb)
    d = np.exp(5.0 * (sg0 - sg)) - 1.0
    x = np.abs(0.0123420 - 0.328086 / root)
    return np.asarray(np.exp(ln_m0 * _perturb(d * (x + (-0.0175691 + 0.193168 / root) * d))) * 1e-3)


def _continued(function: Callable[[Array, Array], Array], f: Fraction) -> Array:
    """Return function(nbp, sg), continued beyond the end of Twu's range as a power of nbp."""
    inside = np.minimum(f.nbp, _TWU_END)
    value = function(inside, f.sg)
    beyond = f.nbp > _TWU_END
    if beyond.any():
        below = function(np.full_like(inside, 0.98 * _TWU_END), f.sg)
        at_end = function(np.full_like(inside, _TWU_END), f.sg)
        power = np.log(at_end / below) / np.log(1.0 / 0.98)
        value = np.where(beyond, at_end * (f.nbp / _TWU_END) ** power, value)
    return np.asarray(value)


@_entry("twu-1984", "molar_mass", "Twu 1984", _TWU, _TWU_FORM, _TWU_RANGE)
def _m_twu(f: Fraction) -> Array:
    return _continued(_twu_mass, f)


@_entry("twu-1984", "Tc", "Twu 1984", _TWU, _TWU_FORM, _TWU_RANGE)
def _tc_twu(f: Fraction) -> Array:
    return _continued(lambda t, s: _twu_critical(t, s)[0], f)


@_entry("twu-1984", "Pc", "Twu 1984", _TWU, _TWU_FORM, _TWU_RANGE)
def _pc_twu(f: Fraction) -> Array:
    return _continued(lambda t, s: _twu_critical(t, s)[1], f)


@_entry("twu-1984", "Vc", "Twu 1984", _TWU, _TWU_FORM, _TWU_RANGE)
def _vc_twu(f: Fraction) -> Array:
    return _continued(lambda t, s: _twu_critical(t, s)[2], f)


# --- Acentric factor ---------------------------------------------------------------------------------------------


@_entry(
    "lee-kesler", "omega", "Lee–Kesler, Kesler–Lee above Tbr 0.8",
    "Lee and Kesler, AIChE J. 21, 510 (1975), eq. 23; Kesler and Lee (1976), eq. 15",
    "vapour pressure equation at the boiling point; above Tb/Tc = 0.8 a function of Watson K",
    {"nbp": (230.0, 1000.0)},
)  # fmt: skip
def _omega_lee_kesler(f: Fraction) -> Array:
    t = f.nbp / f.known["Tc"]
    ln_p = np.log(f.known["Pc"] / 101325.0)
    low = (-ln_p - 5.92714 + 6.09648 / t + 1.28862 * np.log(t) - 0.169347 * t**6) / (
        15.2518 - 15.6875 / t - 13.4721 * np.log(t) + 0.43577 * t**6
    )
    k = f.watson_k
    high = -7.904 + 0.1352 * k - 0.007465 * k**2 + 8.359 * t + (1.408 - 0.01063 * k) / t
    return np.asarray(np.where(t <= 0.8, low, high))


@_entry(
    "edmister", "omega", "Edmister", "Edmister, Petroleum Refiner 37(4), 173 (1958)",
    "3/7 log10(Pc/atm) / (Tc/Tb − 1) − 1", {"nbp": (230.0, 700.0)},
)  # fmt: skip
def _omega_edmister(f: Fraction) -> Array:
    return np.asarray(3.0 / 7.0 * np.log10(f.known["Pc"] / 101325.0) / (f.known["Tc"] / f.nbp - 1.0) - 1.0)


# --- Ideal-gas heat capacity -------------------------------------------------------------------------------------


@_entry(
    "kesler-lee", "cp", "Kesler–Lee 1976", _KL + "; Riazi, ASTM MNL50 (2005), eq. 6.72",
    "M [A0 + A1 T + A2 T² − C (B0 + B1 T + B2 T²)], coefficients in Watson K and omega", {"watson_k": (10.0, 12.8)},
)  # fmt: skip
def _cp_kesler_lee(f: Fraction) -> Array:
    """Return coefficients (n, 3) of the heat capacity in rising powers of T, J/(mol K); 255 to 922 K."""
    k, w = f.watson_k, f.known["omega"]
    mass = f.known["molar_mass"] * 1e3
    c = np.where((k > 10.0) & (k < 12.8), ((12.8 - k) * (10.0 - k) / (10.0 * w)) ** 2, 0.0)
    a0 = -1.41779 + 0.11828 * k
    a1 = -(6.99724 - 8.69326 * k + 0.27715 * k**2) * 1e-4
    a2 = np.full_like(k, -2.2582e-6)
    b0, b1, b2 = 1.09223 - 2.48245 * w, -(3.434 - 7.14 * w) * 1e-3, -(7.2661 - 9.2561 * w) * 1e-7
    return np.asarray(mass[:, None] * np.stack([a0 - c * b0, a1 - c * b1, a2 - c * b2], axis=-1))


@dataclass(frozen=True)
class Estimated:
    """Properties of n fractions by name (SI; ``cp`` (n, k)), and which lie outside a correlation's range."""

    values: dict[str, Array]
    used: dict[str, Correlation]
    outside: dict[str, NDArray[np.bool_]]


def estimate(
    nbp: Array, sg: Array, choice: dict[str, str] | None = None, given: dict[str, Array] | None = None
) -> Estimated:
    """Return all properties of narrow fractions of boiling points nbp (n,) K and specific gravities sg (n,).

    ``choice`` names the correlation by property where not the default; ``given`` holds values that are known and
    not to be estimated.
    """
    picked = {**DEFAULTS, **(choice or {})}
    known: dict[str, Array] = dict(given or {})
    used, outside = {}, {}
    for name in ORDER:
        if name in known:
            continue
        fraction = Fraction(nbp, sg, known)
        entry = REGISTRY[name][picked[name]]
        known = {**known, name: entry.function(fraction)}
        used[name] = entry
        outside[name] = entry.outside(fraction)
    return Estimated(known, used, outside)
