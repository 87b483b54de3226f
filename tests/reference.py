"""Independent formulations the tests compare with: written from the pressure equation, scalar and complex-safe."""

from __future__ import annotations

import numpy as np

from cryonome.constants import R
from cryonome.eos import CubicEos

PR, RK = (1 + 2**0.5, 1 - 2**0.5), (1.0, 0.0)
UNIVERSAL = {"PR78": PR, "PR76": PR, "SRK": RK, "RK": RK, "VDW": (0.0, 0.0), "ideal": (0.0, 0.0)}


def attraction(eos: CubicEos, T):
    """Return a_i (nc,) at T, in the textbook form of each equation."""
    a_c = eos.form.omega_a * R**2 * eos.Tc**2 / eos.Pc
    if eos.form.name == "RK":
        return a_c * (eos.Tc / T) ** 0.5
    if eos.form.kappa is None:
        return a_c + 0 * T
    kappa, Tr = eos.form.kappa(eos.omega), T / eos.Tc
    own = (1 + kappa * (1 - np.sqrt(Tr))) ** 2
    if not eos.smooth:
        return a_c * own
    above = np.exp(2 * kappa / (1 + kappa) * (1 - Tr ** (0.5 * (1 + kappa))))
    return a_c * np.where(np.real(Tr) > 1, above, own)


def log_term(eos: CubicEos, z, B):
    """Return ln((z + d1 B)/(z + d2 B)) / (d1 - d2), whose limit for equal constants is B/(z + d B)."""
    d1, d2 = UNIVERSAL[eos.form.name]
    return B / (z + d1 * B) if d1 == d2 else np.log((z + d1 * B) / (z + d2 * B)) / (d1 - d2)


def ln_phi(eos: CubicEos, T, P, n, near: float | None = None):
    """Return ln fugacity coefficients of mole numbers n (nc,) at T, P, any of which may be complex.

    Textbook form (Prausnitz, Lichtenthaler and de Azevedo, 1999, ch. 12), with np.roots for the volume; of several
    real roots the one of least Gibbs energy, or the one nearest ``near``.
    """
    d1, d2 = UNIVERSAL[eos.form.name]
    x = n / n.sum()
    if eos.form.omega_b == 0:
        return np.zeros(n.size, complex), 1.0 + 0j
    a_i = attraction(eos, T)
    b_i = eos.form.omega_b * R * eos.Tc / eos.Pc
    a_ij = np.sqrt(np.outer(a_i, a_i)) * (1 - eos.kij)
    a, b = x @ a_ij @ x, x @ b_i
    A, B = a * P / (R * T) ** 2, b * P / (R * T)
    u, w = d1 + d2, d1 * d2
    poly = [1.0, (u - 1) * B - 1, A + w * B**2 - u * B - u * B**2, -(A * B + w * B**2 + w * B**3)]
    real = np.roots([np.real(c) for c in poly])
    roots = [z.real for z in real if abs(z.imag) < 1e-9 and z.real > np.real(B)]

    def value(z):
        return b_i / b * (z - 1) - np.log(z - B) - A / B * (2 * (a_ij @ x) / a - b_i / b) * log_term(eos, z, B)

    def polish(z):
        for _ in range(4):
            z = z - np.polyval(poly, z) / np.polyval(np.polyder(poly), z)
        return z

    if near is not None:
        z = polish(min(roots, key=lambda r: abs(r - near)) + 0j)
        return value(z), z
    options = [polish(r + 0j) for r in roots]
    best = min(options, key=lambda z: float(np.real(np.real(x) @ value(z))))
    return value(best), best


def lowest_tangent_distance(eos: CubicEos, T: float, P: float, z: np.ndarray, trials: int, seed: int) -> float:
    """Return the lowest modified tangent plane distance found by brute force.

    Random compositions of every flavour, each followed by plain substitution on the textbook fugacities of this
    module; slow and simple on purpose.
    """
    rng = np.random.default_rng(seed)
    nc = z.size
    d = np.log(z) + np.real(ln_phi(eos, T, P, z)[0])
    starts = [np.eye(nc)[i] * 0.97 + 0.03 / nc for i in range(nc)]
    starts += [rng.dirichlet(np.full(nc, s)) for s in (0.1, 0.3, 1.0) for _ in range(trials)]
    starts += [z * np.exp(rng.normal(0, s, nc)) for s in (0.05, 0.3, 1.0, 3.0) for _ in range(trials)]
    lowest = 0.0
    for W in starts:
        W = np.maximum(W, 1e-12)
        for _ in range(150):
            f = np.log(W) + np.real(ln_phi(eos, T, P, W)[0])
            lowest = min(lowest, float(1 + W @ (f - d - 1)))
            new = np.exp(np.log(W) + d - f)
            if np.abs(np.log(new / W)).max() < 1e-9:
                break
            W = new
    return lowest
