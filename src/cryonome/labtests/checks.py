"""Whether a lab report agrees with itself: checks that need no model, or next to none, each with a verdict.

Shapes: n rows of a report, nc components.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import AIR_MOLAR_MASS, ATM, R
from ..remarks import Remark, Value, measure, pascal
from .fluid import STANDARD_GAS

Array = NDArray[np.float64]

GOOD, DOUBTFUL, BAD = "good", "doubtful", "bad"
_REMARKS = {GOOD: "estimate", DOUBTFUL: "warning", BAD: "fault"}
RATIOS = (0.2, 0.4)
"""Relative deviations of an equilibrium ratio from its line, up to which it is good and doubtful."""
AIR_DENSITY = AIR_MOLAR_MASS / STANDARD_GAS
"""kg/m3 of air as an ideal gas at 60 degF and 1 atm: a gas of gravity g has g times it."""


@dataclass(frozen=True)
class Drawn:
    """What a check is seen by: points (m,) that are to lie on a ``line`` (m,), each ``good``, ``bad`` or ``beside``
    what is judged, and their ``names`` where they have any; ``x_key`` the key of an answer that tells what x is, else
    its title."""

    title: str
    x: Array
    y: Array
    line: Array
    marks: tuple[str, ...]
    names: tuple[str, ...] = ()
    x_key: str = ""
    x_title: str = ""
    y_title: str = ""


@dataclass(frozen=True)
class Checked:
    """A check: its ``name``, ``verdict``, what to say, the ``rows`` it is about, and what there is to draw, None for
    nothing."""

    name: str
    verdict: str
    remark: Remark
    rows: tuple[int, ...] = ()
    drawn: Drawn | None = None


def _checked(name: str, size: float, limits: tuple[float, float], values: dict[str, Value], rows: Sequence[int] = (), drawn: Drawn | None = None) -> Checked:  # fmt: skip
    verdict = GOOD if size <= limits[0] else DOUBTFUL if size <= limits[1] else BAD
    end = "good" if verdict == GOOD else "bad"
    code = f"check.{name}_{end}"
    return Checked(
        name, verdict, Remark(_REMARKS[verdict], code, "", values), tuple(rows) if verdict != GOOD else (), drawn
    )


def _marks(bad: NDArray[np.bool_], judged: NDArray[np.bool_] | None = None) -> tuple[str, ...]:
    """Return what each point (m,) is."""
    judged = np.ones(bad.size, bool) if judged is None else judged
    return tuple(BAD if b and j else GOOD if j else "beside" for b, j in zip(bad, judged))


def y_function(P: Array, relative: Array, saturation: float) -> Checked | None:
    """Check that Y = (P_sat - P)/(P (V/V_sat - 1)) of an expansion at P (n,) Pa with relative volumes (n,) is a
    straight line in P.

    Standing, *Volumetric and Phase Behavior of Oil Field Hydrocarbon Systems* (1952), ch. 6. Points count by V/V_sat
    - 1, the less of which there is the more an error in it does; None with fewer than four below saturation. Good to
    1 %, doubtful to 3 % of a point (median), of the worst thrice as much."""
    rows = np.flatnonzero((saturation * 0.98 > P) & (relative > 1.002))
    if rows.size < 4:
        return None
    Y = (saturation - P[rows]) / (P[rows] * (relative[rows] - 1.0))
    slope, start = _line(P[rows], Y, (relative[rows] - 1.0) / Y)
    off = Y / (start + slope * P[rows]) - 1.0
    # An error in the volume is told as one in V/V_sat.
    in_volume = np.abs(off) * (relative[rows] - 1.0) / relative[rows]
    worst = int(np.argmax(in_volume))
    bad = rows[in_volume > max(0.004, 4.0 * float(np.median(in_volume)))]
    values: dict[str, Value] = {
        "P": pascal(P[rows[worst]]),
        "off": 100.0 * float(in_volume[worst]),
        "low": pascal(P[rows].min()),
        "high": pascal(P[rows].max()),
    }
    return _checked(
        "y_function",
        float(in_volume.max()),
        (0.006, 0.02),
        values,
        bad.tolist(),
        Drawn(
            "Y-function",
            P[rows],
            Y,
            start + slope * P[rows],
            _marks(np.isin(rows, bad)),
            x_key="pressure_Pa",
            y_title="Y",
        ),
    )


def _line(x: Array, y: Array, weight: Array) -> tuple[float, float]:
    """Return slope and start of the line that most points lie on (n,), by weighted least absolute deviations."""
    w = weight.copy()
    slope = start = 0.0
    for _ in range(30):
        slope, start = np.polyfit(x, y, 1, w=np.sqrt(w * weight))
        w = 1.0 / np.maximum(np.abs(weight * (y - start - slope * x)), 1e-9 * np.abs(weight * y).max())
    return float(slope), float(start)


def expansion_break(P: Array, relative: Array, saturation: float) -> Checked | None:
    """Check that the relative volumes (n,) of an expansion at P (n,) Pa bend at the reported saturation pressure: the
    line of ln V above it meets 1 there.

    None with fewer than two points above. Good to 1 % of pressure or to 0.1 % of volume, doubtful to thrice.
    """
    above = np.flatnonzero(saturation * 1.001 < P)
    if above.size < 2:
        return None
    # Two points tell no curvature; what that may hide is allowed for.
    degree, allowed = (2, 1.0) if above.size > 2 else (1, 3.0)
    fitted = np.polyfit(P[above] - saturation, np.log(relative[above]), degree)
    at = float(np.exp(fitted[-1])) - 1.0
    values: dict[str, Value] = {"P": pascal(saturation), "off": 100.0 * at}
    return _checked("expansion_break", abs(at), (0.003 * allowed, 0.008 * allowed), values, above.tolist())


def rising(name: str, P: Array, values: Array, falls_with_pressure: bool) -> Checked | None:
    """Check that ``values`` (n,) rise as pressure falls, or fall with it; None where they do. What breaks it is
    named."""
    order = np.argsort(-P)
    step = np.diff(values[order])
    bad = np.flatnonzero(step < -1e-9 if falls_with_pressure else step > 1e-9)
    if bad.size == 0:
        return None
    row = int(order[bad[0] + 1])
    told: dict[str, Value] = {"key": name, "P": pascal(P[row])}
    return Checked("order", BAD, Remark("fault", "check.order_bad", "", told), (row,))


def closes(names: Sequence[str], table: Array) -> Checked | None:
    """Check that compositions (n, nc) of all components add up to one, to 0.3 % (doubtful to 1 %); None where no row
    is whole."""
    whole = np.flatnonzero(np.isfinite(table).all(axis=1))
    if whole.size == 0:
        return None
    off = np.abs(table[whole].sum(axis=1) - 1.0)
    worst = int(np.argmax(off))
    values: dict[str, Value] = {"row": int(whole[worst]) + 1, "total": 100.0 * float(table[whole[worst]].sum())}
    return _checked("closes", float(off.max()), (0.003, 0.01), values, whole[off > 0.003].tolist())


@dataclass(frozen=True)
class CellBalance:
    """What a depletion report leaves in the cell: moles of ``liquid`` and ``gas`` per mole of fluid (n,) and the
    liquid's composition ``x`` (n, nc)."""

    liquid: Array
    gas: Array
    x: Array


