"""Hydrates against measurements, and against what thermodynamics says of any of them."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import hydrate_points
from cryonome.constants import R
from cryonome.equilibrium.flash import flash_pt
from cryonome.solids.activity import ln_activity, ln_gamma
from cryonome.solids.branches import every_temperature, pressures
from cryonome.solids.formation import Chart, Wanted, temperatures
from cryonome.solids.inhibitors import INHIBITORS
from cryonome.solids.lattice import hydration_number, occupancy
from cryonome.solids.potentials import most_stable, stability
from cryonome.solids.quadruple import quadruple_points
from cryonome.solids.surroundings import Host
from cryonome.solids.water import water_over_ice
from hydrate_accuracy import chart_of, freezing, missed


@pytest.fixture(scope="module")
def gas():
    return chart_of({"methane": 85.0, "ethane": 7.0, "propane": 4.0, "n-butane": 1.0, "carbon dioxide": 3.0})


def average(charts_and_points):
    return [float(np.abs(missed(*each)).mean()) for each in charts_and_points]


def test_published_three_phase_points_are_met():
    pure = average((chart_of({n: 1.0}), points) for n, (_, points) in hydrate_points.PURE.items())
    assert max(pure) < 0.35
    assert np.mean(pure) < 0.15
    held = average((chart_of(mix), points) for _, mix, points, fitted in hydrate_points.MIXTURES if not fitted)
    assert len(held) == 6
    assert max(held) < 0.64
    assert np.mean(held) < 0.42


def test_large_molecules_form_structure_h_with_a_gas_for_its_smaller_cages():
    for name, (_, points) in hydrate_points.STRUCTURE_H.items():
        chart = chart_of({"methane": 0.5, name: 0.5})
        off = missed(chart, points)
        assert np.abs(off).mean() < 0.2
        P = np.array([p for _, p in points]) * 1e6
        each = temperatures(chart, Wanted.grid(P), [{}]).reshape(3, -1)
        assert (np.nan_to_num(each[:2]) < each[2]).all()
    # Its cages are filled by what fits them: 34 molecules of water to five small ones with gas and a large one with the liquid's.
    seen = chart.host.around(each[2], P)
    filled = occupancy(2, each[2], seen.f, chart.host.names)
    liquid = chart.host.names.index(name)
    assert (filled[:, 2, liquid] > 0.999).all()
    assert (filled[:, :2, liquid] == 0.0).all()
    assert hydration_number(2, filled) == pytest.approx(34.0 / (5.0 * filled[:, 0].sum(axis=-1) + 1.0), rel=1e-3)
    # Nitrogen, that structure II takes at 16 MPa only, does so at a tenth of it; where propane is, structure II comes first.
    help_of_nitrogen = chart_of({"nitrogen": 0.5, "methylcyclohexane": 0.5})
    with_propane = chart_of({"methane": 0.9, "propane": 0.05, "isopentane": 0.05})
    for found, first in ((help_of_nitrogen, 2), (with_propane, 1)):
        each = temperatures(found, Wanted.grid(np.array([8e6])), [{}])
        assert np.nanargmax(each) == first


def test_published_points_with_inhibitors_are_met_which_nothing_was_fitted_to():
    methane = chart_of({"methane": 1.0})
    found = average((methane, points, dose) for _, dose, points in hydrate_points.INHIBITED)
    assert max(found) < 0.8
    assert np.mean(found) < 0.4
    assert max(float(np.abs(freezing(salt)).max()) for salt in hydrate_points.FREEZING) < 0.75


def test_quadruple_points_are_the_published_ones():
    """Sloan and Koh (2008), table 4.1: propane 273.1 K 0.172 MPa and 278.8 K 0.556 MPa; upper points of carbon dioxide and ethane."""
    lower, upper = quadruple_points(chart_of({"propane": 1.0}), {})
    assert (lower.kind, lower.T, lower.P) == ("ice", pytest.approx(273.1, abs=0.1), pytest.approx(0.172e6, rel=0.06))
    assert (upper.kind, upper.T, upper.P) == (
        "two fluids",
        pytest.approx(278.8, abs=0.25),
        pytest.approx(0.556e6, rel=0.02),
    )
    for name, T, P in (("carbon dioxide", 283.0, 4.499e6), ("ethane", 287.8, 3.39e6)):
        upper = quadruple_points(chart_of({name: 1.0}), {})[-1]
        assert pytest.approx(T, abs=0.4) == upper.T
        assert pytest.approx(P, rel=0.015) == upper.P


@pytest.mark.parametrize(
    ("name", "T", "kilojoules"), [("methane", 280.0, 54.2), ("ethane", 278.0, 71.8), ("propane", 275.5, 129.2)]
)
def test_the_slope_is_the_measured_heat_of_dissociation(name, T, kilojoules):
    """Handa, J. Chem. Thermodyn. 18, 915 (1986), by calorimeter; d ln P/d(1/T) = -dH/(z R) of gas, liquid water and hydrate."""
    chart = chart_of({name: 1.0})
    at = np.array([T - 0.5, T + 0.5])
    structure = int(name == "propane")
    found = pressures(chart.host, at, [{}])
    P = found.value[(found.structure == structure) & found.above]
    Z = flash_pt(chart.host.eos.of(np.array([0])), [T], [np.sqrt(P[0] * P[1])], [1.0]).Z[0, 0]
    heat = -R * Z * np.log(P[1] / P[0]) / (1.0 / at[1] - 1.0 / at[0])
    assert heat == pytest.approx(kilojoules * 1e3, rel=0.08)


def test_hydration_numbers_lie_where_they_are_measured():
    """Methane 6.00 and propane 17.0, Handa (1986); ethane 7.67."""
    for name, structure, T, P, n in (
        ("methane", 0, 273.15, 2.6e6, 6.0),
        ("propane", 1, 273.15, 0.17e6, 17.0),
        ("ethane", 0, 273.15, 0.5e6, 7.67),
    ):
        chart = chart_of({name: 1.0})
        filled = occupancy(structure, np.array([T]), chart.host.around([T], [P]).f, chart.host.names)
        assert hydration_number(structure, filled)[0] == pytest.approx(n, rel=0.03)


@settings(max_examples=25, deadline=None)
@given(T=st.floats(262.0, 294.0), methanol=st.floats(0.0, 0.45), salt=st.floats(0.0, 0.15), structure=st.integers(0, 1))
def test_a_pressure_found_at_a_temperature_gives_it_back(gas, T, methanol, salt, structure):
    dose = {"methanol": np.array([methanol]), "NaCl": np.array([salt])}
    found = pressures(gas.host, np.array([T]), [dose])
    mine = found.structure == structure
    P, here = found.value[mine], np.full(mine.sum(), structure)
    back = temperatures(gas, Wanted(P, here, np.zeros_like(here)), [dose])
    assert back == pytest.approx(np.full(P.size, T), abs=1e-5)
    a = np.tile(ln_activity(np.array([T]), dose), P.size)
    t = np.full(P.size, T)
    assert stability(gas.host, t, P, structure, a) == pytest.approx(np.zeros(P.size), abs=1e-7)
    # On the side that is told the hydrate is stable, and on the other it melts.
    up = np.where(found.above[mine], 1.03, 0.97)
    assert (stability(gas.host, t, P * up, structure, a) > 0.0).all()
    assert (stability(gas.host, t, P / up, structure, a) < 0.0).all()


def test_every_branch_is_found_by_temperature_and_by_pressure():
    """Where a sour gas condenses its limit has a peak, and a tenth of a millikelvin below it hydrates are stable in a sliver of pressures alone."""
    host = chart_of({"hydrogen sulfide": 2.06, "carbon dioxide": 20.1, "ethane": 0.123, "n-butane": 1.109}).host
    dose = {"methanol": np.array([0.1])}
    T = every_temperature(host, np.array([3.966395e6]), [dose])
    (first,) = T.value[T.structure == 0]
    found = pressures(host, np.array([first - 1e-5, first - 0.2]), [dose])
    sliver, wide = (found.value[(found.structure == 0) & (found.row == k)] for k in (0, 1))
    assert sliver.size == wide.size == 3
    assert sliver[0] == pytest.approx(3.966395e6, rel=1e-4)
    assert wide[0] < sliver[0] < sliver[1] < wide[1] < wide[2] < sliver[2]
    # Beside ice a liquid's hydrate leaves again in the cold, by a millionth of R T.
    oil = chart_of({"isobutane": 0.7109, "isopentane": 0.1829, "ethane": 0.9551, "n-pentane": 1.1424}).host
    cold = every_temperature(oil, np.array([10.228e6]), [{}])
    assert list(cold.above[cold.structure == 1]) == [True, False]


def test_every_line_comes_in_and_falls_with_the_dose(gas):
    P = np.geomspace(3e5, 6e7, 60)
    doses = [{}, *({"methanol": np.array([w])} for w in (0.1, 0.2, 0.3))]
    T = temperatures(gas, Wanted.grid(P, len(doses)), doses).reshape(3, len(doses), P.size)
    assert np.isfinite(T[1]).all()
    assert np.isnan(T[2]).all()
    rising = np.diff(T, axis=2)[:, 0]
    assert (rising[np.isfinite(rising)] > 0.0).all()
    warm = T[1, 0] > 276.0
    assert (np.diff(T[1][:, warm], axis=0) < -1.5).all()


def test_a_drop_of_water_is_the_limit_of_a_flash_with_little_of_it(gas):
    """The drop beside the dry gas, by substitution, and the three-phase flash of gas with 2 % of water are written by different code."""
    host = gas.host
    z = 0.98 * host.z / host.z[:-1].sum()
    z[host.water] = 0.02
    wet = Chart.of(Host(host.eos, z, host.water, host.names, host.places, free=False))
    P = np.geomspace(5e5, 3e7, 12)
    grid = Wanted(np.tile(P, 2), np.repeat([0, 1], P.size), np.zeros(2 * P.size, dtype=int))
    one, other = (temperatures(c, grid, [{}]) for c in (gas, wet))
    assert one == pytest.approx(other, abs=0.02)
    # With too little of it there is no free water, and hydrates form later.
    z = z.copy()
    z[host.water] = 1e-4
    dry = Chart.of(Host(host.eos, z, host.water, host.names, host.places, free=False))
    later = one - temperatures(dry, grid, [{}])
    assert (later > -1e-6).all()
    assert (later[np.tile(P, 2) > 2e6] > 10.0).all()


def test_states_that_do_not_exist_are_seen_as_nothing(gas):
    seen = gas.host.around([280.0, np.nan], [5e6, 5e6])
    assert np.isfinite(seen.f[0]).all()
    assert np.isnan(seen.f[1]).all()
    assert np.isnan(seen.vapour_water[1])


def test_the_structure_that_is_most_stable_goes_with_the_dose(gas):
    doses = [{"methanol": np.array([w])} for w in np.linspace(0.0, 0.5, 11)]
    value, structure = most_stable(gas.host, 276.0, 9e6, doses)
    assert (np.diff(value) < 0.0).all()
    each = stability(gas.host, np.array([276.0]), np.array([9e6]), 1, ln_activity(np.array([276.0]), doses[4]))
    assert (structure[4], value[4]) == (1, pytest.approx(each[0]))


@settings(max_examples=40, deadline=None)
@given(name=st.sampled_from(sorted(INHIBITORS)), w=st.floats(0.01, 0.55), T=st.floats(245.0, 310.0))
def test_activities_obey_gibbs_and_duhem(name, w, T):
    """x_w d ln gamma_w + x_i d ln gamma_i = 0 along the composition, by central differences."""
    M = INHIBITORS[name].molar_mass, 18.01528e-3
    x = (w / M[0]) / (w / M[0] + (1.0 - w) / M[1])
    h = 1e-5 * x

    def gamma(x_i: float) -> tuple[float, float]:
        mass = x_i * M[0] / (x_i * M[0] + (1.0 - x_i) * M[1])
        a, b = ln_gamma(np.array([T]), {name: np.array([mass])})
        return float(a[0]), float(b[name][0])

    up, down = gamma(x + h), gamma(x - h)
    slope = [(u - d) / (2.0 * h) for u, d in zip(up, down)]
    assert (1.0 - x) * slope[0] + x * slope[1] == pytest.approx(0.0, abs=1e-6 * max(1.0, abs(slope[1])))
    assert (
        0.0
        > ln_activity(np.array([T]), {name: np.array([w])})[0]
        > ln_activity(np.array([T]), {name: np.array([w + 0.03])})[0]
    )


def test_water_meets_its_published_osmotic_coefficients_and_vapour_pressures():
    """NaCl 1 and 6 mol/kg, phi 0.9355 and 1.271, CaCl2 2 mol/kg 1.376, KCl 4 mol/kg 0.965: Robinson and Stokes (1959). Ice over water: Murphy and Koop (2005)."""
    for salt, molality, ions, phi in (
        ("NaCl", 1.0, 2, 0.9355),
        ("NaCl", 6.0, 2, 1.271),
        ("CaCl2", 2.0, 3, 1.376),
        ("KCl", 4.0, 2, 0.965),
    ):
        from cryonome.solids.inhibitors import SALTS

        mass = molality * SALTS[salt].molar_mass
        a = ln_activity(np.array([298.15]), {salt: np.array([mass / (1.0 + mass)])})[0]
        assert -a / (ions * molality * 18.01528e-3) == pytest.approx(phi, rel=0.012)
    T = np.array([240.0, 250.0, 260.0])
    ice = np.exp(9.550426 - 5723.265 / T + 3.53068 * np.log(T) - 0.00728332 * T)
    water = np.exp(
        54.842763 - 6763.22 / T - 4.21 * np.log(T) + 0.000367 * T
        + np.tanh(0.0415 * (T - 218.8)) * (53.878 - 1331.22 / T - 9.44523 * np.log(T) + 0.014025 * T)
    )  # fmt: skip
    assert water_over_ice(T) == pytest.approx(np.log(water / ice), abs=0.01)
