"""The picture of a P-T map on a plot: lines, marks and labels that never lie on one another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt
from PySide6.QtGui import QFontMetricsF

from ....equilibrium.extremes import with_stable_extremes
from ....equilibrium.phase_map import PhaseMap
from ....equilibrium.phases import Kind
from ....equilibrium.region_cells import Boundary
from ....equilibrium.regions import Regions, to_corners
from ....equilibrium.spinodal import Spinodal
from ....equilibrium.volume_lines import VolumeLine
from ....fluids.map_lines import drawn, metastable, smooth
from ....telling.map_view import view_of_map
from ....units import format_number, from_si, label, to_si
from ...widgets.letters import point_size
from ...widgets.plot import Plot, pen
from ...widgets.theme import Theme

Array = NDArray[np.float64]
Box = tuple[float, float, float, float]
"""Left, top, right, bottom in pixels."""

SIDES = ((0.0, 0.5), (1.0, 0.5), (0.5, 1.0), (0.5, 0.0), (0.0, 1.0), (1.0, 1.0), (0.0, 0.0), (1.0, 0.0))
"""Anchors tried for the label of a mark: right, left, above, below, and the corners."""

CLOSE, MOST_POINTS = 6.0, 2000
"""Pixels between the points of a line that labels keep off, and the most of them."""

GAP = 9.0
"""Pixels between a mark and its label."""


def name_of(beta: float) -> str:
    """Return what a line of a vapour fraction is called."""
    return {0.0: "bubble line", 1.0: "dew line"}.get(beta) or f"{100 * beta:g} % vapour"


@dataclass(frozen=True)
class Frame:
    """Units of the axes and whether pressure is drawn by its logarithm."""

    temperature: str
    pressure: str
    logarithmic: bool = False

    def xy(self, T: Array | float, P: Array | float) -> tuple[Array, Array]:
        """Return plot coordinates of T K and P Pa."""
        # These conversions are linear, so one call serves the whole line.
        x = np.asarray(from_si(np.atleast_1d(T), self.temperature, "temperature"))  # type: ignore[arg-type]
        y = np.asarray(from_si(np.atleast_1d(P), self.pressure, "pressure"))  # type: ignore[arg-type]
        return x, np.log10(np.maximum(y, 1e-12)) if self.logarithmic else y

    def state(self, x: float, y: float) -> tuple[float, float]:
        """Return T K and P Pa at plot coordinates."""
        value = 10.0**y if self.logarithmic else y
        return to_si(x, self.temperature, "temperature"), to_si(value, self.pressure, "pressure")

    def where(self, T: float, P: float) -> str:
        """Return a point in words."""
        t, p = from_si(T, self.temperature, "temperature"), from_si(P, self.pressure, "pressure")
        return f"{format_number(t, 4)} {label(self.temperature)}, {format_number(p, 4)} {label(self.pressure)}"


@dataclass
class Labels:
    """Places labels of one drawing where no other lies; what finds no room is left out and shows as a tip elsewhere."""

    plot: Plot
    taken: list[Box] = field(default_factory=list)
    avoided: list[Array] = field(default_factory=list)

    def _pixels(self, x: Array, y: Array) -> Array:
        (x0, x1), (y0, y1) = self.plot.box.viewRange()
        size = self.plot.box.size()
        return np.stack([(x - x0) / (x1 - x0) * size.width(), (y1 - y) / (y1 - y0) * size.height()], axis=-1)

    def _pixel(self, x: float, y: float) -> tuple[float, float]:
        px, py = self._pixels(np.asarray(x, float), np.asarray(y, float))
        return float(px), float(py)

    def avoid(self, x: Array, y: Array) -> None:
        """Keep labels off a line, where they can."""
        line = self._pixels(np.asarray(x, float), np.asarray(y, float))
        if len(line) > 1:
            # Between traced points far apart a label would find room on the line.
            along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
            if np.isfinite(along[-1]):
                at = np.linspace(0.0, along[-1], min(int(along[-1] / CLOSE) + 2, MOST_POINTS))
                line = np.column_stack([np.interp(at, along, line[:, 0]), np.interp(at, along, line[:, 1])])
        self.avoided.append(line)

    def _extent(self, text: str, bold: bool) -> tuple[float, float]:
        font = self.plot.font()
        font.setPointSizeF(point_size(8.5))
        font.setBold(bold)
        metrics = QFontMetricsF(font)
        lines = text.split("\n")
        return max(metrics.horizontalAdvance(s) for s in lines) + 10.0, metrics.height() * len(lines) + 6.0

    def _free(self, box: Box, lines: bool) -> bool:
        size = self.plot.box.size()
        if box[0] < 0.0 or box[1] < 0.0 or box[2] > size.width() or box[3] > size.height():
            return False
        if any(box[0] < b[2] and b[0] < box[2] and box[1] < b[3] and b[1] < box[3] for b in self.taken):
            return False
        return not lines or not any(
            ((p[:, 0] > box[0]) & (p[:, 0] < box[2]) & (p[:, 1] > box[1]) & (p[:, 1] < box[3])).any()
            for p in self.avoided
        )

    def beside(
        self, key: str, text: str, x: float, y: float, colour: str, bold: bool = False, clear: bool = False
    ) -> bool:
        """Label a mark on the first side where there is room: off every line if possible, else, unless it is to stay
        ``clear``, off the other labels."""
        px, py = self._pixel(x, y)
        width, height = self._extent(text, bold)
        tries = [(True, gap) for gap in (GAP, 2.5 * GAP, 4.0 * GAP)] + ([] if clear else [(False, GAP)])
        for lines, gap in tries:
            for ax, ay in SIDES:
                left = px - ax * width + gap * (1.0 - 2.0 * ax)
                top = py - ay * height + gap * (1.0 - 2.0 * ay) * (ax == 0.5)
                box = (left, top, left + width, top + height)
                if self._free(box, lines):
                    self.taken.append(box)
                    self._write(key, text, box, colour, bold, False)
                    return True
        return False

    def on_line(self, key: str, text: str, x: Array, y: Array, colour: str, first: float, bold: bool = False) -> bool:
        """Label a line on itself, as near to the share ``first`` of its visible length as there is room."""
        px = self._pixels(x, y)
        size = self.plot.box.size()
        seen = (px[:, 0] > 0) & (px[:, 0] < size.width()) & (px[:, 1] > 0) & (px[:, 1] < size.height())
        px = px[seen]
        if len(px) < 3:
            return False
        along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(px, axis=0).T))])
        width, height = self._extent(text, bold)
        for shift in (0.0, 0.08, -0.08, 0.16, -0.16, 0.24, -0.24, 0.32, -0.32, 0.4, -0.4):
            share = first + shift
            if not 0.03 < share < 0.97:
                continue
            cx, cy = px[int(np.searchsorted(along, share * along[-1]))]
            box = (cx - width / 2, cy - height / 2, cx + width / 2, cy + height / 2)
            if self._free(box, False):
                self.taken.append(box)
                self._write(key, text, box, colour, bold, True)
                return True
        return False

    def reserve(self, x: float, y: float, radius: float = 7.0) -> None:
        """Keep labels off a mark."""
        px, py = self._pixel(x, y)
        self.taken.append((px - radius, py - radius, px + radius, py + radius))

    def _write(self, key: str, text: str, box: Box, colour: str, bold: bool, ground: bool) -> None:
        (x0, x1), (y0, y1) = self.plot.box.viewRange()
        size = self.plot.box.size()
        x = x0 + 0.5 * (box[0] + box[2]) / size.width() * (x1 - x0)
        y = y1 - 0.5 * (box[1] + box[3]) / size.height() * (y1 - y0)
        self.plot.text(key, text, x, y, colour, (0.5, 0.5), ground=ground, bold=bold, depth=5.0)


@dataclass(frozen=True)
class Pinned:
    """A kept state to be marked: its name, T K and P Pa."""

    name: str
    T: float
    P: float


def fit(
    plot: Plot, frame: Frame, whole: PhaseMap, pinned: Sequence[Pinned] = (), beyond: Sequence[Boundary] = ()
) -> None:
    """Show the envelope where engineers look: from -60 degC, and from zero pressure."""
    view = view_of_map(whole, beyond, [p.P for p in pinned])
    if view is None:
        return
    left, bottom = frame.xy(view.cold, 1e5 if frame.logarithmic else 1e-9)
    right, top = frame.xy(view.hot, view.top * (1.3 if frame.logarithmic else 1.1))
    plot.fit_x(float(left[0]), float(right[0]))
    plot.fit_y(float(bottom[0]) if frame.logarithmic else 0.0, float(top[0]))


Line = tuple[str, float, Array, Array]
"""A line as it is drawn: its key, vapour fraction, and plot coordinates."""


@dataclass(frozen=True)
class Picture:
    """What is to be drawn of a map. Lines and labels are drawn apart, so that the interface is never held for both."""

    frame: Frame
    theme: Theme
    whole: PhaseMap | None
    quality: Sequence[float] = ()
    ghosts: Sequence[tuple[str, PhaseMap]] = ()
    pinned: Sequence[Pinned] = ()
    regions: Regions | None = None
    spinodal: Spinodal | None = None
    volumes: Sequence[VolumeLine] = ()
    metastable: bool = False
    places: Sequence[tuple[float, float]] = ()
    """T K and P Pa of marks that others draw, to keep labels off."""

    def draw(self, plot: Plot) -> None:
        """Draw everything."""
        self.draw_lines(plot)
        self.draw_labels(plot)

    def lines(self) -> list[Line]:
        """Return envelope and quality lines as they are drawn."""
        if self.whole is None:
            return []
        found = drawn(self.whole, [0.0, 1.0, *self.quality])
        if self.regions is not None:
            found = [
                (beta, *to_corners(T, P, self.regions.corners)) if beta in (0.0, 1.0) else (beta, T, P)
                for beta, T, P in found
            ]
        by_volume = [(v.share, *smooth(v.states.T, v.states.P)) for v in self.volumes]
        through = self._through() if not self.volumes else []
        return [
            (f"{beta:g} {i}", beta, *self.frame.xy(T, P))
            for i, (beta, T, P) in enumerate([*found, *by_volume, *through])
        ]

    def _through(self) -> list[tuple[float, Array, Array]]:
        """Return (vapour fraction, T, P) of the lines that go on along the boundaries of three phases and through
        them: where the vapour is gone like a bubble line, where the oil is like a dew line."""
        if self.regions is None:
            return []
        like = {Kind.VAPOUR: 0.0, Kind.LIQUID: 1.0}
        bounds = [(like[b.gone], *smooth(b.T, b.P)) for b in self.regions.bounds if b.gone in like]
        wanted = [
            (f, *smooth(p.T, p.P)) for f, p in self.regions.quality if any(abs(f - q) < 1e-12 for q in self.quality)
        ]
        return [*bounds, *wanted]

    def draw_lines(self, plot: Plot) -> None:
        """Draw ghosts behind, the envelope, quality lines, marks, and kept states before them."""
        t, frame = self.theme, self.frame
        plot.begin("lines")
        for name, ghost in self.ghosts:
            for i, (_, T, P) in enumerate(drawn(ghost, [0.0, 1.0])):
                x, y = frame.xy(T, P)
                plot.line(f"ghost {name} {i}", x, y, pen(t.mute, 1.4, Qt.PenStyle.DotLine), cached=True, name=name)
        for key, beta, x, y in self.lines():
            plot.line(
                f"map {key}",
                x,
                y,
                pen(t.phase(beta), 2.6 if beta in (0.0, 1.0) else 1.2),
                cached=True,
                name=name_of(beta),
            )
        for i, (beta, T, P) in enumerate(metastable(self.whole) if self.whole is not None and self.metastable else ()):
            x, y = frame.xy(T, P)
            plot.line(f"metastable {i}", x, y, pen(t.phase(beta), 1.6, Qt.PenStyle.DotLine), cached=True)
        for key, name, colour, style, x, y in [*self._boundaries(), *self._limits()]:
            plot.line(key, x, y, pen(colour, 2.0, style), cached=True, name=name)
        for i, pin in enumerate(self.pinned):
            plot.dots(f"pin {i}", *frame.xy(pin.T, pin.P), pen(t.ink, 1.6), "o", 9)
        for mark in self._marks():
            fill = t.surface if mark.symbol == "d" else mark.colour
            plot.dots(mark.key, *frame.xy(mark.T, mark.P), pen(mark.colour, 1.4), mark.symbol, mark.size, fill)
        plot.end()

    def draw_labels(self, plot: Plot) -> Labels:
        """Place a label beside every mark and kept state, and on the lines, where there is room in the present view;
        return the room that is taken."""
        t, frame, lines = self.theme, self.frame, self.lines()
        plot.begin("labels")
        labels = Labels(plot)
        for _, _, x, y in lines:
            labels.avoid(x, y)
        marks = self._marks()
        for T, P in [(p.T, p.P) for p in self.pinned] + [(m.T, m.P) for m in marks] + list(self.places):
            x, y = frame.xy(T, P)
            labels.reserve(float(x[0]), float(y[0]))
        for mark in marks:
            x, y = frame.xy(mark.T, mark.P)
            text = f"{mark.name}\n{frame.where(mark.T, mark.P)}"
            labels.beside(mark.key, text, float(x[0]), float(y[0]), mark.colour)
        for i, pin in enumerate(self.pinned):
            x, y = frame.xy(pin.T, pin.P)
            name = pin.name if len(pin.name) <= 24 else pin.name[:23] + "…"
            labels.beside(f"pin {i}", name, float(x[0]), float(y[0]), t.ink)
        named = self.whole is not None and self.whole.z.size > 1
        _line_names(labels, t, lines, named, "vol%" if self.volumes else "%")
        for key, name, colour, _, x, y in [*self._boundaries(), *self._limits()]:
            labels.on_line(f"name {key}", name, x, y, colour, 0.4, True)
        plot.end()
        return labels

    def _boundaries(self) -> list[tuple[str, str, str, Qt.PenStyle, Array, Array]]:
        """Return key, name, colour, style and coordinates of the boundaries of regions."""
        if self.regions is None:
            return []
        kinds = (
            ("water", "water", self.theme.water, Qt.PenStyle.SolidLine, self.regions.aqueous),
            (
                "three",
                "three phases",
                self.theme.good,
                Qt.PenStyle.DashLine,
                self.regions.three[len(self.regions.bounds) :],
            ),
        )
        return [
            (f"{key} {i}", name, colour, style, *self.frame.xy(T, P))
            for key, name, colour, style, lines in kinds
            for i, (T, P) in enumerate(lines)
            if T.size > 1
        ]

    def _limits(self) -> list[tuple[str, str, str, Qt.PenStyle, Array, Array]]:
        """Return the spinodal like a boundary, where its pressure is above zero."""
        if self.spinodal is None:
            return []
        above = np.flatnonzero(self.spinodal.P > 0.0)
        runs = np.split(above, np.flatnonzero(np.diff(above) > 1) + 1)
        style, colour = Qt.PenStyle.DashDotLine, self.theme.mute
        return [
            (
                f"spinodal {i}",
                "spinodal",
                colour,
                style,
                *self.frame.xy(*smooth(self.spinodal.T[run], self.spinodal.P[run])),
            )
            for i, run in enumerate(runs)
            if run.size > 1
        ]

    def _marks(self) -> list[_Mark]:
        whole, t = self.whole, self.theme
        if whole is None:
            return []
        critical = enumerate(whole.critical_points)
        whole = with_stable_extremes(whole, self.regions)
        marks = [_Mark(f"critical {i}", "critical", "d", 12.0, t.ink, c.T, c.P) for i, c in critical]
        if whole.z.size > 1:
            extremes = (("cricondenbar", whole.cricondenbar), ("cricondentherm", whole.cricondentherm))
            marks += [_Mark(name, name, "+", 9.0, t.mute, p.T, p.P) for name, p in extremes if p is not None]
            others = enumerate(whole.others)
            marks += [_Mark(f"{name} {i}", "", "+", 7.0, t.mute, p.T, p.P) for i, (name, p) in others]
        return marks


@dataclass(frozen=True)
class _Mark:
    """A point that is marked and told: its key, name, symbol and size, colour, T K and P Pa."""

    key: str
    name: str
    symbol: str
    size: float
    colour: str
    T: float
    P: float


def _line_names(labels: Labels, t: Theme, lines: list[Line], named: bool, share: str) -> None:
    for beta, text, first in ((0.0, "bubble", 0.45), (1.0, "dew", 0.5)):
        longest = max((line for line in lines if line[1] == beta), key=lambda line: len(line[2]), default=None)
        if longest is not None and named:
            labels.on_line(f"name {text}", text, longest[2], longest[3], t.phase(beta).name(), first, True)
    for key, beta, x, y in lines:
        if beta not in (0.0, 1.0):
            labels.on_line(f"name {key}", f"{100 * beta:.0f} {share}", x, y, t.phase(beta).name(), 0.45)
