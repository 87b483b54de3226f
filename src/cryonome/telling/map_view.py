"""Which part of the plane of temperature and pressure a map shows, in the window and on paper."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from ..equilibrium.phase_map import PhaseMap
from ..equilibrium.phases import Kind
from ..equilibrium.region_cells import Boundary

HEADROOM = 1.7
"""How far above the highest known point, of its pressure, a line is still shown."""
LEAST_TOP = 3e7
"""Pa. A map is no lower than this where a line goes so far."""
COLDEST = 213.15
"""K. Colder there is nothing an engineer looks at, but of fluids that are cold altogether."""
COLD_FLUID = 300.0
"""K. A fluid whose lines end below this is cold altogether."""


@dataclass(frozen=True)
class View:
    """The part of the plane that a map shows, K and Pa, from zero pressure; ``top`` is without room above it."""

    cold: float
    hot: float
    top: float


def summits(whole: PhaseMap) -> list[float]:
    """Return the pressures of an envelope's critical points and summits, Pa."""
    tops = [whole.cricondenbar.P] if whole.cricondenbar is not None else []
    return [*(c.P for c in whole.critical_points), *tops, *(p.P for name, p in whole.others if name == "cricondenbar")]


def view_of(
    lines: Iterable[tuple[ArrayLike, ArrayLike]], known: Sequence[float] = (), marks: Sequence[float] = ()
) -> View | None:
    """Return the part that shows bubble and dew lines, each given as T (n,) K and P (n,) Pa; None without a line.

    ``known`` are pressures of critical points and summits, Pa: a line without a top, or with a tail in the cold, would
    press the rest flat without them. ``marks`` are pressures of points that are to be seen whatever the lines do."""
    pairs = [(np.asarray(T, float).ravel(), np.asarray(P, float).ravel()) for T, P in lines]
    if not sum(T.size for T, _ in pairs):
        return None
    T, P = (np.concatenate(values) for values in zip(*pairs))
    cold = float(T.min() if T.max() < COLD_FLUID else max(T.min(), COLDEST))
    top = float(P[cold <= T].max(initial=0.0)) or LEAST_TOP
    if known:
        top = min(top, max(HEADROOM * max(known), LEAST_TOP))
    return View(cold, float(T.max() + 0.13 * (T.max() - cold)), max([top, *marks]))


def view_of_map(whole: PhaseMap, bounds: Iterable[Boundary] = (), marks: Sequence[float] = ()) -> View | None:
    """Return the part that shows a map: its bubble and dew lines, and the ``bounds`` of three phases where its vapour
    or its hydrocarbon liquid is gone, which are bubble and dew lines of a wet fluid. ``marks`` as of
    :func:`view_of`."""
    ends = [b for b in bounds if b.gone in (Kind.VAPOUR, Kind.LIQUID) and b.P.size]
    lines = [(p.T, p.P) for p in whole.parts if p.beta in (0.0, 1.0) and len(p.u)]
    known = summits(whole) + [float(b.P.max()) for b in ends]
    return view_of([*lines, *((b.T, b.P) for b in ends)], known, marks)
