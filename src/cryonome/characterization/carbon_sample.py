"""From a carbon-number analysis to slices, and the lumping of its fractions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import WATER_DENSITY_60F
from ..errors import DomainError
from ..remarks import Remark, Value, measure
from .assay import Assay, amount_of, light_arrays
from .carbon_analysis import (
    DENSITIES,
    LAST,
    LUMPINGS,
    SPLITS,
    CarbonAnalysis,
    PlusFraction,
    Split,
    boiling_points,
    gravities,
    group_properties,
    last_within_reach,
    quadrature,
    split_exponential,
    split_gamma,
)
from .correlations.registry import DEFAULTS, REGISTRY, Fraction
from .curve import BoilingCurve
from .lab_sample import LabSample
from .lumping import equal_groups, join_components, joined, summed, whitson_count, whitson_groups
from .reading import per_unit
from .result import CharacterizedSample

Array = NDArray[np.float64]


def carbon_assay(sample: LabSample, remarks: list[Remark]) -> tuple[Assay, NDArray[np.intp] | None]:
    """Return one slice a carbon group, and the group each is lumped into (None where nothing is lumped).

    Raises DomainError where the analysis is empty or the plus fraction cannot be split.
    """
    analysis = sample.carbon
    assert analysis is not None
    groups = [g for g in sorted(analysis.groups, key=lambda g: g.number) if g.percent > 0.0]
    nbp, sg, mass = (np.array(v) for v in zip(*[group_properties(g) for g in groups])) if groups else (np.zeros(0),) * 3
    share = np.array([g.percent for g in groups])
    number = np.array([float(g.number) for g in groups])
    plus = analysis.plus
    if plus is not None and plus.percent > 0.0:
        split = _split(analysis, plus, remarks)
        before = float(sg[-1]) if sg.size else plus.specific_gravity * 0.97
        density = gravities(analysis.density, split, plus, before)
        entry = REGISTRY["molar_mass"][sample.correlations.get("molar_mass", DEFAULTS["molar_mass"])]
        boiling = boiling_points(split.molar_mass, density, lambda T, s: entry.function(Fraction(T, s)))
        remarks.append(Remark("estimate", "carbon.boiling", "carbon", {"number": plus.number, "by": entry.title}))
        weight = amount_of(analysis.basis, split.mole, density, split.molar_mass)
        number, nbp = np.append(number, split.number), np.append(nbp, boiling)
        sg, mass = np.append(sg, density), np.append(mass, split.molar_mass)
        share = np.append(share, plus.percent * weight / weight.sum())
    if not share.size:
        raise DomainError(
            "the carbon-number analysis holds no group above C5; give C6, C7 and so on, or a plus fraction"
        )
    if groups:
        remarks.append(Remark("estimate", "carbon.groups", "carbon"))
    order = np.argsort(nbp, kind="stable")
    number, nbp, sg, mass, share = (a[order] for a in (number, nbp, sg, mass, share))
    moles = share * per_unit(analysis.basis, "mole", sg, mass)
    light_sg, light_mass = light_arrays(analysis.components)
    light = np.asarray(analysis.percent) * per_unit(analysis.basis, "mole", light_sg, light_mass)
    _met(sample, sg, mass, moles, light, light_sg, light_mass, remarks)
    labels = tuple(f"C{int(n)}" for n in number)
    if plus is not None and plus.percent > 0.0:
        labels = (*labels[:-1], f"{labels[-1]}+")
    volume = amount_of("volume", moles, sg, mass)
    light_volume = amount_of("volume", light, light_sg, light_mass)
    assay = Assay(
        None, _curve(analysis.components, light_volume, nbp, volume),
        np.concatenate([[0.0], np.cumsum(share)]) / share.sum(),
        nbp, sg, mass, moles, analysis.components, light, labels,
    )  # fmt: skip
    return assay, _groups(analysis, number, mass, moles)


def _split(analysis: CarbonAnalysis, plus: PlusFraction, remarks: list[Remark]) -> Split:
    usual = LAST if analysis.split == "gamma" else last_within_reach(plus)
    last = max(analysis.last or usual, plus.number)
    if analysis.lumping == "quadrature" and analysis.split == "gamma":
        count = analysis.lumps or whitson_count(plus.number, last)
        values: dict[str, Value] = {"number": plus.number, "count": count, "shape": analysis.shape}
        remarks.append(Remark("estimate", "carbon.quadrature", "carbon", values))
        return quadrature(plus, analysis.shape, count)
    values = {
        "number": plus.number,
        "last": last,
        "by": SPLITS[analysis.split],
        "shape": analysis.shape,
        "density": DENSITIES[analysis.density],
    }
    code = "carbon.split_gamma" if analysis.split == "gamma" else "carbon.split"
    remarks.append(Remark("estimate", code, "carbon", values))
    return split_gamma(plus, analysis.shape, last) if analysis.split == "gamma" else split_exponential(plus, last)


def _met(
    sample: LabSample,
    sg: Array,
    mass: Array,
    moles: Array,
    light: Array,
    light_sg: Array,
    light_mass: Array,
    remarks: list[Remark],
) -> None:
    """Say what the analysis makes of the whole sample's density and molar mass where they were measured too."""
    total = float(moles @ mass + light @ light_mass)
    own_mass = total / float(moles.sum() + light.sum())
    volume = (moles * mass / sg).sum() + (light * light_mass / light_sg).sum()
    own_density = total / float(volume) * WATER_DENSITY_60F
    for place, own, given in (("density", own_density, sample.density), ("molar_mass", own_mass, sample.molar_mass)):
        if given is not None:
            off = own / given - 1.0
            values: dict[str, Value] = {"own": measure(own, place), "off": 100 * off, "given": measure(given, place)}
            kind = "warning" if abs(off) > 0.01 else "correction"
            remarks.append(Remark(kind, "carbon.adds_up", place, values))


