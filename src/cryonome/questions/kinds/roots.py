"""The study ``roots``: every root of the equation of state at a temperature and a pressure or a volume."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...constants import R
from ...document import Document, Reader, Study
from ...document.conditions import read_conditions
from ...document.edits import set_at
from ...document.field_types import FluidRef, MolarVolume, OneOf, Pressure, Temperature
from ...document.kinds import StudyKind, register
from ...eos.building import EQUATIONS
from ...eos.compiled import CompiledStates
from ...eos.cpa import CpaEos
from ...eos.cubic import CubicEos
from ...eos.equation import PhaseResponse
from ...fluids.building import FluidModel
from ...fluids.isotherm_curves import isotherm
from ...remarks import Remark, measure, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...telling.sentences import Units

REAL = 1e-9
"""Imaginary part of Z, of its size, below which a root counts as real."""


class RootsStudy(Study):
    """Asks for the roots in the volume at a temperature and one of pressure and molar volume, of the fluid as one
    phase; by the fluid's own equation where no other is named."""

    kind: Literal["roots"]
    fluid: FluidRef
    temperature: Temperature = None
    pressure: Pressure = None
    molar_volume: MolarVolume = None
    equation: Annotated[str, OneOf(("", *EQUATIONS))] = ""


class RootAnswer(TypedDict):
    """A root; the last four where it is real and above the covolume. Volumes are the equation's own, without a
    shift."""

    Z_real: float
    Z_imaginary: float
    molar_volume_m3_mol: NotRequired[float]
    fugacity_Pa: NotRequired[float]
    enthalpy_departure_J_mol: NotRequired[float]
    entropy_departure_J_mol_K: NotRequired[float]
    stable: NotRequired[bool]


class RootsAnswer(Common):
    """The state, its roots and the isotherm they are on; A, B and the coefficients of the cubic in Z, from Z3 down,
    where the equation is one."""

    temperature_K: NotRequired[float]
    pressure_Pa: NotRequired[float]
    A: NotRequired[float]
    B: NotRequired[float]
    coefficients: NotRequired[list[float]]
    roots: NotRequired[list[RootAnswer]]
    isotherm: NotRequired[dict[str, list[float]]]


@dataclass(frozen=True)
class Asked:
    """T K, and P Pa or V m3/mol, the other None."""

    fluid: str
    temperature: float
    pressure: float | None
    volume: float | None
    equation: str = ""


