"""Components found by name, alias, formula or CAS number, in any usual way of writing them, and the nearest to what
was mistyped."""

from __future__ import annotations

import difflib
from functools import cache, lru_cache

from .component import Component
from .databank import all_components
from .names import OTHERS, folded_name, index, known


class UnknownComponentError(LookupError):
    """A component that is not in the databank; the message names the nearest ones."""

    def __init__(self, name: str, near: list[str]) -> None:
        hint = f"; did you mean {_either(near)}?" if near else ""
        super().__init__(f"unknown component '{name}'{hint}")
        self.near = near


def _either(names: list[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} or {names[-1]}"


def find(name: str) -> Component:
    """Return the component of that name, alias, formula or CAS number; case, accents, spaces and hyphens do not matter.

    A formula shared by isomers means the straight-chain alkane. Raises :class:`UnknownComponentError`.
    """
    component = known(name)
    if component is None:
        raise UnknownComponentError(name, suggestions(name))
    return component


LONGEST_NAME = 80
"""Characters beyond which nothing was a name, so that no nearest one is looked for."""


@lru_cache(maxsize=2048)
def _nearest(name: str, count: int) -> tuple[str, ...]:
    """Return the nearest names of the databank; remembered, since comparing with all of it takes a millisecond."""
    if len(name) > LONGEST_NAME:
        return ()
    near = difflib.get_close_matches(folded_name(name), index(), n=3 * count, cutoff=0.55)
    return tuple(dict.fromkeys(index()[key].name for key in near))[:count]


def suggestions(name: str, count: int = 3) -> list[str]:
    """Return up to ``count`` names of the databank nearest to a mistyped one, nearest first."""
    return list(_nearest(name, count))


@cache
def _keys(component: Component) -> tuple[str, ...]:
    names = (component.name, component.formula, component.cas, *component.aliases)
    return (*map(folded_name, names), *OTHERS.get(component.name, "").split())


def search(text: str) -> list[Component]:
    """Return the components whose name, alias, formula or CAS number contains ``text``, best matches first; hyphens
    do not matter."""
    wanted = folded_name(text)
    if not wanted:
        return list(all_components())
    exact = known(text)

    def rank(component: Component) -> int:
        keys = _keys(component)
        if component is exact:
            return 0
        if wanted in keys:
            return 1
        if any(k.startswith(wanted) for k in keys):
            return 2
        return 3 if any(wanted in k for k in keys) else 4

    ranked = [(rank(c), i, c) for i, c in enumerate(all_components())]
    return [c for r, _, c in sorted(ranked, key=lambda t: t[:2]) if r < 4]
