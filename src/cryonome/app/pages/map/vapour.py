"""Vapour pressures on a map: the tests asked about its fluid, the limits they are to keep, and the blend that a goal
makes of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainterPath, QPolygonF

from ....document.field_types import STUDIES
from ....document.references import about, is_about
from ....units import format_number, from_si, label
from ....vapour_pressure.laboratory import TEST_TEMPERATURE
from ...shell.live import Live
from ...widgets.plot import Plot, pen
from ...widgets.theme import Theme
from ..shared.limit_picture import SHADE
from ..shared.map_picture import Frame, Labels

Mark = tuple[str, float, float]
"""A test: its name, T K and P Pa."""
COLD, HOT, LEAST = 50.0, 1500.0, 1.0
"""K and Pa beyond the sides of any map."""
DOWN = (1.0, 0.85, 0.7, 0.5, 0.35, 0.2, 0.1)
"""Shares of a limit's pressure at which there may be room for its name."""


@dataclass(frozen=True)
class Kept:
    """What a question says on a map: the ``marks`` of its tests, ``hold`` K up to which the true vapour pressure
    keeps under ``limit`` Pa, and of a goal the ``curve`` (T K, P Pa) of the true one of the blend that it finds."""

    name: str
    marks: tuple[Mark, ...]
    limit: float | None = None
    hold: float | None = None
    curve: tuple[tuple[float, ...], tuple[float, ...]] | None = None


def kept_of(live: Live, fluid: str) -> list[Kept]:
    """Return what the answered questions about the vapour pressures of a fluid say, and what the goals that vary them
    make of it."""
    out = []
    asking = [s for s in live.kept() if s.kind == "vapour_pressure" and is_about(s, fluid)]
    for study in asking:
        answer, asked = _answered(live, study.name), live.asked(study)
        if answer is not None and asked is not None:
            out.append(Kept(study.name, _marks(answer), asked.limit, answer.get("limit_temperature_K")))
    names = {s.name for s in asking}
    for goal in live.document.studies:
        found = _answered(live, goal.name) if goal.kind == "goal" and about(goal, STUDIES) in names else None
        points = found["answer"].get("curve", ()) if found is not None else ()
        there = sorted((c["temperature_K"], c["TVP_Pa"]) for c in points if c["TVP_Pa"] is not None)
        if len(there) > 1:
            T, P = zip(*there, strict=True)
            out.append(Kept(goal.name, (), curve=(T, P)))
    return out


def _answered(live: Live, name: str) -> Mapping[str, Any] | None:
    shown = live.answer(name)
    return shown.value if shown.value and shown.value.get("ok") and not shown.old else None


def _marks(answer: Mapping[str, Any]) -> tuple[Mark, ...]:
    tests = (("TVP", answer["temperature_K"], answer["TVP_Pa"]), ("RVP", TEST_TEMPERATURE, answer["RVP_Pa"]))
    return tuple((name, T, P) for name, T, P in tests if P is not None)


def draw_vapour_pressures(plot: Plot, frame: Frame, theme: Theme, kept: Sequence[Kept]) -> None:
    """Draw tests, limits and blends into the plot's open layer; the side of a limit where it is not kept is shaded."""
    shade = QColor(theme.fault)
    shade.setAlpha(SHADE)
    look = pen(theme.fault, 1.4, Qt.PenStyle.DashLine)
    for i, own in enumerate(kept):
        if own.limit is not None and own.hold is not None:
            # The corner of the limit: under its pressure up to the temperature that holds it.
            x, y = frame.xy(np.array([COLD, own.hold, own.hold]), np.array([own.limit, own.limit, LEAST]))
            plot.line(f"limit {i}", x, y, look, cached=True, name=f"limit of {own.name}")
            plot.dots(f"hold {i}", x[1:2], y[1:2], pen(theme.fault, 1.6), "d", 10.0, theme.surface)
            right = float(frame.xy(HOT, own.limit)[0][0])
            corners = [(x[1], y[1]), (right, y[1]), (right, y[2]), (x[1], y[2])]
            path = QPainterPath()
            path.addPolygon(QPolygonF([QPointF(float(a), float(b)) for a, b in corners]))
            plot.region(f"over {i}", path, shade)
        if own.curve:
            x, y = frame.xy(np.array(own.curve[0]), np.array(own.curve[1]))
            plot.line(
                f"blend {i}", x, y, pen(theme.phase(0.0), 1.6, Qt.PenStyle.DashDotLine), cached=True, name=own.name
            )
        for name, T, P in own.marks:
            x, y = frame.xy(T, P)
            plot.dots(f"{name} {i}", x, y, pen(theme.ink, 1.6), "o" if name == "TVP" else "s", 8.0, theme.surface)


def label_vapour_pressures(labels: Labels, frame: Frame, theme: Theme, kept: Sequence[Kept]) -> None:
    """Name limits, blends and tests where there is room."""
    said: set[str] = set()
    unit = label(frame.pressure)
    for own in kept:
        if own.curve:
            labels.avoid(*frame.xy(np.array(own.curve[0]), np.array(own.curve[1])))
    for i, own in enumerate(kept):
        for name, T, P in own.marks:
            x, y = frame.xy(T, P)
            text = f"{name} {format_number(from_si(P, frame.pressure, 'pressure'), 3)} {unit}"
            if text not in said:
                said.add(text)
                labels.beside(f"name {name} {i}", text, float(x[0]), float(y[0]), theme.ink)
        if own.limit is not None and own.hold is not None:
            x, _ = frame.xy(own.hold, own.limit)
            most = format_number(from_si(own.limit, frame.pressure, "pressure"), 3)
            hottest = format_number(from_si(own.hold, frame.temperature, "temperature"), 3)
            text = f"TVP under {most} {unit}\nup to {hottest} {label(frame.temperature)}"
            for share in DOWN:
                y = frame.xy(own.hold, share * own.limit)[1]
                if labels.beside(f"name limit {i}", text, float(x[0]), float(y[0]), theme.fault, clear=True):
                    break
        if own.curve:
            x, y = frame.xy(np.array(own.curve[0]), np.array(own.curve[1]))
            labels.on_line(f"name blend {i}", own.name[:28], x, y, theme.liquid, 0.7)
