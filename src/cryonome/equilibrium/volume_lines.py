"""Lines of constant vapour fraction by volume, traced like those by mole.

To the unknowns of a point comes the mole fraction beta that makes the share by volume what it shall be,

    ln (beta / (1 - beta)) + ln (V_y / V_x) - ln (s / (1 - s)) = 0,

V_y and V_x the molar volumes of vapour and liquid after the volume shift. It is eliminated from Newton's matrix, so that the
tracer sees the unknowns it knows. At low pressure the vapour is so much larger that every such line begins beside the bubble line.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from ..eos import Equation, PhaseDerivatives, PreparedStates
from ..eos.volume_shift import Shifts
from ..watch import UNWATCHED, Watch
from .critical import CriticalPoint
from .envelope import CRITICAL_POINT, Corrector, Walker, advance, first_direction, turned
from .flash import flash_pt
from .line_states import two_phases
from .phases import Kind, Phases
from .quality import QualityPoints, compositions, evaluate, solve_system

Array = NDArray[np.float64]
Rows = NDArray[np.intp]

ALONG = 40
"""Temperatures a share is looked for at, and again between two of them."""

STARTS = (3e5, 2e4, 2e6, 8e6)
"""Pa. Where a line is begun, the first that has a state of the share."""

LARGEST = 2.0
"""Largest change of ln(beta / (1 - beta)) in one step of Newton's method."""


@dataclass(frozen=True)
class VolumeLine:
    """A line of one ``share`` of the vapour by volume: the states (n,) along it, in order."""

    share: float
    states: Phases


class ByVolume:
    """Points of one feed z (nc,) at known volume shares of vapour (N,), their mole fractions solved for beside the unknowns."""

    def __init__(self, eos: Equation, z: Array, shift: Shifts, share: Array, beta: Array, u: Array) -> None:
        self._eos, self._z, self._shift = eos, z, shift
        self._goal = np.log(share / (1.0 - share))
        self._psi = np.log(beta / (1.0 - beta))
        n, m = u.shape
        self._u, self._r = np.array(u), np.zeros(n)
        self._rise, self._own = np.zeros((n, m)), np.ones(n)

    @property
    def beta(self) -> Array:
        """Mole fractions of the vapour (N,)."""
        return np.asarray(1.0 / (1.0 + np.exp(-self._psi)))

    def residuals(self, rows: Rows, u: Array, light: Array) -> tuple[Array, Array, Array]:
        """Return residuals and matrix of the points ``rows`` with the mole fraction eliminated."""
        # The step of the eliminated unknown that belongs to the step just made of the others.
        change = -(self._r[rows] + ((u - self._u[rows]) * self._rise[rows]).sum(axis=-1)) / self._own[rows]
        self._psi[rows] += np.clip(np.nan_to_num(change), -LARGEST, LARGEST)
        beta = self.beta[rows]
        nc = self._z.size
        found = evaluate(self._eos, np.broadcast_to(self._z, (rows.size, nc)), beta, u, light)
        x, y = found.x / found.sx[:, None], found.y / found.sy[:, None]
        T, P = np.exp(u[:, -2]), np.exp(u[:, -1])
        ln_x, n_x, T_x, P_x = self._volume(found.state, x, found.px, T, P)
        ln_y, n_y, T_y, P_y = self._volume(found.state, y, found.py, T, P)
        n_x, n_y = n_x / found.sx[:, None], n_y / found.sy[:, None]
        # dx/dlnK = -beta x y / z, dy/dlnK = (1 - beta) x y / z, dx/dbeta = -x (y - x) / z, dy/dbeta = K dx/dbeta.
        dx, dy = -beta[:, None] * found.xy, (1.0 - beta)[:, None] * found.xy
        by_psi = (beta * (1.0 - beta))[:, None]
        K = np.exp(u[:, :nc])
        fall = -found.x * (K - 1.0) / (1.0 + beta[:, None] * (K - 1.0)) * by_psi
        rise = K * fall
        r = self._psi[rows] + ln_y - ln_x - self._goal[rows]
        r_u = np.concatenate([n_y * dy - n_x * dx, (T_y - T_x)[:, None], (P_y - P_x)[:, None]], axis=1)
        r_psi = 1.0 + (n_y * rise).sum(axis=-1) - (n_x * fall).sum(axis=-1)
        own = np.empty_like(found.res)
        own[:, :nc] = np.einsum("nij,nj->ni", found.py.dln_phi_dn, rise / found.sy[:, None])
        own[:, :nc] -= np.einsum("nij,nj->ni", found.px.dln_phi_dn, fall / found.sx[:, None])
        own[:, nc] = (rise - fall).sum(axis=-1)
        self._u[rows], self._r[rows], self._rise[rows], self._own[rows] = u, r, r_u, r_psi
        res = found.res - own * (r / r_psi)[:, None]
        jac = found.jac
        jac[:, :-1, :] -= own[:, :, None] * (r_u / r_psi[:, None])[:, None, :]
        return res, jac, found.volume

    def settled(self, rows: Rows) -> NDArray[np.bool_]:
        """Tell where the share by volume is met."""
        return np.asarray(np.abs(self._r[rows]) < 1e-9)

    def _volume(
        self, state: PreparedStates, x: Array, phase: PhaseDerivatives, T: Array, P: Array
    ) -> tuple[Array, Array, Array, Array]:
        """Return ln V (M,) of a phase after the shift, its derivatives in mole numbers (M, nc), in ln T and in ln P (M,)."""
        gas = R * T / P
        shift = self._shift.at(T)
        V = phase.Z * gas - np.vecdot(x, shift)
        partial = gas[:, None] * (1.0 + phase.dln_phi_dlnP) - shift
        answer = state.response(x)
        # The stable root need not be the one the phase has.
        for root in ("liquid", "vapour"):
            off = np.flatnonzero(np.abs(answer.Z - phase.Z) > 1e-9 * phase.Z)
            if off.size:
                other = state.take(off).response(x[off], "liquid" if root == "liquid" else "vapour")
                for name in ("Z", "p_T", "p_V"):
                    getattr(answer, name)[off] = getattr(other, name)
        stretch = phase.Z * gas / V
        warmer = -stretch * answer.p_T / answer.p_V - T * np.vecdot(x, self._shift.by_T(T)) / V
        return np.log(V), partial / V[:, None] - 1.0, warmer, stretch / answer.p_V


