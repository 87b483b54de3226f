"""Fluids as hydrates see them: doses read from a document, hosts and charts remembered by content, lines for maps and
paths."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import cast

import numpy as np
from numpy.typing import NDArray

from ..components import find
from ..document import Fluid, FluidPart, Reader
from ..document.faults import did_you_mean
from ..document.field_types import Cell
from ..document.reader import EMPTY
from ..eos.building import BONDS, equation_of, family_of, matched_components
from ..fluids.building import FluidModel
from ..remarks import Remark
from ..solids.formation import Chart, Wanted, ice_temperatures, temperatures
from ..solids.inhibitors import INHIBITORS, SALTS, found, most
from ..solids.lattice import STRUCTURES, formers
from ..solids.potentials import most_stable
from ..solids.surroundings import Host
from ..watch import UNWATCHED, Watch
from .context import NoAnswerError
from .delumping import asked_of, holding
from .evaluator import Project
from .frost import frost_line

Array = NDArray[np.float64]
Dose = tuple[tuple[str, float], ...]
"""Mass fractions of the aqueous liquid by name."""

TRACE = 1e-8
"""Moles per mole of fluid that bring a component in and change nothing."""
UNKNOWN = (
    "ethylene",
    "propylene",
    "oxygen",
    "argon",
    "cyclopropane",
    "sulfur hexafluoride",
    "cyclopentane",
    "neopentane",
    "ethylcyclopentane",
    "1,1-dimethylcyclohexane",
    "cis-1,2-dimethylcyclohexane",
)
"""Formers without constants in the table."""
WIDE = (0.2e6, 60e6)
"""Pa, over which lines are drawn."""
POINTS = 36
DILUTE: dict[str, dict[str, float]] = {
    "methanol": {"PR": 0.314, "RK": 0.321, "PC-SAFT": 0.258},
    "ethanol": {"PR": 0.241, "RK": 0.246, "PC-SAFT": 0.192},
}
"""Interaction parameters with hydrocarbons of what is dilute in them: those of the limiting activity coefficients at
298.15 K in n-heptane, 90 and 50 (Tiegs et al., DECHEMA Chemistry Data Series IX, 1986), which the heats of solution
confirm from 278 to 318 K. With methane they give methanol the second virial coefficient -128 cm3/mol at 298 K;
Hemmaplardh and King, J. Phys. Chem. 76, 2170 (1972), measured some -135. The library's pairs are those of gas in the
alcohol, where the alcohol associates, and would dissolve ten times as much of it. An equation with bonds needs
none."""
NOT_HYDROCARBONS = frozenset({"alcohol", "inorganic", "water"})
MOST_IN_ALL = 0.75
"""Mass fraction of all inhibitors together."""


def own_name(name: str) -> str | None:
    """Return the own name of an inhibitor by any of its names, None where no activities are known."""
    try:
        return found(name) or found(find(name).name)
    except LookupError:
        return None


def inhibitor_named(name: str, reader: Reader) -> str | None:
    """Return the own name of an inhibitor, None with a fault where there is none or the model has no parameters for
    it."""
    own = own_name(name)
    if own is None:
        known = [*INHIBITORS, *SALTS]
        reader.fault(f"no activities of water with '{name}' are known{did_you_mean(name, known)}")
    return own


def read_doses(cells: Mapping[str, Cell], reader: Reader) -> Dose:
    """Return doses as mass fractions of the aqueous liquid, with faults for names and amounts that the model does not
    hold for."""
    out: dict[str, float] = {}
    for name, cell in cells.items():
        here = reader.at(name)
        own = inhibitor_named(name, here)
        if isinstance(cell, str) and any(word in cell for word in ("mol", "vol")):
            here.fault(f"'{cell}' is no share by mass; write percent by mass of the aqueous liquid, as 20 wt%")
            continue
        share = None if cell in EMPTY else here.fraction(cell, "a share by mass of the aqueous liquid")
        if own is None or not share:
            continue
        if own in out:
            here.fault(f"{own} is given twice; give it once")
        limit = most(own)
        if share > limit:
            why = "more than saturates cold water" if own in SALTS else "more than its activities are known for"
            here.fault(f"{100 * share:g} wt% of {own} is {why}; give up to {100 * limit:g} wt%")
        out[own] = share
    if sum(out.values()) > MOST_IN_ALL:
        reader.fault(
            f"inhibitors of {100 * sum(out.values()):g} wt% together leave too little water; give up to {100 * MOST_IN_ALL:g} wt%"
        )
    return tuple(sorted(out.items()))


def as_arrays(dose: Dose) -> dict[str, Array]:
    """Return a dose as the physics takes it."""
    return {n: np.array([w]) for n, w in dose}


def told(dose: Dose) -> str:
    """Return a dose in words."""
    return " and ".join(f"{100 * w:.3g} wt% {n}" for n, w in dose)


@dataclass(frozen=True)
class Wet:
    """A fluid with the water that hydrates take, its model, what they see of it, and the salt of its own brine as a
    dose."""

    model: FluidModel
    host: Host
    brine: Dose
    remarks: tuple[Remark, ...] = ()

    def dose(self, given: Dose) -> Dose:
        """Return a dose with the brine's own salt, thinned by what is given, unless that salt is given itself."""
        if not self.brine or any(n == self.brine[0][0] for n, _ in given):
            return given
        (name, share), others = self.brine[0], sum(w for _, w in given)
        return tuple(sorted((*given, (name, share * (1.0 - others)))))


