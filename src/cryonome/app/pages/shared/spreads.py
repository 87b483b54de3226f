"""How sure an answer is, as pages of other questions show it: what the kept spreads of a question say, and their
bands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from ....document import Study
from ....document.field_types import STUDIES
from ....document.references import about
from ....telling.panels import Panel, shade_of
from ....telling.sentences import Units
from ....telling.spread_words import bands_say
from ...shell.live import Live

KIND = "spread"


def spreads_of(live: Live, study: Study) -> list[Mapping[str, Any]]:
    """Return the answers there are of the kept spreads of a question."""
    out = []
    for other in live.kept():
        if other.kind == KIND and about(other, STUDIES) == study.name:
            shown = live.answer(other.name)
            if shown.value and shown.value.get("ok") and not shown.old:
                out.append(shown.value)
    return out


def told_sure(live: Live, study: Study | None, units: Units) -> str:
    """Return what the kept spreads of a question say of it, "" where there are none."""
    if study is None or study.kind == KIND:
        return ""
    return " ".join(bands_say(answer, units) for answer in spreads_of(live, study))


def with_bands(live: Live, study: Study, panels: Sequence[Panel]) -> list[Panel]:
    """Return the panels of a question with the bands that its kept spreads have of them."""
    out = list(panels)
    for answer in spreads_of(live, study):
        for i, panel in enumerate(out):
            names = {c.name for c in panel.curves}
            bands = [b for b in answer["bands"] if (b["x"], b["y"]) == (panel.x, panel.y) and b["name"] in names]
            out[i] = replace(panel, shades=(*panel.shades, *(s for b in bands if (s := shade_of(b)) is not None)))
    return out
