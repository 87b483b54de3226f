"""From what a fluid says to a fluid ready to compute."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import T_REF
from ..document import FluidInput
from ..document.read_model import ModelInput
from ..eos import Equation
from ..eos.aqueous_library import WATER
from ..eos.building import BONDS, SAFT, Interaction, equation_of, matched_components, volume_shift, volume_slope
from ..eos.cpa_library import bonding
from ..eos.cubic import CubicEos
from ..eos.cubic_forms import FORMS
from ..eos.interaction import is_hydrocarbon
from ..eos.saft_parameters import saft_sets
from ..equilibrium.flash import flash_pt
from ..properties import CORRELATIONS, ORGANICS, Reference, Substance
from ..remarks import Remark, kelvin, pascal
from ..tuning.parameters import times
from .blended_viscosity import viscosity_match
from .blending import Shares, Sources, collect
from .pair_parameters import interaction
from .tuned import applied_tuning

Array = NDArray[np.float64]


HEAVIER = 0.06
"""kg/mol. Molar mass above which a hydrocarbon is heavier than butane."""
UNLIKE = 0.06
"""Interaction parameters of a component with most others above which it may have a liquid of its own."""
MANY = 0.2
"""Mole fraction of such components from which on a second liquid is looked for."""


@dataclass(frozen=True)
class FluidModel:
    """A fluid ready to compute: components, mole fractions z (nc,) of those present, equation of state, and the
    arrays the properties need. ``remarks`` for the ledger; ``origin`` the names of the parts each component came
    from."""

    name: str
    components: tuple[Component, ...]
    z: Array
    eos: Equation
    substance: Substance
    pairs: Interaction
    remarks: tuple[Remark, ...]
    origin: tuple[tuple[str, ...], ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        """Names of the components, in order."""
        return tuple(c.name for c in self.components)

    @property
    def water(self) -> int | None:
        """Place of water among the components."""
        return next((i for i, c in enumerate(self.components) if c.identity == WATER), None)

    @property
    def may_have_third(self) -> bool:
        """Whether a third phase is worth a search: water, or many components unlike the others (carbon dioxide,
        nitrogen)."""
        if self.z.size < 3:
            return self.water is not None and self.z.size > 1
        return self.water is not None or float(self.z[self.eos.unlikeness() > UNLIKE].sum()) >= MANY

    @property
    def molar_mass(self) -> Array:
        """Molar masses of the components, (nc,) kg/mol."""
        return self.substance.molar_mass

    @property
    def kij(self) -> Array:
        """The interaction parameters at 298.15 K, (nc, nc)."""
        return self.pairs.kij


def build_fluid(fluid: FluidInput, sources: Sources) -> FluidModel:
    """Return the fluid's mole fractions and equation of state.

    Amounts count on the basis of their part: moles, masses, or liquid volumes at 60 degF (gases by their apparent
    specific gravity). Parts without an amount are left out. Raises DomainError where a part cannot be completed."""
    remarks: list[Remark] = []
    content = collect(fluid, sources, remarks)
    made = fluid.recombination
    if made is not None and made.place == "separator" and made.temperature is not None and made.pressure is not None:
        remarks += _separator(build_fluid(sources.fluid(made.liquid), sources), made.temperature, made.pressure)
    made_of = equation_for(fluid.model, tuple(content.components))
    remarks += made_of.remarks
    components, pairs, eos = list(made_of.components), made_of.pairs, made_of.eos
    z = content.moles / content.moles.sum()
    tuning = applied_tuning(fluid.model, components, z, pairs, remarks)
    if tuning is not None:
        components, pairs, z = list(tuning.components), tuning.pairs, tuning.z
        eos = equation_of(fluid.model.eos, components, pairs, fluid.model.alpha)
    if tuning is not None and isinstance(eos, CubicEos):
        eos = replace(eos, a_factor=times(eos.a_factor, tuning.a_factor), b_factor=times(eos.b_factor, tuning.b_factor))
    remarks += _saft_remarks(fluid.model.eos, components)
    remarks += _bond_remarks(fluid.model.eos, components)
    remarks += _water_remarks(fluid.model, components)
    if isinstance(eos, CubicEos) and fluid.model.alpha == "smooth":
        remarks.append(Remark("estimate", "model.alpha_smooth", "alpha"))
    shifts = made_of.shifts if tuning is None else _shifts(fluid.model, components, eos)
    substance = _substance(fluid.model, eos, shifts, components, z, content.shares, sources, remarks)
    if tuning is not None:
        substance = replace(substance, shift=substance.shift * tuning.shift_factor, thicker=tuning.thicker)
    return FluidModel(fluid.name, tuple(components), z, eos, substance, pairs, tuple(remarks), content.origin)


@dataclass(frozen=True)
class EquationFor:
    """What a model makes of components: these as the equation takes them, their interaction parameters, the equation,
    volume shifts with their slopes, and what is said of it."""

    components: tuple[Component, ...]
    pairs: Interaction
    eos: Equation
    shifts: tuple[Array, Array]
    remarks: tuple[Remark, ...]


@lru_cache(64)
def equation_for(model: ModelInput, components: tuple[Component, ...]) -> EquationFor:
    """Return what a model makes of components, untuned; kept, since amounts alone change none of it. Raises
    DomainError."""
    remarks: list[Remark] = []
    named = {c.name for c in components} | {c.identity for c in components}
    for name, _, _ in model.shifts:
        if name not in named:
            remarks.append(Remark("warning", "model.shift_without_effect", "volume_shift", {"name": name}))
    own = matched_components(_with_omegas(model, components, remarks), model.eos)
    pairs = interaction(model, own, remarks)
    eos = equation_of(model.eos, own, pairs, model.alpha)
    return EquationFor(tuple(own), pairs, eos, _shifts(model, own, eos), tuple(remarks))


def _shifts(model: ModelInput, components: Sequence[Component], eos: Equation) -> tuple[Array, Array]:
    """Return the volume shifts (nc,) m3/mol and their slopes (nc,) m3/(mol K)."""
    shift = volume_shift(model.volume_shift, model.eos, components, eos)
    slope = volume_slope(model.volume_shift, components, eos, shift)
    place = {c.name: i for i, c in enumerate(components)} | {c.identity: i for i, c in enumerate(components)}
    own = [(place[name], value, change) for name, value, change in model.shifts if name in place]
    if own:
        shift, slope = shift.copy(), slope.copy()
    for i, value, change in own:
        shift[i], slope[i] = value, change
    return shift, slope


def _with_omegas(model: ModelInput, components: Sequence[Component], remarks: list[Remark]) -> list[Component]:
    """Return the components with the constants Omega that the model gives them; those it gives to what is not there
    are told."""
    out = list(components)
    place = {c.name: i for i, c in enumerate(out)} | {c.identity: i for i, c in enumerate(out)}
    for name, omegas in model.omegas:
        if name in place:
            out[place[name]] = replace(out[place[name]], omegas=omegas)
        else:
            remarks.append(Remark("warning", "model.omegas_without_effect", "omegas", {"name": name}))
    return out


def _saft_remarks(name: str, components: Sequence[Component]) -> list[Remark]:
    """Say which PC-SAFT parameters are estimated, and which components the equation is not made for."""
    if name != SAFT:
        return []
    out = []
    estimated = [c for c, s in zip(components, saft_sets(components)) if not s.source]
    cuts = sum(c.kind == "cut" for c in estimated)
    told = tuple(c.name for c in estimated if c.kind != "cut") + ((f"{cuts} cuts",) if cuts else ())
    if told:
        out.append(Remark("estimate", "model.saft_estimated", "equation", {"names": told}))
    sticky = tuple(c.name for c in components if c.family == "alcohol" or c.formula == "H2O")
    if sticky:
        out.append(Remark("warning", "model.saft_associates", "equation", {"names": sticky}))
    return out


def _water_remarks(model: ModelInput, components: Sequence[Component]) -> list[Remark]:
    """Say how properties of aqueous liquids are found, and what a cubic gets wrong of alcohols and glycols."""
    out = []
    if any(c.identity == WATER for c in components) and model.aqueous_by == CORRELATIONS:
        out.append(Remark("estimate", "model.aqueous", "aqueous"))
    sticky = tuple(c.name for c in components if c.kind == "pure" and c.name in ORGANICS)
    oily = any(is_hydrocarbon(c) and c.molar_mass > HEAVIER for c in components)
    if sticky and oily and model.eos in FORMS:
        glycols = any("glycol" in n for n in sticky)
        code = "model.cubic_glycol" if glycols else "model.cubic_alcohol"
        out.append(Remark("warning", code, "equation", {"names": sticky, "T": kelvin(T_REF, 0)}))
    return out


def _bond_remarks(name: str, components: Sequence[Component]) -> list[Remark]:
    """Say which components have constants of cubic plus association and which the cubic's own."""
    if name != BONDS:
        return []
    own = tuple(c.name for c in components if bonding(c) is not None)
    if not own:
        return [Remark("estimate", "model.no_bonds", "equation")]
    out = [Remark("estimate", "model.bonds", "equation", {"names": own})]
    lonely = tuple(c.name for c in components if c.family == "alcohol" and bonding(c) is None)
    if lonely:
        out.append(Remark("warning", "model.bonds_unknown", "equation", {"names": lonely}))
    return out


