"""What another version of the program changed: the single numbers of answers, and the means of their tables' columns,
are kept in the document with the version that gave them, and held against what this version answers.

Numbers are kept beside the content that they follow from, so that an edit is never taken for a change of the
program."""

from __future__ import annotations

import hashlib
import json
import math
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from importlib import resources
from itertools import zip_longest
from typing import Any

from ..document import Document, Fluid, Sample, Study
from ..document.kept import KeptAnswer
from ..results.evaluator import Project
from ..units.endings import kind_of_key
from ..version import VERSION
from .solving import answer_key, solve_study

MOST, MEANS = 24, 40
"""Single numbers of an answer that are kept, and means of columns."""
ROWS = 3
"""Entries of a list of which numbers are kept one by one: of phases, stages, points. A longer list is a table."""
MEAN = "[mean]"
"""What stands in a path for all rows of a table."""
DIGITS = 9
SAME = 1e-6
"""Relative difference below which two numbers are the same: what another machine's last digits may be."""
SMALL = {"temperature_difference": 1e-4, "fraction": 1e-8}
"""In SI, differences that are none, of kinds whose values pass through zero."""
LEFT_OUT = ("notes", "reference", "measured", "faults", "ok", "error", "python", "formula")
ON_THE_WAY = ("iterations", "residual", "steps")
"""Single numbers that tell how an answer was found, and are none themselves."""
GIVEN = ("axes", "vary", "compact")
"""What of a table is no answer: what it was asked at, and the fit to it."""


@dataclass(frozen=True)
class Change:
    """A number of an answer at its ``path``, ``before`` by the ``version`` that kept it and ``now``, None where there is
    none any more."""

    study: str
    version: str
    path: str
    before: float
    now: float | None

    @property
    def percent(self) -> float | None:
        """The difference of the number before, %; None where that says nothing."""
        if self.now is None or self.before == 0.0:
            return None
        return 100.0 * (self.now / self.before - 1.0)


def numbers_kept(answer: Mapping[str, Any]) -> dict[str, float]:
    """Return what is kept of an answer, by its path: single numbers, and means of its tables' columns."""
    tables = list(_tables(answer, ""))
    # In turn, so that no table is left out for the columns of another.
    means = [column for turn in zip_longest(*map(_means, tables)) for column in turn if column]
    single = [(path, value) for path, value in _walk(answer, "") if not _within(path, tables) and not _on_the_way(path)]
    return {path: _rounded(value) for path, value in [*single[:MOST], *means[:MEANS]]}


def _every_number(answer: Mapping[str, Any]) -> dict[str, float]:
    """Return every number that this or an earlier version may have kept of an answer, by its path."""
    means = (column for table in _tables(answer, "") for column in _means(table))
    return {path: _rounded(value) for path, value in [*_walk(answer, ""), *means]}


def _on_the_way(path: str) -> bool:
    return path.rpartition(".")[2] in ON_THE_WAY


def _rounded(value: float) -> float:
    return float(f"{value:.{DIGITS}g}")


@dataclass(frozen=True)
class _Table:
    """A table of an answer: its path, and its ``columns`` by what follows a row in theirs."""

    path: str
    columns: Mapping[str, Sequence[object]]


def _within(path: str, tables: Sequence[_Table]) -> bool:
    """Tell whether a number is of a row of a table."""
    return any(path.startswith((f"{t.path}[", f"{t.path}.")) for t in tables)


def _tables(value: object, path: str, read: Sequence[str] = ()) -> Iterator[_Table]:
    """Yield the tables of an answer: rows, parts by their names, properties over axes. A sweep's rows hold the values
    that are ``read``."""
    rows: Sequence[object] = ()
    if isinstance(value, Mapping):
        rows = tuple(value.values())
    elif isinstance(value, (list, tuple)):
        rows = value
    if len(rows) > ROWS and all(isinstance(row, Mapping) for row in rows):
        table = _Table(path, _columns([row for row in rows if isinstance(row, Mapping)], read))
        if table.columns:
            yield table
    elif isinstance(value, Mapping):
        for key, part in value.items():
            own = f"{path}.{key}" if path else str(key)
            if key in LEFT_OUT or key in GIVEN:
                continue
            if key == "properties" and isinstance(part, Mapping):
                yield _Table(own, {f".{name}": _flat(cells) for name, cells in part.items()})
            else:
                yield from _tables(part, own, value.get("paths", ()))


def _columns(rows: Sequence[Mapping[str, Any]], read: Sequence[str]) -> dict[str, Sequence[object]]:
    """Return the columns of rows. Rows that each say what they measure have none."""
    if any("key" in row for row in rows):
        return {}
    out: dict[str, Sequence[object]] = {}
    for key in dict.fromkeys(key for row in rows for key in row if key not in LEFT_OUT and key not in GIVEN):
        values = [row.get(key) for row in rows]
        lists = [v for v in values if isinstance(v, (list, tuple))]
        if len(lists) == len(values) and len({len(v) for v in lists}) == 1:
            columns = list(zip(*lists, strict=True))
            named = len(read) == len(columns) and key == "read"
            out |= {f".{read[i]}" if named else f".{key}[{i}]": column for i, column in enumerate(columns)}
        else:
            out[f".{key}"] = values
    return out