def volume_lines(
    eos: Equation, z: Array, shares: Sequence[float], shift: Shifts,
    critical: Sequence[CriticalPoint] = (), watch: Watch = UNWATCHED,
) -> list[VolumeLine]:  # fmt: skip
    """Return the lines of the inner volume ``shares`` of vapour of a feed z (nc,), all traced in one batch up to critical points.

    ``shift`` is taken off volumes; ``critical`` are the feed's critical points, where lines
    end. A share that no state was found for has no line. Raises Cancelled.
    """
    z = np.asarray(z, float) / np.sum(z)
    wanted = sorted({float(s) for s in shares if 0.0 < s < 1.0})
    if not wanted or z.size == 1:
        return []
    begins = _starts(eos, z, np.array(wanted), shift, watch.part(0.0, 0.3))
    out: list[VolumeLine] = []
    moving: list[Walker] = []
    of_share: list[float] = []
    for share, beta, u in begins:
        walker = Walker(beta, [u])
        first_direction(_corrector(eos, z, shift, np.array([share])), walker)
        moving += [walker, turned(walker)]
        of_share += [share, share]
    while True:
        live = [i for i, w in enumerate(moving) if not w.reason]
        if not live:
            break
        watch.at(min(0.95, 0.3 + max(len(w.points) for w in moving) / 200.0))
        corrector = _corrector(eos, z, shift, np.array([of_share[i] for i in live]))
        advance(corrector, [moving[i] for i in live], [True] * len(live))
    for share, up, down in zip(of_share[::2], moving[::2], moving[1::2]):
        out.append(VolumeLine(share, _states(eos, z, share, down, up, critical)))
    return out


def _corrector(eos: Equation, z: Array, shift: Shifts, share: Array) -> Corrector:
    def solve(beta: Array, u: Array, spec: Rows, most: int, step: float, light: Array | None) -> QualityPoints:
        return solve_system(ByVolume(eos, z, shift, share, beta, u), u, spec, most, step, light)

    return solve


