"""Checks of the lab reports that tests carry: which can be made of what was measured, and their sentences."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from ..constants import WATER_DENSITY_60F, R
from ..document import Fluid
from ..document.read_measured import MeasuredValues
from ..fluids.building import FluidModel
from ..labtests import checks
from ..labtests.checks import Checked, Drawn
from ..results.evaluator import Project
from ..results.simulated_tests import CheckAnswer, DrawnAnswer, LabTest

Array = NDArray[np.float64]
Measured = Mapping[str, MeasuredValues]


def report_checks(
    kind: str, how: LabTest, asked: Any, measured: Measured, answer: Mapping[str, Any], project: Project, fluid: Fluid
) -> list[Checked]:
    """Return every check that can be made of what was measured of a test."""
    if not measured or kind not in CHECKS:
        return []
    model, _ = how.prepare(asked, project, fluid)
    with np.errstate(all="ignore"):
        return [c for c in CHECKS[kind](asked, measured, answer, model) if c is not None]


def told(found: list[Checked]) -> list[CheckAnswer]:
    """Return checks as an answer holds them."""
    out: list[CheckAnswer] = []
    for c in found:
        own: CheckAnswer = {
            "check": c.name,
            "verdict": c.verdict,
            "sentence": cast(str, c.remark),  # put into words where it is shown
            "rows": list(c.rows),
        }
        if c.drawn is not None:
            own["drawn"] = _drawn(c.drawn)
        out.append(own)
    return out


def _drawn(picture: Drawn) -> DrawnAnswer:
    x, y, line = (v.tolist() for v in (picture.x, picture.y, picture.line))
    return {
        "title": picture.title, "x_key": picture.x_key, "x_title": picture.x_title, "y_title": picture.y_title, "x": x, "y": y, "line": line,
        "marks": list(picture.marks), "names": list(picture.names),
    }  # fmt: skip


def _column(measured: Measured, key: str, n: int) -> Array:
    """Return the measured values of rows, (n,), nan where there are none."""
    out = np.full(n, np.nan)
    given = measured.get(key)
    if given is not None and given.rows:
        for i, value in enumerate(given.values[:n]):
            if value is not None:
                out[i] = value
    return out


def _single(measured: Measured, key: str) -> float | None:
    given = measured.get(key)
    return None if given is None or given.rows else given.values[0]


def _composition(measured: Measured, phase: str, names: tuple[str, ...], n: int) -> Array:
    """Return measured compositions (n, nc), nan where there are none."""
    return np.column_stack([_column(measured, f"{phase}.{name}", n) for name in names])


def _expansion(asked: Any, measured: Measured, answer: Mapping[str, Any], model: FluidModel) -> list[Checked | None]:
    P = np.array(asked.P)
    V = _column(measured, "relative_volume", P.size)
    there = np.isfinite(V)
    saturation = _single(measured, "saturation.pressure_Pa")
    if saturation is None and (there & (np.abs(V - 1.0) < 1e-9)).any():
        saturation = float(P[there & (np.abs(V - 1.0) < 1e-9)].max())
    out: list[Checked | None] = [checks.rising("relative_volume", P[there], V[there], True)] if there.any() else []
    if saturation is None:
        return out
    rows = np.flatnonzero(there)
    for check in (checks.y_function, checks.expansion_break):
        found = check(P[there], V[there], saturation)
        out.append(None if found is None else _of_rows(found, rows))
    return out


def _of_rows(found: Checked, rows: NDArray[np.intp]) -> Checked:
    """Return a check of some rows with their places among all."""
    return Checked(found.name, found.verdict, found.remark, tuple(int(rows[i]) for i in found.rows), found.drawn)


def _depletion(asked: Any, measured: Measured, answer: Mapping[str, Any], model: FluidModel) -> list[Checked | None]:
    P, T, n = np.array(asked.P), asked.T, len(asked.P)
    produced, liquid, Z, Z_two = (
        _column(measured, k, n) for k in ("produced_mole_fraction", "liquid_volume_fraction", "Z_gas", "Z_two_phase")
    )
    y = _composition(measured, "gas", model.names, n)
    out: list[Checked | None] = []
    there = np.isfinite(produced)
    if there.any():
        out.append(checks.rising("produced_mole_fraction", P[there], produced[there], True))
    out.append(checks.closes(model.names, y))
    # A report that does not name the saturation pressure begins there: nothing is drawn yet.
    start = P[there & (produced == 0.0)]
    reported = _single(measured, "saturation.pressure_Pa") or (float(start.min()) if start.size else None)
    saturation = reported or float(answer["saturation"]["pressure_Pa"])
    top = np.flatnonzero(np.isfinite(Z) & (np.abs(P / saturation - 1.0) < 0.01))
    single = _single(measured, "saturation.Z")
    Z_start = single if single is not None else float(Z[top[0]]) if top.size else None
    if Z_start is None:
        return out
    cell = Z_start * R * T / saturation
    out.append(checks.two_phase_z(P, produced, Z_two, T, cell))
    whole = np.isfinite(y).all(axis=1) & there & np.isfinite(liquid) & np.isfinite(Z) & (0.995 * saturation > P)
    # A balance adds up from the start: rows count up to the first that lacks something.
    first = int(np.argmax(0.995 * saturation > P))
    last = first
    while last < n and whole[last]:
        last += 1
    rows = np.arange(first, last)
    if rows.size:
        found = checks.cell_balance(model.z, y[rows], produced[rows], liquid[rows], Z[rows], P[rows], T, cell)
        out.append(_of_rows(checks.depletion_balance(found, model.z, model.names, P[rows]), rows))
        for k in rows[:: max(1, rows.size // 3)]:
            place = int(k - first)
            x = np.where(found.x[place] > 0.0, found.x[place], np.nan)
            if found.liquid[place] > 0.01:
                out.append(checks.hoffmann_crump(model.components, x, y[k], float(P[k]), T, int(k), f"step {k + 1}"))
    return out


def _liberation(asked: Any, measured: Measured, answer: Mapping[str, Any], model: FluidModel) -> list[Checked | None]:
    P, n = np.array(asked.P), len(asked.P)
    factor, gas, density, gravity = (
        _column(measured, k, n) for k in ("oil_volume_factor", "solution_gas_m3_m3", "oil_density_kg_m3", "gas_gravity")
    )
    out: list[Checked | None] = []
    saturation = _single(measured, "saturation.pressure_Pa") or float(answer["saturation"]["pressure_Pa"])
    below = np.isfinite(gas) & (saturation > P)
    if below.any():
        out.append(checks.rising("solution_gas_m3_m3", P[below], gas[below], False))
    residue = _single(measured, "residual_density_kg_m3")
    rows = np.flatnonzero(np.isfinite(factor) & np.isfinite(gas))
    if residue is not None and rows.size > 2 and np.isfinite(gravity).any():
        known = np.isfinite(gravity)
        filled = np.interp(-P, -P[known], gravity[known])
        found = checks.liberation_mass(P[rows], factor[rows], gas[rows], density[rows], filled[rows], residue)
        out.append(None if found is None else _of_rows(found, rows))
    return out


def _separators(asked: Any, measured: Measured, answer: Mapping[str, Any], model: FluidModel) -> list[Checked | None]:
    n = len(asked.P)
    y, x = (_composition(measured, phase, model.names, n) for phase in ("gas", "liquid"))
    out: list[Checked | None] = [checks.closes(model.names, y), checks.closes(model.names, x)]
    for k in range(n):
        if np.isfinite(x[k]).sum() >= 4 and np.isfinite(y[k]).sum() >= 4:
            out.append(checks.hoffmann_crump(model.components, x[k], y[k], asked.P[k], asked.T[k], k, f"stage {k + 1}"))
    gas = _column(measured, "gas_oil_ratio_m3_m3", n)
    factor, feed = _single(measured, "oil_volume_factor"), _single(measured, "saturation.density_kg_m3")
    gravity = _column(measured, "gas_gravity", n)
    density, api = _single(measured, "tank_density_kg_m3"), _single(measured, "api")
    if density is None and api is not None:
        density = 141.5 / (api + 131.5) * WATER_DENSITY_60F
    if (
        factor is not None
        and feed is not None
        and density is not None
        and np.isfinite(gas).all()
        and np.isfinite(gravity).all()
    ):
        out.append(checks.separator_mass(factor, feed, gas, gravity, density))
    whole = np.isfinite(x[0]).all() and np.isfinite(y[0]).all() and np.isfinite(gas[0])
    if whole and answer["rows"][0]["gas_oil_ratio_m3_m3"]:
        out.append(checks.recombination(model.z, x[0], y[0], float(gas[0]), float(answer["liquid_m3_mol"])))
    return out


CHECKS: dict[str, Callable[[Any, Measured, Mapping[str, Any], FluidModel], list[Checked | None]]] = {
    "expansion": _expansion,
    "depletion": _depletion,
    "liberation": _liberation,
    "separators": _separators,
}
"""Checks by kind of test."""
