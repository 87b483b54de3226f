"""Lab tests against flashes, balances and each other."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cryonome.constants import ATM, T_60F, R
from cryonome.equilibrium.flash import flash_pt
from cryonome.labtests import LabFluid, deplete, expand, liberate, separate, swell, thickness
from cryonome.labtests.fluid import STANDARD_GAS
from cryonome.tuning import Parameter, heavy_ends, tuned
from lab_fluids import GAS, OIL, T, base, components, condensate, oil

FALLING = np.array([330e5, 270e5, 200e5, 140e5, 90e5, 50e5, 20e5])


def volume(fluid: LabFluid, P: float, z: np.ndarray) -> tuple[float, float, np.ndarray, np.ndarray]:
    """Return vapour fraction, molar volume of the whole, x and y by a flash of its own."""
    found = flash_pt(fluid.eos, np.array([T]), np.array([P]), z)
    each = found.Z[0] * R * T / P - found.composition[0] @ fluid.shift[0]
    share = found.fraction[0]
    return (
        float(found.light_fraction[0]),
        float(np.nansum(np.where(share > 0, each * share, 0.0))),
        found.heavy[0],
        found.light[0],
    )


@pytest.mark.parametrize("fluid", [condensate(), oil()], ids=["condensate", "oil"])
def test_an_expansion_is_flashes_and_its_volume_at_saturation_is_one(fluid: LabFluid) -> None:
    start = fluid.saturation(T)
    P = np.concatenate([start.P, start.P * (1.0 - 1e-7), FALLING])
    e = expand(fluid, T, P)
    assert e.relative_volume[0, :2] == pytest.approx(1.0, abs=1e-6)
    assert e.liquid_volume_fraction[0, 0] == (1.0 if start.bubble[0] else 0.0)
    for k, p in enumerate(FALLING, start=2):
        _, V, _, _ = volume(fluid, float(p), fluid.z[0])
        assert e.relative_volume[0, k] * e.saturated_volume[0] == pytest.approx(V, rel=1e-10)
        assert e.density[0, k] * V == pytest.approx(float(fluid.mass(fluid.z)[0]), rel=1e-10)
        assert e.Z[0, k] == pytest.approx(p * V / (R * T), rel=1e-10)
    order = np.argsort(P)
    assert (np.diff(e.relative_volume[0, order]) < 0.0).all()


@settings(max_examples=15)
@given(st.lists(st.floats(15e5, 340e5), min_size=2, max_size=7, unique=True), st.booleans())
def test_a_depletion_keeps_its_components_and_its_volume(pressures: list[float], gas: bool) -> None:
    fluid = condensate() if gas else oil()
    P = np.array(sorted(pressures, reverse=True))
    d = deplete(fluid, T, P)
    drawn = np.diff(d.produced[0], prepend=0.0)
    gone = np.cumsum(np.where(drawn > 0.0, drawn, 0.0)[:, None] * np.nan_to_num(d.gas[0]), axis=0)
    assert np.abs(gone + d.left[0] - fluid.z[0]).max() < 1e-10
    for k, p in enumerate(P):
        if p < d.saturation.P[0]:
            left = d.left[0, k]
            _, V, _, _ = volume(fluid, float(p), left / left.sum())
            assert V * left.sum() == pytest.approx(d.saturated_volume[0], rel=2e-8)
            assert d.Z_two_phase[0, k] == pytest.approx(p * d.saturated_volume[0] / (left.sum() * R * T), rel=2e-8)


def test_the_first_step_of_depletion_and_liberation_is_a_flash() -> None:
    gas, black = condensate(), oil()
    P = 0.7 * float(gas.saturation(T).P[0])
    d = deplete(gas, T, np.array([P]))
    _, _, _, y = volume(gas, P, gas.z[0])
    assert d.gas[0, 0] == pytest.approx(y, abs=1e-10)
    assert d.liquid_volume_fraction[0, 0] == pytest.approx(
        expand(gas, T, np.array([P])).liquid_volume_fraction[0, 0], rel=1e-9
    )
    P = 0.7 * float(black.saturation(T).P[0])
    f = liberate(black, T, np.array([P, ATM]))
    share, _, x, y = volume(black, P, black.z[0])
    assert f.oil[0, 0] == pytest.approx(x, abs=1e-10)
    assert f.oil_left[0, 0] == pytest.approx(1.0 - share, rel=1e-10)
    assert f.gas[0, 0] == pytest.approx(y, abs=1e-10)


def test_a_liberation_counts_its_gas_and_its_oil() -> None:
    fluid = oil()
    P = np.append(FALLING, ATM)
    f = liberate(fluid, T, P)
    freed = -np.diff(f.oil_left[0], prepend=1.0)
    gas = (freed[:, None] * np.nan_to_num(f.gas[0])).sum(axis=0)
    assert np.abs(gas + f.oil_left[0, -1] * f.oil[0, -1] - fluid.z[0]).max() < 1e-10
    rest = f.oil_left[0, -1] * float(fluid.liquid_volume(f.oil[:, -1])[0])
    assert f.solution_gas[0] == pytest.approx((freed.sum() - np.cumsum(freed)) * STANDARD_GAS / rest, abs=1e-9)
    assert f.oil_volume_factor[0] * rest == pytest.approx(
        f.oil_left[0] * fluid.mass(f.oil[0]) / f.oil_density[0], rel=1e-10
    )
    above = f.saturation.P[0] < P
    assert f.solution_gas[0, above] == pytest.approx(f.saturated_gas[0], rel=1e-12)
    assert (f.oil_volume_factor[0, above] < f.saturated_factor[0]).all()
    # Cooled to 60 degF at 1 atm the residue stays one liquid, as its volume counts on.
    assert not flash_pt(fluid.eos, [T_60F], [ATM], f.oil[0, -1]).split[0]
    # Drop by drop against all at once: a flash to the end frees more gas than can leave step by step.
    assert f.saturated_gas[0] != pytest.approx(
        separate(fluid, np.array([T]), np.array([ATM])).gas_oil_ratio[0], rel=0.02
    )


@settings(max_examples=15)
@given(st.lists(st.tuples(st.floats(285.0, 350.0), st.floats(0.05, 0.9)), min_size=1, max_size=3))
def test_a_train_is_its_chain_of_flashes(stages: list[tuple[float, float]]) -> None:
    fluid = oil()
    T_stage = np.array([t for t, _ in stages] + [T_60F])
    P = np.append(60e5 * np.cumprod([share for _, share in stages]), ATM)
    P = np.maximum(P, ATM)
    s = separate(fluid, T_stage, P)
    x, amount, total = fluid.z[0], 1.0, np.zeros(fluid.z.shape[1])
    for k, (t, p) in enumerate(zip(T_stage, P)):
        found = flash_pt(fluid.eos, [t], [p], x)
        beta = float(found.light_fraction[0])
        assert s.vapour[0, k] == pytest.approx(amount * beta, abs=1e-10)
        total += amount * beta * found.light[0]
        x, amount = found.heavy[0], amount * (1.0 - beta)
    assert np.abs(total + amount * x - fluid.z[0]).max() < 1e-10
    assert s.gas_oil_ratio[0] * s.tank_volume[0] == pytest.approx((1.0 - amount) * STANDARD_GAS, rel=1e-9)


def test_no_gas_swells_nothing_and_gas_does() -> None:
    fluid = oil()
    y = np.zeros(15)
    y[2] = 1.0
    s = swell(fluid, y, T, np.array([0.0, 0.1, 0.3, 3.0]))
    assert s.factor[0, 0] == pytest.approx(1.0, rel=1e-9)
    assert s.pressure[0, 0] == pytest.approx(fluid.saturation(T).P[0], rel=1e-9)
    assert (np.diff(s.factor[0]) > 0.0).all()
    # The mixture itself, saturated, is what the test says of it.
    mixed = replace(fluid, z=(fluid.z + 0.3 * y) / 1.3)
    assert s.pressure[0, 2] == pytest.approx(mixed.saturation(T).P[0], rel=1e-8)
    assert s.bubble[0, :3].all()
    assert not s.bubble[0, 3]


def test_many_sets_at_once_are_each_alone() -> None:
    heavy = heavy_ends(components())
    parameters = (
        Parameter("Tc", heavy),
        Parameter("kij", heavy, (2,)),
        Parameter("shift", heavy),
        Parameter("molar_mass", heavy[-1:]),
    )
    values = np.array([[1.0, 0.04, 1.0, 1.0], [1.02, 0.02, 0.7, 1.1], [0.97, 0.06, 1.4, 0.9]])
    P = np.append(FALLING, ATM)
    together = tuned(base(OIL), parameters, values)
    f, e = liberate(together, T, P), expand(together, T, FALLING)
    for row in range(3):
        alone = tuned(base(OIL), parameters, values[row : row + 1])
        one = liberate(alone, T, P)
        assert f.oil_volume_factor[row] == pytest.approx(one.oil_volume_factor[0], rel=1e-8)
        assert f.oil_viscosity[row] == pytest.approx(one.oil_viscosity[0], rel=1e-8)
        assert e.relative_volume[row] == pytest.approx(expand(alone, T, FALLING).relative_volume[0], rel=1e-8)


def test_viscosities_are_those_of_expansion_above_and_liberation_below() -> None:
    black, shuffled = oil(2), np.array([2, 0, 5, 1, 6, 3, 4])
    v = thickness(black, T, FALLING[shuffled])
    whole, bled = expand(black, T, FALLING), liberate(black, T, FALLING)
    above = whole.saturation.P[0] <= FALLING
    assert 0 < above.sum() < FALLING.size
    for ours, one, other in (
        (v.viscosity, whole.viscosity, bled.oil_viscosity),
        (v.density, whole.density, bled.oil_density),
    ):
        assert ours == pytest.approx(np.where(above, one, other)[:, shuffled], rel=1e-9)
    # Gas in solution thins an oil: the least is at the bubble point.
    line = v.viscosity[0, np.argsort(shuffled)]
    assert (np.diff(line[above]) < 0.0).all()
    assert (np.diff(line[~above]) > 0.0).all()
    gas = thickness(condensate(), T, FALLING)
    assert np.isfinite(gas.viscosity[0]).tolist() == (gas.saturation.P[0] <= FALLING).tolist()


def test_what_has_no_such_test_gives_no_number() -> None:
    gas = condensate()
    assert np.isnan(liberate(gas, T, np.array([200e5, ATM])).oil_volume_factor).all()
    hot = expand(gas, 900.0, np.array([100e5]))
    assert not hot.saturation.found[0]
    assert np.isnan(hot.relative_volume).all()
    dry = tuned(base((1.0,) + (0.0,) * 1 + (90.0,) + (0.0,) * 12), (), np.zeros((1, 0)))
    assert np.isnan(separate(dry, np.array([288.0]), np.array([ATM])).api).all()


def test_the_mean_gas_of_a_condensate_loses_its_heavy_ends() -> None:
    """A depletion of a retrograde condensate as every report shows it: liquid to a maximum, a leaner gas, Z of the gas through a minimum."""
    d = deplete(condensate(), T, np.linspace(340e5, 20e5, 20))
    liquid = d.liquid_volume_fraction[0]
    top = int(liquid.argmax())
    assert 0 < top < 19
    assert (np.diff(liquid[: top + 1]) > 0.0).all()
    heavy = d.gas[0][:, -5:].sum(axis=1)
    assert (np.diff(heavy[:10]) < 0.0).all()
    assert 0 < int(np.argmin(d.Z_gas[0])) < 19
    assert GAS[2] / sum(GAS) < d.gas[0, 10, 2]
