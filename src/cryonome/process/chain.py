"""A chain of steps from its feeds to its last streams: order, loops, balances.

A loop is opened where it is cheapest (:mod:`.network`) and closed by Anderson's mixing of the last five passes (D. G.
Anderson, 1965, J. ACM 12, 547; SciPy's), to a residual that is told. All variants of a chain are done together: its
arrays have one row each."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import NoConvergence, anderson

from ..watch import UNWATCHED, Watch
from . import exchanger
from .medium import Medium, Stream
from .network import Block, Node, blocks
from .steps import KINDS, Doing, Outcome, Step, StepFault, Told

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

CLOSED = 1e-9
"""Residual of a loop that counts as closed, relative to the flow of the feeds and to R times 300 K."""
ROUNDS = 60
DUTY = "\0duty of "
"""Begins the name of an exchanger's duty among the streams."""
RT = 8.31446261815324 * 300.0


@dataclass(frozen=True)
class Recycle:
    """How a loop was closed: what was opened (a stream, or an exchanger's duty told by its ``step``), rounds, and the
    ``residual`` (N,)."""

    torn: str
    step: str
    iterations: int
    residual: Array


@dataclass(frozen=True)
class Balance:
    """What comes in less what goes out of a step or the whole (N,): ``mass`` kg/s, ``energy`` W, and the ``entropy``
    W/K that arises, with what flows for comparison."""

    mass: Array
    energy: Array
    entropy: Array
    mass_flow: Array
    energy_flow: Array


@dataclass(frozen=True)
class Done:
    """A chain done in N variants: ``streams`` and ``outcomes`` by name, loops, balances of steps by name and of the
    whole."""

    streams: Mapping[str, Stream]
    outcomes: Mapping[str, Outcome]
    recycles: tuple[Recycle, ...]
    balances: Mapping[str, Balance]
    whole: Balance
    told: tuple[Told, ...] = ()


@dataclass
class _Run:
    """What is known while a chain is done."""

    medium: Medium
    steps: Mapping[str, Step]
    watch: Watch
    values: dict[str, Stream | Array] = field(default_factory=dict)
    outcomes: dict[str, Outcome] = field(default_factory=dict)

    def stream(self, name: str) -> Stream:
        found = self.values[name]
        assert isinstance(found, Stream)
        return found

    def duty(self, name: str) -> Array:
        found = self.values[DUTY + name]
        assert isinstance(found, np.ndarray)
        return found


def nodes_of(step: Step) -> list[Node]:
    """Return the nodes of a step; an exchanger is one for each side and, where its duty hangs on both, one for
    that."""
    if step.kind != "exchanger":
        return [Node(step.name, step.takes, step.gives)]
    (hot, cold), (hot_to, cold_to), duty = step.takes, step.gives, DUTY + step.name
    sides: tuple[tuple[tuple[str, ...], tuple[str, ...]], tuple[tuple[str, ...], tuple[str, ...]]]
    if "hot_temperature" in step.numbers:
        sides = ((hot,), (hot_to, duty)), ((cold, duty), (cold_to,))
    elif "cold_temperature" in step.numbers:
        sides = ((hot, duty), (hot_to,)), ((cold,), (cold_to, duty))
    else:
        sides = ((hot, duty), (hot_to,)), ((cold, duty), (cold_to,))
    out = [Node(f"{step.name}\0hot", *sides[0]), Node(f"{step.name}\0cold", *sides[1])]
    if "duty" in step.numbers:
        return [*out, Node(f"{step.name}\0duty", (), (duty,))]
    known = "hot_temperature" in step.numbers or "cold_temperature" in step.numbers
    return out if known else [*out, Node(f"{step.name}\0duty", (hot, cold), (duty,))]


def _do(run: _Run, node: Node, trial: bool) -> None:
    """Do a node and keep what it gives."""
    name, _, part = node.key.partition("\0")
    step = run.steps[name]
    doing = Doing(run.medium, run.watch, trial)
    run.watch.check()
    if not part:
        outcome = KINDS[step.kind].run(step, [run.stream(s) for s in step.takes], doing)
        run.outcomes[name] = outcome
        run.values.update(zip(step.gives, outcome.streams, strict=True))
        return
    if part == "duty":
        run.values[DUTY + name] = _duty(run, step, doing)
        return
    side = 0 if part == "hot" else 1
    stream = run.stream(step.takes[side])
    if f"{part}_temperature" in step.numbers:
        run.values[step.gives[side]], run.values[DUTY + name] = exchanger.side_duty(part, step, stream, doing)
        return
    # Only this side's stream is at hand; the other has no part in its outlet.
    pair = exchanger.pair_of(step, *((stream, stream)), doing)
    run.values[step.gives[side]] = doing.sound(step, pair.outlet(part, run.duty(name)), stream)


