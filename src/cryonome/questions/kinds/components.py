"""The study ``components``: the constants of a fluid's components, or of any of the databank."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...components import Component, find
from ...components.lookup import UnknownComponentError
from ...constants import WATER_DENSITY_60F
from ...document import Document, Reader, Study
from ...document.field_types import FLUIDS, ComponentRef, Names, Temperature
from ...document.kinds import StudyKind, register
from ...eos import Equation
from ...eos.building import REFERENCE, Interaction, equation_of
from ...eos.cubic import CubicEos
from ...equilibrium.pure import saturation_pressure
from ...remarks import Remark, kelvin
from ...results.common import Common
from ...results.context import Answer, Context
from ...telling.sentences import Units

MOST = 400
"""Components of one question."""


class ComponentsStudy(Study):
    """Asks for the constants of the components of a ``fluid``, or of the databank's by their ``names``; with a
    ``temperature`` the vapour pressure of each there."""

    kind: Literal["components"]
    fluid: Annotated[str, Names(FLUIDS, needed=False)] = ""
    names: tuple[ComponentRef, ...] = ()
    temperature: Temperature = None


class ComponentCard(TypedDict):
    """The constants of a component; in a fluid its shares, at a temperature its vapour pressure, null above its
    critical point. ``kappa`` is the constant of the alpha function of a cubic equation, ``parachor`` in (mN/m)^(1/4)
    cm3/mol."""

    name: str
    formula: str
    cas: str
    kind: str
    molar_mass_g_mol: float
    Tc_K: float
    Pc_Pa: float
    omega: float
    Vc_m3_mol: float
    nbp_K: float
    specific_gravity: float
    density_kg_m3: float
    kappa: float | None
    parachor: float | None
    vapour_pressure_Pa: NotRequired[float | None]
    mole_fraction: NotRequired[float]
    mass_fraction: NotRequired[float]
    volume_fraction: NotRequired[float]


class ComponentsAnswer(Common):
    """The components, in the fluid's order or as they were named."""

    components: NotRequired[list[ComponentCard]]
    temperature_K: NotRequired[float]


@dataclass(frozen=True)
class Asked:
    """A fluid, or names of the databank; a temperature K or none."""

    fluid: str
    names: tuple[str, ...]
    temperature: float | None


def read(study: ComponentsStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    if bool(study.fluid) == bool(study.names):
        reader.at("fluid").fault("give either a fluid, or names of components of the databank")
        return None
    if study.fluid:
        reader.at("fluid").known(study.fluid, [f.name for f in document.every_fluid], "fluid")
    found = []
    for i, name in enumerate(study.names):
        try:
            found.append(find(str(name)).name)
        except UnknownComponentError as error:
            reader.at("names", i).fault(str(error))
    if len(study.names) > MOST:
        reader.at("names").fault(f"{len(study.names)} components are more than the {MOST} of one question")
    T = None if study.temperature is None else reader.at("temperature").quantity(study.temperature, "temperature")
    return None if reader.bad else Asked(study.fluid, tuple(dict.fromkeys(found)), T)


def solve(asked: Asked, context: Context) -> Answer:
    """Return a card of each component."""
    shares: dict[str, np.ndarray] = {}
    parachors: list[float | None] = []
    if asked.fluid:
        model = context.project.fluid(context.fluid(asked.fluid))
        components, eos, remarks = list(model.components), model.eos, list(model.remarks)
        parachors = [float(p) for p in model.substance.parachor]
        mass = model.z * model.molar_mass
        volume = mass / np.array([c.specific_gravity for c in components])
        shares = {
            "mole_fraction": model.z,
            "mass_fraction": mass / mass.sum(),
            "volume_fraction": volume / volume.sum(),
        }
    else:
        components, remarks = [find(n) for n in asked.names], []
        parachors = [c.parachor for c in components]
        eos = equation_of(
            REFERENCE, components, Interaction(np.zeros((len(components), len(components))), None, None, ()), "own"
        )
    answer: Answer = {
        "components": [_card(c, k, p) for c, k, p in zip(components, _kappas(eos, len(components)), parachors)]
    }
    if asked.temperature is not None:
        P = saturation_pressure(eos, np.array([asked.temperature])).reshape(-1)
        answer["temperature_K"] = asked.temperature
        for card, own in zip(answer["components"], P):
            card["vapour_pressure_Pa"] = float(own) if np.isfinite(own) else None
        if not np.isfinite(P).all():
            gone = [c.name for c, own in zip(components, P) if not np.isfinite(own)]
            remarks.append(
                Remark("estimate", "components.above", values={"names": tuple(gone), "T": kelvin(asked.temperature)})
            )
        if not asked.fluid:
            remarks.append(Remark("estimate", "components.by", values={"equation": REFERENCE}))
    for key, values in shares.items():
        for card, value in zip(answer["components"], values):
            card[key] = float(value)
    return {**answer, "notes": [*remarks]}


def _kappas(eos: Equation, count: int) -> list[float | None]:
    """Return the constants of the alpha functions, none of an equation or a component without one."""
    if not isinstance(eos, CubicEos) or eos.form.kappa is None:
        return [None] * count
    return [float(k) for k in np.asarray(eos.form.kappa(eos.omega)).reshape(-1)]


def _card(component: Component, kappa: float | None, parachor: float | None) -> Answer:
    c = component
    return {
        "name": c.name, "formula": c.formula, "cas": c.cas, "kind": c.kind, "molar_mass_g_mol": 1e3 * c.molar_mass, "Tc_K": c.Tc, "Pc_Pa": c.Pc,
        "omega": c.omega, "Vc_m3_mol": c.Vc, "nbp_K": c.nbp, "specific_gravity": c.specific_gravity,
        "density_kg_m3": c.specific_gravity * WATER_DENSITY_60F, "kappa": kappa, "parachor": parachor,
    }  # fmt: skip


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    masses = [c["molar_mass_g_mol"] for c in answer["components"]]
    count = len(masses)
    if count == 1:
        return f"{answer['components'][0]['name']}, {masses[0]:.2f} g/mol"
    return f"{count} components, {min(masses):.2f} to {max(masses):.2f} g/mol"


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence."""
    return f"{line(answer, units)}."


def begin(fluid: str, at: tuple[float, float] | None) -> ComponentsStudy:
    """Return a new question about a fluid."""
    return ComponentsStudy(name=f"Components of {fluid}", kind="components", fluid=fluid)


register(
    StudyKind(
        name="components", title="Components", meaning="the constants of every component, and its vapour pressure at a temperature",
        model=ComponentsStudy, answer=ComponentsAnswer, read=read, solve=solve, line=line, says=says, begin=begin, order=39,
        sentence="What are the constants of {fluid|names}[, with vapour pressures at {temperature}]?",
        phrases=("components", "component", "constants", "constants of", "critical constants", "component card", "properties of pure"),
        clues={"temperature": ("vapour pressures at", "vapour pressure at")},
    )
)  # fmt: skip
