"""What a document asks for, computed: the only caller of the physics."""

from ..watch import Cancelled
from .context import NoAnswerError
from .evaluator import Evaluator, Project
from .schema import document_schema
from .sentences import Units, sentence
from .solving import solve, solve_study

__all__ = [
    "Cancelled", "Evaluator", "NoAnswerError", "Project", "Units", "document_schema", "sentence", "solve", "solve_study",
]  # fmt: skip
