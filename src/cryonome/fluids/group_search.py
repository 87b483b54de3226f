"""Groups of components chosen by what they spoil: phase boundaries and splits of the lumped fluid beside those of the
fluid itself.

Neighbours in boiling point are joined one pair at a time, each time the pair that spoils least; at the end the
groups' limits are moved as long as that mends anything. All candidates of a step are one batch of parameter sets, so
that a search is some dozens of batches. What a similarity of constants does not know, this does: that joining the
heavy ends costs the dew line, and joining methane with nitrogen next to nothing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..characterization.lumping import join_components, summed
from ..components import Component
from ..eos.cpa import CpaEos
from ..eos.cubic import CubicEos
from ..equilibrium.flash import flash_pt
from ..equilibrium.phases import Kind
from ..equilibrium.saturation import saturation
from ..watch import UNWATCHED, Watch
from .building import FluidModel
from .fluid_lumping import APART, Groups, proposed_groups

Array = NDArray[np.float64]

HEAVY = 370.0
"""K. Boiling points from which on a component counts among the heavy ends."""
LEAST_HEAVY = 3
"""Groups that the heavy ends keep at least, where they have as many components and the groups suffice."""
EXPECTED_P, EXPECTED_SHARE, EXPECTED_LOG = 0.02, 0.01, 0.05
"""What a relative difference of a saturation pressure, a difference of a share, and one of ln of a dew pressure are
measured against."""
SEARCHED = 9
"""Groups above those wanted from which on joining is searched."""
CANDIDATES = 7
"""Pairs that are tried at each step, those whose constants are most alike."""
MOVES = 5
"""Rounds in which limits between groups are moved at the most."""


@dataclass(frozen=True)
class Bench:
    """States that a fluid is compared at: temperatures of saturation pressures ``T_sat`` (s,) K, those of the
    thinnest dew pressures ``T_dew`` (d,) K, and flashes at ``T``, ``P`` (n,); with what the fluid itself gives
    there."""

    T_sat: Array
    T_dew: Array
    T: Array
    P: Array
    saturations: Array
    dews: Array
    shares: Array


def searched_groups(
    model: FluidModel, count: int, temperatures: Sequence[float] = (), watch: Watch = UNWATCHED
) -> Groups:
    """Return ``count`` groups of the components of a fluid, or more where what never joins leaves more.
    ``temperatures`` K are those of its lab tests.

    The equation's own alpha functions are used in the search, with interaction parameters at 298.15 K. Of an equation
    that is no cubic the groups are those of :func:`proposed_groups`. Raises Cancelled."""
    eos = model.eos
    if not isinstance(eos, CubicEos) or eos.form.omega_b == 0.0 or (isinstance(eos, CpaEos) and eos.bonded):
        return proposed_groups(model.components, model.z, count)
    search = _Search(model, eos, temperatures)
    # What is all but alike is joined at once; weighed by its mass to the third, since the little at the heavy end
    # makes the hot end of the dew line.
    mass = np.array([c.molar_mass for c in model.components])
    weight = model.z * mass**3
    groups = proposed_groups(model.components, weight / weight.sum(), max(count + SEARCHED, 1))
    whole = len(groups) - max(count, 1)
    for number in range(max(whole, 0)):
        watch.at(0.8 * number / whole)
        near = sorted(search.pairs(groups), key=lambda k: search.unlike(groups[k], groups[k + 1]))
        there = [(*groups[:k], groups[k] + groups[k + 1], *groups[k + 2 :]) for k in near]
        kept = [g for g in there if search.enough_heavy(g, count)] or there
        if not kept:
            break
        groups = list(min(search.tried(kept[:CANDIDATES]))[1])
    best = search.tried([tuple(groups)])[0] if len(groups) > 1 else (0.0, tuple(groups))
    for number in range(MOVES):
        watch.at(0.8 + 0.2 * number / MOVES)
        moved = [g for g in search.moves(best[1]) if search.enough_heavy(g, count)]
        found = min(search.tried(moved), default=best)
        if not found[0] < best[0] * (1.0 - 1e-6):
            break
        best = found
    return list(best[1])


class _Search:
    def __init__(self, model: FluidModel, eos: CubicEos, temperatures: Sequence[float]) -> None:
        self.model, self.form = model, eos.form
        self.heavy = np.array([c.nbp >= HEAVY for c in model.components])
        self._costs: dict[tuple[tuple[int, ...], ...], float] = {}
        self._features = np.array([[3.0 * np.log(c.Tc), np.log(c.Pc), 2.0 * c.omega] for c in model.components])
        alone = [tuple((i,) for i in range(model.z.size))]
        tests = np.unique(temperatures)
        T = tests[[0, -1]] if tests.size > 1 else np.array([300.0, *(temperatures or (370.0,))])
        T_dew = self._dew_temperatures(eos)
        flash_T, flash_P = (v.ravel() for v in np.meshgrid([290.0, 340.0, 400.0], [2e5, 1e6, 4e6, 1.2e7]))
        none = np.zeros(0)
        bench = Bench(T, T_dew, flash_T, flash_P, none, none, none)
        found = self._measured(alone, bench)
        self.bench = Bench(T, T_dew, flash_T, flash_P, *(v[0] for v in found))

    def _dew_temperatures(self, eos: CubicEos) -> Array:
        """Return the temperatures, K, at which the fluid's own dew pressures are those of DEW_PRESSURES; they rise
        with temperature up to its hot end."""
        T = np.linspace(200.0, 1100.0, 91)
        with np.errstate(all="ignore"):
            P = _thin_dew(eos, T, np.tile(self.model.z, (T.size, 1)))
        good = np.isfinite(P)
        if good.sum() < 2:
            return np.zeros(0)
        top = int(np.argmax(np.where(good, P, -np.inf)))
        good &= np.arange(T.size) <= top
        found = np.interp(
            np.log(DEW_PRESSURES), np.log(np.maximum.accumulate(P[good])), T[good], left=np.nan, right=np.nan
        )
        return np.asarray(found[np.isfinite(found)])

    def pairs(self, groups: Groups) -> list[int]:
        """Return the places k of which k and k + 1 may be joined."""
        families = [{self.model.components[i].family for i in g} for g in groups]
        return [k for k, (a, b) in enumerate(pairwise(families)) if not (a | b) & set(APART)]

    def unlike(self, one: tuple[int, ...], other: tuple[int, ...]) -> float:
        """Return how unlike the constants of two groups are, by Ward's increase of the sum of squares."""
        z = self.model.z + 1e-12
        a, b = float(z[list(one)].sum()), float(z[list(other)].sum())
        centres = [np.average(self._features[list(g)], axis=0, weights=z[list(g)]) for g in (one, other)]
        return a * b / (a + b) * float(((centres[0] - centres[1]) ** 2).sum())

    def enough_heavy(self, groups: Sequence[tuple[int, ...]], count: int) -> bool:
        """Tell whether the heavy ends keep their groups."""
        least = min(LEAST_HEAVY, int(self.heavy.sum()), max(count - 1, 1))
        return sum(bool(self.heavy[list(g)].all()) for g in groups) >= least

    def moves(self, groups: tuple[tuple[int, ...], ...]) -> list[tuple[tuple[int, ...], ...]]:
        """Return the groupings in which one component goes over to a neighbouring group."""
        out = []
        for k in self.pairs(list(groups)):
            a, b = groups[k], groups[k + 1]
            if len(a) > 1:
                out.append((*groups[:k], a[:-1], (a[-1], *b), *groups[k + 2 :]))
            if len(b) > 1:
                out.append((*groups[:k], (*a, b[0]), b[1:], *groups[k + 2 :]))
        return out

    def tried(self, many: Sequence[tuple[tuple[int, ...], ...]]) -> list[tuple[float, tuple[tuple[int, ...], ...]]]:
        """Return what groupings of equal size spoil, with each."""
        new = [g for g in many if g not in self._costs]
        if new:
            self._costs |= dict(zip(new, self._spoilt(new).tolist()))
        return [(self._costs[g], g) for g in many]

    def _spoilt(self, many: Sequence[tuple[tuple[int, ...], ...]]) -> Array:
        own = self.bench
        found = self._measured(many, own)
        parts = [
            (found[0] / own.saturations - 1.0) / EXPECTED_P,
            np.log(found[1] / own.dews) / EXPECTED_LOG,
            (found[2] - own.shares) / EXPECTED_SHARE,
        ]
        off = np.concatenate(
            [
                np.where(np.isfinite(own_value), np.nan_to_num(p, nan=10.0), 0.0)
                for p, own_value in zip(parts, (own.saturations, own.dews, own.shares))
            ],
            axis=1,
        )
        return np.asarray(np.minimum(off * off, 100.0).mean(axis=1))

    def _measured(self, many: Sequence[tuple[tuple[int, ...], ...]], bench: Bench) -> tuple[Array, Array, Array]:
        """Return saturation pressures (M, s), thinnest dew pressures (M, d) Pa, and the liquid shares of M groupings
        by mole and vapour volumes (M, 2 n)."""
        sets = [self._joined(groups) for groups in many]
        Tc, Pc, omega, z = (np.stack([getattr(s, k) for s in sets]) for k in ("Tc", "Pc", "omega", "z"))
        eos = CubicEos(self.form, Tc, Pc, omega, np.stack([s.kij for s in sets]))
        m = len(many)
        eos = eos if m > 1 else eos.single(0)

        def spread(values: Array) -> tuple[CubicEos, Array, Array]:
            each = np.repeat(np.arange(m), values.size)
            return eos.take(each), np.tile(values, m), z[each]

        part, T, feed = spread(bench.T_sat)
        with np.errstate(all="ignore"):
            sat = saturation(part, T, feed)
            pressures = np.where(sat.found, sat.P, np.nan).reshape(m, -1)
            dews = _thin_dew(*spread(bench.T_dew)).reshape(m, -1)
            part, T, feed = spread(bench.T)
            state = flash_pt(part, T, np.tile(bench.P, m), feed)
        liquid = np.where(state.kind == Kind.LIQUID, state.fraction, 0.0).sum(axis=-1)
        Z = np.where(state.present, state.Z * state.fraction, 0.0).sum(axis=-1)
        shares = np.where(state.converged, liquid, np.nan).reshape(m, -1)
        return pressures, dews, np.concatenate([shares, np.where(state.converged, Z, np.nan).reshape(m, -1)], axis=1)

    def _joined(self, groups: tuple[tuple[int, ...], ...]) -> _Set:
        return _set_of(self.model, groups)


