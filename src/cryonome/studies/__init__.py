"""What a document asks for, computed: the only caller of the physics."""

from . import characterization, envelope, flash, saturation  # noqa: F401  (they register their kinds)
from .evaluator import Cancelled, Evaluator
from .registry import NoAnswerError, solve, solve_study

__all__ = ["Cancelled", "Evaluator", "NoAnswerError", "solve", "solve_study"]
