"""From what a fluid says to a fluid ready to compute."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..document import FluidInput
from ..document.read_fluid import ModelInput
from ..eos import Equation
from ..eos.building import equation_of, matched_components
from ..eos.interaction import library_kij
from ..equilibrium.flash import flash_pt
from ..properties import Substance
from ..remarks import Remark, kelvin, pascal
from .blending import Sources, collect

Array = NDArray[np.float64]


@dataclass(frozen=True)
class FluidModel:
    """A fluid ready to compute: components, mole fractions z (nc,) of those present, equation of state, and the
    arrays the properties need. ``remarks`` for the ledger; ``origin`` the names of the parts each component came from."""

    name: str
    components: tuple[Component, ...]
    z: Array
    eos: Equation
    molar_mass: Array
    cp: Array
    kij: Array
    remarks: tuple[Remark, ...]
    origin: tuple[tuple[str, ...], ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        """Names of the components, in order."""
        return tuple(c.name for c in self.components)

    @property
    def substance(self) -> Substance:
        """What properties are computed from."""
        return Substance(self.eos, self.molar_mass, self.cp)


def build_fluid(fluid: FluidInput, sources: Sources) -> FluidModel:
    """Return the fluid's mole fractions and equation of state.

    Amounts count on the basis of their part: moles, masses, or liquid volumes at 60 degF (gases by their apparent specific
    gravity). Parts without an amount are left out. Raises DomainError where a part cannot be completed.
    """
    remarks: list[Remark] = []
    content = collect(fluid, sources, remarks)
    made = fluid.recombination
    if made is not None and made.place == "separator" and made.temperature is not None and made.pressure is not None:
        remarks += _separator(build_fluid(sources.fluid(made.liquid), sources), made.temperature, made.pressure)
    components = matched_components(content.components, fluid.model.eos)
    kij = interaction(fluid.model, components, remarks)
    width = max(len(c.cp) for c in components)
    return FluidModel(
        fluid.name,
        tuple(components),
        content.moles / content.moles.sum(),
        equation_of(fluid.model.eos, components, kij),
        np.array([c.molar_mass for c in components]),
        np.array([[*c.cp, *[0.0] * (width - len(c.cp))] for c in components]),
        kij,
        tuple(remarks),
        content.origin,
    )


NEAR = 1.25
"""Factor of the pressure within which a separator's liquid counts as being at its bubble point."""


def _separator(liquid: FluidModel, T: float, P: float) -> list[Remark]:
    """Say where a separator's liquid is far from its bubble point at T K and P Pa, as a liquid drawn there cannot be."""
    found = flash_pt(liquid.eos, np.full(2, T), P * np.array([1.0 / NEAR, NEAR]), liquid.z)
    if not found.converged.all() or (found.split[0] and not found.split[1]):
        return []
    code = "parts.separator_gassy" if found.split[1] else "parts.separator_dead"
    return [Remark("warning", code, "parts", {"liquid": liquid.name, "T": kelvin(T), "P": pascal(P)})]


def interaction(model: ModelInput, components: Sequence[Component], remarks: list[Remark]) -> Array:
    """Return the interaction parameters (nc, nc): the library's or zero, own pairs by key or name in their place."""
    nc = len(components)
    kij = library_kij(components) if model.kij == "library" else np.zeros((nc, nc))
    if model.kij == "library" and nc > 1:
        remarks.append(Remark("estimate", "model.library", "kij"))
    place = {c.name: i for i, c in enumerate(components)} | {c.identity: i for i, c in enumerate(components)}
    for one, other, value in model.pairs:
        i, j = place.get(one), place.get(other)
        if i is None or j is None:
            told = {"one": one, "other": other}
            remarks.append(Remark("warning", "model.pair_without_effect", "kij", told))
            continue
        kij[i, j] = kij[j, i] = value
    return kij
