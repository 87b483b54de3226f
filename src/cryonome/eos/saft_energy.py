"""The residual Helmholtz energy of PC-SAFT as a density: phi(c, T) = A_res/(R T V), mol/m3, with its derivatives.

Gross and Sadowski, Ind. Eng. Chem. Res. 40, 1244 (2001), eqs. A.3 to A.20, for chains that do not associate. Written
over the component densities c_i = n_i/V, everything at given T and V is a derivative of phi,

    dF/dn_i = phi_i,   d2F/dn_i dn_j = phi_ij/V,   P/(R T) = sum c + sum c phi_c - phi,

since F = V phi(n/V). phi depends on the c_i through few sums: the zeta_k, the mean segment number and the two
energies, and through the contact value of each chain, which depends on its own diameter, zeta_2 and zeta_3.
Directions are the nc densities and the temperature. Shapes: N states, nc components; units mol, m3, K. Computed by
``kernels/source/saft_energy.py``, which has the constants of the dispersion integrals too."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..kernels import kernel
from .compiled import CompiledStates

Array = NDArray[np.float64]

AVOGADRO = 6.02214076e23

K = np.pi / 6.0 * AVOGADRO
"""zeta_k = K sum c m d^k."""


@dataclass(frozen=True)
class Energy:
    """phi (N,) mol/m3, its gradient in the densities ``by_c`` (N, nc) and by T (N,), and the second derivatives."""

    value: Array
    by_c: Array
    by_T: Array
    by_cc: Array
    by_cT: Array
    by_TT: Array


def energy(at: CompiledStates, c: Array) -> Energy:
    """Return phi of densities c (N, nc) mol/m3, of states of PC-SAFT at N temperatures, with its derivatives."""
    n, nc = c.shape
    phi, by_c, by_cc, by_cT = np.empty((n, 3)), np.empty((n, nc)), np.empty((n, nc * nc)), np.empty((n, nc))
    own = at.packed
    given = own.parameters, at.T, np.ascontiguousarray(c, dtype=float), phi, by_c, by_cc, by_cT
    kernel("saft_energies").over(n, own.memory, given)
    return Energy(phi[:, 0], by_c, phi[:, 1], by_cc.reshape(n, nc, nc), by_cT, phi[:, 2])


def roots_everywhere(at: CompiledStates, x: Array) -> tuple[Array, Array]:
    """Return Z of the densest and of the thinnest root (N,) of compositions x (N, nc), looked for among fixed
    packings alone: what the quick way must come to."""
    out = np.empty((len(x), 2))
    kernel("saft_everywhere").over(
        len(x), at.packed.memory, (at.packed.parameters, at.T, at.P, np.ascontiguousarray(x), out)
    )
    return out[:, 0], out[:, 1]


def chain_pressures(m: Array, T: Array, eta: Array) -> tuple[Array, Array, Array]:
    """Return P/(R T), its slope in the packing, and the density by packing (n,), of pure chains of m segments, sigma
    = 1 and eps/k = 1, at reduced temperatures T and packings ``eta`` (n,)."""
    out = np.empty((m.size, 3))
    given = (*(np.ascontiguousarray(v, dtype=float) for v in (m, T, eta)), out)
    kernel("chain_pressures").over(m.size, 40, given, block=512)
    return out[:, 0], out[:, 1], out[:, 2]
