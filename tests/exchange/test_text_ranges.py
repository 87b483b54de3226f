"""Named ranges in a text: fluids, their models, properties by name and states, each refused by its cell where it cannot be."""

from __future__ import annotations

import csv
import itertools
import json

import pytest

from ask import answers
from cryonome.document import parse_document
from cryonome.exchange.cells import ExchangeError
from cryonome.exchange.workbooks import fill

PARTS = "[composition_oil]\ncomponent,mol%\nC1,60\nC3,25\nnC6,15\n"
STATES = "[states_oil]\ntemperature (degC),pressure (bar)\n20,20\n60,5\n"
FLASH = {"kind": "flash", "fluid": "oil"}


def written(tmp_path, text):
    path = tmp_path / "oil.csv"
    path.write_text(text)
    return path


def rows_of(tmp_path, text, document=None):
    """Fill a text and return the heads and rows of its first range of states."""
    path = written(tmp_path, text)
    found = fill(path, document)
    with (tmp_path / "oil results.csv").open(encoding="utf-8-sig", newline="") as file:
        rows = list(csv.reader(file))
    head = next(i for i, r in enumerate(rows) if r and r[0].startswith(("temperature", "T (", "pressure", "P (")))
    body = list(itertools.takewhile(lambda r: r and r[0][:1].isdigit(), rows[head + 1 :]))
    return rows[head], body, found


def direct(eos="PR78", **given):
    """Return the state of the same fluid asked of a document."""
    fluid = {"name": "oil", "parts": [{"component": n, "amount": a} for n, a in (("methane", 60), ("propane", 25), ("n-hexane", 15))], "model": {"eos": eos}}  # fmt: skip
    return answers({"format": "cryonome/1", "fluids": [fluid], "studies": [{"name": "s", **FLASH, **given}]})["s"]


def refused(tmp_path, text, document=None):
    path = written(tmp_path, text)
    with pytest.raises(ExchangeError) as error:
        fill(path, document)
    assert path.read_text() == text
    assert not (tmp_path / "oil results.csv").exists()
    return str(error.value)


def test_properties_are_named_as_people_name_them(tmp_path):
    wanted = "[properties]\nVapour fraction,density_kg_m3\nliquid density,vapour composition\n"
    heads, body, found = rows_of(tmp_path, f"{PARTS}\n{wanted}\n{STATES}")
    assert (found.states, found.failed) == (2, 0)
    state = direct(temperature="20 degC", pressure="20 bar")
    phases = {p["kind"]: p for p in state["phases"]}
    assert heads[2:5] == ["Vapour fraction", "Density (kg/m³)", "Density of the liquid (kg/m³)"]
    assert [float(c) for c in body[0][2:5]] == pytest.approx([state["vapour_fraction"], state["density_kg_m3"], phases["liquid"]["density_kg_m3"]])  # fmt: skip
    assert [float(c) for c in body[0][5:8]] == pytest.approx(list(phases["vapour"]["composition"].values()))


def test_a_word_stands_for_many_columns(tmp_path):
    heads, body, _ = rows_of(tmp_path, f"{PARTS}\n[properties]\ncomposition\nphases\n\n{STATES}")
    assert len(heads) == len(set(heads))
    assert sum("fraction of n-hexane" in h for h in heads) == 2  # in vapour and in liquid; there is no water
    assert any(h.startswith("Viscosity of the liquid") for h in heads)
    everything, _, _ = rows_of(tmp_path, f"{PARTS}\n[properties]\nall\n\n{STATES}")
    assert len(everything) > len(heads)
    assert len(body) == 2


def test_a_fluids_model_stands_in_a_range_of_its_own(tmp_path):
    for words, eos in (("eos,SRK", "SRK"), ("Equation of state,SRK", "SRK"), ("equation,VDW", "VDW")):
        _, body, _ = rows_of(tmp_path, f"{PARTS}\n[model_oil]\n{words}\n\n{STATES}")
        other = direct(eos, temperature="20 degC", pressure="20 bar")
        assert float(body[0][2]) == pytest.approx(other["vapour_fraction"], rel=1e-9)
    _, body, _ = rows_of(tmp_path, f"{PARTS}\n[model]\neos,SRK\n,\n\n{STATES}")  # of every fluid
    assert float(body[0][2]) == pytest.approx(direct("SRK", temperature="20 degC", pressure="20 bar")["vapour_fraction"], rel=1e-9)  # fmt: skip


