"""The layers of the map: what of the fluid that is shown is known by now and wanted."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ....document import Study
from ....document.references import is_about
from ....equilibrium.region_cells import Boundary
from ....equilibrium.regions import Regions
from ....equilibrium.spinodal import Spinodal
from ....results.hydrates import HydrateLines
from ...shell.live import Live
from ...widgets.plot import Plot
from ...widgets.theme import Theme
from ..shared.limit_picture import DrawnPath, draw_hydrates, draw_paths, label_hydrates, label_paths
from ..shared.map_picture import Frame, Labels, Pinned
from .paths import paths_of
from .spread_bands import draw_bands, map_bands
from .vapour import Kept, draw_vapour_pressures, kept_of, label_vapour_pressures

LAYERS = {
    "envelope": "Envelope",
    "quality_lines": "Quality",
    "by_volume": "by volume",
    "regions": "Regions",
    "metastable": "Metastable",
    "spinodal": "Spinodal",
    "hydrates": "Hydrates",
    "vapour_pressures": "Vapour pressures",
    "paths": "Paths",
    "spread": "Spread",
    "pins": "Kept",
    "logarithmic": "log P",
}
"""What can be switched on the map, by its key in the document's display."""

LOOKS = {
    "envelope": ("liquid", "line"), "quality_lines": ("half", "line"), "by_volume": ("half", "dash"), "regions": ("water", "area"),
    "metastable": ("half", "dot"), "spinodal": ("mute", "dot"), "hydrates": ("hydrate", "line"), "vapour_pressures": ("accent", "line"), "paths": ("ink", "line"),
    "spread": ("half", "area"), "pins": ("ink", "area"), "logarithmic": ("mute", "area"),
}  # fmt: skip
"""The colour of the theme and the stroke of each layer."""


class Layers:
    """What the layers of the map hold, each nothing where it is switched off or not known of the fluid that is shown."""

    def __init__(self, live: Live) -> None:
        self._live = live

    def pinned(self) -> list[Pinned]:
        """Return the kept states of the fluid."""
        return [Pinned(name, T, P) for name, T, P in self._live.kept_places()]

    def spinodal(self) -> Spinodal | None:
        """Return the spinodal of the fluid shown, where it is known and wanted."""
        shown = self._live.results["spinodal"]
        return shown.value if self._live.document.display.map.spinodal and not shown.old else None

    def hydrates(self) -> HydrateLines | None:
        """Return the limits of hydrate of the fluid shown, where they are known and wanted."""
        shown = self._live.results["hydrates"]
        wanted = self._live.document.display.map.hydrates and not shown.old
        return shown.value if wanted and isinstance(shown.value, HydrateLines) else None

    def path_studies(self) -> list[Study]:
        """Return the questions about operating paths of the fluid shown, where they are wanted."""
        name, document = self._live.fluid_name, self._live.document
        there = [s for s in document.studies if s.kind in ("path", "process", "line_profile") and is_about(s, name)]
        return there if document.display.map.paths else []

    def paths(self) -> list[DrawnPath]:
        """Return the operating paths of the fluid as they are drawn."""
        return paths_of(self._live, self.path_studies())

    def vapour_pressures(self) -> list[Kept]:
        """Return what is asked of the vapour pressures of the fluid shown, where it is wanted."""
        live = self._live
        return kept_of(live, live.fluid_name) if live.document.display.map.vapour_pressures else []

    def spreads(self) -> list[Mapping[str, Any]]:
        """Return the bands there are of lines of the fluid shown, where they are wanted."""
        live = self._live
        return map_bands(live, live.fluid_name) if live.document.display.map.spread else []

    def three_phases(self) -> tuple[Boundary, ...]:
        """Return the boundaries of three phases, drawn or not."""
        known = self._live.results["regions"]
        return known.value.bounds if known.value is not None and not known.old else ()

    def regions(self) -> Regions | None:
        """Return the regions of the fluid shown, where they are known and wanted."""
        shown = self._live.results["regions"]
        return shown.value if self._live.document.display.map.regions and not shown.old else None

    def key(self) -> tuple[object, ...]:
        """Return what the picture of the layers is known by."""
        live = self._live
        pinned = self.pinned() if live.document.display.map.pins else []
        return (
            tuple(pinned), tuple(map(id, live.ghost_maps().values())), id(self.regions()), id(self.spinodal()),
            id(self.hydrates()), tuple(self.paths()), tuple(self.vapour_pressures()), tuple(map(id, self.spreads())),
            tuple(map(id, live.volume_lines())),
        )  # fmt: skip

    def draw(self, plot: Plot, frame: Frame, theme: Theme) -> None:
        """Draw bands, hydrate limits, vapour pressures and paths."""
        plot.begin("limits")
        draw_bands(plot, frame, theme, self.spreads())
        lines = self.hydrates()
        if lines is not None:
            draw_hydrates(plot, frame, theme, lines)
        draw_vapour_pressures(plot, frame, theme, self.vapour_pressures())
        draw_paths(plot, frame, theme, self.paths())
        plot.end()

    def label(self, plot: Plot, labels: Labels, frame: Frame, theme: Theme) -> None:
        """Place their labels where there is room beside ``labels``."""
        plot.begin("limit labels")
        label_paths(labels, frame, theme, self.paths())
        label_vapour_pressures(labels, frame, theme, self.vapour_pressures())
        lines = self.hydrates()
        if lines is not None:
            label_hydrates(labels, frame, theme, lines)
        plot.end()
