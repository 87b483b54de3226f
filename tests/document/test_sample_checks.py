"""Bad lab sheets: every fault is marked at its cell in one sentence, and nothing is lost."""

from __future__ import annotations

import json

import pytest

from ask import cuts_of
from cryonome.document import check_document, document_text, errors, parse_document
from cryonome.document.faults import format_path
from cryonome.questions import solve

POINTS = [[0, 290], [10, 385], [30, 495], [50, 592], [70, 701], [90, 863]]
ROWS = [["methane", 60], ["C6", 2], ["C7", 5], ["C8", 5], ["C9+", 20]]


def document(**changes):
    base = {"name": "S", "distillation": {"points": POINTS}, "bulk": {"density": "33 degAPI"}}
    return parse_document(json.dumps({"format": "cryonome/1", "samples": [{**base, **changes}]}))


def carbon(rows=ROWS, **changes):
    plus = {"molar_mass": 250, "density": "0.85 SG"}
    return document(distillation={"method": "carbon-number", "basis": "mole", "amounts": rows, "plus": plus, **changes})


def curve(**changes):
    return document(distillation={"points": POINTS, **changes})


@pytest.mark.parametrize(
    ("made", "place", "words"),
    [
        (curve(method="D68"), "distillation.method", "did you mean D86"),
        (curve(basis="weight"), "distillation.basis", "unknown basis"),
        (curve(method="D86", pressure="10 mmHg"), "distillation.pressure", "use D1160 or TBP"),
        (curve(method="D1160", pressure="3 bar"), "distillation.pressure", "between 0.001 mmHg and 1 atm"),
        (curve(pressure="-1 bar"), "distillation.pressure", "above zero"),
        (curve(points=POINTS[:4]), "distillation.points", "at least 5 valid points; this one has 4"),
        (curve(points=[*POINTS, [110, 900]]), "distillation.points[6][0]", "outside 0 to 100"),
        (curve(points=[*POINTS, [95, "-300 degC"]]), "distillation.points[6][1]", "absolute zero"),
        (curve(interpolation="spline"), "distillation.interpolation", "unknown interpolation"),
        (curve(ends="given"), "distillation.ends", "give an initial or a final point"),
        (curve(points=POINTS, final="500 K"), "distillation.final", "above the last point"),
        (curve(conversion="api-1993", method="D86"), "distillation.conversion", "did you mean api-1994"),
        (curve(method="D86+D1160"), "distillation.tail", "needs the tail"),
        (curve(method="D86+D1160", tail={"points": [[80, 700], [95, 800]]}), "distillation.tail.points", "above the front"),
        (document(bulk={"density": "12 cP"}), "bulk.density", "where a density belongs"),
        (document(bulk={"viscosity": [["40 degC", "6 cSt"], ["80 degC", "9 cSt"]]}), "bulk.viscosity[1][1]", "rises with temperature"),
        (document(bulk={"viscosity": [["40 degC", "6 cSt"], ["40 degC", "5 cSt"]]}), "bulk.viscosity[1][0]", "same temperature"),
        (document(bulk={"viscosity": [["40 degC", "-6 cSt"]]}), "bulk.viscosity[0][1]", "not above zero"),
        (document(bulk={"viscosity": [["1 degC", "9 cSt"], ["2 degC", "8 cSt"], ["3 degC", "7 cSt"]]}), "bulk.viscosity[2]", "the third"),
        (document(curves={"density": [[10, "750 kg/m3"], [50, "1900 kg/m3"]]}), "curves.density[1][1]", "what a petroleum fraction can have"),
        (document(curves={"density": [[10, 750], [110, 800]]}), "curves.density[1][0]", "outside 0 to 100"),
        (document(curves={"molar_mass": [[10, 100], [50, 90]]}), "curves.molar_mass[1][1]", "falls below the 100.0 g/mol"),
        (document(curves={"viscosity": [{"at": "40 degC", "points": [[10, "5 cSt"], [50, "2 cSt"]]}]}), "curves.viscosity[0].points[1][1]", "falls below"),
        (
            document(curves={"viscosity": [{"at": "40 degC", "points": [[10, "1 cSt"], [50, "2 cSt"]]}, {"at": "90 degC", "points": [[10, "2 cSt"], [50, "3 cSt"]]}]}),
            "curves.viscosity[1].points[0][1]", "rises with temperature",
        ),
        (document(curves={"quantities": [{"name": "sulphur", "points": [[10, -1]]}]}), "curves.quantities[0].points[0][1]", "below zero"),
        (document(curves={"quantities": [{"name": "density"}]}), "curves.quantities[0].name", "is taken"),
        (document(curves={"keep": ["colour"]}), "curves.keep[0]", "unknown curve"),
        (document(light_ends={"mode": "measured", "amounts": {"propane": 60, "butane": 45}}), "light_ends.amounts", "nothing is left"),
        (document(light_ends={"mode": "measured", "amounts": {"propane": 160}}), "light_ends.amounts.propane", "outside 0 to 100"),
        (document(light_ends={"mode": "measured", "amounts": {"propann": 1}}), "light_ends.amounts.propann", "did you mean propane"),
        (document(light_ends={"mode": "measured", "amounts": {"propane": 1, "C3": 1}}), "light_ends.amounts.C3", "given twice"),
        (document(light_ends={"mode": "estimated", "species": ["propane"], "curve": "rest"}), "light_ends.curve", "whole sample"),
        (document(light_ends={"mode": "measured"}), "light_ends.amounts", "the list is empty"),
        (document(cuts={"number": 0}), "cuts.number", "between 1 and 200"),
        (document(cuts={"number": 5, "boundaries": [400]}), "cuts", "not boundaries and number"),
        (document(cuts={"number": 5, "equal": "colour"}), "cuts.equal", "unknown measure"),
        (document(correlations={"omega": "lee-kessler"}), "correlations.omega", "did you mean lee-kesler"),
        (document(conversions={"D86": "api"}), "conversions.D86", "did you mean api-1994"),
        (carbon([*ROWS, ["C12", 1]]), "distillation.amounts[5][0]", "after the plus fraction"),
        (carbon([["C7", 30], ["C8", 50], ["C9+", 40]]), "distillation.amounts", "must not exceed 100"),
        (carbon([["C7", 3], ["c7", 4], ["C9+", 20]]), "distillation.amounts[1][0]", "given twice"),
        (carbon([["C7", 3], ["Cx", 4]]), "distillation.amounts[1][0]", "unknown component"),
        (carbon([["methane", 3]]), "distillation.amounts", "needs groups above C5"),
        (carbon(plus={"molar_mass": 250}), "distillation.plus.density", "the density of C9+ is needed"),
        (carbon(split={"model": "normal"}), "distillation.split.model", "unknown distribution"),
        (carbon(split={"shape": 99}), "distillation.split.shape", "between 0.3 and 10"),
        (carbon(lumping={"rule": "by eye"}), "distillation.lumping.rule", "unknown rule"),
    ],
)  # fmt: skip
def test_each_fault_is_told_at_its_cell(made, place, words):
    found = {format_path(f.path): f.message for f in errors(check_document(made))}
    full = f"samples[0].{place}"
    assert full in found, found
    assert words in found[full]
    # What was entered is still there, word for word.
    assert parse_document(document_text(made)) == made


