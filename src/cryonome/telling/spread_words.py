"""A spread in words: its band, the chance that a limit is broken, and which input the spread comes from."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from ..units import format_number
from .read_words import read_words
from .sentences import Units
from .table_blocks import Block, Shown, of_key, of_kind

REST = "not told apart"
"""Under this stands, among the shares, the part of a variance that no input tells by itself."""
UNCERTAIN = "What is uncertain"
"""Title of the table of uncertain inputs."""
TENTHS = ("none", "a tenth", "two tenths", "three tenths", "four tenths", "half", "six tenths", "seven tenths", "eight tenths", "nine tenths", "all")  # fmt: skip
FEW = 0.05
"""Share below which an input is not named."""


def of_read(path: str, units: Units) -> Shown:
    """Return how a read is shown, by its path in the answer of the question asked."""
    shown = of_key(path, units)
    return Shown(read_words(path), shown.unit, shown.kind, shown.factor)


def difference(shown: Shown, deviation: float, at: float, digits: int = 3) -> str:
    """Return a standard deviation in the unit it is shown in, about the value ``at``: a scale need not be straight
    (°API), nor begin at zero."""
    if not shown.kind:
        return format_number(deviation, digits)
    return format_number(0.5 * abs(shown.plain(at + deviation) - shown.plain(at - deviation)), digits)


def _single(told: Mapping[str, Any]) -> bool:
    return not isinstance(told["mean"], (list, tuple))


def band_of(path: str, told: Mapping[str, Any], units: Units) -> str:
    """Return the band of a read in words: ``212.4 bar, 208.1 to 217.0``."""
    shown = of_read(path, units)
    levels = list(told["percentiles"].values())
    base = told["base"]
    if not _single(told):
        return _widest(shown, told)
    if levels[0] is None:
        return ""
    unit = f" {shown.head[1]}" if shown.head[1] else ""
    low, high = (_like(shown, v, levels) for v in (levels[0], levels[-1]))
    middle = "" if base is None else f"{_like(shown, base, levels)}{unit}, "
    return f"{middle}{low} to {high}" if middle else f"{low} to {high}{unit}"


def _widest(shown: Shown, told: Mapping[str, Any]) -> str:
    """Return how far apart the ends of a list's band lie at the most."""
    ends = list(told["percentiles"].values())
    low, high = _flat(ends[0]), _flat(ends[-1])
    gaps = [(abs(shown.plain(b) - shown.plain(a))) for a, b in zip(low, high) if a is not None and b is not None]
    unit = f" {shown.head[1]}" if shown.head[1] else ""
    return f"of {len(gaps)} within {format_number(max(gaps), 3)}{unit} at the most" if gaps else ""


def _like(shown: Shown, value: float, levels: list[float]) -> str:
    """Return a value with as many digits as its band is worth."""
    wide = abs(shown.plain(levels[-1]) - shown.plain(levels[0]))
    size = max(abs(shown.plain(v)) for v in levels)
    digits = 4
    if wide > 0.0 and size > 0.0:
        digits = max(2, min(7, math.ceil(math.log10(size / wide)) + 2))
    return format_number(shown.plain(value), digits)


def spread_line(answer: Mapping[str, Any], units: Units) -> str:
    """Return a spread in a few words."""
    for limit in answer["limits"]:
        if limit["chance_broken"] is not None:
            return f"broken in {_percent(limit['chance_broken'])} of cases"
    for path, told in answer["reads"].items():
        text = band_of(path, told, units)
        if text:
            return text
    return f"{answer['samples']} samples"


def spread_says(answer: Mapping[str, Any], units: Units) -> str:
    """Return a spread as sentences: the bands of its first reads, broken limits, and what dominates."""
    told_bands = bands_say(answer, units)
    return " ".join(
        [told_bands, *(limit_says(limit, units) for limit in answer["limits"]), *dominant(answer, units)][:4]
    )


