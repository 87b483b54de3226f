"""Streams and steps of a chain as tables in the reader's units."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..units import format_number
from .sentences import Units
from .table_blocks import Block, of_key

STREAMS = (
    ("temperature", "temperature_K"),
    ("pressure", "pressure_Pa"),
    ("phases", ""),
    ("gas", "rates.standard_gas_m3_s"),
    ("liquid", "rates.standard_liquid_m3_s"),
    ("water", "rates.standard_liquid_m3_s"),
    ("to hydrate", "margins.hydrate_margin_K"),
    ("to ice", "margins.ice_margin_K"),
    ("to solid CO2", "margins.frost_margin_K"),
    ("to dew", "margins.dew_margin_K"),
    ("to water", "margins.water_margin_K"),
    ("to bubble", "margins.bubble_margin_Pa"),
    ("whole", "mole_mol_s"),
    ("mass", "mass_kg_s"),
    ("actual volume", "actual_m3_s"),
    ("molar mass", "molar_mass_g_mol"),
    ("vapour fraction", "vapour_fraction"),
    ("density", "density_kg_m3"),
    ("enthalpy", "enthalpy_J_mol"),
    ("entropy", "entropy_J_mol_K"),
    ("flashed gas", "flashed.standard_gas_m3_s"),
    ("flashed liquid", "flashed.liquid_m3_s"),
    ("flashed water", "flashed.water_m3_s"),
)
"""Columns of the table of streams, by the key in a stream's answer; of phases by the phase."""

PHASES = {"gas": "vapour", "liquid": "liquid", "water": "aqueous"}
LETTERS = {"vapour": "V", "liquid": "L", "aqueous": "A"}
USUAL = ("temperature", "pressure", "phases", "gas", "liquid", "water", "to hydrate")
"""Columns shown before others are chosen."""
FREEZES = 250.0
"""K. From there down the margin to solid carbon dioxide is worth a column."""

SAID = {
    "outlet_temperature_K": "Discharge temperature", "polytropic_head_J_kg": "Polytropic head", "isentropic_head_J_kg": "Isentropic head",
    "polytropic_efficiency": "Polytropic efficiency", "isentropic_efficiency": "Isentropic efficiency", "power_W": "Power on the fluid",
    "shaft_power_W": "Shaft power", "inlet_actual_m3_s": "Inlet flow, actual", "ratio": "Ratio of pressures",
    "isentropic_exponent": "Isentropic exponent of volume", "polytropic_exponent": "Polytropic exponent of volume",
    "cooling_W": "Removed between stages", "duty_W": "Duty", "temperature_change_K": "Change of temperature",
    "pressure_drop_Pa": "Loss of pressure", "lmtd_K": "Logarithmic mean of the ends", "mean_difference_K": "Mean difference over the duty",
    "ua_W_K": "UA", "least_approach_K": "Least approach", "least_approach_share": "Where, of the duty", "hot_outlet_K": "Hot outlet",
    "cold_outlet_K": "Cold outlet", "vapour_fraction": "Vapour, by mole", "liquid_fraction": "Liquid, by mole",
    "aqueous_fraction": "Water, by mole",
}  # fmt: skip
"""What the numbers of a step are called, in their order."""
PERCENT = (
    "polytropic_efficiency",
    "isentropic_efficiency",
    "least_approach_share",
    "vapour_fraction",
    "liquid_fraction",
    "aqueous_fraction",
)


def stream_block(answer: Mapping[str, Any], units: Units) -> Block:
    """Return the streams, a row each; of gas, liquid and water standard volumes of the phase."""
    units = units.of_states()
    there = _columns(answer["streams"])
    heads = [("stream", "")]
    for title, key in there:
        heads.append((title, "" if not key else of_key(key, units).head[1]))
    rows, paths = [], []
    for name, stream in answer["streams"].items():
        cells, own = [name], [""]
        for title, key in there:
            text, path = _cell(stream, title, key, units)
            cells.append(text)
            own.append(f"streams.{name}.{path}" if path else "")
        rows.append(cells)
        paths.append(own)
    return Block("", heads, rows, paths)


