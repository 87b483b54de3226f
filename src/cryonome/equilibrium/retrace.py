"""An envelope traced anew from one of nearly the same fluid, so that it follows a parameter that is being dragged.

Every point of the old lines is a start for the new ones: all are corrected in one batch, each with the unknown held
that changed fastest along its line. What does not come in, or comes in elsewhere, says that the fluids are too
unlike: then nothing is returned, and the lines are traced from their beginning."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .envelope import Line, fastest, split_at_critical
from .line_starts import P_MIN
from .phase_map import PhaseMap, completed
from .quality import correct

Array = NDArray[np.float64]

ITERATIONS = 14
FARTHEST = 0.12
"""Largest change of ln T, and a sixth of that of ln P, of a point up to which the new line is taken for the old one
moved."""
WIDEST = 2.5
"""How much wider than on the old line neighbours may come to lie."""
COARSEST = (0.08, 0.8)
"""Largest steps of ln T and ln P between neighbours: those the tracer takes for a jump."""
TRIVIAL = 1e-4
COLDEST = 480.0
"""Magnitude of ln K beyond which points are left out; :func:`correct` ends at 500."""


def lines_near(
    eos: Equation, z: Array, old: PhaseMap, T: float | None, P: float | None, watch: Watch = UNWATCHED
) -> PhaseMap | None:
    """Return the stretches of the bubble and dew lines of z (nc,) about T K, or about P Pa, moved from those of
    ``old``, as a bare map; None where they do not lead there. Raises Cancelled."""
    z = np.asarray(z, float) / np.sum(z)
    if not _alike(eos, z, old):
        return None
    column, middle, reach = (-2, np.log(T), NEAR_T) if T is not None else (-1, np.log(P or np.nan), NEAR_P)
    stretches: list[Line] = []
    for line in old.lines:
        if line.beta in (0.0, 1.0) and len(line.u) > 1:
            keep = np.flatnonzero(np.abs(line.u[:, column] - middle) < reach)
            for run in np.split(keep, np.flatnonzero(np.diff(keep) > 1) + 1):
                if run.size > 2:
                    stretches.append(replace(line, u=line.u[run], volume=line.volume[run], side=line.side[run]))
    lines = _moved(eos, z, [within(s) for s in stretches], watch) if stretches else None
    if lines is None:
        return None
    parts = [part for line in lines for part in split_at_critical(line)]
    stable = tuple(np.ones(len(p.u), dtype=bool) for p in parts)
    return PhaseMap(eos, z, tuple(lines), tuple(parts), stable, old.critical_points, None, None, (), True)


NEAR_T, NEAR_P = 0.2, 1.2
"""How far, in ln T or ln P, lines are moved about where they are to be crossed."""


def _alike(eos: Equation, z: Array, old: PhaseMap) -> bool:
    """Tell whether lines of ``old`` may lead to those of z (nc,)."""
    return not eos.batched and 1 < z.size == old.z.size and not ((z > 0.0) != (old.z > 0.0)).any()


def retraced(eos: Equation, z: Array, old: PhaseMap, watch: Watch = UNWATCHED) -> PhaseMap | None:
    """Return the envelope of z (nc,) with the bubble and dew lines of ``old`` moved to it; None where they do not
    lead to it.

    The components must be those of ``old``, one by one. Raises Cancelled where ``watch`` says so.
    """
    z = np.asarray(z, float) / np.sum(z)
    outer = [within(line) for line in old.lines if line.beta in (0.0, 1.0) and len(line.u) > 1]
    if not outer or not _alike(eos, z, old):
        return None
    lines = _moved(eos, z, outer, watch.part(0.0, 0.6))
    if lines is None:
        return None
    new = completed(eos, z, lines, watch.part(0.6, 1.0))
    # Where a critical point or an extreme comes or goes the lines are of another kind, and there may be others.
    alike = len(new.critical_points) == len(old.critical_points)
    alike &= (new.cricondentherm is None) == (old.cricondentherm is None)
    return new if alike and (new.cricondenbar is None) == (old.cricondenbar is None) else None


def with_moved_fractions(
    whole: PhaseMap, old: PhaseMap, fractions: Sequence[float], watch: Watch = UNWATCHED
) -> PhaseMap | None:
    """Return a map with the lines of the inner ``fractions`` that ``old`` has moved to it; None where they do not
    lead to it."""
    inner = {f for f in fractions if 0.0 < f < 1.0}
    lines = [within(line) for line in old.lines if line.beta in inner]
    if {line.beta for line in lines} != inner or not all(len(line.u) > 1 for line in lines):
        return None
    moved = _moved(whole.eos, whole.z, lines, watch)
    return None if moved is None else whole.with_lines(moved)


def within(line: Line) -> Line:
    """Return a line without what lies so deep in the cold that its equilibrium ratios are at the end of what is
    looked at."""
    keep = np.abs(line.u[:, :-2]).max(axis=-1) < COLDEST
    return replace(line, u=line.u[keep], volume=line.volume[keep], side=line.side[keep])


def _moved(eos: Equation, z: Array, lines: Sequence[Line], watch: Watch) -> list[Line] | None:
    """Return lines moved to another fluid, all their points in one batch, without a point that was lost between two
    that were not; None where more were."""
    u = np.concatenate([line.u for line in lines])
    beta = np.concatenate([np.full(len(line.u), line.beta) for line in lines])
    light = np.concatenate([line.volume for line in lines])
    spec = np.concatenate([held(line) for line in lines])
    feeds = np.broadcast_to(z, (len(u), z.size))
    points = correct(eos, feeds, beta, u, spec, max_iterations=ITERATIONS, largest_step=30.0, light=light, watch=watch)
    return followed(lines, u, points.u, points.volume, points.converged, light)


def followed(
    lines: Sequence[Line], u: Array, moved: Array, volume: Array, converged: NDArray[np.bool_], light: Array
) -> list[Line] | None:
    """Return lines by their moved points (n, nc + 2), which were at ``u`` on the old ones, without a point that was
    lost between two that were not; None where more were, or where they do not follow the old ones."""
    ends = np.cumsum([len(line.u) for line in lines])[:-1]
    good = np.split(converged, ends)
    if not all(_few_lost(g) for g in good):
        return None
    change = np.where(converged[:, None], np.abs(moved - u), 0.0)
    trivial = (np.abs(moved[:, :-2]).max(axis=-1) < TRIVIAL) & (np.abs(volume) < 10.0 * TRIVIAL)
    trivial &= converged
    far = (change[:, -2] > FARTHEST) | (change[:, -1] > 6.0 * FARTHEST)
    if trivial.any() or far.any() or (np.sign(volume) != np.sign(light))[converged].any():
        return None
    out = []
    whole = zip(lines, np.split(moved, ends), np.split(volume, ends), good)
    for old, there, volumes, keep in whole:
        line = replace(old, u=old.u[keep], volume=old.volume[keep], side=old.side[keep])
        new, own = there[keep], volumes[keep]
        before, after = (np.abs(np.diff(v, axis=0)) for v in (line.u, new))
        if (after > WIDEST * before + 0.02 * np.array([*[5.0] * (u.shape[1] - 2), 1.0, 5.0])).any():
            return None
        # However often a line is moved, it stays as fine as a traced one.
        if (after[:, -2:] > COARSEST).any():
            return None
        # Neighbours must follow each other as they did.
        if (np.vecdot(np.diff(line.u, axis=0), np.diff(new, axis=0)) <= 0.0).any():
            return None
        out.append(replace(line, u=new, volume=own))
    return out


def _few_lost(good: NDArray[np.bool_]) -> bool:
    """Tell whether the points of a line that were lost stand alone, between two that were not."""
    lost = ~good
    return not (lost[[0, -1]].any() or (lost[1:] & lost[:-1]).any())


def held(line: Line) -> NDArray[np.intp]:
    """Return the unknown to hold at every point of a line, (n,): the one that changes fastest there."""
    slopes = np.gradient(line.u, axis=0)
    chosen = fastest(slopes, line.u, line.volume).tolist()
    # A lone choice among others would let that point slide past its neighbours.
    for i in range(1, len(chosen) - 1):
        if chosen[i - 1] == chosen[i + 1]:
            chosen[i] = chosen[i - 1]
    # Ends stand where tracing begins and stops.
    last = line.u.shape[1] - 1
    for end in (0, -1):
        if np.exp(line.u[end, -1]) < 3.0 * P_MIN:
            chosen[end] = last
    return np.array(chosen, dtype=np.intp)
