"""What the header of a single column means, and its unit: for ranges pasted into a grid whose columns are known."""

from __future__ import annotations

import re

from ..units import normal_unit
from .words import AMOUNT, TEMPERATURE, as_unit, basis_of, means, method_of, unit_in


def column_meaning(head: str) -> str | None:
    """Return ``percent``, ``temperature``, ``density``, ``molar_mass``, ``viscosity``, ``name`` or ``amount`` for a
    header, None where no word is known."""
    if means(head, "molar_mass"):
        return "molar_mass"
    if means(head, "density"):
        return "density"
    if means(head, "viscosity"):
        return "viscosity"
    if means(head, "name"):
        return "name"
    if method_of(head) and "%" not in head:
        return "temperature"
    if unit_in(head, "temperature") and not basis_of(head):
        return "temperature"
    if means(head, "percent"):
        return "percent"
    if means(head, "temperature"):
        return "temperature"
    return "amount" if AMOUNT.search(head.casefold()) or basis_of(head) else None


def column_unit(head: str) -> str:
    """Return the unit a header names, "" where it names none."""
    what = column_meaning(head)
    bare = head if what == "temperature" else TEMPERATURE.sub(" ", head)
    kinds = {
        "temperature": ("temperature",),
        "density": ("density",),
        "molar_mass": ("molar_mass",),
        "viscosity": ("kinematic_viscosity", "dynamic_viscosity"),
    }
    found = unit_in(
        bare,
        *kinds.get(what or "", ("temperature", "density", "molar_mass", "kinematic_viscosity", "dynamic_viscosity")),
    )
    if not found and what == "density" and "api" in head.casefold():
        return "degAPI"
    if not found and what == "density" and re.search(r"gravity|\bs\.?g\b", head, re.IGNORECASE):
        return "SG"
    return found or next(
        (u for k in kinds.values() for kind in k if (u := as_unit(normal_unit(head.strip()), kind))), ""
    )
