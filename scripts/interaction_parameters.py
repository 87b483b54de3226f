"""Make what of ``eos/kij.csv`` is fitted here, and ``eos/kij_heavy.csv``.

    .venv/bin/python scripts/interaction_parameters.py

Rows that say so are brought to the solubility of a gas at 298.15 K and 1 atm, with each equation's own alpha function; those of hydrogen and helium
besides with the fitted one (columns ``PR_fitted`` and ``RK_fitted``). Groups take the mean of their members. ``kij_heavy.csv`` holds the gases with heavy ends by
molar mass: chosen for Peng and Robinson's equation from the sources it names (``docs/interaction.md``), and brought to Soave's so that
the same mixture boils at the same pressure.
"""

from __future__ import annotations

import csv
import sys
from pathlib import Path

import numpy as np
from scipy.optimize import brentq

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "benchmarks"))

from association_parameters import (  # noqa: E402
    BOILS,
    GAS_PRESSURES,
    METHANOL_LIQUIDS,
    SPARING,
    boiling,
    bubble_pressure,
    liquids,
)

import published  # noqa: E402
from cryonome.components import Component, find  # noqa: E402
from cryonome.constants import ATM, T_REF  # noqa: E402
from cryonome.eos.alpha_library import QUANTUM  # noqa: E402
from cryonome.eos.building import Interaction, equation_of  # noqa: E402
from cryonome.eos.equation import Equation  # noqa: E402
from cryonome.eos.solubilities import of_water  # noqa: E402
from cryonome.equilibrium.saturation import saturation  # noqa: E402

EOS = ROOT / "src" / "cryonome" / "eos"
FORMS = {"PR": "PR78", "RK": "SRK"}

HEAVY: dict[str, tuple[tuple[str, float, float], ...]] = {
    "nitrogen": (("n-hexane", 0.130, -4.0e-4), ("n-heptane", 0.125, -4.0e-4), ("n-decane", 0.115, -4.0e-4), ("n-dodecane", 0.115, -4.0e-4),
                 ("n-hexadecane", 0.135, -3.8e-4), ("n-eicosane", 0.160, -3.6e-4), ("n-tetracosane", 0.180, -3.4e-4)),
    "hydrogen sulfide": (("n-hexane", 0.050, 0.0), ("n-heptane", 0.045, 0.0), ("n-decane", 0.0333, 0.0), ("n-dodecane", 0.020, 0.0),
                         ("n-hexadecane", 0.0, 0.0)),
    "carbon dioxide": (("n-hexane", 0.115, 0.0), ("n-decane", 0.1141, 0.0), ("n-dodecane", 0.105, 0.0), ("n-hexadecane", 0.095, 0.0)),
}  # fmt: skip
"""By gas: an n-alkane, k of Peng and Robinson's equation at :data:`MIDDLE`, and its slope, 1/K."""
MIDDLE = 360.0
"""K, in the middle of the measurements."""

RINGS: dict[tuple[str, str], tuple[str, float]] = {
    ("nitrogen", "benzene"): ("benzene", 0.1641), ("nitrogen", "aromatic"): ("toluene", 0.1640), ("nitrogen", "naphthene"): ("cyclohexane", 0.1450),
    ("carbon dioxide", "aromatic"): ("toluene", 0.0900), ("hydrogen sulfide", "aromatic"): ("toluene", 0.0050),
    ("hydrogen sulfide", "naphthene"): ("methylcyclohexane", 0.0450),
}  # fmt: skip
"""Pairs chosen for Peng and Robinson's equation, by a solvent that stands for them, and brought to Soave's at 340 K."""

QUANTUM_PAIRS = {
    "methane": 150.0, "nitrogen": 90.0, "carbon monoxide": 95.0, "carbon dioxide": 270.0, "ethane": 250.0, "propane": 298.15, "hydrocarbon": 298.15,
}  # fmt: skip
"""Temperatures, K, at which pairs of hydrogen and helium that were chosen with the fitted alpha attract as much with the equation's own."""


def infinitely_dilute(gas: Component, solvent: Component, form: str, k: float, alpha: str) -> float:
    """Return the solubility, mole fraction, of a gas at 298.15 K and 1 atm of it."""
    eos = equation_of(form, [gas, solvent], Interaction(np.array([[0.0, k], [k, 0.0]])), alpha)
    at = eos.prepare([298.15], [ATM])
    dissolved = at.ln_phi(np.array([[1e-9, 1 - 1e-9]]), "liquid")[0][0, 0]
    pure = at.ln_phi(np.array([[1 - 1e-9, 1e-9]]), "vapour")[0][0, 0]
    return float(np.exp(pure - dissolved))


