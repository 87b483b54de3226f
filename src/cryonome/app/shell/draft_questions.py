"""Questions that a page shows without being asked: drafts, one a kind, about what is chosen. Knows no Qt.

A draft nobody touched stands in no document: it is added to the one that is shown, and taken out again of what an
edit leads to. Once something is typed in it, it stands in the document as a draft, so that it is saved and undone as
all else is; looked at with another fluid chosen it is turned to that one, again without a change of the document."""

from __future__ import annotations

from dataclasses import dataclass, field

from ...document import Document, Study
from ...document.edits import free_name, set_at
from ...document.kinds import study_kinds
from ...document.references import about, about_place, asks_another
from ...equilibrium.phase_map import PhaseMap
from ...questions.asking import goal_for, sweep_over, varied_condition
from ...questions.beginning import in_reader_units
from ...telling.sentences import Units

SUBJECTS = {"fluid": "fluids", "sample": "samples"}

NEAR = (
    "flash",
    "saturation",
    "table",
    "isotherms",
    "roots",
    "expansion",
    "depletion",
    "liberation",
    "viscosity",
    "swelling",
    "separators",
    "black_oil",
)
"""Kinds whose drafts begin near a state that tells something of the fluid; the others have usual conditions of their
own."""

STATE = "flash"
"""The kind of question that a draft of a sweep or a goal asks, where the fluid has none."""


@dataclass(frozen=True)
class Looked:
    """What drafts hang on: the kinds looked at, the fluid and the sample chosen, and a state (T K, P Pa) that tells
    something of the fluid."""

    kinds: tuple[str, ...] = ()
    fluid: str = ""
    sample: str = ""
    near: tuple[float, float] | None = None
    units: str = "metric"


@dataclass
class DraftQuestions:
    """Adds the drafts that are looked at to a document, and takes them out of it again."""

    looked: Looked = field(default_factory=Looked)
    begun: dict[str, Study] = field(default_factory=dict)
    """What each draft that is shown began with, by its name."""
    _made: dict[str, tuple[Study, Study | None]] = field(default_factory=dict)
    """The drafts added, by their name, and what stands in the document in their place."""
    _known: tuple[Document, Looked, Document] | None = None

    def shown(self, document: Document) -> Document:
        """Return the document with the drafts that are looked at."""
        if self._known is not None and self._known[0] is document and self._known[1] == self.looked:
            return self._known[2]
        self._made, self.begun = {}, {}
        whole = document
        for kind in self.looked.kinds:
            whole = self._with(whole, kind)
        self._known = (document, self.looked, whole)
        return whole

    def _with(self, document: Document, kind: str) -> Document:
        subject = study_kinds()[kind].subject
        name = {"fluid": self.looked.fluid, "sample": self.looked.sample}.get(subject, "")
        if subject == "study":
            return self._asking(document, kind)
        if not name or getattr(document, subject)(name) is None:
            return document
        stored = next((s for s in document.studies if s.draft and s.kind == kind), None)
        fresh = self._fresh(document, kind, name, stored)
        if stored is None:
            return self._added(document, fresh, None)
        self.begun[stored.name] = set_at(fresh, ("name",), stored.name)
        if about(stored, SUBJECTS[subject]) == name:
            return document
        return self._added(document, set_at(stored, about_place(stored, SUBJECTS[subject]), name), stored)

    def _fresh(self, document: Document, kind: str, subject: str, stored: Study | None) -> Study:
        near = self.looked.near if kind in NEAR else None
        made = in_reader_units(study_kinds()[kind].begin(subject, near), Units.of(self.looked.units))
        name = stored.name if stored is not None else free_name(document, made.name)
        out: Study = made.model_copy(update={"name": name, "draft": True})
        return out

    def _asking(self, document: Document, kind: str) -> Document:
        """Add a draft that asks another question: a state of the fluid, a draft as well where there is none."""
        stored = next((s for s in document.studies if s.draft and s.kind == kind), None)
        if not self.looked.fluid:
            return document
        if stored is not None:
            other = document.study(about(stored, "studies"))
            if other is not None and about(other) in ("", self.looked.fluid):
                self.begun[stored.name] = stored
                return document
        states = [s for s in document.studies if s.kind == STATE and about(s) == self.looked.fluid]
        if not states:
            document = self._with(document, STATE)
            states = [s for s in document.studies if s.kind == STATE and about(s) == self.looked.fluid]
        if not states:
            return document
        first = next((s for s in states if not s.draft), states[0])
        parts = varied_condition(first, document)
        if parts is None:
            return document
        if kind == "spread":
            made: Study | None = study_kinds()[kind].begin(first.name, None)
        elif kind == "sweep":
            made = sweep_over(parts, document, first)
        else:
            made = goal_for(first, "vapour_fraction", 0.5, document)
        if made is None:
            return document
        name = stored.name if stored is not None else free_name(document, made.name)
        return self._added(document, made.model_copy(update={"name": name, "draft": True}), stored)

    def _added(self, document: Document, draft: Study, stored: Study | None) -> Document:
        self._made[draft.name] = (draft, stored)
        self.begun.setdefault(draft.name, draft)
        if stored is None:
            return set_at(document, ("studies", len(document.studies)), draft)
        return set_at(document, ("studies", document.studies.index(stored)), draft)

    def folded(self, new: Document) -> Document:
        """Return a document that an edit led to without the drafts nobody touched."""
        if not self._made:
            return new
        studies: list[Study] = []
        for study in new.studies:
            made, stored = self._made.get(study.name, (None, None))
            if made is None or not study.draft or not _same(made, study):
                studies.append(study)
            elif stored is not None:
                studies.append(stored)
        return (
            new
            if len(studies) == len(new.studies) and all(a is b for a, b in zip(studies, new.studies))
            else new.model_copy(update={"studies": tuple(studies)})
        )


def _same(made: Study, now: Study) -> bool:
    """Tell whether a draft is as it was made, but for what it is about, which follows what is chosen."""
    if made is now or made == now:
        return True
    subject = study_kinds()[made.kind].subject
    if type(made) is not type(now) or asks_another(made):
        return False
    place = about_place(made, SUBJECTS[subject])
    if not place or place != about_place(now, SUBJECTS[subject]):
        return False
    return bool(set_at(made, place, about(now, SUBJECTS[subject])) == now)


def kept(document: Document) -> tuple[Study, ...]:
    """Return the questions that are kept, without drafts."""
    return tuple(s for s in document.studies if not s.draft)


RESERVOIR, BELOW = 363.15, 15.0
"""K: where a fluid is asked about first, and how far below its cricondentherm at the least."""


def telling_state(whole: PhaseMap) -> tuple[float, float] | None:
    """Return a state (T K, P Pa) at which there is something to see: half the saturation pressure at a temperature of
    a reservoir, or below the cricondentherm."""
    found = [whole.cricondentherm.T] if whole.cricondentherm is not None else [c.T for c in whole.critical_points]
    if not found:
        return None
    T = round(min(RESERVOIR, max(found) - BELOW), 0) + 0.15
    points = whole.crossings([0.0, 1.0], T=T, P=None)
    if not points:
        return None
    return T, 0.5 * max(p.P for p in points)
