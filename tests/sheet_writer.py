"""Lab sheets written at random: a truth, and the rows in which one laboratory or another would write it.

:func:`any_sheet` makes one; :func:`differences` tells what was read otherwise than it was written, without a word about it.
"""

from __future__ import annotations

import random
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from cryonome.components import named
from cryonome.exchange import Found
from cryonome.units import parse

Rows = list[list[str]]

WORDS = {
    "en": {
        "component": ("Component", "Compound", "Species", "Constituent"), "mole": ("mol%", "Mole %", "Mol %", "mole percent", "mol-%"), "mass": ("wt%", "Wt %", "Mass %", "Weight percent", "% w/w"),
        "volume": ("LV %", "liq. vol. %", "Liquid volume %"), "total": ("Total", "Totals", "Sum"), "molar_mass": ("Mol. weight", "MW", "Molar mass"), "density": ("Density", "Liquid density"),
        "pressure": ("Pressure", "P", "Reservoir pressure"), "temperature": ("Temperature", "Temp.", "T"), "initial": ("IBP", "Initial"), "final": ("FBP", "EP", "End point"),
    },
    "de": {
        "component": ("Komponente", "Bestandteil"), "mole": ("Mol-%", "Stoffmengenanteil (%)", "mol%"), "mass": ("Gew.-%", "Massen-%", "Ma.-%"), "volume": ("LV-%", "Flüssigvolumen-%"), "total": ("Summe", "Gesamt"),
        "molar_mass": ("Molmasse", "Molare Masse"), "density": ("Dichte",), "pressure": ("Druck",), "temperature": ("Temperatur",), "initial": ("Siedebeginn",), "final": ("Siedeende",),
    },
    "fr": {
        "component": ("Constituant", "Constituants"), "mole": ("% molaire", "Mol %", "Fraction molaire (%)"), "mass": ("% massique", "% poids", "% en masse"), "volume": ("LV %",), "total": ("Total", "Somme"),
        "molar_mass": ("Masse molaire",), "density": ("Masse volumique",), "pressure": ("Pression",), "temperature": ("Température",), "initial": ("Point initial",), "final": ("Point final",),
    },
    "es": {
        "component": ("Componente", "Compuesto"), "mole": ("% molar", "Mol %", "% mol"), "mass": ("% peso", "% masa"), "volume": ("LV %",), "total": ("Total", "Suma"), "molar_mass": ("Peso molecular", "Masa molar"),
        "density": ("Densidad",), "pressure": ("Presión",), "temperature": ("Temperatura",), "initial": ("Punto inicial",), "final": ("Punto final",),
    },
    "pt": {
        "component": ("Componente",), "mole": ("% molar", "Fração molar (%)"), "mass": ("% em massa", "% peso"), "volume": ("LV %",), "total": ("Total", "Soma"), "molar_mass": ("Massa molar",), "density": ("Massa específica",),
        "pressure": ("Pressão",), "temperature": ("Temperatura",), "initial": ("Ponto inicial",), "final": ("Ponto final",),
    },
}  # fmt: skip

