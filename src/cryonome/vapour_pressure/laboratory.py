"""The tests of the laboratory, simulated step by step with the fluid's own equation: Reid's bomb, the evacuated cell,
the piston.

ASTM D323: the liquid chamber is filled with sample saturated with air at 0 to 1 degC, the vapour chamber, four times
as large, holds air at 37.8 degC and one atmosphere; joined and brought to 37.8 degC, the gauge tells the pressure
above the atmosphere. ASTM D5191: the same sample in an evacuated cell of five times its volume; the total pressure,
by the standard's line, is the dry vapour pressure equivalent. ASTM D6377: the sample without air is expanded to a
ratio of vapour to liquid volume. ASTM D1267, of liquefied gases: the bomb is filled, a third of the liquid is let
out, and the gauge read at 37.8 degC."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import ATM, R
from ..eos import Equation
from ..equilibrium.measured import Whole
from ..equilibrium.multiphase import flash_all
from ..equilibrium.pair_flash import flash_pair
from ..equilibrium.phases import Phases
from ..equilibrium.saturation import saturation
from ..watch import UNWATCHED, Watch

Array = NDArray[np.float64]

TEST_TEMPERATURE = 310.95
"""K. 37.8 degC, 100 degF: where Reid's and the other tests are read."""
COLD = 273.65
"""K. Half a degree above freezing: where samples are saturated with air."""
CHAMBER = 4.0
"""Volume of the vapour chamber, in volumes of the liquid chamber."""
OXYGEN = 0.21
"""Mole fraction of oxygen in air; the rest stands as nitrogen."""
LEAST_AIR, MOST_AIR = 1e-6, 0.3
"""Moles of air per mole of sample between which saturation is looked for; the most that water holds is 2e-5."""

DVPE = (0.965, 3.78e3)
"""Slope, and Pa below: ASTM D5191, eq. 1, DVPE = 0.965 X - 3.78 kPa."""
DVPE_RANGE = (7e3, 130e3)
"""Pa. What ASTM D5191 is made for."""


LIQUEFIED = 0.5
"""Vapour to liquid volume where a third of the liquid has been let out of a full bomb; ASTM D1267."""


@dataclass(frozen=True)
class Relation:
    """Reid equivalent = ``factor`` times VPCR4 at 37.8 degC + ``offset`` Pa."""

    factor: float
    offset: float

    def __call__(self, vpcr4: float) -> float:
        """Return the Reid equivalent of VPCR4, Pa."""
        return self.factor * vpcr4 + self.offset


LIVE, DEAD = Relation(0.752, 6.07e3), Relation(0.915, 0.0)
"""The relations of ASTM D6377 of samples in a floating piston cylinder, and of those in an open one-litre container."""


@dataclass(frozen=True)
class Specimen:
    """A sample z (nc,), normalised, by an equation that knows air: the places of ``nitrogen`` and ``oxygen``, molar
    masses (nc,) kg/mol, and how states are measured (density by mass, share by volume)."""

    eos: Equation
    z: Array
    nitrogen: int
    oxygen: int
    molar_mass: Array
    whole: Whole

    def with_air(self, moles: float) -> Array:
        """Return mole numbers of a mole of sample with air, (nc,)."""
        out = self.z.copy()
        out[self.nitrogen] += (1.0 - OXYGEN) * moles
        out[self.oxygen] += OXYGEN * moles
        return out

    def state(self, z: Array, conditions: dict[str, float], watch: Watch = UNWATCHED) -> Phases | None:
        """Return a state of mole numbers z (nc,) at two conditions, None where there is none."""
        found = flash_pair(self.eos, z / z.sum(), conditions, self.whole, watch).phases
        return found if bool(found.converged[0]) else None

    def bubble_pressure(self, z: Array, T: float, watch: Watch = UNWATCHED) -> float | None:
        """Return the bubble pressure of mole numbers z (nc,) at T K, Pa; None where there is none."""
        quick = bubble_by_substitution(self.eos, z / z.sum(), T)
        if quick is not None:
            return quick
        found = self.state(z, {"temperature": T, "vapour_fraction": 0.0}, watch)
        return None if found is None else float(found.P[0])


