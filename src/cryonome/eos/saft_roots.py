"""The density of PC-SAFT mixtures at given temperature and pressure: every root that is mechanically stable.

At a given composition and temperature the pressure is a function of the packing alone, cheap beside the whole energy.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .equation import Root, Rows
from .saft_energy import A0, A1, A2, AVOGADRO, B0, B1, B2, K, Segments, compressibility

Array = NDArray[np.float64]

FIRST, SECOND = np.array([A0, A1, A2]), np.array([B0, B1, B2])

PACKINGS = np.concatenate([
    [0.0], np.geomspace(1e-3, 0.06, 8), np.arange(0.07, 0.25, 0.01), np.arange(0.26, 0.661, 0.02),
])  # fmt: skip
"""Where the pressure is looked at for roots; the last is beyond any fluid."""


@dataclass(frozen=True)
class Isotherm:
    """What the pressure of N mixtures depends on beside the packing: zeta_k by packing (N, 3); coefficients of the two dispersion
    integrals times their energies (N, 7); the mean segment number and the density by packing (N,); chain weights and
    diameters (N, nc)."""

    z: Array
    a: Array
    b: Array
    mean: Array
    density: Array
    weight: Array
    d: Array

    @staticmethod
    def of(at: Segments, x: Array) -> Isotherm:
        xm = x * at.m
        z = K * np.stack([np.einsum("ni,ni->n", xm, at.d**k) for k in range(4)], axis=-1)
        y1, y2 = at.pairs(x)
        per = 1.0 / z[:, 3]
        mean = xm.sum(axis=-1)
        p = np.stack([np.ones_like(mean), 1.0 - 1.0 / mean, (1.0 - 1.0 / mean) * (1.0 - 2.0 / mean)], axis=-1)
        D1, D2 = (np.einsum("ni,ni->n", x, y) * per**2 for y in (y1, y2))
        a = (p @ FIRST) * (-2.0 * np.pi * AVOGADRO * D1)[:, None]
        b = (p @ SECOND) * (-np.pi * AVOGADRO * mean * D2)[:, None]
        return Isotherm(z[:, :3] * per[:, None], a, b, mean, per, x * (at.m - 1.0) * per[:, None], at.d)

    def take(self, rows: Rows) -> Isotherm:
        return Isotherm(*(getattr(self, name)[rows] for name in self.__dataclass_fields__))

    def pressure(self, eta: Array) -> tuple[Array, Array]:
        """Return P/(R T), mol/m3, and its slope in the packing at packings (N,) or (N, G)."""
        wide = eta.ndim > 1

        def col(v: Array) -> Array:
            return v[:, None] if wide else v

        u = 1.0 / (1.0 - eta)
        z0, z1, z2 = (col(self.z[:, k]) for k in range(3))
        # Hard spheres less the ideal part, as eta times a function; zeta_k is its share of the packing here.
        part = z0 * (u - 1.0) + eta * u * u * (3.0 * z1 * z2 + z2**3 * (3.0 - eta) * eta * u)
        part1 = u * u * (z0 + 3.0 * z1 * z2 * (1.0 + 2.0 * eta * u))
        part1 += z2**3 * u**3 * ((6.0 - 3.0 * eta) * eta + 3.0 * (3.0 - eta) * eta * eta * u)
        # Chains: -sum w eta dL/d eta, t = d zeta_2 u.
        t = (self.d[:, None, :] if wide else self.d) * (z2 * eta * u)[..., None]
        a, b = 1.0 / (1.0 + t), 1.0 / (2.0 + t)
        lead = (a + b) * t
        weight = "ni,ngi->ng" if wide else "ni,ni->n"
        total = col(self.weight.sum(axis=-1))
        inner = np.einsum(weight, self.weight, lead) + total * eta
        inner1 = np.einsum(weight, self.weight, t * (a + b - t * (a * a + b * b))) * u + total * eta
        # Dispersion: phi = eta^2 F, P = eta dphi/d eta - phi = eta^2 (F + eta F').
        f, f1, f2 = _horner(self.a, eta, wide)
        g, g1, g2 = _horner(self.b, eta, wide)
        c, c1, c2 = _damping(eta, col(self.mean))
        F = f + c * g
        F1, F2 = f1 + c1 * g + c * g1, f2 + c2 * g + 2.0 * c1 * g1 + c * g2
        density = col(self.density)
        value = density * eta + part * eta / K - inner * u * eta + eta * eta * (F + eta * F1)
        slope = density + (part + part1 * eta) / K - (inner * u * u + inner1 * u)
        return value, slope + eta * (2.0 * F + eta * (4.0 * F1 + eta * F2))


def _horner(c: Array, eta: Array, wide: bool) -> tuple[Array, Array, Array]:
    """Return polynomials of coefficients c (N, k) at eta with two derivatives."""
    value = first = second = np.zeros_like(eta)
    for k in range(c.shape[1] - 1, -1, -1):
        second = second * eta + 2.0 * first
        first = first * eta + value
        value = value * eta + (c[:, k : k + 1] if wide else c[:, k])
    return value, first, second


def _damping(eta: Array, m: Array) -> tuple[Array, Array, Array]:
    """Return C1 (eq. A.11) with two derivatives in the packing."""
    c, c1, _, c2, _, _ = compressibility(eta, m)
    return c, c1, c2


DENSE_START, DENSER_STARTS = 0.5, np.array([0.54, 0.58, 0.62, 0.66])
STEPS = 25


def packings(at: Segments, x: Array, target: Array, root: Root) -> tuple[Array, Array, Isotherm]:
    """Return the packings (N,) of the densest and of the thinnest stable root at P/(R T) = target (N,) mol/m3.

    From the dense end Newton's method comes down monotonically to the densest root, from nothing it comes up to the thinnest;
    where it meets a falling pressure that root does not exist and the other serves for both. What ends neither way is looked
    for among fixed packings. With a ``root`` the other end is looked at only where that one fails.
    """
    s = Isotherm.of(at, x)
    ends = (_dense_end, _thin_end) if root != "vapour" else (_thin_end, _dense_end)
    eta, good = ends[0](s, target)
    rows = np.arange(target.size) if root == "stable" else np.flatnonzero(~good)
    other, fine = eta.copy(), good.copy()
    if rows.size:
        other[rows], fine[rows] = ends[1](s.take(rows), target[rows])
    eta, other = np.where(good, eta, other), np.where(fine, other, eta)
    dense, thin = (eta, other) if root != "vapour" else (other, eta)
    lost = np.flatnonzero(~(good | fine) | (thin > dense * (1.0 + 1e-9)))
    if lost.size:
        dense[lost], thin[lost] = _among_packings(s.take(lost), target[lost])
    return np.where(np.abs(dense - thin) < 1e-8 * dense, thin, dense), thin, s


def _dense_end(s: Isotherm, target: Array) -> tuple[Array, NDArray[np.bool_]]:
    start = np.full(target.shape, DENSE_START)
    rows = np.flatnonzero(s.pressure(start)[0] < target)
    if rows.size:
        # In the cold the pressure falls again at high packing, where no fluid is: the way down begins below that.
        value, slope = s.take(rows).pressure(np.broadcast_to(DENSER_STARTS, (rows.size, DENSER_STARTS.size)))
        above = (value >= target[rows, None]) & (slope > 0.0)
        start[rows] = np.where(above.any(axis=-1), DENSER_STARTS[np.argmax(above, axis=-1)], DENSER_STARTS[-1])
    return _newton(s, target, start)


def _thin_end(s: Isotherm, target: Array) -> tuple[Array, NDArray[np.bool_]]:
    return _newton(s, target, np.minimum(target / s.density, DENSE_START))


def _newton(s: Isotherm, target: Array, eta: Array) -> tuple[Array, NDArray[np.bool_]]:
    """Return where Newton's method from packings (N,) ends, and where it converged on a rising pressure all the way."""
    eta = eta.copy()
    good = np.zeros(eta.size, dtype=bool)
    if eta.size <= FEW:
        for i in range(eta.size):
            eta[i], good[i] = _newton_alone(s, i, float(target[i]), float(eta[i]))
        return eta, good
    rows = np.arange(eta.size)
    part = s
    for _ in range(STEPS):
        now = eta[rows]
        value, slope = part.pressure(now)
        with np.errstate(divide="ignore", invalid="ignore"):
            step = (value - target[rows]) / slope
        new = now - step
        bad = ~(slope > 0.0) | ~(new > 0.0) | (new > 0.74)
        done = ~bad & (np.abs(step) < 1e-9 * now)
        eta[rows] = np.where(bad, now, new)
        good[rows[done]] = True
        stay = ~(bad | done)
        if not stay.any():
            break
        if not stay.all():
            rows, part = rows[stay], part.take(stay)
    return eta, good


