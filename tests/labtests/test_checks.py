"""Checks of reports: a report made by a model passes each, and each finds the error that it is for."""

import numpy as np
import pytest

from cryonome.constants import ATM, T_60F, R
from cryonome.labtests import checks, deplete, expand, liberate, separate
from cryonome.labtests.checks import BAD, GOOD
from lab_fluids import T, components, condensate, oil

NAMES = tuple(c.name for c in components())
P = np.array([330e5, 300e5, 260e5, 220e5, 170e5, 120e5, 70e5, 30e5])


def test_the_y_function_finds_a_mistyped_volume() -> None:
    fluid = oil()
    P = np.array([350e5, 280e5, 220e5, 170e5, 150e5, 130e5, 110e5, 90e5, 70e5, 50e5])
    e = expand(fluid, T, P)
    at, V = float(e.saturation.P[0]), np.round(e.relative_volume[0], 4)
    found = checks.y_function(P, V, at)
    assert found is not None
    assert found.verdict == GOOD
    wrong = V.copy()
    wrong[7] *= 1.03
    caught = checks.y_function(P, wrong, at)
    assert caught is not None
    assert (caught.verdict, caught.rows) == (BAD, (7,))
    # What it is seen by: the points below saturation over their pressures, the mistyped one marked.
    seen, clean = caught.drawn, found.drawn
    assert seen is not None
    assert clean is not None
    assert set(clean.marks) == {GOOD}
    assert [float(p) for p, m in zip(seen.x, seen.marks) if m == BAD] == [P[7]]
    assert seen.y == pytest.approx((at - seen.x) / (seen.x * (wrong[np.isin(P, seen.x)] - 1.0)))
    assert checks.expansion_break(P, V, at).verdict == GOOD  # type: ignore[union-attr]
    assert checks.expansion_break(P, V, 1.35 * at).verdict != GOOD  # type: ignore[union-attr]
    swapped = V.copy()
    swapped[[3, 4]] = V[[4, 3]]
    order = checks.rising("relative_volume", P, swapped, True)
    assert order is not None
    assert order.rows == (4,)
    assert checks.rising("relative_volume", P, V, True) is None


def test_a_depletion_balances_until_a_number_is_wrong() -> None:
    fluid = condensate()
    d = deplete(fluid, T, P)
    at, z = float(d.saturation.P[0]), fluid.z[0]
    cell = float(d.saturated_volume[0])
    y, drawn, liquid, Z = (np.round(v[0], 5) for v in (d.gas, d.produced, d.liquid_volume_fraction, d.Z_gas))
    found = checks.cell_balance(z, y, drawn, liquid, Z, P, T, cell)
    # The liquid of the balance is that of the simulation.
    assert found.x[3] == pytest.approx(d.liquid[0, 3], abs=0.01)
    assert checks.depletion_balance(found, z, NAMES, P).verdict == GOOD
    assert at > P[0]
    heavy = y.copy()
    heavy[2:, 10] *= 3.0
    wrong = checks.cell_balance(z, heavy, drawn, liquid, Z, P, T, cell)
    caught = checks.depletion_balance(wrong, z, NAMES, P)
    assert caught.verdict == BAD
    assert caught.remark.values["name"] == NAMES[10]
    assert checks.two_phase_z(P, drawn, d.Z_two_phase[0], T, cell).verdict == GOOD  # type: ignore[union-attr]
    assert checks.two_phase_z(P, 1.1 * drawn, d.Z_two_phase[0], T, cell).verdict == BAD  # type: ignore[union-attr]
    assert checks.closes(NAMES, y).verdict == GOOD  # type: ignore[union-attr]
    assert checks.closes(NAMES, heavy * 1.05).verdict == BAD  # type: ignore[union-attr]


def test_a_separator_gas_that_is_not_of_its_liquid_is_found_and_the_ratio_told() -> None:
    fluid = oil()
    s = separate(fluid, np.array([315.0, T_60F]), np.array([40e5, ATM]))
    x, y = s.x[0, 0], s.y[0, 0]
    line = checks.hoffmann_crump(components(), x, y, 40e5, 315.0, 0, "stage 1")
    assert line is not None
    assert line.verdict == GOOD
    other = y.copy()
    other[NAMES.index("propane")] *= 1.6
    caught = checks.hoffmann_crump(components(), x, other, 40e5, 315.0, 0, "stage 1")
    assert caught is not None
    assert caught.verdict == BAD
    assert caught.remark.values["name"] == "propane"
    seen = caught.drawn
    assert seen is not None
    marks = dict(zip(seen.names, seen.marks))
    assert [n for n, m in marks.items() if m == BAD] == ["propane"]
    assert {marks[n] for n in ("nitrogen", "carbon dioxide")} == {"beside"}
    # The axis is the component's own: at its boiling point F is nothing, and log(K P) grows with it.
    place = seen.names.index("methane")
    assert seen.y[place] == pytest.approx(
        np.log10(other[NAMES.index("methane")] / x[NAMES.index("methane")] * 40e5 / ATM)
    )
    assert (np.diff(seen.line[np.argsort(seen.x)]) > 0.0).all()
    reported = float(s.gas[0, 0])
    volume = float(s.tank_volume[0])
    assert checks.recombination(fluid.z[0], x, y, reported, volume).verdict == GOOD  # type: ignore[union-attr]
    off = checks.recombination(fluid.z[0], x, y, 1.15 * reported, volume)
    assert off is not None
    assert off.verdict == BAD
    assert off.remark.values["own"].value == pytest.approx(reported * ATM / (R * T_60F), rel=1e-6)  # type: ignore[union-attr]


def test_masses_of_oil_and_gas_balance() -> None:
    fluid = oil()
    P = np.array([250e5, 180e5, 160e5, 120e5, 80e5, 40e5, 15e5, ATM])
    f = liberate(fluid, T, P)
    own = (
        f.oil_volume_factor[0],
        f.solution_gas[0],
        f.oil_density[0],
        np.nan_to_num(f.gas_gravity[0]),
        float(f.residual_density[0]),
    )
    assert checks.liberation_mass(P, *own).verdict == GOOD  # type: ignore[union-attr]
    dense = f.oil_density[0].copy()
    dense[4] *= 1.03
    caught = checks.liberation_mass(P, own[0], own[1], dense, own[3], own[4])
    assert caught is not None
    assert (caught.verdict, caught.rows) == (BAD, (4,))
    s = separate(fluid, np.array([315.0, T_60F]), np.array([40e5, ATM]))
    feed = expand(fluid, T, np.array([200e5]))
    factor = float(fluid.mass(fluid.z)[0] / feed.density[0, 0] / s.tank_volume[0])
    args = (factor, float(feed.density[0, 0]), s.gas[0], s.gas_gravity[0])
    assert checks.separator_mass(*args, float(s.tank_density[0])).verdict == GOOD
    assert checks.separator_mass(*args, 1.08 * float(s.tank_density[0])).verdict == BAD
