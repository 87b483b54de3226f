"""The document as one part of it may know it: what it depends on as it is, and of all else an empty shell in its
place."""

from __future__ import annotations

from functools import cache, lru_cache

from pydantic import BaseModel

from .model import Document, Fluid, Sample, Study
from .references import Reached

Outline = tuple[tuple[tuple[str, ...], ...], ...]


def outline(document: Document) -> Outline:
    """Return names, identities and kinds of everything there is: what references are looked up in, and what refusals
    tell."""
    return (
        tuple((s.name, s.id) for s in document.samples),
        tuple((f.name, f.id, *(p.id for p in f.parts if p.id)) for f in document.fluids),
        tuple((s.name, s.kind) for s in document.studies),
        tuple((v.name, v.expression, v.unit) for v in document.values),
    )


@lru_cache(4096)
def _sample(name: str, key: str) -> Sample:
    return Sample(name=name, id=key)


@lru_cache(4096)
def _fluid(name: str, key: str) -> Fluid:
    return Fluid(name=name, id=key)


@lru_cache(4096)
def _study(name: str, kind: str) -> Study:
    return Study(name=name, kind=kind)


@cache
def _nothing() -> Document:
    return Document()


def narrowed(document: Document, part: BaseModel, reached: Reached, names: bool = True) -> Document:
    """Return a document of the same parts in the same places where only ``part`` and what it has ``reached`` are
    whole; the others keep their ``names`` and identities, or nothing at all."""
    kept = {id(p) for p in (*reached.parts, part)}

    def told(name: str) -> str:
        return name if names else ""

    parts = {
        "samples": tuple(s if id(s) in kept else _sample(told(s.name), told(s.id)) for s in document.samples),
        "fluids": tuple(f if id(f) in kept else _fluid(told(f.name), told(f.id)) for f in document.fluids),
        "studies": tuple(s if id(s) in kept else _study(told(s.name), s.kind) for s in document.studies),
    }
    if names:
        parts["values"] = document.values
    # Every part has been validated where it came from.
    return _nothing().model_copy(update=parts)
