"""From a boiling-point curve and whole-sample numbers to cuts with properties."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import WATER_DENSITY_60F
from .correlations import Estimated, estimate
from .curve import BoilingCurve, close_curve
from .cuts import PRODUCTS, REGIONS, ProductRange, Yield, automatic_boundaries, cut_edges, yields

Array = NDArray[np.float64]

CLASH = 0.01
"""Relative difference above which two statements about the whole sample are reported to clash."""


@dataclass(frozen=True)
class LabSample:
    """What a lab says of a sample, in SI: percents by volume and temperatures (K) of the TBP curve at 1 atm, and the
    whole sample's density kg/m3 at 60 degF, molar mass kg/mol and Watson factor, each where measured."""

    name: str
    percent: tuple[float, ...]
    temperature: tuple[float, ...]
    density: float | None = None
    molar_mass: float | None = None
    watson_k: float | None = None
    boundaries: tuple[float, ...] | None = None
    regions: tuple[tuple[float, float], ...] = REGIONS
    correlations: dict[str, str] = field(default_factory=dict)
    products: tuple[ProductRange, ...] = PRODUCTS


@dataclass(frozen=True)
class Remark:
    """An entry of the ledger: ``kind`` estimate, extrapolation, correction or warning; a sentence; where it acts."""

    kind: str
    text: str
    place: str


@dataclass(frozen=True)
class CharacterizedSample:
    """The cuts of a sample. Arrays (m,); fractions sum to one; ``edges`` (m + 1,) distilled fractions and
    ``edge_temperatures`` (m + 1,) K. ``density`` kg/m3, ``molar_mass`` kg/mol, ``watson_k`` of the whole."""

    name: str
    curve: BoilingCurve
    edges: Array
    edge_temperatures: Array
    components: tuple[Component, ...]
    mole_fraction: Array
    mass_fraction: Array
    volume_fraction: Array
    density: float
    molar_mass: float
    watson_k: float
    yields: tuple[Yield, ...]
    remarks: tuple[Remark, ...]


def characterize(sample: LabSample) -> CharacterizedSample:
    """Cut the sample and give every cut its properties.

    The Watson factor is taken constant along the curve (Watson, Nelson and Murphy, Ind. Eng. Chem. 27, 1460, 1935)
    and scaled so that the cuts' densities add up to the whole sample's by volume. A measured molar mass scales the
    estimated ones by a common factor. Raises ValueError with fewer than five points or neither density nor Watson K.
    """
    remarks: list[Remark] = []
    curve = close_curve(sample.percent, sample.temperature)
    for closed, end, where in ((curve.closed_low, 0, "0 %"), (curve.closed_high, -1, "100 %")):
        if closed:
            text = (
                f"The curve is continued to {where} at {curve.temperature[end] - 273.15:.0f} °C "
                "along the probability scale through the two outer points."
            )
            remarks.append(Remark("extrapolation", text, "curve"))
    low, high = float(curve.temperature[0]), float(curve.temperature[-1])
    if sample.boundaries is None:
        boundaries = automatic_boundaries(low, high, sample.regions)
    else:
        boundaries = np.array(sample.boundaries)
        outside = int(((boundaries <= low) | (boundaries >= high)).sum())
        if outside:
            remarks.append(
                Remark("warning", f"{outside} cut boundaries lie outside the curve and have no effect.", "cuts")
            )
    edges, edge_temperatures = cut_edges(curve, boundaries)
    volume = np.diff(edges)
    nbp = curve.mean(edges)
    sg, watson = _specific_gravity(sample, nbp, volume, remarks)

    found = estimate(nbp, sg, sample.correlations)
    masses = _scaled_molar_mass(sample, found, sg, volume, remarks)
    if sample.molar_mass is not None:
        # Heat capacities are per mole, so they follow the molar mass; the critical constants stand.
        found.values["cp"] = found.values["cp"] * (masses / found.values["molar_mass"])[:, None]
        found.values["molar_mass"] = masses
    remarks += _correlation_remarks(found, edge_temperatures)

    mass = volume * sg
    mole = mass / masses
    components = _components(sample.name, edge_temperatures, nbp, sg, found)
    return CharacterizedSample(
        name=sample.name,
        curve=curve,
        edges=edges,
        edge_temperatures=edge_temperatures,
        components=components,
        mole_fraction=mole / mole.sum(),
        mass_fraction=mass / mass.sum(),
        volume_fraction=volume / volume.sum(),
        density=float(mass.sum() / volume.sum() * WATER_DENSITY_60F),
        molar_mass=float(mass.sum() / mole.sum()),
        watson_k=watson,
        yields=tuple(yields(curve, edges, sg, sample.products)),
        remarks=tuple(remarks),
    )


