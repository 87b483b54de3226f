"""Published three-phase points of hydrates: gas, water and hydrate (K, MPa).

As quoted in the literature's own reviews, Sloan and Koh, *Clathrate Hydrates of Natural Gases* (3rd ed. 2008), ch. 6; the first
authors stand beside each set. Quoted from memory of these tables, not checked against a printed copy.
"""

from __future__ import annotations

import numpy as np

PURE: dict[str, tuple[str, list[tuple[float, float]]]] = {
    "methane": (
        "Deaton and Frost 1946; McLeod and Campbell 1961; Marshall et al. 1964; Jhaveri and Robinson 1965",
        [
            (262.4, 1.79), (268.6, 2.21), (273.7, 2.76), (275.4, 3.24), (277.6, 3.97), (279.3, 4.77), (282.6, 6.77), (285.7, 9.62),
            (285.9, 9.78), (286.7, 10.80), (290.5, 15.90), (295.7, 33.99), (298.7, 47.86), (301.6, 64.81),
        ],
    ),
    "ethane": (
        "Deaton and Frost 1946; Roberts et al. 1940",
        [(263.6, 0.313), (273.7, 0.510), (277.6, 0.814), (280.4, 1.165), (283.2, 1.661), (286.5, 2.620)],
    ),
    "propane": ("Deaton and Frost 1946; Kubota et al. 1984", [(273.7, 0.183), (275.4, 0.270), (277.1, 0.386), (277.6, 0.435)]),
    "isobutane": ("Rouher and Barduhn 1969; Schneider and Farrar 1968", [(273.2, 0.110), (274.4, 0.137), (275.1, 0.167)]),
    "carbon dioxide": (
        "Deaton and Frost 1946; Robinson and Mehta 1971",
        [(273.7, 1.324), (277.1, 1.924), (279.3, 2.520), (282.0, 3.599), (283.2, 4.500)],
    ),
    "hydrogen sulfide": (
        "Selleck et al. 1952; Bond and Russell 1949",
        [(277.6, 0.157), (283.2, 0.280), (288.7, 0.499), (295.7, 1.034), (302.7, 2.239)],
    ),
    "nitrogen": (
        "van Cleeff and Diepen 1960; Marshall et al. 1964",
        [(273.2, 16.27), (275.6, 20.00), (281.1, 35.20), (284.6, 51.30)],
    ),
}  # fmt: skip
"""Single gases: authors and points. Hydrogen sulfide's two authors lie a kelvin apart at 283.2 K; the point between is theirs together."""

MIXTURES: list[tuple[str, dict[str, float], list[tuple[float, float]], bool]] = [
    ("Deaton and Frost 1946", {"methane": 56.4, "ethane": 43.6}, [(274.8, 0.945), (277.6, 1.289), (280.4, 1.758), (283.2, 2.434)], True),
    ("Deaton and Frost 1946", {"methane": 90.4, "ethane": 9.6}, [(274.8, 1.524), (277.6, 2.096), (280.4, 2.889), (283.2, 3.965)], False),
    ("Deaton and Frost 1946", {"methane": 95.0, "ethane": 5.0}, [(274.8, 1.841), (277.6, 2.530), (280.4, 3.447), (283.2, 4.771)], True),
    ("Deaton and Frost 1946", {"methane": 97.8, "ethane": 2.2}, [(274.8, 2.365), (277.6, 3.227), (280.4, 4.413)], True),
    ("Deaton and Frost 1946", {"methane": 98.8, "ethane": 1.2}, [(274.8, 2.861), (277.6, 3.806), (280.4, 5.088)], False),
    ("Deaton and Frost 1946", {"methane": 36.2, "propane": 63.8}, [(274.8, 0.272), (277.6, 0.436), (280.4, 0.687)], False),
    ("Deaton and Frost 1946", {"methane": 71.2, "propane": 28.8}, [(274.8, 0.365), (277.6, 0.538), (280.4, 0.800)], True),
    ("Deaton and Frost 1946", {"methane": 88.3, "propane": 11.7}, [(274.8, 0.552), (277.6, 0.814), (280.4, 1.179)], True),
    ("Deaton and Frost 1946", {"methane": 95.2, "propane": 4.8}, [(274.8, 0.814), (277.6, 1.138), (280.4, 1.586)], False),
    ("Deaton and Frost 1946", {"methane": 97.4, "propane": 2.6}, [(274.8, 1.151), (277.6, 1.593), (280.4, 2.193)], True),
    ("Deaton and Frost 1946", {"methane": 99.0, "propane": 1.0}, [(274.8, 1.627), (277.6, 2.247), (280.4, 3.123)], False),
    ("Adisasmito et al. 1991", {"methane": 90.0, "carbon dioxide": 10.0},
     [(273.7, 2.52), (275.8, 3.10), (277.8, 3.83), (280.2, 4.91), (283.2, 6.80), (285.1, 8.40), (287.2, 10.76)], False),
]  # fmt: skip
"""Mixtures: author, mol%, points, and whether the constants of structure II were fitted to them."""

