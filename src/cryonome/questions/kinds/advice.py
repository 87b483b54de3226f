"""The study ``advice``: which equations of state suit a fluid and its conditions, and why."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NotRequired

from pydantic import Field
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.field_types import FluidRef, Pressures, Temperatures
from ...document.kinds import StudyKind, register
from ...eos.building import EQUATIONS
from ...fluids.adviser import advise, gather
from ...results.common import Common
from ...results.context import Answer, Context
from ...telling.sentences import Units

RANGES = (273.15, 373.15), (1e5, 2e7)
"""K and Pa: the ranges where none are given."""


class AdviceStudy(Study):
    """Asks for the equations that suit a fluid over ranges of temperature and pressure."""

    kind: Literal["advice"]
    fluid: FluidRef
    temperatures: Temperatures = Field(default=(), json_schema_extra={"ends": True})
    pressures: Pressures = Field(default=(), json_schema_extra={"ends": True})


class Ranked(TypedDict):
    """An equation, its verdict, the reasons and where it was published."""

    eos: str
    verdict: Literal["fits", "with care", "unfit"]
    reasons: list[str]
    source: str


class AdviceAnswer(Common):
    """The equations, best first."""

    ranked: NotRequired[list[Ranked]]


@dataclass(frozen=True)
class Asked:
    """Lowest and highest temperature K and pressure Pa."""

    fluid: str
    temperatures: tuple[float, float]
    pressures: tuple[float, float]


def read(study: AdviceStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T = [reader.at("temperatures", i).quantity(c, "temperature") for i, c in enumerate(study.temperatures)]
    P = [reader.at("pressures", i).pressure(c) for i, c in enumerate(study.pressures)]
    return Asked(study.fluid, _ends(T, RANGES[0]), _ends(P, RANGES[1]))


def _ends(values: list[float | None], usual: tuple[float, float]) -> tuple[float, float]:
    there = [v for v in values if v is not None]
    return (min(there), max(there)) if there else usual


def solve(asked: Asked, context: Context) -> Answer:
    """Return every equation with its verdict and reasons."""
    model = context.project.fluid(context.fluid(asked.fluid))
    ranked = [
        {
            "eos": a.eos,
            "verdict": a.verdict,
            "reasons": [*a.reasons],
            "source": EQUATIONS[a.eos],
        }
        for a in advise(gather(model, asked.temperatures, asked.pressures))
    ]
    return {"ranked": ranked, "notes": [*model.remarks]}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    best = answer["ranked"][0]
    return f"{best['eos']} {best['verdict']}"


def begin(fluid: str, at: tuple[float, float] | None) -> AdviceStudy:
    """Return a new question about a fluid, around a state where one is given."""
    if at is None:
        return AdviceStudy(name="Which equation", kind="advice", fluid=fluid)
    T, P = at
    return AdviceStudy(
        name="Which equation",
        kind="advice",
        fluid=fluid,
        temperatures=(f"{T - 303.15:.2f} degC", f"{T - 243.15:.2f} degC"),
        pressures=(f"{P / 2e5:.4g} bar", f"{P / 5e4:.4g} bar"),
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: what fits, and what fits with care."""
    ranked = answer["ranked"]
    fit = [r["eos"] for r in ranked if r["verdict"] == "fits"]
    care = [r["eos"] for r in ranked if r["verdict"] == "with care"]
    if not fit:
        return f"None fits well; with care {', '.join(care[:2])}." if care else "None fits."
    return f"{', '.join(fit[:3])} {'fits' if len(fit) == 1 else 'fit'}" + (
        f"; with care {', '.join(care[:2])}." if care else "."
    )


register(
    StudyKind(
        name="advice", title="Which equation", meaning="the equations of state that suit a fluid and its conditions, and why",
        model=AdviceStudy, answer=AdviceAnswer, read=read, solve=solve, line=line, begin=begin, order=45,
        sentence="Which equation suits {fluid}[ at {temperatures}][ and {pressures}]?",
        phrases=("what equation", "equation for", "equation of state", "equations", "which equation", "advice", "equation of state suits", "suits", "suit", "best equation", "recommend"),
        says=says,
    )
)  # fmt: skip
