"""What a chain asks, in SI: its feeds, its steps, and what is wrong with either."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ...document import Reader
from ...document.conditions import CHOICE, CONDITIONS, Given, read_condition
from ...document.faults import did_you_mean
from ...document.rates import read_rate
from ...document.reader import EMPTY
from ...process import KINDS
from .model import NUMBERS, PORTS, Feed, Step

MOST_STEPS = 200
SUM = 1e-6
"""Difference from one up to which shares of a split add up."""
PHASES = ("vapour", "liquid", "aqueous")


@dataclass(frozen=True)
class AskedFeed:
    """A feed: its fluid's name, two conditions by key, and the measure and value of its rate."""

    fluid: str
    given: Mapping[str, Given]
    rate: tuple[str, float]


@dataclass(frozen=True)
class AskedStep:
    """A step: streams it takes and gives in their places, words and numbers by key, SI, and what each stream that it
    gives holds, where that differs."""

    name: str
    kind: str
    takes: tuple[str, ...]
    gives: tuple[str, ...]
    words: tuple[tuple[str, str], ...]
    numbers: tuple[tuple[str, float], ...]
    outlets: tuple[str, ...] = ()


@dataclass(frozen=True)
class AskedChain:
    """Feeds by their stream, steps in the order they were typed, and whether margins to limits are wanted."""

    feeds: Mapping[str, AskedFeed]
    steps: tuple[AskedStep, ...]
    margins: bool = field(default=True)

    @property
    def shape(self) -> tuple[object, ...]:
        """What variants that are done together share: fluids, streams and which numbers are given."""
        feeds = tuple((k, f.fluid, tuple(sorted(f.given))) for k, f in self.feeds.items())
        return feeds, tuple(
            (s.name, s.kind, s.takes, s.gives, s.words, tuple(k for k, _ in s.numbers), s.outlets) for s in self.steps
        )


def read_chain(feeds: Mapping[str, Feed], steps: Sequence[Step], reader: Reader) -> AskedChain | None:
    """Return what a chain asks; None with faults."""
    if not feeds:
        reader.at("feeds").fault("a chain has no feed yet; give one a name, a fluid, two conditions and a rate")
    if not steps:
        reader.at("steps").fault(
            "a chain has no step yet; give one a name, what it is, the stream it takes and the one it gives"
        )
    if len(steps) > MOST_STEPS:
        reader.at("steps").fault(f"{len(steps)} steps are too many; give at most {MOST_STEPS}")
    read_feeds = {name: _feed(feed, reader.at("feeds", name)) for name, feed in feeds.items()}
    read_steps = [_step(step, reader.at("steps", i)) for i, step in enumerate(steps)]
    _streams(feeds, steps, read_steps, reader.at("steps"))
    if reader.bad:
        return None
    return AskedChain(
        {k: f for k, f in read_feeds.items() if f is not None}, tuple(s for s in read_steps if s is not None)
    )


def _feed(feed: Feed, here: Reader) -> AskedFeed | None:
    given = [k for k in CONDITIONS if getattr(feed, k) not in EMPTY]
    if len(given) != 2:
        here.fault(f"a feed takes exactly {CHOICE}; {', '.join(given) + ' given' if given else 'none given'}")
    values = {k: read_condition(k, getattr(feed, k), here.at(k)) for k in given}
    if feed.rate in EMPTY:
        here.at("rate").fault("a feed needs its rate, for example 12 MMscf/day, 4000 kg/h or 850 bbl/day")
    rate = read_rate(feed.rate, feed.rate_by, here)
    found = {k: v for k, v in values.items() if v is not None}
    return AskedFeed(feed.fluid, found, rate) if rate is not None and len(found) == 2 else None


