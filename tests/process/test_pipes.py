"""Pipes: published numbers of friction and sizes, two phases against another way to write them, and lines that keep
mass, momentum and energy."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.process.friction import colebrook, erosional_velocity, friction_factor
from cryonome.process.line_profile import Leg, PressureLostError, march
from cryonome.process.pipe_flow import content, passes, sized
from cryonome.process.pipe_sizes import pipe_sizes, size_named
from cryonome.process.two_phase import (
    DISTRIBUTED,
    INTERMITTENT,
    SEGREGATED,
    TRANSITION,
    Flowing,
    beggs_brill,
    homogeneous,
    regime_of,
)
from plant import GAS, medium, stream


def test_friction_of_a_textbook():
    """White, Fluid Mechanics (2011), example 6.7: 0.2 m3/s of oil of 900 kg/m3 and 1e-5 m2/s through 500 m of 200 mm
    cast iron, 0.26 mm rough: Re 128000, f 0.0225, head lost 117 m."""
    v = 0.2 / (0.25 * np.pi * 0.2**2)
    Re = v * 0.2 / 1e-5
    assert pytest.approx(128000, rel=0.01) == Re
    f = float(friction_factor(Re, 0.26 / 200))
    assert f == pytest.approx(0.0225, rel=0.012)
    assert f * 500 / 0.2 * v**2 / (2 * 9.81) == pytest.approx(117, rel=0.015)


@given(st.floats(4e3, 1e8), st.floats(0.0, 0.05))
def test_the_closed_form_is_colebrooks_equation(Re, k):
    f = float(colebrook(Re, k))
    assert 1 / np.sqrt(f) == pytest.approx(-2 * np.log10(k / 3.7 + 2.51 / (Re * np.sqrt(f))), rel=1e-12)


def test_laminar_flow_and_the_erosional_velocity():
    assert float(friction_factor(1000.0, 0.01)) == pytest.approx(0.064)
    # API RP 14E: 100/sqrt(1 lb/ft3) is 100 ft/s.
    assert float(erosional_velocity(16.018463)) == pytest.approx(30.48, rel=1e-6)


def test_sizes_of_the_standard():
    """ASME B36.10M: inside diameters, in."""
    inside = {
        ("4", "40"): 4.026,
        ("8", "40"): 7.981,
        ("2", "80"): 1.939,
        ("12", "STD"): 12.0,
        ("24", "160"): 19.312,
        ("1/2", "XXS"): 0.252,
    }
    for (nominal, schedule), inches in inside.items():
        found = size_named(nominal)
        assert found is not None
        assert found.inside(schedule) == pytest.approx(inches * 0.0254, abs=1e-6), nominal
    assert size_named('1 1/2"') is size_named("1-1/2")
    for a, b in zip(pipe_sizes(), pipe_sizes()[1:]):
        assert a.outside < b.outside
        numbered = [
            a.walls[s] for s in ("5", "10", "20", "30", "40", "60", "80", "100", "120", "140", "160") if s in a.walls
        ]
        assert numbered == sorted(numbered)


FEET, POUNDS = 0.3048, 16.018463373960142


def _flow(liquid, gas, rho_l=800.0, rho_g=40.0, mu_l=1e-3, mu_g=1.2e-5, tension=0.02, P=50e5, D=0.15, k=3e-4, sine=0.0):
    values = (liquid, gas, rho_l, rho_g, mu_l, mu_g, tension, P, D, k, sine)
    return Flowing(*(np.atleast_1d(np.asarray(v, float)) for v in values))


def _in_field_units(flow):
    """Beggs and Brill as printed for ft, lb, dyn/cm: NLv = 1.938 vsl (rho/sigma)^(1/4), g = 32.174 ft/s2."""
    vsl, vsg, D = (float(v[0]) / FEET for v in (flow.liquid, flow.gas, flow.diameter))
    rho, sigma = float(flow.liquid_density[0]) / POUNDS, 1e3 * float(flow.tension[0])
    lam, fr = vsl / (vsl + vsg), (vsl + vsg) ** 2 / (32.174 * D)
    number = 1.938 * vsl * (rho / sigma) ** 0.25
    table = {
        SEGREGATED: (0.98, 0.4846, 0.0868),
        INTERMITTENT: (0.845, 0.5351, 0.0173),
        DISTRIBUTED: (1.065, 0.5824, 0.0609),
    }
    rise = {SEGREGATED: (0.011, -3.768, 3.539, -1.614), INTERMITTENT: (2.96, 0.305, -0.4473, 0.0978)}
    angle = np.degrees(np.arcsin(float(flow.sine[0])))

    def holdup(kind):
        a, b, c = table[kind]
        level = max(a * lam**b / fr**c, lam)
        d, e, f, g = (4.70, -0.3692, 0.1244, -0.5056) if angle < 0 else rise.get(kind, (1, 0, 0, 0))
        C = max((1 - lam) * np.log(d * lam**e * number**f * fr**g), 0.0) if angle < 0 or kind in rise else 0.0
        x = np.radians(1.8 * angle)
        return level * (1 + C * (np.sin(x) - np.sin(x) ** 3 / 3))

    kind = int(regime_of(np.array([lam]), np.array([fr]))[0])
    if kind == TRANSITION:
        L2, L3 = 0.0009252 * lam**-2.4684, 0.1 * lam**-1.4516
        A = (L3 - fr) / (L3 - L2)
        found = A * holdup(SEGREGATED) + (1 - A) * holdup(INTERMITTENT)
    else:
        found = holdup(kind)
    found *= 0.924 if angle > 0 else 0.685 if angle < 0 else 1.0
    return min(max(found, lam if angle >= 0 else 1e-6), 1.0), kind


@given(st.floats(0.02, 3.0), st.floats(0.05, 15.0), st.floats(-1.0, 1.0))
def test_holdup_is_that_of_the_equations_in_field_units(liquid, gas, sine):
    flow = _flow(liquid, gas, sine=sine)
    found = beggs_brill(flow)
    if flow.share[0] < 0.01:
        assert np.isnan(found.holdup[0])
        assert found.friction[0] == homogeneous(flow).friction[0]
        return
    holdup, kind = _in_field_units(flow)
    assert found.regime[0] == kind
    assert found.holdup[0] == pytest.approx(holdup, rel=2e-4)
    rho = found.holdup[0] * 800.0 + (1 - found.holdup[0]) * 40.0
    assert found.weight[0] == pytest.approx(rho * 9.80665 * sine, rel=1e-12, abs=1e-9)


def test_regimes_at_the_corners_of_their_map():
    lam, fr = np.array([0.005, 0.1, 0.1, 0.1, 0.1, 0.6]), np.array([10.0, 0.1, 1.0, 20.0, 400.0, 40.0])
    assert regime_of(lam, fr).tolist() == [SEGREGATED, SEGREGATED, TRANSITION, INTERMITTENT, DISTRIBUTED, DISTRIBUTED]


def test_one_phase_is_darcys_by_every_method():
    for flow in (_flow(0.0, 8.0), _flow(1.5, 0.0)):
        a, b = homogeneous(flow), beggs_brill(flow)
        assert a.total[0] == b.total[0]
        rho, v = flow.density[0], flow.velocity[0]
        assert a.friction[0] == pytest.approx(a.factor[0] * rho * v**2 / 0.3, rel=1e-12)


def test_a_gas_line_against_the_isothermal_integral():
    """Isothermal gas in a level pipe: P1^2 - P2^2 = f Z R T G^2 L / (M D) with the mean Z; an insulated line keeps its
    enthalpy, so that it cools by expansion."""
    m = medium(GAS)
    z = stream(m, GAS, 300.0, 80e5).z[0]
    flow, D, L = 900.0, 0.3, 60e3
    still = march(m, z, flow, [Leg("end", L, 0.0, 300.0, 500.0)], D, 4.6e-5, "homogeneous", 300.0, 80e5)
    P1, P2 = still.stream.P[0], still.stream.P[-1]
    G = flow * float(m.mass(z)) / (0.25 * np.pi * D**2)
    Z = (still.stream.P * still.stream.v / (8.31446 * still.stream.T)).mean()
    f = still.gradient.factor.mean()
    fall = f * Z * 8.31446 * still.stream.T.mean() * G**2 * L / (float(m.mass(z)) * D)
    assert pytest.approx(fall, rel=0.01) == P1**2 - P2**2
    kept = march(m, z, flow, [Leg("end", L, 0.0, 300.0, 0.0)], D, 4.6e-5, "homogeneous", 300.0, 80e5)
    v = flow * kept.stream.v / (0.25 * np.pi * D**2)
    total = kept.stream.h + 0.5 * v**2 * float(m.mass(z))
    np.testing.assert_allclose(total, total[0], atol=1e-3)
    assert kept.stream.T[-1] < 300.0 - 3.0


def test_heat_lost_is_what_the_stream_loses_and_the_way_back_is_the_way_there():
    m = medium(GAS)
    z = stream(m, GAS, 320.0, 90e5).z[0]
    legs = [Leg("base", 8e3, -60.0, 278.0, 8.0), Leg("top", 300.0, 250.0, 283.0, 15.0)]
    there = march(m, z, 600.0, legs, 0.2, 4.6e-5, "beggs-brill", 330.0, 90e5)
    v = there.velocity
    inside = 600.0 * (there.stream.h + 0.5 * v**2 * float(m.mass(z)) + 9.80665 * there.elevation * float(m.mass(z)))
    assert inside[0] - inside[-1] == pytest.approx(there.heat, rel=1e-6)
    back = march(m, z, 600.0, legs, 0.2, 4.6e-5, "beggs-brill", 330.0, None, float(there.stream.P[-1]))
    assert back.stream.P[0] == pytest.approx(90e5, rel=1e-7)
    assert back.stream.T[-1] == pytest.approx(there.stream.T[-1], rel=1e-7)


def test_a_line_that_asks_too_much_says_where():
    m = medium(GAS)
    z = stream(m, GAS, 320.0, 40e5).z[0]
    with pytest.raises(PressureLostError) as lost:
        march(m, z, 2000.0, [Leg("end", 50e3, 0.0, 280.0, 5.0)], 0.15, 4.6e-5, "homogeneous", 320.0, 40e5)
    assert 0.0 < lost.value.distance <= 50e3


def test_limits_pass_and_fail_and_choked_sizes_fail_all():
    m = medium(GAS)
    s = stream(m, GAS, 300.0, 40e5)
    D = np.array([p.inside("40") for p in pipe_sizes() if p.inside("40")])
    found = sized(content(m, s.phases), 650.0, D, 4.6e-5, 0.0, "beggs-brill", 100.0)
    use = passes(found, {"gradient": 1100.0, "velocity": 20.0, "momentum": 15e3})
    for values in use.values():
        assert (np.diff(values[~found.chokes]) < 0.0).all()
        assert np.isinf(values[found.chokes]).all()
    assert (found.velocity[found.chokes] >= 300.0).all()
