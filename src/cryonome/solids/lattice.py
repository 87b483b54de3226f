"""Gas hydrates as a solid solution of gas in cages of water: van der Waals and Platteeuw, Adv. Chem. Phys. 2, 1 (1959).

The lattice of structure s is stable where its gas lowers the chemical potential of water below that of the water
beside it,

    sum_k nu_k ln(1 + sum_i C_ki f_i) >= (mu_empty - mu_water)/(R T),   C = A/T exp(B/T)

with f_i the fugacities of the gas. Potentials and enthalpies of the empty lattice against ice, and the form of C, are
those of Munck, Skjold-Jørgensen and Rasmussen, Chem. Eng. Sci. 43, 2661 (1988); heat capacities against liquid water
those of Parrish and Prausnitz, Ind. Eng. Chem. Process Des. Dev. 11, 26 (1972), and volumes of the lattices those of
Klauda and Sandler, Ind. Eng. Chem. Res. 39, 3377 (2000). Munck's A and B go with constant volumes and with the
fugacities of another equation; ``langmuir.csv`` has them moved to measured points (``scripts/hydrate_parameters.py``)
by two numbers a former. Valid from 233 to 325 K, to some 70 MPa.

Structure H needs a gas for its small and medium cages and a large molecule for its large one. Potential, enthalpy and
volume of its lattice are those of Mehta and Sloan, AIChE J. 42, 2036 (1996); a gas has in the small and medium cages
the constants of the small cage of the structure that it forms alone, the same dodecahedron, and the constants of
large molecules are those that meet their three-phase points with methane. Its edge is that of the cube of as large a
cell, widening with temperature as that of structure I."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray

from ..constants import ATM, R
from .water import FUSION, ICE_POINT, ice_work, water_over_ice, water_work

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

SIZES = ("small", "medium", "large")
CP, CP_SLOPE = -38.12, 0.141
"""Heat capacity of the empty lattice less that of liquid water, J/(mol K), and its slope per K; Parrish and Prausnitz
(1972), table 2."""
AVOGADRO = 6.02214076e23


@dataclass(frozen=True)
class Structure:
    """A lattice: small, medium and large cages per molecule of water, ``mu`` and ``enthalpy`` J/mol of the empty
    lattice less those of ice at 273.15 K, the coefficients of its edge in 1e-10 m by powers of T, and the molecules
    of water in its unit cell."""

    name: str
    cages: tuple[float, float, float]
    mu: float
    enthalpy: float
    edge: tuple[float, ...]
    cell: int

    def work(self, T: Array, P: Array) -> Array:
        """Return the integral of the lattice's volume per mole of water from nothing to P Pa, J/mol; Klauda and
        Sandler (2000), eqs. 20, 21."""
        edge = np.polynomial.polynomial.polyval(T, self.edge) * 1e-10
        p = P * 1e-6
        return np.asarray(P * (edge**3 * AVOGADRO / self.cell - 4.003e-9 * p + 1.816e-12 * p * p))

    def above_ice(self, T: Array, P: Array) -> Array:
        """Return (mu_empty - mu_ice)/(R T) at T K and P Pa."""
        heat = self.enthalpy * (1.0 / ICE_POINT - 1.0 / T)
        return np.asarray(self.mu / (R * ICE_POINT) - heat / R + (self.work(T, P) - ice_work(T, P)) / (R * T))

    def above_water(self, T: Array, P: Array) -> Array:
        """Return (mu_empty - mu_water)/(R T) of pure liquid water at T K and P Pa, supercooled below the ice point."""
        flat = CP - CP_SLOPE * ICE_POINT
        first = self.enthalpy - FUSION - (flat + 0.5 * CP_SLOPE * ICE_POINT) * ICE_POINT
        heat = first * (1.0 / ICE_POINT - 1.0 / T) + flat * np.log(T / ICE_POINT) + 0.5 * CP_SLOPE * (T - ICE_POINT)
        warm = self.mu / (R * ICE_POINT) - heat / R + (self.work(T, P) - water_work(T, P)) / (R * T)
        return np.where(T < ICE_POINT, self.above_ice(T, P) - water_over_ice(T, P), warm)


STRUCTURES = (
    Structure("I", (1 / 23, 0.0, 3 / 23), 1264.0, 1151.0, (11.835, 2.217e-5, 2.242e-6), 46),
    Structure("II", (2 / 17, 0.0, 1 / 17), 883.0, 808.0, (17.13, 2.249e-4, 2.013e-6, 1.009e-9), 136),
    Structure("H", (3 / 34, 2 / 34, 1 / 34), 1187.33, 846.57, (10.822, 2.0272e-5, 2.0501e-6), 34),
)


@cache
def _constants() -> dict[str, tuple[tuple[tuple[float, float], ...], ...]]:
    """Return (A K/Pa, B K) by former, structure and size."""
    table: dict[str, dict[tuple[str, str], tuple[float, float]]] = {}
    with files(__package__).joinpath("langmuir.csv").open(encoding="utf-8") as file:
        for row in csv.DictReader(file):
            place = row["structure"], row["cage"]
            table.setdefault(row["former"], {})[place] = float(row["A_mK_per_atm"]) * 1e-3 / ATM, float(row["B_K"])
    none = (0.0, 0.0)
    return {n: tuple(tuple(t.get((s.name, k), none) for k in SIZES) for s in STRUCTURES) for n, t in table.items()}


def formers() -> tuple[str, ...]:
    """Return the databank names of what enters a cage of any structure."""
    return tuple(_constants())


def langmuir(structure: int, T: Array, names: Sequence[str]) -> Array:
    """Return the constants C, 1/Pa (N, 3, nf), of formers at T (N,) K; 0 where one does not enter."""
    rows = np.array([_constants()[n][structure] for n in names]).reshape(-1, len(SIZES), 2)
    A, B = rows[:, :, 0].T, rows[:, :, 1].T
    t = np.asarray(T)[:, None, None]
    return np.asarray(A / t * np.exp(B / t))


def occupancy(structure: int, T: Array, f: Array, names: Sequence[str]) -> Array:
    """Return the share of the cages of each size that each former fills, (N, 3, nf), at fugacities ``f`` (N, nf) Pa."""
    filled = langmuir(structure, T, names) * f[:, None, :]
    return np.asarray(filled / (1.0 + filled.sum(axis=-1, keepdims=True)))


def lowering(structure: int, T: Array, f: Array, names: Sequence[str]) -> Array:
    """Return by how much the gas lowers the potential of the lattice's water, (mu_empty - mu_hydrate)/(R T), (N,).

    Nothing where no former enters the large cages: a lattice with all of them empty does not stand.
    """
    constants = langmuir(structure, T, names)
    if not constants[:, -1].any():
        return np.zeros(len(f))
    filled = np.einsum("nkf,nf->nk", constants, f)
    return np.asarray(np.log1p(filled) @ np.array(STRUCTURES[structure].cages))


def hydration_number(structure: int, occupied: Array) -> Array:
    """Return molecules of water per molecule of gas, (N,), at occupancies (N, 3, nf)."""
    with np.errstate(divide="ignore"):
        return np.asarray(1.0 / (occupied.sum(axis=-1) @ np.array(STRUCTURES[structure].cages)))