def _step(step: Step, here: Reader) -> AskedStep | None:
    if not here.at("step").known(step.step, KINDS, "step"):
        return None
    kind = KINDS[step.step]
    takes, gives, outlets, shares = _ports(step, here)
    allowed = {*kind.needs, *kind.may}
    numbers: dict[str, float] = dict(shares)
    for key, what in NUMBERS.items():
        cell = getattr(step, key)
        if cell in EMPTY:
            continue
        if key not in allowed:
            told = ", ".join(k for k in NUMBERS if k in allowed) or "no number"
            here.at(key).fault(f"a {step.step} takes no {key.replace('_', ' ')}; it takes {told.replace('_', ' ')}")
            continue
        value = _number(key, what, cell, here.at(key))
        if value is not None:
            numbers[key] = value
    _needed(step, kind.needs, here)
    words = tuple(
        (k, str(getattr(step, k)))
        for k, choices in kind.words.items()
        if here.at(k).known(getattr(step, k), choices, k.replace("_", " "))
    )
    for key in ("efficiency_kind", "arrangement"):
        if key not in kind.words and getattr(step, key) != Step.model_fields[key].default:
            here.at(key).fault(f"a {step.step} has no {key.replace('_', ' ')}")
    if step.step == "compressor" and numbers.get("stages", 1.0) > 1.0 and "power" in numbers:
        here.at("power").fault("stages are laid out between two pressures; give a pressure or a ratio with them")
    return AskedStep(step.name, step.step, takes, gives, words, tuple(sorted(numbers.items())), outlets)


def _needed(step: Step, needs: Sequence[str], here: Reader) -> None:
    """Say where not exactly one of what a step needs is given; a separator may be given one of two."""
    given = [k for k in needs if getattr(step, k) not in EMPTY]
    said = " or ".join(k.replace("_", " ") for k in needs)
    if needs and not given:
        here.fault(f"a {step.step} needs its {said}")
    if len(given) > 1:
        here.at(given[1]).fault(
            f"a {step.step} takes one of {said}; both {' and '.join(k.replace('_', ' ') for k in given)} are given"
        )
    if step.step == "separator" and step.temperature not in EMPTY and step.duty not in EMPTY:
        here.at("duty").fault("a separator takes a temperature or a duty; both are given")


def _number(key: str, what: str, cell: object, here: Reader) -> float | None:
    value: float | None
    if key == "stages":
        value = here.between(cell, 1, 12, "a number of stages")  # type: ignore[arg-type]
        if value is not None and value != round(value):
            here.fault(f"a number of stages is whole; this one is {value:g}")
        return value
    if what == "":
        value = here.number(cell, "a ratio")  # type: ignore[arg-type]
    elif key == "pressure":
        value = here.pressure(cell)  # type: ignore[arg-type]
    elif what == "fraction":
        value = here.fraction(cell, key.replace("_", " "))  # type: ignore[arg-type]
    else:
        value = here.quantity(cell, what)  # type: ignore[arg-type]
    if value is None:
        return None
    name = key.replace("_", " ")
    if what == "temperature":
        return here.physical(value, 50.0, 1500.0, "a temperature", "K")
    if key in ("efficiency", "mechanical_efficiency") and value < 0.01:
        here.fault(f"an {name} of {value:g} is next to none; write a fraction or a percentage, 0.75 or 75 %")
    elif key == "ratio" and value <= 0.0:
        here.fault(f"a ratio of {value:g} is not above zero")
    elif key in ("duty", "power") and value < 0.0 and here.path[-1] == key:
        here.fault(f"a {name} is a magnitude; which way it goes is said by the step")
    elif what in ("temperature_difference", "pressure_difference") and value < 0.0:
        here.fault(f"{name} of less than nothing; write zero or more")
    elif key == "ua" and value <= 0.0:
        here.fault("a conductance UA is above zero")
    return value


def _ports(step: Step, here: Reader) -> tuple[tuple[str, ...], tuple[str, ...], tuple[str, ...], dict[str, float]]:
    """Return the streams a step takes and gives, what those it gives hold, and the shares of a split."""
    if step.step == "exchanger":
        for key, told in (("takes", "from"), ("gives", "to")):
            if getattr(step, key):
                here.at(told).fault(f"an exchanger names its streams hot_{told} and cold_{told}")
        named = {p: getattr(step, p) for p in PORTS}
        for port, name in named.items():
            if not name:
                here.at(port).fault(f"an exchanger needs its {port.replace('_', ' ')}: the name of a stream")
        return (named["hot_from"], named["cold_from"]), (named["hot_to"], named["cold_to"]), (), {}
    for port in PORTS:
        if getattr(step, port):
            here.at(port).fault(f"a {step.step} has no {port.replace('_', ' ')}; name its streams from and to")
    takes = (step.takes,) if isinstance(step.takes, str) else tuple(step.takes)
    if not takes or not all(takes):
        here.at("from").fault(f"a {step.step} needs the stream it takes")
    elif step.step != "mixer" and len(takes) > 1:
        here.at("from").fault(f"a {step.step} takes one stream; {len(takes)} are named. Put a mixer before it")
    if step.step == "splitter":
        return takes, *_shares(step, here.at("to"))
    if step.step == "separator":
        return takes, *_parted(step, here.at("to"))
    if not isinstance(step.gives, str):
        here.at("to").fault(f"a {step.step} gives one stream; write its name")
        return takes, (), (), {}
    if not step.gives:
        here.at("to").fault(f"a {step.step} needs a name for the stream it gives")
    return takes, (step.gives,), (), {}


