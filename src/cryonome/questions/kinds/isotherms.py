"""The study ``isotherms``: pressure against volume at several temperatures, by several equations, beside measured
saturation."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NotRequired

import numpy as np
from numpy.typing import NDArray
from pydantic import Field
from pydantic.types import JsonValue
from typing_extensions import TypedDict

from ...components.saturation_data import SATURATION
from ...constants import R
from ...document import Document, Fluid, Reader, Study
from ...document.edits import set_each
from ...document.field_types import FluidRef, MolarVolume, Pressure, Temperature, Temperatures
from ...document.kinds import StudyKind, register
from ...document.part import Part
from ...document.reader import EMPTY
from ...eos import Equation
from ...eos.building import ENTRIES, EQUATIONS, PURE_FLUID, reference_equation
from ...eos.equation import Root
from ...eos.reference_fluids import REFERENCE_FLUIDS
from ...equilibrium.phase_map import PhaseMap
from ...equilibrium.phases import Phases
from ...fluids.building import FluidModel
from ...fluids.isotherm_curves import Saturated, domes, isotherm, saturated
from ...fluids.map_lines import line_phases
from ...properties import evaluate
from ...remarks import Remark, kelvin, pascal
from ...results.common import Common
from ...results.context import Answer, Context, NoAnswerError
from ...telling.sentences import Units

Array = NDArray[np.float64]

TABLE: dict[str, JsonValue] = {"table": True}
"""Marks a key that holds rows, which no line of a form can show."""

MOST = 40
"""Temperatures of one study."""

LOWEST = 0.5
"""Of the critical temperature: where the built-in saturation begins."""

SAME = 1e-6
"""K within which a measured point is on an isotherm."""


class MeasuredSaturation(Part):
    """A measured saturation point: temperature, and where measured pressure and molar volumes."""

    temperature: Temperature = None
    pressure: Pressure = None
    liquid: MolarVolume = None
    vapour: MolarVolume = None


class IsothermsStudy(Study):
    """Asks for isotherms at ``temperatures`` by ``equations`` (the fluid's own where none are named)."""

    kind: Literal["isotherms"]
    fluid: FluidRef
    temperatures: Temperatures = ()
    equations: tuple[str, ...] = Field(default=(), json_schema_extra={"empty": "its equation"})
    measured: tuple[MeasuredSaturation, ...] = Field(default=(), json_schema_extra=TABLE)


class SaturationAnswer(TypedDict):
    """Saturation at a temperature: pressure and molar volumes."""

    pressure_Pa: float
    liquid_m3_mol: float
    vapour_m3_mol: float


class MeasuredRoots(TypedDict):
    """The roots of an equation at a measured saturation pressure, null where it has no such root there."""

    pressure_Pa: float
    liquid_m3_mol: float | None
    vapour_m3_mol: float | None


class MarkAnswer(TypedDict):
    """A bubble or dew point of a mixture on an isotherm."""

    kind: str
    pressure_Pa: float
    molar_volume_m3_mol: float


class IsothermAnswer(TypedDict):
    """One isotherm; no saturation above the critical temperature, and for mixtures, which have ``marks`` instead.
    Where saturation was measured at its temperature the equation's roots at that pressure, and its own saturation's
    deviations in percent."""

    temperature_K: float
    molar_volume_m3_mol: list[float]
    pressure_Pa: list[float]
    saturation: SaturationAnswer | None
    at_measured: NotRequired[MeasuredRoots]
    deviations_percent: NotRequired[dict[str, float]]
    marks: NotRequired[list[MarkAnswer]]


class CriticalAnswer(TypedDict):
    """A critical point."""

    temperature_K: float
    pressure_Pa: float
    molar_volume_m3_mol: float


class Deviation(TypedDict):
    """Average and largest deviation from what was measured, percent, and the temperatures between which it was."""

    average: float
    worst: float
    from_K: float
    to_K: float


class EquationAnswer(TypedDict):
    """Isotherms by one equation, volumes without a shift; of a pure component also its saturation and spinodal lines,
    of a mixture its bubble and dew lines, every traced part of each."""

    equation: str
    critical: CriticalAnswer | None
    isotherms: list[IsothermAnswer]
    saturation_line: NotRequired[dict[str, list[float]]]
    spinodal: NotRequired[dict[str, list[float]]]
    bubble_lines: NotRequired[list[dict[str, list[float]]]]
    dew_lines: NotRequired[list[dict[str, list[float]]]]
    deviations_percent: NotRequired[dict[str, Deviation]]


class IsothermsAnswer(Common):
    """By equation, and the measured saturation with its source."""

    equations: NotRequired[list[EquationAnswer]]
    measured: NotRequired[dict[str, list[float | None]]]
    measured_critical: NotRequired[CriticalAnswer]


@dataclass(frozen=True)
class Asked:
    """Temperatures (n,) K, equations by name, measured rows (m, 4) of T, P, V liquid, V vapour, nan where not
    measured."""

    fluid: str
    temperatures: tuple[float, ...]
    equations: tuple[str, ...]
    measured: tuple[tuple[float, float, float, float], ...]


def read(study: IsothermsStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    T = [reader.at("temperatures", i).quantity(c, "temperature") for i, c in enumerate(study.temperatures)]
    if not study.temperatures:
        reader.at("temperatures").fault('give at least one temperature, for example ["0 degC", "40 degC"]')
    elif len(study.temperatures) > MOST:
        reader.at("temperatures").fault(f"{len(study.temperatures)} temperatures are more than the {MOST} of one study")
    for i, name in enumerate(study.equations):
        reader.at("equations", i).known(name, EQUATIONS, "equation")
    rows = []
    for i, m in enumerate(study.measured):
        here = reader.at("measured", i)
        if m.temperature in EMPTY:
            here.at("temperature").fault("a measured saturation point names its temperature")
        values = [
            here.at("temperature").given(m.temperature, "temperature"),
            here.at("pressure").given(m.pressure, "pressure"),
        ]
        values += [here.at(k).given(getattr(m, k), "molar_volume") for k in ("liquid", "vapour")]
        rows.append(tuple(float("nan") if v is None else v for v in values))
    fluid = document.fluid(study.fluid)
    equations = tuple(dict.fromkeys(study.equations)) or ((fluid.model.eos,) if fluid is not None else ())
    return Asked(study.fluid, tuple(t for t in T if t is not None), equations, tuple(rows))  # type: ignore[arg-type]


def solve(asked: Asked, context: Context) -> Answer:
    """Return the isotherms by every equation."""
    fluid = context.fluid(asked.fluid)
    out: list[Answer] = []
    remarks: list[Remark] = []
    own = context.project.fluid(fluid)
    measured = _measured(asked, own, remarks)
    for number, name in enumerate(asked.equations):
        context.watch.part(number / len(asked.equations), (number + 1) / len(asked.equations))
        model = context.project.fluid(_with_equation(fluid, name))
        out.append(_by_equation(name, model, asked, measured, context, fluid))
    if own.substance.shift.any():
        remarks.append(Remark("estimate", "roots.unshifted"))
    answer: Answer = {"equations": out, "notes": [*own.remarks, *remarks]}
    if measured is not None:
        answer["measured"] = {
            "temperature_K": measured.T.tolist(),
            "pressure_Pa": _plain(measured.P),
            "liquid_m3_mol": _plain(measured.liquid),
            "vapour_m3_mol": _plain(measured.vapour),
        }
    data = _built_in(own)
    if data is not None:
        answer["measured_critical"] = {
            "temperature_K": data.Tc,
            "pressure_Pa": data.Pc,
            "molar_volume_m3_mol": data.molar_mass / data.rho_c,
        }
    if not out:
        raise NoAnswerError(Remark("warning", "isotherms.none"))
    return answer


def _with_equation(fluid: Fluid, name: str) -> Fluid:
    """Return the fluid with another equation, and a volume shift any equation has."""
    return set_each(fluid, {("model", "eos"): name, ("model", "volume_shift"): "none"})


def _plain(values: Array) -> list[float | None]:
    return [float(v) if np.isfinite(v) else None for v in values]


def _built_in(model: FluidModel):  # type: ignore[no-untyped-def]
    alone = model.z.size == 1 and model.components[0].kind == "pure"
    return SATURATION.get(model.components[0].name) if alone else None


def _measured(asked: Asked, model: FluidModel, remarks: list[Remark]) -> Saturated | None:
    """Return measured saturation: the study's own, else the reference equation's at the temperatures and on a grid."""
    if asked.measured:
        return Saturated(*np.array(asked.measured).T)
    data = _built_in(model)
    if data is None:
        return _by_reference(asked, model, remarks)
    remarks.append(Remark("estimate", "isotherms.measured", "", {"source": data.source}))
    inside = [t for t in asked.temperatures if data.lowest <= t < data.Tc]
    T = np.unique(np.concatenate([np.linspace(max(data.lowest, 0.5 * data.Tc), 0.99 * data.Tc, 25), inside]))
    return Saturated(T, *data.at(T))


def _by_reference(asked: Asked, model: FluidModel, remarks: list[Remark]) -> Saturated | None:
    """Return the saturation of a pure fluid by its reference equation, at the temperatures asked and on a grid; None
    of one that has none."""
    if model.z.size != 1 or model.components[0].kind != "pure" or model.components[0].name not in REFERENCE_FLUIDS:
        return None
    eos = reference_equation(list(model.components))
    Tc = float(eos.pure_critical()[0][0])
    remarks.append(Remark("estimate", "isotherms.measured", "", {"source": ENTRIES[PURE_FLUID].source}))
    inside = [t for t in asked.temperatures if LOWEST * Tc <= t < Tc]
    return saturated(eos, np.unique(np.concatenate([np.linspace(LOWEST * Tc, 0.99 * Tc, 25), inside])))


def _by_equation(
    name: str, model: FluidModel, asked: Asked, measured: Saturated | None, context: Context, fluid: Fluid
) -> Answer:
    eos, z = model.eos, model.z
    alone = z.size == 1
    T = np.array(asked.temperatures)
    at = saturated(eos, T) if alone else None
    rows = []
    for i, t in enumerate(asked.temperatures):
        saturation = None
        marks: tuple[float, ...] = ()
        if at is not None and np.isfinite(at.P[i]):
            marks = (float(at.liquid[i]), float(at.vapour[i]))
            saturation = {"pressure_Pa": float(at.P[i]), "liquid_m3_mol": marks[0], "vapour_m3_mol": marks[1]}
        V, P = isotherm(eos, z, t, marks)
        row: Answer = {
            "temperature_K": t,
            "molar_volume_m3_mol": V.tolist(),
            "pressure_Pa": P.tolist(),
            "saturation": saturation,
        }
        there = np.abs(measured.T - t) < SAME if measured is not None else np.zeros(1, bool)
        if measured is not None and there.any():
            if np.isfinite(measured.P[there][0]):
                row["at_measured"] = _roots_at(eos, z, t, float(measured.P[there][0]))
            if at is not None and np.isfinite(at.P[i]):
                own = Saturated(*(np.full(1, v[i]) for v in (at.T, at.P, at.liquid, at.vapour)))
                seen = Saturated(*(v[there][:1] for v in (measured.T, measured.P, measured.liquid, measured.vapour)))
                row["deviations_percent"] = {k: d["average"] for k, d in _deviations(own, seen).items()}
        rows.append(row)
    out: Answer = {"equation": name, "critical": _critical(name, model, context, fluid), "isotherms": rows}
    if not alone and name != "ideal":
        whole = context.project.map(_with_equation(fluid, name), (), context.watch)
        for key, fraction in (("bubble_lines", 0.0), ("dew_lines", 1.0)):
            out[key] = [_locus(model, phases) for phases in line_phases(whole, fraction)]
        for row in rows:
            row["marks"] = _marks(model, whole, row["temperature_K"])
    if alone and out["critical"] is not None:
        dome, (volume, pressure) = domes(eos, min(asked.temperatures, default=0.0))
        out["saturation_line"] = {
            "temperature_K": dome.T.tolist(),
            "pressure_Pa": dome.P.tolist(),
            "liquid_m3_mol": dome.liquid.tolist(),
            "vapour_m3_mol": dome.vapour.tolist(),
        }
        out["spinodal"] = {"molar_volume_m3_mol": volume.tolist(), "pressure_Pa": pressure.tolist()}
        if measured is not None:
            out["deviations_percent"] = _deviations(saturated(eos, measured.T), measured)
    return out


def _roots_at(eos: Equation, z: Array, T: float, P: float) -> Answer:
    """Return the liquid-like and the vapour-like root at T K and a measured saturation pressure P Pa; one that the
    equation does not have there is None."""
    state = eos.prepare([T], [P])
    low, high = (float(state.ln_phi(z[None], root)[1][0]) * R * T / P for root in ("liquid", "vapour"))
    if high - low > 1e-9 * high:
        return {"pressure_Pa": P, "liquid_m3_mol": low, "vapour_m3_mol": high}
    dense = low < float(eos.pure_critical()[2][0])
    return {"pressure_Pa": P, "liquid_m3_mol": low if dense else None, "vapour_m3_mol": None if dense else low}


def _marks(model: FluidModel, whole: PhaseMap, T: float) -> list[Answer]:
    """Return the bubble and dew points of a mixture on an isotherm, with the volume of the whole there, without a
    shift as the isotherm's."""
    out: list[Answer] = []
    for point in whole.crossings([0.0, 1.0], T=T):
        root: Root = "liquid" if point.beta == 0.0 else "vapour"
        Z = model.eos.prepare([T], [point.P]).ln_phi(model.z[None], root)[1]
        kind = "bubble" if point.beta == 0.0 else "dew"
        out.append({"kind": kind, "pressure_Pa": point.P, "molar_volume_m3_mol": float(Z[0]) * R * T / point.P})
    return out


def _locus(model: FluidModel, phases: Phases) -> Answer:
    volume = evaluate(model.substance, phases, ("molar_volume",)).whole["molar_volume"]
    return {
        "temperature_K": phases.T.tolist(),
        "pressure_Pa": phases.P.tolist(),
        "molar_volume_m3_mol": volume.tolist(),
    }


def _critical(name: str, model: FluidModel, context: Context, fluid: Fluid) -> Answer | None:
    """Return the critical point an equation predicts; of a mixture the first of its envelope."""
    if model.z.size == 1:
        T, P, V = (float(v[0]) for v in model.eos.pure_critical())
        return {"temperature_K": T, "pressure_Pa": P, "molar_volume_m3_mol": V} if np.isfinite(T) else None
    if name == "ideal":
        return None
    points = context.project.map(_with_equation(fluid, name), (), context.watch).critical_points
    return (
        {"temperature_K": points[0].T, "pressure_Pa": points[0].P, "molar_volume_m3_mol": points[0].V}
        if points
        else None
    )


def _deviations(own: Saturated, measured: Saturated) -> Answer:
    out: Answer = {}
    for key in ("P", "liquid", "vapour"):
        percent = 100.0 * np.abs(getattr(own, key) / getattr(measured, key) - 1.0)
        there = percent[np.isfinite(percent)]
        if there.size:
            word = "pressure" if key == "P" else key
            T = measured.T[np.isfinite(percent)]
            out[word] = {
                "average": float(there.mean()),
                "worst": float(there.max()),
                "from_K": float(T.min()),
                "to_K": float(T.max()),
            }
    return out


def line(answer: Answer, units: Units) -> str:
    """Return the answer in a few words."""
    names = ", ".join(e["equation"] for e in answer["equations"])
    count = len(answer["equations"][0]["isotherms"])
    return f"{count} {'isotherm' if count == 1 else 'isotherms'} by {names}"


def begin(fluid: str, at: tuple[float, float] | None) -> IsothermsStudy:
    """Return a new question about a fluid, near a state where one is given."""
    T = at[0] if at is not None else 298.15
    temperatures = tuple(f"{T + d - 273.15:.2f} degC" for d in (-20.0, 0.0, 20.0))
    return IsothermsStudy(name="Isotherms", kind="isotherms", fluid=fluid, temperatures=temperatures)


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: how far each equation is off the measured liquid."""
    told = []
    for e in answer["equations"]:
        off = (e.get("deviations_percent") or {}).get("liquid")
        if off:
            told.append(f"{e['equation']}'s liquid is {off['average']:.1f} % off the measured on average")
    if told:
        return f"{'; '.join(told)}."
    first = answer["equations"][0]
    c = first["critical"]
    return (
        f"{first['equation']} is critical at {units.text(kelvin(c['temperature_K']))} and {units.text(pascal(c['pressure_Pa']))}."
        if c
        else f"{len(answer['equations'])} equations drawn."
    )


register(
    StudyKind(
        name="isotherms", title="Isotherms", meaning="pressure against volume by several equations, beside measured saturation",
        model=IsothermsStudy, answer=IsothermsAnswer, read=read, solve=solve, line=line, begin=begin, order=50,
        sentence="How is {fluid} drawn by {equations} at {temperatures}?",
        phrases=("isotherms", "isotherm", "pv diagram", "p-v diagram"),
        says=says,
    )
)  # fmt: skip
