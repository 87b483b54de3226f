"""The study ``glycol_contact``: how dry a gas leaves a glycol, and what the glycol takes of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal, NotRequired

import numpy as np
from numpy.typing import NDArray
from typing_extensions import TypedDict

from ...constants import T_60F
from ...document import Document, Reader, Study
from ...document.field_types import Cell, FluidRef, OfKind, OneOf, Pressure, Temperature
from ...document.kinds import StudyKind, register
from ...document.reader import EMPTY
from ...fluids.standard import STANDARD_GAS
from ...process.contact import contact
from ...properties.aqueous.organics import volume
from ...remarks import Remark, Value, kelvin, measure, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...results.hydrates import wet, with_traces
from ...solids.water import MOLAR_MASS
from ...solids.water_content import FORMS, water_content
from ...telling.sentences import Units

Array = NDArray[np.float64]

GLYCOLS = ("triethylene glycol", "diethylene glycol", "ethylene glycol")
STRENGTHS = 0.01 * np.array([
    50, 55, 60, 65, 70, 75, 80, 82.5, 85, 87.5, 90, 91, 92, 93, 94, 95, 95.5, 96, 96.5, 97, 97.5, 98, 98.25, 98.5, 98.75, 99, 99.2,
    99.3, 99.4, 99.5, 99.6, 99.7, 99.8, 99.85, 99.9, 99.93, 99.95, 99.97, 99.98, 99.99,
])  # fmt: skip
"""Mass fractions at which the curve is computed."""
COLD, POINTS = 205.0, 70
"""K, from where dew points are looked for, and at how many temperatures."""


class GlycolContactStudy(Study):
    """Asks how dry the fluid's gas leaves much ``glycol`` of a ``strength``, by mass of glycol and water together, at
    ``temperature`` and ``pressure``; or with a ``dew_point`` of water at that pressure instead, what strength gives
    it."""

    kind: Literal["glycol_contact"]
    fluid: FluidRef
    glycol: Annotated[str, OneOf(GLYCOLS)] = "triethylene glycol"
    temperature: Temperature = None
    pressure: Pressure = None
    strength: Annotated[Cell, OfKind("share")] = None
    dew_point: Temperature = None


class TakenAnswer(TypedDict):
    """What the glycol takes of a component: its mole fraction in the liquid, its mass by that of lean glycol, and its
    part of the gas's."""

    component: str
    liquid_mole_fraction: float
    kg_per_kg: float


class StrengthAnswer(TypedDict):
    """The curve: a strength and the dew points that it gives, null below where they were looked for."""

    strength_mass_percent: float
    dew_point_K: float | None


class GlycolContactAnswer(Common):
    """The strength; the temperature at which liquid water forms from the gas at the same pressure and that where
    anything does, ``solid`` naming it; water and glycol in the gas; what the glycol takes, as components and as gas at
    60 degF and 1 atm by volume of lean glycol."""

    strength_mass_percent: NotRequired[float]
    dew_point_K: NotRequired[float | None]
    solid: NotRequired[str]
    solid_point_K: NotRequired[float | None]
    vapour_water_kg_mol: NotRequired[float]
    vapour_water_mole_fraction: NotRequired[float]
    vapour_glycol_mole_fraction: NotRequired[float]
    gas_uptake_m3_m3: NotRequired[float]
    taken: NotRequired[list[TakenAnswer]]
    curve: NotRequired[list[StrengthAnswer]]


@dataclass(frozen=True)
class Asked:
    """State K and Pa, the glycol, and its mass fraction or the dew point K."""

    fluid: str
    glycol: str
    T: float
    P: float
    strength: float | None
    dew_point: float | None


