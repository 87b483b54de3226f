"""What cannot stand in a sample, a fluid or its model: one sentence at its cell that says what would be right, and the same cell mended has none."""

from __future__ import annotations

import json

import pytest

import cryonome.questions  # noqa: F401  # gives the document its kinds
from cryonome.document import DocumentError, check_document, errors, parse_document
from cryonome.document.faults import format_path

POINTS = [[0, 290], [10, 385], [30, 495], [50, 592], [70, 701], [90, 863]]
GAS = [
    {"component": "methane", "amount": 80},
    {"component": "propane", "amount": 15},
    {"component": "water", "amount": 5},
]
SAMPLE = {"name": "S", "distillation": {"points": POINTS}, "bulk": {"density": "33 degAPI"}}
CARBON = {"method": "carbon-number", "basis": "mole", "amounts": [["methane", 60], ["C6", 2], ["C7", 5], ["C8+", 20]]}
OTHER = {"name": "Other", "parts": GAS[:2]}
STATE = {"name": "q", "kind": "flash", "fluid": "F", "temperature": "300 K", "pressure": "1 bar"}


def faults(fluid=None, sample=None, studies=()):
    """Return the faults of a document with one fluid, or one sample, by the place within it."""
    data = {"format": "cryonome/1", "samples": [SAMPLE if sample is None else {**SAMPLE, **sample}], "studies": list(studies)}  # fmt: skip
    data["fluids"] = [{"name": "F", "parts": GAS, **(fluid or {})}, OTHER]
    found = check_document(parse_document(json.dumps(data)))
    own = "samples" if sample is not None else "fluids"
    return [(format_path(f.path[2:]), f.message, f.severity) for f in found if f.path[:2] == (own, 0)]


def model(**cells):
    return {"model": cells}


def pseudo(**cells):
    return {"parts": [*GAS, {"pseudo": {"name": "H", "molar_mass": 200, "specific_gravity": 0.84, **cells}, "amount": 3}]}  # fmt: skip


def series(**cells):
    base = {"name": "Row", "start": "100 degC", "end": "200 degC", "step": "25 K"}
    return {"parts": [*GAS, {"series": {**base, **cells}, "amount": 3}]}


def recombined(**cells):
    return {"parts": [], "recombination": {"liquid": "S", "gas": "Other", "gas_oil_ratio": "100 sm3/m**3", "temperature": "40 degC", "pressure": "20 bar", **cells}}  # fmt: skip


def test_what_these_tests_begin_with_is_right():
    assert faults() == []
    for fluid in (model(eos="SRK"), pseudo(), series(), recombined()):
        assert [f for f in faults(fluid) if f[2] == "error"] == []
    assert [f for f in faults(sample={}) if f[2] == "error"] == []
    whole = {"distillation": {**CARBON, "plus": {"molar_mass": 250, "density": "0.85 SG"}}}
    assert [f for f in faults(sample=whole) if f[2] == "error"] == []


