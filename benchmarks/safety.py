"""Limits and states put back into the question they came from: random fluids, each answer checked by another way.

``./run bench safety [doses|steps|branches|...] [COUNT] [SEED]`` prints how many were tried and which were on the wrong side.
"""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from cryonome.document import parse_document
from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.phases import Kind, Phases, Reason
from cryonome.fluids.building import FluidModel
from cryonome.questions import solve
from cryonome.results import Evaluator
from cryonome.solids.inhibitors import INHIBITORS, SALTS, most

NAMES = {
    "methane": 3.0, "ethane": 1.0, "propane": 1.0, "isobutane": 0.5, "n-butane": 0.5, "carbon dioxide": 1.0, "hydrogen sulfide": 0.7,
    "nitrogen": 0.6, "n-pentane": 0.3, "isopentane": 0.2, "n-hexane": 0.3, "n-heptane": 0.3, "n-decane": 0.3, "methylcyclohexane": 0.1,
}  # fmt: skip
"""Components of random fluids and how often they are taken."""


def say(text: str) -> None:
    """Print a line at once."""
    sys.stdout.write(text + "\n")
    sys.stdout.flush()


def fluid(rng: np.random.Generator, salt: bool = True) -> dict[str, Any]:
    """Return a random fluid, with water and its own salt at times."""
    share = np.array(list(NAMES.values()))
    chosen = rng.choice(list(NAMES), int(rng.integers(1, 7)), replace=False, p=share / share.sum())
    parts = [
        {"component": str(n), "amount": float(rng.exponential()) * (20.0 if n == "methane" and rng.random() < 0.6 else 1.0)}
        for n in chosen
    ]  # fmt: skip
    out: dict[str, Any] = {"name": "F", "parts": parts}
    if salt and rng.random() < 0.5:
        parts.append({"component": "water", "amount": float(rng.uniform(0.0, 30.0))})
        out["model"] = {"salinity": f"{rng.uniform(0.0, 20.0):.3g} %"}
    return out


def answers(own: dict[str, Any], *studies: dict[str, Any]) -> dict[str, Any]:
    """Return the answers of questions about one fluid."""
    asked = [{"name": str(i), "fluid": "F", **s} for i, s in enumerate(studies)]
    document = parse_document(json.dumps({"format": "cryonome/1", "fluids": [own], "studies": asked}))
    return list(solve(document)["answers"].values())


def doses(count: int, rng: np.random.Generator) -> list[str]:
    """Put doses back into the hydrate question: where hydrates begin with them is the temperature that was asked."""
    wrong, tried, worst = [], 0, 0.0
    every = [*INHIBITORS, *SALTS]
    for number in range(count):
        own = fluid(rng)
        T, P = float(rng.uniform(265.0, 293.0)), float(np.exp(rng.uniform(np.log(5e5), np.log(3e7))))
        name = str(rng.choice(every))
        beside = {}
        if rng.random() < 0.4:
            other = str(rng.choice([n for n in every if n != name]))
            beside[other] = f"{100 * rng.uniform(0.01, 0.5) * most(other):.3g} wt%"
        margin = float(rng.choice([0.0, 2.0]))
        asked = {"temperature": T, "pressure": P, "inhibitor": name, "inhibitors": beside, "margin": margin}
        (dose,) = answers(own, {"kind": "inhibitor_dose", **asked})
        if not dose["ok"]:
            if "as far as its activities" not in dose["error"] and "forms a hydrate" not in dose["error"]:
                wrong.append(f"{number}: {own} {asked}: {dose['error']}")
            continue
        share = dose["aqueous_mass_percent"]
        held = {**beside, **({name: f"{share!r} wt%"} if share else {})}
        (back,) = answers(own, {"kind": "hydrate", "pressures": [P], "inhibitors": held})
        if not back["ok"]:
            if share:
                wrong.append(f"{number}: {own} {asked} {share}: {back['error']}")
            continue
        limit = max(p["temperature_K"] for p in back["points"])
        tried += 1
        off = limit - (T - margin)
        if share:
            worst = max(worst, abs(off))
        if off > 1e-4 or (share and abs(off) > 0.02):
            wrong.append(f"{number}: {own} {asked} {share}: {off:+.3f} K")
    say(f"doses: {tried} of {count} put back, worst {worst:.2g} K, {len(wrong)} wrong")
    return wrong


