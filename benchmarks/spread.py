"""How long samples take, and many documents on one process and on two: ``./run bench spread``."""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import json
import time
from collections.abc import Iterable
from typing import Any

import cryonome
from cryonome.demo import demo_document
from cryonome.document import Document, parse_document
from cryonome.questions import solve
from cryonome.sharing import Workers
from run import say

CRUDE, GAS = "Varnholt stock-tank oil", "Selden gas"
ASKED: list[tuple[str, dict[str, Any], dict[str, Any], str]] = [
    ("300 envelopes of 30 cuts, from the lab data on", {"kind": "envelope", "fluid": CRUDE}, {"samples": 300}, "goal 10 s"),
    ("300 envelopes of 10 components, from their amounts on", {"kind": "envelope", "fluid": GAS}, {"samples": 300}, ""),
    ("300 hydrate limits", {"kind": "hydrate", "fluid": GAS, "pressures": ["80 bar"]}, {"samples": 300}, "goal 3 s"),
    ("1000 vapour pressures of a gas", {"kind": "vapour_pressure", "fluid": GAS, "temperature": "-120 degC"}, {"samples": 1000, "read": ["TVP_Pa"]}, "goal 2 s"),
    ("1000 vapour pressures of a crude, from the lab data on", {"kind": "vapour_pressure", "fluid": CRUDE}, {"samples": 1000, "read": ["TVP_Pa"]}, ""),
]  # fmt: skip


def project(studies: Iterable[dict[str, Any]]) -> Document:
    """Return the demo project with questions of its own."""
    data = json.loads(demo_document().model_dump_json(by_alias=True))
    return parse_document(json.dumps({**data, "studies": list(studies), "values": []}))


def samples() -> None:
    """Time spreads, each with all that it takes."""
    for title, study, spread, goal in ASKED:
        document = project([{"name": "Q", **study}, {"name": "S", "kind": "spread", "of": "Q", **spread}])
        start = time.perf_counter()
        answer = solve(document, ["S"])["answers"]["S"]
        say(title, f"{time.perf_counter() - start:.1f} s" if answer["ok"] else answer["error"], goal)


def documents(count: int = 48) -> None:
    """Time documents on this process, on one of its own, and on two."""
    given = []
    for k in range(count):
        data = json.loads(project([{"name": "E", "kind": "envelope", "fluid": CRUDE}]).model_dump_json(by_alias=True))
        data["samples"][0]["bulk"]["density"] = f"{33.0 + 0.01 * k} degAPI"
        given.append(data)
    list(cryonome.solve_many(given[:2]))
    took = {}
    for jobs in (0, 1, 2):
        if jobs:
            with Workers(jobs) as pool:
                list(cryonome.solve_many(given[:jobs], pool))
                start = time.perf_counter()
                list(cryonome.solve_many(given, pool))
                took[jobs] = time.perf_counter() - start
        else:
            start = time.perf_counter()
            list(cryonome.solve_many(given))
            took[jobs] = time.perf_counter() - start
    say(f"{count} documents with an envelope, here", f"{took[0]:.1f} s")
    say("  on one process, on two", f"{took[1]:.1f} s, {took[2]:.1f} s: {took[1] / took[2]:.2f} times as quick")


if __name__ == "__main__":
    samples()
    documents()
