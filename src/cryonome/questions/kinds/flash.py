"""The study ``flash``: the equilibrium at two given conditions."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal, NotRequired

import numpy as np
from typing_extensions import TypedDict

from ...constants import ATM, T_60F, R
from ...document import Document, Fluid, Reader
from ...document.conditions import CHOICE, CONDITIONS, Conditioned, Given, read_condition, read_conditions
from ...document.field_types import MolarVolume, Rate, Suggested, Temperature
from ...document.kinds import StudyKind, register
from ...document.model import Measured
from ...document.part import Part
from ...document.rates import read_rate
from ...document.reader import EMPTY
from ...eos.building import EQUATIONS, PURE_FLUID, reference_equation, shift_fits
from ...eos.reference_fluids import REFERENCE_FLUIDS
from ...equilibrium.phases import ROOTS, Kind, Phases
from ...equilibrium.saturation import Saturation
from ...errors import DomainError
from ...fluids.adviser import rising
from ...fluids.building import FluidModel
from ...fluids.standard import USUAL, Heating, Rates, rates, standard_values
from ...fluids.states import States, with_properties
from ...labtests import LabFluid, separate
from ...properties import CORRELATIONS, PROPERTIES
from ...properties.aqueous.region1 import COLDEST
from ...properties.aqueous.water_transport import COLDEST as COLDEST_MOVING
from ...remarks import Remark, Value, kelvin, measure, pascal
from ...results.context import Answer, Context, NoAnswerError
from ...results.delumping import compositions
from ...results.frost import frost_remarks
from ...results.pair_states import state_at
from ...results.simulated_tests import LabTest, Simulated, Tested
from ...telling.sentences import Units
from ...units import format_number
from ...watch import Watch
from ..giving import PHASES

RANGE = (50.0, 1500.0)
"""K. Where ideal-gas heat capacities are known."""


class HeatingConditions(Part):
    """Temperatures at which the standard gas is ``burnt`` and ``metered`` for its heating values, 60 degF each where
    none is given; metered at 1 atm."""

    burnt: Temperature = None
    metered: Temperature = None


class FlashStudy(Conditioned, Measured):
    """Asks for the equilibrium at two given conditions; enthalpy, entropy and internal energy by mole or mass, as
    their unit says, density and the rest of the whole. A ``rate`` by mole or mass says what it is; one by volume is
    ``rate_by`` ``actual``, ``standard liquid`` or ``standard gas``. ``equations`` are others the same is asked of."""

    kind: Literal["flash"]
    rate: Rate = None
    rate_by: Annotated[str, Suggested(("actual", "standard liquid", "standard gas"))] = "actual"
    molar_volume: MolarVolume = None
    heating: HeatingConditions = HeatingConditions()
    equations: tuple[str, ...] = ()


class RatesAnswer(TypedDict):
    """A flow by all its measures; standard volumes at 60 degF and 1 atm, as ideal gas and as the components'
    liquids."""

    mole_mol_s: float
    mass_kg_s: float
    actual_m3_s: float
    standard_gas_m3_s: float
    standard_liquid_m3_s: float


class PhaseAnswer(TypedDict):
    """One phase of a state, in SI; molar mass in g/mol. Fugacities and their coefficients are those of the equation
    without a volume shift, which changes them in every phase alike."""

    kind: Literal["vapour", "liquid", "aqueous"]
    fraction: float
    mass_fraction: float
    volume_fraction: float
    composition: dict[str, float]
    detailed: NotRequired[dict[str, float]]
    fugacity_coefficient: NotRequired[dict[str, float | None]]
    fugacity_Pa: NotRequired[dict[str, float | None]]
    Z: float
    density_kg_m3: float
    molar_mass_g_mol: float
    molar_volume_m3_mol: float
    enthalpy_J_mol: float
    entropy_J_mol_K: float
    enthalpy_departure_J_mol: float
    entropy_departure_J_mol_K: float
    gibbs_J_mol: float
    internal_energy_J_mol: float
    heat_capacity_p_J_mol_K: float
    heat_capacity_v_J_mol_K: float
    joule_thomson_K_Pa: float
    speed_of_sound_m_s: float
    isothermal_compressibility_1_Pa: float
    thermal_expansion_1_K: float
    density_by_temperature_kg_m3_K: float
    density_by_pressure_kg_m3_Pa: float
    enthalpy_by_pressure_J_mol_Pa: float
    viscosity_Pa_s: float
    kinematic_viscosity_m2_s: float
    thermal_conductivity_W_m_K: float
    rates: NotRequired[RatesAnswer]


class StandardAnswer(TypedDict):
    """A mole flashed once to 60 degF and 1 atm, water aside; what has no such phase is left out."""

    gas_m3_mol: float
    liquid_m3_mol: float
    liquid_density_kg_m3: NotRequired[float]
    water_m3_mol: NotRequired[float]
    gas_oil_ratio_m3_m3: NotRequired[float]
    water_gas_ratio_m3_m3: NotRequired[float]
    water_oil_ratio_m3_m3: NotRequired[float]
    water_cut: NotRequired[float]
    api: NotRequired[float]
    gas_gravity: NotRequired[float]
    gross_heating_value_J_m3: NotRequired[float]
    net_heating_value_J_m3: NotRequired[float]
    wobbe_index_J_m3: NotRequired[float]
    gas_Z: NotRequired[float]
    gross_heating_value_real_J_m3: NotRequired[float]
    net_heating_value_real_J_m3: NotRequired[float]
    wobbe_index_real_J_m3: NotRequired[float]


class WholeAnswer(TypedDict):
    """A state: its phases and what the whole has."""

    temperature_K: NotRequired[float]
    pressure_Pa: NotRequired[float]
    vapour_fraction: NotRequired[float]
    vapour_volume_fraction: NotRequired[float]
    vapour_mass_fraction: NotRequired[float]
    density_kg_m3: NotRequired[float]
    molar_mass_g_mol: NotRequired[float]
    molar_volume_m3_mol: NotRequired[float]
    enthalpy_J_mol: NotRequired[float]
    entropy_J_mol_K: NotRequired[float]
    gibbs_J_mol: NotRequired[float]
    internal_energy_J_mol: NotRequired[float]
    heat_capacity_p_J_mol_K: NotRequired[float]
    heat_capacity_v_J_mol_K: NotRequired[float]
    joule_thomson_K_Pa: NotRequired[float]
    speed_of_sound_m_s: NotRequired[float]
    isothermal_compressibility_1_Pa: NotRequired[float]
    thermal_expansion_1_K: NotRequired[float]
    density_by_temperature_kg_m3_K: NotRequired[float]
    density_by_pressure_kg_m3_Pa: NotRequired[float]
    enthalpy_by_pressure_J_mol_Pa: NotRequired[float]
    surface_tension_N_m: NotRequired[float]
    gas_water_tension_N_m: NotRequired[float]
    oil_water_tension_N_m: NotRequired[float]
    phases: NotRequired[list[PhaseAnswer]]


class ComparedAnswer(WholeAnswer):
    """The same state by another equation, or why it has none."""

    error: NotRequired[str]


class FlashAnswer(Tested, WholeAnswer):
    """The state: phases with the lighter first, and the whole; ``compared`` the same by other equations, by their
    name."""

    compared: NotRequired[dict[str, ComparedAnswer]]
    standard: NotRequired[StandardAnswer]
    rates: NotRequired[RatesAnswer]


@dataclass(frozen=True)
class Asked:
    """Two conditions by key; ``rate`` a measure of :data:`RATES` and its value, SI; ``equations`` to compare with."""

    fluid: str
    given: Mapping[str, Given]
    rate: tuple[str, float] | None = None
    equations: tuple[str, ...] = ()
    heating: Heating = USUAL


def read(study: FlashStudy, document: Document, reader: Reader) -> Asked | None:
    """Return what is asked, in SI."""
    read_conditions(study, reader, (*CONDITIONS, "molar_volume"), 2, f"{CHOICE}, molar_volume")
    values = {key: read_condition(key, getattr(study, key), reader.at(key)) for key in CONDITIONS}
    given = {key: value for key, value in values.items() if value is not None}
    if study.molar_volume not in EMPTY:
        volume = reader.at("molar_volume").quantity(study.molar_volume, "molar_volume")
        if volume is not None and volume <= 0.0:
            reader.at("molar_volume").fault("a molar volume is above zero")
        elif volume is not None and study.density not in EMPTY:
            reader.at("molar_volume").fault(
                "density and molar volume are one condition; give another beside one of them"
            )
        elif volume is not None:
            given["molar_volume"] = Given(volume)
    for i, name in enumerate(study.equations):
        reader.at("equations", i).known(name, EQUATIONS, "equation")
    return Asked(
        study.fluid,
        given,
        read_rate(study.rate, study.rate_by, reader),
        study.equations,
        _heating(study.heating, reader.at("heating")),
    )


COOL, WARM = 273.15, 303.15
"""K. Between these gases are burnt and metered for heating values."""


def _heating(asked: HeatingConditions, reader: Reader) -> Heating:
    """Return where a gas is burnt and metered."""
    out = {}
    for key in ("burnt", "metered"):
        cell, here = getattr(asked, key), reader.at(key)
        T = None if cell in EMPTY else here.quantity(cell, "temperature")
        if T is not None and not COOL - 0.01 <= T <= WARM + 0.01:
            here.fault(
                f"{T - 273.15:.4g} °C is no temperature at which gases are {key}; write one of 0 to 30 °C, for example 60 degF or 25 degC"
            )
        elif T is not None:
            out[key] = T
    return Heating(**out)


def simulated(asked: Asked, fluid: LabFluid, model: FluidModel, near: Saturation | None, watch: Watch) -> Simulated:
    """Return what can be fitted of a flash at temperature and pressure, of many sets of parameters: densities,
    viscosities, Z and amounts of its phases and what one flash to standard conditions gives."""
    if set(asked.given) != {"temperature", "pressure"}:
        return Simulated()
    m = fluid.size
    T, P = (np.full(m, asked.given[key].value) for key in ("temperature", "pressure"))
    found = fluid.parted(T, P)
    singles = {
        "density_kg_m3": fluid.mass(fluid.z) / found.volume,
        "molar_mass_g_mol": 1e3 * fluid.mass(fluid.z),
        "molar_volume_m3_mol": found.volume,
    }
    singles["vapour_fraction"] = np.where(found.split, found.light, found.vapour)
    singles["vapour_volume_fraction"] = 1.0 - np.where(found.split, found.liquid_volume / found.volume, ~found.vapour)
    for kind, x, volume, share, there in (
        ("liquid", found.x, found.x_volume, 1.0 - singles["vapour_fraction"], found.split | ~found.vapour),
        ("vapour", found.y, found.y_volume, singles["vapour_fraction"], found.split | found.vapour),
    ):
        mu = fluid.viscosity(T, P, x, volume, np.full(m, kind == "liquid"))
        each = {
            "density_kg_m3": fluid.mass(x) / volume,
            "viscosity_Pa_s": mu,
            "Z": P * volume / (R * T),
            "molar_mass_g_mol": 1e3 * fluid.mass(x),
        }
        each |= {
            "kinematic_viscosity_m2_s": mu / each["density_kg_m3"],
            "fraction": share,
            "molar_volume_m3_mol": volume,
        }
        each |= {f"composition.{name}": x[:, i] for i, name in enumerate(model.names)}
        singles |= {f"phases.{kind}.{key}": np.where(there, value, np.nan) for key, value in each.items()}
    s = separate(fluid, np.array([T_60F]), np.array([ATM]))
    singles |= {
        "standard.liquid_density_kg_m3": s.tank_density,
        "standard.gas_oil_ratio_m3_m3": s.gas_oil_ratio,
        "standard.api": s.api,
        "standard.gas_gravity": s.gas_gravity[:, 0],
        "standard.liquid_m3_mol": s.tank_volume,
    }
    return Simulated(singles=singles, names=model.names)


TEST = LabTest(simulated)


def solve(asked: Asked, context: Context) -> Answer:
    """Return the state at two conditions."""
    fluid = context.fluid(asked.fluid)
    model = context.project.fluid(fluid)
    remarks = list(model.remarks)
    states = with_properties(model, state_at(fluid, asked.given, context, remarks))
    found = states.phases
    remarks += frost_remarks(model, found)
    turned = rising(model.components, fluid.model.eos, float(found.T[0])) if fluid.model.alpha == "own" else ()
    if turned:
        remarks.append(Remark("warning", "state.alpha_rises", "", {"names": turned, "T": kelvin(float(found.T[0]), 0)}))
    remarks += dense_remarks(model, found)
    remarks += density_remarks(model, fluid.model.eos, found)
    remarks += cold_water_remarks(model, found)
    remarks.append(reference_remark(model))
    if not RANGE[0] <= float(found.T[0]) <= RANGE[1]:
        remarks.append(
            Remark("extrapolation", "state.heat_capacities", "", {"low": kelvin(RANGE[0]), "high": kelvin(RANGE[1])})
        )
    answer = {
        **_with_fugacities(state_answer(states, 0, compositions(context.project, fluid, found)), model, found),
        "standard": standard_values(model, asked.heating),
    }
    if asked.rate is not None:
        _add_rates(answer, states, asked.rate)
    if asked.equations:
        answer["compared"] = {name: _by(name, fluid, asked, context) for name in asked.equations}
    return {**answer, "notes": [*remarks]}


def _with_fugacities(answer: Answer, model: FluidModel, found: Phases) -> Answer:
    """Return a state's answer with the fugacity coefficient and the fugacity of every component in every phase."""
    T, P = float(found.T[0]), float(found.P[0])
    state = model.eos.prepare([T], [P])
    for phase in answer["phases"]:
        x = np.array(list(phase["composition"].values()))
        place = next(
            p
            for p in range(found.kind.shape[-1])
            if found.kind[0, p] != Kind.ABSENT and np.array_equal(found.composition[0, p], x)
        )
        ln_phi = state.ln_phi(x[None], ROOTS[int(found.root[0, place])])[0][0]
        coefficient = np.exp(np.minimum(ln_phi, LARGEST_LN))
        # Near absolute zero a coefficient may be beyond any number, where its component is all but absent.
        told = [name for name, value in zip(model.names, ln_phi) if value < LARGEST_LN]
        for key, values in (("fugacity_coefficient", coefficient), ("fugacity_Pa", coefficient * x * P)):
            phase[key] = {k: v if k in told else None for k, v in composition(model, values).items()}
    return answer


