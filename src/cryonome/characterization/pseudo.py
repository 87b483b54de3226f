"""A hand-made pseudo-component from whatever is known of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import ATM, TYPICAL_WATSON_K, R
from ..errors import DomainError
from .correlations import DEFAULTS, REGISTRY, Fraction, estimate

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Known:
    """What is given of a pseudo-component, SI (kg/mol, K, Pa, m3/mol); None where unknown."""

    name: str
    molar_mass: float | None = None
    Tc: float | None = None
    Pc: float | None = None
    omega: float | None = None
    Vc: float | None = None
    nbp: float | None = None
    specific_gravity: float | None = None
    key: str = ""
    pc_saft: tuple[float, float, float] | None = None


def complete(known: Known) -> Component:
    """Return the component with everything missing estimated and told in ``estimates``.

    Wanted is a boiling point, a specific gravity or a molar mass, or Tc, Pc and omega. Raises DomainError otherwise.
    """
    said: list[str] = []
    nbp = _boiling_point(known, said)
    sg = known.specific_gravity
    if sg is None:
        sg = float(np.cbrt(1.8 * nbp) / TYPICAL_WATSON_K)
        said.append(f"specific gravity {sg:.4f} from the boiling point with an assumed Watson K of {TYPICAL_WATSON_K}")
    names = ("molar_mass", "Tc", "Pc", "Vc", "omega")
    given = {n: np.array([getattr(known, n)]) for n in names if getattr(known, n) is not None}
    with np.errstate(all="ignore"):
        found = estimate(np.array([nbp]), np.array([sg]), None, given)
    values = {n: float(found.values[n][0]) for n in names}
    used = dict(found.used)
    if not (np.isfinite(values["Vc"]) and values["Vc"] > 0.0):
        used.pop("Vc", None)
        values["Vc"] = _critical_volume(values["Tc"], values["Pc"], values["omega"])
        said.append(
            f"Vc {1e6 * values['Vc']:.4g} cm³/mol from Tc, Pc and omega (Zc = 0.2901 − 0.0879 omega, Reid et al.)"
        )
    lacking = [n for n in names if not np.isfinite(values[n])]
    if lacking:
        told = " and ".join(n.replace("_", " ") for n in lacking)
        raise DomainError(f"{known.name}: {told} cannot be estimated from what is given; give it")
    units = {
        "molar_mass": (1e3, "g/mol"),
        "Tc": (1.0, "K"),
        "Pc": (1e-5, "bar"),
        "Vc": (1e6, "cm³/mol"),
        "omega": (1.0, ""),
    }
    for name, entry in used.items():
        if name == "cp":
            said.append(f"ideal-gas heat capacity by {entry.title}")
        elif name in units:
            factor, unit = units[name]
            outside = ", outside its range" if found.outside[name][0] else ""
            said.append(
                f"{name.replace('_', ' ')} {values[name] * factor:.4g} {unit} by {entry.title}{outside}".replace(
                    "  ", " "
                )
            )
    if values["Tc"] <= nbp:
        raise DomainError(
            f"{known.name}: the critical temperature {values['Tc']:.1f} K must lie above the boiling point {nbp:.1f} K"
        )
    return Component(
        name=known.name,
        kind="pseudo",
        molar_mass=values["molar_mass"],
        Tc=values["Tc"],
        Pc=values["Pc"],
        Vc=values["Vc"],
        omega=values["omega"],
        nbp=nbp,
        specific_gravity=sg,
        cp=tuple(float(c) for c in found.values["cp"][0]),
        parachor=max(float(found.values["parachor"][0]), 0.0),
        estimates=tuple(said),
        # An estimated one follows the equation of the fluid, as those of cuts do.
        omega_matched="omega" in found.used and found.used["omega"].key == "boiling-point",
        key=known.key,
        pc_saft=known.pc_saft,
    )


def _critical_volume(Tc: float, Pc: float, omega: float) -> float:
    """Return the critical volume, m3/mol, from Zc = 0.2901 - 0.0879 omega (Reid, Prausnitz and Poling, The Properties
    of Gases and Liquids, 4th ed. (1987), sect. 2-3), where no correlation of petroleum fractions reaches: of light
    gases."""
    return (0.2901 - 0.0879 * omega) * R * Tc / Pc


def _boiling_point(known: Known, said: list[str]) -> float:
    from scipy.optimize import brentq

    if known.nbp is not None:
        return known.nbp
    if known.Tc is not None and known.Pc is not None and known.omega is not None:
        nbp = known.Tc / (1.0 + 3.0 / 7.0 * np.log10(known.Pc / ATM) / (known.omega + 1.0))
        said.append(f"boiling point {nbp:.1f} K from Tc, Pc and omega by Edmister's equation")
        return float(nbp)
    if known.molar_mass is not None:
        entry = REGISTRY["molar_mass"][DEFAULTS["molar_mass"]]
        target = known.molar_mass

        def miss(nbp: float) -> float:
            sg = known.specific_gravity or float(np.cbrt(1.8 * nbp) / TYPICAL_WATSON_K)
            return float(entry.function(Fraction(np.array([nbp]), np.array([sg])))[0]) - target

        if miss(200.0) > 0.0 or miss(1250.0) < 0.0:
            raise DomainError(
                f"{known.name}: no boiling point between 200 and 1250 K fits a molar mass of {target * 1e3:.4g} g/mol"
            )
        nbp = float(brentq(miss, 200.0, 1250.0, xtol=1e-10))
        said.append(f"boiling point {nbp:.1f} K from the molar mass by {entry.title}")
        return nbp
    if known.specific_gravity is not None:
        nbp = float((known.specific_gravity * TYPICAL_WATSON_K) ** 3 / 1.8)
        said.append(
            f"boiling point {nbp:.1f} K from the specific gravity with an assumed Watson K of {TYPICAL_WATSON_K}"
        )
        return nbp
    raise DomainError(
        f"{known.name}: give a normal boiling point, a specific gravity or a molar mass, or Tc, Pc and omega together"
    )
