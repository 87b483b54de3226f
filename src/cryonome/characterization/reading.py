"""From the temperatures as measured to a TBP curve at 1 atm."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import ATM, WATER_DENSITY_60F
from ..errors import DomainError
from ..remarks import Remark, Value, Word, kelvin, measure, pascal
from .averages import mean_average_boiling_point, watson_factor
from .correlations.registry import Fraction
from .correlations.riazi_daubert import molar_mass_riazi
from .curve import ENDS, HIGHEST_END, T_LOW, BoilingCurve, close_curve
from .lab_sample import LabSample
from .methods import CONVERSIONS, DEFAULT_CONVERSIONS, METHODS, Context, Conversion, to_tbp
from .pressure import (
    BAROMETRIC,
    CRACKING,
    CRACKING_FROM,
    MAXWELL_BONNELL,
    cracking_corrected,
    normal_boiling_point,
    to_standard_barometer,
)

Array = NDArray[np.float64]

OPEN_AIR = (60e3, 110e3)
"""Pa. Barometers a D86 can be read at; below, a distillation is sub-atmospheric."""


@dataclass(frozen=True)
class Reading:
    """A boiling curve as read: ``entered`` as measured (its percents on the entered basis, its temperatures at the
    entered pressure), ``tbp`` at 1 atm on ``basis``, the context conversions were made in, and where percents were
    brought to another basis, entered percents and those they became."""

    entered: BoilingCurve
    tbp: BoilingCurve
    basis: str
    context: Context
    moved: tuple[Array, Array] | None = None


def read_curve(sample: LabSample, remarks: list[Remark]) -> Reading:
    """Return the TBP curve of a sample's distillation. Raises ValueError where the points are too few or wrong."""
    method = METHODS[sample.method]
    if sample.loss is not None:
        remarks.append(Remark("correction", "curve.evaporated", "distillation", {"loss": sample.loss}))
    raw = np.asarray(sample.temperature)
    context = _context(sample, raw)
    percent, corrected, initial, final = _at_one_atmosphere(sample, raw, context, remarks)
    shown_percent, shown_raw = sample.percent, raw
    if sample.tail is not None:
        shown_percent, shown_raw = tuple(percent), corrected
    entered = close_curve(
        shown_percent, shown_raw.tolist(), sample.interpolation, sample.ends, (sample.initial, sample.final)
    )
    _tell_ends(sample, entered, remarks)
    basis = sample.basis or method.basis
    moved: tuple[Array, Array] | None = None
    if sample.method != "TBP" and basis != method.basis:
        grid = np.linspace(0.0, 100.0, 201)
        moved = (grid, rebased(np.asarray(percent), corrected, basis, method.basis, context, grid))
        percent = np.interp(percent, *moved).tolist()
        values: dict[str, Value] = {"old": basis, "new": method.basis, "method": method.key, "watson": context.watson_k}
        remarks.append(Remark("correction", "curve.rebased", "curve", values))
    curve = close_curve(percent, corrected.tolist(), sample.interpolation, sample.ends, (initial, final))
    if sample.method == "TBP":
        return Reading(entered, curve, basis, context)
    if sample.tail is not None:
        return Reading(entered, _joined(sample, curve, context, remarks), "volume", context, moved)
    conversion = chosen_conversion(sample, sample.method)
    _tell_conversion(conversion, curve, remarks)
    x = _joint_nodes(curve.fraction, conversion.nodes)
    falls = 100.0 * conversion.nodes[conversion.falls(curve.at(conversion.nodes), context)]
    if falls.size:
        values = {"method": conversion.method, "low": float(falls[0]), "high": float(falls[-1])}
        remarks.append(Remark("warning", "curve.way_falls", "curve", values))
    tbp = _rising(x, to_tbp(curve.at, conversion, x, context), curve, remarks)
    return Reading(entered, tbp, conversion.basis, context, moved)


def chosen_conversion(sample: LabSample, method: str) -> Conversion:
    """Return the conversion of a method: the sample's own for its method, its choices, else the default."""
    own = sample.conversion if method == sample.method else None
    return CONVERSIONS[method][own or sample.conversions.get(method) or DEFAULT_CONVERSIONS[method]]


def _context(sample: LabSample, T: Array) -> Context:
    """Return what conversions ask of the whole sample, from what is known before the curve is read."""
    sg = None if sample.density is None else sample.density / WATER_DENSITY_60F
    if sg is None and sample.density_curve:
        sg = float(np.mean(sample.density_curve.value)) / WATER_DENSITY_60F
    watson = sample.watson_k
    if watson is None and sg is not None and T.size:
        percent = np.asarray(sample.percent, float)
        if sample.tail is not None:
            # The front of a curve in two pieces may end before its middle.
            percent = np.concatenate([percent, sample.tail.percent])
            T = np.concatenate([T, normal_boiling_point(np.asarray(sample.tail.temperature), sample.tail.pressure)])
        elif sample.pressure < OPEN_AIR[0]:
            T = normal_boiling_point(T, sample.pressure)
        watson = _watson_of_points(percent, T, sample.basis or METHODS[sample.method].basis, sg)
    return Context(sg, 12.0 if watson is None else watson)


