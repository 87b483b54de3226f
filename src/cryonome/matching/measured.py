"""What was measured beside what the model gives, and whether the report agrees with itself."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..document.kinds import study_kinds
from ..document.model import Measured
from ..document.read_measured import MeasuredValues
from ..errors import DomainError
from ..results.answer_paths import number_at
from ..results.context import Answer
from ..results.evaluator import Project
from ..results.simulated_tests import ComparisonAnswer, telling, uncertainty
from .report_checks import report_checks, told


def beside(
    measured: Mapping[str, MeasuredValues], answer: Answer, study: Measured, asked: Any, project: Project
) -> Answer:
    """Return ``measured`` beside the model, their average absolute deviation in percent, and sentences about what has
    no partner."""
    rows = answer.get("rows")
    out: list[ComparisonAnswer] = []
    notes: list[str] = []
    for key, given in measured.items():
        if given.rows and isinstance(rows, list) and len(given.values) > len(rows):
            notes.append(
                f"'{key}' has {len(given.values)} measured values for {len(rows)} rows; those beyond are left out."
            )
        lacking = 0
        for i, value in enumerate(given.values):
            if value is None or (given.rows and isinstance(rows, list) and i >= len(rows)):
                continue
            ours = _ours(answer, key, i if given.rows else None, value)
            lacking += isinstance(ours, str)
            if isinstance(ours, str) and (lacking == 1 and not given.rows):
                notes.append(f"'{key}' was measured, but {ours}.")
            mine = None if isinstance(ours, str) else ours
            off = None if mine is None or value == 0.0 else 100.0 * (mine / value - 1.0)
            out.append(
                {
                    "key": key,
                    "row": i if given.rows else None,
                    "ours": mine,
                    "theirs": value,
                    "deviation_percent": off,
                    "uncertainty": uncertainty(given, value),
                }
            )
        if lacking and given.rows:
            notes.append(f"'{key}' was measured at {lacking} rows where the model has no such value.")
    how = study_kinds()[study.kind].test
    fluid = project.document.fluid(study.fluid)
    checks = (
        [] if how is None or fluid is None else report_checks(study.kind, how, asked, measured, answer, project, fluid)
    )
    off_by = [
        abs(c["deviation_percent"])
        for c in out
        if c["deviation_percent"] is not None and telling(c["key"], c["theirs"])
    ]
    found: Answer = {"measured": out, "notes": [*answer["notes"], *notes]}
    if off_by:
        found["average_deviation_percent"] = sum(off_by) / len(off_by)
    if checks:
        found["checks"] = told(checks)
    return found


def _ours(answer: Answer, key: str, row: int | None, theirs: float) -> float | str:
    """Return the model's value, or why there is none."""
    if (
        row is None
        and isinstance(answer.get("points"), list)
        and key.startswith("points")
        and key.endswith("pressure_Pa")
    ):
        return _saturation(answer["points"], key, theirs)
    if row is None:
        try:
            return number_at(answer, key)
        except DomainError as error:
            return str(error)
    if isinstance(answer.get("rows"), list):
        here = answer["rows"][row]
        try:
            return number_at(here, key)
        except DomainError as error:
            return str(error)
    try:
        return number_at(answer, f"{key}[{row}]")
    except DomainError as error:
        return str(error)


NEAR = 3.0
"""Factor between two pressures within which they can be of one point."""


def _saturation(points: list[Answer], key: str, theirs: float) -> float | str:
    """Return the saturation pressure that a measured one is of: a laboratory sees the one at the highest pressure,
    whatever its place in the list."""
    top = max(points, key=lambda p: float(p["pressure_Pa"]))
    wanted = key.removeprefix("points.").split(".")[0]
    if wanted in ("bubble", "dew") and top["kind"] != wanted:
        own = [
            float(p["pressure_Pa"])
            for p in points
            if p["kind"] == wanted and 1.0 / NEAR < p["pressure_Pa"] / theirs < NEAR
        ]
        return own[0] if own else f"the model has a {top['kind']} point there, not a {wanted} point"
    near = [float(p["pressure_Pa"]) for p in points if 1.0 / NEAR < p["pressure_Pa"] / theirs < NEAR]
    return max(near, default=float(top["pressure_Pa"]))
