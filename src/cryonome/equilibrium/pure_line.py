"""States of one component on its vapour pressure line at two quantities, neither temperature nor pressure given,
batched.

Along the line the first quantity gives the vapour's share by the lever rule, the second tells where the state is.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from .every_root import every_root, first_of
from .line_states import two_phases
from .measured import Fluids, deviation, gather
from .one_known import Found
from .phases import Kind, Phases, Reason
from .pure import saturation_pressure

Array = NDArray[np.float64]
Rows = NDArray[np.intp]

POINTS = 80
"""Temperatures of the line that are looked at."""
HAIR = 1e-9
"""By how much a share may lie outside 0 to 1 for the rounding of what was given."""


def on_pure_line(fluids: Fluids, quantities: Mapping[str, Array]) -> Found:
    """Return the states where two quantities, by name and (N,) each, have their values; of several the coldest.

    A quantity is "vapour_fraction" or one of :data:`cryonome.equilibrium.measured.MEASURED`.
    """
    (first, value), (second, target) = quantities.items()
    n = target.size
    Tc = np.broadcast_to(fluids.eos.pure_critical()[0].reshape(-1), (n,))
    if not np.isfinite(Tc).all():
        return Found(nowhere(np.ones(1), n), ((),) * n)
    base = np.log1p(-np.geomspace(1e-8, 0.65, POINTS)[::-1])

    def at(x: Array, rows: Rows) -> tuple[Array, Array, Array, Array]:
        """Return T, P, the share of vapour by the first quantity, which may lie outside 0 to 1, and how far the
        second is off."""
        here, T = fluids.take(rows), Tc[rows] * np.exp(x)
        P = saturation_pressure(here.eos, T[:, None])[:, 0]
        one = np.ones((T.size, 1))
        keys = tuple(k for k in (first, second, "molar_volume") if k != "vapour_fraction")
        states = [two_phases(here.eos, one[0], T, P, np.full(T.size, b), one, one) for b in (0.0, 1.0)]
        ends = [dict(here.whole(s, keys)) for s in states]
        beta = _share(first, value[rows], ends)
        return T, P, beta, deviation(second, _quantity(second, beta, ends), target[rows], T)

    roots, owner = every_root(lambda x, rows: at(x, rows)[3], base, n)
    if roots.size:
        beta = at(roots, owner)[2]
        inside = (beta >= -HAIR) & (beta <= 1.0 + HAIR)
        roots, owner = roots[inside], owner[inside]
    there, lowest, rest = first_of(roots, owner, n)
    others: list[tuple[tuple[float, float], ...]] = [()] * n
    for row, more in enumerate(rest):
        if more.size:
            T, P, _, _ = at(more, np.full(more.size, row))
            others[row] = tuple(zip(T.tolist(), P.tolist()))
    rows, lost = np.flatnonzero(there), np.flatnonzero(~there)
    parts: list[tuple[Rows, Phases]] = []
    if rows.size:
        T, P, beta, _ = at(lowest[rows], rows)
        one = np.ones((rows.size, 1))
        parts.append((rows, two_phases(fluids.eos.take(rows), one[0], T, P, np.clip(beta, 0.0, 1.0), one, one)))
    if lost.size:
        parts.append((lost, nowhere(np.ones(1), lost.size)))
    return Found(gather(n, parts), tuple(others))


def _share(key: str, value: Array, ends: list[dict[str, Array]]) -> Array:
    """Return the share of vapour by mole that gives a quantity its value, between the liquid's and the vapour's."""
    liquid, vapour = (e["molar_volume"] for e in ends)
    with np.errstate(invalid="ignore", divide="ignore"):
        if key == "vapour_fraction":
            return value
        if key == "vapour_volume_fraction":
            return np.asarray(value / vapour / (value / vapour + (1.0 - value) / liquid))
        low, high = (e[key] for e in ends)
        if key == "density":
            low, high, value = 1.0 / low, 1.0 / high, 1.0 / value
        return np.asarray((value - low) / (high - low))


def _quantity(key: str, beta: Array, ends: list[dict[str, Array]]) -> Array:
    """Return a quantity of liquid and vapour together."""
    if key == "vapour_fraction":
        return beta
    liquid, vapour = (e["molar_volume"] for e in ends)
    with np.errstate(invalid="ignore", divide="ignore"):
        if key == "vapour_volume_fraction":
            return np.asarray(beta * vapour / (beta * vapour + (1.0 - beta) * liquid))
        low, high = (e[key] for e in ends)
        if key == "density":
            return np.asarray(1.0 / np.maximum(1.0 / low + beta * (1.0 / high - 1.0 / low), 1e-300))
        return np.asarray(low + beta * (high - low))


def nowhere(z: Array, n: int) -> Phases:
    """Return n states of feed z (nc,) that do not exist."""
    nan = np.full((n, 2), np.nan)
    return Phases(
        nan[:, 0], nan[:, 0], np.tile(z, (n, 1)), np.full((n, 2), Kind.ABSENT, dtype=np.int8), np.zeros((n, 2)),
        np.zeros((n, 2, z.size)), nan, np.zeros((n, 2), dtype=np.int8), np.full(n, Reason.NO_SUCH_STATE, dtype=np.int8),
        np.zeros(n), np.zeros(n, dtype=np.int64),
    )  # fmt: skip
