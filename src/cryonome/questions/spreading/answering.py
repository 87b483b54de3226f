"""The answer of a spread, gathered from its samples."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...errors import DomainError
from ...results.context import Answer
from ...results.evaluator import Project
from ...telling.banded import PATHS, banded
from ...telling.panels import Curve, Panel
from ...telling.spread_words import REST
from ...uncertainty.across import band
from ...uncertainty.design import BLOCK
from ...uncertainty.gathered import KEPT, Gathered, chance
from ...uncertainty.shares import Shares, shares_of
from ...watch import Watch
from ..value_reading import Read
from .conditions import condition_samples, conditions_of
from .groups import Drawing
from .reads import read_of
from .running import Sampled
from .shared import samples

Array = NDArray[np.float64]

EXACT = 2_000_000
"""Single values of one read that are all kept: eight bytes each. Of lists a choice is (:data:`KEPT`)."""
SHARES_OF = 4000
"""Samples whose inputs are looked at for shares."""
SHARE_LISTS = 60
"""Numbers of a list for each of which shares are told."""
LEVELS = 41
"""Points of the distribution of a single value, from 0 to 100 %."""
TOLD_REASONS = 3


@dataclass(frozen=True)
class Limit:
    """A limit on a read, by its place among the reads: ``value`` in its unit, that is not to be passed upwards where
    ``most``, else downwards."""

    read: int
    value: float
    most: bool


@dataclass
class Tally:
    """What comes of the samples: the reads as the inputs stand, values of each read, reasons of failures, and curves of
    the first of them."""

    reads: Sequence[Read]
    base: Sequence[Array | DomainError]
    shapes: list[tuple[int, ...] | None]
    seed: int
    gathered: list[Gathered | None] = field(default_factory=list)
    broken: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    tested: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    failed: int = 0
    reasons: dict[str, int] = field(default_factory=dict)
    unlike: list[int] = field(default_factory=list)
    curves: list[list[Panel]] = field(default_factory=list)
    count: int = 0

    def begin(self, limits: int) -> None:
        """Make ready for samples."""
        for shape in self.shapes:
            most = EXACT if shape == () else KEPT
            self.gathered.append(None if shape is None else Gathered(self.seed, most))
        self.broken, self.tested = np.zeros(limits, np.int64), np.zeros(limits, np.int64)
        self.unlike = [0] * len(self.reads)

    def add(self, first: int, found: Sequence[Any], limits: Sequence[Limit]) -> None:
        """Take samples: of each its reads and panels, or why it has no answer."""
        self.count += len(found)
        blocks = [np.full((len(found), _size(s)), np.nan) if s is not None else None for s in self.shapes]
        for row, sample in enumerate(found):
            if isinstance(sample, DomainError):
                self.failed += 1
                self._reason(str(sample))
                continue
            values, panels = sample
            if panels is not None:
                self.curves.append(panels)
            for k, value in enumerate(values):
                block = blocks[k]
                if block is None:
                    continue
                if isinstance(value, DomainError):
                    self._reason(str(value))
                elif value.shape != self.shapes[k]:
                    self.unlike[k] += 1
                else:
                    block[row] = value.ravel()
        for k, block in enumerate(blocks):
            own = self.gathered[k]
            if block is not None and own is not None:
                own.add(block, first)
        for place, limit in enumerate(limits):
            block = blocks[limit.read]
            if block is not None:
                there = np.isfinite(block).any(axis=1)
                over = block > limit.value if limit.most else block < limit.value
                self.tested[place] += int(there.sum())
                self.broken[place] += int((over & np.isfinite(block)).any(axis=1).sum())

    def _reason(self, text: str) -> None:
        if text in self.reasons or len(self.reasons) < 50:
            self.reasons[text] = self.reasons.get(text, 0) + 1


def _size(shape: tuple[int, ...]) -> int:
    return int(np.prod(shape, dtype=int))


def tally_of(
    of: str, kind: str, reads: Sequence[Read], limits: Sequence[Limit], base: tuple[Answer, Project], drawing: Drawing,
    with_bands: bool, watch: Watch,
) -> tuple[Tally, list[Panel]]:  # fmt: skip
    """Return what comes of all samples, and the panels of the answer as the inputs stand, none without bands. Raises
    Cancelled."""
    answer, project = base
    panels = banded(kind, answer) if with_bands else []
    asked = Sampled(of, paths_read(kind, reads, bool(panels)))
    # What samples are held against is one of them, of inputs as they stand: its lines have as many points as theirs.
    ((alike, beside),) = asked.samples([{}], project, watch.silent())
    if not isinstance(alike, DomainError):
        answer, project = alike, beside
        panels = banded(kind, alike) if panels else []
    own = read_of(reads, answer, of, project)
    tally = Tally(reads, own, [None if isinstance(v, DomainError) else v.shape for v in own], drawing.seed)
    tally.begin(len(limits))
    project = base[1]
    batch = None if panels else conditions_of(of, reads, drawing, project.document)
    if batch is not None:
        for first, found in condition_samples(batch, drawing, project, watch):
            tally.add(first, found, limits)
        return tally, panels
    for first, found in samples(asked, drawing, project, reads, kind if panels else "", watch):
        tally.add(first, found, limits)
    return tally, panels


def paths_read(kind: str, reads: Sequence[Read], with_bands: bool) -> tuple[str, ...]:
    """Return the paths that are read of each sample's answer, nothing where all of it is wanted."""
    if any(r.tree is not None for r in reads) or (with_bands and kind not in PATHS):
        return ()
    return (*(r.key for r in reads), *(PATHS[kind] if with_bands else ()))


