"""The page *Path*: the stations of a line with their margins, on the map of their fluid, to type, paste or drag."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QHeaderView, QVBoxLayout, QWidget

from ....document import Study
from ....document.references import is_about
from ....equilibrium.phase_map import PhaseMap
from ....questions.kinds.path import PathStudy, Station
from ....remarks import measure, pascal
from ....results.paths import LIMITS
from ....telling.panels import Panel, panels_of
from ....telling.pipe_tables import point_block
from ....telling.table_blocks import Block
from ....units import from_si, label
from ...shell.live import Live
from ...widgets.grid import GridView
from ...widgets.letters import pixels
from ..map.paths import PathHandles, paths_of
from ..shared.desk import DeskEntry, register
from ..shared.limit_picture import draw_hydrates, draw_paths, label_hydrates, label_paths
from ..shared.map_picture import Labels, Picture
from ..shared.panel_picture import draw_panel, name_panel
from ..shared.sheet_desk import FanDesk
from .stations import StationsModel


class PathDesk(FanDesk):
    """An operating path and its margins."""

    kinds = ("path", "line_profile")
    pictures = 3
    name = "Operating path"
    skipped = "stations"
    shows = frozenset({"selection", "answer", "map", "hydrate fan"})

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        self.stations = StationsModel(self._take)
        self.stations_grid = GridView(self.stations)
        self.stations_grid.setAccessibleName("Stations and margins")
        super().__init__(live, parent)
        self.grids.insert(0, self.stations_grid)
        self.handles = PathHandles(
            live, self.plots[0], self.frame, lambda: [s for s in [self.study()] if s is not None]
        )
        self._fitted: object = None
        self._drawn: list[Panel] = []

    def below(self, column: QVBoxLayout) -> None:
        """Put the stations below the picture."""
        self.stations_grid.setMaximumHeight(260)
        column.addWidget(self.stations_grid)

    def focus_rows(self, key: str) -> None:
        self.stations_grid.setFocus()

    def _is_profile(self) -> bool:
        study = self.study()
        return study is not None and study.kind == "line_profile"

    def _take(self, stations: tuple[Station, ...], text: str) -> None:
        if self.study() is not None:
            self.edit_study({("stations",): stations}, text)

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return the least margins, the worst first; stations have a table of their own, points of a profile follow."""
        if "points" in answer:
            return [self._least(answer), point_block(answer, self._live.units_of(self.study()))]
        return [self._least(answer)]

    def _least(self, answer: dict[str, Any]) -> Block:
        units = self._live.units().of_states()
        t_unit, p_unit = units.unit("temperature"), units.unit("pressure")
        titles = {m.key: m.title for m in LIMITS}
        rows, paths = [], []
        for i, least in enumerate(answer["least"]):
            kelvins = "margin_K" in least
            own = measure(least["margin_K"], "temperature_difference", 1) if kelvins else pascal(least["margin_Pa"])
            rows.append(
                [
                    titles[least["limit"]],
                    units.text(own),
                    _where(least),
                    f"{from_si(least['temperature_K'], t_unit, 'temperature'):.1f}",
                    f"{from_si(least['pressure_Pa'], p_unit, 'pressure'):.1f}",
                ]
            )
            key = "margin_K" if kelvins else "margin_Pa"
            paths.append(["", f"least[{i}].{key}", "", f"least[{i}].temperature_K", f"least[{i}].pressure_Pa"])
        heads = [
            ("least margin to", ""),
            ("margin", ""),
            ("where", ""),
            ("temperature", label(t_unit)),
            ("pressure", label(p_unit)),
        ]
        return Block("", heads, rows, paths)

    def refresh(self) -> None:
        super().refresh()
        study = self.study()
        shown = self._live.answer(study.name) if study is not None else None
        faults = {f.path[2:]: f.message for f in shown.faults if len(f.path) > 2} if shown else {}
        header = self.stations_grid.horizontalHeader()
        profile = self._is_profile()
        self.stations_grid.setVisible(not profile)
        for plot in self.plots[1:]:
            plot.setVisible(profile)
        path = study if isinstance(study, PathStudy) else None
        self.stations.show(path, self.answer() if path is not None else None, faults, self._live.units())
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Interactive)
        header.resizeSection(0, pixels(130))

    def draw(self, study: Study, answer: dict[str, Any] | None) -> None:
        """Draw envelope, limits and path."""
        plot, frame, live = self.plots[0], self.frame(), self._live
        self._drawn = panels_of(study.kind, answer) if answer is not None and study.kind == "line_profile" else []
        for own, panel in zip(self.plots[1:], self._drawn):
            draw_panel(own, panel, live.units_of(study).of_states(), self.theme)
        plot.set_titles(f"Temperature, {label(frame.temperature)}", f"Pressure, {label(frame.pressure)}")
        plot.set_logarithmic(frame.logarithmic)
        self._picture().draw_lines(plot)
        plot.begin("limits")
        lines, paths = self.lines(), paths_of(live, [study])
        if lines is not None:
            draw_hydrates(plot, frame, self.theme, lines, self.main(study, lines))
        draw_paths(plot, frame, self.theme, paths)
        plot.end()
        key = (study.name, frame, len(paths[0].T) if paths else 0)
        if paths and self._fitted != key and not self.handles.held:
            self._fitted = key
            T, P = paths[0].T, paths[0].P
            x0, y0 = frame.xy(min(T) - 25.0, max(min(P) * 0.3, 1e4))
            x1, y1 = frame.xy(max(T) + 15.0, max(P) * 1.2)
            plot.fit_x(float(x0[0]), float(x1[0]))
            plot.fit_y(float(y0[0]) if frame.logarithmic else 0.0, float(y1[0]))

    def _picture(self) -> Picture:
        live, study = self._live, self.study()
        own = live.current_fluid()
        whole = live.envelope() if own is not None and study is not None and is_about(study, own.name) else None
        return Picture(self.frame(), self.theme, whole if isinstance(whole, PhaseMap) else None)

    def draw_labels(self) -> None:
        study, plot, frame = self.study(), self.plots[0], self.frame()
        for own, panel in zip(self.plots[1:], self._drawn):
            name_panel(own, panel, self._live.units_of(study).of_states(), self.theme)
        plot.begin("labels")
        if study is not None:
            labels = Labels(plot)
            label_paths(labels, frame, self.theme, paths_of(self._live, [study]))
            lines = self.lines()
            if lines is not None:
                label_hydrates(labels, frame, self.theme, lines)
        plot.end()


