"""The picture of a carbon-number analysis: composition against carbon number, measured and split together."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from PySide6.QtGui import QColor

from ....characterization import CharacterizedSample
from ....components import Component
from ....document import Sample
from ....document.sample_points import carbon_rows
from ...widgets.plot import Plot, Table, pen
from ...widgets.theme import Theme

LEAST = 1e-3
"""Percent below which a bar is not drawn."""


@dataclass(frozen=True)
class Composition:
    """Percents by carbon number: ``measured`` as the sheet says, the plus fraction left out; ``split`` what the plus
    fraction was split into; ``plus`` its number and percent. Species that are no hydrocarbon stand at 0."""

    measured: dict[int, float]
    split: dict[int, float]
    plus: tuple[int, float] | None


def carbon_number(component: Component) -> int:
    """Return the carbon number a component counts to, 0 for one that is no hydrocarbon."""
    if component.family in ("inorganic", "sulfur", "alcohol", "glycol"):
        return 0
    found = re.match(r"C(\d*)H", component.formula)
    return int(found.group(1) or 1) if found else 0


def composition(sample: Sample, result: CharacterizedSample | None) -> Composition:
    """Return what a sample's sheet says, and what its plus fraction was split into."""
    rows = carbon_rows(sample)
    measured: dict[int, float] = {}
    for component, percent in rows.components:
        n = carbon_number(component)
        measured[n] = measured.get(n, 0.0) + percent
    for group in rows.groups:
        measured[group.number] = measured.get(group.number, 0.0) + group.percent
    plus = None if rows.plus is None else (rows.plus[0], rows.plus[1])
    split: dict[int, float] = {}
    if plus is not None and result is not None:
        whole = result.unlumped or result
        basis = sample.distillation.basis or "mass"
        share = {"mole": whole.mole_fraction, "mass": whole.mass_fraction, "volume": whole.volume_fraction}[basis]
        for label, part in zip(whole.labels, share[whole.light :]):
            n = int(re.sub(r"\D", "", label) or 0)
            if n >= plus[0]:
                split[n] = split.get(n, 0.0) + 100.0 * float(part)
    return Composition(measured, split, plus)


def draw_composition(plot: Plot, shown: Composition, old: bool, t: Theme) -> None:
    """Draw the percents as bars on a logarithmic axis: measured in the liquid's colour, split in plum, the plus
    fraction as a frame over what it was split into."""
    plot.set_logarithmic(True)
    values = [v for v in (*shown.measured.values(), *shown.split.values()) if v > LEAST]
    if shown.plus is not None:
        values.append(shown.plus[1])
    if not values:
        return
    floor = 10.0 ** np.floor(np.log10(max(min(values), LEAST)))
    numbers = [*shown.measured, *shown.split]
    last = max([*numbers, shown.plus[0] + 1 if shown.plus else 1])
    for key, bars, colour, alpha in (
        ("measured", shown.measured, t.liquid, 200),
        ("split", shown.split, t.mute if old else t.accent, 120),
    ):
        wanted = {n: v for n, v in bars.items() if v > floor}
        x = np.array(list(wanted), float)
        top = np.log10(np.array(list(wanted.values()), float)) if wanted else np.empty(0)
        fill = QColor(colour)
        fill.setAlpha(alpha)
        base = np.full(x.shape, np.log10(floor))
        plot.bars(key, fill, x0=x - 0.4, x1=x + 0.4, y0=base, y1=top)
    if shown.plus is not None:
        number, percent = shown.plus
        top, base = np.log10(percent), np.log10(floor)
        edges = ([number - 0.5, number - 0.5, last + 0.5, last + 0.5], [base, top, top, base])
        plot.line("plus", *edges, pen(t.ink, 1.4))
        plot.text("plus", f"C{number}+  {percent:.3g} %, measured", number - 0.4, top, t.ink, (0.0, 1.1))
    plot.fit_x(-0.8, last + 1.0)
    plot.fit_y(float(np.log10(floor)), float(np.log10(max(values))) + 0.12)


def composition_table(shown: Composition, percent: str) -> list[Table]:
    """Return the percents for copying."""
    out: list[Table] = []
    for title, bars in (("measured", shown.measured), ("split", shown.split)):
        if bars:
            numbers = sorted(bars)
            out.append((title, ["carbon number", percent], [[float(n) for n in numbers], [bars[n] for n in numbers]]))
    return out
