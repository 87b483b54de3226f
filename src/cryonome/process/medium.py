"""What flows: a mixture whose streams are found at two conditions, many at once.

Streams of a chain share their components; each row is one variant of the chain, so that a sweep of fifty costs little
more than one. What is not there in a stream is left out of its flash, and an empty stream keeps a place without
phases."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..eos import Equation
from ..equilibrium.fraction_flash import flash_fraction
from ..equilibrium.fraction_states import fraction_states
from ..equilibrium.measured import RESPONSES, Fluids
from ..equilibrium.multiphase import flash_all
from ..equilibrium.naming import with_aqueous
from ..equilibrium.one_known import solve_one
from ..equilibrium.phases import Kind, Phases, Reason
from ..properties import Substance, evaluate
from ..watch import UNWATCHED, Watch

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

KEYS = ("enthalpy", "entropy", *RESPONSES)
"""What every stream knows of itself as a whole."""
ABSENT = 1e-16
"""Mole fraction below which a component is not there."""


@dataclass(frozen=True)
class Stream:
    """A stream in N variants: ``flow`` (N,) mol/s, its equilibrium ``phases`` (N,) and what the whole has by key of
    :data:`KEYS`, SI by mole, (N,) each."""

    flow: Array
    phases: Phases
    whole: dict[str, Array]

    @property
    def T(self) -> Array:
        """Temperatures (N,) K."""
        return self.phases.T

    @property
    def P(self) -> Array:
        """Pressures (N,) Pa."""
        return self.phases.P

    @property
    def z(self) -> Array:
        """Mole fractions (N, nc)."""
        return self.phases.z

    @property
    def h(self) -> Array:
        """Enthalpies (N,) J/mol."""
        return self.whole["enthalpy"]

    @property
    def s(self) -> Array:
        """Entropies (N,) J/(mol K)."""
        return self.whole["entropy"]

    @property
    def v(self) -> Array:
        """Molar volumes (N,) m3/mol."""
        return self.whole["molar_volume"]

    def share(self, kind: Kind) -> Array:
        """Moles of the phases of a kind per mole (N,)."""
        return np.asarray(np.where(self.phases.kind == kind, self.phases.fraction, 0.0).sum(axis=-1))

    def flowing(self, flow: Array) -> Stream:
        """Return the stream with another flow (N,) mol/s."""
        return replace(self, flow=flow)


@dataclass(frozen=True)
class Medium:
    """The mixture all streams of a chain are made of: its equation and constants, and the place of ``water`` among
    the components, None where it has none."""

    eos: Equation
    substance: Substance
    water: int | None = None

    @property
    def molar_mass(self) -> Array:
        """Molar masses (nc,) kg/mol."""
        return self.substance.molar_mass

    def mass(self, z: Array) -> Array:
        """Return molar masses of compositions (..., nc), kg/mol."""
        return np.asarray(z @ self.molar_mass)

    def measured(self, phases: Phases, keys: Sequence[str] = KEYS) -> dict[str, Array]:
        """Return quantities of the whole of states of one leading axis."""
        return evaluate(self.substance, phases, keys).whole

    def at(self, T: Array, P: Array, z: Array, flow: Array, watch: Watch = UNWATCHED) -> Stream:
        """Return the stream of z (N, nc) at T K and P Pa (N,)."""
        return self._stream(self._parted(z, lambda eos, x, rows: flash_all(eos, T[rows], P[rows], x, watch)), flow)

    def with_enthalpy(
        self, P: Array, h: Array, z: Array, flow: Array, near: Array | None = None, watch: Watch = UNWATCHED
    ) -> Stream:
        """Return the stream of an enthalpy h (N,) J/mol at P Pa (N,); ``near`` (N,) K an estimate of its
        temperature."""
        return self._held(P, "enthalpy", h, z, flow, near, watch)

    def with_entropy(
        self, P: Array, s: Array, z: Array, flow: Array, near: Array | None = None, watch: Watch = UNWATCHED
    ) -> Stream:
        """Return the stream of an entropy s (N,) J/(mol K) at P Pa (N,)."""
        return self._held(P, "entropy", s, z, flow, near, watch)

    def with_vapour(self, P: Array, beta: Array, z: Array, flow: Array, watch: Watch = UNWATCHED) -> Stream:
        """Return the stream of a mole fraction of vapour beta (N,) at P Pa (N,), the coldest where there are
        several."""

        def solve(eos: Equation, x: Array, rows: NDArray[np.intp]) -> Phases:
            return fraction_states(eos, x, beta[rows], None, P[rows], watch).phases

        return self._stream(self._parted(z, solve), flow)

    def boiling(self, P: Array, beta: float, z: Array, flow: Array) -> Stream:
        """Return the bubble (beta 0) or dew point (1) of two phases at P Pa (N,) that Newton's method finds, unproved."""

        def solve(eos: Equation, x: Array, rows: NDArray[np.intp]) -> Phases:
            return flash_fraction(eos, x, np.full(rows.size, beta), None, P[rows])

        return self._stream(self._parted(z, solve), flow)

    def of_phases(self, phases: Phases) -> Stream:
        """Return a mole a second of states (N,) found otherwise."""
        return self._stream(phases, np.ones(phases.T.shape))

    def _held(
        self, P: Array, key: str, target: Array, z: Array, flow: Array, near: Array | None, watch: Watch
    ) -> Stream:
        def solve(eos: Equation, x: Array, rows: NDArray[np.intp]) -> Phases:
            present = self._present(z[rows])

            def whole(phases: Phases, keys: Sequence[str]) -> dict[str, Array]:
                return self.measured(phases.among(present), keys)

            start = None if near is None else near[rows]
            return solve_one(Fluids(eos, x, whole), "P", P[rows], key, target[rows], start, watch).phases

        return self._stream(self._parted(z, solve), flow)

    def _present(self, z: Array) -> Mask:
        return np.asarray((z > ABSENT).any(axis=0))

    def _parted(self, z: Array, solve: Callable[[Equation, Array, NDArray[np.intp]], Phases]) -> Phases:
        """Return the states of feeds z (N, nc), those of the same components together."""
        z = z / z.sum(axis=-1, keepdims=True)
        there = z > ABSENT
        patterns, which = np.unique(there, axis=0, return_inverse=True)
        parts, order = [], []
        for i, present in enumerate(patterns):
            rows = np.flatnonzero(which.ravel() == i)
            x = np.ascontiguousarray(z[rows][:, present])
            eos = self.eos if present.all() else self.eos.of(present)
            found = solve(eos, x / x.sum(axis=-1, keepdims=True), rows)
            parts.append(found.among(present))
            order.append(rows)
        whole = Phases.join(parts)
        return whole if len(parts) == 1 else whole.take(np.argsort(np.concatenate(order), kind="stable"))

    def _stream(self, phases: Phases, flow: Array) -> Stream:
        named = with_aqueous(phases, self.water)
        return Stream(np.broadcast_to(flow, phases.T.shape).astype(float), named, self.measured(named))


def found(phases: Phases) -> Mask:
    """Tell which states (N,) were found."""
    return np.asarray(phases.reason == Reason.CONVERGED)