def _by(name: str, fluid: Fluid, asked: Asked, context: Context) -> Answer:
    """Return the state by another equation, all else of the fluid as it is where that fits."""
    shift = fluid.model.volume_shift if shift_fits(fluid.model.volume_shift, name) else "density"
    own = fluid.model_copy(update={"model": fluid.model.model_copy(update={"eos": name, "volume_shift": shift})})
    try:
        model = context.project.fluid(own)
        return state_answer(with_properties(model, state_at(own, asked.given, context, [])))
    except NoAnswerError as error:
        return {"error": list(error.remarks)}
    except DomainError as error:
        return {"error": str(error)}


def reference_remark(model: FluidModel) -> Remark:
    """Return the remark that says where enthalpy and entropy are zero."""
    reference = model.substance.reference
    return Remark("estimate", REFERENCE_CODES[reference.state], "", {"T": kelvin(reference.temperature, 2)})


def dense_remarks(model: FluidModel, found: Phases) -> list[Remark]:
    """Say of a phase called vapour that it is a dense fluid: above the critical temperature of its composition as one
    fluid, and denser than critical."""
    out = []
    for place in np.flatnonzero(found.kind[0] == Kind.VAPOUR):
        x, Z = found.composition[0, place][None], found.Z[0, place][None]
        state = model.eos.prepare(found.T[:1], found.P[:1])
        packing = float(state.packing(x, Z)[0])
        if packing > 1.0 and not state.cold(x)[0]:
            out.append(Remark("estimate", "state.dense", "", {"packing": packing}))
    return out