def read(study: GlycolContactStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    if study.glycol not in GLYCOLS:
        reader.at("glycol").fault(f"'{study.glycol}' is no glycol known here; choose {', '.join(GLYCOLS)}")
    T = reader.at("temperature").quantity(study.temperature, "temperature")
    P = reader.at("pressure").pressure(study.pressure)
    strength = None
    if study.strength not in EMPTY:
        strength = reader.at("strength").fraction(
            study.strength, "a strength, the mass of glycol by that of glycol and water,"
        )
        if strength is not None and not 0.3 <= strength < 1.0:
            reader.at("strength").fault(f"a strength of {100 * strength:g} wt% is outside 30 to below 100 wt%")
    dew = reader.at("dew_point").given(study.dew_point, "temperature")
    if strength is None and study.strength in EMPTY and dew is None and study.dew_point in EMPTY:
        reader.at("strength").fault("a strength is wanted, as 99 wt%, or a dew point, as -10 degC")
    if strength is not None and dew is not None:
        reader.at("dew_point").fault("strength and dew point are both given; leave one out, it follows from the other")
    if reader.bad or T is None or P is None:
        return None
    return Asked(study.fluid, study.glycol, T, P, strength, dew)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the contact. Raises NoAnswerError without a gas, or where no strength gives the dew point."""
    fluid, project = context.fluid(asked.fluid), context.project
    own = wet(project, fluid)
    model = with_traces(project, fluid, ("water", asked.glycol))
    water, glycol = model.names.index("water"), model.names.index(asked.glycol)
    strengths = STRENGTHS if asked.strength is None else np.append(STRENGTHS, asked.strength)
    at = np.full(strengths.size, asked.T), np.full(strengths.size, asked.P)
    found = contact(model.eos, model.z, water, glycol, strengths, *at, model.molar_mass, context.watch.part(0.0, 0.6))
    y = found.gas[:, water]
    if not np.isfinite(y).any():
        raise NoAnswerError(Remark("warning", "contact.no_gas", values={"T": kelvin(asked.T), "P": pascal(asked.P)}))
    grid = np.linspace(COLD, max(asked.T, COLD + 50.0), POINTS)
    held = water_content(own.host, grid, np.full(POINTS, asked.P), {}, context.watch.part(0.6, 0.95))
    dew = _cooled(y, grid, held.vapour_over_water)
    curve = [
        {"strength_mass_percent": round(100.0 * float(w), 6), "dew_point_K": float(d) if np.isfinite(d) else None}
        for w, d in zip(STRENGTHS, dew[: STRENGTHS.size])
    ]
    strength, row = asked.strength, strengths.size - 1
    if strength is None:
        assert asked.dew_point is not None
        strength = _strength_for(asked, dew)
        found, row = contact(model.eos, model.z, water, glycol, strength, asked.T, asked.P, model.molar_mass), 0
        y = found.gas[:, water]
        dew = _cooled(y, grid, held.vapour_over_water)
    solid = _cooled(y[row : row + 1], grid, held.vapour)[0]
    beside = FORMS[int(held.beside[np.argmin(np.abs(grid - solid))])] if np.isfinite(solid) else "water"
    remarks = [*model.remarks, *own.remarks]
    return {
        "strength_mass_percent": 100.0 * strength,
        "dew_point_K": float(dew[row]) if np.isfinite(dew[row]) else None,
        "solid": beside,
        "solid_point_K": float(solid) if np.isfinite(solid) else None,
        "vapour_water_kg_mol": float(MOLAR_MASS * y[row] / (1.0 - y[row])),
        "vapour_water_mole_fraction": float(y[row]),
        "vapour_glycol_mole_fraction": float(found.gas[row, glycol]),
        **_taken(asked, model, found.liquid[row], water, glycol),
        "curve": curve,
        "notes": [*dict.fromkeys(remarks)],
    }


def _cooled(y: Array, T: Array, held: Array) -> Array:
    """Return at what temperatures (n,) gases with y (n,) of water are saturated, from what is ``held`` at T; nan
    outside."""
    good = np.isfinite(held)
    order = np.argsort(held[good])
    return np.interp(np.log(y), np.log(held[good][order]), T[good][order], left=np.nan, right=np.nan)


def _strength_for(asked: Asked, dew: Array) -> float:
    """Return the strength that gives the dew point, by the logarithm of its water. Raises NoAnswerError where none
    does."""
    good = np.isfinite(dew)
    low, high = (float(f(dew[good])) for f in (np.min, np.max)) if good.any() else (np.nan, np.nan)
    assert asked.dew_point is not None
    if not low <= asked.dew_point <= high:
        told: dict[str, Value] = {
            "dew": kelvin(asked.dew_point),
            "low": kelvin(low),
            "high": kelvin(high),
            "name": asked.glycol,
        }
        raise NoAnswerError(Remark("warning", "contact.no_strength", values=told))
    wet_part = np.log(1.0 - STRENGTHS[good])
    order = np.argsort(dew[good])
    return float(1.0 - np.exp(np.interp(asked.dew_point, dew[good][order], wet_part[order])))


def _taken(asked: Asked, model: Any, x: Array, water: int, glycol: int) -> Answer:
    """Return what the glycol takes."""
    mass = model.molar_mass
    lean = x[water] * mass[water] + x[glycol] * mass[glycol]
    rest = [i for i in range(x.size) if i not in (water, glycol)]
    spread = np.array([T_60F]), np.array([1e5])
    litres = (
        x[glycol] * float(volume(asked.glycol, float(mass[glycol]), *spread)[0][0]) + x[water] * mass[water] / 999.0
    )
    return {
        "gas_uptake_m3_m3": float(x[rest].sum() * STANDARD_GAS / litres),
        "taken": [
            {
                "component": model.names[i],
                "liquid_mole_fraction": float(x[i]),
                "kg_per_kg": float(x[i] * mass[i] / lean),
            }
            for i in rest
        ],
    }


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    dew = answer["dew_point_K"]
    told = "too dry to tell" if dew is None else f"dew point {units.text(kelvin(dew))}"
    return f"{answer['strength_mass_percent']:.2f} wt%, {told}"


def begin(fluid: str, at: tuple[float, float] | None) -> GlycolContactStudy:
    """Return a new question about a fluid."""
    P = at[1] if at is not None else 70e5
    return GlycolContactStudy(
        name=f"Drying of {fluid}", kind="glycol_contact", fluid=fluid, temperature="35 degC",
        pressure=f"{P / 1e5:.6g} bar", strength="99 wt%",
    )  # fmt: skip


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the dew point or the strength, and what the gas still holds."""
    dew, held = answer["dew_point_K"], units.text(measure(answer["vapour_water_kg_mol"], "water_content", 1))
    if asked.strength is None:
        return f"{answer['strength_mass_percent']:.2f} wt% of {asked.glycol}: the gas leaves with {held}."
    at = "colder than can be told here" if dew is None else units.text(kelvin(dew))
    first = answer["solid_point_K"]
    solid = {"water": "water", "ice": "ice"}.get(answer["solid"], f"hydrate {answer['solid']}")
    more = f"; {solid} forms first, at {units.text(kelvin(first))}" if first and solid != "water" else ""
    return f"The dew point is {at} at that pressure, with {held}{more}."


def follows(
    study: Any, path: tuple[str | int, ...], value: object, document: Document
) -> dict[tuple[str | int, ...], object]:
    """Return the cells that change with one that is typed: strength and dew point take each other's place."""
    other = {("strength",): ("dew_point",), ("dew_point",): ("strength",)}.get(tuple(path))  # type: ignore[arg-type]
    return {path: value} if other is None or value in EMPTY else {path: value, other: None}


register(
    StudyKind(
        name="glycol_contact", title="Drying by glycol", meaning="how dry a gas leaves a glycol of a strength, and what the glycol takes",
        model=GlycolContactStudy, answer=GlycolContactAnswer, read=read, solve=solve, line=line, begin=begin, order=42,
        sentence="How dry does {fluid} leave {glycol} at {temperature} and {pressure}[, of {strength}][, to a dew point of {dew_point}]?",
        phrases=("how dry", "drying", "glycol contactor", "contactor", "dried by", "dehydration", "over glycol", "over teg", "over deg", "over meg", "over triethylene glycol", "over diethylene glycol", "over ethylene glycol"),
        clues={"dew_point": ("dew point", "to a dew point of"), "strength": ("strength", "lean", "wt%")},
        says=says, follows=follows,
    )
)  # fmt: skip
