"""Five short lessons on the demo project, as texts: the window shows them beside its pages, the documentation as its
first chapter, and the tests play them step by step (``scripts/lessons.py``)."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

FOLDER = Path(__file__).parent


@dataclass(frozen=True)
class Lesson:
    """A lesson: what it is called in files, its title, and its text in Markdown."""

    key: str
    title: str
    text: str


ORDER = ("assay-to-map", "report-to-tuned-fluid", "cold-line", "gas-train", "table-for-a-spreadsheet")


def lessons() -> tuple[Lesson, ...]:
    """Return the lessons in their order."""
    out = []
    for key in ORDER:
        text = (FOLDER / f"{key}.md").read_text(encoding="utf-8")
        out.append(Lesson(key, text.partition("\n")[0].lstrip("# ").strip(), text))
    return tuple(out)
