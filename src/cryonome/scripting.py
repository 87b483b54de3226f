"""Cryonome from Python: a project with its fluids, and states, tables and lines as NumPy arrays in SI.

    import cryonome
    project = cryonome.open("hub.cryo")          # or cryonome.open_demo()
    gas = project.fluid("Selden gas")
    cold = gas.flash(temperature="4 degC", pressure=[60e5, 80e5, 100e5])
    cold["vapour.density_kg_m3"]                 # an array of three

Quantities are SI numbers, text with a unit, or arrays and lists of either. Results are in the unit of their key.
Whatever has no answer raises :class:`cryonome.errors.DomainError` with the sentence a reader of the window gets; a
document that is invalid raises :class:`cryonome.document.DocumentError`."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .demo import demo_document
from .document import Document, Reader, load, parse_document
from .document.conditions import CONDITIONS, Given, read_condition
from .document.edits import set_at
from .document.faults import did_you_mean
from .document.field_types import Cell
from .equilibrium.phase_map import PhaseMap
from .errors import DomainError
from .fluids.building import FluidModel
from .fluids.columns import column_of, values_of
from .fluids.grid_states import states_at
from .fluids.states import States as FullStates
from .properties import PROPERTIES
from .questions import solve as solve_document
from .questions.tabulate import PropertyTable, tabulate
from .questions.varying import read_path
from .results import Evaluator
from .results.evaluator import Project as Results
from .watch import UNWATCHED, Watch
from .wording.asked import Answered, answered
from .wording.typed import understood

Array = NDArray[np.float64]
Quantities = ArrayLike | str | Sequence[str]


def open_project(source: str | Path) -> Project:
    """Return the project of a file, or of a document's text where it begins with a brace. Raises DocumentError,
    OSError."""
    text = isinstance(source, str) and source.lstrip().startswith("{")
    return Project(parse_document(str(source)) if text else load(Path(source)))


def demo_project() -> Project:
    """Return the demo project, the Varnholt hub."""
    return Project(demo_document())


class Project:
    """A document and what follows from it; never changed: :meth:`with_value` returns another."""

    def __init__(self, document: Document, evaluator: Evaluator | None = None) -> None:
        self.document = document
        self._evaluator = evaluator or Evaluator()
        self._results: Results = self._evaluator.at(document)

    @property
    def fluids(self) -> list[str]:
        """Names of the fluids."""
        return [f.name for f in self.document.fluids]

    @property
    def samples(self) -> list[str]:
        """Names of the samples."""
        return [s.name for s in self.document.samples]

    @property
    def studies(self) -> list[str]:
        """Names of the questions."""
        return [s.name for s in self.document.studies if not s.draft]

    def fluid(self, name: str) -> Fluid:
        """Return a fluid ready to compute. Raises KeyError with the nearest names, DomainError where it cannot be
        made."""
        found = self.document.fluid(name)
        if found is None:
            raise KeyError(f"unknown fluid '{name}'{did_you_mean(name, self.fluids)}")
        results = self._results
        return Fluid(results.fluid(found), lambda watch: results.map(found, (), watch))

    def answer(self, study: str) -> dict[str, Any]:
        """Return the answer of a question as ``cryonome solve`` gives it. Raises DocumentError."""
        return dict(solve_document(self.document, [study], self._evaluator)["answers"][study])

    def answers(self) -> dict[str, dict[str, Any]]:
        """Return the answers of every question by name. Raises DocumentError."""
        return dict(solve_document(self.document, (), self._evaluator)["answers"])

    def ask(self, question: str, fluid: str = "") -> Answered:
        """Return the answer of a typed question, ``dew point of Selden gas at 40 bar``, with its sentence. Raises
        ValueError with what is not understood."""
        found = understood(question, self.document, fluid)
        if found.study is None:
            raise ValueError("; ".join(u.message for u in found.unclear))
        return answered(found.study, self.document, found.wanted, self._evaluator)

    def with_value(self, path: str, value: Cell) -> Project:
        """Return the project with one cell changed, by its path as faults write it, names for indices allowed:
        ``fluids[Selden gas].parts[0].amount``. Raises KeyError where there is no such cell."""
        reader = Reader()
        parts = read_path(path, self.document, reader)
        if parts is None:
            raise KeyError(reader.faults[0].message)
        return Project(set_at(self.document, parts, value), self._evaluator)


class Fluid:
    """A fluid ready to compute. ``names`` (nc,) its components, ``z`` (nc,) mole fractions, ``molar_mass`` (nc,)
    kg/mol."""

    def __init__(self, model: FluidModel, envelope: Any) -> None:
        self.model = model
        self._envelope = envelope

    @property
    def names(self) -> list[str]:
        """Names of the components."""
        return list(self.model.names)

    @property
    def z(self) -> Array:
        """Mole fractions (nc,)."""
        return self.model.z

    @property
    def molar_mass(self) -> Array:
        """Molar masses (nc,) kg/mol."""
        return self.model.molar_mass

    def flash(self, *, watch: Watch = UNWATCHED, **conditions: Quantities) -> States:
        """Return the states at two conditions, by the names a flash in a document has (``temperature``, ``pressure``,
        ``vapour_fraction``, ``enthalpy``, ...), each a quantity or several; shapes broadcast.

        Enthalpy, entropy and internal energy are by mole as numbers, by mass where the unit says so. Raises
        ValueError for other conditions than two, DomainError for a quantity that is none."""
        _check_known(conditions)
        if len(conditions) != 2:
            raise ValueError(f"give exactly two of {', '.join(CONDITIONS)}")
        mass = float(self.z @ self.molar_mass)
        given = {k: _numbers(k, v, mass) for k, v in conditions.items()}
        shape = np.broadcast_shapes(*(v.shape for v in given.values()))
        flat = {k: np.broadcast_to(v, shape).reshape(-1).astype(float) for k, v in given.items()}
        return States(states_at(self.model, flat, PROPERTIES, watch), shape)

    def table(
        self,
        axes: Mapping[str, Quantities],
        properties: Sequence[str],
        held: Mapping[str, Quantities] | None = None,
        watch: Watch = UNWATCHED,
        continued: bool = False,
    ) -> PropertyTable:
        """Return properties by their keys over one or two axes; a condition ``held`` stands beside a single one.
        Cells of absent phases are nan, or where ``continued`` those of the phase with the composition it forms with.

        The table has ``values`` by key, over the axes in their order, and ``fit(key)``, a formula that can be called
        with values of the axes in SI. Raises ValueError for axes that are no conditions or other than two together,
        DomainError for a property that does not exist."""
        _check_known((*axes, *(held or ())))
        mass = float(self.z @ self.molar_mass)
        columns = []
        for key in properties:
            found = column_of(key, self.model.names)
            if isinstance(found, str):
                raise DomainError(found)
            columns.append(found)
        lists = [(k, tuple(Given(float(x)) for x in np.atleast_1d(_numbers(k, v, mass)))) for k, v in axes.items()]
        fixed = {k: Given(float(_numbers(k, v, mass))) for k, v in (held or {}).items()}
        if len(lists) + len(fixed) != 2:
            raise ValueError("axes and conditions held are two together")
        return tabulate(self.model, lists, fixed, columns, watch, continued)

    def envelope(self, watch: Watch = UNWATCHED) -> PhaseMap:
        """Return the traced envelope: ``parts`` with ``beta``, ``T`` K and ``P`` Pa, ``critical_points``,
        ``cricondentherm``, ``cricondenbar``, and ``crossings(betas, T=..)`` or ``(P=..)``."""
        found: PhaseMap = self._envelope(watch)
        return found


@dataclass(frozen=True)
class States:
    """States of a fluid, of the ``shape`` of the conditions; ``states[key]`` is a property by the key that tables
    use."""

    full: FullStates
    shape: tuple[int, ...]

    @property
    def temperature(self) -> Array:
        """Temperatures, K; nan where no state was found."""
        return self.full.phases.T.reshape(self.shape)

    @property
    def pressure(self) -> Array:
        """Pressures, Pa."""
        return self.full.phases.P.reshape(self.shape)

    @property
    def vapour_fraction(self) -> Array:
        """Moles of vapour per mole of the whole."""
        return self.full.phases.vapour_fraction.reshape(self.shape)

    @property
    def converged(self) -> NDArray[np.bool_]:
        """Which states were found."""
        return self.full.phases.converged.reshape(self.shape)

    def composition(self, phase: str) -> Array:
        """Return the mole fractions of a phase by its kind, (..., nc), nan where it is absent."""
        names = self.full.model.names
        return np.stack([self[f"{phase}.composition.{n}"] for n in names], axis=-1)

    def __getitem__(self, key: str) -> Array:
        """Return a property of the whole (``density_kg_m3``) or of a phase (``vapour.viscosity_Pa_s``), nan where
        there is none.

        Raises KeyError with the nearest keys.
        """
        column = column_of(key, self.full.model.names)
        if isinstance(column, str):
            raise KeyError(column)
        return values_of(column, self.full)[0].reshape(self.shape)


def _check_known(keys: Iterable[str]) -> None:
    """Raise ValueError for the first key that names no condition."""
    for key in keys:
        if key not in CONDITIONS:
            raise ValueError(f"unknown condition '{key}'{did_you_mean(key, CONDITIONS)}")


def _numbers(key: str, value: Quantities, molar_mass: float) -> Array:
    """Return a condition's values in SI and by mole. Raises DomainError."""
    plain = np.asarray(value)
    if plain.dtype.kind in "fiu":
        return plain.astype(float)
    out = []
    for cell in plain.reshape(-1).tolist():
        reader = Reader()
        given = read_condition(key, cell, reader)
        if given is None:
            raise DomainError(f"{key}: {reader.faults[0].message}")
        out.append(given.by_mole(molar_mass))
    return np.array(out).reshape(plain.shape)
