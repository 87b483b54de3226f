"""Answers that take every kernel, of fluids small enough to be solved without a compiler: ``python plain_answers.py``
prints them as JSON."""

from __future__ import annotations

import json
import sys

import cryonome

GAS = [("methane", 70), ("propane", 20), ("n-decane", 10)]
WET = [("methane", 80), ("n-butane", 10), ("water", 10)]
SOLVENT = [("methane", 60), ("methanol", 10), ("water", 30)]


def fluid(name: str, parts: list[tuple[str, float]], **model: object) -> dict[str, object]:
    return {"name": name, "parts": [{"component": c, "amount": a} for c, a in parts], "model": model}


def flash(name: str, of: str, **conditions: str) -> dict[str, object]:
    return {"name": name, "kind": "flash", "fluid": of, **conditions}


DOCUMENT = {
    "format": "cryonome/1",
    "fluids": [
        fluid("gas", GAS), fluid("wet", WET), fluid("binary", [("methane", 60), ("propane", 40)], eos="SRK"),
        fluid("solvent", SOLVENT, eos="CPA"), fluid("chains", GAS, eos="PC-SAFT"),
        fluid("wet gas", [("methane", 85), ("ethane", 5), ("water", 10)]),
        fluid("cold gas", [("methane", 90), ("carbon dioxide", 8), ("ethane", 2)]),
    ],
    "studies": [
        flash("two phases", "gas", temperature="300 K", pressure="50 bar"),
        flash("by enthalpy", "gas", pressure="30 bar", enthalpy="-3 kJ/mol"),
        flash("by volume", "gas", temperature="320 K", density="120 kg/m3"),
        flash("three phases", "wet", temperature="260 K", pressure="60 bar"),
        flash("bonds", "solvent", temperature="290 K", pressure="40 bar"),
        flash("chains", "chains", temperature="300 K", pressure="50 bar"),
        {"name": "saturation", "kind": "saturation", "fluid": "gas", "temperature": "310 K"},
        {"name": "envelope", "kind": "envelope", "fluid": "binary"},
        {"name": "hydrates", "kind": "hydrate", "fluid": "wet gas", "pressures": ["40 bar"]},
        {"name": "content", "kind": "water_content", "fluid": "cold gas", "temperatures": ["290 K"], "pressures": ["60 bar"]},
        {"name": "isotherms", "kind": "isotherms", "fluid": "binary", "temperatures": ["300 K"]},
        {"name": "train", "kind": "process", "feeds": {"feed": {"fluid": "binary", "temperature": "300 K", "pressure": "40 bar", "rate": "10 kg/s"},
                                                       "warm": {"fluid": "binary", "temperature": "340 K", "pressure": "40 bar", "rate": "8 kg/s"}},
         "steps": [{"name": "valve", "step": "valve", "from": "feed", "to": "cold", "pressure": "20 bar"},
                   {"name": "gas-gas", "step": "exchanger", "hot_from": "warm", "hot_to": "cooled", "cold_from": "cold", "cold_to": "out", "hot_temperature": "320 K"}]},
    ],
}  # fmt: skip


def answers() -> dict[str, object]:
    """Return the answers of the document."""
    project = cryonome.open(json.dumps(DOCUMENT))
    return {s.name: project.answer(s.name) for s in project.document.studies}


if __name__ == "__main__":
    json.dump(answers(), sys.stdout)
