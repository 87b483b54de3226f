"""Equations of state by their name, from components: the one place that knows which class serves which name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from .cubic import FORMS, CubicEos
from .equation import Equation
from .matching import matched_omega

Array = NDArray[np.float64]

EQUATIONS: dict[str, str] = {name: form.source for name, form in FORMS.items()}
"""Every equation offered, with its source."""

REFERENCE = "PR78"
"""The equation acentric factors of cuts are matched for where none is chosen."""


def equation_of(name: str, components: Sequence[Component], kij: Array) -> Equation:
    """Return the equation called ``name`` for components (nc,) with interaction parameters kij (nc, nc)."""
    Tc, Pc, omega = (np.array([getattr(c, k) for c in components]) for k in ("Tc", "Pc", "omega"))
    return CubicEos(FORMS[name], Tc, Pc, omega, kij)


def matched_components(components: Sequence[Component], name: str) -> list[Component]:
    """Return the components, acentric factors that were fitted to the boiling point fitted anew for another equation."""
    out = list(components)
    places = [i for i, c in enumerate(components) if c.omega_matched]
    if name == REFERENCE or not places:
        return out
    Tc, Pc, nbp = (np.array([getattr(components[i], k) for i in places]) for k in ("Tc", "Pc", "nbp"))
    for i, omega in zip(places, matched_omega(FORMS[name], Tc, Pc, nbp).tolist()):
        out[i] = components[i] if np.isnan(omega) else replace(components[i], omega=omega)
    return out
