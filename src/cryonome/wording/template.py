"""Sentences as a kind of question declares them, and their parts.

``Where do hydrates of {fluid} form {pressures|temperatures}[, with <inhibitors| and |{.value} {.key}>], in {water}?``

- ``{path}`` is a blank: a cell of the question by its path as its model names it, ``heating.burnt``, ``between.0``.
- ``{a|b}`` is one of several cells, that which is filled; the second blank with the same choice is the second one that is filled.
- ``{path#words}`` stands for rows that are typed below the sentence.
- ``[...]`` is a clause that may be left out: it is quiet until one of its blanks is filled.
- ``<path|joint|...>`` is said once for each part of a list, or each entry of cells by name; ``{.x}`` is the cell x of the part, ``{.}`` the part itself.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache


@dataclass(frozen=True)
class Words:
    """Plain words."""

    text: str


@dataclass(frozen=True)
class Slot:
    """A blank: the cells that it may be."""

    paths: tuple[str, ...]


@dataclass(frozen=True)
class Rows:
    """A list that is typed below, and what its rows are called."""

    path: str
    words: str


@dataclass(frozen=True)
class Clause:
    """What may be left out."""

    parts: tuple[Phrase, ...]


@dataclass(frozen=True)
class Each:
    """What is said for each part of a list."""

    path: str
    joint: str
    parts: tuple[Phrase, ...]


Phrase = Words | Slot | Rows | Clause | Each

_TOKEN = re.compile(r"\{[^{}]*\}|<[\w.]+\|[^|]*\||[\[\]>]|[^{}\[\]<>]+")


@lru_cache(256)
def parts_of(template: str) -> tuple[Phrase, ...]:
    """Return the parts of a sentence. Raises ValueError where its brackets do not match."""
    tokens = _TOKEN.findall(template)
    if "".join(tokens) != template:
        raise ValueError(f"not a sentence: {template}")
    found, rest = _read(tokens, "")
    if rest:
        raise ValueError(f"brackets do not match: {template}")
    return found


def _read(tokens: list[str], end: str) -> tuple[tuple[Phrase, ...], list[str]]:
    out: list[Phrase] = []
    while tokens:
        token, tokens = tokens[0], tokens[1:]
        if token == end:
            return tuple(out), tokens
        if token == "[":
            inner, tokens = _read(tokens, "]")
            out.append(Clause(inner))
        elif token.startswith("<"):
            path, joint = token[1:-1].split("|")
            inner, tokens = _read(tokens, ">")
            out.append(Each(path, joint, inner))
        elif token.startswith("{") and "#" in token:
            path, words = token[1:-1].split("#")
            out.append(Rows(path, words))
        elif token.startswith("{"):
            out.append(Slot(tuple(token[1:-1].split("|"))))
        elif token in "]>":
            raise ValueError(f"'{token}' closes nothing")
        else:
            out.append(Words(token))
    if end:
        raise ValueError(f"'{end}' is missing")
    return tuple(out), []


def cells_in(parts: tuple[Phrase, ...], inside: str = "") -> set[str]:
    """Return the paths of all cells that a sentence has blanks for."""
    out: set[str] = set()
    for part in parts:
        if isinstance(part, Slot):
            out |= {inside + p.removeprefix(".") if p.startswith(".") else p for p in part.paths}
        elif isinstance(part, Rows):
            out.add(part.path)
        elif isinstance(part, Clause):
            out |= cells_in(part.parts, inside)
        elif isinstance(part, Each):
            out |= {part.path} | cells_in(part.parts, f"{part.path}.")
    return out
