"""The study ``spread``: how sure an answer is, by many samples of what is uncertain about its inputs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any, ClassVar, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.cell_paths import NoPathError, named_path, resolved
from ...document.field_types import AnswerPath, Cell, OneOf, Plain, StudyRef
from ...document.kinds import StudyKind, register
from ...document.part import Part
from ...document.reader import EMPTY
from ...errors import DomainError
from ...remarks import Remark
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...telling.banded import BANDED
from ...telling.read_words import read_words
from ...telling.sentences import Units
from ...telling.spread_words import spread_line, spread_says
from ...uncertainty.gathered import KEPT
from ...units import QuantityError
from ..asking import input_words
from ..spreading.answering import (
    SHARES_OF,
    TOLD_REASONS,
    Limit,
    Tally,
    bands_told,
    limits_told,
    paths_read,
    reads_told,
    shares_told,
    tally_of,
)
from ..spreading.groups import FIRST, Drawing, Group
from ..spreading.inputs import OF_TESTS, UncertainInput, groups_of, read_inputs
from ..spreading.reads import HEADLINES, headlines, read_of
from ..spreading.running import Sampled
from ..spreading.sampled import BANDS_OF
from ..spreading.sobol_shares import sobol_told
from ..spreading.stated import REPEATABILITY, REPRODUCIBILITY
from ..value_reading import Read, needed, read_what, target_of
from ..varying import read_subject

MOST = 1_000_000
"""Samples of one question."""
LEAST = 5
MOST_READS = 40


class SpreadLimit(Part):
    """A limit on what is read: the path, and what it is to be ``at_least`` or ``at_most``."""

    read: AnswerPath = ""
    at_least: Cell = None
    at_most: Cell = None


class SpreadStudy(Study):
    """Asks a study of the document ``of`` again in many ``samples`` of its ``uncertain`` inputs (none named: what the
    methods of its samples state, by ``precision``), the same for the same ``seed``. ``read`` are paths in its answer,
    ``percentiles`` what is told of them in percent, ``limits`` what is not to be passed, ``bands`` whether the curves
    of its picture get bands, and ``sobol``, a power of two, asks for Sobol indices by a design of that size."""

    varies: ClassVar[bool] = True
    may_be_asked: ClassVar[bool] = True

    kind: Literal["spread"]
    of: StudyRef
    read: tuple[AnswerPath, ...] = ()
    uncertain: tuple[UncertainInput, ...] = ()
    samples: Plain = 300
    seed: Plain = 1
    percentiles: tuple[Plain, ...] = (5, 50, 95)
    precision: Annotated[str, OneOf((REPRODUCIBILITY, REPEATABILITY))] = REPRODUCIBILITY
    limits: tuple[SpreadLimit, ...] = ()
    bands: bool | str = True
    sobol: Plain = None

    def implied(self, document: Document) -> tuple[str, ...]:
        """Return the questions that named values which are read ask for."""
        return needed((*self.read, *(limit.read for limit in self.limits)), document)


class ReadAnswer(TypedDict):
    """What was read, in the unit of its path: as the inputs stand, the mean, standard deviation and percentiles of the
    samples, lists where the answer has lists, null where there is none; how many samples lack it, or have a list of
    ``other_length``; of a single number its ``distribution``, the percentiles at each 2.5 percent."""

    base: Any
    mean: Any
    standard_deviation: Any
    percentiles: dict[str, Any]
    missing: int
    other_length: NotRequired[int]
    distribution: NotRequired[list[float]]


class InputAnswer(TypedDict):
    """An uncertain input: the ``name`` that its shares are told by and the same in words, how many cells it is, path,
    value and standard deviation in SI of the one with the greatest, what kind of quantity these are, and where it
    comes from."""

    name: str
    words: str
    path: str
    cells: int
    kind: str
    value: float | None
    standard_deviation: float
    source: str


class LimitAnswer(TypedDict):
    """A limit and the chance that it is broken, with the shares between which that lies 95 times of 100."""

    read: str
    at_least: NotRequired[float]
    at_most: NotRequired[float]
    chance_broken: float | None
    between: list[float]
    broken: int
    samples: int


class LineAnswer(TypedDict):
    """Points of a curve, null where too few samples reach."""

    x: list[float | None]
    y: list[float | None]


class BandAnswer(TypedDict):
    """A curve of the picture over the keys ``x`` and ``y``, and where its samples lie at the lowest and the highest
    percentile."""

    panel: int
    name: str
    x: str
    y: str
    share: float | None
    line: LineAnswer
    low: LineAnswer
    high: LineAnswer
    samples: int


class SobolAnswer(TypedDict):
    """First-order and total Sobol indices of a read by input, and how many answers they took."""

    first: dict[str, float]
    total: dict[str, float]


class FailureAnswer(TypedDict):
    """Why samples have no answer, and how many."""

    reason: str
    samples: int


class SpreadAnswer(Common):
    """What the samples say: ``reads`` by path, ``shares`` of the variance of each by input (``ranks`` names those that
    are shares of ranks), ``limits``, ``bands``; how many ``samples`` there were and how many ``failed``, with reasons;
    what was ``uncertain``; whether lists are told by a ``sketch`` of the samples."""

    of: NotRequired[str]
    samples: NotRequired[int]
    seed: NotRequired[int]
    failed: NotRequired[int]
    failures: NotRequired[list[FailureAnswer]]
    uncertain: NotRequired[list[InputAnswer]]
    reads: NotRequired[dict[str, ReadAnswer]]
    shares: NotRequired[dict[str, dict[str, Any]]]
    ranks: NotRequired[list[str]]
    limits: NotRequired[list[LimitAnswer]]
    sobol: NotRequired[dict[str, SobolAnswer]]
    bands: NotRequired[list[BandAnswer]]
    sketch: NotRequired[bool]


@dataclass(frozen=True)
class Asked:
    """The study asked and its kind, the reads, what is uncertain (cells named one by one as groups), which precision,
    samples and seed, percentiles, limits, whether bands are drawn, and the size of a Sobol design, 0 for none."""

    of: str
    kind: str
    read: tuple[Read, ...]
    given: tuple[UncertainInput, ...]
    cells: tuple[Group, ...]
    precision: str
    count: int
    seed: int
    percentiles: tuple[float, ...]
    limits: tuple[Limit, ...]
    bands: bool
    sobol: int
    shares: bool = True


def read(study: SpreadStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    subject = read_subject(study.of, study, document, reader.at("of"))
    cells = read_inputs(study.uncertain, document, reader.at("uncertain"))
    count = _whole(study.samples, 300, LEAST, MOST, "a number of samples", reader.at("samples"))
    seed = _whole(study.seed, 1, 0, 2**31, "a seed", reader.at("seed"))
    sobol = _whole(study.sobol, 0, 2, 2**14, "the size of a Sobol design", reader.at("sobol"))
    if sobol and sobol & (sobol - 1):
        reader.at("sobol").fault(f"{sobol} is no power of two; write one, for example 64")
    percents = [reader.at("percentiles", i).number(c, "a percentile") for i, c in enumerate(study.percentiles)]
    for i, p in enumerate(percents):
        if p is not None and not 0.0 < p < 100.0:
            reader.at("percentiles", i).fault(f"{p:g} is no percentile; write one between 0 and 100, for example 95")
    if len(study.percentiles) < 2:
        reader.at("percentiles").fault("give at least two percentiles, the ends of a band, for example 5 and 95")
    if not isinstance(study.bands, bool):
        reader.at("bands").fault(
            f"'{study.bands}' is neither yes nor no; write true for bands of the picture, else false"
        )
    paths = list(study.read)
    limits = [_limit(limit, paths, document, reader.at("limits", i)) for i, limit in enumerate(study.limits)]
    for i, path in enumerate(study.read):
        if path in study.read[:i]:
            reader.at("read", i).fault("this is read already; leave one out")
    if len(paths) > MOST_READS:
        reader.at("read").fault(f"{len(paths)} reads are too many; give at most {MOST_READS}")
    wanted = [
        read_what(path, document, reader.at("read", i) if i < len(study.read) else reader.at("limits"))
        for i, path in enumerate(paths)
    ]
    if reader.bad or subject is None or count is None or seed is None or sobol is None:
        return None
    return Asked(
        study.of, subject.kind, tuple(w for w in wanted if w is not None), study.uncertain, cells, study.precision, count, seed,
        tuple(sorted({p for p in percents if p is not None})), tuple(v for v in limits if v is not None), study.bands is True, sobol,
    )  # fmt: skip


def narrowed(asked: Asked, paths: Sequence[str]) -> Asked:
    """Return what is asked where only these paths of the answer are read: numbers alone, as a goal does."""
    if not all(path.startswith(("reads.", "limits[")) for path in paths):
        return asked
    return replace(asked, bands=False, sobol=0, shares=False)


def _whole(cell: Cell, usual: int, least: int, most: int, what: str, here: Reader) -> int | None:
    """Return a whole number, the usual one of an empty cell; None with a fault."""
    if cell in EMPTY:
        return usual
    value = here.number(cell, what)
    if value is None:
        return None
    if value != int(value) or not least <= value <= most:
        here.fault(f"{value:g} is not {what} that is possible; write a whole number from {least} to {most}")
        return None
    return int(value)


def _limit(given: SpreadLimit, paths: list[str], document: Document, here: Reader) -> Limit | None:
    """Return a limit, its read entered among the ``paths``; None with a fault."""
    if not given.read:
        here.at("read").fault("a path in the answer is wanted, for example points[0].pressure_Pa")
        return None
    if given.read not in paths:
        paths.append(given.read)
    both = [k for k in ("at_least", "at_most") if getattr(given, k) not in EMPTY]
    if len(both) != 1:
        here.at("at_most").fault("a limit is either at_least or at_most a value; give one of them")
        return None
    try:
        value = target_of(given.read, getattr(given, both[0]), document)
    except QuantityError as error:
        here.at(both[0]).fault(str(error))
        return None
    return Limit(paths.index(given.read), value, both[0] == "at_most")


def solve(asked: Asked, context: Context) -> Answer:
    """Return what the samples say."""
    project, watch = context.project, context.watch
    subject = project.document.study(asked.of)
    assert subject is not None
    remarks: list[Remark] = []
    groups = groups_of(asked.given, asked.cells, subject, asked.precision, project, remarks)
    drawing = Drawing(groups, asked.count, asked.seed)
    usual = tuple(Read(path) for path in HEADLINES.get(asked.kind, ()))
    known = asked.read or usual
    brief = paths_read(asked.kind, known, asked.bands and asked.kind in BANDED) if known else ()
    base = Sampled(asked.of, brief).base(project, watch.part(0.0, 0.02))
    reads = asked.read or tuple(Read(path) for path in headlines(asked.kind, base[0]))
    if not reads:
        raise DomainError(f"'{asked.of}' answers with no number that could be read; name one under read")
    there = read_of(reads, base[0], asked.of, base[1])
    lost = [v for v in there if isinstance(v, DomainError)]
    if len(lost) == len(there):
        raise lost[0]
    rest = watch.part(0.02, 0.7 if asked.sobol else 1.0)
    tally, panels = tally_of(asked.of, asked.kind, reads, asked.limits, base, drawing, asked.bands, rest)
    if tally.failed == tally.count:
        first = next(iter(tally.reasons), "")
        raise NoAnswerError(Remark("warning", "spread.none", values={"count": tally.count, "why": first}))
    percents = np.array(asked.percentiles)
    shares, ranks, tied = shares_told(tally, drawing) if asked.shares else ({}, [], False)
    told = reads_told(tally, percents)
    if not asked.read:
        # Of what is read by itself, what the inputs do not move says nothing.
        still = {k for k, v in told.items() if _stands_still(v)}
        told = {k: v for k, v in told.items() if k not in still or len(still) == len(told)}
        shares = {k: v for k, v in shares.items() if k in told}
    ends = asked.percentiles[0], asked.percentiles[-1]
    out: Answer = {
        "of": asked.of,
        "samples": tally.count,
        "seed": asked.seed,
        "failed": tally.failed,
        "failures": _failures(tally),
        "uncertain": [_input(g, project.document) for g in groups],
        "reads": told,
        "shares": shares,
        "ranks": [k for k in ranks if k in told],
        "limits": limits_told(tally, asked.limits),
        "bands": bands_told(tally, panels, ends),
        "sketch": any(g is not None and not g.whole for g in tally.gathered),
    }
    if asked.sobol:
        out["sobol"] = sobol_told(asked.sobol, asked.of, reads, drawing, base, watch.part(0.7, 1.0))
    notes = [*remarks, *_notes(asked, groups, tally, tied, out), *(said_of(v) for v in lost)]
    return {**out, "notes": notes}


STILL = 1e-9
"""Deviation relative to the mean below which a read is not moved by anything but rounding."""


def _stands_still(told: Answer) -> bool:
    deviation, mean = (np.array(told[k], dtype=float) for k in ("standard_deviation", "mean"))
    return not np.any(deviation > STILL * np.abs(mean))


def said_of(error: DomainError) -> Remark:
    """Return why something is not read as a remark."""
    return Remark("warning", "plain.said", values={"text": str(error).rstrip(".?") + "."})


def _failures(tally: Tally) -> list[Answer]:
    most = sorted(tally.reasons.items(), key=lambda item: -item[1])[:TOLD_REASONS]
    return [{"reason": text, "samples": number} for text, number in most]


def _is_path(name: str, document: Document) -> bool:
    """Tell whether an input is told by its path, as it was given."""
    try:
        resolved(name, document)
    except NoPathError:
        return False
    return True


def _input(group: Group, document: Document) -> Answer:
    place = int(np.argmax(group.deviation))
    try:
        path = named_path(group.cells[place], document)
    except (KeyError, IndexError, AttributeError, TypeError):
        path = ""
    return {
        "name": group.name,
        "words": input_words(group.cells[0], document) if path and _is_path(group.name, document) else group.name,
        "path": path,
        "cells": len(group.cells),
        "kind": group.kind,
        "value": group.centre[place],
        "standard_deviation": group.deviation[place],
        "source": group.source,
    }


def _notes(asked: Asked, groups: Sequence[Group], tally: Tally, tied: bool, out: Answer) -> list[Remark]:
    notes = []
    if not asked.given:
        notes.append(Remark("estimate", f"spread.stated_{asked.precision}", values={"count": len(groups)}))
        tested = sum(g.source == OF_TESTS for g in groups)
        if tested:
            notes.append(Remark("estimate", "spread.of_tests", values={"count": tested}))
    if any(g.shared for g in groups):
        notes.append(Remark("estimate", "spread.common"))
    if any(g.rising for g in groups):
        notes.append(Remark("estimate", "spread.rising"))
    if tally.failed:
        notes.append(
            Remark(
                "warning",
                "spread.failed",
                values={"failed": tally.failed, "count": tally.count, "why": next(iter(tally.reasons), "")},
            )
        )
    short = {k: v["missing"] - tally.failed for k, v in out["reads"].items() if v["missing"] > tally.failed}
    for key, number in short.items():
        notes.append(
            Remark(
                "warning", "spread.missing", values={"read": read_words(key), "missing": number, "count": tally.count}
            )
        )
    if out["reads"] and all(_stands_still(v) for v in out["reads"].values()):
        notes.append(Remark("warning", "spread.still"))
    if tied:
        notes.append(Remark("estimate", "spread.correlated"))
    for key in out["ranks"]:
        notes.append(Remark("estimate", "spread.ranks", values={"read": read_words(key)}))
    if out["sketch"]:
        notes.append(Remark("estimate", "spread.sketch", values={"kept": KEPT}))
    if tally.count > SHARES_OF:
        notes.append(Remark("estimate", "spread.some_shares", values={"count": SHARES_OF}))
    if out["bands"] and tally.count > BANDS_OF:
        notes.append(Remark("estimate", "spread.some_bands", values={"count": BANDS_OF}))
    scores = sum(g.size for g in groups)
    if tally.count < 2 * scores:
        notes.append(
            Remark("warning", "spread.few", values={"count": tally.count, "scores": scores, "wanted": 3 * scores})
        )
    return notes


def sooner(asked: Asked) -> Asked:
    """Return what is asked of the first samples alone, for a first picture."""
    return replace(asked, count=min(asked.count, FIRST), sobol=0)


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    return spread_line(answer, units)


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the band, and what dominates it."""
    return spread_says(answer, units)


def begin(study: str, at: tuple[float, float] | None) -> SpreadStudy:
    """Return a new question about how sure another is."""
    return SpreadStudy(name=f"How sure is {study}", kind="spread", of=study)


register(
    StudyKind(
        name="spread", title="Spread", meaning="how sure an answer is, and which input makes it so", model=SpreadStudy,
        answer=SpreadAnswer, read=read, solve=solve, line=line, begin=begin, subject="study", order=90, sooner=sooner, narrowed=narrowed,
        sentence="How sure is {of}[, of which {read}][?, with {uncertain#inputs}][?, within {limits#limits}], by {samples} samples[? from seed {seed}][?, told at {percentiles} percent][?, methods by their {precision}][?, with bands: {bands}][?, and Sobol indices by {sobol}]?",
        phrases=("how sure", "how certain", "uncertainty", "spread"),
        says=says,
    )
)  # fmt: skip
