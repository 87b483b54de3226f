"""Tables and their formulas: cells against single flashes, the formula by other code, and what is refused."""

from __future__ import annotations

import json
import math
import re

import numpy as np
import pytest

from ask import answers, faults
from cryonome.exchange.table_files import write_answer
from cryonome.questions.compact import fit_table
from cryonome.telling.sentences import Units
from cryonome.telling.table_blocks import property_blocks

FLUIDS = [
    {
        "name": "F",
        "parts": [{"component": c, "amount": a} for c, a in (("methane", 70), ("ethane", 10), ("n-butane", 20))],
    },
    {"name": "P", "parts": [{"component": "propane", "amount": 1}]},
]


def table(axes, properties=("density_kg_m3",), fluid="F", **more):
    return {"name": "t", "kind": "table", "fluid": fluid, "axes": list(axes), "properties": list(properties), **more}


def axis(variable, low, high, **more):
    return {"variable": variable, "from": low, "to": high, **more}


def solved(study):
    return answers({"format": "cryonome/1", "fluids": FLUIDS, "studies": [study]})["t"]


T_AXIS = axis("temperature", "-20 degC", "60 degC", steps=4)
P_AXIS = axis("pressure", "5 bar", "80 bar", steps=3)


@pytest.mark.parametrize(
    ("axes", "held", "names"),
    [
        ((T_AXIS, P_AXIS), {}, ("temperature", "pressure")),
        ((P_AXIS, axis("enthalpy", "-4 kJ/mol", "2 kJ/mol", steps=3)), {}, ("pressure", "enthalpy")),
        ((T_AXIS,), {"vapour_fraction": 0.5}, ("temperature", "vapour_fraction")),
        ((axis("density", "20 kg/m3", "300 kg/m3", steps=3, scale="logarithmic"),), {"temperature": "30 degC"}, ("density", "temperature")),
    ],
)  # fmt: skip
def test_cells_are_single_flashes(axes, held, names):
    keys = ("density_kg_m3", "vapour_fraction", "liquid.viscosity_Pa_s", "vapour.composition.methane", "vapour.Z")
    found = solved(table(axes, keys, **held))
    grids = np.meshgrid(*found["axes"], indexing="ij")
    compared = 0
    for place in np.ndindex(*grids[0].shape):
        values = dict(zip(names, [g[place] for g in grids] + [held.get(n) for n in names[len(axes) :]]))
        one = answers(
            {
                "format": "cryonome/1",
                "fluids": FLUIDS,
                "studies": [{"name": "t", "kind": "flash", "fluid": "F", **values}],
            }
        )["t"]
        phases = {p["kind"]: p for p in one.get("phases", ())}
        liquid, vapour = phases.get("liquid", {}), phases.get("vapour", {})
        want = (
            one.get("density_kg_m3"), one.get("vapour_fraction"), liquid.get("viscosity_Pa_s"), vapour.get("composition", {}).get("methane"),
            vapour.get("Z"),
        )  # fmt: skip
        for key, theirs in zip(keys, want):
            ours = found["properties"][key]
            for i in place:
                ours = ours[i]
            assert (ours is None) == (theirs is None), (key, values)
            if ours is not None:
                # What is held by a measured quantity is found to 1e-11 of that.
                assert ours == pytest.approx(
                    theirs, rel=1e-10 if names[0] == "temperature" and names[1] == "pressure" else 1e-7, abs=1e-9
                )
                compared += 1
    assert compared > 8


def formula_value(text: str, T: float, P: float) -> float:
    """Evaluate a spreadsheet's formula as Python would."""
    plain = text.removeprefix("=").replace("EXP(", "math.exp(").replace("LN(", "math.log(")
    return eval(plain, {"math": math, "T": T, "P": P})


def test_the_formula_does_what_it_says():
    axes = (axis("temperature", "80 degC", "160 degC", steps=12), axis("pressure", "2 bar", "60 bar", steps=15))
    made = solved(table(axes, compact="density_kg_m3"))["compact"]
    assert made["logarithm"]
    assert made["worst_error"] < 1e-4
    rng = np.random.default_rng(3)
    T, P = rng.uniform(*made["ranges"][0], 40), rng.uniform(*made["ranges"][1], 40)
    space: dict = {}
    exec(made["python"], space)
    for t, p in zip(T, P):
        ours = space["compact"](t, p)
        assert formula_value(made["formula"], t, p) == pytest.approx(ours, rel=1e-12)
    # Points between those of the table keep the error told, a little more at its edge.
    truth = [
        answers({"format": "cryonome/1", "fluids": FLUIDS, "studies": [{"name": "t", "kind": "flash", "fluid": "F", "temperature": t, "pressure": p}]})["t"]["density_kg_m3"]
        for t, p in zip(T[:12], P[:12])
    ]  # fmt: skip
    off = max(abs(space["compact"](t, p) / d - 1.0) for t, p, d in zip(T, P, truth))
    assert off < 2.0 * made["worst_error"]


