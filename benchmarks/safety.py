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
from cryonome.solids.inhibitors import INHIBITORS, SALTS, most
from cryonome.studies import solve

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
            if not there or abs(there[0]["temperature_K"] - q["temperature_K"]) > 1e-3:
                wrong.append(f"{number}: {own} {about}: back {q['structure']} {q['temperature_K']} {q['pressure_Pa']}")
    say(f"branches: {tried} limits of {count} fluids, {several} with several pressures, {len(wrong)} wrong")
    return wrong


CHECKS: dict[str, tuple[Callable[[int, np.random.Generator], list[str]], int]] = {
    "doses": (doses, 500), "steps": (steps, 3), "branches": (branches, 300),
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