def _where(least: dict[str, Any]) -> str:
    """Return the place of a least margin in words."""
    start, end, share = least["from_station"], least["to_station"], least["share"]
    if share == 0.0 or start == end:
        return f"at {start}"
    return f"at {end}" if share == 1.0 else f"between {start} and {end}"


def _line(live: Live) -> str:
    worst = [live.answer(s.name).value for s in live.kept() if s.kind == "path"]
    return f"{len(worst)} path{'s' if len(worst) != 1 else ''}"


register(
    DeskEntry(
        key="path", title="Path", order=48, make=PathDesk, mark=lambda _live: "done", line=_line, card="answers", kinds=PathDesk.kinds,
        needs="fluid",
        help=(
            "A path is a line's stations with their temperatures and pressures: type them, paste them, or drag a station on the picture.",
            "At each station the table tells the phases, the liquid share, and the margin to every limit.",
            "Margins to hydrate and ice are kelvin above the limit at that pressure; a negative one is shaded.",
            "The margin to the bubble line is pressure above the true vapour pressure at that temperature.",
            "Between stations the line is followed straight; the place of the least margin is told.",
            "Inhibitors are typed as methanol 20 wt%; the limit of the dosed water is the strong line.",
            "Several paths of a fluid, as normal, shut-in and restart, stand side by side on the map.",
            "A new station is typed in the last row; an emptied row goes.",
            "A line profile computes the path: legs of pipe with length, rise, the temperature around and the heat transfer; steady flow alone.",
            "The same path is a question of the project and answered by the command line alike.",
        ),
    )
)  # fmt: skip
