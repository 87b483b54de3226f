"""Published measurements the accuracy page compares with."""

from __future__ import annotations

SOLUBILITIES: dict[tuple[str, str], float] = {
    ("methane", "benzene"): 20.9, ("methane", "toluene"): 24.1, ("methane", "cyclohexane"): 32.8, ("methane", "n-hexane"): 50.4,
    ("methane", "n-heptane"): 50.9, ("methane", "n-octane"): 51.9, ("methane", "n-decane"): 54.6, ("methane", "n-hexadecane"): 61.0,
    ("ethane", "benzene"): 149.0, ("ethane", "n-hexane"): 316.0, ("ethane", "n-hexadecane"): 360.0, ("ethane", "cyclohexane"): 239.0,
    ("carbon dioxide", "benzene"): 97.3, ("carbon dioxide", "toluene"): 101.3, ("carbon dioxide", "cyclohexane"): 76.0,
    ("carbon dioxide", "n-hexane"): 124.0, ("carbon dioxide", "n-heptane"): 121.0, ("carbon dioxide", "n-decane"): 124.0,
    ("carbon dioxide", "n-hexadecane"): 134.0, ("carbon dioxide", "ethanol"): 64.0, ("carbon dioxide", "methanol"): 56.0,
    ("nitrogen", "benzene"): 4.46, ("nitrogen", "toluene"): 5.74, ("nitrogen", "cyclohexane"): 7.6, ("nitrogen", "n-hexane"): 14.0,
    ("nitrogen", "n-heptane"): 13.5, ("nitrogen", "n-octane"): 13.0, ("nitrogen", "n-decane"): 12.5, ("nitrogen", "n-hexadecane"): 12.6,
    ("hydrogen", "benzene"): 2.58, ("hydrogen", "toluene"): 3.17, ("hydrogen", "cyclohexane"): 4.1, ("hydrogen", "n-hexane"): 6.63,
    ("hydrogen", "n-heptane"): 6.88, ("hydrogen", "n-octane"): 6.84, ("hydrogen", "n-decane"): 6.9,
    ("helium", "benzene"): 0.77, ("helium", "cyclohexane"): 1.21, ("helium", "n-hexane"): 2.6, ("helium", "n-decane"): 2.26,
    ("oxygen", "benzene"): 8.1, ("oxygen", "toluene"): 9.2, ("oxygen", "cyclohexane"): 12.3, ("oxygen", "n-hexane"): 20.5,
    ("oxygen", "n-octane"): 21.0, ("oxygen", "n-decane"): 21.8, ("argon", "benzene"): 8.8, ("argon", "toluene"): 10.9,
    ("argon", "cyclohexane"): 14.8, ("argon", "n-hexane"): 25.2, ("argon", "n-octane"): 24.3, ("argon", "n-decane"): 24.8,
    ("carbon monoxide", "benzene"): 6.65, ("carbon monoxide", "toluene"): 8.0, ("carbon monoxide", "cyclohexane"): 9.9,
    ("carbon monoxide", "n-heptane"): 17.2, ("methane", "methanol"): 8.70, ("methane", "ethanol"): 12.8, ("ethane", "methanol"): 40.0,
    ("nitrogen", "methanol"): 2.75, ("nitrogen", "ethanol"): 3.60, ("hydrogen", "methanol"): 1.61, ("hydrogen", "ethanol"): 2.06,
    ("oxygen", "n-heptane"): 20.7, ("oxygen", "methanol"): 4.15, ("oxygen", "ethanol"): 5.80, ("argon", "n-heptane"): 24.8,
    ("argon", "methanol"): 4.50, ("carbon monoxide", "methanol"): 3.20, ("hydrogen sulfide", "methanol"): 365.0,
}  # fmt: skip
"""1e4 times the mole fraction of a gas in a liquid at 298.15 K and 1 atm of it: Wilhelm and Battino, Chem. Rev. 73, 1 (1973)."""

