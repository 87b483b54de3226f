"""Make ``components/ideal_gas.csv``: ideal-gas heat capacities as sums of harmonic oscillators, from published numbers.

Every component is R times a rigid part and weights of harmonic oscillators at the characteristic temperatures of
``components.ideal_gas.THETA``, fitted with weights of zero or more to, in this order of preference,

- the oscillators of its fundamental frequencies (Shimanouchi, NSRDS-NBS 39, 1972), for small and stiff molecules,
- the ideal part of its reference equation as in ISO 20765-2 (2015), table C.1 (Kunz and Wagner, J. Chem. Eng. Data 57, 3032, 2012),
- the cubic of Reid, Prausnitz and Poling (1987), appendix A, between 298 and 1000 K, or Benson's groups (*Thermochemical
  Kinetics*, 2nd ed., 1976), held at other temperatures to a molecule of the same family with CH2 groups added.

    .venv/bin/python scripts/heat_capacities.py
"""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from cryonome.components.ideal_gas import THETA, fitted, oscillator
from cryonome.constants import R

Array = NDArray[np.float64]
DATA = Path(__file__).parent.parent / "src" / "cryonome" / "components"

WAVE = 1.438777
"""K per 1/cm, the second radiation constant."""

FREQUENCIES: dict[str, str] = {
    "methane": "2917 1534*2 3019*3 1306*3",
    "ethylene": "3026 1623 1342 1023 3103 1236 949 943 3106 826 2989 1444",
    "propylene": "3091 3022 2991 2973 2932 1653 1459 1414 1378 1298 1178 935 919 428 2953 1443 1045 990 912 575 188",
    "benzene": (
        "3062 992 1326 673 3068 1010 995 703 1310 1150 849*2 3063*2 1486*2 1038*2 3047*2 1596*2 1178*2 606*2 975*2 410*2"
    ),
    "cyclohexane": (
        "2930 2852 1465 1157 802 383 1383 1157 1057 1437 1090 2915 2860 1437 1030 523 2930*2 2897*2 1443*2 1347*2 1266*2 "
        "1027*2 785*2 426*2 2933*2 2863*2 1457*2 1355*2 1261*2 907*2 863*2 248*2"
    ),
    "methanol": "3681 3000 2844 1477 1455 1345 1060 1033 2960 1477 1165 295",
    "nitrogen": "2330", "carbon monoxide": "2143",
    "hydrogen sulfide": "1183 2615 2626", "sulfur dioxide": "518 1151 1362", "carbonyl sulfide": "520*2 859 2062",
    "argon": "", "helium": "",
}  # fmt: skip
"""Fundamental frequencies in 1/cm, ``*`` the degeneracy."""

REFERENCE: dict[str, tuple[float, float, tuple[tuple[float, float], ...], tuple[tuple[float, float], ...]]] = {
    "hydrogen": (33.19, 2.47906, ((0.95806, 6.891654113), (1.56039, 49.76529075)), ((0.45444, 9.84763483), (-1.3756, 50.367279301))),
    "oxygen": (154.595, 3.50146, ((1.07558, 14.461722565),), ((1.01334, 7.223325463),)),
    "water": (647.096, 4.00392, ((0.01059, 0.415386589), (3.06904, 3.874803739)), ((0.98763, 1.763895929),)),
    "carbon dioxide": (
        304.1282, 3.50002, ((2.04452, 3.022758166), (2.03366, 1.589964364)), ((-1.06044, -2.844425476), (0.01393, 1.12159609))
    ),
    "ethane": (305.322, 4.00263, ((4.33939, 1.831882406), (13.1974, 3.378007481)), ((1.23722, 0.731306621), (-6.01989, 3.508721939))),
    "propane": (369.825, 4.02939, ((6.60569, 1.297521801), (19.1921, 2.583146083)), ((3.197, 0.543210978), (-8.37267, 2.777773271))),
    "n-butane": (425.125, 4.33944, ((9.44893, 1.101487798), (24.4618, 4.502440459)), ((6.89406, 0.43195766), (14.7824, 2.124516319))),
    "isobutane": (407.817, 4.06714, ((8.97575, 1.074673199), (25.1423, 4.671261865)), ((5.25156, 0.485556021), (16.1388, 2.19158348))),
    "n-pentane": (469.7, 4.0, ((8.95043, 0.380391739), (33.4032, 3.777411113)), ((21.836, 1.789520971),)),
    "isopentane": (460.35, 4.0, ((11.7618, 0.635392636), (33.1688, 4.169371131)), ((20.1101, 1.977271641),)),
    "n-hexane": (507.82, 4.0, ((11.6977, 0.359036667), (38.6164, 3.596924107)), ((26.8142, 1.691951873),)),
    "n-heptane": (540.13, 4.0, ((13.7266, 0.314348398), (43.5561, 3.259326458)), ((30.4707, 1.54813656),)),
    "n-octane": (569.32, 4.0, ((15.6865, 0.27914354), (48.1731, 2.973845992)), ((33.8029, 1.431644769),)),
    "n-nonane": (594.55, 4.0, ((18.0241, 0.263819696), (53.3415, 2.848860483)), ((38.1235, 1.370586158),)),
    "n-decane": (617.7, 4.0, ((21.0069, 0.267034159), (58.3657, 2.833479035)), ((43.4931, 1.353835195),)),
}  # fmt: skip
"""Reducing temperature K, rigid part, then weights and reduced temperatures of the sinh and of the cosh terms."""

