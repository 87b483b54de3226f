"""The study ``envelope``: lines of constant vapour fraction, critical points and extremes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NotRequired

from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.kinds import StudyKind, register
from ...document.model import Cell
from ...equilibrium.phase_map import SaturationPoint
from ...remarks import Remark, kelvin, pascal
from ..context import Answer, Common, Context, NoAnswerError
from ..map_lines import curves
from ..sentences import Units


class EnvelopeStudy(Study):
    """Asks for the phase envelope and lines of constant vapour fraction."""

    kind: Literal["envelope"]
    fluid: str
    vapour_fractions: tuple[Cell, ...] = (0, 1)


class PointAnswer(TypedDict):
    """A point of the map."""

    temperature_K: float
    pressure_Pa: float


class LineAnswer(TypedDict):
    """A line of one vapour fraction, its points in the order they were traced."""

    vapour_fraction: float
    temperature_K: list[float]
    pressure_Pa: list[float]


class EnvelopeAnswer(Common):
    """The lines asked for with critical points and extremes."""

    lines: NotRequired[list[LineAnswer]]
    critical_points: NotRequired[list[PointAnswer]]
    cricondentherm: NotRequired[PointAnswer | None]
    cricondenbar: NotRequired[PointAnswer | None]


@dataclass(frozen=True)
class Asked:
    """The vapour fractions wanted."""

    fluid: str
    fractions: tuple[float, ...]


def read(study: EnvelopeStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    here = reader.at("vapour_fractions")
    if not study.vapour_fractions:
        here.fault("the list is empty; give at least one vapour fraction")
    found = [here.at(i).fraction(cell) for i, cell in enumerate(study.vapour_fractions)]
    return Asked(study.fluid, tuple(f for f in found if f is not None))


def solve(asked: Asked, context: Context) -> Answer:
    """Return the asked lines with critical points, cricondentherm and cricondenbar."""
    fluid = context.fluid(asked.fluid)
    whole = context.project.map(fluid, asked.fractions, context.watch)
    lines = [
        {"vapour_fraction": fraction, "temperature_K": T.tolist(), "pressure_Pa": P.tolist()}
        for fraction in asked.fractions
        for _, T, P in curves(whole, [fraction])
    ]
    if not lines:
        raise NoAnswerError(Remark("warning", "envelope.none"), *whole.remarks)
    return {
        "lines": lines,
        "critical_points": [{"temperature_K": c.T, "pressure_Pa": c.P} for c in whole.critical_points],
        "cricondentherm": _extreme(whole.cricondentherm),
        "cricondenbar": _extreme(whole.cricondenbar),
        "notes": context.notes(*context.project.fluid(fluid).remarks, *whole.remarks),
    }


def _extreme(point: SaturationPoint | None) -> dict[str, float] | None:
    return None if point is None else {"temperature_K": point.T, "pressure_Pa": point.P}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    top, hot = answer["cricondenbar"], answer["cricondentherm"]
    pieces = [f"to {units.text(pascal(top['pressure_Pa']))}"] if top else []
    pieces += [f"to {units.text(kelvin(hot['temperature_K'], 0))}"] if hot else []
    return ", ".join(pieces) or f"{len(answer['lines'])} lines"


def begin(fluid: str, at: tuple[float, float] | None) -> EnvelopeStudy:
    """Return a new question about a fluid, near a state where one is given."""
    return EnvelopeStudy(name=f"Map of {fluid}", kind="envelope", fluid=fluid)


register(
    StudyKind(
        name="envelope", title="Phase envelope", meaning="bubble and dew line, quality lines, critical point and extremes",
        model=EnvelopeStudy, answer=EnvelopeAnswer, read=read, solve=solve, line=line, begin=begin, order=10,
    )
)  # fmt: skip
