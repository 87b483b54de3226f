"""The Python entry points: the example of the docs runs, and gives what the command line gives."""

from __future__ import annotations

import runpy
from pathlib import Path

import numpy as np
import pytest

import cryonome
from cryonome.errors import DomainError


def test_the_example_of_the_docs_runs(capsys):
    runpy.run_path(str(Path(__file__).parents[1] / "docs" / "example.py"))
    told = capsys.readouterr().out.splitlines()
    assert len(told) == 7
    # A gas let down from 80 bar to 60 bar without work or heat cools: at 80 bar its enthalpy is that of a warmer one.
    assert float(told[2]) > 277.15


def test_arrays_are_the_answers_of_the_command_line():
    hub = cryonome.open_demo()
    oil = hub.fluid("Varnholt recombined")
    answer = hub.answer("first separator")
    study = hub.document.study("first separator")
    states = oil.flash(temperature=[study.temperature, "70 degC"], pressure=study.pressure)
    assert states.shape == (2,)
    assert states["density_kg_m3"][0] == pytest.approx(answer["density_kg_m3"], rel=1e-12)
    liquid = next(p for p in answer["phases"] if p["kind"] == "liquid")
    assert states["liquid.viscosity_Pa_s"][0] == pytest.approx(liquid["viscosity_Pa_s"], rel=1e-12)
    assert states.composition("liquid")[0].sum() == pytest.approx(1.0, abs=1e-12)
    warmer = hub.with_value("studies[first separator].temperature", "70 degC").answer("first separator")
    assert states.vapour_fraction[1] == pytest.approx(warmer["vapour_fraction"], rel=1e-9)
    # By mass and by mole the same enthalpy.
    by_mass = float(states["enthalpy_J_mol"][0]) / float(oil.z @ oil.molar_mass)
    back = oil.flash(pressure=study.pressure, enthalpy=f"{by_mass!r} J/kg")
    assert float(back.temperature) == pytest.approx(float(states.temperature[0]), rel=1e-8)


def test_tables_keep_the_shape_of_their_axes_and_fit():
    gas = cryonome.open_demo().fluid("Selden gas")
    T, P = np.linspace(290.0, 320.0, 8), np.linspace(70e5, 120e5, 7)
    table = gas.table({"temperature": T, "pressure": P}, ["density_kg_m3"])
    single = gas.flash(temperature=float(T[3]), pressure=float(P[5]))
    assert table.values["density_kg_m3"][3, 5] == pytest.approx(float(single["density_kg_m3"]), rel=1e-10)
    formula = table.fit("density_kg_m3")
    assert float(formula(300.0, 90e5)) == pytest.approx(
        float(gas.flash(temperature=300.0, pressure=90e5)["density_kg_m3"]), rel=2e-4
    )


def test_mistakes_are_told_with_the_nearest_name():
    hub = cryonome.open_demo()
    gas = hub.fluid("Selden gas")
    for call, kind, told in (
        (lambda: hub.fluid("Selden gass"), KeyError, "Selden gas"),
        (lambda: gas.flash(temprature=300.0, pressure=1e5), ValueError, "temperature"),
        (lambda: gas.flash(temperature=300.0), ValueError, "exactly two"),
        (lambda: gas.flash(temperature="hot", pressure=1e5), DomainError, "temperature"),
        (lambda: gas.flash(temperature=300.0, pressure=1e5)["densty_kg_m3"], KeyError, "density_kg_m3"),
        (lambda: hub.with_value("fluids[Selden gas].parts[40].amount", 1), KeyError, "10 items"),
    ):
        with pytest.raises(kind, match=told.replace("(", r"\(")):
            call()