FEW = 12
"""States up to which plain numbers are faster than arrays of them."""


def _newton_alone(s: Isotherm, i: int, target: float, eta: float) -> tuple[float, bool]:
    """Return what :func:`_newton` does for the state i, in plain numbers."""
    z0, z1, z2 = s.z[i].tolist()
    first, second, mean, density = s.a[i].tolist()[::-1], s.b[i].tolist()[::-1], float(s.mean[i]), float(s.density[i])
    chains = [(w, d * z2) for w, d in zip(s.weight[i].tolist(), s.d[i].tolist()) if w]
    total = sum(w for w, _ in chains)
    for _ in range(STEPS):
        u = 1.0 / (1.0 - eta)
        eu = eta * u
        part = z0 * eu + eu * u * (3.0 * z1 * z2 + z2**3 * (3.0 - eta) * eu)
        part1 = u * u * (z0 + 3.0 * z1 * z2 * (1.0 + 2.0 * eu))
        part1 += z2**3 * u**3 * ((6.0 - 3.0 * eta) * eta + 3.0 * (3.0 - eta) * eta * eu)
        inner = inner1 = total * eta
        for w, d in chains:
            t = d * eu
            a, b = 1.0 / (1.0 + t), 1.0 / (2.0 + t)
            inner += w * (a + b) * t
            inner1 += w * t * (a + b - t * (a * a + b * b)) * u
        f = f1 = f2 = g = g1 = g2 = 0.0
        for k, j in zip(first, second):
            f2, f1, f = f2 * eta + 2.0 * f1, f1 * eta + f, f * eta + k
            g2, g1, g = g2 * eta + 2.0 * g1, g1 * eta + g, g * eta + j
        v = 1.0 / (2.0 - eta)
        top = eta * (8.0 - 2.0 * eta)
        u4 = u**4
        poly = eta * (20.0 + eta * (-27.0 + eta * (12.0 - 2.0 * eta)))
        poly1 = 20.0 + eta * (-54.0 + eta * (36.0 - 8.0 * eta))
        w0, log1 = (u * v) ** 2, 2.0 * (u + v)
        w1, w2 = w0 * log1, w0 * (log1 * log1 + 2.0 * (u * u + v * v))
        rest = 1.0 - mean
        q = 1.0 + mean * top * u4 + rest * poly * w0
        q1 = mean * ((8.0 - 4.0 * eta) * u4 + 4.0 * top * u4 * u) + rest * (poly1 * w0 + poly * w1)
        q2 = mean * (-4.0 * u4 + 8.0 * (8.0 - 4.0 * eta) * u4 * u + 20.0 * top * u4 * u * u)
        q2 += rest * ((-54.0 + eta * (72.0 - 24.0 * eta)) * w0 + 2.0 * poly1 * w1 + poly * w2)
        c = 1.0 / q
        c1, c2 = -q1 * c * c, (2.0 * q1 * q1 * c - q2) * c * c
        F, F1 = f + c * g, f1 + c1 * g + c * g1
        F2 = f2 + c2 * g + 2.0 * c1 * g1 + c * g2
        value = density * eta + part * eta / K - inner * eu + eta * eta * (F + eta * F1)
        slope = (
            density
            + (part + part1 * eta) / K
            - (inner * u * u + inner1 * u)
            + eta * (2.0 * F + eta * (4.0 * F1 + eta * F2))
        )
        if not slope > 0.0:
            return eta, False
        new = eta - (value - target) / slope
        if not 0.0 < new <= 0.74:
            return eta, False
        if abs(new - eta) < 1e-9 * eta:
            return new, True
        eta = new
    return eta, False


