"""Changes to a document: pure functions from a document to the next one."""

from __future__ import annotations

from collections.abc import Callable

from .model import Document, Fluid, FluidPart, Pin, Sample


def free_name(document: Document, wanted: str) -> str:
    """Return ``wanted``, or with the first number that makes it unused among samples and fluids."""
    taken = {s.name for s in document.samples} | {f.name for f in document.fluids}
    if wanted not in taken:
        return wanted
    number = 2
    while f"{wanted} {number}" in taken:
        number += 1
    return f"{wanted} {number}"


def update_sample(document: Document, name: str, change: Callable[[Sample], Sample]) -> Document:
    """Return the document with the sample of that name changed."""
    samples = tuple(change(s) if s.name == name else s for s in document.samples)
    return document.model_copy(update={"samples": samples})


def update_fluid(document: Document, name: str, change: Callable[[Fluid], Fluid]) -> Document:
    """Return the document with the fluid of that name changed."""
    fluids = tuple(change(f) if f.name == name else f for f in document.fluids)
    return document.model_copy(update={"fluids": fluids})


def add_sample(document: Document, sample: Sample) -> Document:
    """Return the document with a sample added at the end."""
    return document.model_copy(update={"samples": (*document.samples, sample)})


def add_fluid(document: Document, fluid: Fluid) -> Document:
    """Return the document with a fluid added at the end."""
    return document.model_copy(update={"fluids": (*document.fluids, fluid)})


def remove_sample(document: Document, name: str) -> Document:
    """Return the document without the sample; parts of fluids and studies that name it go with it."""
    fluids = tuple(
        f.model_copy(update={"parts": tuple(p for p in f.parts if p.sample != name)}) for f in document.fluids
    )
    studies = tuple(s for s in document.studies if getattr(s, "sample", None) != name)
    samples = tuple(s for s in document.samples if s.name != name)
    return document.model_copy(update={"samples": samples, "fluids": fluids, "studies": studies})


def remove_fluid(document: Document, name: str) -> Document:
    """Return the document without the fluid; parts of others and studies that name it go with it.

    A recombination loses its stream's name, and says so as a fault.
    """
    studies = tuple(s for s in document.studies if getattr(s, "fluid", None) != name)
    fluids = tuple(_without(f, name) for f in document.fluids if f.name != name)
    pins = tuple(p for p in document.pins if p.fluid != name)
    return document.model_copy(update={"fluids": fluids, "studies": studies, "pins": pins})


def _without(fluid: Fluid, name: str) -> Fluid:
    parts = tuple(p for p in fluid.parts if p.fluid != name)
    return fluid if len(parts) == len(fluid.parts) else fluid.model_copy(update={"parts": parts})


def rename_sample(document: Document, old: str, new: str) -> Document:
    """Return the document with the sample renamed wherever it is named."""
    document = update_sample(document, old, lambda s: s.model_copy(update={"name": new}))

    def part(p: FluidPart) -> FluidPart:
        return p.model_copy(update={"sample": new}) if p.sample == old else p

    def cut(name: str) -> str:
        # A pair may name a cut, whose name begins with its sample's.
        return new + name[len(old) :] if name.startswith(f"{old} ") else name

    def fluid(f: Fluid) -> Fluid:
        pairs = tuple((cut(a), cut(b), k) for a, b, k in f.model.kij_pairs)
        model = f.model.model_copy(update={"kij_pairs": pairs})
        return f.model_copy(update={"parts": tuple(part(p) for p in f.parts), "model": model})

    fluids = tuple(fluid(f) for f in document.fluids)
    studies = tuple(
        s.model_copy(update={"sample": new}) if getattr(s, "sample", None) == old else s for s in document.studies
    )
    return document.model_copy(update={"fluids": fluids, "studies": studies})


def rename_fluid(document: Document, old: str, new: str) -> Document:
    """Return the document with the fluid renamed wherever it is named."""
    document = update_fluid(document, old, lambda f: f.model_copy(update={"name": new}))

    def inner(f: Fluid) -> Fluid:
        parts = tuple(p.model_copy(update={"fluid": new}) if p.fluid == old else p for p in f.parts)
        made = f.recombination
        if made is not None:
            names = {k: new for k in ("liquid", "gas") if getattr(made, k) == old}
            made = made.model_copy(update=names)
        return f.model_copy(update={"parts": parts, "recombination": made})

    document = document.model_copy(update={"fluids": tuple(inner(f) for f in document.fluids)})
    studies = tuple(
        s.model_copy(update={"fluid": new}) if getattr(s, "fluid", None) == old else s for s in document.studies
    )
    pins = tuple(p.model_copy(update={"fluid": new}) if p.fluid == old else p for p in document.pins)
    return document.model_copy(update={"studies": studies, "pins": pins})


def add_pin(document: Document, pin: Pin) -> Document:
    """Return the document with a pin added, its name made unique."""
    names = {p.name for p in document.pins}
    name, number = pin.name, 2
    while name in names:
        name, number = f"{pin.name} {number}", number + 1
    return document.model_copy(update={"pins": (*document.pins, pin.model_copy(update={"name": name}))})


def remove_pin(document: Document, name: str) -> Document:
    """Return the document without the pin."""
    return document.model_copy(update={"pins": tuple(p for p in document.pins if p.name != name)})


def clean_points(rows: list[tuple[object, object]]) -> tuple[tuple[object, object], ...]:
    """Return grid rows without the empty ones at the end."""
    rows = list(rows)
    while rows and rows[-1][0] in (None, "") and rows[-1][1] in (None, ""):
        rows.pop()
    return tuple(rows)
