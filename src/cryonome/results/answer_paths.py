"""Paths into an answer: ``phases[0].density_kg_m3``, ``bulk.api``, ``phases.liquid.viscosity_Pa_s``,
``incipient.n-butane``.

Names of components may hold dots, so at every step the longest key that fits is taken.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from ..document.faults import did_you_mean
from ..errors import DomainError
from ..units.endings import without_unit

NAMED_BY = ("kind", "limit")
"""Keys by which an item of a list may be named in place of its number."""

_INDEX = re.compile(r"\[(\d+)\]\.?")


def value_at(answer: Mapping[str, Any], path: str) -> Any:
    """Return what stands at a path of an answer. Raises DomainError, which names the nearest."""
    thing: Any = answer
    rest = path
    while rest:
        thing, rest = _step(thing, rest, path)
    return thing


def number_at(answer: Mapping[str, Any], path: str) -> float:
    """Return the number at a path. Raises DomainError where there is none."""
    value = value_at(answer, path)
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        raise DomainError(f"'{path}' of the answer is no number; name one value, for example {_example(value, path)}")
    return float(value)


def _example(value: Any, path: str) -> str:
    if isinstance(value, Mapping) and value:
        return f"{path}.{next(iter(value))}"
    return f"{path}[0]" if isinstance(value, Sequence) and not isinstance(value, str) else "density_kg_m3"


def _step(thing: Any, rest: str, path: str) -> tuple[Any, str]:
    """Return what the first step of ``rest`` leads to, and the rest after it."""
    index = _INDEX.match(rest)
    if isinstance(thing, (list, tuple)):
        if index is not None:
            number = int(index.group(1))
            if number >= len(thing):
                raise DomainError(f"'{path}' of the answer: there are {len(thing)} items, counted from 0")
            return thing[number], rest[index.end() :]
        key = next((k for k in NAMED_BY if any(isinstance(item, Mapping) and k in item for item in thing)), "kind")
        kinds = [str(item[key]) for item in thing if isinstance(item, Mapping) and key in item]
        name, tail = _longest(kinds, rest)
        if name is None:
            told = f"there is {', '.join(dict.fromkeys(kinds))}" if kinds else "write an index, for example [0]"
            raise DomainError(f"'{path}' of the answer leads to nothing at '{rest}'; {told}")
        return next(item for item in thing if item.get(key) == name), tail
    if isinstance(thing, Mapping):
        name, tail = _longest([str(k) for k in thing], rest)
        if name is None:
            raise DomainError(
                f"the answer has no '{rest}'{did_you_mean(rest, [str(k) for k in thing if k not in ('ok', 'notes')])}"
            )
        return thing[name], tail
    raise DomainError(f"'{path}' of the answer leads on past a value at '{rest}'")


def _longest(names: Sequence[str], rest: str) -> tuple[str | None, str]:
    """Return the longest of the names that ``rest`` begins with, and what follows it."""
    for name in sorted(set(names), key=len, reverse=True):
        if rest == name or rest.startswith((f"{name}.", f"{name}[")):
            return name, rest[len(name) :].removeprefix(".")
    return None, rest


def key_words(path: str) -> str:
    """Return a path of an answer in words, without the unit of its key."""
    return without_unit(path).removeprefix("phases.").replace("[0]", "").replace(".", " ").replace("_", " ")
