"""From document parts, quantities as entered, to the inputs of the physics in SI."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..characterization import Remark
from ..components import Component, find
from ..document.model import Fluid
from ..eos import FORMS, CubicEos
from ..eos.interaction import library_kij
from ..eos.matching import matched_omega
from .blending import Sources, collect
from .sample_inputs import plain_number

Array = NDArray[np.float64]


@dataclass(frozen=True)
class FluidModel:
    """A fluid ready to compute: components, mole fractions z (nc,) of those present, equation of state, and the
    arrays the properties need. ``remarks`` for the ledger."""

    name: str
    components: tuple[Component, ...]
    z: Array
    eos: CubicEos
    molar_mass: Array
    cp: Array
    remarks: tuple[Remark, ...]
    origin: tuple[str, ...] = ()
    """The part each component came from; several joined by " + "."""

    @property
    def names(self) -> tuple[str, ...]:
        """Names of the components, in order."""
        return tuple(c.name for c in self.components)


def build_fluid(fluid: Fluid, sources: Sources) -> FluidModel:
    """Return the fluid's mole fractions and equation of state.

    Amounts count on the fluid's basis: moles, masses, or liquid volumes at 60 degF (gases by their apparent specific
    gravity), or on that of their own unit. Parts without an amount are left out. Raises ValueError where a part
    cannot be completed.
    """
    remarks: list[Remark] = []
    content = collect(fluid, sources, remarks)
    components = _matched(content.components, fluid.model.eos)
    z = content.moles
    eos = CubicEos(
        FORMS[fluid.model.eos],
        np.array([c.Tc for c in components]),
        np.array([c.Pc for c in components]),
        np.array([c.omega for c in components]),
        _interaction(fluid, components, remarks),
    )
    width = max(len(c.cp) for c in components)
    cp = np.array([[*c.cp, *[0.0] * (width - len(c.cp))] for c in components])
    return FluidModel(
        fluid.name,
        tuple(components),
        z / z.sum(),
        eos,
        np.array([c.molar_mass for c in components]),
        cp,
        tuple(remarks),
        content.origin,
    )


def _matched(components: Sequence[Component], form: str) -> list[Component]:
    """Return the components, acentric factors fitted to the boiling point fitted anew for this equation."""
    out = list(components)
    places = [i for i, c in enumerate(components) if c.omega_matched]
    if form == "PR78" or not places:
        return out
    Tc, Pc, nbp = (np.array([getattr(components[i], k) for i in places]) for k in ("Tc", "Pc", "nbp"))
    for i, omega in zip(places, matched_omega(FORMS[form], Tc, Pc, nbp).tolist()):
        out[i] = components[i] if np.isnan(omega) else replace(components[i], omega=omega)
    return out


def _interaction(fluid: Fluid, components: list[Component], remarks: list[Remark]) -> Array:
    nc = len(components)
    kij = library_kij(components) if fluid.model.kij == "library" else np.zeros((nc, nc))
    if fluid.model.kij == "library" and nc > 1:
        text = "Interaction parameters: library of measured pairs, and a volume rule for hydrocarbons."
        remarks.append(Remark("estimate", text, "kij"))
    place = {c.name: i for i, c in enumerate(components)}
    for one, other, value in fluid.model.kij_pairs:
        i, j = (place.get(n if n in place else _databank_name(n)) for n in (one, other))
        if i is None or j is None:
            remarks.append(
                Remark(
                    "warning",
                    f"The pair {one}, {other} names a component that is not in the fluid now; it has no effect.",
                    "kij",
                )
            )
            continue
        kij[i, j] = kij[j, i] = plain_number(value)
    return kij


def _databank_name(name: str) -> str:
    try:
        return find(name).name
    except LookupError:
        return name
