"""What the ranges of a workbook ask: fluids, and states of them at two conditions each."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ...components import UnknownComponentError, find
from ...document import Document, Fluid, FluidPart, Reader
from ...document.conditions import CONDITIONS, Given, read_condition
from ...document.faults import did_you_mean
from ...document.model import Model
from ...document.reader import plain_cell, united_cell
from ...fluids.columns import OF_PHASE, OF_WHOLE, Column, column_of
from ...units import fits, normal_unit
from ...units.endings import kind_of_key
from ..cells import ExchangeError
from ..entries import title_and_unit
from ..words import basis_of
from .keywords import keyword_of
from .ranges import NamedRange

USUAL = (
    "vapour_fraction", "density_kg_m3", "molar_mass_g_mol", "enthalpy_J_mol", "entropy_J_mol_K", "vapour.density_kg_m3", "vapour.Z",
    "vapour.viscosity_Pa_s", "liquid.density_kg_m3", "liquid.viscosity_Pa_s",
)  # fmt: skip
"""Properties that are told where the workbook names none."""

NAMES = {
    "t": "temperature", "temp": "temperature", "p": "pressure", "pres": "pressure", "vf": "vapour_fraction", "beta": "vapour_fraction",
    "vapor fraction": "vapour_fraction", "h": "enthalpy", "s": "entropy", "rho": "density", "u": "internal_energy",
}  # fmt: skip
"""Other names of conditions in a heading."""


@dataclass(frozen=True)
class AskedStates:
    """The states of one range: the fluid, the conditions' keys, each row's values (None where it has a fault, told in
    ``faults`` by row), and the columns to fill. ``places`` are the conditions' columns in the range."""

    range: NamedRange
    fluid: str
    keys: tuple[str, str]
    places: tuple[int, int]
    rows: list[tuple[Given, Given] | None]
    faults: Mapping[int, str]
    columns: Sequence[Column | str]


def _condition(words: str) -> str | None:
    plain = words.lower().replace("_", " ")
    if plain in NAMES:
        return NAMES[plain]
    return next((key for key, c in CONDITIONS.items() if plain in (key.replace("_", " "), c.title)), None)


@dataclass(frozen=True)
class Beside:
    """Cells beside the states that take answers: the range, and for each of its columns the property and the unit its
    heading names, None where it names none."""

    range: NamedRange
    columns: tuple[tuple[Column, str] | None, ...]


def beside_of(ranges: Sequence[NamedRange], states: AskedStates) -> list[Beside]:
    """Return the ``beside`` ranges of a range of states. Raises ExchangeError with the cell."""
    out = []
    for given in ranges:
        if given.kind != "beside" or given.name != states.range.name:
            continue
        if len(given.rows) < len(states.range.rows):
            raise ExchangeError(
                f"{given.place(0, 0)}: the range beside has {len(given.rows)} rows and its states {len(states.range.rows)}; make it as long, with headings in its first row"
            )
        found: list[tuple[Column, str] | None] = []
        for j, cell in enumerate(given.rows[0]):
            if not cell:
                found.append(None)
                continue
            words, unit = title_and_unit(cell)
            column = column_of(_key(words))
            if isinstance(column, str):
                raise ExchangeError(f"{given.place(0, j)}: {column}")
            kind = kind_of_key(column.key)[0]
            if unit and not (kind and fits(unit, kind)):
                raise ExchangeError(f"{given.place(0, j)}: '{unit}' is no unit of {words}")
            found.append((column, normal_unit(unit, kind) or "" if unit else ""))
        out.append(Beside(given, tuple(found)))
    return out


def fluids_of(ranges: Sequence[NamedRange], document: Document) -> Document:
    """Return the document with the fluids of the ``composition`` ranges added. Raises ExchangeError with the cell."""
    models = {r.name: _model(r) for r in ranges if r.kind == "model"}
    for given in ranges:
        if given.kind != "composition":
            continue
        name = given.name or "fluid"
        if document.fluid(name) is not None:
            raise ExchangeError(f"{given.place(0, 0)}: the fluid '{name}' is there twice; name one range differently")
        fluid = _fluid(given, name, models.get(given.name) or models.get("") or Model())
        document = document.model_copy(update={"fluids": (*document.fluids, fluid)})
    return document


def _fluid(given: NamedRange, name: str, model: Model) -> Fluid:
    parts: list[FluidPart] = []
    basis = "mole"
    for i, row in enumerate(given.rows):
        words, amount = [*row, "", ""][:2]
        if not words:
            continue
        if i == 0 and not any(c.isdigit() for c in amount) and not amount.startswith("="):
            # A heading: its second cell may name the basis.
            basis = basis_of(amount) or basis
            continue
        try:
            component = find(words).name
        except UnknownComponentError as error:
            raise ExchangeError(f"{given.place(i, 0)}: {error}") from None
        cell = plain_cell(amount)
        if not isinstance(cell, (int, float)):
            missing = given.place(i, 1) in given.formulas
            why = (
                "holds a formula whose value is not stored; write the value" if missing else f"'{amount}' is no amount"
            )
            raise ExchangeError(f"{given.place(i, 1)}: {why}")
        parts.append(FluidPart(component=component, amount=cell))
    if not parts:
        raise ExchangeError(
            f"{given.place(0, 0)}: the composition is empty; write a component and an amount in each row"
        )
    return Fluid(name=name, basis=basis, parts=tuple(parts), model=model)


