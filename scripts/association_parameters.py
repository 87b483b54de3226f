"""Make ``eos/cpa_pairs.csv``: pairs of water, alcohols and glycols for cubic plus association.

    .venv/bin/python scripts/association_parameters.py

Each temperature gives the interaction parameter that meets what was measured there; a line with a bend in temperature
goes through them. Where a component takes bonds, their beta was chosen by the other side: what is dissolved in it.
"""

from __future__ import annotations

import csv
import sys
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "benchmarks"))

import published  # noqa: E402
from cryonome.components import Component, find  # noqa: E402
from cryonome.constants import ATM  # noqa: E402
from cryonome.eos import cpa_library  # noqa: E402
from cryonome.eos.aqueous_library import GUIDELINE, henry_constant, water_pressure  # noqa: E402
from cryonome.eos.building import Interaction, equation_of  # noqa: E402
from cryonome.eos.cpa import REACH  # noqa: E402
from cryonome.eos.cpa_library import PairBonds  # noqa: E402
from cryonome.eos.equation import Equation  # noqa: E402
from cryonome.eos.solubilities import GASES, WATER_MOLES, in_water, of_water  # noqa: E402

Array = NDArray[np.float64]
TARGET = ROOT / "src" / "cryonome" / "eos" / "cpa_pairs.csv"
T = np.linspace(278.15, 473.15, 9)
ROOM = 298.15


def tau(T: Array) -> Array:
    return np.asarray(REACH * np.tanh((T - ROOM) / REACH))


def pair(donor: Component, other: Component, k: Array, takes: float, beta: float) -> Equation:
    """Return the equation of ``other`` and ``donor``, in this order, with parameters k (n,)."""
    rows = cpa_library.rows()
    rows[donor.name, other.family if other.kind != "pure" else other.name] = [
        (0.0, PairBonds(0.0, 0.0, 0.0, takes, beta, ""))
    ]
    kij = np.zeros((*np.shape(k), 2, 2))
    kij[..., 0, 1] = kij[..., 1, 0] = k
    return equation_of("CPA", [other, donor], Interaction(kij))


def secant(miss: Callable[[Array], Array], n: int, start: float = 0.0) -> Array:
    """Return where (n,) independent misses vanish, next to ``start``."""
    a, b = np.full(n, start), np.full(n, start + 0.01)
    fa, fb = miss(a), miss(b)
    for _ in range(80):
        with np.errstate(all="ignore"):
            step = fb * (b - a) / (fb - fa)
        step = np.where(np.isfinite(step), np.clip(step, -0.03, 0.03), 0.0)
        a, fa, b = b, fb, b - step
        fb = miss(b)
        if np.abs(step).max() < 1e-9:
            break
    if np.abs(fb).max() < 1e-4:
        return b
    tried = np.linspace(start - 0.9, start + 0.9, 91)
    misses = np.array([miss(np.full(n, k)) for k in tried])
    crosses = (misses[:-1] > 0.0) != (misses[1:] > 0.0)
    if not crosses.any(axis=0).all():
        raise SystemExit(f"no parameter meets it: {misses}")
    first = np.array([min(np.flatnonzero(c), key=lambda k: abs(tried[k] - start)) for c in crosses.T])
    low, high = tried[first], tried[first + 1]
    falls = misses[first, np.arange(n)] > 0.0
    for _ in range(40):
        middle = 0.5 * (low + high)
        above = (miss(middle) > 0.0) == falls
        low, high = np.where(above, middle, low), np.where(above, high, middle)
    return 0.5 * (low + high)


def warmed(T: Array, k: Array, degree: int = 2) -> tuple[float, float, float]:
    """Return k at 298.15 K with its two constants of warming."""
    terms = np.polyfit(tau(T), k, min(degree, T.size - 1))
    c2, c1, k0 = (0.0, 0.0, 0.0, *terms)[-3:]
    return float(k0), float(c1), float(c2)


def dissolved(
    donor: Component, other: Component, T: Array, P: Array, ln_phi: Array, x: float, takes: float, beta: float
) -> Array:
    """Return the parameters at which ``other`` at a mole fraction x in the donor has a fugacity coefficient."""
    z = np.tile([x, 1.0 - x], (T.size, 1))

    def miss(k: Array) -> Array:
        return pair(donor, other, k, takes, beta).prepare(T, P).ln_phi(z, "liquid")[0][:, 0] - ln_phi

    return secant(miss, T.size)


