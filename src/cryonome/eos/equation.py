"""What an equation of state offers to the solvers: the one protocol they know.

The solvers of ``equilibrium`` and ``properties`` never name a concrete equation. They ask an :class:`Equation` to
*prepare* N states at given temperatures and pressures, and the :class:`PreparedStates` evaluate any composition
there; or to stand *at temperatures* alone, where the :class:`VolumeStates` evaluate the Helmholtz energy at any
volume. A cubic with any alpha function, an ideal gas, or an equation of quite another kind are the same to them.

Shapes: N states, nc components. Parameters may carry the batch axis of the states too.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, Protocol, Self

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Rows = NDArray[np.intp] | NDArray[np.bool_] | slice

Root = Literal["stable", "liquid", "vapour"]
"""Which root in the volume: the one of least Gibbs energy, the densest, or the least dense."""


@dataclass(frozen=True)
class PhaseDerivatives:
    """Everything of one phase at N states that a Newton step needs, from one evaluation.

    ``ln_phi`` (N, nc); ``dln_phi_dn`` (N, nc, nc), the derivative in mole numbers at one mole in all;
    ``dln_phi_dlnT`` and ``dln_phi_dlnP`` (N, nc); ``Z`` (N,).
    """

    ln_phi: Array
    dln_phi_dn: Array
    dln_phi_dlnT: Array
    dln_phi_dlnP: Array
    Z: Array


@dataclass(frozen=True)
class PhaseResponse:
    """How one phase departs from the ideal gas and answers to T and V at N states, each (N,) and dimensionless.

    ``Z``; ``h_res`` H_res/(R T) and ``s_res`` S_res/R at given T and P; ``cv_res`` Cv_res/R at given T and V;
    ``p_T`` is (T/P) (dP/dT) at constant V and ``p_V`` is (V/P) (dP/dV) at constant T.
    """

    Z: Array
    h_res: Array
    s_res: Array
    cv_res: Array
    p_T: Array
    p_V: Array

    @property
    def cp_res(self) -> Array:
        """Cp_res/R at given T and P, (N,); Michelsen and Mollerup (2007), ch. 2 eq. 22."""
        return np.asarray(self.cv_res - self.Z * self.p_T**2 / self.p_V - 1.0)


class PreparedStates(Protocol):
    """An equation at N given temperatures and pressures, ready for any composition x (N, nc), normalised."""

    def take(self, index: Rows) -> Self:
        """Return the states chosen by ``index`` along the batch axis."""
        ...

    def ln_phi(self, x: Array, root: Root = "stable") -> tuple[Array, Array]:
        """Return ln fugacity coefficients (N, nc) and Z (N,)."""
        ...

    def pure_ln_phi(self) -> Array:
        """Return ln phi of each component taken pure, as a liquid where it has one, (N, nc)."""
        ...

    def derivatives(self, x: Array, root: Root = "stable") -> PhaseDerivatives:
        """Return ln phi with all its first derivatives."""
        ...

    def response(self, x: Array, root: Root = "stable") -> PhaseResponse:
        """Return departures and the derivatives heat capacities and the speed of sound need."""
        ...

    def roots(self, x: Array) -> tuple[Array, Array]:
        """Return Z of the densest and of the least dense root, each (N,); the same number where there is one."""
        ...

    def packing(self, x: Array, Z: Array) -> Array:
        """Return how densely a phase is packed, (N,), relative to the critical point of its own one-fluid: 1 there."""
        ...

    def cold(self, x: Array) -> Mask:
        """Tell which compositions are below the critical temperature of their one-fluid, (N,)."""
        ...


class VolumeStates(Protocol):
    """An equation at N given temperatures: the residual Helmholtz energy F = A_res/(R T) at any molar volume.

    ``V`` (N,) m3/mol, ``x`` (N, nc) normalised. Derivatives in mole numbers are at one mole in all.
    """

    def pressure(self, V: Array, x: Array) -> Array:
        """Return the pressure, Pa (N,)."""
        ...

    def pressure_slope(self, V: Array, x: Array) -> Array:
        """Return dP/dV at constant T, Pa mol/m3 (N,)."""
        ...

    def hessian(self, V: Array, x: Array) -> Array:
        """Return d2F/dn_i dn_j at constant T and V, (N, nc, nc)."""
        ...

    def third(self, V: Array, x: Array, dn: Array) -> Array:
        """Return the third derivative of F along the direction ``dn`` (N, nc) in mole numbers, (N,)."""
        ...


@dataclass(frozen=True)
class Packed:
    """An equation as compiled solvers take it.

    ``family`` names its table of functions, ``parameters`` (1 or N, size) are what these read, ``memory`` is how many
    numbers a state of it takes, ``nc`` how many components it has. ``guess`` (1 or N, 3 nc) is ln Pc, Tc and omega
    side by side, for first estimates; ``distinct`` the components with a large interaction parameter to many others
    (CO2, H2S, water, ...), five at most."""

    family: str
    parameters: Array
    memory: int
    nc: int
    guess: Array
    distinct: NDArray[np.int64]

    @staticmethod
    def of(eos: Equation, family: str, parameters: Array, memory: int) -> Packed:
        """Return an equation packed."""
        parts = [np.atleast_2d(v) for v in (np.log(eos.Pc), eos.Tc, eos.omega)]
        n, nc = max(len(v) for v in parts), eos.nc
        guess = np.concatenate([np.broadcast_to(v, (n, nc)) for v in parts], axis=1)
        distinct = np.arange(nc) if nc < 3 else np.flatnonzero(eos.unlikeness() > UNLIKE)[:5]
        return Packed(
            family, parameters, memory, nc, np.ascontiguousarray(guess, dtype=float), distinct.astype(np.int64)
        )

    def of_states(self, n: int) -> Packed:
        """Return it for n states; raises ValueError where it has sets of parameters for another number."""
        if len(self.parameters) not in (1, n) or len(self.guess) not in (1, n):
            raise ValueError(
                f"the equation has {max(len(self.parameters), len(self.guess))} sets of parameters for {n} states"
            )
        return self

    def take(self, index: Rows) -> Packed:
        """Return those of the states ``index``; shared parameters stay."""
        parameters, guess = (
            v if len(v) == 1 else np.ascontiguousarray(v[index]) for v in (self.parameters, self.guess)
        )
        return Packed(self.family, parameters, self.memory, self.nc, guess, self.distinct)


UNLIKE = 0.06
"""Median interaction parameter from which on a component is unlike the others."""


class Equation(Protocol):
    """An equation of state of a given mixture: an immutable value.

    ``Tc`` K, ``Pc`` Pa and ``omega``, (nc,) or (N, nc), serve the solvers for first estimates only; what the equation
    makes of them is its own affair."""

    @property
    def Tc(self) -> Array: ...

    @property
    def Pc(self) -> Array: ...

    @property
    def omega(self) -> Array: ...

    @property
    def nc(self) -> int:
        """Number of components."""
        ...

    @property
    def batched(self) -> bool:
        """Whether the parameters carry a batch axis."""
        ...

    @property
    def packed(self) -> Packed:
        """The equation as compiled solvers take it. Raises NotImplementedError where it is of pure fluids alone,
        which have no need of them."""
        ...

    def take(self, index: Rows) -> Self:
        """Return the equation with batched parameters restricted to ``index``; shared parameters stay."""
        ...

    def single(self, row: int) -> Equation:
        """Return the equation of one state, its parameters without a batch axis."""
        ...

    def of(self, keep: NDArray[np.intp] | Mask) -> Self:
        """Return the equation of a subset of the components."""
        ...

    def pure(self) -> Self:
        """Return the components taken pure: nc one-component mixtures along a batch axis (any batch axis before it)."""
        ...

    def prepare(self, T: ArrayLike, P: ArrayLike) -> PreparedStates:
        """Return the equation at temperatures T (N,) K and pressures P (N,) Pa, both positive."""
        ...

    def at_temperature(self, T: ArrayLike) -> VolumeStates:
        """Return the equation at temperatures T (N,) K, for any volume."""
        ...

    def least_volume(self, x: Array) -> Array:
        """Return the volume below which there is no state, m3/mol, of compositions x (..., nc)."""
        ...

    def pure_critical(self) -> tuple[Array, Array, Array]:
        """Return T K, P Pa and V m3/mol of the critical point of each component taken pure, (..., nc); nan without
        one."""
        ...

    def unlikeness(self) -> Array:
        """Return how strongly each component's interactions depart from the mixing rule's own, (nc,)."""
        ...


def is_liquid(states: PreparedStates, x: Array, Z: Array) -> Mask:
    """Tell which single phases to call liquid, (N,).

    A phase is a liquid where its composition is below the critical temperature of its one-fluid and it is packed more
    densely than there. The rule is continuous with the pure critical point and needs no envelope.
    """
    return np.asarray(states.cold(x) & (states.packing(x, Z) > 1.0))
