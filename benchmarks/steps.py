"""How long chains of steps, sweeps of them and profiles of lines take: ``./run bench steps``."""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from dataclasses import replace
from typing import Any

import numpy as np

import cryonome.questions  # noqa: F401  # gives the document its kinds
from cryonome.demo import demo_document
from cryonome.document import Document, Study
from cryonome.document.kinds import study_kinds
from cryonome.process import Medium
from cryonome.process.line_profile import Leg, march
from cryonome.results import Evaluator
from cryonome.results.context import Context
from cryonome.watch import UNWATCHED
from run import best, say

MORE = (
    {
        "name": "K-2",
        "step": "compressor",
        "from": "sales gas",
        "to": "pressed",
        "pressure": "60 bar",
        "stages": 2,
        "stage_temperature": "40 degC",
    },
    {"name": "after", "step": "cooler", "from": "pressed", "to": "export gas", "temperature": "40 degC"},
    {"name": "P-1", "step": "pump", "from": "condensate", "to": "lifted", "pressure": "60 bar"},
    {"name": "warm", "step": "heater", "from": "lifted", "to": "warm liquid", "temperature": "25 degC"},
    {"name": "join", "step": "mixer", "from": ["export gas", "warm liquid"], "to": "together"},
    {"name": "let down", "step": "valve", "from": "together", "to": "sold", "pressure": "55 bar"},
)
"""Six steps more, so that the demo's train has twelve."""


def twelve(**exchanger: str) -> tuple[Document, Study]:
    """Return the demo with a train of twelve steps, its exchanger asked otherwise."""
    document = demo_document()
    train = document.study("gas train")
    assert train is not None
    data: dict[str, Any] = train.model_dump(by_alias=True, exclude_defaults=True) | {
        "kind": "process",
        "name": "gas train",
    }
    steps = [dict(s) for s in data["steps"]]
    if exchanger:
        own = next(s for s in steps if s["step"] == "exchanger")
        own.pop("least_approach")
        own |= exchanger
    made = type(train).model_validate(data | {"steps": [*steps, *MORE]})
    studies = tuple(made if s.name == "gas train" else s for s in document.studies)
    return document.model_copy(update={"studies": studies}), made


def train_of(told: str, exchanger: dict[str, str]) -> None:
    """Measure a train of twelve steps and a sweep of it."""
    document, train = twelve(**exchanger)
    project = Evaluator().at(document)
    kind, asked = study_kinds()["process"], project.read_study(train).asked
    context = Context(project, UNWATCHED)
    alone = replace(asked, margins=False)
    say(f"train of twelve steps with a loop, {told}", f"{best(lambda: kind.solve(alone, context)):.3f} s", "goal 0.5 s")
    say("  with all margins, limits known", f"{best(lambda: kind.solve(asked, context)):.3f} s")
    place = next(i for i, s in enumerate(asked.steps) if s.name == "K-1")
    many = []
    for P in np.linspace(25e5, 35e5, 50):
        numbers = tuple((k, float(P) if k == "pressure" else v) for k, v in asked.steps[place].numbers)
        steps = list(asked.steps)
        steps[place] = replace(steps[place], numbers=numbers)
        many.append(replace(alone, steps=tuple(steps)))
    together = kind.many
    assert together is not None
    say("  fifty of it", f"{best(lambda: together(many, context), 1):.2f} s", "goal 5 s")


def line_of(document: Document, name: str) -> None:
    """Measure a profile of a line."""
    fluid = document.fluid(name)
    assert fluid is not None
    model = Evaluator().at(document).fluid(fluid)
    medium = Medium(model.eos, model.substance, model.water)
    legs = [Leg("base", 12e3, -50.0, 277.0, 5.0), Leg("top", 400.0, 350.0, 278.0, 8.0)]
    flow = 10.0 / float(medium.mass(model.z))
    took = best(lambda: march(medium, model.z, flow, legs, 0.2, 4.6e-5, "beggs-brill", 330.0, 150e5))
    say(f"profile of 200 points, {model.z.size} components", f"{took:.3f} s", "goal 0.5 s")


def main() -> None:
    """Measure and tell."""
    train_of("least approach", {})
    train_of("UA", {"ua": "8 kW/K"})
    train_of("cold outlet", {"cold_temperature": "35 degC"})
    for name in ("Selden gas", "Quillmoor wet stream"):
        line_of(demo_document(), name)


if __name__ == "__main__":
    main()
