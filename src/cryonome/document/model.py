"""The project document: its shape, immutable.

The models fix the shape only. Quantities stay as they were entered, text with a unit or bare numbers, so that
nothing a user typed is lost or rounded; :mod:`checks` judges them. Keys not known are refused by name.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, ClassVar, Literal

from pydantic import AfterValidator, ConfigDict, Field, GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, PydanticCustomError, core_schema

from ..units import KINDS, normal_unit
from .field_types import (
    FLUIDS,
    STUDIES,
    AnswerPath,
    Cell,
    ComponentRef,
    FluidRef,
    Names,
    OfKind,
    SampleRef,
    StudyRef,
)
from .kept import KeptAnswer, Report
from .part import Part

FORMAT = "cryonome/1"
EDITION = 2
"""Of what a document's numbers were made with, raised where an equation gives other numbers than before: 1 (or none)
had an exponential in place of the equations' own alpha function above Tc."""

Basis = Literal["mole", "mass", "volume"]


class Tail(Part):
    """The sub-atmospheric part of a curve measured in two pieces."""

    pressure: Cell = "10 mmHg"
    points: tuple[tuple[Cell, Cell], ...] = ()


class PlusFraction(Part):
    """What is known of the plus fraction of a carbon-number analysis beside its amount."""

    molar_mass: Cell = None
    density: Cell = None


class Splitting(Part):
    """How a plus fraction is split: the distribution, the shape of the gamma distribution, the rule of the densities,
    the last carbon number."""

    model: str = "gamma"
    shape: Cell = 1
    density: str = "soreide"
    last: Cell = None


class Lumping(Part):
    """How fractions are lumped: the rule, and into how many."""

    rule: str = "none"
    number: Cell = None


class Distillation(Part):
    """A boiling-point curve as entered: pairs of percent distilled and temperature; or, for the method
    ``carbon-number``, rows of component or group, percent and, where measured, molar mass and density. Of D86
    ``loss`` and ``residue``, in percent, tell that the percents are those recovered in the receiver."""

    method: str = "TBP"
    basis: str | None = None
    pressure: Cell = None
    points: tuple[tuple[Cell, Cell], ...] = ()
    tail: Tail | None = None
    cracking: bool = False
    conversion: str | None = None
    interpolation: str = "monotone-cubic"
    ends: str = "probability"
    initial: Cell = None
    final: Cell = None
    loss: Cell = None
    residue: Cell = None
    amounts: tuple[tuple[Cell, ...], ...] = ()
    plus: PlusFraction = PlusFraction()
    split: Splitting = Splitting()
    lumping: Lumping = Lumping()


class Bulk(Part):
    """Whole-sample numbers, each where measured."""

    density: Cell = None
    molar_mass: Cell = None
    watson_k: Cell = None
    viscosity: tuple[tuple[Cell, Cell], ...] = ()


class ViscosityCurve(Part):
    """Viscosities against the percent distilled at one temperature."""

    at: Cell = None
    points: tuple[tuple[Cell, Cell], ...] = ()


class Quantity(Part):
    """An additive quantity the user named: its curve and the whole sample's value, plain numbers in ``unit``."""

    name: str
    unit: str = "mass%"
    basis: str = "mass"
    bulk: Cell = None
    points: tuple[tuple[Cell, Cell], ...] = ()


class Curves(Part):
    """Property curves against the percent distilled; ``keep`` names those trusted over the whole-sample number."""

    density: tuple[tuple[Cell, Cell], ...] = ()
    molar_mass: tuple[tuple[Cell, Cell], ...] = ()
    viscosity: tuple[ViscosityCurve, ...] = ()
    quantities: tuple[Quantity, ...] = ()
    keep: tuple[str, ...] = ()


class LightEnds(Part):
    """The light-ends analysis; ``curve`` tells whether the boiling curve is of the ``whole`` sample or of the
    ``rest`` without them."""

    mode: str = "absent"
    basis: str = "volume"
    amounts: dict[str, Cell] = Field(default_factory=dict)
    species: tuple[str, ...] = ()
    curve: str = "whole"


class Product(Part):
    """A product range: its name and the temperature it ends at; the last has none."""

    name: str
    end: Cell = None


class Cuts(Part):
    """How the curve is cut: widths by region as [up to, width], the user's own boundaries, or a number of cuts of
    equal width or amount. ``names`` gives cuts other names than their range; ``ids`` is what the own boundaries are
    known by, so that a moved boundary keeps what hangs on the cut above it. ``unit`` (degC or degF) is that of
    automatic boundaries, round numbers there, and of names."""

    regions: tuple[tuple[Cell, Cell], ...] | None = None
    boundaries: tuple[Cell, ...] | None = None
    ids: tuple[str, ...] = ()
    number: Cell = None
    equal: str = "temperature"
    unit: str = "degC"
    names: dict[str, str] = Field(default_factory=dict)
    products: tuple[Product, ...] | None = None


