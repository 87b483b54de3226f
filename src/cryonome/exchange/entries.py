"""What stands in the cell of a sheet: a number with its unit and marks, a limit, a range, nothing, or words.

A sheet writes its numbers in one style. A comma may part thousands or decimals, so that ``2,650`` has two readings;
one cell with a single reading (``12.5``, ``0,431``, ``1.234,5``) proves the style of all others. Where no cell proves
it, such a number is *in doubt* and is not guessed."""

from __future__ import annotations

import itertools
import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from ..units import QuantityError, split
from .cells import Exact

Style = Literal["point", "comma", ""]
"""The decimal mark of a sheet, nothing where no cell proves it."""

ABSENT = frozenset(
    [
        "-",
        "--",
        "---",
        "–",
        "—",
        "−",
        "*",
        ".",
        "…",
        "...",
        "x",
        "n",
        "n/a",
        "na",
        "n.a.",
        "n.a",
        "nd",
        "n.d.",
        "n.d",
        "n/d",
        "nm",
        "n.m.",
        "n/m",
        "nil",
        "none",
        "neg.",
        "trace",
        "traces",
        "tr",
        "tr.",
        "tr-ace",
        "bdl",
        "b.d.l.",
        "<dl",
        "<lod",
        "nn",
        "n.n.",
        "n.b.",
        "nb",
        "k.a.",
        "spur",
        "spuren",
        "sp.",
        "s/d",
        "s.d.",
        "sd",
        "nt",
        "traza",
        "trazas",
        "traco",
        "tracos",
        "indices",
        "vestiges",
        "vestigios",
        "ausente",
        "absent",
        "null",
    ]
)
"""Words of a cell, without accents and capitals, for what was not measured or not found."""

POINTS: dict[str, float] = {
    **dict.fromkeys(
        (
            "н.к.", "н. к.", "нк", "начало кипения", "ibp", "i.b.p.", "ip", "initial", "initial point", "initial boiling point", "initial bp", "start", "sb", "siedebeginn", "siedeanfang",
            "anfangspunkt", "punto inicial", "p. inicial", "pi", "p.i.", "pie", "inicial", "point initial", "pt initial", "initiale", "ponto inicial", "1st drop", "first drop", "p.ini.",
            "temperature initiale", "temperatura inicial",
        ),
        0.0,
    ),
    **dict.fromkeys(
        (
            "к.к.", "к. к.", "кк", "конец кипения", "fbp", "f.b.p.", "ep", "e.p.", "fp", "end point", "endpoint", "final", "final point", "final boiling point", "end", "se", "siedeende", "endpunkt", "siedeschluss",
            "punto final", "p. final", "pf", "p.f.", "pfe", "point final", "pt final", "finale", "ponto final", "ponto final de ebulicao", "final bp", "dry point", "temperature finale", "temperatura final",
        ),
        100.0,
    ),
}  # fmt: skip
"""Words for the beginning and the end of a distillation."""

_SIGN = "-+−–"
_DIGITS = r"\d[\d.,'’\u00a0\u202f\u2009]*\d|\d"
_SPACED = r"\d{1,3}(?: \d{3})+(?:[.,]\d+)?"
_NUMBER = rf"[{_SIGN}]?\s?(?:{_SPACED}(?![\d])|{_DIGITS}|[.,]\d+)(?:[eE][-+−]?\d{{1,3}})?"
_ENTRY = re.compile(rf"^(?P<below>[<>≤≥]\s*|~\s*|ca\.?\s+)?(?P<number>{_NUMBER})\s*(?P<rest>\D.*)?$")
_LED = re.compile(
    rf"^(?P<lead>[^\W\d_][^\d<>=:]{{0,30}}?)\s*[=:]?\s*(?P<number>{_NUMBER})\s*(?P<rest>[^\d].*)?$"
)  # Pb 2185
_RANGE = re.compile(
    rf"^(?P<low>{_NUMBER}|ibp|c\d*)?\s*(?:[-–—]|\bto\b|\bbis\b|\ba\b|\.\.+)\s*(?P<high>{_NUMBER}|fbp|ep)\s*(?P<unit>.*)$",
    re.IGNORECASE,
)
_OPEN = re.compile(rf"^(?P<sign>>\s*)?(?P<low>{_NUMBER})\s*(?P<plus>\+|plus)?\s*(?P<unit>°?\s*[CFK]?)$", re.IGNORECASE)
_BELOW = re.compile(rf"^(?:<=?|≤|up to|bis)\s*(?P<high>{_NUMBER})\s*(?P<unit>°?\s*[CFK]?)$", re.IGNORECASE)
LEAST_END = 20.0
"""Below this "<" stands before an amount too small to be told, and before no end of a boiling range."""
FOOTNOTE = re.compile(r"(?:\s*[*†‡§#¹]+|\s*\(\s*(?:[a-z]|\d|\*+|i{1,3})\s*\)|\s+\d\))+$")
"""A mark behind a word or a number that leads to a footnote."""

