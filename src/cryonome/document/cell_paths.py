"""Paths of cells as people write them: ``fluids[Selden gas].parts[n-butane].amount``, names or numbers in the
brackets."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import BaseModel

from .faults import PathParts, did_you_mean, format_path

_PART = re.compile(r"([^.\[\]]+)|\[([^\]]+)\]")


class NoPathError(ValueError):
    """A path that leads nowhere; its text says why and what there is."""


def path_parts(text: str) -> PathParts:
    """Return a path as it is written in faults, ``fluids[0].parts[2].amount``, as parts; a name may stand for an
    index. Raises ValueError."""
    parts: list[str | int] = []
    at = 0
    while at < len(text):
        found = _PART.match(text, at)
        if found is None:
            raise ValueError(text)
        index = found.group(2)
        parts.append(found.group(1) if index is None else int(index) if index.isdecimal() else index)
        at = found.end()
        if at < len(text) and text[at] == ".":
            at += 1
    return tuple(parts)


def resolved(text: str, document: BaseModel) -> PathParts:
    """Return a path with an index for every name in it. Raises NoPathError, which names the nearest."""
    try:
        parts = path_parts(text)
    except ValueError:
        raise NoPathError(f"'{text}' is no path; write one like fluids[0].parts[2].amount") from None
    thing: Any = document
    out: list[str | int] = []
    for part in parts:
        here = format_path(tuple(out))
        if isinstance(thing, BaseModel):
            aliases = {f.alias or n: n for n, f in type(thing).model_fields.items()}
            name = aliases.get(str(part))
            if name is None:
                raise NoPathError(f"there is no '{part}' in {here}{did_you_mean(str(part), aliases)}")
            thing = getattr(thing, name)
            out.append(name)
        elif isinstance(thing, Mapping) and part in thing:
            thing = thing[part]
            out.append(part)
        elif isinstance(thing, (tuple, list)) and isinstance(part, str) and part in item_names(thing):
            out.append(item_names(thing).index(part))
            thing = thing[item_names(thing).index(part)]
        elif isinstance(thing, (tuple, list)) and isinstance(part, int):
            if part >= len(thing):
                raise NoPathError(f"{here} has {len(thing)} items, counted from 0; there is no [{part}]")
            thing = thing[part]
            out.append(part)
        else:
            names = [n for n in item_names(thing) if n] if isinstance(thing, (tuple, list)) else []
            near = did_you_mean(str(part), names) if names else ""
            raise NoPathError(f"'{text}' does not exist: there is no '{part}' in {here}{near}")
    return tuple(out)


def item_names(items: Sequence[Any]) -> list[str]:
    """Return what items may be called in a path: their name, of a fluid's part what it is of; "" of those without
    one."""
    return [_item_name(item) for item in items]


def _item_name(item: Any) -> str:
    for key in ("name", "component", "sample", "fluid", "pseudo", "series"):
        value = getattr(item, key, None)
        if value:
            return value if isinstance(value, str) else str(value.name)
    return ""


def writable(name: str, names: Sequence[str]) -> bool:
    """Tell whether a name may stand in a path for one of the items called ``names``."""
    return bool(name) and names.count(name) == 1 and not any(c in name for c in "[].") and not name.isdecimal()


def named_path(parts: PathParts, document: BaseModel) -> str:
    """Return a path as text, with the names of items in place of their numbers where they tell them apart."""
    text = ""
    thing: Any = document
    for part in parts:
        if isinstance(part, int):
            names = item_names(thing)
            text += f"[{names[part] if writable(names[part], names) else part}]"
            thing = thing[part]
            continue
        field = type(thing).model_fields.get(str(part)) if isinstance(thing, BaseModel) else None
        written = (field.alias or part) if field is not None else part
        text += f".{written}" if text else str(written)
        thing = getattr(thing, str(part), None) if isinstance(thing, BaseModel) else thing.get(part)
    return text


def as_written(part: Any, path: PathParts) -> PathParts:
    """Return a path below a part with the keys as the document writes them, in place of the names of fields."""
    out: list[str | int] = []
    for step in path:
        if isinstance(part, BaseModel):
            field = type(part).model_fields[str(step)]
            out.append(field.alias or str(step))
            part = getattr(part, str(step))
            continue
        out.append(step)
        if isinstance(part, Mapping):
            part = part.get(step)
        else:
            part = (
                part[step] if isinstance(part, (tuple, list)) and isinstance(step, int) and step < len(part) else None
            )
    return tuple(out)
