"""A report of a document: everything it says, from lab data to answers, with where each number came from."""

from __future__ import annotations

import hashlib
import platform
from datetime import datetime
from importlib.metadata import PackageNotFoundError, version
from typing import Any

from ..document import Document, Fluid, Sample, document_text
from ..document.kept import Report
from ..errors import DomainError
from ..language import retold
from ..questions.solving import answer_of
from ..remarks import KINDS, Remark
from ..results.evaluator import Evaluator, Project
from ..telling.sentences import Units, sentence
from ..telling.table_blocks import Block
from ..version import VERSION
from ..watch import UNWATCHED, Watch
from .answer_section import answer_parts
from .fluid_section import fluid_parts, model_rows
from .lab_section import method_rows, sample_parts
from .parts import Content, Heading, Part, Picture, Points, Sentence, Table

PACKAGES = ("numpy", "scipy", "pint", "pydantic")
"""What the numbers depend on beside the program itself."""

KIND_WORDS = {
    "fault": "Faults", "warning": "Warnings", "extrapolation": "Outside the range of a method",
    "correction": "Corrections of what was measured", "estimate": "Estimates",
}  # fmt: skip


def checksum(document: Document) -> str:
    """Return the SHA-256 of a document as it is saved, hexadecimal: what a report is of. How the document is shown
    and reported counts, since it is part of the file."""
    return hashlib.sha256(document_text(document).encode()).hexdigest()


def report_of(
    document: Document, evaluator: Evaluator | None = None, watch: Watch = UNWATCHED, when: datetime | None = None
) -> Content:
    """Return the report of a document, as its :class:`~cryonome.document.model.Report` says. Solves what is not
    known; a question that faults forbid says so in its place. Raises Cancelled."""
    evaluator = evaluator or Evaluator()
    chosen, units = document.report, Units.of(document.display.units)
    project = evaluator.at(document)
    studies = [s for s in document.studies if not s.draft and s.name not in chosen.without_studies]
    answers: dict[str, Any] = {}
    if "questions" not in chosen.without:
        for i, study in enumerate(studies):
            part = watch.part(0.95 * i / len(studies), 0.95 * (i + 1) / len(studies))
            answers[study.name] = answer_of(study, project, part)
    samples = [s for s in document.samples if s.name not in chosen.without_samples]
    fluids = [f for f in document.fluids if f.name not in chosen.without_fluids]
    parts: list[Part] = []
    if samples and "samples" not in chosen.without:
        parts.append(Heading("Lab data"))
        for sample in samples:
            parts += _dressed(sample_parts(sample, project, units), chosen)
    if fluids and "fluids" not in chosen.without:
        parts.append(Heading("Fluids"))
        for fluid in fluids:
            parts += _dressed(fluid_parts(fluid, project, units), chosen)
    if answers:
        parts.append(Heading("Questions and answers"))
        pictures, tabled = ("pictures" not in chosen.without, "tables" not in chosen.without)
        for i, study in enumerate(studies):
            watch.at(0.95 + 0.05 * i / len(studies))
            own = answers[study.name]
            parts += answer_parts(study, own, project, units, evaluator, pictures, tabled, chosen.whole_tables)
    if "assumptions" not in chosen.without:
        parts += _assumptions(samples, fluids, project, units)
    if "sources" not in chosen.without:
        parts += _sources(samples, fluids, project, units)
    now = (when or datetime.now().astimezone()).strftime("%Y-%m-%d %H:%M %Z").strip()
    facts = [
        ("Made", f"{now} by Cryonome {VERSION}"),
        ("Units", document.display.units),
        ("Document", f"SHA-256 {checksum(document)}"),
        ("Holds", _holds(samples, fluids, answers, chosen)),
    ]
    if chosen.by:
        facts.insert(0, ("Prepared by", chosen.by))
    title = chosen.title or document.title or "Report"
    below = document.title if chosen.title and document.title != chosen.title else ""
    facts, parts = (
        [retold(part, ("colour", "dash", "marker", "look", "paths")) for part in of] for of in (facts, parts)
    )
    return Content(title, below, tuple(facts), tuple(parts), "contents" not in chosen.without, chosen.paper, answers)


def _dressed(parts: list[Part], chosen: Report) -> list[Part]:
    """Return parts without the pictures or tables that a report goes without."""
    gone = tuple(t for t, word in ((Picture, "pictures"), (Table, "tables")) if word in chosen.without)
    return [p for p in parts if not isinstance(p, gone)] if gone else parts


def _holds(samples: list[Sample], fluids: list[Fluid], answers: dict[str, Any], chosen: Report) -> str:
    counts = [
        (len(samples) * ("samples" not in chosen.without), "sample"),
        (len(fluids) * ("fluids" not in chosen.without), "fluid"),
        (len(answers), "question"),
    ]
    told = [f"{n} {word}{'' if n == 1 else 's'}" for n, word in counts if n]
    failed = sum(not a["ok"] for a in answers.values())
    return ", ".join(told) + (f"; {failed} without an answer" if failed else "")


def _assumptions(samples: list[Sample], fluids: list[Fluid], project: Project, units: Units) -> list[Part]:
    """Return the ledger: what was estimated, corrected, or used outside its range, of each sample and fluid."""
    found: list[tuple[str, Remark]] = []
    things: list[Sample | Fluid] = [*samples, *fluids]
    for thing in things:
        try:
            own = project.characterized(thing) if isinstance(thing, Sample) else project.fluid(thing)
        except DomainError:
            continue
        found += [(thing.name, r) for r in own.remarks]
    out: list[Part] = [Heading("Assumptions")]
    if not found:
        return [*out, Sentence("Nothing was estimated, corrected or used outside its range.")]
    for kind in KINDS:
        gathered: dict[str, list[str]] = {}
        for name, remark in found:
            if remark.kind == kind:
                gathered.setdefault(sentence(remark, units), []).append(name)
        if gathered:
            texts = tuple(f"{', '.join(dict.fromkeys(names))}: {text}" for text, names in gathered.items())
            out += [Heading(KIND_WORDS[kind], 3), Points(texts)]
    return out


def _sources(samples: list[Sample], fluids: list[Fluid], project: Project, units: Units) -> list[Part]:
    """Return the methods by their publications, and what made the numbers."""
    out: list[Part] = [Heading("Sources and versions")]
    if fluids:
        heads = [("method", ""), ("chosen", ""), ("source", ""), ("of", "")]
        out.append(Table(Block("Models", heads, model_rows(fluids, project.document))))
    for sample in samples:
        rows = method_rows(sample, project, units)
        if rows:
            heads = [("property", ""), ("correlation", ""), ("source", ""), ("range", "")]
            out.append(Table(Block(f"Correlations of {sample.name}", heads, rows)))
    rows = [["Cryonome", VERSION], ["Python", platform.python_version()]]
    for name in PACKAGES:
        try:
            rows.append([name, version(name)])
        except PackageNotFoundError:
            continue
    rows.append(["system", f"{platform.system()} {platform.machine()}"])
    rows.append(["document, SHA-256", checksum(project.document)])
    out.append(Table(Block("Versions", [("", ""), ("", "")], rows)))
    return out