@pytest.mark.parametrize(
    ("heads", "row", "given"),
    [
        ("T (degF),P (psia)", "68,290", {"temperature": "68 degF", "pressure": "290 psia"}),
        ("Pressure (bar),Enthalpy (kJ/kg)", "20,-200", {"pressure": "20 bar", "enthalpy": "-200 kJ/kg"}),
        ("pressure (bar),vapour fraction", "20,0.5", {"pressure": "20 bar", "vapour_fraction": 0.5}),
        ("temperature (K),density (kg/m3)", "300,40", {"temperature": "300 K", "density": "40 kg/m3"}),
        ("temperature,pressure", "20 degC,20 bar", {"temperature": "20 degC", "pressure": "20 bar"}),
    ],
)
def test_any_two_conditions_with_their_units(tmp_path, heads, row, given):
    path = written(tmp_path, f"{PARTS}\n[properties]\ntemperature_K,pressure_Pa,vapour_fraction\n\n[states_oil]\n{heads}\n{row}\n")  # fmt: skip
    assert fill(path, None, "SI").failed == 0
    with (tmp_path / "oil results.csv").open(encoding="utf-8-sig", newline="") as file:
        rows = list(csv.reader(file))
    at = next(i for i, r in enumerate(rows) if any(c.startswith("Vapour fraction") for c in r))
    place = {h.partition(" (")[0]: j for j, h in enumerate(rows[at])}
    state = direct(**given)
    assert float(rows[at + 1][place["Vapour fraction"]]) == pytest.approx(state["vapour_fraction"], rel=1e-8, abs=1e-12)
    assert 1e6 * float(rows[at + 1][place["Pressure"]]) == pytest.approx(state["pressure_Pa"], rel=1e-8)
    assert float(rows[at + 1][place["Temperature"]]) == pytest.approx(state["temperature_K"], rel=1e-8)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        (STATES, "A2: there is no fluid; name a range composition, or give a document"),
        (f"{PARTS}\n[composition_oil]\nC1,1\n\n{STATES}", "A8: the fluid 'oil' is there twice"),
        (f"[composition_oil]\ncomponent,mol%\n\n{STATES}", "the composition is empty; write a component and an amount in each row"),
        (f"[composition_oil]\nC1,60\nunobtanium,3\n\n{STATES}", "A3: "),
        (f"[composition_oil]\nC1,60\nC3,some\n\n{STATES}", "B3: 'some' is no amount"),
        (f"{PARTS}\n[model_oil]\ncolour,red\n\n{STATES}", "A8: unknown key 'colour' of a model"),
        (f"{PARTS}\n[properties]\ncolour\n\n{STATES}", "A8: "),
        (f"{PARTS}\n[states_gas]\ntemperature (degC),pressure (bar)\n20,20\n", "unknown fluid 'gas'"),
        (f"{PARTS}\n[states_oil]\ntemperature (degC),colour\n20,red\n", "names exactly two conditions"),
        (f"{PARTS}\n[states_oil]\ntemperature (degC),T (degF)\n20,70\n", "names exactly two conditions"),
        (f"{PARTS}\n[states_oil]\n", "the range is empty"),
        (f"{PARTS}\n{STATES}\n[beside_oil]\ndensity\n", "the range beside has 1 rows and its states 3"),
        (f"{PARTS}\n{STATES}\n[beside_oil]\ncolour\n1\n1\n", ""),
        (f"{PARTS}\n{STATES}\n[beside_oil]\ndensity (bar)\n1\n1\n", "'bar' is no unit of density"),
        (PARTS, "no range named states"),
        ("a text\nwithout ranges\n", "no range"),
    ],
)  # fmt: skip
def test_what_cannot_be_asked_is_refused_by_its_cell(tmp_path, text, told):
    assert told in refused(tmp_path, text)


def test_a_document_gives_its_fluids_and_one_of_the_same_name_is_told(tmp_path):
    fluid = {"name": "oil", "parts": [{"component": "methane", "amount": 1}, {"component": "n-hexane", "amount": 1}]}
    document = parse_document(json.dumps({"format": "cryonome/1", "fluids": [fluid]}))
    _, body, found = rows_of(tmp_path, STATES.replace("_oil", ""), document)
    assert found.failed == 0
    (own,) = answers({"format": "cryonome/1", "fluids": [fluid], "studies": [{"name": "s", **FLASH, "temperature": "20 degC", "pressure": "20 bar"}]}).values()  # fmt: skip
    assert float(body[0][2]) == pytest.approx(own["vapour_fraction"], rel=1e-9)
    (tmp_path / "oil results.csv").unlink()
    assert "the fluid 'oil' is there twice" in refused(tmp_path, f"{PARTS}\n{STATES}", document)
