"""What the parts of a document name of each other: one walker over the fields that declare it (:mod:`field_types`).

Renaming, removing, "is about this fluid", "asks another" and what an answer depends on all ask here.
"""

from __future__ import annotations

import types
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Any, Union, get_args, get_origin, get_type_hints

from pydantic import BaseModel

from .cell_paths import NoPathError, resolved
from .faults import PathParts
from .field_types import CELL, FLUIDS, SAMPLES, STUDIES, Names, OneOf, Suggested
from .model import Document, Fluid, Sample, Study

Named = Sample | Fluid | Study

GROUPS = (SAMPLES, FLUIDS, STUDIES)


@dataclass(frozen=True)
class Reference:
    """A text that names something: where it stands below the part it was found in, ``what`` it names (see
    :class:`field_types.Names`), the ``name``, and whether it is a ``key`` of an object, the last step of its path."""

    path: PathParts
    what: str
    name: str
    key: bool = False
    needed: bool = True
    depends: bool = True


@dataclass(frozen=True)
class Marked:
    """A text with a mark of its field: where it stands, the mark, and whether it is a key of an object."""

    path: PathParts
    mark: Names | OneOf | Suggested
    text: str
    key: bool = False


MARKS = (Names, OneOf, Suggested)


@cache
def _hints(model: type[BaseModel]) -> tuple[tuple[str, str, Any], ...]:
    """Return the fields of a model that have a mark somewhere inside: name, as the document writes it, and type."""
    hints = get_type_hints(model, include_extras=True)
    fields = [(n, f.alias or n, hints[n]) for n, f in model.model_fields.items()]
    return tuple(f for f in fields if _has_marks(f[2]))


@cache
def _has_marks(hint: Any) -> bool:
    if get_origin(hint) is Annotated:
        inner, *marks = get_args(hint)
        return any(isinstance(m, MARKS) for m in marks) or _has_marks(inner)
    if isinstance(hint, type) and issubclass(hint, BaseModel):
        # Of which class a question is, only the question itself tells.
        return issubclass(hint, Study) or hint is Document or bool(_hints(hint))
    return any(_has_marks(a) for a in get_args(hint) if a is not Ellipsis)


def _inside(value: Any, hint: Any, path: PathParts) -> Iterator[Marked]:
    if isinstance(value, BaseModel):
        for name, _, own in _hints(type(value)):
            yield from _inside(getattr(value, name), own, (*path, name))
        return
    origin = get_origin(hint)
    if origin is Annotated:
        inner, *marks = get_args(hint)
        if isinstance(value, str):
            yield from (Marked(path, m, value) for m in marks if isinstance(m, MARKS))
        else:
            yield from _inside(value, inner, path)
    elif origin in (Union, types.UnionType):
        if value is not None:
            fitting = [a for a in get_args(hint) if _has_marks(a) and _fits(value, a)]
            for option in fitting[:1]:
                yield from _inside(value, option, path)
    elif isinstance(value, tuple):
        given = get_args(hint)
        for i, item in enumerate(value):
            own = given[0] if len(given) == 2 and given[1] is Ellipsis else given[i] if i < len(given) else None
            if own is not None and _has_marks(own):
                yield from _inside(item, own, (*path, i))
    elif isinstance(value, Mapping):
        keys, values = get_args(hint)
        for key, item in value.items():
            if _has_marks(keys):
                for found in _inside(key, keys, (*path, key)):
                    yield Marked(found.path, found.mark, found.text, True)
            if _has_marks(values):
                yield from _inside(item, values, (*path, key))


def _fits(value: Any, hint: Any) -> bool:
    """Tell whether a value can be of a type out of several."""
    if get_origin(hint) is Annotated:
        return _fits(value, get_args(hint)[0])
    origin = get_origin(hint) or hint
    if origin in (Union, types.UnionType):
        return any(_fits(value, a) for a in get_args(hint))
    if origin is tuple and isinstance(value, tuple):
        given = get_args(hint)
        return given[-1] is Ellipsis or len(given) == len(value)
    if isinstance(origin, type):
        return isinstance(value, origin)
    return True


class _Kept:
    """What was found in immutable parts, by their identity."""

    def __init__(self, most: int = 4096) -> None:
        self._most = most
        self._found: dict[int, tuple[object, tuple[Marked, ...]]] = {}

    def get(self, part: BaseModel) -> tuple[Marked, ...]:
        known = self._found.get(id(part))
        if known is not None and known[0] is part:
            return known[1]
        found = tuple(_inside(part, type(part), ()))
        if len(self._found) >= self._most:
            self._found.clear()
        self._found[id(part)] = (part, found)
        return found


_KEPT = _Kept()


