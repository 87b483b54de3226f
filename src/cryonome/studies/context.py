"""What a study kind is given to solve with, and what it may answer with."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, NotRequired

from typing_extensions import TypedDict

from ..document import Fluid, Sample
from ..errors import DomainError
from ..remarks import Remark
from ..watch import Watch
from .evaluator import Project
from .references import ReferenceAnswer

Answer = dict[str, Any]


class Common(TypedDict):
    """What every answer carries: whether it could be given, sentences about it, why not, and numbers from elsewhere beside its own."""

    ok: bool
    notes: list[str]
    error: NotRequired[str]
    reference: NotRequired[list[ReferenceAnswer]]


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
