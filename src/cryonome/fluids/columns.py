"""What a table may hold of a state: a property of the whole, of one of its phases, or of what the fluid gives at
standard conditions, named as in the answer of a flash."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..document.faults import did_you_mean
from ..equilibrium.phases import Kind, Phases, Reason
from ..properties import PROPERTIES, evaluate
from .building import FluidModel
from .continued import TENSIONS, Continued
from .standard import STANDARD, standard_values
from .states import States

Array = NDArray[np.float64]

PHASES = {kind.name.lower(): kind for kind in (Kind.VAPOUR, Kind.LIQUID, Kind.AQUEOUS)}
"""Phases by the name they have in keys."""

COMPOSITIONS = {"composition": "mole", "mass_composition": "mass"}
"""Compositions of phases by their key: by what their shares count."""

OF_WHOLE = {p.answer_key: p for p in PROPERTIES.values() if p.whole is not None}
OF_PHASE = {p.answer_key: p for p in PROPERTIES.values() if p.function is not None}
AT_STANDARD = "standard"
"""The part of an answer that holds for standard conditions, whatever the state."""
SHARES = ("fraction", "mass_fraction", "volume_fraction")
"""Shares of a phase: an absent one has none of the whole."""
VAPOUR_SHARES = ("vapour_volume_fraction", "vapour_mass_fraction")
PLAIN = ("temperature_K", "pressure_Pa", "vapour_fraction")
"""Of the whole, and no entry of the registry."""


@dataclass(frozen=True)
class Column:
    """A property by the ``key`` of the document: ``phase`` "" for the whole and "standard" for standard conditions,
    ``own`` its key within, ``component`` of a composition."""

    key: str
    phase: str
    own: str
    component: str = ""

    @property
    def needs(self) -> str:
        """The registry's key, "" where none is needed."""
        if self.phase == AT_STANDARD:
            return ""
        table = OF_PHASE if self.phase else OF_WHOLE
        return table[self.own].key if self.own in table else ""


def column_of(key: str, components: Sequence[str] | None = None) -> Column | str:
    """Return what a key names, or a sentence that says what is wrong with it; ``components`` are the fluid's, where
    known."""
    text = key.removeprefix("phases.")
    phase, dot, rest = text.partition(".")
    if not dot:
        known = [*PLAIN, *OF_WHOLE]
        if text in known:
            return Column(key, "", text)
        if text in OF_PHASE:
            return f"'{key}' is a property of a phase; name one: {', '.join(f'{p}.{text}' for p in PHASES)}"
        return f"unknown property '{key}'{did_you_mean(text, known)}"
    if phase == AT_STANDARD:
        return (
            Column(key, phase, rest)
            if rest in STANDARD
            else f"unknown property '{rest}' at standard conditions{did_you_mean(rest, STANDARD)}"
        )
    if phase not in PHASES:
        return f"'{phase}' is no phase; there is {', '.join(PHASES)}"
    own, _, name = rest.partition(".")
    if own in COMPOSITIONS and name:
        if components is not None and name not in components:
            return f"the fluid has no component '{name}'{did_you_mean(name, components)}"
        return Column(key, phase, own, name)
    known = ["fraction", *OF_PHASE]
    if rest not in known:
        return f"unknown property '{rest}' of a phase{did_you_mean(rest, known)}"
    return Column(key, phase, rest)


def values_of(column: Column, states: States, more: Continued | None = None) -> tuple[Array, str]:
    """Return a column of N states (N,), nan where it does not exist there, and a sentence that says where, "" where
    it always does. With ``more`` phases that are absent are continued, and have no share."""
    phases = states.phases
    if not column.phase:
        return _of_whole(column, states, more)
    if column.phase == AT_STANDARD:
        value = standard_values(states.model).get(column.own)
        if value is None:
            return np.full(phases.T.size, np.nan), f"{column.key}: this fluid has none at standard conditions"
        return np.where(phases.converged, value, np.nan), ""
    kind = PHASES[column.phase]
    phases = phases if more is None else more.phases
    place, there = _place(phases, kind)
    rows = np.arange(place.size)
    if column.own == "fraction":
        found = phases.fraction[rows, place]
    elif column.own in COMPOSITIONS:
        found = _share_of(column, states.model, phases.composition[rows, place])
    else:
        entry = OF_PHASE[column.own]
        found = states.values.phase[entry.key][rows, place] * entry.factor
    found = np.where(there & phases.converged, found, np.nan)
    missing = phases.converged & ~there
    if more is not None:
        own = more.absent(kind)
        found = np.where(own, _continued(column, more, kind), found)
        missing &= ~own
    return found, _told(column, missing, f"no {column.phase}") if missing.any() else ""


def _of_whole(column: Column, states: States, more: Continued | None) -> tuple[Array, str]:
    phases = states.phases
    if column.own in PLAIN:
        # A phase that is named otherwise in this state has its share under that name.
        named = phases if more is None else more.phases
        found = {"temperature_K": phases.T, "pressure_Pa": phases.P, "vapour_fraction": named.vapour_fraction}
        return np.where(phases.converged, found[column.own], np.nan), ""
    entry = OF_WHOLE[column.own]
    found_whole = states.values.whole[entry.key] * entry.factor
    if more is not None and entry.key in TENSIONS:
        found_whole = more.tensions[entry.key] * entry.factor
    elif more is not None and entry.key in VAPOUR_SHARES and more.renamed.any():
        rows = np.flatnonzero(more.renamed)
        own = evaluate(states.model.substance, more.phases.take(rows), [entry.key]).whole[entry.key]
        found_whole = found_whole.copy()
        found_whole[rows] = own * entry.factor
    missing = phases.converged & ~np.isfinite(found_whole)
    return found_whole, _told(column, missing, f"no {entry.name.lower()}") if missing.any() else ""


def _share_of(column: Column, model: FluidModel, composition: Array) -> Array:
    """Return the share of a component in compositions (N, nc), by mole or by mass."""
    at = model.names.index(column.component)
    if COMPOSITIONS[column.own] == "mole":
        return np.asarray(composition[:, at])
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(composition[:, at] * model.molar_mass[at] / (composition @ model.molar_mass))


def _continued(column: Column, more: Continued, kind: Kind) -> Array:
    """Return a column (N,) of phases that are absent."""
    if column.own in SHARES:
        return np.zeros(more.phases.T.size)
    if column.own in COMPOSITIONS:
        return _share_of(column, more.model, more.composition[kind])
    entry = OF_PHASE[column.own]
    return more.values[kind][entry.key] * entry.factor


def _place(phases: Phases, kind: Kind) -> tuple[NDArray[np.intp], NDArray[np.bool_]]:
    """Return where N states have a phase of a kind, the lightest of several, and whether they have one."""
    match = phases.kind == kind
    return np.argmax(match, axis=-1), match.any(axis=-1)


def _told(column: Column, missing: NDArray[np.bool_], what: str) -> str:
    count = int(missing.sum())
    return f"{column.key}: {what} at {count} of {missing.size} states"


def failures(phases: Phases) -> list[str]:
    """Return sentences about the states that were not found."""
    out = []
    for reason, told in (
        (Reason.NO_SUCH_STATE, "have no such state: the conditions are out of reach there"),
        (Reason.NOT_CONVERGED, "did not converge"),
        (Reason.MORE_PHASES, "would have a fourth phase, which is not looked for"),
    ):
        count = int((phases.reason == reason).sum())
        if count:
            out.append(f"{count} of {phases.reason.size} states {told}")
    return out
