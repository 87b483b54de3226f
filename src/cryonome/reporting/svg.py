"""Pictures drawn as SVG, without a window: the same vector text stands in the page of HTML, in the PDF, and in a file.

Only what SVG Tiny 1.2 has is used, which Qt reads as well: lines are clipped here and not by the viewer."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from html import escape

from ..telling.colours import LIGHT, legible
from . import ticks
from .figure import DASHED, Area, Figure, Mark, Stroke

Box = tuple[float, float, float, float]
"""Left, top, right, bottom in points."""

WIDTH, HEIGHT = 480.0, 290.0
"""Points, of 1/72 inch: what a picture is on a page."""
SIZE, SMALL = 8.5, 7.5
"""Points: titles, and what stands at the axes and on lines."""
ROW = 19.0
"""Points a named row is high."""
FONT = "Inter, 'DejaVu Sans', Arial, sans-serif"
ROOM = 0.05
"""Share of the range that is left about what is drawn."""
NARROW, BROAD = "ijlItf.,:;|!'()[] ", "mwMW%@—"
SIDES = ((1.0, 0.0), (-1.0, 0.0), (0.0, -1.0), (0.0, 1.0), (1.0, -1.0), (-1.0, -1.0), (1.0, 1.0), (-1.0, 1.0))
"""Directions in which there may be room beside a mark."""


def extent(text: str, size: float) -> float:
    """Return about how wide a text is, in points, where no font is at hand to measure it."""
    return size * sum(0.3 if c in NARROW else 0.86 if c in BROAD else 0.68 if c.isupper() else 0.56 for c in text)


def draw(figure: Figure, width: float = WIDTH, height: float = HEIGHT) -> str:
    """Return a picture as SVG of a size in points."""
    if figure.rows:
        height = max(46.0 + ROW * len(figure.rows), height if height != HEIGHT else 0.0)
    return _Drawing(figure, width, height).text()


@dataclass
class _Axis:
    """Values to points: ``low`` lies at ``start``, ``high`` at ``end``."""

    low: float
    high: float
    start: float
    end: float
    log: bool = False

    def __post_init__(self) -> None:
        self.a, self.b = (math.log10(self.low), math.log10(self.high)) if self.log else (self.low, self.high)

    def at(self, value: float) -> float:
        v = value
        if self.log:
            v = math.log10(value) if value > 0.0 else self.a - 10.0 * (self.b - self.a)
        return self.start + (v - self.a) / (self.b - self.a) * (self.end - self.start)

    def ticks(self, wanted: int) -> list[tuple[float, str]]:
        values = ticks.decades(self.low, self.high) if self.log else ticks.linear(self.low, self.high, wanted)
        if self.log:
            return [(v, f"{v:.6g}" if 1e-4 <= v < 1e6 else f"{v:.0e}".replace("e-0", "e−")) for v in values]
        step = values[1] - values[0] if len(values) > 1 else abs(values[0]) or 1.0
        return [(v, ticks.text(v, step)) for v in values]


@dataclass
class _Drawing:
    figure: Figure
    width: float
    height: float
    out: list[str] = field(default_factory=list)
    taken: list[Box] = field(default_factory=list)
    lines: list[list[tuple[float, float]]] = field(default_factory=list)

    def text(self) -> str:
        f = self.figure
        names = max((extent(r, SIZE) for r in f.rows), default=0.0)
        left = min(names + 14.0, 0.45 * self.width) if f.rows else 44.0
        self.frame: Box = (left, 18.0, self.width - 12.0, self.height - 32.0)
        x_low, x_high = _range(self._values(0), f.x_range, f.x_log)
        y_low, y_high = _range(self._values(1), f.y_range, f.y_log, f.from_zero)
        if f.rows:
            y_low, y_high = len(f.rows) - 0.5, -0.5
        self.x = _Axis(x_low, x_high, self.frame[0], self.frame[2], f.x_log)
        self.y = _Axis(y_low, y_high, self.frame[3], self.frame[1], f.y_log)
        self._axes()
        for area in f.areas:
            self._area(area)
        for name, value in f.upright:
            self._rule(name, self.x.at(value), True, LIGHT.mute)
        for name, value in f.level:
            self._rule(name, self.y.at(value), False, LIGHT.fault)
        for stroke in f.strokes:
            self._stroke(stroke)
        for mark in f.marks:
            self._marker(mark.marker, self.x.at(mark.x), self.y.at(mark.y), mark.colour, 3.4)
        self._names()
        body = "\n".join(self.out)
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" version="1.2" baseProfile="tiny" '
            f'width="{self.width:g}pt" height="{self.height:g}pt" viewBox="0 0 {self.width:g} {self.height:g}" '
            f'font-family="{FONT}">\n{body}\n</svg>\n'
        )

    def _values(self, which: int) -> list[float]:
        f = self.figure
        drawn: list[Stroke | Area] = [*f.strokes, *f.areas]
        found = [v for s in drawn for v in (s.x, s.y)[which]]
        found += [(m.x, m.y)[which] for m in f.marks]
        found += [v for _, v in (f.upright, f.level)[which]]
        return [v for v in found if math.isfinite(v)]

    # -- axes

    def _axes(self) -> None:
        left, top, right, bottom = self.frame
        f = self.figure
        along = [(float(i), name) for i, name in enumerate(f.columns, 1)] or self.x.ticks(7)
        for value, text in along:
            at = self.x.at(value)
            self._line(at, top, at, bottom, LIGHT.hair, 0.5)
            shown = _cut(text, (right - left) / max(len(f.columns), 1), SMALL) if f.columns else text
            self._text(
                shown, min(at, self.width - 0.5 * extent(shown, SMALL)), bottom + 11.0, LIGHT.mute, SMALL, "middle"
            )
        if f.rows:
            for i, name in enumerate(f.rows):
                shown = _cut(name, left - 14.0, SIZE)
                self._text(shown, left - 7.0, self.y.at(float(i)) + 0.35 * SIZE, LIGHT.ink, SIZE, "end")
        else:
            for value, text in self.y.ticks(5):
                at = self.y.at(value)
                self._line(left, at, right, at, LIGHT.hair, 0.5)
                self._text(text, left - 5.0, at + 0.35 * SMALL, LIGHT.mute, SMALL, "end")
        self._line(left, bottom, right, bottom, LIGHT.mute, 0.8)
        self._line(left, top, left, bottom, LIGHT.mute, 0.8)
        if not f.rows:
            self._text(f.y_title, 2.0, 9.5, LIGHT.ink, SIZE, "start")
        self._text(f.x_title, right, self.height - 6.0, LIGHT.ink, SIZE, "end")

    def _rule(self, name: str, at: float, upright: bool, colour: str) -> None:
        left, top, right, bottom = self.frame
        if upright and left <= at <= right:
            self._line(at, top, at, bottom, colour, 1.0, DASHED)
            wide = extent(name, SMALL)
            beyond = at + 4.0 + wide > right
            x = at - 4.0 if beyond else at + 4.0
            room = (x - wide if beyond else x, top + 1.0, x if beyond else x + wide, top + SMALL + 3.0)
            while self._overlaps(room) and room[3] + 10.0 < bottom:
                room = (room[0], room[1] + 10.0, room[2], room[3] + 10.0)
            self.taken.append(room)
            self._text(name, x, room[3] - 2.5, colour, SMALL, "end" if beyond else "start")
        elif not upright and top <= at <= bottom:
            self._line(left, at, right, at, colour, 1.0, DASHED)
            self._text(name, right - 3.0, at - 3.0, colour, SMALL, "end")
            self.taken.append((right - 3.0 - extent(name, SMALL), at - SMALL - 3.0, right, at))

    # -- what is drawn

    def _points(self, x: Sequence[float], y: Sequence[float]) -> list[tuple[float, float]]:
        return [(self.x.at(a), self.y.at(b)) for a, b in zip(x, y)]

    def _area(self, area: Area) -> None:
        left, top, right, bottom = self.frame
        corners = self._points(area.x, area.y)
        for axis, limit, above in ((0, left, True), (0, right, False), (1, top, True), (1, bottom, False)):
            corners = _within(corners, axis, limit, above)
        if len(corners) > 2:
            path = " ".join(f"{a:.2f},{b:.2f}" for a, b in corners)
            self.out.append(
                f'<polygon points="{path}" fill="{area.colour}" fill-opacity="{area.opacity:g}" stroke="none"/>'
            )

    def _stroke(self, stroke: Stroke) -> None:
        points = self._points(stroke.x, stroke.y)
        if stroke.marker:
            left, top, right, bottom = self.frame
            for a, b in points:
                if left - 1.0 <= a <= right + 1.0 and top - 1.0 <= b <= bottom + 1.0:
                    self._marker(stroke.marker, a, b, stroke.colour, 2.6)
            return
        for run in _clipped(points, self.frame):
            path = " ".join(f"{a:.2f},{b:.2f}" for a, b in run)
            dash = f' stroke-dasharray="{stroke.dash.replace(" ", ",")}"' if stroke.dash else ""
            self.out.append(
                f'<polyline points="{path}" fill="none" stroke="{stroke.colour}" stroke-width="{stroke.width:g}" '
                f'stroke-linejoin="round" stroke-linecap="round"{dash}/>'
            )
            self.lines.append(run)

    def _marker(self, marker: str, x: float, y: float, colour: str, r: float) -> None:
        self.taken.append((x - r, y - r, x + r, y + r))
        look = f'fill="{LIGHT.surface}" stroke="{colour}" stroke-width="1.2"'
        if marker == "s":
            self.out.append(f'<rect x="{x - r:.2f}" y="{y - r:.2f}" width="{2 * r:g}" height="{2 * r:g}" {look}/>')
        elif marker == "d":
            path = f"M{x:.2f},{y - 1.3 * r:.2f} L{x + r:.2f},{y:.2f} L{x:.2f},{y + 1.3 * r:.2f} L{x - r:.2f},{y:.2f} Z"
            self.out.append(f'<path d="{path}" {look}/>')
        elif marker == "+":
            path = f"M{x - r:.2f},{y:.2f} L{x + r:.2f},{y:.2f} M{x:.2f},{y - r:.2f} L{x:.2f},{y + r:.2f}"
            self.out.append(f'<path d="{path}" fill="none" stroke="{colour}" stroke-width="1.2"/>')
        else:
            self.out.append(f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{r:g}" {look}/>')

    # -- names

    def _names(self) -> None:
        for mark in self.figure.marks:
            self._beside(mark)
        named: set[str] = set()
        for stroke in sorted(self.figure.strokes, key=lambda s: -len(s.x)):
            if not stroke.named or not stroke.name or stroke.name in named:
                continue
            if stroke.marker:
                x, y = stroke.x[len(stroke.x) // 2], stroke.y[len(stroke.y) // 2]
                found = self._beside(Mark(stroke.name, x, y, stroke.colour))
            else:
                found = self._on_line(stroke)
            if found:
                named.add(stroke.name)

    def _overlaps(self, box: Box) -> bool:
        return any(box[0] < b[2] and b[0] < box[2] and box[1] < b[3] and b[1] < box[3] for b in self.taken)

    def _outside(self, box: Box) -> bool:
        left, top, right, bottom = self.frame
        return box[0] < left or box[2] > right or box[1] < top - 4.0 or box[3] > bottom

    def _crossed(self, box: Box) -> bool:
        return any(box[0] < x < box[2] and box[1] < y < box[3] for line in self.lines for x, y in _dense(line))

    def _beside(self, mark: Mark) -> bool:
        rows = mark.text.split("\n")
        wide, high = max(extent(r, SMALL) for r in rows), 9.5 * len(rows)
        x, y = self.x.at(mark.x), self.y.at(mark.y)
        for clear in (True, False):
            for gap in (7.0, 14.0, 24.0):
                for dx, dy in SIDES:
                    cx, cy = x + dx * (gap + 0.5 * wide), y + dy * (gap * 0.7 + 0.5 * high)
                    box = (cx - 0.5 * wide - 1.0, cy - 0.5 * high, cx + 0.5 * wide + 1.0, cy + 0.5 * high)
                    if self._outside(box) or self._overlaps(box) or (clear and self._crossed(box)):
                        continue
                    self.taken.append(box)
                    self._ground(box)
                    for i, row in enumerate(rows):
                        self._text(row, cx, box[1] + 7.5 + 9.5 * i, mark.colour, SMALL, "middle")
                    return True
        return False

    def _on_line(self, stroke: Stroke) -> bool:
        wide = extent(stroke.name, SMALL) + 4.0
        for run in sorted(_clipped(self._points(stroke.x, stroke.y), self.frame), key=_length, reverse=True)[:3]:
            dense = list(_dense(run))
            if _length(run) < 1.3 * wide:
                continue
            for share in (0.5, 0.62, 0.38, 0.74, 0.26, 0.84, 0.16, 0.56, 0.44, 0.68, 0.32):
                x, y = dense[min(int(share * len(dense)), len(dense) - 1)]
                box = (x - 0.5 * wide, y - 5.5, x + 0.5 * wide, y + 5.5)
                if not self._outside(box) and not self._overlaps(box):
                    self.taken.append(box)
                    self._ground(box)
                    self._text(stroke.name, x, y + 0.35 * SMALL, stroke.colour, SMALL, "middle", True)
                    return True
        return False

    # -- strokes of the pen

    def _ground(self, box: Box) -> None:
        self.out.append(
            f'<rect x="{box[0]:.2f}" y="{box[1]:.2f}" width="{box[2] - box[0]:.2f}" height="{box[3] - box[1]:.2f}" '
            f'fill="{LIGHT.surface}" fill-opacity="0.85" stroke="none"/>'
        )

    def _line(self, x0: float, y0: float, x1: float, y1: float, colour: str, width: float, dash: str = "") -> None:
        dashed = f' stroke-dasharray="{dash.replace(" ", ",")}"' if dash else ""
        self.out.append(
            f'<line x1="{x0:.2f}" y1="{y0:.2f}" x2="{x1:.2f}" y2="{y1:.2f}" stroke="{colour}" stroke-width="{width:g}"{dashed}/>'
        )

    def _text(self, text: str, x: float, y: float, colour: str, size: float, anchor: str, bold: bool = False) -> None:
        weight = ' font-weight="600"' if bold else ""
        colour = legible(colour, LIGHT.surface, LIGHT.ink)
        self.out.append(
            f'<text x="{x:.2f}" y="{y:.2f}" fill="{colour}" font-size="{size:g}" text-anchor="{anchor}"{weight}>{escape(text)}</text>'
        )


def _cut(text: str, room: float, size: float) -> str:
    while len(text) > 4 and extent(text, size) > room:
        text = text[:-2].rstrip("… ") + "…"
    return text


def _range(
    values: Sequence[float], given: tuple[float, float] | None, log: bool, from_zero: bool = False
) -> tuple[float, float]:
    """Return the ends of an axis: those given, else those of the values with some room about them."""
    if given is not None and given[1] > given[0]:
        return given
    if log:
        values = [v for v in values if v > 0.0]
    if not values:
        return (0.1, 1.0) if log else (0.0, 1.0)
    low, high = min(values), max(values)
    if log:
        return (low / 1.2, high * 1.2)
    room = ROOM * (high - low) if high > low else max(0.1 * abs(high), 1e-9)
    if from_zero and low >= 0.0:
        return 0.0, high + room
    return low - room, high + room


def _clipped(points: Sequence[tuple[float, float]], frame: Box) -> list[list[tuple[float, float]]]:
    """Return the stretches of a line inside a frame (Liang and Barsky, 1984, segment by segment)."""
    left, top, right, bottom = frame
    runs: list[list[tuple[float, float]]] = []
    for (x0, y0), (x1, y1) in itertools.pairwise(points):
        if not all(map(math.isfinite, (x0, y0, x1, y1))):
            continue
        first, last, dx, dy = 0.0, 1.0, x1 - x0, y1 - y0
        for p, q in ((-dx, x0 - left), (dx, right - x0), (-dy, y0 - top), (dy, bottom - y0)):
            if p == 0.0:
                last = last if q >= 0.0 else -1.0
            elif p < 0.0:
                first = max(first, q / p)
            else:
                last = min(last, q / p)
        if first > last:
            continue
        start, end = (x0 + first * dx, y0 + first * dy), (x0 + last * dx, y0 + last * dy)
        if runs and math.dist(runs[-1][-1], start) < 1e-6:
            runs[-1].append(end)
        else:
            runs.append([start, end])
    return runs


def _within(corners: Sequence[tuple[float, float]], axis: int, limit: float, above: bool) -> list[tuple[float, float]]:
    """Return an outline cut at one side of a frame (Sutherland and Hodgman, 1974)."""
    out: list[tuple[float, float]] = []
    for a, b in zip(corners, [*corners[1:], *corners[:1]]):
        in_a, in_b = ((p[axis] >= limit) == above or p[axis] == limit for p in (a, b))
        if in_a:
            out.append(a)
        if in_a != in_b:
            w = (limit - a[axis]) / (b[axis] - a[axis])
            out.append((a[0] + w * (b[0] - a[0]), a[1] + w * (b[1] - a[1])))
    return out


def _length(line: Sequence[tuple[float, float]]) -> float:
    return sum(math.dist(a, b) for a, b in itertools.pairwise(line))


def _dense(line: Sequence[tuple[float, float]], step: float = 3.0) -> Iterator[tuple[float, float]]:
    """Give points along a line, a few points of paper apart."""
    for a, b in itertools.pairwise(line):
        count = max(1, math.ceil(math.dist(a, b) / step))
        for k in range(count):
            yield a[0] + k / count * (b[0] - a[0]), a[1] + k / count * (b[1] - a[1])
