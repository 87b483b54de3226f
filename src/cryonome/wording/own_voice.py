"""The program's own sentences typed back: where a line is said as a kind of question says itself, its words are known
and every blank has its place."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

from ..document.kinds import study_kinds
from .spoken import sentence_of
from .template import Clause, Each, Phrase, Rows, Slot, Words, parts_of

LONGEST_LINE = 600
"""Characters of a line that is held against whole sentences."""

ENOUGH = 9
"""Letters of its own words from which on a sentence tells its kind by itself."""

SHAPES = {"read": ".+", "target": r"[-−+]?\d.*?"}
"""What stands in blanks whose words may hold those of the sentence: results are told with "of", a target is a number."""

SUBJECTS = ("fluid", "sample", "of")


@dataclass(frozen=True)
class Heard:
    """A line that is a kind's sentence: the spans of its ``words``, its ``blanks`` with the cells they may be (none of
    rows and of what is said for each part), and how many letters of its own it has."""

    kind: str
    words: tuple[tuple[int, int], ...]
    blanks: tuple[tuple[tuple[str, ...], int, int], ...]
    letters: int

    def blank(self, path: str, text: str) -> str:
        """Return what stands in the blank of a cell, "" for nothing."""
        return next((text[a:b].strip() for paths, a, b in self.blanks if paths[:1] == (path,)), "")


@dataclass(frozen=True)
class _Heard:
    pattern: re.Pattern[str]
    must: tuple[str, ...]
    slots: tuple[tuple[str, ...], ...]


def _plain(text: str) -> str:
    return re.sub(r"\s+", " ", text.casefold())


@cache
def _form(kind: str) -> _Heard:
    """Return what a kind's sentence looks like."""
    slots: list[tuple[str, ...]] = []
    must: list[str] = []

    def written(parts: tuple[Phrase, ...], needed: bool) -> str:
        out = ""
        for part in parts:
            if isinstance(part, Words):
                text = part.text.removeprefix("?") if not needed else part.text
                if needed:
                    must.append(_plain(text.strip(" ?.")))
                words = re.escape(re.sub(r"\s+", " ", text)).replace(r"\ ", r"\s+")
                out += f"(?P<w{len(slots)}_{len(out)}>{words})" if words else ""
            elif isinstance(part, Clause):
                out += f"(?:{written(part.parts, False)})?"
            else:
                slots.append(part.paths if isinstance(part, Slot) else ())
                assert isinstance(part, (Slot, Rows, Each))
                own = SHAPES.get(slots[-1][0] if slots[-1] else "", ".+?")
                out += f"(?P<b{len(slots) - 1}>{own})"
        return out

    body = written(parts_of(sentence_of(study_kinds()[kind]).rstrip("?. ")), True)
    # Names of groups occur once.
    counter = iter(range(10**6))
    body = re.sub(r"\(\?P<w[^>]*>", lambda _: f"(?P<w{next(counter)}>", body)
    return _Heard(re.compile(rf"\s*{body}\s*[?.!]?\s*", re.IGNORECASE), tuple(m for m in must if m), tuple(slots))


def heard(text: str, kind: str) -> Heard | None:
    """Return a line as the sentence of a kind, None where it is none."""
    if len(text) > LONGEST_LINE:
        return None
    form = _form(kind)
    at, plain = 0, _plain(text)
    for words in form.must:
        found = plain.find(words, at)
        if found < 0:
            return None
        at = found + len(words)
    match = form.pattern.fullmatch(text)
    if match is None:
        return None
    words_at = sorted(match.span(g) for g in match.groupdict() if g[0] == "w" and match.span(g)[0] >= 0)
    blanks = [
        (form.slots[int(g[1:])], *match.span(g)) for g in match.groupdict() if g[0] == "b" and match.span(g)[0] >= 0
    ]
    letters = sum(c.isalpha() for a, b in words_at for c in text[a:b])
    return Heard(kind, tuple(words_at), tuple(blanks), letters)


def told_by(text: str, is_name: Callable[[int, int], bool]) -> Heard | None:
    """Return the sentence that a line is: the one with most words of its own whose subject is a name of the project, as
    ``is_name`` tells of a span; None where it is none."""
    best: Heard | None = None
    for kind in study_kinds():
        found = heard(text, kind)
        if found is None or found.letters < ENOUGH or (best is not None and best.letters >= found.letters):
            continue
        subjects = [(a, b) for paths, a, b in found.blanks if paths and paths[0] in SUBJECTS]
        if all(is_name(a, b) for a, b in subjects):
            best = found
    return best
