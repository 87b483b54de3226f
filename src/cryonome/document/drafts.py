"""What was typed and cannot stand at its place: kept by the path of its cell, so that the document stays one that
opens and no text is lost.

A text that is no quantity stays in its cell, since cells hold texts. What the shape of the document would refuse (a
word for a list, three ends of a range) comes here; the place keeps what it had, the same cell shows the draft, and
what uses the place is not answered."""

from __future__ import annotations

import json
import warnings
from collections.abc import Iterator
from typing import Any

from pydantic import BaseModel, ValidationError

from .cell_paths import NoPathError, as_written, path_parts, resolved
from .faults import Fault, PathParts, format_path
from .model import Document, Study

GROUPS = ("samples", "fluids", "studies", "ghosts")


def checked(old: Document, new: Document) -> Document:
    """Return the document an edit leads to as one that opens: what cannot stand at its place becomes a draft, the
    place keeps what it had."""
    drafts = {p: t for p, t in new.drafts.items() if p not in old.drafts or _same(p, old, new)}
    update: dict[str, Any] = {}
    for group in GROUPS:
        before, after = getattr(old, group), getattr(new, group)
        if before is after:
            continue
        kept = {id(p) for p in before}
        parts = []
        for i, part in enumerate(after):
            if id(part) not in kept:
                part = _fitting(before[i] if i < len(before) else None, part, (group, i), drafts)
            parts.append(part)
        if any(a is not b for a, b in zip(parts, after)):
            update[group] = tuple(parts)
    if drafts != new.drafts:
        update["drafts"] = drafts
    return new.model_copy(update=update) if update else new


def _same(path: str, old: Document, new: Document) -> bool:
    """Tell whether what stands at a path is as it was."""
    return bool(at(path, old) == at(path, new))


def at(path: str, document: Document) -> Any:
    """Return what stands at a written path, None where it leads nowhere."""
    thing: Any = document
    try:
        for step in resolved(path, document):
            thing = getattr(thing, str(step)) if isinstance(thing, BaseModel) else thing[step]
    except (NoPathError, KeyError, IndexError, TypeError, AttributeError):
        return None
    return thing


def _fitting(old: Any, new: Any, path: PathParts, drafts: dict[str, str]) -> Any:
    """Return a part as one that can be read again; what cannot goes to ``drafts``."""
    for _ in range(50):
        found = refusals(new)
        if not found:
            return new
        for place in found:
            drafts[format_path((*path, *as_written(new, place)))] = text_of(_get(new, place))
            new = _put_back(new, place, old)
    return old if old is not None else new


