"""What a fluid is made of: parts by amount, other fluids, recombined separator streams; cuts on one grid."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ..characterization import CharacterizedSample, Known, Remark, complete
from ..characterization.correlations.density import expanded_density
from ..characterization.cuts import automatic_boundaries
from ..characterization.lumping import join_components, summed
from ..characterization.sample import cut_names
from ..components import Component, find
from ..constants import WATER_DENSITY_60F
from ..document.cells import specific_gravity
from ..document.checks import AMOUNTS, amount_kind
from ..document.model import Fluid, FluidPart, Pseudo, Recombination, Series
from ..units import parse
from .sample_inputs import given, plain_number

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Sources:
    """Where samples and fluids are found by name. ``sample`` takes cut boundaries (K) in place of the sample's own."""

    sample: Callable[[str, tuple[float, ...] | None], CharacterizedSample]
    fluid: Callable[[str], Fluid]


@dataclass
class Content:
    """Components with their moles (nc,) and the part each came from."""

    components: tuple[Component, ...]
    moles: Array
    origin: tuple[str, ...]


@dataclass
class _Heap:
    """Components as they are gathered; one that comes twice is added up."""

    components: list[Component] = field(default_factory=list)
    moles: list[float] = field(default_factory=list)
    origin: list[str] = field(default_factory=list)

    def add(self, component: Component, moles: float, origin: str) -> None:
        for i, other in enumerate(self.components):
            if other.name == component.name and (other.kind == component.kind == "pure" or other == component):
                self.moles[i] += moles
                if origin not in self.origin[i].split(" + "):
                    self.origin[i] += f" + {origin}"
                return
        self.components.append(component)
        self.moles.append(moles)
        self.origin.append(origin)


def collect(fluid: Fluid, sources: Sources, remarks: list[Remark]) -> Content:
    """Return the components and moles of a fluid, the cuts of several samples on one grid unless they keep their own.

    Raises ValueError where a part cannot be completed.
    """
    heap = _gather(fluid, sources, None, remarks)
    owners = {o for c, o in zip(heap.components, heap.origin) if c.kind == "cut"}
    if fluid.grid == "common" and len(owners) > 1:
        cuts = [c for c in heap.components if c.kind == "cut"]
        grid = automatic_boundaries(min(c.nbp for c in cuts) - 5.0, max(c.nbp for c in cuts) + 5.0)
        again = _gather(fluid, sources, tuple(grid.tolist()), [])
        heap = _on_grid(fluid.name, again, grid)
        count = sum(c.kind == "cut" for c in heap.components)
        text = f"The cuts of {', '.join(sorted(owners))} share one grid of {count} boiling ranges; properties are means by mass."
        remarks.append(Remark("correction", text, "parts"))
    return Content(tuple(_distinct(heap.components)), np.array(heap.moles), tuple(heap.origin))


def _distinct(components: list[Component]) -> list[Component]:
    """Return the components with names that occur once; different ones may have met under one name."""
    seen: dict[str, int] = {}
    out = []
    for c in components:
        seen[c.name] = seen.get(c.name, 0) + 1
        out.append(c if seen[c.name] == 1 else replace(c, name=f"{c.name} ({seen[c.name]})"))
    return out


def _gather(fluid: Fluid, sources: Sources, boundaries: tuple[float, ...] | None, remarks: list[Remark]) -> _Heap:
    if fluid.recombination is not None:
        return _recombined(fluid.recombination, sources, boundaries, remarks)
    heap = _Heap()
    for part in fluid.parts:
        for component, per_part, origin in _inside(part, sources, boundaries, remarks, fluid.basis):
            heap.add(component, per_part, origin)
    return heap


def _inside(
    part: FluidPart, sources: Sources, boundaries: tuple[float, ...] | None, remarks: list[Remark], basis: str
) -> list[tuple[Component, float, str]]:
    """Return the components of a part, their moles and where they came from."""
    kind = amount_kind(part.amount)
    if kind is None:
        amount = plain_number(part.amount)
    else:
        basis, amount = kind[0], parse(part.amount, AMOUNTS[kind[0]][kind[1]])  # type: ignore[arg-type]
    if amount <= 0.0:
        return []
    if part.sample is not None:
        sample = sources.sample(part.sample, boundaries)
        x = sample.mole_fraction
        listed = [(c, float(x[i]), part.sample) for i, c in enumerate(sample.components)]
    elif part.fluid is not None:
        heap = _gather(sources.fluid(part.fluid), sources, boundaries, remarks)
        total = sum(heap.moles)
        listed = [(c, m / total, o) for c, m, o in zip(heap.components, heap.moles, heap.origin)]
    elif part.series is not None:
        made = series_components(part.series)
        weights = [1.0 / _per_mole(c, basis) for c in made]
        listed = [(c, w / sum(weights), part.series.name) for c, w in zip(made, weights)]
        remarks += [Remark("estimate", f"{c.name}: {s}.", "parts") for c in made for s in c.estimates]
    else:
        component = find(part.component) if part.component is not None else pseudo_component(part.pseudo)  # type: ignore[arg-type]
        remarks += [Remark("estimate", f"{component.name}: {s}.", "parts") for s in component.estimates]
        if basis == "volume" and component.Tc < 288.7:
            remarks.append(Remark("estimate", f"{component.name} counts by an apparent liquid volume.", "parts"))
        listed = [(component, 1.0, component.name)]
    moles = amount / sum(x * _per_mole(c, basis) for c, x, _ in listed)
    return [(c, moles * x, origin) for c, x, origin in listed]


