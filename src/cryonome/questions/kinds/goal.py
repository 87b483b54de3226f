"""The study ``goal``: which value of an input gives a result its target."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal, NotRequired

import numpy as np

from ...document import Document, Reader, Study
from ...document.cell_kinds import kind_of_cell
from ...document.edits import get_at
from ...document.faults import PathParts
from ...document.field_types import AnswerPath, Cell, CellPath, StudyRef
from ...document.kinds import StudyKind, register
from ...document.part import Part
from ...document.reader import EMPTY
from ...errors import DomainError
from ...remarks import Measure, Remark, Value, said
from ...results.answer_paths import key_words
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError, reason_of
from ...results.evaluator import Project
from ...telling.sentences import Units
from ...telling.table_blocks import of_input
from ...units import QuantityError, format_number, label
from ...units.endings import kind_of_key
from ...watch import Watch
from ..state_batches import StateBatch, batch_of
from ..value_reading import Read, needed, number_read, read_what, target_of, told_key
from ..varying import answered_with, around, is_number, read_path, read_subject, scale_of_cells
from .sweep import Input

LOOKED_AT = 17
"""Values looked at for where the target lies between them."""
WIDE = 20.0
"""Ratio of the ends from which on the values looked at are equal in the logarithm."""
PUT_BACK = 1e-5
"""Relative deviation from the target up to which an answer that a value is put back into holds."""


class GoalInput(Part):
    """An input by its path in the document and the two values it may lie between."""

    path: CellPath
    between: tuple[Cell, Cell]

    def cell_kind(self, document: Document) -> str | None:
        """Return what its ends measure: the cell it varies."""
        return kind_of_cell(self.path, document)


class GoalStudy(Study):
    """Asks which value of an input makes a result of a study what it is to be: ``read`` is a path in its answer,
    ``target`` what is wanted there."""

    kind: Literal["goal"]
    of: StudyRef
    vary: GoalInput
    read: AnswerPath
    target: Cell

    def cell_kind(self, document: Document) -> str:
        """Return what its target measures: what is read, of a share in percent a fraction."""
        in_percent = isinstance(self.target, str) and "%" in self.target
        return kind_of_key(told_key(self.read, document))[0] or ("fraction" if in_percent else "")

    def implied(self, document: Document) -> tuple[str, ...]:
        """Return the other goals, which may vary the same input, and the questions that a named value which is read
        asks for."""
        rivals = tuple(s.name for s in document.studies if isinstance(s, GoalStudy) and s is not self)
        return (*rivals, *needed((self.read,), document))


def _path_of(study: Study | None, document: Document) -> PathParts | None:
    return read_path(study.vary.path, document, Reader()) if isinstance(study, GoalStudy) else None


class GoalAnswer(Common):
    """The input's value in SI, what is reached with it, the study's answer there, and ``others`` that reach it too;
    ``varied`` and ``path`` as they were asked."""

    varied: NotRequired[str]
    varied_kind: NotRequired[str]
    path: NotRequired[str]
    value: NotRequired[float]
    reached: NotRequired[float]
    others: NotRequired[list[float]]
    answer: NotRequired[dict[str, Any]]


@dataclass(frozen=True)
class Asked:
    """The study asked, the input (its values the two ends), the path to read and its target in the answer's unit;
    ``rivals`` are other goals that vary the same input."""

    of: str
    input: Input
    named: str
    read: Read
    target: float
    batch: StateBatch | None = None
    rivals: tuple[str, ...] = ()


def read(study: GoalStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    subject = read_subject(study.of, study, document, reader.at("of"))
    here = reader.at("vary")
    path = read_path(study.vary.path, document, here.at("path"))
    found = scale_of_cells(study.vary.between, here.at("between"))
    if found is not None and found[1][0] >= found[1][1]:
        here.at("between").fault("the range is empty or reversed; the first value must lie below the second")
    if not study.read:
        reader.at("read").fault("a path in the answer is wanted, for example vapour_fraction")
    what = read_what(study.read, document, reader.at("read"))
    target: float | None = None
    try:
        if study.target in EMPTY or study.target is None:
            reader.at("target").fault("a target is wanted")
        else:
            target = target_of(study.read, study.target, document)
    except QuantityError as error:
        reader.at("target").fault(str(error))
    for i, value in enumerate(found[1] if found is not None else ()):
        try:
            found[0].si(value)  # type: ignore[index]
        except QuantityError as error:
            here.at("between", i).fault(str(error))
    if reader.bad or subject is None or path is None or found is None or target is None or what is None:
        return None
    given = Input(path, found[0], tuple(found[1]))
    batch = batch_of(subject, [path], [found[0]], [found[1]], [study.read], document)
    rivals = tuple(name for name in study.implied(document) if _path_of(document.study(name), document) == path)
    return Asked(study.of, given, study.vary.path, what, target, batch, rivals)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the lowest value that reaches the target, with all others between the ends."""
    values = _looked_at(asked)
    probe = _Probe(asked, context)
    read = probe.all(values.tolist())
    if not np.isfinite(read).any():
        raise NoAnswerError(Remark("warning", "goal.nowhere"), *probe.reason(float(values[0])))
    solutions = [_between(probe, asked.target, *pair) for pair in _pairs(values, read - asked.target)]
    size = max(abs(asked.target), 1e-12 * float(np.nanmax(np.abs(read))), 1e-300)
    good = sorted({s for s in solutions if s is not None and abs(probe(s) - asked.target) <= 1e-6 * size})
    if not good:
        raise NoAnswerError(_out_of_reach(asked, read))
    # Each is put back into the question itself, whose answer is what counts.
    held = [s for s in good if abs(probe.put_back(s) - asked.target) <= PUT_BACK * size]
    if not held:
        raise DomainError(_refused(asked, good[0], probe.put_back(good[0])))
    good = held
    value = good[0]
    failed = int((~np.isfinite(read)).sum())
    notes = [f"{failed} of {read.size} values looked at have no answer"] if failed else []
    if len(good) > 1:
        notes.append(f"{len(good)} values reach the target; the lowest is told, the others beside it")
    if asked.rivals:
        told = ", ".join(f"'{name}'" for name in asked.rivals)
        notes.append(f"{told} varies the same input; the value of one goal only can be taken into the project")
    scale = asked.input.scale
    return {
        "varied": asked.named,
        "varied_kind": scale.kind,
        "path": asked.read.key,
        "value": scale.si(value),
        "reached": probe.put_back(value),
        "others": [scale.si(v) for v in good[1:]],
        "answer": probe.answer(value),
        "notes": notes,
    }