ROUNDS, SETTLED = 80, 1e-12
"""Rounds of substitution for a bubble pressure, and the relative change that ends them."""
DEEP, STEPS = 1e-5, 24
"""Share of the bubble pressure from which an expanded sample is looked for, and the pressures looked at first."""
CLOSE = 1e-13


def bubble_by_substitution(eos: Equation, x: Array, T: float) -> float | None:
    """Return the bubble pressure of x (nc,) at T K by successive substitution, Pa, which at the pressures of these
    tests settles in a few rounds however heavy the sample is; None where it does not."""
    P, y = ATM, np.zeros_like(x)
    for _ in range(ROUNDS):
        state = eos.prepare(np.array([T]), np.array([P]))
        ln_x, Z_x = state.ln_phi(x[None], "liquid")
        ln_y, Z_y = state.ln_phi(y[None], "vapour") if y.any() else (np.zeros_like(ln_x), np.ones(1))
        y = x * np.exp(ln_x[0] - ln_y[0])
        total = float(y.sum())
        if not 0.0 < total < np.inf:
            return None
        y = y / total
        P *= min(max(total, 1e-3), 1e3)
        if abs(total - 1.0) < SETTLED:
            return P if Z_y[0] > 2.0 * Z_x[0] else None
    return None


def air_dissolved(specimen: Specimen, watch: Watch = UNWATCHED) -> float | None:
    """Return the moles of air that saturate a mole of sample at 0.5 degC and one atmosphere: none in a sample that
    boils there by itself. None where there is no liquid there at all."""
    from scipy.optimize import brentq

    alone = specimen.bubble_pressure(specimen.z, COLD, watch)
    if alone is None:
        return None
    if alone >= ATM:
        return 0.0

    def above(moles: float) -> float:
        watch.check()
        found = specimen.bubble_pressure(specimen.with_air(moles), COLD, watch)
        if found is None:
            raise ArithmeticError
        return float(np.log(found / ATM))

    try:
        # Searched from below: at ratios far above the bubble point there is no liquid.
        low, high = 0.0, LEAST_AIR
        while above(high) < 0.0:
            if high == MOST_AIR:
                return None
            low, high = high, min(10.0 * high, MOST_AIR)
        return float(brentq(above, low, high, xtol=1e-12, rtol=1e-10))
    except ArithmeticError:
        return None


def reid_pressure(specimen: Specimen, air: bool = True, watch: Watch = UNWATCHED) -> float | None:
    """Return the Reid vapour pressure of ASTM D323, Pa, without dissolved air where ``air`` is false; None where
    there is no liquid."""
    found = _filled(specimen, air, watch.part(0.0, 0.5))
    if found is None:
        return None
    moles, volume = found
    chamber = CHAMBER * volume * ATM / (R * TEST_TEMPERATURE)
    total = moles.copy()
    total[specimen.nitrogen] += (1.0 - OXYGEN) * chamber
    total[specimen.oxygen] += OXYGEN * chamber
    pressure = _in_volume(specimen, total, (1.0 + CHAMBER) * volume, watch.part(0.5, 1.0))
    return None if pressure is None else pressure - ATM


def dry_pressure(specimen: Specimen, air: bool = True, watch: Watch = UNWATCHED) -> float | None:
    """Return the dry vapour pressure equivalent of ASTM D5191, Pa; None where there is no liquid."""
    found = _filled(specimen, air, watch.part(0.0, 0.5))
    total = None if found is None else _in_volume(specimen, found[0], (1.0 + CHAMBER) * found[1], watch.part(0.5, 1.0))
    return None if total is None else DVPE[0] * total - DVPE[1]


