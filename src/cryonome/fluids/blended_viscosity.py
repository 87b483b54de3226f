"""Viscosities of what samples are blended to: each sample's brought to what was measured of it, and all of them by
the double logarithm.

ASTM D7152, procedure A: the blending index ln ln(v + 0.8), v in cSt, adds up by mass. A model of corresponding states
is no rule of blending: it is brought to that of the blend's cuts as one liquid, and tells what dissolved gas,
pressure and temperature do to it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..characterization import CharacterizedSample
from ..characterization.correlations import TEST_TEMPERATURES
from ..characterization.viscosity import BEYOND, from_index, index
from ..constants import ATM, R
from ..document.read_model import ModelInput
from ..eos.building import equation_of, matched_components, volume_shift, volume_slope
from ..equilibrium.flash import flash_pt
from ..equilibrium.phases import Kind
from ..errors import DomainError
from ..properties import evaluate, transport
from ..properties.substance import Substance, ViscosityMatch
from ..remarks import Remark, Value
from .blending import Shares, Sources
from .pair_parameters import interaction

Array = NDArray[np.float64]


def viscosity_match(
    model: ModelInput,
    plain: Substance,
    cuts: NDArray[np.bool_],
    z: Array,
    shares: Sequence[Shares],
    sources: Sources,
    remarks: list[Remark],
) -> ViscosityMatch | None:
    """Return what brings the liquid viscosities of a fluid to those of its samples, None where nothing was measured
    of the only one.

    ``plain`` is the fluid without it, ``cuts`` (nc,) which components are cuts, ``z`` (nc,) mole fractions,
    ``shares`` what each component came from."""
    owners = dict.fromkeys(name for own, is_cut in zip(shares, cuts) if is_cut for name in own)
    samples = {name: s for name in owners if (s := _sample(sources, name)) is not None}
    measured = [s for s in samples.values() if _measured(s)]
    for one in measured:
        points, curves = len(one.choices.viscosity), len(one.choices.viscosity_curves)
        values: dict[str, Value] = {"sample": one.name, "count": points or curves}
        code = "model.viscosity_matched" if points else "model.viscosity_matched_curves"
        remarks.append(Remark("correction", code, "viscosity", values))
    share = cuts.astype(float)
    if len(samples) < 2:
        return ViscosityMatch(share, lambda: _own_line(measured[0], model)) if measured else None
    remarks.append(Remark("correction", "model.viscosity_blended", "viscosity", {"samples": tuple(samples)}))
    mass = z * plain.molar_mass * cuts
    # A component may be of several samples.
    held = {
        n: float(sum(m * s.get(n, 0.0) / sum(s.values()) for m, s in zip(mass, shares) if m > 0.0)) for n in samples
    }
    return ViscosityMatch(share, lambda: _blended_line(model, plain, mass, [(s, held[n]) for n, s in samples.items()]))


def _measured(sample: CharacterizedSample) -> bool:
    """Tell whether viscosities of a sample were measured, of the whole or along its curve."""
    return bool((sample.choices.viscosity or sample.choices.viscosity_curves) and sample.viscosity)


def _sample(sources: Sources, name: str) -> CharacterizedSample | None:
    try:
        return sources.sample(name, None)
    except (DomainError, LookupError):
        return None


def _alone(sample: CharacterizedSample, model: ModelInput) -> Substance:
    components = matched_components(sample.components, model.eos)
    eos = equation_of(model.eos, components, interaction(model, components, []), model.alpha)
    shift = volume_shift(model.volume_shift, model.eos, components, eos)
    slope = volume_slope(model.volume_shift, components, eos, shift)
    return Substance(eos, tuple(components), shift, viscosity=model.viscosity, slope=slope)


def _own_line(sample: CharacterizedSample, model: ModelInput) -> tuple[float, float]:
    """Return a and b of the factor exp(w (a + b/T)), w the mass fraction of cuts, from the model's viscosity of a
    sample to that measured at 1 atm.

    Two measured temperatures give both, one gives a; a sample whose liquid the model does not find counts as matched.
    """
    if not _measured(sample):
        return 0.0, 0.0
    substance = _alone(sample, model)
    T, measured = np.array(sample.viscosity).T
    phases = flash_pt(substance.eos, T, ATM, sample.mole_fraction)
    found = evaluate(substance, phases, ("kinematic_viscosity", "viscosity")).phase
    values = found["kinematic_viscosity"]
    liquid = np.where((phases.kind == Kind.LIQUID) & np.isfinite(values), values, 0.0)
    place, each = liquid.argmax(axis=-1), np.arange(T.size)
    own, x = liquid[each, place], phases.composition[each, place]
    mass = x * substance.molar_mass
    weight = mass @ np.array([c.kind == "cut" for c in substance.components]) / mass.sum(axis=-1)
    good = (own > 0.0) & (measured <= BEYOND) & (weight > 0.0)
    if not good.any():
        return 0.0, 0.0
    choices = sample.choices
    if choices.viscosity and not (choices.viscosity_curves and "viscosity" in choices.keep):
        # A dynamic viscosity is met as such: the density that turned it into a kinematic one is not the equation's,
        # nor that of a liquid which lost light ends.
        dynamic = np.array([p.dynamic for p in choices.viscosity])
        given = np.array([p.value for p in choices.viscosity])
        own = np.where(dynamic, found["viscosity"][each, place], own)
        measured = np.where(dynamic, given, measured)
    log, inverse = np.log(measured[good] / own[good]) / weight[good], 1.0 / T[good]
    b, a = np.polyfit(inverse, log, 1) if inverse.size > 1 else (0.0, log[0])
    return float(a), float(b)


def _blended_line(
    model: ModelInput, plain: Substance, mass: Array, samples: Sequence[tuple[CharacterizedSample, float]]
) -> tuple[float, float]:
    """Return a and b of the factor from the model's viscosity of the cuts (masses (nc,)) as one liquid to that
    blended of the samples' cuts (each with its mass), at the two test temperatures."""
    T = TEST_TEMPERATURES
    weight = np.array([m for _, m in samples])
    each = []
    for sample, _ in samples:
        own, (a, b) = _alone(sample, model), _own_line(sample, model)
        cuts = np.array([c.kind == "cut" for c in own.components])
        each.append(_liquid(own, sample.mole_fraction * cuts, T) * np.exp(a + b / T))
    # A viscosity beyond any method blends as the thickest that there is one for.
    target = from_index(weight / weight.sum() @ index(np.minimum(each, BEYOND)))
    found = _liquid(plain, mass / plain.molar_mass, T)
    if not np.isfinite(target / found).all():
        return 0.0, 0.0
    b, a = np.polyfit(1.0 / T, np.log(target / found), 1)
    return float(a), float(b)


def _liquid(substance: Substance, moles: Array, T: Array) -> Array:
    """Return the kinematic viscosities, m2/s (n,), of ``moles`` (nc,) as one liquid at T (n,) K and 1 atm, by the
    model alone."""
    x = np.tile(moles / moles.sum(), (T.size, 1))
    P = np.full(T.size, ATM)
    Z = substance.eos.prepare(T, P).ln_phi(x, "liquid")[1]
    volume = Z * R * T / P - np.vecdot(x, substance.shifts.at(T))
    dynamic = transport.viscosity(substance.viscosity, substance, T, P, x, volume, np.ones(T.size, dtype=bool))
    return np.asarray(dynamic * volume / (x @ substance.molar_mass))