def bands_say(answer: Mapping[str, Any], units: Units, most: int = 2) -> str:
    """Return the bands of the first reads as a sentence."""
    out = []
    ends = ""
    for path, told in list(answer["reads"].items())[:most]:
        text = band_of(path, told, units)
        if text:
            percents = list(told["percentiles"])
            ends = f"{percents[0]} to {percents[-1]} %"
            name = of_read(path, units).name
            out.append(f"{name[:1].upper()}{name[1:]} {text}")
    if not out:
        return f"{answer['samples']} samples."
    return f"{'; '.join(out)} ({ends} of {answer['samples']} samples)."


def limit_says(limit: Mapping[str, Any], units: Units) -> str:
    """Return the chance that a limit is broken."""
    shown = of_read(limit["read"], units)
    most = "at_most" in limit
    value = limit["at_most" if most else "at_least"]
    unit = f" {shown.head[1]}" if shown.head[1] else ""
    side = "above" if most else "below"
    if limit["chance_broken"] is None:
        return f"Whether {shown.name} comes {side} {shown.exact(value)}{unit} no sample tells."
    low, high = limit["between"]
    return (
        f"{shown.name[:1].upper()}{shown.name[1:]} comes {side} {shown.exact(value)}{unit} in {_percent(limit['chance_broken'])} of cases"
        f" (by so many samples {_percent(low)} to {_percent(high)})."
    )


def _percent(share: float) -> str:
    if share in {0.0, 1.0}:
        return f"{100.0 * share:.0f} %"
    return (
        f"{100.0 * share:.2g} %"
        if share < 0.1
        else f"{100.0 * share:.3g} %"
        if share > 0.99
        else f"{100.0 * share:.0f} %"
    )


def dominant(answer: Mapping[str, Any], units: Units) -> list[str]:
    """Return which inputs the spread of each single read comes from, as sentences."""
    out = []
    names = {v["name"]: v["words"] for v in answer["uncertain"]}
    for path, shares in answer["shares"].items():
        own = {k: v for k, v in shares.items() if k != REST and isinstance(v, float)}
        if not own:
            continue
        ranked = sorted(own.items(), key=lambda item: -item[1])
        named = [(k, v) for k, v in ranked if v >= FEW][:2]
        if not named:
            continue
        what = f"the spread of the {of_read(path, units).name}"
        first, share = names.get(named[0][0], named[0][0]), named[0][1]
        tenths = TENTHS[round(10.0 * share)]
        text = (
            f"{tenths[:1].upper()}{tenths[1:]} of {what} comes from {first}"
            if share < 0.95
            else f"All but a little of {what} comes from {first}"
        )
        if share >= 0.15 and tenths.endswith("tenths"):
            text = text.replace(" comes from", " come from", 1)
        if share < 0.9 and len(named) > 1:
            text += f", {TENTHS[max(1, round(10.0 * named[1][1]))]} from {names.get(named[1][0], named[1][0])}"
        out.append(f"{text}.")
    return out


