"""Black-oil tables of many oils and condensates: sound, whole, and in balance with what they were made of."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from cryonome.labtests import LabFluid
from cryonome.labtests.black_oil import LEAN, black_oil, compressibilities, refusals
from cryonome.labtests.fluid import STANDARD_GAS
from cryonome.labtests.separation import separate
from lab_fluids import GAS, OIL, condensate, oil

STAGES = (np.array([320.0, 288.7]), np.array([20e5, 101325.0]))


def between(share: float) -> LabFluid:
    """Return a fluid between the condensate and the oil."""
    z = share * np.array(OIL) / sum(OIL) + (1.0 - share) * np.array(GAS) / sum(GAS)
    fluid = oil()
    return LabFluid(**{**{k: getattr(fluid, k) for k in fluid.__dataclass_fields__}, "z": z[None] / z.sum()})


@settings(max_examples=15)
@given(st.floats(0.0, 1.0), st.floats(340.0, 420.0), st.booleans())
def test_tables_of_fluids_from_gas_to_oil_are_whole_and_sound(share, T, staged):
    fluid = between(share)
    at = fluid.saturation(T)
    assume(at.found.all())
    Ps = float(at.P[0])
    P = Ps * np.array([1.4, 1.1, 0.8, 0.6, 0.4, 0.25])
    table = black_oil(fluid, T, P, STAGES if staged else None, Ps * np.array([1.2, 1.5]))
    n = table.P.size - table.above
    assert (table.above, n) == (2, 5)
    # At and above saturation both phases have every number.
    for column in (table.Rs, table.Rv, table.Bo, table.Bg, table.mu_o, table.mu_g):
        assert np.isfinite(column[:3]).all()
        assert (column[:3] >= 0.0).all()
    assert not {c for c, _ in refusals(table)} & {"branch", "crossing"}
    told = {c for c, _ in refusals(table)}
    c_oil, c_gas = compressibilities(table)
    assert ("compressibility" in told) == bool((c_oil <= 0.0).any())
    assert ("gas_compressibility" in told) == bool((c_gas <= 0.0).any())
    # Gas that carries less oil is leaner, down to none, and the saturated gas stands between none and all.
    assert table.lean_Rv == pytest.approx(np.outer(table.Rv[2:], LEAN))
    # Without any it is the gas of the train, at the row's pressure, by the gas that it is.
    first = fluid.saturation(T).incipient if table.oil else fluid.z
    train = separate(fluid, *(STAGES if staged else (np.array([288.7055556]), np.array([101325.0]))), first)
    moles = float(train.vapour.sum())
    made = (train.vapour[..., None] * np.nan_to_num(train.y)).sum(axis=1) / moles
    Z = fluid.eos.prepare(np.array([T]), table.P[2:3]).ln_phi(made, "vapour")[1]
    V = float(Z[0] * 8.31446261815324 * T / table.P[2] - made[0] @ fluid.shift_at(T)[0])
    assert table.lean_B[0, -1] == pytest.approx(V / STANDARD_GAS, rel=1e-7)


def test_what_a_condensates_gas_holds_is_all_there_is_of_it():
    """A mole at the dew point, by the table: B_g, R_v and R_s balance with what the train makes of the fluid."""
    fluid, T = condensate(), 380.0
    at = float(fluid.saturation(T).P[0])
    table = black_oil(fluid, T, np.array([0.5 * at]), STAGES, np.array([1.2 * at]))
    train = separate(fluid, *STAGES)
    gas = float(train.vapour.sum()) * STANDARD_GAS
    V = float(fluid.one_phase(np.array([T]), np.array([at]))[0])
    assert table.Bg[0] == pytest.approx(V / gas, rel=1e-9)
    assert table.Rv[0] == pytest.approx(float(train.tank_volume[0]) / gas, rel=1e-9)
    # Below it gas and oil of the table hold together what a mole of the fluid does, at its own depletion's state.
    split = fluid.parted(np.array([T]), table.P[1:2])
    oil_phase, gas_phase = separate(fluid, *STAGES, split.x), separate(fluid, *STAGES, split.y)
    share = float(split.light[0])
    surface_oil = (1 - share) * oil_phase.tank_volume[0] + share * gas_phase.tank_volume[0]
    surface_gas = ((1 - share) * oil_phase.vapour.sum() + share * gas_phase.vapour.sum()) * STANDARD_GAS
    Vo, Vg = (1 - share) * float(split.x_volume[0]), share * float(split.y_volume[0])
    tank = Vo / table.Bo[1] + Vg / table.Bg[1] * table.Rv[1]
    free = Vg / table.Bg[1] + Vo / table.Bo[1] * table.Rs[1]
    assert tank == pytest.approx(float(surface_oil), rel=1e-6)
    assert free == pytest.approx(float(surface_gas), rel=1e-6)


def test_a_table_that_would_be_refused_is_told_by_row():
    fluid, T = oil(), 370.0
    at = float(fluid.saturation(T).P[0])
    table = black_oil(fluid, T, at * np.array([0.8, 0.6]), STAGES, at * np.array([1.2]))
    assert refusals(table) == []
    shrunk = table.Bo.copy()
    shrunk[2] = table.Bo[1] * 0.5
    assert ("compressibility", 2) in refusals(replace(table, Bo=shrunk))
    swollen = table.Bg.copy()
    swollen[1] = table.Bg[0] * 0.5
    assert ("gas_compressibility", 1) in refusals(replace(table, Bg=swollen))
