"""Phases that are not there, continued: so that a table has a gas and a liquid in each of its cells.

A phase that is absent at a state has the composition it forms with: that of the nearest boundary, in pressure, at
which it comes or goes at the state's temperature. At temperatures where it never forms it has the composition of the
nearest temperature at which it does (of a liquid beyond the cricondentherm, that of the cricondentherm; of a vapour
beyond the critical temperature, the feed's). So the composition has no step where the phase forms, nor where it ceases
to. An absent aqueous phase has the composition whose fugacities are those of the state, but for a common factor
(Michelsen, Fluid Phase Equilib. 9, 1 (1982), eq. 13)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..eos.equation import Root
from ..equilibrium.phases import ROOTS, Kind, Phases, Reason
from ..equilibrium.pure import saturation_pressure
from ..properties import PROPERTIES, evaluate, transport
from ..properties.flow import water_tension
from ..watch import UNWATCHED, Watch
from .boundaries import Boundaries, absent
from .building import FluidModel

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

KINDS = (Kind.VAPOUR, Kind.LIQUID, Kind.AQUEOUS)
TENSIONS = {
    "surface_tension": (Kind.LIQUID, Kind.VAPOUR),
    "gas_water_tension": (Kind.AQUEOUS, Kind.VAPOUR),
    "oil_water_tension": (Kind.AQUEOUS, Kind.LIQUID),
}
"""Between which phases, the denser first."""

HALVINGS = 30
LN_MOST = np.log(1e9)
SHORT = 0.1
"""Part of the way from the end of a root, in ln P, at which what has no root beyond it is held: at the end itself the
compressibility is infinite."""


@dataclass(frozen=True)
class Continued:
    """What N states have of phases they do not have: by kind the composition (N, nc), and the pressure (N,) Pa at
    which the values are those of the phase, the state's own but where it has no root there. ``phases`` are the states,
    of which those ``renamed`` (N,) call their single phase otherwise than a flash does; ``keys`` the properties of
    the registry that may be asked."""

    model: FluidModel
    phases: Phases
    composition: Mapping[Kind, Array]
    pressure: Mapping[Kind, Array]
    renamed: Mask
    keys: tuple[str, ...]

    @cached_property
    def values(self) -> dict[Kind, dict[str, Array]]:
        """Properties (N,) by kind and by their key, nan where the phase is not continued."""
        wanted = [k for k in self.keys if PROPERTIES[k].function is not None]
        out: dict[Kind, dict[str, Array]] = {}
        for kind in self.composition:
            out[kind] = {k: np.full(self.phases.T.size, np.nan) for k in wanted}
            rows = np.flatnonzero(self.absent(kind))
            if rows.size and wanted:
                x, P = self.composition[kind][rows], self.pressure[kind][rows]
                single = _states(self.model, self.phases.T[rows], P, [(kind, x, np.ones(rows.size))])
                found = evaluate(self.model.substance, single, wanted).phase
                for key in wanted:
                    out[kind][key][rows] = found[key][:, 0]
        return out

    @cached_property
    def tensions(self) -> dict[str, Array]:
        """Tensions between phases of which one or both may be continued, (N,) by their key."""
        wanted = [k for k in self.keys if k in TENSIONS]
        out = {k: np.full(self.phases.T.size, np.nan) for k in wanted}
        sides = {kind: self._side(kind) for kind in self.composition} if wanted else {}
        for key in wanted:
            first, second = TENSIONS[key]
            if first in sides and second in sides:
                (x, dense), (y, thin) = sides[first], sides[second]
                good = np.flatnonzero(np.isfinite(dense) & np.isfinite(thin))
                T, P, substance = self.phases.T[good], self.phases.P[good], self.model.substance
                if first == Kind.AQUEOUS:
                    out[key][good] = water_tension(substance, T, P, y[good], dense[good], thin[good])
                else:
                    mass = self.model.molar_mass
                    volumes = x[good] @ mass / dense[good], y[good] @ mass / thin[good]
                    out[key][good] = transport.surface_tension(substance, x[good], y[good], *volumes)
        return out

    def _side(self, kind: Kind) -> tuple[Array, Array]:
        """Return composition (N, nc) and density kg/m3 (N,) of a phase, there or continued, nan where it is neither."""
        rows = np.arange(self.phases.T.size)
        there = self.phases.kind == kind
        place, own = np.argmax(there, axis=-1), there.any(axis=-1)
        x = np.where(own[:, None], self.phases.composition[rows, place], self.composition[kind])
        good = np.flatnonzero(self.phases.converged & np.isfinite(x).all(axis=-1))
        density = np.full(rows.size, np.nan)
        if good.size:
            single = _states(
                self.model, self.phases.T[good], self.pressure[kind][good], [(kind, x[good], np.ones(good.size))]
            )
            density[good] = evaluate(self.model.substance, single, ["density"]).phase["density"][:, 0]
        return x, density

    def absent(self, kind: Kind) -> Mask:
        """Tell which states lack a phase and have it continued (N,)."""
        if kind not in self.composition:
            return np.zeros(self.phases.T.size, dtype=bool)
        return np.asarray(absent(self.phases, kind) & np.isfinite(self.composition[kind]).all(axis=-1))


def continued(model: FluidModel, phases: Phases, keys: Iterable[str], watch: Watch = UNWATCHED) -> Continued:
    """Return what the states (N,) of a fluid have of phases that are absent, with the properties ``keys``: of vapour
    and liquid, and of the aqueous one where there is water. Raises Cancelled.

    A single phase whose nearest boundary has a phase forming that bears its own name, as a dense one close below the
    critical temperature does, is called the other: what forms from a liquid is a vapour."""
    composition, pressure = {}, {}
    lines = None if model.z.size == 1 else Boundaries(model, phases, watch)
    renamed = phases if lines is None else lines.renamed(phases)
    for kind in KINDS if model.water is not None else KINDS[:2]:
        rows = np.flatnonzero(absent(renamed, kind))
        x, edge = np.full(phases.z.shape, np.nan), phases.P.copy()
        if rows.size:
            own = renamed.take(rows)
            if kind == Kind.AQUEOUS:
                x[rows] = _of_water(model, own)
            elif lines is None:
                x[rows], edge[rows] = 1.0, _boiling(model, own)
            else:
                x[rows], edge[rows] = lines.at(kind, own)
        composition[kind] = x
        pressure[kind] = phases.P.copy()
        pressure[kind][rows] = _within(model, kind, phases.T[rows], phases.P[rows], edge[rows], x[rows])
    other = np.asarray((renamed.kind != phases.kind).any(axis=-1))
    return Continued(model, renamed, composition, pressure, other, tuple(dict.fromkeys(keys)))


def _root(kind: Kind) -> Root:
    return "vapour" if kind == Kind.VAPOUR else "liquid"


def _states(model: FluidModel, T: Array, P: Array, parts: list[tuple[Kind, Array, Array]]) -> Phases:
    """Return states (M,) of phases of given kinds, compositions (M, nc) and shares (M,), not in equilibrium."""
    n = T.size
    prepared = model.eos.prepare(T, P)
    Z = np.stack([prepared.ln_phi(x, _root(kind))[1] for kind, x, _ in parts], axis=1)
    codes = np.array([[int(kind) for kind, _, _ in parts]] * n, dtype=np.int8)
    roots = np.array([[ROOTS.index(_root(kind)) for kind, _, _ in parts]] * n, dtype=np.int8)
    share = np.stack([s for _, _, s in parts], axis=1)
    x = np.stack([x for _, x, _ in parts], axis=1)
    feed = np.broadcast_to(model.z, (n, model.z.size))
    none = np.zeros(n)
    reason = np.full(n, int(Reason.CONVERGED), np.int8)
    return Phases(T, P, feed, codes, share, x, Z, roots, reason, none, np.zeros(n, np.int64))


def _of_water(model: FluidModel, phases: Phases) -> Array:
    """Return the compositions (M, nc) of aqueous phases that would form from phases in which there is none."""
    prepared = model.eos.prepare(phases.T, phases.P)
    x = phases.composition[:, 0]
    with np.errstate(divide="ignore"):
        ln_f = np.log(x)
        for code in np.unique(phases.root[:, 0]):
            rows = phases.root[:, 0] == code
            ln_f[rows] += prepared.take(rows).ln_phi(x[rows], ROOTS[int(code)])[0]
        own = np.zeros_like(x)
        own[:, model.water] = 1.0
        for _ in range(40):
            grown = np.exp(ln_f - prepared.ln_phi(own, "liquid")[0])
            grown = grown / grown.sum(axis=-1, keepdims=True)
            if np.abs(grown - own).max() < 1e-12:
                break
            own = grown
    # Where substitution leads away from water there is no aqueous phase to speak of.
    rich = own[:, model.water] > 0.5
    own[~rich] = 0.0
    own[~rich, model.water] = 1.0
    return own


def _boiling(model: FluidModel, phases: Phases) -> Array:
    """Return the saturation pressures of one component, its critical pressure above its critical temperature (M,)."""
    found = saturation_pressure(model.eos, phases.T[:, None])[:, 0]
    return np.where(np.isfinite(found), found, model.eos.pure_critical()[1].reshape(-1)[0])


def _within(model: FluidModel, kind: Kind, T: Array, P: Array, edge: Array, x: Array) -> Array:
    """Return the pressures (M,) Pa at which phases x (M, nc) are taken: their own, or where they have no root of
    their kind there, a little before the end of it, seen from the boundary ``edge`` (M,) Pa. A liquid above the
    critical temperature of its one fluid ends at the critical density."""
    rows = np.flatnonzero(np.isfinite(x).all(axis=-1) & (kind != Kind.AQUEOUS))
    if rows.size == 0:
        return P

    def lost(of: NDArray[np.intp], ln_P: Array) -> Mask:
        prepared = model.eos.prepare(T[of], np.exp(ln_P))
        packing = prepared.packing(x[of], prepared.ln_phi(x[of], _root(kind))[1])
        return (packing > 1.0) & prepared.cold(x[of]) if kind == Kind.VAPOUR else packing <= 1.0

    # As far beyond a state as what is held is short of the end: so that it holds from there on, without a step.
    start, own = np.log(edge), np.log(P)
    far = start + (own - start) / (1.0 - SHORT)
    at_edge = np.zeros(T.size, dtype=bool)
    at_edge[rows] = lost(rows, start[rows])
    # A vapour that is as dense as a liquid where it forms, close to a critical point, has no end either.
    rows = rows[
        at_edge[rows] | lost(rows, far[rows]) if kind == Kind.LIQUID else ~at_edge[rows] & lost(rows, far[rows])
    ]
    if rows.size == 0:
        return P
    start, own, far, at_edge = start[rows], own[rows], far[rows], at_edge[rows]
    near = np.where(at_edge, LN_MOST, start)
    far = np.where(at_edge, start, far)
    for _ in range(HALVINGS):
        middle = 0.5 * (far + near)
        gone = lost(rows, middle)
        far, near = np.where(gone, middle, far), np.where(gone, near, middle)
    held = np.where(at_edge, near, near + SHORT * (start - near))
    out = P.copy()
    out[rows] = np.exp(np.maximum(own, held) if kind == Kind.LIQUID else np.minimum(own, held))
    return out
