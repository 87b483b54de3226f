"""From the temperatures as measured to a TBP curve at 1 atm."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import ATM, WATER_DENSITY_60F
from .correlations.registry import Fraction
from .correlations.riazi_daubert import molar_mass_riazi
from .curve import ENDS, HIGHEST_END, BoilingCurve, close_curve
from .lab_sample import LabSample, Remark
from .methods import CONVERSIONS, DEFAULT_CONVERSIONS, METHODS, Context, Conversion, to_tbp
from .pressure import (
    BAROMETRIC,
    CRACKING,
    CRACKING_FROM,
    MAXWELL_BONNELL,
    MMHG,
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
    entered pressure), ``tbp`` at 1 atm on ``basis``, the context conversions were made in, and where percents were brought
    to another basis, entered percents and those they became."""

    entered: BoilingCurve
    tbp: BoilingCurve
    basis: str
    context: Context
    moved: tuple[Array, Array] | None = None


def read_curve(sample: LabSample, remarks: list[Remark]) -> Reading:
    """Return the TBP curve of a sample's distillation. Raises ValueError where the points are too few or wrong."""
    method = METHODS[sample.method]
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
        text = (
            f"The percents by {basis} are brought to those by {method.basis} that {method.key} is read on, with a "
            f"constant Watson K of {context.watson_k:.2f}."
        )
        remarks.append(Remark("correction", text, "curve"))
    curve = close_curve(percent, corrected.tolist(), sample.interpolation, sample.ends, (initial, final))
    if sample.method == "TBP":
        return Reading(entered, curve, basis, context)
    if sample.tail is not None:
        return Reading(entered, _joined(sample, curve, context, remarks), "volume", context, moved)
    conversion = chosen_conversion(sample, sample.method)
    _tell_conversion(conversion, curve, remarks)
    x = _joint_nodes(curve.fraction, conversion.nodes)
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
        pressure = sample.tail.pressure if sample.tail is not None else sample.pressure
        mean = float(np.interp(50.0, sample.percent, T))
        if pressure < OPEN_AIR[0] and sample.tail is None:
            mean = float(normal_boiling_point(mean, pressure))
        watson = float(np.clip(np.cbrt(1.8 * mean) / sg, 9.0, 14.0))
    return Context(sg, 12.0 if watson is None else watson)


def _at_one_atmosphere(
    sample: LabSample, raw: Array, context: Context, remarks: list[Remark]
) -> tuple[list[float], Array, float | None, float | None]:
    """Return percents and temperatures (n,) K at 1 atm, and the given ends likewise."""
    P, method = sample.pressure, METHODS[sample.method]
    changes: list[Callable[[Array], Array]] = []
    if abs(P / ATM - 1.0) > 1e-6:
        if method.sub_atmospheric:
            changes.append(lambda T: normal_boiling_point(T, P, context.watson_k))
            text = f"Temperatures at {P / MMHG:.4g} mmHg are brought to 1 atm by {MAXWELL_BONNELL}, with a Watson K of {context.watson_k:.2f}."
        elif OPEN_AIR[0] <= P <= OPEN_AIR[1]:
            changes.append(lambda T: to_standard_barometer(T, P))
            text = f"Temperatures read at {P / 100:.1f} mbar are brought to 1 atm by {BAROMETRIC}."
        else:
            raise ValueError(
                f"a {sample.method} is read in the open, at 600 to 1100 mbar; for {P / 100:.4g} mbar use D1160 or TBP"
            )
        remarks.append(Remark("correction", text, "curve"))
    if sample.cracking and sample.method in ("D86", "D86+D1160"):
        changes.append(cracking_corrected)
        if raw.size and raw.max() > CRACKING_FROM:
            most = float(np.max(cracking_corrected(raw) - raw))
            text = (
                f"D86 temperatures above 246 °C are corrected for thermal cracking, by up to {most:.1f} K ({CRACKING})."
            )
            remarks.append(Remark("correction", text, "curve"))

    def at_one(T: Array) -> Array:
        for change in changes:
            T = change(T)
        return T

    initial = None if sample.initial is None else float(at_one(np.array(sample.initial)))
    final = None if sample.final is None else float(at_one(np.array(sample.final)))
    percent, T = list(sample.percent), at_one(raw)
    if sample.tail is not None:
        if not sample.tail.percent or not percent:
            raise ValueError("a D86 front with a D1160 tail needs points in both")
        tail = normal_boiling_point(np.asarray(sample.tail.temperature), sample.tail.pressure, context.watson_k)
        if sample.tail.percent and percent and sample.tail.percent[0] <= percent[-1]:
            raise ValueError(
                f"the tail begins at {sample.tail.percent[0]:g} %, where the front reaches {percent[-1]:g} %; "
                "give the tail above the front"
            )
        percent, T = percent + list(sample.tail.percent), np.concatenate([T, tail])
        if (np.diff(T) <= 0.0).any():
            raise ValueError(
                "the tail, brought to 1 atm, does not continue the front: its temperatures fall below; check the "
                "pressure of the tail"
            )
        text = f"The tail at {sample.tail.pressure / MMHG:.4g} mmHg is brought to 1 atm by {MAXWELL_BONNELL}."
        remarks.append(Remark("correction", text, "curve"))
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
    """Return entered fractions and a conversion's nodes in order; of two that nearly coincide the end or the node stays."""
    near = np.abs(entered[:, None] - nodes).min(axis=1) < 5e-4
    kept = entered[~near | (entered == 0.0) | (entered == 1.0)]
    return np.unique(np.concatenate([kept, nodes]))


