"""Whether a tuned fluid is still one that could be: trends of its heavy ends with molar mass."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import ATM, T_60F, R
from ..eos import Equation
from .parameters import heavy_ends

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Trend:
    """A property of the heavy ends along their molar mass: whether it ``rises`` or falls throughout, and the first
    two that break it by place."""

    key: str
    rises: bool
    kept: bool
    broken: tuple[int, int] | None


def trends(components: Sequence[Component], eos: Equation, shift: Array) -> tuple[Trend, ...]:
    """Return the trends of critical temperature (rising), critical pressure (falling), acentric factor and liquid
    density at 60 degF (rising) of the heavy ends of components (nc,) with volume shifts (nc,) m3/mol."""
    heavy = sorted(heavy_ends(components), key=lambda i: components[i].molar_mass)
    if len(heavy) < 2:
        return ()
    pure = eos.of(np.array(heavy)).pure()
    n = len(heavy)
    Z = pure.prepare(np.full(n, T_60F), np.full(n, ATM)).ln_phi(np.ones((n, 1)), "liquid")[1]
    mass = np.array([components[i].molar_mass for i in heavy])
    density = mass / (Z * R * T_60F / ATM - shift[heavy])
    own = {k: np.array([getattr(components[i], k) for i in heavy]) for k in ("Tc", "Pc", "omega")}
    out = []
    for key, values, rises in (
        ("Tc", own["Tc"], True),
        ("Pc", own["Pc"], False),
        ("omega", own["omega"], True),
        ("density", density, True),
    ):
        step = np.diff(values) if rises else -np.diff(values)
        # Members of one carbon number may tie.
        bad = np.flatnonzero(step < -1e-6 * np.abs(values[1:]))
        out.append(Trend(key, rises, bad.size == 0, (heavy[bad[0]], heavy[bad[0] + 1]) if bad.size else None))
    return tuple(out)
