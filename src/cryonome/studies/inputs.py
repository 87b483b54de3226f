"""From what a fluid says to a fluid ready to compute."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..characterization import CharacterizedSample
from ..characterization.viscosity import BEYOND
from ..components import Component
from ..constants import ATM
from ..document import FluidInput
from ..document.read_fluid import ModelInput
from ..eos import Equation
from ..eos.aqueous_library import WATER
from ..eos.building import SAFT, Interaction, equation_of, family_of, matched_components, volume_shift
from ..eos.cubic import CubicEos
from ..eos.interaction import library_pairs
from ..eos.saft_parameters import saft_sets
from ..equilibrium.flash import flash_pt
from ..equilibrium.phases import Kind
from ..errors import DomainError
from ..properties import Reference, Substance, ViscosityMatch, evaluate
from ..remarks import Remark, Value, kelvin, pascal
from .blending import Sources, collect
from .tuned import applied_tuning

Array = NDArray[np.float64]


UNLIKE = 0.06
"""Interaction parameters of a component with most others above which it may have a liquid of its own."""
MANY = 0.2
"""Mole fraction of such components from which on a second liquid is looked for."""


@dataclass(frozen=True)
class FluidModel:
    """A fluid ready to compute: components, mole fractions z (nc,) of those present, equation of state, and the
    arrays the properties need. ``remarks`` for the ledger; ``origin`` the names of the parts each component came from."""

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
        """Whether a third phase is worth a search: water, or many components unlike the others (carbon dioxide, nitrogen)."""
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

    Amounts count on the basis of their part: moles, masses, or liquid volumes at 60 degF (gases by their apparent specific
    gravity). Parts without an amount are left out. Raises DomainError where a part cannot be completed.
    """
    remarks: list[Remark] = []
    content = collect(fluid, sources, remarks)
    made = fluid.recombination
    if made is not None and made.place == "separator" and made.temperature is not None and made.pressure is not None:
        remarks += _separator(build_fluid(sources.fluid(made.liquid), sources), made.temperature, made.pressure)
    components = matched_components(content.components, fluid.model.eos)
    pairs = interaction(fluid.model, components, remarks)
    z = content.moles / content.moles.sum()
    tuning = applied_tuning(fluid.model, components, z, pairs, remarks)
    if tuning is not None:
        components, pairs, z = list(tuning.components), tuning.pairs, tuning.z
    eos = equation_of(fluid.model.eos, components, pairs, fluid.model.alpha)
    if tuning is not None and isinstance(eos, CubicEos):
        eos = replace(eos, a_factor=tuning.a_factor, b_factor=tuning.b_factor)
    remarks += _saft_remarks(fluid.model.eos, components)
    substance = _substance(fluid.model, eos, components, content.origin, sources, remarks)
    if tuning is not None:
        substance = replace(substance, shift=substance.shift * tuning.shift_factor, thicker=tuning.thicker)
    return FluidModel(fluid.name, tuple(components), z, eos, substance, pairs, tuple(remarks), content.origin)


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


def _substance(
    model: ModelInput, eos: Equation, components: Sequence[Component], origin: tuple[tuple[str, ...], ...], sources: Sources,
    remarks: list[Remark],
) -> Substance:  # fmt: skip
    """Return what properties are computed from, its viscosities brought to those measured of the samples in it."""
    shift = volume_shift(model.volume_shift, model.eos, components, eos)
    plain = Substance(
        eos, tuple(components), shift, Reference(model.reference, model.reference_T), model.viscosity
    )  # fmt: skip
    cuts = [i for i, c in enumerate(components) if c.kind == "cut"]
    owners = dict.fromkeys(name for i in cuts for name in origin[i])
    measured = [m for name in owners if (m := _with_viscosities(sources, name)) is not None]
    if not measured:
        return plain
    for sample in measured:
        values: dict[str, Value] = {"sample": sample.name, "count": len(sample.choices.viscosity)}
        remarks.append(Remark("correction", "model.viscosity_matched", "viscosity", values))
    share = np.array([float(c.kind == "cut") for c in components])
    return replace(plain, match=ViscosityMatch(share, lambda: _matching_line(measured, model)))


def _with_viscosities(sources: Sources, name: str) -> CharacterizedSample | None:
    """Return a sample with measured viscosities, None for what is no sample or has none."""
    try:
        sample = sources.sample(name, None)
    except (DomainError, LookupError):
        return None
    return sample if sample.choices.viscosity and sample.viscosity else None


