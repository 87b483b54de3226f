"""The Qt side of the results: keeps the session, carries requests to threads and outcomes back, and says what
changed."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

from PySide6.QtCore import QCoreApplication, QObject, QTimer, Signal

from ...characterization import CharacterizedSample
from ...document import Document, Fluid, Sample, Study
from ...document.edits import add_study, set_at, set_each, study_path, update_fluid, update_sample
from ...document.faults import PathParts
from ...document.field_types import SAMPLES, STUDIES
from ...document.references import about, is_about
from ...equilibrium.phase_map import PhaseMap
from ...equilibrium.volume_lines import VolumeLine
from ...fluids.building import FluidModel
from ...fluids.states import States
from ...questions.named_values import ValueAnswer, values_of
from ...results import Evaluator
from ...telling import Units
from ...telling.worded import worded
from .draft_questions import DraftQuestions, Looked, kept, telling_state
from .jobs import Jobs, Outcome
from .results_table import Declaration, Request, Results, Shown
from .session import DECLARATIONS, FOLLOWERS, POINTED, Session, first_shown, fluids_of, reading_of, trail_of, volumes_of
from .store import Store

OF_FLUID = (
    "fluid",
    "map",
    "lines",
    "volumes",
    "regions",
    "spinodal",
    "hydrates",
    "diagram",
    "place",
    "probe",
    "margins",
)
OF_SAMPLE = ("sample", "lumping")
SELECTION = "selection"
"""The name under which a change of what is chosen, of units or of names is told."""


class Live(QObject):
    """Holds the session and its results; recomputes what an edit touched and tells who listens."""

    changed = Signal(object)
    fit_moved = Signal(str, object)

    def __init__(self, store: Store, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.store, self.jobs = store, jobs
        self.drafts = DraftQuestions()
        self._looking: dict[str, tuple[str, ...]] = {}
        self._near: tuple[str, tuple[float, float] | None] = ("", None)
        store.shown, store.folded = self.drafts.shown, self.drafts.folded
        self.session = Session(store.document, Evaluator())
        # From a thread of its own: the signal brings it over to this one.
        self.session.evaluator.fits.told = self._fit_told
        self.results = Results(DECLARATIONS)
        self._listeners: list[tuple[frozenset[str], Callable[[], None]]] = []
        self._display: object = None
        self._due: dict[str, QTimer] = {}
        self._waiting: dict[str, Request] = {}
        store.replaced.connect(self._of_another)
        store.changed.connect(self.refresh)
        jobs.finished.connect(self._arrived)

    def declare(self, declarations: Iterable[Declaration]) -> None:
        """Add results that pages declare for themselves."""
        self.results.declarations += tuple(declarations)

    def want(self, name: str, value: str, *results: str) -> None:
        """Say what a page looks at, under a name that its declarations read (``Session.wants``); ``results`` of
        another value are dropped."""
        if self.session.wants(name) != value:
            self.results.forget(*results)
            kept = tuple((n, v) for n, v in self.session.wanted if n != name)
            self.session = replace(self.session, wanted=(*kept, (name, value)))
            self.refresh()

    # -- who listens ----------------------------------------------------------------------------------------------

    def on(self, names: Iterable[str], call: Callable[[], None]) -> None:
        """Call ``call`` once after any of the results ``names`` changed ("selection" for what is chosen; a family's
        name for all of it)."""
        self._listeners.append((frozenset(names), call))

    def after(self, owner: QObject, names: Iterable[str], call: Callable[[], None]) -> Callable[[], None]:
        """Call ``call`` as :meth:`on` does, but in a turn of its own, once for all that changed meanwhile.

        It is for what frames the desk (trail, shelf, ledger), so that the interface is never held for all of it
        together. Returns what asks for such a call."""
        turn = QTimer(owner)
        turn.setSingleShot(True)
        turn.setInterval(0)
        turn.timeout.connect(call)
        self.on(names, turn.start)
        return turn.start

    def _tell(self, changed: set[str]) -> None:
        if not changed:
            return
        families = changed | {n.partition(":")[0] for n in changed}
        for names, call in self._listeners:
            if names & families:
                call()
        self.changed.emit(frozenset(families))

    def pending(self) -> bool:
        """Tell whether something is asked for or about to be."""
        return bool(self._waiting) or self.jobs.any_busy()

    def come_to_rest(self, patience: float = 60.0) -> bool:
        """Let the window work until nothing is asked for any more; tell whether that came within ``patience``
        seconds."""
        end, quiet = time.monotonic() + patience, 0
        while time.monotonic() < end and quiet < 3:
            QCoreApplication.processEvents()
            time.sleep(0.01)
            quiet = 0 if self.pending() else quiet + 1
        return quiet >= 3

    # -- what is selected -------------------------------------------------------------------------------------------

    @property
    def document(self) -> Document:
        """The present document, with the drafts that are looked at."""
        return self.drafts.shown(self.store.document)

    @property
    def evaluator(self) -> Evaluator:
        """What remembers results."""
        return self.session.evaluator

    @property
    def sample_name(self) -> str:
        """Name of the chosen sample."""
        return self.session.sample_name

    @property
    def fluid_name(self) -> str:
        """Name of the chosen fluid."""
        return self.session.fluid_name

    def current_sample(self) -> Sample | None:
        """The chosen sample."""
        return self.document.sample(self.sample_name)

    def current_fluid(self) -> Fluid | None:
        """The chosen fluid."""
        return self.document.fluid(self.fluid_name)

    def modelled_fluid(self) -> Fluid | None:
        """The chosen fluid with the model it is computed by: of one that a question gives that of the question's
        fluid."""
        fluid = found = self.current_fluid()
        for _ in range(20):
            study = (
                self.document.study(found.made_by.study) if found is not None and found.made_by is not None else None
            )
            source = self.document.fluid(about(study)) if study is not None else None
            if fluid is None or source is None:
                break
            found = source
        return fluid if fluid is None or found is None or found is fluid else set_at(fluid, ("model",), found.model)

    def current_study(self) -> Study | None:
        """The chosen question."""
        return self.document.study(self.session.study_name)

    def study_about(self, kind: str) -> Study | None:
        """Return the question of a kind about the chosen fluid: the chosen one, else the first."""
        mine = [s for s in self.document.studies if s.kind == kind and is_about(s, self.fluid_name)]
        mine.sort(key=lambda s: s.draft)
        return next((s for s in mine if s.name == self.session.study_name), mine[0] if mine else None)

    def kept(self) -> tuple[Study, ...]:
        """The questions that are kept, without drafts."""
        return kept(self.store.document)

    def draft(self, kind: str) -> Study | None:
        """Return the draft of a kind that is looked at."""
        return next((s for s in self.document.studies if s.draft and s.kind == kind), None)

    def begun_with(self, study: Study) -> Study | None:
        """Return what a draft began with, None for a question that is kept."""
        return self.drafts.begun.get(study.name) if study.draft else None

    def look_at_drafts(self, page: str, kinds: tuple[str, ...]) -> None:
        """Say which drafts a page looks at from now on."""
        if self._looking.get(page, ()) != kinds:
            self._looking[page] = kinds
            self.refresh()

    def begin_draft(self, study: Study) -> None:
        """Put a question into the project as the draft of its kind, in place of the one before."""

        def begun(document: Document) -> Document:
            others = tuple(s for s in document.studies if not (s.draft and s.kind == study.kind))
            bare = document.model_copy(update={"studies": others})
            return add_study(bare, study.model_copy(update={"draft": True}))

        fluid, sample = about(study), about(study, SAMPLES)
        if fluid and self.document.fluid(fluid) is not None:
            self.select_fluid(fluid)
        elif sample and self.document.sample(sample) is not None:
            self.select_sample(sample)
        self.store.edit("Ask a question", begun)

    def keep(self, name: str) -> None:
        """Keep a draft, with the one it asks."""
        study = self.document.study(name)
        if study is None or not study.draft:
            return
        names = {name, about(study, STUDIES)}
        places = {
            (*study_path(self.document, s.name), "draft"): False
            for s in self.document.studies
            if s.draft and s.name in names
        }
        self.store.edit(f"Keep {name}"[:60], lambda d: set_each(d, dict(places)))
        self.select_study(name)

    def _look(self) -> bool:
        """Bring what drafts hang on in step; tell whether it changed."""
        kinds = tuple(dict.fromkeys(k for own in self._looking.values() for k in own))
        looked = Looked(
            kinds, self.fluid_name, self.sample_name, self._telling_state(), self.store.document.display.units
        )
        changed = looked != self.drafts.looked
        self.drafts.looked = looked
        self.session = replace(self.session, drafts=kinds)
        return changed

    def _telling_state(self) -> tuple[float, float] | None:
        """Return a state that tells something of the chosen fluid: at a temperature of a reservoir, or below its
        cricondentherm, half way to the saturation pressure."""
        whole = self.results["map"]
        if self._near[0] != self.fluid_name and isinstance(whole.value, PhaseMap) and not whole.old:
            self._near = (self.fluid_name, telling_state(whole.value))
        return self._near[1] if self._near[0] == self.fluid_name else None

    def asked(self, study: Study) -> Any:
        """Return what a question asks in SI, None where a fault forbids an answer."""
        return reading_of(self.session, study).asked

    def units(self) -> Units:
        """The reader's units."""
        return Units.of(self.document.display.units)

    def units_of(self, study: Study | None) -> Units:
        """The reader's units, with those chosen for single numbers in answers of a question's kind."""
        if study is None:
            return self.units()
        start = f"{study.kind}."
        chosen = self.document.display.numbers.items()
        return self.units().with_keys({k.removeprefix(start): u for k, u in chosen if k.startswith(start)})

    def set_unit(self, study: Study | None, key: str, unit: str) -> None:
        """Show a number in answers of a question's kind in a unit of its own, "" in that of the project."""
        if study is None:
            return
        own = f"{study.kind}.{key}"
        numbers = {k: u for k, u in self.document.display.numbers.items() if k != own}
        numbers |= {own: unit} if unit else {}
        self.store.edit("Change a unit", lambda d: set_at(d, ("display", "numbers"), numbers))

    def select_sample(self, name: str) -> None:
        """Show a sample and what it feeds: the fluid shown where it is made of it, else the first that is."""
        feeds = fluids_of(self.document, name)
        fluid = self.fluid_name if self.fluid_name in feeds else feeds[0] if feeds else ""
        self._choose(fluid, name)

    def select_fluid(self, name: str) -> None:
        """Show a fluid and one of its own samples."""
        self._choose(*trail_of(self.document, name, self.sample_name))

    def select_study(self, name: str) -> None:
        """Choose a question, with the fluid or sample it is about."""
        study = self.document.study(name)
        if study is None:
            return
        self.session = replace(self.session, study_name=name)
        fluid, sample = self._subject(study)
        if fluid:
            self.select_fluid(fluid)
        else:
            self.select_sample(sample)

    def _subject(self, study: Study) -> tuple[str, str]:
        """Return the fluid or sample a question is about, of one that asks another that of the other."""
        for _ in range(20):
            fluid, sample, other = about(study), about(study, SAMPLES), about(study, STUDIES)
            following = self.document.study(other)
            if fluid or sample or following is None:
                return fluid, sample
            study = following
        return "", ""

    def _question_of(self, fluid: str) -> str:
        """Return the question that stays chosen with a fluid: the one there is unless it is about another, else the
        first about the fluid."""
        chosen = self.current_study()
        if chosen is None:
            return self.session.study_name
        about_it, sample = self._subject(chosen)
        if about_it == fluid or (not about_it and sample):
            return chosen.name
        return next((s.name for s in self.kept() if is_about(s, fluid)), "")

    def _of_another(self) -> None:
        """Drop all that was of the document before: a question of the same name may be of another kind."""
        for name in self.results.names():
            self._waiting.pop(name, None)
            self.jobs.cancel(name)
        self.results.forget_all()

    def follow_rename(self, old: str, new: str) -> None:
        """Keep what is chosen chosen under another name."""
        session = self.session
        self.session = replace(
            session,
            sample_name=new if session.sample_name == old else session.sample_name,
            fluid_name=new if session.fluid_name == old else session.fluid_name,
            study_name=new if session.study_name == old else session.study_name,
        )

    def _choose(self, fluid: str, sample: str) -> None:
        if fluid != self.fluid_name:
            self.results.forget(*OF_FLUID)
            self.session = replace(
                self.session, fluid_name=fluid, probe=None, place=(), study_name=self._question_of(fluid)
            )
        if sample != self.sample_name:
            self.results.forget(*OF_SAMPLE)
            self.session = replace(self.session, sample_name=sample)
        self.refresh(selected=True)

    # -- editing what is chosen -------------------------------------------------------------------------------------

    def set_sample(self, text: str, path: PathParts, value: object, merge: str = "", name: str = "") -> None:
        """Set one place of the chosen sample (or of the one called ``name``) as an undoable step."""
        chosen = name or self.sample_name
        self.store.edit(text, lambda d: update_sample(d, chosen, lambda s: set_at(s, path, value)), merge)

    def set_fluid(self, text: str, values: dict[PathParts, object], merge: str = "") -> None:
        """Set places of the chosen fluid as one undoable step."""
        chosen = self.fluid_name
        self.store.edit(text, lambda d: update_fluid(d, chosen, lambda f: set_each(f, values)), merge)

    # -- recomputing ------------------------------------------------------------------------------------------------

    def refresh(self, selected: bool = False) -> None:
        """Bring every result in step with the document and what is chosen."""
        selected |= self._mend_choice(self.store.document)
        self._look()
        document = self.document
        self.session = replace(self.session, document=document)
        names = (
            document.display,
            [(s.name, s.note, s.display) for s in document.samples],
            [(f.name, f.note) for f in document.fluids],
            [s.name for s in document.studies],
            document.ghosts,
            document.values,
        )
        if names != self._display:
            self._display, selected = names, True
        changed, wanted = self.results.refresh(self.session)
        for name in list(self._waiting):
            if name in changed and name not in wanted:
                del self._waiting[name]
        for name in changed:
            if name not in wanted and self.jobs.busy(name):
                self.jobs.cancel(name)
        for name, request in wanted.items():
            self._ask(name, request)
        self._tell(changed | ({SELECTION} if selected else set()))

    def _mend_choice(self, document: Document) -> bool:
        """Choose something that is there where what was chosen is gone; return whether anything was."""
        fluid, sample = self.fluid_name, self.sample_name
        if document.fluid(fluid) is None:
            feeds = fluids_of(document, sample)
            alone = document.sample(sample) is not None
            fluid = feeds[0] if feeds else "" if alone else first_shown(document, not fluid and not sample)
        if document.sample(sample) is None:
            sample = document.samples[0].name if document.samples and not fluid else ""
        if fluid:
            fluid, sample = trail_of(document, fluid, sample)
        if (fluid, sample) == (self.fluid_name, self.sample_name):
            return False
        if fluid != self.fluid_name:
            self.results.forget(*OF_FLUID)
        if sample != self.sample_name:
            self.results.forget(*OF_SAMPLE)
        self.session = replace(self.session, fluid_name=fluid, sample_name=sample)
        return True

    def _ask(self, name: str, request: Request) -> None:
        """Hand a request to its thread, after its pause counted from the next turn of the event loop."""
        self._waiting[name] = request
        if not request.pause:
            self._submit(name)
            return
        timer = self._due.get(name)
        if timer is None:
            timer = self._due[name] = QTimer(self)
            timer.setSingleShot(True)
            timer.timeout.connect(lambda: self._submit(name))
        # An edit may itself take longer than the pause: it is counted once the edit has been painted.
        QTimer.singleShot(0, timer, lambda: timer.start(request.pause))

    def _submit(self, name: str) -> None:
        request = self._waiting.pop(name, None)
        if request is not None and request.work is not None:
            self.jobs.submit(name, request.key, request.work, request.moving, request.behind)

    def _arrived(self, outcome: Outcome) -> None:
        if outcome.error == "cancelled":
            return
        if not self.results.arrive(outcome.slot, outcome.key, outcome.value, outcome.error, outcome.moving):
            return
        if outcome.slot == "place" and isinstance(outcome.value, States):
            found = outcome.value.phases
            self.session = replace(self.session, probe=(float(found.T[0]), float(found.P[0])))
        if outcome.slot in FOLLOWERS:
            self._tell({outcome.slot})
            return
        if outcome.slot == "map" and self._look():
            self.refresh()
        # What arrived may be what others wait for: quality lines follow the envelope, margins the map.
        follow, wanted = self.results.refresh(self.session)
        for name, request in wanted.items():
            self._ask(name, request)
        self._tell({outcome.slot} | follow)

    # -- what is shown ----------------------------------------------------------------------------------------------

    @property
    def sample(self) -> Shown:
        """The chosen sample's cuts."""
        return self.results["sample"]

    @property
    def fluid(self) -> Shown:
        """The chosen fluid."""
        return self.results["fluid"]

    @property
    def map(self) -> Shown:
        """The chosen fluid's envelope."""
        return self.results["map"]

    def characterized(self) -> CharacterizedSample | None:
        """The chosen sample's cuts, the last good ones."""
        value = self.sample.value
        return value if isinstance(value, CharacterizedSample) else None

    def model(self) -> FluidModel | None:
        """The chosen fluid ready to compute, the last good one."""
        value = self.fluid.value
        return value if isinstance(value, FluidModel) else None

    def envelope(self) -> PhaseMap | None:
        """The chosen fluid's envelope, the last good one, with its quality lines where they are there."""
        lines, bare = self.results["lines"], self.map.value
        own = lines.value is not None and (not lines.old or lines.value.eos is getattr(bare, "eos", None))
        value = lines.value if own else bare
        return value if isinstance(value, PhaseMap) else None

    def volume_lines(self) -> tuple[VolumeLine, ...]:
        """The quality lines by volume of the envelope shown, where they are wanted and there."""
        found = self.results["volumes"]
        return volumes_of(self.session, None if found.old else found.value)

    def ghost_maps(self) -> dict[str, PhaseMap]:
        """The kept envelopes that are computed, by name."""
        found = self.results.family("ghost")
        return {name: s.value for name, s in found.items() if isinstance(s.value, PhaseMap)}

    def ask_lumping(self, T: float) -> None:
        """Judge the lumping at another temperature, K."""
        self.session = replace(self.session, lumping_temperature=T)
        self.refresh()

    def ask_probe(self, T: float, P: float) -> None:
        """Ask for the full state at T K, P Pa."""
        pointed = not self.session.place
        self.session = replace(self.session, probe=(T, P), place=())
        changed, wanted = self.results.refresh(self.session, POINTED if pointed else ())
        for name, request in wanted.items():
            self._ask(name, request)
        self._tell(changed - {"probe"})

    def _fit_told(self, name: str, moving: object) -> None:
        with contextlib.suppress(RuntimeError):  # the window closed while this was computed
            self.fit_moved.emit(name, moving)

    def ask_again(self, name: str) -> None:
        """Ask a question anew, whatever its answer was: a fit that was stopped goes on."""
        self.results.forget(f"answer:{name}")
        self.refresh()

    def end_fit(self, name: str) -> None:
        """Let a fit end with the best it has so far."""
        self.evaluator.fits.ended.add(name)

    def ask_place(self, at: dict[str, float]) -> None:
        """Ask where the state at two variables of a diagram is; the probe goes there."""
        self.session = replace(self.session, place=tuple(at.items()))
        changed, wanted = self.results.refresh(self.session)
        for name, request in wanted.items():
            self._ask(name, request)
        self._tell(changed - {"place"})

    def kept_places(self) -> list[tuple[str, float, float]]:
        """Return the kept states of the chosen fluid that have a place on the map: name, T K and P Pa."""
        out = []
        for study in self.kept():
            if not is_about(study, self.fluid_name):
                continue
            answer = self.answer(study.name).value
            if answer and {"temperature_K", "pressure_Pa"} <= answer.keys():
                out.append((study.name, answer["temperature_K"], answer["pressure_Pa"]))
        return out

    def named_values(self) -> dict[str, ValueAnswer]:
        """Return the named values of the document, from the answers that are shown; what is being computed is said."""

        def answer(name: str) -> dict[str, Any] | None:
            study = self.document.study(name)
            if study is None or study.draft:
                return None
            shown = self.answer(name)
            if shown.error or shown.value is None:
                return {"ok": False, "error": shown.error or "it is being computed"}
            found: dict[str, Any] = shown.value
            return found

        return values_of(self.document.values, answer, [s.name for s in self.kept()])

    def answer(self, name: str) -> Shown:
        """Return the answer of a question as it is shown, in the reader's units."""
        shown = self.results[f"answer:{name}"]
        first = self.results[f"first answer:{name}"]
        if shown.old and first.value is not None and not first.old:
            # The first part that is computed is shown until the whole answer is there.
            shown = replace(shown, value=first.value)
        value, units = shown.value, self.units()
        if not isinstance(value, dict):
            return shown
        told = self.evaluator.remembered((worded, value, self.document.display), lambda: worded(value, units))
        return replace(shown, value=told)
