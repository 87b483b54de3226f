"""What a cell measures, by the marks of its field: what a bare number typed there means in the window."""

from __future__ import annotations

import types
from collections.abc import Mapping
from functools import cache
from typing import Annotated, Any, Union, get_args, get_origin, get_type_hints

from pydantic import BaseModel

from .cell_paths import NoPathError, resolved
from .faults import PathParts
from .field_types import STEP, OfKind
from .model import Document


@cache
def _hints(model: type[BaseModel]) -> dict[str, Any]:
    return get_type_hints(model, include_extras=True)


def _mark(hint: Any) -> str | None:
    """Return the kind a type is marked with, None where with none."""
    if get_origin(hint) is Annotated:
        inner, *marks = get_args(hint)
        return next((m.kind for m in marks if isinstance(m, OfKind)), _mark(inner))
    if get_origin(hint) in (Union, types.UnionType):
        return next((k for a in get_args(hint) if (k := _mark(a)) is not None), None)
    return None


def kind_at(part: Any, path: PathParts, document: Document) -> str | None:
    """Return the kind of quantity of a cell at a path below a part, "" for a plain number and None where that is not
    declared. What a part measures may hang on its own words (``cell_kind``): on its variable, or on the cell it
    varies."""
    kind: str | None = None
    for step in path:
        if isinstance(part, BaseModel):
            declared = _mark(_hints(type(part)).get(str(step)))
            own = (
                part.cell_kind(document)
                if hasattr(part, "cell_kind") and step in ("begin", "end", "values", "between", "target")
                else None
            )
            if declared == STEP:
                # The size of a step is a difference of the range's quantity, as kelvin are of temperatures.
                around = part.cell_kind(document) if hasattr(part, "cell_kind") else kind
                kind = "temperature_difference" if around == "temperature" else around
            else:
                kind = declared if declared is not None else own if own is not None else kind
            part = getattr(part, str(step), None)
        elif isinstance(part, Mapping):
            part = part.get(step)
        elif isinstance(part, (tuple, list)) and isinstance(step, int) and step < len(part):
            part = part[step]
        else:
            part = None
    return kind


def kind_of_cell(text: str, document: Document) -> str | None:
    """Return the kind of quantity of a cell of the document by its path as it is written, None where it is not
    declared."""
    try:
        path = resolved(text, document)
    except NoPathError:
        return None
    return kind_at(document, path, document)
