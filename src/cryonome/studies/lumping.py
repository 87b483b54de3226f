"""What lumping a sample's fractions does to its saturation pressure."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..characterization import CharacterizedSample
from ..document.model import Fluid, FluidPart, Model
from ..equilibrium.phase_map import phase_map
from .blending import Sources
from .inputs import build_fluid

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


def lumping_effect(
    sample: CharacterizedSample, T: float, model: Model, cancelled: Callable[[], bool] = lambda: False
) -> LumpingEffect | None:
    """Return the effect at T K with an equation of state, None for a sample that is not lumped."""
    whole = sample.unlumped
    if whole is None:
        return None
    found = [_highest(one, T, model, cancelled) for one in (sample, whole)]
    (lumped, kind), (unlumped, other) = found
    return LumpingEffect(T, lumped, unlumped, kind or other, len(whole.cuts))


def _highest(
    sample: CharacterizedSample, T: float, model: Model, cancelled: Callable[[], bool]
) -> tuple[float | None, str]:
    fluid = Fluid(name=sample.name, parts=(FluidPart(sample=sample.name, amount=1),), model=_plain(model))
    built = build_fluid(fluid, Sources(lambda _name, _grid: sample, lambda _name: fluid))
    points = phase_map(built.eos, built.z, (), cancelled).crossings([0.0, 1.0], T=T)
    if not points:
        return None, ""
    best = max(points, key=lambda p: p.P)
    return float(best.P), "bubble" if best.beta == 0.0 else "dew"


def _plain(model: Model) -> Model:
    return model.model_copy(update={"kij_pairs": ()})


def effect_text(effect: LumpingEffect) -> str:
    """Return the effect as a sentence, pressures in bar."""
    at = f"at {effect.temperature - 273.15:.1f} °C"
    if effect.lumped is None or effect.unlumped is None:
        return f"There is no saturation pressure {at} to compare lumped and unlumped fluid by."
    off = 100.0 * (effect.lumped / effect.unlumped - 1.0)
    return (
        f"The saturation pressure {at} ({effect.kind} point) is {effect.lumped / 1e5:.2f} bar lumped and "
        f"{effect.unlumped / 1e5:.2f} bar with all {effect.fractions} fractions, {off:+.2f} %."
    )