def expanded(eos: Equation, z: Array, whole: Whole, T: float, ratios: Array, watch: Watch = UNWATCHED) -> Array:
    """Return VPCRx of ASTM D6377, Pa, of a sample z (nc,) without air at T K and ``ratios`` (N,) of vapour to liquid
    volume; nan where there is no such state."""
    share = ratios / (1.0 + ratios)
    bubble = bubble_by_substitution(eos, z, T)
    if bubble is None:
        # A live sample boils at pressures where substitution does not settle.
        point = saturation(eos, np.array([T]), z[None], None, watch.part(0.0, 0.2))
        bubble = float(point.P[0]) if point.bubble[0] else None
    out = (
        np.full(ratios.size, np.nan)
        if bubble is None
        else _below(eos, z, whole, T, bubble, share, watch.part(0.2, 0.5))
    )
    rows = np.flatnonzero(np.isnan(out))
    if rows.size:
        # A gas may hold that much liquid between two dew points: every state is looked at.
        known = {"temperature": np.full(rows.size, T), "vapour_volume_fraction": share[rows]}
        found = flash_pair(eos, z, known, whole, watch.part(0.5, 1.0)).phases
        out[rows] = np.where(found.converged, found.P, np.nan)
    return out


def _below(eos: Equation, z: Array, whole: Whole, T: float, bubble: float, share: Array, watch: Watch) -> Array:
    """Return the pressures below a bubble pressure, Pa, at which vapour takes a ``share`` (N,) of the volume; nan
    where none was found."""
    from scipy.optimize.elementwise import find_root

    def filled(lnP: Array) -> Array:
        """Return the share of vapour, nan where the state was not found: none at the bubble pressure, more and more
        below it."""
        watch.check()
        states = flash_all(eos, np.full(lnP.size, T), np.exp(lnP.ravel()), z)
        there = whole(states, ("vapour_volume_fraction",))["vapour_volume_fraction"]
        return np.where(states.converged, there, np.nan).reshape(lnP.shape)

    def lacking(lnP: Array, wanted: Array) -> Array:
        return filled(lnP) - wanted

    grid = np.log(bubble) + np.linspace(np.log(DEEP), 0.0, STEPS)
    there = filled(grid)
    there[-1] = 0.0
    # The last step on the way up to the bubble pressure at which there is as much vapour as wanted.
    last = STEPS - 1 - np.argmax((there >= share[:, None])[:, ::-1], axis=-1)
    rows = np.flatnonzero(there[last] >= share)
    out = np.full(share.size, np.nan)
    if rows.size:
        ends = grid[last[rows]], grid[np.minimum(last[rows] + 1, STEPS - 1)]
        root = find_root(lacking, ends, args=(share[rows],), tolerances={"xatol": CLOSE, "xrtol": CLOSE})
        out[rows] = np.where(root.success, np.exp(root.x), np.nan)
    return out


def _filled(specimen: Specimen, air: bool, watch: Watch) -> tuple[Array, float] | None:
    """Return mole numbers (nc,) and volume m3 of a mole of sample as the cold chamber is filled with it."""
    moles = air_dissolved(specimen, watch) if air else 0.0
    if moles is None:
        return None
    z = specimen.with_air(moles)
    boils = specimen.bubble_pressure(z, COLD, watch)
    if boils is None:
        return None
    # A sample that would boil is kept under its own pressure until the chambers are joined.
    found = specimen.state(z, {"temperature": COLD, "pressure": max(ATM, boils * (1.0 + 1e-9))}, watch)
    if found is None:
        return None
    density = float(specimen.whole(found, ("density",))["density"][0])
    return z, float(z @ specimen.molar_mass) / density


def _in_volume(specimen: Specimen, moles: Array, volume: float, watch: Watch) -> float | None:
    """Return the pressure, Pa, of mole numbers (nc,) in a volume m3 at 37.8 degC."""
    density = float(moles @ specimen.molar_mass) / volume
    found = specimen.state(moles, {"temperature": TEST_TEMPERATURE, "density": density}, watch)
    return None if found is None else float(found.P[0])