def cold_water_remarks(model: FluidModel, found: Phases) -> list[Remark]:
    """Say where an aqueous liquid is colder than the correlations of its properties go."""
    T = float(found.T[0])
    if T >= COLDEST or model.substance.aqueous != CORRELATIONS or not (found.kind[0] == Kind.AQUEOUS).any():
        return []
    values = {"T": kelvin(T), "edge": kelvin(COLDEST, 0), "end": kelvin(COLDEST_MOVING, 0)}
    return [Remark("extrapolation", "state.cold_water", "", values)]


LARGEST_LN = 700.0
"""ln of the largest number that is told."""
NEARLY_PURE = 0.95
"""Mole fraction from which a fluid is held against the reference equation of its main component."""
OFF = 0.02
"""Relative difference in density from which that is a warning."""


def density_remarks(model: FluidModel, equation: str, found: Phases) -> list[Remark]:
    """Say how far the equation's density of the main component, taken pure, is from its reference equation, of a
    fluid that is pure or nearly so."""
    main = int(np.argmax(model.z))
    part = model.components[main]
    T, P = float(found.T[0]), float(found.P[0])
    fluid = REFERENCE_FLUIDS.get(part.name) if part.kind == "pure" else None
    if fluid is None or equation == PURE_FLUID or model.z[main] < NEARLY_PURE or found.split[0]:
        return []
    if not (fluid.coldest <= T <= fluid.hottest and fluid.highest >= P):
        return []
    one = np.ones((1, 1))
    Z = (e.prepare([T], [P]).ln_phi(one)[1][0] for e in (model.eos.of(np.array([main])), reference_equation([part])))
    volume, true = (float(v) * R * T / P for v in Z)
    ours, theirs = (
        float(part.molar_mass) / v for v in (volume - float(model.substance.shifts.at(np.array([T]))[0, main]), true)
    )
    off = ours / theirs - 1.0
    values: dict[str, Value] = {
        "name": part.name,
        "T": kelvin(T),
        "P": pascal(P),
        "ours": measure(ours, "density"),
        "theirs": measure(theirs, "density"),
        "equation": equation,
        "off": 100.0 * off,
    }
    return [Remark("warning" if abs(off) > OFF else "estimate", "state.density_off", "", values)]


