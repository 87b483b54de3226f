"""Pictures in temperature and pressure: envelopes, hydrate limits, and points and paths on the map of their fluid."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document import Document
from ..document.field_types import STUDIES
from ..document.references import about
from ..equilibrium.regions import Regions
from ..errors import DomainError
from ..fluids.map_lines import drawn, smooth
from ..results.evaluator import Project
from ..telling.colours import LIGHT
from ..telling.map_view import View, view_of, view_of_map
from ..telling.sentences import Units
from ..telling.table_blocks import Shown, of_kind
from .figure import DASHED, DOTTED, Figure, Mark, Stroke, Values

Array = NDArray[np.float64]
Line = Sequence[float] | Array
"""Values along a line."""

ROOM = 1.1
"""Height of a map, of its highest point."""


@dataclass(frozen=True)
class Axes:
    """How temperatures and pressures of a picture are shown."""

    T: Shown
    P: Shown

    def stroke(self, name: str, T: Line, P: Line, colour: str, width: float = 1.8, dash: str = "") -> Stroke:
        """Return a line through temperatures (K) and pressures (Pa)."""
        return Stroke(name, self._x(T), self._y(P), colour, width, dash)

    def mark(self, text: str, T: float, P: float, colour: str = LIGHT.ink, marker: str = "d") -> Mark:
        """Return a marked point, its values below its name."""
        where = f"{self.T.short(T)} {self.T.head[1]}, {self.P.short(P)} {self.P.head[1]}"
        return Mark(f"{text}\n{where}" if text else "", self.T.plain(T), self.P.plain(P), colour, marker)

    def figure(self, strokes: Sequence[Stroke], marks: Sequence[Mark], view: View | None = None) -> Figure:
        """Return a picture of lines and marks; ``view`` tells what part of the plane is shown."""
        x_range = y_range = None
        if view is not None:
            x_range = self.T.plain(view.cold), self.T.plain(view.hot)
            y_range = self.P.plain(0.0), self.P.plain(ROOM * view.top)
        heads = [f"{s.name[:1].upper()}{s.name[1:]}, {s.head[1]}" for s in (self.T, self.P)]
        return Figure(heads[0], heads[1], tuple(strokes), (), tuple(marks), x_range=x_range, y_range=y_range)

    def _x(self, T: Line) -> Values:
        return tuple(self.T.plain(float(v)) for v in T)

    def _y(self, P: Line) -> Values:
        return tuple(self.P.plain(float(v)) for v in P)


def axes_of_map(document: Document, units: Units) -> Axes:
    """Return the axes of a document's maps, in the units the map is shown in."""
    T, P = of_kind("temperature", "temperature", units), of_kind("pressure", "pressure", units)
    own = document.display.map
    return Axes(Shown(T.name, own.temperature or T.unit, T.kind), Shown(P.name, own.pressure or P.unit, P.kind))


def envelope(answer: Mapping[str, Any], axes: Axes) -> Figure:
    """Return the picture of an envelope from its answer."""
    strokes = []
    ends = [n for n in answer.get("lines", ()) if n["vapour_fraction"] in (0.0, 1.0)]
    for line in answer.get("lines", ()):
        share = line["vapour_fraction"]
        name = {0.0: "bubble", 1.0: "dew"}.get(share) or f"{100 * share:g} %"
        strokes.append(_line(axes, name, line, LIGHT.of_share(share), 2.2 if share in (0.0, 1.0) else 1.0))
    for line in answer.get("volume_lines", ()):
        share = line["vapour_volume_fraction"]
        strokes.append(_line(axes, f"{100 * share:g} vol%", line, LIGHT.of_share(share), 1.0))
    for line in answer.get("metastable", ()):
        strokes.append(_line(axes, "", line, LIGHT.of_share(line["vapour_fraction"]), 1.2, DOTTED))
    for line in answer.get("water_dew", ()):
        strokes.append(_line(axes, "water", line, LIGHT.water))
    for line in answer.get("three_phase", ()):
        strokes.append(_line(axes, "three phases", line, LIGHT.good, 1.4, DASHED))
    critical = answer.get("critical_points") or []
    marks = [axes.mark("critical", c["temperature_K"], c["pressure_Pa"]) for c in critical]
    for name in ("cricondenbar", "cricondentherm"):
        point = answer.get(name)
        if point:
            marks.append(axes.mark(name, point["temperature_K"], point["pressure_Pa"], LIGHT.mute, "+"))
    highest = answer.get("cricondenbar")
    tops = [t for t in answer.get("other_extremes", ()) if t.get("kind") != "cricondentherm"]
    seen = [(n["temperature_K"], n["pressure_Pa"]) for n in ends or answer.get("lines", ())]
    # The highest of a wet fluid lies on a boundary of three phases.
    top = [highest["pressure_Pa"]] if highest else []
    return axes.figure(strokes, marks, view_of(seen, [p["pressure_Pa"] for p in (*critical, *tops)] + top, top))


