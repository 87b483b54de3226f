"""Phase diagrams over other variables than temperature and pressure: lines, isolines, and the state at a place."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..equilibrium.line_states import two_phases
from ..equilibrium.multiphase import flash_all
from ..equilibrium.pair_flash import flash_pair
from ..equilibrium.phase_map import PhaseMap
from ..equilibrium.phases import Kind, Phases
from ..equilibrium.pure import boiling_temperature, saturation_pressure
from ..equilibrium.regions import Regions, to_corners
from ..equilibrium.volume_lines import VolumeLine
from ..properties import evaluate
from ..watch import UNWATCHED, Watch
from .building import FluidModel
from .map_lines import line_phases
from .states import States, with_properties

Array = NDArray[np.float64]
Values = Mapping[str, Array]
"""Arrays of one length by the keys of :data:`VARIABLES`, SI, by mole; the density by mass."""

VARIABLES = {
    "temperature": "temperature",
    "pressure": "pressure",
    "molar_volume": "molar_volume",
    "density": "density",
    "enthalpy": "enthalpy",
    "entropy": "entropy",
}
"""What an axis may be, with its kind of quantity."""

DIAGRAMS = {
    "P–V": ("molar_volume", "pressure"),
    "P–ρ": ("density", "pressure"),
    "P–H": ("enthalpy", "pressure"),
    "T–S": ("entropy", "temperature"),
    "T–V": ("molar_volume", "temperature"),
    "T–H": ("enthalpy", "temperature"),
}
"""The horizontal and vertical variable of each diagram."""

MEASURED = ("molar_volume", "density", "enthalpy", "entropy")
ISOTHERMS, ISOBARS, POINTS = 9, 8, 60


@dataclass(frozen=True)
class Isoline:
    """States at one temperature or pressure, ``value`` SI."""

    of: str
    value: float
    states: Values


@dataclass(frozen=True)
class Diagram:
    """Lines by vapour fraction, isolines, critical points, and the lines at which an aqueous phase of three ends, all
    over every variable."""

    model: FluidModel
    lines: tuple[tuple[float, Values], ...]
    isolines: tuple[Isoline, ...]
    critical: Values
    water: tuple[Values, ...] = ()


def diagram(
    model: FluidModel,
    whole: PhaseMap,
    fractions: Sequence[float],
    volumes: Sequence[VolumeLine] = (),
    watch: Watch = UNWATCHED,
    found: Regions | None = None,
) -> Diagram:
    """Return the diagram of a traced map, with lines by volume beside its own and those of the regions that were
    ``found``. Raises Cancelled."""
    lines = [(f, _values(model, p)) for f in fractions for p in line_phases(whole, f)]
    lines += [(line.share, _values(model, line.states)) for line in volumes]
    water: list[Values] = []
    if found is not None:
        lines = [(f, _to_corners(model, v, found) if f in (0.0, 1.0) else v) for f, v in lines]
        like = {Kind.VAPOUR: 0.0, Kind.LIQUID: 1.0}
        lines += [(like[b.gone], _values(model, b.states)) for b in found.bounds if b.gone in like]
        lines += [(f, _values(model, p)) for f, p in found.quality if f in fractions]
        water = [_values(model, b.states) for b in found.bounds if b.gone == Kind.AQUEOUS]
    watch.at(0.3)
    T_most = max((float(v["temperature"].max()) for _, v in lines), default=500.0)
    P_most = max((float(v["pressure"].max()) for _, v in lines), default=1e7)
    T = np.linspace(max(0.45 * T_most, 150.0), 1.25 * T_most, ISOTHERMS)
    P = np.geomspace(max(P_most / 300.0, 2e4), 3.0 * P_most, ISOBARS)
    along_P, along_T = np.geomspace(1e4, 5.0 * P_most, POINTS), np.linspace(0.4 * T_most, 1.3 * T_most, POINTS)
    grid_T = np.concatenate([np.repeat(T, POINTS), np.tile(along_T, ISOBARS)])
    grid_P = np.concatenate([np.tile(along_P, ISOTHERMS), np.repeat(P, POINTS)])
    states = flash_all(model.eos, grid_T, grid_P, model.z, watch.part(0.3, 0.95))
    values = _values(model, states)
    isolines = []
    for number, (of, level) in enumerate([("temperature", v) for v in T] + [("pressure", v) for v in P]):
        rows = slice(number * POINTS, (number + 1) * POINTS)
        own = {k: v[rows] for k, v in values.items()}
        isolines.append(Isoline(of, float(level), _boiling(model, of, float(level), own) if model.z.size == 1 else own))
    points = [(c.T, c.P) for c in whole.critical_points]
    T_c, P_c = (np.array([p[k] for p in points]) for k in (0, 1))
    # A hair above the critical temperature there is one phase, as there.
    critical = _values(model, flash_all(model.eos, T_c * (1.0 + 1e-6), P_c, model.z)) if points else {}
    return Diagram(model, tuple(lines), tuple(isolines), critical, tuple(water))


def _to_corners(model: FluidModel, values: Values, found: Regions) -> Values:
    """Return a line with the corners of three phases that it ends at, where one phase is left."""
    T, P = to_corners(values["temperature"], values["pressure"], found.corners)
    more = T.size - values["temperature"].size
    if not more:
        return values
    first = bool(T[0] != values["temperature"][0])
    ends = ([0] if first else []) + ([T.size - 1] if more > first else [])
    corners = _values(model, flash_all(model.eos, T[ends], P[ends], model.z))
    parts = {k: (v[:first], values[k], v[first:]) for k, v in corners.items()}
    return {k: np.concatenate(v) for k, v in parts.items()}


def _boiling(model: FluidModel, of: str, level: float, values: Values) -> Values:
    """Return states of one component along a line of T or P with the two ends of boiling among them."""
    at_T = of == "temperature"
    solve = saturation_pressure if at_T else boiling_temperature
    other = float(solve(model.eos, np.array([[level]]))[0, 0])
    if not np.isfinite(other):
        return values
    T, P = (level, other) if at_T else (other, level)
    one = np.ones((2, 1))
    # Along rising temperature the liquid comes first, along rising pressure the vapour.
    beta = np.array([1.0, 0.0] if at_T else [0.0, 1.0])
    ends = _values(model, two_phases(model.eos, one[0], np.full(2, T), np.full(2, P), beta, one, one))
    place = int(np.searchsorted(values["pressure" if at_T else "temperature"], other))
    return {k: np.insert(v, place, ends[k]) for k, v in values.items()}


def _values(model: FluidModel, phases: Phases) -> Values:
    return {"temperature": phases.T, "pressure": phases.P, **evaluate(model.substance, phases, MEASURED).whole}


def state_of(
    model: FluidModel, at: Mapping[str, float], keys: Iterable[str] = (), watch: Watch = UNWATCHED
) -> States | None:
    """Return the state at two variables of a diagram with the properties ``keys``, None where there is none. Raises
    Cancelled."""
    conditions = dict(at)
    if "molar_volume" in conditions:
        volume = conditions.pop("molar_volume")
        if volume <= 0.0:
            return None
        conditions["density"] = float(model.z @ model.molar_mass) / volume
    if any(v <= 0.0 for k, v in conditions.items() if k in ("temperature", "pressure", "density")):
        return None

    def whole(phases: Phases, keys: Sequence[str]) -> Values:
        return evaluate(model.substance, phases, keys).whole

    found = flash_pair(model.eos, model.z, conditions, whole, watch).phases
    return with_properties(model, found, keys) if bool(found.converged[0]) else None
