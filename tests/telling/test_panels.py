"""Pictures of answers as data: of every kind that has them, whole, finite, by keys that tell their units."""

from __future__ import annotations

import json
import math

import pytest

from cryonome.document import parse_document
from cryonome.questions.solving import solve_study
from cryonome.results import Evaluator
from cryonome.telling.panels import PANELS, panels_of
from cryonome.telling.sentences import Units
from cryonome.telling.table_blocks import of_key

OIL = {
    "name": "Oil",
    "parts": [
        *({"component": n, "amount": a} for n, a in (("methane", 40), ("ethane", 7), ("propane", 6), ("n-butane", 4), ("n-hexane", 6))),
        {"pseudo": {"name": "H1", "molar_mass": 150, "specific_gravity": 0.79}, "amount": 20},
        {"pseudo": {"name": "H2", "molar_mass": 320, "specific_gravity": 0.88}, "amount": 17},
    ],
}  # fmt: skip
GAS = {
    "name": "Gas",
    "parts": [
        {"component": n, "amount": a} for n, a in (("methane", 78), ("propane", 9), ("n-hexane", 8), ("n-decane", 5))
    ],
}
WET = {
    "name": "Wet",
    "parts": [{"component": n, "amount": a} for n, a in (("methane", 92), ("propane", 7), ("water", 1))],
    "model": {"eos": "CPA"},
}
CRUDE = {
    "name": "Crude", "bulk": {"density": "860 kg/m3"},
    "distillation": {"method": "TBP", "points": [[5, "90 degC"], [10, "130 degC"], [30, "250 degC"], [50, "340 degC"], [70, "450 degC"], [90, "600 degC"]]},
}  # fmt: skip
P = ["300 bar", "150 bar", "100 bar", "60 bar"]
STAGES = [{"temperature": "50 degC", "pressure": "20 bar"}, {"temperature": "15 degC", "pressure": "1 atm"}]
LINE = {"length": "4 km", "rise": "10 m", "ambient": "5 degC", "overall_heat_transfer": "8 W/m**2/K"}
STUDIES = [
    {"name": "expansion", "kind": "expansion", "fluid": "Oil", "temperature": "90 degC", "pressures": P, "measured": {"relative_volume": [0.97, 1.1, 1.4, 2.1]}},
    {"name": "depletion", "kind": "depletion", "fluid": "Gas", "temperature": "60 degC", "pressures": ["120 bar", "80 bar", "40 bar"]},
    {"name": "liberation", "kind": "liberation", "fluid": "Oil", "temperature": "90 degC", "pressures": [*P, "1 atm"]},
    {"name": "swelling", "kind": "swelling", "fluid": "Oil", "temperature": "90 degC", "gas": "Gas", "gas_moles": [0.1, 0.3]},
    {"name": "viscosity", "kind": "viscosity", "fluid": "Oil", "temperature": "90 degC", "pressures": P},
    {"name": "separators", "kind": "separators", "fluid": "Oil", "temperature": "90 degC", "stages": STAGES},
    {"name": "optimum", "kind": "separator_optimum", "fluid": "Oil", "temperatures": ["50 degC"], "between": ["2 bar", "60 bar"]},
    {"name": "black oil", "kind": "black_oil", "fluid": "Oil", "temperature": "90 degC", "pressures": ["250 bar", *P[1:]], "stages": STAGES},
    {"name": "lumping", "kind": "lumping", "fluid": "Oil", "components": 5},
    {"name": "components", "kind": "components", "fluid": "Oil"},
    {"name": "cuts", "kind": "characterization", "sample": "Crude"},
    {"name": "yields", "kind": "yields", "fluid": "Crude"},
    {"name": "dry", "kind": "glycol_contact", "fluid": "Wet", "temperature": "30 degC", "pressure": "60 bar", "strength": "98.5 wt%"},
    {"name": "boil", "kind": "boiling_curve", "fluid": "Wet", "pressures": ["1 atm"]},
    {"name": "size", "kind": "line_size", "fluid": "Gas", "temperature": "40 degC", "pressure": "50 bar", "rate": "5 kg/s", "limits": {"velocity": "15 m/s"}},
    {"name": "profile", "kind": "line_profile", "fluid": "Gas", "rate": "5 kg/s", "inlet": {"temperature": "50 degC", "pressure": "80 bar"}, "nominal": "8", "legs": [LINE]},
]  # fmt: skip


@pytest.fixture(scope="module")
def project():
    data = {"format": "cryonome/1", "fluids": [OIL, GAS, WET], "samples": [CRUDE], "studies": STUDIES}
    return Evaluator().at(parse_document(json.dumps(data)))


def test_every_kind_with_a_picture_is_tried_here():
    assert {s["kind"] for s in STUDIES} >= set(PANELS) - {"spread"}


@pytest.mark.parametrize("name", [s["name"] for s in STUDIES])
def test_panels_are_whole_and_finite_and_their_keys_tell_units(project, name):
    study = project.document.study(name)
    answer = solve_study(study, project)
    assert answer["ok"], answer
    panels = panels_of(study.kind, answer)
    if study.kind in PANELS:
        assert panels
    for panel in panels:
        assert panel.curves or panel.shades
        for key in (panel.x, panel.y):
            for units in ("metric", "field", "SI"):
                assert of_key(key, Units.of(units)).name
        for curve in panel.curves:
            assert len(curve.x) == len(curve.y), curve.name
            assert all(isinstance(v, float | int) and math.isfinite(v) for v in (*curve.x, *curve.y)), curve.name
        for value in (*(panel.upright or {}).values(), *(panel.levels or {}).values()):
            assert math.isfinite(value)


def test_measured_points_stand_beside_the_curve_they_are_held_against(project):
    study = project.document.study("expansion")
    panel = next(p for p in panels_of("expansion", solve_study(study, project)) if p.y == "relative_volume")
    dots = next(c for c in panel.curves if c.measured)
    assert dots.dots
    assert list(dots.y) == pytest.approx([0.97, 1.1, 1.4, 2.1])
    assert sorted(dots.x) == pytest.approx([6e6, 1e7, 1.5e7, 3e7])
    assert panel.corners == [pytest.approx(solve_study(study, project)["saturation"]["pressure_Pa"])]


def test_black_oil_branches_begin_above_their_saturation(project):
    answer = solve_study(project.document.study("black oil"), project)
    panel = next(p for p in panels_of("black_oil", answer) if p.y == "oil_volume_factor")
    rows, *branches = panel.curves
    assert list(rows.y) == pytest.approx([r["oil_volume_factor"] for r in answer["rows"]])
    assert len(branches) == len(answer["branches"])
    for curve, branch in zip(branches, answer["branches"]):
        assert min(curve.x) > branch["saturation_pressure_Pa"]
        assert list(curve.y) == sorted(curve.y, reverse=True)