REFERENCE_CODES = {
    "ideal gas": "state.reference_ideal_gas",
    "elements": "state.reference_elements",
    "saturated liquid": "state.reference_saturated_liquid",
}


def _add_rates(answer: Answer, states: States, rate: tuple[str, float]) -> None:
    """Add the rates of the whole and of each phase."""
    model = states.model
    whole = rates(model, model.z, float(states.values.whole["molar_volume"][0]), rate[1], rate[0])
    answer["rates"] = rates_answer(whole)
    for phase in answer["phases"]:
        x = np.array(list(phase["composition"].values()))
        own = rates(model, x, phase["molar_volume_m3_mol"], phase["fraction"] * whole.mole, "mole")
        phase["rates"] = rates_answer(own)


def rates_answer(found: Rates) -> Answer:
    """Return a flow by all its measures as plain data."""
    return {
        "mole_mol_s": found.mole,
        "mass_kg_s": found.mass,
        "actual_m3_s": found.actual,
        "standard_gas_m3_s": found.gas,
        "standard_liquid_m3_s": found.liquid,
    }


def composition(model: FluidModel, x: object) -> dict[str, float]:
    """Return a composition (nc,) by component name."""
    return {name: float(value) for name, value in zip(model.names, x)}  # type: ignore[call-overload]