def read(study: RootsStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T = None if study.temperature is None else reader.at("temperature").quantity(study.temperature, "temperature")
    if study.temperature is None:
        reader.at("temperature").fault("a study of roots takes a temperature")
    P = None if study.pressure is None else reader.at("pressure").pressure(study.pressure)
    V = None
    if study.molar_volume is not None:
        V = reader.at("molar_volume").quantity(study.molar_volume, "molar_volume")
        if V is not None and V <= 0.0:
            reader.at("molar_volume").fault("a molar volume is above zero")
    read_conditions(study, reader, ("pressure", "molar_volume"), 1, "one of pressure and molar_volume")
    if study.equation:
        reader.at("equation").known(study.equation, EQUATIONS, "equation")
    return None if T is None or reader.bad else Asked(study.fluid, T, P, V, study.equation)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the roots, the stable one marked."""
    fluid = context.fluid(asked.fluid)
    if asked.equation and asked.equation != fluid.model.eos:
        fluid = set_at(fluid, ("model", "eos"), asked.equation)
    model = context.project.fluid(fluid)
    remarks = list(model.remarks)
    P = asked.pressure
    if asked.volume is not None:
        least = float(model.eos.least_volume(model.z))
        if asked.volume <= least:
            raise NoAnswerError(Remark("warning", "roots.covolume", "", {"least": 1e6 * least}))
        P = float(model.eos.at_temperature([asked.temperature]).pressure(np.array([asked.volume]), model.z[None])[0])
        if P <= 0.0:
            raise NoAnswerError(Remark("warning", "roots.tension", "", {"P": pascal(P)}))
    assert P is not None
    if model.substance.shift.any():
        remarks.append(Remark("estimate", "roots.unshifted"))
    found = roots_answer(model, asked.temperature, P)
    marks = tuple(r["molar_volume_m3_mol"] for r in found["roots"] if "stable" in r)
    V, pressures = isotherm(model.eos, model.z, asked.temperature, marks)
    curve = {"molar_volume_m3_mol": V.tolist(), "pressure_Pa": pressures.tolist()}
    return {**found, "isotherm": curve, "notes": [*remarks]}


def roots_answer(model: FluidModel, T: float, P: float) -> Answer:
    """Return every root of the fluid as one phase at T K and P Pa."""
    state, x = model.eos.prepare([T], [P]), model.z[None]
    out: Answer = {"temperature_K": T, "pressure_Pa": P}
    found: list[complex]
    if isinstance(model.eos, CubicEos) and not (isinstance(model.eos, CpaEos) and model.eos.bonded):
        A, B = model.eos.reduced(T, P, model.z)
        coefficients = [1.0, *(float(c) for c in model.eos.form.coefficients(A, B))]
        out |= {"A": A, "B": B, "coefficients": coefficients}
        found = sorted((complex(z) for z in np.roots(coefficients)), key=lambda z: (z.real, z.imag))
        least = B
    else:
        found = [complex(z) for z in dict.fromkeys(float(v[0]) for v in state.roots(x))]
        least = 0.0
    real = [z.real for z in found if abs(z.imag) < REAL * max(abs(z), 1e-12) and z.real > least]
    responses = {Z: _response(state, x, Z) for Z in real}
    gibbs = {Z: float((r.h_res - r.s_res)[0]) for Z, r in responses.items()}
    best = min(gibbs, key=lambda Z: gibbs[Z], default=None)
    rows = []
    for z in found:
        row: Answer = {"Z_real": z.real, "Z_imaginary": 0.0 if z.real in responses else z.imag}
        if z.real in responses:
            r = responses[z.real]
            row |= {
                "molar_volume_m3_mol": z.real * R * T / P,
                "fugacity_Pa": P * float(np.exp(gibbs[z.real])),
                "enthalpy_departure_J_mol": float(r.h_res[0]) * R * T,
                "entropy_departure_J_mol_K": float(r.s_res[0]) * R,
                "stable": z.real == best,
            }
        rows.append(row)
    return {**out, "roots": rows}


def _response(state: object, x: np.ndarray, Z: float) -> PhaseResponse:
    if isinstance(state, CompiledStates):
        return state.response_at(x, np.array([Z]))
    low, high = state.roots(x)  # type: ignore[attr-defined]
    return state.response(x, "liquid" if abs(Z - low[0]) <= abs(Z - high[0]) else "vapour")  # type: ignore[attr-defined,no-any-return]


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    real = [r for r in answer["roots"] if "stable" in r]
    stable = next((r["Z_real"] for r in real if r["stable"]), float("nan"))
    return f"{len(real)} real {'root' if len(real) == 1 else 'roots'}, stable at Z {stable:.4f}"


def begin(fluid: str, at: tuple[float, float] | None) -> RootsStudy:
    """Return a new question about a fluid, near a state where one is given."""
    T, P = at or (298.15, 1e6)
    return RootsStudy(
        name="Roots", kind="roots", fluid=fluid, temperature=f"{T - 273.15:.2f} degC", pressure=f"{P / 1e5:.4g} bar"
    )


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: how many, and which is stable."""
    real = [r for r in answer["roots"] if not r["Z_imaginary"] and "stable" in r]
    stable = next((r for r in real if r["stable"]), None)
    count = {1: "One", 2: "Two", 3: "Three"}.get(len(real), str(len(real)))
    if stable is None:
        return f"{count}, none of them stable."
    volumes = sorted(r["molar_volume_m3_mol"] for r in real)
    like = "" if len(real) == 1 else "gas-like " if stable["molar_volume_m3_mol"] == volumes[-1] else "liquid-like "
    told = units.text(measure(stable["molar_volume_m3_mol"], "molar_volume"))
    return f"{count}: {told}." if len(real) == 1 else f"{count}; the {like}{told} is stable."


register(
    StudyKind(
        name="roots", title="Roots of the equation", meaning="every root in the volume at a temperature and a pressure or a volume",
        model=RootsStudy, answer=RootsAnswer, read=read, solve=solve, line=line, begin=begin, order=60,
        sentence="Which volumes does {equation} give {fluid} at {temperature} and {pressure|molar_volume}?",
        phrases=("roots", "root", "volumes", "which volumes", "cubic roots"),
        says=says,
    )
)  # fmt: skip
