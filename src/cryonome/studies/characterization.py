"""The study ``characterization``: the cuts of a sample."""

from __future__ import annotations

import numpy as np

from ..characterization import CharacterizedSample
from ..characterization.correlations import TEST_TEMPERATURES
from ..characterization.methods import METHODS, SHOWN
from ..constants import WATER_DENSITY_60F
from ..document.model import CharacterizationStudy, Document, Model
from ..units import parse
from .evaluator import Evaluator
from .lumping import RESERVOIR, effect_text
from .registry import Answer, NoAnswerError, kind


@kind("characterization")
def solve_characterization(study: CharacterizationStudy, document: Document, evaluator: Evaluator) -> Answer:
    """Return components, bulk values, the closed curve and the yields."""
    sample = document.sample(study.sample)
    if sample is None:
        raise NoAnswerError(f"unknown sample '{study.sample}'")
    result = evaluator.sample(sample)
    answer = characterization_answer(result)
    if result.unlumped is not None:
        T = RESERVOIR if study.temperature is None else parse(study.temperature, "temperature")
        effect = evaluator.lumping(sample, T, Model())
        assert effect is not None
        answer["notes"].append(effect_text(effect))
        answer["lumping"] = {
            "temperature_K": T,
            "kind": effect.kind,
            "saturation_pressure_Pa": effect.lumped,
            "unlumped_saturation_pressure_Pa": effect.unlumped,
            "unlumped_components": [_component(result.unlumped, i) for i in range(len(result.unlumped.components))],
        }
    return answer


def characterization_answer(result: CharacterizedSample) -> Answer:
    """Return a characterized sample as plain data."""
    sg = result.density / WATER_DENSITY_60F
    return {
        "components": [_component(result, i) for i in range(len(result.components))],
        "bulk": {
            "molar_mass_g_mol": result.molar_mass * 1e3,
            "density_kg_m3": result.density,
            "api": 141.5 / sg - 131.5,
            "watson_k": result.watson_k,
            "viscosity": [{"temperature_K": T, "kinematic_viscosity_m2_s": v} for T, v in result.viscosity],
        },
        "curves": {method: shown_curve(result, method) for method in SHOWN},
        "yields": [
            {
                "name": y.name,
                "from_K": y.start,
                "to_K": y.end,
                "volume_fraction": y.volume,
                "mass_fraction": y.mass,
            }
            for y in result.yields
        ],
        "notes": [r.text for r in result.remarks],
    }


def shown_curve(result: CharacterizedSample, method: str) -> Answer:
    """Return the sample's curve by a method on its own basis, at each whole 5 %."""
    percents = np.arange(0, 101, 5)
    temperatures = result.shown_as(method, percents / 100.0)
    own = METHODS[method]
    return {
        "basis": own.basis,
        "pressure_Pa": own.pressure,
        "points": [[int(p), float(t)] for p, t in zip(percents, temperatures)],
    }


def _component(result: CharacterizedSample, i: int) -> Answer:
    c = result.components[i]
    cut = i - result.light
    return {
        "name": c.name,
        "kind": "light_end" if cut < 0 else "cut",
        "nbp_K": c.nbp,
        "molar_mass_g_mol": c.molar_mass * 1e3,
        "specific_gravity": c.specific_gravity,
        "Tc_K": c.Tc,
        "Pc_Pa": c.Pc,
        "omega": c.omega,
        "Vc_m3_mol": c.Vc,
        "mole_fraction": float(result.mole_fraction[i]),
        "mass_fraction": float(result.mass_fraction[i]),
        "volume_fraction": float(result.volume_fraction[i]),
        **(
            {}
            if cut < 0
            else {
                "from_K": float(result.edge_temperatures[cut]),
                "to_K": float(result.edge_temperatures[cut + 1]),
                "kinematic_viscosity": [
                    {"temperature_K": float(T), "kinematic_viscosity_m2_s": float(v)}
                    for T, v in zip(TEST_TEMPERATURES, result.cut_viscosity[cut])
                ],
                "quantities": {
                    name: {"value": float(values[cut]), "unit": result.quantity_units[name]}
                    for name, values in result.quantities.items()
                },
            }
        ),
    }
