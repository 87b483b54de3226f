"""Heat capacities, speed of sound and the like against differences of what they are derivatives of, and against tables."""

from __future__ import annotations

import numpy as np
import pytest

from ask import fluid_of
from cryonome.components import find
from cryonome.demo import demo_document
from cryonome.eos.building import Interaction, equation_of, family_of, volume_shift
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.flash import flash_pt
from cryonome.fluids.states import full_states
from cryonome.properties import Reference, Substance, evaluate


def test_every_derivative_is_the_difference_it_stands_for():
    crude = fluid_of(demo_document(), 2)
    T, P, dT, dP = 450.0, 4e7, 0.05, 5e3
    states = full_states(crude, [T, T - dT, T + dT, T, T], [P, P, P, P - dP, P + dP])
    v = {k: values[:, 0] for k, values in states.values.phase.items()}
    by_T, by_P = ({k: (x[j] - x[i]) / (2 * h) for k, x in v.items()} for i, j, h in ((1, 2, dT), (3, 4, dP)))
    V = v["molar_volume"][0]
    cp, cv = v["heat_capacity_p"][0], v["heat_capacity_v"][0]
    assert cp == pytest.approx(by_T["enthalpy"], rel=1e-7)
    assert v["isothermal_compressibility"][0] == pytest.approx(-by_P["molar_volume"] / V, rel=1e-6)
    assert v["thermal_expansion"][0] == pytest.approx(by_T["molar_volume"] / V, rel=1e-6)
    assert v["joule_thomson"][0] == pytest.approx(-by_P["enthalpy"] / cp, rel=1e-6)
    assert v["density_by_temperature"][0] == pytest.approx(by_T["density"], rel=1e-6)
    assert v["density_by_pressure"][0] == pytest.approx(by_P["density"], rel=1e-6)
    assert v["enthalpy_by_pressure"][0] == pytest.approx(by_P["enthalpy"], rel=1e-6)
    # Cp - Cv = -T (dV/dT)^2 / (dV/dP)
    assert cp - cv == pytest.approx(-T * by_T["molar_volume"] ** 2 / by_P["molar_volume"], rel=1e-6)
    # The speed of sound from the isentropic compressibility, w2 = -V2 (dP/dV)_S / M.
    isentropic = by_P["molar_volume"] - by_T["molar_volume"] * by_P["entropy"] / by_T["entropy"]
    assert v["speed_of_sound"][0] ** 2 == pytest.approx(-(V**2) / isentropic / v["molar_mass"][0], rel=1e-6)
    assert by_T["gibbs"] == pytest.approx(-v["entropy"][0], rel=1e-6)
    assert by_P["gibbs"] == pytest.approx(V, rel=1e-7)
    assert v["internal_energy"][0] == pytest.approx(v["enthalpy"][0] - P * V, rel=1e-12)


@pytest.mark.parametrize("eos", ["PR78", "SRK", "RK", "VDW", "PC-SAFT"])
@pytest.mark.parametrize("shift", ["none", "density"])
def test_a_split_fluid_answers_as_a_whole(eos, shift):
    """Heat capacity and the rest of two phases that exchange matter, against differences of flashes, fourth order."""
    parts = tuple(find(n) for n in ("methane", "carbon dioxide", "n-butane", "n-decane"))
    pairs = Interaction(library_kij(parts, family_of(eos)))
    equation = equation_of(eos, parts, pairs, "published")
    own = Substance(equation, parts, volume_shift(shift, eos, parts, equation))
    T, P, dT, dP = 350.0, 6e6, 0.04, 2e3
    steps = np.array([0, -2, -1, 1, 2])
    at_T, at_P = np.concatenate([T + dT * steps, np.full(4, T)]), np.concatenate([np.full(5, P), P + dP * steps[1:]])
    found = flash_pt(equation, at_T, at_P, np.array([0.5, 0.1, 0.2, 0.2]))
    assert found.split.all()
    v = evaluate(own, found).whole

    def slope(key: str, by: str) -> float:
        w = v[key][1:5] if by == "T" else v[key][5:9]
        return float((w[0] - 8 * w[1] + 8 * w[2] - w[3]) / (12 * (dT if by == "T" else dP)))

    cp, V = v["heat_capacity_p"][0], v["molar_volume"][0]
    near = pytest.approx
    assert cp == near(slope("enthalpy", "T"), rel=1e-7)
    assert cp == near(T * slope("entropy", "T"), rel=1e-7)
    assert v["thermal_expansion"][0] == near(slope("molar_volume", "T") / V, rel=1e-7)
    assert v["isothermal_compressibility"][0] == near(-slope("molar_volume", "P") / V, rel=1e-7)
    assert v["joule_thomson"][0] == near(-slope("enthalpy", "P") / cp, rel=1e-7)
    for key, by, of in (
        ("density_by_temperature", "T", "density"),
        ("density_by_pressure", "P", "density"),
        ("enthalpy_by_pressure", "P", "enthalpy"),
    ):
        assert v[key][0] == near(slope(of, by), rel=1e-7), key
    bend = slope("molar_volume", "T") ** 2 / slope("molar_volume", "P")
    assert v["heat_capacity_v"][0] == near(cp + T * bend, rel=1e-7)
    isentropic = slope("molar_volume", "P") - slope("molar_volume", "T") * slope("entropy", "P") / slope("entropy", "T")
    assert v["speed_of_sound"][0] ** 2 == near(-(V**2) / isentropic / v["molar_mass"][0], rel=1e-7)
    assert slope("gibbs", "T") == near(-v["entropy"][0], rel=1e-7)
    assert slope("gibbs", "P") == near(V, rel=1e-7)