def marks(part: BaseModel) -> tuple[Marked, ...]:
    """Return every text of a part, however deep, whose field says what it is."""
    return _KEPT.get(part)


def references(part: BaseModel) -> tuple[Reference, ...]:
    """Return what a part names, however deep, in its order."""
    return tuple(
        Reference(m.path, m.mark.what, m.text, m.key, m.mark.needed, m.mark.depends)
        for m in marks(part)
        if isinstance(m.mark, Names)
    )


def names_of(part: BaseModel, what: str) -> tuple[str, ...]:
    """Return the names of one kind of thing that a part holds, each once."""
    return tuple(dict.fromkeys(r.name for r in references(part) if r.what == what))


def about(study: Study, what: str = FLUIDS) -> str:
    """Return the fluid a question is about, or the sample or other question: the first it names; "" for none."""
    return next((m.text for m in marks(study) if isinstance(m.mark, Names) and m.mark.what == what), "")


def about_place(study: Study, what: str = FLUIDS) -> PathParts:
    """Return where a question names what it is about, nothing where it names none."""
    return next((m.path for m in marks(study) if isinstance(m.mark, Names) and m.mark.what == what), ())


def asks_another(study: Study) -> bool:
    """Tell whether a question is asked of another question, with inputs of the document varied."""
    return study.varies or bool(names_of(study, CELL))


def is_about(study: Study, fluid: str) -> bool:
    """Tell whether a question is about a fluid first of all."""
    return bool(fluid) and about(study) == fluid


def is_about_through(study: Study, document: Document, fluid: str) -> bool:
    """Tell whether a question, or the one that it asks, is about a fluid."""
    other = document.study(about(study, STUDIES))
    return is_about(study, fluid) or (other is not None and is_about(other, fluid))


@dataclass(frozen=True)
class Reached:
    """Everything a part depends on: samples, fluids and questions of the document, each in its order there, and the
    names that lead nowhere."""

    samples: tuple[Sample, ...]
    fluids: tuple[Fluid, ...]
    studies: tuple[Study, ...]
    missing: tuple[tuple[str, str], ...] = ()

    @property
    def parts(self) -> tuple[Named, ...]:
        """All of them."""
        return (*self.samples, *self.fluids, *self.studies)


def things(document: Document, group: str) -> tuple[Any, ...]:
    """Return the samples, fluids or questions of a document; among the fluids those that samples are by default."""
    return document.every_fluid if group == FLUIDS else getattr(document, group)


def reached(part: BaseModel, document: Document) -> Reached:
    """Return what a part of a document depends on, however deep: what it names, what that names, and so on."""
    known = {group: {t.name: t for t in reversed(things(document, group))} for group in GROUPS}
    found: dict[tuple[str, str], Any] = {}
    missing: dict[tuple[str, str], None] = {}
    waiting: list[BaseModel] = [part]
    while waiting:
        one = waiting.pop()
        for what, name in _needs(one, document):
            if (what, name) in found:
                continue
            thing = known[what].get(name)
            if thing is None:
                missing[what, name] = None
            elif thing is not part:
                found[what, name] = thing
                waiting.append(thing)
    return Reached(
        tuple(t for t in document.samples if found.get((SAMPLES, t.name)) is t),
        tuple(t for t in document.every_fluid if found.get((FLUIDS, t.name)) is t),
        tuple(t for t in document.studies if found.get((STUDIES, t.name)) is t),
        tuple(missing),
    )


def _needs(part: BaseModel, document: Document) -> Iterator[tuple[str, str]]:
    for reference in references(part):
        if not reference.depends:
            continue
        if reference.what in GROUPS:
            yield reference.what, reference.name
        elif reference.what == CELL:
            target = _holder(reference.name, document)
            if target is not None:
                yield target
    if isinstance(part, Study):
        yield from ((STUDIES, name) for name in part.implied(document))


def _holder(path: str, document: Document) -> tuple[str, str] | None:
    """Return the sample, fluid or question that a cell belongs to."""
    try:
        parts = resolved(path, document)
    except NoPathError:
        return None
    if len(parts) < 2 or parts[0] not in GROUPS or not isinstance(parts[1], int):
        return None
    return str(parts[0]), str(getattr(document, str(parts[0]))[parts[1]].name)


def users(document: Document, group: str, name: str) -> list[Named]:
    """Return the samples, fluids and questions that name a thing of a group themselves."""

    def names_it(part: Named) -> bool:
        own = (r for r in references(part) if r.what in (group, CELL) and r.needed)
        return any(r.name == name if r.what == group else _holder(r.name, document) == (group, name) for r in own)

    parts: tuple[Named, ...] = (*document.fluids, *document.studies)
    return [part for part in parts if names_it(part)]
