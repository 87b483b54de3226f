"""The lab reports of the demo project, invented: what a hidden, slightly different model gives, with noise, as a laboratory would write it.

Run it to write them into the demo anew: ``.venv/bin/python scripts/demo_reports.py``. One number of the crude's expansion is mistyped on purpose, so
that a check has something to find.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np

import cryonome.demo
from cryonome.demo import demo_document
from cryonome.document import Document, document_text, parse_document
from cryonome.document.kinds import study_kinds
from cryonome.document.model import TunedChange, Tuning
from cryonome.fluids.tuned import base_of
from cryonome.matching.fitting import with_tuning
from cryonome.matching.parameters import places
from cryonome.questions.solving import solve
from cryonome.results import Evaluator
from cryonome.units import from_si

FILE = Path(cryonome.demo.__file__).parent / "varnholt-hub.cryo"
KINDS = (
    "expansion",
    "depletion",
    "liberation",
    "separators",
    "swelling",
    "viscosity",
    "match",
    "black_oil",
    "separator_optimum",
    "lumping",
)
HIDDEN = {
    "Quillmoor reservoir gas": (("Tc", (), 0.983), ("Pc", (), 0.96), ("shift", (), 0.75), ("viscosity", (), 1.12)),
    "Varnholt recombined": (
        ("Tc", (), 1.012),
        ("kij_factor", ("methane",), 1.22),
        ("shift", (), 0.86),
        ("viscosity", (), 1.35),
    ),
}
"""What the hidden model differs in: property of the heavy ends, partners, value."""
STUDIES: list[dict[str, Any]] = [
    {"name": "Quillmoor dew points", "kind": "saturation", "fluid": "Quillmoor reservoir gas", "temperature": "90 degC"},
    {"name": "Quillmoor expansion", "kind": "expansion", "fluid": "Quillmoor reservoir gas", "temperature": "118 degC",
     "pressures": ["480 bar", "430 bar", "390 bar", "360 bar", "345 bar", "320 bar", "280 bar", "230 bar", "180 bar", "130 bar", "90 bar"]},
    {"name": "Quillmoor depletion", "kind": "depletion", "fluid": "Quillmoor reservoir gas", "temperature": "118 degC",
     "pressures": ["300 bar", "250 bar", "200 bar", "150 bar", "100 bar", "50 bar"]},
    {"name": "Quillmoor separators", "kind": "separators", "fluid": "Quillmoor reservoir gas", "temperature": "118 degC",
     "stages": [{"temperature": "35 degC", "pressure": "60 bar"}, {"temperature": "60 degF", "pressure": "1 atm"}]},
    {"name": "Varnholt bubble point, cold", "kind": "saturation", "fluid": "Varnholt recombined", "temperature": "60 degC"},
    {"name": "Varnholt expansion", "kind": "expansion", "fluid": "Varnholt recombined", "temperature": "92 degC",
     "pressures": ["350 bar", "300 bar", "260 bar", "230 bar", "190 bar", "170 bar", "150 bar", "130 bar", "110 bar", "90 bar", "70 bar", "50 bar"]},
    {"name": "Varnholt liberation", "kind": "liberation", "fluid": "Varnholt recombined", "temperature": "92 degC",
     "pressures": ["300 bar", "250 bar", "180 bar", "140 bar", "100 bar", "60 bar", "30 bar", "10 bar", "1 atm"]},
    {"name": "Varnholt separators", "kind": "separators", "fluid": "Varnholt recombined", "temperature": "92 degC",
     "stages": [{"temperature": "55 degC", "pressure": "19 bar"}, {"temperature": "40 degC", "pressure": "4 bar"}, {"temperature": "60 degF", "pressure": "1 atm"}]},
    {"name": "Varnholt swelling", "kind": "swelling", "fluid": "Varnholt recombined", "gas": "Selden gas", "temperature": "92 degC", "gas_moles": [0.1, 0.25, 0.5]},
    {"name": "Varnholt viscosity", "kind": "viscosity", "fluid": "Varnholt recombined", "temperature": "92 degC",
     "pressures": ["350 bar", "275 bar", "200 bar", "150 bar", "80 bar", "20 bar"]},
]  # fmt: skip
READ: dict[str, dict[str, tuple[float, str]]] = {
    "saturation": {},
    "expansion": {"relative_volume": (0.002, "4"), "saturation.pressure_Pa": (0.006, "bar"), "density_kg_m3": (0.002, "kg/m**3")},
    "depletion": {"liquid_volume_fraction": (0.015, "pct"), "produced_mole_fraction": (0.006, "pct"), "Z_gas": (0.004, "4")},
    "liberation": {"oil_volume_factor": (0.004, "3"), "solution_gas_m3_m3": (0.008, "ratio"), "oil_density_kg_m3": (0.002, "kg/m**3"),
                   "oil_viscosity_Pa_s": (0.025, "cP"), "gas_gravity": (0.008, "3"), "residual_density_kg_m3": (0.001, "kg/m**3")},
    "separators": {"gas_oil_ratio_m3_m3": (0.01, "ratio"), "gas_gravity": (0.006, "3"), "api": (0.004, "1"), "oil_volume_factor": (0.004, "3")},
    "viscosity": {"viscosity_Pa_s": (0.02, "cP")},
    "swelling": {"saturation_pressure_Pa": (0.006, "bar"), "swelling_factor": (0.002, "4")},
}  # fmt: skip
"""What a report of a kind holds, with its noise and how it is written."""


def written(value: float, how: str) -> object:
    """Return a value as a report holds it."""
    if how == "bar":
        return f"{value / 1e5:.1f} bar"
    if how == "kg/m**3":
        return f"{value:.1f} kg/m3"
    if how == "cP":
        return f"{1e3 * value:.3g} cP"
    if how == "pct":
        return f"{100 * value:.2f} %"
    if how == "ratio":
        return f"{from_si(value / 0.0236448599, 'sm3/m**3', 'gas_oil_ratio'):.1f} sm3/m3"
    return round(value, int(how))


def _from_saturation(
    study: dict[str, Any], measured: dict[str, Any], answer: dict[str, Any], hidden: Document
) -> dict[str, Any]:
    """Return a depletion whose first row is the saturation point, with Z there, as reports begin; its measured columns get that row."""
    P = answer["saturation"]["pressure_Pa"]
    cell = study_kinds()["expansion"].model(
        name="x", kind="expansion", fluid=study["fluid"], temperature=study["temperature"], pressures=(P,)
    )
    Z = solve(hidden.model_copy(update={"studies": (cell,)}))["answers"]["x"]["rows"][0]["Z"]
    first = {"liquid_volume_fraction": "0.00 %", "produced_mole_fraction": "0.00 %", "Z_gas": round(Z, 4)}
    for key, values in measured.items():
        measured[key] = [first.get(key), *values]
    return {**study, "pressures": [f"{P / 1e5:.1f} bar", *study["pressures"]]}


def main() -> None:
    """Write the reports into the demo project."""
    document = demo_document()
    kept = [s for s in document.studies if s.kind not in KINDS and s.name not in [n["name"] for n in STUDIES]]
    whole = json.loads(document_text(document.model_copy(update={"studies": tuple(kept)})))
    asked = parse_document(json.dumps({**whole, "studies": STUDIES}))
    fluids = []
    for fluid in asked.fluids:
        if fluid.name in HIDDEN:
            project = Evaluator().at(asked)
            model = project.fluid(fluid)
            reading = project.read_fluid(fluid).fluid
            assert reading is not None
            base = base_of(reading.model, model.components, model.z, model.pairs)
            heavy = tuple(model.components[i].identity for i in places(base, ("heavy",)))
            changes = tuple(
                TunedChange(property=p, components=heavy, partners=w, value=v) for p, w, v in HIDDEN[fluid.name]
            )
            fluid = with_tuning(fluid, Tuning(changes=changes))
        fluids.append(fluid)
    answers = solve(asked.model_copy(update={"fluids": tuple(fluids)}))["answers"]
    rng = np.random.default_rng(20)
    out = []
    for study in STUDIES:
        answer = answers[study["name"]]
        assert answer["ok"], answer
        measured: dict[str, object] = {}
        for key, (noise, how) in READ[study["kind"]].items():
            rows = answer.get("rows", [])
            if rows and key in rows[0]:
                values = [
                    None if (v := r[key]) is None else written(v * (1 + noise * rng.standard_normal()), how)
                    for r in rows
                ]
                if key == "density_kg_m3":
                    values = [
                        v if r["pressure_Pa"] > answer["saturation"]["pressure_Pa"] else None
                        for v, r in zip(values, rows)
                    ]
                measured[key] = values
                continue
            value: Any = answer
            for part in key.split("."):
                value = value[part]
            measured[key] = written(value * (1 + noise * rng.standard_normal()), how)
        if study["kind"] == "depletion":
            names = list(answer["rows"][0]["gas"])
            table = np.array([[r["gas"][n] for n in names] for r in answer["rows"]])
            table *= 1.0 + 0.006 * rng.standard_normal(table.shape)
            table /= table.sum(axis=1, keepdims=True)
            for name, column in zip(names, table.T):
                measured[f"gas.{name}"] = [f"{100 * v:.3f} %" for v in column]
            study = _from_saturation(study, measured, answer, asked.model_copy(update={"fluids": tuple(fluids)}))
        if study["kind"] == "saturation":
            top = max(answer["points"], key=lambda p: p["pressure_Pa"])
            measured[f"points.{top['kind']}.pressure_Pa"] = written(
                top["pressure_Pa"] * (1 + 0.006 * rng.standard_normal()), "bar"
            )
        if study["name"] == "Varnholt expansion":
            # The mistyped one.
            volumes = measured["relative_volume"]
            volumes[9] = round(volumes[9] * 1.06, 4)  # type: ignore[index]
        out.append({**study, "measured": measured})
    stages = [{"temperature": "55 degC", "pressure": "19 bar"}, {"temperature": "60 degF", "pressure": "1 atm"}]
    out.append({"name": "Varnholt black oil", "kind": "black_oil", "fluid": "Varnholt recombined", "temperature": "92 degC", "stages": stages,
                "pressures": ["170 bar", "140 bar", "110 bar", "80 bar", "50 bar", "20 bar"]})  # fmt: skip
    out.append(
        {
            "name": "best first separator",
            "kind": "separator_optimum",
            "fluid": "Varnholt recombined",
            "temperatures": ["55 degC"],
            "between": ["2 bar", "60 bar"],
        }
    )
    out.append({"name": "Varnholt in twelve", "kind": "lumping", "fluid": "Varnholt recombined", "components": 12})
    out.append({"name": "Quillmoor match", "kind": "match", "fluid": "Quillmoor reservoir gas", "held_out": ["Quillmoor separators"],
                "tests": ["Quillmoor dew points", "Quillmoor expansion", "Quillmoor depletion", "Quillmoor separators"]})  # fmt: skip
    out.append({"name": "Varnholt match", "kind": "match", "fluid": "Varnholt recombined", "held_out": ["Varnholt swelling"],
                "tests": ["Varnholt bubble point, cold", "Varnholt expansion", "Varnholt liberation", "Varnholt separators", "Varnholt viscosity", "Varnholt swelling"]})  # fmt: skip
    whole["studies"] = [*whole["studies"], *out]
    made = parse_document(json.dumps(whole))
    FILE.write_text(document_text(made), encoding="utf-8")


if __name__ == "__main__":
    main()
