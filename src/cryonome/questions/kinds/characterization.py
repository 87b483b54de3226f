"""The study ``characterization``: the cuts of a sample."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...characterization import CharacterizedSample
from ...characterization.correlations import TEST_TEMPERATURES
from ...characterization.methods import METHODS, SHOWN
from ...characterization.products import products_of
from ...characterization.viscosity import within_method
from ...constants import WATER_DENSITY_60F
from ...document import Document, Reader, Study
from ...document.field_types import SampleRef, Temperature
from ...document.kinds import StudyKind, register
from ...fluids.sample_lumping import RESERVOIR
from ...remarks import Remark, Value, kelvin, measure
from ...results.common import Common
from ...results.context import Answer, Context
from ...telling.sentences import Units
from .yields import ProductAnswer, product_answer


class CharacterizationStudy(Study):
    """Asks for the cuts of a sample; with a temperature, for what lumping does to the saturation pressure there."""

    kind: Literal["characterization"]
    sample: SampleRef
    temperature: Temperature = None


class ComponentAnswer(TypedDict):
    """A light end or a cut."""

    name: str
    kind: Literal["light_end", "cut"]
    nbp_K: float
    molar_mass_g_mol: float
    specific_gravity: float
    Tc_K: float
    Pc_Pa: float
    omega: float
    Vc_m3_mol: float
    mole_fraction: float
    mass_fraction: float
    volume_fraction: float
    from_K: NotRequired[float]
    to_K: NotRequired[float]
    kinematic_viscosity: NotRequired[list[dict[str, float | None]]]
    quantities: NotRequired[dict[str, dict[str, Any]]]


class BulkAnswer(TypedDict):
    """The whole sample."""

    molar_mass_g_mol: float
    density_kg_m3: float
    api: float
    watson_k: float
    viscosity: list[dict[str, float | None]]


class CurveAnswer(TypedDict):
    """The sample's curve by a method: percents and K at each whole 5 %, null where the method cannot be run."""

    basis: Literal["volume", "mass", "mole"]
    pressure_Pa: float
    points: list[tuple[int, float | None]]


class LumpingAnswer(TypedDict):
    """What lumping does to the highest saturation pressure at a temperature."""

    temperature_K: float
    kind: Literal["bubble", "dew", ""]
    saturation_pressure_Pa: float | None
    unlumped_saturation_pressure_Pa: float | None
    unlumped_components: list[ComponentAnswer]


class CharacterizationAnswer(Common):
    """Components, bulk values, the curves and the yields."""

    components: NotRequired[list[ComponentAnswer]]
    bulk: NotRequired[BulkAnswer]
    curves: NotRequired[dict[str, CurveAnswer]]
    yields: NotRequired[list[ProductAnswer]]
    lumping: NotRequired[LumpingAnswer]


@dataclass(frozen=True)
class Asked:
    """The sample and the temperature (K) lumping is judged at."""

    sample: str
    temperature: float


def read(study: CharacterizationStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T = None if study.temperature is None else reader.at("temperature").quantity(study.temperature, "temperature")
    return Asked(study.sample, RESERVOIR if T is None else T)


def solve(asked: Asked, context: Context) -> Answer:
    """Return components, bulk values, the closed curve and the yields."""
    sample = context.sample(asked.sample)
    result = context.project.characterized(sample)
    answer = characterization_answer(result)
    remarks = [*result.remarks, *_not_run(answer)]
    effect = context.project.lumping(sample, asked.temperature, context.watch)
    if result.unlumped is not None and effect is not None:
        remarks.append(effect.remark())
        answer["lumping"] = {
            "temperature_K": asked.temperature,
            "kind": effect.kind,
            "saturation_pressure_Pa": effect.lumped,
            "unlumped_saturation_pressure_Pa": effect.unlumped,
            "unlumped_components": [_component(result.unlumped, i) for i in range(len(result.unlumped.components))],
        }
    return {**answer, "notes": [*remarks]}


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    cuts = sum(c["kind"] == "cut" for c in answer["components"])
    return f"{cuts} cuts, {units.text(measure(answer['bulk']['density_kg_m3'], 'density'))}"


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
            "viscosity": [
                {"temperature_K": T, "kinematic_viscosity_m2_s": within_method(v)} for T, v in result.viscosity
            ],
        },
        "curves": {method: shown_curve(result, method) for method in SHOWN},
        "yields": [
            {
                **product_answer(p),
                "name": y.name,
                "from_K": y.start,
                "to_K": y.end,
                "volume_fraction": y.volume,
                "mass_fraction": y.mass,
            }
            for y, p in zip(result.yields, products_of([(1.0, result.stock)], (), result.choices.products), strict=True)
        ],
    }


def shown_curve(result: CharacterizedSample, method: str) -> Answer:
    """Return the sample's curve by a method on its own basis, at each whole 5 %."""
    percents = np.arange(0, 101, 5)
    temperatures = result.shown_as(method, percents / 100.0)
    own = METHODS[method]
    return {
        "basis": own.basis,
        "pressure_Pa": own.pressure,
        "points": [[int(p), None if np.isnan(t) else float(t)] for p, t in zip(percents, temperatures)],
    }


def _not_run(answer: Answer) -> list[Remark]:
    """Say which curves end before the sample does, and which would fall."""
    out = []
    for method, curve in answer["curves"].items():
        there = [p for p, T in curve["points"] if T is not None]
        last = max(there, default=0)
        if curve["points"][-1][1] is None:
            values: dict[str, Value] = {"method": method, "percent": last, "T": kelvin(METHODS[method].hottest, 0)}
            out.append(Remark("extrapolation", "curve.not_run", "curve", values))
        falls = [p for p, T in curve["points"] if T is None and p < last]
        if falls:
            values = {"method": method, "low": min(falls), "high": max(falls)}
            out.append(Remark("warning", "curve.shown_falls", "curve", values))
    return out


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
                    {"temperature_K": float(T), "kinematic_viscosity_m2_s": within_method(float(v))}
                    for T, v in zip(TEST_TEMPERATURES, result.cut_viscosity[cut])
                ],
                "quantities": {
                    name: {"value": float(values[cut]), "unit": result.quantity_units[name]}
                    for name, values in result.quantities.items()
                },
            }
        ),
    }


def begin(sample: str, at: tuple[float, float] | None) -> CharacterizationStudy:
    """Return a new question about a sample, near a state where one is given."""
    return CharacterizationStudy(name=f"Cuts of {sample}", kind="characterization", sample=sample)


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the parts, and the whole."""
    cuts = sum(c["kind"] == "cut" for c in answer["components"])
    light, bulk = len(answer["components"]) - cuts, answer["bulk"]
    parts = f"{cuts} cuts" + (f" and {light} light ends" if light else "")
    return f"{parts}; {bulk['molar_mass_g_mol']:.1f} g/mol, {bulk['api']:.1f} °API."


register(
    StudyKind(
        name="characterization", title="Cuts", meaning="the cuts of a sample with their properties and yields",
        model=CharacterizationStudy, answer=CharacterizationAnswer, read=read, solve=solve, line=line, begin=begin, subject="sample",
        order=40,
        sentence="What does {sample} consist of[?, its lumping judged at {temperature}]?",
        phrases=("cuts", "characterization", "consist", "consists", "pseudo-components", "pseudocomponents"),
        says=says,
    )
)  # fmt: skip
