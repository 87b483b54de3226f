"""How sure the lines of a map are: the bands that kept spreads have of the envelope and of hydrate limits."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from PySide6.QtGui import QColor

from ....document.references import is_about
from ....telling.panels import shade_of
from ...shell.live import Live
from ...widgets.plot import Plot
from ...widgets.theme import Theme
from ..shared.map_picture import Frame
from ..shared.panel_picture import SHADE, between
from ..shared.spreads import spreads_of

MAPPED = ("envelope", "hydrate", "vapour_pressure")
"""Kinds of questions whose curves lie on a map."""


def map_bands(live: Live, fluid: str) -> list[Mapping[str, Any]]:
    """Return the bands over temperature and pressure of the questions about a fluid."""
    out: list[Mapping[str, Any]] = []
    for study in live.kept():
        if study.kind in MAPPED and is_about(study, fluid):
            for answer in spreads_of(live, study):
                out += [b for b in answer["bands"] if b["x"] == "temperature_K" and b["y"].endswith("_Pa")]
    return out


def draw_bands(plot: Plot, frame: Frame, theme: Theme, bands: Sequence[Mapping[str, Any]]) -> None:
    """Draw bands into the plot's open layer, in the colours of their lines."""
    for i, band in enumerate(bands):
        shade = shade_of(band)
        if shade is None:
            continue
        fill = QColor(theme.phase(shade.share).name() if shade.share is not None else theme.hydrate)
        fill.setAlpha(SHADE)
        low, high = (np.column_stack(frame.xy(np.array(x), np.array(y))) for x, y in (shade.low, shade.high))
        plot.region(f"band {i} {shade.name}", between(low, high), fill)
