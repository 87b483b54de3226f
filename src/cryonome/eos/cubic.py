"""The cubic equations of state with the van der Waals one-fluid mixing rules.

    P = R T / (V - b) - a(T) / ((V + d1 b)(V + d2 b))

One core serves every member of the family; a member is a :class:`CubicForm`, its temperature dependence an alpha
function. Derivatives follow the reduced residual Helmholtz energy F = A_res/(R T) of Michelsen and Mollerup,
*Thermodynamic Models: Fundamentals and Computational Aspects* (2007), chapters 2 and 3,

    F = -n ln(1 - B/V) - D f(V, B),   f = ln((V + d1 B)/(V + d2 B)) / (B (d1 - d2)),

which is the one formulation used at given T and V and, with volumes counted in units of R T/P, at given T and P. f is
homogeneous of degree -1, so its derivatives in B follow from those in V without dividing by d1 - d2; where both
constants are equal (van der Waals) f is 1/(V + d1 B).

The functions themselves are compiled: ``kernels/source/cubic.py``.

Array shapes: N states, nc components. Parameters may carry the batch axis too.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..constants import R
from .alpha import Alpha, First
from .aqueous import Aqueous
from .compiled import CompiledStates, packed_vectors
from .cubic_forms import CubicForm
from .equation import Packed, Rows
from .subsets import remembered

Array = NDArray[np.float64]


HEAD, VECTORS, STATE_VECTORS = 8, 13, 11
"""How parameters and states lie in memory, as ``kernels/source/cubic.py`` tells."""


@dataclass(frozen=True)
class CubicEos:
    """A cubic equation of state of a given mixture; an immutable value.

    ``Tc`` K, ``Pc`` Pa, ``omega``: (nc,) or (N, nc); ``kij`` (nc, nc) or (N, nc, nc), symmetric with a zero diagonal;
    ``kij_slope`` likewise, 1/K, where parameters depend on temperature: k_ij + slope (T - 298.15 K). A leading axis
    on the parameters must match the states it is evaluated at. ``given_alpha`` replaces the form's own alpha for the
    components it has parameters of, ``aqueous`` the pairs of water in phases of water. ``a_factor`` and ``b_factor``,
    (nc,) or (N, nc), multiply attraction and covolume where a tuning or own constants Omega say so; Tc stays what
    alpha is a function of. ``smooth`` takes the exponential above Tc in place of the form's own alpha."""

    form: CubicForm
    Tc: Array
    Pc: Array
    omega: Array
    kij: Array
    given_alpha: Alpha | None = None
    kij_slope: Array | None = None
    aqueous: Aqueous | None = None
    a_factor: Array | None = None
    b_factor: Array | None = None
    smooth: bool = False

    @cached_property
    def alpha(self) -> Alpha:
        """The alpha function: the form's own where none is given."""
        own = self.form.own_alpha(self.omega, self.smooth)
        return own if self.given_alpha is None else First((self.given_alpha, own))

    @property
    def nc(self) -> int:
        """Number of components."""
        return int(self.Tc.shape[-1])

    @property
    def batched(self) -> bool:
        """Whether the parameters carry a batch axis."""
        return self.Tc.ndim > 1 or self.kij.ndim > 2

    def _each(
        self, vector: Callable[[Array], Array], matrix: Callable[[Array], Array], aqueous: Aqueous | None
    ) -> CubicEos:
        parts = (vector(self.Tc), vector(self.Pc), vector(self.omega), matrix(self.kij))
        alpha = None if self.given_alpha is None else self.given_alpha.apply(vector)
        slope = None if self.kij_slope is None else matrix(self.kij_slope)
        a, b = (None if f is None else vector(f) for f in (self.a_factor, self.b_factor))
        return CubicEos(self.form, *parts, alpha, slope, aqueous, a, b, self.smooth)

    def take(self, index: Rows) -> CubicEos:
        """Return the equation with batched parameters restricted to ``index``; shared parameters stay."""
        if not self.batched:
            return self

        def part(core: int) -> Callable[[Array], Array]:
            return lambda v: v[index] if v.ndim > core and v.shape[0] > 1 else v

        taken = self._each(part(1), part(2), self.aqueous)
        if "packed" in self.__dict__:
            # Kept in the instance, as cached_property does.
            taken.__dict__["packed"] = self.packed.take(index)
        return taken

    def single(self, row: int) -> CubicEos:
        """Return the equation of one state, its parameters without a batch axis."""

        def part(core: int) -> Callable[[Array], Array]:
            return lambda v: v[row if v.shape[0] > 1 else 0] if v.ndim > core else v

        return self._each(part(1), part(2), self.aqueous) if self.batched else self

    @remembered
    def of(self, index: NDArray[np.intp]) -> CubicEos:
        """Return the equation of a subset of the components."""
        aqueous = None if self.aqueous is None else self.aqueous.of(index)
        return self._each(lambda v: v[..., index], lambda k: k[..., index[:, None], index], aqueous)

    def pure(self) -> CubicEos:
        """Return the components taken pure: one-component mixtures along a batch axis."""
        shape = np.broadcast_shapes(self.Tc.shape, self.Pc.shape, self.omega.shape)
        return self._each(lambda v: np.broadcast_to(v, shape).reshape(-1)[:, None], lambda _k: np.zeros((1, 1)), None)

    @cached_property
    def a_critical(self) -> Array:
        """Attraction parameter at the critical temperature, (..., nc), Pa m6/mol2."""
        own = self.form.omega_a * (R * self.Tc) ** 2 / self.Pc
        return np.asarray(own if self.a_factor is None else own * self.a_factor)

    @cached_property
    def b(self) -> Array:
        """Covolume, (..., nc), m3/mol."""
        own = self.form.omega_b * R * self.Tc / self.Pc
        return np.asarray(own if self.b_factor is None else own * self.b_factor)

    def packed_parts(self, sloped: bool) -> list[tuple[Array, int]]:
        """Return the parameters in the order of ``kernels/source/cubic.py``, each with how many axes a state's own
        has; ``sloped``: with slopes of interaction parameters in any case."""
        nc = self.nc
        head = self.form.head
        pairs = np.full((5, nc), np.nan)
        if self.aqueous is not None:
            head[5] = float(self.aqueous.water)
            pairs = np.stack([getattr(self.aqueous, f"c{k}") for k in range(5)])
        head[6] = float(self.kij_slope is not None)
        code, *constants = (np.asarray(v, float) for v in self.alpha.constants())
        vectors = [self.Tc, self.a_critical, self.b, code, *constants, *pairs]
        whole = [v if v.ndim else np.full(nc, float(v)) for v in vectors]
        matrices = [1.0 - self.kij] if self.kij_slope is None else [1.0 - self.kij, self.kij_slope]
        if sloped and self.kij_slope is None:
            matrices.append(np.zeros((nc, nc)))
        return [(head, 1), *((v, 1) for v in whole), *((m, 2) for m in matrices)]

    @cached_property
    def packed(self) -> Packed:
        """The equation as compiled solvers take it."""
        return self.packed_cubic

    @property
    def packed_cubic(self) -> Packed:
        """The same; the order is told in ``kernels/source/cubic.py``."""
        nc = self.nc
        return Packed.of(self, "cubic", packed_vectors(self.packed_parts(False)), HEAD + STATE_VECTORS * nc + nc * nc)

    def prepare(self, T: ArrayLike, P: ArrayLike) -> CompiledStates:
        """Return the equation at temperatures T (N,) K and pressures P (N,) Pa, both positive."""
        return CompiledStates.at(self.packed, T, P)

    def at_temperature(self, T: ArrayLike) -> CompiledStates:
        """Return the equation at temperatures T (N,) K, for any volume."""
        return CompiledStates.at(self.packed, T, 0.0)

    def reduced(self, T: float, P: float, x: Array) -> tuple[float, float]:
        """Return A = a P/(R T)2 and B = b P/(R T) of a composition x (nc,) at T K and P Pa, from P = R T/(V - b) -
        a/(...) at two volumes."""
        B = float(self.least_volume(x)) * P / (R * T)
        V = 2.0 * float(self.least_volume(x))
        pressure = float(self.at_temperature([T]).pressure(np.array([V]), x[None])[0])
        b = 0.5 * V
        a = (R * T / (V - b) - pressure) * (V + self.form.delta1 * b) * (V + self.form.delta2 * b)
        return a * P / (R * T) ** 2, B

    def least_volume(self, x: Array) -> Array:
        """Return the covolume of compositions x (..., nc), m3/mol."""
        return np.asarray((x * self.b).sum(axis=-1))

    def pure_critical(self) -> tuple[Array, Array, Array]:
        """Return T K, P Pa and V m3/mol of the critical point of each component taken pure, (..., nc); nan without
        one."""
        if self.form.omega_b == 0.0:
            none = np.full(self.Tc.shape, np.nan)
            return none, none, none
        V = np.asarray(self.form.critical_volume_ratio * self.b)
        if self.a_factor is None and self.b_factor is None:
            return self.Tc, self.Pc, V
        # Critical is where a(T)/(b R T) is Omega_a/Omega_b, which factors have moved.
        wanted = (1.0 if self.b_factor is None else self.b_factor) / (1.0 if self.a_factor is None else self.a_factor)
        Tr = np.ones(np.broadcast_shapes(self.Tc.shape, np.shape(wanted)))
        for _ in range(50):
            value, slope, _ = self.alpha.root(Tr)
            miss = value * value / Tr - wanted
            step = -miss / (2.0 * value * slope / Tr - value * value / Tr) * Tr
            Tr = Tr + np.clip(step, -0.2 * Tr, 0.2 * Tr)
        T = Tr * self.Tc
        Zc = self.form.critical_volume_ratio * self.form.omega_b
        return T, np.asarray(Zc * R * T / V), V

    def unlikeness(self) -> Array:
        """Return the median magnitude of the interaction parameters of each component, (nc,)."""
        kij = np.abs(self.kij if self.kij.ndim == 2 else self.kij[0])
        return np.asarray(np.median(kij, axis=1))