@dataclass(frozen=True)
class Icy(Wet):
    """The same with the chart that lines are read off first; it has formers."""

    chart: Chart = field(kw_only=True)


def icy(project: Project, fluid: Fluid, free: bool = True, watch: Watch = UNWATCHED) -> Icy:
    """Return a fluid as hydrates see it, with free water or its own. Raises NoAnswerError without formers or without
    water."""

    fluid, said = asked_of(project, fluid)

    def compute() -> Icy:
        own = wet(project, fluid, free)
        # A fluid whose source is lost says so itself.
        remarks = (*(r for r in said if r not in own.remarks), *own.remarks)
        if not own.host.names:
            raise NoAnswerError(
                Remark("warning", "hydrate.no_former", values={"formers": ", ".join(formers())}), *remarks
            )
        return Icy(own.model, own.host, own.brine, remarks, chart=Chart.of(own.host, watch))

    return project.evaluator.cache.get(("hydrates", project.fluid_key(fluid), free), compute)


def wet(project: Project, fluid: Fluid, free: bool = True) -> Wet:
    """Return a fluid with its water, or a trace where it is free. Raises NoAnswerError without water, and of an ideal
    gas."""
    fluid, said = asked_of(project, fluid)
    model = project.fluid(fluid)
    reading = project.input_of(fluid)
    if reading is not None and reading.model.eos == "ideal":
        raise NoAnswerError(Remark("warning", "hydrate.ideal"))
    if model.water is None and not free:
        raise NoAnswerError(Remark("warning", "hydrate.dry"))
    if model.water is None:
        model = with_traces(project, fluid, ("water",))
    there = [n for n in formers() if n in model.names and model.z[model.names.index(n)] > 0.0]
    water = model.names.index("water")
    host = Host(
        model.eos, model.z, water, tuple(there), np.array([model.names.index(n) for n in there], dtype=np.intp), free
    )
    salt = reading.model.salt if reading is not None else 0.0
    brine = salt * SALTS["NaCl"].molar_mass
    present = [n for n in UNKNOWN if n in model.names and model.z[model.names.index(n)] > 10.0 * TRACE]
    if present:
        said.append(Remark("warning", "hydrate.unknown_formers", values={"names": ", ".join(present)}))
    return Wet(model, host, (("NaCl", brine / (1.0 + brine)),) if salt else (), tuple(said))


def with_traces(project: Project, fluid: Fluid, names: Sequence[str]) -> FluidModel:
    """Return the model of a fluid with traces of further components among its own."""
    project = holding(project, fluid)
    parts = (FluidPart(fluid=fluid.name, amount=1.0), *(FluidPart(component=n, amount=TRACE) for n in names))
    return project.fluid(Fluid(name=f"{fluid.name} with {' and '.join(names)}", parts=parts, model=fluid.model))


def dilute(project: Project, fluid: Fluid, inhibitor: str) -> FluidModel:
    """Return the model of a fluid with traces of water and of an inhibitor, its pairs with hydrocarbons those of its
    dilution in them."""
    fluid, _ = asked_of(project, fluid)
    model = with_traces(project, fluid, ("water", inhibitor))
    reading = project.input_of(fluid)
    value = DILUTE.get(inhibitor, {}).get(family_of(reading.model.eos)) if reading is not None else None
    if reading is None or value is None or reading.model.eos == BONDS:
        return model
    place = model.names.index(inhibitor)
    kij = model.pairs.kij.copy()
    for i, c in enumerate(model.components):
        if i != place and c.family not in NOT_HYDROCARBONS:
            kij[i, place] = kij[place, i] = value
    pairs = replace(model.pairs, kij=kij)
    eos = equation_of(
        reading.model.eos, matched_components(model.components, reading.model.eos), pairs, reading.model.alpha
    )
    return replace(model, pairs=pairs, eos=eos)