NAMES = {
    "nitrogen": {"en": ("Nitrogen", "N2", "N₂"), "de": ("Stickstoff", "N2"), "fr": ("Azote", "N2"), "es": ("Nitrógeno", "N2"), "pt": ("Nitrogênio", "N2")},
    "carbon dioxide": {"en": ("Carbon dioxide", "CO2", "CO₂", "Carbon Dioxide"), "de": ("Kohlendioxid", "CO2"), "fr": ("Dioxyde de carbone", "CO2"), "es": ("Dióxido de carbono", "CO2"), "pt": ("Dióxido de carbono", "CO2")},
    "hydrogen sulfide": {"en": ("Hydrogen sulfide", "H2S", "Hydrogen Sulphide"), "de": ("Schwefelwasserstoff", "H2S"), "fr": ("Hydrogène sulfuré", "H2S"), "es": ("Sulfuro de hidrógeno", "H2S"), "pt": ("H2S",)},
    "methane": {"en": ("Methane", "C1", "CH4"), "de": ("Methan", "C1"), "fr": ("Méthane", "C1"), "es": ("Metano", "C1"), "pt": ("Metano", "C1")},
    "ethane": {"en": ("Ethane", "C2"), "de": ("Ethan", "C2"), "fr": ("Éthane", "C2"), "es": ("Etano", "C2"), "pt": ("Etano", "C2")},
    "propane": {"en": ("Propane", "C3"), "de": ("Propan", "C3"), "fr": ("Propane", "C3"), "es": ("Propano", "C3"), "pt": ("Propano", "C3")},
    "isobutane": {"en": ("iso-Butane", "i-C4", "iC4", "Isobutane", "i-Butane"), "de": ("i-Butan", "iC4"), "fr": ("i-Butane", "iC4"), "es": ("i-Butano", "iC4"), "pt": ("i-Butano",)},
    "n-butane": {"en": ("n-Butane", "n-C4", "nC4"), "de": ("n-Butan", "nC4"), "fr": ("n-Butane", "nC4"), "es": ("n-Butano", "nC4"), "pt": ("n-Butano",)},
    "isopentane": {"en": ("iso-Pentane", "i-C5", "iC5", "Isopentane"), "de": ("i-Pentan", "iC5"), "fr": ("i-Pentane", "iC5"), "es": ("i-Pentano", "iC5"), "pt": ("i-Pentano",)},
    "n-pentane": {"en": ("n-Pentane", "n-C5", "nC5"), "de": ("n-Pentan", "nC5"), "fr": ("n-Pentane", "nC5"), "es": ("n-Pentano", "nC5"), "pt": ("n-Pentano",)},
    "C6": {"en": ("Hexanes", "C6", "C6s", "FC6", "SCN 6"), "de": ("Hexane", "C6"), "fr": ("Hexanes", "C6"), "es": ("Hexanos", "C6"), "pt": ("Hexanos", "C6")},
    "C7": {"en": ("Heptanes", "C7"), "de": ("Heptane", "C7"), "fr": ("Heptanes", "C7"), "es": ("Heptanos", "C7"), "pt": ("Heptanos", "C7")},
    "C8": {"en": ("Octanes", "C8"), "de": ("C8",), "fr": ("Octanes", "C8"), "es": ("Octanos", "C8"), "pt": ("C8",)},
    "C7+": {"en": ("Heptanes plus", "C7+", "Heptanes Plus", "C7 plus"), "de": ("C7+",), "fr": ("C7+", "Fraction C7+"), "es": ("Heptanos y superiores", "C7+"), "pt": ("C7+", "Heptanos e superiores")},
    "C9+": {"en": ("Nonanes plus", "C9+"), "de": ("C9+",), "fr": ("C9+",), "es": ("C9+",), "pt": ("C9+",)},
}  # fmt: skip
LIGHT = (
    "nitrogen",
    "carbon dioxide",
    "hydrogen sulfide",
    "methane",
    "ethane",
    "propane",
    "isobutane",
    "n-butane",
    "isopentane",
    "n-pentane",
)
MASSES = {"C6": 84.0, "C7": 96.0, "C8": 107.0, "C7+": 215.0, "C9+": 260.0}
DENSITIES = {"C6": 685.0, "C7": 722.0, "C8": 745.0, "C7+": 842.0, "C9+": 861.0}
PRESSURES = {
    "bara": 1e5,
    "barg": 1e5,
    "psia": 6894.757293168,
    "psig": 6894.757293168,
    "MPa": 1e6,
    "kPa": 1e3,
    "kg/cm2": 98066.5,
}
ATM = 101325.0


