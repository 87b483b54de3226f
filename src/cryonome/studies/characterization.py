"""The study ``characterization``: the cuts of a sample."""

from __future__ import annotations

import numpy as np

from ..characterization import CharacterizedSample
from ..constants import WATER_DENSITY_60F
from ..document.model import CharacterizationStudy, Document
from .evaluator import Evaluator
from .registry import Answer, NoAnswerError, kind


@kind("characterization")
def solve_characterization(study: CharacterizationStudy, document: Document, evaluator: Evaluator) -> Answer:
    """Return components, bulk values, the closed curve and the yields."""
    sample = document.sample(study.sample)
    if sample is None:
        raise NoAnswerError(f"unknown sample '{study.sample}'")
    return characterization_answer(evaluator.sample(sample))


def characterization_answer(result: CharacterizedSample) -> Answer:
    """Return a characterized sample as plain data."""
    percents = np.arange(0, 101, 5)
    temperatures = result.curve.at(percents / 100.0)
    sg = result.density / WATER_DENSITY_60F
    return {
        "components": [
            {
                "name": c.name,
                "kind": c.kind,
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
            }
            for i, c in enumerate(result.components)
        ],
        "bulk": {
            "molar_mass_g_mol": result.molar_mass * 1e3,
            "density_kg_m3": result.density,
            "api": 141.5 / sg - 131.5,
            "watson_k": result.watson_k,
        },
        "curves": {
            "TBP": {"basis": "volume", "points": [[int(p), float(t)] for p, t in zip(percents, temperatures)]},
        },
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