STATES: dict[str, tuple[tuple[str, float, float, float], ...]] = {
    "heat_capacity_p": (
        ("methane", 300.0, 1e5, 35.8), ("methane", 300.0, 1e7, 48.0), ("methane", 120.0, 1e6, 56.5), ("nitrogen", 300.0, 1e5, 29.2),
        ("carbon dioxide", 300.0, 1e5, 37.6), ("propane", 300.0, 5e6, 116.6), ("n-hexane", 298.15, 1e5, 195.0),
        ("n-decane", 298.15, 1e5, 314.0), ("n-hexadecane", 298.15, 1e5, 501.0), ("toluene", 298.15, 1e5, 157.0), ("cyclohexane", 298.15, 1e5, 156.0),
    ),
    "speed_of_sound": (
        ("methane", 300.0, 1e5, 450.0), ("methane", 300.0, 1e7, 444.0), ("methane", 120.0, 1e6, 1261.0), ("nitrogen", 300.0, 1e5, 353.2),
        ("carbon dioxide", 300.0, 1e5, 269.0), ("propane", 300.0, 5e6, 779.0), ("n-hexane", 298.15, 1e5, 1077.0),
        ("n-decane", 298.15, 1e5, 1235.0), ("toluene", 298.15, 1e5, 1305.0), ("cyclohexane", 298.15, 1e5, 1250.0),
    ),
    "viscosity": (
        ("methane", 300.0, 1e5, 11.1e-6), ("methane", 300.0, 1e7, 13.9e-6), ("methane", 120.0, 1e6, 98e-6), ("nitrogen", 300.0, 1e5, 17.9e-6),
        ("carbon dioxide", 300.0, 1e5, 15.0e-6), ("carbon dioxide", 290.0, 1e7, 92e-6), ("propane", 300.0, 5e6, 101e-6),
        ("n-hexane", 298.15, 1e5, 296e-6), ("n-decane", 298.15, 1e5, 845e-6), ("n-hexadecane", 298.15, 1e5, 3.06e-3),
        ("toluene", 298.15, 1e5, 554e-6), ("cyclohexane", 298.15, 1e5, 894e-6), ("carbon dioxide", 310.0, 1e7, 55e-6),
        ("n-eicosane", 323.15, 1e5, 3.1e-3), ("n-decane", 303.15, 1e8, 2.03e-3),
    ),
    "thermal_conductivity": (
        ("methane", 300.0, 1e5, 0.0344), ("methane", 300.0, 1e7, 0.0418), ("methane", 120.0, 1e6, 0.180), ("nitrogen", 300.0, 1e5, 0.0259),
        ("carbon dioxide", 300.0, 1e5, 0.0168), ("carbon dioxide", 290.0, 1e7, 0.102), ("propane", 300.0, 5e6, 0.0975),
        ("n-hexane", 298.15, 1e5, 0.120), ("n-decane", 298.15, 1e5, 0.131), ("n-hexadecane", 298.15, 1e5, 0.141),
        ("toluene", 298.15, 1e5, 0.131), ("cyclohexane", 298.15, 1e5, 0.120),
    ),
}  # fmt: skip
"""T K, P Pa and value in SI, as recalled from reference equations and handbooks, to two or three digits."""

RESERVOIR: dict[str, tuple[dict[str, float], float, tuple[int, float, float, float], str, float]] = {
    "gas condensate, dew point (Kenyon and Behie, 1987)": (
        {"carbon dioxide": 1.21, "nitrogen": 1.94, "methane": 65.99, "ethane": 8.69, "propane": 5.91, "isobutane": 2.39, "n-butane": 2.78,
         "isopentane": 1.57, "n-pentane": 1.12}, 1.81, (7, 6.59, 140.0, 0.774), "200 degF", 3443.0,
    ),
    "gas condensate, dew point (Whitson and Torp, 1983, NS-1)": (
        {"carbon dioxide": 2.37, "nitrogen": 0.31, "methane": 73.19, "ethane": 7.80, "propane": 3.55, "isobutane": 0.71, "n-butane": 1.45,
         "isopentane": 0.64, "n-pentane": 0.68}, 1.09, (7, 8.21, 184.0, 0.816), "280 degF", 6764.0,
    ),
    "black oil, bubble point (Ahmed, 2007, well 4)": (
        {"carbon dioxide": 0.91, "nitrogen": 0.16, "methane": 36.47, "ethane": 9.67, "propane": 6.95, "isobutane": 1.44, "n-butane": 3.93,
         "isopentane": 1.44, "n-pentane": 1.41}, 4.33, (7, 33.29, 218.0, 0.8515), "220 degF", 2635.0,
    ),
}  # fmt: skip
"""mol% of pure components and of C6; carbon number, mol%, g/mol and specific gravity of the plus fraction; temperature; psia."""

