"""The demo project as tests of the window take it: without the lab reports, their matches and the blend for the export, which take their time; tests of those take the whole."""

from __future__ import annotations

from cryonome.demo import demo_document as whole
from cryonome.document import Document

SLOW = (
    "expansion",
    "depletion",
    "liberation",
    "separators",
    "swelling",
    "viscosity",
    "match",
    "black_oil",
    "separator_optimum",
    "lumping",
    "process",
    "line_profile",
    "spread",
)


def demo_document() -> Document:
    """Return the demo project without its lab reports."""
    document = whole()
    studies = tuple(
        s
        for s in document.studies
        if s.kind not in SLOW
        and not getattr(s, "measured", None)
        and "export blend" not in (s.name, getattr(s, "of", ""))
        and getattr(s, "fluid", "") != "Export blend"
    )
    fluids = tuple(f for f in document.fluids if f.name != "Export blend")
    values = tuple(v for v in document.values if "export blend" not in v.expression)
    return document.model_copy(update={"studies": studies, "fluids": fluids, "values": values})
