"""Steps of a plant on real fluids: machines, exchangers, valves, separators, in chains with loops; and pipes.

Each step is a balance of mass and energy and flashes of what it holds; all variants of a chain are done at once."""

from . import exchanger, joints, machines
from .chain import Done, do
from .medium import Medium, Stream
from .steps import KINDS, Each, Outcome, Step, StepFault, StepKind, Told

__all__ = [
    "KINDS", "Done", "Each", "Medium", "Outcome", "Step", "StepFault", "StepKind", "Stream", "Told", "do", "exchanger", "joints", "machines",
]  # fmt: skip
