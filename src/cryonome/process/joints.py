"""Steps where streams meet, part, are let down, heated and cooled: mixer, splitter, valve, separator, heater, cooler.
Each is a balance of mass and energy and one flash."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.phases import Kind, Phases
from .medium import Stream
from .steps import Doing, Each, Outcome, Step, StepKind, nothing, per_mole, register

Array = NDArray[np.float64]

HELD: dict[str, tuple[Kind, ...]] = {
    "vapour": (Kind.VAPOUR,),
    "liquid": (Kind.LIQUID,),
    "aqueous": (Kind.AQUEOUS,),
}
"""The phases of a separator's outlets; the liquid takes the water along where nothing else does."""
SLIGHT = 1e-9
"""Difference of enthalpies, in kelvins' worth, below which nothing was heated."""


def mix(step: Step, inlets: Sequence[Stream], doing: Doing) -> Outcome:
    """Mix streams at the lowest of their pressures, or at one below it."""
    flow = np.sum([s.flow for s in inlets], axis=0)
    there = [np.where(s.flow > 0.0, s.P, np.inf) for s in inlets]
    lowest = np.min(there, axis=0)
    first = inlets[0]
    P = np.where(np.isfinite(lowest), lowest, first.P)
    if "pressure" in step.numbers:
        wanted = step.number("pressure") * np.ones_like(P)
        doing.refuse(
            wanted > P * (1.0 + 1e-12), "process.mixer_pressure", step=step.name, P=Each(wanted, "pressure"),
            lowest=Each(P, "pressure"),
        )  # fmt: skip
        P = np.minimum(wanted, P)
    safe = np.where(flow > 0.0, flow, 1.0)
    share = [np.where(flow > 0.0, s.flow / safe, float(s is first)) for s in inlets]
    z = np.sum([w[:, None] * s.z for w, s in zip(share, inlets)], axis=0)
    h = np.sum([w * s.h for w, s in zip(share, inlets)], axis=0)
    near = np.sum([w * s.T for w, s in zip(share, inlets)], axis=0)
    out = doing.medium.with_enthalpy(P, h, z, flow, near, doing.watch)
    return Outcome((doing.sound(step, out, first),), nothing(first), nothing(first))


def split(step: Step, inlets: Sequence[Stream], doing: Doing) -> Outcome:
    """Split a stream by the share of each that is given."""
    inlet = inlets[0]
    shares = [step.number(f"share {name}") for name in step.gives]
    streams = tuple(inlet.flowing(inlet.flow * share) for share in shares)
    return Outcome(streams, nothing(inlet), nothing(inlet))


def _dropped(step: Step, inlet: Stream, doing: Doing) -> Array:
    """Return the pressure (N,) after a step's drop."""
    drop = step.number("pressure_drop")
    doing.refuse(
        drop >= inlet.P, "process.drop", step=step.name, drop=Each(drop * np.ones_like(inlet.P), "pressure_difference"),
        P=Each(inlet.P, "pressure"),
    )  # fmt: skip
    return np.asarray(np.where(drop < inlet.P, inlet.P - drop, 0.5 * inlet.P))


def throttle(step: Step, inlets: Sequence[Stream], doing: Doing) -> Outcome:
    """Let a stream down at constant enthalpy."""
    inlet = inlets[0]
    if "pressure" in step.numbers:
        P = step.number("pressure") * np.ones_like(inlet.P)
        doing.refuse(
            P > inlet.P * (1.0 + 1e-12), "process.valve_pressure", step=step.name, P=Each(P, "pressure"),
            inlet=Each(inlet.P, "pressure"),
        )  # fmt: skip
    else:
        P = _dropped(step, inlet, doing)
    out = doing.medium.with_enthalpy(P, inlet.h, inlet.z, inlet.flow, inlet.T, doing.watch)
    out = doing.sound(step, out, inlet)
    numbers = {"temperature_change_K": out.T - inlet.T, "pressure_drop_Pa": inlet.P - P}
    return Outcome((out,), nothing(inlet), nothing(inlet), numbers)