def _display_unit(*kinds: str) -> AfterValidator:
    """Return a check that a text is a unit that one of the kinds is shown in, or nothing; it is kept in the program's
    spelling."""

    def check(value: str | None) -> str | None:
        units = [unit for kind in kinds for unit in KINDS[kind].units]
        found = value
        for kind in kinds:
            if found is not None and found not in units:
                found = normal_unit(str(value)[:40], kind)
        if found is not None and found not in units:
            raise PydanticCustomError(
                "unit",
                "'{unit}' is not a unit that {what} is shown in; there are {units}",
                {"unit": str(value)[:40], "what": KINDS[kinds[0]].title, "units": ", ".join(units)},
            )
        return found

    return AfterValidator(check)


TemperatureUnit = Annotated[str | None, _display_unit("temperature")]
PressureUnit = Annotated[str | None, _display_unit("pressure")]
DensityUnit = Annotated[str | None, _display_unit("density")]
MolarMassUnit = Annotated[str | None, _display_unit("molar_mass")]
ViscosityUnit = Annotated[str | None, _display_unit("kinematic_viscosity", "dynamic_viscosity")]


class SampleDisplay(Part):
    """Units the columns of a sample are shown in, the methods its curve is shown as besides, and the property curve
    that is shown."""

    temperature: TemperatureUnit = None
    density: DensityUnit = None
    molar_mass: MolarMassUnit = None
    viscosity: ViscosityUnit = None
    shown_as: str | tuple[str, ...] | None = None
    property_shown: str | None = None


class Sample(Part):
    """A lab sample. ``id`` is what others know it by, whatever it is called."""

    id: str = ""
    name: str
    note: str = ""
    distillation: Distillation = Distillation()
    bulk: Bulk = Bulk()
    curves: Curves = Curves()
    light_ends: LightEnds = LightEnds()
    cuts: Cuts = Cuts()
    correlations: dict[str, str] = Field(default_factory=dict)
    conversions: dict[str, str] = Field(default_factory=dict)
    factors: Annotated[dict[str, Cell], OfKind("")] = Field(default_factory=dict)
    display: SampleDisplay = SampleDisplay()


class SaftParameters(Part):
    """PC-SAFT parameters by hand: segment number, segment diameter in angstrom, segment energy over k in K."""

    m: Cell = None
    sigma_A: Cell = None
    epsilon_K: Cell = None


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
    pc_saft: SaftParameters | None = None


class Series(Part):
    """Pseudo-components at equal steps over a boiling range, equal amounts of each."""

    name: str
    start: Cell = None
    end: Cell = None
    step: Cell = None
    watson_k: Cell = None


class FluidPart(Part):
    """One line of a fluid: a databank component, a pseudo-component, a series of them, a sample or another fluid, and
    its amount: a plain number on the fluid's basis, or an amount or a rate with its unit. ``id`` is what a hand-made
    part is known by."""

    id: str = ""
    component: str | None = None
    pseudo: Pseudo | None = None
    series: Series | None = None
    sample: SampleRef | None = None
    fluid: FluidRef | None = None
    amount: Cell = None


class Recombination(Part):
    """Separator liquid and gas, brought together at a gas-oil ratio: standard gas volume by the liquid's volume at
    the separator, or at stock-tank conditions."""

    liquid: FluidRef
    gas: FluidRef
    gas_oil_ratio: Cell = None
    liquid_volume: str = "separator"
    temperature: Cell = None
    pressure: Cell = None


class PairRule(Part):
    """The library's rule for methane with heavier hydrocarbons: scale and exponent, the usual ones where empty."""

    scale: Cell = None
    exponent: Cell = None


class ReferenceState(Part):
    """Where enthalpy and entropy are zero: ``ideal gas``, ``elements`` (both at 25 degC) or ``saturated liquid`` at a
    temperature."""

    state: str = "ideal gas"
    temperature: Cell = None


Pair = tuple[ComponentRef, ComponentRef, Cell] | tuple[ComponentRef, ComponentRef, Cell, Cell]
"""Two components, the interaction parameter at 298.15 K, and its slope in 1/K."""

AqueousPair = tuple[ComponentRef, Cell] | tuple[ComponentRef, Cell, Cell]
"""What is dissolved in water, its parameter with water in a phase of water at 298.15 K, and its slope in 1/K."""


OwnShift = tuple[ComponentRef, Cell] | tuple[ComponentRef, Cell, Cell]
"""A component, its own volume shift (m3/mol) and its slope, m3/(mol K)."""