TRADE = str.maketrans("₀₁₂₃₄₅₆₇₈₉₊⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻", "0123456789+0123456789+-")


@lru_cache(maxsize=1 << 15)
def folded(text: str) -> str:
    """Return a text without capitals, accents, raised and lowered figures and doubled spaces, as words are compared."""
    text = text.translate(TRADE).replace("º", "°").replace("ß", "ss").replace("℃", "°C").replace("℉", "°F")
    text = text.replace("‐", "-").replace("‑", "-").replace("‒", "-").replace("–", "-").replace("—", "-")
    text = unicodedata.normalize("NFKD", text.casefold())
    text = "".join(c for c in text if not unicodedata.combining(c)).replace("μ", "u").replace("_", " ")
    return re.sub(r"\s+", " ", text).strip()


@dataclass(frozen=True)
class Entry:
    """A cell as it is understood.

    ``kind``: ``empty``, ``absent`` (nd, trace, -), ``number``, ``below`` (<0.01), ``doubt`` (2,650 where nothing
    tells which), ``words``. ``unit`` is what stands behind the number, ``lead`` a word before it and ``mark`` a
    footnote or remark at it."""

    kind: str
    text: str
    value: float = 0.0
    unit: str = ""
    lead: str = ""
    mark: str = ""

    @property
    def is_number(self) -> bool:
        """Tell whether a single number stands there."""
        return self.kind == "number"

    @property
    def fills(self) -> bool:
        """Tell whether the cell holds or stands for a number."""
        return self.kind in ("number", "below", "absent", "doubt")


MOST_PROVING = 40_000
"""Cells of a sheet that are looked at for its decimal mark."""


def style_of(cells: Iterable[str]) -> Style:
    """Return the decimal mark that the cells of a sheet prove, nothing where they prove none or both alike."""
    points = commas = 0
    for text in itertools.islice(cells, MOST_PROVING):
        if isinstance(text, Exact) or not any(c.isdigit() for c in text):
            continue
        for token in re.findall(r"(?<![\w.,/:-])[-+−–<>~]?\d[\d.,'’\u00a0\u202f]*(?![\d./:]|-\d)", text):
            proved = _proves(token.strip(".,").lstrip("-+−–<>~"))
            points += proved == "point"
            commas += proved == "comma"
    return "" if points == commas else "point" if points > commas else "comma"


def _proves(digits: str) -> Style:
    dots, commas = digits.count("."), digits.count(",")
    if dots and commas:
        return "point" if digits.rfind(".") > digits.rfind(",") else "comma"
    if commas:
        thousands = re.fullmatch(r"[1-9]\d{0,2}(,\d{3})+", digits) is not None
        return "" if thousands and commas == 1 else "point" if thousands else "comma" if commas == 1 else ""
    if dots:
        thousands = re.fullmatch(r"[1-9]\d{0,2}(\.\d{3})+", digits) is not None
        return "" if thousands and dots == 1 else "comma" if thousands else "point" if dots == 1 else ""
    return ""


def number_of(text: str, style: Style) -> float | None:
    """Return the number of a text of digits and marks, None where it has two readings in a sheet of that style.
    Raises ValueError."""
    if isinstance(text, Exact):
        return float(text)
    text = re.sub(r"['’\s\u00a0\u202f\u2009]", "", text)
    for sign in _SIGN[2:]:
        text = text.replace(sign, "-")
    body, e, power = re.sub("E", "e", text).partition("e")
    dots, commas = body.count("."), body.count(",")
    if dots or commas:
        proved = _proves(body.lstrip("+-"))
        if not proved and not style and commas:
            return None
        comma = (proved or style) == "comma"
        body = body.replace(".", "").replace(",", ".") if comma else body.replace(",", "")
        if body.count(".") > 1:
            raise ValueError(text)
    return float(body + e + power)


def entry_of(text: str, style: Style = "point") -> Entry:
    """Return what stands in a cell of a sheet that writes numbers in a style."""
    if isinstance(text, Exact):
        return Entry("number", text, float(text))
    return _entry(text, style)