def fitted(gas: str, solvent: str, form: str, alpha: str) -> str:
    """Return the parameter that meets the measured solubility, "" where none does."""
    wanted = 1e-4 * published.SOLUBILITIES[gas, solvent]
    one, other = find(gas), find(solvent)

    def off(k: float) -> float:
        return float(np.log(infinitely_dilute(one, other, form, k, alpha) / wanted))

    try:
        return f"{brentq(off, -2.0, 1.5):.4f}"
    except ValueError:
        return ""


def bubble(gas: str, alkane: str, form: str, k: float, T: float) -> float:
    """Return the bubble pressure, Pa, of a fifth of gas in an alkane."""
    eos = equation_of(form, [find(gas), find(alkane)], Interaction(np.array([[0.0, k], [k, 0.0]])))
    return float(saturation(eos, np.array([T]), np.array([[0.2, 0.8]])).P[0])


def as_boiling(gas: str, alkane: str, k: float, T: float) -> float:
    """Return the parameter of Soave's equation that gives the bubble pressure of Peng and Robinson's."""
    wanted = bubble(gas, alkane, "PR78", k, T)
    return float(brentq(lambda v: bubble(gas, alkane, "SRK", v, T) / wanted - 1.0, k - 0.15, k + 0.15, xtol=1e-6))


def own_alpha(gas: str, form: str, k: float, T: float) -> float:
    """Return the parameter with which the equation's own alpha attracts as the fitted one with ``k`` at T K."""
    one = [find(gas)]
    root = [
        equation_of(form, one, Interaction(np.zeros((1, 1))), a).alpha.root(np.array([[T / one[0].Tc]]))[0][0, 0]
        for a in ("own", "smooth")
    ]  # type: ignore[attr-defined]
    return float(1.0 - (1.0 - k) * root[1] / root[0])


def library() -> None:
    """Bring the rows of solubilities to the alpha functions of today."""
    path = EOS / "kij.csv"
    rows = list(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))
    members: dict[tuple[str, str, str], list[float]] = {}
    for row in rows:
        gas, solvent = row["one"], row["other"]
        if "Wilhelm" not in row["source"] or "group" in row["source"] or not row["PR"]:
            continue
        for family, form in FORMS.items():
            row[family] = fitted(gas, solvent, form, "own")
            if gas in QUANTUM:
                row[f"{family}_fitted"] = fitted(gas, solvent, form, "smooth")
            for column in (family, f"{family}_fitted"):
                if row.get(column):
                    members.setdefault((gas, find(solvent).family, column), []).append(float(row[column]))
    for row in rows:
        pair = row["one"], row["other"]
        if pair in RINGS:
            solvent, k = RINGS[pair]
            row["PR"], row["RK"] = f"{k:.4f}", f"{as_boiling(row['one'], solvent, k, 340.0):.4f}"
        if (
            row["one"] in QUANTUM
            and row["other"] in QUANTUM_PAIRS
            and row["PR_fitted"]
            and pair != ("hydrogen", "hydrocarbon")
        ):
            for family, form in FORMS.items():
                row[family] = (
                    f"{own_alpha(row['one'], form, float(row[f'{family}_fitted']), QUANTUM_PAIRS[row['other']]):.4f}"
                )
    for row in rows:
        if "group" in row["source"] and "Wilhelm" in row["source"]:
            family = {"hydrocarbon": "n-alkane"}.get(row["other"], row["other"])
            for column in ("PR", "RK", "PR_fitted", "RK_fitted"):
                found = members.get((row["one"], family, column))
                if found:
                    row[column] = f"{np.mean(found):.4f}"
    names = ("one", "other", "PR", "RK", "SAFT", "PR_slope", "RK_slope", "PR_fitted", "RK_fitted", "source")
    with path.open("w", newline="", encoding="utf-8") as file:
        out = csv.DictWriter(file, names, lineterminator="\n")
        out.writeheader()
        out.writerows({n: row.get(n) or "" for n in names} for row in rows)