def _line(axes: Axes, name: str, line: Mapping[str, Any], colour: str, width: float = 1.6, dash: str = "") -> Stroke:
    T, P = smooth(np.array(line["temperature_K"]), np.array(line["pressure_Pa"]))
    return axes.stroke(name, T, P, colour, width, dash)


def behind(fluid: str, project: Project, axes: Axes) -> tuple[list[Stroke], View | None]:
    """Return bubble and dew line of a fluid, to put something before, and what of the plane they fill; nothing where
    there is no map."""
    found = project.document.fluid(fluid)
    if found is None:
        return [], None
    try:
        whole = project.map(found)
    except DomainError:
        return [], None
    lines = drawn(whole, [0.0, 1.0])
    strokes = [axes.stroke("dew" if beta == 1.0 else "bubble", T, P, LIGHT.of_share(beta), 1.4) for beta, T, P in lines]
    try:
        regions = project.regions(found)
    except DomainError:
        regions = None
    for name, colour, dash, bounds in _bounds_of(regions) if regions is not None else ():
        strokes += [axes.stroke(name, *smooth(T, P), colour, 1.4, dash) for T, P in bounds if len(T) > 1]
    return strokes, view_of_map(whole, regions.bounds if regions is not None else ())


def _bounds_of(found: Regions) -> list[tuple[str, str, str, Sequence[tuple[Array, Array]]]]:
    """Return the boundaries of water and of three phases: name, colour, stroke, (T, P)."""
    return [
        ("water", LIGHT.water, "", found.aqueous),
        ("three phases", LIGHT.good, DASHED, found.three[len(found.bounds) :]),
    ]


def on_map(study: Any, project: Project, axes: Axes, marks: Sequence[Mark], strokes: Sequence[Stroke] = ()) -> Figure:
    """Return points and lines before the map of the fluid that a question is about."""
    other = project.document.study(about(study, STUDIES))
    lines, view = behind(about(study) or (about(other) if other is not None else ""), project, axes)
    if view is not None:
        x = [axes.T.plain(view.cold), axes.T.plain(view.hot), *(m.x for m in marks), *(v for s in strokes for v in s.x)]
        y = [axes.P.plain(ROOM * view.top), *(m.y for m in marks), *(v for s in strokes for v in s.y)]
        figure = axes.figure([*lines, *strokes], marks, None)
        return Figure(
            figure.x_title,
            figure.y_title,
            figure.strokes,
            (),
            figure.marks,
            x_range=(min(x), max(x)),
            y_range=(axes.P.plain(0.0), 1.03 * max(y)),
        )
    return axes.figure([*lines, *strokes], marks, None)


def hydrate(answer: Mapping[str, Any], axes: Axes) -> Figure:
    """Return where each structure forms, the first one solid, with ice and quadruple points."""
    strokes: list[Stroke] = []
    points = answer["points"]
    for structure in sorted({p["structure"] for p in points}):
        own = sorted((p for p in points if p["structure"] == structure), key=lambda p: p["pressure_Pa"])
        for stable in (True, False):
            line = [p for p in own if p["stable"] == stable]
            if len(line) > 1:
                strokes.append(
                    axes.stroke(
                        f"hydrate {structure}",
                        [p["temperature_K"] for p in line],
                        [p["pressure_Pa"] for p in line],
                        LIGHT.hydrate,
                        2.0 if stable else 1.0,
                        "" if stable else DOTTED,
                    )
                )
    marks = [
        axes.mark(f"hydrate {p['structure']}", p["temperature_K"], p["pressure_Pa"], LIGHT.hydrate, "o")
        for p in points
        if p["stable"] and sum(q["stable"] for q in points) < 3
    ]
    ice = sorted(answer.get("ice", ()), key=lambda p: p["pressure_Pa"])
    if len(ice) > 1:
        T, P = [p["temperature_K"] for p in ice], [p["pressure_Pa"] for p in ice]
        strokes.append(axes.stroke("ice", T, P, LIGHT.water, 1.4, DASHED))
    return axes.figure(strokes, marks)
