"""The state of a fluid at any two conditions, every other state that meets them told, and why there is none."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from ..document import Fluid
from ..document.conditions import CONDITIONS, Given
from ..equilibrium.fraction_states import among_three, at_points, not_upset
from ..equilibrium.line_points import METASTABLE, SaturationPoint
from ..equilibrium.measured import P_RANGE, T_RANGE, coldest
from ..equilibrium.multiphase import flash_all
from ..equilibrium.one_known import Found
from ..equilibrium.pair_flash import flash_pair
from ..equilibrium.phase_map import PhaseMap
from ..equilibrium.phases import Phases, Reason
from ..equilibrium.pure import saturation_pressure
from ..equilibrium.stability import stability
from ..fluids.building import FluidModel
from ..fluids.map_lines import line_phases
from ..properties import evaluate
from ..remarks import Remark, Value, kelvin, pascal
from ..watch import Watch
from .context import Context, NoAnswerError

Array = NDArray[np.float64]

BOILING = 1e-7
"""Relative distance from the vapour pressure within which one component's pressure is that of boiling."""
REACH = 60
"""States looked at to tell what a condition can reach."""


def state_at(fluid: Fluid, given: Mapping[str, Given], context: Context, remarks: list[Remark]) -> Phases:
    """Return the state (1,) of a fluid at two conditions by key, with further ones that meet them among the
    ``remarks``.

    Raises NoAnswerError, which says what is in reach, and Cancelled.
    """
    model = context.project.fluid(fluid)
    mass = float(model.z @ model.molar_mass)
    if "molar_volume" in given:
        # One composition: a molar volume is a density.
        density = Given(mass / given["molar_volume"].value)
        given = {**{k: g for k, g in given.items() if k != "molar_volume"}, "density": density}
    values = {k: g.by_mole(mass) for k, g in given.items()}
    if set(values) == {"temperature", "pressure"}:
        _not_boiling(model, values["temperature"], values["pressure"])
        found = flash_all(model.eos, [values["temperature"]], [values["pressure"]], model.z, context.watch)
        return _told(found, given)
    if "vapour_fraction" in values and ("temperature" in values or "pressure" in values):
        return _on_the_map(fluid, model, values, context, remarks)

    def whole(phases: Phases, keys: Sequence[str]) -> Mapping[str, Array]:
        return evaluate(model.substance, phases, keys).whole

    found_pair = flash_pair(model.eos, model.z, values, whole, context.watch.part(0.0, 0.9))
    if int(found_pair.phases.reason[0]) == Reason.NO_SUCH_STATE:
        raise NoAnswerError(*_out_of_reach(fluid, model, given, values, context))
    if found_pair.others[0]:
        remarks.append(_several(found_pair))
    return _told(found_pair.phases, given)


def _told(found: Phases, given: Mapping[str, Given]) -> Phases:
    """Return a state that was found. Raises NoAnswerError for one that was not."""
    if not bool(found.converged[0]):
        asked = tuple((CONDITIONS[k].title, g.told(k)) for k, g in given.items())
        many = int(found.reason[0]) == Reason.MORE_PHASES
        raise NoAnswerError(Remark("warning", "state.fourth" if many else "state.not_converged", "", {"asked": asked}))
    return found


def _several(found: Found) -> Remark:
    others = tuple((kelvin(T, 2), "and", pascal(P)) for T, P in found.others[0])
    chosen: tuple[Value, ...] = ((kelvin(found.phases.T[0], 2), "and", pascal(found.phases.P[0])),)
    return Remark("warning", "state.several_meet", "", {"chosen": chosen, "others": others})


def _not_boiling(model: FluidModel, T: float, P: float) -> None:
    """Raise NoAnswerError where one component boils at T K and P Pa: they do not fix how much is vapour."""
    there = model.z > 0.0
    if there.sum() != 1:
        return
    boiling = float(saturation_pressure(model.eos.of(there), np.array([[T]]))[0, 0])
    if np.isfinite(boiling) and abs(P / boiling - 1.0) < BOILING:
        values: dict[str, Value] = {"name": model.names[int(np.argmax(there))], "T": kelvin(T, 2), "P": pascal(P)}
        raise NoAnswerError(Remark("warning", "state.boils", "", values))


