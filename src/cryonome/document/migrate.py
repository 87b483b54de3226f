"""Older documents brought to today's shape, before they are validated.

Keys are only ever added to the format, so old files open as they are; what moved is moved here, step by step.
Identities that an old file does not have yet are made by :func:`with_ids`."""

from __future__ import annotations

import re
from typing import Any

from .model import EDITION, Document, Fluid


def migrated(data: dict[str, Any]) -> dict[str, Any]:
    """Return the object of a document in today's shape; ``data`` itself is left alone."""
    if isinstance(data.get("pins"), list):
        data = _pins_to_studies(data)
    if "edition" not in data:
        data = {**data, "edition": EDITION}
        for key in ("fluids", "ghosts"):
            if isinstance(data.get(key), list):
                data[key] = [_smooth_where_tuned(f) for f in data[key]]
    return data


def changed_numbers(data: dict[str, Any]) -> str:
    """Return the sentence that tells what an older document's numbers do now, "" where it is none or nothing
    changes."""
    fluids = [f for f in data.get("fluids") or () if isinstance(f, dict)]
    if "edition" in data or not any(f.get("id") for f in fluids):
        return ""
    kept = [str(f.get("name")) for f in fluids if _smooth_where_tuned(f) != f]
    moved = len(kept) < len(fluids)
    told = []
    if moved:
        told.append("above their critical temperature components now follow the equation's published alpha function")
    if kept:
        told.append(f"{', '.join(kept[:3])}{' and others' if len(kept) > 3 else ''}, tuned before, kept the smooth one")
    return "Saved by an earlier version: " + "; ".join(told)


def _smooth_where_tuned(fluid: Any) -> Any:
    """A fluid that was tuned before edition 2 keeps the alpha function it was tuned with; one written by hand has no
    identity and means what it says."""
    if not isinstance(fluid, dict):
        return fluid
    if isinstance(fluid.get("fluid"), dict):
        return {**fluid, "fluid": _smooth_where_tuned(fluid["fluid"])}
    model = fluid.get("model", {})
    if (
        not isinstance(model, dict)
        or not fluid.get("id")
        or not (model.get("tuned") or fluid.get("variants"))
        or model.get("alpha", "own") != "own"
    ):
        return fluid
    return {**fluid, "model": {"viscosity": "corresponding-states", **model, "alpha": "smooth"}}


def _pins_to_studies(data: dict[str, Any]) -> dict[str, Any]:
    """Pinned states became flash studies, pinned envelopes ghosts (0.3)."""
    out = {k: v for k, v in data.items() if k != "pins"}
    studies = list(out.get("studies") or ())
    ghosts = list(out.get("ghosts") or ())
    taken = {s.get("name") for s in studies if isinstance(s, dict)}
    for pin in data["pins"]:
        if not isinstance(pin, dict):
            continue
        if pin.get("frozen_fluid") is not None:
            ghost = {"name": pin.get("name"), "fluid": pin["frozen_fluid"], "samples": pin.get("frozen_samples", [])}
            ghosts.append(ghost)
            continue
        name, number = pin.get("name"), 2
        while name in taken:
            name, number = f"{pin.get('name')} {number}", number + 1
        taken.add(name)
        kept = {k: pin[k] for k in ("fluid", "temperature", "pressure") if k in pin}
        studies.append({"name": name, "kind": "flash", **kept})
    return {**out, "studies": studies, "ghosts": ghosts}


def slug(name: str) -> str:
    """Return a name as a short identity: letters, digits and hyphens."""
    return re.sub(r"[^a-z0-9]+", "-", name.casefold()).strip("-")[:40] or "x"


def _free(wanted: str, taken: set[str]) -> str:
    found, number = wanted, 2
    while found in taken:
        found, number = f"{wanted}-{number}", number + 1
    taken.add(found)
    return found


def with_ids(document: Document) -> Document:
    """Return the document with an identity for every sample, fluid and hand-made part that has none yet."""
    taken = {s.id for s in document.samples} | {f.id for f in document.fluids}
    taken |= {p.id for f in document.fluids for p in f.parts}
    samples = tuple(s if s.id else s.model_copy(update={"id": _free(slug(s.name), taken)}) for s in document.samples)
    fluids = tuple(_fluid_with_ids(f, taken) for f in document.fluids)
    if samples == document.samples and fluids == document.fluids:
        return document
    return document.model_copy(update={"samples": samples, "fluids": fluids})


def _fluid_with_ids(fluid: Fluid, taken: set[str]) -> Fluid:
    parts = []
    for part in fluid.parts:
        inner = part.pseudo or part.series
        made = inner is not None and not part.id
        parts.append(part.model_copy(update={"id": _free(slug(inner.name), taken)}) if made and inner else part)
    update: dict[str, Any] = {} if tuple(parts) == fluid.parts else {"parts": tuple(parts)}
    if not fluid.id:
        update["id"] = _free(slug(fluid.name), taken)
    return fluid.model_copy(update=update) if update else fluid
