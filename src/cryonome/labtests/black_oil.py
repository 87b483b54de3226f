"""Black-oil tables from lab tests: what a simulator takes in place of a composition, with the branches above each
saturation pressure."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..constants import ATM, T_60F, R
from ..watch import UNWATCHED, Watch
from .depletion import deplete
from .fluid import STANDARD_GAS, LabFluid
from .liberation import liberate
from .separation import Separation, separate

Array = NDArray[np.float64]


LEAN = (0.5, 0.0)
"""Parts of the oil a gas may carry, for which lean gas is tabled."""


@dataclass(frozen=True)
class BlackOil:
    """Rows at falling pressures ``P`` (m,) Pa: ``above`` of them above saturation, the next at it, n below: ``Rs``
    gas in oil and ``Rv`` oil in gas (standard volumes, m3/m3), ``Bo`` and ``Bg`` m3/m3, viscosities ``mu_o`` and
    ``mu_g`` Pa s, each (m,), nan where there is no such phase. Above saturation the phase that is not there goes on
    with the composition it forms with, so that no row has a hole.

    From saturation on, n rows: ``branch_P`` (n, k) Pa above each, with ``branch_B`` and ``branch_mu`` (n, k) of the
    saturated phase compressed: of the oil, or where ``oil`` is false of the gas; ``lean_Rv``, ``lean_B`` and
    ``lean_mu`` (n, j) of the row's gas at its pressure with :data:`LEAN` of its oil. ``tank_density`` kg/m3,
    ``gas_gravity``."""

    oil: bool
    above: int
    P: Array
    Rs: Array
    Rv: Array
    Bo: Array
    Bg: Array
    mu_o: Array
    mu_g: Array
    branch_P: Array
    branch_B: Array
    branch_mu: Array
    lean_Rv: Array
    lean_B: Array
    lean_mu: Array
    tank_density: float
    gas_gravity: float


def black_oil(
    fluid: LabFluid, T: float, P: Array, stages: tuple[Array, Array] | None, branches: Array, watch: Watch = UNWATCHED
) -> BlackOil:
    """Return the table of one fluid at T K over falling P (n,) Pa, with a row at saturation and branches at the
    pressures ``branches`` (k,) Pa.

    Of an oil by differential liberation; with ``stages`` (T K and P Pa of a train) corrected to it: B_o = B_od
    B_ofb/B_odb and R_s = R_sfb - (R_sdb - R_sd) B_ofb/B_odb (Moses, J. Pet. Technol. 38, 715 (1986)). Of a condensate
    by depletion, each phase taken through the train, a single flash to 60 degF and 1 atm where there is none (Whitson
    and Torp, J. Pet. Technol. 35, 610 (1983)); so is the gas of either, whose oil in the tank is R_v. Stages above
    the pressure of a row are left out of it. Raises Cancelled."""
    start = fluid.saturation(T, watch=watch.part(0.0, 0.2))
    at = float(start.P[0])
    higher, lower = P[at * (1.0 + 1e-9) < P], P[at * (1.0 - 1e-9) > P]
    rows = _Rows(higher.size, np.concatenate([higher, [at], lower]))
    if bool(start.bubble[0]):
        return _of_oil(fluid, T, rows, stages, branches, watch.part(0.2, 1.0))
    return _of_gas(fluid, T, rows, start.incipient[0], stages, branches, watch.part(0.2, 1.0))


@dataclass(frozen=True)
class _Rows:
    """Falling pressures ``P`` (m,) Pa, ``above`` of them above that of saturation, which is the next."""

    above: int
    P: Array

    @property
    def saturated(self) -> Array:
        """The pressures from saturation on, (n,)."""
        return self.P[self.above :]

    @property
    def of(self) -> NDArray[np.intp]:
        """The saturated row whose phases each row has, (m,)."""
        return np.maximum(np.arange(self.P.size) - self.above, 0)


def _of_oil(
    fluid: LabFluid, T: float, rows: _Rows, stages: tuple[Array, Array] | None, branches: Array, watch: Watch
) -> BlackOil:
    P, own, of = rows.P, rows.saturated, rows.of
    steps = np.append(own, ATM) if own[-1] > 1.02 * ATM else own
    f = liberate(fluid, T, steps, watch=watch)
    n = own.size
    factor, gas = f.oil_volume_factor[0, :n].copy(), f.solution_gas[0, :n].copy()
    tank, gravity = float(f.residual_density[0]), _mean_gravity(f.gas_gravity[0], f.solution_gas[0])
    if stages is not None:
        s = separate(fluid, *stages, most=own[:1])
        feed = float(fluid.one_phase(np.full(1, T), own[:1])[0])
        more = feed / float(s.tank_volume[0]) / float(f.saturated_factor[0])
        total = float(s.gas_oil_ratio[0])
        factor *= more
        # The line falls below nothing where the last gas of a liberation is more than a train gives.
        gas = np.maximum(total - (float(f.saturated_gas[0]) - gas) * more, 0.0)
        tank, gravity = float(s.tank_density[0]), _train_gravity(s)
    oil = f.oil[0, :n]
    volume, squeezed = _molar(fluid, T, own, oil, True), _molar(fluid, T, P, oil[of], True)
    up = _branches(fluid, T, own, oil, branches, True)
    # The gas at saturation is the first bubble; what of each gas is oil in the tank it carries.
    y = np.where(np.isfinite(f.gas[0, :n]), f.gas[0, :n], f.saturation.incipient)
    carried = _gas(fluid, T, rows, y, _train(stages))
    return BlackOil(
        oil=True, above=rows.above, P=P, Rs=gas[of], Rv=carried.Rv, Bo=factor[of] * squeezed / volume[of],
        Bg=carried.B, mu_o=_viscosity(fluid, T, P, oil[of], squeezed, True), mu_g=carried.mu, branch_P=up[0],
        branch_B=factor[:, None] * up[1] / volume[:, None], branch_mu=up[2], lean_Rv=carried.lean[0],
        lean_B=carried.lean[1], lean_mu=carried.lean[2], tank_density=tank, gas_gravity=gravity,
    )  # fmt: skip


def _train(stages: tuple[Array, Array] | None) -> tuple[Array, Array]:
    return stages if stages is not None else (np.array([T_60F]), np.array([ATM]))


def _train_gravity(found: Separation) -> float:
    """Return the gravity of all gas of the first set's train, nan where it has none."""
    gas = float(np.nansum(found.gas[0]))
    return float(np.nansum(found.gas[0] * found.gas_gravity[0])) / gas if gas > 0.0 else np.nan