def spread_blocks(answer: Mapping[str, Any], units: Units) -> list[Block]:
    """Return a spread as tables: what was read, limits, shares, and what is uncertain."""
    blocks = []
    reads = answer["reads"]
    percents = list(next(iter(reads.values()))["percentiles"]) if reads else []
    rows, paths = [], []
    for path, told in reads.items():
        shown = of_read(path, units)
        many = not _single(told)
        for i, mean in enumerate(_flat(told["mean"])):
            deviation = _flat(told["standard_deviation"])[i]
            name = f"{shown.name} {i + 1}" if many else shown.name
            root = f"reads.{path}"
            levels = [_text(shown, told["percentiles"][p], i) for p in percents]
            middle = "" if mean is None else shown.text(mean)
            wide = "" if deviation is None else difference(shown, deviation, mean)
            rows.append(
                [
                    f"{name}, {shown.head[1]}" if shown.head[1] else name,
                    _text(shown, told["base"], i),
                    *levels,
                    middle,
                    wide,
                ]
            )
            end = f"[{i}]" if many else ""
            there = [f"{root}.percentiles.{p}{end}" for p in percents]
            paths.append(["", f"{root}.base{end}", *there, f"{root}.mean{end}", ""])
    heads = [
        ("", ""),
        ("as it stands", ""),
        *((f"{p} %", "") for p in percents),
        ("mean", ""),
        ("deviation", ""),
    ]
    if rows:
        blocks.append(Block("What is read", heads, rows, paths))
    if answer["limits"]:
        blocks.append(
            Block(
                "Limits",
                [("", ""), ("broken", "%"), ("from", "%"), ("to", "%")],
                [
                    [_limit_words(v, units), "" if v["chance_broken"] is None else f"{100.0 * v['chance_broken']:.3g}", *(f"{100.0 * b:.3g}" for b in v["between"])]
                    for v in answer["limits"]
                ],
            )
        )  # fmt: skip
    blocks += _share_blocks(answer, units)
    blocks.append(_inputs(answer, units))
    if answer["failures"]:
        blocks.append(
            Block(
                "Samples without an answer, or without a part of it",
                [("", ""), ("samples", "")],
                [[f["reason"], str(f["samples"])] for f in answer["failures"]],
            )
        )
    return blocks


def _text(shown: Shown, values: Any, at: int) -> str:
    value = _flat(values)[at]
    return "" if value is None else shown.text(value)


def _limit_words(limit: Mapping[str, Any], units: Units) -> str:
    shown = of_read(limit["read"], units)
    key = "at_most" if "at_most" in limit else "at_least"
    return f"{shown.name} {key.replace('_', ' ')} {shown.exact(limit[key])} {shown.head[1]}".rstrip()


def _flat(values: Any) -> list[Any]:
    if not isinstance(values, (list, tuple)):
        return [values]
    return [v for part in values for v in _flat(part)]


def _share_blocks(answer: Mapping[str, Any], units: Units) -> list[Block]:
    """Return which part of each read's variance comes from which input, in percent: of lists the average."""
    shares = answer["shares"]
    if not shares:
        return []
    names = list(next(iter(shares.values())))
    heads = [("", ""), *((of_read(path, units).name, "%") for path in shares)]
    sizes = {n: [_average(own[n]) for own in shares.values()] for n in names}
    order = sorted((n for n in names if n != REST), key=lambda n: -max((v or 0.0) for v in sizes[n]))
    shown = [n for n in order if max((v or 0.0) for v in sizes[n]) >= 0.005] + [n for n in names if n == REST]
    words = {v["name"]: v["words"] for v in answer["uncertain"]}
    rows = [[words.get(n, n), *("" if v is None else f"{100.0 * v:.1f}" for v in sizes[n])] for n in shown]
    out = [Block("Where the spread comes from", heads, rows)]
    for path, own in (answer.get("sobol") or {}).items():
        out.append(
            Block(
                f"Sobol indices of the {of_read(path, units).name}",
                [("", ""), ("by itself", "%"), ("with all it acts with", "%")],
                [
                    [words.get(n, n), f"{100.0 * own['first'][n]:.1f}", f"{100.0 * own['total'][n]:.1f}"]
                    for n in own["first"]
                ],
            )
        )
    return out


def _average(values: Any) -> float | None:
    own = [v for v in _flat(values) if v is not None]
    return sum(own) / len(own) if own else None


def _inputs(answer: Mapping[str, Any], units: Units) -> Block:
    rows = []
    for one in answer["uncertain"]:
        shown = of_kind("", one["kind"], units)
        apart = one["kind"] in ("temperature_difference", "pressure_difference")
        size = difference(shown, one["standard_deviation"], 0.0 if apart or one["value"] is None else one["value"])
        deviation = f"{size} {shown.head[1]}".rstrip()
        rows.append([one["words"], deviation, str(one["cells"]) if one["cells"] > 1 else "", one["source"]])
    return Block(UNCERTAIN, [("", ""), ("deviation", ""), ("cells", ""), ("from", "")], rows)