class TunedChange(Part):
    """A property of components, by id, moved by a factor ``value``; of interaction parameters (``kij``) with others,
    ``with``, the value itself."""

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)

    property: str
    components: tuple[ComponentRef, ...] = ()
    partners: tuple[ComponentRef, ...] = Field(default=(), alias="with")
    value: Cell = None


class Tuning(Part):
    """What a tuning changed: ``by`` the question it came from, ``of`` a mark of the fluid it was made for, so that a
    later edit of what is below is told."""

    by: Annotated[str, Names(STUDIES, needed=False, depends=False)] = ""
    of: str = ""
    changes: tuple[TunedChange, ...] = ()


class Variant(Part):
    """A tuning that is kept beside the untuned fluid, with a ``note`` of how it came about: deviations before and
    after, and the time."""

    name: str
    tuned: Tuning
    note: str = ""


class Model(Part):
    """The equation of state and its parameters; ``omegas`` are own constants Omega_a and Omega_b of a cubic, by
    component; ``shifts`` own volume shifts, in place of what the rule gives."""

    eos: str = "PR78"
    alpha: str = "own"
    kij: str = "library"
    kij_rule: PairRule = PairRule()
    kij_pairs: tuple[Pair, ...] = ()
    aqueous_pairs: tuple[AqueousPair, ...] = ()
    omegas: dict[ComponentRef, tuple[Cell, Cell]] = {}
    volume_shift: str = "density"
    shifts: tuple[OwnShift, ...] = ()
    viscosity: str = "fitted-states"
    aqueous: str = "correlations"
    reference: ReferenceState = ReferenceState()
    salinity: Cell = None
    tuned: Tuning | None = None


class Detail(Part):
    """What a fluid was lumped from: the ``fluid`` with all components, and the names of those in each group by the
    group's name."""

    fluid: Annotated[str, Names(FLUIDS, needed=False)]
    groups: dict[ComponentRef, tuple[ComponentRef, ...]] = {}


class MadeBy(Part):
    """A question that gives a fluid: what a match tuned, what a lumping grouped, and of a state or a train of
    separators one ``stream``."""

    study: StudyRef
    stream: str = ""


class Fluid(Part):
    """A fluid: parts by amount, a recombination of two fluids, or what a question gives (``made_by``), and a model.
    The cuts of several samples share a ``common`` grid of boiling ranges, or keep their ``own``."""

    id: str = ""
    name: str
    note: str = ""
    basis: Basis = "mole"
    parts: tuple[FluidPart, ...] = ()
    recombination: Recombination | None = None
    made_by: MadeBy | None = None
    grid: str = "common"
    model: Model = Model()
    detail: Detail | None = None
    variants: tuple[Variant, ...] = ()


@lru_cache(4096)
def whole_sample(name: str, key: str) -> Fluid:
    """Return the fluid that a sample is without being asked: all of it, with the usual model. It stands in a document
    only once it is changed."""
    return Fluid(id=f"{key} whole" if key else "", name=name, parts=(FluidPart(sample=name, amount=100),))


class Study(Part):
    """A question of the project: its name and kind, and what its kind asks for (see :mod:`kinds`); ``reference``
    holds numbers from elsewhere by their path in the answer, a list for the items of one. A ``draft`` is not kept
    yet: it is asked while it is looked at. A kind that ``varies`` others asks them with other inputs; one that
    ``may_be_asked`` is asked in its turn, with inputs of its own varied."""

    from_untuned: ClassVar[bool] = False
    varies: ClassVar[bool] = False
    may_be_asked: ClassVar[bool] = False
    """Whether its answer is of the fluid without its tuning."""

    name: str
    kind: str
    reference: dict[AnswerPath, Cell | tuple[Cell, ...]] = {}
    draft: bool = False

    def implied(self, document: Document) -> tuple[str, ...]:
        """Return the questions it depends on without naming them."""
        return ()


class Measured(Study):
    """A question about a fluid that carries what was ``measured`` of it: by path or key of the rows of the answer a
    value, or a list in the order of the rows with nothing where nothing was; ``uncertainty`` of the same keys,
    relative as a plain number or percentage, absolute with a unit."""

    fluid: FluidRef
    # Each has a table of its own in the window.
    measured: dict[AnswerPath, Cell | tuple[Cell, ...]] = Field(default={}, json_schema_extra={"table": True})
    uncertainty: dict[AnswerPath, Cell] = Field(default={}, json_schema_extra={"table": True})


class OfTests(Study):
    """A question of the laboratory ``tests`` of a fluid: those it names, else all that carry measured values."""

    fluid: FluidRef
    tests: tuple[StudyRef, ...] = ()

    def implied(self, document: Document) -> tuple[str, ...]:
        """Return the tests it is of."""
        return tests_of(document, self)