STRUCTURE_H: dict[str, tuple[str, list[tuple[float, float]]]] = {
    "isopentane": ("Mehta and Sloan 1993", [(274.0, 2.234), (275.2, 2.540), (276.2, 2.868), (277.4, 3.296)]),
    "2,3-dimethylbutane": ("Mehta and Sloan 1994", [(275.9, 2.075), (277.4, 2.496), (279.2, 3.082), (280.8, 3.847)]),
    "methylcyclopentane": ("Mehta and Sloan 1993", [(276.5, 2.199), (277.8, 2.579), (279.4, 3.165)]),
    "methylcyclohexane": ("Mehta and Sloan 1993", [(275.6, 1.600), (277.6, 2.137), (279.4, 2.688), (281.2, 3.378)]),
    "2,2-dimethylbutane": ("Hutz and Englezos 1996", [(276.0, 1.600), (279.3, 2.330), (282.2, 3.282)]),
}
"""Methane with a large molecule as a liquid: structure H, fitted."""

INHIBITED: list[tuple[str, dict[str, float], list[tuple[float, float]]]] = [
    ("Ng and Robinson 1985", {"methanol": 10.0},
     [(266.23, 2.14), (271.24, 3.41), (275.87, 5.63), (280.31, 9.07), (283.67, 13.30), (286.40, 18.80)]),
    ("Ng and Robinson 1985", {"methanol": 20.0},
     [(263.34, 2.83), (267.51, 4.20), (270.08, 5.61), (273.55, 8.41), (277.56, 13.30), (280.17, 18.75)]),
    ("Robinson and Ng 1986", {"methanol": 35.0},
     [(250.9, 2.38), (256.3, 3.69), (260.3, 6.81), (264.6, 10.16), (267.8, 13.68), (268.5, 17.22), (270.1, 20.51)]),
    ("Robinson and Ng 1986", {"ethylene glycol": 10.0}, [(270.2, 2.42), (273.5, 3.40), (280.2, 6.53), (287.1, 15.60)]),
    ("Robinson and Ng 1986", {"ethylene glycol": 30.0}, [(267.6, 3.77), (269.7, 4.93), (274.4, 7.86), (279.9, 16.14)]),
    ("Robinson and Ng 1986", {"ethylene glycol": 50.0}, [(263.4, 9.89), (266.3, 14.08), (266.5, 15.24)]),
    ("de Roo et al. 1983", {"NaCl": 11.7}, [(268.3, 2.69), (272.0, 3.96)]),
]  # fmt: skip
"""Methane with inhibitors, percent by mass of the aqueous liquid."""

FREEZING: dict[str, list[tuple[float, float]]] = {
    "NaCl": [(5.0, 3.05), (10.0, 6.56), (15.0, 10.89), (20.0, 16.46)],
    "KCl": [(5.0, 2.33), (10.0, 4.80), (13.0, 6.45)],
    "CaCl2": [(5.0, 2.35), (10.0, 5.86), (15.0, 11.00), (20.0, 18.30)],
}
"""Salts in water: percent by mass and kelvin below the ice point, CRC Handbook of Chemistry and Physics."""

POUND_PER_MILLION = 0.45359237 / 1e6 / 0.0283168466 * 0.02364483
"""Kilogram per mole of dry gas that a pound in a million standard cubic feet (60 degF, 14.696 psia) is."""

WATER_HELD: list[tuple[str, float, float, float]] = [
    ("100 °F, 1200 psia", 310.928, 8.2737e6, 53.0 * POUND_PER_MILLION),
    ("40 °F, 900 psia", 277.594, 6.2053e6, 9.5 * POUND_PER_MILLION),
]
"""Water in natural gas over liquid water, kelvin, Pa and kg/mol: the worked example on inhibitors of the GPSA Engineering Data Book, ch. 20."""

BUKACEK: list[tuple[float, float, float]] = [(80.0, 500.0, 0.5073), (100.0, 1000.0, 0.9503), (120.0, 3000.0, 1.6945)]
"""°F and psia, with the vapour pressure of water there, psia (steam tables), for :func:`bukacek`."""


def bukacek(fahrenheit: float, psia: float, vapour_pressure: float) -> float:
    """Return the water of sweet gas over water, lb/MMscf: Bukacek, Inst. Gas Tech. Res. Bull. 8 (1955), good to 5 % from 60 °F to 460 °F."""
    return float(47484.0 * vapour_pressure / psia + 10.0 ** (6.69449 - 3083.87 / (459.67 + fahrenheit)))


METHANOL_LOST = (277.594, 6.2053e6, 27.5, 1.05 * POUND_PER_MILLION, 0.2)
"""The same example: at a temperature and pressure and so many percent by mass in the water, the mass of methanol by mole of gas for each of these percent,
and mole percent of it in the condensate; both read off charts there."""


def ice_pressure(T: float | np.ndarray) -> np.ndarray:
    """Return the vapour pressure of ice, Pa: Murphy and Koop, Q. J. R. Meteorol. Soc. 131, 1539 (2005), eq. 7, above 110 K."""
    return np.asarray(np.exp(9.550426 - 5723.265 / T + 3.53068 * np.log(T) - 0.00728332 * T))
