"""A fluid's interaction parameters: the library's or zero, with what was typed in their place."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..components import Component
from ..document.read_model import ModelInput
from ..eos.aqueous_library import WATER
from ..eos.building import BONDS, Interaction, family_of
from ..eos.cpa_library import bonded_pairs
from ..eos.interaction import library_pairs
from ..remarks import Remark, Value


def interaction(model: ModelInput, components: Sequence[Component], remarks: list[Remark]) -> Interaction:
    """Return the interaction parameters (nc, nc): the library's or zero, own pairs by key or name in their place."""
    nc = len(components)
    kij, slope, warming = np.zeros((nc, nc)), np.zeros((nc, nc)), None
    own = _own_pairs(model, components, remarks)
    if model.kij == "library" and nc > 1:
        found = library_pairs(components, family_of(model.eos), model.rule, model.alpha)
        kij, slope = found.kij, found.slope
        values: dict[str, Value] = {"scale": model.rule.scale, "exponent": model.rule.exponent}
        remarks.append(Remark("estimate", "model.library", "kij", values))
        missing = found.missing
        if model.eos == BONDS:
            bonded = bonded_pairs(components)
            there = ~np.isnan(bonded.kij)
            kij, slope, warming = np.where(there, bonded.kij, kij), np.where(there, 0.0, slope), bonded.warming
            missing = (*((i, j) for i, j in missing if not there[i, j]), *bonded.missing)
        told = tuple(f"{components[i].name}–{components[j].name}" for i, j in missing if (i, j) not in own)
        if told:
            remarks.append(Remark("warning", "model.pairs_missing", "kij", {"pairs": told}))
    elif nc > 1:
        remarks.append(Remark("warning", "model.zero", "kij"))
    for (i, j), (value, rise) in own.items():
        kij[i, j] = kij[j, i] = value
        slope[i, j] = slope[j, i] = rise
        if warming is not None:
            warming[i, j] = warming[j, i] = 0.0
    has_water = any(c.identity == WATER for c in components)
    salt = model.salt if has_water and model.kij == "library" else None
    aqueous = _own_aqueous(model, components, remarks)
    return Interaction(kij, slope if slope.any() else None, salt, aqueous, warming)


def library_value(eos: str, alpha: str, one: Component, other: Component) -> float:
    """Return the library's parameter of a pair at 298.15 K for an equation with its alpha function."""
    if eos == BONDS:
        bonded = float(bonded_pairs([one, other]).kij[0, 1])
        if not np.isnan(bonded):
            return bonded
    return float(library_pairs([one, other], family_of(eos), alpha=alpha).kij[0, 1])


def _own_aqueous(
    model: ModelInput, components: Sequence[Component], remarks: list[Remark]
) -> tuple[tuple[int, float, float], ...]:
    """Return the fluid's own parameters with water in phases of water: place, value at 298.15 K and slope."""
    place = {c.name: i for i, c in enumerate(components)} | {c.identity: i for i, c in enumerate(components)}
    out: dict[int, tuple[int, float, float]] = {}
    for name, value, rise in model.aqueous:
        i = place.get(name)
        if i is None or WATER not in place:
            remarks.append(Remark("warning", "model.pair_without_effect", "kij", {"one": name, "other": WATER}))
        else:
            out[i] = i, value, rise
    return tuple(out.values())


def _own_pairs(
    model: ModelInput, components: Sequence[Component], remarks: list[Remark]
) -> dict[tuple[int, int], tuple[float, float]]:
    """Return value and slope of the fluid's own pairs by place, the lower first."""
    place = {c.name: i for i, c in enumerate(components)} | {c.identity: i for i, c in enumerate(components)}
    out: dict[tuple[int, int], tuple[float, float]] = {}
    for one, other, value, rise in model.pairs:
        i, j = place.get(one), place.get(other)
        if i is None or j is None:
            remarks.append(Remark("warning", "model.pair_without_effect", "kij", {"one": one, "other": other}))
            continue
        out[min(i, j), max(i, j)] = value, rise
    return out