def _matching_line(samples: Sequence[CharacterizedSample], model: ModelInput) -> tuple[float, float]:
    """Return the mean of the samples' a and b of the factor exp(a + b/T) from the model's viscosity to the measured ones at 1 atm.

    Two measured temperatures give both, one gives a; a sample whose liquid the model does not find counts as matched.
    """
    return tuple(np.mean([_match(sample, model) for sample in samples], axis=0).tolist())


def _match(sample: CharacterizedSample, model: ModelInput) -> tuple[float, float]:
    components = matched_components(sample.components, model.eos)
    eos = equation_of(model.eos, components, interaction(model, components, []), model.alpha)
    substance = Substance(
        eos, tuple(components), volume_shift(model.volume_shift, model.eos, components, eos), viscosity=model.viscosity
    )  # fmt: skip
    T, measured = np.array(sample.viscosity).T
    phases = flash_pt(eos, T, ATM, sample.mole_fraction)
    values = evaluate(substance, phases, ("kinematic_viscosity",)).phase["kinematic_viscosity"]
    liquid = (phases.kind == Kind.LIQUID) & np.isfinite(values)
    own = np.where(liquid, values, 0.0).max(axis=-1)
    good = (own > 0.0) & (measured <= BEYOND)
    if not good.any():
        return 0.0, 0.0
    log, inverse = np.log(measured[good] / own[good]), 1.0 / T[good]
    b, a = np.polyfit(inverse, log, 1) if inverse.size > 1 else (0.0, log[0])
    return float(a), float(b)


NEAR = 1.25
"""Factor of the pressure within which a separator's liquid counts as being at its bubble point."""


def _separator(liquid: FluidModel, T: float, P: float) -> list[Remark]:
    """Say where a separator's liquid is far from its bubble point at T K and P Pa, as a liquid drawn there cannot be."""
    found = flash_pt(liquid.eos, np.full(2, T), P * np.array([1.0 / NEAR, NEAR]), liquid.z)
    if not found.converged.all() or (found.split[0] and not found.split[1]):
        return []
    code = "parts.separator_gassy" if found.split[1] else "parts.separator_dead"
    return [Remark("warning", code, "parts", {"liquid": liquid.name, "T": kelvin(T), "P": pascal(P)})]


def interaction(model: ModelInput, components: Sequence[Component], remarks: list[Remark]) -> Interaction:
    """Return the interaction parameters (nc, nc): the library's or zero, own pairs by key or name in their place."""
    nc = len(components)
    kij, slope = np.zeros((nc, nc)), np.zeros((nc, nc))
    own = _own_pairs(model, components, remarks)
    if model.kij == "library" and nc > 1:
        found = library_pairs(components, family_of(model.eos), model.rule)
        kij = found.kij
        values: dict[str, Value] = {"scale": model.rule.scale, "exponent": model.rule.exponent}
        remarks.append(Remark("estimate", "model.library", "kij", values))
        told = tuple(f"{components[i].name}–{components[j].name}" for i, j in found.missing if (i, j) not in own)
        if told:
            remarks.append(Remark("warning", "model.pairs_missing", "kij", {"pairs": told}))
    elif nc > 1:
        remarks.append(Remark("warning", "model.zero", "kij"))
    for (i, j), (value, rise) in own.items():
        kij[i, j] = kij[j, i] = value
        slope[i, j] = slope[j, i] = rise
    salt, given = _water_pairs(model, components, own)
    return Interaction(kij, slope if slope.any() else None, salt, given)


def _water_pairs(
    model: ModelInput, components: Sequence[Component], own: Mapping[tuple[int, int], tuple[float, float]]
) -> tuple[float | None, tuple[int, ...]]:
    """Return the salt of the water where the library tells its pairs, and the places whose pair with it is the user's own."""
    water = next((i for i, c in enumerate(components) if c.identity == WATER), None)
    if water is None or model.kij != "library":
        return None, ()
    return model.salt, tuple(i if j == water else j for i, j in own if water in (i, j))


def _own_pairs(
    model: ModelInput, components: Sequence[Component], remarks: list[Remark]
) -> dict[tuple[int, int], tuple[float, float]]:
    """Return value and slope of the fluid's own pairs by place, the lower first."""
    place = {c.name: i for i, c in enumerate(components)} | {c.identity: i for i, c in enumerate(components)}
    out: dict[tuple[int, int], tuple[float, float]] = {}
    for one, other, value, rise in model.pairs:
        i, j = place.get(one), place.get(other)
        if i is None or j is None:
            remarks.append(Remark("warning", "model.pair_without_effect", "kij", {"one": one, "other": other}))
            continue
        out[min(i, j), max(i, j)] = value, rise
    return out