def steps(count: int, rng: np.random.Generator) -> list[str]:
    """Ask for hydrates with every inhibitor in steps of one percent: each answers, and the limit falls steadily."""
    wrong, tried = [], 0
    for number in range(count):
        own = fluid(rng, False) if number else {
            "name": "F", "parts": [{"component": "methane", "amount": 90.0}, {"component": "ethane", "amount": 5.0}, {"component": "propane", "amount": 5.0}]
        }  # fmt: skip
        for name in (*INHIBITORS, *SALTS):
            shares = np.arange(0.0, 100.0 * most(name) + 1e-9, 1.0)
            asked = [{"kind": "hydrate", "pressures": ["100 bar"], "inhibitors": {name: f"{w} wt%"}} for w in shares]
            found = answers(own, *asked)
            T = np.array([max(p["temperature_K"] for p in a["points"]) if a["ok"] else np.nan for a in found])
            for w, a in zip(shares, found):
                if not a["ok"] and "no hydrate forms" not in a["error"].lower() and "forms a hydrate" not in a["error"]:
                    wrong.append(f"{number}: {own} {name} {w}: {a['error']}")
            there = np.isfinite(T)
            tried += int(there.sum())
            if there.any() and not there[: int(np.flatnonzero(there)[-1]) + 1].all():
                wrong.append(f"{number}: {own} {name}: no limit among limits")
            if (np.diff(T[there]) >= 0.0).any():
                wrong.append(f"{number}: {own} {name}: the limit rises")
    say(f"steps: {tried} limits of {count} fluids, {len(wrong)} wrong")
    return wrong


def branches(count: int, rng: np.random.Generator) -> list[str]:
    """Ask for hydrates by temperature and by pressure: each way finds what the other does."""
    wrong, tried, several = [], 0, 0
    for number in range(count):
        own = fluid(rng)
        held = {"methanol": f"{rng.uniform(0.0, 30.0):.3g} wt%"} if rng.random() < 0.5 else {}
        water = "as given" if rng.random() < 0.3 and any(p["component"] == "water" for p in own["parts"]) else "free"
        about = {"kind": "hydrate", "inhibitors": held, "water": water}
        P = np.exp(rng.uniform(np.log(2e5), np.log(5e7), 6))
        (by_P,) = answers(own, {**about, "pressures": P.tolist()})
        if not by_P["ok"]:
            if "forms" not in by_P["error"]:
                wrong.append(f"{number}: {own} {about}: {by_P['error']}")
            continue
        T = sorted({p["temperature_K"] for p in by_P["points"]})
        (by_T,) = answers(own, {**about, "temperatures": T})
        if not by_T["ok"]:
            wrong.append(f"{number}: {own} {about}: by temperature {by_T['error']}")
            continue
        for p in by_P["points"]:
            tried += 1
            there = [
                q
                for q in by_T["points"]
                if q["structure"] == p["structure"] and q["temperature_K"] == p["temperature_K"]
            ]
            several += len(there) > 1
            near = min((abs(np.log(q["pressure_Pa"] / p["pressure_Pa"])) for q in there), default=np.inf)
            if near > 1e-4:
                wrong.append(
                    f"{number}: {own} {about}: {p['structure']} {p['temperature_K']} {p['pressure_Pa']}: off by {near}"
                )
        back = [q["pressure_Pa"] for q in by_T["points"]]
        (again,) = answers(own, {**about, "pressures": sorted(set(back))})
        for q in by_T["points"]:
            there = [
                p
                for p in again.get("points", ())
                if p["structure"] == q["structure"] and p["pressure_Pa"] == q["pressure_Pa"]
            ]
            if min((abs(p["temperature_K"] - q["temperature_K"]) for p in there), default=np.inf) > 1e-3:
                wrong.append(f"{number}: {own} {about}: back {q['structure']} {q['temperature_K']} {q['pressure_Pa']}")
    say(f"branches: {tried} limits of {count} fluids, {several} with several pressures, {len(wrong)} wrong")
    return wrong


EQUATIONS = ("PR78", "PR76", "SRK", "RK", "VDW", "PC-SAFT")
WET = ("water", "methanol", "ethylene glycol")
MORE = ("hydrogen", "helium", "benzene", "toluene", "cyclohexane", "n-hexadecane", "n-tetracosane", "n-triacontane")