def _per_mole(component: Component, basis: str) -> float:
    return {"mole": 1.0, "mass": component.molar_mass, "volume": component.standard_liquid_volume}[basis]


def _recombined(
    made: Recombination, sources: Sources, boundaries: tuple[float, ...] | None, remarks: list[Remark]
) -> _Heap:
    """Return separator liquid and gas together, for one m3 of liquid.

    The liquid's volume is the sum of its components' at 60 degF, at separator conditions expanded by ASTM D1250.
    """
    liquid = _gather(sources.fluid(made.liquid), sources, boundaries, remarks)
    gas = _gather(sources.fluid(made.gas), sources, boundaries, remarks)
    moles = np.array(liquid.moles)
    mass = float(moles @ [c.molar_mass for c in liquid.components])
    volume = float(moles @ [c.standard_liquid_volume for c in liquid.components])
    if made.liquid_volume == "separator":
        T = parse(made.temperature, "temperature")  # type: ignore[arg-type]
        standard = mass / volume
        there = float(expanded_density(standard / WATER_DENSITY_60F, T))
        volume = mass / there
        text = (
            f"The liquid's density at the separator, {there:.1f} kg/m³ at {T - 273.15:.1f} °C, from {standard:.1f} at "
            "60 °F by ASTM D1250."
        )
        remarks.append(Remark("estimate", text, "parts"))
    ratio = parse(made.gas_oil_ratio, "gas_oil_ratio")  # type: ignore[arg-type]
    heap = _Heap()
    for c, m, o in zip(liquid.components, (moles / volume).tolist(), liquid.origin):
        heap.add(c, m, o)
    total = sum(gas.moles)
    for c, m, o in zip(gas.components, gas.moles, gas.origin):
        if m > 0.0 and ratio > 0.0:
            heap.add(c, ratio * m / total, o)
    return heap


def _on_grid(name: str, heap: _Heap, grid: Array) -> _Heap:
    """Return the heap with all cuts of one boiling range made one component."""
    out = _Heap()
    for c, m, o in zip(heap.components, heap.moles, heap.origin):
        if c.kind != "cut":
            out.add(c, m, o)
    cuts = [(c, m, o) for c, m, o in zip(heap.components, heap.moles, heap.origin) if c.kind == "cut" and m > 0.0]
    nbp = np.array([c.nbp for c, _, _ in cuts])
    group = np.searchsorted(grid, nbp).astype(np.intp)
    moles = np.array([m for _, m, _ in cuts])
    limits = np.concatenate([[min(nbp.min(), grid[0]) - 1.0], grid, [max(nbp.max(), grid[-1]) + 1.0]])
    places = np.unique(group)
    names = [cut_names(name, limits[place : place + 2])[0] for place in places]
    made = join_components([c for c, _, _ in cuts], moles, group, names)
    for component, total, place in zip(made, summed(moles, group).tolist(), places):
        members = dict.fromkeys(cuts[k][2] for k in np.flatnonzero(group == place))
        out.add(component, total, " + ".join(members))
    return out


def series_components(series: Series) -> list[Component]:
    """Return pseudo-components boiling in the middle of every step of a series."""
    start, end = (parse(v, "temperature") for v in (series.start, series.end))  # type: ignore[arg-type]
    step = parse(series.step, "temperature_difference")  # type: ignore[arg-type]
    edges = np.append(np.arange(start, end - 1e-6 * step, step), end)
    watson = None if series.watson_k is None else plain_number(series.watson_k)
    out = []
    for name, low, high in zip(cut_names(series.name, edges), edges, edges[1:]):
        nbp = 0.5 * float(low + high)
        sg = None if watson is None else float(np.cbrt(1.8 * nbp) / watson)
        out.append(complete(Known(name, nbp=nbp, specific_gravity=sg)))
    return out


def pseudo_component(pseudo: Pseudo) -> Component:
    """Return a hand-made pseudo-component with the missing estimated. Raises ValueError where it cannot be."""
    sg = pseudo.specific_gravity
    return complete(
        Known(
            name=pseudo.name,
            molar_mass=given(pseudo.molar_mass, "molar_mass"),
            Tc=given(pseudo.Tc, "temperature"),
            Pc=given(pseudo.Pc, "pressure"),
            omega=None if pseudo.omega in (None, "") else plain_number(pseudo.omega),
            Vc=given(pseudo.Vc, "molar_volume"),
            nbp=given(pseudo.nbp, "temperature"),
            specific_gravity=None if sg in (None, "") else specific_gravity(sg, (), []),
        )
    )