@dataclass
class Style:
    """How a laboratory writes: language, decimal mark, thousands, header units."""

    language: str
    comma: bool
    thousands: bool
    units: str

    def number(self, value: float, digits: int) -> str:
        """Return a number as it is written."""
        text = f"{value:,.{digits}f}" if self.thousands else f"{value:.{digits}f}"
        return text.replace(",", "\0").replace(".", ",").replace("\0", ".") if self.comma else text

    def head(self, title: str, unit: str) -> tuple[str, str]:
        """Return the header and the cell of the units row below it."""
        if not unit:
            return title, ""
        if self.units == "row":
            return title, unit
        return {"round": f"{title} ({unit})", "square": f"{title} [{unit}]", "comma": f"{title}, {unit}"}[
            self.units
        ], ""


@dataclass
class Truth:
    """What a sheet says: ``amounts`` in percent on ``basis``, ``points`` (percent, K) of a ``method``, or the columns of a ``test`` in the units of its keys at K."""

    kind: str
    basis: str = ""
    amounts: dict[str, float] = field(default_factory=dict)
    masses: dict[str, float] = field(default_factory=dict)
    densities: dict[str, float] = field(default_factory=dict)
    method: str = ""
    points: list[tuple[float, float]] = field(default_factory=list)
    density: float | None = None
    temperature: float = 0.0
    pressures: list[float] = field(default_factory=list)
    columns: dict[str, list[float | None]] = field(default_factory=dict)
    saturation: float | None = None


def _style(rng: random.Random) -> Style:
    language = rng.choice(["en", "en", "en", "de", "fr", "es", "pt"])
    comma = language != "en" and rng.random() < 0.8
    return Style(language, comma, rng.random() < 0.3, rng.choice(["round", "square", "comma", "row"]))


def any_sheet(rng: random.Random) -> tuple[Truth, Rows]:
    """Return a truth and the rows of a sheet that says it."""
    style = _style(rng)
    return rng.choice(
        [_composition, _composition, _curve, _curve, _expansion, _depletion, _liberation, _separators, _viscosity]
    )(rng, style)


def _word(rng: random.Random, style: Style, key: str) -> str:
    return rng.choice(WORDS[style.language][key])


def _lines(rng: random.Random, style: Style) -> Rows:
    """Return lines of who, where and when."""
    every = [
        ["Well", "Tarnmoor-4"],
        ["Date", "12.05.2021"],
        ["Report no.", "OFL-2291/b"],
        ["Client", "Brennock Refining"],
        ["Sampling point", "Export meter 2"],
    ]
    return rng.sample(every, rng.randrange(3))


def _headed(style: Style, heads: Sequence[tuple[str, str]]) -> Rows:
    made = [style.head(title, unit) for title, unit in heads]
    return [[a for a, _ in made], [b for _, b in made]] if any(b for _, b in made) else [[a for a, _ in made]]


def _turned(rows: Rows) -> Rows:
    width = max(map(len, rows))
    return [[row[j] if j < len(row) else "" for row in rows] for j in range(width)]