@pytest.mark.parametrize(
    ("fluid", "place", "words"),
    [
        (model(eos="PR79"), "model.eos", "did you mean PR78 or PR76"),
        (model(kij_pairs=[["methane", "methane", 0.1]]), "model.kij_pairs[0]", "'methane' is paired with itself"),
        (model(kij_pairs=[["methane", "ethane", 0.1]]), "model.kij_pairs[0][1]", "ethane"),
        (model(kij_pairs=[["methane", "propane", 1.4]]), "model.kij_pairs[0][2]", ""),
        (model(kij_pairs=[["methane", "propane", "much"]]), "model.kij_pairs[0][2]", "much"),
        (model(kij_pairs=[["methane", "propane", 0.1], ["C3", "methane", 0.2]]), "model.kij_pairs[1]", "C3 with methane: this stands twice, as 0.1 and as 0.2; keep one of them"),
        (model(shifts=[["methane", 1e-6], ["C1", 2e-6]]), "model.shifts[1]", "C1: this stands twice"),
        (model(aqueous_pairs=[["methane", -0.1], ["methane", -0.2]]), "model.aqueous_pairs[1]", "methane: this stands twice"),
        (model(kij_pairs=[["methane", "propane", 0.1, 0.5]]), "model.kij_pairs[0][3]", "a slope of 0.5 per kelvin is outside"),
        (model(kij_pairs=[["methane", "propane", 0.9, 0.002]]), "model.kij_pairs[0][3]", "the parameter leaves -1 to 1 within"),
        (model(eos="PC-SAFT", kij_pairs=[["methane", "propane", 0.02, 1e-4]]), "model.kij_pairs[0][3]", "have no slope; leave it out"),
        (model(eos="PC-SAFT", omegas={"methane": [0.45, 0.08]}), "model.omegas", "constants Ωa and Ωb are of cubic equations"),
        (model(omegas={"ethane": [0.45, 0.08]}), "model.omegas.ethane", "'ethane' is not in the fluid"),
        (model(omegas={"methane": [4.5, 0.08]}), "model.omegas.methane[0]", "Ωa = 4.5 is outside 0.05 to 2"),
        (model(omegas={"methane": [0.45, 0.8]}), "model.omegas.methane[1]", "Ωb = 0.8 is outside 0.01 to 0.5"),
        (model(salinity="3 bar"), "model.salinity", "write mol NaCl per kg of water as 1.2 mol/kg"),
        (model(salinity="salty"), "model.salinity", "salty"),
        (model(salinity="60 %"), "model.salinity", "is outside 0 to"),
        (model(salinity="1 mol/kg", eos="SRK"), "model.salinity", "salt is known for PR78 and PR76"),
        (model(alpha="wavy"), "model.alpha", "wavy"),
        (model(volume_shift="some"), "model.volume_shift", "some"),
        (pseudo(name=" "), "parts[3].pseudo.name", "the name is empty; give it one"),
        (pseudo(Tc="3 K"), "parts[3].pseudo.Tc", "a critical temperature"),
        (pseudo(Pc="9000 bar"), "parts[3].pseudo.Pc", "a critical pressure"),
        (pseudo(omega=7), "parts[3].pseudo.omega", "an acentric factor of 7 is outside -1 to 3"),
        (pseudo(specific_gravity=2.4), "parts[3].pseudo.specific_gravity", "a specific gravity of 2.4 is outside 0.3 to 1.5"),
        (pseudo(molar_mass="9000 g/mol"), "parts[3].pseudo.molar_mass", "a molar mass"),
        (pseudo(molar_mass=None, specific_gravity=None), "parts[3].pseudo", "give a normal boiling point, a specific gravity or a molar mass"),
        (series(name=""), "parts[3].series.name", "the name is empty"),
        (series(end="90 degC"), "parts[3].series.end", "a series ends above where it starts"),
        (series(step="0.1 K"), "parts[3].series.step", "between 1 and 100 pseudo-components"),
        (series(watson_k=20), "parts[3].series.watson_k", "a Watson K of 20 is outside 8 to 15"),
        (recombined(gas_oil_ratio="-5 sm3/m**3"), "recombination.gas_oil_ratio", "zero or more"),
        (recombined(gas_oil_ratio="5 bar"), "recombination.gas_oil_ratio", "bar"),
        (recombined(liquid="Nobody"), "recombination.liquid", "Nobody"),
        (recombined(temperature="900 degC"), "recombination.temperature", "a separator temperature"),
        (recombined(liquid_volume="drum"), "recombination.liquid_volume", "drum"),
        ({**recombined(), "parts": GAS}, "parts", "a recombined fluid has no parts of its own"),
        ({"parts": []}, "parts", "empty"),
        ({"parts": [*GAS, {"component": "methane", "amount": 3}]}, "parts[3]", ""),
        ({"parts": [*GAS, {"component": "hydrogen sulfidd", "amount": 3}]}, "parts[3].component", "did you mean hydrogen sulfide"),
        ({"parts": [*GAS, {"fluid": "F", "amount": 3}]}, "parts[3].fluid", ""),
        ({"parts": [*GAS, {"sample": "T", "amount": 3}]}, "parts[3].sample", "T"),
        ({"parts": [*GAS, {"component": "ethane", "amount": -3}]}, "parts[3].amount", "zero or more"),
        ({"parts": [{"component": "ethane", "amount": 0}]}, "parts", ""),
        ({"grid": "some"}, "grid", "unknown grid of cuts"),
    ],
)  # fmt: skip
def test_what_cannot_stand_in_a_fluid_is_told_at_its_cell(fluid, place, words):
    found = faults(fluid)
    assert any(p.startswith(place) and words in m for p, m, _ in found), found
    assert all(len(m) < 260 for _, m, _ in found)


