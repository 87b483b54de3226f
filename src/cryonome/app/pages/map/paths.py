"""Operating paths on a map: what is drawn of them, and stations as handles to drag."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QEvent, QObject, QPointF, Qt
from PySide6.QtGui import QMouseEvent

from ....document import Study
from ....document.edits import set_each, study_path
from ....document.faults import PathParts
from ....document.field_types import Cell
from ....questions.kinds.path import PathStudy
from ....questions.kinds.process import ProcessStudy
from ....results.paths import HAZARDS
from ....units import from_si, split
from ....units.errors import QuantityError
from ...shell.live import Live
from ...widgets.plot import Plot
from ..shared.limit_picture import DrawnPath
from ..shared.map_picture import Frame
from ..steps.strip import gives_of, takes_of

HAZARD_KEYS = ("hydrate_margin_K", "ice_margin_K", "frost_margin_K")
"""Margins of a stream whose passing stops a plant."""
REACH = 12.0
"""Pixels within which a station is taken."""


def paths_of(live: Live, studies: Sequence[Study]) -> list[DrawnPath]:
    """Return the paths of questions that can be read, with the place where each passes a hydrate or ice limit
    farthest."""
    out = []
    for study in studies:
        chain = chain_path(live, study) if study.kind == "process" else None
        if chain is not None:
            out.append(chain)
        if study.kind == "line_profile":
            out += profile_path(live, study)
        asked = live.asked(study) if study.kind == "path" else None
        if asked is None:
            continue
        found = live.answer(study.name)
        value = found.value if found.value and found.value.get("ok") and not found.old else None
        bad = [x for x in (value["least"] if value else []) if x.get("margin_K", 0.0) < 0.0 and x["limit"] in HAZARDS]
        passed = (bad[0]["temperature_K"], bad[0]["pressure_Pa"]) if bad else None
        found_here = value["stations"] if value is not None and asked.profile else ()
        names, T, P = (
            (tuple(s[k] for s in found_here) if asked.profile else own)
            for k, own in (("name", asked.names), ("temperature_K", asked.T), ("pressure_Pa", asked.P))
        )
        if names:
            out.append(DrawnPath(study.name, names, T, P, passed))
    return out


def profile_path(live: Live, study: Study) -> list[DrawnPath]:
    """Return the way of a line's profile through all its points, its stations named; nothing without an answer."""
    value = live.answer(study.name).value
    if not value or not value.get("ok"):
        return []
    points, named = value["points"], {round(s["distance_m"], 6): s["name"] for s in value["stations"]}
    names = tuple(named.get(round(p["distance_m"], 6), "") for p in points)
    T, P = (tuple(float(p[k]) for p in points) for k in ("temperature_K", "pressure_Pa"))
    deep = min(
        (p for p in points if (p["margins"]["hydrate_margin_K"] or 0.0) < 0.0),
        key=lambda p: p["margins"]["hydrate_margin_K"],
        default=None,
    )
    passed = (deep["temperature_K"], deep["pressure_Pa"]) if deep is not None else None
    return [DrawnPath(study.name, names, T, P, passed)]


def chain_path(live: Live, study: Study) -> DrawnPath | None:
    """Return the way of a chain's streams, step after step along its main line; None where it has no answer."""
    found = live.answer(study.name)
    if not isinstance(study, ProcessStudy) or not found.value or not found.value.get("ok"):
        return None
    streams = found.value["streams"]
    names = [n for n in _main_line(study) if n in streams and streams[n]["phases"]]
    if not names:
        return None
    deep = [
        (m, n)
        for n in names
        for k in HAZARD_KEYS
        if (m := (streams[n].get("margins") or {}).get(k)) is not None and m < 0.0
    ]
    worst = streams[min(deep)[1]] if deep else None
    passed = (worst["temperature_K"], worst["pressure_Pa"]) if worst else None
    T, P = (tuple(float(streams[n][k]) for n in names) for k in ("temperature_K", "pressure_Pa"))
    return DrawnPath(study.name, tuple(names), T, P, passed)


def _main_line(study: ProcessStudy) -> list[str]:
    """Return the streams from the first feed on, of each step the first that it gives: the vapour of a separator, of
    an exchanger the side that is come by."""
    name = next(iter(study.feeds), "")
    out: list[str] = []
    while name and name not in out:
        out.append(name)
        step = next((s for s in study.steps if name in takes_of(s)), None)
        if step is None:
            break
        gives = gives_of(step)
        place = takes_of(step).index(name) if step.step == "exchanger" else 0
        name = gives[place] if place < len(gives) else ""
    return out


class PathHandles(QObject):
    """Lets the stations of the paths that ``studies`` returns be dragged on a plot; one drag is one step that can be
    undone."""

    def __init__(
        self, live: Live, plot: Plot, frame: Callable[[], Frame], studies: Callable[[], Sequence[Study]]
    ) -> None:
        super().__init__(plot)
        self._live, self._plot, self._frame, self._studies = live, plot, frame, studies
        self.held: tuple[str, int] | None = None
        self._drags = 0
        plot.view.viewport().installEventFilter(self)

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QMouseEvent):
            return False
        if event.type() == QEvent.Type.MouseButtonPress and event.button() == Qt.MouseButton.LeftButton:
            self.held = self._near(event.position())
            self._drags += self.held is not None
            return self.held is not None
        if event.type() == QEvent.Type.MouseMove and self.held is not None:
            self._move(event.position())
            return True
        if event.type() == QEvent.Type.MouseButtonRelease and self.held is not None:
            self._move(event.position())
            self.held = None
            return True
        return False

    def _near(self, position: QPointF) -> tuple[str, int] | None:
        best, nearest = None, REACH
        typed = [s for s in self._studies() if isinstance(s, PathStudy) and not s.from_profile]
        for path in paths_of(self._live, typed):
            x, y = self._frame().xy(np.array(path.T), np.array(path.P))
            for i, (a, b) in enumerate(zip(x, y)):
                seen = self._plot.view.mapFromScene(self._plot.box.mapViewToScene(QPointF(float(a), float(b))))
                away = float(np.hypot(seen.x() - position.x(), seen.y() - position.y()))
                if away < nearest:
                    best, nearest = (path.name, i), away
        return best

    def _move(self, position: QPointF) -> None:
        if self.held is None:
            return
        name, place = self.held
        study = self._live.document.study(name)
        if study is None:
            return
        point = self._plot.box.mapSceneToView(self._plot.view.mapToScene(position.toPoint()))
        T, P = self._frame().state(point.x(), point.y())
        if not (50.0 < T < 1500.0 and P > 1e3):
            return
        station = study.stations[place]  # type: ignore[attr-defined]
        here = (*study_path(self._live.document, name), "stations", place)
        values: dict[PathParts, object] = {
            (*here, "temperature"): written(station.temperature, T, "temperature", self._frame().temperature),
            (*here, "pressure"): written(station.pressure, P, "pressure", self._frame().pressure),
        }
        self._live.store.edit(
            f"Drag {station.name}"[:60], lambda d: set_each(d, values), f"drag {name} {place} {self._drags}"
        )


def written(cell: Cell, value: float, kind: str, unit: str) -> str:
    """Return a value in SI as a cell in the unit that stands there, else in ``unit``."""
    if isinstance(cell, str):
        try:
            own = split(cell)[1]
            return f"{from_si(value, own, kind):.4g} {own}"
        except (QuantityError, KeyError, ValueError):
            pass
    return f"{from_si(value, unit, kind):.4g} {unit}"
