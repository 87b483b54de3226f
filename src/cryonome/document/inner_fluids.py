"""What a fluid is made of, however deep: the fluids inside it, and the samples."""

from __future__ import annotations

from .field_types import FLUIDS
from .model import Document, Fluid
from .references import names_of

DEEPEST = 30
"""Fluids that may stand inside one another."""


def _direct(fluid: Fluid) -> set[str]:
    """Return the names of the fluids a fluid is made of itself."""
    direct = {p.fluid for p in fluid.parts if p.fluid is not None}
    if fluid.recombination is not None:
        direct |= {fluid.recombination.liquid, fluid.recombination.gas}
    if fluid.detail is not None:
        direct.add(fluid.detail.fluid)
    return direct


def too_deep(fluid: Fluid, document: Document) -> bool:
    known = {f.name: f for f in document.every_fluid}
    level = [fluid]
    for _ in range(DEEPEST):
        names = {name for f in level for name in _direct(f)}
        level = [known[name] for name in names if name in known]
        if not level:
            return False
    return True


def inner_names(fluid: Fluid, document: Document) -> set[str]:
    """Return the names of all fluids a fluid is made of, however deep."""
    known = {f.name: f for f in document.every_fluid}
    out: set[str] = set()
    waiting = [fluid]
    while waiting:
        one = waiting.pop()
        direct = _direct(one)
        if one.made_by is not None:
            study = document.study(one.made_by.study)
            direct |= set(names_of(study, FLUIDS)) - {fluid.name} if study is not None else set()
        for name in direct - out:
            out.add(name)
            if name in known:
                waiting.append(known[name])
    return out


def used_samples(fluid: Fluid, document: Document) -> list[str]:
    """Return the names of the samples a fluid is made of, however deep, in the document's order."""
    inside = [document.fluid(n) for n in inner_names(fluid, document)]
    used = {p.sample for f in (fluid, *inside) if f is not None for p in f.parts if p.sample is not None}
    return [s.name for s in document.samples if s.name in used]
