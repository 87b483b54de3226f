"""The study ``table``: properties over one or two conditions, and a formula fitted to one of them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Annotated, Any, Literal, NotRequired

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from ...document import Document, Reader
from ...document.conditions import CONDITIONS, Conditioned, Given, read_condition
from ...document.faults import PathParts
from ...document.field_types import AnswerPath, Cell, FluidRef, OneOf
from ...document.kinds import StudyKind, register
from ...document.ranges import Range, read_range
from ...document.reader import EMPTY
from ...fluids.columns import Column, column_of
from ...fluids.property_choice import title_of
from ...remarks import Remark
from ...results.common import Common
from ...results.context import Answer, Context
from ...telling.sentences import Units
from ...telling.table_blocks import of_key
from ...units import format_number
from ..beginning import in_reader_units
from ..compact import Compact
from ..tabulate import formula_of, nested, table_of
from .flash import reference_remark

Array = NDArray[np.float64]

CONTINUED = "continued"
"""What becomes of a phase that is not there; its cells are empty where nothing is said."""

MOST_CELLS = 200_000
EACH = 3e-4
"""Seconds that a state takes, to tell how long too large a table would."""


class TableAxis(Range):
    """One axis: a condition a flash may hold, over a range or a list."""

    variable: Annotated[str, OneOf(tuple(CONDITIONS))]

    def cell_kind(self, document: Document) -> str:
        """Return what its cells measure: its variable."""
        own = CONDITIONS.get(self.variable)
        return "" if own is None else own.kind


class TableStudy(Conditioned):
    """Asks for properties over one or two conditions; with one axis a second condition is held. ``properties`` are
    keys of a flash's answer, of the whole or of a phase (``liquid.viscosity_Pa_s``); ``compact`` is one of them to
    fit a formula to. Phases that are ``absent`` leave their cells empty, or are continued from the composition they
    form with."""

    kind: Literal["table"]
    fluid: FluidRef
    axes: tuple[TableAxis, ...]
    properties: tuple[AnswerPath, ...] = ("density_kg_m3",)
    compact: AnswerPath = ""
    absent: Annotated[str, OneOf(("", CONTINUED))] = ""


class CompactAnswer(TypedDict):
    """A formula of the axes for one property: as a spreadsheet's and as a Python function, with its coefficients, the
    ranges it holds in, and its errors, relative, at points it was not fitted to."""

    property: str
    variables: list[str]
    ranges: list[list[float]]
    logarithm: bool
    orders: list[int]
    coefficients: list[list[float]]
    average_error: float
    worst_error: float
    formula: str
    python: str


class TableAnswer(Common):
    """The values of the axes in SI, by mole or by mass as ``axis_kinds`` tells, and each property as a nested list
    over them, null where it does not exist."""

    variables: NotRequired[list[str]]
    axis_kinds: NotRequired[list[str]]
    axes: NotRequired[list[list[float]]]
    properties: NotRequired[dict[str, Any]]
    compact: NotRequired[CompactAnswer]


@dataclass(frozen=True)
class Asked:
    """Axes by condition, each a tuple of values; the condition held beside a single one; columns; what to fit."""

    fluid: str
    axes: tuple[tuple[str, tuple[Given, ...]], ...]
    held: Mapping[str, Given]
    columns: tuple[Column, ...]
    compact: str
    whole: bool = False
    """Whether absent phases are continued."""


def read(study: TableStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    held = {k: read_condition(k, getattr(study, k), reader.at(k)) for k in CONDITIONS if getattr(study, k) not in EMPTY}
    names = [axis.variable for axis in study.axes]
    if len(study.axes) not in (1, 2):
        reader.at("axes").fault(f"a table has one or two axes; {len(study.axes)} given")
    for i, axis in enumerate(study.axes):
        here = reader.at("axes", i, "variable")
        if here.known(axis.variable, CONDITIONS, "condition") and axis.variable in names[:i]:
            here.fault(f"{axis.variable} is an axis already; two axes are of two conditions")
    if len(study.axes) in (1, 2) and len(study.axes) + len(held) != 2:
        told = f"{', '.join([*names, *held])} given"
        reader.fault(f"axes and conditions held beside them are two together; {told}")
    for key in held:
        if key in names:
            reader.at(key).fault(f"{key} is an axis as well; hold another condition")
    axes = tuple(_axis(axis, reader.at("axes", i)) for i, axis in enumerate(study.axes) if axis.variable in CONDITIONS)
    cells = int(np.prod([len(a[1]) for a in axes if a is not None], dtype=float))
    if cells > MOST_CELLS:
        reader.at("axes").fault(
            f"{cells} states are too many and would take some {max(cells * EACH / 60.0, 1.0):.0f} minutes; ask for at most {MOST_CELLS}"
        )
    columns = []
    if not study.properties:
        reader.at("properties").fault("the list is empty; name at least one property, for example density_kg_m3")
    for i, key in enumerate(study.properties):
        found = column_of(key)
        if isinstance(found, str):
            reader.at("properties", i).fault(found)
        else:
            columns.append(found)
    if study.compact:
        reader.at("compact").known(study.compact, study.properties, "property of the table")
    if reader.bad or any(a is None for a in axes):
        return None
    given = {k: v for k, v in held.items() if v is not None}
    return Asked(
        study.fluid,
        tuple(a for a in axes if a is not None),
        given,
        tuple(columns),
        study.compact,
        study.absent == CONTINUED,
    )


def _axis(axis: TableAxis, reader: Reader) -> tuple[str, tuple[Given, ...]] | None:
    """Return an axis' condition and its values."""
    by_mass: set[bool] = set()

    def value(cell: Cell, here: Reader) -> float | None:
        if cell in EMPTY:
            here.fault("a value is wanted here")
            return None
        found = read_condition(axis.variable, cell, here)
        if found is None:
            return None
        by_mass.add(found.by_mass)
        return found.value

    kind = CONDITIONS[axis.variable].kind
    step_kind = "temperature_difference" if kind == "temperature" else kind

    def step(cell: Cell, here: Reader) -> float | None:
        mass_kind = CONDITIONS[axis.variable].by_mass
        return here.quantity(cell, mass_kind if True in by_mass and mass_kind else step_kind)

    values = read_range(axis, reader, value, step)
    if values is None:
        return None
    if len(by_mass) > 1:
        reader.fault("the axis is partly by mole and partly by mass; use one of them")
        return None
    return axis.variable, tuple(Given(v, True in by_mass) for v in values)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the table, all its states in one batch."""
    fluid = context.fluid(asked.fluid)
    model = context.project.fluid(fluid)
    table = table_of(context.project, fluid, asked.axes, asked.held, asked.columns, context.watch, asked.whole)
    answer: Answer = {
        "variables": list(table.variables),
        "axis_kinds": list(table.axis_kinds),
        "axes": [v.tolist() for v in table.axes],
        "properties": {key: nested(values) for key, values in table.values.items()},
        "notes": [
            *table.failed,
            *[*model.remarks, *table.frozen, reference_remark(model)],
            *(t for t in table.told.values() if t),
        ],
    }
    if asked.compact:
        found = formula_of(
            context.project, fluid, asked.axes, asked.held, asked.columns, asked.compact, context.watch, asked.whole
        )
        if found.compact is None:
            refused = Remark("warning", "table.no_formula", "", {"key": asked.compact, "why": found.refused})
            answer["notes"] = [refused, *answer["notes"]]
        else:
            answer["compact"] = _compact_answer(found.compact)
    return answer


def _compact_answer(fitted: Compact) -> Answer:
    return {
        "property": fitted.key,
        "variables": list(fitted.variables),
        "ranges": [list(r) for r in fitted.ranges],
        "logarithm": fitted.logarithm,
        "orders": list(fitted.orders),
        "coefficients": fitted.coefficients.tolist(),
        "average_error": fitted.average_error,
        "worst_error": fitted.worst_error,
        "formula": fitted.formula(),
        "python": fitted.python(),
    }


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    size = " × ".join(str(len(a)) for a in answer["axes"])
    fitted = answer.get("compact")
    return f"{size} states" + (f", formula within {format_number(100 * fitted['worst_error'], 2)} %" if fitted else "")


def begin(fluid: str, at: tuple[float, float] | None) -> TableStudy:
    """Return a new question about a fluid, around a state where one is given."""
    T, P = at or (323.15, 5e6)
    axis = partial(TableAxis, steps=10)
    return TableStudy(
        name=f"Table of {fluid}",
        kind="table",
        fluid=fluid,
        axes=(
            axis(variable="temperature", begin=f"{T - 293.15:.0f} degC", end=f"{T - 253.15:.0f} degC"),
            axis(variable="pressure", begin=f"{0.5 * P / 1e5:.3g} bar", end=f"{1.5 * P / 1e5:.3g} bar"),
        ),
        properties=("density_kg_m3", "vapour_fraction"),
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the span of the first property, and how well its formula keeps to it."""
    size = " × ".join(str(len(a)) for a in answer["axes"])
    key = next(iter(answer["properties"]))
    flat = [v for v in _flat(answer["properties"][key]) if v is not None]
    shown = of_key(key, units)
    told = (
        f"{title_of(key)} from {shown.short(min(flat))} to {shown.short(max(flat))} {shown.head[1]}".rstrip()
        if flat
        else f"No state has a {title_of(key).lower()}"
    )
    fitted = answer.get("compact")
    more = f"; the formula keeps within {format_number(100 * fitted['worst_error'], 2)} %" if fitted else ""
    return f"{told} over {size} states{more}."


