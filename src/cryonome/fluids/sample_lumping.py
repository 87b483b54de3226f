"""What lumping a sample's fractions does to its saturation pressure."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..characterization import CharacterizedSample
from ..document import FluidInput
from ..document.read_fluid import PartInput
from ..document.read_model import ModelInput
from ..equilibrium.saturation import saturation
from ..remarks import Remark, Value, kelvin, pascal
from ..watch import UNWATCHED, Watch
from .blending import Sources
from .building import build_fluid

RESERVOIR = 373.15
"""K. The temperature compared at where none is given."""


@dataclass(frozen=True)
class LumpingEffect:
    """The highest saturation pressure, Pa, at ``temperature`` K of the lumped sample and of its fractions; None where
    there is none. ``kind`` is "bubble" or "dew"."""

    temperature: float
    lumped: float | None
    unlumped: float | None
    kind: str
    fractions: int

    def remark(self) -> Remark:
        """Return the effect as a remark."""
        T = kelvin(self.temperature)
        if self.lumped is None or self.unlumped is None:
            return Remark("estimate", "lumping.none", "carbon", {"T": T})
        off = 100.0 * (self.lumped / self.unlumped - 1.0)
        values: dict[str, Value] = {
            "T": T,
            "kind": self.kind,
            "lumped": pascal(self.lumped, 2),
            "unlumped": pascal(self.unlumped, 2),
            "fractions": self.fractions,
            "off": off,
        }
        return Remark("estimate", "lumping.effect", "carbon", values)


def lumping_effect(
    sample: CharacterizedSample, T: float, model: ModelInput, watch: Watch = UNWATCHED
) -> LumpingEffect | None:
    """Return the effect at T K with an equation of state, None for a sample that is not lumped."""
    whole = sample.unlumped
    if whole is None:
        return None
    lumped, kind = _highest(sample, T, model, watch.part(0.0, 0.4))
    unlumped, other = _highest(whole, T, model, watch.part(0.4, 1.0))
    return LumpingEffect(T, lumped, unlumped, kind or other, len(whole.cuts))


def _highest(sample: CharacterizedSample, T: float, model: ModelInput, watch: Watch) -> tuple[float | None, str]:
    part = PartInput(sample.name, sample.name, True, "mole", 1.0)
    fluid = FluidInput(sample.name, sample.name, (part,), None, "own", model)
    built = build_fluid(fluid, Sources(lambda _name, _grid: sample, lambda _name: fluid))
    found = saturation(built.eos, np.full(1, T), built.z[None, :], watch=watch)
    if not bool(found.found[0]):
        return None, ""
    return float(found.P[0]), "bubble" if bool(found.bubble[0]) else "dew"