def liquids(eos: Equation, T: Array, P: Array, a: Array, b: Array) -> tuple[Array, Array]:
    """Return mole fractions of the first component in a liquid rich in it and in one poor in it."""
    states = eos.prepare(T, P)
    for _ in range(400):
        rich, poor = (states.ln_phi(np.stack([v, 1.0 - v], axis=1), "liquid")[0] for v in (a, b))
        K = np.exp(poor - rich)
        with np.errstate(invalid="ignore", divide="ignore"):
            new_b = np.clip((1.0 - K[:, 1]) / (K[:, 0] - K[:, 1]), 1e-18, 1.0 - 1e-12)
        new_a = np.clip(K[:, 0] * new_b, 1e-9, 1.0 - 1e-12)
        moved = np.abs(np.log(new_b / b)) + np.abs(np.log((1.0 - new_a) / (1.0 - a)))
        a, b = new_a, new_b
        if moved.max() < 1e-11:
            break
    return a, b


def boiling(parts: Sequence[Component], T: Array) -> Array:
    """Return a pressure under which neither boils, Pa."""
    return np.asarray(1.3 * sum(c.Pc * np.exp(5.373 * (1.0 + c.omega) * (1.0 - c.Tc / T)) for c in parts) + ATM)


def sparing(donor: Component, other: Component, T: Array, x: Array, takes: float, beta: float) -> Array:
    """Return the parameters at which a liquid dissolves to x (n,) in the donor beside itself."""
    P = boiling([donor, other], T)

    def miss(k: Array) -> Array:
        _, poor = liquids(pair(donor, other, k, takes, beta), T, P, np.full(T.size, 0.99), x)
        return np.log(poor / x)

    return secant(miss, T.size)


@dataclass(frozen=True)
class Row:
    """A line of the library."""

    donor: str
    other: str
    molar_mass: float
    k: tuple[float, float, float]
    takes: float
    beta: float
    source: str


GAS_BONDS = {"carbon dioxide": (2.0, 0.08), "hydrogen sulfide": (1.0, 0.25)}
"""Gases that take bonds of water: places, and beta chosen by the water they hold as liquids and dense gases."""
FINITE = {"carbon dioxide": 0.012, "hydrogen sulfide": 0.02}
"""Mole fractions in water in the middle of what they dissolve to, at which Henry's constants are met."""


def gases_in_water() -> list[Row]:
    water, P = find("water"), water_pressure(T)
    out = []
    for name in GUIDELINE:
        if name == "helium":
            # Its acentric factor says nothing of its attraction so far above Tc: no parameter meets it.
            continue
        takes, beta = GAS_BONDS.get(name, (0.0, 0.0))
        wanted = np.log(henry_constant(name, T, P) / P)
        k = dissolved(water, find(name), T, P, wanted, FINITE.get(name, 1e-9), takes, beta)
        source = "fitted to Henry's constants, IAPWS G7-04, 5 to 200 °C"
        out.append(Row("water", name, 0.0, warmed(T, k), takes, beta, source))
    return out


def light_in_water(ethane: Row, heavier: Row) -> list[Row]:
    """Return propane, butanes and light olefins: their solubility at 25 °C, with the warming between ethane's and that of
    a liquid of the family."""
    water, room = find("water"), np.array([ROOM])
    P = water_pressure(room)
    out = []
    for name, milligrams in GASES.items():
        part = find(name)
        x = milligrams * 1e-6 / part.molar_mass / WATER_MOLES
        gas = pair(water, part, np.zeros(1), 0.0, 0.0).prepare(room, [ATM]).ln_phi(np.array([[1.0, 0.0]]), "vapour")[0]
        wanted = gas[:, 0] + np.log(ATM / x / P)
        k = float(dissolved(water, part, room, P, wanted, 1e-9, 0.0, 0.0)[0])
        n = round(part.molar_mass / 0.014)
        way = min(max((n - 2.0) / 3.0, 0.0), 1.0)
        c1, c2 = (ethane.k[i] + way * (heavier.k[i] - ethane.k[i]) for i in (1, 2))
        out.append(
            Row("water", name, 0.0, (k, c1, c2), 0.0, 0.0, "fitted to the solubility at 25 °C, McAuliffe (1966)")
        )
    return out


PROBES: dict[str, tuple[str, ...]] = {
    "n-alkane": ("n-pentane", "n-hexane", "n-heptane", "n-octane", "n-decane", "n-dodecane", "n-hexadecane", "n-eicosane"),
    "naphthene": ("cyclopentane", "cyclohexane", "methylcyclohexane", "ethylcyclohexane", "n-propylcyclohexane"),
    "aromatic": ("benzene", "toluene", "ethylbenzene", "n-propylbenzene"),
    "olefin": ("n-pentane", "n-hexane", "n-octane"),
}  # fmt: skip
"""Hydrocarbons that stand for their families, by size; olefins have the constants of alkanes here."""
ONLY_NAMED = ("isopentane", "2-methylpentane", "methylcyclopentane", "o-xylene", "m-xylene", "p-xylene")


