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