def _shares(step: Step, here: Reader) -> tuple[tuple[str, ...], tuple[str, ...], dict[str, float]]:
    if not isinstance(step.gives, Mapping):
        here.fault('a splitter gives streams by their share, for example {"one": 0.6, "other": 0.4}')
        return (), (), {}
    found: dict[str, float] = {}
    rest = [name for name, cell in step.gives.items() if cell in EMPTY]
    for name, cell in step.gives.items():
        value = None if cell in EMPTY else here.at(name).fraction(cell, "a share")
        if value is not None:
            found[f"share {name}"] = value
    total = sum(found.values())
    if len(rest) == 1 and total <= 1.0 + SUM:
        found[f"share {rest[0]}"] = max(1.0 - total, 0.0)
    elif len(rest) > 1:
        here.fault(f"the shares of {', '.join(rest)} are missing; one may be left out, which takes the rest")
    elif abs(total - 1.0) > SUM and len(found) == len(step.gives):
        here.fault(
            f"the shares of a splitter add up to one; these make {total:.6g}. Leave one out, and it takes the rest"
        )
    return tuple(step.gives), (), found


def _parted(step: Step, here: Reader) -> tuple[tuple[str, ...], tuple[str, ...], dict[str, float]]:
    if not isinstance(step.gives, Mapping):
        here.fault(
            'a separator gives streams by what they hold: {"vapour": name, "liquid": name}, and "aqueous" for water of its own'
        )
        return (), (), {}
    for held, name in step.gives.items():
        if held not in PHASES:
            here.at(held).fault(f"a separator has no outlet for '{held}'{did_you_mean(held, PHASES)}")
        elif not isinstance(name, str) or not name:
            here.at(held).fault("the outlet needs the name of its stream")
    for held in PHASES[:2]:
        if held not in step.gives:
            here.fault(
                f"the outlet for the {held} is missing; a separator gives vapour and liquid, and aqueous where water is drawn by itself"
            )
    outlets = tuple(h for h in PHASES if h in step.gives)
    return tuple(str(step.gives[h]) for h in outlets), outlets, {}


def _streams(feeds: Mapping[str, Feed], steps: Sequence[Step], found: Sequence[AskedStep | None], here: Reader) -> None:
    """Say where a stream comes twice, goes twice, or comes from nowhere."""
    given: dict[str, str] = dict.fromkeys(feeds, "a feed")
    names: set[str] = set()
    for i, step in enumerate(steps):
        own = here.at(i)
        if step.name in names:
            own.at("name").fault(f"there are two steps named '{step.name}'; give each its own name")
        names.add(step.name)
        read = found[i]
        for name in read.gives if read is not None else ():
            if name and name in given:
                own.at("to").fault(
                    f"the stream '{name}' comes from {given[name]} already; give each stream its own name"
                )
            given.setdefault(name, f"'{step.name}'")
    taken: dict[str, str] = {}
    for i, step in enumerate(steps):
        read = found[i]
        for name in read.takes if read is not None else ():
            at = here.at(i, _port_of(step, name))
            if name and name not in given:
                at.fault(f"no step gives a stream '{name}', and it is no feed{did_you_mean(name, given)}")
            elif name and name in taken:
                at.fault(
                    f"the stream '{name}' goes to '{taken[name]}' already; put a splitter where it should go two ways"
                )
            taken.setdefault(name, step.name)


def _port_of(step: Step, stream: str) -> str:
    if step.step == "exchanger":
        return "hot_from" if step.hot_from == stream else "cold_from"
    return "from"
