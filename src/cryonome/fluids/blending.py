"""What a fluid is made of: parts by amount, other fluids, recombined separator streams; cuts on one grid."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ..characterization import CharacterizedSample, Known, complete
from ..characterization.correlations.density import compressibility_factor
from ..characterization.cuts import automatic_boundaries
from ..characterization.lumping import join_components, summed
from ..characterization.sample import cut_names
from ..components import Component
from ..components.oil_density import expanded_density
from ..constants import ATM, T_60F, WATER_DENSITY_60F
from ..document import FluidInput
from ..document.read_fluid import PartInput, RecombinationInput, SeriesInput
from ..remarks import Remark, kelvin, measure

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Sources:
    """Where samples and fluids are found by name. ``sample`` takes cut boundaries (K) in place of the sample's own."""

    sample: Callable[[str, tuple[float, ...] | None], CharacterizedSample]
    fluid: Callable[[str], FluidInput]


Shares = dict[str, float]
"""Mass, or shares of it, by the part it came from."""


@dataclass
class Content:
    """Components with their moles (nc,), and how the mass of each divides over the parts it came from."""

    components: tuple[Component, ...]
    moles: Array
    shares: tuple[Shares, ...]

    @property
    def origin(self) -> tuple[tuple[str, ...], ...]:
        """The parts that each component came from."""
        return tuple(tuple(s) for s in self.shares)


@dataclass
class _Heap:
    """Components as they are gathered; one that comes twice is added up."""

    components: list[Component] = field(default_factory=list)
    moles: list[float] = field(default_factory=list)
    shares: list[Shares] = field(default_factory=list)
    place: dict[tuple[str, str], int] = field(default_factory=dict)

    def add(self, component: Component, moles: float, shares: Shares) -> None:
        """Add moles of a component, whose mass divides as ``shares`` over the parts it comes from."""
        at = component.kind, component.identity
        i = self.place.get(at)
        if i is not None and (component.kind == "pure" or self.components[i] == component):
            self.moles[i] += moles
            self.shares[i] = _added(self.shares[i], _scaled(shares, moles * component.molar_mass))
            return
        self.place.setdefault(at, len(self.components))
        self.components.append(component)
        self.moles.append(moles)
        self.shares.append(_scaled(shares, moles * component.molar_mass))

    def listed(self) -> list[tuple[Component, float, Shares]]:
        """Return the components with their moles and how their mass divides."""
        return list(zip(self.components, self.moles, self.shares))


def _scaled(shares: Shares, mass: float) -> Shares:
    """Return shares that add up to ``mass``."""
    total = sum(shares.values())
    return {k: v * mass / total for k, v in shares.items()} if total > 0.0 else shares


def _added(one: Shares, other: Shares) -> Shares:
    return {k: one.get(k, 0.0) + other.get(k, 0.0) for k in (*one, *other)}


def collect(fluid: FluidInput, sources: Sources, remarks: list[Remark]) -> Content:
    """Return the components and moles of a fluid, the cuts of several samples on one grid unless they keep their own.

    Raises DomainError where a part cannot be completed.
    """
    heap = _gather(fluid, sources, None, remarks)
    owners = {tuple(o) for c, o in zip(heap.components, heap.shares) if c.kind == "cut"}
    if fluid.grid == "common" and len(owners) > 1:
        cuts = [c for c in heap.components if c.kind == "cut"]
        grid = automatic_boundaries(min(c.nbp for c in cuts) - 5.0, max(c.nbp for c in cuts) + 5.0)
        again = _gather(fluid, sources, tuple(grid.tolist()), [])
        heap = _on_grid(fluid, again, grid)
        count = sum(c.kind == "cut" for c in heap.components)
        names = tuple(sorted({name for c, o in zip(again.components, again.shares) if c.kind == "cut" for name in o}))
        remarks.append(Remark("correction", "parts.one_grid", "parts", {"samples": names, "count": count}))
    # A component in no amount is left out, since a fraction of zero has no logarithm.
    there = [i for i, moles in enumerate(heap.moles) if moles > 0.0]
    components = _distinct([heap.components[i] for i in there])
    return Content(tuple(components), np.array([heap.moles[i] for i in there]), tuple(heap.shares[i] for i in there))


def _distinct(components: list[Component]) -> list[Component]:
    """Return the components with names that occur once; different ones may have met under one name."""
    taken = {c.name for c in components}
    seen: set[str] = set()
    out = []
    for c in components:
        name, number = c.name, 2
        while name in seen or (name != c.name and name in taken):
            name, number = f"{c.name} ({number})", number + 1
        seen.add(name)
        out.append(c if name == c.name else replace(c, name=name))
    return out


def _gather(fluid: FluidInput, sources: Sources, boundaries: tuple[float, ...] | None, remarks: list[Remark]) -> _Heap:
    if fluid.recombination is not None:
        return _recombined(fluid.recombination, sources, boundaries, remarks)
    heap = _Heap()
    for part in fluid.parts:
        for component, moles, origin in _inside(part, sources, boundaries, remarks):
            heap.add(component, moles, origin)
    return heap