def _specific_gravity(sample: LabSample, nbp: Array, volume: Array, remarks: list[Remark]) -> tuple[Array, float]:
    cube = np.cbrt(1.8 * nbp)
    if sample.density is not None:
        bulk = sample.density / WATER_DENSITY_60F
        watson = float((volume * cube).sum() / bulk)
        remarks.append(
            Remark(
                "estimate",
                f"Density along the curve: constant Watson K of {watson:.2f}, scaled to the measured density.",
                "density",
            )
        )
        if sample.watson_k is not None and abs(sample.watson_k / watson - 1.0) > CLASH:
            percent = 100.0 * (sample.watson_k / watson - 1.0)
            remarks.append(
                Remark(
                    "warning",
                    f"The given Watson K of {sample.watson_k:.2f} differs by {percent:+.1f} % from the {watson:.2f} of curve "
                    "and density; the density is trusted.",
                    "watson_k",
                )
            )
    elif sample.watson_k is not None:
        watson = sample.watson_k
        remarks.append(
            Remark("estimate", f"Density from the given Watson K of {watson:.2f} and the boiling curve.", "density")
        )
    else:
        raise ValueError("the sample needs a density or a Watson K")
    if not 9.5 <= watson <= 13.5:
        remarks.append(
            Remark(
                "warning",
                f"A Watson K of {watson:.2f} is outside 9.5 to 13.5, the range of crude oils and their fractions; check density and curve.",
                "density",
            )
        )
    return cube / watson, watson


def _scaled_molar_mass(sample: LabSample, found: Estimated, sg: Array, volume: Array, remarks: list[Remark]) -> Array:
    masses = found.values["molar_mass"]
    if sample.molar_mass is None:
        return masses
    estimated = float((volume * sg).sum() / (volume * sg / masses).sum())
    factor = sample.molar_mass / estimated
    text = (
        f"The molar masses of the cuts are scaled by {factor:.4f} so that they add up to the measured "
        f"{sample.molar_mass * 1e3:.1f} g/mol."
    )
    remarks.append(Remark("correction", text, "molar_mass"))
    if abs(factor - 1.0) > 0.05:
        text = f"The measured molar mass differs by {100 * (factor - 1):+.1f} % from the estimate of {estimated * 1e3:.1f} g/mol."
        remarks.append(Remark("warning", text, "molar_mass"))
    return np.asarray(masses * factor)


_TITLES = {
    "molar_mass": "Molar mass",
    "Tc": "Critical temperature",
    "Pc": "Critical pressure",
    "Vc": "Critical volume",
    "omega": "Acentric factor",
    "cp": "Ideal-gas heat capacity",
}


def _correlation_remarks(found: Estimated, temperatures: Array) -> list[Remark]:
    out = []
    beyond: dict[str, list[str]] = {}
    for name, entry in found.used.items():
        out.append(Remark("estimate", f"{_TITLES[name]} of the cuts by {entry.title}.", name))
        outside = np.flatnonzero(found.outside[name])
        if outside.size:
            limits = ", ".join(f"{_LIMIT[k](lo, hi)}" for k, (lo, hi) in entry.limits.items())
            sentence = f"the cuts {_ranges(outside, temperatures)} lie outside the range of {entry.title} ({limits})."
            beyond.setdefault(sentence, []).append(_TITLES[name])
    for sentence, names in beyond.items():
        listed = ", ".join([names[0], *(n[0].lower() + n[1:] for n in names[1:])])
        out.append(Remark("extrapolation", f"{listed}: {sentence}", "correlations"))
    return out


_LIMIT = {
    "nbp": lambda lo, hi: f"boiling point {lo - 273.15:.0f} to {hi - 273.15:.0f} °C",
    "sg": lambda lo, hi: f"specific gravity {lo:g} to {hi:g}",
    "watson_k": lambda lo, hi: f"Watson K {lo:g} to {hi:g}",
}


def _ranges(index: NDArray[np.intp], temperatures: Array) -> str:
    groups = np.split(index, np.flatnonzero(np.diff(index) > 1) + 1)
    return " and ".join(
        f"{temperatures[g[0]] - 273.15:.0f} to {temperatures[g[-1] + 1] - 273.15:.0f} °C" for g in groups
    )


def _components(sample: str, temperatures: Array, nbp: Array, sg: Array, found: Estimated) -> tuple[Component, ...]:
    v = found.values
    names = cut_names(sample, temperatures)
    titles = tuple(f"{_TITLES[k]} by {c.title}" for k, c in found.used.items())
    return tuple(
        Component(
            name=names[i],
            kind="cut",
            molar_mass=float(v["molar_mass"][i]),
            Tc=float(v["Tc"][i]),
            Pc=float(v["Pc"][i]),
            Vc=float(v["Vc"][i]),
            omega=float(v["omega"][i]),
            nbp=float(nbp[i]),
            specific_gravity=float(sg[i]),
            cp=tuple(float(c) for c in v["cp"][i]),
            estimates=titles,
        )
        for i in range(nbp.size)
    )


def cut_names(sample: str, temperatures: Sequence[float] | Array) -> list[str]:
    """Return the names of the cuts between boundaries (m + 1,) K: sample and range in degC, unique."""
    for digits in (0, 1, 3):
        shown = [f"{t - 273.15:.{digits}f}" for t in temperatures]
        names = [f"{sample} {a} to {b} °C" for a, b in pairwise(shown)]
        if len(set(names)) == len(names):
            return names
    return [f"{name} ({i + 1})" for i, name in enumerate(names)]