@dataclass(frozen=True)
class GoalCurve:
    """What is read over the range of the input: ``values`` (N,) in the ``unit`` the input is written in, ``read``
    (N,) in the unit of the answer's key, nan where there is no answer."""

    values: np.ndarray
    read: np.ndarray
    unit: str


def goal_curve(asked: Asked, context: Context) -> GoalCurve:
    """Return what is read between the ends of a goal's input, at the values that are looked at first."""
    values = _looked_at(asked)
    return GoalCurve(values, _Probe(asked, context).all(values.tolist()), asked.input.scale.unit)


def _looked_at(asked: Asked) -> np.ndarray:
    low, high = asked.input.values
    even = low > 0.0 and high / low > WIDE
    return np.geomspace(low, high, LOOKED_AT) if even else np.linspace(low, high, LOOKED_AT)


class _Probe:
    """What is read with a value of the input, nan where there is no answer; remembered. Conditions of a flash go as a
    batch."""

    def __init__(self, asked: Asked, context: Context) -> None:
        self._asked, self._context = asked, context
        self._known: dict[float, float] = {}

    def __call__(self, value: float) -> float:
        """Return what is read with one value."""
        if value not in self._known:
            self._context.watch.check()
            if self._asked.batch is not None:
                self._known[value] = float(self._asked.batch.read([(value,)], self._context)[0][0][0])
            else:
                try:
                    self._known[value] = self._read(value, brief=True)
                except DomainError:
                    self._known[value] = float("nan")
        return self._known[value]

    def all(self, values: list[float]) -> np.ndarray:
        """Return what is read with several values, (N,)."""
        if self._asked.batch is not None:
            (found,), _ = self._asked.batch.read([(v,) for v in values], self._context)
            self._known |= dict(zip(values, found.tolist()))
        out = []
        for i, value in enumerate(values):
            self._context.watch.at(0.8 * i / len(values))
            out.append(self(value))
        return np.array(out)

    def answer(self, value: float) -> Answer:
        """Return the study's answer with a value. Raises DomainError."""
        return self._answered(value)[0]

    def _answered(self, value: float, reads: tuple[str, ...] = ()) -> tuple[Answer, Project]:
        change = [(self._asked.input.path, self._asked.input.scale.cell(value))]
        return answered_with(self._asked.of, change, self._context, Watch(self._context.watch.cancelled), reads)

    def _read(self, value: float, brief: bool = False) -> float:
        """Return what is read with a value; ``brief`` asks for no more of the answer than that. Raises DomainError."""
        read = self._asked.read
        answer, project = self._answered(value, (read.key,) if brief and read.tree is None else ())
        return number_read(read, answer, self._asked.of, project)

    def put_back(self, value: float) -> float:
        """Return what the study itself answers with a value, nan where it does not."""
        try:
            return self._read(value)
        except DomainError:
            return float("nan")

    def reason(self, value: float) -> list[Remark]:
        """Return why there is nothing to read with a value."""
        try:
            self._read(value)
        except DomainError as error:
            found = reason_of(error)
            return [said(found)] if isinstance(found, str) else found
        return []


