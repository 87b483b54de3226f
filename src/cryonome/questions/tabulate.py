"""A property table as arrays: what the study ``table``, its page and the Python entry points share."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from ..document.conditions import CONDITIONS, Given
from ..errors import DomainError
from ..fluids.building import FluidModel
from ..fluids.columns import Column, column_of, failures, values_of
from ..fluids.continued import Continued, continued
from ..fluids.grid_states import states_at
from ..fluids.property_choice import Choice, choices
from ..properties import PROPERTIES
from ..remarks import Remark, Value
from ..results.frost import frost_remarks
from ..units import KINDS
from ..watch import UNWATCHED, Watch
from .compact import Compact, OtherRegionError, fit_table, relative_size

if TYPE_CHECKING:
    from ..document import Fluid
    from ..results.evaluator import Project

Array = NDArray[np.float64]
Axis = tuple[str, tuple[Given, ...]]
"""A condition and its values."""


@dataclass(frozen=True)
class PropertyTable:
    """Properties over one or two conditions.

    ``variables`` are the axes' conditions and ``axes`` their values in SI, as they were asked: by mass or by mole, as
    ``axis_kinds`` tells; ``values`` the properties by key over the axes, in the unit of their key, nan where there is
    none; ``kinds`` (..., p) the phases; ``T`` K and ``P`` Pa (...) where each state is; ``told`` says by key where a
    property is missing, ``failed`` what was not found, ``frozen`` what is to be said of a solid that is left out."""

    variables: tuple[str, ...]
    axis_kinds: tuple[str, ...]
    axes: tuple[Array, ...]
    values: Mapping[str, Array]
    kinds: NDArray[np.int8]
    T: Array
    P: Array
    told: Mapping[str, str]
    failed: tuple[str, ...]
    frozen: tuple[Remark, ...] = ()

    @property
    def shape(self) -> tuple[int, ...]:
        """Number of values of each axis."""
        return tuple(a.size for a in self.axes)

    @cached_property
    def notes(self) -> list[str]:
        """Sentences about what is missing."""
        return [*self.failed, *(t for t in self.told.values() if t)]

    def fit(self, key: str, watch: Watch = UNWATCHED) -> Compact:
        """Return a formula of a property. Raises DomainError, Cancelled as :func:`fit_table` does."""
        units = [KINDS[kind].si for kind in self.axis_kinds]
        return fit_table(key, self.variables, units, self.axes, self.values[key], self.kinds, watch)


def tabulate(
    model: FluidModel,
    axes: Sequence[Axis],
    held: Mapping[str, Given],
    columns: Sequence[Column],
    watch: Watch = UNWATCHED,
    whole: bool = False,
) -> PropertyTable:
    """Return the properties of a fluid over ``axes``, all states in one batch; where ``whole``, phases that are
    absent are continued. Raises DomainError, Cancelled."""
    for column in columns:
        named = column_of(column.key, model.names)
        if isinstance(named, str):
            raise DomainError(named)
    mass = float(model.z @ model.molar_mass)
    lists = [np.array([g.by_mole(mass) for g in values]) for _, values in axes]
    shape = tuple(v.size for v in lists)
    grid = dict(zip([key for key, _ in axes], (g.reshape(-1) for g in np.meshgrid(*lists, indexing="ij"))))
    n = int(np.prod(shape, dtype=int))
    grid |= {k: np.full(n, g.by_mole(mass)) for k, g in held.items()}
    needs = [c.needs for c in columns if c.needs]
    states = states_at(model, grid, needs, watch.part(0.0, 0.5 if whole else 1.0))
    more = continued(model, states.phases, needs, watch.part(0.5, 1.0)) if whole else None
    values, told = {}, {}
    for column in columns:
        found, said = values_of(column, states, more)
        values[column.key], told[column.key] = found.reshape(shape), said
    return PropertyTable(
        tuple(key for key, _ in axes),
        tuple(CONDITIONS[key].kind_of(own[0].by_mass) for key, own in axes),
        tuple(np.array([g.value for g in own]) for _, own in axes),
        values,
        states.phases.kind.reshape(*shape, -1),
        states.phases.T.reshape(shape),
        states.phases.P.reshape(shape),
        told,
        tuple(failures(states.phases)),
        (*frost_remarks(model, states.phases), *continued_remarks(more)),
    )


def continued_remarks(more: Continued | None) -> list[Remark]:
    """Return what a reader must know of phases that are continued."""
    if more is None:
        return []
    out = [Remark("estimate", "table.continued")]
    if more.renamed.any():
        counts: dict[str, Value] = {"count": int(more.renamed.sum()), "states": more.renamed.size}
        out.append(Remark("estimate", "table.renamed", "", counts))
    for kind, pressure in more.pressure.items():
        held = int((more.absent(kind) & (np.abs(pressure / more.phases.P - 1.0) > 1e-9)).sum())
        if held:
            told: dict[str, Value] = {"phase": kind.name.lower(), "count": held, "states": pressure.size}
            out.append(Remark("estimate", "table.held", "", told))
    return out


def table_of(
    project: Project,
    fluid: Fluid,
    axes: Sequence[Axis],
    held: Mapping[str, Given],
    columns: Sequence[Column],
    watch: Watch = UNWATCHED,
    whole: bool = False,
) -> PropertyTable:
    """Return a table of a fluid of the project, remembered by its content."""
    key = _content(project, fluid, axes, held, columns, whole)
    return project.evaluator.cache.get(key, lambda: tabulate(project.fluid(fluid), axes, held, columns, watch, whole))


def _content(
    project: Project,
    fluid: Fluid,
    axes: Sequence[Axis],
    held: Mapping[str, Given],
    columns: Sequence[Column],
    whole: bool,
) -> tuple[object, ...]:
    keys = tuple(c.key for c in columns)
    return ("table", project.fluid_key(fluid), tuple(axes), tuple(held.items()), keys, whole)


def formula_of(
    project: Project,
    fluid: Fluid,
    axes: Sequence[Axis],
    held: Mapping[str, Given],
    columns: Sequence[Column],
    key: str,
    watch: Watch = UNWATCHED,
    whole: bool = False,
) -> Fitted:
    """Return the formula of a property of a table of the project, remembered by its content. Raises DomainError,
    Cancelled."""
    table = table_of(project, fluid, axes, held, columns, watch.part(0.0, 0.7), whole)
    content = ("formula", key, _content(project, fluid, axes, held, columns, whole))
    return project.evaluator.cache.get(content, lambda: fitted(table, key, watch.part(0.7, 1.0)))


def thinned(axes: Sequence[Axis], most: int) -> tuple[Axis, ...]:
    """Return axes with at most ``most`` values each, both ends among them: for a first picture."""
    out = []
    for key, values in axes:
        if len(values) > most:
            rows = np.unique(np.linspace(0, len(values) - 1, most).round().astype(int))
            values = tuple(values[i] for i in rows)
        out.append((key, values))
    return tuple(out)


@dataclass(frozen=True)
class Fitted:
    """A formula of a table's property and its relative deviation from every cell, or why there is none, with the
    ``part`` of the table that would do, (low, high) of each axis in SI."""

    key: str
    compact: Compact | None
    residuals: Array | None
    refused: str = ""
    part: tuple[tuple[float, float], ...] = ()


def fitted(table: PropertyTable, key: str, watch: Watch = UNWATCHED) -> Fitted:
    """Return a formula of a property of a table. Raises Cancelled."""
    try:
        found = table.fit(key, watch)
    except OtherRegionError as error:
        return Fitted(key, None, None, str(error), error.part)
    except DomainError as error:
        return Fitted(key, None, None, str(error))
    values = table.values[key]
    grid = found(*np.meshgrid(*table.axes, indexing="ij"))
    return Fitted(key, found, (grid - values) / relative_size(values))


def nested(values: Array) -> Any:
    """Return an array as nested lists, None where it is not finite."""
    return [nested(v) for v in values] if values.ndim > 1 else [float(v) if np.isfinite(v) else None for v in values]


def choices_at(
    model: FluidModel, at: Sequence[Axis], held: Mapping[str, Given], watch: Watch = UNWATCHED
) -> list[Choice]:
    """Return every property there is to choose, with its value at one state: ``at`` has one value of each axis."""
    mass = float(model.z @ model.molar_mass)
    given = {key: np.array([values[0].by_mole(mass)]) for key, values in at}
    given |= {key: np.array([g.by_mole(mass)]) for key, g in held.items()}
    return choices(states_at(model, given, PROPERTIES, watch))