def heavy_ends() -> None:
    """Write the gases with heavy ends by molar mass."""
    with (EOS / "kij_heavy.csv").open("w", newline="", encoding="utf-8") as file:
        out = csv.writer(file, lineterminator="\n")
        out.writerow(["gas", "molar_mass", "PR", "PR_slope", "RK", "RK_slope"])
        for gas, points in HEAVY.items():
            for alkane, middle, slope in points:
                T = np.array([310.0, MIDDLE, 410.0])
                own = middle + slope * (T - MIDDLE)
                other = np.polyfit(T - T_REF, [as_boiling(gas, alkane, k, t) for k, t in zip(own, T)], 1)
                room = middle + slope * (T_REF - MIDDLE)
                mass = 1e3 * find(alkane).molar_mass
                out.writerow([gas, f"{mass:.2f}", f"{room:.4f}", f"{slope:.2e}", f"{other[1]:.4f}", f"{other[0]:.2e}"])


def held_water(oil: Component, form: str) -> tuple[float, float]:
    """Return the parameter at 298.15 K of water and a hydrocarbon in its own liquid, and its slope, 1/K, that hold as
    much water as measured from 5 to 100 °C."""
    T = np.array([278.15, 298.15, 323.15, 348.15, 373.15])
    x, water = of_water(oil, T), find("water")
    P = boiling([oil, water], T)
    k = []
    for t, p, w in zip(T, P, x):

        def miss(k: float, t: float = t, p: float = p, w: float = w) -> float:
            eos = equation_of(form, [oil, water], Interaction(np.array([[0.0, k], [k, 0.0]]), salt=0.0))
            z = np.array([[1.0 - w, w], [0.0, 1.0]])
            ln_phi = eos.prepare([t, t], [p, p]).ln_phi(z, "liquid")[0][:, 1]
            return float(ln_phi[0] + np.log(w) - ln_phi[1])

        k.append(brentq(miss, -0.5, 1.2))
    slope, k0 = np.polyfit(T - T_REF, k, 1)
    return float(k0), float(slope)


def of_pair(form: str, one: str, other: str, k: object) -> Equation:
    """Return the equation of two components with parameters k (n,)."""
    kij = np.zeros((*np.shape(k), 2, 2))
    kij[..., 0, 1] = kij[..., 1, 0] = k
    return equation_of(form, [find(one), find(other)], Interaction(kij))


def dissolving(form: str, donor: str, other: str, x: float, y: float | None = None) -> float:
    """Return the parameter at which ``other`` dissolves to x in the donor at 25 °C; with y, of the donor in it, what
    misses both the least, that one weighed four times: losses of an inhibitor count most."""
    k = np.linspace(-0.15, 0.35, 501)
    T = np.full(k.size, T_REF)
    P = np.full(k.size, 5e5)
    rich, poor = liquids(of_pair(form, other, donor, k), T, P, np.full(k.size, 0.95), np.full(k.size, min(x, 0.05)))
    off = np.log(poor / x) ** 2 + (0.0 if y is None else 16.0 * np.log((1.0 - rich) / y) ** 2)
    return float(k[np.argmin(np.where(rich - poor > 0.05, off, np.inf))])


def with_activity(form: str, solvent: str, other: str, gamma: float) -> float:
    """Return the parameter that gives an activity coefficient at infinite dilution at 25 °C."""

    def miss(k: float) -> float:
        at = of_pair(form, other, solvent, np.array(k)).prepare([T_REF, T_REF], [ATM, ATM])
        dilute, alone = at.ln_phi(np.array([[1e-9, 1.0 - 1e-9], [1.0 - 1e-9, 1e-9]]), "liquid")[0][:, 0]
        return float(dilute - alone - np.log(gamma))

    return float(brentq(miss, -0.3, 0.4))


def boils_with(form: str, one: str, other: str, points: tuple[tuple[float, float], ...]) -> float:
    """Return the parameter with which mixtures boil at 1 atm as measured, on average."""

    def miss(k: float) -> float:
        eos = of_pair(form, one, other, np.array(k))
        return float(np.mean([np.log(bubble_pressure(eos, 1.0 - x, T) / ATM) for x, T in points]))

    return float(brentq(miss, -0.1, 0.25))


