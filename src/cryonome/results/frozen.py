"""Answers as frozen data: what is remembered of a question cannot be changed by who reads it.

They stay lists and objects, so that JSON, comparisons and paths into answers work as with any others.
"""

from __future__ import annotations

from typing import Any, NoReturn


def _refuse(*_args: object, **_named: object) -> NoReturn:
    raise TypeError("an answer is remembered and cannot be changed; copy it first")


class FrozenDict(dict[str, Any]):
    """An object that cannot be changed."""

    __setitem__ = __delitem__ = clear = pop = popitem = setdefault = update = __ior__ = _refuse


class FrozenList(list[Any]):
    """A list that cannot be changed."""

    __setitem__ = __delitem__ = append = clear = extend = insert = pop = remove = reverse = sort = _refuse
    __iadd__ = __imul__ = _refuse


def frozen(value: Any) -> Any:
    """Return data that cannot be changed, however deep."""
    if isinstance(value, (FrozenDict, FrozenList)):
        return value
    if isinstance(value, dict):
        return FrozenDict({k: frozen(v) for k, v in value.items()})
    if isinstance(value, list):
        return FrozenList([v if isinstance(v, (float, int, str)) or v is None else frozen(v) for v in value])
    return value
