"""A fluid written as plain tables, in the shape that :mod:`.fluid_tables` reads back."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from ..document.field_types import Cell
from ..document.files import write_atomic
from ..document.model import Fluid
from ..eos.cubic import CubicEos
from ..eos.saft_parameters import saft_sets
from ..errors import DomainError
from ..fluids.building import FluidModel
from .fluid_tables import CHOICES, FLUID, PAIRS, SLOPES
from .writing import csv_text, workbook

Rows = list[list[Cell]]


def fluid_sheets(fluid: Fluid, model: FluidModel) -> dict[str, Rows]:
    """Return a fluid as sheets: its components, and interaction parameters where any is not zero. Raises DomainError
    where the model has what tables cannot hold."""
    _held(fluid, model)
    own = fluid.model
    rows: Rows = [[FLUID, model.name], *([words, getattr(own, key)] for words, key in CHOICES.items()), []]
    rows += _component_rows(model)
    out = {"fluid": rows}
    pairs = model.pairs
    own_pairs = _own_pairs(fluid, model)
    if own_pairs or np.abs(pairs.kij).any():
        out[PAIRS] = [[PAIRS, model.name], *_triangle(model.names, pairs.kij, own_pairs)]
    if pairs.slope is not None and np.abs(pairs.slope).any():
        out["slopes"] = [[SLOPES, model.name], *_triangle(model.names, pairs.slope, set())]
    return out


def write_fluid(path: Path, fluid: Fluid, model: FluidModel) -> None:
    """Write a fluid as tables to XLSX, a sheet each, or CSV, one below the other. Raises OSError, DomainError."""
    sheets = fluid_sheets(fluid, model)
    if path.suffix.lower() == ".csv":
        write_atomic(path, "\n".join(csv_text(rows) for rows in sheets.values()))
    else:
        write_atomic(path, workbook(sheets.items()))


def _held(fluid: Fluid, model: FluidModel) -> None:
    """Raise DomainError where tables would tell less than the model is."""
    eos = model.eos
    factors = (eos.a_factor, eos.b_factor) if isinstance(eos, CubicEos) else ()
    if any(f is not None and not np.allclose(f, 1.0) for f in factors):
        raise DomainError(
            "its tuning moves a or b of the equation itself, which no table of constants holds; hand over the document"
        )
    if np.any(model.substance.thicker):
        raise DomainError(
            "its tuning multiplies viscosities, which no table of constants holds; hand over the document"
        )
    if fluid.model.aqueous_pairs or fluid.model.salinity not in (None, ""):
        raise DomainError(
            "it has own parameters in phases of water, or salt, which no table of constants holds; hand over the document"
        )


def _component_rows(model: FluidModel) -> Rows:
    parts, n = model.components, len(model.components)
    own = model.substance
    shifts = np.broadcast_to(own.shift, (n,))
    slopes = np.zeros(n) if own.slope is None else np.broadcast_to(own.slope, (n,))
    columns: list[tuple[str, Sequence[float | None]]] = [
        ("mole fraction", model.z.tolist()), ("molar mass (g/mol)", [1e3 * c.molar_mass for c in parts]),
        ("Tc (K)", [c.Tc for c in parts]), ("Pc (Pa)", [c.Pc for c in parts]), ("omega", [c.omega for c in parts]),
        ("Vc (m3/mol)", [c.Vc for c in parts]), ("boiling point (K)", [c.nbp for c in parts]),
        ("specific gravity", [c.specific_gravity for c in parts]), ("volume shift (m3/mol)", shifts.tolist()),
    ]  # fmt: skip
    if slopes.any():
        columns.append(("slope of the shift (m3/mol/K)", slopes.tolist()))
    if any(c.omegas for c in parts):
        columns += [(f"Omega_{'ab'[k]}", [c.omegas[k] if c.omegas else None for c in parts]) for k in (0, 1)]
    if isinstance(getattr(model.eos, "epsilon", None), np.ndarray):
        sets = saft_sets(parts)
        heads = ("segments", "segment diameter (angstrom)", "segment energy (K)")
        columns += [(h, [getattr(s, k) for s in sets]) for h, k in zip(heads, ("m", "sigma", "epsilon"))]
    rows: Rows = [["component", *(title for title, _ in columns)]]
    for i, c in enumerate(parts):
        rows.append([c.name, *(None if values[i] is None else float(values[i] or 0.0) for _, values in columns)])
    return rows


def _own_pairs(fluid: Fluid, model: FluidModel) -> set[frozenset[int]]:
    """Return the pairs that the fluid itself gives a parameter, as places: there a zero is not left to the library."""
    place = {c.name: i for i, c in enumerate(model.components)} | {
        c.identity: i for i, c in enumerate(model.components)
    }
    return {frozenset((place[a], place[b])) for a, b, *_ in fluid.model.kij_pairs if a in place and b in place}


def _triangle(names: Sequence[str], values: np.ndarray, own: set[frozenset[int]]) -> Rows:
    """Return values of pairs as a triangle under the names; zeros are left empty but those of ``own`` pairs."""
    rows: Rows = [["", *names[:-1]]]
    for i in range(1, len(names)):
        told = [float(v) if v or frozenset((i, j)) in own else None for j, v in enumerate(values[i, :i])]
        rows.append([names[i], *told])
    return rows
