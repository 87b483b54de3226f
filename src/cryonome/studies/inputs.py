"""From document parts, quantities as entered, to the inputs of the physics in SI."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..characterization import CharacterizedSample, Known, LabSample, Remark, complete
from ..characterization.cuts import PRODUCTS, REGIONS, ProductRange
from ..components import Component, find
from ..document.checks import curve_points, specific_gravity
from ..document.model import Cell, Fluid, Pseudo, Sample
from ..eos import FORMS, CubicEos
from ..eos.interaction import library_kij
from ..units import QuantityError, parse, split

Array = NDArray[np.float64]


def plain_number(cell: Cell) -> float:
    """Return a cell that holds a plain number, or a percentage as its number."""
    if isinstance(cell, str):
        return split(cell)[0]
    if cell is None:
        raise QuantityError("a number is wanted")
    return float(cell)


def _given(cell: Cell, kind: str) -> float | None:
    return None if cell is None or cell == "" else parse(cell, kind)


def lab_sample(sample: Sample) -> LabSample:
    """Return the lab data of a sample in SI; faulty points of the curve are left out."""
    _, percents, temperatures, _ = curve_points(sample)
    cuts = sample.cuts
    regions = REGIONS
    if cuts.regions is not None:
        regions = tuple(
            (np.inf if end in (None, "") else parse(end, "temperature"), parse(width, "temperature_difference"))  # type: ignore[arg-type]
            for end, width in cuts.regions
        )
        if np.isfinite(regions[-1][0]):
            regions = (*regions, (np.inf, regions[-1][1]))
    boundaries = None
    if cuts.boundaries is not None:
        boundaries = tuple(sorted(parse(b, "temperature") for b in cuts.boundaries if b is not None))
    products = PRODUCTS
    if cuts.products:
        products = tuple(
            ProductRange(p.name, np.inf if p.end in (None, "") else parse(p.end, "temperature")) for p in cuts.products
        )
    watson = sample.bulk.watson_k
    return LabSample(
        name=sample.name,
        percent=tuple(percents),
        temperature=tuple(temperatures),
        density=_given(sample.bulk.density, "density"),
        molar_mass=_given(sample.bulk.molar_mass, "molar_mass"),
        watson_k=None if watson in (None, "") else plain_number(watson),
        boundaries=boundaries,
        regions=regions,
        correlations=dict(sample.correlations),
        products=products,
    )


def pseudo_component(pseudo: Pseudo) -> Component:
    """Return a hand-made pseudo-component with the missing estimated. Raises ValueError where it cannot be."""
    sg = pseudo.specific_gravity
    return complete(
        Known(
            name=pseudo.name,
            molar_mass=_given(pseudo.molar_mass, "molar_mass"),
            Tc=_given(pseudo.Tc, "temperature"),
            Pc=_given(pseudo.Pc, "pressure"),
            omega=None if pseudo.omega in (None, "") else plain_number(pseudo.omega),
            Vc=_given(pseudo.Vc, "molar_volume"),
            nbp=_given(pseudo.nbp, "temperature"),
            specific_gravity=None if sg in (None, "") else specific_gravity(sg, (), []),
        )
    )


@dataclass(frozen=True)
class FluidModel:
    """A fluid ready to compute: components, mole fractions z (nc,) of those present, equation of state, and the
    arrays the properties need. ``remarks`` for the ledger."""

    name: str
    components: tuple[Component, ...]
    z: Array
    eos: CubicEos
    molar_mass: Array
    cp: Array
    remarks: tuple[Remark, ...]

    @property
    def names(self) -> tuple[str, ...]:
        """Names of the components, in order."""
        return tuple(c.name for c in self.components)


def build_fluid(fluid: Fluid, samples: dict[str, CharacterizedSample]) -> FluidModel:
    """Return the fluid's mole fractions and equation of state.

    Amounts count on the fluid's basis: moles, masses, or liquid volumes at 60 degF (gases by their apparent specific
    gravity). Parts without an amount are left out. Raises ValueError where a part cannot be completed.
    """
    components: list[Component] = []
    moles: list[float] = []
    remarks: list[Remark] = []
    for part in fluid.parts:
        amount = plain_number(part.amount)
        if amount <= 0.0:
            continue
        if part.sample is not None:
            sample = samples[part.sample]
            volume = sample.molar_mass / sample.density
            total = {"mole": amount, "mass": amount / sample.molar_mass, "volume": amount / volume}[fluid.basis]
            components += sample.components
            moles += (total * sample.mole_fraction).tolist()
            continue
        component = find(part.component) if part.component is not None else pseudo_component(part.pseudo)  # type: ignore[arg-type]
        for sentence in component.estimates:
            remarks.append(Remark("estimate", f"{component.name}: {sentence}.", "parts"))
        per = {"mole": 1.0, "mass": component.molar_mass, "volume": component.standard_liquid_volume}[fluid.basis]
        if fluid.basis == "volume" and component.Tc < 288.7:
            remarks.append(Remark("estimate", f"{component.name} counts by an apparent liquid volume.", "parts"))
        components.append(component)
        moles.append(amount / per)
    z = np.array(moles)
    eos = CubicEos(
        FORMS[fluid.model.eos],
        np.array([c.Tc for c in components]),
        np.array([c.Pc for c in components]),
        np.array([c.omega for c in components]),
        _interaction(fluid, components, remarks),
    )
    width = max(len(c.cp) for c in components)
    cp = np.array([[*c.cp, *[0.0] * (width - len(c.cp))] for c in components])
    return FluidModel(
        fluid.name,
        tuple(components),
        z / z.sum(),
        eos,
        np.array([c.molar_mass for c in components]),
        cp,
        tuple(remarks),
    )


def _interaction(fluid: Fluid, components: list[Component], remarks: list[Remark]) -> Array:
    nc = len(components)
    kij = library_kij(components) if fluid.model.kij == "library" else np.zeros((nc, nc))
    if fluid.model.kij == "library" and nc > 1:
        text = "Interaction parameters: library of measured pairs, and a volume rule for hydrocarbons."
        remarks.append(Remark("estimate", text, "kij"))
    place = {c.name: i for i, c in enumerate(components)}
    for one, other, value in fluid.model.kij_pairs:
        i, j = (place.get(n if n in place else _databank_name(n)) for n in (one, other))
        if i is None or j is None:
            remarks.append(
                Remark(
                    "warning",
                    f"The pair {one}, {other} names a component that is not in the fluid now; it has no effect.",
                    "kij",
                )
            )
            continue
        kij[i, j] = kij[j, i] = plain_number(value)
    return kij


def _databank_name(name: str) -> str:
    try:
        return find(name).name
    except LookupError:
        return name
