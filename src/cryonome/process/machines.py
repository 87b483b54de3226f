"""Compressors, expanders and pumps of real fluids.

Heads and efficiencies as ISO 5389 and ASME PTC 10 define them: the polytropic head is the integral of v dP along the
path of constant polytropic efficiency (:mod:`.polytropic`), the isentropic head the rise of enthalpy at constant
entropy to the same pressure. Exponents are those of volume between the ends, ln(P2/P1)/ln(v1/v2). Power at the shaft
is that on the fluid over the mechanical efficiency, in an expander times it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.phases import Kind
from ..remarks import Value
from .medium import Medium, Stream
from .polytropic import SEGMENTS, follow
from .steps import Doing, Each, Outcome, Step, StepKind, Told, nothing, per_mole, register

Array = NDArray[np.float64]

HOT = 423.15
"""K. Discharge above which a compressor is told of, unless its step says another limit."""
MOST_PRESSURE = 1e9
COARSE = 4
"""Segments of a path that is only on the way to another."""
TRACE = 1e-4
"""Mole fraction of a second phase that is told of at a machine's suction."""


@dataclass(frozen=True)
class _End:
    """A machine's end: its outlet, the work on the fluid and both heads (N,) J/mol, both efficiencies (N,)."""

    outlet: Stream
    isentropic_outlet: Stream
    work: Array
    isentropic: Array
    polytropic: Array
    eta_s: Array
    eta_p: Array


def _pressure(step: Step, inlet: Stream, doing: Doing) -> Array | None:
    """Return the outlet's pressure (N,) Pa, None where a power is given. Raises StepFault for one on the wrong
    side."""
    expanding = step.kind == "expander"
    if "ratio" in step.numbers:
        ratio = step.number("ratio")
        up = np.maximum(ratio, 1.0 / ratio) if expanding else ratio
        doing.refuse(up <= 1.0, f"process.{step.kind}_ratio", step=step.name, ratio=Each(ratio, ""))
        P2 = inlet.P / up if expanding else inlet.P * up
    elif "pressure" in step.numbers:
        P2 = step.number("pressure")
    else:
        return None
    wrong = P2 > inlet.P if expanding else P2 < inlet.P
    doing.refuse(
        wrong, f"process.{step.kind}_pressure", step=step.name, P=Each(P2, "pressure"), inlet=Each(inlet.P, "pressure")
    )
    doing.refuse(P2 > MOST_PRESSURE, "process.too_high", step=step.name, P=Each(P2, "pressure"))
    return np.asarray(np.where(wrong, inlet.P, P2))


def _isentropic(medium: Medium, inlet: Stream, P2: Array, expanding: bool) -> Stream:
    cp, alpha = inlet.whole["heat_capacity_p"], inlet.whole["thermal_expansion"]
    with np.errstate(invalid="ignore", divide="ignore", over="ignore"):
        # dT/dP at constant entropy is T v alpha / cp; a power of pressure in gases, straight in liquids.
        slope = inlet.v * alpha * inlet.P / cp
        near = np.where(
            alpha * inlet.T > 0.5,
            inlet.T * (P2 / inlet.P) ** slope,
            inlet.T * (1.0 + slope * (P2 / inlet.P - 1.0)),
        )
    near = np.where(np.isfinite(near), np.clip(near, 60.0, 1400.0), inlet.T)
    return medium.with_entropy(P2, inlet.s, inlet.z, inlet.flow, near)


def _end(step: Step, inlet: Stream, P2: Array, doing: Doing) -> _End:
    """Return the end of a machine at P2 Pa (N,) with its efficiency."""
    medium, expanding = doing.medium, step.kind == "expander"
    eta = step.number("efficiency", 0.75)
    s = doing.sound(step, _isentropic(medium, inlet, P2, expanding), inlet)
    ideal = s.h - inlet.h
    if step.words.get("efficiency_kind", "polytropic") == "polytropic":
        path = follow(medium, inlet, P2, eta if expanding else 1.0 / eta, doing.watch)
        doing.refuse(~path.found, "process.no_path", step=step.name, P=Each(P2, "pressure"))
        outlet, head, eta_p = path.outlet, path.head, eta * np.ones_like(P2)
        work = path.work
        eta_s = _ratio(work, ideal) if expanding else _ratio(ideal, work)
    else:
        work = ideal * eta if expanding else ideal / eta
        outlet = medium.with_enthalpy(P2, inlet.h + work, inlet.z, inlet.flow, s.T)
        outlet = doing.sound(step, outlet, s)
        eta_s = eta * np.ones_like(P2)
        eta_p, head = _polytropic_of(medium, inlet, P2, work, eta_s, expanding, doing)
    return _End(outlet, s, work, ideal, head, eta_s, eta_p)


def _ratio(a: Array, b: Array) -> Array:
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(np.where(b == 0.0, np.nan, a / b))