def _rising(x: Array, T: Array, source: BoilingCurve, remarks: list[Remark]) -> BoilingCurve:
    """Return the curve through converted nodes; where they fall back they are held level, and it is said."""
    level = np.maximum.accumulate(T)
    if (level - T).max() > 0.5:
        worst = int(np.argmax(level - T))
        text = (
            f"The converted curve falls back by {level[worst] - T[worst]:.1f} K at {100 * x[worst]:g} %; it is held "
            "level there. The sample is wider than the conversion was made for."
        )
        remarks.append(Remark("warning", text, "curve"))
    held = source.held
    if level[-1] > HIGHEST_END + 1.0:
        text = (
            f"The converted curve would end at {level[-1] - 273.15:.0f} °C; it is held at {HIGHEST_END - 273.15:.0f} °C. Give a "
            "lower final point."
        )
        remarks.append(Remark("warning", text, "curve"))
        level, held = np.minimum(level, HIGHEST_END), (*held, "high")
    steps = np.maximum(np.diff(level), 1e-4)
    rising = np.concatenate([[level[0]], level[0] + np.cumsum(steps)])
    return BoilingCurve(x, rising, source.closed_low, source.closed_high, source.interpolation, held)


def _tell_conversion(conversion: Conversion, curve: BoilingCurve, remarks: list[Remark]) -> None:
    remarks.append(Remark("estimate", f"{conversion.method} to TBP at 1 atm: {conversion.title}.", "curve"))
    if conversion.outside(curve.at(conversion.nodes)):
        text = f"The {conversion.method} curve is outside the range of {conversion.title} ({conversion.limits})."
        remarks.append(Remark("extrapolation", text, "curve"))


def _tell_ends(sample: LabSample, curve: BoilingCurve, remarks: list[Remark]) -> None:
    how = {
        "probability": "along the probability scale through the two outer points",
        "distribution": "by the distribution fitted to all points",
        "linear": "straight through the two outer points",
        "given": "along the probability scale through the two outer points",
    }[sample.ends if sample.ends in ENDS else "probability"]
    for closed, end, where in ((curve.closed_low, 0, "0 %"), (curve.closed_high, -1, "100 %")):
        if closed:
            text = f"The curve is continued to {where} at {curve.temperature[end] - 273.15:.0f} °C {how}."
            remarks.append(Remark("extrapolation", text, "curve"))
    rest = 100.0 * (1.0 - curve.fraction[-2])
    if "high" in curve.held:
        text = (
            f"The residue above {100 * curve.fraction[-2]:g} % cannot be extrapolated: the line through the last points "
            f"leaves the range of boiling points. It is held at {curve.temperature[-1] - 273.15:.0f} °C; give the final point."
        )
        remarks.append(Remark("warning", text, "curve"))
    elif curve.closed_high and rest > 30.0:
        text = (
            f"The curve ends at {100 * curve.fraction[-2]:g} %: {rest:.0f} % of the sample rest on the extrapolation. "
            "Give more points or the final point."
        )
        remarks.append(Remark("warning", text, "curve"))


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