def test_shapes_broadcast_and_every_key_of_a_table_can_be_asked():
    gas = cryonome.open_demo().fluid("Selden gas")
    T, P = np.linspace(230.0, 300.0, 3)[:, None], np.array([10e5, 40e5, 70e5, 100e5])
    states = gas.flash(temperature=T, pressure=P)
    assert states.shape == states.temperature.shape == (3, 4)
    table = gas.table({"temperature": T.ravel(), "pressure": P}, ["density_kg_m3", "liquid.fraction"])
    assert states["density_kg_m3"] == pytest.approx(table.values["density_kg_m3"], rel=1e-12)
    # What the phases hold of a component is what the feed holds of it.
    names, z = gas.names, gas.z
    held = np.zeros((3, 4, len(names)))
    for phase in ("vapour", "liquid"):
        share = np.nan_to_num(states[f"{phase}.fraction"])
        held += share[..., None] * np.nan_to_num(states.composition(phase))
    assert held == pytest.approx(np.broadcast_to(z, held.shape), abs=1e-10)
    shares = sum(np.nan_to_num(states[f"{p}.mass_fraction"]) for p in ("vapour", "liquid"))
    assert shares == pytest.approx(1.0, abs=1e-12)


def test_units_of_text_are_those_of_numbers():
    gas = cryonome.open_demo().fluid("Selden gas")
    same = [
        gas.flash(temperature="50 degF", pressure="1000 psia"), gas.flash(temperature=283.15, pressure=6894757.293168),
        gas.flash(temperature="10 degC", pressure=["1000 psia"]), gas.flash(temperature="509.67 degR", pressure="985.304 psig"),
    ]  # fmt: skip
    values = [float(np.ravel(s["density_kg_m3"])[0]) for s in same]
    assert values == pytest.approx([values[0]] * 4, rel=1e-6)


def test_a_project_is_never_changed_and_shares_what_it_knows():
    hub = cryonome.open_demo()
    path = "fluids[Selden gas].parts[0].amount"
    before = hub.answer("first separator")
    other = hub.with_value(path, 3.0)
    assert hub.document is not other.document
    assert hub.document.fluid("Selden gas").parts[0].amount != 3.0
    assert other.document.fluid("Selden gas").parts[0].amount == 3.0
    assert hub.answer("first separator") == before
    assert not np.allclose(other.fluid("Selden gas").z, hub.fluid("Selden gas").z)
    assert np.allclose(other.fluid("Varnholt recombined").z, hub.fluid("Varnholt recombined").z)


def test_documents_are_answered_in_their_order_and_a_broken_one_is_told(tmp_path):
    good = '{"format": "cryonome/1", "fluids": [{"name": "F", "parts": [{"component": "propane", "amount": 1}]}], "studies": [{"name": "s", "kind": "flash", "fluid": "F", "temperature": "300 K", "pressure": "%s bar"}]}'
    found = list(cryonome.solve_many([good % 1, '{"format": "cryonome/1",', good % 20, tmp_path / "none.cryo"]))
    assert [f.get("error") is None for f in found] == [True, False, True, False]
    pressures = [f["answers"]["s"]["pressure_Pa"] for f in (found[0], found[2])]
    assert pressures == pytest.approx([1e5, 20e5])
    assert [p["kind"] for f in (found[0], found[2]) for p in f["answers"]["s"]["phases"]] == ["vapour", "liquid"]


def test_an_envelope_is_the_one_of_the_answer():
    hub = cryonome.open_demo()
    envelope = hub.fluid("Selden gas").envelope()
    answer = hub.ask("phase envelope of Selden gas").answer
    assert answer["cricondentherm"]["temperature_K"] == pytest.approx(envelope.cricondentherm.T, rel=1e-10)
    dews = envelope.crossings([1.0], T=235.0)
    for point in dews:
        state = hub.fluid("Selden gas").flash(temperature=point.T, pressure=point.P * (1.0 - 1e-6))
        beside = hub.fluid("Selden gas").flash(temperature=point.T, pressure=point.P * (1.0 + 1e-6))
        fractions = sorted([float(state.vapour_fraction), float(beside.vapour_fraction)])
        assert fractions[1] == 1.0
        assert 1.0 - 1e-4 < fractions[0] < 1.0
