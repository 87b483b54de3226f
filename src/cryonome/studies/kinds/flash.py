"""The study ``flash``: the equilibrium at two given conditions."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NotRequired

import numpy as np
from pydantic import Field
from pydantic.types import JsonValue
from typing_extensions import TypedDict

from ...document import Document, Reader, Study
from ...document.kinds import StudyKind, register
from ...document.model import Cell
from ...equilibrium.phases import Kind, Phases
from ...properties import PROPERTIES
from ...remarks import Remark, Value, kelvin, pascal
from ...units import format_number
from ..context import Answer, Common, Context, NoAnswerError
from ..inputs import FluidModel
from ..sentences import Units
from ..states import States, free_water, full_states, on_line, third_phase, with_properties

CONDITIONS = ("temperature", "pressure", "vapour_fraction")
LATER = ("enthalpy", "entropy", "density")
NOT_YET: dict[str, JsonValue] = {"later": True}


class FlashStudy(Study):
    """Asks for the equilibrium at two given conditions. Those marked ``later`` are known but not answered yet."""

    kind: Literal["flash"]
    fluid: str
    temperature: Cell = None
    pressure: Cell = None
    vapour_fraction: Cell = None
    enthalpy: Cell = Field(default=None, json_schema_extra=NOT_YET)
    entropy: Cell = Field(default=None, json_schema_extra=NOT_YET)
    density: Cell = Field(default=None, json_schema_extra=NOT_YET)


class PhaseAnswer(TypedDict):
    """One phase of a state, in SI; molar mass in g/mol."""

    kind: Literal["vapour", "liquid", "aqueous"]
    fraction: float
    mass_fraction: float
    composition: dict[str, float]
    Z: float
    density_kg_m3: float
    molar_mass_g_mol: float
    molar_volume_m3_mol: float
    enthalpy_J_mol: float
    entropy_J_mol_K: float
    enthalpy_departure_J_mol: float
    entropy_departure_J_mol_K: float


class FlashAnswer(Common):
    """The state: phases with the lighter first, and the whole."""

    temperature_K: NotRequired[float]
    pressure_Pa: NotRequired[float]
    vapour_fraction: NotRequired[float]
    density_kg_m3: NotRequired[float]
    molar_mass_g_mol: NotRequired[float]
    molar_volume_m3_mol: NotRequired[float]
    enthalpy_J_mol: NotRequired[float]
    entropy_J_mol_K: NotRequired[float]
    phases: NotRequired[list[PhaseAnswer]]


@dataclass(frozen=True)
class Asked:
    """Two conditions in SI, the others None."""

    fluid: str
    temperature: float | None
    pressure: float | None
    vapour_fraction: float | None


def read_conditions(study: Study, reader: Reader, names: tuple[str, ...], wanted: int, possible: str) -> list[str]:
    """Say where not exactly ``wanted`` of the conditions ``names`` are given; return those that are."""
    given = [n for n in names if getattr(study, n, None) is not None]
    if len(given) != wanted:
        told = f"{', '.join(given)} given" if given else "none given"
        reader.fault(f"a {study.kind} takes exactly {possible}; {told}")
    return given


def read(study: FlashStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T = None if study.temperature is None else reader.at("temperature").quantity(study.temperature, "temperature")
    P = None if study.pressure is None else reader.at("pressure").pressure(study.pressure)
    beta = None if study.vapour_fraction is None else reader.at("vapour_fraction").fraction(study.vapour_fraction)
    for name in LATER:
        if getattr(study, name) is not None:
            text = f"a flash by {name} is not offered by this version; give two of temperature, pressure and vapour_fraction"
            reader.at(name).fault(text)
    read_conditions(study, reader, (*CONDITIONS, *LATER), 2, "two of temperature, pressure and vapour_fraction")
    return Asked(study.fluid, T, P, beta)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the state at temperature and pressure, or at one of them and a vapour fraction."""
    fluid = context.fluid(asked.fluid)
    model = context.project.fluid(fluid)
    remarks = list(model.remarks)
    T, P, beta = asked.temperature, asked.pressure, asked.vapour_fraction
    if T is not None and P is not None:
        states = full_states(model, [T], [P], (), context.watch.part(0.0, 0.6))
    else:
        assert beta is not None
        whole = context.project.map(fluid, (beta,), context.watch.part(0.0, 0.9))
        points = whole.crossings([beta], T=T, P=P)
        if not points:
            at: Value = kelvin(T, 2) if T is not None else pascal(P or 0.0)
            raise NoAnswerError(Remark("warning", "state.none", "", {"fraction": beta, "at": at}), *whole.remarks)
        point = points[0] if P is None else min(points, key=lambda p: p.T)
        others = tuple((kelvin(p.T, 2), "and", pascal(p.P)) for p in points if p is not point)
        if others:
            listed = tuple((a, pascal(b.value)) for a, _, b in others)
            values: dict[str, Value] = {"fraction": beta, "others": listed}
            remarks.append(Remark("warning", "state.several", "", values))
        states = with_properties(model, on_line(model, [point]))
    found = states.phases
    if not bool(found.converged[0]):
        where: dict[str, Value] = {"T": kelvin(found.T[0], 2), "P": pascal(found.P[0])}
        raise NoAnswerError(Remark("warning", "state.not_converged", "", where))
    if bool(free_water(model, found)[0]):
        at_state: dict[str, Value] = {"T": kelvin(found.T[0], 2), "P": pascal(found.P[0])}
        raise NoAnswerError(Remark("warning", "state.aqueous", "", at_state))
    if beta is None and bool(third_phase(model, found, context.watch.part(0.6, 1.0))[0]):
        remarks.append(Remark("warning", "state.third"))
    remarks.append(Remark("estimate", "state.reference"))
    return {**state_answer(states), "notes": context.notes(*remarks)}