@lru_cache(maxsize=1 << 17)
def _entry(text: str, style: Style) -> Entry:
    bare = text.strip()
    if not bare:
        return Entry("empty", bare)
    if folded(bare).strip("()[] ") in ABSENT or bare in ABSENT:
        return Entry("absent", bare)
    found = _ENTRY.match(bare)
    if found is None:
        return _led(bare, style)
    rest = (found["rest"] or "").strip()
    mark = FOOTNOTE.search(rest) if rest else None
    remark = ""
    if mark is not None and mark.group().strip():
        remark, rest = mark.group().strip(), rest[: mark.start()].strip()
    arrow = re.match(r"^(.*?)\s*(?:<[-=]+|←|⇐)\s*(.*)$", rest)  # 2650 <- dew pt
    if arrow:
        rest, remark = arrow.group(1).strip(), arrow.group(2).strip()
    try:
        value = number_of(found["number"], style)
    except ValueError:
        return Entry("words", bare)
    if re.match(r"^[-/:.]\s?\d", rest) or (rest[:1] in "./:-" and any(c.isdigit() for c in rest)):
        return Entry("words", bare)  # a date, a range, a name such as 3-4/b
    if value is None:
        return Entry("doubt", bare, unit=rest, mark=remark)
    below = (found["below"] or "").strip()
    return Entry("below" if below[:1] in ("<", "≤") else "number", bare, value, rest, "", remark)


def _led(text: str, style: Style) -> Entry:
    """Return a cell that begins with a word: a saturation pressure marked in its column, or words."""
    found = _LED.match(text)
    if found is not None and len(found["lead"].split()) <= 3 and (found["rest"] or "").strip()[:1] != "/":
        try:
            value = number_of(found["number"], style)
        except ValueError:
            value = None
        rest = (found["rest"] or "").strip()
        if value is not None and len(rest.split()) <= 3:
            return Entry("words", text, value, rest, found["lead"].strip())
    return Entry("words", text)


@dataclass(frozen=True)
class Span:
    """A boiling range of a cell: its two ends, None for an open one."""

    low: float | None
    high: float | None
    unit: str = ""


@lru_cache(maxsize=1 << 16)
def span_of(text: str, style: Style = "point") -> Span | None:
    """Return the range in a cell, ``80-160``, ``IBP-80``, ``550+``, or None where it is none."""
    bare = text.strip()
    if not any(mark in bare for mark in "-–—+><≤. ") or not any(c.isdigit() for c in bare):
        return None
    found = _RANGE.match(bare)
    if found is not None:
        ends: list[float | None] = []
        for word in (found["low"] or "", found["high"]):
            if word[:1].isalpha() or not word:
                ends.append(None)
                continue
            try:
                ends.append(number_of(word, style))
            except ValueError:
                return None
        if found["low"] and found["low"][:1].casefold() == "c":
            return None
        return Span(ends[0], ends[1], found["unit"].strip())
    found = _OPEN.match(bare)
    if found is not None and (found["sign"] or found["plus"]):
        return Span(number_of(found["low"], style), None, found["unit"].strip())
    found = _BELOW.match(bare)
    high = number_of(found["high"], style) if found is not None else None
    if found is None or high is None or high < LEAST_END:
        return None
    return Span(None, high, found["unit"].strip())


def point_of(text: str, style: Style = "point") -> float | None:
    """Return the percent of a point of a curve, words for its ends as 0 and 100, None where it is none."""
    if any(c.isalpha() for c in text):
        words = re.sub(r"\s*[(\[].*?[)\]]", "", folded(text)).rstrip(" .:,")
        words = FOOTNOTE.sub("", words)
        if words in POINTS or words + "." in POINTS:
            return POINTS.get(words, POINTS.get(words + ".", 0.0))
    one = entry_of(text, style)
    if one.is_number and one.unit.strip("() ").casefold() in PERCENTS:
        return one.value
    return None


PERCENTS = frozenset(
    ("", "%", "vol%", "vol.%", "% vol", "%vol", "wt%", "mass%", "mass %", "% v/v", "% off", "% rec", "% rec.", "lv%", "vol.-%", "% (v/v)", "percent", "% evap", "% evap.", "% vol.", "%v", "v%")
)  # fmt: skip
"""What may stand behind the percent of a point."""


def is_number(text: str) -> bool:
    """Tell whether a cell holds a number, with or without a unit."""
    try:
        split(text)
    except QuantityError:
        return False
    return True


def is_header(cells: list[str]) -> bool:
    """Tell whether a row of cells is a header: words, and no number."""
    return any(c.strip() for c in cells) and not any(is_number(c) for c in cells)


_TITLE = re.compile(r"^\s*([^(\[]+?)\s*(?:[(\[,]\s*([^)\]]*?)\s*[)\]]?)?\s*$")


def title_and_unit(text: str) -> tuple[str, str]:
    """Return the words of a title and the unit behind them, in brackets or after a comma: "Pressure (bar)", "T,
    degC"."""
    found = _TITLE.match(text)
    return (found.group(1).strip(), (found.group(2) or "").strip()) if found else (text.strip(), "")