def _composition(rng: random.Random, style: Style) -> tuple[Truth, Rows]:
    light = [c for c in LIGHT if rng.random() < 0.9] or ["methane", "ethane"]
    heavy = rng.choice([[], ["C6"], ["C6", "C7+"], ["C6", "C7", "C8", "C9+"]])
    names = [*light, *heavy]
    if rng.random() < 0.2:
        rng.shuffle(names)
        names.sort(key=lambda n: n.endswith("+"))
    gas = "methane" in names and not heavy
    raw = [rng.uniform(40, 95) if n == "methane" and gas else rng.uniform(0.05, 12.0) for n in names]
    parts = [round(100.0 * r / sum(raw), 3) for r in raw]
    basis = rng.choice(["mole", "mole", "mass", *(["volume"] if heavy else [])])
    truth = Truth("composition", basis, dict(zip(names, parts)))
    fraction = basis == "mole" and style.language == "en" and rng.random() < 0.15
    title = rng.choice(["Mole fraction", "zi"]) if fraction else _word(rng, style, basis)
    heads = [(_word(rng, style, "component"), ""), (title, "")]
    with_mass, with_density = bool(heavy) and rng.random() < 0.6, bool(heavy) and rng.random() < 0.5
    if with_mass:
        heads.append((_word(rng, style, "molar_mass"), "g/mol"))
        truth.masses = {n: MASSES[n] for n in heavy}
    if with_density:
        heads.append((_word(rng, style, "density"), "kg/m3"))
        truth.densities = {n: DENSITIES[n] for n in heavy}
    rows = _headed(style, heads)
    for name, part in zip(names, parts):
        row = [
            rng.choice(NAMES[name][style.language]),
            style.number(part / 100.0 if fraction else part, 5 if fraction else 3),
        ]
        row += [style.number(MASSES[name], 1) if name in MASSES else ""] if with_mass else []
        row += [style.number(DENSITIES[name], 1) if name in DENSITIES else ""] if with_density else []
        rows.append(row)
    if rng.random() < 0.5:
        total = sum(parts) / (100.0 if fraction else 1.0)
        rows.append([_word(rng, style, "total"), style.number(total, 5 if fraction else 3)])
    if rng.random() < 0.2 and not with_mass and not with_density and style.units != "row":
        rows = _turned(rows)
    return truth, [
        [rng.choice(["Gas analysis", "Composition of the fluid", "Analysis"])],
        *_lines(rng, style),
        *([[]] if rng.random() < 0.5 else []),
        *rows,
    ]


def _curve(rng: random.Random, style: Style) -> tuple[Truth, Rows]:
    method = rng.choice(["D86", "TBP", "D2887", "EFV"])
    percents = sorted(rng.sample([5, 10, 20, 30, 40, 50, 60, 70, 80, 90, 95], rng.randrange(5, 11)))
    T, temps = rng.uniform(300.0, 420.0), []
    for _ in range(len(percents) + 2):
        temps.append(T)
        T += rng.uniform(6.0, 60.0)
    unit, digits = rng.choice([("°C", 1), ("°F", 1), ("K", 2), ("deg C", 1), ("degF", 0)])
    turn: Callable[[float], float] = {"C": lambda t: t - 273.15, "F": lambda t: t * 1.8 - 459.67, "K": lambda t: t}[
        unit[-1]
    ]
    back: Callable[[float], float] = {"C": lambda v: v + 273.15, "F": lambda v: (v + 459.67) / 1.8, "K": lambda v: v}[
        unit[-1]
    ]
    shown = [round(turn(t), digits) for t in temps]
    basis = {"D86": "volume", "TBP": rng.choice(["volume", "mass"]), "D2887": "mass", "EFV": "volume"}[method]
    ends = rng.random() < 0.6
    places = ([0.0] if ends else []) + [float(p) for p in percents] + ([100.0] if ends else [])
    values = shown if ends else shown[1:-1]
    truth = Truth("curve", basis, method=method, points=[(p, back(v)) for p, v in zip(places, values)])
    percent = {
        "volume": rng.choice(["vol%", "% vol", "Vol. %", "vol% distilled"]),
        "mass": rng.choice(["wt%", "mass %", "wt% distilled"]),
    }[basis]
    named_method = {
        "D86": ("ASTM D86", "D-86", "D 86"),
        "TBP": ("TBP",),
        "D2887": ("ASTM D2887", "SimDist", "D-2887"),
        "EFV": ("EFV",),
    }[method]
    own = rng.choice(named_method)
    where = rng.choice(["head", "title", "line"])
    head = f"{own}" if where == "head" else _word(rng, style, "temperature")
    rows = _headed(style, [(percent, ""), (head, unit)])
    for p, v in zip(places, values):
        word = (
            _word(rng, style, "initial")
            if p == 0.0
            else _word(rng, style, "final")
            if p == 100.0
            else style.number(p, 0)
        )
        rows.append([word, style.number(v, digits)])
    top: Rows = (
        [[f"{own} distillation"]] if where == "title" else [["Method", own]] if where == "line" else [["Distillation"]]
    )
    if rng.random() < 0.5:
        truth.density = round(rng.uniform(700.0, 950.0), 1)
        top.append([rng.choice(["Density at 15 °C", "Density @ 15 °C"]), style.number(truth.density, 1), "kg/m3"])
    if rng.random() < 0.15 and style.units != "row" and where != "head":
        rows = _turned(rows)
    return truth, [*top, *_lines(rng, style), [], *rows]