def _flat(values: Any) -> Iterator[float | None]:
    """Yield the numbers of nested lists."""
    for v in values:
        if isinstance(v, (list, tuple)):
            yield from _flat(v)
        else:
            yield v


def follows(study: TableStudy, path: PathParts, value: object, document: Document) -> dict[PathParts, object]:
    """Return what changes with a cell: an axis of another condition begins with usual ends, and a condition that is
    an axis is held no more."""
    if path[0] != "axes" or path[-1] != "variable":
        return {path: value}
    axes, key, place = list(study.axes), str(value), int(path[1])
    other = axes[1 - place] if len(axes) > 1 else None
    if other is not None and other.variable == key:
        return {("axes",): tuple(reversed(axes))}
    return _with_axes(study, [*axes[:place], _axis_of(key, document), *axes[place + 1 :]])


def offers(study: TableStudy, path: PathParts, document: Document) -> list[tuple[str, dict[PathParts, object]]]:
    """Return what else an axis may become: one of two, or the only one."""
    if path[0] != "axes" or path[-1] != "variable":
        return []
    axes = list(study.axes)
    if len(axes) == 1:
        free = next(k for k in CONDITIONS if k != axes[0].variable)
        return [("and over another condition", _with_axes(study, [*axes, _axis_of(free, document)]))]
    place = int(path[1])
    values = axes[place].values
    held: dict[PathParts, object] = {(axes[place].variable,): values[0] if values else axes[place].begin}
    return [
        ("held at one value", {("axes",): (axes[1 - place],), **held}),
        ("exchanged with the other", {("axes",): tuple(reversed(axes))}),
    ]


