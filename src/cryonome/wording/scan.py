"""Typed words and numbers in their order: quantities with their units, lists, ranges and words, each with its place
in the text.

A number keeps the text it was typed with. ``10..40 C``, ``10 to 40 C``, ``10-40 C`` and ``between 10 and 40 C`` are
ranges, ``0, 31 and 60 C`` is a list; a unit that stands once is that of all."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from ..units import KINDS, QuantityError, fits, split

NO_UNITS = frozenset(
    [
        "in",
        "to",
        "and",
        "at",
        "of",
        "for",
        "with",
        "from",
        "by",
        "the",
        "steps",
        "step",
        "a",
        "on",
        "as",
        "per",
        "is",
        "or",
        "be",
        "points",
        "values",
        "over",
        "under",
        "above",
        "below",
        "x",
    ]
)
"""Words that are no units after a number, whatever they spell."""

TEMPERATURES = {
    "c": "degC",
    "f": "degF",
    "celsius": "degC",
    "fahrenheit": "degF",
    "kelvin": "K",
    "°c": "degC",
    "°f": "degF",
}

_NUMBER = r"[-−+]?(?:\d+(?:[ \u202f]\d{3})+(?!\d)|\d+)(?:[.,]\d+)?(?:[eE][-+]?\d+)?"
_SCAN = re.compile(
    rf"(?P<quoted>\"[^\"]+\"|'[^']+'|“[^”]+”)|(?P<sep>\.\.+|…|–|—)|(?P<number>(?<!\w)(?<!\d[.]){_NUMBER})|(?P<word>[^\W\d_][\w'’/+-]*)|(?P<mark>[^\s\w])",
    re.UNICODE,
)


@dataclass(frozen=True)
class Token:
    """A piece of what was typed: its place, and what it is: ``word``, ``mark``, ``number``, ``list`` or ``range``.
    Numbers have their texts and a ``unit``, "" for none; of a list in several units ``units`` are those of each."""

    start: int
    end: int
    what: str
    text: str = ""
    numbers: tuple[float, ...] = ()
    unit: str = ""
    units: tuple[str, ...] = ()

    @property
    def kinds(self) -> frozenset[str]:
        """What its unit can measure; nothing without one."""
        return frozenset(k for k in KINDS if self.unit and self.unit != "%" and fits(self.unit, k))

    def cell(self, i: int = 0) -> str | float:
        """Return a number as a cell of a document."""
        number = f"{self.numbers[i]:.10g}"
        unit = self.units[i] if self.units else self.unit
        return f"{number} {unit}" if unit else self.numbers[i]


def scanned(text: str) -> list[Token]:
    """Return what was typed as tokens; quantities that belong together are one."""
    # Between three or more numbers a comma separates, even if it could be a decimal comma in one of them.
    text = re.sub(r"(?<![\w,])\d+(?:,\d+){2,}", lambda m: m.group().replace(",", ";"), text)
    raw: list[Token] = []
    for found in _SCAN.finditer(text):
        kind = found.lastgroup or ""
        piece = found.group()
        if kind == "number":
            raw.append(_number(found.start(), found.end(), piece, raw))
        elif kind == "quoted":
            raw.append(Token(found.start(), found.end(), "word", piece[1:-1]))
        else:
            raw.append(Token(found.start(), found.end(), "mark" if kind == "sep" else kind, piece))
    return _joined(_with_units(raw, text))


def _number(start: int, end: int, piece: str, before: list[Token]) -> Token:
    value = float(re.sub(r"[ \u202f]", "", piece).replace("−", "-").replace(",", "."))
    return Token(start, end, "number", piece, (value,))


def _with_units(raw: list[Token], text: str) -> list[Token]:
    """Join every number with the unit behind it, the longest that there is."""
    out: list[Token] = []
    i = 0
    while i < len(raw):
        token = raw[i]
        if token.what != "number":
            out.append(token)
            i += 1
            continue
        best, used = "", 0
        for count in range(1, 7):
            if i + count >= len(raw):
                break
            piece = text[token.end : raw[i + count].end].strip()
            if len(piece) > 16 or "," in piece or ".." in piece:
                break
            unit = unit_of(piece)
            if unit:
                best, used = unit, count
        if used:
            out.append(replace(token, end=raw[i + used].end, unit=best))
        else:
            out.append(token)
        i += used + 1
    return out


def unit_of(piece: str) -> str:
    """Return a typed unit as the document writes it, "" where it is none."""
    folded = " ".join(piece.casefold().split())
    if folded in NO_UNITS or not any(c.isalpha() or c in "°%" for c in piece):
        return ""
    folded = re.sub(r"^(?:deg(?:rees?)?\.?|°)\s*", "", folded)
    if folded in TEMPERATURES:
        return TEMPERATURES[folded]
    compact = piece.replace(" ", "")
    if compact.casefold() in ("wt%", "mass%", "w%"):
        return "wt%"
    if compact.casefold() in ("mol%", "vol%"):
        return compact.casefold()
    if compact == "%" or folded in ("percent", "per cent"):
        return "%"
    try:
        _, unit = split(f"1 {compact}")
    except QuantityError:
        return ""
    return unit if unit and any(fits(unit, k) for k in KINDS) else ""


TO = frozenset({"..", "...", "…", "–", "—", "-", "to"})


def _joined(tokens: list[Token]) -> list[Token]:
    """Join ranges and lists of numbers."""
    out: list[Token] = []
    i = 0
    while i < len(tokens):
        token = tokens[i]
        if token.what != "number":
            out.append(token)
            i += 1
            continue
        # A range: a word or a mark between two numbers; "and" only after "between".
        if i + 2 < len(tokens) and tokens[i + 2].what == "number":
            word = tokens[i + 1].text.casefold()
            between = word == "and" and bool(out) and out[-1].text.casefold() == "between"
            if (word in TO or between) and _alike(token, tokens[i + 2]):
                out.append(_span(token, tokens[i + 2]))
                i += 3
                continue
        if (
            i + 1 < len(tokens)
            and tokens[i + 1].what == "number"
            and tokens[i + 1].text[0] in "-−"
            and tokens[i + 1].start == token.end
            and not token.unit
        ):
            # 10-40 C: the sign is the mark of a range.
            other = replace(tokens[i + 1], numbers=(abs(tokens[i + 1].numbers[0]),))
            out.append(_span(token, other))
            i += 2
            continue
        items, j = [token], i
        while True:
            step = 2 if j + 2 < len(tokens) and tokens[j + 1].text.casefold() in (",", "and", ";") else 0
            if not step and j + 1 < len(tokens) and tokens[j + 1].what == "number" and not items[-1].unit:
                step = 1  # 0 31 60 C
            if step and tokens[j + 1].text == "," and j + 3 < len(tokens) and tokens[j + 2].text.casefold() == "and":
                step = 3
            if (
                not step
                or j + step >= len(tokens)
                or tokens[j + step].what != "number"
                or not _alike(items[-1], tokens[j + step])
            ):
                break
            # "80 bar and 20 C" are two quantities; "0 and 31 C" are a list of one.
            items.append(tokens[j + step])
            j += step
        out.append(_list(items) if len(items) > 1 else token)
        i = j + 1
    return out


def _alike(one: Token, other: Token) -> bool:
    """Tell whether two numbers can share a unit: where both have one it is of the same kind of quantity."""
    if one.unit and other.unit:
        return bool(one.kinds & other.kinds) or one.unit == other.unit
    return not one.unit


def _span(one: Token, other: Token) -> Token:
    unit = other.unit or one.unit
    # A test that goes down in pressure is said from the top; a range is written from below.
    low, high = sorted((one.numbers[0], other.numbers[0]))
    if one.unit and other.unit and one.unit != other.unit:
        return Token(one.start, other.end, "list", "", (low, high), "")
    return Token(one.start, other.end, "range", "", (low, high), unit)


def _list(items: list[Token]) -> Token:
    numbers = tuple(n for t in items for n in t.numbers)
    # A number without a unit takes that of the next one that has it.
    units: list[str] = []
    for item in reversed(items):
        units.insert(0, item.unit or (units[0] if units else ""))
    own = tuple(units) if len(set(units)) > 1 else ()
    return Token(items[0].start, items[-1].end, "list", "", numbers, items[-1].unit, own)