def taking(donor: Component, other: Component, k_of: Callable[[float], Array], T: Array, wanted: Array) -> float:
    """Return the beta at which the donor dissolves in a liquid as measured, on average; k follows beta."""

    def miss(beta: float) -> float:
        P = boiling([donor, other], T)
        rich, _ = liquids(pair(donor, other, k_of(beta), 1.0, beta), T, P, 1.0 - wanted, np.full(T.size, 1e-4))
        return float(np.log((1.0 - rich) / wanted).mean())

    betas = np.geomspace(0.003, 0.3, 12)
    misses = [miss(float(b)) for b in betas]
    return float(np.exp(np.interp(0.0, misses, np.log(betas))))


COLD = np.array([278.15, 298.15, 323.15, 348.15, 373.15])


def hydrocarbons_in_water() -> list[Row]:
    water, out = find("water"), []
    for family, names in (*PROBES.items(), ("", ONLY_NAMED)):
        beta = 0.0
        for name in names:
            part = find(name)
            if family == "olefin":
                part = replace(part, name="olefin", kind="pseudo", family="olefin")
            x = in_water(part, T)
            takes = 1.0 if part.family == "aromatic" else 0.0
            if takes:

                def k_of(beta: float, part: Component = part, x: Array = x) -> Array:
                    terms = warmed(T, sparing(water, part, T, x, 1.0, beta))
                    return np.asarray(terms[0] + terms[1] * tau(COLD) + terms[2] * tau(COLD) ** 2)

                beta = round(taking(water, part, k_of, COLD, of_water(part, COLD)), 4)
            terms = warmed(T, sparing(water, part, T, x, takes, beta if takes else 0.0))
            source = "fitted to mutual solubilities, 5 to 200 °C (eos/solubilities.py)"
            row = Row("water", name, 0.0, terms, takes, beta if takes else 0.0, source)
            if family != "olefin":
                out.append(row)
            if family:
                out.append(replace(row, other=family, molar_mass=1e3 * part.molar_mass))
    return out


METHANOL_LIQUIDS = {"n-hexane": (0.21, 0.26), "n-heptane": (0.105, 0.16), "n-octane": (0.059, 0.13), "n-decane": (0.020, 0.10)}  # fmt: skip
"""Mole fractions at 25 °C: the alkane in methanol, methanol in the alkane; Hradetzky and Lempe, Fluid Phase Equilib. 69,
285 (1991), and Higashiuchi et al., Fluid Phase Equilib. 36, 35 (1987)."""

BOILS: dict[tuple[str, str], tuple[tuple[float, float], ...]] = {
    ("methanol", "water"): ((0.1, 360.85), (0.5, 346.25), (0.9, 339.15)),
    ("ethanol", "water"): ((0.1, 359.65), (0.3965, 353.85), (0.894, 351.3)),
    ("ethylene glycol", "water"): ((0.225, 380.35), (0.537, 397.0)),
    ("methanol", "benzene"): ((0.61, 331.45),), ("methanol", "toluene"): ((0.88, 336.85),),
    ("ethanol", "benzene"): ((0.449, 341.05),), ("ethanol", "toluene"): ((0.81, 349.85),),
    ("ethanol", "n-hexane"): ((0.332, 331.85),), ("ethanol", "n-heptane"): ((0.64, 345.25),),
    ("methanol", "cyclohexane"): ((0.61, 327.35),), ("ethanol", "cyclohexane"): ((0.43, 337.95),),
}  # fmt: skip
"""Mole fraction of the first and boiling point, K, at 1 atm: Perry's Chemical Engineers' Handbook, azeotropes Horsley (1973)."""

ACTIVITIES: dict[tuple[str, str], tuple[tuple[float, float], ...]] = {
    ("diethylene glycol", "water"): ((298.15, 0.70),),
    ("triethylene glycol", "water"): ((298.15, 0.58), (477.0, 0.66)),
}
"""Activity coefficients of the second at infinite dilution in the first, at T K: Herskowitz and Gottlieb, J. Chem. Eng. Data
29, 450 (1984); hot triethylene glycol from what reboilers at 204 °C leave in it, 1.3 wt%."""