@pytest.mark.parametrize(
    ("name", "T", "P", "cp", "sound", "jt"),
    [
        ("methane", 300.0, 1e5, 35.8, 450.0, 0.44), ("methane", 300.0, 1e7, 48.0, 444.0, 0.32), ("nitrogen", 300.0, 1e5, 29.2, 353.2, 0.214),
        ("carbon dioxide", 300.0, 1e5, 37.6, 269.0, 1.09), ("methane", 120.0, 1e6, 56.5, 1295.0, -0.035),
    ],
)  # fmt: skip
def test_heat_capacity_sound_and_joule_thomson_of_pure_fluids(name, T, P, cp, sound, jt):
    """Reference equations of state: J/(mol K), m/s and K/bar. A cubic's liquids are too soft by some 6 %."""
    parts = (find(name),)
    eos = equation_of("PR78", parts, Interaction(np.zeros((1, 1))))
    own = Substance(eos, parts, volume_shift("density", "PR78", parts, eos))
    v = {k: float(x[0, 0]) for k, x in evaluate(own, flash_pt(eos, [T], [P], np.ones(1))).phase.items()}
    assert v["heat_capacity_p"] == pytest.approx(cp, rel=0.015)
    assert v["speed_of_sound"] == pytest.approx(sound, rel=0.07 if T < 200 else 0.02)
    assert 1e5 * v["joule_thomson"] == pytest.approx(jt, rel=0.16)


def test_reference_states():
    parts = tuple(find(n) for n in ("methane", "n-hexane"))
    eos = equation_of("PR78", parts, Interaction(np.zeros((2, 2))))
    shift = volume_shift("density", "PR78", parts, eos)

    def of(reference: Reference, T: float, P: float, x: list[float]) -> dict[str, float]:
        own = Substance(eos, parts, shift, reference)
        values = evaluate(own, flash_pt(eos, [T], [P], np.array(x)), ("enthalpy", "entropy", "gibbs"))
        return {k: float(v[0]) for k, v in values.whole.items()}

    thin = of(Reference("elements"), 298.15, 1.0, [1.0, 0.0])
    assert thin["enthalpy"] == pytest.approx(-74.59e3, abs=20.0)
    P = 101325.0
    # Gibbs energy of formation of methane as an ideal gas at 1 atm.
    gas = of(Reference("elements"), 298.15, P, [1.0, 0.0])
    assert gas["gibbs"] == pytest.approx(-50.5e3, abs=60.0)
    saturated = float(np.exp(np.log(20.2e3)))
    liquid = of(Reference("saturated liquid", 298.15), 298.15, saturated * 1.3, [0.0, 1.0])
    assert liquid["enthalpy"] == pytest.approx(0.0, abs=10.0)
    assert liquid["entropy"] == pytest.approx(0.0, abs=0.05)
    # A difference between two states does not hang on the reference, and every reaction heat is that of the elements.
    for one, other in (("ideal gas", "elements"), ("ideal gas", "saturated liquid")):
        a, b = (
            of(Reference(k), 400.0, 1e6, [0.5, 0.5])["enthalpy"] - of(Reference(k), 320.0, 1e6, [0.5, 0.5])["enthalpy"]
            for k in (one, other)
        )
        assert a == pytest.approx(b, abs=1e-6)