def _mean_gravity(gravity: Array, gas: Array) -> float:
    freed = -np.diff(gas)
    own = gravity[1:]
    good = np.isfinite(own) & (freed > 0.0)
    return float((own[good] * freed[good]).sum() / freed[good].sum()) if good.any() else np.nan


def _of_gas(
    fluid: LabFluid,
    T: float,
    rows: _Rows,
    first: Array,
    stages: tuple[Array, Array] | None,
    branches: Array,
    watch: Watch,
) -> BlackOil:
    P, own, of = rows.P, rows.saturated, rows.of
    d = deplete(fluid, T, own, watch=watch)
    train = _train(stages)
    y = np.where(np.isfinite(d.gas[0]), d.gas[0], fluid.z)
    carried = _gas(fluid, T, rows, y, train)
    x = d.liquid[0].copy()
    # The oil at saturation is the first drop.
    x[0] = first
    there = np.flatnonzero(
        (np.isfinite(x).all(axis=1) & ((np.arange(own.size) == 0) | (d.liquid_volume_fraction[0] > 0.0)))[of]
    )
    Rs, Bo, mu_o = (np.full(P.size, np.nan) for _ in range(3))
    if there.size:
        liquid = x[of[there]]
        s = separate(fluid.repeated(there.size), train[0], train[1], liquid, most=own[of[there]])
        V = _molar(fluid, T, P[there], liquid, True)
        Rs[there], Bo[there] = s.gas_oil_ratio, V / s.tank_volume
        mu_o[there] = _viscosity(fluid, T, P[there], liquid, V, True)
    up = _branches(fluid, T, own, y, branches, False)
    flow = carried.train
    return BlackOil(
        oil=False, above=rows.above, P=P, Rs=Rs, Rv=carried.Rv, Bo=Bo, Bg=carried.B, mu_o=mu_o, mu_g=carried.mu,
        branch_P=up[0], branch_B=up[1] / carried.standard[rows.above :, None], branch_mu=up[2],
        lean_Rv=carried.lean[0], lean_B=carried.lean[1], lean_mu=carried.lean[2],
        tank_density=float(flow.tank_density[0]),
        gas_gravity=_train_gravity(flow),
    )  # fmt: skip