def _model(given: NamedRange) -> Model:
    """Return a fluid's model from rows of a key and a value, such as "eos" and "SRK"."""
    values: dict[str, str] = {}
    fields = ("eos", "alpha", "kij", "volume_shift", "viscosity")
    for i, row in enumerate(given.rows):
        key, value = [*row, "", ""][:2]
        if not key:
            continue
        plain = {"equation": "eos", "equation of state": "eos"}.get(key.lower(), key.lower().replace(" ", "_"))
        if plain not in fields:
            raise ExchangeError(f"{given.place(i, 0)}: unknown key '{key}' of a model{did_you_mean(plain, fields)}")
        values[plain] = value
    return Model(**values)


def columns_of(ranges: Sequence[NamedRange]) -> list[Column | str]:
    """Return the columns of the ``properties`` range, a word for many of them as it is, the usual ones where there is
    none. Raises ExchangeError with the cell."""
    out: list[Column | str] = []
    for given in ranges:
        if given.kind != "properties":
            continue
        for i, row in enumerate(given.rows):
            for j, cell in enumerate(row):
                if not cell:
                    continue
                if keyword_of(cell):
                    out.append(keyword_of(cell))
                    continue
                found = column_of(_key(cell))
                if isinstance(found, str):
                    raise ExchangeError(f"{given.place(i, j)}: {found}")
                out.append(found)
    return out or [c for c in map(column_of, USUAL) if isinstance(c, Column)]


def _key(words: str) -> str:
    """Return the key of a property written as such or by its name: "vapour density"."""
    for written in (words, words.strip().lower().replace(" ", "_")):
        if isinstance(column_of(written), Column):
            return written
    phase, _, name = words.lower().partition(" ")
    table = OF_PHASE if phase in ("vapour", "liquid", "aqueous") else OF_WHOLE
    wanted = name if table is OF_PHASE else words.lower()
    found = next((k for k, e in table.items() if e.name.lower() == wanted), None)
    if found is None:
        return words
    return f"{phase}.{found}" if table is OF_PHASE else found


def states_of(given: NamedRange, document: Document, columns: Sequence[Column | str]) -> AskedStates:
    """Return what a ``states`` range asks. Raises ExchangeError with the cell where the range as a whole cannot be
    asked."""
    names = [f.name for f in document.fluids]
    if not names:
        raise ExchangeError(f"{given.place(0, 0)}: there is no fluid; name a range composition, or give a document")
    name = given.name or (names[0] if len(names) == 1 else "fluid")
    if name not in names:
        raise ExchangeError(f"{given.place(0, 0)}: unknown fluid '{name}'{did_you_mean(name, names)}")
    if not given.rows:
        raise ExchangeError(
            f"{given.place(0, 0)}: the range is empty; its first row names the conditions with their units"
        )
    places: list[tuple[int, str, str]] = []
    for j, cell in enumerate(given.rows[0]):
        words, unit = title_and_unit(cell)
        key = _condition(words)
        if key is not None:
            places.append((j, key, unit))
    if len(places) != 2 or places[0][1] == places[1][1]:
        told = ", ".join(c for c in given.rows[0] if c) or "nothing"
        raise ExchangeError(
            f"{given.place(0, 0)}: the first row of states names exactly two conditions, for example 'temperature (degC)' and "
            f"'pressure (bar)'; it has {told}"
        )
    rows: list[tuple[Given, Given] | None] = []
    faults: dict[int, str] = {}
    for i, row in enumerate(given.rows[1:], start=1):
        cells = [row[j] for j, _, _ in places]
        if not any(cells):
            rows.append(None)
            continue
        found: list[Given] = []
        for (j, key, unit), cell in zip(places, cells):
            reader = Reader()
            at = given.place(i, j)
            if at in given.formulas:
                faults.setdefault(
                    i, f"{at}: the cell holds a formula whose value is not stored; save the workbook in its own program"
                )
                continue
            value = read_condition(key, united_cell(cell, unit), reader)
            if value is None:
                why = reader.faults[0].message if reader.faults else "a value is wanted here"
                faults.setdefault(i, f"{at}: {why}")
            else:
                found.append(value)
        rows.append((found[0], found[1]) if len(found) == 2 else None)
    (first, key, _), (second, other, _) = places
    return AskedStates(given, name, (key, other), (first, second), rows, faults, columns)
