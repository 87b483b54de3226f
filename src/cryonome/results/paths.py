"""An operating path against the limits of its fluid: margins at stations and along the legs between them, all states
in one batch."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..document import Fluid
from ..equilibrium.naming import RICH
from ..equilibrium.phase_map import PhaseMap, incipient
from ..equilibrium.phases import Kind
from ..fluids.states import States, full_states
from ..remarks import Remark
from ..watch import UNWATCHED, Watch
from .context import NoAnswerError
from .evaluator import Project
from .frost import frost_line
from .hydrates import Dose, hydrate_lines, icy

Array = NDArray[np.float64]

STEPS = 24
"""Places on a leg."""
COLD = 273.15
"""K; solid carbon dioxide is looked for along paths that come as cold as that."""
FEW = 24
"""States up to which bubble and dew points are solved for, not read off the drawn lines."""
NEAR = 0.03
"""Relative distance within which such a point is the one that was read."""
DENSE = 96
"""Pressures at which the limits of hydrate and ice are found along a path; between them they are read off."""


@dataclass(frozen=True)
class Limit:
    """A limit and how its margin is counted: ``measure`` K, or Pa of a pressure that is to be held above; ``scale``
    makes margins of both comparable; a ``hazard`` stops a line, where the others only tell its phases."""

    key: str
    title: str
    measure: str
    scale: float
    hazard: bool = False


LIMITS = (
    Limit("hydrate", "hydrate", "temperature", 1.0, True),
    Limit("ice", "ice", "temperature", 1.0, True),
    Limit("frost", "solid carbon dioxide", "temperature", 1.0, True),
    Limit("dew", "dew line", "temperature", 1.0),
    Limit("water", "water line", "temperature", 1.0),
    Limit("bubble", "bubble line", "pressure", 1e5),
)
"""Margins above the temperatures of hydrate, ice and solid carbon dioxide at the pressure of a place, above the dew
temperatures of hydrocarbons and of water there, and above the true vapour pressure at its temperature."""


HAZARDS = frozenset(m.key for m in LIMITS if m.hazard)


@dataclass(frozen=True)
class Margins:
    """A path of n stations with ``STEPS`` places on each leg: ``T`` K and ``P`` Pa (m,), ``station`` the place of
    each station among them, and ``margins`` (m,) by limit, nan where it does not exist."""

    T: Array
    P: Array
    station: NDArray[np.intp]
    margins: dict[str, Array]

    def worst(self) -> list[tuple[Limit, int]]:
        """Return for each limit that exists the place of its least margin, hazards before the others, the worst
        first."""
        found = [
            (limit, int(np.nanargmin(self.margins[limit.key])))
            for limit in LIMITS
            if np.isfinite(self.margins[limit.key]).any()
        ]
        return sorted(found, key=lambda f: (not f[0].hazard, self.margins[f[0].key][f[1]] / f[0].scale))

    def leg(self, place: int) -> tuple[int, float]:
        """Return the leg that a place lies on and the share of it that is behind."""
        k = int(np.clip(np.searchsorted(self.station, place, side="right") - 1, 0, max(self.station.size - 2, 0)))
        if self.station.size < 2:
            return 0, 0.0
        start, end = self.station[k], self.station[k + 1]
        return k, float((place - start) / (end - start))


@dataclass(frozen=True)
class PathStates(Margins):
    """The same with the states at the stations."""

    states: States
    remarks: tuple[Remark, ...] = ()


def along(T: Sequence[float], P: Sequence[float]) -> tuple[Array, Array, NDArray[np.intp]]:
    """Return temperatures and pressures along a path of straight legs, and the places of its stations."""
    n = len(T)
    at = np.linspace(0.0, n - 1.0, STEPS * (n - 1) + 1) if n > 1 else np.zeros(1)
    stations = np.arange(n)
    return np.interp(at, stations, T), np.interp(at, stations, P), stations * STEPS if n > 1 else np.zeros(1, np.intp)


def margins_at(
    project: Project,
    fluid: Fluid,
    t: Array,
    p: Array,
    dose: Dose,
    watch: Watch = UNWATCHED,
    stations: Sequence[float] = (),
    hazards_alone: bool = False,
) -> tuple[dict[str, Array], tuple[Remark, ...]]:
    """Return the margins (m,) by limit of states at t K and p Pa (m,), and what is assumed. Limits that the fluid does
    not have, or that are not wanted (``hazards_alone``), are nan. Raises DomainError where the fluid cannot be made, Cancelled."""
    margins: dict[str, Array] = {limit.key: np.full(t.size, np.nan) for limit in LIMITS}
    try:
        lines = hydrate_lines(project, fluid, (dose,), watch.part(0.0, 0.5), spread(p, stations))
        margins["hydrate"] = t - at_pressure(lines.P, lines.first[0], p)
        margins["ice"] = t - at_pressure(lines.P, lines.ice[0], p)
        remarks = (Remark("estimate", "hydrate.free"), *icy(project, fluid).remarks)
    except NoAnswerError as error:
        remarks = error.remarks
    if p.size and t.min() < COLD:
        at, frost = frost_line(project, fluid, spread(p, stations), watch.part(0.5, 0.6))
        if at.size:
            margins["frost"] = t - at_pressure(at, frost, p)
    if hazards_alone:
        return margins, remarks
    whole = project.map(fluid, (0.0, 1.0), watch.part(0.6, 0.8))
    place = project.fluid(fluid).water
    bubble, dew, water = bubble_and_dew(whole, t, p, place)
    if t.size <= FEW:
        bubble, dew, water = _solved(whole, t, p, bubble, dew, water)
    elif place is not None:
        # Beside water the lines go on along the boundaries of three phases.
        found = project.regions(fluid, watch.part(0.8, 1.0))
        for b in found.bounds if found is not None else ():
            lnp = np.log(b.P)
            if b.gone == Kind.VAPOUR:
                bubble = np.fmax(bubble, np.exp(_crossed(b.T, lnp, t)))
            elif b.gone == Kind.LIQUID:
                dew = np.fmax(dew, _crossed(lnp, b.T, np.log(p)))
            else:
                water = np.fmax(water, _crossed(lnp, b.T, np.log(p)))
    margins["bubble"], margins["dew"], margins["water"] = p - bubble, t - dew, t - water
    return margins, remarks


def _solved(whole: PhaseMap, T: Array, P: Array, bubble: Array, dew: Array, water: Array) -> tuple[Array, Array, Array]:
    """Return bubble pressures and dew temperatures (n,), of hydrocarbons and of water, that were read off drawn lines
    as the points solved for on them."""

    def nearest(found: Sequence[float], read: float) -> float:
        best = min(found, key=lambda v: abs(v - read), default=read)
        return best if abs(best / read - 1.0) < NEAR else read

    for i in range(T.size):
        for line in (dew, water):
            if np.isfinite(line[i]):
                line[i] = nearest([q.T for q in whole.crossings((1.0,), P=float(P[i]))], float(line[i]))
        if np.isfinite(bubble[i]):
            bubble[i] = nearest([q.P for q in whole.crossings((0.0,), T=float(T[i]))], float(bubble[i]))
    return bubble, dew, water


def follow(
    project: Project, fluid: Fluid, T: Sequence[float], P: Sequence[float], dose: Dose, watch: Watch = UNWATCHED
) -> PathStates:
    """Return the margins of a path. Limits that the fluid does not have are nan. Raises DomainError where the fluid
    cannot be made, Cancelled."""
    model = project.fluid(fluid)
    t, p, station = along(T, P)
    margins, remarks = margins_at(project, fluid, t, p, dose, watch.part(0.0, 0.8), P)
    states = full_states(
        model,
        np.asarray(T, dtype=float),
        np.asarray(P, dtype=float),
        ("density", "vapour_volume_fraction"),
        watch.part(0.8, 1.0),
    )
    return PathStates(t, p, station, margins, states, remarks)


def spread(P: Array, stations: Sequence[float]) -> Array:
    """Return the pressures at which limits along a path are found: those of the path where they are few, else its
    stations' and others spaced over it."""
    each = np.unique(P)
    return each if each.size <= DENSE else np.union1d(np.geomspace(each[0], each[-1], DENSE)[1:-1], stations)