@dataclass(frozen=True)
class _Set:
    """Constants of a grouping: Tc K, Pc Pa, omega, z (n,), kij (n, n)."""

    Tc: Array
    Pc: Array
    omega: Array
    z: Array
    kij: Array


def _set_of(model: FluidModel, groups: tuple[tuple[int, ...], ...]) -> _Set:
    size = len(groups)
    group = np.empty(model.z.size, dtype=np.intp)
    for g, members in enumerate(groups):
        group[list(members)] = g
    names = [str(g) for g in range(size)]
    made: Sequence[Component] = join_components(model.components, model.z, group, names, names)
    # A group of one component is that component, unchanged.
    own = [model.components[m[0]] if len(m) == 1 else c for m, c in zip(groups, made)]
    Tc, Pc, omega = (np.array([getattr(c, k) for c in own]) for k in ("Tc", "Pc", "omega"))
    z = summed(model.z, group)
    belongs = (group[:, None] == np.arange(size)) * model.z[:, None]
    kij = belongs.T @ model.kij @ belongs / np.outer(z, z)
    np.fill_diagonal(kij, 0.0)
    return _Set(Tc, Pc, omega, z, kij)


DEW_PRESSURES = np.array([1e4, 1e5, 4e5, 1e6, 2e6])
"""Pa, of the dew points compared: from a thin gas to the hot end of the line."""
DEW_STEPS = 40


def _thin_dew(eos: CubicEos, T: Array, z: Array) -> Array:
    """Return the dew pressures of thin gases, Pa (N,), at T (N,) K: of a vapour over a first drop, by substitution;
    nan where it does not settle. They tell the hot end of the dew line, up to the cricondentherm."""
    P = np.full(T.size, 1e4)
    x = z * np.exp(-(np.log(eos.Pc / P[:, None]) + 5.373 * (1.0 + eos.omega) * (1.0 - eos.Tc / T[:, None])))
    last = np.full(T.size, np.inf)
    for _ in range(DEW_STEPS):
        total = x.sum(axis=-1)
        last, P = P, np.clip(P / np.clip(total, 0.05, 20.0), 1e-2, 3e6)
        state = eos.prepare(T, P)
        ln_phi = state.ln_phi(x / x.sum(axis=-1, keepdims=True), "liquid")[0] - state.ln_phi(z, "vapour")[0]
        x = z * np.exp(-ln_phi)
    settled = (np.abs(P / last - 1.0) < 1e-4) & (P < 2.9e6)
    return np.where(settled, P, np.nan)