def _steps(
    rng: random.Random, style: Style, title: str, kind: str
) -> tuple[Truth, str, float, list[float], list[str], str]:
    """Return a truth with pressures and a temperature, their unit, digits and shown values, and the title."""
    unit = rng.choice(list(PRESSURES))
    gauge = unit.endswith("g") and unit not in ("kg",)
    factor = PRESSURES[unit]
    digits = {"MPa": 2, "kPa": 0, "psia": 0, "psig": 0}.get(unit, 1)
    top = rng.uniform(25e6, 42e6)
    shown = sorted(
        {round((top * f - (ATM if gauge else 0.0)) / factor, digits) for f in (1.0, 0.88, 0.74, 0.62, 0.48, 0.33, 0.2)},
        reverse=True,
    )
    t, letter = rng.choice(
        [
            (round(rng.uniform(60, 140), 1), "°C"),
            (round(rng.uniform(140, 280)), "°F"),
            (round(rng.uniform(330, 410), 2), "K"),
        ]
    )
    kelvin = {"C": t + 273.15, "F": (t + 459.67) / 1.8, "K": t}[letter[-1]]
    at = style.number(t, 0 if letter == "°F" else 2 if letter == "K" else 1)
    truth = Truth("test", kind, temperature=kelvin, pressures=[s * factor + (ATM if gauge else 0.0) for s in shown])
    where = rng.choice(["at", "@", "line"])
    return (
        truth,
        unit,
        digits,
        shown,
        [f"{title} {where} {at} {letter}"] if where != "line" else [title, f"T = {at} {letter}"],
        unit,
    )


def _table(
    rng: random.Random, style: Style, heads: list[tuple[str, str]], body: list[list[str]], title: list[str], lines: Rows
) -> Rows:
    rows = [*_headed(style, heads), *body]
    across = rng.random() < 0.2 and style.units != "row" and len(body) >= 3
    if across:
        rows = _turned(rows)
    return [*([[t] for t in title]), *lines, *([[]] if rng.random() < 0.7 or across else []), *rows]


def _mark(rng: random.Random) -> str:
    return rng.choice(["-", "", "–"])


def _expansion(rng: random.Random, style: Style) -> tuple[Truth, Rows]:
    truth, unit, digits, shown, title, _ = _steps(
        rng, style, rng.choice(["Constant composition expansion", "CCE", "Pressure-volume relations"]), "expansion"
    )
    at = rng.randrange(1, len(shown) - 2)
    truth.saturation = truth.pressures[at]
    volume = [
        round(1.0 - 0.03 * (at - k), 4) if k < at else 1.0 if k == at else round(1.0 + 0.11 * (k - at) ** 1.4, 4)
        for k in range(len(shown))
    ]
    density = [round(0.70 - 0.01 * k, 4) if k <= at else None for k in range(len(shown))]
    Y = [None if k <= at else round(2.6 - 0.2 * (k - at), 3) for k in range(len(shown))]
    truth.columns = {
        "relative_volume": list(volume),
        "density_kg_m3": [None if d is None else 1000 * d for d in density],
        "Y": list(Y),
    }
    heads = [
        (_word(rng, style, "pressure"), unit),
        (rng.choice(["Relative volume", "Rel. volume", "V/Vsat"]), ""),
        (rng.choice(["Density", "Oil density"]), "g/cm3"),
        (rng.choice(["Y function", "Y-Function"]), ""),
    ]
    body = []
    for k, p in enumerate(shown):
        mark = rng.choice(["", "*", ""]) if k == at else ""
        body.append(
            [
                style.number(p, digits) + mark,
                style.number(volume[k], 4),
                _mark(rng) if density[k] is None else style.number(density[k] or 0, 4),
                _mark(rng) if Y[k] is None else style.number(Y[k] or 0, 3),
            ]
        )
    lines = (
        [[rng.choice(["Saturation pressure", "Bubble point pressure"]), style.number(shown[at], digits), unit]]
        if rng.random() < 0.5
        else []
    )
    return truth, _table(rng, style, heads, body, title, lines)


