"""A picture as data: lines, points and marks over two axes, in the reader's units. What draws it is :mod:`.svg`."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..telling.colours import LIGHT
from ..telling.panels import Curve, Panel
from ..telling.sentences import Units
from ..telling.smoothing import smoothed
from ..telling.table_blocks import Shown, of_key

Values = tuple[float, ...]

SOLID, DASHED, DOTTED = "", "6 4", "1.5 3.5"
"""Strokes, as lengths drawn and left out."""


@dataclass(frozen=True)
class Stroke:
    """A line or, with a ``marker`` ("o", "s", "d", "+"), points: its name, which stands on it where ``named``, its
    values and its look."""

    name: str
    x: Values
    y: Values
    colour: str = LIGHT.ink
    width: float = 1.8
    dash: str = SOLID
    marker: str = ""
    named: bool = True


@dataclass(frozen=True)
class Area:
    """What is filled: the corners of its outline."""

    x: Values
    y: Values
    colour: str
    opacity: float = 0.2


@dataclass(frozen=True)
class Mark:
    """A point with words beside it."""

    text: str
    x: float
    y: float
    colour: str = LIGHT.ink
    marker: str = "d"


@dataclass(frozen=True)
class Figure:
    """A picture: titles of the axes, what is drawn, ``upright`` and ``level`` lines by name, ranges where they are
    not those of what is drawn, logarithmic axes, ``rows``, names that stand at y = 0, 1, 2 … from the top, and
    ``columns``, those at x = 1, 2, 3 …"""

    x_title: str
    y_title: str
    strokes: tuple[Stroke, ...] = ()
    areas: tuple[Area, ...] = ()
    marks: tuple[Mark, ...] = ()
    upright: tuple[tuple[str, float], ...] = ()
    level: tuple[tuple[str, float], ...] = ()
    x_range: tuple[float, float] | None = None
    y_range: tuple[float, float] | None = None
    x_log: bool = False
    y_log: bool = False
    from_zero: bool = False
    rows: tuple[str, ...] = ()
    columns: tuple[str, ...] = ()
    title: str = ""

    @property
    def empty(self) -> bool:
        """Whether nothing is drawn."""
        return not any(s.x for s in self.strokes) and not self.marks


def heading(shown: Shown, title: str = "") -> str:
    """Return the title of an axis: the name of its values and their unit."""
    text = title or shown.name
    text = f"{text}, {shown.head[1]}" if shown.head[1] else text
    return text[:1].upper() + text[1:]


def of_panel(panel: Panel, units: Units) -> Figure:
    """Return a panel of an answer as a picture."""
    x, y = of_key(panel.x, units), of_key(panel.y, units)
    areas = []
    for shade in panel.shades:
        corners_x = (*shade.low[0], *reversed(shade.high[0]))
        corners_y = (*shade.low[1], *reversed(shade.high[1]))
        colour = LIGHT.ink if shade.share is None else LIGHT.of_share(shade.share)
        areas.append(Area(_all(x, corners_x), _all(y, corners_y), colour))
    lines = sum(not c.dots for c in panel.curves)
    return Figure(
        heading(x, panel.x_title),
        heading(y, panel.y_title),
        tuple(_stroke(c, x, y, lines > 1, panel.corners) for c in panel.curves if c.x),
        tuple(areas),
        upright=tuple((name, x.plain(v)) for name, v in (panel.upright or {}).items()),
        level=tuple((name, y.plain(v)) for name, v in (panel.levels or {}).items()),
        from_zero=panel.from_zero,
    )


def _stroke(curve: Curve, x: Shown, y: Shown, named: bool, corners: Sequence[float]) -> Stroke:
    colour = LIGHT.ink if curve.share is None else LIGHT.of_share(curve.share)
    marker = "" if not curve.dots else "s" if curve.measured else "o"
    xs, ys = _all(x, curve.x), _all(y, curve.y)
    if not curve.dots:
        fine = smoothed(np.array(xs), np.array(ys), [x.plain(v) for v in corners])
        xs, ys = tuple(fine[0].tolist()), tuple(fine[1].tolist())
    return Stroke(curve.name, xs, ys, colour, marker=marker, named=named or curve.measured)


def _all(shown: Shown, values: Sequence[float]) -> Values:
    return tuple(shown.plain(v) for v in values)
