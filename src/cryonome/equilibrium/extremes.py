"""Highest pressure and temperature of a map whose lines go on with three phases.

Tracing two phases finds the turns of its own lines. Where a third phase has formed before, such a turn is metastable:
then the boundary at which vapour or oil is gone has the turn that is there."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .line_points import SaturationPoint
from .phase_map import PhaseMap
from .phases import Kind
from .region_cells import Boundary
from .regions import Regions

Array = NDArray[np.float64]

NAMES = {"cricondentherm": -2, "cricondenbar": -1}
"""What a turn is called, and its place in (ln T, ln P)."""


def with_stable_extremes(whole: PhaseMap, regions: Regions | None) -> PhaseMap:
    """Return a map with the turns of its stable lines and of the boundaries of three phases as its cricondentherm and
    cricondenbar, and without remarks on those that are not there. A map without such boundaries is returned as it is."""
    bounds = [b for b in regions.bounds if b.gone in (Kind.VAPOUR, Kind.LIQUID)] if regions is not None else []
    if not bounds or not whole.parts:
        return whole
    others: list[tuple[str, SaturationPoint]] = []
    dropped: set[str] = set()
    main: dict[str, SaturationPoint | None] = {}
    for name, column in NAMES.items():
        own = getattr(whole, name)
        every = ([own] if own is not None else []) + [p for kind, p in whole.others if kind == name]
        stable = [p for p in every if _is_stable(whole, p)]
        turns = [*stable, *(p for b in bounds for p in _turns(b, whole.z, column))]
        best = own if own is not None and own in stable else max(turns, key=lambda p: (p.T, p.P)[column], default=None)
        main[name] = best
        others += [(name, p) for p in stable if p is not best]
        if best is not None:
            dropped.add(f"map.no_{name}")
        if best is not own or len(stable) < len(every):
            dropped |= {f"map.other_{name}"}
    remarks = tuple(r for r in whole.remarks if r.code not in dropped)
    return replace(
        whole,
        cricondentherm=main["cricondentherm"],
        cricondenbar=main["cricondenbar"],
        others=tuple(others),
        remarks=remarks,
    )


def _is_stable(whole: PhaseMap, point: SaturationPoint) -> bool:
    """Tell whether the traced point next to a turn is stable."""
    found = []
    for part, good in zip(whole.parts, whole.stable, strict=True):
        if part.beta in (0.0, 1.0) and len(part.u):
            away = np.hypot(8.0 * (part.u[:, -2] - np.log(point.T)), part.u[:, -1] - np.log(point.P))
            k = int(np.argmin(away))
            found.append((float(away[k]), bool(good[k])))
    return min(found)[1] if found else False


def _turns(b: Boundary, z: Array, column: int) -> list[SaturationPoint]:
    """Return the highest points inside a boundary, of the parabola through three of its points."""
    at = np.stack([np.log(b.T), np.log(b.P)], axis=1)
    v = at[:, column]
    out = []
    for k in np.flatnonzero((v[1:-1] > v[:-2]) & (v[1:-1] >= v[2:])) + 1:
        s = np.concatenate([[0.0], np.cumsum(np.hypot(*(np.diff(at[k - 1 : k + 2], axis=0) * [8.0, 1.0]).T))])
        a, slope, _ = np.polyfit(s, v[k - 1 : k + 2], 2)
        top = float(np.clip(-slope / (2.0 * a), s[0], s[2])) if a < 0.0 else float(s[1])
        T, P = (float(np.exp(np.polyval(np.polyfit(s, at[k - 1 : k + 2, c], 2), top))) for c in (0, 1))
        out.append(SaturationPoint(1.0 if b.gone == Kind.LIQUID else 0.0, T, P, z, z))
    return out