@dataclass(frozen=True)
class _Gas:
    """Gases of m rows taken through a ``train``: ``Rv``, ``B`` and ``mu`` (m,), the ``standard`` volume of the gas
    that stays one (m,) m3/mol, and R_v, B and viscosity of the ``lean`` ones (n, j) from saturation on."""

    Rv: Array
    B: Array
    mu: Array
    standard: Array
    lean: tuple[Array, Array, Array]
    train: Separation


def _gas(fluid: LabFluid, T: float, rows: _Rows, y: Array, train: tuple[Array, Array]) -> _Gas:
    """Return of gases y (n, nc) of the saturated rows what the train makes of them, at every row's pressure."""
    P, of, own = rows.P, rows.of, y[rows.of]
    V = _molar(fluid, T, P, own, False)
    found = separate(fluid.repeated(P.size), train[0], train[1], own, most=rows.saturated[of])
    # What a train leaves no gas of has no factor by its gas.
    amount = np.nansum(found.vapour, axis=1)
    standard = np.where(amount > 0.0, amount, np.nan) * STANDARD_GAS
    Rv = np.nan_to_num(found.tank_volume) / standard
    # Without its oil a gas is what the train makes of it; a part of the oil comes back.
    n, j = rows.saturated.size, len(LEAN)
    tank = np.nan_to_num(found.liquid[rows.above :, -1:] * found.x[rows.above :, -1])
    z = np.maximum(y[:, None, :] - (1.0 - np.array(LEAN))[:, None] * tank[:, None, :], 0.0).reshape(n * j, -1)
    moles = np.where(z.sum(axis=1) > 0.0, z.sum(axis=1), np.nan)
    z, at = z / moles[:, None], np.repeat(rows.saturated, j)
    thin = _molar(fluid, T, at, z, False)
    lean = (
        np.outer(Rv[rows.above :], LEAN),
        (moles * thin).reshape(n, j) / standard[rows.above :, None],
        _viscosity(fluid, T, at, z, thin, False).reshape(n, j),
    )
    return _Gas(Rv, V / standard, _viscosity(fluid, T, P, own, V, False), standard, lean, found)


def _viscosity(fluid: LabFluid, T: float, P: Array, z: Array, V: Array, liquid: bool) -> Array:
    """Return viscosities (n,) Pa s of compositions z (n, nc) of molar volumes V (n,) m3/mol."""
    return fluid.repeated(P.size).viscosity(np.full(P.size, T), P, z, V, np.full(P.size, liquid))


def _molar(fluid: LabFluid, T: float, P: Array, z: Array, liquid: bool) -> Array:
    """Return molar volumes (n,) m3/mol of compositions z (n, nc) as the denser or the thinner root at P (n,) Pa."""
    n = P.size
    Z = fluid.eos.take(np.zeros(n, np.intp)).prepare(np.full(n, T), P).ln_phi(z, "liquid" if liquid else "vapour")[1]
    return np.asarray(Z * R * T / P - z @ fluid.take(np.zeros(1, np.intp)).shift_at(T)[0])