def _watson_of_points(percent: Array, T: Array, basis: str, sg: float) -> float:
    """Return the Watson factor of a whole of specific gravity sg, from points (n,) in percent and K of its curve on a
    basis.

    Beyond its points the curve goes on straight; amounts on the other bases are those of one Watson factor throughout.
    """
    order = np.argsort(percent, kind="stable")
    middle = (np.arange(100) + 0.5) / 100.0
    at, known = percent[order] / 100.0, T[order]
    nbp = np.interp(middle, at, known)
    if at.size > 1:
        for end, outside in ((slice(0, 2), middle < at[0]), (slice(-2, None), middle > at[-1])):
            (a, b), (low, high) = at[end], known[end]
            nbp = np.where(outside, low + (middle - a) * (high - low) / max(b - a, 0.01), nbp)
    nbp = np.clip(nbp, T_LOW, HIGHEST_END)
    watson = watson_factor(float(nbp.mean()), sg)
    for _ in range(4):
        slices = np.cbrt(1.8 * nbp) / np.clip(watson, 9.0, 14.0)
        mass = molar_mass_riazi(Fraction(nbp, slices))
        amounts = (per_unit(basis, wanted, slices, mass) for wanted in ("volume", "mole"))
        watson = watson_factor(mean_average_boiling_point(nbp, *amounts), sg)
    return float(np.clip(watson, 9.0, 14.0))


def _at_one_atmosphere(
    sample: LabSample, raw: Array, context: Context, remarks: list[Remark]
) -> tuple[list[float], Array, float | None, float | None]:
    """Return percents and temperatures (n,) K at 1 atm, and the given ends likewise."""
    P, method = sample.pressure, METHODS[sample.method]
    changes: list[Callable[[Array], Array]] = []
    told: tuple[str, dict[str, Value]]
    if abs(P / ATM - 1.0) > 1e-6:
        if method.sub_atmospheric:
            changes.append(lambda T: normal_boiling_point(T, P, context.watson_k))
            told = "curve.from_vacuum", {"P": pascal(P), "by": MAXWELL_BONNELL, "watson": context.watson_k}
        elif OPEN_AIR[0] <= P <= OPEN_AIR[1]:
            changes.append(lambda T: to_standard_barometer(T, P))
            told = "curve.from_barometer", {"P": pascal(P), "by": BAROMETRIC}
        else:
            raise DomainError(
                f"a {sample.method} is read in the open, at 600 to 1100 mbar; for {P / 100:.4g} mbar use D1160 or TBP"
            )
        remarks.append(Remark("correction", told[0], "curve", told[1]))
    if sample.cracking and sample.method in ("D86", "D86+D1160"):
        changes.append(cracking_corrected)
        if raw.size and raw.max() > CRACKING_FROM:
            most = float(np.max(cracking_corrected(raw) - raw))
            values: dict[str, Value] = {
                "above": kelvin(CRACKING_FROM, 0),
                "most": measure(most, "temperature_difference"),
                "by": CRACKING,
            }
            remarks.append(Remark("correction", "curve.cracking", "curve", values))

    def at_one(T: Array) -> Array:
        for change in changes:
            T = change(T)
        return T

    initial = None if sample.initial is None else float(at_one(np.array(sample.initial)))
    final = None if sample.final is None else float(at_one(np.array(sample.final)))
    percent, T = list(sample.percent), at_one(raw)
    if sample.tail is not None:
        if not sample.tail.percent or not percent:
            raise DomainError("a D86 front with a D1160 tail needs points in both")
        tail = normal_boiling_point(np.asarray(sample.tail.temperature), sample.tail.pressure, context.watson_k)
        if sample.tail.percent and percent and sample.tail.percent[0] <= percent[-1]:
            raise DomainError(
                f"the tail begins at {sample.tail.percent[0]:g} %, where the front reaches {percent[-1]:g} %; "
                "give the tail above the front"
            )
        percent, T = percent + list(sample.tail.percent), np.concatenate([T, tail])
        if (np.diff(T) <= 0.0).any():
            raise DomainError(
                "the tail, brought to 1 atm, does not continue the front: its temperatures fall below; check the "
                "pressure of the tail"
            )
        values = {"P": pascal(sample.tail.pressure), "by": MAXWELL_BONNELL}
        remarks.append(Remark("correction", "curve.tail", "curve", values))
    return percent, T, initial, final


