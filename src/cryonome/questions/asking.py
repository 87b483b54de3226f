"""Questions begun from a number itself: vary this cell, read this value, make this value equal to something.

What was pointed at is a path in the document or in an answer; here it becomes a sweep or a goal, with names for
indices so that a reader can tell what it is of."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from pydantic import BaseModel

from ..document import Document, Study
from ..document.cell_paths import named_path
from ..document.conditions import CONDITIONS
from ..document.edits import free_name, get_at
from ..document.faults import PathParts
from ..document.field_types import Cell
from ..document.inner_fluids import inner_names, used_samples
from ..document.reader import EMPTY
from ..document.references import about, asks_another
from ..results.answer_paths import key_words
from .kinds.goal import GoalInput, GoalStudy
from .kinds.sweep import SweepStudy, Variation
from .varying import NOT_VARIED, around, is_number

USUAL = {
    "flash": "density_kg_m3",
    "characterization": "bulk.density_kg_m3",
    "envelope": "cricondenbar.pressure_Pa",
    "vapour_pressure": "TVP_Pa",
    "inhibitor_dose": "aqueous_mass_percent",
    "yields": "yields[0].volume_fraction",
}
"""What is read of a question where nothing was pointed at."""

TELLING = ("components", "advice", "yields", "roots")
"""Kinds of questions that say what is there rather than what follows of it: asked last where an input is varied."""

ANSWERS = ("pressure_Pa", "temperature_K")
"""What a condition that is not held answers, the more usual first."""


def told_by(study: Study, answer: Mapping[str, Any] | None) -> str:
    """Return the path of what a question answers first of all: of a boiling point at a held temperature the pressure,
    at a held pressure the temperature; of others the usual, or the first number that is none of what was asked."""
    held = {k for k in CONDITIONS if getattr(study, k, None) not in EMPTY}
    free = [k for k in ANSWERS if k.partition("_")[0] not in held]
    if study.kind == "saturation":
        return f"points[0].{free[0] if len(free) == 1 else ANSWERS[0]}"
    if study.kind == "flash" and len(free) == 1 and "vapour_fraction" in held:
        return free[0]
    usual = USUAL.get(study.kind)
    numbers = [p for p, _ in numbers_in(answer)] if answer else []
    if usual and (not numbers or usual in numbers):
        return usual
    asked = {"temperature_K", "pressure_Pa"}
    return next((p for p in numbers if p not in asked), usual or "vapour_fraction")


QUICK = ("flash", "saturation", "characterization", "envelope")
"""Kinds of questions that an input of a fluid is asked of, the quickest first."""

WORDLESS = ("reference", "display", "ghosts", "format", "title", "note", "measured", "uncertainty", "variants")
"""Parts of a document that hold no inputs."""


def input_words(parts: PathParts, document: Document) -> str:
    """Return what an input is called: "pressure of first separator", "amount of n-butane in Selden gas"."""
    holders: list[str] = []
    last = 0
    for end in range(2, len(parts)):
        thing = get_at(document, parts[:end])
        if isinstance(thing, BaseModel):
            name = getattr(thing, "name", "") or getattr(thing, "component", "") or getattr(thing, "sample", "")
            if name and isinstance(parts[end - 1], int):
                holders.insert(0, str(name))
                last = end
    tail = parts[last:]
    words = " ".join(str(p) for p in tail if isinstance(p, str)).replace("_", " ")
    rows = [p for p in tail if isinstance(p, int)]
    # The points of a curve are pairs, their percents first.
    first = "percent of " if len(rows) > 1 and rows[-1] == 0 else ""
    own = f"{first}{words}, row {rows[0] + 1}" if rows else words
    return f"{own} of {' in '.join(holders)}" if holders else own


def inputs_of(document: Document, most: int = 4000) -> list[PathParts]:
    """Return every cell that holds a number, by its path."""
    out: list[PathParts] = []

    def walk(thing: Any, path: PathParts) -> Iterator[PathParts]:
        if isinstance(thing, BaseModel):
            for name in type(thing).model_fields:
                if name not in WORDLESS and name not in NOT_VARIED:
                    yield from walk(getattr(thing, name), (*path, name))
        elif isinstance(thing, Mapping):
            for key, value in thing.items():
                yield from walk(value, (*path, key))
        elif isinstance(thing, tuple):
            for i, value in enumerate(thing):
                yield from walk(value, (*path, i))
        elif is_number(thing):
            yield path

    for path in walk(document, ()):
        out.append(path)
        if len(out) >= most:
            break
    return out


def asked_about(parts: PathParts, document: Document, chosen: str) -> Study | None:
    """Return the question whose answer an input changes: the chosen one where it does, else the first of the fluid or
    sample."""
    plain = [s for s in document.studies if not asks_another(s)]
    if parts[:1] == ("studies",):
        own = document.studies[int(parts[1])]
        return own if own in plain else None
    thing = get_at(document, parts[:2])
    name = getattr(thing, "name", "")
    fluids = {
        f.name for f in document.fluids if thing is f or name in {*used_samples(f, document), *inner_names(f, document)}
    }
    about_it = [s for s in plain if about(s) in fluids or about(s, "samples") == name]
    about_it.sort(key=lambda s: s.kind in TELLING)
    order = ("characterization", "saturation", "flash", "envelope") if parts[:1] == ("samples",) else QUICK
    ready = sorted((s for s in about_it if s.kind in order), key=lambda s: order.index(s.kind))
    return next((s for s in about_it if s.name == chosen), ready[0] if ready else about_it[0] if about_it else None)


def sweep_over(
    parts: PathParts, document: Document, study: Study, answer: Mapping[str, Any] | None = None
) -> SweepStudy:
    """Return a sweep of a question over an input, about its present value."""
    low, high = around(get_at(document, parts))
    name = free_name(document, f"{input_words(parts, document)} varied"[:60])
    read = told_by(study, answer)
    vary = Variation(path=named_path(parts, document), begin=low, end=high, steps=10)
    return SweepStudy(name=name, kind="sweep", of=study.name, vary=vary, read=(read,))


def varied_condition(study: Study, document: Document) -> PathParts | None:
    """Return the input of a question that is varied where none was named: the first condition it holds, else its
    first number."""
    place = document.studies.index(study)
    held = [k for k in CONDITIONS if getattr(study, k, None) not in EMPTY]
    if held:
        return ("studies", place, held[0])
    own = [p for p in inputs_of(document) if p[:2] == ("studies", place)]
    if own:
        return own[0]
    fluid = next((i for i, f in enumerate(document.fluids) if f.name == about(study)), None)
    return next((p for p in inputs_of(document) if fluid is not None and p[:2] == ("fluids", fluid)), None)


def sweep_reading(study: Study, path: str, document: Document) -> SweepStudy | None:
    """Return a sweep that reads a value of a question's answer, over its first condition; None where it has no
    input."""
    parts = varied_condition(study, document)
    if parts is None:
        return None
    return sweep_over(parts, document, study).model_copy(update={"read": (path,)})


def goal_for(
    study: Study, path: str, target: Cell, document: Document, over: PathParts | None = None
) -> GoalStudy | None:
    """Return a goal that makes a value of a question's answer equal to a ``target``, by its first condition or the
    input ``over``."""
    parts = over or varied_condition(study, document)
    if parts is None:
        return None
    low, high = around(get_at(document, parts), 2.0)
    name = free_name(document, f"{key_words(path)} of {study.name} made equal"[:60])
    return GoalStudy(
        name=name,
        kind="goal",
        of=study.name,
        vary=GoalInput(path=named_path(parts, document), between=(low, high)),
        read=path,
        target=target,
    )


def numbers_in(answer: Mapping[str, Any], most: int = 3000) -> list[tuple[str, float]]:
    """Return every single number of an answer with its path; of phases by their kind where it is one of a kind."""
    out: list[tuple[str, float]] = []

    def walk(thing: Any, path: str) -> None:
        if len(out) >= most:
            return
        if isinstance(thing, Mapping):
            for key, value in thing.items():
                if key not in ("ok", "notes", "reference"):
                    walk(value, f"{path}.{key}" if path else str(key))
        elif isinstance(thing, (list, tuple)):
            kinds = _kinds(thing)
            for i, value in enumerate(thing):
                walk(value, f"{path}.{kinds[i]}" if kinds else f"{path}[{i}]")
        elif isinstance(thing, (int, float)) and not isinstance(thing, bool):
            out.append((path, float(thing)))

    walk(answer, "")
    return out


def _kinds(items: Sequence[Any]) -> list[str]:
    """Return the kinds of items where they tell each apart, else nothing."""
    kinds = [str(item["kind"]) for item in items if isinstance(item, Mapping) and "kind" in item]
    return kinds if len(kinds) == len(items) == len(set(kinds)) else []