def _branches(fluid: LabFluid, T: float, P: Array, z: Array, above: Array, liquid: bool) -> tuple[Array, Array, Array]:
    """Return pressures (n, k) from each saturated one upwards, with molar volumes and viscosities of what was
    saturated there, nan below."""
    n, k = P.size, above.size
    up = np.where(above > P[:, None] * (1.0 + 1e-9), above, np.nan)
    good = np.isfinite(up).reshape(-1)
    rows = np.repeat(np.arange(n), k)[good]
    V, mu = np.full(n * k, np.nan), np.full(n * k, np.nan)
    if good.any():
        flat = up.reshape(-1)[good]
        V[good] = _molar(fluid, T, flat, z[rows], liquid)
        mu[good] = _viscosity(fluid, T, flat, z[rows], V[good], liquid)
    return up, V.reshape(n, k), mu.reshape(n, k)


def compressibilities(table: BlackOil) -> tuple[Array, Array]:
    """Return the total compressibility of the saturated oil and of the saturated gas between neighbouring rows,
    (n - 1,) 1/Pa each, nan where a phase is missing: what each loses in volume by pressure and what it gives to and
    takes from the other,

        c_o = (-dB_o/dP + (B_g - R_v B_o)/(1 - R_s R_v) dR_s/dP)/B_o,
        c_g = (-dB_g/dP + (B_o - R_s B_g)/(1 - R_s R_v) dR_v/dP)/B_g

    These follow from B_o and B_g as volumes of stock-tank oil and standard gas that are kept: what dissolves leaves
    the gas, what evaporates the oil."""
    own = slice(table.above, None)
    Rs, Rv, Bo, Bg = table.Rs[own], table.Rv[own], table.Bo[own], table.Bg[own]
    dP = np.diff(table.P[own])

    def mean(v: Array) -> Array:
        return 0.5 * (v[1:] + v[:-1])

    both = 1.0 - mean(Rs) * mean(Rv)
    to_oil, to_gas = (mean(Bg) - mean(Rv) * mean(Bo)) / both, (mean(Bo) - mean(Rs) * mean(Bg)) / both
    oil = (-np.diff(Bo) + to_oil * np.diff(Rs)) / dP / mean(Bo)
    gas = (-np.diff(Bg) + to_gas * np.diff(Rv)) / dP / mean(Bg)
    return oil, gas


def refusals(table: BlackOil) -> list[tuple[str, int]]:
    """Return what a simulator would refuse, by code and row of ``P``: ``compressibility`` of the saturated oil and
    ``gas_compressibility`` of the saturated gas below zero, ``order`` of R_s or B_g against pressure, ``branch``
    volumes that do not fall with pressure, ``crossing`` branches of oil."""
    out: list[tuple[str, int]] = []
    at = table.above
    oil, gas = compressibilities(table)
    out += [("compressibility", at + 1 + int(i)) for i in np.flatnonzero(oil <= 0.0)]
    out += [("gas_compressibility", at + 1 + int(i)) for i in np.flatnonzero(gas <= 0.0)]
    wrong = np.diff(table.Rs[at:]) > 0.0 if table.oil else np.diff(table.Bg[at:]) <= 0.0
    out += [("order", at + 1 + int(i)) for i in np.flatnonzero(wrong)]
    main = table.Bo if table.oil else table.Bg
    for i in range(table.P.size - at):
        B = table.branch_B[i][np.isfinite(table.branch_B[i])]
        if B.size and (np.diff(np.concatenate([[main[at + i]], B])) >= 0.0).any():
            out.append(("branch", at + i))
    if at:
        # Towards saturation both phases must swell.
        both = np.stack([table.Bo[: at + 1], table.Bg[: at + 1]])
        out += [("branch", int(i)) for i in np.flatnonzero((np.diff(both, axis=1) <= 0.0).any(axis=0))]
    if table.oil:
        with np.errstate(invalid="ignore"):
            less = np.diff(table.branch_B, axis=0) > 0.0
        out += [("crossing", at + 1 + int(i)) for i in np.flatnonzero(less.any(axis=1))]
    return out