def refusals(part: BaseModel) -> dict[PathParts, str]:
    """Return where a part cannot stand as it is, by the names of its fields, and the kind of each error."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        data = part.model_dump(by_alias=False)
    try:
        type(part).model_validate(data, by_name=True, by_alias=False)
    except ValidationError as error:
        found: dict[PathParts, str] = {}
        for item in error.errors():
            place = _place(tuple(item["loc"]), data)
            if place:
                found.setdefault(place, str(item["type"]))
        # Drafts inside something that is removed as a whole are removed with it.
        return {p: k for p, k in found.items() if not any(p[: len(q)] == q and p != q for q in found)}
    return {}


def _place(location: PathParts, data: Any) -> PathParts:
    """Return the path of an error in the data: a choice of types names its branch, which is no place."""
    path: list[str | int] = []
    here: Any = data
    for step in location:
        inside = (isinstance(here, dict) and step in here) or (
            isinstance(here, (list, tuple)) and isinstance(step, int) and step < len(here)
        )
        if inside:
            path.append(step)
            here = here[step]
    return tuple(path)


def _get(thing: Any, path: PathParts) -> Any:
    for step in path:
        thing = getattr(thing, str(step)) if isinstance(thing, BaseModel) else thing[step]
    return thing


def _put_back(new: Any, path: PathParts, old: Any) -> Any:
    """Return ``new`` with what ``old`` has at a path, else what stands there by default."""
    first, rest = path[0], path[1:]
    if isinstance(new, BaseModel):
        had = getattr(old, str(first), None) if type(old) is type(new) else None
        if rest:
            value = _put_back(getattr(new, str(first)), rest, had)
        elif type(old) is type(new):
            value = had
        else:
            field = type(new).model_fields[str(first)]
            value = (
                field.get_default(call_default_factory=True) if not field.is_required() else _empty(field.annotation)
            )
        return new.model_copy(update={str(first): value})
    if isinstance(new, dict):
        had = old.get(first) if isinstance(old, dict) else None
        if not rest and (not isinstance(old, dict) or first not in old):
            return {k: v for k, v in new.items() if k != first}
        return {**new, first: _put_back(new[first], rest, had) if rest else had}
    there = isinstance(old, tuple) and int(first) < len(old)
    items = list(new)
    if rest:
        items[int(first)] = _put_back(items[int(first)], rest, old[int(first)] if there else None)
    elif there:
        items[int(first)] = old[int(first)]
    else:
        del items[int(first)]
    return tuple(items)


def _empty(annotation: Any) -> Any:
    return () if "tuple" in str(annotation) else ""


def text_of(value: Any) -> str:
    """Return what was typed as text: the only item of a list that a line was taken for, else as JSON."""
    if isinstance(value, str):
        return value
    if isinstance(value, tuple) and len(value) == 1:
        return text_of(value[0])
    if isinstance(value, tuple) and all(isinstance(v, (str, int, float)) for v in value):
        return ", ".join(f"{v:g}" if isinstance(v, float) else str(v) for v in value)
    return json.dumps(value, ensure_ascii=False, default=str) if value is not None else ""


def typed(document: Document, path: PathParts, value: object, text: str) -> Document:
    """Return the document with a value set at a path where it can stand there; else with the ``text`` that was typed
    as a draft of that place."""
    from .edits import get_at, set_at

    key = format_path((*path[:2], *as_written(get_at(document, path[:2]), path[2:])))
    plain = document.model_copy(update={"drafts": {p: t for p, t in document.drafts.items() if p != key}})
    try:
        new = set_at(plain, path, value)
    except (KeyError, AttributeError, TypeError):
        return plain.model_copy(update={"drafts": {**plain.drafts, key: text}})
    part = get_at(new, path[:2])
    if isinstance(part, BaseModel) and refusals(part):
        return plain.model_copy(update={"drafts": {**plain.drafts, key: text}})
    return new


def draft_of(document: Document, path: PathParts) -> str | None:
    """Return the draft of a cell, None where there is none."""
    return document.drafts.get(format_path(path))


def draft_faults(document: Document) -> list[Fault]:
    """Return a fault for every draft, at its cell."""
    return [*_draft_faults(document)]


def _draft_faults(document: Document) -> Iterator[Fault]:
    for path, text in document.drafts.items():
        try:
            place = resolved(path, document)
            written = as_written(document, place)
        except NoPathError:
            # A row that was typed but never became part of the document.
            place = written = _steps(path)
        yield Fault(written, f"'{text}' cannot stand here, so the question is not asked; {_wanted(document, place)}")


def _steps(path: str) -> PathParts:
    try:
        return path_parts(path)
    except ValueError:
        return (path,)


def _wanted(document: Document, place: PathParts) -> str:
    """Return what would be right at a place."""
    if len(place) < 3 or not isinstance(document, Document):
        return "type it anew or empty the cell"
    here = at(format_path(place), document)
    if isinstance(here, bool):
        return "it is yes or no"
    if isinstance(here, tuple):
        return "it is a list" if not here or not isinstance(here[0], BaseModel) else "its rows have cells of their own"
    if isinstance(here, (dict, Study)):
        return "it is a name with a value, as methanol 20 wt%"
    return "type it anew or empty the cell"


def drafts_below(document: Document, path: PathParts) -> list[Fault]:
    """Return the faults of the drafts of a part."""
    return [f for f in draft_faults(document) if f.path[: len(path)] == path] if document.drafts else []
