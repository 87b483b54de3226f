"""What the page *State* shows of an answer: properties, compositions with K-values, and the same state by other
equations."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ....document.conditions import CONDITIONS
from ....fluids.building import FluidModel
from ....properties import PROPERTIES
from ....properties.registry import Property
from ....telling.sentences import Units
from ....units import Numeral, fixed, format_number, from_si, label

Answer = dict[str, Any]
Titles = list[tuple[str, str]]
Rows = list[list[str]]

SHARES = {"fraction": "Share, mole", "mass_fraction": "Share, mass", "volume_fraction": "Share, volume"}
"""The shares of a phase by their key, with their words."""

CONDITION_KEYS = {
    "temperature": "temperature_K",
    "pressure": "pressure_Pa",
    "vapour_fraction": "vapour_fraction",
    "vapour_volume_fraction": "vapour_volume_fraction",
    "enthalpy": "enthalpy_J_mol",
    "entropy": "entropy_J_mol_K",
    "density": "density_kg_m3",
    "internal_energy": "internal_energy_J_mol",
}
"""Where an answer tells each condition of a flash; all are SI, by mole."""

MAIN = ("Z", "density", "molar_volume", "molar_mass", "enthalpy", "entropy", "internal_energy", "gibbs")
"""Properties that stand first."""


def title(words: str) -> str:
    """Return words with a capital letter."""
    return words[:1].upper() + words[1:]


def names_of(answer: Answer) -> list[str]:
    """Return what the phases of an answer are called, told apart where two are of one kind."""
    kinds = [p["kind"] for p in answer["phases"]]
    return [f"{k} {kinds[:i].count(k) + 1}" if kinds.count(k) > 1 else k for i, k in enumerate(kinds)]


def _unit(units: Units, kind: str) -> str:
    return "%" if kind == "fraction" else units.unit(kind) if kind else ""


def _shown(value: float | None, entry: Property, unit: str) -> str:
    if value is None:
        return ""
    return format_number(from_si(value / entry.factor, unit, entry.kind) if entry.kind else value, 5)


def _entries() -> list[tuple[str, Property]]:
    first = [(k, PROPERTIES[k]) for k in MAIN if k in PROPERTIES]
    return first + [(k, e) for k, e in PROPERTIES.items() if k not in MAIN and k not in SHARES]


@dataclass(frozen=True)
class PropertyRows:
    """The properties of a state as rows under titles, with the meaning of every row and the paths of its numbers in
    the answer."""

    titles: Titles
    rows: Rows
    tips: list[str]
    paths: list[list[str]]


def properties_table(answer: Answer, units: Units, wanted: str = "") -> PropertyRows:
    """Return the properties of a state, those alone that have the words ``wanted`` in name or meaning."""
    phases, names = answer["phases"], names_of(answer)
    units = units.of_states()
    rows: Rows = []
    tips: list[str] = []
    paths: list[list[str]] = []
    words = wanted.lower().split()
    # A phase is called by its kind where there is only one of that kind.
    kinds = [p["kind"] for p in phases]
    places = [f"phases.{k}" if kinds.count(k) == 1 else f"phases[{i}]" for i, k in enumerate(kinds)]
    for key, name in SHARES.items():
        if all(w in name.lower() for w in words):
            rows.append([name, "", *(format_number(100.0 * p[key], 5) for p in phases), "%"])
            tips.append("share of the phase in the whole")
            paths.append(["", "", *(f"{place}.{key}" for place in places), ""])
    for _, entry in _entries():
        if not all(w in f"{entry.name} {entry.meaning}".lower() for w in words):
            continue
        unit, key = _unit(units, entry.kind), entry.answer_key
        values = [answer.get(key), *(p.get(key) for p in phases)]
        if any(v is not None for v in values):
            told = label(unit) if entry.kind and unit else ""
            rows.append([entry.name, *(_shown(v, entry, unit) for v in values), told])
            tips.append(entry.meaning)
            own = [key, *(f"{place}.{key}" for place in places)]
            paths.append(["", *(path if v is not None else "" for path, v in zip(own, values)), ""])
    titles = [("property", ""), ("whole", ""), *((n, "") for n in names), ("", "unit")]
    return PropertyRows(titles, rows, tips, paths)


UNITS_BY = {"mole": "mol%", "mass": "wt%", "volume": "vol%"}


def composition_table(answer: Answer, model: FluidModel | None, by: str = "mole") -> tuple[Titles, Rows]:
    """Return the compositions of the whole and of the phases by mole, mass or the volume of the liquids at 60 degF,
    and K-values of the lightest to each of the others; what has no such volume makes a composition by volume empty
    there."""
    phases, names = answer["phases"], names_of(answer)
    ratios = [f"K {names[0]}/{n}" for n in names[1:]]
    components = list(phases[0]["composition"])
    x = np.array([[p["composition"][c] for c in components] for p in phases])
    whole = np.array([p["fraction"] for p in phases]) @ x
    shares = [shares_by(v, model, by, len(components)) for v in (whole, *x)]
    rows = []
    for i, component in enumerate(components):
        K = [x[0, i] / v if v > 0.0 else float("nan") for v in x[1:, i]]
        rows.append([component, *(_percent(s[i]) for s in shares), *(format_number(v, 4) for v in K)])
    return [
        ("component", ""),
        ("whole", UNITS_BY[by]),
        *((n, UNITS_BY[by]) for n in names),
        *((r, "") for r in ratios),
    ], rows


def shares_by(x: np.ndarray, model: FluidModel | None, by: str, count: int) -> np.ndarray:
    """Return a composition (nc,) given by mole by another measure; as it is where the fluid is another one."""
    if by == "mole" or model is None or len(model.z) != count:
        return x
    weight = x * model.molar_mass
    if by == "volume":
        weight = weight / np.array([c.specific_gravity if c.specific_gravity else np.nan for c in model.components])
    return np.asarray(weight / np.nansum(weight))


def fugacity_table(answer: Answer, units: Units) -> tuple[Titles, Rows]:
    """Return fugacity coefficients and fugacities of every component in every phase; a fugacity is the same in all of
    them."""
    phases, names = answer["phases"], names_of(answer)
    unit = units.unit("pressure")
    rows = []
    for component in phases[0]["composition"]:
        phi = [_known(p["fugacity_coefficient"][component], lambda v: format_number(v, 5)) for p in phases]
        f = [
            _known(p["fugacity_Pa"][component], lambda v: format_number(from_si(v, unit, "pressure"), 5))
            for p in phases
        ]
        rows.append([component, *phi, *f])
    return [("component", ""), *((f"φ {n}", "") for n in names), *((f"f {n}", label(unit)) for n in names)], rows


def _known(value: float | None, told: Callable[[float], str]) -> str:
    return "–" if value is None else told(value)


def _percent(x: float) -> str:
    if not np.isfinite(x):
        return ""
    return fixed(100 * x, 4) if x > 1e-6 or x == 0.0 else Numeral(f"{100 * x:.1e}".replace("-", "−"), 100 * x)


def compared_table(answer: Answer, own: str, units: Units) -> tuple[Titles, Rows]:
    """Return the state by several equations side by side: conditions, phases, and properties of the whole and of each
    phase."""
    units = units.of_states()
    columns = {own: answer, **answer.get("compared", {})}
    titles = [("", ""), *((n, "") for n in columns), ("", "unit")]
    rows: Rows = []

    def row(name: str, told: list[str], unit: str = "") -> None:
        if any(told):
            rows.append([name, *told, unit])

    row("phases", [a.get("error", "") or " + ".join(n[0].upper() for n in names_of(a)) for a in columns.values()])
    for key, answer_key in CONDITION_KEYS.items():
        kind = CONDITIONS[key].kind
        unit = _unit(units, kind)
        told = [_number(a.get(answer_key), unit, kind) for a in columns.values()]
        row(title(CONDITIONS[key].title), told, label(unit))
    for phase in dict.fromkeys(n for a in columns.values() if "phases" in a for n in names_of(a)):
        found = [_phase(a, phase) for a in columns.values()]
        row(f"{title(phase)} · Share", [_number(p.get("fraction"), "%", "fraction") for p in found], "mol%")
        for _, entry in _entries():
            unit = _unit(units, entry.kind)
            told = [_shown(p.get(entry.answer_key), entry, unit) for p in found]
            row(f"{title(phase)} · {entry.name}", told, label(unit) if unit else "")
    return titles, rows


def _phase(answer: Answer, name: str) -> Answer:
    if "phases" not in answer:
        return {}
    return next((p for n, p in zip(names_of(answer), answer["phases"]) if n == name), {})


def _number(value: float | None, unit: str, kind: str) -> str:
    return "" if value is None else format_number(from_si(value, unit, kind), 6)