def _curve(light: tuple[Component, ...], light_volume: Array, nbp: Array, volume: Array) -> BoilingCurve:
    """Return the TBP curve through the borders between neighbouring boiling points."""
    order = np.argsort([c.nbp for c in light]) if light else np.zeros(0, dtype=np.intp)
    T = np.concatenate([np.array([c.nbp for c in light])[order], nbp])
    v = np.concatenate([light_volume[order], volume])
    keep = v > 1e-12 * v.sum()
    T, v = T[keep], v[keep]
    T = np.maximum.accumulate(T + 1e-3 * np.arange(T.size))
    borders = 0.5 * (T[1:] + T[:-1])
    first = T[0] - (borders[0] - T[0] if borders.size else 5.0)
    last = T[-1] + 1.5 * (T[-1] - borders[-1] if borders.size else 5.0)
    fraction = np.concatenate([[0.0], np.cumsum(v)]) / v.sum()
    fraction[-1] = 1.0
    return BoilingCurve(fraction, np.concatenate([[first], borders, [last]]), True, True)


def _groups(analysis: CarbonAnalysis, number: Array, mass: Array, moles: Array) -> NDArray[np.intp] | None:
    """Return the lump (n,) of every fraction; C6 and lighter stay alone."""
    rule = analysis.lumping
    if rule == "none" or (rule == "quadrature" and analysis.split == "gamma"):
        return None
    if rule == "quadrature":
        raise DomainError("Gaussian quadrature goes with the gamma distribution; choose it, or another rule of lumping")
    heavy = number >= 7.0
    if heavy.sum() < 2:
        return None
    count = min(analysis.lumps or whitson_count(float(number[heavy][0]), float(number[-1])), int(heavy.sum()))
    inside = whitson_groups(mass[heavy], count) if rule == "whitson" else equal_groups((moles * mass)[heavy], count)
    alone = np.arange(int((~heavy).sum()))
    return np.concatenate([alone, alone.size + inside]).astype(np.intp)


def lump(whole: CharacterizedSample, groups: NDArray[np.intp]) -> CharacterizedSample:
    """Return the sample with its cuts joined by ``groups`` (cuts,).

    Amounts add up; see :func:`join_components` for the properties.
    """
    cuts = whole.cuts
    k = whole.light
    weight = whole.mass_fraction[k:]
    ends = np.flatnonzero(np.append(np.diff(groups) != 0, True))
    starts = np.concatenate([[0], ends[:-1] + 1])
    labels = tuple(_label(whole.labels[a], whole.labels[b]) for a, b in zip(starts, ends))
    given = {old: f"{whole.name} {new}" for old, new in whole.choices.cuts.names}
    automatic = carbon_names(whole.name, labels)
    ids = [f"lump {i + 1}" if a != b else whole.labels[a] for i, (a, b) in enumerate(zip(starts, ends))]
    names = [given.get(i) or given.get(n[len(whole.name) + 1 :]) or n for i, n in zip(ids, automatic)]
    keys = [f"{whole.choices.key or whole.name}/{i}" for i in ids]
    components = join_components(cuts, whole.mole_fraction[k:], groups, names, keys)
    edges = whole.edges[np.concatenate([[0], ends + 1])]
    rule = LUMPINGS[whole.choices.carbon.lumping] if whole.choices.carbon is not None else ""
    values: dict[str, Value] = {"fractions": len(cuts), "lumps": len(labels), "by": rule}

    def together(all_of: Array) -> Array:
        return np.concatenate([all_of[:k], summed(all_of[k:], groups)])

    return replace(
        whole,
        components=(*whole.components[:k], *components),
        labels=labels,
        automatic_names=tuple(automatic),
        edges=edges,
        edge_temperatures=whole.edge_temperatures[np.concatenate([[0], ends + 1])],
        mole_fraction=together(whole.mole_fraction),
        mass_fraction=together(whole.mass_fraction),
        volume_fraction=together(whole.volume_fraction),
        cut_viscosity=joined(whole.cut_viscosity, weight, groups),
        quantities={n: joined(v, weight, groups) for n, v in whole.quantities.items()},
        remarks=(*whole.remarks, Remark("correction", "carbon.lumped", "carbon", values)),
        unlumped=whole,
    )


def _label(first: str, last: str) -> str:
    return first if first == last else f"{first} to {last}"


def carbon_names(sample: str, labels: Sequence[str]) -> list[str]:
    """Return the names of carbon groups: sample and group, unique."""
    out: list[str] = []
    for label in labels:
        name = f"{sample} {label}"
        out.append(name if name not in out else f"{name} ({sum(o.startswith(name) for o in out) + 1})")
    return out
