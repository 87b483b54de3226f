"""Flashes of every pair of conditions, batched: the one entry for all of them.

Temperature, pressure, vapour fraction by mole or volume, enthalpy, entropy, density and internal energy, any two that
fix the state. Each pair goes to the solver made for it."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..eos import Equation
from ..watch import UNWATCHED, Watch
from .flash import check_state
from .fraction_states import fraction_states
from .measured import MEASURED, Fluids, Whole, gather
from .multiphase import flash_all
from .on_fraction import solve_on_fraction
from .one_known import Found, solve_one
from .two_measured import solve_two

Array = NDArray[np.float64]

CONDITIONS = (
    "temperature",
    "pressure",
    "vapour_fraction",
    "vapour_volume_fraction",
    "enthalpy",
    "entropy",
    "density",
    "internal_energy",
)
"""What a flash may hold."""


def flash_pair(
    eos: Equation, z: ArrayLike, conditions: Mapping[str, ArrayLike], whole: Whole, watch: Watch = UNWATCHED
) -> Found:
    """Return the states of feeds z (..., nc) at two ``conditions`` of :data:`CONDITIONS`, SI, by mole, broadcast to N
    states.

    ``whole`` measures what is not temperature, pressure or mole fraction. Raises ValueError for another number of
    conditions and for unphysical ones, Cancelled where ``watch`` says so. The states stand along one axis, in the
    order of the input."""
    if len(conditions) != 2 or not set(conditions) <= set(CONDITIONS):
        raise ValueError(f"give two of {', '.join(CONDITIONS)}")
    given = {k: np.asarray(v, float) for k, v in conditions.items()}
    z = np.asarray(z, float)
    one = np.ones(())
    check_state(given.get("temperature", one), given.get("pressure", one), z, eos.nc)
    shape = np.broadcast_shapes(*(v.shape for v in given.values()), z.shape[:-1])
    n = int(np.prod(shape, dtype=int))
    values = {k: np.broadcast_to(v, shape).reshape(-1).astype(float) for k, v in given.items()}
    feeds = np.broadcast_to(z / z.sum(axis=-1, keepdims=True), (*shape, eos.nc)).reshape(n, eos.nc)
    present: NDArray[np.bool_] = np.asarray((feeds > 0.0).any(axis=0))
    if present.sum() == 1 and eos.nc > 1:
        # One component is there: the others have no part in it.
        found = flash_pair(eos.of(present), np.ones(1), values, _of_part(whole, present), watch)
        return Found(found.phases.among(present), found.others)
    fluids = Fluids(eos, np.ascontiguousarray(feeds), whole)
    for share in ("vapour_fraction", "vapour_volume_fraction"):
        if share in values and not ((values[share] >= 0.0) & (values[share] <= 1.0)).all():
            raise ValueError(f"the {share.replace('_', ' ')} must lie between 0 and 1")
    at = next((k for k in ("temperature", "pressure") if k in values), None)
    measured = {k: v for k, v in values.items() if k in MEASURED}
    nothing: tuple[tuple[tuple[float, float], ...], ...] = ((),) * n
    if len(measured) == 2:
        return solve_two(fluids, measured, watch)
    if "vapour_fraction" in values and at is None:
        ((key, target),) = measured.items()
        return solve_on_fraction(fluids, values["vapour_fraction"], key, target, watch)
    if at is not None and measured:
        ((key, target),) = measured.items()
        return _one_known(fluids, at, values[at], key, target, watch)
    if "vapour_fraction" in values:
        T, P = values.get("temperature"), values.get("pressure")
        return fraction_states(eos, fluids.z, values["vapour_fraction"], T, P, watch)
    return Found(flash_all(eos, values["temperature"], values["pressure"], feeds, watch), nothing)


def _one_known(fluids: Fluids, at: str, value: Array, key: str, target: Array, watch: Watch) -> Found:
    """Return the states of a known temperature or pressure; no vapour, or nothing else, by volume is so by mole as
    well."""
    letter = "T" if at == "temperature" else "P"
    end = (target == 0.0) | (target == 1.0) if key == "vapour_volume_fraction" else np.zeros(target.shape, dtype=bool)
    if not end.any():
        return solve_one(fluids, letter, value, key, target, watch=watch)
    rows, rest = np.flatnonzero(end), np.flatnonzero(~end)
    part = fluids.take(rows)
    T, P = (value[rows], None) if letter == "T" else (None, value[rows])
    ends = fraction_states(part.eos, part.z, target[rows], T, P, watch)
    others: list[tuple[tuple[float, float], ...]] = [()] * value.size
    for row, more in zip(rows.tolist(), ends.others):
        others[row] = more
    parts = [(rows, ends.phases)]
    if rest.size:
        found = solve_one(fluids.take(rest), letter, value[rest], key, target[rest], watch=watch)
        parts.append((rest, found.phases))
        for row, more in zip(rest.tolist(), found.others):
            others[row] = more
    return Found(gather(value.size, parts), tuple(others))


def _of_part(whole: Whole, present: NDArray[np.bool_]) -> Whole:
    return lambda phases, keys: whole(phases.among(present), keys)