SPARING: dict[tuple[str, str], tuple[float, float]] = {
    ("ethylene glycol", "n-hexane"): (2.2e-4, 0.0), ("ethylene glycol", "n-heptane"): (9.0e-5, 0.0),
    ("ethylene glycol", "benzene"): (0.044, 0.03), ("ethylene glycol", "toluene"): (0.0205, 0.03),
    ("diethylene glycol", "n-hexane"): (0.0085, 0.0), ("diethylene glycol", "n-heptane"): (0.006, 0.0),
    ("diethylene glycol", "benzene"): (0.298, 0.03), ("diethylene glycol", "toluene"): (0.165, 0.03),
    ("triethylene glycol", "n-hexane"): (0.026, 0.0), ("triethylene glycol", "n-heptane"): (0.020, 0.0),
    ("triethylene glycol", "toluene"): (0.288, 0.03),
}  # fmt: skip
"""Mole fraction that the second dissolves to in the first at 25 °C, and the beta of its bonds: alkanes in ethylene glycol
Derawi et al., J. Chem. Eng. Data 47, 169 (2002), in the others from activity coefficients at infinite dilution; aromatics
from solubilities that makers of glycols state."""

GAS_PRESSURES: dict[str, dict[str, float]] = {
    "ethylene glycol": {"methane": 1.9e9, "ethane": 5.5e8, "propane": 3.0e8, "nitrogen": 3.9e9, "carbon dioxide": 4.6e7,
                        "hydrogen sulfide": 5.0e6},
    "triethylene glycol": {"methane": 1.3e8, "ethane": 3.3e7, "propane": 1.3e7, "nitrogen": 3.0e8, "carbon dioxide": 8.4e6,
                           "hydrogen sulfide": 1.5e6},
}  # fmt: skip
"""Henry's constants at 25 °C, Pa, to some 20 %: Jou et al., Can. J. Chem. Eng. 65, 140 (1987) and 72, 130 (1994); methane in
triethylene glycol from a standard cubic foot in a gallon at 900 psia and 100 °F."""


def bubble_pressure(eos: Equation, x: float, T: float) -> float:
    """Return the bubble pressure, Pa, of a pair with x of the second of its components, at low pressure."""
    P, y, z = ATM, np.array([[0.5, 0.5]]), np.array([[1.0 - x, x]])
    for _ in range(300):
        states = eos.prepare([T], [P])
        K = np.exp(states.ln_phi(z, "liquid")[0] - states.ln_phi(y, "vapour")[0])
        total = float((z * K).sum())
        y, P = z * K / total, P * total
        if abs(total - 1.0) < 1e-11:
            break
    return P


def boiling_pairs() -> list[Row]:
    out = []
    for (one, other), points in BOILS.items():

        def miss(
            k: Array, one: str = one, other: str = other, points: tuple[tuple[float, float], ...] = points
        ) -> Array:
            eos = pair(find(one), find(other), np.array(float(k[0])), 0.0, 0.0)
            return np.array([np.mean([np.log(bubble_pressure(eos, x, T) / ATM) for x, T in points])])

        k = float(secant(miss, 1, -0.05 if other == "water" else 0.02)[0])
        out.append(Row(one, other, 0.0, (k, 0.0, 0.0), 0.0, 0.0, "fitted to boiling points at 1 atm"))
    return out


def from_activities() -> list[Row]:
    out = []
    for (one, other), points in ACTIVITIES.items():
        at = np.array([t for t, _ in points])
        P = np.full(at.size, 2.0 * ATM) + water_pressure(at)
        alone = pair(find(one), find(other), np.zeros(1), 0.0, 0.0).prepare(at, P)
        wanted = alone.ln_phi(np.tile([1.0, 0.0], (at.size, 1)), "liquid")[0][:, 0] + np.log([g for _, g in points])
        k = dissolved(find(one), find(other), at, P, wanted, 1e-9, 0.0, 0.0)
        out.append(
            Row(one, other, 0.0, warmed(at, k, 1), 0.0, 0.0, "fitted to activities of water at infinite dilution")
        )
    return out


def both_sides() -> list[Row]:
    """Return methanol with alkanes: what misses both liquids least, in logarithms."""
    one, out = find("methanol"), []
    for name, (x, y) in METHANOL_LIQUIDS.items():
        part, tried = find(name), np.linspace(-0.06, 0.03, 91)
        at = np.full(tried.size, ROOM)
        rich, poor = liquids(
            pair(one, part, tried, 0.0, 0.0),
            at,
            boiling([one, part], at),
            np.full(at.size, 0.95),
            np.full(at.size, 0.03),
        )
        off = np.log(poor / x) ** 2 + np.log((1.0 - rich) / y) ** 2
        k = float(tried[np.argmin(np.where(rich - poor > 0.05, off, np.inf))])
        out.append(
            Row("methanol", name, 1e3 * part.molar_mass, (k, 0.0, 0.0), 0.0, 0.0, "fitted to both liquids at 25 °C")
        )
    return out


