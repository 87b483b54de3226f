"""What stands on a page: texts, rules and drawings at their places, in points, and how wide texts are."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache

from PySide6.QtCore import QByteArray, QLineF, QPointF, QRectF
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen
from PySide6.QtSvg import QSvgRenderer

from ..widgets.letters import base_font
from ..widgets.theme import LIGHT

MEASURED = 16
"""Times the size of a font that it is measured at, so that no pixel is rounded."""


@dataclass(frozen=True)
class Face:
    """A size of letters in points, whether bold, and their colour."""

    size: float
    bold: bool = False
    colour: str = LIGHT.ink

    @property
    def line(self) -> float:
        """From one line to the next, points."""
        return 1.36 * self.size

    def font(self, times: float = 1.0) -> QFont:
        """Return the font, a point a pixel; ``times`` as large."""
        font = QFont(base_font())
        font.setPixelSize(max(1, round(self.size * times)))
        font.setBold(self.bold)
        font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
        return font

    def width(self, text: str) -> float:
        """Return how wide a text is, points."""
        return _metrics(self.size, self.bold).horizontalAdvance(text) / MEASURED


@lru_cache(64)
def _metrics(size: float, bold: bool) -> QFontMetricsF:
    return QFontMetricsF(Face(size, bold).font(MEASURED))


def wrapped(text: str, face: Face, room: float) -> list[str]:
    """Return a text as lines that fit into ``room`` points; a word that alone is too long is broken."""
    out: list[str] = []
    for paragraph in text.split("\n"):
        line = ""
        for word in paragraph.split(" "):
            longer = f"{line} {word}" if line else word
            if not line or face.width(longer) <= room:
                line = longer
            else:
                out.append(line)
                line = word
            while face.width(line) > room and len(line) > 1:
                count = max(1, next(k for k in range(len(line), 0, -1) if k == 1 or face.width(line[:k]) <= room))
                out.append(line[:count])
                line = line[count:]
        out.append(line)
    return out


@dataclass(frozen=True)
class Text:
    """A line of text at the left end of its base line; ``align`` 1 where (x) is its right end."""

    x: float
    y: float
    text: str
    face: Face
    align: int = 0


@dataclass(frozen=True)
class Rule:
    """A level line."""

    x0: float
    x1: float
    y: float
    colour: str = LIGHT.hair
    width: float = 0.5


@dataclass(frozen=True)
class Drawing:
    """A picture as SVG in its place."""

    x: float
    y: float
    width: float
    height: float
    svg: str


@dataclass
class Sheet:
    """One page: what stands on it."""

    items: list[Text | Rule | Drawing] = field(default_factory=list)


def paint(painter: QPainter, sheet: Sheet) -> None:
    """Paint a page with a painter whose unit is a point."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for item in sheet.items:
        if isinstance(item, Text):
            _paint_text(painter, item)
        elif isinstance(item, Rule):
            painter.setPen(QPen(QColor(item.colour), item.width))
            painter.drawLine(QLineF(item.x0, item.y, item.x1, item.y))
        else:
            renderer = QSvgRenderer(QByteArray(item.svg.encode()))
            renderer.render(painter, QRectF(item.x, item.y, item.width, item.height))


def _paint_text(painter: QPainter, item: Text) -> None:
    # A font of few pixels would be rounded; one that is many times as large is drawn that much smaller.
    painter.save()
    x = item.x - item.face.width(item.text) if item.align else item.x
    painter.translate(QPointF(x, item.y))
    painter.scale(1.0 / MEASURED, 1.0 / MEASURED)
    painter.setFont(item.face.font(MEASURED))
    painter.setPen(QColor(item.face.colour))
    painter.drawText(QPointF(0.0, 0.0), item.text)
    painter.restore()