def _axis_of(key: str, document: Document) -> TableAxis:
    axis = TableAxis(variable=key, steps=10, **usual_ends(key))
    return in_reader_units(axis, Units.of(document.display.units))


def _with_axes(study: TableStudy, axes: list[TableAxis]) -> dict[PathParts, object]:
    """Return the axes, and no more held than stands beside them."""
    names = {a.variable for a in axes}
    gone = [k for k in CONDITIONS if getattr(study, k) not in EMPTY and (k in names or len(axes) > 1)]
    return {("axes",): tuple(axes), **{(k,): None for k in gone}}


def usual_ends(key: str) -> dict[str, Cell]:
    """Return ends that an axis of a condition begins with."""
    ends: dict[str, tuple[Cell, Cell]] = {
        "temperature": ("0 degC", "100 degC"),
        "pressure": ("1 bar", "101 bar"),
        "enthalpy": ("-20 kJ/mol", "20 kJ/mol"),
        "entropy": ("-50 J/(mol*K)", "50 J/(mol*K)"),
        "density": ("10 kg/m**3", "110 kg/m**3"),
        "internal_energy": ("-20 kJ/mol", "20 kJ/mol"),
    }
    low, high = ends.get(key, (0.0, 1.0))
    return {"begin": low, "end": high}


register(
    StudyKind(
        name="table", title="Property table", meaning="properties over one or two conditions, and a formula of one of them",
        model=TableStudy, answer=TableAnswer, read=read, solve=solve, line=line, begin=begin, order=25,
        # Its arrays are remembered by content already; as lists of numbers they are many times as large.
        keep=lambda answer: False,
        follows=follows, offers=offers, sentence="{properties} of {fluid} over <axes| and |{.variable} {.}>[?, at {temperature|pressure|vapour_fraction|vapour_volume_fraction|enthalpy|entropy|density|internal_energy}][?, absent phases {absent}][, with a formula for {compact}].",
        phrases=("table", "tabulate", "property table", "properties", "table of"),
        clues={"vapour_volume_fraction": ("vapour by volume", "vapor by volume"), "vapour_fraction": ("vapour", "vapor", "vapour fraction", "quality"), "enthalpy": ("enthalpy",), "entropy": ("entropy",), "density": ("density",), "internal_energy": ("internal energy",)},
        says=says,
    )
)  # fmt: skip