def mixture(rng: np.random.Generator, number: int, wet: bool = False) -> FluidModel:
    """Return a random mixture by one equation after the other, dry, wet or with heavy cuts."""
    every = [*NAMES, *MORE]
    chosen = [str(n) for n in rng.choice(every, int(rng.integers(2, 9)), replace=False)]
    if wet or rng.random() < 0.35:
        chosen += ["water", *([str(rng.choice(WET[1:]))] if rng.random() < 0.3 else [])]
    parts: list[dict[str, Any]] = [{"component": n, "amount": float(rng.exponential() ** 2 + 1e-4)} for n in chosen]
    for k in range(int(rng.integers(0, 4))):
        mass = float(rng.uniform(90.0, 500.0))
        density = float(np.clip(0.62 + 0.085 * np.log(mass / 70.0) + rng.normal() * 0.02, 0.6, 1.05))
        cut = {"name": f"cut{k}", "molar_mass": mass, "specific_gravity": density}
        parts.append({"pseudo": cut, "amount": float(rng.exponential())})
    model = {"eos": EQUATIONS[number % len(EQUATIONS)], "kij": str(rng.choice(["library", "zero"]))}
    text = json.dumps(
        {"format": "cryonome/1", "fluids": [{"name": "F", "parts": parts, "model": model}], "studies": []}
    )
    document = parse_document(text)
    return Evaluator().at(document).fluid(document.fluids[0])


def lowest(model: FluidModel, T: float, P: float, found: Phases, rng: np.random.Generator) -> float:
    """Return the lowest distance below the common tangent plane of a state's phases that plain substitution from many trials comes to."""
    there = np.flatnonzero(found.present[0])
    x = found.composition[0, there]
    own = model.eos.prepare(np.full(there.size, T), np.full(there.size, P))
    ln_f = np.log(np.maximum(x, 1e-300)) + own.ln_phi(x)[0]
    d = ln_f[np.argmax(x, axis=0), np.arange(x.shape[1])]
    z, nc = model.z, model.z.size
    ln_z = np.log(np.maximum(z, 1e-300))
    trials = [np.clip(d, -690.0, 5.0)]
    for i in range(nc):
        for rest in (0.5, 0.1, 1e-2, 1e-6):
            w = np.full(nc, rest / max(nc - 1, 1))
            w[i] = 1.0 - rest
            trials.append(np.log(w))
    trials += [ln_z + rng.normal(0.0, s, nc) for s in (0.3, 1.0, 3.0) for _ in range(8)]
    trials += [np.log(np.maximum(rng.dirichlet(np.full(nc, s)), 1e-200)) for s in (0.1, 0.3, 1.0) for _ in range(8)]
    ln_w = np.where(z > 0.0, np.array(trials), -690.0)
    state = model.eos.prepare(np.full(len(ln_w), T), np.full(len(ln_w), P))
    least = 0.0
    for _ in range(200):
        W = np.exp(ln_w)
        ln_phi = state.ln_phi(W / W.sum(axis=1, keepdims=True))[0]
        tm = 1.0 + (W * (ln_w + ln_phi - d - 1.0)).sum(axis=1)
        least = min(least, float(np.nanmin(tm)))
        new = np.clip(d - ln_phi, -690.0, 300.0)
        if np.nanmax(np.abs(new - ln_w)) < 1e-10:
            break
        ln_w = np.where(np.isfinite(new), new, ln_w)
    return least


