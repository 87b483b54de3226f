"""What is open and chosen, and the results that follow from it. Knows no Qt.

What more than one page shows is declared here once: write a function that yields its name and request, and enter it in
:data:`DECLARATIONS`. What one page alone shows it declares itself, in its ``results.py``.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial

from ...document import Document, Fluid, Ghost, Sample, Study, errors
from ...document.checks import StudyReading
from ...document.drafts import drafts_below
from ...document.edits import fluid_path
from ...document.inner_fluids import used_samples
from ...document.kinds import study_kinds
from ...document.references import is_about
from ...eos.building import SAFT
from ...equilibrium.phase_map import PhaseMap
from ...equilibrium.volume_lines import VolumeLine
from ...fluids.building import FluidModel
from ...fluids.map_lines import drawn
from ...fluids.sample_lumping import RESERVOIR
from ...fluids.states import full_states, margins
from ...questions.solving import answer_key, faults_of, solve_sooner, solve_study
from ...results.evaluator import Evaluator, Project, placed
from ...results.hydrates import Dose, hydrate_lines
from .draft_questions import kept
from .results_table import Request, Results

PROBED = ("mass_fraction", "density", "molar_mass", "Z", "enthalpy", "entropy", "viscosity")
"""The properties under the probe, in their order; more would slow it down."""

BREATH = 30
"""ms between an edit and the tracing it asks for: what follows at once is painted first, on an idle processor."""

REST = 180
"""ms the pointer rests before the margins are asked for."""


@dataclass(frozen=True)
class Session:
    """An immutable snapshot of what is open and chosen; the results are functions of it."""

    document: Document
    evaluator: Evaluator
    sample_name: str = ""
    fluid_name: str = ""
    study_name: str = ""
    probe: tuple[float, float] | None = None
    lumping_temperature: float = RESERVOIR
    place: tuple[tuple[str, float], ...] = ()
    wanted: tuple[tuple[str, str], ...] = ()
    drafts: tuple[str, ...] = ()

    def wants(self, name: str) -> str:
        """Return what a page looks at under a name, "" for nothing."""
        return dict(self.wanted).get(name, "")

    @property
    def project(self) -> Project:
        """The document with its results."""
        return self.evaluator.at(self.document)

    @property
    def sample(self) -> Sample | None:
        """The chosen sample."""
        return self.document.sample(self.sample_name)

    @property
    def fluid(self) -> Fluid | None:
        """The chosen fluid."""
        return self.document.fluid(self.fluid_name)


def trail_of(document: Document, fluid_name: str, sample_name: str) -> tuple[str, str]:
    """Return fluid and sample of a trail that belongs together, nearest to the two names.

    A chosen fluid shows one of its own samples; without a fluid of its own a sample shows alone.
    """
    fluid = document.fluid(fluid_name)
    if fluid is None:
        return "", sample_name if document.sample(sample_name) else ""
    used = used_samples(fluid, document)
    return fluid.name, sample_name if sample_name in used else used[0] if used else ""


def first_shown(document: Document, opened: bool = False) -> str:
    """Return the fluid that is shown when nothing was chosen: the one an ``opened`` document names, else the last
    with a sample in it, else the last."""
    if opened and document.fluid(document.display.fluid) is not None:
        return document.display.fluid
    names = [f.name for f in document.fluids] or [s.name for s in document.samples[:1]]
    made = [f.name for f in document.fluids if used_samples(f, document)]
    return (made or names or [""])[-1]


def fluids_of(document: Document, sample_name: str) -> list[str]:
    """Return the fluids a sample feeds, those it is the only sample of first; the fluid that it is by default where
    it feeds none."""
    found = [(len(used_samples(f, document)), i, f.name) for i, f in enumerate(document.fluids)]
    feeds = {f.name for f in document.fluids if sample_name in used_samples(f, document)}
    alone = [sample_name] if document.sample(sample_name) is not None else []
    return [name for _, _, name in sorted(found) if name in feeds] or alone


# -- what is shown -----------------------------------------------------------------------------------------------------


def _sample(session: Session, _results: Results) -> Iterator[tuple[str, Request]]:
    sample = session.sample
    if sample is None:
        return
    project = session.project
    reading = project.read_sample(sample)
    index = session.document.samples.index(sample)
    faults = tuple(placed(reading.faults, ("samples", index)))
    blocking = reading.blocking
    yield (
        "sample",
        Request(
            project.sample_key(sample),
            lambda _watch: project.characterized(sample),
            at_once=True,
            error=blocking[0].message if blocking else "",
            faults=faults,
        ),
    )


def _fluid(session: Session, _results: Results) -> Iterator[tuple[str, Request]]:
    fluid = session.fluid
    if fluid is None:
        return
    project = session.project
    index = fluid_path(session.document, fluid.name)[1]
    faults = tuple(placed(project.read_fluid(fluid).faults, ("fluids", index)))
    wrong = [f.message for f in errors(faults)]
    error = wrong[0] if wrong else project.first_fault_inside(fluid)
    yield (
        "fluid",
        Request(
            project.fluid_key(fluid),
            lambda _watch: project.fluid(fluid),
            at_once=fluid.model.eos != SAFT,
            error=error,
            faults=faults,
        ),
    )


def _map(session: Session, results: Results) -> Iterator[tuple[str, Request]]:
    """The envelope, and once it is there its quality lines: they take longer and may follow."""
    fluid, shown = session.fluid, results["fluid"]
    if fluid is None:
        return
    project = session.project
    key = project.map_key(fluid, ())
    if shown.error:
        yield "map", Request((key, shown.error), None, error=shown.error)
        return
    yield "map", _traced(project, fluid, ())
    display, whole = session.document.display.map, results["map"]
    there = whole.value is not None and not whole.old
    if display.quality_lines and display.by_volume and there:
        yield (
            "volumes",
            Request(
                ("volumes", display.quality, key),
                lambda watch: project.volume_lines(fluid, display.quality, watch),
                pause=BREATH,
            ),
        )
    elif display.quality_lines and not display.by_volume:
        # Until the envelope is there the old lines stay with the old envelope.
        yield (
            "lines",
            _traced(project, fluid, display.quality) if there else Request((key, "waits"), None, error=whole.error),
        )


def volumes_of(session: Session, value: object) -> tuple[VolumeLine, ...]:
    """Return the quality lines by volume among results, where they are to be shown."""
    display = session.document.display.map
    wanted = display.quality_lines and display.by_volume and isinstance(value, tuple)
    return value if wanted else ()  # type: ignore[return-value]


def _regions(session: Session, results: Results) -> Iterator[tuple[str, Request]]:
    """The regions of water and of three phases, behind the envelope."""
    fluid, shown = session.fluid, results["map"]
    if fluid is None or shown.value is None or shown.old or not session.document.display.map.regions:
        return
    project, display = session.project, session.document.display.map
    inner = display.quality if display.quality_lines and not display.by_volume else ()
    key = ("regions", project.map_key(fluid, inner))
    yield "regions", Request(key, lambda watch: project.regions(fluid, watch, inner), pause=REST, behind=True)


def _spinodal(session: Session, results: Results) -> Iterator[tuple[str, Request]]:
    """The limit of local stability, where it is to be seen."""
    fluid, shown = session.fluid, results["fluid"]
    if fluid is None or shown.error or not session.document.display.map.spinodal:
        return
    project = session.project
    key = ("spinodal", project.fluid_key(fluid))
    yield "spinodal", Request(key, lambda watch: project.spinodal(fluid, watch), pause=REST, behind=True)


def _hydrates(session: Session, results: Results) -> Iterator[tuple[str, Request]]:
    """The limits of hydrate and ice of the fluid on the map, for every dose its questions ask about."""
    fluid, shown, project = session.fluid, results["fluid"], session.project
    if fluid is not None and not shown.error and session.document.display.map.hydrates:
        yield "hydrates", limits_request(project, fluid, ((), *doses_asked(session, fluid.name)))


def limits_request(project: Project, fluid: Fluid, doses: tuple[Dose, ...]) -> Request:
    """Ask for the limits of hydrate and ice of a fluid for several doses."""
    key = ("hydrate lines", project.fluid_key(fluid), doses)
    return Request(key, lambda watch: hydrate_lines(project, fluid, doses, watch), pause=BREATH, behind=True)


def doses_asked(session: Session, fluid: str) -> tuple[Dose, ...]:
    """Return the doses that questions about a fluid ask of, each once."""
    asked = [reading_of(session, s).asked for s in kept(session.document) if is_about(s, fluid)]
    return tuple(dict.fromkeys(d for a in asked if (d := getattr(a, "dose", ()))))


def _traced(project: Project, fluid: Fluid, fractions: tuple[float, ...]) -> Request:
    known = project.known_map(fluid, fractions)
    key = project.map_key(fluid, fractions)
    if known is not None:
        return Request(key, lambda _watch: known, at_once=True)
    return Request(key, lambda watch: _ready(project.map(fluid, fractions, watch)), pause=BREATH)


def _ready(whole: PhaseMap) -> PhaseMap:
    """Prepare a map for being drawn, where it was traced: in a thread."""
    drawn(whole, [])
    return whole


def _probe(session: Session, results: Results) -> Iterator[tuple[str, Request]]:
    model, at = results["fluid"].value, session.probe
    if not isinstance(model, FluidModel) or results["fluid"].error or at is None:
        return
    key = (results.key("fluid"), at)
    yield "probe", Request(key, lambda watch: full_states(model, [at[0]], [at[1]], PROBED, watch), moving=True)

    whole = results["map"].value
    if isinstance(whole, PhaseMap) and not results["map"].old:
        yield "margins", Request((*key, id(whole)), lambda _watch: margins(whole, *at), pause=REST)


def reading_of(session: Session, study: Study) -> StudyReading:
    """Return what a question says, read once."""
    return session.project.read_study(study)


def _ghosts(session: Session, _results: Results) -> Iterator[tuple[str, Request]]:
    for ghost in session.document.ghosts:
        yield f"ghost:{ghost.name}", _ghost_request(ghost, session.evaluator)


def _ghost_request(ghost: Ghost, evaluator: Evaluator) -> Request:
    project = evaluator.at(Document(samples=ghost.samples, fluids=(*ghost.inside, ghost.fluid)))
    key = evaluator.remembered((ghost,), lambda: ("ghost", project.map_key(ghost.fluid, ())))
    return Request(key, lambda watch: project.map(ghost.fluid, (), watch), pause=BREATH, behind=True)


def _lumping(session: Session, results: Results) -> Iterator[tuple[str, Request]]:
    sample, shown = session.sample, results["sample"]
    if sample is None or shown.value is None or shown.old or shown.value.unlumped is None:
        return
    project, T = session.project, session.lumping_temperature
    key = ("lumping", project.sample_key(sample), T)
    yield "lumping", Request(key, lambda watch: project.lumping(sample, T, watch), pause=BREATH, behind=True)


def _answers(session: Session, _results: Results) -> Iterator[tuple[str, Request]]:
    """The kept questions, each with its answer; what they ask follows from the document alone, so a moving pointer
    asks nothing anew."""
    document = session.document
    yield from session.evaluator.remembered((_asked, document, session.drafts), lambda: list(_asked(session)))


def _asked(session: Session) -> Iterator[tuple[str, Request]]:
    document, project = session.document, session.project
    for i, study in enumerate(document.studies):
        if study.draft and study.kind not in session.drafts:
            continue
        path = ("studies", i)
        faults = (*placed(reading_of(session, study).faults, path), *drafts_below(document, path))
        wrong = faults_of(study, project, curves_whole=False)
        error = "" if not wrong else wrong[0].message if wrong[0].path[:2] == path else str(wrong[0])
        yield f"answer:{study.name}", Request(
            (answer_key(study, project), error), partial(solve_study, study, project),
            pause=4 * BREATH, behind=True, error=error, faults=faults,
        )  # fmt: skip


def _first_answers(session: Session, _results: Results) -> Iterator[tuple[str, Request]]:
    """What is there first of the questions that are looked at, where their kind gives some of it sooner."""
    project = session.project
    for study in session.document.studies:
        looked = study.name == session.study_name or (study.draft and study.kind in session.drafts)
        if not looked or study_kinds()[study.kind].sooner is None or faults_of(study, project, curves_whole=False):
            continue
        key = ("first answer", study.name, answer_key(study, project))
        yield f"first answer:{study.name}", Request(key, partial(solve_sooner, study, project), pause=BREATH)


DECLARATIONS = (
    _sample,
    _fluid,
    _map,
    _regions,
    _spinodal,
    _hydrates,
    _probe,
    _ghosts,
    _lumping,
    _first_answers,
    _answers,
)
"""Every result on screen; one may read those before it."""

POINTED = (_probe,)
"""What hangs on the place pointed at and on nothing that the others read: all that is brought in step while a pointer
moves."""

FOLLOWERS = frozenset({"probe", "margins"})
"""Results that no other waits for."""
