"""The properties of phases and of the whole: each an entry, read by readouts, tables, pickers, answers and docs alike.

An entry is a name, a meaning, the kind of its unit and a function over :class:`Sheet`, the phases of many states with
what was computed of them so far. A property of a phase has a value a place (N, p), nan where the place is empty; one
of the whole has a value a state (N,). To add one, write its function below and decorate it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..eos import PhaseResponse
from ..equilibrium.phases import ROOTS, Phases
from ..equilibrium.response import Exchange, exchange
from .aqueous.correction import AqueousPhases
from .substance import Substance

Array = NDArray[np.float64]


class Sheet:
    """The phases of N states and their properties, each computed once. ``present`` (N, p) tells where a phase is."""

    def __init__(self, substance: Substance, phases: Phases) -> None:
        if len(phases.shape) != 1:
            raise ValueError("properties are evaluated along one batch axis; reshape first")
        self.substance, self.phases = substance, phases
        self.present = phases.present & phases.converged[:, None]
        self._known: dict[str, Array] = {}

    def __getitem__(self, key: str) -> Array:
        """Return a property by its key, (N, p)."""
        if key not in self._known:
            entry = PROPERTIES[key]
            if entry.function is None:
                raise KeyError(f"{entry.name} is a property of the whole")
            self._known[key] = entry.function(self)
        return self._known[key]

    def of_phases(self, values: Callable[[Array, Array, Array], Array]) -> Array:
        """Return what ``values`` makes of composition (M, nc), T and P (M,) of the present phases, as (N, p)."""
        state, place = np.nonzero(self.present)
        return self.spread(values(self.phases.composition[state, place], self.phases.T[state], self.phases.P[state]))

    def spread(self, values: Array) -> Array:
        """Return values (M,) of the present phases, in order, as (N, p) with nan elsewhere."""
        out = np.full(self.present.shape, np.nan)
        out[self.present] = values
        return out

    @cached_property
    def T(self) -> Array:
        """Temperatures of the states at every place, (N, p)."""
        return np.broadcast_to(self.phases.T[:, None], self.present.shape)

    @cached_property
    def P(self) -> Array:
        """Pressures of the states at every place, (N, p)."""
        return np.broadcast_to(self.phases.P[:, None], self.present.shape)

    @cached_property
    def volume_shift(self) -> Array:
        """What the equation's molar volumes are too large by, m3/mol (N, p)."""
        return self._shifted(self.substance.shifts.at)

    @cached_property
    def shift_rise(self) -> Array:
        """The derivative of :attr:`volume_shift` by temperature, m3/(mol K) (N, p)."""
        return self._shifted(self.substance.shifts.by_T)

    @cached_property
    def shift_bend(self) -> Array:
        """The second derivative of :attr:`volume_shift` by temperature, m3/(mol K2) (N, p)."""
        return self._shifted(self.substance.shifts.by_TT)

    def _shifted(self, each: Callable[[Array], Array]) -> Array:
        state, place = np.nonzero(self.present)
        return self.spread(np.vecdot(self.phases.composition[state, place], each(self.phases.T[state])))

    @cached_property
    def response(self) -> PhaseResponse:
        """Departures and derivatives of the present phases, (M,), from one evaluation of each root that occurs."""
        state, place = np.nonzero(self.present)
        x = self.phases.composition[state, place]
        T, P = self.phases.T[state], self.phases.P[state]
        root = self.phases.root[state, place]
        out = [np.full(state.size, np.nan) for _ in PhaseResponse.__dataclass_fields__]
        for code in np.unique(root):
            rows = np.flatnonzero(root == code)
            prepared = self.substance.eos.take(state[rows]).prepare(T[rows], P[rows])
            found = prepared.response(x[rows], ROOTS[int(code)])
            for values, name in zip(out, PhaseResponse.__dataclass_fields__):
                values[rows] = getattr(found, name)
        return PhaseResponse(*out)

    @cached_property
    def aqueous(self) -> AqueousPhases | None:
        """The phases that correlations of aqueous liquids hold for, None where there is none."""
        return AqueousPhases.among(self.substance, self.phases, self.present)

    def corrected(self, values: Array, change: Callable[[AqueousPhases], Array]) -> Array:
        """Return values (N, p) with what ``change`` makes of the aqueous phases (M,) added there."""
        own = self.aqueous
        if own is not None:
            values = values.copy()
            values[own.state, own.place] += change(own)
        return values

    def blended(self, values: Array, known: Callable[[AqueousPhases], Array]) -> Array:
        """Return positive values (N, p) with what is ``known`` of aqueous phases (M,) in their place, by its weight."""
        own = self.aqueous
        if own is not None:
            values = values.copy()
            before = np.log(values[own.state, own.place])
            values[own.state, own.place] = np.exp(before + own.weight * (np.log(known(own)) - before))
        return values

    @cached_property
    def mass(self) -> Array:
        """Mass of a mole of each phase, salt counted, kg/mol (N, p)."""
        return self.corrected(self["molar_mass"], lambda own: own.salt_mass)

    @cached_property
    def exchange(self) -> Exchange:
        """What the exchange between the phases adds to the whole's heat capacity and volume derivatives, (N,)."""
        return exchange(self.substance.eos, self.phases)

    def whole(self, key: str) -> Array:
        """Return a property of the whole, (N,): nan where the state was not found."""
        entry = PROPERTIES[key]
        if entry.whole is None:
            raise KeyError(f"{entry.name} is a property of a phase")
        return np.where(self.phases.converged, entry.whole(self), np.nan)

    def by_mole(self, key: str) -> Array:
        """Return the sum over phases weighted by mole fraction, (N,)."""
        values = np.where(self.present, self[key], 0.0)
        return np.asarray((values * self.phases.fraction).sum(axis=-1))