def least_share(own: Icy, inhibitor: str, typed: Dose, T: float, P: float) -> tuple[float | None, int]:
    """Return the least mass fraction of an inhibitor that keeps hydrates away at T K and P Pa beside the doses
    ``typed``, None where its activities do not reach so far, and the place of the structure that asks for it; nan
    where the state was not found.

    What the fluid's own brine holds is thinned by the dose, as in every question about this liquid; what was typed is
    a share of the dosed liquid."""
    from scipy.optimize import brentq

    def left(w: float) -> tuple[float, int]:
        dose = as_arrays(own.dose(with_share(typed, inhibitor, w)))
        value, place = most_stable(own.host, T, P, [dose])
        return float(value[0]), int(place[0])

    # Slightly more than the dose at which the chemical potentials are equal.
    safe, limit = 1e-9, min(most(inhibitor), MOST_IN_ALL - sum(w for _, w in typed))
    without, structure = left(0.0)
    if not np.isfinite(without):
        return float("nan"), structure
    if without <= 0.0:
        return 0.0, structure
    if limit <= 0.0 or not left(limit)[0] <= 0.0:
        return None, structure
    share = float(brentq(lambda w: left(w)[0], 0.0, limit, xtol=1e-10))
    share = min(share + safe, limit)
    return share, left(max(share - 2.0 * safe, 0.0))[1]


def with_share(typed: Dose, inhibitor: str, share: float) -> Dose:
    """Return doses with a share of one more inhibitor, or as they are where it is nothing."""
    return tuple(sorted((*typed, (inhibitor, share)))) if share else typed


FAN = (0.1, 0.2, 0.3, 0.4, 0.5)
"""Mass fractions that limits are fanned by."""


def fan_of(dose: Dose, inhibitor: str = "") -> tuple[Dose, ...]:
    """Return a dose first, then it with its alcohol or glycol (the ``inhibitor`` where there is none, methanol where
    none is named) at each share of the fan, salts as they are."""
    name = inhibitor or next((n for n, _ in dose if n in INHIBITORS), "methanol")
    salts = tuple((n, w) for n, w in dose if n != name)
    steps = [
        tuple(sorted((*salts, (name, w))))
        for w in FAN
        if w <= most(name) and w + sum(v for _, v in salts) <= MOST_IN_ALL
    ]
    return tuple(dict.fromkeys(d for d in (dose, *steps) if d))


@dataclass(frozen=True)
class HydrateLines:
    """Limits over pressures ``P`` (n,) Pa, by dose: of each structure ``T`` (structures, doses, n) K and of ice
    (doses, n) K, nan where there is none; and over pressures of its own where solid carbon dioxide comes out, nothing
    without it."""

    P: Array
    T: Array
    ice: Array
    doses: tuple[Dose, ...]
    frost_P: Array = field(default_factory=lambda: np.zeros(0))
    frost_T: Array = field(default_factory=lambda: np.zeros(0))

    @property
    def first(self) -> Array:
        """The limit of whichever structure forms first, (doses, n) K."""
        return np.asarray(np.fmax.reduce(self.T, axis=0))


def hydrate_lines(
    project: Project, fluid: Fluid, doses: tuple[Dose, ...], watch: Watch = UNWATCHED, P: Array | None = None
) -> HydrateLines:
    """Return the limits of hydrate and ice over pressures, for several doses. Raises DomainError, Cancelled."""

    cache, own_key = project.evaluator.cache, ("hydrate lines", project.fluid_key(fluid))
    at = np.geomspace(*WIDE, POINTS) if P is None else P
    # While a dose is dragged only its own line is new; the others of the fan are known.
    known: dict[Dose, tuple[Array, Array]] = {}
    if P is None:
        known = {d: cast(tuple[Array, Array], v) for d in doses if (v := cache.peek((*own_key, d))) is not None}
    new = [d for d in dict.fromkeys(doses) if d not in known]
    if new:
        own = icy(project, fluid, True, watch.part(0.0, 0.3))
        mass = [as_arrays(own.dose(d)) for d in new]
        T = temperatures(own.chart, Wanted.grid(at, len(new)), mass, watch.part(0.3, 1.0))
        T = T.reshape(len(STRUCTURES), len(new), at.size)
        for i, dose in enumerate(new):
            known[dose] = T[:, i], ice_temperatures(own.chart, at, mass[i])
            if P is None:
                cache.put((*own_key, dose), known[dose])
    frost = frost_line(project, fluid) if P is None else (np.zeros(0), np.zeros(0))
    return HydrateLines(
        at, np.stack([known[d][0] for d in doses], axis=1), np.stack([known[d][1] for d in doses]), doses, *frost
    )