BENSON = {
    "C-(C)(O)(H)2": (4.99, 6.85, 8.30, 9.43, 11.11, 12.33), "O-(C)(H)": (4.33, 4.45, 4.82, 5.23, 6.02, 6.61),
    "O-(C)2": (3.4, 3.7, 3.7, 3.8, 4.4, 4.6),
}  # fmt: skip
"""Group values in cal/(mol K) at :data:`BENSON_AT`."""
BENSON_AT = np.array([300.0, 400.0, 500.0, 600.0, 800.0, 1000.0])
GLYCOLS = {"ethylene glycol": (2, 2, 0), "diethylene glycol": (4, 2, 1), "triethylene glycol": (6, 2, 2)}
"""How many of each of the groups."""

LINEAR = {"nitrogen", "oxygen", "carbon monoxide", "hydrogen", "carbon dioxide", "carbonyl sulfide"}
COLD = np.array([50.0, 75, 100, 125, 150, 175, 200, 250, 298.15, 350, 400, 500, 600, 700, 850, 1000, 1200, 1500])
WARM = np.linspace(298.15, 1000.0, 15)


def rigid(name: str) -> float:
    """Return the heat capacity over R of translation and rotation."""
    return 2.5 if name in {"argon", "helium", "hydrogen"} else 3.5 if name in LINEAR else 4.0


def from_frequencies(text: str, T: Array) -> Array:
    """Return the oscillators' heat capacity over R at T (n,) K."""
    out = np.zeros_like(T)
    for word in text.split():
        wave, _, count = word.partition("*")
        out += float(count or 1) * oscillator(WAVE * float(wave) / T)
    return out


def from_reference(name: str, T: Array) -> Array:
    """Return the heat capacity over R at T (n,) K of a reference equation."""
    Tc, out, sinh, cosh = REFERENCE[name]
    value = np.full_like(T, out)
    for n, theta in sinh:
        value += n * (theta * Tc / T / np.sinh(theta * Tc / T)) ** 2
    for n, theta in cosh:
        value += n * (theta * Tc / T / np.cosh(theta * Tc / T)) ** 2
    return value


def main() -> None:
    """Write the table."""
    rows = list(csv.DictReader((DATA / "pure.csv").read_text(encoding="utf-8").splitlines()))
    weights: dict[str, Array] = {}
    source: dict[str, str] = {}
    for name, text in FREQUENCIES.items():
        weights[name] = fitted(rigid(name), COLD, rigid(name) + from_frequencies(text, COLD))
        source[name] = "frequencies"
    for name in REFERENCE:
        weights[name] = fitted(rigid(name), COLD, from_reference(name, COLD))
        source[name] = "reference equation"
    group = (from_reference("n-decane", COLD) - from_reference("n-pentane", COLD)) / 5.0
    flexible = {"propylene", "cyclohexane", "methanol"}
    for name in flexible:
        source[name] = ""
    parents = {
        "n-alkane": ("n-decane", 10), "isoalkane": ("isopentane", 5), "olefin": ("propylene", 3), "naphthene": ("cyclohexane", 6),
        "aromatic": ("benzene", 6), "alcohol": ("methanol", 1), "sulfur": ("methanol", 1),
    }  # fmt: skip
    for row in rows:
        name = row["name"]
        if source.get(name):
            continue
        parent, carbons = parents[row["family"]]
        formula = row["formula"]
        count = int("".join(c for c in formula[1:].split("H")[0] if c.isdigit()) or 1)
        extended = rigid(name) + oscillator(THETA / COLD[:, None]) @ weights[parent] + (count - carbons) * group
        prior = fitted(rigid(name), COLD, extended)
        if row["family"] == "n-alkane":
            weights[name], source[name] = prior, "CH2 groups"
        elif name in GLYCOLS:
            values = sum(n * np.array(v) for n, v in zip(GLYCOLS[name], BENSON.values())) * 4.184 / R
            weights[name], source[name] = fitted(4.0, BENSON_AT, np.asarray(values), prior), "Benson groups"
        else:
            cubic = sum(float(row[f"cp{k}"]) * WARM**k for k in range(4)) / R
            weights[name], source[name] = fitted(4.0, WARM, np.asarray(cubic), prior), "cubic"
    with (DATA / "ideal_gas.csv").open("w", newline="", encoding="utf-8") as file:
        out = csv.writer(file, lineterminator="\n")
        out.writerow(["name", "source", "rigid", *(f"at_{t:g}_K" for t in THETA)])
        for row in rows:
            name = row["name"]
            out.writerow([name, source[name], rigid(name), *(f"{w:.4g}" for w in weights[name])])


if __name__ == "__main__":
    main()