def _starts(eos: Equation, z: Array, shares: Array, shift: Shifts, watch: Watch) -> list[tuple[float, float, Array]]:
    """Return share, mole fraction and unknowns (nc + 2,) of one state on each line that has any at low pressure.

    Flashes over temperature, then others between the two that a share lies between, bring Newton's method near.
    """
    out: dict[int, tuple[float, float, Array]] = {}
    for pressure in STARTS:
        rows = np.array([i for i in range(shares.size) if i not in out], dtype=np.intp)
        if rows.size == 0:
            break
        lo, hi = np.full(rows.size, max(60.0, 0.4 * eos.Tc.min())), np.full(rows.size, 1.2 * eos.Tc.max())
        for _ in range(3):
            T = np.geomspace(lo, hi, ALONG, axis=-1)
            found = flash_pt(eos, T, pressure, z, watch)
            share = _share(found, shift)
            below = ~(share > shares[rows, None])
            # From the hot end on: in the cold another liquid may be taken for a vapour.
            first = np.where(below.any(axis=-1), np.minimum(ALONG - np.argmax(below[:, ::-1], axis=-1), ALONG - 1), 1)
            k = np.arange(rows.size)
            lo, hi = T[k, first - 1], T[k, first]
        for i in range(rows.size):
            at = (i, int(first[i]))
            if not (found.split[at] and found.converged[at] and found.kind[at][0] == Kind.VAPOUR):
                continue
            with np.errstate(divide="ignore", invalid="ignore"):
                ln_k = np.where(z > 0.0, np.log(found.light[at] / found.heavy[at]), 0.0)
            u = np.concatenate([ln_k, np.log([T[at], pressure])])
            wanted = shares[rows[i] : rows[i] + 1]
            solve = _corrector(eos, z, shift, wanted)
            point = solve(found.fraction[at][:1], u[None], np.array([z.size + 1]), 30, 0.5, None)
            if point.converged[0] and point.volume[0] > 0.3:
                out[int(rows[i])] = (float(wanted[0]), float(point.beta[0]), point.u[0])
    return [out[row] for row in sorted(out)]


def _share(found: Phases, shift: Shifts) -> Array:
    """Return the share of the vapour by volume of two-phase states (...)."""
    gas, own = R * found.T / found.P, shift.at(found.T)
    volumes = [
        f * (Z * gas - np.vecdot(x, own))
        for f, Z, x in (
            (found.fraction[..., 0], found.Z[..., 0], found.light),
            (found.fraction[..., 1], found.Z[..., 1], found.heavy),
        )
    ]
    alone = np.where(found.kind[..., 0] == Kind.VAPOUR, 1.0, 0.0)
    with np.errstate(invalid="ignore"):
        return np.where(found.split, volumes[0] / (volumes[0] + volumes[1]), alone)


def _both(down: Walker, up: Walker) -> Walker:
    """Return one walker with the points of two that left one start in opposite directions, up to a critical point each."""
    whole = Walker(up.beta)
    for walker, order in ((down, slice(None, 0, -1)), (up, slice(None))):
        keep = [side > 0.0 for side in walker.sides]
        for name in ("points", "fractions"):
            values = [v for v, good in zip(getattr(walker, name), keep) if good]
            getattr(whole, name).extend(values[order])
    return whole


def _states(
    eos: Equation, z: Array, share: float, down: Walker, up: Walker, critical: Sequence[CriticalPoint]
) -> Phases:
    """Return the states along a line, from the end of ``down`` to that of ``up``, joined to the critical points it ends at."""
    line = _both(down, up)
    u, beta = np.array(line.points), np.array(line.fractions)
    for walker, end in ((down, 0), (up, -1)):
        points = [np.log([c.T, c.P]) for c in critical] if walker.reason == CRITICAL_POINT else []
        near = [p for p in points if (np.abs(u[end, -2:] - p) < (0.05, 0.2)).all()]
        if near:
            point = np.concatenate([np.zeros(z.size), min(near, key=lambda p: float(np.abs(u[end, -2:] - p).sum()))])
            place = 0 if end == 0 else len(u)
            u, beta = np.insert(u, place, point, axis=0), np.insert(beta, place, share)
    x, y = compositions(u, np.tile(z, (len(u), 1)), beta)
    x, y = (v / v.sum(axis=-1, keepdims=True) for v in (x, y))
    return two_phases(eos, z, np.exp(u[:, -2]), np.exp(u[:, -1]), beta, x, y)
