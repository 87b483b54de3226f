"""States at a given temperature, or a given pressure, and a measured quantity, batched.

Enthalpy, entropy and internal energy rise with temperature at constant pressure, density rises with pressure at
constant temperature: those are found by Newton steps inside a bracket that closes with every flash, through whatever
phases lie between. Where a quantity may turn, every solution is looked for on a grid and refined."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..watch import UNWATCHED, Watch
from .every_root import every_root, first_of
from .line_states import two_phases
from .measured import ACCEPTED, P_RANGE, RESPONSES, T_RANGE, TOLERANCE, Fluids, deviation, gather, slopes
from .near_states import near_states
from .phases import Phases, Reason
from .pure import boiling_temperature, saturation_pressure

Array = NDArray[np.float64]
Rows = NDArray[np.intp]

MONOTONE = {
    ("P", "enthalpy"): 1.0,
    ("P", "entropy"): 1.0,
    ("P", "internal_energy"): 1.0,
    ("P", "density"): -1.0,
    ("T", "density"): 1.0,
    ("T", "entropy"): -1.0,
}
"""The sense of a quantity in the unknown, by which of T and P is given."""

ROUNDS = 80
GRID = 56
"""Points looked at for every solution of a quantity that may turn."""


@dataclass(frozen=True)
class Found:
    """States found, ``phases`` (N,), and for each the (T, P) of ``others`` that answer as well."""

    phases: Phases
    others: tuple[tuple[tuple[float, float], ...], ...]


def solve_one(
    fluids: Fluids,
    known: str,
    value: Array,
    key: str,
    target: Array,
    start: Array | None = None,
    watch: Watch = UNWATCHED,
) -> Found:
    """Return the states where the ``known`` of "T" and "P" is ``value`` (N,) and the quantity ``key`` is ``target``
    (N,).

    ``start`` (N,) is an estimate of the other one. What cannot be reached has the reason NO_SUCH_STATE and stands
    where the search ended. Of several solutions the lowest is meant."""
    n = value.size
    inside, dome = pure_dome(fluids, known, value, key, target)
    rest = np.flatnonzero(~inside)
    parts: list[tuple[Rows, Phases]] = []
    others: list[tuple[tuple[float, float], ...]] = [()] * n
    sense = MONOTONE.get((known, key))
    if dome is not None:
        rows = np.flatnonzero(inside)
        parts.append((rows, dome))
        if sense is None:
            # Beside the state on the vapour pressure line there may be others off it.
            beside = _every(fluids.take(rows), known, value[rows], key, target[rows], watch)
            for at, row in enumerate(rows.tolist()):
                found_too = bool(beside.phases.converged[at])
                own = ((float(beside.phases.T[at]), float(beside.phases.P[at])),) if found_too else ()
                others[row] = own + beside.others[at]
    if rest.size:
        left, args = fluids.take(rest), (known, value[rest], key, target[rest])
        if sense is None:
            found = _every(left, *args, watch)
            for row, more in zip(rest.tolist(), found.others):
                others[row] = more
            parts.append((rest, found.phases))
        else:
            first = None if start is None else start[rest]
            parts.append((rest, monotone(left, *args, sense, first, watch)))
    return Found(gather(n, parts), tuple(others))


def pure_dome(
    fluids: Fluids, known: str, value: Array, key: str, target: Array
) -> tuple[NDArray[np.bool_], Phases | None]:
    """Tell which states (N,) of one component are of liquid and vapour together, and return those, else None.

    On the vapour pressure line the quantity goes from the liquid's to the vapour's with the fraction: the lever rule.
    """
    n = value.size
    none = np.zeros(n, dtype=bool)
    if fluids.z.shape[1] > 1:
        return none, None
    rows = np.flatnonzero(np.isfinite(_saturation(fluids, known, value)))
    if rows.size == 0:
        return none, None
    here = fluids.take(rows)
    other = _saturation(here, known, value[rows])
    T, P = (value[rows], other) if known == "T" else (other, value[rows])
    one = np.ones((rows.size, 1))

    def at(beta: Array) -> Phases:
        return two_phases(here.eos, np.ones(1), T, P, beta, one, one)

    ends = [here.whole(at(np.full(rows.size, b)), (key, "molar_volume")) for b in (0.0, 1.0)]
    liquid, vapour = (e[key] for e in ends)
    want = target[rows]
    volumes = [e["molar_volume"] for e in ends]
    if key == "vapour_volume_fraction":
        with np.errstate(divide="ignore"):
            beta = want / volumes[1] / (want / volumes[1] + (1.0 - want) / volumes[0])
    else:
        if key == "density":
            liquid, vapour, want = 1.0 / liquid, 1.0 / vapour, 1.0 / want
        with np.errstate(invalid="ignore", divide="ignore"):
            beta = (want - liquid) / (vapour - liquid)
    between = (beta >= 0.0) & (beta <= 1.0)
    none[rows[between]] = True
    return none, (at(np.clip(beta, 0.0, 1.0)).take(between) if between.any() else None)


def _saturation(fluids: Fluids, known: str, value: Array) -> Array:
    """Return the vapour pressure at T, or the boiling temperature at P, of one component, (N,); nan where there is
    none."""
    rows = np.arange(value.size)
    solve = saturation_pressure if known == "T" else boiling_temperature
    return solve(fluids.eos.take(rows), value[:, None])[:, 0]


def _range(fluids: Fluids, known: str) -> tuple[Array, Array]:
    """Return least and most of the unknown, (N,) each."""
    n = fluids.z.shape[0]
    if known == "T":
        return np.full(n, P_RANGE[0]), np.full(n, P_RANGE[1])
    return fluids.coldest, np.full(n, T_RANGE[1])


def monotone(
    fluids: Fluids, known: str, value: Array, key: str, target: Array, sense: float, start: Array | None = None,
    watch: Watch = UNWATCHED, box: tuple[Array, Array] | None = None,
) -> Phases:  # fmt: skip
    """Return the states of a quantity that goes one way, by Newton steps in ln T or ln P inside a closing bracket.

    ``box`` (N,) each are least and most of the unknown; else the whole range. One component's states of two phases
    stand on its vapour pressure line, where the quantity jumps."""
    n = value.size
    if fluids.z.shape[1] == 1 and box is None:
        return _beside_the_line(fluids, known, value, key, target, sense, start, watch)
    at_T = known == "T"
    if box is None and start is None:
        box = _range(fluids, known)
        rows, found, begin = near_states(fluids, known, value, key, target, sense, box, watch.part(0.0, 0.5))
        if found is not None and rows.size:
            rest = np.setdiff1d(np.arange(n), rows)
            if rest.size == 0:
                return gather(n, [(rows, found)])
            middle = np.sqrt(box[0] * box[1])[rest]
            begin = np.where(np.isfinite(begin[rest]), begin[rest], middle)
            left = monotone(
                fluids.take(rest), known, value[rest], key, target[rest], sense, begin, watch.part(0.5, 1.0),
                (box[0][rest], box[1][rest]),
            )  # fmt: skip
            return gather(n, [(rows, found), (rest, left)])
        box = None
    lo, hi = (np.log(b) for b in (box or _range(fluids, known)))
    first, last = lo.copy(), hi.copy()
    middle = np.full(n, np.log(5e6 if at_T else 350.0)) if start is None else np.log(start)
    x = np.clip(middle, lo, hi)
    parts: list[tuple[Rows, Phases]] = []
    live = np.arange(n)
    before = np.full(n, np.inf)
    ended = np.zeros(n, dtype=bool)
    keys = tuple(dict.fromkeys((key, *RESPONSES)))
    for number in range(ROUNDS):
        watch.at(number / (number + 8.0))
        here, known_here = fluids.take(live), value[live]
        T, P = (known_here, np.exp(x[live])) if at_T else (np.exp(x[live]), known_here)
        phases = here.at(T, P)
        w = here.whole(phases, keys)
        f = sense * deviation(key, w[key], target[live], T)
        with np.errstate(invalid="ignore", divide="ignore"):
            by_T, by_P = slopes(key, w, T, P)
            step = -f / (sense * (by_P if at_T else by_T))
        lo[live] = np.where(f <= 0.0, x[live], lo[live])
        hi[live] = np.where(f >= 0.0, x[live], hi[live])
        width = hi[live] - lo[live]
        bad = ~np.isfinite(f)
        with np.errstate(invalid="ignore"):
            small = np.abs(f) < TOLERANCE
            still = (np.abs(step) < 1e-15) & (np.abs(f) < ACCEPTED)
        # What does not reach its value at the very end of the range has no state; no search in between could find one.
        beyond = ((x[live] == first[live]) & (f > ACCEPTED)) | ((x[live] == last[live]) & (f < -ACCEPTED))
        beyond &= phases.converged
        stop = small | still | beyond | (width < 4e-16 * np.abs(x[live]) + 1e-16)
        if number == ROUNDS - 1:
            stop[:] = True
        if stop.any():
            rows = live[stop]
            ok = np.abs(f[stop]) < ACCEPTED
            edge = beyond[stop] | (np.abs(x[rows] - first[rows]) < 1e-9) | (np.abs(x[rows] - last[rows]) < 1e-9)
            wrong = np.where(edge & phases.converged[stop], Reason.NO_SUCH_STATE, Reason.NOT_CONVERGED)
            reason = np.where(ok, phases.reason[stop], wrong).astype(np.int8)
            parts.append((rows, replace(phases.take(stop), reason=reason)))
        keep = ~stop
        if not keep.any():
            break
        live, f, step, bad = live[keep], f[keep], step[keep], bad[keep]
        new = x[live] + step
        # Bisection where Newton leaves the bracket or does not halve its steps.
        slow = np.abs(step) > 0.5 * before[live]
        out = ~((new > lo[live]) & (new < hi[live]) & np.isfinite(new)) | slow
        before[live] = np.where(out, 0.5 * (hi[live] - lo[live]), np.abs(step))
        # The first time it leaves, the end itself is looked at.
        new_end = out & ~slow & ~ended[live] & (number < ROUNDS // 2)
        ended[live] |= new_end
        end = np.where(f < 0.0, last[live], first[live])
        new = np.where(new_end, end, np.where(out, 0.5 * (lo[live] + hi[live]), new))
        # A trial that did not converge says nothing of the side: try beside it.
        x[live] = np.where(bad, 0.5 * (x[live] + np.where(number % 2 == 0, hi[live], lo[live])), new)
    return gather(n, parts)


def _beside_the_line(
    fluids: Fluids, known: str, value: Array, key: str, target: Array, sense: float, start: Array | None, watch: Watch
) -> Phases:
    """Return :func:`monotone` for one component: on the line, or on the side of it where the quantity has its value."""
    n = value.size
    inside, dome = pure_dome(fluids, known, value, key, target)
    parts: list[tuple[Rows, Phases]] = [] if dome is None else [(np.flatnonzero(inside), dome)]
    rest = np.flatnonzero(~inside)
    if rest.size:
        here, known_here, want = fluids.take(rest), value[rest], target[rest]
        line = _saturation(here, known, known_here)
        low, high = _range(here, known)
        at_line = np.where(np.isfinite(line), line, np.sqrt(low * high))
        # A hair off the line, on the liquid's side: it tells on which side the value lies.
        off = at_line * (1.0 + 1e-9 if known == "T" else 1.0 - 1e-9)
        T, P = (known_here, off) if known == "T" else (off, known_here)
        f = sense * deviation(key, here.whole(here.at(T, P), (key,))[key], want, T)
        above = f < 0.0
        has = np.isfinite(line)
        box = np.where(has & above, at_line, low), np.where(has & ~above, at_line, high)
        first = np.sqrt(box[0] * box[1]) if start is None else np.clip(start[rest], *box)
        parts.append((rest, monotone(here, known, known_here, key, want, sense, first, watch, box)))
    return gather(n, parts)


def _every(fluids: Fluids, known: str, value: Array, key: str, target: Array, watch: Watch) -> Found:
    """Return every solution along the unknown."""
    n, at_T = value.size, known == "T"
    low, high = _range(fluids, known)
    base = np.linspace(np.log(low.min()), np.log(high.max()), GRID)

    def off(x: Array, rows: Rows) -> Array:
        T, P = (value[rows], np.exp(x)) if at_T else (np.exp(x), value[rows])
        here = fluids.take(rows)
        return deviation(key, here.whole(here.at(T, P), (key,))[key], target[rows], T)

    there, lowest, rest = first_of(*every_root(off, base, n, watch), n)
    x = np.exp(np.where(there, lowest, base[GRID // 2]))
    phases = fluids.at(*((value, x) if at_T else (x, value)))
    reason = np.where(there, phases.reason, Reason.NO_SUCH_STATE).astype(np.int8)
    others = tuple(
        tuple((v, r) if at_T else (r, v) for r in np.exp(more).tolist()) for v, more in zip(value.tolist(), rest)
    )
    return Found(replace(phases, reason=reason), others)
