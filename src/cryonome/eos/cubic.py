"""The cubic equations of state with the van der Waals one-fluid mixing rules.

    P = R T / (V - b) - a(T) / ((V + d1 b)(V + d2 b))

One core serves every member of the family; a member is a :class:`CubicForm`, its temperature dependence an alpha function.
Derivatives follow the reduced residual Helmholtz energy F = A_res/(R T) of Michelsen and Mollerup, *Thermodynamic Models:
Fundamentals and Computational Aspects* (2007), chapters 2 and 3,

    F = -n ln(1 - B/V) - D f(V, B),   f = ln((V + d1 B)/(V + d2 B)) / (B (d1 - d2)),

which is the one formulation used at given T and V and, with volumes counted in units of R T/P, at given T and P. f is
homogeneous of degree -1, so its derivatives in B follow from those in V without dividing by d1 - d2; where both constants are
equal (van der Waals) f is 1/(V + d1 B).

Array shapes: N states, nc components. Parameters may carry the batch axis too.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..constants import T_REF, R
from .alpha import Alpha, First
from .aqueous import Aqueous, AqueousStates, aqueous_states
from .cubic_forms import CubicForm
from .equation import Mask, PhaseDerivatives, PhaseResponse, Root, Rows

Array = NDArray[np.float64]


FEW = 16
"""Up to this number of states the roots are found in plain numbers, which are faster than arrays of them."""


@dataclass(frozen=True)
class CubicStates:
    """A cubic equation at N temperatures, its volumes in a given unit, ready for any composition.

    ``s`` is sqrt(a_i/(R T)), ``t`` and ``u`` are its alpha's first and second temperature derivatives (times T and T2) in the
    same scale, ``B`` is b_i, all (N, nc) in units of the volume; ``K`` is 1 - k_ij, (nc, nc) or (N, nc, nc), ``S`` the slope of k_ij, 1/K, likewise, where any
    has one, and ``T`` (N,) the temperatures: shared parameters are ``K`` at 298.15 K, batched ones already hold theirs; ``aqueous`` what pairs of water add in phases of water. Prepared at T and P the unit of volume is R T/P, so that V is Z and P/(R T) is 1; at T alone it is m3/mol.
    """

    form: CubicForm
    s: Array
    t: Array
    u: Array
    B: Array
    K: Array
    RT: Array
    T: Array
    S: Array | None = None
    aqueous: AqueousStates | None = None

    def take(self, index: Rows) -> CubicStates:
        """Return the states chosen by ``index`` along the batch axis."""
        kij = self.K[index] if self.K.ndim == 3 else self.K
        slope = self.S[index] if self.S is not None and self.S.ndim == 3 else self.S
        aqueous = None if self.aqueous is None else self.aqueous.take(index)
        return CubicStates(
            self.form, self.s[index], self.t[index], self.u[index], self.B[index], kij, self.RT[index], self.T[index], slope, aqueous
        )  # fmt: skip

    def _mix(self, v: Array) -> Array:
        """Return v @ (1 - k_ij) for every state, (N, nc)."""
        if self.K.ndim == 3:
            return np.asarray((v[:, None, :] @ self.K)[:, 0, :])
        out = v @ self.K
        if self.S is not None:
            # One matrix for all states, so that both products are those of shared matrices.
            out -= (self.T - T_REF)[:, None] * (v @ self.S)
        return out

    def _mix_slope(self, v: Array) -> Array | float:
        """Return v @ (-T dk_ij/dT) for every state, (N, nc); 0 where no parameter depends on temperature."""
        if self.S is None:
            return 0.0
        mixed = v @ self.S if self.S.ndim == 2 else (v[:, None, :] @ self.S)[:, 0, :]
        return np.asarray(-self.T[:, None] * mixed)

    def _matrix(self) -> Array:
        """Return 1 - k_ij at every temperature, (nc, nc) or (N, nc, nc)."""
        if self.S is None or self.K.ndim == 3:
            return self.K
        return np.asarray(self.K - (self.T - T_REF)[:, None, None] * self.S)

    def mixture(self, x: Array) -> tuple[Array, Array, Array]:
        """Return D, B (N,) and y = (dD/dn_i)/(2 s) (N, nc) of compositions x (N, nc); y is (x s) @ (1 - k_ij) without water."""
        xs = x * self.s
        y = self._mix(xs)
        if self.aqueous is not None:
            y += self.aqueous.value(x, self.aqueous.g)[1] / (2.0 * self.s)
        # D is of degree two in the mole numbers.
        return np.vecdot(xs, y), np.vecdot(x, self.B), y

    # -- at T and P: volumes are Z ------------------------------------------------------------------------------------

    def roots(self, x: Array) -> tuple[Array, Array]:
        """Return Z of the densest and of the least dense root, each (N,); the same number where there is one."""
        A, B, _ = self.mixture(x)
        return self.form.roots(A, B)

    def select_root(self, A: Array, B: Array, root: Root) -> Array:
        """Return Z of the wanted root, (N,); ``stable`` is the one of lower Gibbs energy."""
        if A.size <= FEW:
            return np.array([self.form.root_of_one(a, b, root) for a, b in zip(A.tolist(), B.tolist())])
        low, high = self.form.roots(A, B)
        if root == "liquid":
            return low
        if root == "vapour":
            return high
        # Where one real root exists both are the same number.
        several = np.flatnonzero(low < high)
        if several.size == 0:
            return high
        Z = high.copy()
        a, b = A[several], B[several]
        lower = self.form.gibbs(low[several], a, b) < self.form.gibbs(high[several], a, b)
        Z[several[lower]] = low[several[lower]]
        return Z

    def packing(self, x: Array, Z: Array) -> Array:
        """Return b/V relative to that of the one-fluid critical point, (N,); zero without a covolume."""
        if self.form.omega_b == 0.0:
            return np.zeros(Z.shape)
        return np.asarray(np.vecdot(x, self.B) / Z * self.form.critical_volume_ratio)

    def cold(self, x: Array) -> Mask:
        """Tell where a/(b R T) is above that of the critical point, Omega_a/Omega_b, (N,)."""
        if self.form.omega_a == 0.0:
            return np.zeros(x.shape[0], dtype=bool)
        A, B, _ = self.mixture(x)
        return np.asarray(A * self.form.omega_b > B * self.form.omega_a)

    def ln_phi(self, x: Array, root: Root = "stable") -> tuple[Array, Array]:
        """Return ln fugacity coefficients (N, nc) and Z (N,) of normalised compositions x (N, nc).

        Source: Michelsen and Mollerup (2007), ch. 2 eq. 13 with ch. 3 eq. 6.
        """
        A, B, y = self.mixture(x)
        Z = self.select_root(A, B, root)
        f = self.form.attraction(Z, B)
        d1, d2 = self.form.delta1, self.form.delta2
        f_v = -1.0 / ((Z + d1 * B) * (Z + d2 * B))
        b = B if self.form.omega_b > 0.0 else np.ones_like(B)
        F_B = 1.0 / (Z - B) + A * (f + Z * f_v) / b
        y *= self.s
        y *= (-2.0 * f)[:, None]
        y += F_B[:, None] * self.B
        y -= np.log(Z - B)[:, None]
        return y, Z

    def pure_ln_phi(self) -> Array:
        """Return ln phi of each component taken pure, as a liquid where it has one, (N, nc)."""
        A, B = (self.s * self.s).ravel(), self.B.ravel()
        Z = self.form.roots(A, B)[0]
        return self.form.gibbs(Z, A, B).reshape(self.s.shape)

    def derivatives(self, x: Array, root: Root = "stable") -> PhaseDerivatives:
        """Return ln phi with all its first derivatives of x (N, nc), normalised.

        Source: Michelsen and Mollerup (2007), ch. 2 eqs. 13 to 22, ch. 3 table 3.
        """
        A, B, y = self.mixture(x)
        Z = self.select_root(A, B, root)
        f, f_v, f_B, f_vv, f_Bv, f_BB = self.form.attraction_derivatives(Z, B)
        s, Bi = self.s, self.B
        h = 1.0 / (Z - B)
        F_B = h - A * f_B
        D = 2.0 * s * y
        ln_phi = -np.log(Z - B)[:, None] + F_B[:, None] * Bi - f[:, None] * D

        # Pressure derivatives at P/(RT) = 1: p_i over mole numbers, p_v over volume.
        p_i = (1.0 / Z + B * h / Z)[:, None] + (h * h + A * f_Bv)[:, None] * Bi + f_v[:, None] * D
        p_v = A * f_vv - h * h
        vbar = -p_i / p_v[:, None]

        q = h[:, None] - f_B[:, None] * D + (0.5 * (h * h - A * f_BB))[:, None] * Bi
        ones = np.ones_like(Bi)
        left = np.stack([ones, Bi, q, p_i / p_v[:, None]], axis=-1)
        right = np.stack([ones, q, Bi, p_i], axis=-2)
        dn = left @ right
        dn -= ((2.0 * f)[:, None] * s)[:, :, None] * self._matrix() * s[:, None, :]
        plain = y
        if self.aqueous is not None:
            dn -= f[:, None, None] * self.aqueous.hessian(x)
            plain = self._mix(x * s)

        # Temperature: only a/(R T) varies at constant V and n.
        xt = x * self.t
        bent = self._mix_slope(x * s)
        TD = 2.0 * np.vecdot(xt, plain) - A
        TDi = 2.0 * (self.t * plain + s * (self._mix(xt) + bent)) - D
        if self.aqueous is not None:
            more, more_i = self.aqueous.value(x, self.aqueous.t)
            TD, TDi = TD + more, TDi + more_i
        if self.S is not None:
            TD += (x * s * bent).sum(axis=-1)
        dlnT = -(f_B * TD)[:, None] * Bi - f[:, None] * TDi + 1.0 - vbar * (1.0 + f_v * TD)[:, None]
        return PhaseDerivatives(ln_phi, dn, dlnT, vbar - 1.0, Z)

    def response(self, x: Array, root: Root = "stable") -> PhaseResponse:
        """Return departures and the derivatives in T and V of x (N, nc), normalised.

        Source: Michelsen and Mollerup (2007), ch. 2 eqs. 16 to 23.
        """
        A, B, _ = self.mixture(x)
        return self.response_at(x, self.select_root(A, B, root))

    def response_at(self, x: Array, Z: Array) -> PhaseResponse:
        """Return the same at any root Z (N,) of the cubic, stable or not."""
        A, B, y = self.mixture(x)
        p1, p2 = Z + self.form.delta1 * B, Z + self.form.delta2 * B
        f, f_v = self.form.attraction(Z, B), -1.0 / (p1 * p2)
        h = 1.0 / (Z - B)
        xt = x * self.t
        if self.aqueous is not None:
            y = self._mix(x * self.s)
        TQ = 2.0 * np.vecdot(xt, y)
        T2Q = 2.0 * (np.vecdot(x * self.u, y) + np.vecdot(xt, self._mix(xt)))
        if self.S is not None:
            bent = self._mix_slope(x * self.s)
            TQ += (x * self.s * bent).sum(axis=-1)
            T2Q += 4.0 * (xt * bent).sum(axis=-1)
        if self.aqueous is not None:
            TQ += self.aqueous.value(x, self.aqueous.t)[0]
            T2Q += self.aqueous.value(x, self.aqueous.u)[0]
        TD, T2D = TQ - A, T2Q - 2.0 * TQ + 2.0 * A
        F = np.log(Z * h) - A * f
        return PhaseResponse(
            Z=Z,
            h_res=f * TD + Z - 1.0,
            s_res=f * TD - F + np.log(Z),
            cv_res=f * (2.0 * TD + T2D),
            p_T=1.0 + f_v * TD,
            p_V=Z * (A * (p1 + p2) * f_v * f_v - h * h),
        )

    # -- at T and V: volumes are m3/mol -------------------------------------------------------------------------------

    def pressure(self, V: Array, x: Array) -> Array:
        """Return the pressure, Pa (N,), at molar volumes V (N,) m3/mol."""
        D, B, _ = self.mixture(x)
        d1, d2 = self.form.delta1, self.form.delta2
        return np.asarray(self.RT * (1.0 / (V - B) - D / ((V + d1 * B) * (V + d2 * B))))

    def pressure_slope(self, V: Array, x: Array) -> Array:
        """Return dP/dV at constant T, Pa mol/m3 (N,)."""
        D, B, _ = self.mixture(x)
        p1, p2 = V + self.form.delta1 * B, V + self.form.delta2 * B
        return np.asarray(self.RT * (D * (p1 + p2) / (p1 * p2) ** 2 - 1.0 / (V - B) ** 2))

    def hessian(self, V: Array, x: Array) -> Array:
        """Return d2F/dn_i dn_j at constant T and V, (N, nc, nc); Michelsen and Mollerup (2007), ch. 3 table 3."""
        D, B, y = self.mixture(x)
        f, _, f_B, _, _, f_BB = self.form.attraction_derivatives(V, B)
        h = 1.0 / (V - B)
        q = h[:, None] - (2.0 * f_B)[:, None] * self.s * y + (0.5 * (h * h - D * f_BB))[:, None] * self.B
        out = self.B[:, :, None] * q[:, None, :]
        out += q[:, :, None] * self.B[:, None, :]
        out -= ((2.0 * f)[:, None] * self.s)[:, :, None] * self._matrix() * self.s[:, None, :]
        if self.aqueous is not None:
            out -= f[:, None, None] * self.aqueous.hessian(x)
        return np.asarray(out)

    def third(self, V: Array, x: Array, dn: Array) -> Array:
        """Return the third derivative of F along ``dn`` (N, nc), (N,): six times the cubic term of its power series."""
        D0, B0, y = self.mixture(x)
        ds = dn * self.s
        D1, D2 = 2.0 * np.vecdot(ds, y), np.vecdot(ds, self._mix(ds))
        B1 = np.vecdot(dn, self.B)
        D3 = np.zeros_like(D1)
        if self.aqueous is not None:
            more, D3 = self.aqueous.series(x, dn)
            D2 = D2 + more
        f, f_v, f_B, f_vv, f_Bv, f_BB = self.form.attraction_derivatives(V, B0)
        p1, p2 = V + self.form.delta1 * B0, V + self.form.delta2 * B0
        f_vvv = 2.0 * f_v * f_v + 2.0 * (p1 + p2) ** 2 * f_v**3
        b = B0 if self.form.omega_b > 0.0 else np.ones_like(B0)
        f_Bvv = -(3.0 * f_vv + V * f_vvv) / b
        f_BBv = -(3.0 * f_Bv + V * f_Bvv) / b
        f_BBB = -(3.0 * f_BB + V * f_BBv) / b
        r = B1 / (V - B0)
        repulsive = r**3 / 3.0 + dn.sum(axis=-1) * r * r / 2.0
        attractive = D0 * f_BBB * B1**3 / 6.0 + D1 * f_BB * B1 * B1 / 2.0 + D2 * f_B * B1 + D3 * f
        return np.asarray(6.0 * (repulsive - attractive))


@dataclass(frozen=True)
class CubicEos:
    """A cubic equation of state of a given mixture; an immutable value.

    ``Tc`` K, ``Pc`` Pa, ``omega``: (nc,) or (N, nc); ``kij`` (nc, nc) or (N, nc, nc), symmetric with a zero diagonal;
    ``kij_slope`` likewise, 1/K, where parameters depend on temperature: k_ij + slope (T - 298.15 K). A
    leading axis on the parameters must match the states it is evaluated at. ``given_alpha`` replaces the form's own alpha for
    the components it has parameters of, ``aqueous`` the pairs of water in phases of water. ``a_factor`` and ``b_factor``, (nc,) or (N, nc), multiply
    attraction and covolume where a tuning or own constants Omega say so; Tc stays what alpha is a function of. ``smooth`` takes the exponential
    above Tc in place of the form's own alpha.
    """

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

        return self._each(part(1), part(2), self.aqueous)

    def single(self, row: int) -> CubicEos:
        """Return the equation of one state, its parameters without a batch axis."""

        def part(core: int) -> Callable[[Array], Array]:
            return lambda v: v[row if v.shape[0] > 1 else 0] if v.ndim > core else v

        return self._each(part(1), part(2), self.aqueous) if self.batched else self

    def of(self, keep: NDArray[np.intp] | Mask) -> CubicEos:
        """Return the equation of a subset of the components."""
        index = np.flatnonzero(keep) if keep.dtype == bool else keep
        aqueous = None if self.aqueous is None else self.aqueous.of(np.asarray(index, dtype=np.intp))
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

    def prepare(self, T: ArrayLike, P: ArrayLike) -> CubicStates:
        """Return the equation at temperatures T (N,) K and pressures P (N,) Pa, both positive."""
        T, P = np.broadcast_arrays(np.atleast_1d(np.asarray(T, float)), np.atleast_1d(np.asarray(P, float)))
        return self._states(T, P / (R * T))

    def at_temperature(self, T: ArrayLike) -> CubicStates:
        """Return the equation at temperatures T (N,) K, for any volume."""
        T = np.atleast_1d(np.asarray(T, float))
        return self._states(T, np.ones_like(T))

    def _states(self, T: Array, unit: Array) -> CubicStates:
        """Return the states with volumes in units of 1/``unit``."""
        if T.ndim != 1:
            raise ValueError("an equation is prepared along one batch axis; flatten first")
        Tcol, scale = T[:, None], unit[:, None]
        value, slope, curvature = self.alpha.root(Tcol / self.Tc)
        root = np.sqrt(self.a_critical * (scale / (R * Tcol)))
        K = 1.0 - self.kij
        if self.kij_slope is not None and (K.ndim == 3 or self.kij_slope.ndim == 3):
            K = K - self.kij_slope * (T[:, None, None] - T_REF)
        s, t, u = root * value, root * slope, root * curvature
        aqueous = None
        if self.aqueous is not None:
            gap = self.aqueous.gap(Tcol, self.Tc, self.kij, self.kij_slope)
            aqueous = aqueous_states(self.aqueous, gap, s, t, u)
        return CubicStates(self.form, s, t, u, self.b * scale, K, R * T, T, self.kij_slope, aqueous)

    def least_volume(self, x: Array) -> Array:
        """Return the covolume of compositions x (..., nc), m3/mol."""
        return np.asarray((x * self.b).sum(axis=-1))

    def pure_critical(self) -> tuple[Array, Array, Array]:
        """Return T K, P Pa and V m3/mol of the critical point of each component taken pure, (..., nc); nan without one."""
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
