"""What limits look like in temperature and pressure: hydrate and ice by dose with their danger side shaded, operating
paths with stations."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainterPath, QPolygonF

from ....results.hydrates import Dose, HydrateLines
from ....solids.lattice import STRUCTURES
from ...widgets.plot import Plot, pen
from ...widgets.theme import Theme
from .map_picture import Frame, Labels

Array = NDArray[np.float64]

SHADE = 34
"""Of 255: how dark the danger side is."""


@dataclass(frozen=True)
class DrawnPath:
    """An operating path: its name, the names of its stations, T K and P Pa, and the place of its least margin to
    hydrate or ice where it passes one."""

    name: str
    stations: tuple[str, ...]
    T: tuple[float, ...]
    P: tuple[float, ...]
    passed: tuple[float, float] | None = None


def draw_hydrates(plot: Plot, frame: Frame, theme: Theme, lines: HydrateLines, main: int = 0, ice: bool = True) -> None:
    """Draw limits of hydrate by dose into the plot's open layer: dose ``main`` strong and its danger side shaded,
    structures that form later dotted."""
    colour = QColor(theme.hydrate)
    first = lines.first
    for d in range(len(lines.doses)):
        strong = d in (0, main)
        dose = short(lines.doses[d])
        named = f"hydrate with {dose}" if dose else "hydrate"
        look = pen(colour, 2.4 if strong else 1.2, Qt.PenStyle.SolidLine if strong else Qt.PenStyle.DashLine)
        for run in _runs(first[d]):
            plot.line(f"hydrate {d} {run[0]}", *frame.xy(first[d, run], lines.P[run]), look, cached=True, name=named)
    for s in range(len(STRUCTURES)):
        later = np.where(lines.T[s, main] < first[main] - 1e-6, lines.T[s, main], np.nan)
        for run in _runs(later):
            plot.line(
                f"structure {s} {run[0]}",
                *frame.xy(later[run], lines.P[run]),
                pen(colour, 1.0, Qt.PenStyle.DotLine),
                cached=True,
                name=f"structure {STRUCTURES[s].name}",
            )
    if ice:
        for run in _runs(lines.ice[main]):
            plot.line(
                f"ice {run[0]}",
                *frame.xy(lines.ice[main, run], lines.P[run]),
                pen(theme.water, 1.4),
                cached=True,
                name="ice",
            )
    for run in _runs(lines.frost_T):
        look = pen(theme.water, 1.4, Qt.PenStyle.DashDotLine)
        plot.line(
            f"frost {run[0]}", *frame.xy(lines.frost_T[run], lines.frost_P[run]), look, cached=True, name="solid CO2"
        )
    shade = QColor(theme.hydrate)
    shade.setAlpha(SHADE)
    path = QPainterPath()
    for run in _runs(first[main]):
        x, y = frame.xy(first[main, run], lines.P[run])
        far = float(frame.xy(100.0, 1e5)[0][0])
        corner = [QPointF(far, float(y[-1])), QPointF(far, float(y[0]))]
        path.addPolygon(QPolygonF([*(QPointF(float(a), float(b)) for a, b in zip(x, y)), *corner]))
    plot.region("danger", path, shade)


def label_hydrates(labels: Labels, frame: Frame, theme: Theme, lines: HydrateLines, ice: bool = True) -> None:
    """Name the limits where there is room."""
    first = lines.first
    for d, dose in enumerate(lines.doses):
        for run in _runs(first[d]):
            x, y = frame.xy(first[d, run], lines.P[run])
            labels.on_line(f"name hydrate {d}", short(dose) or "hydrate", x, y, theme.hydrate, 0.75 - 0.05 * d, d == 0)
    _label_frost(labels, frame, theme, lines)
    if ice:
        for run in _runs(lines.ice[0]):
            labels.on_line("name ice", "ice", *frame.xy(lines.ice[0, run], lines.P[run]), theme.water, 0.9)


def _label_frost(labels: Labels, frame: Frame, theme: Theme, lines: HydrateLines) -> None:
    for run in _runs(lines.frost_T):
        labels.on_line("name frost", "solid CO2", *frame.xy(lines.frost_T[run], lines.frost_P[run]), theme.water, 0.4)


def short(dose: Dose) -> str:
    """Return a dose as a label."""
    return ", ".join(f"{100 * w:.3g} % {n}" for n, w in dose)


def short_names(dose: Dose) -> str:
    """Return what a dose is of."""
    return " and ".join(n for n, _ in dose)


def draw_paths(plot: Plot, frame: Frame, theme: Theme, paths: Sequence[DrawnPath]) -> None:
    """Draw operating paths into the plot's open layer, each in its own stroke."""
    styles = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine)
    for i, path in enumerate(paths):
        x, y = frame.xy(np.array(path.T), np.array(path.P))
        plot.line(
            f"path {i}",
            *_straight(frame, path),
            pen(theme.ink, 1.8, styles[i % len(styles)]),
            cached=True,
            name=path.name,
        )
        named = np.array([bool(name) for name in path.stations])
        plot.dots(f"stations {i}", x[named], y[named], pen(theme.ink, 1.6), "s", 9.0, theme.surface)
        if path.passed is not None:
            plot.dots(f"passed {i}", *frame.xy(*path.passed), pen(theme.fault, 2.0), "x", 11.0, theme.fault)


def label_paths(labels: Labels, frame: Frame, theme: Theme, paths: Sequence[DrawnPath]) -> None:
    """Name the stations, and paths where there are several."""
    for path in paths:
        labels.avoid(*frame.xy(np.array(path.T), np.array(path.P)))
        for name, x, y in zip(path.stations, *frame.xy(np.array(path.T), np.array(path.P))):
            if name:
                labels.reserve(float(x), float(y))
    for i, path in enumerate(paths):
        for k, (name, T, P) in enumerate(zip(path.stations, path.T, path.P)):
            if not name:
                continue
            x, y = frame.xy(T, P)
            shown = name if len(name) <= 22 else name[:21] + "…"
            if i == 0 or name not in paths[0].stations:
                labels.beside(f"station {i} {k}", shown, float(x[0]), float(y[0]), theme.ink)
        if len(paths) > 1:
            labels.on_line(f"name path {i}", path.name[:28], *_straight(frame, path), theme.ink, 0.5)


def _straight(frame: Frame, path: DrawnPath) -> tuple[Array, Array]:
    """Return the legs of a path as they are followed: straight in temperature and pressure, whatever the axes."""
    at = np.linspace(0.0, len(path.T) - 1.0, 20 * max(len(path.T) - 1, 1) + 1)
    stations = np.arange(len(path.T))
    return frame.xy(np.interp(at, stations, path.T), np.interp(at, stations, path.P))


def _runs(values: Array) -> list[NDArray[np.intp]]:
    there = np.flatnonzero(np.isfinite(values))
    return [r for r in np.split(there, np.flatnonzero(np.diff(there) > 1) + 1) if r.size > 1]
