"""Ten unlike mixtures for the equilibrium tests, from the databank and the characterization."""

from __future__ import annotations

from functools import cache

import numpy as np

from cryonome.characterization import LabSample, characterize
from cryonome.components import Component, find
from cryonome.eos import FORMS, CubicEos
from cryonome.eos.interaction import library_kij

TBP = (
    (0.0, 2.0, 5.0, 10.0, 20.0, 30.0, 40.0, 50.0, 60.0, 70.0, 80.0, 90.0, 95.0),
    (290.0, 321.0, 350.0, 385.0, 443.0, 495.0, 543.0, 592.0, 642.0, 701.0, 770.0, 863.0, 932.0),
)

LISTS: dict[str, dict[str, float]] = {
    "lean gas": {"methane": 90, "ethane": 5, "propane": 2, "nitrogen": 2, "carbon dioxide": 1},
    "condensate": {
        "nitrogen": 1, "carbon dioxide": 3, "methane": 68, "ethane": 9, "propane": 6, "n-butane": 4, "n-pentane": 3,
        "n-heptane": 3, "n-decane": 2, "n-hexadecane": 0.9, "n-tetracosane": 0.1,
    },
    "carbon dioxide flood": {"carbon dioxide": 70, "methane": 8, "n-butane": 7, "n-decane": 10, "n-eicosane": 5},
    "sour gas": {"hydrogen sulfide": 30, "carbon dioxide": 10, "methane": 45, "ethane": 8, "n-pentane": 7},
    "liquefied gas": {"nitrogen": 25, "methane": 60, "ethane": 15},
    "wide binary": {"methane": 60, "n-decane": 40},
    "close binary": {"ethane": 50, "n-butane": 50},
    "aromatic": {"methane": 30, "benzene": 20, "toluene": 20, "cyclohexane": 15, "n-hexane": 15},
    "hydrogen": {"hydrogen": 40, "methane": 25, "propane": 15, "n-hexane": 20},
}  # fmt: skip


def equation(components: list[Component], form: str = "PR78") -> CubicEos:
    """Return the equation of state of components with the library's interaction parameters."""
    arrays = [np.array([getattr(c, k) for c in components]) for k in ("Tc", "Pc", "omega")]
    return CubicEos(FORMS[form], *arrays, library_kij(components))


@cache
def crude() -> tuple[CubicEos, np.ndarray]:
    """Return a recombined crude of some forty components."""
    sample = characterize(LabSample("crude", *TBP, density=859.0))
    light = {
        "nitrogen": 0.5,
        "carbon dioxide": 1.5,
        "methane": 38,
        "ethane": 7,
        "propane": 6,
        "n-butane": 4,
        "n-pentane": 2,
    }
    z = np.concatenate([list(light.values()), 41.0 * sample.mole_fraction])
    return equation([*map(find, light), *sample.components]), z / z.sum()


@cache
def mixture(name: str, form: str = "PR78") -> tuple[CubicEos, np.ndarray]:
    """Return a mixture's equation of state and composition."""
    if name == "crude":
        return crude()
    amounts = LISTS[name]
    z = np.array(list(amounts.values()), float)
    return equation([find(n) for n in amounts], form), z / z.sum()


NAMES = (*LISTS, "crude")
