"""Which equation of state suits a fluid and its conditions, and why: the adviser.

It gathers facts of the fluid and the ranges in use, and every equation states what of them speaks for or against it.
A reason is a remark with a weight: below zero it speaks against. Sources of the rules: Reid, Prausnitz and Poling
(1987), chapters 3 and 4; Michelsen and Mollerup (2007), chapters 3, 4 and 8; Whitson and Brule, *Phase Behavior*, SPE
Monograph 20 (2000), chapter 4."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from ..components import Component
from ..constants import R
from ..eos.alpha import Soave
from ..eos.building import BONDS, EQUATIONS, PURE_FLUID, SAFT
from ..eos.cubic import CubicEos
from ..eos.cubic_forms import FORMS
from ..eos.reference_fluids import REFERENCE_FLUIDS
from ..remarks import Remark, Value, kelvin, pascal
from .building import FluidModel

WATER = "water"
POLAR = ("methanol", "ethanol", "ethylene glycol", "diethylene glycol", "triethylene glycol")
QUANTUM = ("hydrogen", "helium")
HEAVY_NBP = 600.0
"""K. What boils above counts as a heavy end."""
CRYOGENIC = 150.0
"""K."""
VACUUM = 5e3
"""Pa."""
NEAR = 0.05
"""Relative distance in temperature from a critical point that counts as near it."""


@dataclass(frozen=True)
class Facts:
    """What the adviser knows: ranges T K and P Pa; mole fractions of water, of other polar components, of hydrogen
    and helium, of carbon dioxide and of heavy ends; names of the other polar ones, and of those whose polynomial of
    alpha rises again below the highest temperature, by equation; whether liquid can form; the ideal gas's largest
    error in volume, percent; the largest acentric factor."""

    T: tuple[float, float]
    P: tuple[float, float]
    water: float
    polar: float
    sticky: tuple[str, ...]
    light: float
    co2: float
    heavy: float
    condenses: bool
    ideal_error: float
    omega: float
    near_critical: bool
    alone: bool
    reference: str = ""
    rising: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


@dataclass(frozen=True)
class Advice:
    """An equation's verdict ("fits", "with care", "unfit") with its reasons, best first."""

    eos: str
    verdict: str
    score: float
    reasons: tuple[Remark, ...]


def gather(model: FluidModel, T: tuple[float, float], P: tuple[float, float]) -> Facts:
    """Return the facts of a fluid over ranges of T K and P Pa."""
    components, z = model.components, model.z

    def share(test: Callable[[Component], bool]) -> float:
        return float(sum(a for c, a in zip(components, z) if test(c)))

    omega, Tc, Pc = (np.array([getattr(c, k) for c in components]) for k in ("omega", "Tc", "Pc"))
    pseudo = float(z @ Tc)
    cubic = CubicEos(FORMS["PR78"], Tc, Pc, omega, np.zeros((z.size, z.size)))
    corners = np.array([(t, p) for t in T for p in P])
    Z = cubic.prepare(*corners.T).ln_phi(np.tile(z, (4, 1)))[1]
    real = model.substance.shifts.at(corners[:, 0]) @ z * corners[:, 1] / (R * corners[:, 0])
    return Facts(
        T=T,
        P=P,
        water=share(lambda c: c.name == WATER),
        polar=share(lambda c: c.name in POLAR),
        sticky=tuple(c.name for c in components if c.name in POLAR),
        light=share(lambda c: c.name in QUANTUM),
        co2=share(lambda c: c.name == "carbon dioxide"),
        heavy=share(lambda c: c.nbp > HEAVY_NBP),
        condenses=bool(T[0] < Tc.max() and P[1] > 1e-3 * Pc.min()),
        ideal_error=float(100.0 * np.abs(1.0 / (Z - real) - 1.0).max()),
        omega=float(omega.max()),
        near_critical=bool(T[0] * (1 - NEAR) < pseudo < T[1] * (1 + NEAR) and P[1] > 0.7 * float(z @ Pc)),
        alone=z.size == 1,
        reference=components[0].name if z.size == 1 and components[0].name in REFERENCE_FLUIDS else "",
        rising={name: rising(components, name, T[1]) for name in ("PR78", "PR76", "SRK")},
    )


def rising(components: Sequence[Component], name: str, T: float) -> tuple[str, ...]:
    """Return the components whose own alpha function, by the equation called ``name``, rises with temperature at T K:
    beyond (1 + 1/kappa)^2 Tc, where it has passed zero, or above Tc where kappa is below zero (helium)."""
    if name not in FORMS:
        return ()
    omega, Tc = (np.array([getattr(c, k) for c in components]) for k in ("omega", "Tc"))
    own = FORMS[name].own_alpha(omega)
    if not isinstance(own, Soave):
        return ()
    with np.errstate(divide="ignore"):
        turn = np.where(own.kappa > 0.0, (1.0 + 1.0 / own.kappa) ** 2, 1.0) * Tc
    return tuple(c.name for c, at in zip(components, turn) if at < T)


Reason = tuple[float, str, dict[str, Value]]


