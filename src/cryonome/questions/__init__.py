"""What a document asks, answered: the kinds of questions, paths into answers, and questions begun from a number."""

from ..results import Evaluator
from . import kinds
from .schema import document_schema
from .solving import solve, solve_study

Evaluator.answering = staticmethod(solve_study)

__all__ = ["document_schema", "kinds", "solve", "solve_study"]
