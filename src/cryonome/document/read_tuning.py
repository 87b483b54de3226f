"""Reading what a tuning changed of a fluid."""

from __future__ import annotations

from dataclasses import dataclass

from ..eos.building import PURE_FLUID, SAFT
from ..tuning import ANY_SIGN, PROPERTIES
from .model import Tuning
from .reader import Reader


@dataclass(frozen=True)
class TuningInput:
    """What a tuning changed: property, component ids or names, those of the partners, and the value; ``of`` the mark
    of the fluid it was made for."""

    of: str
    changes: tuple[tuple[str, tuple[str, ...], tuple[str, ...], float], ...]


def read_tuning(given: Tuning | None, eos: str, here: Reader) -> TuningInput | None:
    """Return what a tuning changed; components are looked up where the fluid is made, since cuts have their ids only
    then."""
    if given is None:
        return None
    if eos in (SAFT, PURE_FLUID):
        here.fault(
            f"a tuning is of a cubic equation; {eos} takes none. Choose the equation it was made with or leave the tuning out"
        )
    changes = []
    for i, change in enumerate(given.changes):
        row = here.at("changes", i)
        if not row.at("property").known(change.property, PROPERTIES, "property"):
            continue
        own = PROPERTIES[change.property]
        pair = change.property.startswith("kij")
        if not change.components:
            row.at("components").fault("the change names no components; list their ids")
        if pair != bool(change.partners):
            row.at("with").fault(
                "an interaction parameter is with other components; list them"
                if not change.partners
                else "only interaction parameters are with others; leave it out"
            )
        value = row.at("value").number(change.value, f"a value of the {own.title}")
        if value is not None and not own.plain and change.property not in ANY_SIGN and not 0.05 <= value <= 20.0:
            row.at("value").fault(f"a factor of {value:g} is outside 0.05 to 20")
        elif value is not None and not abs(value) < (1.0 if own.plain else 100.0):
            row.at("value").fault(
                f"a value of {value:g} is outside -{1.0 if own.plain else 100.0:g} to {1.0 if own.plain else 100.0:g}"
            )
        elif value is not None:
            changes.append((change.property, change.components, change.partners, value))
    return TuningInput(given.of, tuple(changes))