@dataclass(frozen=True)
class Property:
    """An entry: ``key``, ``name``, one-line ``meaning``, ``kind`` of unit (of :data:`cryonome.units.KINDS`, or "" for
    a plain number), ``suffix`` its key carries in answers, ``factor`` from SI to there, ``source``; ``function``
    gives it of every phase, ``whole`` of the whole, None where it is not a property of such."""

    key: str
    name: str
    meaning: str
    kind: str
    suffix: str
    source: str
    function: Callable[[Sheet], Array] | None
    whole: Callable[[Sheet], Array] | None
    factor: float = 1.0

    @property
    def answer_key(self) -> str:
        """The key in answers, which ends in the unit."""
        return f"{self.key}{self.suffix}"


PROPERTIES: dict[str, Property] = {}
"""Every property by its key, in the order they are shown."""


def phase_property(
    name: str,
    meaning: str,
    kind: str = "",
    suffix: str = "",
    source: str = "",
    whole: str | None = None,
    factor: float = 1.0,
) -> Callable[[Callable[[Sheet], Array]], Callable[[Sheet], Array]]:
    """Enter a property of phases; ``whole`` is "mole" where the whole's is the mole-weighted sum of its phases'."""

    def enter(function: Callable[[Sheet], Array]) -> Callable[[Sheet], Array]:
        key = function.__name__
        total = (lambda sheet: sheet.by_mole(key)) if whole == "mole" else None
        PROPERTIES[key] = Property(key, name, meaning, kind, suffix, source, function, total, factor)
        return function

    return enter


def whole_of(key: str) -> Callable[[Callable[[Sheet], Array]], Callable[[Sheet], Array]]:
    """Enter how a property of the whole is computed."""

    def enter(function: Callable[[Sheet], Array]) -> Callable[[Sheet], Array]:
        PROPERTIES[key] = Property(**{**PROPERTIES[key].__dict__, "whole": function})
        return function

    return enter


def whole_property(
    name: str, meaning: str, kind: str = "", suffix: str = "", source: str = "", factor: float = 1.0
) -> Callable[[Callable[[Sheet], Array]], Callable[[Sheet], Array]]:
    """Enter a property of the whole alone."""

    def enter(function: Callable[[Sheet], Array]) -> Callable[[Sheet], Array]:
        key = function.__name__
        PROPERTIES[key] = Property(key, name, meaning, kind, suffix, source, None, function, factor)
        return function

    return enter


@dataclass(frozen=True)
class Values:
    """Properties of states of any leading shape (...): ``phase`` (..., p) and ``whole`` (...) by key, SI."""

    phase: dict[str, Array]
    whole: dict[str, Array]


def evaluate(substance: Substance, phases: Phases, keys: Iterable[str] = ()) -> Values:
    """Return the properties ``keys`` (all where none are named) of phases of any leading shape, in one pass."""
    shape, places = phases.shape, phases.kind.shape[-1]
    sheet = Sheet(substance, phases.reshape(int(np.prod(shape, dtype=int))))
    wanted = [PROPERTIES[k] for k in (tuple(keys) or PROPERTIES)]
    return Values(
        {p.key: sheet[p.key].reshape(*shape, places) for p in wanted if p.function is not None},
        {p.key: sheet.whole(p.key).reshape(shape) for p in wanted if p.whole is not None},
    )