def _depletion(rng: random.Random, style: Style) -> tuple[Truth, Rows]:
    truth, unit, digits, shown, title, _ = _steps(
        rng, style, rng.choice(["Constant volume depletion", "Depletion study", "CVD"]), "depletion"
    )
    truth.saturation = truth.pressures[0]
    n = len(shown)
    liquid, produced, Z = (
        [round(7.0 * k - 0.8 * k * k, 2) for k in range(n)],
        [round(8.0 * k + 0.9 * k * k, 2) for k in range(n)],
        [round(1.01 - 0.03 * k, 3) for k in range(n)],
    )
    fraction = rng.random() < 0.25
    truth.columns = {
        "liquid_volume_fraction": [v / 100 for v in liquid],
        "produced_mole_fraction": [v / 100 for v in produced],
        "Z_gas": list(Z),
    }
    scale, places, told = (0.01, 4, "fraction") if fraction else (1.0, 2, "%")
    heads = [
        (_word(rng, style, "pressure"), unit),
        ("Retrograde liquid volume", told if fraction else "vol %"),
        ("Cumulative produced", told if fraction else "mol %"),
        (rng.choice(["Gas Z", "Z factor"]), ""),
    ]
    body = [
        [style.number(p, digits), style.number(scale * a, places), style.number(scale * b, places), style.number(z, 3)]
        for p, a, b, z in zip(shown, liquid, produced, Z)
    ]
    return truth, _table(rng, style, heads, body, title, [])


def _liberation(rng: random.Random, style: Style) -> tuple[Truth, Rows]:
    truth, unit, digits, shown, title, _ = _steps(
        rng, style, rng.choice(["Differential liberation", "DLE", "Differential vaporization"]), "liberation"
    )
    n = len(shown)
    Bo, Rs, rho = (
        [round(1.5 - 0.05 * k, 3) for k in range(n)],
        [round(140.0 - 18.0 * k, 1) for k in range(n)],
        [round(700.0 + 12.0 * k, 1) for k in range(n)],
    )
    truth.columns = {"oil_volume_factor": list(Bo), "solution_gas_m3_m3": list(Rs), "oil_density_kg_m3": list(rho)}
    field_units = rng.random() < 0.4
    gas = [round(r * 5.614583333, 0) for r in Rs] if field_units else Rs
    if field_units:
        truth.columns["solution_gas_m3_m3"] = [g / 5.614583333 for g in gas]
    heads = [
        (_word(rng, style, "pressure"), unit),
        (rng.choice(["Bo", "Oil FVF", "Formation volume factor"]), rng.choice(["", "m3/Sm3"])),
        (rng.choice(["Rs", "Solution GOR", "Gas in solution"]), "scf/STB" if field_units else "Sm3/Sm3"),
        (_word(rng, style, "density"), "kg/m3"),
    ]
    body = [
        [style.number(p, digits), style.number(b, 3), style.number(r, 0 if field_units else 1), style.number(d, 1)]
        for p, b, r, d in zip(shown, Bo, gas, rho)
    ]
    return truth, _table(rng, style, heads, body, title, [])


