"""The study ``flash``: the equilibrium at two given conditions."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..document.model import Document, FlashStudy
from ..equilibrium.phase_map import SaturationPoint
from ..units import parse
from .evaluator import Evaluator
from .inputs import FluidModel
from .registry import Answer, NoAnswerError, asked_fluid, kind
from .states import State, assemble, state_at

REFERENCE = "Enthalpy and entropy are zero for the pure ideal gases at 298.15 K and 101325 Pa."


@kind("flash")
def solve_flash(study: FlashStudy, document: Document, evaluator: Evaluator) -> Answer:
    """Return the state at temperature and pressure, or at one of them and a vapour fraction."""
    fluid = asked_fluid(study.fluid, document)
    model = evaluator.fluid(fluid, document)
    notes = [r.text for r in model.remarks]
    T = None if study.temperature is None else parse(study.temperature, "temperature")
    P = None if study.pressure is None else parse(study.pressure, "pressure")
    if T is not None and P is not None:
        state = state_at(model, T, P)
    else:
        assert study.vapour_fraction is not None
        fraction = parse(study.vapour_fraction, "fraction")
        whole = evaluator.map(fluid, document, (fraction,))
        points = whole.crossings([fraction], T=T, P=P)
        if not points:
            raise NoAnswerError(_none_text(fraction, T, P, whole.remarks))
        point = points[0] if P is None else min(points, key=lambda p: p.T)
        state = _state_on_line(model, point)
        if len(points) > 1:
            others = ", ".join(f"{p.T:.2f} K and {p.P / 1e5:.4g} bar" for p in points if p is not point)
            notes.append(
                f"The vapour fraction {fraction:g} occurs more than once here (retrograde condensation): also at {others}."
            )
    if not state.converged:
        raise NoAnswerError(f"the flash at {state.T:.2f} K and {state.P / 1e5:.4g} bar did not converge")
    if state.third_phase:
        notes.append("A third phase would form here; the answer is the best state of two phases.")
    return {**state_answer(state, model), "notes": [*notes, REFERENCE]}


def _none_text(fraction: float, T: float | None, P: float | None, remarks: tuple[str, ...]) -> str:
    where = f"at {T:.2f} K" if T is not None else f"at {(P or 0.0) / 1e5:.4g} bar"
    what = {0.0: "no bubble point", 1.0: "no dew point"}.get(fraction, f"no state of vapour fraction {fraction:g}")
    return " ".join([f"there is {what} {where} within the traced envelope.", *remarks]).strip()


def _state_on_line(model: FluidModel, point: SaturationPoint) -> State:
    # A pure fluid's phases differ by the root alone, so both roots are named.
    pure = model.z.size == 1
    return assemble(
        model,
        point.T,
        point.P,
        [
            ("vapour", point.beta, point.y, "vapour" if pure else "stable"),
            ("liquid", 1.0 - point.beta, point.x, "liquid" if pure else "stable"),
        ],
        True,
        False,
    )


def composition(model: FluidModel, x: np.ndarray[Any, np.dtype[np.float64]]) -> dict[str, float]:
    """Return a composition by component name."""
    return {name: float(value) for name, value in zip(model.names, x)}


def state_answer(state: State, model: FluidModel) -> Answer:
    """Return a state as plain data in SI."""
    phases = []
    for phase in state.phases:
        p = phase.properties
        phases.append(
            {
                "kind": phase.kind,
                "fraction": phase.fraction,
                "mass_fraction": phase.mass_fraction,
                "composition": composition(model, phase.composition),
                "Z": float(p.Z[0]),
                "density_kg_m3": float(p.density[0]),
                "molar_mass_g_mol": float(p.molar_mass[0]) * 1e3,
                "molar_volume_m3_mol": float(p.molar_volume[0]),
                "enthalpy_J_mol": float(p.enthalpy[0]),
                "entropy_J_mol_K": float(p.entropy[0]),
                "enthalpy_departure_J_mol": float(p.enthalpy_departure[0]),
                "entropy_departure_J_mol_K": float(p.entropy_departure[0]),
            }
        )
    weights = np.array([p.fraction for p in state.phases])
    total = {
        k: float(weights @ np.array([ph[k] for ph in phases]))
        for k in ("enthalpy_J_mol", "entropy_J_mol_K", "molar_mass_g_mol", "molar_volume_m3_mol")
    }
    return {
        "temperature_K": state.T,
        "pressure_Pa": state.P,
        "vapour_fraction": state.vapour_fraction,
        **total,
        "density_kg_m3": total["molar_mass_g_mol"] * 1e-3 / total["molar_volume_m3_mol"],
        "phases": phases,
    }
