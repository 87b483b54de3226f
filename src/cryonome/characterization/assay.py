"""The sample as a stack of thin slices along its boiling curve, with the light ends in front.

Every whole-sample number is met by adding slices up, so nothing is lost when they are gathered into cuts.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..components import Component, find
from ..constants import TYPICAL_WATSON_K, WATER_DENSITY_60F
from ..errors import DomainError
from ..remarks import Remark, Value, Word, kelvin, measure
from .averages import GASSY, mean_average_boiling_point
from .correlations.registry import DEFAULTS, REGISTRY, Fraction
from .curve import BoilingCurve
from .lab_sample import LabSample, LightEnds
from .property_curves import PropertyPoints, beyond, through
from .reading import Reading, per_unit, read_curve

Array = NDArray[np.float64]

SLICES = 400
ROUNDS = 200
CLASH = 0.01
"""Relative difference above which two statements about the whole sample are reported to clash."""

GAP = 5.0
"""K that may lie unlisted between the light ends and the first cut."""
HYDROCARBONS = ("n-alkane", "isoalkane", "naphthene", "aromatic", "olefin")
"""Families whose amounts a boiling curve tells."""

SG_BOUNDS = (0.40, 1.30)
BASES = ("volume", "mass", "mole")


@dataclass(frozen=True)
class Assay:
    """Slices (n,) of the part above the light ends: ``nbp`` K, ``sg``, ``molar_mass`` kg/mol, ``moles`` of one mole
    of sample; ``x`` (n + 1,) the distilled fraction at their edges as entered. ``light_moles`` (k,) of the light
    ends. ``labels`` (n,) name the slices where each is a carbon group. ``sample`` is the lab data with its curves on
    the basis of the slices. ``curve`` is the TBP at 1 atm by volume of the whole sample."""

    reading: Reading | None
    curve: BoilingCurve
    x: Array
    nbp: Array
    sg: Array
    molar_mass: Array
    moles: Array
    light: tuple[Component, ...]
    light_moles: Array
    labels: tuple[str, ...] = ()
    sample: LabSample | None = None

    def amounts(self, basis: str) -> Array:
        """Return the amounts (n,) of the slices: moles, kg, or m3 of liquid at 60 degF."""
        return amount_of(basis, self.moles, self.sg, self.molar_mass)

    def light_amounts(self, basis: str) -> Array:
        """Return the amounts (k,) of the light ends likewise."""
        return amount_of(basis, self.light_moles, *light_arrays(self.light))

    def along(self, basis: str) -> Array:
        """Return the fraction (n + 1,) of the whole sample below every edge, light ends included."""
        light, body = self.light_amounts(basis).sum(), np.cumsum(self.amounts(basis))
        return np.asarray(np.concatenate([[light], light + body]) / (light + body[-1]))


def amount_of(basis: str, moles: Array, sg: Array, molar_mass: Array) -> Array:
    """Return moles (n,) as amounts on a basis: moles, kg, or m3 of liquid at 60 degF."""
    if basis == "mole":
        return moles
    mass = np.asarray(moles * molar_mass)
    return mass if basis == "mass" else np.asarray(mass / (sg * WATER_DENSITY_60F))


def light_arrays(light: tuple[Component, ...]) -> tuple[Array, Array]:
    """Return specific gravities and molar masses (k,) of pure components."""
    return np.array([c.specific_gravity for c in light]), np.array([c.molar_mass for c in light])


def light_moles(ends: LightEnds | None, rest: dict[str, float]) -> Array:
    """Return the moles (k,) of measured light ends beside a rest of so much volume (m3), mass (kg) and moles."""
    if ends is None or ends.percent is None or not ends.components:
        return np.zeros(0)
    share = np.asarray(ends.percent) / 100.0
    total = rest[ends.basis] / (1.0 - share.sum())
    sg, mass = light_arrays(ends.components)
    return np.asarray(share * total * per_unit(ends.basis, "mole", sg, mass))


def by_boiling_point(ends: LightEnds) -> tuple[Component, ...]:
    """Return the light ends by rising boiling point."""
    return tuple(sorted(ends.components, key=lambda c: c.nbp))


IN_CRUDES = (
    "methane", "ethane", "propane", "isobutane", "n-butane", "isopentane", "n-pentane", "cyclopentane", "2,2-dimethylbutane", "2,3-dimethylbutane",
    "2-methylpentane", "3-methylpentane", "n-hexane", "methylcyclopentane", "benzene", "cyclohexane",
)  # fmt: skip
"""Hydrocarbons C1 to C6 that crudes hold, by rising boiling point: whether listed or not, each has the part of the
front nearest to it."""


def front_borders(species: tuple[Component, ...]) -> Array:
    """Return the boiling points (k, 2), K, between which the front is nearest to each species, by rising boiling point.

    Borders are the means between it and its neighbours among those of :data:`IN_CRUDES` and the listed; the lightest
    of all begins with the curve, and the heaviest ends as far above its boiling point as its lower border lies below
    it."""
    own = np.array([c.nbp for c in species])
    grid = np.unique(np.concatenate([own, [find(name).nbp for name in IN_CRUDES]]))
    middle = 0.5 * (grid[1:] + grid[:-1])
    borders = np.concatenate([[0.0], middle, [2.0 * grid[-1] - middle[-1]]])
    place = np.searchsorted(grid, own)
    return np.column_stack([borders[place], borders[place + 1]])


def front_shares(species: tuple[Component, ...], curve: BoilingCurve) -> Array:
    """Return the fraction (k,) of the curve's front that boils nearest to each species; none of what is no
    hydrocarbon, which no boiling point tells."""
    borders = front_borders(species)
    return np.array(
        [
            float(np.diff(curve.distilled(ends))[0]) if c.family in HYDROCARBONS else 0.0
            for c, ends in zip(species, borders)
        ]
    )


def build_assay(sample: LabSample, remarks: list[Remark]) -> Assay:
    """Return the slices of a sample whose boiling curve was measured. Raises DomainError where it cannot be."""
    reading = read_curve(sample, remarks)
    sample = _with_curves_moved(sample, reading)
    curve, basis, ends = reading.tbp, reading.basis, sample.light_ends
    if ends is not None and ends.percent is None:
        species = by_boiling_point(ends)
        ends = LightEnds(species, tuple((100.0 * front_shares(species, curve)).tolist()), basis, True)
        share = sum(ends.percent or ())
        listed = tuple((c.name, p) for c, p in zip(species, ends.percent or ()))
        values: dict[str, Value] = {"share": share, "basis": basis, "species": listed}
        remarks.append(Remark("estimate", "light_ends.estimated", "light_ends", values))
        others = tuple(c.name for c in species if c.family not in HYDROCARBONS)
        if others:
            remarks.append(Remark("warning", "light_ends.not_told", "light_ends", {"names": others}))
    if ends is not None and sum(ends.percent or ()) >= 99.0:
        raise DomainError(f"the light ends make {sum(ends.percent or ()):.4g} % of the sample; nothing is left to cut")
    included = ends is not None and ends.included
    state = _Solver(sample, curve, basis, ends, included).solve()
    state.tell(remarks)
    whole = _whole_curve(curve, state, included)
    if ends is not None and ends.components:
        _check_front(ends, state, curve, included, remarks)
    return Assay(
        reading, whole, state.x, state.nbp, state.sg, state.mass, state.moles,
        ends.components if ends is not None else (), state.light, (), sample,
    )  # fmt: skip


def _with_curves_moved(sample: LabSample, reading: Reading) -> LabSample:
    """Return the sample with its property curves on the basis the boiling curve was brought to."""
    if reading.moved is None:
        return sample
    grid, became = reading.moved

    def moved(points: PropertyPoints) -> PropertyPoints:
        return PropertyPoints(tuple(np.interp(points.percent, grid, became).tolist()), points.value)

    return replace(
        sample,
        density_curve=moved(sample.density_curve),
        molar_mass_curve=moved(sample.molar_mass_curve),
        viscosity_curves=tuple(replace(c, points=moved(c.points)) for c in sample.viscosity_curves),
        quantities=tuple(replace(q, points=moved(q.points)) for q in sample.quantities),
    )


class _Solver:
    """Finds the scales of density and molar mass, and the amount of light ends, that meet the whole sample."""

    def __init__(
        self, sample: LabSample, curve: BoilingCurve, basis: str, ends: LightEnds | None, included: bool
    ) -> None:
        self.sample, self.curve, self.basis, self.ends, self.included = sample, curve, basis, ends, included
        self.density_scale, self.mass_scale = 1.0, 1.0
        self.density_key = sample.correlations.get("density", DEFAULTS["density"])
        self.mass_factor = sample.factors.get("molar_mass", 1.0)
        self.mass_entry = REGISTRY["molar_mass"][sample.correlations.get("molar_mass", DEFAULTS["molar_mass"])]
        self.fit_density = sample.density is not None and "density" not in sample.keep
        self.fit_mass = sample.molar_mass is not None and "molar_mass" not in sample.keep
        self.start = 0.0
        self.clipped = False
        self.light = np.zeros(0)
        self.x = self.nbp = self.sg = self.mass = self.moles = np.zeros(0)

    def _shape(self, nbp: Array) -> Array:
        """Return the unscaled specific gravity (n,) of fractions of boiling points nbp (n,)."""
        return REGISTRY["density"][self.density_key].function(Fraction(nbp, np.full(nbp.shape, 0.8)))

    def _gravity(self, x: Array, nbp: Array) -> Array:
        sample = self.sample
        if sample.density_curve:
            points = PropertyPoints(
                sample.density_curve.percent, tuple(v / WATER_DENSITY_60F for v in sample.density_curve.value)
            )
            values = through(points, x, lambda at: self._shape(self._boiling(at)) if at is not x else self._shape(nbp))
        else:
            values = self._shape(nbp)
            if not self.fit_density and sample.watson_k is not None:
                values = np.cbrt(1.8 * nbp) / sample.watson_k
        scaled = values * self.density_scale
        self.clipped = bool(((scaled < SG_BOUNDS[0]) | (scaled > SG_BOUNDS[1])).any())
        return np.clip(scaled, *SG_BOUNDS)

    def _boiling(self, x: Array) -> Array:
        return self.curve.at(np.clip(x, 0.0, 1.0))

    def _molar_mass(self, x: Array, nbp: Array, sg: Array) -> Array:
        points = self.sample.molar_mass_curve

        def estimate(at: Array) -> Array:
            if at is x:
                return self.mass_factor * self.mass_entry.function(Fraction(nbp, sg))
            return self.mass_factor * self.mass_entry.function(Fraction(self._boiling(at), np.interp(at, x, sg)))

        values = through(points, x, estimate) if points else estimate(x)
        return np.asarray(values * self.mass_scale)

    def solve(self) -> _Solver:
        """Iterate to the fixed point; raises ValueError where the numbers cannot be met together."""
        sample = self.sample
        for _ in range(ROUNDS):
            x = np.linspace(self.start, 1.0, SLICES + 1)
            middle = 0.5 * (x[1:] + x[:-1])
            nbp = self.curve.mean(x)
            sg = self._gravity(middle, nbp)
            mass = self._molar_mass(middle, nbp, sg)
            size = np.diff(x)
            moles = size * per_unit(self.basis, "mole", sg, mass)
            rest = {b: float(amount_of(b, moles, sg, mass).sum()) for b in BASES}
            light = light_moles(self.ends, rest)
            arrays = light_arrays(self.ends.components if self.ends is not None else ())
            front = {b: float(amount_of(b, light, *arrays).sum()) if light.size else 0.0 for b in BASES}
            change = 0.0
            density = self._target_density(nbp, amount_of("volume", moles, sg, mass), moles, light)
            if density is not None:
                if self.basis == "volume":
                    wanted = (density * (rest["volume"] + front["volume"]) - front["mass"]) / rest["volume"]
                else:
                    room = (rest["mass"] + front["mass"]) / density - front["volume"]
                    wanted = rest["mass"] / room if room > 0.0 else -1.0
                if wanted <= 0.0:
                    raise DomainError("the light ends alone take more room than the density of the sample leaves")
                factor = wanted / (rest["mass"] / rest["volume"])
                self.density_scale *= factor
                change = max(change, abs(factor - 1.0))
            if self.fit_mass:
                assert sample.molar_mass is not None
                left = (rest["mass"] + front["mass"]) / sample.molar_mass - front["mole"]
                if left <= 0.0:
                    raise DomainError("the light ends alone hold more moles than the molar mass of the sample allows")
                factor = rest["mass"] / left / (rest["mass"] / rest["mole"])
                self.mass_scale *= factor
                change = max(change, abs(factor - 1.0))
            if self.included and light.size:
                start = front[self.basis] / (front[self.basis] + rest[self.basis])
                change = max(change, abs(start - self.start))
                self.start = start
            self.x, self.nbp, self.sg, self.mass, self.moles, self.light = x, nbp, sg, mass, moles, light
            if change < 1e-11:
                break
            if not 0.01 < self.density_scale < 100.0 or not 0.01 < self.mass_scale < 100.0:
                raise DomainError("density, molar mass and light ends cannot be met together; check them")
        else:
            raise DomainError("density, molar mass and light ends cannot be met together; check them")
        return self

    def _target_density(self, nbp: Array, volume: Array, moles: Array, light: Array) -> float | None:
        """Return the density, kg/m3, the whole sample is to have: as measured, or as its Watson factor says."""
        sample = self.sample
        if self.fit_density:
            return sample.density
        if sample.density is not None or sample.density_curve:
            return None
        ends = self.ends.components if self.ends is not None and light.size else ()
        ahead = amount_of("volume", light, *light_arrays(ends))
        if ahead.sum() > GASSY * (ahead.sum() + volume.sum()):
            return None
        whole = np.concatenate([[c.nbp for c in ends], nbp])
        mean = mean_average_boiling_point(whole, np.concatenate([ahead, volume]), np.concatenate([light, moles]))
        return float(np.cbrt(1.8 * mean) / (sample.watson_k or TYPICAL_WATSON_K) * WATER_DENSITY_60F)

    def tell(self, remarks: list[Remark]) -> None:
        """Say what was estimated, scaled and found to clash."""
        self._tell_density(remarks)
        self._tell_mass(remarks)
        if self.clipped:
            low, high = SG_BOUNDS
            remarks.append(Remark("warning", "density.clipped", "density", {"low": low, "high": high}))

    def _tell_density(self, remarks: list[Remark]) -> None:
        sample, curve = self.sample, self.sample.density_curve
        entry = REGISTRY["density"][self.density_key]
        watson = float((self.nbp * 1.8) ** (1 / 3) @ self._volume() / (self.sg @ self._volume()))
        if curve:
            remarks += beyond(curve, "density", "curve.beyond_density", {"by": entry.title})
            if sample.density is not None:
                own = float(self._mean_density() / (self.density_scale if self.fit_density else 1.0))
                _tell_mismatch(remarks, "density", own / sample.density - 1.0, own, sample.density, self.fit_density)
        elif sample.density is not None:
            code = "density.constant_watson" if self.density_key == "constant-watson" else "density.scaled"
            values: dict[str, Value] = {"watson": watson, "by": entry.title, "scale": self.density_scale}
            remarks.append(Remark("estimate", code, "density", values))
        elif sample.watson_k is not None:
            remarks.append(
                Remark("estimate", "density.given_watson", "density", {"watson": sample.watson_k, "own": watson})
            )
        else:
            values = {"by": entry.title, "watson": TYPICAL_WATSON_K, "own": watson}
            remarks.append(Remark("warning", "density.assumed", "density", values))

    def _volume(self) -> Array:
        return amount_of("volume", self.moles, self.sg, self.mass)

    def _mean_density(self) -> float:
        """Density kg/m3 of the whole, light ends included."""
        arrays = light_arrays(self.ends.components if self.ends is not None else ())
        mass = amount_of("mass", self.moles, self.sg, self.mass).sum()
        volume = self._volume().sum()
        if self.light.size:
            mass += amount_of("mass", self.light, *arrays).sum()
            volume += amount_of("volume", self.light, *arrays).sum()
        return float(mass / volume)

    def _tell_mass(self, remarks: list[Remark]) -> None:
        sample, curve = self.sample, self.sample.molar_mass_curve
        if curve:
            remarks += beyond(curve, "molar_mass", "curve.beyond_molar_mass", {"by": self.mass_entry.title})
            self._tell_contradiction(remarks)
        if sample.molar_mass is None:
            return
        total = self.moles @ self.mass / self.moles.sum()
        own = float(total / (self.mass_scale if self.fit_mass else 1.0))
        if curve:
            off = 1.0 / self.mass_scale - 1.0 if self.fit_mass else own / sample.molar_mass - 1.0
            _tell_mismatch(remarks, "molar_mass", off, own, sample.molar_mass, self.fit_mass)
            return
        if not self.fit_mass:
            return
        values: dict[str, Value] = {
            "scale": self.mass_scale,
            "given": measure(sample.molar_mass, "molar_mass"),
            "off": 100 * (self.mass_scale - 1),
            "own": measure(own, "molar_mass"),
        }
        remarks.append(Remark("correction", "molar_mass.scaled", "molar_mass", values))
        if abs(self.mass_scale - 1.0) > 0.05:
            remarks.append(Remark("warning", "molar_mass.differs", "molar_mass", values))

    def _tell_contradiction(self, remarks: list[Remark]) -> None:
        """Compare the molar-mass curve with what boiling and density curves say."""
        at = np.asarray(self.sample.molar_mass_curve.percent) / 100.0
        middle = 0.5 * (self.x[1:] + self.x[:-1])
        expected = self.mass_entry.function(Fraction(self._boiling(at), np.interp(at, middle, self.sg)))
        ratio = np.asarray(self.sample.molar_mass_curve.value) / expected - 1.0
        worst = int(np.argmax(np.abs(ratio)))
        if abs(ratio[worst]) > 0.30:
            values: dict[str, Value] = {
                "percent": 100 * float(at[worst]),
                "off": 100 * float(ratio[worst]),
                "by": self.mass_entry.title,
            }
            remarks.append(Remark("warning", "molar_mass.contradicts", "molar_mass", values))


def _tell_mismatch(remarks: list[Remark], place: str, off: float, own: float, given: float, scaled: bool) -> None:
    values: dict[str, Value] = {
        "what": Word(f"noun.{place}"),
        "own": measure(own, place),
        "off": 100 * off,
        "given": measure(given, place),
        "end": Word("end.scaled" if scaled else "end.kept_curve"),
    }
    kind = "warning" if abs(off) > CLASH else "correction"
    remarks.append(Remark(kind, "curve.adds_up", place, values))


def _whole_curve(curve: BoilingCurve, state: _Solver, included: bool) -> BoilingCurve:
    """Return the TBP curve by volume of the whole sample, light ends in front."""
    light_sg, light_mass = light_arrays(state.ends.components if state.ends is not None else ())
    light = amount_of("volume", state.light, light_sg, light_mass) if state.light.size else np.zeros(0)
    body = np.concatenate([[0.0], np.cumsum(state._volume())])
    total = light.sum() + body[-1]
    if included or not state.light.size:
        if state.basis == "volume":
            return curve
        start = light.sum() / total
        edges = np.concatenate([[0.0], state.x]) if state.start > 0.0 else state.x
        along = np.concatenate([[0.0], start + body / total]) if state.start > 0.0 else body / total
        fraction = np.interp(curve.fraction, edges, along)
        return _renewed(curve, fraction, curve.temperature)
    # The light ends stand before the curve, each at its boiling point in the middle of its share.
    order = np.argsort([c.nbp for c in state.ends.components]) if state.ends is not None else np.zeros(0, int)
    nbp = np.array([c.nbp for c in state.ends.components])[order] if state.ends is not None else np.zeros(0)
    share = light[order] / total
    present = share > 0.0
    nbp, share = nbp[present], share[present]
    middle = np.cumsum(share) - 0.5 * share
    fraction = np.interp(curve.fraction, state.x, (light.sum() + body) / total)
    first = curve.temperature[0]
    ahead = nbp < first - 0.5
    front_x = np.concatenate([[0.0], middle[ahead]])
    front_T = np.concatenate([[min([first, *nbp[:1]]) - 1.0], nbp[ahead]]) + 1e-4 * np.arange(front_x.size)
    return _renewed(curve, np.concatenate([front_x, fraction]), np.concatenate([front_T, curve.temperature]))


def _renewed(curve: BoilingCurve, fraction: Array, T: Array) -> BoilingCurve:
    keep = np.concatenate([[True], np.diff(fraction) > 1e-9])
    keep[-1] = True
    return BoilingCurve(fraction[keep], T[keep], curve.closed_low, curve.closed_high, curve.interpolation, curve.held)


def _check_front(ends: LightEnds, state: _Solver, curve: BoilingCurve, included: bool, remarks: list[Remark]) -> None:
    """Compare the light ends with the front of the curve they take the place of."""
    heaviest = max(ends.components, key=lambda c: c.nbp)
    begins = float(curve.at(np.array(state.start)))
    if included and state.start > 0.0 and begins - heaviest.nbp > 40.0:
        allowed = 100 * float(curve.distilled(np.array([heaviest.nbp]))[0])
        values: dict[str, Value] = {
            "share": 100 * float(state.start),
            "begins": kelvin(begins, 0),
            "heaviest": heaviest.name,
            "nbp": kelvin(heaviest.nbp, 0),
            "allowed": allowed,
        }
        remarks.append(Remark("warning", "light_ends.too_large", "light_ends", values))
    elif heaviest.nbp - begins > 10.0:
        where = Word("front.goes_on" if included else "front.rest_begins")
        values = {
            "heaviest": heaviest.name,
            "nbp": kelvin(heaviest.nbp, 0),
            "begins": kelvin(begins, 0),
            "where": where,
        }
        remarks.append(Remark("warning", "light_ends.overlap", "light_ends", values))
    else:
        last = float(front_borders((heaviest,))[0, 1])
        if begins - last > GAP:
            values = {"heaviest": heaviest.name, "last": kelvin(last, 0), "begins": kelvin(begins, 0)}
            remarks.append(Remark("warning", "light_ends.gap", "light_ends", values))
