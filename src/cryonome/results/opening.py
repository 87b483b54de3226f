"""What is done to a document when it is opened in the window: what hangs on names is hung on identities."""

from __future__ import annotations

from ..document import Document
from ..document.edits import with_keyed_pairs
from ..document.migrate import with_ids
from ..errors import DomainError
from .evaluator import Evaluator


def with_identities(document: Document) -> Document:
    """Return the document with identities for all its parts, and interaction parameters hung on those of components.

    A pair written by hand names a cut by its name, which changes with its sample's name and its boundaries; its
    identity does not. Fluids that cannot be made keep their names until they can."""
    document = with_ids(document)
    project = Evaluator().at(document)
    keys: dict[str, dict[str, str]] = {}
    for fluid in document.fluids:
        if fluid.model.kij_pairs or fluid.model.aqueous_pairs:
            try:
                made = project.fluid(fluid)
            except DomainError:
                continue
            keys[fluid.name] = {c.name: c.identity for c in made.components}
    return with_keyed_pairs(document, keys)
