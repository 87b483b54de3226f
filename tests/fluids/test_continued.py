"""Phases that are not there, continued: against the traced envelope, the equation itself, and from cell to cell."""

from __future__ import annotations

import json

import numpy as np
import pytest

import cryonome
from cryonome.errors import DomainError

T = np.linspace(263.0, 423.0, 5)
P = np.geomspace(1e5, 4e7, 8)
KEYS = (
    "vapour_fraction", "vapour_mass_fraction", "vapour.fraction", "liquid.mass_fraction", "vapour.density_kg_m3", "liquid.density_kg_m3",
    "liquid.viscosity_Pa_s", "vapour.enthalpy_J_mol", "liquid.density_by_pressure_kg_m3_Pa", "surface_tension_N_m",
)  # fmt: skip
WET = ("aqueous.density_kg_m3", "vapour.mass_composition.water", "gas_water_tension_N_m", "oil_water_tension_N_m")


@pytest.fixture(scope="module")
def project():
    return cryonome.open_demo()


@pytest.mark.parametrize(
    ("name", "keys"),
    [
        ("Quillmoor reservoir gas", KEYS), ("Varnholt recombined", KEYS), ("Varnholt stock-tank oil", KEYS), ("Selden gas", KEYS),
        ("Injection carbon dioxide", KEYS), ("Quillmoor wet stream", (*KEYS, *WET)),
    ],
)  # fmt: skip
def test_no_cell_is_empty_and_what_is_there_is_as_it_was(project, name, keys):
    fluid = project.fluid(name)
    axes = {"temperature": T, "pressure": P}
    plain, whole = fluid.table(axes, keys), fluid.table(axes, keys, continued=True)
    other = np.zeros((T.size, P.size), dtype=bool)
    if name == "Quillmoor wet stream":
        # Dense states close below the critical temperature are told by what forms from them.
        other = (plain.values["vapour.fraction"] > 0.0) & (whole.values["vapour.fraction"] == 0.0)
        assert other.sum() <= 2
    for key in keys:
        cells = whole.values[key]
        assert np.isfinite(cells).all(), key
        there = np.isfinite(plain.values[key]) & ~other
        assert cells[there] == pytest.approx(plain.values[key][there], rel=1e-12), key
    # What is absent has no share, and the shares are one.
    gone = np.isnan(plain.values["vapour.fraction"]) & ~other
    assert (whole.values["vapour.fraction"][gone] == 0.0).all()
    codes = {r.code for r in whole.frozen}
    assert "table.continued" in codes
    assert (whole.values["vapour.density_kg_m3"] > 0.0).all()


@pytest.mark.parametrize(("kind", "beta", "factor"), [("vapour", 0.0, 1.4), ("liquid", 1.0, 0.6)])
def test_an_absent_phase_is_the_incipient_one_of_the_traced_line_at_the_cells_pressure(project, kind, beta, factor):
    fluid = project.fluid("Varnholt recombined" if kind == "vapour" else "Selden gas")
    at = 380.0 if kind == "vapour" else 235.0
    # Of a gas the lower of its dew points: below it there is no liquid.
    point = fluid.envelope().crossings([beta], T=at)[0]
    incipient = point.y if kind == "vapour" else point.x
    pressure = factor * point.P
    found = fluid.table(
        {"temperature": [at], "pressure": [pressure]},
        [f"{kind}.composition.methane", f"{kind}.Z", f"{kind}.fraction"],
        continued=True,
    ).values
    assert found[f"{kind}.fraction"][0, 0] == 0.0
    methane = fluid.names.index("methane")
    assert found[f"{kind}.composition.methane"][0, 0] == pytest.approx(incipient[methane], rel=1e-6)
    prepared = fluid.model.eos.prepare(np.array([at]), np.array([pressure]))
    Z = float(prepared.ln_phi(incipient[None], kind)[1][0])
    shift = float(incipient @ fluid.model.substance.shifts.at(np.array([at]))[0])
    own = Z - shift * pressure / (8.31446261815324 * at)
    assert found[f"{kind}.Z"][0, 0] == pytest.approx(own, rel=1e-6)