def composition(model: FluidModel, x: object) -> dict[str, float]:
    """Return a composition (nc,) by component name."""
    return {name: float(value) for name, value in zip(model.names, x)}  # type: ignore[call-overload]


def state_answer(states: States, row: int = 0) -> Answer:
    """Return one state of a batch as plain data in SI, every registered property under its key."""
    found: Phases = states.phases
    values = states.values
    phases = []
    density = values.phase["density"][row] if "density" in values.phase else np.arange(found.kind.shape[-1])
    for place in np.argsort(density, kind="stable").tolist():
        if found.kind[row, place] == Kind.ABSENT:
            continue
        own = {p.answer_key: float(values.phase[p.key][row, place]) * p.factor for p in PROPERTIES.values()}
        phases.append(
            {
                "kind": Kind(int(found.kind[row, place])).name.lower(),
                "fraction": float(found.fraction[row, place]),
                "composition": composition(states.model, found.composition[row, place]),
                **own,
            }
        )
    whole = {PROPERTIES[k].answer_key: float(v[row]) * PROPERTIES[k].factor for k, v in values.whole.items()}
    return {
        "temperature_K": float(found.T[row]),
        "pressure_Pa": float(found.P[row]),
        "vapour_fraction": float(found.vapour_fraction[row]),
        **whole,
        "phases": phases,
    }


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    shares = [f"{p['kind']} {format_number(100 * p['fraction'], 3)}" for p in reversed(answer["phases"])]
    if len(answer["phases"]) == 1:
        return f"all {answer['phases'][0]['kind']}"
    return f"{', '.join(shares)} mol%"


def begin(fluid: str, at: tuple[float, float] | None) -> FlashStudy:
    """Return a new question about a fluid, near a state where one is given."""
    T, P = at or (373.15, 1e6)
    return FlashStudy(
        name="State", kind="flash", fluid=fluid, temperature=f"{T - 273.15:.2f} degC", pressure=f"{P / 1e5:.4g} bar"
    )


register(
    StudyKind(
        name="flash", title="State", meaning="phases and properties at two given conditions", model=FlashStudy,
        answer=FlashAnswer, read=read, solve=solve, line=line, begin=begin, order=20,
    )
)  # fmt: skip
