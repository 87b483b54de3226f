"""What a step does, in a few words that can be typed: ``to 31 bar, 75 %``, ``5 K at the least, hot loses 0.3 bar``.

One list of clauses writes and reads them: a clause is a number of a step, its words, and the steps that have it. What
is not understood is told, never guessed."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..document.conditions import CONDITIONS
from ..document.field_types import Cell
from ..document.reader import EMPTY
from ..process import KINDS
from ..questions.chains.model import NUMBERS, Feed, Step
from ..telling.sentences import Units
from ..units import QuantityError, fits, label, split
from .entry import RATES, entry_of, taken, usual_unit

NUMBER = r"(?P<q>[^,;]*\d[^,;]*?)"


@dataclass(frozen=True)
class Clause:
    """A number of steps in words: its ``key``, how it is written with ``{}`` for the quantity, and how it is read."""

    key: str
    form: str
    pattern: str


CLAUSES: tuple[Clause, ...] = (
    Clause("hot_pressure_drop", "hot loses {}", rf"hot(?: side)? (?:loses|drops|drop)\s+{NUMBER}"),
    Clause("cold_pressure_drop", "cold loses {}", rf"cold(?: side)? (?:loses|drops|drop)\s+{NUMBER}"),
    Clause("stage_drop", "loses {} between", rf"(?:loses|drops|drop)\s+{NUMBER} between(?: stages)?"),
    Clause("stage_temperature", "{} between", rf"(?:cooled )?(?:to )?{NUMBER} between(?: stages)?"),
    Clause("hot_temperature", "hot to {}", rf"hot(?: side)?(?: stream)? to\s+{NUMBER}"),
    Clause("cold_temperature", "cold to {}", rf"cold(?: side)?(?: stream)? to\s+{NUMBER}"),
    Clause("least_approach", "{} at the least", rf"(?:least approach|approach)\s+{NUMBER}|(?P<q2>[^,;]*\d[^,;]*?)\s+(?:at the least|at least|apart|approach|least approach)"),
    Clause("ua", "UA {}", rf"ua\s+{NUMBER}"),
    Clause("discharge_limit", "limit {}", rf"limit(?:ed to)?\s+{NUMBER}"),
    Clause("superheat", "{} above dew", rf"{NUMBER}\s+(?:above (?:the )?dew(?: point)?|of superheat|superheat)"),
    Clause("subcooling", "{} below bubble", rf"{NUMBER}\s+(?:below (?:the )?bubble(?: point)?|of subcooling|subcooling)"),
    Clause("vapour_fraction", "to {} vapour", rf"(?:to )?{NUMBER}\s+vapou?r(?: share| fraction)?"),
    Clause("mechanical_efficiency", "{} mechanical", rf"{NUMBER}\s+mechanical(?: efficiency)?"),
    Clause("stages", "{} stages", rf"(?:in )?{NUMBER}\s+stages?"),
    Clause("ratio", "ratio {}", rf"(?:by )?(?:a )?ratio(?: of)?\s+{NUMBER}|(?P<q2>[^,;]*\d)\s*(?:times|:1|to 1)"),
    Clause("pressure_drop", "loses {}", rf"(?:loses|drops|drop|loss)(?: of)?\s+{NUMBER}"),
    Clause("efficiency", "{}", rf"{NUMBER}(?:\s+efficien(?:cy|t))?"),
    Clause("power", "with {}", rf"(?:with |power )?{NUMBER}(?: power)?"),
    Clause("duty", "by {}", rf"(?:by |duty |adds |removes )?{NUMBER}(?: duty)?"),
    Clause("temperature", "to {}", rf"(?:to |at |cooled? to |heat(?:ed)? to )?{NUMBER}"),
    Clause("pressure", "to {}", rf"(?:to |at |compress(?:ed)? to |expand(?:ed)? to |pump(?:ed)? to |let down to )?{NUMBER}"),
)  # fmt: skip
"""In the order they are tried; the ones with words of their own before those that the unit alone tells."""

AT = {"mixer": {"pressure": "at {}"}, "separator": {"temperature": "at {}", "duty": "adds {}"}}
"""Words of some steps that differ."""

ORDER = (
    "pressure", "ratio", "power", "temperature", "duty", "vapour_fraction", "superheat", "subcooling", "hot_temperature", "cold_temperature",
    "least_approach", "ua", "efficiency", "mechanical_efficiency", "stages", "stage_temperature", "stage_drop", "pressure_drop",
    "hot_pressure_drop", "cold_pressure_drop", "discharge_limit",
)  # fmt: skip
"""In which numbers are said."""

CHOICES = {"efficiency_kind": ("polytropic", "isentropic"), "arrangement": ("counter", "co")}
WORDS: dict[str, tuple[str, str]] = {
    "isentropic": ("efficiency_kind", "isentropic"),
    "polytropic": ("efficiency_kind", "polytropic"),
    "co-current": ("arrangement", "co"),
    "cocurrent": ("arrangement", "co"),
    "co": ("arrangement", "co"),
    "counter": ("arrangement", "counter"),
    "counter-current": ("arrangement", "counter"),
}
"""Words that choose."""
UNSAID = {"separator": "part into its phases", "mixer": "mix", "splitter": "split"}
"""What steps do that need no number."""


def allowed(kind: str) -> frozenset[str]:
    """Return the numbers a kind of step takes."""
    own = KINDS.get(kind)
    return frozenset((*own.needs, *own.may)) if own is not None else frozenset(NUMBERS)


def does(step: Step, units: Units) -> str:
    """Return what a step does, in words that :func:`understood` reads."""
    said = []
    forms = {c.key: c.form for c in CLAUSES} | AT.get(step.step, {})
    for key in ORDER:
        cell = getattr(step, key)
        if cell not in EMPTY:
            said.append(forms[key].format(entry_of(cell, NUMBERS[key] or None, units).whole))
        if key == "efficiency" and step.efficiency_kind == "isentropic":
            said.append("isentropic")
    if step.arrangement == "co":
        said.append("co-current")
    return ", ".join(said) or UNSAID.get(step.step, "")


def understood(text: str, kind: str, units: Units) -> tuple[dict[str, Cell], list[str]]:
    """Return every number and choice of a step of a ``kind`` as its words say them, None for those not said, and the
    clauses that were not understood."""
    mine = allowed(kind)
    found: dict[str, Cell] = dict.fromkeys(NUMBERS)
    found |= {key: choices[0] for key, choices in CHOICES.items()}
    odd = []
    for clause in _clauses(text):
        plain = clause.casefold()
        if plain in WORDS and WORDS[plain][0] in (KINDS[kind].words if kind in KINDS else CHOICES):
            found[WORDS[plain][0]] = WORDS[plain][1]
            continue
        for word in ("isentropic", "polytropic"):
            if plain.endswith(f" {word}") and kind in KINDS and "efficiency_kind" in KINDS[kind].words:
                found["efficiency_kind"] = word
                clause = clause[: -len(word) - 1]
        key, cell = _read(clause, kind, mine, units)
        if key and found[key] is None:
            found[key] = cell
        elif plain != UNSAID.get(kind, ""):
            odd.append(clause)
    return found, odd


def _clauses(text: str) -> list[str]:
    return [c.strip() for c in re.split(r";|,(?!\d)|\band\b", text) if c.strip()]


def _read(clause: str, kind: str, mine: frozenset[str], units: Units) -> tuple[str, Cell]:
    """Return the number of a clause and its cell; "" where it is none."""
    for own in CLAUSES:
        if own.key not in mine:
            continue
        match = re.fullmatch(own.pattern, clause, re.IGNORECASE)
        if match is None:
            continue
        groups = match.groupdict()
        text = (groups.get("q") or groups.get("q2") or "").strip()
        cell = _quantity(text, own.key, units, text == clause)
        if cell is not None:
            return own.key, cell
    return "", None


def _quantity(text: str, key: str, units: Units, bare: bool) -> Cell:
    """Return a text as a cell of a number; None where its unit is of something else, or where it is a ``bare`` number
    without a word, which means a pressure or a temperature, or below one an efficiency."""
    what = NUMBERS[key]
    try:
        number, unit = split(text)
    except QuantityError:
        return None
    if what == "":
        return number if not unit else None
    if unit:
        return text if fits(unit, what) else None
    if bare and (what == "power" or (what == "fraction" and number > 1.0)):
        return None
    if what == "fraction":
        return f"{number:.10g} %" if number > 1.0 else number
    return taken(text, usual_unit(what, units))


def fed(feed: Feed, units: Units) -> str:
    """Return the conditions and the rate of a feed, in words that :func:`feed_understood` reads."""
    said = []
    for key, own in CONDITIONS.items():
        cell = getattr(feed, key)
        if cell in EMPTY:
            continue
        text = entry_of(cell, own.kind, units).whole
        said.append(
            f"{text} vapour"
            if key == "vapour_fraction"
            else f"{text} vapour by volume"
            if key == "vapour_volume_fraction"
            else text
            if key in ("temperature", "pressure")
            else f"{own.title} {text}"
        )
    if feed.rate not in EMPTY:
        by = f" {feed.rate_by}" if feed.rate_by != "actual" else ""
        said.append(f"{_rate_text(feed.rate)}{by}")
    return ", ".join(said)


def _rate_text(cell: Cell) -> str:
    try:
        number, unit = split(str(cell))
    except QuantityError:
        return str(cell)
    return f"{number:.10g} {label(unit)}".strip()


def feed_understood(text: str, units: Units) -> tuple[dict[str, Cell], list[str]]:
    """Return the conditions and the rate of a feed as its words say them, None for those not said, and what was not
    understood."""
    found: dict[str, Cell] = {**dict.fromkeys(CONDITIONS), "rate": None, "rate_by": "actual"}
    odd = []
    for clause in _clauses(text):
        key, cell, by = _feed_clause(clause, found)
        if not key or found[key] is not None:
            odd.append(clause)
            continue
        found[key] = cell
        if by:
            found["rate_by"] = by
    return found, odd


def _feed_clause(clause: str, found: Mapping[str, Cell]) -> tuple[str, Cell, str]:
    plain = re.sub(r"^(?:at|of|flowing)\s+", "", clause, flags=re.IGNORECASE)
    for key, words in (("vapour_volume_fraction", r"vapou?r by volume"), ("vapour_fraction", r"vapou?r")):
        match = re.fullmatch(rf"(?P<q>.*\d.*?)\s+{words}", plain, re.IGNORECASE)
        if match:
            return key, match["q"], ""
    for key in ("enthalpy", "entropy", "density", "internal_energy"):
        title = CONDITIONS[key].title
        if plain.casefold().startswith(title):
            return key, plain[len(title) :].strip(), ""
    for by in ("standard liquid", "standard gas", "actual"):
        if plain.casefold().endswith(f" {by}"):
            return "rate", plain[: -len(by)].strip(), by
    try:
        unit = split(plain)[1]
    except QuantityError:
        return "", None, ""
    for key in ("temperature", "pressure"):
        if unit and fits(unit, key):
            return key, plain, ""
    if unit and any(fits(unit, k) for k in RATES):
        return "rate", plain, ""
    return "", None, ""


def streams_said(step: Step, side: str) -> str:
    """Return the streams a step takes (``from``) or gives (``to``) as they are typed."""
    if step.step == "exchanger":
        pair = (step.hot_from, step.cold_from) if side == "from" else (step.hot_to, step.cold_to)
        return ", ".join(pair) if any(pair) else ""
    value = step.takes if side == "from" else step.gives
    if isinstance(value, str):
        return value
    if isinstance(value, Mapping):
        if step.step == "separator":
            return ", ".join(str(value[k]) for k in ("vapour", "liquid", "aqueous") if k in value)
        return ", ".join(f"{name} {_share_text(cell)}".strip() for name, cell in value.items())
    return ", ".join(value)


def _share_text(cell: Cell) -> str:
    return "" if cell in EMPTY else f"{100 * cell:.10g} %" if isinstance(cell, (int, float)) else str(cell)


OUTLETS = ("vapour", "liquid", "aqueous")


def streams_taken(text: str, kind: str, side: str) -> dict[str, object]:
    """Return what the names of streams, as they were typed, set in a step of a kind: its fields by name."""
    names = [n.strip() for n in text.split(",") if n.strip()]
    if kind == "exchanger":
        hot, cold = ("hot_from", "cold_from") if side == "from" else ("hot_to", "cold_to")
        return {hot: names[0] if names else "", cold: names[1] if len(names) > 1 else ""}
    if side == "from":
        return {"takes": tuple(names) if kind == "mixer" or len(names) > 1 else names[0] if names else ""}
    if kind == "separator":
        return {"gives": dict(zip(OUTLETS, names))}
    if kind == "splitter":
        return {"gives": dict(_shared(n) for n in names)}
    return {"gives": names[0] if len(names) == 1 else tuple(names) if names else ""}


def _shared(text: str) -> tuple[str, Cell]:
    match = re.fullmatch(r"(?P<name>.*?)\s+(?P<share>[\d.]+\s*%?)", text)
    if match is None:
        return text, None
    share = match["share"].strip()
    return match["name"], share if share.endswith("%") else float(share)


def renamed(steps: Sequence[Step], old: str, new: str) -> tuple[Step, ...]:
    """Return steps with a stream called otherwise wherever it is taken."""

    def of(value: object) -> object:
        return new if value == old else tuple(of(v) for v in value) if isinstance(value, tuple) else value

    return tuple(
        s.model_copy(
            update={
                k: of(getattr(s, k)) for k in ("takes", "hot_from", "cold_from") if of(getattr(s, k)) != getattr(s, k)
            }
        )
        for s in steps
    )
