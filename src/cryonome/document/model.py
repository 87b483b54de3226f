"""The project document: its shape, immutable.

The models fix the shape only. Quantities stay as they were entered, text with a unit or bare numbers, so that
nothing a user typed is lost or rounded; :mod:`checks` judges them. Keys not known are refused by name.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

FORMAT = "cryonome/1"

Cell = float | int | str | None
"""A quantity as entered; None for an empty cell."""

Basis = Literal["mole", "mass", "volume"]


class Part(BaseModel):
    """Base of every part of the document."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=False, allow_inf_nan=False)


class Distillation(Part):
    """A boiling-point curve as entered: pairs of percent distilled and temperature."""

    method: str = "TBP"
    basis: str = "volume"
    pressure: Cell = "1 atm"
    points: tuple[tuple[Cell, Cell], ...] = ()


class Bulk(Part):
    """Whole-sample numbers, each where measured."""

    density: Cell = None
    molar_mass: Cell = None
    watson_k: Cell = None
    viscosity: tuple[tuple[Cell, Cell], ...] = ()


class LightEnds(Part):
    """The light-ends analysis."""

    mode: str = "absent"
    basis: str = "volume"
    amounts: dict[str, Cell] = Field(default_factory=dict)
    species: tuple[str, ...] = ()


class Product(Part):
    """A product range: its name and the temperature it ends at; the last has none."""

    name: str
    end: Cell = None


class Cuts(Part):
    """How the curve is cut: widths by region as [up to, width], or the user's own boundaries."""

    regions: tuple[tuple[Cell, Cell], ...] | None = None
    boundaries: tuple[Cell, ...] | None = None
    products: tuple[Product, ...] | None = None


class SampleDisplay(Part):
    """Units the columns of a sample are shown in."""

    temperature: str | None = None
    density: str | None = None
    molar_mass: str | None = None


class Sample(Part):
    """A lab sample."""

    name: str
    note: str = ""
    distillation: Distillation = Distillation()
    bulk: Bulk = Bulk()
    curves: dict[str, object] = Field(default_factory=dict)
    light_ends: LightEnds = LightEnds()
    cuts: Cuts = Cuts()
    correlations: dict[str, str] = Field(default_factory=dict)
    display: SampleDisplay = SampleDisplay()


class Pseudo(Part):
    """A hand-made pseudo-component: whatever is known of it."""

    name: str
    Tc: Cell = None
    Pc: Cell = None
    omega: Cell = None
    molar_mass: Cell = None
    Vc: Cell = None
    nbp: Cell = None
    specific_gravity: Cell = None


class FluidPart(Part):
    """One line of a fluid: a databank component, a pseudo-component or a sample, and its amount."""

    component: str | None = None
    pseudo: Pseudo | None = None
    sample: str | None = None
    amount: Cell = None


class Model(Part):
    """The equation of state and its parameters."""

    eos: str = "PR78"
    kij: str = "library"
    kij_pairs: tuple[tuple[str, str, Cell], ...] = ()
    volume_shift: str = "none"


class Fluid(Part):
    """A fluid: parts by amount, and a model."""

    name: str
    note: str = ""
    basis: Basis = "mole"
    parts: tuple[FluidPart, ...] = ()
    model: Model = Model()


class CharacterizationStudy(Part):
    """Asks for the cuts of a sample."""

    name: str
    kind: Literal["characterization"]
    sample: str


class FlashStudy(Part):
    """Asks for the equilibrium at two given conditions."""

    name: str
    kind: Literal["flash"]
    fluid: str
    temperature: Cell = None
    pressure: Cell = None
    vapour_fraction: Cell = None
    enthalpy: Cell = None
    entropy: Cell = None
    density: Cell = None


class SaturationStudy(Part):
    """Asks for every bubble and dew point at a temperature or a pressure."""

    name: str
    kind: Literal["saturation"]
    fluid: str
    temperature: Cell = None
    pressure: Cell = None


class EnvelopeStudy(Part):
    """Asks for the phase envelope and lines of constant vapour fraction."""

    name: str
    kind: Literal["envelope"]
    fluid: str
    vapour_fractions: tuple[Cell, ...] = (0, 1)


Study = Annotated[CharacterizationStudy | FlashStudy | SaturationStudy | EnvelopeStudy, Field(discriminator="kind")]

STUDY_KINDS = ("characterization", "flash", "saturation", "envelope")


class Pin(Part):
    """A kept result: a state by temperature and pressure, or an envelope by the inputs it came from."""

    name: str
    fluid: str
    temperature: Cell = None
    pressure: Cell = None
    frozen_fluid: Fluid | None = None
    frozen_samples: tuple[Sample, ...] = ()


class MapDisplay(Part):
    """How the map is drawn."""

    temperature: str | None = None
    pressure: str | None = None
    logarithmic: bool = False
    quality_lines: bool = True


class Display(Part):
    """Units of the whole project and of the map; results do not depend on it."""

    units: Literal["SI", "metric", "field"] = "metric"
    map: MapDisplay = MapDisplay()


class Document(Part):
    """The whole project."""

    format: str = FORMAT
    title: str = ""
    samples: tuple[Sample, ...] = ()
    fluids: tuple[Fluid, ...] = ()
    studies: tuple[Study, ...] = ()
    pins: tuple[Pin, ...] = ()
    display: Display = Display()

    def sample(self, name: str) -> Sample | None:
        """Return the sample of that name."""
        return next((s for s in self.samples if s.name == name), None)

    def fluid(self, name: str) -> Fluid | None:
        """Return the fluid of that name."""
        return next((f for f in self.fluids if f.name == name), None)