def _among_packings(s: Isotherm, target: Array) -> tuple[Array, Array]:
    """Return the densest and the thinnest root (N,) among the intervals of :data:`PACKINGS` where the pressure rises through."""
    value = s.pressure(np.broadcast_to(PACKINGS, (target.size, PACKINGS.size)))[0] - target[:, None]
    rising = (value[:, :-1] < 0.0) & (value[:, 1:] >= 0.0)
    # Beyond the densest packing looked at there is nothing; it stands in where no pressure rises through.
    dense, thin = (np.full(target.size, PACKINGS[-1]) for _ in range(2))
    rows = np.flatnonzero(rising.any(axis=-1))
    if rows.size:
        part, there, wanted = s.take(rows), rising[rows], target[rows]
        first, last = np.argmax(there, axis=-1), there.shape[1] - 1 - np.argmax(there[:, ::-1], axis=-1)
        thin[rows] = _refine(part, wanted, PACKINGS[first], PACKINGS[first + 1])
        dense[rows] = thin[rows]
        two = np.flatnonzero(first < last)
        if two.size:
            ends = PACKINGS[last[two]], PACKINGS[last[two] + 1]
            dense[rows[two]] = _refine(part.take(two), wanted[two], *ends)
    return dense, thin


def _refine(s: Isotherm, target: Array, low: Array, high: Array) -> Array:
    """Return the packing between two (N,) that bracket a rise through the target, by safeguarded Newton steps."""
    ideal = target / s.density
    eta = np.where((ideal > low) & (ideal < high), ideal, 0.5 * (low + high))
    low, high = low.copy(), high.copy()
    live = np.arange(eta.size)
    for _ in range(100):
        now, want = eta[live], target[live]
        value, slope = s.pressure(now)
        miss = value - want
        low, high = np.where(miss < 0.0, now, low), np.where(miss < 0.0, high, now)
        with np.errstate(divide="ignore", invalid="ignore"):
            new = now - miss / slope
        new = np.where((slope > 0.0) & (new >= low) & (new <= high), new, 0.5 * (low + high))
        eta[live] = new
        going = np.abs(new - now) >= 1e-11 * np.maximum(now, 1e-300)
        if not going.any():
            break
        if not going.all():
            live, low, high, s = live[going], low[going], high[going], s.take(going)
    return eta