def _means(table: _Table) -> Iterator[tuple[str, float]]:
    """Yield the mean of each column of a table that has numbers, by its path."""
    for key, values in table.columns.items():
        known = [float(v) for v in values if isinstance(v, (int, float)) and not isinstance(v, bool)]
        if known:
            yield f"{table.path}{MEAN}{key}", math.fsum(known) / len(known)


def _flat(values: object) -> list[object]:
    return [x for v in values for x in _flat(v)] if isinstance(values, (list, tuple)) else [values]


def _walk(value: object, path: str) -> Iterator[tuple[str, float]]:
    if isinstance(value, Mapping):
        # What stands by itself comes before what lies below it.
        for inner in (False, True):
            for key, part in value.items():
                if key not in LEFT_OUT and isinstance(part, (Mapping, list, tuple)) == inner:
                    yield from _walk(part, f"{path}.{key}" if path else str(key))
    elif isinstance(value, (list, tuple)):
        if any(isinstance(v, Mapping) for v in value):
            for i, part in enumerate(value[:ROWS]):
                yield from _walk(part, f"{path}[{i}]")
    elif isinstance(value, (int, float)) and not isinstance(value, bool):
        yield path, float(value)


def content(study: Study, project: Project) -> str:
    """Return a short sum of all that an answer follows from, the same in every version that reads it alike."""
    document = project.document
    key = (content, study, document.samples, document.fluids, document.studies, document.values)
    return project.evaluator.remembered(key, lambda: _sum(study, project))


def _sum(study: Study, project: Project) -> str:
    own = study.model_dump(mode="json", exclude_defaults=True, exclude={"name", "note"})
    said = sorted(_said(part, project) for part in project.reached(study).parts if part is not study)
    values = [v.model_dump(mode="json", exclude_defaults=True) for v in project.document.values]
    text = json.dumps([own, said, values], sort_keys=True, ensure_ascii=False)
    return hashlib.sha256(text.encode("utf-8")).hexdigest()[:16]


def _said(part: Sample | Fluid | Study, project: Project) -> str:
    """Return what a part says, without what changes no result and without what stands at its default."""
    left_out = {"note", "display", "variants"} & set(type(part).model_fields)
    return project.evaluator.remembered(
        (_said, part), lambda: part.model_dump_json(exclude_defaults=True, exclude=left_out)
    )


def keeping(document: Document, project: Project, solve: bool = False) -> Document:
    """Return a document that keeps the numbers of its answers: those that are known, every one where ``solve``; what
    was kept of others stays."""
    before = {k.study: k for k in document.answered}
    kept = []
    for study in document.studies:
        if study.draft:
            continue
        known = solve_study(study, project) if solve else project.evaluator.answers.peek(answer_key(study, project))
        numbers = numbers_kept(known) if isinstance(known, Mapping) and known.get("ok") else {}
        if numbers:
            kept.append(KeptAnswer(study=study.name, version=VERSION, content=content(study, project), values=numbers))
        elif study.name in before:
            kept.append(before[study.name])
    return document.model_copy(update={"answered": tuple(kept)})


def changes(kept: KeptAnswer, answer: Mapping[str, Any]) -> list[Change]:
    """Return the numbers of an answer that differ from those kept."""
    now = _every_number(answer) if answer.get("ok") else {}
    out = []
    for path, before in kept.values.items():
        if _on_the_way(path):
            continue
        found = now.get(path)
        if found is None or abs(found - before) > max(SAME * abs(before), _small(path)):
            out.append(Change(kept.study, kept.version, path, before, found))
    return out


def _small(path: str) -> float:
    kind, factor = kind_of_key(path)
    return SMALL.get(kind or "fraction", 0.0) / factor


def of_other_versions(document: Document, project: Project) -> Iterator[tuple[Study, KeptAnswer]]:
    """Yield the questions whose answers another version kept, of the very content they have now."""
    for kept in document.answered:
        study = document.study(kept.study)
        if study is not None and kept.version != VERSION and kept.content == content(study, project):
            yield study, kept


def every_change(document: Document, project: Project) -> list[Change]:
    """Return all numbers of a document's answers that differ from those that another version kept, each question
    answered."""
    out = []
    for study, kept in of_other_versions(document, project):
        out += changes(kept, solve_study(study, project))
    return out


def number(version: str) -> tuple[int, ...]:
    """Return a version as numbers to be compared."""
    return tuple(int(n) for n in re.findall(r"\d+", version))


def reasons(since: str) -> list[tuple[str, str]]:
    """Return what the changelog says of changed numbers after a version: version and sentences, the latest first."""
    return [(version, text) for version, text in _told() if number(since) < number(version) <= number(VERSION)]


@cache
def _told() -> tuple[tuple[str, str], ...]:
    """Return every entry of the changelog that says that numbers change, with its version."""
    text = resources.files("cryonome").joinpath("CHANGELOG.md").read_text(encoding="utf-8")
    out = []
    for part in re.split(r"^## ", text, flags=re.MULTILINE)[1:]:
        version = part.split(",")[0].strip()
        for entry in re.split(r"^- ", part, flags=re.MULTILINE)[1:]:
            told = " ".join(entry.split("\n\n")[0].split())
            if re.search(r"\*[^*]*[Nn]umbers[^*]*change[^*]*\*", told):
                out.append((version, told))
    return tuple(out)