@pytest.mark.parametrize(
    ("name", "axes"),
    [
        # Across the bubble line, the dew line, the cricondentherm, and past the critical temperature above the bubble line.
        ("Varnholt recombined", {"temperature": [365.0], "pressure": np.linspace(150e5, 220e5, 281)}),
        ("Selden gas", {"temperature": [240.0], "pressure": np.linspace(5e5, 90e5, 341)}),
        ("Selden gas", {"temperature": np.linspace(225.0, 290.0, 131), "pressure": [30e5]}),
        ("Quillmoor reservoir gas", {"temperature": np.linspace(265.0, 290.0, 101), "pressure": [390e5]}),
    ],
)
def test_nothing_steps_where_a_phase_comes_or_goes(project, name, axes):
    keys = ("vapour.density_kg_m3", "liquid.density_kg_m3", "liquid.viscosity_Pa_s", "vapour.enthalpy_J_mol")
    found = project.fluid(name).table(axes, keys, continued=True)
    for key in keys:
        cells = found.values[key].ravel()
        assert np.isfinite(cells).all(), key
        step = np.abs(np.diff(cells)) / (np.abs(cells).max())
        # No step is out of proportion to those beside it.
        beside = np.maximum(np.r_[step[1:], step[-1]], np.r_[step[0], step[:-1]])
        assert (step < 5.0 * beside + 4e-3).all(), (key, step.max())


def test_a_liquid_without_a_root_keeps_the_values_of_the_end_of_it():
    """One component: a vapour above and a liquid below its vapour pressure, and a liquid above its critical
    temperature, which ends at the critical density."""
    project = cryonome.open_demo()
    fluid = project.fluid("Injection carbon dioxide")
    axes = {"temperature": [270.0, 303.0, 340.0], "pressure": np.geomspace(1e5, 3e7, 60)}
    table = fluid.table(axes, ["liquid.density_kg_m3", "vapour.density_kg_m3"], continued=True)
    liquid, vapour = table.values["liquid.density_kg_m3"], table.values["vapour.density_kg_m3"]
    assert (np.diff(liquid, axis=1) > -1e-6 * liquid[:, 1:]).all()
    # The denser of the two everywhere, and no gas is called a liquid.
    assert (liquid >= vapour * (1.0 - 1e-9)).all()
    assert (liquid > 380.0).all()
    assert {r.code for r in table.frozen} >= {"table.held", "table.continued"}


def test_of_two_liquids_the_lighter_has_the_place_of_the_vapour_and_the_shares_are_one():
    """Carbon dioxide with heavy oil in the cold: a flash finds two liquids and no vapour."""
    document = {
        "format": "cryonome/1",
        "fluids": [
            {
                "name": "F",
                "parts": [{"component": n, "amount": a} for n, a in (("carbon dioxide", 80), ("n-hexadecane", 20))],
            }
        ],
    }
    fluid = cryonome.open(json.dumps(document)).fluid("F")
    axes = {"temperature": [275.0], "pressure": [80e5, 120e5]}
    keys = [
        "vapour.fraction",
        "liquid.fraction",
        "vapour_fraction",
        "vapour_mass_fraction",
        "vapour.mass_fraction",
        "liquid.mass_fraction",
    ]
    plain, whole = fluid.table(axes, keys), fluid.table(axes, keys, continued=True)
    assert np.isnan(plain.values["vapour.fraction"]).all()
    assert (plain.values["liquid.fraction"] < 1.0).all()
    v = whole.values
    assert v["vapour.fraction"] + v["liquid.fraction"] == pytest.approx(1.0, abs=1e-9)
    assert (v["vapour.fraction"] > 0.1).all()
    assert v["vapour_fraction"] == pytest.approx(v["vapour.fraction"], rel=1e-12)
    assert v["vapour_mass_fraction"] == pytest.approx(v["vapour.mass_fraction"], rel=1e-12)
    assert v["vapour.mass_fraction"] + v["liquid.mass_fraction"] == pytest.approx(1.0, abs=1e-9)
    assert "table.renamed" in {r.code for r in whole.frozen}


def test_a_component_that_is_not_there_is_refused(project):
    with pytest.raises(DomainError, match="no component 'unobtainium'"):
        project.fluid("Selden gas").table(
            {"temperature": [300.0], "pressure": [1e5]}, ["vapour.mass_composition.unobtainium"], continued=True
        )
