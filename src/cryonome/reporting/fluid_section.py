"""Fluids in a report: what they are made of, the model, and their components as the equation takes them."""

from __future__ import annotations

import numpy as np

from ..document import Document, Fluid, errors
from ..document.model import FluidPart
from ..eos.building import EQUATIONS
from ..eos.volume_shift import SHIFTS
from ..errors import DomainError
from ..fluids.building import FluidModel
from ..language import Verbatim
from ..properties.transport import VISCOSITIES
from ..results.evaluator import Project
from ..telling.sentences import Units
from ..telling.table_blocks import Block, told
from .lab_section import AMOUNTS, cell_text, component_block
from .parts import Heading, Part, Sentence, Table

PAIRS_SHOWN = 14
"""Components up to which interaction parameters stand as a table with all of them."""


def fluid_parts(fluid: Fluid, project: Project, units: Units) -> list[Part]:
    """Return what a report says of a fluid."""
    out: list[Part] = [Heading(Verbatim(fluid.name), 2)]
    if fluid.note:
        out.append(Sentence(fluid.note))
    out.append(Sentence(_made_of(fluid)))
    if len(fluid.parts) > 1:
        heads = [("part", ""), ("amount", AMOUNTS[fluid.basis])]
        out.append(Table(Block("", heads, [[_part(p), cell_text(p.amount)] for p in fluid.parts])))
    faults = errors(project.read_fluid(fluid).faults)
    if faults:
        return [*out, *(Sentence(f"{f.message[:1].upper()}{f.message[1:]}.", "fault") for f in faults)]
    try:
        model = project.fluid(fluid)
    except DomainError as error:
        return [*out, Sentence(str(error), "fault")]
    out.append(Sentence(_model(fluid, model)))
    out.append(Table(_components(model, units)))
    pairs = _pairs(model)
    if pairs is not None:
        out.append(Table(pairs))
    return out


def _made_of(fluid: Fluid) -> str:
    if fluid.made_by is not None:
        stream = f", its stream {fluid.made_by.stream}" if fluid.made_by.stream else ""
        return f"Given by the question {fluid.made_by.study}{stream}."
    if fluid.recombination is not None:
        r = fluid.recombination
        at = f" at {cell_text(r.temperature)} and {cell_text(r.pressure)}" if r.liquid_volume == "separator" else ""
        return (
            f"Recombined of {r.liquid} and {r.gas} at a gas-oil ratio of {cell_text(r.gas_oil_ratio)}, "
            f"by the volume of the liquid at {'the separator' if at else 'stock-tank conditions'}{at}."
        )
    if len(fluid.parts) == 1:
        return f"All of it is {_part(fluid.parts[0])}."
    return f"A mixture of {len(fluid.parts)} parts." if fluid.parts else "It has no parts."


def _part(part: FluidPart) -> str:
    if part.component:
        return part.component
    if part.pseudo is not None:
        return part.pseudo.name
    if part.series is not None:
        return part.series.name
    if part.sample:
        return f"sample {part.sample}"
    return f"fluid {part.fluid}" if part.fluid else ""


def _model(fluid: Fluid, model: FluidModel) -> str:
    own = fluid.model
    words = [f"Equation of state {own.eos}"]
    if own.alpha != "own":
        words.append(f"alpha function {own.alpha}")
    words.append(f"interaction parameters {own.kij}{' with own pairs' if own.kij_pairs else ''}")
    words.append(f"volume shift {own.volume_shift}")
    words.append(f"viscosity {own.viscosity}")
    tuned = f" Tuned by {own.tuned.by or 'hand'}." if own.tuned is not None else ""
    return f"{', '.join(words)}.{tuned} {model.z.size} component{'' if model.z.size == 1 else 's'}, {told(1e3 * float(model.z @ model.molar_mass), 4)} g/mol."


def _components(model: FluidModel, units: Units) -> Block:
    own = model.components
    shift = np.broadcast_to(model.substance.shift, model.z.shape)
    return component_block(
        f"Components of {model.name}",
        list(model.names),
        [
            ("mole_fraction", model.z),
            ("molar_mass_g_mol", 1e3 * model.molar_mass),
            ("Tc_K", [c.Tc for c in own]), ("Pc_Pa", [c.Pc for c in own]), ("omega", [c.omega for c in own]),
            ("shift_m3_mol", shift),
        ],
        units,
    )  # fmt: skip


def _pairs(model: FluidModel) -> Block | None:
    """Return the interaction parameters that are not zero: as a table of few components, else the largest."""
    k, names = model.kij, model.names
    if not np.abs(k).any():
        return None
    if len(names) <= PAIRS_SHOWN:
        rows = [
            [name, *(("" if j >= i else f"{k[i, j]:.4f}".replace("-", "−")) for j in range(len(names) - 1))]
            for i, name in enumerate(names)
            if i
        ]
        return Block("Interaction parameters at 25 °C", [("", ""), *((n, "") for n in names[:-1])], rows)
    first, second = np.triu_indices(len(names), 1)
    order = np.argsort(-np.abs(k[first, second]))[:12]
    rows = [[names[first[i]], names[second[i]], f"{k[first[i], second[i]]:.4f}".replace("-", "−")] for i in order]
    count = int((np.abs(k[first, second]) > 0.0).sum())
    return Block(f"The largest of {count} interaction parameters at 25 °C", [("", ""), ("with", ""), ("k", "")], rows)


def model_rows(fluids: list[Fluid], document: Document) -> list[list[str]]:
    """Return the methods of some fluids' models with their sources, each once: what, which, source, used by."""
    used: dict[tuple[str, str, str], list[str]] = {}
    for fluid in fluids:
        own = fluid.model
        for what, which, source in (
            ("equation of state", own.eos, EQUATIONS.get(own.eos, "")),
            ("volume shift", own.volume_shift, SHIFTS.get(own.volume_shift, "")),
            ("viscosity", own.viscosity, VISCOSITIES.get(own.viscosity, "")),
        ):
            used.setdefault((what, which, source), []).append(fluid.name)
    return [[*key, ", ".join(names) if len(names) < 4 else f"{len(names)} fluids"] for key, names in used.items()]
