"""The ways a boiling curve is measured, and how each is turned into a TBP curve at 1 atm and back.

Conversions are defined at a few percents; between them their shift is interpolated, so that every entered point keeps
its place on the converted curve and a round trip returns to where it began. Everything that lists, selects or documents
methods reads :data:`METHODS` and :data:`CONVERSIONS`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import ATM
from .monotone import Monotone
from .pressure import MAXWELL_BONNELL, MMHG, boiling_point_at, normal_boiling_point

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Curve = Callable[[Array], Array]
"""Temperature (n,) K at distilled fractions (n,)."""

TEN_MMHG = 10.0 * MMHG

HOTTEST = 720.0 + 273.15
"""K at 1 atm, the highest any test reports (ASTM D7169, simulated distillation of residues)."""


@dataclass(frozen=True)
class Method:
    """A distillation method: its key, what it is called, the basis and pressure it is reported on."""

    key: str
    title: str
    basis: str
    pressure: float
    sub_atmospheric: bool = False
    hottest: float = HOTTEST
    """K, as reported at 1 atm. What a conversion gives above is no number."""


CARBON = "carbon-number"
"""The method of chromatographic analyses, which are no curve."""

TWO_PART = "D86+D1160"
"""The method of curves measured in two pieces."""

METHODS: dict[str, Method] = {
    m.key: m
    for m in (
        Method("TBP", "true boiling point", "volume", ATM, True, float("inf")),
        Method("D86", "ASTM D86", "volume", ATM),
        Method("D1160", "ASTM D1160", "volume", TEN_MMHG, True),
        Method("D2887", "ASTM D2887, simulated distillation", "mass", ATM),
        Method("EFV", "equilibrium flash vaporization", "volume", ATM),
        Method(TWO_PART, "ASTM D86 with a D1160 tail", "volume", ATM),
        Method(CARBON, "chromatographic analysis by carbon number", "mass", ATM),
    )
}
"""Every method by its key."""

SHOWN = ("TBP", "D86", "D1160", "D2887", "EFV")
"""The methods any sample can be shown as."""


@dataclass(frozen=True)
class Context:
    """What a conversion may need beside the curve: specific gravity and Watson factor of the whole sample."""

    specific_gravity: float | None = None
    watson_k: float = 12.0


@dataclass(frozen=True)
class Conversion:
    """A published conversion of a method to TBP at 1 atm, given at the distilled fractions ``nodes`` (n,).

    ``forward`` turns the method's temperatures (n,) K at the nodes into TBP, ``backward`` the reverse; ``limits``
    names the published range, ``outside`` tells which steps of the method's node temperatures lie outside it.
    """

    key: str
    method: str
    title: str
    source: str
    formula: str
    limits: str
    nodes: Array
    forward: Callable[[Array, Context], Array]
    backward: Callable[[Array, Context], Array]
    outside: Callable[[Array], bool]
    basis: str = "volume"
    """The basis of the TBP curve it gives."""
    falls: Callable[[Array, Context], Mask] = lambda T, _c: np.zeros(T.size, bool)
    """Which nodes are passed over, since the curve it goes through on its way would fall there."""


CONVERSIONS: dict[str, dict[str, Conversion]] = {key: {} for key in SHOWN}
DEFAULT_CONVERSIONS = {
    "TBP": "none",
    "D86": "api-1994",
    "D1160": "edmister-okamoto",
    "D2887": "api-1994",
    "EFV": "riazi-daubert-1986",
}


def _enter(conversion: Conversion) -> None:
    CONVERSIONS[conversion.method][conversion.key] = conversion


# --- by differences from the mid point ---------------------------------------------------------------------------


@dataclass(frozen=True)
class _Step:
    """A power law between the differences of two neighbouring nodes, in K: TBP = a * other^b up to ``most``.

    Above ``most`` the difference grows one to one, since a power law far outside its data says nothing.
    """

    a: float
    b: float
    most: float

    def forward(self, x: float) -> float:
        x = max(x, 0.0)
        inside = min(x, self.most)
        return float(self.a * inside**self.b + x - inside)

    def backward(self, y: float) -> float:
        y = max(y, 0.0)
        top = self.a * self.most**self.b
        return float((y / self.a) ** (1.0 / self.b)) if y <= top else self.most + y - top


@dataclass(frozen=True)
class _Polynomial:
    """A cubic between the differences of two nodes, in K, one to one above ``most``; zero stays zero."""

    c: tuple[float, float, float, float]
    most: float

    def forward(self, x: float) -> float:
        x = max(x, 0.0)
        inside = min(x, self.most)
        value = self.c[0] + inside * (self.c[1] + inside * (self.c[2] + inside * self.c[3]))
        # The constant of the fit would part two equal temperatures.
        return value * min(inside, 1.0) + x - inside

    def backward(self, y: float) -> float:
        y = max(y, 0.0)
        low, high = 0.0, max(self.most, y) + y + 1.0
        for _ in range(80):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if self.forward(middle) < y else (low, middle)
        return 0.5 * (low + high)


class _Differences:
    """A conversion by a relation at 50 % and steps from there outwards; ``steps`` from the last pair to the first."""

    def __init__(
        self, nodes: Array, steps: tuple[_Step | _Polynomial | None, ...], middle: tuple[float, float] = (1.0, 1.0)
    ) -> None:
        self.nodes, self.steps, self.middle = nodes, tuple(reversed(steps)), middle
        self.centre = int(np.flatnonzero(nodes == 0.5)[0])

    def _build(self, T: Array, centre: float, way: str) -> Array:
        gaps = []
        for step, gap in zip(self.steps, np.diff(T)):
            gaps.append(float(gap) if step is None else float(getattr(step, way)(float(gap))))
        out = np.concatenate([[0.0], np.cumsum(gaps)])
        return np.asarray(centre + out - out[self.centre])

    def forward(self, T: Array, _context: Context) -> Array:
        factor, power = self.middle
        reach = max(T[self.centre] - 255.4, 1.0)
        centre = T[self.centre] if self.middle == (1.0, 1.0) else 255.4 + factor * reach**power
        return self._build(T, float(centre), "forward")

    def backward(self, T: Array, _context: Context) -> Array:
        factor, power = self.middle
        reach = max(T[self.centre] - 255.4, 1.0)
        centre = T[self.centre] if self.middle == (1.0, 1.0) else 255.4 + (reach / factor) ** (1.0 / power)
        return self._build(T, float(centre), "backward")

    def outside(self, T: Array) -> bool:
        return any(s is not None and gap > s.most for s, gap in zip(self.steps, np.diff(T)))


_API = "Daubert, Hydrocarbon Processing 73(9), 75 (1994); API Technical Data Book, procedure "
_POWER = "TBP(50 %) from the 50 % point; differences of neighbouring points A·X^B"

_D86_API = _Differences(
    np.array([0.0, 0.1, 0.3, 0.5, 0.7, 0.9, 1.0]),
    (
        _Step(0.1403, 1.6606, 55.0),
        _Step(2.6339, 0.7550, 55.0),
        _Step(2.2744, 0.8200, 85.0),
        _Step(2.6956, 0.8008, 140.0),
        _Step(4.1481, 0.7164, 140.0),
        _Step(5.8589, 0.6024, 55.0),
    ),
    (0.8851, 1.0258),
)
_enter(
    Conversion(
        "api-1994", "D86", "API 1994", _API + "3A1.1", _POWER,
        "differences up to 55 K (0–10, 70–90 %), 140 K (10–50 %), 85 K (50–70 %)",
        _D86_API.nodes, _D86_API.forward, _D86_API.backward, _D86_API.outside,
    )
)  # fmt: skip

_SD_API = _Differences(
    np.array([0.05, 0.1, 0.3, 0.5, 0.7, 0.9, 0.95, 1.0]),
    (
        _Step(0.03849, 1.9733, 15.0),
        _Step(0.90427, 0.8723, 20.0),
        _Step(0.37475, 1.2938, 40.0),
        _Step(0.25088, 1.3975, 40.0),
        _Step(0.08055, 1.6988, 40.0),
        _Step(0.02175, 2.0253, 40.0),
        _Step(0.20312, 1.4296, 20.0),
    ),
)
_enter(
    Conversion(
        "api-1994",
        "D2887",
        "API 1994",
        _API + "3A3.1",
        "TBP(50 vol%) = SD(50 mass%); differences of neighbouring points C·W^D",
        "differences up to 20 K (5–10, 90–95 %), 40 K (10–90 %), 15 K (95–100 %)",
        _SD_API.nodes,
        _SD_API.forward,
        _SD_API.backward,
        _SD_API.outside,
    )
)

_EO = _Polynomial((0.3, 1.2775, -5.539e-3, 2.7486e-5), 100.0)
_D1160 = _Differences(
    np.array([0.0, 0.1, 0.3, 0.5, 1.0]),
    (None, _EO, _EO, _Polynomial((0.0, 2.2566, -266.2e-4, 1.4093e-4), 75.0)),
)


def _at_ten(way: Callable[[Array, Context], Array]) -> Callable[[Array, Context], Array]:
    """Wrap a conversion at 10 mmHg between atmospheric equivalents."""

    def convert(T: Array, context: Context) -> Array:
        under = boiling_point_at(T, TEN_MMHG, context.watson_k)
        return normal_boiling_point(way(under, context), TEN_MMHG, context.watson_k)

    return convert


_enter(
    Conversion(
        "edmister-okamoto",
        "D1160",
        "Edmister–Okamoto 1959",
        "Edmister and Okamoto, Petroleum Refiner 38(8), 117 (1959); Riazi, ASTM MNL50 (2005), eqs. 3.34 and 3.35",
        "at 10 mmHg: equal from 50 % on, cubics of the differences below; pressures by Maxwell–Bonnell",
        "differences at 10 mmHg up to 100 K (10–50 %), 75 K (0–10 %)",
        _D1160.nodes,
        _at_ten(_D1160.forward),
        _at_ten(_D1160.backward),
        _D1160.outside,
    )
)


# --- power laws at each percent ----------------------------------------------------------------------------------

_RD_NODES = np.array([0.0, 0.1, 0.3, 0.5, 0.7, 0.9, 0.95])
_RD_A = np.array([0.9177, 0.5564, 0.7617, 0.9013, 0.8821, 0.9552, 0.8177])
_RD_B = np.array([1.0019, 1.0900, 1.0425, 1.0176, 1.0226, 1.0110, 1.0355])
_RD = "Riazi and Daubert, Oil Gas J. 84(34), 51 (1986); Riazi, ASTM MNL50 (2005), "
_enter(
    Conversion(
        "riazi-daubert-1986",
        "D86",
        "Riazi–Daubert 1986",
        _RD + "eq. 3.14 and table 3.1",
        "TBP = a·D86^b at each percent",
        "D86 of 20 to 400 °C",
        _RD_NODES,
        lambda T, _c: _RD_A * T**_RD_B,
        lambda T, _c: (T / _RD_A) ** (1.0 / _RD_B),
        lambda T: bool((T < 293.0).any() or (T > 673.0).any()),
    )
)

_EFV_NODES = np.array([0.0, 0.1, 0.3, 0.5, 0.7, 0.9, 1.0])
_EFV_A = np.array([2.9747, 1.4459, 0.8506, 3.2680, 8.2873, 10.6266, 7.9952])
_EFV_B = np.array([0.8466, 0.9511, 1.0315, 0.8274, 0.6871, 0.6529, 0.6949])
_EFV_C = np.array([0.4209, 0.1287, 0.0817, 0.6214, 0.9340, 1.1025, 1.0737])


def _efv_gravity(d86: Array, context: Context) -> float:
    if context.specific_gravity is not None:
        return context.specific_gravity
    return float(0.08342 * d86[1] ** 0.10731 * d86[3] ** 0.26288)


def _efv_to_d86(T: Array, context: Context) -> Array:
    d86 = T
    # The gravity may hang on the D86 curve looked for; its powers are small, so this settles fast.
    for _ in range(30):
        d86 = (T / (_EFV_A * _efv_gravity(d86, context) ** _EFV_C)) ** (1.0 / _EFV_B)
    return np.asarray(d86)


def _efv_to_tbp(T: Array, context: Context) -> Array:
    d86 = _efv_to_d86(T, context)
    out = fallen(d86)
    if out.any() and (~out).sum() > 1:
        # Where it would fall it goes straight from the node before to the one behind; beyond the outermost, as steep
        # as next to it.
        kept = np.flatnonzero(~out)
        d86 = np.interp(_EFV_NODES, _EFV_NODES[kept], d86[kept])
        for end, rows in ((kept[:2], slice(0, kept[0])), (kept[-2:], slice(kept[-1] + 1, None))):
            slope = (d86[end[1]] - d86[end[0]]) / (_EFV_NODES[end[1]] - _EFV_NODES[end[0]])
            d86[rows] += slope * (
                _EFV_NODES[rows] - np.clip(_EFV_NODES[rows], _EFV_NODES[kept[0]], _EFV_NODES[kept[-1]])
            )
    return _D86_API.forward(d86, context)


FALL = 0.5
"""K by which a converted curve may fall back before it is told; less is held level."""


def fallen(T: Array) -> Mask:
    """Return which points (n,) of a curve lie below one before them or above one behind them, by more than
    :data:`FALL`."""
    before, behind = np.maximum.accumulate(T), np.minimum.accumulate(T[::-1])[::-1]
    return np.asarray((before - T > FALL) | (T - behind > FALL))


def _tbp_to_efv(T: Array, context: Context) -> Array:
    d86 = _D86_API.backward(T, context)
    return np.asarray(_EFV_A * d86**_EFV_B * _efv_gravity(d86, context) ** _EFV_C)


_enter(
    Conversion(
        "riazi-daubert-1986", "EFV", "Riazi–Daubert 1986", _RD + "eqs. 3.15, 3.17 and table 3.4; D86 to TBP by API 1994",
        "EFV = a·D86^b·SG^c at each percent", "EFV of 40 to 440 °C", _EFV_NODES, _efv_to_tbp, _tbp_to_efv,
        lambda T: bool((T < 313.0).any() or (T > 713.0).any()), falls=lambda T, c: fallen(_efv_to_d86(T, c)),
    )
)  # fmt: skip


# --- no conversion -----------------------------------------------------------------------------------------------


def _same(T: Array, _context: Context) -> Array:
    return T


for _method, _key, _title, _source in (
    ("TBP", "none", "none needed", "the TBP curve itself"),
    (
        "D2887",
        "equal",
        "taken as TBP by mass",
        "simulated distillation is made to agree with TBP; wide-boiling samples",
    ),
    ("D1160", "maxwell-bonnell", "pressure only", MAXWELL_BONNELL),
):
    _enter(
        Conversion(
            _key, _method, _title, _source, "equal temperatures", "", np.array([0.0, 0.5, 1.0]), _same, _same,
            lambda _T: False, "mass" if _key == "equal" else "volume",
        )
    )  # fmt: skip


def _shift(nodes: Array, difference: Array, x: Array) -> Array:
    """Return a difference given at nodes at other fractions: a monotone cubic, held beyond the outer nodes."""
    return Monotone(nodes, difference)(np.clip(x, nodes[0], nodes[-1]))


def to_tbp(curve: Curve, conversion: Conversion, x: Array, context: Context) -> Array:
    """Return the TBP (n,) K at 1 atm at fractions x (n,) of a method's curve, atmospheric equivalent K."""
    at_nodes = curve(conversion.nodes)
    shift = conversion.forward(at_nodes, context) - at_nodes
    return np.asarray(curve(x) + _shift(conversion.nodes, shift, x))


def from_tbp(curve: Curve, conversion: Conversion, x: Array, context: Context) -> Array:
    """Return a method's temperatures (n,), atmospheric equivalent K, at fractions x (n,) of a TBP curve at 1 atm.

    A conversion of a wide sample may fall back by a little between its nodes; the curve is then held level. Where it
    falls from node to node it is nan."""
    at_nodes = curve(conversion.nodes)
    converted = conversion.backward(at_nodes, context)
    falls = np.interp(x, conversion.nodes, fallen(converted).astype(float)) >= 1.0 - 1e-9
    found = curve(x) + _shift(conversion.nodes, converted - at_nodes, x)
    return np.asarray(np.where(falls, np.nan, np.maximum.accumulate(np.where(falls, -np.inf, found))))