def _separators(rng: random.Random, style: Style) -> tuple[Truth, Rows]:
    truth, _, _, _, title, _ = _steps(
        rng, style, rng.choice(["Separator test", "Multistage separator test"]), "separators"
    )
    unit = rng.choice(["barg", "psig", "bara"])
    stages = {"barg": [45.0, 8.0, 0.0], "psig": [650.0, 120.0, 0.0], "bara": [46.0, 9.0, 1.013]}[unit]
    ratio, gravity = [96.4, 24.8, 7.7], [0.705, 0.861, 1.322]
    truth.pressures = [s * PRESSURES[unit] + (ATM if unit.endswith("g") else 0.0) for s in stages]
    truth.columns = {
        "gas_oil_ratio_m3_m3": list(ratio),
        "gas_gravity": list(gravity),
        "temperature": [328.15, 318.15, 288.15],
    }
    heads = [
        ("Stage", ""),
        (_word(rng, style, "pressure"), unit),
        (_word(rng, style, "temperature"), "°C"),
        (rng.choice(["GOR", "Gas-oil ratio"]), "Sm3/Sm3"),
        (rng.choice(["Gas gravity", "Gas gravity (air=1)"]), ""),
    ]
    names = rng.choice([["1", "2", "ST"], ["1st", "2nd", "Stock tank"], ["Stage 1", "Stage 2", "Stock tank"]])
    body = [
        [w, style.number(p, 3 if unit == "bara" else 0), style.number(t, 0), style.number(r, 1), style.number(g, 3)]
        for w, p, t, r, g in zip(names, stages, (55.0, 45.0, 15.0), ratio, gravity)
    ]
    return truth, _table(rng, style, heads, body, title, [])


def _viscosity(rng: random.Random, style: Style) -> tuple[Truth, Rows]:
    truth, unit, digits, shown, title, _ = _steps(
        rng, style, rng.choice(["Oil viscosity", "Viscosity data"]), "viscosity"
    )
    values = [round(0.4 + 0.11 * k, 3) for k in range(len(shown))]
    truth.columns = {"viscosity_Pa_s": [1e-3 * v for v in values]}
    heads = [
        (_word(rng, style, "pressure"), unit),
        (rng.choice(["Viscosity", "Oil viscosity"]), rng.choice(["cP", "mPa·s", "mPa.s"])),
    ]
    body = [[style.number(p, digits), style.number(v, 3)] for p, v in zip(shown, values)]
    return truth, _table(rng, style, heads, body, title, [])


# -- what was read -------------------------------------------------------------------------------------------------------


def differences(truth: Truth, found: Found) -> list[str]:
    """Return what was read otherwise than it was written; what is missing counts where nothing is said of it."""
    said = " ".join(n.text for n in found.notes)
    silent = "not read" not in said and "two readings" not in said and "needs its unit" not in said
    if truth.kind == "composition":
        return _amounts(truth, found, silent)
    if truth.kind == "curve":
        return _points(truth, found, silent)
    return _test(truth, found, silent)


def _amounts(truth: Truth, found: Found, silent: bool) -> list[str]:
    read: dict[str, float] = {}
    masses: dict[str, float] = {}
    densities: dict[str, float] = {}
    basis = ""
    for sample in found.samples:
        basis = sample.distillation.basis or "mass"
        for row in sample.distillation.amounts:
            label = named(str(row[0])).label  # type: ignore[union-attr]
            read[label] = float(row[1])  # type: ignore[arg-type]
            if len(row) > 2 and row[2]:
                masses[label] = 1e3 * parse(row[2], "molar_mass")
            if len(row) > 3 and row[3]:
                densities[label] = parse(row[3], "density")
    for fluid in found.fluids:
        basis = fluid.basis
        for part in fluid.parts:
            name = part.component or part.pseudo.name  # type: ignore[union-attr]
            read[name] = float(part.amount)  # type: ignore[arg-type]
    out = [] if basis == truth.basis or (not read and not silent) else [f"basis {basis} in place of {truth.basis}"]
    for name, value in truth.amounts.items():
        if name not in read:
            if silent and value:
                out.append(f"{name} is missing")
        elif abs(read[name] - value) > 1e-3 * max(value, 0.1):
            out.append(f"{name} {read[name]} in place of {value}")
    out += [f"{name} is none of the sheet" for name in read if name not in truth.amounts]
    for what, own, true in (("molar mass", masses, truth.masses), ("density", densities, truth.densities)):
        out += [
            f"{what} of {n} {own.get(n)} in place of {v}"
            for n, v in true.items()
            if found.samples and abs(own.get(n, 0.0) - v) > 1e-3 * v
        ]
    return out