def cell_balance(
    z: Array, y: Array, produced: Array, liquid_share: Array, Z: Array, P: Array, T: float, cell: float
) -> CellBalance:
    """Return the balance of a depletion of feed z (nc,) with gas y (n, nc), cumulative moles ``produced`` (n,),
    liquid shares (n,) of the cell of ``cell`` m3/mol, and Z (n,) of the gas at P (n,) Pa and T K. Whitson and Torp,
    J. Pet. Technol. 35, 610 (1983), eqs. 1 to 6."""
    drawn = np.diff(produced, prepend=0.0)
    left = z - np.cumsum(drawn[:, None] * y, axis=0)
    gas = P * cell * (1.0 - liquid_share) / (Z * R * T)
    liquid = 1.0 - produced - gas
    with np.errstate(divide="ignore", invalid="ignore"):
        x = (left - gas[:, None] * y) / liquid[:, None]
    return CellBalance(liquid, gas, x)


def depletion_balance(found: CellBalance, z: Array, names: Sequence[str], P: Array) -> Checked:
    """Check that no component of the liquid that a report leaves is negative by more than its error, 0.2 % of the
    feed's amount of it (doubtful to 2 %)."""
    amount = found.liquid[:, None] * found.x / np.maximum(z, 1e-4)
    row, place = divmod(int(np.nanargmin(amount)), amount.shape[1])
    least = float(amount[row, place])
    values: dict[str, Value] = {"name": names[place], "P": pascal(P[row]), "off": -100.0 * least}
    rows = np.flatnonzero((amount < -0.002).any(axis=1))
    return _checked("depletion_balance", max(0.0, -least), (0.002, 0.02), values, rows.tolist())


def two_phase_z(P: Array, produced: Array, Z_two: Array, T: float, cell: float) -> Checked | None:
    """Check reported two-phase Z (n,) against P V/(n R T) of what is left in the cell, to 0.5 % (doubtful to 2 %)."""
    rows = np.flatnonzero(np.isfinite(Z_two) & np.isfinite(produced) & (produced < 0.999))
    if rows.size == 0:
        return None
    own = P[rows] * cell / ((1.0 - produced[rows]) * R * T)
    off = Z_two[rows] / own - 1.0
    worst = int(np.argmax(np.abs(off)))
    values: dict[str, Value] = {"P": pascal(P[rows[worst]]), "off": 100.0 * float(off[worst])}
    return _checked("two_phase_z", float(np.abs(off).max()), (0.005, 0.02), values, rows[np.abs(off) > 0.005].tolist())