def _columns(streams: Mapping[str, Any]) -> list[tuple[str, str]]:
    """Return the columns that hold anything."""
    cold = any(s["temperature_K"] < FREEZES for s in streams.values())
    out = []
    for title, key in STREAMS:
        if title == "to solid CO2" and not cold:
            continue
        kind = PHASES.get(title)
        if kind is not None and not any(p["kind"] == kind for s in streams.values() for p in s["phases"]):
            continue
        if key.startswith("margins.") and not any(
            (s.get("margins") or {}).get(key.partition(".")[2]) is not None for s in streams.values()
        ):
            continue
        out.append((title, key))
    return out


def _cell(stream: Mapping[str, Any], title: str, key: str, units: Units) -> tuple[str, str]:
    """Return what stands in a cell, and the path of it in the stream's answer."""
    if title == "phases":
        return " ".join(LETTERS[p["kind"]] for p in stream["phases"]) or "none", ""
    kind = PHASES.get(title)
    if kind is not None:
        places = [i for i, p in enumerate(stream["phases"]) if p["kind"] == kind]
        if not places:
            return "", ""
        value = sum(stream["phases"][i]["rates"][key.partition(".")[2]] for i in places)
        return of_key(key, units).text(value), f"phases[{places[0]}].{key}" if len(places) == 1 else ""
    found: Any = stream
    for step in key.split("."):
        found = found.get(step) if isinstance(found, Mapping) else None
    if found is None:
        return "", ""
    if "margin" in key:
        return f"{of_key(key, units).plain(found):.1f}".replace("-", "−"), key
    if key in ("temperature_K", "pressure_Pa"):
        shown = of_key(key, units)
        return f"{shown.plain(found):.1f}".replace("-", "−") if key == "temperature_K" else format_number(
            shown.plain(found), 4
        ), key
    return of_key(key, units).text(found), key


def step_block(name: str, step: Mapping[str, Any], units: Units) -> Block:
    """Return a step's numbers: what it is, the number and its unit."""
    units = units.of_states()
    rows, paths = [], []
    for key, words in SAID.items():
        value = step.get(key)
        if value is None:
            continue
        shown = of_key(key, units)
        unit = shown.head[1]
        if key == "duty_W" and step["step"] != "exchanger":
            words = "Heat added to the fluid" if value >= 0.0 else "Heat removed from the fluid"
            value = abs(value)
        if key == "duty_W" and step["step"] == "separator" and value == 0.0:
            continue
        text = format_number(100.0 * value, 4) if key in PERCENT else shown.short(value)
        rows.append([words, text, "%" if key in PERCENT else unit])
        paths.append(["", f"steps.{name}.{key}", ""])
    balance = step["balance"]
    rows.append(
        [
            "Entropy that arises",
            of_key("entropy_W_K", units).short(balance["entropy_W_K"]),
            of_key("entropy_W_K", units).head[1],
        ]
    )
    paths.append(["", f"steps.{name}.balance.entropy_W_K", ""])
    return Block("", [("", ""), ("", ""), ("", "")], rows, paths)


def stage_block(name: str, step: Mapping[str, Any], units: Units) -> Block | None:
    """Return the stages of a machine, None where it has one."""
    if "stage_power_W" not in step:
        return None
    units = units.of_states()
    keys = ("stage_suction_K", "stage_discharge_K", "stage_pressure_Pa", "stage_power_W")
    heads = [("stage", ""), *((k.partition("_")[2].rpartition("_")[0], of_key(k, units).head[1]) for k in keys)]
    rows = [
        [str(i + 1), *(of_key(k, units).short(step[k][i]) for k in keys)] for i in range(len(step["stage_power_W"]))
    ]
    paths = [["", *(f"steps.{name}.{k}[{i}]" for k in keys)] for i in range(len(rows))]
    return Block("stages", heads, rows, paths)


def chain_blocks(answer: Mapping[str, Any], units: Units) -> list[Block]:
    """Return a chain's answer: its streams, then every step's numbers, its stages and its loops."""
    out = [stream_block(answer, units)]
    out[0] = Block("streams", out[0].columns, out[0].rows, out[0].paths)
    for name, step in answer["steps"].items():
        block = step_block(name, step, units)
        out.append(Block(f"{name}, {step['step']}", block.columns, block.rows, block.paths))
        stages = stage_block(name, step, units)
        if stages is not None:
            out.append(stages)
    if answer["recycles"]:
        heads = [("loop opened at", ""), ("what", ""), ("rounds", ""), ("residual", "")]
        rows = [[n, r["opened"], str(r["iterations"]), f"{r['residual']:.1e}"] for n, r in answer["recycles"].items()]
        out.append(Block("loops", heads, rows))
    return out
