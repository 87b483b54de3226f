"""A fluid's interaction parameters: the library's or zero, with what was typed in their place."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..components import Component
from ..document.read_model import ModelInput
from ..eos.aqueous_library import WATER
from ..eos.building import Interaction, family_of
from ..eos.interaction import library_pairs
from ..remarks import Remark, Value


def interaction(model: ModelInput, components: Sequence[Component], remarks: list[Remark]) -> Interaction:
    """Return the interaction parameters (nc, nc): the library's or zero, own pairs by key or name in their place."""
    nc = len(components)
    kij, slope = np.zeros((nc, nc)), np.zeros((nc, nc))
    own = _own_pairs(model, components, remarks)
    if model.kij == "library" and nc > 1:
        found = library_pairs(components, family_of(model.eos), model.rule, model.alpha)
        kij, slope = found.kij, found.slope
        values: dict[str, Value] = {"scale": model.rule.scale, "exponent": model.rule.exponent}
        remarks.append(Remark("estimate", "model.library", "kij", values))
        told = tuple(f"{components[i].name}–{components[j].name}" for i, j in found.missing if (i, j) not in own)
        if told:
            remarks.append(Remark("warning", "model.pairs_missing", "kij", {"pairs": told}))
    elif nc > 1:
        remarks.append(Remark("warning", "model.zero", "kij"))
    for (i, j), (value, rise) in own.items():
        kij[i, j] = kij[j, i] = value
        slope[i, j] = slope[j, i] = rise
    has_water = any(c.identity == WATER for c in components)
    salt = model.salt if has_water and model.kij == "library" else None
    return Interaction(kij, slope if slope.any() else None, salt, _own_aqueous(model, components, remarks))


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