def hoffmann_crump(
    components: Sequence[Component], x: Array, y: Array, P: float, T: float, row: int, where: str
) -> Checked | None:
    """Check that the K-values y/x (nc,) of a gas and a liquid at P Pa and T K lie on a line: log(K P) over F = b
    (1/Tb - 1/T).

    Hoffmann, Crump and Hocott, Trans. AIME 198, 1 (1953), with b = (log Pc - log 1 atm)/(1/Tb - 1/Tc). The line is
    through methane to hexanes (that most lie on); what is dilute (below 0.02 %), inorganic gases, and heavier ends,
    which have no sharp boiling point, are drawn but not judged. None with fewer than four. Good to 20 %, doubtful to
    40 % in K."""
    b = np.array([(np.log10(c.Pc) - np.log10(ATM)) / (1.0 / c.nbp - 1.0 / c.Tc) for c in components])
    F = b * (1.0 / np.array([c.nbp for c in components]) - 1.0 / T)
    with np.errstate(divide="ignore", invalid="ignore"):
        value = np.log10(y / x * P / ATM)
    there = np.isfinite(value) & (x > 0) & (y > 0)
    light = [c.kind == "pure" and c.molar_mass < 0.09 and c.family != "inorganic" for c in components]
    judged = there & (x > 2e-4) & (y > 2e-4) & np.array(light)
    rows = np.flatnonzero(judged)
    if rows.size < 4:
        return None
    slope, start = _line(F[rows], value[rows], np.ones(rows.size))
    off = value - start - slope * F
    worst = rows[int(np.argmax(np.abs(off[rows])))]
    size = float(10.0 ** abs(off[worst]) - 1.0)
    values: dict[str, Value] = {
        "name": components[worst].name,
        "off": 100.0 * float(10.0 ** off[worst] - 1.0),
        "where": where,
    }
    drawn = Drawn(
        f"Hoffmann–Crump, {where}",
        F[there],
        value[there],
        start + slope * F[there],
        _marks(np.abs(10.0**off - 1.0)[there] > RATIOS[1], judged[there]),
        tuple(c.name for c, yes in zip(components, there) if yes),
        x_title="F = b (1/Tb − 1/T)",
        y_title="log10(K P / atm)",
    )
    return _checked("hoffmann_crump", size, RATIOS, values, (row,), drawn)


def recombination(z: Array, x: Array, y: Array, reported: float, liquid_volume: float) -> Checked | None:
    """Check that a well stream z (nc,) is the liquid x and the gas y of its separator at the ``reported`` standard
    gas by volume of stock-tank oil, ``liquid_volume`` m3 of which a mole of z gives; the ratio that would reconcile
    them is told. Good to 3 %, doubtful to 8 %."""
    span = y - x
    weight = 1.0 / np.maximum(z, 1e-3)
    share = float((weight * span) @ (z - x) / ((weight * span) @ span))
    if not 0.0 < share < 1.0 or not liquid_volume > 0.0:
        return None
    ratio = share * STANDARD_GAS / liquid_volume
    values: dict[str, Value] = {
        "own": measure(ratio / STANDARD_GAS, "gas_oil_ratio"),
        "given": measure(reported / STANDARD_GAS, "gas_oil_ratio"),
        "off": 100.0 * (reported / ratio - 1.0),
    }
    return _checked("recombination", abs(reported / ratio - 1.0), (0.03, 0.08), values)


def liberation_mass(
    P: Array, factor: Array, gas: Array, density: Array, gravity: Array, residue: float
) -> Checked | None:
    """Check the masses of a liberation (n,): density times volume factor is the residue's density and the mass of the
    gas still to come, to 0.7 % (doubtful to 2 %).

    Gas of a step has its reported gravity; McCain, *The Properties of Petroleum Fluids* (1990), ch. 10.
    """
    order = np.argsort(-P)
    freed = -np.diff(gas[order])
    mass = np.where(freed > 0.0, freed * AIR_DENSITY * gravity[order][1:], 0.0)
    later = np.concatenate([np.cumsum(mass[::-1])[::-1], [0.0]])
    own = (residue + later) / factor[order]
    good = np.flatnonzero(np.isfinite(own) & np.isfinite(density[order]))
    if good.size == 0:
        return None
    off = density[order][good] / own[good] - 1.0
    worst = int(np.argmax(np.abs(off)))
    row = int(order[good[worst]])
    values: dict[str, Value] = {"P": pascal(P[row]), "off": 100.0 * float(off[worst])}
    return _checked(
        "liberation_mass", float(np.abs(off).max()), (0.007, 0.02), values, order[good[np.abs(off) > 0.007]].tolist()
    )


def separator_mass(factor: float, density: float, gas: Array, gravity: Array, tank: float) -> Checked:
    """Check the mass of a train: density of the feed times volume factor is the tank oil's density and the mass of
    all gas (n,), to 1 % (doubtful to 3 %)."""
    own = (tank + float(np.nansum(gas * gravity)) * AIR_DENSITY) / factor
    values: dict[str, Value] = {
        "own": measure(own, "density"),
        "given": measure(density, "density"),
        "off": 100.0 * (density / own - 1.0),
    }
    return _checked("separator_mass", abs(density / own - 1.0), (0.01, 0.03), values)
