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


@dataclass(frozen=True)
class BlackOil:
    """Saturated rows at falling pressures ``P`` (n,) Pa, the first that of saturation: ``Rs`` gas in oil and ``Rv``
    oil in gas (standard volumes, m3/m3), ``Bo`` and ``Bg`` m3/m3, viscosities ``mu_o`` and ``mu_g`` Pa s, each (n,),
    nan where there is no such phase. ``branch_P`` (n, k) Pa above each of them, with ``branch_B`` and ``branch_mu``
    (n, k) of the saturated phase compressed: of the oil, or where ``oil`` is false of the gas. ``tank_density``
    kg/m3, ``gas_gravity``."""

    oil: bool
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
    tank_density: float
    gas_gravity: float


def black_oil(
    fluid: LabFluid, T: float, P: Array, stages: tuple[Array, Array] | None, branches: Array, watch: Watch = UNWATCHED
) -> BlackOil:
    """Return the table of one fluid at T K over falling P (n,) Pa below saturation, with branches at the pressures
    ``branches`` (k,) Pa.

    Of an oil by differential liberation; with ``stages`` (T K and P Pa of a train) corrected to it: B_o = B_od
    B_ofb/B_odb and R_s = R_sfb - (R_sdb - R_sd) B_ofb/B_odb (Moses, J. Pet. Technol. 38, 715 (1986)). Of a condensate
    by depletion, each phase taken through the train, a single flash to 60 degF and 1 atm where there is none (Whitson
    and Torp, J. Pet. Technol. 35, 610 (1983)); so is the gas of either, whose oil in the tank is R_v. Stages above
    the pressure of a row are left out of it. Raises Cancelled. Rows above saturation are left out."""
    start = fluid.saturation(T, watch=watch.part(0.0, 0.2))
    at = float(start.P[0])
    rows = np.concatenate([[at], P[at * (1.0 - 1e-9) > P]])
    if bool(start.bubble[0]):
        return _of_oil(fluid, T, at, rows, stages, branches, watch.part(0.2, 1.0))
    return _of_gas(fluid, T, at, rows, stages, branches, watch.part(0.2, 1.0))


def _of_oil(
    fluid: LabFluid, T: float, at: float, rows: Array, stages: tuple[Array, Array] | None, branches: Array, watch: Watch
) -> BlackOil:
    steps = np.append(rows, ATM) if rows[-1] > 1.02 * ATM else rows
    f = liberate(fluid, T, steps, watch=watch)
    n = rows.size
    Bo, Rs = f.oil_volume_factor[0, :n], f.solution_gas[0, :n]
    Bo, Rs = Bo.copy(), Rs.copy()
    tank, gravity = float(f.residual_density[0]), _mean_gravity(f.gas_gravity[0], f.solution_gas[0])
    if stages is not None:
        s = separate(fluid, *stages, most=np.full(1, at))
        feed = float(fluid.one_phase(np.full(1, T), np.full(1, at))[0])
        factor = feed / float(s.tank_volume[0]) / float(f.saturated_factor[0])
        total = float(s.gas_oil_ratio[0])
        Bo *= factor
        # The line falls below nothing where the last gas of a liberation is more than a train gives.
        Rs = np.maximum(total - (float(f.saturated_gas[0]) - Rs) * factor, 0.0)
        tank, gravity = float(s.tank_density[0]), float(np.nansum(s.gas[0] * s.gas_gravity[0]) / np.nansum(s.gas[0]))
    oil = f.oil[0, :n]
    P_up, B_up, mu_up = _branches(fluid, T, rows, oil, branches, True)
    volume = _molar(fluid, T, rows, oil, True)
    # The gas at saturation is the first bubble; what of each gas is oil in the tank it carries.
    y = np.where(np.isfinite(f.gas[0, :n]), f.gas[0, :n], f.saturation.incipient)
    train = stages if stages is not None else (np.array([T_60F]), np.array([ATM]))
    thin, Bg, Rv, _, _ = _gas(fluid, T, rows, y, train)
    mu_g = fluid.repeated(n).viscosity(np.full(n, T), rows, y, thin, np.zeros(n, bool))
    return BlackOil(
        True, rows, Rs, Rv, Bo, Bg, f.oil_viscosity[0, :n], mu_g, P_up, Bo[:, None] * B_up / volume[:, None], mu_up, tank, gravity
    )  # fmt: skip


def _mean_gravity(gravity: Array, gas: Array) -> float:
    freed = -np.diff(gas)
    own = gravity[1:]
    good = np.isfinite(own) & (freed > 0.0)
    return float((own[good] * freed[good]).sum() / freed[good].sum()) if good.any() else np.nan