def _inside(
    part: PartInput, sources: Sources, boundaries: tuple[float, ...] | None, remarks: list[Remark]
) -> list[tuple[Component, float, Shares]]:
    """Return the components of a part, their moles and where they came from."""
    if part.amount <= 0.0:
        return []
    content = part.content
    listed: list[tuple[Component, float, Shares]]
    if isinstance(content, str) and part.is_sample:
        sample = sources.sample(content, boundaries)
        x = sample.mole_fraction
        listed = [(c, float(x[i]), {content: 1.0}) for i, c in enumerate(sample.components)]
    elif isinstance(content, str):
        heap = _gather(sources.fluid(content), sources, boundaries, remarks)
        total = sum(heap.moles)
        listed = [(c, m / total, o) for c, m, o in heap.listed()]
    elif isinstance(content, SeriesInput):
        made = series_components(content, part.key)
        weights = [1.0 / _per_mole(c, part.basis) for c in made]
        listed = [(c, w / sum(weights), {content.name: 1.0}) for c, w in zip(made, weights)]
        for c in made:
            _tell_estimates(c, remarks)
    else:
        component = complete(replace(content, key=part.key)) if isinstance(content, Known) else content
        _tell_estimates(component, remarks)
        if part.basis == "volume" and component.Tc < T_60F:
            remarks.append(Remark("estimate", "parts.apparent_volume", "parts", {"name": component.name}))
        listed = [(component, 1.0, {component.name: 1.0})]
    moles = part.amount / sum(x * _per_mole(c, part.basis) for c, x, _ in listed)
    return [(c, moles * x, origin) for c, x, origin in listed]


def _tell_estimates(component: Component, remarks: list[Remark]) -> None:
    for what in component.estimates:
        remarks.append(Remark("estimate", "parts.estimated", "parts", {"name": component.name, "what": what}))


def _per_mole(component: Component, basis: str) -> float:
    return {"mole": 1.0, "mass": component.molar_mass, "volume": component.standard_liquid_volume}[basis]


def _recombined(
    made: RecombinationInput, sources: Sources, boundaries: tuple[float, ...] | None, remarks: list[Remark]
) -> _Heap:
    """Return separator liquid and gas together, for one m3 of liquid.

    The liquid's volume is the sum of its components' at 60 degF and 1 atm, at separator conditions expanded by ASTM
    D1250 and pressed by API MPMS 11.2.1M.
    """
    liquid = _gather(sources.fluid(made.liquid), sources, boundaries, remarks)
    gas = _gather(sources.fluid(made.gas), sources, boundaries, remarks)
    moles = np.array(liquid.moles)
    mass = float(moles @ [c.molar_mass for c in liquid.components])
    volume = float(moles @ [c.standard_liquid_volume for c in liquid.components])
    if made.place == "separator" and made.temperature is not None:
        standard = mass / volume
        sg = standard / WATER_DENSITY_60F
        there = float(expanded_density(sg, made.temperature))
        if made.pressure is not None:
            there /= 1.0 - float(compressibility_factor(sg, made.temperature)) * (made.pressure - ATM)
        volume = mass / there
        values = {
            "there": measure(there, "density"),
            "T": kelvin(made.temperature),
            "standard": measure(standard, "density"),
        }
        remarks.append(Remark("estimate", "parts.separator_density", "parts", values))
    heap = _Heap()
    for c, m, o in zip(liquid.components, (moles / volume).tolist(), liquid.shares):
        heap.add(c, m, o)
    total = sum(gas.moles)
    for c, m, o in gas.listed():
        if m > 0.0 and made.ratio > 0.0:
            heap.add(c, made.ratio * m / total, o)
    return heap


def _on_grid(fluid: FluidInput, heap: _Heap, grid: Array) -> _Heap:
    """Return the heap with all cuts of one boiling range made one component."""
    out = _Heap()
    for c, m, o in heap.listed():
        if c.kind != "cut":
            out.add(c, m, o)
    cuts = [(c, m, o) for c, m, o in heap.listed() if c.kind == "cut" and m > 0.0]
    nbp = np.array([c.nbp for c, _, _ in cuts])
    group = np.searchsorted(grid, nbp).astype(np.intp)
    moles = np.array([m for _, m, _ in cuts])
    limits = np.concatenate([[min(nbp.min(), grid[0]) - 1.0], grid, [max(nbp.max(), grid[-1]) + 1.0]])
    places = np.unique(group)
    names = [cut_names(fluid.name, limits[place : place + 2])[0] for place in places]
    keys = [f"{fluid.key}/{limits[place]:.2f}" if place else f"{fluid.key}/first" for place in places]
    made = join_components([c for c, _, _ in cuts], moles, group, names, keys)
    for component, total, place in zip(made, summed(moles, group).tolist(), places):
        members: Shares = {}
        for k in np.flatnonzero(group == place):
            members = _added(members, cuts[k][2])
        out.add(component, total, members)
    return out


def series_components(series: SeriesInput, key: str = "") -> list[Component]:
    """Return pseudo-components boiling in the middle of every step of a series."""
    edges = np.append(np.arange(series.start, series.end - 1e-6 * series.step, series.step), series.end)
    out = []
    for i, (name, low, high) in enumerate(zip(cut_names(series.name, edges), edges, edges[1:])):
        nbp = 0.5 * float(low + high)
        sg = None if series.watson_k is None else float(np.cbrt(1.8 * nbp) / series.watson_k)
        out.append(complete(Known(name, nbp=nbp, specific_gravity=sg, key=f"{key or series.name}/{i + 1}")))
    return out
