"""Samples in a report: what the laboratory gave, as it was entered, and the components that were made of it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..characterization import CharacterizedSample
from ..characterization.correlations import DEFAULTS, REGISTRY, TITLES
from ..characterization.curve import BoilingCurve
from ..characterization.methods import CARBON, CONVERSIONS, DEFAULT_CONVERSIONS, METHODS
from ..document import Sample, errors
from ..document.field_types import Cell
from ..errors import DomainError
from ..exchange.writing import written_columns
from ..language import Verbatim
from ..results.correlation_choices import limits_text
from ..results.evaluator import Project
from ..telling.colours import LIGHT
from ..telling.sentences import Units
from ..telling.table_blocks import Block, Shown, of_key, told
from ..units import QuantityError, label, split
from .figure import DASHED, Figure, Stroke, heading
from .parts import Heading, Part, Picture, Sentence, Table

AMOUNTS = {"mole": "mol%", "mass": "wt%", "volume": "vol%"}


def sample_parts(sample: Sample, project: Project, units: Units) -> list[Part]:
    """Return what a report says of a sample."""
    curve = sample.distillation
    method = METHODS.get(curve.method)
    basis = curve.basis or (method.basis if method is not None else "")
    out: list[Part] = [Heading(Verbatim(sample.name), 2)]
    if sample.note:
        out.append(Sentence(sample.note))
    words = "Carbon-number analysis" if curve.method == CARBON else f"Boiling-point curve by {curve.method}"
    pressure = f", measured at {cell_text(curve.pressure)}" if curve.pressure not in (None, "") else ""
    out.append(Sentence(f"{words}, percent by {basis}{pressure}. The numbers stand as they were entered.", "mute"))
    out += [Table(b) for b in _entered(sample, basis)]
    faults = errors(project.read_sample(sample).faults)
    if faults:
        return [*out, *(Sentence(f"{f.message[:1].upper()}{f.message[1:]}.", "fault") for f in faults)]
    try:
        result = project.characterized(sample)
    except DomainError as error:
        return [*out, Sentence(str(error), "fault")]
    return [
        *out,
        Picture(_curves(result, sample, units), f"{sample.name}: boiling points"),
        Table(_components(result, units)),
    ]


def _curves(result: CharacterizedSample, sample: Sample, units: Units) -> Figure:
    """Return the boiling curve, the curve as it was entered where that is another, and the components."""
    shown = of_key("nbp_K", units)
    percents = np.array([0.0, 1.0, 2.0, *np.linspace(5.0, 95.0, 37), 98.0, 99.0, 100.0])
    strokes = []

    def line(name: str, curve: BoilingCurve, colour: str, dash: str = "") -> None:
        T = curve.at(percents / 100.0)
        strokes.append(
            Stroke(name, tuple(percents.tolist()), tuple(shown.plain(float(t)) for t in T), colour, dash=dash)
        )

    if not result.labels:
        line("TBP", result.curve, LIGHT.ink)
        if result.entered is not None and sample.distillation.method != "TBP":
            line(sample.distillation.method, result.entered, LIGHT.accent, DASHED)
    ends = np.concatenate([[0.0], np.cumsum(result.volume_fraction)])
    middles = tuple((50.0 * (ends[1:] + ends[:-1])).tolist())
    temperatures = tuple(shown.plain(c.nbp) for c in result.components)
    strokes.append(Stroke("components", middles, temperatures, LIGHT.liquid, marker="o"))
    return Figure("Distilled, vol%", heading(shown, "boiling point"), tuple(strokes))


def _entered(sample: Sample, basis: str) -> list[Block]:
    """Return what was measured, as tables."""
    curve, bulk = sample.distillation, sample.bulk
    whole = [("density", bulk.density), ("molar mass", bulk.molar_mass), ("Watson K", bulk.watson_k)]
    whole += [(f"viscosity at {cell_text(at)}", v) for at, v in bulk.viscosity]
    whole += [("plus fraction, molar mass", curve.plus.molar_mass), ("plus fraction, density", curve.plus.density)]
    rows = [[name, cell_text(v)] for name, v in whole if v not in (None, "")]
    out = [Block("The whole sample", [("", ""), ("", "")], rows)] if rows else []
    if curve.method == CARBON:
        heads = [("component", ""), ("amount", AMOUNTS.get(basis, "%")), ("molar mass", ""), ("density", "")]
        lines = [[cell_text(c) for c in (*row, None, None, None)[:4]] for row in curve.amounts]
        used = [k for k in range(4) if k < 2 or any(line[k] for line in lines)]
        out.append(Block("Analysis", [heads[k] for k in used], [[line[k] for k in used] for line in lines]))
    else:
        titles, lines_of = written_columns(sample)
        if lines_of:
            heads = [("distilled", "%"), *(_head(t) for t in titles)]
            out.append(Block("Against the percent distilled", heads, [[cell_text(c) for c in row] for row in lines_of]))
    ends = sample.light_ends
    if ends.mode == "measured" and ends.amounts:
        rows = [[name, cell_text(v)] for name, v in ends.amounts.items()]
        out.append(Block("Light ends", [("component", ""), ("amount", AMOUNTS.get(ends.basis, "%"))], rows))
    return out


def _head(title: str) -> tuple[str, str]:
    name, _, unit = title.partition(" (")
    return name, unit.rstrip(")")


def cell_text(cell: Cell) -> str:
    """Return a cell as it was entered, its unit as it is printed."""
    if cell is None:
        return ""
    if not isinstance(cell, str):
        return f"{cell:.10g}".replace("-", "−")
    try:
        value, unit = split(cell)
    except QuantityError:
        return cell
    return f"{value:.10g} {label(unit)}".replace("-", "−").strip()


def _components(result: CharacterizedSample, units: Units) -> Block:
    """Return the components of a sample."""
    return component_block(
        f"Components of {result.name}",
        [c.name.removeprefix(f"{result.name} ") for c in result.components],
        [
            ("mole_fraction", result.mole_fraction), ("mass_fraction", result.mass_fraction),
            ("nbp_K", [c.nbp for c in result.components]),
            ("specific_gravity", [c.specific_gravity for c in result.components]),
            ("molar_mass_g_mol", [1e3 * c.molar_mass for c in result.components]),
            ("Tc_K", [c.Tc for c in result.components]), ("Pc_Pa", [c.Pc for c in result.components]),
            ("omega", [c.omega for c in result.components]),
        ],
        units,
    )  # fmt: skip


NAMES = {
    "mole_fraction": "mole", "mass_fraction": "mass", "nbp_K": "boils at", "specific_gravity": "SG",
    "molar_mass_g_mol": "molar mass", "Tc_K": "Tc", "Pc_Pa": "Pc", "omega": "ω", "shift_m3_mol": "shift",
}  # fmt: skip


def component_block(
    title: str, names: Sequence[str], columns: Sequence[tuple[str, Sequence[float] | NDArray[np.float64]]], units: Units
) -> Block:
    """Return components as a table: fractions in percent, everything else in the reader's units."""
    shown = []
    for key, _ in columns:
        own = of_key(key, units)
        share = key.endswith("_fraction")
        shown.append(Shown(NAMES.get(key, own.name), "percent" if share else own.unit, own.kind, own.factor))
    heads = [("component", "")] + [
        (s.name, "%" if key.endswith("_fraction") else s.head[1]) for s, (key, _) in zip(shown, columns)
    ]
    rows = []
    for i, name in enumerate(names):
        cells = []
        for s, (key, values) in zip(shown, columns):
            value = float(values[i])
            cells.append(told(100.0 * value, 4) if key.endswith("_fraction") else told(s.plain(value), 4))
        rows.append([name, *cells])
    return Block(title, heads, rows)


def method_rows(sample: Sample, project: Project, units: Units) -> list[list[str]]:
    """Return which correlations a sample's components come from: property, correlation, source, range."""
    try:
        result = project.characterized(sample)
    except DomainError:
        return []
    chosen = {**DEFAULTS, **result.choices.correlations}
    rows = [
        [TITLES.get(prop, prop), REGISTRY[prop][key].title, REGISTRY[prop][key].source, limits_text(REGISTRY[prop][key], units)]
        for prop, key in chosen.items()
        if key in REGISTRY.get(prop, {})
    ]  # fmt: skip
    method = sample.distillation.method
    lab = result.choices
    key = lab.conversion or lab.conversions.get(method) or DEFAULT_CONVERSIONS.get(method, "")
    conversion = CONVERSIONS.get(method, {}).get(key)
    if conversion is not None and method != "TBP":
        rows.insert(0, [f"{method} to TBP", conversion.title, conversion.source, conversion.limits])
    return rows
