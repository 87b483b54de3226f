"""The registry of study kinds: what a question can be.

A kind is one file of the package of questions: its document model, how it is read, solved and told in a line, and the
shape of its answer. This module knows none and imports none; it is given them (:func:`give`), so that a new kind
edits no list anywhere. The document, the command line, the published schema, the docs' tests and the window read the
registry."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Generic, TypeVar, get_type_hints

from pydantic_core import PydanticCustomError

from .faults import PathParts, did_you_mean
from .model import Document, Study
from .reader import Reader

PLANNED: tuple[str, ...] = ()
"""Kinds of the published format that this version does not answer yet."""

S = TypeVar("S", bound=Study)
Asked = TypeVar("Asked")


@dataclass(frozen=True)
class Gives:
    """How a kind's answer gives fluids: ``streams`` names them, [""] where there is one alone; ``fluid`` is one as it
    is read (a :class:`cryonome.document.FluidInput`), for the studies' project; ``part`` the same as a part of the
    document, to be kept as it is."""

    streams: Callable[[dict[str, Any]], list[str]]
    fluid: Callable[[Any, dict[str, Any], str, Any], Any]
    part: Callable[[Any, dict[str, Any], str, Any], Any]


@dataclass(frozen=True)
class StudyKind(Generic[S, Asked]):
    """A kind of question.

    ``read`` turns a study of the document into what is asked, in SI, or None with faults; ``solve`` answers that (it
    takes the studies' context); ``line`` tells an answer in a few words and the reader's units; ``begin`` makes a new
    study about a subject by name, near a state (T K, P Pa) where one is given; ``answer`` is the TypedDict of the
    answer's shape; ``subject`` is the key that names what it is about ("fluid", "sample", "study" for another
    question, or "" for nothing); ``order`` sorts menus; ``test`` is how a kind that carries measured values is
    simulated for many sets of parameters at once (:class:`cryonome.results.simulated_tests.LabTest`), None for the
    others; ``keep`` tells whether an answer is worth remembering by its content: not one that was ended early, nor
    one whose numbers are remembered already; ``narrowed`` is what is asked where only some paths of the answer are
    read, as a goal does many times over; ``gives`` how fluids are made of its answers, None for none; ``sentence`` is
    the question as a sentence with blanks (:mod:`cryonome.wording.template`) and ``says`` its answer as one, of what
    is asked, the answer and the reader's units; ``follows`` gives the cells that change with one that is typed,
    ``offers`` what else a blank may become, each with its words and cells; ``phrases`` are words that a typed
    question of this kind is known by, ``clues`` words by the key of a cell that tell a quantity typed beside them to
    be meant for it; ``many`` answers several that differ in numbers alone (``Asked.shape``) together, None where that
    is no quicker; ``together`` answers the same question of several documents, samples of one
    that is given with its project as they are;
    ``sooner`` is what of it is answered first where somebody looks on, None for all at once."""

    name: str
    title: str
    meaning: str
    model: type[S]
    answer: type
    read: Callable[[S, Document, Reader], Asked | None]
    solve: Callable[[Asked, Any], dict[str, Any]]
    line: Callable[[dict[str, Any], Any], str]
    begin: Callable[[str, tuple[float, float] | None], S]
    subject: str = "fluid"
    order: int = 100
    test: Any = None
    keep: Callable[[dict[str, Any]], bool] = lambda answer: True
    narrowed: Callable[[Asked, Sequence[str]], Asked] = lambda asked, paths: asked
    gives: Gives | None = None
    sentence: str = ""
    follows: Callable[[Any, PathParts, object, Document], dict[PathParts, object]] = (
        lambda study, path, value, document: {path: value}
    )
    offers: Callable[[Any, PathParts, Document], Sequence[tuple[str, dict[PathParts, object]]]] = (
        lambda study, path, document: ()
    )
    says: Callable[[Any, dict[str, Any], Any], str] | None = None
    phrases: tuple[str, ...] = ()
    clues: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    many: Callable[[Sequence[Asked], Any], list[Any]] | None = None
    together: Callable[[Sequence[tuple[Asked, Any]], tuple[Asked, Any], Any], list[Any]] | None = None
    sooner: Callable[[Asked], Asked] | None = None


@cache
def answer_keys(answer: type) -> frozenset[str]:
    """Return the keys that an answer of a shape may have."""
    return frozenset(get_type_hints(answer))


_KINDS: dict[str, StudyKind[Any, Any]] = {}


def register(kind: StudyKind[Any, Any]) -> None:
    """Enter a kind; its file does that where it is imported."""
    _KINDS[kind.name] = kind


@dataclass(frozen=True)
class Source:
    """Where kinds come from: the ``names`` there are, and ``load``, which enters the one of a name."""

    names: Callable[[], frozenset[str]]
    load: Callable[[str], object]


_SOURCES: list[Source] = []


def give(source: Source) -> None:
    """Give the document the kinds of questions there are; the package of questions does that where it is imported."""
    _SOURCES.append(source)


def _names() -> frozenset[str]:
    if not _SOURCES:
        raise RuntimeError("the document was given no kinds of questions; import cryonome.questions first")
    return frozenset(n for source in _SOURCES for n in source.names())


def _load(name: str) -> None:
    for source in _SOURCES:
        if name in source.names():
            source.load(name)


def _load_all() -> None:
    for name in sorted(_names()):
        if name not in _KINDS:
            _load(name)


class _Kinds(Mapping[str, "StudyKind[Any, Any]"]):
    """Every kind by its name, in their order. One that is asked for by name is imported alone: it lives in a file of
    that name; who goes through them all imports them all."""

    def __getitem__(self, name: str) -> StudyKind[Any, Any]:
        if name not in _KINDS and name in _names():
            _load(name)
        if name not in _KINDS:
            _load_all()
        return _KINDS[name]

    def __contains__(self, name: object) -> bool:
        return isinstance(name, str) and (name in _KINDS or name in _names() or name in tuple(self))

    def __iter__(self) -> Iterator[str]:
        _load_all()
        return iter(sorted(_KINDS, key=lambda name: _KINDS[name].order))

    def __len__(self) -> int:
        _load_all()
        return len(_KINDS)


_ALL = _Kinds()


def study_kinds() -> Mapping[str, StudyKind[Any, Any]]:
    """Return every kind by its name, in their order."""
    return _ALL


def study_class(data: object) -> type[Study]:
    """Return the class of a study given as an object. Raises PydanticCustomError with a sentence."""
    kinds = study_kinds()
    given = data.get("kind") if isinstance(data, dict) else None
    if not isinstance(data, dict):
        raise PydanticCustomError("not_an_object", "a study is an object with name and kind")
    if not isinstance(given, str):
        raise PydanticCustomError("no_kind", "a study names its kind: {kinds}", {"kinds": ", ".join(kinds)})
    if given not in kinds:
        if given in PLANNED:
            text = "studies of kind '{given}' are not answered by this version; there is {kinds}"
            raise PydanticCustomError("planned_kind", text, {"given": given, "kinds": ", ".join(kinds)})
        hint = did_you_mean(given, kinds)
        raise PydanticCustomError("unknown_kind", "unknown kind '{given}'{hint}", {"given": given, "hint": hint})
    return kinds[given].model
