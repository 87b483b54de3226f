"""The words of typed questions: what names a kind, a property, an equation, an inhibitor, and which words say
nothing."""

from __future__ import annotations

import re
from functools import cache

from ..document.conditions import CONDITIONS
from ..document.kinds import study_kinds
from ..eos.building import EQUATIONS
from ..fluids.standard import STANDARD
from ..properties import PROPERTIES

SILENT = frozenset(
    re.findall(
        r"\S+",
        """
        what which where whether when how much many do does did is are was be will would can could should the a an of for at in on with and or to
        from by as it its it's this that there these those give show me tell compute calculate find get please let us i want need now about over
        between through along into my our make makes made any all has have having if form forms formed formation occurs occur happens happen goes go
        come comes hold held begin begins start starts point points line lines limit limits curve value values number full test tests given
        conditions condition under then asked ask amount temperatures pressures temperature pressure measured fluid fluids sample read reads change
        changes so see plot draw draws gives say says vary varies varied using use used while per each every p-t pt t-p dosed dosing injected
        """,
    )
)
"""Words that a question may be said with and that add nothing to it."""

PHASES = {"liquid": "liquid", "oil": "liquid", "condensate": "liquid", "vapour": "vapour", "vapor": "vapour", "gas": "vapour", "aqueous": "aqueous", "water": "aqueous"}  # fmt: skip
"""Words that name a phase beside a property."""

PROPERTY_WORDS: dict[str, str] = {
    "density": "density_kg_m3", "densities": "density_kg_m3", "viscosity": "viscosity_Pa_s", "viscosities": "viscosity_Pa_s",
    "z": "Z", "z factor": "Z", "z-factor": "Z", "compressibility factor": "Z", "compressibility": "isothermal_compressibility_1_Pa",
    "cp": "heat_capacity_p_J_mol_K", "heat capacity": "heat_capacity_p_J_mol_K", "cv": "heat_capacity_v_J_mol_K",
    "molecular weight": "molar_mass_g_mol", "joule thomson": "joule_thomson_K_Pa", "joule-thomson": "joule_thomson_K_Pa",
    "sound": "speed_of_sound_m_s", "sound speed": "speed_of_sound_m_s", "speed of sound": "speed_of_sound_m_s",
    "conductivity": "thermal_conductivity_W_m_K", "interfacial tension": "surface_tension_N_m", "ift": "surface_tension_N_m",
    "vapour fraction": "vapour_fraction", "vapor fraction": "vapour_fraction", "vapour share": "vapour_fraction", "quality": "vapour_fraction",
    "gor": "standard.gas_oil_ratio_m3_m3", "gas oil ratio": "standard.gas_oil_ratio_m3_m3", "gas-oil ratio": "standard.gas_oil_ratio_m3_m3",
    "api": "standard.api", "api gravity": "standard.api", "gas gravity": "standard.gas_gravity", "heating value": "standard.gross_heating_value_J_m3",
    "wobbe index": "standard.wobbe_index_J_m3", "share": "fraction", "fraction": "fraction",
}  # fmt: skip
"""Properties by what they are called beside their own names."""

EQUATION_WORDS = {
    "van der waals": "VDW", "peng-robinson": "PR78", "peng robinson": "PR78", "soave": "SRK", "soave-redlich-kwong": "SRK", "redlich-kwong": "RK",
    "redlich kwong": "RK", "saft": "PC-SAFT", "pr": "PR78", "ideal gas": "IDEAL",
}  # fmt: skip
"""Equations by what they are called beside their own names."""


def folded(text: str) -> str:
    """Return words as they are compared: small, one space between them, one hyphen."""
    return re.sub(r"\s+", " ", text.casefold().replace("‑", "-").replace("–", "-")).strip()


@cache
def kind_words() -> dict[str, str]:
    """Return what names each kind of question, the words to its name."""
    out: dict[str, str] = {}
    for kind in study_kinds().values():
        for words in (*kind.phrases, kind.title, kind.name.replace("_", " ")):
            if folded(words) not in property_words():
                out.setdefault(folded(words), kind.name)
    return out


@cache
def property_words() -> dict[str, str]:
    """Return what names each property of a state, the words to its key in the answer."""
    own = {folded(e.name): e.answer_key for e in PROPERTIES.values()}
    standard = {folded(name): f"standard.{key}" for key, (name, _) in STANDARD.items()}
    return {**standard, **own, **PROPERTY_WORDS}


@cache
def equation_words() -> dict[str, str]:
    """Return what names each equation."""
    return {**{w: e for w, e in EQUATION_WORDS.items() if e in EQUATIONS}, **{folded(e): e for e in EQUATIONS}}


@cache
def condition_words() -> dict[str, str]:
    """Return what names each condition of a state."""
    more = {"vapour share": "vapour_fraction", "vapor fraction": "vapour_fraction", "quality": "vapour_fraction"}
    return {**{folded(c.title): k for k, c in CONDITIONS.items()}, **more}