def _joined(sample: LabSample, curve: BoilingCurve, context: Context, remarks: list[Remark]) -> BoilingCurve:
    """Return the TBP curve of a D86 front with a D1160 tail."""
    front, tail = chosen_conversion(sample, "D86"), chosen_conversion(sample, "D1160")
    for conversion in (front, tail):
        _tell_conversion(conversion, curve, remarks)
    assert sample.tail is not None
    end, begin = sample.percent[-1] / 100.0, sample.tail.percent[0] / 100.0
    nodes = _joint_nodes(curve.fraction, np.unique(np.concatenate([front.nodes, tail.nodes])))
    low, high = nodes[nodes <= end + 1e-12], nodes[nodes >= begin - 1e-12]
    T = np.concatenate([to_tbp(curve.at, front, low, context), to_tbp(curve.at, tail, high, context)])
    return _rising(np.concatenate([low, high]), T, curve, remarks)


def _joint_nodes(entered: Array, nodes: Array) -> Array:
    """Return entered fractions and a conversion's nodes in order; of two that nearly coincide the end or the node
    stays."""
    near = np.abs(entered[:, None] - nodes).min(axis=1) < 5e-4
    kept = entered[~near | (entered == 0.0) | (entered == 1.0)]
    return np.unique(np.concatenate([kept, nodes]))


def _rising(x: Array, T: Array, source: BoilingCurve, remarks: list[Remark]) -> BoilingCurve:
    """Return the curve through converted nodes; where they fall back they are held level, and it is said."""
    level = np.maximum.accumulate(T)
    if (level - T).max() > 0.5:
        worst = int(np.argmax(level - T))
        fall = measure(level[worst] - T[worst], "temperature_difference")
        values: dict[str, Value] = {"fall": fall, "percent": 100 * float(x[worst])}
        remarks.append(Remark("warning", "curve.falls_back", "curve", values))
    held = source.held
    if level[-1] > HIGHEST_END + 1.0:
        values = {"end": kelvin(level[-1], 0), "held": kelvin(HIGHEST_END, 0)}
        remarks.append(Remark("warning", "curve.end_held", "curve", values))
        level, held = np.minimum(level, HIGHEST_END), (*held, "high")
    steps = np.maximum(np.diff(level), 1e-4)
    rising = np.concatenate([[level[0]], level[0] + np.cumsum(steps)])
    return BoilingCurve(x, rising, source.closed_low, source.closed_high, source.interpolation, held)


def _tell_conversion(conversion: Conversion, curve: BoilingCurve, remarks: list[Remark]) -> None:
    values: dict[str, Value] = {"method": conversion.method, "by": conversion.title, "limits": conversion.limits}
    remarks.append(Remark("estimate", "curve.converted", "curve", values))
    if conversion.outside(curve.at(conversion.nodes)):
        remarks.append(Remark("extrapolation", "curve.beyond_conversion", "curve", values))


def _tell_ends(sample: LabSample, curve: BoilingCurve, remarks: list[Remark]) -> None:
    how = Word(f"ends.{sample.ends if sample.ends in ENDS else 'probability'}")
    for closed, end, percent in ((curve.closed_low, 0, 0), (curve.closed_high, -1, 100)):
        if closed:
            values: dict[str, Value] = {"percent": percent, "T": kelvin(curve.temperature[end], 0), "how": how}
            remarks.append(Remark("extrapolation", "curve.closed", "curve", values))
    rest = 100.0 * (1.0 - curve.fraction[-2])
    if "high" in curve.held:
        values = {"percent": 100 * float(curve.fraction[-2]), "T": kelvin(curve.temperature[-1], 0)}
        remarks.append(Remark("warning", "curve.residue_held", "curve", values))
    elif curve.closed_high and rest > 30.0:
        values = {"percent": 100 * float(curve.fraction[-2]), "rest": float(rest)}
        remarks.append(Remark("warning", "curve.long_residue", "curve", values))


def rebased(percent: Array, T: Array, old: str, new: str, context: Context, wanted: Array) -> Array:
    """Return percents ``wanted`` (m,) on another basis, along the curve of points (n,), T in K.

    A constant Watson factor gives the densities, Riazi and Daubert (1987) the molar masses.
    """
    curve = close_curve(percent.tolist(), T.tolist())
    edges = np.linspace(0.0, 1.0, 401)
    nbp = curve.mean(edges)
    sg = np.cbrt(1.8 * nbp) / context.watson_k
    weight = per_unit(old, new, sg, molar_mass_riazi(Fraction(nbp, sg)))
    along = np.concatenate([[0.0], np.cumsum(weight)])
    return np.asarray(100.0 * np.interp(wanted / 100.0, edges, along / along[-1]))


def per_unit(old: str, new: str, sg: Array, mass: Array) -> Array:
    """Return the amount (n,) on the basis ``new`` of a unit on ``old``, of fractions of specific gravities sg (n,)
    and molar masses mass (n,) kg/mol."""
    density = sg * WATER_DENSITY_60F
    moles = {"volume": density / mass, "mass": 1.0 / mass, "mole": np.ones_like(mass)}[old]
    return np.asarray({"volume": moles * mass / density, "mass": moles * mass, "mole": moles}[new])