def _shared(f: Facts, name: str) -> list[Reason]:
    """What holds for every cubic that describes liquid and vapour."""
    out: list[Reason] = []
    if f.water > 0.0 and not (f.alone and f.water == 1.0):
        out.append((-0.1, "advice.water_cubic", {}))
    if f.heavy > 0.0:
        out.append(
            (-0.1 - 0.3 * min(f.heavy, 0.5), "advice.heavy_cubic", {"share": 100 * f.heavy, "T": kelvin(HEAVY_NBP, 0)})
        )
    if f.polar > 0.0:
        out.append((-0.6 if f.polar > 0.02 else -0.2, "advice.polar_cubic", {"names": f.sticky}))
    if f.rising.get(name):
        out.append((-0.1, "advice.alpha_rises", {"names": f.rising[name], "T": kelvin(f.T[1], 0)}))
    if f.T[0] < CRYOGENIC:
        out.append((-0.1, "advice.cryogenic", {"T": kelvin(f.T[0])}))
    if f.P[0] < VACUUM:
        out.append((-0.1, "advice.vacuum", {"P": pascal(f.P[0])}))
    if f.near_critical:
        out.append((-0.1, "advice.near_cubic", {}))
    return out


def _ideal(f: Facts) -> list[Reason]:
    out: list[Reason] = [(-1.5, "advice.ideal_liquid", {})] if f.condenses else []
    weight = -1.0 if f.ideal_error > 5.0 else -0.4 if f.ideal_error > 1.0 else 0.3
    if f.ideal_error > 200.0:
        return [*out, (weight, "advice.ideal_times", {"times": 1.0 + f.ideal_error / 100.0, "P": pascal(f.P[1])})]
    return [*out, (weight, "advice.ideal_error", {"percent": f.ideal_error, "P": pascal(f.P[1])})]


def _vdw(_f: Facts) -> list[Reason]:
    return [(-1.6, "advice.vdw", {})]


def _rk(f: Facts) -> list[Reason]:
    return [(-1.2, "advice.rk_liquid", {})] if f.condenses else [(-0.3, "advice.rk_gas", {})]


def _srk(f: Facts) -> list[Reason]:
    out: list[Reason] = [(0.4, "advice.srk", {}), (-0.15, "advice.srk_density", {})]
    if f.light > 0.05:
        out.append((0.1, "advice.srk_hydrogen", {}))
    return out + _shared(f, "SRK")


def _pr(f: Facts, name: str = "PR78") -> list[Reason]:
    out: list[Reason] = [(0.5, "advice.pr", {})]
    if f.co2 > 0.3:
        out.append((0.1, "advice.carbon_dioxide", {"share": 100 * f.co2}))
    return out + _shared(f, name)


def _pr76(f: Facts) -> list[Reason]:
    if f.omega > 0.49:
        return [*_pr(f, "PR76"), (-0.25, "advice.older_heavy", {"omega": f.omega})]
    return [*_pr(f, "PR76"), (-0.05, "advice.older_light", {})]


def _pr78(f: Facts) -> list[Reason]:
    return [*_pr(f), (0.1, "advice.newer_heavy", {})] if f.omega > 0.49 else _pr(f)


def _saft(f: Facts) -> list[Reason]:
    out: list[Reason] = [(0.35, "advice.saft", {})]
    if f.heavy > 0.0:
        out.append((0.1 + 0.4 * min(f.heavy, 0.5), "advice.saft_heavy", {"share": 100 * f.heavy}))
    if f.polar + f.water > 0.0:
        names = ((WATER,) if f.water > 0.0 else ()) + f.sticky
        out.append((-1.5, "advice.saft_polar", {"names": names}))
    if f.near_critical:
        out.append((-0.3, "advice.saft_near", {}))
    if f.light > 0.2:
        out.append((-0.2, "advice.saft_quantum", {"share": 100 * f.light}))
    out.append((-0.05, "advice.saft_slow", {}))
    return out


def _bonds(f: Facts) -> list[Reason]:
    if f.polar + f.water == 0.0:
        return [(0.3, "advice.bonds_none", {}), *_shared(f, "SRK")]
    out: list[Reason] = [(0.4, "advice.srk", {}), (-0.15, "advice.srk_density", {})]
    if f.polar > 0.0:
        out.append((0.5 if f.polar > 0.02 else 0.3, "advice.bonds_polar", {"names": f.sticky}))
    if f.water > 0.0:
        out.append((0.15, "advice.bonds_water", {"low": kelvin(273.15, 0), "high": kelvin(473.15, 0)}))
    quiet = ("advice.water_cubic", "advice.polar_cubic")
    return out + [r for r in _shared(f, "SRK") if r[1] not in quiet] + [(-0.05, "advice.bonds_slow", {})]


def _pure_fluid(f: Facts) -> list[Reason]:
    if f.reference:
        return [(1.5, "advice.pure_fluid", {"name": f.reference})]
    return [(-2.0, "advice.no_pure_fluid", {})]


def _unjudged(f: Facts) -> list[Reason]:
    """Return the advice about an equation that nothing is known of here."""
    return [(0.0, "advice.unjudged", {})]


_RULES: dict[str, Callable[[Facts], list[Reason]]] = {
    "PR78": _pr78, "PR76": _pr76, "SRK": _srk, SAFT: _saft, BONDS: _bonds, "RK": _rk, "VDW": _vdw, "ideal": _ideal, PURE_FLUID: _pure_fluid,
}  # fmt: skip


def advise(facts: Facts) -> list[Advice]:
    """Return every equation's advice, the best first."""
    out = []
    for name in EQUATIONS:
        found = sorted(_RULES.get(name, _unjudged)(facts), key=lambda r: -abs(r[0]))
        score = sum(weight for weight, _, _ in found)
        verdict = "fits" if score >= 0.2 else "with care" if score > -0.7 else "unfit"
        reasons = tuple(Remark("estimate", code, "", values) for _, code, values in found)
        out.append(Advice(name, verdict, score, reasons))
    return sorted(out, key=lambda a: -a.score)
