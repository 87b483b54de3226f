"""What a laboratory says of a sample, in SI."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..components import Component
from ..constants import ATM
from .carbon_analysis import CarbonAnalysis
from .cuts import PRODUCTS, REGIONS, ProductRange
from .property_curves import PropertyPoints

NO_POINTS = PropertyPoints((), ())

FACTORED = ("molar_mass", "Tc", "Pc")
"""Properties whose estimates may carry a factor: how far a correlation may be off is varied so."""


@dataclass(frozen=True)
class Tail:
    """The sub-atmospheric part of a curve measured in two pieces: percents, temperatures K, pressure Pa."""

    percent: tuple[float, ...]
    temperature: tuple[float, ...]
    pressure: float


@dataclass(frozen=True)
class LightEnds:
    """The light ends: ``components`` and, where measured, their ``percent`` of the whole sample on ``basis``.

    Without percents they are estimated from the front of the curve. ``included`` tells whether the curve is of the
    whole sample or of the rest that is free of them.
    """

    components: tuple[Component, ...]
    percent: tuple[float, ...] | None = None
    basis: str = "volume"
    included: bool = True


@dataclass(frozen=True)
class Quantity:
    """An additive quantity the user named (sulphur, say): its curve in ``unit``, additive by ``basis``, and the
    whole sample's value where measured."""

    name: str
    unit: str
    points: PropertyPoints
    basis: str = "mass"
    bulk: float | None = None


@dataclass(frozen=True)
class ViscosityPoint:
    """A viscosity at T K: kinematic m2/s, or dynamic Pa s."""

    temperature: float
    value: float
    dynamic: bool = False


@dataclass(frozen=True)
class ViscosityCurve:
    """A viscosity curve at T K: kinematic m2/s, or dynamic Pa s."""

    temperature: float
    points: PropertyPoints
    dynamic: bool = False


@dataclass(frozen=True)
class CutChoice:
    """How the curve is cut: by the first of ``boundaries`` (K), ``number`` of cuts equal in ``equal`` (temperature,
    volume, mass or mole), else widths by ``regions`` (up to K, width K). ``names`` gives cuts other names; ``ids``
    (as many as boundaries) what the boundaries are known by, so that a moved one is still the same; ``unit`` ("degC"
    or "degF") that of automatic boundaries and names."""

    boundaries: tuple[float, ...] | None = None
    number: int | None = None
    equal: str = "temperature"
    regions: tuple[tuple[float, float], ...] = REGIONS
    names: tuple[tuple[str, str], ...] = ()
    ids: tuple[str, ...] = ()
    unit: str = "degC"


@dataclass(frozen=True)
class LabSample:
    """A sample: percents and temperatures (K) of its boiling curve by ``method`` at ``pressure`` Pa on ``basis``
    (the method's own where None); whole-sample numbers, each where measured: density kg/m3 at 60 degF, molar mass
    kg/mol, Watson factor, viscosities; property curves; light ends; and the choices of how to go on from there.

    ``loss`` is the percent that was added to percents recovered, so that ``percent`` is evaporated. ``key`` is what
    the sample is known by where its name may change; ``factors`` multiply what the correlation of a property gives
    (:data:`FACTORED`); ``keep`` names the properties ("density", "molar_mass",
    "viscosity") whose curve is trusted over the whole-sample number."""

    name: str
    percent: tuple[float, ...] = ()
    temperature: tuple[float, ...] = ()
    density: float | None = None
    molar_mass: float | None = None
    watson_k: float | None = None
    method: str = "TBP"
    basis: str | None = None
    pressure: float = ATM
    cracking: bool = False
    conversion: str | None = None
    tail: Tail | None = None
    interpolation: str = "monotone-cubic"
    ends: str = "probability"
    initial: float | None = None
    final: float | None = None
    viscosity: tuple[ViscosityPoint, ...] = ()
    density_curve: PropertyPoints = NO_POINTS
    molar_mass_curve: PropertyPoints = NO_POINTS
    viscosity_curves: tuple[ViscosityCurve, ...] = ()
    quantities: tuple[Quantity, ...] = ()
    keep: frozenset[str] = frozenset()
    light_ends: LightEnds | None = None
    carbon: CarbonAnalysis | None = None
    cuts: CutChoice = CutChoice()
    correlations: dict[str, str] = field(default_factory=dict)
    conversions: dict[str, str] = field(default_factory=dict)
    factors: dict[str, float] = field(default_factory=dict)
    products: tuple[ProductRange, ...] = PRODUCTS
    loss: float | None = None
    key: str = ""
