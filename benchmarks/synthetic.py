"""Characterization against mixtures whose composition is known.

Mixtures of databank components are given the curves a perfect laboratory would measure: points at the middle of every
component's share. From those alone they are characterized with every set of correlations, and compared with the exact
mixture through the same equation of state.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from cryonome.characterization import CharacterizedSample, LabSample, characterize
from cryonome.characterization.correlations import REGISTRY
from cryonome.characterization.lab_sample import LightEnds
from cryonome.characterization.property_curves import PropertyPoints
from cryonome.components import Component, all_components, find
from cryonome.constants import WATER_DENSITY_60F
from cryonome.eos import FORMS, CubicEos
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.fraction_flash import flash_fraction

LIGHT = ("propane", "isobutane", "n-butane", "isopentane", "n-pentane")
FAMILIES = ("n-alkane", "isoalkane", "naphthene", "aromatic")
STATES = ((393.15, 2e5), (423.15, 3e5), (473.15, 5e5), (523.15, 8e5), (573.15, 6e5))
"""K and Pa: five states at which an oil is partly vaporized."""


@dataclass(frozen=True)
class Truth:
    """A mixture: components and mole fractions."""

    components: tuple[Component, ...]
    z: np.ndarray

    @property
    def molar_mass(self) -> float:
        """kg/mol."""
        return float(self.z @ [c.molar_mass for c in self.components])

    @property
    def density(self) -> float:
        """kg/m3 at 60 degF."""
        return self.molar_mass / float(self.z @ [c.standard_liquid_volume for c in self.components])


def mixture(seed: int) -> Truth:
    """Return a mixture of 15 to 25 components from propane to triacontane, light to heavy by a bell over log mass."""
    rng = np.random.default_rng(seed)
    heavy = [c for c in all_components() if c.family in FAMILIES and c.nbp > 320.0 and c.name not in LIGHT]
    light = [find(n) for n in LIGHT]
    count = int(rng.integers(12, 21))
    # Spread over the boiling range, so that no two share a place.
    edges = np.linspace(325.0, 723.0, count + 1)
    chosen = []
    for low, high in pairwise(edges):
        inside = [c for c in heavy if low <= c.nbp < high]
        if inside:
            chosen.append(inside[int(rng.integers(len(inside)))])
    amount = np.exp(-0.5 * ((np.array([c.nbp for c in chosen]) - rng.uniform(430, 560)) / rng.uniform(90, 160)) ** 2)
    amount *= rng.uniform(0.6, 1.4, amount.size)
    share = rng.uniform(0.01, 0.04, len(light))
    z = np.concatenate([share, amount / amount.sum() * (1.0 - share.sum())])
    return Truth((*light, *chosen), z)


def measured(truth: Truth, curves: bool, correlations: dict[str, str], name: str = "S") -> LabSample:
    """Return what a perfect laboratory says of a mixture; ``curves`` adds density and molar-mass curves."""
    order = np.argsort([c.nbp for c in truth.components])
    components = [truth.components[i] for i in order]
    z = truth.z[order]
    volume = z * np.array([c.standard_liquid_volume for c in components])
    volume = 100.0 * volume / volume.sum()
    middle = np.cumsum(volume) - 0.5 * volume
    light = [i for i, c in enumerate(components) if c.name in LIGHT]
    density = tuple(c.specific_gravity * WATER_DENSITY_60F for c in components)
    percent = tuple(middle.tolist())
    return LabSample(
        name,
        percent,
        tuple(c.nbp for c in components),
        density=truth.density,
        molar_mass=truth.molar_mass,
        density_curve=PropertyPoints(percent, density) if curves else PropertyPoints((), ()),
        molar_mass_curve=PropertyPoints(percent, tuple(c.molar_mass for c in components))
        if curves
        else PropertyPoints((), ()),
        light_ends=LightEnds(tuple(components[i] for i in light), tuple(float(volume[i]) for i in light), "volume"),
        correlations=correlations,
    )


def equation(components: tuple[Component, ...]) -> CubicEos:
    """Return PR78 with the library's interaction parameters."""
    arrays = [np.array([getattr(c, k) for c in components]) for k in ("Tc", "Pc", "omega")]
    return CubicEos(FORMS["PR78"], *arrays, library_kij(list(components)))


def answers(components: tuple[Component, ...], z: np.ndarray) -> np.ndarray:
    """Return bubble pressures at 50 and 150 degC, Pa, and the vapour fractions at the five states."""
    eos = equation(components)
    bubble = flash_fraction(eos, z, 0.0, T=np.array([323.15, 423.15])).P
    T, P = (np.array(v) for v in zip(*STATES))
    result = flash_pt(eos, T, P, np.broadcast_to(z, (T.size, z.size)))
    return np.concatenate([bubble, result.vapour_fraction])


def deviations(truth: Truth, result: CharacterizedSample, exact: np.ndarray) -> np.ndarray:
    """Return percents off: two bubble pressures; five vapour fractions in points of percent; density; molar mass."""
    mine = answers(result.components, result.mole_fraction)
    return np.concatenate(
        [
            100.0 * (mine[:2] / exact[:2] - 1.0),
            100.0 * (mine[2:] - exact[2:]),
            [100.0 * (result.density / truth.density - 1.0), 100.0 * (result.molar_mass / truth.molar_mass - 1.0)],
        ]
    )


def sets() -> dict[str, dict[str, str]]:
    """Return the sets of correlations compared: every pair of Tc and Pc of one author, every omega."""
    out = {}
    for critical in REGISTRY["Tc"]:
        for omega in REGISTRY["omega"]:
            out[f"{critical} + {omega}"] = {"Tc": critical, "Pc": critical, "omega": omega}
    return out


def study(count: int, curves: bool) -> dict[str, np.ndarray]:
    """Return the deviations (count, 9) of every set over ``count`` mixtures."""
    found: dict[str, list[np.ndarray]] = {name: [] for name in sets()}
    for seed in range(count):
        truth = mixture(seed)
        exact = answers(truth.components, truth.z)
        for name, choice in sets().items():
            found[name].append(deviations(truth, characterize(measured(truth, curves, choice)), exact))
    return {name: np.array(rows) for name, rows in found.items()}


def main(count: int = 12) -> None:
    """Print the table of mean absolute deviations, best set first."""
    for curves in (True, False):
        what = "with density and molar-mass curves" if curves else "from the TBP curve and bulk values alone"
        sys.stdout.write(f"\n{count} mixtures, {what}: mean |deviation| (worst)\n")
        sys.stdout.write(
            f"{'set':42s} bubble 50 °C %   bubble 150 °C %   vapour fraction, points   density %  molar mass %\n"
        )
        rows = study(count, curves)
        score = {n: np.abs(r[:, :2]).mean() + np.abs(r[:, 2:7]).mean() for n, r in rows.items()}
        for name in sorted(rows, key=lambda n: score[n]):
            d = np.abs(rows[name])
            cells = [f"{d[:, k].mean():6.2f} ({d[:, k].max():5.2f})" for k in (0, 1)]
            cells.append(f"{d[:, 2:7].mean():6.2f} ({d[:, 2:7].max():5.2f})")
            cells += [f"{d[:, k].mean():9.1e}" for k in (7, 8)]
            sys.stdout.write(f"{name:42s} {'   '.join(cells)}\n")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 12)