def _substance(
    model: ModelInput,
    eos: Equation,
    shifts: tuple[Array, Array],
    components: Sequence[Component],
    z: Array,
    shares: Sequence[Shares],
    sources: Sources,
    remarks: list[Remark],
) -> Substance:
    """Return what properties are computed from, its viscosities brought to those measured of the samples in it."""
    shift, slope = shifts
    plain = Substance(
        eos,
        tuple(components),
        shift,
        Reference(model.reference, model.reference_T),
        model.viscosity,
        slope=slope,
        aqueous=model.aqueous_by,
        salt=model.salt,
    )
    cuts = np.array([c.kind == "cut" for c in components])
    match = viscosity_match(model, plain, cuts, z, shares, sources, remarks)
    return plain if match is None else replace(plain, match=match)


NEAR = 1.25
"""Factor of the pressure within which a separator's liquid counts as being at its bubble point."""


def _separator(liquid: FluidModel, T: float, P: float) -> list[Remark]:
    """Say where a separator's liquid is far from its bubble point at T K and P Pa, as a liquid drawn there cannot
    be."""
    found = flash_pt(liquid.eos, np.full(2, T), P * np.array([1.0 / NEAR, NEAR]), liquid.z)
    if not found.converged.all() or (found.split[0] and not found.split[1]):
        return []
    code = "parts.separator_gassy" if found.split[1] else "parts.separator_dead"
    return [Remark("warning", code, "parts", {"liquid": liquid.name, "T": kelvin(T), "P": pascal(P)})]