def test_a_fluid_that_a_question_gives_has_nothing_of_its_own():
    made = {"parts": [], "made_by": {"study": "of other", "stream": "vapour"}}
    of_other = {**STATE, "name": "of other", "fluid": "Other"}
    assert faults(made, studies=[of_other]) == []
    assert ("parts", "a fluid that a question gives has no parts of its own; leave parts or made_by out", "error") in faults({**made, "parts": GAS}, studies=[of_other])  # fmt: skip
    assert any("has the model of that question's fluid" in m for _, m, _ in faults({**made, **model(eos="SRK")}, studies=[of_other]))  # fmt: skip
    assert any("cannot be made by a question that is about it" in m for _, m, _ in faults({"parts": [], "made_by": {"study": "q"}}, studies=[STATE]))  # fmt: skip
    line = {"name": "line", "kind": "envelope", "fluid": "Other"}
    assert any("is of kind envelope, which gives no fluid" in m for _, m, _ in faults({"parts": [], "made_by": {"study": "line"}}, studies=[line]))  # fmt: skip
    assert any("none" in m for _, m, _ in faults({"parts": [], "made_by": {"study": "none"}}, studies=[line]))


def curve(**cells):
    return {"distillation": {"points": POINTS, **cells}}


def two_part(**tail):
    return {"distillation": {"method": "D86+D1160", "points": POINTS[:4], "tail": {"pressure": "10 mmHg", "points": [[70, 480], [90, 560]], **tail}}}  # fmt: skip


def groups(rows=CARBON["amounts"], plus=None):
    return {"distillation": {**CARBON, "amounts": rows, "plus": {"molar_mass": 250, "density": "0.85 SG", **(plus or {})}}}  # fmt: skip