CRITICAL_TOPS: dict[tuple[str, str], tuple[float, str]] = {
    ("methane", "propane"): (1470.0, "Akers et al. (1954)"),
    ("methane", "n-butane"): (1940.0, "Sage et al. (1940)"),
    ("methane", "n-pentane"): (2460.0, "Sage et al. (1942)"),
    ("methane", "n-heptane"): (3620.0, "Reamer et al. (1956)"),
    ("ethane", "n-heptane"): (1263.0, "Kay (1938)"),
    ("carbon dioxide", "n-butane"): (1184.0, "Olds, Reamer, Sage and Lacey (1949)"),
    ("carbon dioxide", "n-decane"): (2740.0, "Reamer and Sage (1963)"),
}
"""The highest critical pressure of a pair, psia, as read from drawn loci: to some 2 %."""

WATER: tuple[tuple[str, float, float, str, float, str], ...] = (
    ("carbon dioxide", 323.15, 5.066e6, "gas in water", 0.0137, "Wiebe and Gaddy (1939)"),
    ("carbon dioxide", 323.15, 1.013e7, "gas in water", 0.0203, "Wiebe and Gaddy (1939)"),
    ("carbon dioxide", 348.15, 1.013e7, "gas in water", 0.0164, "Wiebe and Gaddy (1939)"),
    ("carbon dioxide", 373.15, 1.013e7, "gas in water", 0.0141, "Wiebe and Gaddy (1939)"),
    ("carbon dioxide", 323.15, 2.0265e7, "gas in water", 0.0230, "Wiebe and Gaddy (1939)"),
    ("carbon dioxide", 323.15, 3.0398e7, "gas in water", 0.0247, "Wiebe and Gaddy (1939)"),
    ("nitrogen", 298.15, 1.01325e7, "gas in water", 1.015e-3, "Wiebe, Gaddy and Heins (1933)"),
    ("nitrogen", 298.15, 3.0398e7, "gas in water", 2.45e-3, "Wiebe, Gaddy and Heins (1933)"),
    ("hydrogen sulfide", 298.15, 1.01325e5, "gas in water", 1.85e-3, "Wilhelm, Battino and Wilcock (1977)"),
    ("methane", 298.15, 5.17e6, "gas in water", 1.10e-3, "Culberson and McKetta (1951)"),
    ("methane", 310.93, 3.447e7, "gas in water", 3.3e-3, "Culberson and McKetta (1951)"),
    ("methane", 310.93, 6.895e6, "water in gas", 1.27e-3, "Olds, Sage and Lacey (1942)"),
    ("methane", 344.26, 6.895e6, "water in gas", 5.9e-3, "Olds, Sage and Lacey (1942)"),
    ("methane", 377.59, 6.895e6, "water in gas", 0.0194, "Olds, Sage and Lacey (1942)"),
    ("methane", 310.93, 3.447e7, "water in gas", 4.98e-4, "Olds, Sage and Lacey (1942)"),
    ("methane", 344.26, 3.447e7, "water in gas", 1.89e-3, "Olds, Sage and Lacey (1942)"),
    ("benzene", 298.15, 1.013e5, "gas in water", 4.1e-4, "McAuliffe (1966)"),
    ("n-hexane", 298.15, 1.013e5, "gas in water", 2.0e-6, "McAuliffe (1966)"),
)
"""Solute, T K, P Pa, which mole fraction, its value, source; as recalled from the papers, to two or three digits."""