def reads_told(tally: Tally, percents: Array) -> dict[str, Answer]:
    """Return mean, deviation and percentiles of every read, by its path."""
    out: dict[str, Answer] = {}
    for read, shape, own, there, unlike in zip(tally.reads, tally.shapes, tally.gathered, tally.base, tally.unlike):
        if own is None or shape is None or isinstance(there, DomainError):
            continue
        levels = own.percentiles(percents)
        told: Answer = {
            "base": _nested(there.ravel(), shape),
            "mean": _nested(own.mean, shape),
            "standard_deviation": _nested(own.deviation, shape),
            "percentiles": {f"{p:g}": _nested(row, shape) for p, row in zip(percents.tolist(), levels)},
            "missing": int(tally.count - own.number.min()) if own.number.size else 0,
        }
        if shape == () and own.number[0] > 1:
            told["distribution"] = own.percentiles(np.linspace(0.0, 100.0, LEVELS))[:, 0].tolist()
        if unlike:
            told["other_length"] = unlike
        out[read.key] = told
    return out


def _nested(values: Array, shape: tuple[int, ...]) -> Any:
    """Return values as an answer holds them, null where there is none."""
    told = [v if np.isfinite(v) else None for v in np.ravel(values).tolist()]
    return np.array(told, dtype=object).reshape(shape).tolist() if shape else told[0]


def shares_told(tally: Tally, drawing: Drawing) -> tuple[dict[str, Answer], list[str], bool]:
    """Return the shares of the groups in each read, by its path, which of them are of ranks, and whether inputs go
    together. Of a list they are those of each number, lists beside it."""
    shares: dict[str, Answer] = {}
    ranked, tied = [], False
    names = drawing.names
    known: dict[int, Array] = {}
    for read, shape, own in zip(tally.reads, tally.shapes, tally.gathered):
        if own is None or shape is None or own.count < 4 or _size(shape) > SHARE_LISTS:
            continue
        rows, values = own.kept
        rows, values = rows[rows < SHARES_OF], values[rows < SHARES_OF]
        scores = drawing.drivers(_scores_of(rows, drawing, known))
        found = []
        for column in values.T:
            good = np.isfinite(column)
            one = shares_of(scores[good], column[good], drawing.correlation) if good.sum() > 3 else None
            found.append(one)
            tied = tied or bool(one is not None and one.correlated)
        if any(f is not None and f.ranks for f in found):
            ranked.append(read.key)
        by_group = [np.full(len(names), np.nan) if f is None else drawing.by_name(f.shares) for f in found]
        told = [_rest(f) for f in found]
        parts = {name: _nested(np.array([g[k] for g in by_group]), shape) for k, name in enumerate(names)}
        shares[read.key] = {**parts, REST: _nested(np.array(told), shape)}
    return shares, ranked, tied


def _rest(found: Shares | None) -> float:
    return float("nan") if found is None else max(0.0, 1.0 - found.told)


def _scores_of(rows: NDArray[np.int64], drawing: Drawing, known: dict[int, Array]) -> Array:
    out = np.empty((len(rows), drawing.scores_each))
    for block in np.unique(rows // BLOCK):
        if int(block) not in known:
            known[int(block)] = drawing.block(int(block))
        mine = rows // BLOCK == block
        out[mine] = known[int(block)][rows[mine] % BLOCK]
    return out


def bands_told(tally: Tally, panels: Sequence[Panel], percents: tuple[float, float]) -> list[Answer]:
    """Return the band of every curve of the picture: the curve, and the curves at the two percents."""
    out: list[Answer] = []
    for place, panel in enumerate(panels):
        for own in panel.curves:
            lines = [c for sample in tally.curves if (c := _same(sample, place, own)) is not None]
            if len(lines) < 2:
                continue
            found = band((np.array(own.x), np.array(own.y)), [(np.array(c.x), np.array(c.y)) for c in lines], percents)
            there = np.isfinite(found.low_x) & np.isfinite(found.low_y)
            if not there.any():
                continue
            out.append(
                {
                    "panel": place,
                    "name": own.name,
                    "x": panel.x,
                    "y": panel.y,
                    "share": own.share,
                    "line": {"x": found.x.tolist(), "y": found.y.tolist()},
                    "low": {"x": _nested(found.low_x, found.x.shape), "y": _nested(found.low_y, found.x.shape)},
                    "high": {"x": _nested(found.high_x, found.x.shape), "y": _nested(found.high_y, found.x.shape)},
                    "samples": len(lines),
                }
            )
    return out


def _same(sample: Sequence[Panel], place: int, own: Curve) -> Curve | None:
    if place >= len(sample):
        return None
    return next((c for c in sample[place].curves if c.name == own.name and len(c.x) > 1), None)


def limits_told(tally: Tally, limits: Sequence[Limit]) -> list[Answer]:
    """Return the chance that each limit is broken, with where it lies 95 times of 100."""
    out = []
    for limit, broken, number in zip(limits, tally.broken.tolist(), tally.tested.tolist()):
        share, low, high = chance(broken, number)
        out.append(
            {
                "read": tally.reads[limit.read].key,
                "at_most" if limit.most else "at_least": limit.value,
                "chance_broken": share if number else None,
                "between": [low, high],
                "broken": broken,
                "samples": number,
            }
        )
    return out
