"""Water analyses: ions by mass to the salts of a brine, as hydrates and aqueous phases know them."""

from __future__ import annotations

import re
from dataclasses import dataclass

from .entries import folded

IONS: dict[str, tuple[float, int, str]] = {
    "Na": (22.990, 1, "na sodium natrium sodio"), "K": (39.098, 1, "k potassium kalium potasio potassio"), "Li": (6.94, 1, "li lithium litio"), "NH4": (18.039, 1, "nh4 ammonium amonio"),
    "Ca": (40.078, 2, "ca calcium calcio kalzium"), "Mg": (24.305, 2, "mg magnesium magnesio"), "Ba": (137.327, 2, "ba barium bario"), "Sr": (87.62, 2, "sr strontium estroncio stronzio"),
    "Fe": (55.845, 2, "fe iron eisen fer hierro ferro"), "Mn": (54.938, 2, "mn manganese mangan"), "Zn": (65.38, 2, "zn zinc zink"),
    "Cl": (35.453, -1, "cl chloride chlorid chlorure cloruro cloreto chlorides"), "Br": (79.904, -1, "br bromide bromid bromuro"), "F": (18.998, -1, "f fluoride fluorid"), "I": (126.904, -1, "i iodide iodid"),
    "SO4": (96.06, -2, "so4 sulphate sulfate sulfat sulfato"), "HCO3": (61.017, -1, "hco3 bicarbonate hydrogencarbonat bicarbonato bicarbonates"), "CO3": (60.009, -2, "co3 carbonate carbonat carbonato"),
}  # fmt: skip
"""Molar mass g/mol, charge and names of the ions of formation waters."""

_BY_NAME = {name: ion for ion, (_, _, names) in IONS.items() for name in names.split()}

ION_SIGNS = re.compile(r"[+\-−⁺⁻]\s*$|[A-Z][a-z]?\s*\(?\d?[+\-−⁺⁻]")
"""What tells a formula of an ion from other letters."""

SALTS = {"NaCl": 58.443, "KCl": 74.551, "CaCl2": 110.984}
"""Molar masses, g/mol, of the salts that hydrates and activities are computed with."""


def ion_of(text: str) -> str | None:
    """Return the ion a name or a formula means: Na+, Ca²⁺, Sulphate (SO4), None where it is none."""
    words = folded(text)
    words = re.sub(r"\b(?:ion|dissolved|total|as)\b|\bdiss\.?", " ", words).strip(" :,.")
    bare = re.sub(r"\s*[(\[].*?[)\]]", "", words).strip()
    for piece in (bare, *re.findall(r"[(\[](.*?)[)\]]", words)):
        squeezed = re.sub(r"\s", "", piece)
        # SO4-- loses its signs, Ca2+ and SO42- the figure before them too.
        for pattern in (r"[+\-−]*$", r"\d?[+\-−]+$", r"[+\-−]\d$"):
            bare_ion = re.sub(pattern, "", squeezed)
            if bare_ion in _BY_NAME:
                return _BY_NAME[bare_ion]
    return None


@dataclass(frozen=True)
class Brine:
    """A water: mass percents of the salts in the brine, mol NaCl per kg of water of the same ionic strength,
    dissolved solids in mg/L or mg/kg as they add up, and the share of charge by which the ions do not balance."""

    name: str
    salts: tuple[tuple[str, float], ...]
    molality: float
    solids: float
    unbalanced: float


def brine_of(name: str, ions: dict[str, float], per_litre: bool) -> Brine:
    """Return the brine of ions in mg/L, or in mg per kg of brine.

    Litres become kilograms by 1 + 0.68e-6 of the dissolved solids in mg/L, the slope of sodium chloride brines at 15
    degC to some 200 g/L (International Critical Tables). Each salt has the moles of its cation, calcium chloride
    those of all divalent ones, and sodium chloride what is left of the cations' charge. Their ionic strength, half
    the sum of molality times charge squared, gives the sodium chloride of the same strength."""
    solids = sum(ions.values())
    density = 1.0 + 0.68e-6 * solids if per_litre else 1.0
    per_kg = {ion: 1e-3 * mg / density for ion, mg in ions.items()}  # g per kg of brine
    moles = {ion: g / IONS[ion][0] for ion, g in per_kg.items()}
    water = 1.0 - 1e-3 * sum(per_kg.values())
    plus = sum(n * IONS[ion][1] for ion, n in moles.items() if IONS[ion][1] > 0)
    minus = -sum(n * IONS[ion][1] for ion, n in moles.items() if IONS[ion][1] < 0)
    if not plus and minus:
        moles["Na"] = plus = minus  # only chlorides were measured
    calcium = sum(n for ion, n in moles.items() if IONS[ion][1] == 2)
    potassium = moles.get("K", 0.0)
    sodium = max(plus - 2.0 * calcium - potassium, 0.0)
    strength = 0.5 * sum(n * IONS[ion][1] ** 2 for ion, n in moles.items()) / max(water, 0.1)
    salts = {"NaCl": sodium, "CaCl2": calcium, "KCl": potassium}
    shares = tuple((salt, float(f"{0.1 * n * SALTS[salt]:.4g}")) for salt, n in salts.items() if n * SALTS[salt] > 0.05)
    off = abs(plus - minus) / max(plus + minus, 1e-12)
    return Brine(name, shares, float(f"{strength:.4g}"), solids, off)
