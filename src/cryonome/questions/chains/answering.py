"""The answer of a chain as plain data: its streams, its steps, its balances and loops."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...constants import ATM, T_60F
from ...equilibrium.phases import Kind, Phases
from ...fluids.standard import STANDARD_GAS, rates
from ...fluids.states import with_properties
from ...process import Done, Medium, Outcome
from ...process.chain import Balance
from ...remarks import Remark, Value, measure
from ...results.context import Answer, Context
from ...results.paths import LIMITS, margins_at
from ..giving import part_of
from ..kinds.flash import composition, rates_answer, state_answer
from .computing import Computed, Mixture
from .reading import AskedChain

Array = NDArray[np.float64]

EMPTY_FLOW = 1e-12
"""Flow relative to all feeds below which a stream is told as empty."""
SAME = 1e-10
"""Difference of mole fractions up to which two streams are one fluid."""


def answer_of(computed: Computed, row: int, asked: AskedChain, context: Context) -> Answer:
    """Return the answer of one variant, the place ``row`` among those done."""
    done, mixture = computed.done, computed.mixture
    total = sum(float(done.streams[name].flow[row]) for name in asked.feeds)
    order = _order(asked)
    streams = _streams(done, mixture, row, order, total)
    remarks: list[Remark] = [*computed.remarks]
    if asked.margins:
        remarks += _add_margins(streams, computed, row, asked, context)
    told = [t.of(row) for t in done.told]
    remarks += [r for r in told if r is not None]
    remarks.append(Remark("estimate", "process.standard_liquid"))
    remarks += _loops(done, row)
    return {
        "streams": streams,
        "steps": {s.name: _step(s.kind, done.outcomes[s.name], done.balances[s.name], row) for s in asked.steps},
        "balance": _balance(done.whole, row),
        "recycles": _recycles(done, asked, row),
        "notes": remarks,
    }


def _order(asked: AskedChain) -> list[str]:
    """Return the streams in the order they come: feeds, then what each step gives, in the order of the rows."""
    return [*asked.feeds, *(s for step in asked.steps for s in step.gives)]


def _streams(done: Done, mixture: Mixture, row: int, names: Sequence[str], total: float) -> dict[str, Any]:
    """Return every stream with all its properties, evaluated together."""
    model = mixture.model
    phases = Phases.join([done.streams[n].phases.take(np.array([row])) for n in names])
    states = with_properties(model, phases)
    z = phases.z
    standard = _flashed(mixture, z)
    out: dict[str, Any] = {}
    for i, name in enumerate(names):
        flow = float(done.streams[name].flow[row])
        whole = rates(model, z[i], float(states.values.whole["molar_volume"][i]), flow, "mole")
        if flow <= EMPTY_FLOW * total:
            at = {"temperature_K": float(phases.T[i]), "pressure_Pa": float(phases.P[i])}
            nothing = dict.fromkeys(rates_answer(whole), 0.0)
            out[name] = {**at, "vapour_fraction": None, "phases": [], **nothing}
            continue
        own = state_answer(states, i)
        for phase in own["phases"]:
            x = np.array(list(phase["composition"].values()))
            phase["rates"] = rates_answer(
                rates(model, x, phase["molar_volume_m3_mol"], phase["fraction"] * flow, "mole")
            )
        own["composition"] = composition(model, z[i])
        flashed = {key: volume[i] * flow for key, volume in standard.items()}
        out[name] = {**own, **rates_answer(whole), "flashed": flashed}
    return out


def _flashed(mixture: Mixture, z: Array) -> dict[str, Array]:
    """Return what a mole of each composition (n, nc) gives, flashed once to 60 degF and 1 atm, m3: gas as ideal gas,
    liquid and water as they are."""
    model = mixture.model
    n = len(z)
    medium = Medium(model.eos, model.substance, model.water)
    found = medium.at(np.full(n, T_60F), np.full(n, ATM), z, np.ones(n)).phases
    volume = with_properties(model, found, ("molar_volume",)).values.phase["molar_volume"]
    share = {k: np.where(found.kind == k, found.fraction, 0.0) for k in (Kind.VAPOUR, Kind.LIQUID, Kind.AQUEOUS)}
    held = np.nan_to_num(volume)
    return {
        "standard_gas_m3_s": share[Kind.VAPOUR].sum(axis=-1) * STANDARD_GAS,
        "liquid_m3_s": (share[Kind.LIQUID] * held).sum(axis=-1),
        "water_m3_s": (share[Kind.AQUEOUS] * held).sum(axis=-1),
    }


def _number(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _step(kind: str, outcome: Outcome, balance: Balance, row: int) -> Answer:
    out: Answer = {"step": kind}
    out |= {key: _number(value[row]) for key, value in outcome.numbers.items()}
    for key, values in outcome.series.items():
        name, _, inner = key.partition(".")
        listed = [_number(v) for v in values[row]]
        if inner:
            out.setdefault(name, {})[inner] = listed
        else:
            out[name] = listed
    return {**out, "balance": _balance(balance, row)}


def _balance(balance: Balance, row: int) -> Answer:
    """Return what does not close, relative to what flows, and the entropy that arises, W/K."""
    mass, energy = max(float(balance.mass_flow[row]), 1e-300), max(float(balance.energy_flow[row]), 1e-300)
    return {
        "mass": abs(float(balance.mass[row])) / mass,
        "energy": abs(float(balance.energy[row])) / energy,
        "entropy_W_K": float(balance.entropy[row]),
    }


def _recycles(done: Done, asked: AskedChain, row: int) -> Answer:
    """Return the loops by the stream they were opened at; an exchanger's duty by what the hot side gives."""
    out: Answer = {}
    for recycle in done.recycles:
        step = next((s for s in asked.steps if s.name == recycle.step), None)
        name = recycle.torn or (step.gives[0] if step is not None else recycle.step)
        opened = "stream" if recycle.torn else f"duty of {recycle.step}"
        out[name] = {"iterations": recycle.iterations, "residual": float(recycle.residual[row]), "opened": opened}
    return out