def _duty(run: _Run, step: Step, doing: Doing) -> Array:
    if "duty" in step.numbers:
        n = next(v.flow.size for v in run.values.values() if isinstance(v, Stream))
        return np.abs(step.number("duty")) * np.ones(n)
    pair = exchanger.pair_of(step, run.stream(step.takes[0]), run.stream(step.takes[1]), doing)
    before = run.values.get(DUTY + step.name)
    if isinstance(before, np.ndarray):
        return exchanger.duty_towards(step, pair, before, doing)
    return exchanger.duty_of(step, pair, doing)


def do(medium: Medium, feeds: Mapping[str, Stream], steps: Sequence[Step], watch: Watch = UNWATCHED) -> Done:
    """Do a chain. Raises StepFault for a step that cannot be done, ValueError for rings too many, Cancelled."""
    nodes = [node for step in steps for node in nodes_of(step)]
    nc = medium.molar_mass.size
    names = {s for node in nodes for s in (*node.takes, *node.gives)}
    cost = {s: 1 if s.startswith(DUTY) else nc + 2 for s in names}
    run = _Run(medium, {s.name: s for s in steps}, watch, dict(feeds))
    recycles: list[Recycle] = []
    order = blocks(nodes, cost)
    for number, block in enumerate(order):
        run.watch = watch.part(number / len(order), (number + 1) / len(order))
        if block.torn:
            recycles += _closed(run, block, feeds)
        else:
            for node in block.nodes:
                _do(run, node, False)
    for step in steps:
        if step.kind == "exchanger":
            hot, cold = (run.stream(s) for s in step.takes)
            doing = Doing(medium, watch)
            pair = exchanger.pair_of(step, hot, cold, doing)
            run.outcomes[step.name] = exchanger.report(step, pair, run.duty(step.name), doing)
    streams = {k: v for k, v in run.values.items() if isinstance(v, Stream)}
    balances = {
        s.name: _balance(medium, run.outcomes[s.name], [streams[k] for k in s.takes], [streams[k] for k in s.gives])
        for s in steps
    }
    taken = {k for s in steps for k in s.takes}
    given = {k for s in steps for k in s.gives}
    ends = [v for k, v in streams.items() if k in given and k not in taken]
    whole = _whole(medium, run.outcomes, [v for k, v in feeds.items() if k in taken], ends)
    told = tuple(t for s in steps for t in run.outcomes[s.name].told)
    return Done(streams, run.outcomes, tuple(recycles), balances, whole, told)


def _closed(run: _Run, block: Block, feeds: Mapping[str, Stream]) -> list[Recycle]:
    """Close the loops of a block: do its nodes until what was opened comes back as it was."""
    flow = np.sum([s.flow for s in feeds.values()], axis=0)
    first = next(iter(feeds.values()))
    n, nc = flow.size, first.z.shape[1]
    torn = block.torn
    sizes = [1 if s.startswith(DUTY) else nc + 2 for s in torn]
    ends = np.cumsum([0, *sizes])
    scale = np.where(flow > 0.0, flow, 1.0)[:, None]
    start = np.zeros((n, int(ends[-1])))
    for name, b in zip(torn, ends[1:]):
        if not name.startswith(DUTY):
            start[:, b - 1] = 1.0
    near = dict.fromkeys(torn, first.T)

    def put(u: Array) -> None:
        for name, a, b in zip(torn, ends, ends[1:]):
            if name.startswith(DUTY):
                run.values[name] = np.maximum(u[:, a] * scale[:, 0] * RT, 0.0)
            else:
                run.values[name] = _unpacked(run.medium, u[:, a:b], scale[:, 0], first, near[name])
                near[name] = run.stream(name).T

    def passed(u: Array, trial: bool) -> Array:
        put(u)
        opened = {name: run.values[name] for name in torn}
        for node in block.nodes:
            _do(run, node, trial)
        out = np.concatenate([_packed(run.values[name], scale[:, 0], first) for name in torn], axis=1)
        # What hangs on what was opened keeps the value it was done with.
        run.values.update(opened)
        return out

    # Its stubs know functions of one number alone.
    mixing: Any = anderson
    count = [0]

    def off(u: Array) -> Array:
        count[0] += 1
        run.watch.at(min(0.9, count[0] / 20.0))
        return passed(u, True) - u

    u = passed(start, True)
    residual = _settled(passed, u)
    if residual is None:
        try:
            # Its first step is of no known length.
            with np.errstate(invalid="ignore"):
                u = np.asarray(mixing(off, u, alpha=1.0, f_tol=0.3 * CLOSED, maxiter=ROUNDS, line_search=None))
        except NoConvergence as error:
            u = np.asarray(error.args[0]).reshape(u.shape)
        residual = np.abs(passed(u, False) - u)
    told = [
        Recycle(
            "" if name.startswith(DUTY) else name,
            name.removeprefix(DUTY) if name.startswith(DUTY) else "",
            count[0] + 2, residual[:, a:b].max(axis=1),
        )
        for name, a, b in zip(torn, ends, ends[1:])
    ]  # fmt: skip
    worst = residual.max(axis=1)
    if (worst > 1e3 * CLOSED).any():
        names = ", ".join(r.torn or f"the duty of {r.step}" for r in told)
        raise StepFault(Told("warning", "process.open", worst > 1e3 * CLOSED, {"names": names, "rounds": count[0]}))
    return told