def _of_gas(
    fluid: LabFluid, T: float, at: float, rows: Array, stages: tuple[Array, Array] | None, branches: Array, watch: Watch
) -> BlackOil:
    d = deplete(fluid, T, rows, watch=watch)
    n = rows.size
    train = stages if stages is not None else (np.array([T_60F]), np.array([ATM]))
    y = np.where(np.isfinite(d.gas[0]), d.gas[0], fluid.z)
    x = d.liquid[0]
    V, Bg, Rv, standard, of_gas = _gas(fluid, T, rows, y, train)
    Rs, Bo, mu_o = (np.full(n, np.nan) for _ in range(3))
    there = np.flatnonzero(np.isfinite(x).all(axis=1) & (d.liquid_volume_fraction[0] > 0.0))
    if there.size:
        part = fluid.repeated(there.size)
        s = separate(part, train[0], train[1], x[there], most=rows[there])
        liquid = _molar(fluid, T, rows[there], x[there], True)
        Rs[there] = s.gas_oil_ratio
        Bo[there] = liquid / s.tank_volume
        mu_o[there] = part.viscosity(np.full(there.size, T), rows[there], x[there], liquid, np.ones(there.size, bool))
    mu_g = fluid.repeated(n).viscosity(np.full(n, T), rows, y, V, np.zeros(n, bool))
    P_up, B_up, mu_up = _branches(fluid, T, rows, y, branches, False)
    tank, gas_gravity = (
        float(of_gas.tank_density[0]),
        float(np.nansum(of_gas.gas[0] * of_gas.gas_gravity[0]) / max(np.nansum(of_gas.gas[0]), 1e-300)),
    )
    return BlackOil(False, rows, Rs, Rv, Bo, Bg, mu_o, mu_g, P_up, B_up / standard[:, None], mu_up, tank, gas_gravity)


def _gas(
    fluid: LabFluid, T: float, P: Array, y: Array, train: tuple[Array, Array]
) -> tuple[Array, Array, Array, Array, Separation]:
    """Return of gases y (n, nc) at T K and P (n,) Pa, each taken through a train: molar volumes, B_g and R_v by the
    gas that stays one, the volume of that (n,) per mole, and the train."""
    V = _molar(fluid, T, P, y, False)
    found = separate(fluid.repeated(P.size), train[0], train[1], y, most=P)
    standard = np.nansum(found.vapour, axis=1) * STANDARD_GAS
    return V, V / standard, np.nan_to_num(found.tank_volume) / standard, standard, found


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
        mu[good] = fluid.take(np.zeros(rows.size, np.intp)).viscosity(
            np.full(rows.size, T), flat, z[rows], V[good], np.full(rows.size, liquid)
        )
    return up, V.reshape(n, k), mu.reshape(n, k)


def refusals(table: BlackOil) -> list[tuple[str, int]]:
    """Return what a simulator would refuse, by code and row: ``compressibility`` of oil and its gas below zero,
    ``order`` of R_s or B_g against pressure, ``branch`` volumes that do not fall with pressure, ``crossing`` branches
    of oil."""
    out: list[tuple[str, int]] = []
    P = table.P
    if table.oil:
        dP = np.diff(P)
        # Total compressibility of saturated oil: what it loses in volume by pressure, and the gas it takes up.
        c = (-np.diff(table.Bo) + np.where(np.isfinite(table.Bg[1:]), table.Bg[1:], 0.0) * np.diff(table.Rs)) / dP
        out += [("compressibility", int(i) + 1) for i in np.flatnonzero((c <= 0.0) & np.isfinite(table.Bg[1:]))]
        out += [("order", int(i) + 1) for i in np.flatnonzero(np.diff(table.Rs) > 0.0)]
    else:
        Bg = table.Bg
        out += [("order", int(i) + 1) for i in np.flatnonzero(np.diff(Bg) <= 0.0)]
    for i in range(P.size):
        B = table.branch_B[i][np.isfinite(table.branch_B[i])]
        first = table.Bo[i] if table.oil else table.Bg[i]
        if B.size and (np.diff(np.concatenate([[first], B])) >= 0.0).any():
            out.append(("branch", i))
    if table.oil:
        with np.errstate(invalid="ignore"):
            less = np.diff(table.branch_B, axis=0) > 0.0
        out += [("crossing", int(i) + 1) for i in np.flatnonzero(less.any(axis=1))]
    return out