def _loops(done: Done, row: int) -> list[Remark]:
    return [
        Remark(
            "correction", "process.loop" if r.torn else "process.loop_duty", "",
            {"name": r.torn or r.step, "rounds": r.iterations, "residual": float(r.residual[row])},
        )
        for r in done.recycles
    ]  # fmt: skip


MARGINS = {
    "hydrate": "hydrate_margin_K",
    "ice": "ice_margin_K",
    "frost": "frost_margin_K",
    "dew": "dew_margin_K",
    "water": "water_margin_K",
    "bubble": "bubble_margin_Pa",
}
"""Keys of margins by their limit."""


def _add_margins(
    streams: Mapping[str, Any], computed: Computed, row: int, asked: AskedChain, context: Context
) -> list[Remark]:
    """Add to each stream how far it is from the limits of its own fluid; return what is assumed and what is passed."""
    done, mixture, project = computed.done, computed.mixture, context.project
    groups = alike(done, mixture, row, [n for n, s in streams.items() if s["phases"]])
    remarks: list[Remark] = []
    for i, (z, names) in enumerate(groups):
        fed = next((f for f, own in mixture.z.items() if np.abs(own - z).max() < SAME), None)
        if fed is not None:
            fluid = context.fluid(fed)
        else:
            fluid = part_of(mixture.source, mixture.model, composition(mixture.model, z), "")
        T, P = (np.array([streams[n][k] for n in names]) for k in ("temperature_K", "pressure_Pa"))
        margins, told = margins_at(project, fluid, T, P, (), context.watch.part(i / len(groups), (i + 1) / len(groups)))
        remarks += [r for r in told if r not in remarks]
        for k, name in enumerate(names):
            streams[name]["margins"] = {key: _number(margins[limit][k]) for limit, key in MARGINS.items()}
    return [*remarks, *_passed(streams)]


def alike(done: Done, mixture: Mixture, row: int, names: Sequence[str]) -> list[tuple[Array, list[str]]]:
    """Return streams of one composition together."""
    groups: list[tuple[Array, list[str]]] = []
    for name in names:
        z = done.streams[name].z[row]
        group = next((g for g in groups if np.abs(g[0] - z).max() < SAME), None)
        if group is None:
            groups.append((z, [name]))
        else:
            group[1].append(name)
    return groups


def _passed(streams: Mapping[str, Any]) -> list[Remark]:
    """Return where hydrate, ice or solid carbon dioxide is to be expected, the worst stream of each."""
    out = []
    for limit in LIMITS:
        if not limit.hazard:
            continue
        key = MARGINS[limit.key]
        found = {n: s["margins"][key] for n, s in streams.items() if s.get("margins") and s["margins"][key] is not None}
        inside = sorted((n for n, v in found.items() if v < 0.0), key=lambda n: float(found[n] or 0.0))
        if inside:
            values: dict[str, Value] = {
                "limit": limit.title, "name": inside[0], "by": measure(-float(found[inside[0]] or 0.0), "temperature_difference", 1),
                "others": len(inside) - 1,
            }  # fmt: skip
            out.append(Remark("warning", "process.passed" if len(inside) == 1 else "process.passed_more", "", values))
    return out
