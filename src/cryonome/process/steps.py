"""What a step of a chain is: the streams it takes and gives, its numbers, what comes of it, and what it refuses."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..errors import DomainError
from ..remarks import Measure, Remark, Value
from ..watch import UNWATCHED, Watch
from .medium import Medium, Stream, found

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

NOTHING = 1e-14
"""Flow, relative to what comes in, below which a stream is empty."""


@dataclass(frozen=True)
class Each:
    """A value of every variant (N,), SI, of a kind of quantity; "" for a plain number."""

    values: Array
    kind: str
    digits: int | None = None


@dataclass(frozen=True)
class Told:
    """Something to say of the variants ``where`` (N,)."""

    kind: str
    code: str
    where: Mask
    values: Mapping[str, Value | Each] = field(default_factory=dict)

    def of(self, row: int) -> Remark | None:
        """Return the remark of one variant, None where there is nothing to say of it."""
        if not self.where[row]:
            return None
        values: dict[str, Value] = {}
        for key, value in self.values.items():
            if isinstance(value, Each):
                number = float(value.values[row])
                values[key] = Measure(number, value.kind, value.digits) if value.kind else number
            else:
                values[key] = value
        return Remark(self.kind, self.code, "", values)


class StepFault(DomainError):
    """A step that cannot be done in some variants, with why."""

    def __init__(self, told: Told) -> None:
        super().__init__(told.code)
        self.told = told


@dataclass(frozen=True)
class Step:
    """A step: its ``name`` and ``kind`` (of :data:`KINDS`), the streams it takes and gives by place, choices by key
    (``words``) and numbers (N,) by key, SI."""

    name: str
    kind: str
    takes: tuple[str, ...]
    gives: tuple[str, ...]
    words: Mapping[str, str] = field(default_factory=dict)
    numbers: Mapping[str, Array] = field(default_factory=dict)
    outlets: tuple[str, ...] = ()
    """What each stream that is given holds, where that differs: vapour, liquid, aqueous."""

    def number(self, key: str, otherwise: float | Array = 0.0) -> Array:
        """Return a number (N,), or what stands for it where it was not given."""
        return np.asarray(self.numbers.get(key, otherwise), dtype=float)


@dataclass(frozen=True)
class Outcome:
    """What came of a step: its ``streams`` in their order, ``heat`` and ``work`` (N,) W put into the fluid, further
    ``numbers`` (N,) by their key in an answer, ``series`` (N, n) likewise, and what is to be said."""

    streams: tuple[Stream, ...]
    heat: Array
    work: Array
    numbers: Mapping[str, Array] = field(default_factory=dict)
    series: Mapping[str, Array] = field(default_factory=dict)
    told: tuple[Told, ...] = ()


@dataclass(frozen=True)
class Doing:
    """How a step is done: of what ``medium``, who watches, and whether it is on ``trial`` in a loop that is not
    closed yet, where nothing is refused."""

    medium: Medium
    watch: Watch = UNWATCHED
    trial: bool = False

    def refuse(self, where: Mask, code: str, **values: Value | Each) -> None:
        """Refuse the variants ``where`` (N,), if there are any. Raises StepFault."""
        if not self.trial and bool(np.any(where)):
            raise StepFault(Told("warning", code, np.asarray(where), values))

    def sound(self, step: Step, stream: Stream, near: Stream) -> Stream:
        """Return a stream that was found. Raises StepFault where it was not; on trial it stays as ``near``."""
        good = found(stream.phases) & np.isfinite(stream.h)
        if good.all():
            return stream
        self.refuse(~good, "process.no_state", step=step.name, P=Each(stream.P, "pressure"))
        rows = np.flatnonzero(~good)
        whole = {k: np.where(good, v, near.whole[k]) for k, v in stream.whole.items()}
        places = max(stream.phases.kind.shape[-1], near.phases.kind.shape[-1])
        phases = stream.phases.widened(places).with_rows(rows, near.phases.widened(places).take(rows))
        return Stream(stream.flow, phases, whole)


@dataclass(frozen=True)
class StepKind:
    """A kind of step: what it is for people, how it is done; ``needs`` names numbers of which exactly one is given,
    ``may`` what may be given besides, ``words`` choices with what there is to choose, the first by default."""

    name: str
    meaning: str
    run: Callable[[Step, Sequence[Stream], Doing], Outcome]
    needs: tuple[str, ...] = ()
    may: tuple[str, ...] = ()
    words: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    takes: str = "a stream"
    gives: str = "a stream"


KINDS: dict[str, StepKind] = {}
"""Every kind of step by its name."""


def register(kind: StepKind) -> None:
    """Enter a kind of step; its file does that where it is imported."""
    KINDS[kind.name] = kind


def nothing(stream: Stream) -> Array:
    """Return zeros (N,)."""
    return np.zeros(stream.flow.shape)


def per_mole(power: Array, flow: Array) -> Array:
    """Return W as J/mol of flows (N,) mol/s; nothing where nothing flows."""
    return np.asarray(np.where(flow > 0.0, power / np.where(flow > 0.0, flow, 1.0), 0.0))