def flashes(count: int, rng: np.random.Generator, wet: bool = False) -> list[str]:
    """Flash random states of 60 mixtures by all equations: none without phases, balances and equal fugacities, and of a twentieth no phase is missed by brute force."""
    wrong, each, refused, four, missed, tried = [], max(count // 60, 1), 0, 0, 0, 0
    seeds = rng.integers(0, 2**32, 60)
    for number in range(60):
        rng = np.random.default_rng(seeds[number])
        model = mixture(rng, number, wet)
        T = np.where(rng.random(each) < 0.5, rng.uniform(100.0, 330.0, each), rng.uniform(250.0, 700.0, each))
        P = np.exp(rng.uniform(np.log(1e2), np.log(6e7), each))
        if wet:
            T, P = rng.uniform(250.0, 450.0, each), np.exp(rng.uniform(np.log(5e4), np.log(5e7), each))
        found = flash_all(model.eos, T, P, model.z)
        name = f"{number} {EQUATIONS[number % len(EQUATIONS)]} {dict(zip(model.names, model.z.round(6).tolist()))}"
        refused += int((found.reason == Reason.NOT_CONVERGED).sum())
        four += int((found.reason == Reason.MORE_PHASES).sum())
        wrong += [
            f"{name}: no phases at {T[i]!r} K {P[i]!r} Pa" for i in np.flatnonzero(found.converged & (found.count == 0))
        ]
        wrong += [
            f"{name}: refused at {T[i]!r} K {P[i]!r} Pa" for i in np.flatnonzero(found.reason == Reason.NOT_CONVERGED)
        ]
        held = np.einsum("np,npi->ni", found.fraction, found.composition)
        off = np.abs(held - model.z).max(axis=1)
        wrong += [
            f"{name}: balance {off[i]:.1e} at {T[i]!r} K {P[i]!r} Pa"
            for i in np.flatnonzero(found.converged & (off > 1e-9))
        ]
        for i in rng.choice(each, max(each // 20, 1), replace=False):
            if not found.converged[i]:
                continue
            tried += 1
            with np.errstate(all="ignore"):
                tm = lowest(model, float(T[i]), float(P[i]), found.take(slice(i, i + 1)), rng)
            if tm < -1e-8:
                missed += 1
                wrong.append(f"{name}: a phase is missed by {tm:.2e} at {T[i]!r} K {P[i]!r} Pa, {found.count[i]} found")
    say(
        f"flashes: {60 * each} states, {refused} refused, {four} of four phases, {missed} of {tried} with a phase missed, {len(wrong)} wrong"
    )
    return wrong


def wet(count: int, rng: np.random.Generator) -> list[str]:
    """Flash random wet states."""
    return flashes(count, rng, True)


def _sample(rng: np.random.Generator, name: str, heavy: bool) -> dict[str, Any]:
    """Return a random crude or condensate by its TBP curve and density, its viscosity measured at two temperatures, one or none."""
    start, end = (300.0, rng.uniform(800.0, 950.0)) if heavy else (300.0, rng.uniform(560.0, 680.0))
    percent = np.array([0.0, 5.0, 10.0, 20.0, 30.0, 40.0, 50.0, 60.0, 70.0, 80.0, 90.0, 95.0])
    T = start + (end - start) * (percent / 95.0) ** rng.uniform(0.75, 1.1)
    density = rng.uniform(830.0, 930.0) if heavy else rng.uniform(730.0, 790.0)
    bulk: dict[str, Any] = {"density": f"{density:.4g} kg/m3"}
    kind = int(rng.integers(0, 3))
    if kind:
        v = float(np.exp(rng.uniform(np.log(3.0), np.log(120.0)))) if heavy else float(rng.uniform(0.6, 2.0))
        walther = np.log(np.log(v + 0.8)) - rng.uniform(3.2, 4.0) * np.log(323.15 / 310.93)
        hot = float(np.exp(np.exp(walther)) - 0.8)
        bulk["viscosity"] = [["37.78 degC", f"{v!r} cSt"], *([["50 degC", f"{hot!r} cSt"]] if kind == 2 else [])]
    points = [[float(p), float(t)] for p, t in zip(percent, T)]
    return {"name": name, "distillation": {"method": "TBP", "basis": "volume", "points": points}, "bulk": bulk}


def blends(count: int, rng: np.random.Generator) -> list[str]:
    """Blend pairs of samples, measured and not, at 11 shares: viscosities go one way, meet what was measured at the ends, and lie near ASTM D7152."""
    wrong, worst = [], 0.0
    for number in range(count):
        samples = [_sample(rng, "A", True), _sample(rng, "B", bool(rng.random() < 0.3))]
        shares = np.linspace(0.0, 100.0, 11)
        fluids = [
            {"name": f"{w:g}", "basis": "mass", "parts": [
                {"sample": n, "amount": float(a)} for n, a in (("A", w), ("B", 100.0 - w)) if a
            ]} for w in shares
        ]  # fmt: skip
        asked = [
            {"name": f"{w:g} at {t}", "kind": "flash", "fluid": f"{w:g}", "temperature": f"{t} degC", "pressure": "1 atm"}
            for w in shares for t in (20.0, 37.78, 50.0)
        ]  # fmt: skip
        text = json.dumps({"format": "cryonome/1", "samples": samples, "fluids": fluids, "studies": asked})
        found = solve(parse_document(text))["answers"]
        for t in (20.0, 37.78, 50.0):
            v = np.array([
                next(p["kinematic_viscosity_m2_s"] for p in found[f"{w:g} at {t}"]["phases"] if p["kind"] == "liquid") for w in shares
            ]) * 1e6  # fmt: skip
            steps = np.diff(v) * np.sign(v[-1] - v[0])
            # Alike to a hundredth they need not go one way.
            if (steps < 0.0).any() and abs(np.log(v[-1] / v[0])) > 0.02:
                wrong.append(f"{number}: {t} degC: {v.round(3).tolist()}")
            ends = np.log(np.log(v[[0, -1]] + 0.8))
            rule = np.exp(np.exp(ends[0] + shares / 100.0 * (ends[1] - ends[0]))) - 0.8
            off = float(np.abs(v / rule - 1.0).max())
            worst = max(worst, off)
            if off > 0.1:
                wrong.append(f"{number}: {t} degC: {off:.1%} off the rule: {v.round(3).tolist()}")
            if t == 37.78:
                for sample, own in zip(samples, (v[-1], v[0])):
                    measured = sample["bulk"].get("viscosity")
                    if measured and abs(own / float(measured[0][1].split()[0]) - 1.0) > 0.005:
                        wrong.append(f"{number}: {sample['name']} {own} for {measured[0][1]}")
    say(f"blends: {count} pairs at 11 shares and 3 temperatures, at most {worst:.1%} off the rule, {len(wrong)} wrong")
    return wrong


def envelopes(count: int, rng: np.random.Generator) -> list[str]:
    """Hold the told extremes of random envelopes against a grid of flashes: nothing of two phases lies beyond them but where a tail is told."""
    wrong, told, tails, none = [], 0, 0, 0
    for number in range(count):
        names = [str(n) for n in rng.choice([*NAMES, *MORE[2:]], int(rng.integers(2, 8)), replace=False)]
        parts = [
            {"component": n, "amount": float(rng.exponential() + 0.01) * (8.0 if n == "methane" else 1.0)}
            for n in names
        ]
        text = json.dumps({"format": "cryonome/1", "fluids": [{"name": "F", "parts": parts}], "studies": []})
        document = parse_document(text)
        model = Evaluator().at(document).fluid(document.fluids[0])
        whole = phase_map(model.eos, model.z)
        name = f"{number}: {dict(zip(model.names, model.z.round(5).tolist()))}"
        hot, bar = whole.cricondentherm, whole.cricondenbar
        codes = {r.code for r in whole.remarks}
        tails += "map.tail" in codes
        if hot is None or bar is None:
            none += 1
            if not codes & {"map.no_cricondentherm", "map.no_cricondenbar"}:
                wrong.append(f"{name}: an extreme is missing and not told")
            continue
        told += 1
        # Colder than the tail, or than another turn that is told, the lines go by themselves.
        ends = [
            line.T[int(np.argmax(line.P))]
            for line in whole.lines
            if len(line.u) and line.P.max() > bar.P * (1.0 + 1e-9)
        ]
        cold = max([0.45 * hot.T, *(t + 5.0 for t in ends)])
        T, P = (v.ravel() for v in np.meshgrid(np.linspace(cold, 1.03 * hot.T, 36), np.geomspace(1e4, 1.6 * bar.P, 36)))
        found = flash_all(model.eos, T, P, model.z)
        two = found.converged & (found.count > 1)
        # Two liquids without a vapour are no part of it.
        gassy = (found.kind == Kind.VAPOUR).any(axis=1)
        beyond = two & gassy & ((T > hot.T * 1.0005) | (P > bar.P * 1.005))
        wrong += [
            f"{name}: two phases at {T[i]:.2f} K {P[i] / 1e5:.2f} bar beyond {hot.T:.2f} K, {bar.P / 1e5:.2f} bar"
            for i in np.flatnonzero(beyond)[:2]
        ]
        # The extremes themselves are of two phases a hair inside.
        inside = flash_all(model.eos, [hot.T * 0.9995, bar.T], [hot.P, bar.P * 0.998], model.z)
        if not (inside.count > 1).all():
            wrong.append(f"{name}: an extreme lies outside: {hot.T:.2f} K {bar.P / 1e5:.2f} bar at {bar.T:.2f} K")
        if any(flash_all(model.eos, [c.T], [c.P], model.z).count[0] > 2 for c in whole.critical_points):
            wrong.append(f"{name}: a critical point among three phases")
    say(
        f"envelopes: {told} of {count} with both extremes, {none} told to have none, {tails} with a tail, {len(wrong)} wrong"
    )
    return wrong


CHECKS: dict[str, tuple[Callable[[int, np.random.Generator], list[str]], int]] = {
    "doses": (doses, 500), "steps": (steps, 3), "branches": (branches, 300), "flashes": (flashes, 20_000), "wet": (wet, 6_000), "blends": (blends, 50), "envelopes": (envelopes, 80),
}  # fmt: skip


def main(words: list[str]) -> None:
    """Run the checks that are named, or all."""
    names = [w for w in words if not w.isdigit()] or list(CHECKS)
    numbers = [int(w) for w in words if w.isdigit()]
    bad = 0
    for name in names:
        check, usual = CHECKS[name]
        start = time.perf_counter()
        wrong = check(numbers[0] if numbers else usual, np.random.default_rng(numbers[1] if len(numbers) > 1 else 0))
        for line in wrong[:20]:
            say("    " + line)
        bad += len(wrong)
        say(f"    {time.perf_counter() - start:.0f} s")
    sys.exit(bool(bad))


if __name__ == "__main__":
    main(sys.argv[1:])
