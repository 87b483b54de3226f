"""What a tuning does where nothing was measured: whether the fluid is still sound, and what it says of envelope,
vapour pressure and hydrate."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from ..document import Fluid
from ..equilibrium.multiphase import flash_all
from ..equilibrium.phases import Kind
from ..equilibrium.saturation import saturation
from ..errors import DomainError
from ..fluids.building import FluidModel
from ..remarks import Remark, Value
from ..results.evaluator import Project
from ..results.hydrates import hydrate_lines
from ..results.simulated_tests import dry
from ..tuning.sanity import Trend, trends
from ..watch import UNWATCHED, Watch

Array = NDArray[np.float64]

REID = 310.95
"""K, 100 degF."""
COLD_LINE = 100e5
"""Pa, at which the hydrate temperature is told."""


class ElsewhereAnswer(TypedDict):
    """A result that nothing was measured of, before and after the tuning; null where there is none."""

    key: str
    before: float | None
    after: float | None


def elsewhere(project: Project, before: Fluid, after: Fluid, watch: Watch = UNWATCHED) -> list[ElsewhereAnswer]:
    """Return results of both fluids by key: cricondentherm, cricondenbar, vapour pressure at 100 degF and the hydrate
    temperature at 100 bar."""
    one, other = (_of(project, fluid, watch.part(0.5 * i, 0.5 * i + 0.5)) for i, fluid in enumerate((before, after)))
    return [
        {"key": k, "before": one.get(k), "after": other.get(k)}
        for k in one
        if one[k] is not None or other.get(k) is not None
    ]


def _of(project: Project, fluid: Fluid, watch: Watch) -> dict[str, float | None]:
    model = project.fluid(fluid)
    out: dict[str, float | None] = {}
    try:
        whole = project.map(fluid, (), watch.part(0.0, 0.6))
        hot, bar = whole.cricondentherm, whole.cricondenbar
        out["cricondentherm_K"] = None if hot is None else float(hot.T)
        out["cricondenbar_Pa"] = None if bar is None else float(bar.P)
        critical = whole.critical_points[0] if whole.critical_points else None
        out["critical_temperature_K"] = None if critical is None else float(critical.T)
    except DomainError:
        out |= {"cricondentherm_K": None, "cricondenbar_Pa": None, "critical_temperature_K": None}
    lab = dry(model)
    top = saturation(lab.eos, np.full(1, REID), lab.z[None, :])
    # Of a fluid with a dew point there it has no meaning.
    out["vapour_pressure_Pa"] = float(top.P[0]) if bool(top.found[0] & top.bubble[0]) else None
    try:
        T = hydrate_lines(project, fluid, ((),), watch.part(0.6, 1.0), np.array([COLD_LINE])).T
        found = T[np.isfinite(T)]
        out["hydrate_temperature_K"] = float(found.max()) if found.size else None
    except DomainError:
        out["hydrate_temperature_K"] = None
    return out


def soundness(before: FluidModel, after: FluidModel, states: Sequence[tuple[float, float]]) -> list[Remark]:
    """Return what is wrong with a tuned fluid that was not before: trends of its heavy ends, and a second liquid at
    the states (T K, P Pa) of the tests."""
    out = []
    old = {t.key: t for t in _trends(before)}
    for trend in _trends(after):
        was = old.get(trend.key)
        if not trend.kept and (was is None or was.kept) and trend.broken is not None:
            i, j = trend.broken
            values: dict[str, Value] = {
                "property": trend.key,
                "one": after.components[i].name,
                "other": after.components[j].name,
            }
            out.append(Remark("warning", "match.trend_rises" if trend.rises else "match.trend_falls", "", values))
    if states:
        T, P = np.array(states).T
        liquids = [_liquids(model, T, P) for model in (before, after)]
        born = int((liquids[1] > np.maximum(liquids[0], 1)).sum())
        if born:
            out.append(Remark("warning", "match.second_liquid", "", {"count": born, "of": T.size}))
    return out


def _trends(model: FluidModel) -> tuple[Trend, ...]:
    return trends(model.components, model.eos, model.substance.shift)


def _liquids(model: FluidModel, T: Array, P: Array) -> NDArray[np.int64]:
    found = flash_all(model.eos, T, P, model.z)
    return np.asarray(((found.kind == Kind.LIQUID) & (found.fraction > 0.0)).sum(axis=-1))