def warm(step: Step, inlets: Sequence[Stream], doing: Doing) -> Outcome:
    """Heat or cool a stream to a temperature, by a duty, to a share of vapour, above its dew or below its bubble
    point."""
    inlet, medium = inlets[0], doing.medium
    P = _dropped(step, inlet, doing)
    heats = step.kind == "heater"
    if "temperature" in step.numbers:
        out = medium.at(step.number("temperature") * np.ones_like(P), P, inlet.z, inlet.flow, doing.watch)
    elif "duty" in step.numbers:
        added = np.abs(step.number("duty")) * (1.0 if heats else -1.0)
        h = inlet.h + per_mole(added * np.ones_like(P), inlet.flow)
        out = medium.with_enthalpy(P, h, inlet.z, inlet.flow, inlet.T, doing.watch)
    else:
        key = next(k for k in ("vapour_fraction", "superheat", "subcooling") if k in step.numbers)
        beta = step.number(key) if key == "vapour_fraction" else np.full(P.shape, float(key == "superheat"))
        out = medium.with_vapour(P, beta * np.ones_like(P), inlet.z, inlet.flow, doing.watch)
        doing.refuse(~out.phases.converged, f"process.no_{key}", step=step.name, P=Each(P, "pressure"))
        if key != "vapour_fraction":
            T = out.T + step.number(key) * (1.0 if key == "superheat" else -1.0)
            out = medium.at(T, P, inlet.z, inlet.flow, doing.watch)
    out = doing.sound(step, out, inlet)
    heat = (out.h - inlet.h) * inlet.flow
    wrong = (heat if heats else -heat) < -SLIGHT * 8.3 * inlet.T * inlet.flow
    doing.refuse(
        wrong, f"process.{step.kind}_wrong", step=step.name, T=Each(out.T, "temperature", 1), inlet=Each(inlet.T, "temperature", 1),
        duty=Each(np.abs(heat), "power"),
    )  # fmt: skip
    return Outcome((out,), heat, nothing(inlet), {"duty_W": heat})


def separate(step: Step, inlets: Sequence[Stream], doing: Doing) -> Outcome:
    """Part a stream into its phases, after a drop of pressure, adiabatic, at a temperature or with a duty added."""
    inlet, medium = inlets[0], doing.medium
    P = _dropped(step, inlet, doing)
    if "temperature" in step.numbers:
        whole = medium.at(step.number("temperature") * np.ones_like(P), P, inlet.z, inlet.flow, doing.watch)
    elif "duty" in step.numbers or "pressure_drop" in step.numbers:
        h = inlet.h + per_mole(step.number("duty") * np.ones_like(P), inlet.flow)
        whole = medium.with_enthalpy(P, h, inlet.z, inlet.flow, inlet.T, doing.watch)
    else:
        whole = inlet
    whole = doing.sound(step, whole, inlet)
    heat = (whole.h - inlet.h) * inlet.flow
    streams = []
    for held in step.outlets:
        kinds = HELD[held]
        if held == "liquid" and "aqueous" not in step.outlets:
            kinds = (*kinds, Kind.AQUEOUS)
        streams.append(_outlet(whole, kinds, doing))
    numbers = {"duty_W": heat, "temperature_change_K": whole.T - inlet.T}
    numbers |= {f"{kind.name.lower()}_fraction": whole.share(kind) for kind in (Kind.VAPOUR, Kind.LIQUID, Kind.AQUEOUS)}
    return Outcome(tuple(streams), heat, nothing(inlet), numbers)


def _outlet(whole: Stream, kinds: Sequence[Kind], doing: Doing) -> Stream:
    """Return the phases of some kinds as a stream of its own; an empty one keeps the state of the whole."""
    own = np.isin(whole.phases.kind, kinds)
    share = np.where(own, whole.phases.fraction, 0.0)
    total = share.sum(axis=-1)
    rows = np.flatnonzero(total > 0.0)
    flow = np.asarray(whole.flow * total)
    if rows.size == 0:
        return whole.flowing(flow)
    phases = _of_places(whole.phases.take(rows), own[rows], share[rows] / total[rows, None])
    places = whole.phases.kind.shape[-1]
    joined = whole.phases.with_rows(rows, phases.widened(places))
    return Stream(flow, joined, doing.medium.measured(joined))


def _of_places(phases: Phases, own: NDArray[np.bool_], share: Array) -> Phases:
    """Return states that hold the phases ``own`` (N, p) alone, in the shares given, those present first."""
    order = np.argsort(~own, axis=1, kind="stable")

    def take(values: NDArray[Any]) -> NDArray[Any]:
        return np.take_along_axis(values, order, axis=1)

    composition = np.take_along_axis(phases.composition, order[..., None], axis=1)
    z = (share[..., None] * phases.composition).sum(axis=1)
    return replace(
        phases,
        z=z / z.sum(axis=-1, keepdims=True),
        kind=take(np.where(own, phases.kind, Kind.ABSENT).astype(np.int8)),
        fraction=take(share),
        composition=composition,
        Z=take(phases.Z),
        root=take(phases.root),
    )


_TO = ("temperature", "duty", "vapour_fraction", "superheat", "subcooling")
register(
    StepKind("mixer", "joins streams at the lowest of their pressures", mix, (), ("pressure",), takes="several streams")
)
register(StepKind("splitter", "parts a stream by shares", split, gives="streams by their share"))
register(StepKind("valve", "lets a stream down at constant enthalpy", throttle, ("pressure", "pressure_drop")))
register(StepKind("heater", "adds heat to a stream", warm, _TO, ("pressure_drop",)))
register(StepKind("cooler", "removes heat from a stream", warm, _TO, ("pressure_drop",)))
register(
    StepKind(
        "separator", "parts a stream into vapour, liquid and water", separate, (), ("pressure_drop", "temperature", "duty"),
        gives="vapour, liquid, aqueous",
    )
)  # fmt: skip
