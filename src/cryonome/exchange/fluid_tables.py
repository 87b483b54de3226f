"""A fluid as plain tables: its components with their constants and amounts, and its interaction parameters. What is
written is read back as the same fluid; so tables made elsewhere in the same shape are read too.

The first row is ``fluid`` and its name; rows of choices follow (``equation of state``, ``alpha function``, ``volume
shift``, ``viscosity``, ``aqueous``), then a table whose first column is ``component``. Below it, or on sheets of their
own, ``interaction parameters`` at 298.15 K and their ``slopes`` in 1/K, each a triangle under the names. A unit stands
in brackets behind its column's name."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from typing import Any

from ..components import Component
from ..components.databank import all_components
from ..document.model import Fluid, FluidPart, Model, Pseudo, SaftParameters
from ..units import QuantityError, parse
from .cells import ExchangeError, Sheet

FLUID, PAIRS, SLOPES = "fluid", "interaction parameters", "slopes of interaction parameters (1/K)"
CHOICES = {
    "equation of state": "eos", "alpha function": "alpha", "volume shift": "volume_shift", "viscosity": "viscosity",
    "aqueous": "aqueous", "where no parameter stands": "kij",
}  # fmt: skip
"""Rows of choices, and the model's field of each."""

COLUMNS = {
    "mole fraction": "", "molar mass": "molar_mass", "Tc": "temperature", "Pc": "pressure", "omega": "",
    "Vc": "molar_volume", "boiling point": "temperature", "specific gravity": "", "volume shift": "molar_volume",
    "slope of the shift": "", "Omega_a": "", "Omega_b": "", "segments": "", "segment diameter": "", "segment energy": "",
}  # fmt: skip
"""Columns beside the component's name, and what each measures."""

SAME = 1e-9
"""Relative difference up to which constants are those of the databank."""


def fluid_of_tables(sheets: Sequence[Sheet]) -> Fluid | None:
    """Return the fluid that sheets of this shape hold, None where they are others. Raises ExchangeError with the
    place of what is wrong."""
    first = next((row for s in sheets for row in s.rows if any(row)), [])
    if not first or first[0].strip().casefold() != FLUID or len(first) < 2:
        return None
    placed = [(f"{s.name}, row {i}", [c.strip() for c in row]) for s in sheets for i, row in enumerate(s.rows, 1)]
    name, choices, table = first[1].strip(), dict[str, str](), list[tuple[str, list[str]]]()
    triangles: dict[str, list[tuple[str, list[str]]]] = {PAIRS: [], SLOPES: []}
    into: list[tuple[str, list[str]]] | None = None
    for place, row in placed:
        head = row[0].casefold() if row else ""
        if head == "component":
            into = table
        elif head == PAIRS or head.startswith("slopes of interaction"):
            into = triangles[PAIRS if head == PAIRS else SLOPES]
            continue
        elif head in CHOICES and into is None and len(row) > 1:
            choices[CHOICES[head]] = row[1]
        if into is not None and any(row):
            into.append((place, row))
    if not table:
        raise ExchangeError(f"{placed[0][0]}: a table whose first column is 'component' is missing")
    return _fluid(name, choices, table, triangles)


def _fluid(
    name: str,
    choices: dict[str, str],
    table: list[tuple[str, list[str]]],
    triangles: dict[str, list[tuple[str, list[str]]]],
) -> Fluid:
    (place, heads), *lines = table
    columns = [_column(h, place) for h in heads[1:]]
    for wanted in ("mole fraction", "molar mass", "Tc", "Pc", "omega"):
        if wanted not in [c[0] for c in columns]:
            raise ExchangeError(f"{place}: the column '{wanted}' is missing")
    names, parts, shifts, omegas = [], [], [], {}
    for at, row in lines:
        values = {c[0]: _value(cell, c, f"{at}, {row[0]}") for c, cell in zip(columns, row[1:])}
        if row[0] in names:
            raise ExchangeError(f"{at}: the component '{row[0]}' stands twice")
        names.append(row[0])
        parts.append(_part(row[0], values, at))
        shift, slope = values.get("volume shift"), values.get("slope of the shift")
        if shift is not None:
            shifts.append((row[0], shift, slope) if slope else (row[0], shift))
        if values.get("Omega_a") is not None and values.get("Omega_b") is not None:
            omegas[row[0]] = (values["Omega_a"], values["Omega_b"])
    pairs = _pairs(names, triangles)
    # Where a table says nothing else it holds all of it: no library adds to it.
    model = Model(**{"kij": "zero", "kij_pairs": pairs, "shifts": tuple(shifts), "omegas": omegas, **choices})
    return Fluid(name=name, basis="mole", parts=tuple(parts), model=model)


