"""Where vapour forms from a liquid, or liquid from a vapour, along isotherms of a fluid: what phases that are not
there are continued from. Boundaries are found by flashes, so that a third phase or a narrow range makes no
difference."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.multiphase import flash_all
from ..equilibrium.naming import with_aqueous
from ..equilibrium.phases import Kind, Phases
from ..watch import Watch
from .building import FluidModel

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

NODES = 48
"""Temperatures at most at which boundaries are looked for; between them compositions are interpolated."""
PRESSURES = np.geomspace(1e2, 1.5e8, 48)
"""Pa. Where a phase is looked for along an isotherm."""
BEYOND = np.geomspace(0.6, 1.6, 20)
"""Of the coldest and the hottest temperature, where a phase is looked for that has no boundary between them."""
PARTS = 8
"""Into how many a range is divided at a time where its parts are looked at together."""
ROUNDS = 10
ROUNDS_IN_T = 5
APART = 0.02
"""In ln P, how far beyond the boundaries of one temperature those of the next are looked for."""
INCIPIENT = 0.05
"""Fraction up to which the last state on the inner side of a boundary counts as one of a phase that just forms; close
to a critical point a flash finds no less."""
CLOSE = 5.0
"""K. Farther apart temperatures are not both close to a critical one."""
HALVINGS = 30


def absent(phases: Phases, kind: Kind) -> Mask:
    """Tell which states (N,) were found and have no phase of a kind."""
    return np.asarray(phases.converged & ~(phases.kind == kind).any(axis=-1))


class Boundaries:
    """Where vapour forms from liquid, or liquid from vapour, along isotherms of a fluid: temperatures (n,) with ln P
    (n, k), the kind that forms and its compositions (n, k, nc), nan where there are fewer."""

    def __init__(self, model: FluidModel, phases: Phases, watch: Watch) -> None:
        self._model, self._watch = model, watch
        self._found = _Found(np.empty(0), np.empty((0, 0)), np.empty((0, 0)), np.empty((0, 0, model.z.size)))
        known = phases.T[phases.converged]
        nodes = np.unique(known)
        if nodes.size > NODES:
            nodes = np.linspace(nodes[0], nodes[-1], NODES)
        if nodes.size:
            self._enter(nodes)
            wanted = [k for k in (Kind.VAPOUR, Kind.LIQUID) if absent(phases, k).any()]
            if not all(self._found.has(k).any() for k in wanted):
                self._enter(np.concatenate([nodes[0] * BEYOND[BEYOND < 1.0], nodes[-1] * BEYOND[BEYOND > 1.0]]))
            for kind in wanted:
                self._refine(kind, float(nodes[0]), float(nodes[-1]))
            self._close()

    def _enter(self, T: Array) -> None:
        self._found = self._found.joined(_along(self._model, T, self._watch))

    def _refine(self, kind: Kind, coldest: float, hottest: float) -> None:
        """Enter the temperatures at which a kind ceases to form, where neighbours differ, as far as states between two
        temperatures are told by them."""
        T, has = self._found.T, self._found.has(kind)
        low = T[has & (coldest >= T)].max(initial=-np.inf)
        high = T[has & (hottest <= T)].min(initial=np.inf)
        for i in np.flatnonzero((has[1:] != has[:-1]) & (T[1:] > low) & (T[:-1] < high)).tolist():
            inside, outside, node = (T[i], T[i + 1], i) if has[i] else (T[i + 1], T[i], i + 1)
            at, best = np.log(PRESSURES), self._found.take([node])
            for _ in range(ROUNDS_IN_T):
                ends = best.ln_P[0][best.kind[0] == kind]
                if ends.size > 1:
                    # The range between two boundaries closes towards the last temperature.
                    at = np.linspace(ends.min() - APART, ends.max() + APART, NODES)
                between = inside + (outside - inside) * np.arange(1, PARTS) / PARTS
                found = _along(self._model, between, self._watch, at)
                own = found.has(kind)
                last = PARTS - 1 if own.all() else int(np.argmin(own))
                steps = np.array([inside, *between, outside])
                inside, outside = steps[last], steps[last + 1]
                best = found.take([last - 1]) if last else best
            self._found = self._found.joined(best)

    def _close(self) -> None:
        """Enter the critical temperature, where what forms from a liquid and what forms from a vapour are one: close
        to it flashes find neither."""
        there = np.flatnonzero(np.isfinite(self._found.ln_P).any(axis=-1))
        found = self._found.take(there.tolist())
        rows, top = np.arange(there.size), np.isfinite(found.ln_P).sum(axis=-1) - 1
        kind, ln_P = found.kind[rows, top], found.ln_P[rows, top]
        turns = (kind[:-1] == Kind.VAPOUR) & (kind[1:] == Kind.LIQUID) & (np.diff(found.T) < CLOSE)
        for i in np.flatnonzero(turns).tolist():
            middle = 0.5 * (ln_P[i] + ln_P[i + 1])
            kinds = np.array([[float(Kind.VAPOUR), float(Kind.LIQUID)]])
            T = 0.5 * (found.T[i] + found.T[i + 1])
            # What both become is the one phase beside water, a little above.
            one = _split(self._model, np.array([T]), np.array([middle + APART]), self._watch)[4]
            both = _Found(np.array([T]), np.full((1, 2), middle), kinds, np.stack([one, one], axis=1))
            # What lies between and found nothing is as close.
            beside = (found.T[i] >= self._found.T) | (found.T[i + 1] <= self._found.T)
            self._found = self._found.take(np.flatnonzero(beside).tolist()).joined(both)

    def renamed(self, phases: Phases) -> Phases:
        """Return states (N,) whose one phase beside water has the name that what forms from it leaves for it, and of
        whose two liquids the lighter has the vapour's."""
        liquid = (phases.kind == Kind.LIQUID) & phases.converged[:, None]
        pair = (liquid.sum(axis=-1) > 1) & ~(phases.kind == Kind.VAPOUR).any(axis=-1)
        if pair.any():
            lighter = pair[:, None] & (np.cumsum(liquid, axis=-1) == 1) & liquid
            phases = replace(phases, kind=np.where(lighter, np.int8(Kind.VAPOUR), phases.kind))
        code = phases.kind
        single = ((code == Kind.VAPOUR) | (code == Kind.LIQUID)).sum(axis=-1) == 1
        rows = np.flatnonzero(single & phases.converged)
        if rows.size == 0 or self._found.ln_P.shape[1] == 0:
            return phases
        own = phases.take(rows)
        T = self._found.T
        right = np.clip(np.searchsorted(T, own.T), 1, max(T.size - 1, 1)) if T.size > 1 else np.zeros(rows.size, int)
        node = np.where(np.abs(T[right] - own.T) < np.abs(T[right - 1] - own.T), right, right - 1)
        gap = np.abs(
            np.where(np.isfinite(self._found.ln_P[node]), self._found.ln_P[node], np.inf) - np.log(own.P)[:, None]
        )
        place = np.argmin(gap, axis=1)
        forms = self._found.kind[node, place]
        there = np.isfinite(gap[np.arange(rows.size), place])
        wrong = there[:, None] & (own.kind == forms[:, None]) & (own.kind != Kind.AQUEOUS)
        other = np.where(own.kind == Kind.VAPOUR, Kind.LIQUID, Kind.VAPOUR)
        changed = code.copy()
        changed[rows] = np.where(wrong, other, own.kind)
        return replace(phases, kind=changed)

    def at(self, kind: Kind, phases: Phases) -> tuple[Array, Array]:
        """Return of states (M,) without a kind of phase its compositions (M, nc) and the pressures (M,) Pa of the
        boundary they belong to."""
        has = np.flatnonzero(self._found.has(kind))
        if has.size == 0:
            return self._of_feed(phases), phases.P
        T, x = self._found.T[has], self._found.x[has]
        ln_P = np.where(self._found.kind[has] == kind, self._found.ln_P[has], np.inf)
        right = np.clip(np.searchsorted(T, phases.T), 0, T.size - 1)
        left = np.clip(np.searchsorted(T, phases.T, "right") - 1, 0, T.size - 1)

        def nearest(node: NDArray[np.intp]) -> tuple[Array, Array]:
            place = np.argmin(np.abs(ln_P[node] - np.log(phases.P)[:, None]), axis=1)
            return x[node, place], ln_P[node, place]

        # Between two nodes with one that has no boundary the nearer end holds; else what lies between is a mean.
        span = T[right] - T[left]
        part = np.where(span > 0.0, (phases.T - T[left]) / np.where(span > 0.0, span, 1.0), 0.0)
        part = np.where(has[right] - has[left] <= 1, part, np.round(part))
        (x_left, P_left), (x_right, P_right) = nearest(left), nearest(right)
        mean = x_left + part[:, None] * (x_right - x_left)
        return mean / mean.sum(axis=-1, keepdims=True), np.exp(P_left + part * (P_right - P_left))

    def _of_feed(self, phases: Phases) -> Array:
        """Return the feed without its water: of a phase that forms nowhere."""
        x = self._model.z.copy()
        if self._model.water is not None and x[self._model.water] < 1.0:
            x[self._model.water] = 0.0
        return np.broadcast_to(x / x.sum(), phases.z.shape)