def tests_of(document: Document, study: OfTests) -> tuple[str, ...]:
    """Return the names of the tests that a question is of: those it names, else all of its fluid that carry measured
    values."""
    return study.tests or tuple(s.name for s in measured_of(document, study.fluid) if s.measured)


def measured_of(document: Document, fluid: str) -> list[Measured]:
    """Return the laboratory tests of a fluid."""
    return [s for s in document.studies if isinstance(s, Measured) and s.fluid == fluid]


class Ghost(Part):
    """A kept envelope: a fluid as it was, with the samples and fluids it was made of."""

    name: str
    fluid: Fluid
    inside: tuple[Fluid, ...] = ()
    samples: tuple[Sample, ...] = ()


class NamedValue(Part):
    """A value of its own over the answers: its ``name``, an ``expression`` (:mod:`cryonome.questions.expressions`),
    and the ``unit`` it is told in, SI where none is named."""

    name: str
    expression: str = ""
    unit: str = ""


class MapDisplay(Part):
    """How the map is drawn: its units, scale, layers, the vapour fractions of its quality lines, and where the probe
    stands (T K, P Pa)."""

    temperature: TemperatureUnit = None
    pressure: PressureUnit = None
    logarithmic: bool = False
    envelope: bool = True
    quality_lines: bool = True
    quality: tuple[float, ...] = (0.1, 0.25, 0.5, 0.75, 0.9)
    by_volume: bool = False
    regions: bool = True
    metastable: bool = False
    spinodal: bool = False
    hydrates: bool = False
    vapour_pressures: bool = True
    paths: bool = True
    pins: bool = True
    spread: bool = False
    probe: tuple[float, float] | None = None


class Display(Part):
    """Units of the whole project and of the map, and the ``fluid`` that is shown first; ``numbers`` are units of
    single numbers in answers, by the kind of question and the key, ``flash.density_kg_m3``. Results do not depend on
    any of it."""

    fluid: Annotated[str, Names(FLUIDS, needed=False)] = ""
    units: Literal["SI", "metric", "field"] = "metric"
    map: MapDisplay = MapDisplay()
    numbers: dict[str, str] = {}


class _AnyStudy:
    """A study of whatever kind is registered: pydantic is told the class by the ``kind`` of the data."""

    @classmethod
    def __get_pydantic_core_schema__(cls, source: object, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(
            validate_study,
            serialization=core_schema.plain_serializer_function_ser_schema(
                lambda study, info: study.model_dump(mode=info.mode, exclude_defaults=info.exclude_defaults),
                info_arg=True,
            ),
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, core: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, object]:
        # The kinds are put in their place where the whole schema is published.
        return {"title": "Study", "type": "object"}


AnyStudy = Annotated[Study, _AnyStudy]


def validate_study(data: object) -> Study:
    """Return the study of an object by its kind. Raises pydantic's ValidationError, PydanticCustomError."""
    from .kinds import study_class

    if isinstance(data, Study):
        return data
    return study_class(data).model_validate(data)


class Document(Part):
    """The whole project; ``edition`` tells what its numbers were made with (:data:`EDITION`), ``values`` are named
    values over answers, ``drafts`` are texts by the path of their cell that were typed and cannot stand there
    (:mod:`drafts`); ``report`` is what a report of it holds, ``answered`` what its answers were when it was saved."""

    format: str = FORMAT
    edition: int = EDITION
    title: str = ""
    samples: tuple[Sample, ...] = ()
    fluids: tuple[Fluid, ...] = ()
    studies: tuple[AnyStudy, ...] = ()
    ghosts: tuple[Ghost, ...] = ()
    display: Display = Display()
    drafts: dict[str, str] = {}
    values: tuple[NamedValue, ...] = ()
    report: Report = Report()
    answered: tuple[KeptAnswer, ...] = ()

    def sample(self, name: str) -> Sample | None:
        """Return the sample of that name."""
        return next((s for s in self.samples if s.name == name), None)

    def fluid(self, name: str) -> Fluid | None:
        """Return the fluid of that name, or the one that the sample of that name is by default."""
        own = next((f for f in self.fluids if f.name == name), None)
        if own is not None:
            return own
        sample = self.sample(name)
        return None if sample is None else whole_sample(sample.name, sample.id)

    @property
    def every_fluid(self) -> tuple[Fluid, ...]:
        """The fluids of the document and, behind them, those that its samples are by default: each sample without a
        fluid of its own name."""
        taken = {f.name for f in self.fluids}
        return (*self.fluids, *(whole_sample(s.name, s.id) for s in self.samples if s.name not in taken))

    def study(self, name: str) -> Study | None:
        """Return the question of that name."""
        return next((s for s in self.studies if s.name == name), None)
