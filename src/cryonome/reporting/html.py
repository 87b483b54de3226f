"""A report as one file of HTML: style and pictures are inside, nothing is fetched."""

from __future__ import annotations

import re
from typing import Any

from jinja2 import Environment, PackageLoader
from markupsafe import Markup

from ..telling.colours import LIGHT
from .parts import Content, Heading, Picture, Points, Sentence, Table
from .svg import draw


def page(content: Content) -> str:
    """Return a report as a page."""
    environment = Environment(loader=PackageLoader("cryonome.reporting", "templates"), autoescape=True)
    parts: list[dict[str, Any]] = []
    count = 0
    for i, part in enumerate(content.parts):
        if isinstance(part, Heading):
            parts.append({"is": "heading", "text": part.text, "level": part.level, "anchor": f"s{i}"})
        elif isinstance(part, Sentence):
            parts.append({"is": "sentence", "text": part.text, "look": part.look})
        elif isinstance(part, Points):
            parts.append({"is": "points", "texts": part.texts})
        elif isinstance(part, Picture):
            count += 1
            # The width is the page's: the drawing keeps its proportions by its viewBox.
            drawing = re.sub(r' width="[\d.]+pt" height="[\d.]+pt"', "", draw(part.figure), count=1)
            parts.append({"is": "picture", "svg": Markup(drawing), "caption": part.caption, "number": count})
        elif isinstance(part, Table):
            parts.append({"is": "table", "block": part.block, "hidden": part.hidden, "left": left_columns(part)})
    contents = [p for p in parts if p["is"] == "heading" and p["level"] < 3] if content.contents else []
    return environment.get_template("report.html.j2").render(
        content=content, parts=parts, contents=contents, colours=LIGHT
    )


def left_columns(table: Table) -> list[bool]:
    """Tell of each column whether it is of words, which stand at the left, and not of numbers."""
    rows = table.block.rows
    width = max([len(table.block.columns), *(len(r) for r in rows)], default=0)
    return [j == 0 or any(_is_words(r[j]) for r in rows if j < len(r)) for j in range(width)]


def _is_words(text: str) -> bool:
    return bool(re.search(r"[^\W\d_]{2,}", text)) and not re.fullmatch(r"[−\d.e]+ ?\S{0,12}", text)
