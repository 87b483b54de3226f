"""The demo project as tests of the window take it: without the lab reports and their matches, which take their time; tests of those take the whole."""

from __future__ import annotations

from cryonome.demo import demo_document as whole
from cryonome.document import Document

SLOW = (
    "expansion",
    "depletion",
    "liberation",
    "separators",
    "swelling",
    "match",
    "black_oil",
    "separator_optimum",
    "lumping",
)


def demo_document() -> Document:
    """Return the demo project without its lab reports."""
    document = whole()
    studies = tuple(s for s in document.studies if s.kind not in SLOW and not getattr(s, "measured", None))
    return document.model_copy(update={"studies": studies})