def sparing_pairs() -> list[Row]:
    room, out = np.array([ROOM]), []
    for (one, other), (x, beta) in SPARING.items():
        part = find(other)
        k = float(sparing(find(one), part, room, np.array([x]), 1.0, beta)[0])
        out.append(
            Row(
                one,
                other,
                1e3 * part.molar_mass,
                (k, 0.0, 0.0),
                1.0 if beta else 0.0,
                beta,
                "fitted to the solubility at 25 °C",
            )
        )
    return out


def gases_elsewhere() -> list[Row]:
    """Return gases in alcohols and glycols at 25 °C."""
    room, P, out = np.array([ROOM]), np.array([ATM]), []
    wanted = {(d, g): 1e-4 * v for (g, d), v in published.SOLUBILITIES.items() if d in ("methanol", "ethanol")}
    pressures = {d: dict(v) for d, v in GAS_PRESSURES.items()}
    pressures["diethylene glycol"] = {
        g: float(np.sqrt(v * pressures["triethylene glycol"][g])) for g, v in pressures["ethylene glycol"].items()
    }
    for donor, gases in pressures.items():
        wanted |= {(donor, g): ATM / h for g, h in gases.items()}
    for (one, other), x in wanted.items():
        donor, part = find(one), find(other)
        gas = (
            pair(donor, part, np.zeros(1), 0.0, 0.0).prepare(room, P).ln_phi(np.array([[1.0, 0.0]]), "vapour")[0][:, 0]
        )
        k = float(dissolved(donor, part, room, P, gas - np.log(x), 1e-9, 0.0, 0.0)[0])
        out.append(Row(one, other, 0.0, (k, 0.0, 0.0), 0.0, 0.0, "fitted to the solubility at 25 °C"))
    return out


def families(rows: list[Row]) -> list[Row]:
    """Return rows of families for donors but water, from those of their members: by a line in the molar mass where more
    than two tell of it, else their mean."""
    out = []
    for donor in dict.fromkeys(r.donor for r in rows):
        for family, members in list(PROBES.items())[:3]:
            own = [r for r in rows if r.donor == donor and r.other in members]
            if not own:
                continue
            mass = [1e3 * find(r.other).molar_mass for r in own]
            k = [r.k[0] for r in own]
            trend = len(set(mass)) > 1 and (len(own) > 2 or "glycol" in donor)
            line = np.polyfit(mass, k, 1) if trend else np.array([0.0, np.mean(k)])
            for m in (30.07, 142.28) if family == "n-alkane" else (min(mass), max(mass) + 28.0):
                source = "after its members"
                out.append(
                    Row(donor, family, m, (float(np.polyval(line, m)), 0.0, 0.0), own[0].takes, own[0].beta, source)
                )
    return out


def aside() -> list[Row]:
    """Return pairs that nothing was measured of here, and pairs that follow others."""
    names = ("methanol", "ethanol", "ethylene glycol", "diethylene glycol", "triethylene glycol")
    return [
        Row(a, b, 0.0, (0.0, 0.0, 0.0), 0.0, 0.0, "not measured, taken as zero")
        for i, a in enumerate(names)
        for b in names[i + 1 :]
    ]


def main() -> None:
    TARGET.write_text("donor,other,molar_mass,k,c1,c2,takes,beta,source\n", encoding="utf-8")
    gases, liquids_ = gases_in_water(), hydrocarbons_in_water()
    by = {r.other: r for r in gases + liquids_ if not r.molar_mass}
    light = light_in_water(by["ethane"], by["n-pentane"])
    others = [*boiling_pairs(), *from_activities(), *both_sides(), *sparing_pairs(), *gases_elsewhere()]
    rows = [*gases, *light, *liquids_, *others, *families(others), *aside()]
    with TARGET.open("w", encoding="utf-8", newline="") as out:
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(["donor", "other", "molar_mass", "k", "c1", "c2", "takes", "beta", "source"])
        for r in rows:
            mass = f"{r.molar_mass:.3f}" if r.molar_mass and r.other in PROBES else ""
            bonds = (f"{r.takes:g}", f"{r.beta:g}") if r.takes else ("", "")
            k, c1, c2 = r.k
            writer.writerow(
                (
                    r.donor,
                    r.other,
                    mass,
                    f"{k:.5f}",
                    f"{c1:.4e}" if c1 else "",
                    f"{c2:.4e}" if c2 else "",
                    *bonds,
                    r.source,
                )
            )


if __name__ == "__main__":
    main()
