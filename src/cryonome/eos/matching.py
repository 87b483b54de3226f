"""The acentric factor at which an equation of state boils a substance at a given temperature and pressure."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..bracketing import bracketed
from ..constants import ATM
from .cubic_forms import CubicForm

Array = NDArray[np.float64]

OMEGA_RANGE = (-0.8, 4.0)
ROOT_ALPHA_RANGE = (0.2, 8.0)
"""Between these the square root of the alpha function is sought."""


def matched_omega(form: CubicForm, Tc: Array, Pc: Array, T: Array, P: float = ATM) -> Array:
    """Return the acentric factors (n,) at which pure fluids with Tc (n,) K and Pc (n,) Pa boil at T (n,) K and P Pa.

    Equal Gibbs energies of liquid and vapour fix the attraction parameter; the alpha function is then inverted. nan
    where the form's alpha function does not depend on the acentric factor, T is not below Tc, P not below Pc, or the
    omega would lie outside -0.8 to 4."""
    Tr, Pr = np.asarray(T / Tc, float), np.asarray(P / Pc, float)
    kappa = form.kappa
    if kappa is None or Tr.size == 0:
        return np.full(Tr.shape, np.nan)
    with np.errstate(invalid="ignore", divide="ignore"):
        wanted = (matched_root_alpha(form, Tr, Pr) - 1.0) / (1.0 - np.sqrt(Tr))
    omega = bracketed(lambda w: np.asarray(kappa(w) - wanted), Tr.shape, OMEGA_RANGE)
    return np.where((Tr < 1.0) & (Pr < 1.0), omega, np.nan)


def matched_root_alpha(form: CubicForm, Tr: Array, Pr: Array) -> Array:
    """Return sqrt(alpha) (n,) at which pure fluids boil at reduced temperatures Tr (n,) and pressures Pr (n,); nan
    where none does."""
    B = form.omega_b * Pr / Tr
    scale = form.omega_a * Pr / Tr**2

    def lighter(root: Array) -> Array:
        """Gibbs energy of the liquid above the vapour's; where one root exists its kind decides the sign."""
        A = scale * root * root
        low, high, dense, thin = form.roots(A, B)
        alone = np.abs(low - high) < 1e-9 * high
        liquid = low < form.critical_volume_ratio * B
        return np.where(alone, np.where(liquid, -1.0, 1.0), dense - thin)

    return bracketed(lighter, Tr.shape, ROOT_ALPHA_RANGE)
