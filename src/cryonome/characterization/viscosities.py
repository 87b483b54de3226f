"""The viscosity of the slices: estimated, then moved to what was measured."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..components.oil_density import expanded_density
from ..constants import WATER_DENSITY_60F
from ..remarks import Remark, Value, Word, kelvin, measure
from .assay import CLASH, Assay
from .correlations import DEFAULTS, REGISTRY, TEST_TEMPERATURES, Fraction
from .lab_sample import LabSample, ViscosityCurve, ViscosityPoint
from .property_curves import PropertyPoints, beyond, shifted
from .viscosity import from_index, index

Array = NDArray[np.float64]


def measured_viscosities(
    sample: LabSample, assay: Assay, remarks: list[Remark]
) -> tuple[Array, tuple[tuple[float, float], ...]]:
    """Return kinematic viscosities (n, 2) m2/s of the slices at 100 and 210 degF, and of the whole as (T K, m2/s).

    The blending index of the estimate is moved so that curves and whole-sample values measured at one or two
    temperatures are met; it is straight in ln T (Walther). Light ends are left out of the blend.
    """
    entry = REGISTRY["viscosity"][sample.correlations.get("viscosity", DEFAULTS["viscosity"])]
    at = index(entry.function(Fraction(assay.nbp, assay.sg, {"molar_mass": assay.molar_mass})))
    weight = assay.amounts("mass") / assay.amounts("mass").sum()
    for curve in sample.viscosity_curves:
        shape: dict[str, Value] = {"by": entry.title, "at": kelvin(curve.temperature)}
        remarks += beyond(curve.points, "viscosity", "curve.beyond_viscosity", shape)
    if sample.viscosity_curves:
        at = _moved(at, [(c.temperature, _curve_shift(sample, assay, at, c)) for c in sample.viscosity_curves])
    points = [(p.temperature, _kinematic(sample, assay, p)) for p in sample.viscosity]
    if points:
        blends = [float(from_index(_at(weight @ at, T))) for T, _ in points]
        offs = [own / v - 1.0 for own, (_, v) in zip(blends, points)]
        scaled = "viscosity" not in sample.keep or not sample.viscosity_curves
        worst = int(np.argmax(np.abs(offs)))
        values: dict[str, Value] = {
            "by": entry.title,
            "T": kelvin(points[worst][0]),
            "off": 100 * offs[worst],
            "own": measure(blends[worst], "kinematic_viscosity"),
            "given": measure(points[worst][1], "kinematic_viscosity"),
            "end": Word("end.moved" if scaled else "end.kept_curves"),
        }
        clash = sample.viscosity_curves and abs(offs[worst]) > 10 * CLASH
        code = "viscosity.curves_add_up" if sample.viscosity_curves else "viscosity.cuts_add_up"
        remarks.append(Remark("warning" if clash else "correction", code, "viscosity", values))
        if scaled:
            at = _moved(at, [(T, index(v) - _at(weight @ at, T)) for T, v in points])
    shown = [T for T, _ in points] or TEST_TEMPERATURES.tolist()
    return from_index(at), tuple((T, float(from_index(_at(weight @ at, T)))) for T in shown)


def _at(at: Array, T: float) -> Array:
    """Return the index (...) at T K from those (..., 2) at the test temperatures."""
    low, high = TEST_TEMPERATURES
    part = np.log(T / low) / np.log(high / low)
    return np.asarray(at[..., 0] + part * (at[..., 1] - at[..., 0]))


def _moved(at: Array, shifts: list[tuple[float, Array]]) -> Array:
    """Return indices (n, 2) moved by shifts (n,) or scalars known at one or two temperatures."""
    (first, low), *more = shifts
    if not more:
        return np.asarray(at + np.asarray(low)[..., None])
    second, high = more[0]
    part = np.log(TEST_TEMPERATURES / first) / np.log(second / first)
    low, high = np.asarray(low)[..., None], np.asarray(high)[..., None]
    return np.asarray(at + low + part * (high - low))


def _curve_shift(sample: LabSample, assay: Assay, at: Array, curve: ViscosityCurve) -> Array:
    """Return what the index (n,) of the slices is off a measured curve's at its temperature."""
    x = 0.5 * (assay.x[1:] + assay.x[:-1])
    own = _at(at, curve.temperature)
    values = np.asarray(curve.points.value)
    if curve.dynamic:
        sg = np.interp(np.asarray(curve.points.percent) / 100.0, x, assay.sg)
        values = values / expanded_density(sg, curve.temperature)
    points = PropertyPoints(curve.points.percent, tuple(index(values).tolist()))
    return shifted(points, x, lambda where: own if where is x else np.interp(where, x, own)) - own


def _kinematic(sample: LabSample, assay: Assay, point: ViscosityPoint) -> float:
    if not point.dynamic:
        return point.value
    mass = assay.amounts("mass").sum() + assay.light_amounts("mass").sum()
    volume = assay.amounts("volume").sum() + assay.light_amounts("volume").sum()
    return float(point.value / expanded_density(mass / volume / WATER_DENSITY_60F, point.temperature))
