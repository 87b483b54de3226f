"""Measured saturation of a few fluids, by the auxiliary equations of their reference equations of state.

ln(P/Pc) = Tc/T sum a tau^n, ln(rho/rhoc) = sum a tau^n (water's liquid: rho/rhoc = 1 + sum a tau^n; vapour of
nitrogen and ethane: Tc/T times the sum), tau = 1 - T/Tc. Valid from the triple point to the critical point."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]
Terms = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class SaturationData:
    """Constants of one fluid: Tc K, Pc Pa, critical density kg/m3, triple point K, and the three equations' terms."""

    name: str
    source: str
    Tc: float
    Pc: float
    rho_c: float
    lowest: float
    molar_mass: float
    pressure: Terms
    liquid: Terms
    vapour: Terms
    linear_liquid: bool = False
    scaled_vapour: bool = False

    def at(self, T: ArrayLike) -> tuple[Array, Array, Array]:
        """Return vapour pressure Pa, molar volumes m3/mol of liquid and of vapour (n,) at T (n,) K; nan out of
        range."""
        T = np.asarray(T, float)
        good = (self.lowest <= T) & (self.Tc >= T)
        tau = np.where(good, np.maximum(1.0 - T / self.Tc, 0.0), np.nan)

        def total(terms: Terms) -> Array:
            return np.asarray(sum(a * tau**n for a, n in terms))

        P = self.Pc * np.exp(total(self.pressure) * self.Tc / T)
        liquid = 1.0 + total(self.liquid) if self.linear_liquid else np.exp(total(self.liquid))
        scale = self.Tc / T if self.scaled_vapour else np.ones_like(T)
        densities = (self.rho_c * liquid, self.rho_c * np.exp(scale * total(self.vapour)))
        return P, *(self.molar_mass / rho for rho in densities)


_THIRD = 1.0 / 3.0