@dataclass(frozen=True)
class _Found:
    """Boundaries along isotherms, as :class:`Boundaries` has them; ``kind`` is nan where there are fewer."""

    T: Array
    ln_P: Array
    kind: Array
    x: Array

    def has(self, kind: Kind) -> Mask:
        """Tell at which temperatures a kind of phase forms (n,)."""
        return np.asarray((self.kind == kind).any(axis=-1))

    def take(self, rows: list[int]) -> _Found:
        """Return those of some temperatures."""
        return _Found(self.T[rows], self.ln_P[rows], self.kind[rows], self.x[rows])

    def joined(self, other: _Found) -> _Found:
        """Return both, in order of temperature."""
        most = max(self.ln_P.shape[1], other.ln_P.shape[1])

        def wide(v: Array) -> Array:
            return np.pad(v, [(0, 0), (0, most - v.shape[1])] + [(0, 0)] * (v.ndim - 2), constant_values=np.nan)

        T = np.concatenate([self.T, other.T])
        order = np.argsort(T, kind="stable")
        return _Found(
            T[order],
            *(np.concatenate([wide(getattr(f, k)) for f in (self, other)])[order] for k in ("ln_P", "kind", "x")),
        )


def _along(model: FluidModel, T: Array, watch: Watch, ln_P: Array | None = None) -> _Found:
    """Return the boundaries at temperatures T (n,) K, looked for between pressures of rising ``ln_P`` (m,)."""
    ln_P = np.log(PRESSURES) if ln_P is None else ln_P
    n, m, nc = T.size, ln_P.size, model.z.size
    every = _split(model, np.repeat(T, m), np.tile(ln_P, n), watch)
    split, name = every[0].reshape(n, m), every[1].reshape(n, m)
    node, step = np.nonzero(split[:, 1:] != split[:, :-1])
    left = split[node, step]
    inside, outside = ln_P[np.where(left, step, step + 1)], ln_P[np.where(left, step + 1, step)]
    # Between a vapour and a liquid both may be in a range narrower than a step.
    flip, at = np.nonzero((name[:, 1:] != name[:, :-1]) & ~split[:, 1:] & ~split[:, :-1])
    low, high, between = ln_P[at], ln_P[at + 1], np.full(flip.size, np.nan)
    for _ in range(HALVINGS if flip.size else 0):
        rows = np.flatnonzero(np.isnan(between))
        if rows.size == 0:
            break
        middle = 0.5 * (low[rows] + high[rows])
        pair, own = _split(model, T[flip[rows]], middle, watch)[:2]
        between[rows[pair]] = middle[pair]
        same = own == name[flip[rows], at[rows]]
        low[rows], high[rows] = np.where(same, middle, low[rows]), np.where(same, high[rows], middle)
    narrow = np.isfinite(between)
    node = np.concatenate([node, flip[narrow], flip[narrow]])
    inside = np.concatenate([inside, between[narrow], between[narrow]])
    outside = np.concatenate([outside, ln_P[at[narrow]], ln_P[at[narrow] + 1]])
    share, kind, x = np.ones(node.size), np.full(node.size, np.nan), np.full((node.size, nc), np.nan)
    rows = np.arange(node.size)
    for _ in range(ROUNDS if node.size else 0):
        between = inside[:, None] + np.outer(outside - inside, np.arange(1, PARTS) / PARTS)
        found = _split(model, np.repeat(T[node], PARTS - 1), between.reshape(-1), watch)
        both, least, forming = (v.reshape(between.shape) for v in (found[0], found[2], found[3]))
        composition = found[4].reshape(*between.shape, nc)
        # The last of them up to which all have two phases, none where the first has not.
        last = np.where(both.all(axis=1), PARTS - 1, np.argmin(both, axis=1)) - 1
        any_own, at_last = last >= 0, np.maximum(last, 0)
        share = np.where(any_own, least[rows, at_last], share)
        kind = np.where(any_own, forming[rows, at_last], kind)
        x = np.where(any_own[:, None], composition[rows, at_last], x)
        steps = np.column_stack([inside, between, outside])
        inside, outside = steps[rows, last + 1], steps[rows, last + 2]
    good = share < INCIPIENT
    order = np.lexsort((inside[good], node[good]))
    node, inside, kind, x = node[good][order], inside[good][order], kind[good][order], x[good][order]
    place = np.arange(node.size) - np.searchsorted(node, node)
    most = int(place.max()) + 1 if node.size else 0
    out = _Found(T, np.full((n, most), np.nan), np.full((n, most), np.nan), np.full((n, most, nc), np.nan))
    out.ln_P[node, place], out.kind[node, place], out.x[node, place] = inside, kind, x
    return out


def _split(model: FluidModel, T: Array, ln_P: Array, watch: Watch) -> tuple[Mask, Array, Array, Array, Array]:
    """Tell which states (M,) have two phases beside water; the name of the first of them; and of the one that there
    is least of its share of both, whether it is the vapour or the lighter, and its composition (M, nc)."""
    watch.check()
    found = with_aqueous(flash_all(model.eos, T, np.exp(ln_P), model.z), model.water)
    rows = np.arange(T.size)
    oily = found.present & (found.kind != Kind.AQUEOUS) & found.converged[:, None]
    first = np.argmax(oily, axis=-1)
    second = oily.shape[-1] - 1 - np.argmax(oily[:, ::-1], axis=-1)
    both = oily.sum(axis=-1) > 1
    light, heavy = found.fraction[rows, first], found.fraction[rows, second]
    least = np.minimum(light, heavy) / np.where(both, light + heavy, 1.0)
    lighter = light < heavy
    forms = np.where(lighter, float(Kind.VAPOUR), float(Kind.LIQUID))
    name = np.where(oily.any(axis=-1), found.kind[rows, first], Kind.ABSENT).astype(float)
    return both, name, least, forms, found.composition[rows, np.where(lighter, first, second)]
