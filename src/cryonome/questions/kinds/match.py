"""The study ``match``: a few parameters of a fluid moved until its lab tests are met."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal, NotRequired

from pydantic import ConfigDict, Field
from typing_extensions import TypedDict

from ...document import Document, Reader
from ...document.checks import read_study
from ...document.faults import Fault, errors
from ...document.field_types import Cell, ComponentRef, Plain, StudyRef
from ...document.kinds import StudyKind, register, study_kinds
from ...document.model import Measured, OfTests, measured_of, tests_of
from ...document.part import Part
from ...document.reader import EMPTY
from ...matching.elsewhere import ElsewhereAnswer
from ...matching.fitting import fitted
from ...matching.parameters import Ask, Wanted
from ...results.common import Common
from ...results.context import Answer, Context
from ...results.simulated_tests import CheckAnswer
from ...telling.sentences import Units
from ...tuning import ANY_SIGN, PROPERTIES
from ...tuning.fit import STOPPED
from ..giving import TUNED


class MatchParameter(Part):
    """A ``property`` of ``components`` by name or id, or all ``heavy`` ends; of interaction parameters ``with``
    others. ``between`` are bounds of a factor, of ``kij`` of the value; it begins at ``start`` (the untuned fluid's)
    and may be drawn there with a ``prior`` width."""

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)

    components: ComponentRef | tuple[ComponentRef, ...] = "heavy"
    property: str
    partners: ComponentRef | tuple[ComponentRef, ...] = Field(default=(), alias="with")
    between: tuple[Cell, Cell] | None = None
    start: Plain = None
    prior: Plain = None


class MatchStudy(OfTests):
    """Asks for ``parameters`` of a fluid that meet what was measured in ``tests``, studies of it by name (none: all
    that carry measured values); those ``held_out`` are predicted, not fitted. ``weights`` are factors by test.
    Without parameters a small set is proposed and fitted."""

    from_untuned: ClassVar[bool] = True

    kind: Literal["match"]
    parameters: tuple[MatchParameter, ...] = ()
    held_out: tuple[StudyRef, ...] = ()
    weights: Mapping[StudyRef, Cell] = Field(default_factory=dict)


class MatchedParameter(TypedDict):
    """A parameter as it was and as it is, its standard deviation and where it likely lies (95 %, null where nothing
    tells), its bounds."""

    label: str
    property: str
    components: list[str]
    with_components: list[str]
    start: float
    value: float
    standard_deviation: float | None
    interval: list[float | None]
    between: list[float]
    at_bound: bool


class DeviationAnswer(TypedDict):
    """Average absolute deviations of a test in percent, the worst after, and whether it was held out."""

    before: float | None
    after: float | None
    worst_after: float | None
    points: int
    held_out: bool


class PointAnswer(TypedDict):
    """A measured value beside the untuned and the tuned model, in the unit of its key."""

    test: str
    key: str
    row: int | None
    measured: float
    uncertainty: float
    before: float | None
    after: float | None


class MatchAnswer(Common):
    """The fit. ``tuned`` is what a fluid takes as ``model.tuned``; ``by_kind`` are deviations by kind of data;
    ``sensitivities`` how many standard deviations, as a root mean square by kind of data, each parameter moves the
    data over its usual width; ``scatter`` that of the residuals in standard deviations."""

    parameters: NotRequired[list[MatchedParameter]]
    deviations: NotRequired[dict[str, DeviationAnswer]]
    by_kind: NotRequired[dict[str, DeviationAnswer]]
    points: NotRequired[list[PointAnswer]]
    correlations: NotRequired[list[list[float]]]
    sensitivities: NotRequired[dict[str, dict[str, float]]]
    proposed: NotRequired[bool]
    reason: NotRequired[str]
    steps: NotRequired[int]
    scatter: NotRequired[float | None]
    elsewhere: NotRequired[list[ElsewhereAnswer]]
    checks: NotRequired[dict[str, list[CheckAnswer]]]
    tuned: NotRequired[dict[str, object]]


def read(study: MatchStudy, document: Document, reader: Reader) -> Ask | None:
    """Return what is asked, in SI."""
    tests = _tests(study, document, reader)
    wanted = [w for i, p in enumerate(study.parameters) if (w := wanted_of(p, reader.at("parameters", i))) is not None]
    for i, p in enumerate(study.parameters):
        if p in study.parameters[:i]:
            reader.at("parameters", i).fault("this parameter is listed twice; leave one out")
    for i, name in enumerate(study.held_out):
        reader.at("held_out", i).known(name, tests, "test of this match")
    if tests and set(tests) <= set(study.held_out):
        reader.at("held_out").fault("every test is held out; leave one to be fitted")
    weights = {}
    for name, cell in study.weights.items():
        here = reader.at("weights", name)
        if here.known(name, tests, "test of this match"):
            value = here.between(cell, 0.0, 1e4, "a weight")
            if value is not None:
                weights[name] = value
    fitted = [n for n in tests if n not in study.held_out]
    if fitted and all(weights.get(n) == 0.0 for n in fitted):
        reader.at("weights").fault(
            "every test has the weight 0, so that nothing would be fitted; give one a weight above it"
        )
    if reader.bad:
        return None
    return Ask(study.name, study.fluid, tests, tuple(wanted), tuple(study.held_out), tuple(weights.items()))


def _tests(study: MatchStudy, document: Document, reader: Reader) -> tuple[str, ...]:
    """Return the names of the tests, with what is wrong with each."""
    here = reader.at("tests")
    able = [s.name for s in measured_of(document, study.fluid) if study_kinds()[s.kind].test is not None]
    for i, name in enumerate(study.tests):
        found = document.study(name)
        own = here.at(i)
        if name in study.tests[:i]:
            own.fault(f"the test '{name}' is listed twice; leave one out")
        elif found is None:
            own.known(name, able, "study")
        elif study_kinds()[found.kind].test is None or not isinstance(found, Measured):
            kinds = ", ".join(k for k, v in study_kinds().items() if v.test is not None)
            own.fault(f"'{name}' is of kind {found.kind}, which is no lab test; there is {kinds}")
        elif found.fluid != study.fluid:
            own.fault(f"'{name}' is a test of '{found.fluid}', not of '{study.fluid}'")
        elif not found.measured:
            own.fault(f"'{name}' carries no measured values; enter them or leave the test out")
        else:
            wrong = errors(read_study(found, document).faults)
            if wrong:
                own.fault(f"'{name}' cannot be read: {wrong[0].message}")
    names = tests_of(document, study)
    return names if study.tests else tuple(n for n in names if not errors(_faults(document, n)))


def _faults(document: Document, name: str) -> tuple[Fault, ...]:
    found = document.study(name)
    return () if found is None else read_study(found, document).faults


def wanted_of(given: MatchParameter, here: Reader) -> Wanted | None:
    """Return a parameter as it is read, None with a fault."""
    if not here.at("property").known(given.property, PROPERTIES, "property"):
        return None
    own = PROPERTIES[given.property]
    names, partners = ((v,) if isinstance(v, str) else v for v in (given.components, given.partners))
    if not names:
        here.at("components").fault("the parameter names no components; write heavy for all heavy ends, or list names")
    pair = given.property.startswith("kij")
    if pair and not partners:
        here.at("with").fault(
            'an interaction parameter is with other components; name them, for example "with": ["methane"]'
        )
    if not pair and partners:
        here.at("with").fault("only interaction parameters are with others; leave it out")
    low, high = own.low, own.high
    if given.between is not None:
        ends = [here.at("between", i).number(cell, "a bound") for i, cell in enumerate(given.between)]
        if ends[0] is None or ends[1] is None:
            return None
        low, high = float(ends[0]), float(ends[1])
        if not low < high:
            here.at("between").fault(f"the bounds {low:g} and {high:g} leave no room; give the lower one first")
        elif own.plain and not -1.0 < low < high < 1.0:
            here.at("between").fault("an interaction parameter lies between -1 and 1")
        elif not own.plain and given.property not in ANY_SIGN and low <= 0.0:
            here.at("between").fault(
                f"{own.title} is moved by a factor, which must be above zero; 0.9 to 1.1 are 10 % to either side"
            )
    start = None if given.start in EMPTY else here.at("start").number(given.start, "a start")
    if start is not None and not low <= start <= high:
        here.at("start").fault(f"the start {start:g} is outside the bounds {low:g} to {high:g}")
    prior = None if given.prior in EMPTY else here.at("prior").number(given.prior, "a prior width")
    if prior is not None and prior <= 0.0:
        here.at("prior").fault("a prior width must be above zero")
    return Wanted(given.property, tuple(names), tuple(partners), low, high, start, prior)


def solve(asked: Ask, context: Context) -> Answer:
    """Return the fit."""
    return fitted(asked, context)


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    done = [
        d
        for d in answer["deviations"].values()
        if not d["held_out"] and d["before"] is not None and d["after"] is not None
    ]
    if not done:
        return str(answer["reason"])
    points = sum(d["points"] for d in done)
    after = sum(d["after"] * d["points"] for d in done) / points
    return f"{points} lab points, {after:.1f} %"


def begin(fluid: str, at: tuple[float, float] | None) -> MatchStudy:
    """Return a new question about a fluid."""
    return MatchStudy(name=f"Match of {fluid}", kind="match", fluid=fluid)


register(
    StudyKind(
        name="match", title="Match to lab tests", meaning="a few parameters of the model moved until measured values are met",
        model=MatchStudy, answer=MatchAnswer, read=read, solve=solve, line=line, begin=begin, gives=TUNED, order=70,
        keep=lambda answer: answer.get("reason") != STOPPED,
        sentence="Which of {parameters#parameters} make {fluid} agree with {tests}[, holding out {held_out}]?",
        phrases=("match", "tune", "tuning"),
    )
)  # fmt: skip
