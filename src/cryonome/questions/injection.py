"""The dose of an inhibitor as it is injected: lean, with water and salt of its own, into water that brings salt."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..constants import T_60F
from ..document import Reader
from ..document.reader import EMPTY
from ..properties.aqueous import brine
from ..properties.aqueous.organics import ORGANICS, excess_volume, volume
from ..properties.aqueous.region1 import MOLAR_MASS, liquid_water
from ..remarks import Remark
from ..results.context import Answer, NoAnswerError
from ..results.hydrates import Dose, Icy, least_share, read_doses
from ..solids.inhibitors import INHIBITORS, SALTS
from ..solids.salt_solubility import most_salt

ROUNDS = 30
SETTLED = 1e-9


@dataclass(frozen=True)
class Lean:
    """What is injected: mass fractions of the inhibitor and of ``salts`` in it, and of salts in the ``water`` it meets."""

    strength: float
    salts: Dose
    water: Dose


def read_lean(study: Any, inhibitor: str | None, reader: Reader) -> Lean | None:
    """Return what is injected, None where no lean strength is given."""
    given = study.lean_strength not in EMPTY
    for key in ("lean_salts", "water_salts"):
        if getattr(study, key) and not given:
            reader.at("lean_strength").fault("salts before they meet need the strength of what is injected, as 85 wt%")
            return None
    if not given:
        return None
    strength = reader.at("lean_strength").fraction(study.lean_strength, "the strength of what is injected")
    own, water = (read_doses(getattr(study, k), reader.at(k)) for k in ("lean_salts", "water_salts"))
    for key, dose in (("lean_salts", own), ("water_salts", water)):
        for name, _ in dose:
            if name not in SALTS:
                reader.at(key, name).fault(f"{name} is no salt; give {', '.join(SALTS)} here")
    if inhibitor in SALTS:
        reader.at("lean_strength").fault(f"{inhibitor} is a salt; a lean strength is of an alcohol or a glycol")
    if study.inhibitors:
        reader.at("inhibitors").fault("what the dosed liquid holds follows from what is injected; leave inhibitors out")
    if strength is None:
        return None
    if not 0.0 < strength + sum(w for _, w in own) <= 1.0:
        reader.at("lean_strength").fault(f"{100 * strength:g} wt% with its salts is outside 0 to 100 wt%")
        return None
    return Lean(strength, own, water)


def _needed(lean: Lean, share: float, inhibitor: str, lost: float = 0.0) -> float:
    """Return kg of lean inhibitor for each kg of water with its salts, ``lost`` kg of it not staying there. Raises
    NoAnswerError where it is too weak."""
    if share >= lean.strength:
        values = {"name": inhibitor, "lean": f"{100 * lean.strength:.3g}", "needed": f"{100 * share:.3g}"}
        raise NoAnswerError(Remark("warning", "inhibitor.weak", values=values))
    return (share + lost * (1.0 - share)) / (lean.strength - share)


def _salts(lean: Lean, needed: float, lost: float = 0.0) -> Dose:
    """Return the salts of the dosed liquid by mass."""
    out: dict[str, float] = {}
    whole = 1.0 + needed - lost
    for dose, mass in ((lean.water, 1.0), (lean.salts, needed)):
        for name, w in dose:
            out[name] = out.get(name, 0.0) + w * mass / whole
    return tuple(sorted(out.items()))


def diluted(own: Icy, lean: Lean | None, inhibitor: str, typed: Dose, T: float, P: float) -> Dose | None:
    """Return the salts of the dosed liquid, which depend on the dose as it does on them; None where nothing is said of
    an injection. Raises NoAnswerError where what is injected is too weak."""
    if lean is None:
        return None
    salts = _salts(lean, 0.0)
    for _ in range(ROUNDS):
        share, _ = least_share(own, inhibitor, salts, T, P)
        if share is None or np.isnan(share):
            return salts
        new = _salts(lean, _needed(lean, share, inhibitor))
        moved = max((abs(w - dict(salts).get(n, 0.0)) for n, w in new), default=0.0)
        salts = new
        if moved < SETTLED:
            break
    return salts


def density(inhibitor: str, lean: Lean, T: float = T_60F) -> float:
    """Return the density of what is injected at T K and 1 bar, kg/m3; salt counts as sodium chloride in its water."""
    at, P = np.array([T]), np.array([1e5])
    salt = sum(w for _, w in lean.salts)
    water = 1.0 - lean.strength - salt
    mass = INHIBITORS[inhibitor].molar_mass
    moles = np.array([water / MOLAR_MASS, lean.strength / mass])
    own = volume(inhibitor, mass, at, P)[0][0] * moles[1] if inhibitor in ORGANICS else lean.strength / 1000.0
    salty = 0.0
    if water + salt > 0.0:
        share = salt / (water + salt)
        rho = liquid_water(at, P).density[0] + float(brine.denser(at, P, min(share, 0.3))[0][0])
        salty = (water + salt) / rho
    mixing = excess_volume((inhibitor,), (moles / moles.sum())[None])[0] * moles.sum() if inhibitor in ORGANICS else 0.0
    return float(1.0 / (own + salty + mixing))


def injected(asked: Any, dose: Dose, share: float, goes: Mapping[str, Any]) -> Answer:
    """Return the lean rate, the rich strength and the salts of the dosed liquid; nothing where no injection is asked."""
    lean: Lean | None = asked.lean
    if lean is None:
        return {}
    lost = 0.0
    if asked.water is not None:
        each = (goes.get(f"lost_to_{k}_kg_s") or 0.0 for k in ("vapour", "condensate"))
        lost = sum(each) / (asked.water / (1.0 - sum(w for _, w in lean.water)))
    needed = _needed(lean, share, asked.inhibitor, lost) if share else 0.0
    salts = dict(_salts(lean, needed, lost))
    solvent = 1.0 - sum(salts.values())
    rich = share / solvent
    most = most_salt(asked.inhibitor, rich)
    out: Answer = {
        "lean_kg_kg": needed,
        "lean_m3_kg": needed / density(asked.inhibitor, lean),
        "rich_mass_percent": 100.0 * rich,
        "salts_mass_percent": {n: 100.0 * w for n, w in salts.items()},
        "most_salt_mass_percent": None if most is None else 100.0 * most,
        "salt_drops_out": None if most is None else bool(salts.get("NaCl", 0.0) > most),
    }
    if asked.water is not None:
        mass = asked.water / (1.0 - sum(w for _, w in lean.water))
        out |= {"lean_kg_s": mass * needed, "lean_m3_s": mass * out["lean_m3_kg"]}
    return out