def state_answer(states: States, row: int = 0, detail: list[Mapping[str, float]] | None = None) -> Answer:
    """Return one state of a batch as plain data in SI, every registered property under its key."""
    found: Phases = states.phases
    values = states.values
    phases = []
    density = values.phase["density"][row] if "density" in values.phase else np.arange(found.kind.shape[-1])
    for place in np.argsort(density, kind="stable").tolist():
        if found.kind[row, place] == Kind.ABSENT:
            continue
        own = {PROPERTIES[k].answer_key: float(v[row, place]) * PROPERTIES[k].factor for k, v in values.phase.items()}
        phases.append(
            {
                "kind": Kind(int(found.kind[row, place])).name.lower(),
                "fraction": float(found.fraction[row, place]),
                "composition": composition(states.model, found.composition[row, place]),
                **({"detailed": dict(detail[place])} if detail is not None else {}),
                **own,
            }
        )
    whole = {
        PROPERTIES[k].answer_key: float(v[row]) * PROPERTIES[k].factor
        for k, v in values.whole.items()
        if np.isfinite(v[row])
    }
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


def says(asked: Asked, answer: Answer, units: Units) -> str:
    """Return the answer as a sentence: the shares of the phases, and what the gas weighs."""
    phases = answer["phases"]
    densities = [
        f"{units.text(measure(p['density_kg_m3'], 'density'))} of {'gas' if p['kind'] == 'vapour' else p['kind']}"
        for p in phases[:1]
    ]
    fixed = {"temperature": "at {}", "pressure": "at {}"}
    where = [
        fixed[k].format(units.text(v))
        for k, v in (("temperature", kelvin(answer["temperature_K"])), ("pressure", pascal(answer["pressure_Pa"])))
        if k not in asked.given
    ]
    at = f" {' and '.join(where)}" if where else ""
    if len(phases) == 1:
        return f"All {phases[0]['kind']}{at}; {units.text(measure(phases[0]['density_kg_m3'], 'density'))}."
    shares = ", ".join(f"{p['kind']} {format_number(100 * p['fraction'], 3)}" for p in phases)
    return f"{shares[0].upper()}{shares[1:]} mol%{at}; {densities[0]}."


register(
    StudyKind(
        name="flash", title="State", meaning="phases and properties at two given conditions", model=FlashStudy,
        answer=FlashAnswer, read=read, solve=solve, line=line, begin=begin, gives=PHASES, order=20, test=TEST,
        sentence="What is {fluid} at {temperature|pressure|vapour_fraction|vapour_volume_fraction|enthalpy|entropy|density|molar_volume|internal_energy} and {temperature|pressure|vapour_fraction|vapour_volume_fraction|enthalpy|entropy|density|molar_volume|internal_energy}[, flowing {rate}, {rate_by}][?, its gas burnt at {heating.burnt} and metered at {heating.metered}][?, beside {equations}]?",
        phrases=("flash", "state", "phases", "what is"),
        clues={"vapour_volume_fraction": ("vapour by volume", "vapor by volume"), "vapour_fraction": ("vapour", "vapor", "vapour fraction", "quality"), "enthalpy": ("enthalpy",), "entropy": ("entropy",), "density": ("density",), "internal_energy": ("internal energy",), "rate": ("flowing", "rate", "flow")},
        says=says,
    )
)  # fmt: skip