def _polytropic_of(
    medium: Medium, inlet: Stream, P2: Array, work: Array, eta: Array, expanding: bool, doing: Doing
) -> tuple[Array, Array]:
    """Return the polytropic efficiency and head (N,) of a machine that does ``work`` J/mol, by secants from the
    isentropic efficiency."""
    x = 1.0 / eta if not expanding else eta.copy()
    last: tuple[Array, Array] | None = None
    head = np.zeros_like(P2)
    scale = np.maximum(np.abs(work), 1e-9)
    finest = SEGMENTS[-1]
    for _ in range(12):
        path = follow(medium, inlet, P2, x, doing.watch, finest)
        if path.slow and last is None:
            # A path that boils is costly: few segments lead there, all of them end it.
            finest = COARSE
        head, f = path.head, path.work - work
        # Along a path that boils the work is known to a millionth.
        if (np.abs(f) < np.where(path.off > 1e-8, 1e-6, 1e-9) * scale).all():
            break
        with np.errstate(invalid="ignore", divide="ignore"):
            slope = head if last is None else (f - last[1]) / (x - last[0])
            step = np.where(np.abs(f) < 1e-12 * scale, 0.0, -f / slope)
        last = x, f
        x = x + np.nan_to_num(np.clip(step, -0.3 * x, 0.3 * x))
    if finest == COARSE:
        path = follow(medium, inlet, P2, x, doing.watch)
        x, head = x * np.where(path.head == 0.0, 1.0, work / path.work), path.head
    return (x if expanding else 1.0 / x), head


def _by_power(step: Step, inlet: Stream, work: Array, doing: Doing) -> Array:
    """Return the pressure (N,) Pa where ``work`` (N,) J/mol is done, by Newton's method in ln P: along the path d h =
    m v P d ln P."""
    expanding = step.kind == "expander"
    eta = step.number("efficiency", 0.75)
    polytropic = step.words.get("efficiency_kind", "polytropic") == "polytropic"
    m = eta if expanding else 1.0 / eta
    lnr = np.clip(work / (m * inlet.P * inlet.v), -3.0, 3.0)
    for _ in range(40):
        P2 = inlet.P * np.exp(lnr)
        if polytropic:
            path = follow(doing.medium, inlet, P2, m, doing.watch)
            done, slope = path.work, m * path.outlet.v * P2
        else:
            s = _isentropic(doing.medium, inlet, P2, expanding)
            done, slope = m * (s.h - inlet.h), m * s.v * P2
        with np.errstate(invalid="ignore", divide="ignore"):
            move = np.clip((work - done) / slope, -1.0, 1.0)
        bad = ~np.isfinite(move)
        move = np.where(bad, -0.5 * lnr, move)
        lnr = lnr + move
        beyond = (inlet.P * np.exp(lnr) < 100.0) | (inlet.P * np.exp(lnr) > MOST_PRESSURE)
        doing.refuse(beyond, "process.power", step=step.name, power=Each(np.abs(step.number("power")), "power"))
        lnr = np.where(beyond, 0.0, lnr)
        if (np.abs(move) < 1e-11).all():
            break
    return np.asarray(inlet.P * np.exp(lnr))


def _one(step: Step, inlet: Stream, doing: Doing) -> _End:
    mechanical, expanding = step.number("mechanical_efficiency", 1.0), step.kind == "expander"
    P2 = _pressure(step, inlet, doing)
    if P2 is None:
        power = np.abs(step.number("power"))
        work = -power / mechanical if expanding else power * mechanical
        P2 = _by_power(step, inlet, per_mole(work, inlet.flow), doing)
    return _end(step, inlet, P2, doing)


def _exponent(inlet: Stream, outlet: Stream) -> Array:
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(np.log(outlet.P / inlet.P) / np.log(inlet.v / outlet.v))