def _column(head: str, place: str) -> tuple[str, str]:
    """Return the column of a header and its unit."""
    found = re.fullmatch(r"(.*?)\s*(?:[(\[](.*)[)\]])?", head)
    words, unit = (found.group(1), found.group(2) or "") if found else (head, "")
    name = next((c for c in COLUMNS if c.casefold() == words.strip().casefold()), "")
    if not name:
        raise ExchangeError(f"{place}: the column '{head}' is not known; there is {', '.join(COLUMNS)}")
    return name, unit


def _value(cell: str, column: tuple[str, str], place: str) -> float | None:
    name, unit = column
    if not cell:
        return None
    kind = COLUMNS[name]
    try:
        return float(parse(f"{cell} {unit}".strip(), kind)) if kind else _plain(cell)
    except QuantityError as error:
        raise ExchangeError(f"{place}: {name} is '{cell}': {error}") from None


def _plain(cell: str) -> float:
    """Return a number without a unit. Raises QuantityError."""
    try:
        value = float(cell.replace("−", "-"))
    except ValueError:
        raise QuantityError("a number is wanted") from None
    if not math.isfinite(value):
        raise QuantityError("a finite number is wanted")
    return value


def _part(name: str, values: dict[str, float | None], place: str) -> FluidPart:
    """Return a component of the databank where its constants are those, else one of its own."""
    known = next((c for c in all_components() if c.name == name), None)
    if known is not None and _is(known, values):
        return FluidPart(component=name, amount=values["mole fraction"])
    missing = [k for k in ("molar mass", "Tc", "Pc", "omega") if values.get(k) is None]
    if missing:
        raise ExchangeError(f"{place}: {missing[0]} of '{name}' is missing")
    saft = None
    if values.get("segments") is not None:
        saft = SaftParameters(
            m=values["segments"], sigma_A=values["segment diameter"], epsilon_K=values["segment energy"]
        )
    pseudo = Pseudo(
        name=name, Tc=values["Tc"], Pc=values["Pc"], omega=values["omega"], molar_mass=1e3 * (values["molar mass"] or 0.0),
        Vc=values.get("Vc"), nbp=values.get("boiling point"), specific_gravity=values.get("specific gravity"), pc_saft=saft,
    )  # fmt: skip
    return FluidPart(pseudo=pseudo, amount=values["mole fraction"])


def _is(known: Component, values: dict[str, float | None]) -> bool:
    own = {
        "molar mass": known.molar_mass, "Tc": known.Tc, "Pc": known.Pc, "omega": known.omega, "Vc": known.Vc,
        "boiling point": known.nbp, "specific gravity": known.specific_gravity,
    }  # fmt: skip
    return all(v is None or abs(v - own[k]) <= SAME * abs(own[k]) for k, v in values.items() if k in own)


def _pairs(names: list[str], triangles: dict[str, list[tuple[str, list[str]]]]) -> tuple[Any, ...]:
    """Return the interaction parameters that stand in the tables, with their slopes where there are any."""
    found: dict[tuple[str, str], list[float]] = {}
    for which, title in enumerate((PAIRS, SLOPES)):
        if not triangles[title]:
            continue
        (_, heads), *lines = triangles[title]
        for place, row in lines:
            for other, cell in zip(heads[1:], row[1:]):
                if not cell:
                    continue
                for name in (row[0], other):
                    if name not in names:
                        raise ExchangeError(f"{place}: '{name}' is not among the components")
                try:
                    value = _plain(cell)
                except QuantityError as error:
                    raise ExchangeError(f"{place}: {row[0]} with {other} is '{cell}': {error}") from None
                # An empty cell is left to the library, a zero is a zero.
                if value or title == PAIRS:
                    found.setdefault((row[0], other), [0.0, 0.0])[which] = value
    return tuple((a, b, k, slope) if slope else (a, b, k) for (a, b), (k, slope) in found.items())