def at_pressure(line: Array, T: Array, P: Array) -> Array:
    """Return temperatures of a line over pressures at others, linear in ln P between them; nan beyond it."""
    good = np.isfinite(T)
    if good.sum() < 1:
        return np.full(P.size, np.nan)
    out = np.interp(np.log(P), np.log(line[good]), T[good], left=np.nan, right=np.nan)
    return np.asarray(np.where(np.interp(np.log(P), np.log(line), (~good).astype(float)) > 0.0, np.nan, out))


def bubble_and_dew(whole: PhaseMap, T: Array, P: Array, water: int | None = None) -> tuple[Array, Array, Array]:
    """Return the highest bubble pressures at T, Pa, and the highest dew temperatures at P, K, of hydrocarbons and of
    what is mostly ``water``, by its place, (n,) each; nan where there is none."""
    bubble, dew, wet = (np.full(T.size, np.nan) for _ in range(3))
    for part, good in zip(whole.parts, whole.stable, strict=True):
        if part.beta not in (0.0, 1.0) or not len(part.u):
            continue
        # Where another phase has formed, the line is no limit.
        t, lnp = np.where(good, part.T, np.nan), np.where(good, np.log(part.P), np.nan)
        if part.beta == 0.0:
            bubble = np.fmax(bubble, np.exp(_crossed(t, lnp, T)))
        elif water is None:
            dew = np.fmax(dew, _crossed(lnp, t, np.log(P)))
        else:
            aqueous = incipient(part, whole.z)[:, water] > RICH
            dew = np.fmax(dew, _crossed(lnp, np.where(aqueous, np.nan, t), np.log(P)))
            wet = np.fmax(wet, _crossed(lnp, np.where(aqueous, t, np.nan), np.log(P)))
    return bubble, dew, wet


def _crossed(x: Array, y: Array, at: Array) -> Array:
    """Return the largest y of a polyline where it passes x = ``at`` (n,), nan where it does not."""
    low, high = np.minimum(x[:-1], x[1:]), np.maximum(x[:-1], x[1:])
    with np.errstate(invalid="ignore", divide="ignore"):
        share = (at[:, None] - x[:-1]) / (x[1:] - x[:-1])
    value = y[:-1] + share * (y[1:] - y[:-1])
    over = (at[:, None] >= low) & (at[:, None] <= high) & np.isfinite(value)
    out = np.where(over, value, -np.inf).max(axis=-1, initial=-np.inf)
    return np.asarray(np.where(np.isfinite(out), out, np.nan))