def test_a_polynomial_is_found_exactly():
    x, y = np.linspace(300.0, 400.0, 9), np.linspace(1e5, 2e5, 8)
    X, Y = np.meshgrid(x, y, indexing="ij")
    values = 3.0 + 0.01 * X - 2e-5 * Y + 1e-7 * X * Y - 1e-5 * X**2
    made = fit_table("z", ("temperature", "pressure"), ("K", "Pa"), (x, y), values, np.zeros((9, 8, 1), np.int8))
    assert made.orders == (2, 1)
    assert made(X, Y) == pytest.approx(values, rel=1e-12)


def test_a_formula_over_a_change_of_phases_is_refused_with_what_would_do():
    found = solved(
        table((axis("temperature", "-40 degC", "120 degC", steps=16), P_AXIS | {"steps": 12}), compact="density_kg_m3")
    )
    # The numbers are there all the same.
    assert found["ok"]
    assert "compact" not in found
    assert np.isfinite(found["properties"]["density_kg_m3"]).all()
    told = next(n for n in found["notes"] if n.startswith("There is no formula for density_kg_m3"))
    assert "phases change" in told
    low, high = map(float, re.search(r"temperature (\S+) to (\S+),", told).groups())
    bottom, top = map(float, re.search(r"pressure (\S+) to (\S+) ", told).groups())
    region = (axis("temperature", low, high, steps=8), axis("pressure", bottom, top, steps=8))
    assert solved(table(region, compact="density_kg_m3"))["ok"]


@pytest.mark.parametrize(
    ("study", "place", "told"),
    [
        (table([axis("temperature", "60 degC", "20 degC", steps=4), P_AXIS]), "axes[0]", "reversed"),
        (table([axis("temperature", "20 degC", "60 degC", step="100 K"), P_AXIS]), "axes[0].step", "larger than the range"),
        (table([axis("temperature", "20 degC", "60 degC", step="0 K"), P_AXIS]), "axes[0].step", "above zero"),
        (table([axis("temperature", "20 degC", "60 degC"), P_AXIS]), "axes[0].steps", "number of steps"),
        (table([T_AXIS, P_AXIS], pressure="2 bar"), "studies[0]", "two together"),
        (table([T_AXIS]), "studies[0]", "two together"),
        (table([T_AXIS, T_AXIS]), "axes[1].variable", "already"),
        (table([axis("temperatur", "20 degC", "60 degC", steps=4), P_AXIS]), "axes[0].variable", "temperature"),
        (table([T_AXIS | {"steps": 3000}, P_AXIS | {"steps": 3000}]), "axes", "states are too many"),
        (table([T_AXIS, P_AXIS], ["density"]), "properties[0]", "density_kg_m3"),
        (table([T_AXIS, P_AXIS], ["viscosity_Pa_s"]), "properties[0]", "property of a phase"),
        (table([T_AXIS, P_AXIS], ["solid.fraction"]), "properties[0]", "no phase"),
        (table([T_AXIS, P_AXIS], []), "properties", "empty"),
        (table([T_AXIS, P_AXIS], compact="Z"), "compact", "property of the table"),
        (table([axis("enthalpy", "-4 kJ/mol", "2 kJ/kg", steps=3), P_AXIS]), "axes[0]", "partly by mole"),
    ],
)  # fmt: skip
def test_what_cannot_be_asked_is_told(study, place, told):
    found = faults({"format": "cryonome/1", "fluids": FLUIDS, "studies": [study]})
    assert any(place in str(f) and told in f.message for f in found), [str(f) for f in found]


def test_a_missing_component_is_no_answer():
    found = solved(table([T_AXIS, P_AXIS], ["vapour.composition.hexane"]))
    assert not found["ok"]
    assert "n-butane" in found["error"] or "methane" in found["error"]
    json.dumps(found, allow_nan=False)


def test_an_axis_by_mass_is_told_by_mass_on_the_sheet_and_in_the_file(tmp_path):
    """40 kJ/kg on the axis is 40 kJ/kg everywhere: neither its number nor its unit is that of a mole."""
    study = table([P_AXIS, axis("enthalpy", "-40 kJ/kg", "80 kJ/kg", steps=3)])
    found = solved(study)
    assert found["axes"][1] == pytest.approx([-40e3, 0.0, 40e3, 80e3], abs=1e-9)
    units = Units.of("metric")
    across = property_blocks(found, units)[0]
    assert "kJ/kg" in str(across.columns)
    write_answer(tmp_path / "t.json", found, units)
    axes = json.loads((tmp_path / "t.json").read_text())["axes"]
    assert [(a["unit"], a["values"][-1]) for a in axes] == [("Pa", 8e6), ("J/kg", pytest.approx(80e3))]
    write_answer(tmp_path / "t.csv", found, units)
    head, first = (tmp_path / "t.csv").read_text().splitlines()[:2]
    assert "(kJ/kg)" in head
    assert "kJ/mol" not in head
    assert float(first.split(",")[1]) == pytest.approx(-40.0)
    one = answers({"format": "cryonome/1", "fluids": FLUIDS, "studies": [
        {"name": "t", "kind": "flash", "fluid": "F", "pressure": "5 bar", "enthalpy": "-40 kJ/kg"}]})["t"]  # fmt: skip
    assert found["properties"]["density_kg_m3"][0][0] == pytest.approx(one["density_kg_m3"], rel=1e-7)
