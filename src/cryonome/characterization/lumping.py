"""Lumping of fractions into fewer pseudo-components."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import WATER_DENSITY_60F
from ..eos import FORMS
from ..eos.matching import matched_omega

Array = NDArray[np.float64]

MEANS = ("Tc", "Pc", "Vc", "omega", "nbp")
"""Properties of joined fractions that are means by mass."""


def whitson_count(first: float, last: float) -> int:
    """Return the number of groups between carbon numbers, 1 + 3.3 log10(N - n); Whitson, SPE J. 23, 683 (1983)."""
    return max(1, int(1.0 + 3.3 * np.log10(max(last - first, 1.0))))


def whitson_groups(molar_mass: Array, count: int) -> NDArray[np.intp]:
    """Return the group (n,) of every fraction: bounds M_n (M_N/M_n)^(I/count) in molar mass; Whitson (1983).

    The fractions stand by boiling point; where measured molar masses do not rise with it, a fraction stays in the
    group of the one before it, so that groups are ranges of boiling points."""
    least, most = float(molar_mass.min()), float(molar_mass.max())
    bounds = least * (most / least) ** (np.arange(1, count) / count)
    group = np.searchsorted(bounds, molar_mass * (1.0 - 1e-12), side="left")
    return np.asarray(np.maximum.accumulate(group))


def equal_groups(amount: Array, count: int) -> NDArray[np.intp]:
    """Return the group (n,) of every fraction so that the groups hold amounts as equal as whole fractions allow."""
    middle = np.cumsum(amount) - 0.5 * amount
    return np.asarray(np.minimum((middle / amount.sum() * count).astype(np.intp), count - 1))


def joined(values: Array, weight: Array, group: NDArray[np.intp]) -> Array:
    """Return the means (m, ...) of values (n, ...) over the groups (n,) present, by weight (n,)."""
    _, place = np.unique(group, return_inverse=True)
    size = int(place.max()) + 1
    total = np.zeros(size)
    np.add.at(total, place, weight)
    shape = (-1, *([1] * (values.ndim - 1)))
    out = np.zeros((size, *values.shape[1:]))
    np.add.at(out, place, values * weight.reshape(shape))
    return np.asarray(out / total.reshape(shape))


def summed(values: Array, group: NDArray[np.intp]) -> Array:
    """Return the sums (m,) of values (n,) over the groups (n,) present."""
    _, place = np.unique(group, return_inverse=True)
    out = np.zeros(int(place.max()) + 1)
    np.add.at(out, place, values)
    return out


def join_components(
    components: Sequence[Component], moles: Array, group: NDArray[np.intp], names: Sequence[str], keys: Sequence[str]
) -> tuple[Component, ...]:
    """Return one component for each of the groups (n,) present, called ``names`` and known by ``keys`` (m,).

    Molar mass and density add up; critical constants, acentric factor and boiling point are means by mass (Pedersen
    et al. 1985), heat capacity and parachor by mole. Where the acentric factors were matched to the boiling points,
    that of the whole is matched to its own.
    """
    mass = moles * np.array([c.molar_mass for c in components])
    volume = moles * np.array([c.standard_liquid_volume for c in components])
    cp = joined(np.array([c.cp for c in components]), moles, group)
    means = {n: joined(np.array([getattr(c, n) for c in components]), mass, group) for n in MEANS}
    known = [c.parachor for c in components if c.parachor is not None]
    parachor = joined(np.array(known), moles, group) if len(known) == len(components) else None
    total, masses, volumes = summed(moles, group), summed(mass, group), summed(volume, group)
    matched = all(c.omega_matched for c in components)
    if matched:
        own = matched_omega(FORMS["PR78"], means["Tc"], means["Pc"], means["nbp"])
        means["omega"] = np.where(np.isnan(own), means["omega"], own)
    note = (*components[0].estimates, "joined: means by mass of the fractions")
    return tuple(
        Component(
            name=name, kind="cut", molar_mass=float(masses[i] / total[i]), Tc=float(means["Tc"][i]),
            Pc=float(means["Pc"][i]), Vc=float(means["Vc"][i]), omega=float(means["omega"][i]),
            nbp=float(means["nbp"][i]), specific_gravity=float(masses[i] / volumes[i] / WATER_DENSITY_60F),
            cp=tuple(cp[i].tolist()), parachor=None if parachor is None else float(parachor[i]), estimates=note,
            omega_matched=matched, key=keys[i],
        )
        for i, name in enumerate(names)
    )  # fmt: skip
