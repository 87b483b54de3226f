"""Changes to a document: pure functions from a document to the next one."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, TypeVar

from pydantic import BaseModel

from .faults import PathParts
from .following import followed
from .inner_fluids import inner_names, used_samples
from .migrate import with_ids
from .model import Cuts, Document, Fluid, Ghost, Sample, Study

T = TypeVar("T")


def set_at(thing: T, path: PathParts, value: object) -> T:
    """Return a document, or any part of one, with the value at ``path`` replaced; everything else is shared.

    A list takes an index one past its end as one more; an object inside that is not there yet is an error.
    """
    if not path:
        return value  # type: ignore[return-value]
    first, rest = path[0], path[1:]
    if isinstance(thing, BaseModel):
        return thing.model_copy(update={str(first): set_at(getattr(thing, str(first)), rest, value)})
    if isinstance(thing, dict):
        return {**thing, first: set_at(thing.get(first), rest, value)}  # type: ignore[return-value]
    if isinstance(thing, tuple) and isinstance(first, int):
        if first == len(thing):
            return (*thing, set_at(None, rest, value))  # type: ignore[return-value]
        return (*thing[:first], set_at(thing[first], rest, value), *thing[first + 1 :])  # type: ignore[return-value]
    raise KeyError(f"nothing can be set at {path}")


def get_at(thing: Any, path: PathParts) -> Any:
    """Return what stands at ``path`` of a document or a part of one."""
    for step in path:
        thing = getattr(thing, str(step)) if isinstance(thing, BaseModel) else thing[step]
    return thing


def sample_path(document: Document, name: str) -> PathParts:
    """Return the path of a sample by its name. Raises KeyError."""
    return _path_of("samples", document.samples, name)


def fluid_path(document: Document, name: str) -> PathParts:
    """Return the path of a fluid by its name, the place it will have where a sample is that fluid by default. Raises
    KeyError."""
    if document.sample(name) is not None and not any(f.name == name for f in document.fluids):
        return ("fluids", len(document.fluids))
    return _path_of("fluids", document.fluids, name)


def study_path(document: Document, name: str) -> PathParts:
    """Return the path of a study by its name. Raises KeyError."""
    return _path_of("studies", document.studies, name)


def _path_of(group: str, things: Iterable[Sample | Fluid | Study], name: str) -> PathParts:
    for i, thing in enumerate(things):
        if thing.name == name:
            return (group, i)
    raise KeyError(name)


def set_each(thing: T, values: dict[PathParts, object]) -> T:
    """Return a document, or a part of one, with the values at several paths replaced, each part on the way copied
    once. Paths lead to places that are there."""
    if () in values:
        return values[()]  # type: ignore[return-value]
    below: dict[str | int, dict[PathParts, object]] = {}
    for path, value in values.items():
        below.setdefault(path[0], {})[path[1:]] = value
    if not below:
        return thing
    if isinstance(thing, BaseModel):
        return thing.model_copy(update={str(k): set_each(getattr(thing, str(k)), v) for k, v in below.items()})
    if isinstance(thing, dict):
        return {**thing, **{k: set_each(thing.get(k), v) for k, v in below.items()}}  # type: ignore[return-value]
    if isinstance(thing, tuple) and all(isinstance(k, int) and 0 <= k < len(thing) for k in below):
        changed = {int(k): set_each(thing[int(k)], v) for k, v in below.items()}
        return tuple(changed.get(i, part) for i, part in enumerate(thing))  # type: ignore[return-value]
    # The index behind the last item adds one to the list.
    for path, value in values.items():
        thing = set_at(thing, path, value)
    return thing


def update_sample(document: Document, name: str, change: Callable[[Sample], Sample]) -> Document:
    """Return the document with the sample of that name changed; unchanged where there is none."""
    found = document.sample(name)
    return document if found is None else set_at(document, sample_path(document, name), change(found))


def update_fluid(document: Document, name: str, change: Callable[[Fluid], Fluid]) -> Document:
    """Return the document with the fluid of that name changed; unchanged where there is none. One that a sample is by
    default is written into the document when it changes."""
    found = document.fluid(name)
    if found is None:
        return document
    changed = change(found)
    if found not in document.fluids and changed == found:
        return document
    return set_at(document, fluid_path(document, name), changed)


# -- adding, removing, renaming ----------------------------------------------------------------------------------------


def free_name(document: Document, wanted: str) -> str:
    """Return ``wanted``, or with the first number that makes it unused among samples, fluids and studies."""
    taken = {t.name for group in (document.samples, document.fluids, document.studies) for t in group}
    return _numbered(wanted, taken)


def _numbered(wanted: str, taken: set[str]) -> str:
    name, number = wanted, 2
    while name in taken:
        name, number = f"{wanted} {number}", number + 1
    return name


def add_sample(document: Document, sample: Sample) -> Document:
    """Return the document with a sample added at the end; a copy gets an identity of its own."""
    known = {s.id for s in document.samples}
    sample = set_at(sample, ("id",), "") if sample.id in known else sample
    return with_ids(set_at(document, ("samples", len(document.samples)), sample))


def add_fluid(document: Document, fluid: Fluid) -> Document:
    """Return the document with a fluid added at the end; a copy gets an identity of its own."""
    known = {f.id for f in document.fluids}
    fluid = set_at(fluid, ("id",), "") if fluid.id in known else fluid
    return with_ids(set_at(document, ("fluids", len(document.fluids)), fluid))


def add_study(document: Document, study: Study) -> Document:
    """Return the document with a question added, its name made unique."""
    name = free_name(document, study.name)
    return set_at(document, ("studies", len(document.studies)), set_at(study, ("name",), name))


def add_ghost(document: Document, name: str, fluid: Fluid) -> Document:
    """Return the document with the envelope of a fluid kept as it is now, with everything it is made of."""
    inside = inner_names(fluid, document)
    used = set(used_samples(fluid, document))
    ghost = Ghost(
        name=_numbered(name, {g.name for g in document.ghosts}),
        fluid=fluid,
        inside=tuple(f for f in document.fluids if f.name in inside),
        samples=tuple(s for s in document.samples if s.name in used),
    )
    return set_at(document, ("ghosts", len(document.ghosts)), ghost)


def without(document: Document, group: str, name: str) -> Document:
    """Return the document without the thing called so of a group: samples, fluids, studies or ghosts."""
    return set_at(document, (group,), tuple(t for t in getattr(document, group) if t.name != name))


def removed(document: Document, group: str, name: str) -> Document:
    """Return the document without the thing called so. What names it stays and says that it is gone, so that nothing
    else is lost with it."""
    return followed(document, without(document, group, name))


def renamed(document: Document, group: str, old: str, new: str) -> Document:
    """Return the document with a thing of a group renamed, and wherever it is named. Raises KeyError."""
    path = _path_of(group, getattr(document, group), old)
    return followed(document, set_at(document, (*path, "name"), new))


# -- cuts and points
# -----------------------------------------------------------------------------------------------------


def with_boundaries(cuts: Cuts, boundaries: Iterable[tuple[str, str]]) -> Cuts:
    """Return cuts at the user's own boundaries, given as (identity, temperature as text) in rising order."""
    pairs = list(boundaries)
    values: dict[PathParts, object] = {
        ("boundaries",): tuple(cell for _, cell in pairs),
        ("ids",): tuple(key for key, _ in pairs),
        ("regions",): None,
        ("number",): None,
    }
    return set_each(cuts, values)


def clean_points(rows: list[tuple[object, object]]) -> tuple[tuple[object, object], ...]:
    """Return grid rows without the empty ones at the end."""
    rows = list(rows)
    while rows and rows[-1][0] in (None, "") and rows[-1][1] in (None, ""):
        rows.pop()
    return tuple(rows)


def with_keyed_pairs(document: Document, keys: dict[str, dict[str, str]]) -> Document:
    """Return the document with the interaction parameters of fluids hung on identities; ``keys`` gives by fluid what
    each component's name stands for. Names not found stay."""
    for i, fluid in enumerate(document.fluids):
        known = keys.get(fluid.name, {})
        pairs = tuple((known.get(a, a), known.get(b, b), *rest) for a, b, *rest in fluid.model.kij_pairs)
        if pairs != fluid.model.kij_pairs:
            document = set_at(document, ("fluids", i, "model", "kij_pairs"), pairs)
        dissolved = tuple((known.get(a, a), *rest) for a, *rest in fluid.model.aqueous_pairs)
        if dissolved != fluid.model.aqueous_pairs:
            document = set_at(document, ("fluids", i, "model", "aqueous_pairs"), dissolved)
    return document
