"""Two-parameter cubic equations of state with the van der Waals one-fluid mixing rules.

    P = R T / (V - b) - a(T) / ((V + d1 b)(V + d2 b))

One core serves every member of the family; a member is a :class:`CubicForm`. Derivatives follow the
reduced residual Helmholtz energy F = A_res/(R T) of Michelsen and Mollerup, *Thermodynamic Models:
Fundamentals and Computational Aspects* (2007), chapters 2 and 3, written here in the dimensionless volume
Z = P V/(R T), so that one prepared state serves any number of compositions.

Array shapes: N states, nc components. Parameters may carry the batch axis too.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..constants import R

Array = NDArray[np.float64]
Root = Literal["stable", "liquid", "vapour"]


def kappa_pr76(omega: Array) -> Array:
    """Slope of the Peng-Robinson alpha function, Peng and Robinson (1976), eq. 18."""
    return np.asarray(0.37464 + 1.54226 * omega - 0.26992 * omega**2)


def kappa_pr78(omega: Array) -> Array:
    """Slope of the 1978 form: eq. 18 of 1976 up to omega 0.49, the cubic above it.

    Robinson and Peng, GPA Research Report RR-28 (1978).
    """
    heavy = 0.379642 + omega * (1.48503 + omega * (-0.164423 + 0.016666 * omega))
    return np.where(omega > 0.49, heavy, kappa_pr76(omega))


def kappa_srk(omega: Array) -> Array:
    """Slope of the Soave-Redlich-Kwong alpha function, Soave (1972), eq. 15."""
    return np.asarray(0.480 + 1.574 * omega - 0.176 * omega**2)


@dataclass(frozen=True)
class CubicForm:
    """A member of the cubic family: volume constants, critical constants and alpha slope."""

    name: str
    delta1: float
    delta2: float
    omega_a: float
    omega_b: float
    kappa: Callable[[Array], Array]
    source: str

    @property
    def critical_volume_ratio(self) -> float:
        """V/b at the critical point of a pure fluid (Z_c / Omega_b), dimensionless."""
        # The cubic has a triple root there, so three times it is the negated quadratic coefficient.
        u = self.delta1 + self.delta2
        return (1.0 + self.omega_b - u * self.omega_b) / (3.0 * self.omega_b)


_SQRT2 = float(np.sqrt(2.0))
_PR = (1.0 + _SQRT2, 1.0 - _SQRT2, 0.457235528921382, 0.0777960739038885)

FORMS: dict[str, CubicForm] = {
    form.name: form
    for form in (
        CubicForm("PR78", *_PR, kappa_pr78, "Robinson and Peng, GPA RR-28 (1978)"),
        CubicForm("PR76", *_PR, kappa_pr76, "Peng and Robinson, Ind. Eng. Chem. Fundam. 15, 59 (1976)"),
        CubicForm(
            "SRK",
            1.0,
            0.0,
            0.427480233540341,
            0.0866403499649577,
            kappa_srk,
            "Soave, Chem. Eng. Sci. 27, 1197 (1972)",
        ),
    )
}
"""The cubic forms by the name used in documents."""


@dataclass(frozen=True)
class PhaseDerivatives:
    """Everything of one phase at N states, from one evaluation.

    ``ln_phi`` (N, nc); ``dln_phi_dn`` (N, nc, nc), the derivative in mole numbers at one mole in all;
    ``dln_phi_dlnT`` and ``dln_phi_dlnP`` (N, nc); ``Z`` (N,); ``h_res`` H_res/(R T) and ``s_res`` S_res/R
    (N,), both at given T and P.
    """

    ln_phi: Array
    dln_phi_dn: Array
    dln_phi_dlnT: Array
    dln_phi_dlnP: Array
    Z: Array
    h_res: Array
    s_res: Array


@dataclass(frozen=True)
class CubicState:
    """A cubic equation at N given temperatures and pressures, ready for any composition.

    ``s`` is sqrt(a_i P)/(R T), ``t`` its temperature derivative times T at constant P/(R T)^2, ``B`` is
    b_i P/(R T), all (N, nc); ``K`` is 1 - k_ij, (nc, nc) or (N, nc, nc).
    """

    form: CubicForm
    s: Array
    t: Array
    B: Array
    K: Array

    def take(self, index: NDArray[np.intp] | NDArray[np.bool_] | slice) -> CubicState:
        """Return the states chosen by ``index`` along the batch axis."""
        kij = self.K[index] if self.K.ndim == 3 else self.K
        return CubicState(self.form, self.s[index], self.t[index], self.B[index], kij)

    def _mix(self, v: Array) -> Array:
        """Return v @ (1 - k_ij) for every state, (N, nc)."""
        if self.K.ndim == 2:
            return v @ self.K
        return np.asarray((v[:, None, :] @ self.K)[:, 0, :])

    def _roots(self, A: Array, B: Array) -> tuple[Array, Array]:
        """Return the smallest physical and the largest root Z of the cubic, each (N,); equal where one."""
        d1, d2 = self.form.delta1, self.form.delta2
        u, w = d1 + d2, d1 * d2
        c2 = (u - 1.0) * B - 1.0
        c1 = A + w * B * B - u * B - u * B * B
        c0 = -B * (A + w * B + w * B * B)
        return _cubic_extreme_roots(c2, c1, c0, B)

    def _log_term(self, Z: Array, B: Array) -> Array:
        """Return f = ln((Z + d1 B)/(Z + d2 B)) / (B (d1 - d2)), (N,)."""
        d1, d2 = self.form.delta1, self.form.delta2
        return np.asarray(np.log1p((d1 - d2) * B / (Z + d2 * B)) / (B * (d1 - d2)))

    def _gibbs(self, Z: Array, A: Array, B: Array) -> Array:
        """Return the residual Gibbs energy over R T at T and P, (N,)."""
        return np.asarray(-np.log(Z - B) - A * self._log_term(Z, B) + Z - 1.0)

    def select_root(self, A: Array, B: Array, root: Root) -> Array:
        """Return Z of the wanted root, (N,); ``stable`` is the one of lower Gibbs energy."""
        low, high = self._roots(A, B)
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
        lower = self._gibbs(low[several], a, b) < self._gibbs(high[several], a, b)
        Z[several[lower]] = low[several[lower]]
        return Z

    def mixture(self, x: Array) -> tuple[Array, Array, Array]:
        """Return A, B (N,) and y = (x s) @ (1 - k_ij) (N, nc) of compositions x (N, nc)."""
        xs = x * self.s
        y = self._mix(xs)
        return np.einsum("ij,ij->i", xs, y), np.einsum("ij,ij->i", x, self.B), y

    def ln_phi(self, x: Array, root: Root = "stable") -> tuple[Array, Array]:
        """Return ln fugacity coefficients (N, nc) and Z (N,) of normalised compositions x (N, nc).

        Source: Michelsen and Mollerup (2007), ch. 2 eq. 13 with ch. 3 eq. 6.
        """
        A, B, y = self.mixture(x)
        Z = self.select_root(A, B, root)
        f = self._log_term(Z, B)
        d1, d2 = self.form.delta1, self.form.delta2
        f_v = -1.0 / ((Z + d1 * B) * (Z + d2 * B))
        F_B = 1.0 / (Z - B) + A * (f + Z * f_v) / B
        y *= self.s
        y *= (-2.0 * f)[:, None]
        y += F_B[:, None] * self.B
        y -= np.log(Z - B)[:, None]
        return y, Z

    def derivatives(self, x: Array, root: Root = "stable") -> PhaseDerivatives:
        """Return ln phi with all its first derivatives and the residual enthalpy and entropy.

        x (N, nc), normalised. Source: Michelsen and Mollerup (2007), ch. 2 eqs. 13 to 22, ch. 3 table 3.
        """
        A, B, y = self.mixture(x)
        Z = self.select_root(A, B, root)
        d1, d2 = self.form.delta1, self.form.delta2
        s, Bi = self.s, self.B
        f = self._log_term(Z, B)
        p1, p2 = Z + d1 * B, Z + d2 * B
        f_v = -1.0 / (p1 * p2)
        f_B = -(f + Z * f_v) / B
        f_vv = (p1 + p2) / (p1 * p2) ** 2
        f_Bv = -(2.0 * f_v + Z * f_vv) / B
        f_BB = -(2.0 * f_B + Z * f_Bv) / B
        h = 1.0 / (Z - B)
        lnz = np.log(Z)
        F_n = lnz - np.log(Z - B)
        F_B = h - A * f_B
        F_BB = h * h - A * f_BB
        D = 2.0 * s * y
        ln_phi = (F_n - lnz)[:, None] + F_B[:, None] * Bi - f[:, None] * D

        # Pressure derivatives at P/(RT) = 1: p_i over mole numbers, p_v over volume.
        p_i = (1.0 / Z + B * h / Z)[:, None] + (h * h + A * f_Bv)[:, None] * Bi + f_v[:, None] * D
        p_v = A * f_vv - h * h
        vbar = -p_i / p_v[:, None]

        q = h[:, None] - f_B[:, None] * D + (0.5 * F_BB)[:, None] * Bi
        ones = np.ones_like(Bi)
        left = np.stack([ones, Bi, q, p_i / p_v[:, None]], axis=-1)
        right = np.stack([ones, q, Bi, p_i], axis=-2)
        dn = left @ right
        dn -= ((2.0 * f)[:, None] * s)[:, :, None] * self.K * s[:, None, :]

        # Temperature: only a/(R T) varies at constant V and n.
        xt = x * self.t
        w = self._mix(xt)
        TD = 2.0 * np.einsum("ij,ij->i", xt, y) - A
        TDi = 2.0 * (self.t * y + s * w) - D
        dlnT = -(f_B * TD)[:, None] * Bi - f[:, None] * TDi + 1.0 - vbar * (1.0 + f_v * TD)[:, None]

        F = F_n - A * f
        TF_T = -f * TD
        return PhaseDerivatives(
            ln_phi=ln_phi,
            dln_phi_dn=dn,
            dln_phi_dlnT=dlnT,
            dln_phi_dlnP=vbar - 1.0,
            Z=Z,
            h_res=-TF_T + Z - 1.0,
            s_res=-TF_T - F + lnz,
        )


@dataclass(frozen=True)
class CubicEos:
    """A cubic equation of state of a given mixture; an immutable value.

    ``Tc`` K, ``Pc`` Pa, ``omega``: (..., nc); ``kij`` (..., nc, nc), symmetric with a zero diagonal. A
    leading axis on the parameters must match the states it is evaluated at.
    """

    form: CubicForm
    Tc: Array
    Pc: Array
    omega: Array
    kij: Array

    @property
    def nc(self) -> int:
        """Number of components."""
        return int(self.Tc.shape[-1])

    @property
    def batched(self) -> bool:
        """Whether the parameters carry a batch axis."""
        return self.Tc.ndim > 1 or self.kij.ndim > 2

    def take(self, index: NDArray[np.intp] | slice) -> CubicEos:
        """Return the equation with batched parameters restricted to ``index``; shared parameters stay."""
        if not self.batched:
            return self

        def part(values: Array, core: int) -> Array:
            return values[index] if values.ndim > core and values.shape[0] > 1 else values

        return CubicEos(self.form, part(self.Tc, 1), part(self.Pc, 1), part(self.omega, 1), part(self.kij, 2))

    @property
    def a_critical(self) -> Array:
        """Attraction parameter at the critical temperature, (..., nc), Pa m6/mol2."""
        return np.asarray(self.form.omega_a * (R * self.Tc) ** 2 / self.Pc)

    @property
    def b(self) -> Array:
        """Covolume, (..., nc), m3/mol."""
        return np.asarray(self.form.omega_b * R * self.Tc / self.Pc)

    def sqrt_alpha(self, T: Array) -> tuple[Array, Array]:
        """Return sqrt(alpha) and T d sqrt(alpha)/dT at T (..., 1), each (..., nc).

        Soave's form. Above the temperature where it would turn negative the magnitude is used, so that
        a_i stays the square of a real number.
        """
        kappa = self.form.kappa(self.omega)
        root = np.sqrt(T / self.Tc)
        value = 1.0 + kappa * (1.0 - root)
        slope = -0.5 * kappa * root
        sign = np.where(value < 0.0, -1.0, 1.0)
        return value * sign, slope * sign

    def prepare(self, T: ArrayLike, P: ArrayLike) -> CubicState:
        """Return the equation at temperatures T (N,) K and pressures P (N,) Pa, both positive."""
        T, P = np.broadcast_arrays(np.atleast_1d(np.asarray(T)), np.atleast_1d(np.asarray(P)))
        if T.ndim != 1:
            raise ValueError("prepare takes one batch axis; flatten first")
        Tcol, Pcol = T[:, None], P[:, None]
        value, slope = self.sqrt_alpha(Tcol)
        scale = np.sqrt(self.a_critical * Pcol) / (R * Tcol)
        B = self.b * Pcol / (R * Tcol)
        return CubicState(self.form, scale * value, scale * slope, B, 1.0 - self.kij)

    def is_liquid_like(self, T: ArrayLike, P: ArrayLike, x: Array, Z: Array) -> NDArray[np.bool_]:
        """Tell which single phases to call liquid, (N,).

        A phase is called liquid where the isotherm of its composition is below the one-fluid critical
        temperature of the equation (a/(b R T) above Omega_a/Omega_b) and its volume is below the critical
        one. The rule is continuous with the pure critical point and needs no envelope.
        """
        A, B, _ = self.prepare(T, P).mixture(x)
        cold = self.form.omega_a / self.form.omega_b < A / B
        return np.asarray(cold & (self.form.critical_volume_ratio > Z / B))


def _cubic_extreme_roots(c2: Array, c1: Array, c0: Array, lower: Array) -> tuple[Array, Array]:
    """Return the smallest root above ``lower`` and the largest root of z3 + c2 z2 + c1 z + c0, each (N,).

    Closed form (Cardano; Viete for three real roots), then two Newton steps each, because the closed form
    loses digits when the roots differ by orders of magnitude.
    """
    third = c2 / 3.0
    p = c1 - c2 * third
    q = third * (2.0 * third * third - c1) + c0
    p3 = p / 3.0
    disc = 0.25 * q * q + p3 * p3 * p3
    three = disc < 0.0
    some = np.count_nonzero(three)
    if some == three.size:
        roots = _three_real(p3, q)
    else:
        # One real root; the sign keeps both cube roots from cancelling.
        big = np.cbrt(-0.5 * q - np.copysign(np.sqrt(np.abs(disc)), q))
        single = big - p3 / (big + np.copysign(1e-150, big))
        if some == 0:
            high = _polish(single - third, c2, c1, c0)
            return high, high
        roots = np.stack([single, single])
        index = np.flatnonzero(three)
        roots[:, index] = _three_real(p3[index], q[index])
    roots -= third
    low, high = _polish(roots, c2, c1, c0)
    return np.where(low > lower, low, high), high


def _three_real(p3: Array, q: Array) -> Array:
    """Return the smallest and the largest root of t3 + 3 p3 t + q with three real roots, (2, N)."""
    half = np.sqrt(-p3)
    angle = np.arccos(np.clip(0.5 * q / (p3 * half), -1.0, 1.0)) / 3.0
    return np.asarray(2.0 * half * np.cos(np.stack([angle + 2.0943951023931953, angle])))


def _polish(z: Array, c2: Array, c1: Array, c0: Array) -> Array:
    """Return z after two Newton steps; damped where the slope vanishes, as at a double root."""
    damping = 1e-16 * c1 * c1 + 1e-300
    for _ in range(2):
        slope = (3.0 * z + 2.0 * c2) * z + c1
        value = ((z + c2) * z + c1) * z + c0
        z = z - value * slope / (slope * slope + damping)
    return z
