"""Solid carbon dioxide against its published lines, its heats, and itself."""

import numpy as np
import pytest

from ask import answers
from cryonome.components import find
from cryonome.constants import R
from cryonome.eos import FORMS, CubicEos
from cryonome.solids.frost import TRIPLE_P, TRIPLE_T, Frost, coexistence, ln_solid_fugacity


def frost(**parts):
    made = [find(n.replace("_", " ")) for n in parts]
    arrays = [np.array([getattr(c, k) for c in made]) for k in ("Tc", "Pc", "omega")]
    kij = np.full((len(made), len(made)), 0.1) * (1.0 - np.eye(len(made)))
    z = np.array(list(parts.values()), float)
    return Frost(CubicEos(FORMS["PR78"], *arrays, kij), z / z.sum(), list(parts).index("carbon_dioxide"))


def test_published_points_of_the_pure_solid():
    """It boils at 194.686 K under one atmosphere; at the triple point both lines meet (Span and Wagner, 1996)."""
    assert coexistence(np.array([194.686]))[0] == pytest.approx(101325.0, rel=2e-4)
    assert coexistence(np.array([TRIPLE_T, TRIPLE_T + 1e-9])) == pytest.approx([TRIPLE_P] * 2, rel=1e-6)
    pure = frost(carbon_dioxide=1)
    assert pure.temperatures(np.array([101325.0]))[0] == pytest.approx(194.686, abs=0.01)
    # Melting under 20 bar, by the melting line itself; the equation's own vapour pressure at the triple point is a hair off.
    assert pure.temperatures(np.array([5e6]))[0] == pytest.approx(217.5, abs=0.5)


@pytest.mark.parametrize(
    ("T", "other", "kilojoules"), [(190.0, "vapour", 25.2), (205.0, "vapour", 24.6), (214.0, "liquid", 9.0)]
)
def test_heats_of_the_solid_are_those_measured(T, other, kilojoules):
    """d ln(f_solid/f)/d(1/T) = -dH/R: sublimation 25.2 kJ/mol at 195 K, fusion 9.02 kJ/mol at 216.6 K (Giauque and Egan, 1937)."""
    eos = frost(carbon_dioxide=1).pure
    t, P = np.array([T - 0.5, T + 0.5]), np.full(2, 2e5)
    fluid = eos.prepare(t, P).ln_phi(np.ones((2, 1)), other)[0][:, 0] + np.log(P)
    rise = np.diff(ln_solid_fugacity(eos, t, P) - fluid)[0] / np.diff(1.0 / t)[0]
    assert -R * rise == pytest.approx(1e3 * kilojoules, rel=0.06)


def test_frost_is_where_fugacities_meet_and_less_gas_freezes_colder():
    T = []
    for share in (0.02, 0.1, 0.4, 0.9):
        own = frost(methane=1.0 - share, carbon_dioxide=share)
        P = np.array([5e5, 2e6])
        found = own.temperatures(P)
        assert own.at(found, P) == pytest.approx([0.0, 0.0], abs=1e-5)
        assert (own.at(found - 0.5, P) > 0.0).all()
        T.append(found)
    assert (np.diff(np.array(T), axis=0) > 0.0).all()


def test_states_paths_and_tables_tell_of_it():
    fluid = {
        "name": "F",
        "parts": [{"component": "methane", "amount": 80}, {"component": "carbon dioxide", "amount": 20}],
    }
    stations = [
        {"name": "in", "temperature": "-20 degC", "pressure": "60 bar"},
        {"name": "out", "temperature": "-85 degC", "pressure": "15 bar"},
    ]
    found = answers({
        "format": "cryonome/1", "fluids": [fluid], "studies": [
            {"name": "cold", "kind": "flash", "fluid": "F", "temperature": "-85 degC", "pressure": "15 bar"},
            {"name": "warm", "kind": "flash", "fluid": "F", "temperature": "-40 degC", "pressure": "15 bar"},
            {"name": "path", "kind": "path", "fluid": "F", "stations": stations},
            {"name": "table", "kind": "table", "fluid": "F", "axes": [{"variable": "temperature", "values": ["-85 degC", "-40 degC"]}], "pressure": "15 bar", "properties": ["density_kg_m3"]},
            {"name": "lines", "kind": "envelope", "fluid": "F"},
        ],
    })  # fmt: skip
    (told,) = [n for n in found["cold"]["notes"] if "freezes out below" in n]
    assert not any("freezes" in n for n in found["warm"]["notes"])
    assert any("In 1 of 2 states" in n for n in found["table"]["notes"])
    line = found["lines"]["frost"]
    limit = float(np.interp(np.log(15e5), np.log(line["pressure_Pa"]), line["temperature_K"]))
    margin = found["path"]["stations"][1]["margins"]["frost_margin_K"]
    assert margin == pytest.approx(188.15 - limit, abs=0.1)
    assert f"{limit - 273.15:.1f}".replace("-", "−") in told
    assert found["path"]["least"][0]["limit"] in ("frost", "hydrate", "ice")
    assert any("solid carbon dioxide limit is passed" in n for n in found["path"]["notes"])