def _on_the_map(
    fluid: Fluid, model: FluidModel, values: Mapping[str, float], context: Context, remarks: list[Remark]
) -> Phases:
    """Return the state of a vapour fraction at T or P from the traced lines, which tell every solution."""
    T, P, beta = values.get("temperature"), values.get("pressure"), values["vapour_fraction"]
    whole = context.project.map(fluid, (beta,), context.watch.part(0.0, 0.6))
    points = whole.crossings([beta], T=T, P=P)
    if points:
        # A line is traced with two phases; a point of it where a third would form is no state.
        held = not_upset(model.eos, at_points(model.eos, model.z, points), np.full(len(points), beta))
        points = [p for p, good in zip(points, held) if good]
    if not points and model.z.size > 1:
        known = np.array([P if T is None else T])
        found = among_three(
            model.eos, model.z[None], np.array([beta]), known, T is not None, context.watch.part(0.7, 1.0)
        )
        if bool(found.phases.converged[0]):
            if found.others[0]:
                remarks.append(_several(found))
            return found.phases
    if not points:
        at: Value = kelvin(T, 2) if T is not None else pascal(P or 0.0)
        reason = Remark("warning", "state.none", "", {"fraction": beta, "at": at})
        raise NoAnswerError(reason, *_line_ends(whole, beta, T is not None), *whole.remarks)
    point = points[0] if P is None else min(points, key=lambda p: p.T)
    others = tuple((kelvin(p.T, 2), "and", pascal(p.P)) for p in points if p is not point)
    if others:
        remarks.append(Remark("warning", "state.several", "", {"fraction": beta, "others": others}))
    return at_points(model.eos, model.z, [point])


def upset_by_third(model: FluidModel, points: list[SaturationPoint], watch: Watch) -> NDArray[np.bool_]:
    """Tell at which saturation points (n,) another phase has formed before."""
    n = len(points)
    if model.z.size == 1 or n == 0:
        return np.zeros(n, dtype=bool)
    T, P = np.array([p.T for p in points]), np.array([p.P for p in points])
    test = stability(model.eos, T, P, np.tile(model.z, (n, 1)), every_trial=True, watch=watch)
    return np.asarray(test.tm < METASTABLE)


def _line_ends(whole: PhaseMap, beta: float, at_T: bool) -> list[Remark]:
    """Return where the line of a vapour fraction ends on the side of what was given."""
    parts = [p for p in whole.parts if abs(p.beta - beta) < 1e-12 and len(p.u)]
    if not parts:
        return []
    reach = np.exp(np.concatenate([p.u[:, -2 if at_T else -1] for p in parts]))
    low, high = (kelvin(v, 2) if at_T else pascal(v) for v in (reach.min(), reach.max()))
    return [Remark("warning", "state.line_ends", "", {"fraction": beta, "low": low, "high": high})]


def _out_of_reach(
    fluid: Fluid, model: FluidModel, given: Mapping[str, Given], values: Mapping[str, float], context: Context
) -> list[Remark]:
    """Return why no state meets two conditions: what the one goes through where the other is met."""
    held = next((k for k in ("temperature", "pressure", "vapour_fraction") if k in values), None)
    if held is None:
        return [_no_pair(values)]
    key = next(k for k in values if k != held)
    if held == "vapour_fraction":
        states = _along_line(fluid, model, values[held], context)
    else:
        cold = float(coldest(model.eos, model.z[None])[0])
        along = np.geomspace(*(P_RANGE if held == "temperature" else (cold, T_RANGE[1])), REACH)
        known = np.full(REACH, values[held])
        T, P = (known, along) if held == "temperature" else (along, known)
        states = flash_all(model.eos, T, P, model.z, context.watch.part(0.9, 1.0))
    reached = evaluate(model.substance, states, (key,)).whole[key]
    reached = reached[states.converged & np.isfinite(reached)]
    if reached.size == 0:
        return [_no_pair(values)]
    mass = float(model.z @ model.molar_mass)
    low, high = (given[key].told(key, float(v), mass) for v in (reached.min(), reached.max()))
    told: dict[str, Value] = {
        "what": CONDITIONS[key].title,
        "value": given[key].told(key),
        "other": CONDITIONS[held].title,
        "at": given[held].told(held),
        "low": low,
        "high": high,
    }
    dense = held == "temperature" and key == "density" and values[key] > reached.max()
    return [Remark("warning", "state.too_dense" if dense else "state.out_of_reach", "", told)]


def _no_pair(values: Mapping[str, float]) -> Remark:
    return Remark("warning", "state.no_pair", "", {"conditions": " and ".join(CONDITIONS[k].title for k in values)})


def _along_line(fluid: Fluid, model: FluidModel, beta: float, context: Context) -> Phases:
    """Return the states of a traced line, none where there is no line."""
    whole = context.project.map(fluid, (beta,), context.watch.part(0.9, 1.0))
    parts = line_phases(whole, beta)
    return (
        Phases.join(parts) if parts else flash_all(model.eos, [300.0], [1e5], model.z).take(np.empty(0, dtype=np.intp))
    )
