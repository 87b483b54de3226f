"""What is given to water so that neither hydrate nor ice forms: alcohols, glycols and chlorides, and how far their
activities hold."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from importlib.resources import files

__all__ = ["INHIBITORS", "SALTS", "Organic", "Salt", "found", "most"]


@dataclass(frozen=True)
class Organic:
    """An alcohol or glycol by its databank name: kg/mol, the coefficients of :mod:`cryonome.solids.activity`, and the
    largest mass fraction they hold for."""

    molar_mass: float
    a: tuple[float, ...]
    b: tuple[float, ...]
    most: float


@dataclass(frozen=True)
class Salt:
    """A chloride: kg/mol, charge of the cation, Pitzer's beta0, beta1 and C_phi as coefficients of 1, 1/T - 1/Tr,
    ln(T/Tr), T - Tr and T^2 - Tr^2 (Tr = 298.15 K), and the largest mass fraction."""

    molar_mass: float
    charge: int
    beta0: tuple[float, ...]
    beta1: tuple[float, ...]
    c_phi: tuple[float, ...]
    most: float


SALTS: dict[str, Salt] = {
    "NaCl": Salt(
        58.443e-3, 1, (0.0765, -777.03, -4.4706, 0.008946, -3.3158e-6), (0.2664, 0.0, 0.0, 6.1608e-5, 1.0715e-6),
        (0.00127, 33.317, 0.09421, -4.655e-5, 0.0), 0.263,
    ),
    "KCl": Salt(
        74.551e-3, 1, (0.04835, 0.0, 0.0, 5.794e-4, 0.0), (0.2122, 0.0, 0.0, 1.071e-3, 0.0), (-0.00084, 0.0, 0.0, -5.095e-5, 0.0), 0.219
    ),
    "CaCl2": Salt(
        110.98e-3, 2, (0.3159, 0.0, 0.0, -1.725e-4, 0.0), (1.614, 0.0, 0.0, 3.9e-3, 0.0), (-0.00034, 0.0, 0.0, 0.0, 0.0), 0.25
    ),
}  # fmt: skip
"""NaCl: Silvester and Pitzer (1977), table I; the others: Pitzer and Mayorga, J. Phys. Chem. 77, 2300 (1973), with
the slopes of Silvester and Pitzer (1978). NaCl and KCl up to what saturates water at 273 K; CaCl2 up to some 2.5
mol/kg, short of that."""


def _organics() -> dict[str, Organic]:
    with files(__package__).joinpath("inhibitors.csv").open(encoding="utf-8") as file:
        return {
            row["name"]: Organic(
                float(row["molar_mass_g_mol"]) * 1e-3,
                tuple(float(row[k]) for k in ("a0", "a1", "a2")),
                tuple(float(row[k]) for k in ("b0", "b1", "b2")),
                float(row["most_mass_fraction"]),
            )
            for row in csv.DictReader(file)
        }


INHIBITORS: dict[str, Organic] = _organics()

NAMES = {
    "sodium chloride": "NaCl",
    "potassium chloride": "KCl",
    "calcium chloride": "CaCl2",
    "salt": "NaCl",
    "meg": "ethylene glycol",
}
"""Other names of the salts; those of the others stand in the databank."""


def found(name: str) -> str | None:
    """Return the own name of a salt or of an inhibitor by its databank name, None where there is none."""
    plain = name.strip()
    folded = {n.casefold(): n for n in (*INHIBITORS, *SALTS)}
    return folded.get(plain.casefold()) or NAMES.get(plain.casefold())


def most(name: str) -> float:
    """Return the largest mass fraction of the aqueous liquid that the activity model holds for."""
    return SALTS[name].most if name in SALTS else INHIBITORS[name].most
