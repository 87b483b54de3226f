"""What fields declare, checked in one place: that what they name is there, and that a word is one of those possible."""

from __future__ import annotations

from .cell_paths import as_written
from .field_types import FLUIDS, SAMPLES, STUDIES, Names, OneOf
from .model import Document
from .part import Part
from .reader import Reader
from .references import marks

TITLES = {SAMPLES: "sample", FLUIDS: "fluid", STUDIES: "study"}


def _names(document: Document, group: str) -> list[str]:
    return [t.name for t in (document.every_fluid if group == FLUIDS else getattr(document, group))]


def read_marks(part: Part, document: Document, reader: Reader) -> None:
    """Note every name of a part that leads nowhere, and every word that is not possible in its place."""
    for found in marks(part):
        here = reader.at(*as_written(part, found.path))
        if isinstance(found.mark, OneOf):
            if found.text not in found.mark.choices:
                told = " or ".join(f"'{c}'" for c in found.mark.choices)
                here.fault(f"'{found.text}' is not possible here; use {told}")
        elif isinstance(found.mark, Names) and found.mark.what in TITLES and found.mark.needed:
            if found.mark.what == STUDIES:
                continue  # kinds that ask others say which of them they can ask
            here.known(found.text, _names(document, found.mark.what), TITLES[found.mark.what])
