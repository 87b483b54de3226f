"""Answers of a question in many samples of its inputs, a block at a time.

Every sample begins from the question as it stands, never from another sample: so the numbers hang on seed and place
alone, whoever computes them."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ...document import Document, Fluid, Study
from ...document.edits import set_each
from ...document.faults import PathParts, errors
from ...document.kinds import study_kinds
from ...errors import DomainError
from ...results.alongside import Alongside
from ...results.context import Answer, Context
from ...results.evaluator import Evaluator, Project
from ...watch import Watch
from .groups import Drawing

TOGETHER = 100
"""Samples that are computed together: between two such groups progress is told, and the question may be withdrawn."""

Values = Callable[[int, Answer, Project], Any]
"""What is kept of an answer, given with the place of its sample and the project of that."""


@dataclass(frozen=True)
class Sampled:
    """What is asked of every sample: the question ``of`` a document and the paths that are read of its answer."""

    of: str
    reads: tuple[str, ...]

    def base(self, project: Project, watch: Watch) -> tuple[Answer, Project]:
        """Return the answer as the inputs stand, and what samples begin from. Raises DomainError without one."""
        here = Evaluator().at(project.document)
        (found,) = self._answers([here], watch)
        if isinstance(found, DomainError):
            raise found
        return found, here

    def samples(
        self, changes: Sequence[Mapping[PathParts, object]], base: Project, watch: Watch
    ) -> list[tuple[Answer | DomainError, Project]]:
        """Return the answers of samples, each with its project, of one that has none why. Raises Cancelled."""
        evaluator = Alongside(base)
        projects = [evaluator.at(changed(base.document, c)) for c in changes]
        return list(zip(self._answers(projects, watch, base), projects, strict=True))

    def _answers(
        self, projects: Sequence[Project], watch: Watch, base: Project | None = None
    ) -> list[Answer | DomainError]:
        out: list[Answer | DomainError] = [DomainError("")] * len(projects)
        asked: list[tuple[int, Any]] = []
        for i, project in enumerate(projects):
            study = project.document.study(self.of)
            assert study is not None
            wrong = _first_fault(study, project)
            if wrong:
                out[i] = DomainError(wrong)
                continue
            asked.append((i, self._asked(study, project)))
        together = None if not projects else study_kinds()[_kind(projects[0], self.of)].together
        of_base = None if base is None else base.document.study(self.of)
        if together is not None and asked and base is not None and of_base is not None:
            found = together([(one, projects[i]) for i, one in asked], (self._asked(of_base, base), base), watch)
            for (i, _), answer in zip(asked, found, strict=True):
                out[i] = answer if isinstance(answer, DomainError) else {"ok": True, **answer}
            return out
        for done, (i, one) in enumerate(asked):
            kind = study_kinds()[_kind(projects[i], self.of)]
            part = watch.part(done / len(asked), (done + 1) / len(asked))
            try:
                out[i] = {"ok": True, **kind.solve(one, Context(projects[i], part))}
            except DomainError as error:
                out[i] = error
        return out

    def _asked(self, study: Study, project: Project) -> Any:
        """Return what is asked, of which only what is read is wanted."""
        own = project.read_study(study).asked
        return study_kinds()[study.kind].narrowed(own, self.reads) if self.reads else own


def _kind(project: Project, name: str) -> str:
    study = project.document.study(name)
    return study.kind if study is not None else ""


def _first_fault(study: Study, project: Project) -> str:
    """Return what forbids the answer of a sample: a fault of the question or of anything it depends on."""
    reached = project.reached(study)
    for sample in reached.samples:
        wrong = project.read_sample(sample).blocking
        if wrong:
            return f"{sample.name}: {wrong[0].message}"
    rest: tuple[Fluid | Study, ...] = (*reached.fluids, study)
    for part in rest:
        found = errors(project.read(part))
        if found:
            return f"{part.name}: {found[0].message}"
    return ""


def changed(document: Document, values: Mapping[PathParts, object]) -> Document:
    """Return a document with the cells of a sample."""
    return set_each(document, dict(values))


def parts(first: int, number: int) -> Iterator[tuple[int, int]]:
    """Return the first sample and the number of samples of each group that is computed together; where these begin
    hangs on their place alone."""
    at = first
    while at < first + number:
        size = min(TOGETHER - at % TOGETHER, first + number - at)
        yield at, size
        at += size


def run(
    sampled: Sampled,
    drawing: Drawing,
    base: Project,
    keep: Values,
    watch: Watch,
    first: int = 0,
    number: int | None = None,
) -> Iterator[tuple[int, list[Any]]]:
    """Yield the first sample of each group with what is kept of it, of one without an answer its DomainError."""
    count = drawing.count if number is None else number
    for at, size in parts(first, count):
        part = watch.part((at - first) / count, (at + size - first) / count)
        part.check()
        changes = drawing.changes(drawing.scores(at, size))
        found = sampled.samples(changes, base, part)
        yield at, [a if isinstance(a, DomainError) else keep(at + k, a, own) for k, (a, own) in enumerate(found)]
