"""What properties there are to choose from, each with its meaning and its value at one state, so that none is taken
for another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..properties import PROPERTIES
from ..units.endings import kind_of_key
from .columns import AT_STANDARD, COMPOSITIONS, OF_PHASE, OF_WHOLE, PHASES, Column, column_of, values_of
from .standard import STANDARD
from .states import States

OWN = {
    "temperature_K": ("Temperature", "of the state"),
    "pressure_Pa": ("Pressure", "of the state, absolute"),
    "vapour_fraction": ("Vapour fraction", "moles of vapour per mole of the whole"),
    "fraction": ("Mole share", "moles of the phase per mole of the whole"),
}
"""Properties that are no entries of the registry: name and meaning."""

WHOLE = "the whole"


@dataclass(frozen=True)
class Choice:
    """A property that may be chosen: its ``key``, ``name``, what it is ``of``, one line of ``meaning``, the kind of
    its unit ("" for a plain number) with the factor from its key's unit to SI, and its ``value`` at the state looked
    at, None where there is none."""

    key: str
    name: str
    of: str
    meaning: str
    kind: str
    factor: float
    value: float | None

    def found_by(self, words: Sequence[str]) -> bool:
        """Tell whether every word occurs in what is told of the property."""
        told = f"{self.name} of {self.of} {self.meaning} {self.key}".lower()
        return all(w in told for w in words)


def described(key: str) -> tuple[str, str, str]:
    """Return name, what it is of and meaning of a property by its key; its own words where it is not known."""
    phase, dot, own = key.removeprefix("phases.").partition(".")
    if not dot:
        own, of = phase, WHOLE
    elif phase == AT_STANDARD:
        name, meaning = STANDARD.get(own, (own.replace("_", " "), ""))
        return name, "standard conditions", meaning
    else:
        of = phase
    counted, _, component = own.partition(".")
    if component and counted in COMPOSITIONS:
        by = COMPOSITIONS[counted]
        unit = "moles of the component per mole" if by == "mole" else "mass of the component per mass"
        return f"{by.capitalize()} fraction of {component}", of, f"{unit} of the phase"
    if own in OWN:
        return OWN[own][0], of, OWN[own][1]
    entry = (OF_WHOLE if of == WHOLE else OF_PHASE).get(own)
    return (entry.name, of, entry.meaning) if entry else (own.replace("_", " "), of, "")


def title_of(key: str) -> str:
    """Return a property as a heading: its name, with the phase it is of."""
    name, of, _ = described(key)
    return name if of in (WHOLE, "standard conditions") else f"{name} of the {of}"


def choices(states: States) -> list[Choice]:
    """Return every property with its value at the first of some states, alike ones beside each other."""
    order = list(dict.fromkeys(["temperature", "pressure", "vapour_fraction", "fraction", *PROPERTIES]))
    keys = ["temperature_K", "pressure_Pa", "vapour_fraction", *OF_WHOLE]
    keys += [f"{phase}.{own}" for phase in PHASES for own in ("fraction", *OF_PHASE)]
    keys += [f"{AT_STANDARD}.{own}" for own in STANDARD]
    components = [f"{phase}.{own}.{name}" for own in COMPOSITIONS for phase in PHASES for name in states.model.names]

    def place(key: str) -> int:
        own = key.rpartition(".")[2]
        entry = OF_PHASE.get(own) or OF_WHOLE.get(own)
        name = entry.key if entry else {"temperature_K": "temperature", "pressure_Pa": "pressure"}.get(own, own)
        if key.startswith(AT_STANDARD):
            # Beside the actual one that it may be taken for.
            name = {
                "liquid_density_kg_m3": "density",
                "liquid_m3_mol": "molar_volume",
                "gas_m3_mol": "molar_volume",
            }.get(own, "thermal_conductivity")
        return order.index(name) if name in order else len(order)

    return [_choice(key, states) for key in [*sorted(keys, key=place), *components]]


def _choice(key: str, states: States) -> Choice:
    column = column_of(key, states.model.names)
    assert isinstance(column, Column), column
    found = float(values_of(column, states)[0][0])
    name, of, meaning = described(key)
    kind, factor = kind_of_key(key)
    return Choice(key, name, of, meaning, kind, factor, found if np.isfinite(found) else None)