def with_polar() -> None:
    """Bring the rows of water, alcohols and glycols with hydrocarbons, and of gases in glycols, to measurements."""
    path = EOS / "kij.csv"
    rows = list(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))
    made: dict[tuple[str, str], dict[str, str]] = {}

    def put(one: str, other: str, values: dict[str, float], source: str) -> None:
        told = {c: f"{v:.2e}" if c.endswith("slope") else f"{v:.4f}" for c, v in values.items()}
        made[one, other] = {"one": one, "other": other, **told, "source": source}

    for other, name in (("n-alkane", "n-octane"), ("naphthene", "cyclohexane"), ("aromatic", "toluene"), ("benzene", "benzene"),
                        ("hydrocarbon", "n-decane")):  # fmt: skip
        values = {}
        for column, form in FORMS.items():
            values[column], values[f"{column}_slope"] = held_water(find(name), form)
        put("water", other, values, "solubility of water, Hibbard and Schalla, NACA RM E52D24 (1952), 5 to 100 °C")
    alkanes = {
        c: float(np.mean([dissolving(f, "methanol", n, x, y) for n, (x, y) in METHANOL_LIQUIDS.items()]))
        for c, f in FORMS.items()
    }
    put(
        "methanol",
        "n-alkane",
        alkanes,
        "both liquids at 298.15 K, Hradetzky and Lempe, Fluid Phase Equilib. 69, 285 (1991), in between",
    )
    for light in ("propane", "n-butane", "isobutane"):
        for alcohol in ("methanol", "ethanol"):
            put(
                alcohol, light, {"PR": 0.05, "RK": 0.05}, "Knapp et al., DECHEMA Chemistry Data Series VI (1982), group"
            )
    put("ethanol", "ethane", {"PR": 0.05, "RK": 0.05}, "Knapp et al., DECHEMA Chemistry Data Series VI (1982), group")
    families = {"benzene": "benzene", "toluene": "aromatic", "cyclohexane": "naphthene", "n-hexane": "n-alkane"}
    for (one, other), points in BOILS.items():
        if other in families:
            values = {c: boils_with(f, one, other, points) for c, f in FORMS.items()}
            if (one, families[other]) not in made:
                put(one, families[other], values, "boiling points at 1 atm, Horsley (1973)")
    for glycol in ("ethylene glycol", "diethylene glycol", "triethylene glycol"):
        for family, names in (("n-alkane", ("n-hexane", "n-heptane")), ("aromatic", ("benzene", "toluene"))):
            measured = [(n, SPARING[glycol, n][0]) for n in names if (glycol, n) in SPARING]
            if glycol == "triethylene glycol" and family == "aromatic":
                # Too much dissolves to be called dilute, and a cubic has no second liquid there: toluene's activity.
                values = {c: with_activity(f, glycol, "toluene", 4.2) for c, f in FORMS.items()}
                put(glycol, family, values, "activity coefficient of toluene at infinite dilution, 298.15 K, some 4.2")
                continue
            values = {c: float(np.mean([dissolving(f, glycol, n, x) for n, x in measured])) for c, f in FORMS.items()}
            put(glycol, family, values, "solubility in the glycol at 298.15 K (scripts/association_parameters.py)")
    gases = {d: dict(v) for d, v in GAS_PRESSURES.items()}
    gases["diethylene glycol"] = {
        g: float(np.sqrt(v * gases["triethylene glycol"][g])) for g, v in gases["ethylene glycol"].items()
    }
    for glycol, henry in gases.items():
        for gas, H in henry.items():
            values = {}
            for column, form in FORMS.items():

                def miss(k: float, form: str = form, gas: str = gas, glycol: str = glycol, H: float = H) -> float:
                    return float(np.log(infinitely_dilute(find(gas), find(glycol), form, k, "own") * H / ATM))

                values[column] = brentq(miss, -1.0, 1.2)
            put(gas, glycol, values, "Henry's constant at 298.15 K (scripts/association_parameters.py)")
    kept = [r for r in rows if (r["one"], r["other"]) not in made]
    names = ("one", "other", "PR", "RK", "SAFT", "PR_slope", "RK_slope", "PR_fitted", "RK_fitted", "source")
    with path.open("w", newline="", encoding="utf-8") as file:
        out = csv.DictWriter(file, names, lineterminator="\n")
        out.writeheader()
        out.writerows({n: row.get(n) or "" for n in names} for row in [*kept, *made.values()])


if __name__ == "__main__":
    library()
    heavy_ends()
    with_polar()