@pytest.mark.parametrize("name", ["density", "molar_mass"])
def test_a_faulty_point_of_a_property_curve_is_left_out_of_the_curve_only(name):
    good = {"density": [[10, 745], [50, 860], [80, 930]], "molar_mass": [[10, 100], [50, 240], [80, 450]]}[name]
    with_slip = document(curves={name: [*good[:2], [60, 5], good[2]]})
    clean = document(curves={name: good})
    one, two = (cuts_of(d.samples[0]) for d in (with_slip, clean))
    assert one.molar_mass == pytest.approx(two.molar_mass, rel=1e-12)
    assert one.density == pytest.approx(two.density, rel=1e-12)


def test_amounts_that_do_not_reach_a_hundred_are_scaled_and_said():
    made = carbon()
    warned = [f for f in check_document(made) if f.severity == "warning"]
    assert "scaled to 100" in warned[0].message
    assert errors(check_document(made)) == []
    assert cuts_of(made.samples[0]).mole_fraction.sum() == pytest.approx(1.0)


def test_a_split_that_is_impossible_has_no_answer_but_a_reason():
    made = carbon(plus={"molar_mass": 100, "density": "0.85 SG"})
    data = json.loads(document_text(made))
    data["studies"] = [{"name": "a", "kind": "characterization", "sample": "S"}]
    answer = solve(parse_document(json.dumps(data)))["answers"]["a"]
    assert not answer["ok"]
    assert "C9+ fraction has a molar mass above 120 g/mol" in answer["error"]
