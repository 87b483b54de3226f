"""The study ``saturation``: every bubble and dew point at a temperature or a pressure."""

from __future__ import annotations

import numpy as np

from ..document.model import Document, SaturationStudy
from ..equilibrium.stability import stability
from ..units import parse
from .evaluator import Evaluator
from .flash import composition
from .registry import Answer, NoAnswerError, asked_fluid, kind

METASTABLE = -1e-6


@kind("saturation")
def solve_saturation(study: SaturationStudy, document: Document, evaluator: Evaluator) -> Answer:
    """Return the points by rising pressure, each with its incipient phase."""
    fluid = asked_fluid(study.fluid, document)
    model = evaluator.fluid(fluid, document)
    T = None if study.temperature is None else parse(study.temperature, "temperature")
    P = None if study.pressure is None else parse(study.pressure, "pressure")
    whole = evaluator.map(fluid, document)
    points = whole.crossings([0.0, 1.0], T=T, P=P)
    notes = [r.text for r in model.remarks]
    if not points:
        where = f"at {T:.2f} K" if T is not None else f"at {(P or 0.0) / 1e5:.4g} bar"
        raise NoAnswerError(
            " ".join([f"there is no bubble or dew point {where} within the traced envelope.", *whole.remarks])
        )
    if model.z.size > 1:
        n = len(points)
        test = stability(
            model.eos,
            np.array([p.T for p in points]),
            np.array([p.P for p in points]),
            np.broadcast_to(model.z, (n, model.z.size)),
            every_trial=True,
        )
        for point, tm in zip(points, test.tm):
            if tm < METASTABLE:
                kind_name = "bubble" if point.beta == 0.0 else "dew"
                notes.append(
                    f"The {kind_name} point at {point.T:.2f} K and {point.P / 1e5:.4g} bar is metastable: another phase forms before it."
                )
    return {
        "points": [
            {
                "kind": "bubble" if p.beta == 0.0 else "dew",
                "temperature_K": p.T,
                "pressure_Pa": p.P,
                "incipient": composition(model, p.y if p.beta == 0.0 else p.x),
            }
            for p in points
        ],
        "notes": notes,
    }
