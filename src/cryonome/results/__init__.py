"""What is known of a document: its samples, fluids and lines, each computed once per content of its inputs."""

from .context import Context, NoAnswerError
from .evaluator import Evaluator, Project

__all__ = ["Context", "Evaluator", "NoAnswerError", "Project"]