@pytest.mark.parametrize(
    ("sample", "place", "words"),
    [
        (curve(method="D2887", loss=1.0), "distillation.loss", "loss and residue have no effect on a D2887; they belong to D86"),
        (curve(method="D86", loss=25), "distillation.loss", "a loss"),
        (curve(method="D86", residue="much"), "distillation.residue", "much"),
        (curve(points=[[5, 300], *POINTS[1:]], initial="310 K"), "distillation.initial", "must lie below the first point"),
        (two_part(pressure="3 atm"), "distillation.tail.pressure", "between 0.01 mmHg and 1 atm"),
        (two_part(points=[]), "distillation.tail.points", "the tail has no valid point"),
        ({"distillation": {"method": "D86+D1160", "points": [], "tail": {"pressure": "10 mmHg", "points": [[70, 480], [90, 560]]}}}, "distillation.points", "the front has no valid point"),
        ({"distillation": {"method": "D86+D1160", "points": POINTS[:1], "tail": {"pressure": "10 mmHg", "points": [[70, 480]]}}}, "distillation.points", "front and tail together need at least 5"),
        (groups(plus={"molar_mass": 5000}), "distillation.plus.molar_mass", "outside 70 to 3000 g/mol, what a plus fraction can have"),
        (groups(plus={"density": "2 SG"}), "distillation.plus.density", "outside 500 to 1300 kg/m³"),
        (groups(plus={"molar_mass": None}), "distillation.plus.molar_mass", "the molar mass of C8+ is needed"),
        ({"bulk": {"density": "33 degAPI", "molar_mass": "5000 g/mol"}}, "bulk.molar_mass", "outside 30 to 2000 g/mol"),
        ({"bulk": {"density": "33 degAPI", "watson_k": 20}}, "bulk.watson_k", "a Watson K of 20 is outside 8 to 15"),
        ({"curves": {"viscosity": [{"at": f"{t} degC", "points": [[10, "9 cSt"], [50, "30 cSt"]]} for t in (40, 60, 80)]}}, "curves.viscosity[2]", "up to two temperatures; this is the third"),
        ({"curves": {"viscosity": [{"at": "40 degC", "points": [[10, "9 cSt"], [50, "30 cSt"]]}] * 2}}, "curves.viscosity[1].at", "both viscosity curves are at the same temperature"),
        ({"curves": {"quantities": [{"name": " ", "unit": "mass%", "points": [[10, 1]]}]}}, "curves.quantities[0].name", "the name is empty"),
        ({"curves": {"quantities": [{"name": "density", "unit": "mass%", "points": [[10, 1]]}]}}, "curves.quantities[0].name", "the name 'density' is taken"),
        ({"curves": {"quantities": [{"name": "S", "unit": "mass%", "bulk": -1, "points": [[10, 1]]}]}}, "curves.quantities[0].bulk", "an amount is zero or more"),
        ({"curves": {"keep": ["colour"]}}, "curves.keep[0]", "colour"),
        ({"light_ends": {"mode": "measured", "amounts": {"ethane": 101}}}, "light_ends.amounts.ethane", "lies outside 0 to 100 %"),
        ({"light_ends": {"mode": "measured", "amounts": {"ethane": 1e-15}}}, "light_ends.amounts.ethane", "less than can be told from nothing"),
        ({"light_ends": {"mode": "measured", "amounts": {"ethane": 60, "propane": 39.5}}}, "light_ends.amounts", "nothing is left to cut"),
        ({"cuts": {"number": 10, "boundaries": ["400 K"]}}, "cuts", "give one of regions, boundaries and number"),
        ({"cuts": {"number": 900}}, "cuts.number", "a number of cuts"),
        ({"cuts": {"regions": [["600 K", "900 K"]]}}, "cuts.regions[0][1]", "a width of 900 K is outside 1 to 500 K"),
        ({"cuts": {"regions": [["600 K", "20 K"], ["500 K", "20 K"]]}}, "cuts.regions[1][0]", "must end at rising temperatures"),
        ({"cuts": {"products": [{"name": "", "end": "400 K"}]}}, "cuts.products[0].name", "the name is empty"),
        ({"cuts": {"products": [{"name": "a", "end": "500 K"}, {"name": "b", "end": "400 K"}]}}, "cuts.products[1].end", "must end at rising temperatures"),
        ({"cuts": {"unit": "K"}}, "cuts.unit", "unit of cuts"),
    ],
)  # fmt: skip
def test_what_cannot_stand_in_a_sample_is_told_at_its_cell(sample, place, words):
    found = faults(sample=sample)
    assert any(p.startswith(place) and words in m for p, m, _ in found), found


def test_a_warning_is_no_error_and_keeps_nothing_from_being_computed():
    (found,) = (f for f in faults(sample=curve(method="D2887", loss=1.0)) if "no effect" in f[1])
    assert found[2] == "warning"
    document = parse_document(json.dumps({"format": "cryonome/1", "samples": [{**SAMPLE, **curve(method="D2887", loss=1.0)}]}))  # fmt: skip
    assert errors(check_document(document)) == []


@pytest.mark.parametrize(("value", "word"), [({"from": "300 K"}, "an object"), ([300], "a list"), (True, "true")])
def test_what_is_no_cell_is_one_fault_at_its_own_path(value, word):
    document = {
        "format": "cryonome/1",
        "fluids": [{"name": "F", "parts": [{"component": "propane", "amount": value}]}],
        "studies": [{"name": "s", "kind": "flash", "fluid": "F", "temperature": value, "pressure": "1 bar"}],
    }
    with pytest.raises(DocumentError) as told:
        parse_document(json.dumps(document))
    belongs = f"{word} stands where a number or a text with a unit belongs"
    assert str(told.value).splitlines() == [f"fluids[0].parts[0].amount: {belongs}", f"studies[0].temperature: {belongs}"]  # fmt: skip
