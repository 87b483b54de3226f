"""What a document keeps beside what it says: what its report holds, and what its answers were."""

from __future__ import annotations

from typing import Annotated, Literal

from .field_types import FLUIDS, SAMPLES, STUDIES, Names
from .part import Part

ReportSection = Literal["contents", "samples", "fluids", "questions", "pictures", "tables", "assumptions", "sources"]
"""What a report may go without."""


class Report(Part):
    """What a report of the document holds: everything but what it goes ``without`` and the samples, fluids and
    questions that are left out by name, so that what comes later is in it. ``title`` is the document's where empty,
    ``by`` who made it; tables of many rows are cut unless ``whole_tables``."""

    title: str = ""
    by: str = ""
    paper: Literal["A4", "Letter"] = "A4"
    without: tuple[ReportSection, ...] = ()
    without_samples: tuple[Annotated[str, Names(SAMPLES, needed=False, depends=False)], ...] = ()
    without_fluids: tuple[Annotated[str, Names(FLUIDS, needed=False, depends=False)], ...] = ()
    without_studies: tuple[Annotated[str, Names(STUDIES, needed=False, depends=False)], ...] = ()
    whole_tables: bool = False


class KeptAnswer(Part):
    """Single ``values`` of a question's answer and means of its tables by their path, as a ``version`` of the program
    gave them for a ``content``: what a later version is held against."""

    study: Annotated[str, Names(STUDIES, needed=False, depends=False)] = ""
    version: str = ""
    content: str = ""
    values: dict[str, float] = {}