SATURATION: dict[str, SaturationData] = {
    d.name: d
    for d in (
        SaturationData(
            "carbon dioxide", "Span and Wagner, J. Phys. Chem. Ref. Data 25, 1509 (1996), eqs. 3.13 to 3.15",
            304.1282, 7.3773e6, 467.6, 216.592, 44.0098e-3,
            ((-7.0602087, 1.0), (1.9391218, 1.5), (-1.6463597, 2.0), (-3.2995634, 4.0)),
            ((1.9245108, 0.34), (-0.62385555, 0.5), (-0.32731127, 10 / 6), (0.39245142, 11 / 6)),
            ((-1.7074879, 0.34), (-0.8227467, 0.5), (-4.6008549, 1.0), (-10.111178, 7 / 3), (-29.742252, 14 / 3)),
        ),
        SaturationData(
            "methane", "Setzmann and Wagner, J. Phys. Chem. Ref. Data 20, 1061 (1991), eqs. 3.2 to 3.4",
            190.564, 4.5922e6, 162.66, 90.6941, 16.0428e-3,
            ((-6.036219, 1.0), (1.409353, 1.5), (-0.4945199, 2.0), (-1.443048, 4.5)),
            ((1.9906389, 0.354), (-0.78756197, 0.5), (0.036976723, 2.5)),
            ((-1.880284, 0.354), (-2.8526531, 5 / 6), (-3.000648, 1.5), (-5.251169, 2.5), (-13.191859, 25 / 6), (-37.553961, 47 / 6)),
        ),
        SaturationData(
            "nitrogen", "Span et al., J. Phys. Chem. Ref. Data 29, 1361 (2000), eqs. 6 to 8",
            126.192, 3.3958e6, 313.3, 63.151, 28.01348e-3,
            ((-6.12445284, 1.0), (1.2632722, 1.5), (-0.765910082, 2.5), (-1.77570564, 5.0)),
            ((1.48654237, 0.3294), (-0.280476066, 4 / 6), (0.0894143085, 16 / 6), (-0.119879866, 35 / 6)),
            ((-1.70127164, 0.34), (-3.70402649, 5 / 6), (1.29859383, 7 / 6), (-0.561424977, 13 / 6), (-2.68505381, 14 / 3)),
            scaled_vapour=True,
        ),
        SaturationData(
            "ethane", "Bücker and Wagner, J. Phys. Chem. Ref. Data 35, 205 (2006), eqs. 3.1 to 3.3",
            305.322, 4.8722e6, 206.18, 90.368, 30.06904e-3,
            ((-6.48647577, 1.0), (1.47010078, 1.5), (-1.66261122, 2.5), (3.57898378, 3.5), (-4.79105705, 4.0)),
            ((1.56138026, 0.329), (-0.381552776, 4 / 6), (0.078537204, 8 / 6), (0.0370315089, 19 / 6)),
            ((-1.89879145, 0.346), (-3.65459262, 5 / 6), (0.850562745, 1.0), (0.363965487, 2.0), (-1.50005943, 3.0), (-2.26690389, 5.0)),
            scaled_vapour=True,
        ),
        SaturationData(
            "water", "Wagner and Pruß, J. Phys. Chem. Ref. Data 22, 783 (1993), eqs. 1, 2 and 3 (IAPWS SR1-86)",
            647.096, 22.064e6, 322.0, 273.16, 18.015268e-3,
            ((-7.85951783, 1.0), (1.84408259, 1.5), (-11.7866497, 3.0), (22.6807411, 3.5), (-15.9618719, 4.0), (1.80122502, 7.5)),
            ((1.99274064, _THIRD), (1.09965342, 2 * _THIRD), (-0.510839303, 5 * _THIRD), (-1.75493479, 16 * _THIRD),
             (-45.5170352, 43 * _THIRD), (-6.7469445e5, 110 * _THIRD)),
            ((-2.0315024, 2 / 6), (-2.6830294, 4 / 6), (-5.38626492, 8 / 6), (-17.2991605, 18 / 6), (-44.7586581, 37 / 6),
             (-63.9201063, 71 / 6)),
            True,
        ),
        SaturationData(
            "argon", "Tegeler, Span and Wagner, J. Phys. Chem. Ref. Data 28, 779 (1999), auxiliary equations",
            150.687, 4.863e6, 535.6, 83.8058, 39.948e-3,
            ((-5.9409785, 1.0), (1.3553888, 1.5), (-0.46497607, 2.0), (-1.5399043, 4.5)),
            ((1.5004264, 0.334), (-0.3138129, 2 / 3), (0.086461622, 7 / 3), (-0.041477525, 4.0)),
            ((-1.70695656, 0.345), (-4.02739448, 5 / 6), (1.55177558, 1.0), (-2.30683228, 13 / 3)),
            scaled_vapour=True,
        ),
        SaturationData(
            "oxygen", "auxiliary equations to Schmidt and Wagner, Fluid Phase Equilib. 19, 175 (1985)",
            154.581, 5.043e6, 436.1436, 54.361, 31.9988e-3,
            ((-6.0595, 1.0), (1.3050, 1.5), (-0.54178, 2.2), (-1.9410, 4.8), (0.35514, 6.2)),
            ((1.6622, 0.345), (0.76846, 0.74), (-0.10041, 1.2), (0.20480, 2.6), (0.011551, 7.2)),
            ((-2.2695, 0.3785), (-4.6578, 1.07), (-9.9480, 2.7), (-22.845, 5.5), (-45.190, 10.0), (-25.101, 20.0)),
            True,
        ),
        SaturationData(
            "isopentane", "Lemmon and Span, J. Chem. Eng. Data 51, 785 (2006), auxiliary equations",
            460.35, 3.378e6, 235.99866, 112.65, 72.14878e-3,
            ((-7.2392, 1.0), (2.2635, 1.5), (-1.8237, 2.02), (-2.9997, 4.24), (-2.7752, 16.1)),
            ((18.367, 1.21), (-30.283, 1.41), (13.557, 1.65), (-0.90533, 0.09), (2.0927, 0.164)),
            ((-38.825, 0.565), (79.040, 0.66), (-48.791, 0.77), (-21.603, 3.25), (-57.218, 7.3), (-151.64, 16.6)),
            True,
        ),
    )
}  # fmt: skip
"""The fluids whose measured saturation is built in, by component name."""
