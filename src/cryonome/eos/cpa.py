"""Cubic plus association: the equation of Soave, Redlich and Kwong with bonds between molecules.

    P = R T/(V - b) - a(T)/(V (V + b)) - R T/(2 V) g sum_i x_i sum_A (1 - X_Ai),   g = 1/(1 - 0.475 b/V)

Kontogeorgis, Voutsas, Yakoumis and Tassios, Ind. Eng. Chem. Res. 35, 4310 (1996), with the simplified radial
distribution function g of Kontogeorgis, Yakoumis, Meijer, Hendriks and Moorwood, Fluid Phase Equilib. 158-160, 201
(1999). The fraction X of sites A on molecule i that are free is

    1/X_Ai = 1 + 1/V sum_j x_j sum_B X_Bj Delta,   Delta = g (exp(eps/(R T)) - 1) b_ij beta

with the schemes of Huang and Radosz (1990): 4C has two sites that give and two that take, 2B one of each. Between
unlike molecules that bond by themselves eps is the mean and beta the geometric mean (CR-1); a molecule that only takes
has half the donor's eps and a beta of its own (Folas et al., Ind. Eng. Chem. Res. 45, 1527, 2006), or a part of its
eps.

In Helmholtz energy the bonds add Q = sum_s m_s (ln X_s + (1 - X_s)/2), m_s moles of a site. With gamma = g/V =
1/(V - 0.475 B) the energy is a function of m, gamma and T that is stationary in X, from which all derivatives follow:
Michelsen and Hendriks, Fluid Phase Equilib. 180, 165 (2001). The fractions are found by successive substitution of
second order: Michelsen, Ind. Eng. Chem. Res. 45, 8449 (2006). All of it is compiled: ``kernels/source/cpa.py`` and
``bonds.py``.

Array shapes: N states, nc components, nd donors and na acceptors."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..constants import R
from .compiled import packed_vectors
from .cubic import HEAD, STATE_VECTORS, CubicEos
from .equation import Packed, Rows
from .subsets import remembered

Array = NDArray[np.float64]
Places = NDArray[np.intp]

KAPPA = 0.475
"""Of the simplified radial distribution function: 1.9/4."""
REACH = 300.0
"""K over which the parameter of a warming pair bends to a constant."""
STEP = 3e-4
"""Of differences, relative."""


@dataclass(frozen=True)
class Association:
    """The bonds of a mixture: the components that own the donors (nd,) and the acceptors (na,), how many of each one
    molecule has, ``gives`` (..., nd) and ``takes`` (..., na), the ``energy`` of bonds over R, K, and their ``volume``
    b_ij beta, m3/mol, both (..., nd, na), zero where there is none. All but the owners may carry a batch axis."""

    donors: Places
    acceptors: Places
    gives: Array
    takes: Array
    energy: Array
    volume: Array

    @property
    def batched(self) -> bool:
        """Whether the numbers carry a batch axis."""
        return self.energy.ndim > 2

    def at(self, rows: Rows | int) -> Association:
        """Return the bonds of some states of a batch."""
        if not self.batched:
            return self
        return replace(
            self, gives=self.gives[rows], takes=self.takes[rows], energy=self.energy[rows], volume=self.volume[rows]
        )

    def of(self, index: Places) -> Association:
        """Return the bonds of the components ``index``."""
        place = {int(i): k for k, i in enumerate(index)}
        d = [k for k, i in enumerate(self.donors.tolist()) if i in place]
        a = [k for k, i in enumerate(self.acceptors.tolist()) if i in place and d]
        return Association(
            np.array([place[i] for i in self.donors[d].tolist()], dtype=np.intp),
            np.array([place[i] for i in self.acceptors[a].tolist()], dtype=np.intp),
            self.gives[..., d],
            self.takes[..., a],
            self.energy[..., d, :][..., a],
            self.volume[..., d, :][..., a],
        )

    def alone(self, nc: int) -> tuple[Array, Array, Array]:
        """Return of each of nc components how many bonds it makes with its like, (..., nc), their energy over R, K,
        and their volume, m3/mol."""
        count, energy, volume = (np.zeros((*self.gives.shape[:-1], nc)) for _ in range(3))
        for d, i in enumerate(self.donors.tolist()):
            for a in np.flatnonzero(self.acceptors == i).tolist():
                count[..., i] = self.gives[..., d]
                energy[..., i], volume[..., i] = self.energy[..., d, a], self.volume[..., d, a]
        return count, energy, volume


_NONE = np.zeros(0, dtype=np.intp)
NO_BONDS = Association(_NONE, _NONE, np.zeros(0), np.zeros(0), np.zeros((0, 0)), np.zeros((0, 0)))


@dataclass(frozen=True)
class CpaEos(CubicEos):
    """Cubic plus association of a given mixture; an immutable value.

    What is said of :class:`CubicEos` holds of its cubic part. Where no component has ``bonds`` it is the cubic.
    ``warming``, (nc, nc, 2), are constants c1 1/K and c2 1/K2 of pairs whose parameter rises by c1 tau + c2 tau^2,
    tau = REACH tanh((T - 298.15 K)/REACH): a line and a bend near there, constant far away."""

    bonds: Association = NO_BONDS
    warming: Array | None = None

    @property
    def bonded(self) -> bool:
        """Whether any component bonds, so that it is more than the cubic."""
        return self.bonds.donors.size > 0

    @property
    def batched(self) -> bool:
        """Whether the parameters carry a batch axis."""
        return super().batched or self.bonds.batched

    def _bonded(self, plain: CubicEos, bonds: Association, warming: Array | None) -> CpaEos:
        return CpaEos(**{f.name: getattr(plain, f.name) for f in fields(CubicEos)}, bonds=bonds, warming=warming)

    def take(self, index: Rows) -> CpaEos:
        """Return the equation with batched parameters restricted to ``index``; shared parameters stay."""
        if not self.batched:
            return self
        plain = super().take(index)
        taken = self._bonded(plain, self.bonds.at(index), self.warming)
        if "packed" in plain.__dict__:
            taken.__dict__["packed"] = plain.__dict__["packed"]
        return taken

    def single(self, row: int) -> CpaEos:
        """Return the equation of one state, its parameters without a batch axis."""
        return self._bonded(super().single(row), self.bonds.at(row), self.warming) if self.batched else self

    @remembered
    def of(self, index: NDArray[np.intp]) -> CpaEos:
        """Return the equation of a subset of the components."""
        warming = None if self.warming is None else self.warming[np.ix_(index, index)]
        return self._bonded(super().of(index), self.bonds.of(index), warming)

    def pure(self) -> CpaEos:
        """Return the components taken pure: one-component mixtures along a batch axis, each with its own bonds."""
        alone, zero = super().pure(), np.zeros(1, dtype=np.intp)
        count, energy, volume = self.bonds.alone(self.nc)
        if not (count > 0.0).any():
            return self._bonded(alone, NO_BONDS, None)
        repeat = 1 if self.bonds.batched else alone.Tc.shape[0] // self.nc
        n, e, v = (np.tile(part.reshape(-1), repeat) for part in (count, energy, volume))
        own = Association(zero, zero, n[:, None], n[:, None], e[:, None, None], v[:, None, None])
        return self._bonded(alone, own, None)

    def pure_critical(self) -> tuple[Array, Array, Array]:
        """Return T K, P Pa and V m3/mol of the critical point of each component taken pure, (..., nc)."""
        return self._critical[:3]

    def unlikeness(self) -> Array:
        """Return the median magnitude of the interaction parameters of each component, (nc,), one of what bonds with
        its like."""
        out = super().unlikeness().copy()
        out[self.bonds.donors] = 1.0
        return out

    @cached_property
    def packed(self) -> Packed:
        """The equation as compiled solvers take it; the order is told in ``kernels/source/cpa.py``."""
        nc, bonds = self.nc, self.bonds
        nd, na = bonds.donors.size, bonds.acceptors.size
        if nd == 0:
            return self.packed_cubic
        ns = nd + na
        _, _, V, strength = self._critical
        warm = np.zeros((nc, nc, 2)) if self.warming is None else self.warming
        places = np.argwhere(np.triu((warm != 0.0).any(axis=2)))
        pairs = np.column_stack([places, warm[places[:, 0], places[:, 1]]]).astype(float)
        cubic = self.packed_parts(True)
        cubic[0][0][6] = float(self.kij_slope is not None or len(places) > 0)
        parts: list[tuple[Array, int]] = [
            *cubic,
            (np.array([nd, na, len(places), 0.0]), 1),
            (V, 1),
            (strength, 1),
            (np.concatenate([bonds.donors, bonds.acceptors]).astype(float), 1),
            (np.concatenate([bonds.gives, bonds.takes], axis=-1), 1),
            (bonds.energy, 2),
            (bonds.volume, 2),
            (pairs.ravel(), 1),
        ]
        parts = [(v, core) for v, core in parts if v.size]
        state = HEAD + STATE_VECTORS * nc + 3 * nc * nc + 5 * ns + 4 * nd * na + nd * nd + nd + ns * ns + 2 * nc
        return Packed.of(self, "cpa", packed_vectors(parts), state)

    @cached_property
    def _critical(self) -> tuple[Array, Array, Array, Array]:
        """T, P and V of the critical points, and attraction and bonds over covolume there, in R T: (..., nc)."""
        T, P, V = super().pure_critical()
        count, energy, volume = self.bonds.alone(self.nc)
        shape = np.broadcast_shapes(V.shape, count.shape, self.b.shape)
        T, P, V = (np.array(np.broadcast_to(v, shape)) for v in (T, P, V))
        b, bonding = np.broadcast_to(self.b, shape), np.broadcast_to(count > 0.0, shape)

        def bonded(T: Array, V: Array) -> Array:
            """What the bonds pull of P/(R T)."""
            gamma = 1.0 / (V - KAPPA * b)
            strong = gamma * count * volume * np.expm1(energy / T)
            return np.asarray(count * gamma * (1.0 - 2.0 / (1.0 + np.sqrt(1.0 + 4.0 * strong))))

        def attraction(T: Array) -> Array:
            return np.asarray(self.a_critical * self.alpha.root(T / self.Tc)[0] ** 2 / (R * T))

        def pressure(T: Array, V: Array) -> Array:
            return np.asarray(1.0 / (V - b) - attraction(T) / (V * (V + b)) - bonded(T, V))

        def slopes(T: Array, V: Array) -> tuple[Array, Array]:
            """Slope and curvature of the pressure in ln V, times V."""
            low, here, high = (V * pressure(T, V * np.exp(k * STEP)) for k in (-1, 0, 1))
            return (high - low) / (2.0 * STEP), (high - 2.0 * here + low) / STEP**2

        if bonding.any():
            T, V = np.where(bonding, 1.04 * T, T), np.where(bonding, 4.2 * b, V)
            for _ in range(60):
                one, two = slopes(T, V)
                by_T = [(v - w) / STEP for v, w in zip(slopes(T * (1.0 + STEP), V), (one, two))]
                by_V = [(v - w) / STEP for v, w in zip(slopes(T, V * (1.0 + STEP)), (one, two))]
                det = by_T[0] * by_V[1] - by_T[1] * by_V[0]
                with np.errstate(divide="ignore", invalid="ignore"):
                    steps = (one * by_V[1] - two * by_V[0]) / det, (by_T[0] * two - by_T[1] * one) / det
                move = [np.where(bonding & np.isfinite(s), np.clip(s, -0.05, 0.05), 0.0) for s in steps]
                T, V = T * (1.0 - move[0]), V * (1.0 - move[1])
                if max(float(np.abs(m).max()) for m in move) < 1e-7:
                    break
            P = np.where(bonding, R * T * pressure(T, V), P)
        strength = (attraction(T) + bonded(T, V) * V * (V + b)) / b
        return T, P, V, np.asarray(strength)
