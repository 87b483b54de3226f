"""What is shown beside a choice of correlations: their ranges in words, and what the usual ones would make of the
cuts."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..characterization import CharacterizedSample, LabSample, characterize
from ..characterization.correlations import REGISTRY, Correlation, estimate
from ..errors import DomainError
from ..telling.sentences import Units, listed
from ..watch import UNWATCHED, Watch


def limits_text(entry: Correlation, units: Units) -> str:
    """Return the range of validity as it is printed; empty where none is stated."""
    return listed(entry.limit_values(), units)


def usual_values(result: CharacterizedSample) -> dict[str, NDArray[np.float64]]:
    """Return what the default correlations make of the cuts, by property."""
    cuts = result.cuts
    nbp, sg = (np.array([getattr(c, k) for c in cuts]) for k in ("nbp", "specific_gravity"))
    return estimate(nbp, sg).values


@dataclass(frozen=True)
class Told:
    """What a choice comes to for the whole sample: a value in SI, its kind, and a word before it where it is a mean
    of the cuts."""

    value: float
    kind: str
    word: str = ""


def choice_values(lab: LabSample, watch: Watch = UNWATCHED) -> dict[str, dict[str, Told]]:
    """Return by property and correlation what each choice gives for the whole sample by itself, not brought to what
    was measured of it: molar mass, viscosity at the first temperature, of densities the molar mass that follows, of
    the others the mean of the cuts by mole. Choices that cannot be are left out."""
    out: dict[str, dict[str, Told]] = {}
    todo = [(prop, key) for prop in REGISTRY for key in REGISTRY[prop] if prop not in UNTOLD]
    for i, (prop, key) in enumerate(todo):
        watch.at(i / len(todo))
        free = {"molar_mass": {"molar_mass": None}, "viscosity": {"viscosity": ()}}.get(prop, {})
        try:
            found = characterize(replace(lab, correlations={**lab.correlations, prop: key}, **free))  # type: ignore[arg-type]
        except DomainError:
            continue
        out.setdefault(prop, {})[key] = _told(prop, found)
    return out


UNTOLD = ("cp", "liquid_density")
"""Properties of which there is one choice, or none that a whole-sample value tells."""

KINDS_OF = {"Tc": "temperature", "Pc": "pressure", "Vc": "molar_volume"}


def _told(prop: str, found: CharacterizedSample) -> Told:
    if prop in ("molar_mass", "density"):
        return Told(found.molar_mass, "molar_mass")
    if prop == "viscosity":
        return Told(found.viscosity[0][1], "kinematic_viscosity")
    x = found.mole_fraction[found.light :]
    values = np.array([getattr(c, prop) for c in found.cuts], float)
    return Told(float(x @ values / x.sum()), KINDS_OF.get(prop, ""), "mean")
