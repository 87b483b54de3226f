"""The members of the cubic family: volume constants, critical constants, alpha function, and what people call them
and see of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..kernels import kernel
from .alpha import Alpha, Power, Smooth, Soave

Array = NDArray[np.float64]


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
    """A member of the cubic family: volume constants d1 and d2, critical constants, and its own alpha function.

    ``kappa`` gives the slope of Soave's alpha function from the acentric factor; None where alpha does not depend on
    it, and is then Tr to the power ``exponent``. ``family`` names those whose fitted alpha functions and volume
    shifts it takes."""

    name: str
    delta1: float
    delta2: float
    omega_a: float
    omega_b: float
    kappa: Callable[[Array], Array] | None
    source: str
    exponent: float = 0.0
    family: str = ""
    title: str = ""
    formula: str = ""
    colour: int = 0

    @property
    def critical_volume_ratio(self) -> float:
        """V/b at the critical point of a pure fluid (Z_c / Omega_b), dimensionless; infinite without a covolume."""
        if self.omega_b == 0.0:
            return float("inf")
        # The cubic has a triple root there, so three times it is the negated quadratic coefficient.
        u = self.delta1 + self.delta2
        return (1.0 + self.omega_b - u * self.omega_b) / (3.0 * self.omega_b)

    def own_alpha(self, omega: Array, smooth: bool = False) -> Alpha:
        """Return the form's own alpha function for components of given acentric factors (..., nc), ``smooth``: with
        the exponential above Tc."""
        if self.kappa is None:
            return Power(self.exponent)
        return Smooth(self.kappa(omega)) if smooth else Soave(self.kappa(omega))

    @property
    def head(self) -> Array:
        """The constants as a kernel takes them: the first of its parameters, (8,)."""
        return np.array(
            [self.delta1, self.delta2, self.omega_a, self.omega_b, self.critical_volume_ratio, -1.0, 0.0, 0.0]
        )

    def coefficients(self, A: float, B: float) -> tuple[float, float, float]:
        """Return c2, c1 and c0 of Z3 + c2 Z2 + c1 Z + c0 = 0."""
        u, w = self.delta1 + self.delta2, self.delta1 * self.delta2
        return (u - 1.0) * B - 1.0, A + w * B * B - u * B - u * B * B, -B * (A + w * B + w * B * B)

    def roots(self, A: Array, B: Array) -> tuple[Array, Array, Array, Array]:
        """Return the smallest physical and the largest root Z of the cubic at T and P, and the residual Gibbs energy
        over R T of both, each (N,)."""
        A, B = (np.ascontiguousarray(v, dtype=float) for v in np.broadcast_arrays(A, B))
        out = np.empty((A.size, 4))
        kernel("cubic_root_pairs").over(A.size, 0, (self.head, A.ravel(), B.ravel(), out), block=4096)
        low, high, dense, thin = (out[:, k].reshape(A.shape) for k in range(4))
        return low, high, dense, thin


_SQRT2 = float(np.sqrt(2.0))
_PR = (1.0 + _SQRT2, 1.0 - _SQRT2, 0.457235528921382, 0.0777960739038885)
_RK = (1.0, 0.0, 0.427480233540341, 0.0866403499649577)

_CUBIC = "<i>P</i> = <i>R T</i>/(<i>V</i> − <i>b</i>) − <i>a α</i>(<i>T</i>)/"
_SOAVE = "α = [1 + κ(ω)(1 − √<i>T</i><sub>r</sub>)]²"
_PR_TYPE = f"{_CUBIC}(<i>V</i>² + 2<i>bV</i> − <i>b</i>²),  {_SOAVE}"
_RK_TYPE = f"{_CUBIC}(<i>V</i>² + <i>bV</i>),  "

FORMS: dict[str, CubicForm] = {
    form.name: form
    for form in (
        CubicForm("PR78", *_PR, kappa_pr78, "Robinson and Peng, GPA RR-28 (1978)", family="PR", formula=_PR_TYPE),
        CubicForm(
            "PR76",
            *_PR,
            kappa_pr76,
            "Peng and Robinson, Ind. Eng. Chem. Fundam. 15, 59 (1976)",
            family="PR",
            formula=_PR_TYPE,
            colour=4,
        ),
        CubicForm(
            "SRK",
            *_RK,
            kappa_srk,
            "Soave, Chem. Eng. Sci. 27, 1197 (1972)",
            family="RK",
            formula=_RK_TYPE + _SOAVE,
            colour=1,
        ),
        CubicForm(
            "RK",
            *_RK,
            None,
            "Redlich and Kwong, Chem. Rev. 44, 233 (1949)",
            -0.5,
            title="Redlich–Kwong",
            formula=_RK_TYPE + "α = <i>T</i><sub>r</sub><sup>−½</sup>",
            colour=5,
        ),
        CubicForm(
            "VDW",
            0.0,
            0.0,
            27.0 / 64.0,
            1.0 / 8.0,
            None,
            "van der Waals, thesis, Leiden (1873)",
            title="van der Waals",
            formula="<i>P</i> = <i>R T</i>/(<i>V</i> − <i>b</i>) − <i>a</i>/<i>V</i>²",
            colour=2,
        ),
        CubicForm(
            "ideal",
            0.0,
            0.0,
            0.0,
            0.0,
            None,
            "Clapeyron, J. Ec. Polytech. 14, 153 (1834)",
            title="ideal gas",
            formula="<i>P</i> = <i>R T</i>/<i>V</i>",
            colour=6,
        ),
    )
}
"""The cubic forms by the name used in documents."""
