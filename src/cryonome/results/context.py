"""What a kind of question is given to solve with, and how it says that there is no answer."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..document import Fluid, Sample
from ..errors import DomainError
from ..remarks import Remark
from ..watch import Watch
from .evaluator import Project

Answer = dict[str, Any]


class NoAnswerError(DomainError):
    """A valid study that has no answer; ``remarks`` say why, the first of them the reason."""

    def __init__(self, *remarks: Remark) -> None:
        super().__init__(remarks[0].code)
        self.remarks = remarks


def reason_of(error: DomainError) -> str | list[Remark]:
    """Return why there is no answer: remarks as data, or the sentence."""
    return list(error.remarks) if isinstance(error, NoAnswerError) else str(error)


@dataclass(frozen=True)
class Context:
    """The project as a question may know it, and who watches."""

    project: Project
    watch: Watch

    def fluid(self, name: str) -> Fluid:
        """Return a fluid of the document by its name."""
        found = self.project.document.fluid(name)
        if found is None:
            raise DomainError(f"unknown fluid '{name}'")
        return found

    def sample(self, name: str) -> Sample:
        """Return a sample of the document by its name."""
        found = self.project.document.sample(name)
        if found is None:
            raise DomainError(f"unknown sample '{name}'")
        return found