def _settled(passed: Callable[[Array, bool], Array], u: Array) -> Array | None:
    """Return what one more pass leaves of a loop, None where that is not closed or where a step refuses what it gets
    so far: many loops, whose cold end has a temperature of its own, are closed by the first pass."""
    try:
        residual = np.abs(passed(u, False) - u)
    except StepFault:
        return None
    return residual if residual.max() <= CLOSED else None


def _packed(value: Stream | Array, scale: Array, first: Stream) -> Array:
    if not isinstance(value, Stream):
        return np.asarray(value / (scale * RT))[:, None]
    share = value.flow / scale
    return np.concatenate(
        [value.z * share[:, None], (value.h / RT * share)[:, None], (value.P / first.P)[:, None]], axis=1
    )


def _unpacked(medium: Medium, u: Array, scale: Array, first: Stream, near: Array) -> Stream:
    """Return the stream that unknowns stand for; what is next to nothing is a drop of the first feed."""
    amount = np.maximum(u[:, :-2], 0.0)
    total = amount.sum(axis=1)
    there = total > 1e-13
    z = np.where(there[:, None], amount / np.where(there, total, 1.0)[:, None], first.z)
    h = np.where(there, u[:, -2] * RT / np.where(there, total, 1.0), first.h)
    P = np.clip(u[:, -1], 1e-3, 1e3) * first.P
    out = medium.with_enthalpy(P, h, z, total * scale, near)
    doing = Doing(medium, trial=True)
    return doing.sound(Step("", "", (), ()), out, replace(first, flow=total * scale))


def _flows(medium: Medium, streams: Sequence[Stream], n: int) -> tuple[Array, Array, Array]:
    zero = np.zeros(n)
    mass = sum((s.flow * medium.mass(s.z) for s in streams), zero)
    energy = sum((np.where(s.flow > 0.0, s.flow * s.h, 0.0) for s in streams), zero)
    entropy = sum((np.where(s.flow > 0.0, s.flow * s.s, 0.0) for s in streams), zero)
    return mass, energy, entropy


def _balance(medium: Medium, outcome: Outcome, takes: Sequence[Stream], gives: Sequence[Stream]) -> Balance:
    n = outcome.heat.size
    m0, e0, s0 = _flows(medium, takes, n)
    m1, e1, s1 = _flows(medium, gives, n)
    carried = sum((np.abs(s.flow * s.h) for s in takes), np.zeros(n))
    size = np.maximum(carried, sum((s.flow for s in takes), np.zeros(n)) * RT)
    return Balance(
        m0 - m1, e0 - e1 + outcome.heat + outcome.work, s1 - s0, m0, size + np.abs(outcome.heat) + np.abs(outcome.work)
    )


def _whole(medium: Medium, outcomes: Mapping[str, Outcome], feeds: Sequence[Stream], ends: Sequence[Stream]) -> Balance:
    first = next(iter(outcomes.values()))
    zero = np.zeros(first.heat.size)
    total = Outcome((), sum((o.heat for o in outcomes.values()), zero), sum((o.work for o in outcomes.values()), zero))
    return _balance(medium, total, feeds, ends)