def run(step: Step, inlets: Sequence[Stream], doing: Doing) -> Outcome:
    """Do a machine's step, stage by stage where it has several."""
    inlet = inlets[0]
    stages = round(float(np.max(step.number("stages", 1.0))))
    told = list(_suction(step, inlet))
    if stages == 1:
        ends, suctions, cooled = [_one(step, inlet, doing)], [inlet], nothing(inlet)
    else:
        ends, suctions, cooled = _staged(step, inlet, stages, doing)
        told += [t for s in suctions[1:] for t in _suction(step, s)]
    outlet, flow = ends[-1].outlet, inlet.flow
    mass = doing.medium.mass(inlet.z)
    work = sum((e.work for e in ends), nothing(inlet))
    ideal = sum((e.isentropic for e in ends), nothing(inlet))
    head = sum((e.polytropic for e in ends), nothing(inlet))
    expanding, mechanical = step.kind == "expander", step.number("mechanical_efficiency", 1.0)
    gas = work * flow
    numbers = {
        "power_W": gas,
        "shaft_power_W": gas * mechanical if expanding else gas / mechanical,
        "isentropic_head_J_kg": ideal / mass,
        "polytropic_head_J_kg": head / mass,
        "isentropic_efficiency": _ratio(work, ideal) if expanding else _ratio(ideal, work),
        "polytropic_efficiency": _ratio(work, head) if expanding else _ratio(head, work),
        "inlet_actual_m3_s": flow * inlet.v,
        "ratio": inlet.P / outlet.P if expanding else outlet.P / inlet.P,
        "outlet_temperature_K": outlet.T,
        "isentropic_exponent": _exponent(inlet, ends[0].isentropic_outlet),
        "polytropic_exponent": _exponent(inlet, ends[0].outlet),
    }
    series: dict[str, Array] = {}
    if stages > 1:
        numbers["cooling_W"] = cooled
        series = {
            "stage_suction_K": np.stack([s.T for s in suctions], axis=-1),
            "stage_pressure_Pa": np.stack([e.outlet.P for e in ends], axis=-1),
            "stage_discharge_K": np.stack([e.outlet.T for e in ends], axis=-1),
            "stage_power_W": np.stack([e.work * flow for e in ends], axis=-1),
        }
    if step.kind == "compressor":
        limit = step.number("discharge_limit", HOT) * np.ones_like(outlet.T)
        hottest = np.max([e.outlet.T for e in ends], axis=0)
        values: dict[str, Value | Each] = {
            "step": step.name, "T": Each(hottest, "temperature", 1), "limit": Each(limit, "temperature", 1),
        }  # fmt: skip
        told.append(Told("warning", "process.discharge_hot", hottest > limit, values))
    return Outcome((outlet.flowing(flow),), -cooled, gas, numbers, series, tuple(told))


def _staged(step: Step, inlet: Stream, stages: int, doing: Doing) -> tuple[list[_End], list[Stream], Array]:
    """Return the ends of stages of equal ratio, their suctions, and the heat (N,) W that coolers between them take
    out down to ``stage_temperature``, that of the inlet where none is given."""
    P2 = _pressure(step, inlet, doing)
    assert P2 is not None
    drop = step.number("stage_drop", 0.0)
    cold = step.number("stage_temperature", inlet.T) * np.ones_like(inlet.T)
    ratio = (P2 / inlet.P) ** (1.0 / stages)
    ends: list[_End] = []
    suctions: list[Stream] = []
    cooled, here = nothing(inlet), inlet
    single = replace(step, numbers={k: v for k, v in step.numbers.items() if k not in ("ratio", "pressure")})
    for k in range(stages):
        # Each stage makes up for what the cooler before it lost, so that the last ends where it should.
        target = P2 if k == stages - 1 else inlet.P * ratio ** (k + 1)
        doing.refuse(target < here.P, "process.stage_drop", step=step.name, drop=Each(drop, "pressure_difference"))
        end = _end(single, here, target, doing)
        ends.append(end)
        suctions.append(here)
        if k < stages - 1:
            out = end.outlet
            doing.refuse(
                cold > out.T, "process.stage_temperature", step=step.name, T=Each(cold, "temperature", 1),
                there=Each(out.T, "temperature", 1),
            )  # fmt: skip
            here = doing.sound(step, doing.medium.at(cold, out.P - drop, out.z, out.flow, doing.watch), out)
            cooled = cooled + (out.h - here.h) * out.flow
    return ends, suctions, cooled


def _suction(step: Step, inlet: Stream) -> list[Told]:
    """Say where a machine sucks what it is not made for."""
    liquid = 1.0 - inlet.share(Kind.VAPOUR)
    values: dict[str, Value | Each] = {
        "step": step.name,
        "T": Each(inlet.T, "temperature", 1),
        "P": Each(inlet.P, "pressure"),
    }
    there = inlet.flow > 0.0
    if step.kind == "pump":
        share = Each(100.0 * (1.0 - liquid), "")
        return [Told("warning", "process.pump_vapour", there & (liquid < 1.0 - TRACE), {**values, "share": share})]
    if step.kind == "expander":
        return []
    share = Each(100.0 * liquid, "")
    return [Told("warning", "process.suction_liquid", there & (liquid > TRACE), {**values, "share": share})]


_MACHINE = ("efficiency", "mechanical_efficiency")
_WORDS = {"efficiency_kind": ("polytropic", "isentropic")}
register(
    StepKind(
        "compressor", "presses a gas to a pressure, by a ratio or with a power at the shaft", run, ("pressure", "ratio", "power"),
        (*_MACHINE, "stages", "stage_temperature", "stage_drop", "discharge_limit"), _WORDS,
    )
)  # fmt: skip
register(
    StepKind(
        "expander", "lets a gas down and takes work from it", run, ("pressure", "ratio", "power"), _MACHINE, _WORDS,
    )
)  # fmt: skip
register(
    StepKind(
        "pump", "presses a liquid to a pressure, by a ratio or with a power at the shaft", run, ("pressure", "ratio", "power"),
        _MACHINE, _WORDS,
    )
)  # fmt: skip
