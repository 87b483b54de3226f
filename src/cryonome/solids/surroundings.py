"""What a hydrate sees of a fluid: fugacities of its gas, activity of its water.

Where free water is assumed, a first drop of it stands beside the fluid: the dry fluid is flashed, and water and what
dissolves in it follow from equal fugacities by substitution, all by the fluid's own equation. So the answer does not
depend on how much water is meant. Where water is taken as given, or is so much that it takes gas away, all of it is
flashed."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos import Equation
from ..equilibrium.flash import flash_pt
from ..equilibrium.multiphase import flash_all
from ..equilibrium.phases import ROOTS, Phases
from ..kernels import kernel, table
from ..watch import UNWATCHED, Watch

Array = NDArray[np.float64]

MUCH = 0.10
"""Mole fraction from which a fluid's own water is flashed with it, though free water is assumed."""
MOSTLY = 0.5
"""Least mole fraction of water in the drop, and most in the fluid beside it."""
SUBSTITUTIONS = 4
"""Each leaves some hundredth of the error: the phases hold little of one another."""


BLOCK = 48
"""States from which on work is shared among processors."""


@dataclass(frozen=True)
class Surroundings:
    """At N states: fugacities ``f`` Pa (N, nf) of the formers, ln of the activity of water (N,) on the pure liquid,
    and the mole fraction of water in the lightest phase, (N,); nan where the state was not found."""

    f: Array
    ln_activity: Array
    vapour_water: Array

    def take(self, rows: NDArray[np.intp]) -> Surroundings:
        """Return those of the states ``rows``."""
        return Surroundings(self.f[rows], self.ln_activity[rows], self.vapour_water[rows])


@dataclass(frozen=True)
class Host:
    """A fluid that hydrates may form in: its equation, mole fractions ``z`` (nc,), the place of ``water`` and the
    ``places`` of the formers ``names``; ``free`` where free water is assumed. Or N such fluids of the same components,
    one for each state that is asked for: ``z`` (N, nc) and an equation with as many sets of parameters."""

    eos: Equation
    z: Array
    water: int
    names: tuple[str, ...]
    places: NDArray[np.intp]
    free: bool = True

    @cached_property
    def _rest(self) -> NDArray[np.intp]:
        """The components other than water."""
        return np.flatnonzero(np.arange(self.z.shape[-1]) != self.water)

    @cached_property
    def _dry(self) -> Equation:
        """The equation of the components other than water."""
        return self.eos.of(self._rest)

    @cached_property
    def pure_water(self) -> Equation:
        """The equation of water alone."""
        return self.eos.of(np.array([self.water]))

    def take(self, rows: NDArray[np.intp]) -> Host:
        """Return the fluids ``rows`` of several."""
        out = replace(self, eos=self.eos.take(rows), z=self.z[rows])
        # Kept in the instance, as cached_property does.
        out.__dict__["_dry"], out.__dict__["pure_water"] = self._dry.take(rows), self.pure_water.take(rows)
        return out

    def around(self, T: ArrayLike, P: ArrayLike, watch: Watch = UNWATCHED) -> Surroundings:
        """Return what a hydrate sees at T (N,) K and P (N,) Pa, nothing where a limit that was followed there does
        not exist (nan)."""
        T, P = np.asarray(T, dtype=float), np.asarray(P, dtype=float)
        there = np.isfinite(T) & np.isfinite(P)
        if not there.all():
            own = self.take(np.flatnonzero(there)) if self.z.ndim > 1 else self
            part = own.around(T[there], P[there], watch)
            out = Surroundings(
                *(np.full((T.size, *v.shape[1:]), np.nan) for v in (part.f, part.ln_activity, part.vapour_water))
            )
            for whole, found in (
                (out.f, part.f),
                (out.ln_activity, part.ln_activity),
                (out.vapour_water, part.vapour_water),
            ):
                whole[there] = found
            return out
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            if self.free and (self.z[..., self.water] < MUCH).all():
                f, held = self._beside_a_drop(T, P, watch)
            else:
                f, held = self._as_given(T, P, watch)
            pure = self.pure_water.prepare(T, P).ln_phi(np.ones((T.size, 1)), "liquid")[0][:, 0]
            activity = np.minimum(np.log(f[:, self.water] / P) - pure, 0.0)
        return Surroundings(f[:, self.places], activity, held)

    def _beside_a_drop(self, T: Array, P: Array, watch: Watch) -> tuple[Array, Array]:
        """Return fugacities, Pa (N, nc), of the dry fluid beside a drop of water, and the water it holds, (N,)."""
        nc = self.z.shape[-1]
        rest = self._rest
        own_dry = self.z[..., rest]
        dry = flash_pt(self._dry, T, P, own_dry / own_dry.sum(axis=-1, keepdims=True), watch)
        y, f, held = np.zeros((T.size, nc)), np.empty((T.size, nc)), np.empty(T.size)
        y[:, rest] = dry.composition[:, 0]
        own = self.eos.packed.of_states(T.size)
        given = (
            table(own.family), own.parameters, own.memory, np.ascontiguousarray(T), np.ascontiguousarray(P), y, int(self.water),
            SUBSTITUTIONS, MOSTLY, f, held,
        )  # fmt: skip
        kernel("drop_states").over(T.size, own.memory + 4 * nc, given, watch.silent(), block=BLOCK)
        f[~dry.converged] = np.nan
        return f, held

    def _as_given(self, T: Array, P: Array, watch: Watch) -> tuple[Array, Array]:
        """Return fugacities, Pa (N, nc), of the fluid with its water, and the water of its lightest phase, (N,)."""
        phases = flash_all(self.eos, T, P, self.z, watch)
        return fugacities(self.eos, phases), phases.composition[:, 0, self.water]


def fugacities(eos: Equation, phases: Phases) -> Array:
    """Return the fugacities of all components, Pa (N, nc), of states (N,): those of their first phase; nan where none
    was found."""
    f = np.full(phases.z.shape, np.nan)
    for code, root in enumerate(ROOTS):
        rows = np.flatnonzero(phases.converged & (phases.root[:, 0] == code))
        if rows.size:
            x, P = phases.composition[rows, 0], phases.P[rows]
            ln_phi = eos.take(rows).prepare(phases.T[rows], P).ln_phi(x, root)[0]
            f[rows] = x * np.exp(ln_phi) * P[:, None]
    return f
