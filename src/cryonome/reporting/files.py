"""A report as files in a folder: one page of HTML, the answers, every picture as SVG; the PDF is made beside them where
there is Qt."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from pathlib import Path

from ..document.files import write_atomic
from .html import page
from .parts import Content, Picture
from .svg import draw

PAGE, PAPER, ANSWERS, PICTURES = "report.html", "report.pdf", "answers.json", "pictures"


@dataclass(frozen=True)
class Written:
    """What was written: the page, and how many pictures."""

    page: Path
    pictures: int


def write_report(content: Content, folder: Path) -> Written:
    """Write a report into a folder, which is made. Pictures of an earlier report there are taken away. Raises
    OSError."""
    folder.mkdir(parents=True, exist_ok=True)
    write_atomic(folder / ANSWERS, json.dumps({"format": "cryonome-answers/1", "answers": content.answers}, ensure_ascii=False, indent=1, allow_nan=False))  # fmt: skip
    found = [p for p in content.parts if isinstance(p, Picture)]
    pictures = folder / PICTURES
    if pictures.is_dir():
        for old in pictures.glob("[0-9][0-9]*-*.svg"):
            old.unlink()
    if found:
        pictures.mkdir(exist_ok=True)
    for number, part in enumerate(found, 1):
        stem = re.sub(r"[^A-Za-z0-9]+", "-", part.caption).strip("-").lower()[:60] or "picture"
        write_atomic(pictures / f"{number:02d}-{stem}.svg", draw(part.figure))
    write_atomic(folder / PAGE, page(content))
    return Written(folder / PAGE, len(found))