def _points(truth: Truth, found: Found, silent: bool) -> list[str]:
    if not found.samples:
        return ["nothing was read"] if silent else []
    sample = found.samples[0]
    curve = sample.distillation
    out = [] if curve.method == truth.method else [f"method {curve.method} in place of {truth.method}"]
    default = "mass" if curve.method == "D2887" else "volume"
    out += [] if (curve.basis or default) == truth.basis else [f"basis {curve.basis} in place of {truth.basis}"]
    read = {float(p): parse(t, "temperature") for p, t in curve.points}  # type: ignore[arg-type]
    for percent, T in truth.points:
        if percent not in read:
            out += [f"{percent} % is missing"] if silent else []
        elif abs(read[percent] - T) > 0.02:
            out.append(f"{percent} % at {read[percent]} K in place of {T}")
    out += [f"{p} % is none of the sheet" for p in read if p not in dict(truth.points)]
    if truth.density is not None:
        own = sample.bulk.density
        if own is None:
            out += ["the density is missing"] if silent else []
        elif abs(parse(own, "density") / truth.density - 1.0) > 1e-4:
            out.append(f"density {own} in place of {truth.density}")
    return out


def _test(truth: Truth, found: Found, silent: bool) -> list[str]:
    if not found.tests:
        return ["nothing was read"] if silent else []
    test = found.tests[0]
    if test.kind != truth.basis:
        return [f"{test.kind} in place of {truth.basis}"]
    out = []
    if test.temperature is None:
        out += ["the temperature is missing"] if silent else []
    elif abs(parse(test.temperature, "temperature") - truth.temperature) > 0.02:
        out.append(f"temperature {test.temperature} in place of {truth.temperature:.2f} K")
    pressures = [parse(p, "pressure") for p in test.columns["pressure"]]  # type: ignore[arg-type]
    if len(pressures) != len(truth.pressures) or any(
        abs(a / b - 1.0) > 1e-6 for a, b in zip(pressures, truth.pressures)
    ):
        return [*out, f"pressures {pressures} in place of {truth.pressures}"] if silent else out
    for key, values in truth.columns.items():
        read = test.columns.get(key)
        if read is None:
            out += [f"{key} is missing"] if silent and any(v is not None for v in values) else []
            continue
        for own, true in zip(read, values):
            if (own is None) != (true is None) or (
                true is not None and abs(_number(key, own) - true) > 1e-3 * max(abs(true), 1e-3)
            ):
                out.append(f"{key} {own} in place of {true}")
                break
    saturation = test.singles.get("saturation.pressure_Pa")
    if (
        truth.saturation is not None
        and saturation is not None
        and abs(parse(saturation, "pressure") / truth.saturation - 1.0) > 1e-6
    ):  # type: ignore[arg-type]
        out.append(f"saturation at {saturation} in place of {truth.saturation:.0f} Pa")
    return out


def _number(key: str, cell: object) -> float:
    if isinstance(cell, float):
        return cell
    kinds = {
        "density_kg_m3": "density",
        "oil_density_kg_m3": "density",
        "viscosity_Pa_s": "dynamic_viscosity",
        "temperature": "temperature",
    }
    if key in ("solution_gas_m3_m3", "gas_oil_ratio_m3_m3"):
        number, unit = re.match(r"([\d.e+-]+) (.*)", str(cell)).groups()  # type: ignore[union-attr]
        return float(number) / (5.614583333 if unit == "scf/bbl" else 1.0)
    return parse(str(cell), kinds[key])
