"""Streams of small fluids for the tests of steps and pipes."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

import cryonome.questions  # noqa: F401  # gives the document its kinds
from cryonome.document import Document
from cryonome.process import Medium, Step, Stream
from cryonome.results.evaluator import Evaluator

GAS = (
    ("nitrogen", 1.0),
    ("carbon dioxide", 2.0),
    ("methane", 85.0),
    ("ethane", 7.0),
    ("propane", 3.0),
    ("n-butane", 1.5),
    ("n-hexane", 0.5),
)
WET = (*GAS, ("water", 0.4))


def chain_document(parts: tuple[tuple[str, float], ...], eos: str = "PR78", **study: Any) -> Document:
    """Return a document of one fluid, and one question where its fields are given."""
    fluid = {"name": "F", "parts": [{"component": c, "amount": a} for c, a in parts], "model": {"eos": eos}}
    studies = [{"name": "Q", "kind": "process", **study}] if study else []
    return Document.model_validate({"format": "cryonome/1", "fluids": [fluid], "studies": studies})


@cache
def medium(parts: tuple[tuple[str, float], ...] = GAS, eos: str = "PR78") -> Medium:
    """Return what streams of a fluid are made of."""
    document = chain_document(parts, eos)
    model = Evaluator().at(document).fluid(document.fluids[0])
    return Medium(model.eos, model.substance, model.water)


def stream(m: Medium, parts: tuple[tuple[str, float], ...], T: Any, P: Any, flow: float = 1.0) -> Stream:
    """Return a stream of a fluid at T K and P Pa, one or many."""
    T, P = np.broadcast_arrays(np.atleast_1d(np.asarray(T, float)), np.atleast_1d(np.asarray(P, float)))
    z = np.array([a for _, a in parts])
    return m.at(T, P, np.tile(z / z.sum(), (T.size, 1)), np.full(T.size, flow))


def step(name: str, kind: str, takes: str, gives: str, *outlets: str, words: Any = None, **numbers: Any) -> Step:
    """Return a step between streams named with blanks between."""
    values = {k.replace("share_", "share "): np.asarray(v, float) for k, v in numbers.items()}
    return Step(name, kind, tuple(takes.split()), tuple(gives.split()), words or {}, values, tuple(outlets))