def _pairs(values: np.ndarray, off: np.ndarray) -> list[tuple[float, float]]:
    """Return the neighbours between which the target lies; one that meets it stands with itself."""
    out = [(float(v), float(v)) for v, o in zip(values, off) if o == 0.0]
    return out + [(float(a), float(b)) for a, b, x, y in zip(values, values[1:], off, off[1:]) if x * y < 0.0]


def _between(reached: Callable[[float], float], target: float, low: float, high: float) -> float | None:
    """Return where the target is reached between two values; None where the result jumps over it or has no answer
    there."""
    from scipy.optimize import brentq

    if low == high:
        return low
    try:
        return float(brentq(lambda v: _finite(reached(v)) - target, low, high, xtol=1e-14 * abs(high), rtol=1e-14))
    except (ValueError, ArithmeticError, RuntimeError):
        return None


def _finite(value: float) -> float:
    if not np.isfinite(value):
        raise ArithmeticError
    return value


def _out_of_reach(asked: Asked, read: np.ndarray) -> Remark:
    kind, factor = kind_of_key(asked.read.key)

    def told(value: float) -> Value:
        return Measure(value * factor, kind, None) if kind else format_number(value, 5)

    low, high = float(np.nanmin(read)), float(np.nanmax(read))
    values = {"what": key_words(asked.read.key), "target": told(asked.target), "low": told(low), "high": told(high)}
    return Remark("warning", "goal.out_of_reach", values=values)


def _refused(asked: Asked, value: float, got: float) -> str:
    return (
        f"no value was found that holds: with {format_number(value, 6)} {asked.input.scale.unit} the question itself gives "
        f"{format_number(got, 6)} for {key_words(asked.read.key)}, not {format_number(asked.target, 6)}"
    )


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    more = f" and {len(answer['others'])} more" if answer["others"] else ""
    varied = of_input(answer["varied"], answer["varied_kind"], units)
    return f"reached at {varied.text(answer['value'])} {varied.head[1]}".rstrip() + more


def begin(study: str, at: tuple[float, float] | None) -> GoalStudy:
    """Return a new question about a state of the document."""
    return GoalStudy(
        name=f"Goal of {study}",
        kind="goal",
        of=study,
        vary=GoalInput(path=f"studies[{study}].temperature", between=("-50 degC", "150 degC")),
        read="vapour_fraction",
        target=0.5,
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the value, in the unit that its ends were typed in."""
    scale = asked.input.scale
    values = [
        f"{format_number(scale.number(v), 4)} {label(scale.unit) if scale.unit else ''}".strip()
        for v in (answer["value"], *answer["others"])
    ]
    return f"{values[0]}" + (f", and as well at {', '.join(values[1:])}." if len(values) > 1 else ".")


def follows(study: GoalStudy, path: PathParts, value: object, document: Document) -> dict[PathParts, object]:
    """Return what changes with a cell: another input lies between values about its present one."""
    if path != ("vary", "path"):
        return {path: value}
    parts = read_path(str(value), document, Reader())
    present = get_at(document, parts) if parts is not None else None
    return {path: value, **({("vary", "between"): around(present, 2.0)} if is_number(present) else {})}


register(
    StudyKind(
        name="goal", title="Goal", meaning="which value of an input makes a result what it is to be", model=GoalStudy,
        answer=GoalAnswer, read=read, solve=solve, line=line, begin=begin, subject="study", order=85,
        follows=follows, sentence="Which {vary.path}, between {vary.between.0} and {vary.between.1}, makes {read} of {of} {target}?",
        phrases=("makes", "make equal", "so that", "goal", "which makes", "reach"),
        says=says,
    )
)  # fmt: skip
