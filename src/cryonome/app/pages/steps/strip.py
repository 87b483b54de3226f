"""A chain drawn in one line: feeds and ends as rings, steps as dots in the order they are done, what goes back as a
dashed line above, what leaves by the side as a line down."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from ....questions.chains.model import Step
from ....wording.step_words import streams_said
from ...widgets.letters import pixels, point_size, sized
from ...widgets.theme import LIGHT, Theme

HIGH = 104
SIDE = 36
RADIUS = 6.0
LINE = 42.0
"""Pixels of the widget, of its margins, of a dot, and of the line from the top."""


@dataclass(frozen=True)
class Node:
    """A place of the line: its ``name``, and whether it is a step (else a feed or an end)."""

    name: str
    step: bool


@dataclass(frozen=True)
class Drawn:
    """A chain as it is drawn: nodes from left to right; ``links`` (from, to, stream) by their place; ``ends`` (from,
    stream) that leave by the side."""

    nodes: tuple[Node, ...]
    links: tuple[tuple[int, int, str], ...]
    ends: tuple[tuple[int, str], ...]


def takes_of(step: Step) -> list[str]:
    """Return the streams a step takes."""
    return [n.strip() for n in streams_said(step, "from").split(",") if n.strip()]


def gives_of(step: Step) -> list[str]:
    """Return the streams a step gives, those of a splitter without their shares."""
    if step.step == "splitter" and not isinstance(step.gives, (str, tuple)):
        return list(step.gives)
    return [n.strip() for n in streams_said(step, "to").split(",") if n.strip()]


def in_order(feeds: Sequence[str], steps: Sequence[Step]) -> list[Step]:
    """Return steps so that each comes after those it takes from; where they hang on each other in a ring, the one
    that waits for least comes first."""
    known, left, out = set(feeds), list(steps), []
    while left:
        best = min(
            left, key=lambda s: (sum(t not in known for t in takes_of(s)), -sum(t in known for t in takes_of(s)))
        )
        left.remove(best)
        out.append(best)
        known.update(gives_of(best))
    return out


def laid_out(feeds: Sequence[str], steps: Sequence[Step]) -> Drawn:
    """Return a chain as it is drawn."""
    order = in_order(feeds, steps)
    nodes = [*(Node(f, False) for f in feeds), *(Node(s.name, True) for s in order)]
    place = {name: i for i, name in enumerate(feeds)}
    place |= {g: len(feeds) + i for i, s in enumerate(order) for g in gives_of(s)}
    links = [(place[t], len(feeds) + i, t) for i, s in enumerate(order) for t in takes_of(s) if t in place]
    taken = {t for s in order for t in takes_of(s)}
    free = [(len(feeds) + i, g) for i, s in enumerate(order) for g in gives_of(s) if g not in taken]
    ends = list(free)
    # What the last step that has an end gives is the end of the line.
    if free:
        last = free[-1][0]
        main = next(e for e in free if e[0] == last)
        ends.remove(main)
        nodes.append(Node(main[1], False))
        links.append((main[0], len(nodes) - 1, main[1]))
    return Drawn(tuple(nodes), tuple(links), tuple(ends))


class ChainStrip(QWidget):
    """The chain as a line; ``chosen`` tells the node that was clicked by its name."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = LIGHT
        self._drawn = Drawn((), (), ())
        self._selected = ""
        self._bad: frozenset[str] = frozenset()
        sized(self, fixed_height=HIGH)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("The chain")
        self.setMouseTracking(True)

    def sizeHint(self) -> QSize:
        """Return the room it wants."""
        return QSize(600, pixels(HIGH))

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.update()

    def show_chain(self, drawn: Drawn, selected: str, bad: frozenset[str]) -> None:
        """Draw a chain with a step ``selected``, those with faults marked."""
        if (drawn, selected, bad) != (self._drawn, self._selected, self._bad):
            self._drawn, self._selected, self._bad = drawn, selected, bad
            self.setAccessibleDescription(", ".join(n.name for n in drawn.nodes))
            self.update()

    def places(self) -> list[QPointF]:
        """Return where each node is drawn."""
        n = len(self._drawn.nodes)
        wide = self.width() - 2 * SIDE
        return [QPointF(SIDE + (wide * i / (n - 1) if n > 1 else 0.0), LINE) for i in range(n)]

    def _at(self, x: float, y: float) -> str:
        for node, p in zip(self._drawn.nodes, self.places()):
            if abs(p.x() - x) < 16 and abs(p.y() - y) < 26:
                return node.name
        return ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        name = self._at(event.position().x(), event.position().y())
        if name:
            self.chosen.emit(name)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        there = bool(self._at(event.position().x(), event.position().y()))
        self.setCursor(Qt.CursorShape.PointingHandCursor if there else Qt.CursorShape.ArrowCursor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        names = [n.name for n in self._drawn.nodes]
        if by is None or not names:
            super().keyPressEvent(event)
            return
        at = names.index(self._selected) if self._selected in names else 0
        self.chosen.emit(names[min(max(at + by, 0), len(names) - 1)])

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        points = self.places()
        self._paint_links(painter, points)
        for node, p in zip(self._drawn.nodes, points):
            self._paint_node(painter, node, p)
        self._paint_names(painter, points)
        painter.end()

    def _paint_links(self, painter: QPainter, points: list[QPointF]) -> None:
        ink = QColor(self.theme.ink)
        over = under = 0
        for a, b, _ in self._drawn.links:
            if b == a + 1:
                painter.setPen(QPen(ink, 1.8))
                painter.drawLine(points[a], points[b])
                continue
            # Back above and dashed; what skips steps below.
            back = b <= a
            over, under = over + back, under + (not back)
            y = LINE - 18.0 - 9.0 * ((over - 1) % 3) if back else LINE + 30.0 + 9.0 * ((under - 1) % 3)
            colour = QColor(self.theme.vapour if back else self.theme.mute)
            painter.setPen(QPen(colour, 1.5, Qt.PenStyle.DashLine if back else Qt.PenStyle.SolidLine))
            x1, x2 = points[a].x() + (4.0 if back else 3.0), points[b].x() - (0.0 if back else 3.0)
            painter.drawPolyline([QPointF(x1, LINE), QPointF(x1, y), QPointF(x2, y), QPointF(x2, LINE)])
        painter.setPen(QPen(QColor(self.theme.liquid), 1.5))
        seen: dict[int, int] = {}
        for a, _ in self._drawn.ends:
            k = seen[a] = seen.get(a, -1) + 1
            y = LINE + 32.0 + 16.0 * k
            x = points[a].x() - 3.0 * k
            painter.drawPolyline([QPointF(x, LINE), QPointF(x, y), QPointF(x + 14.0, y)])

    def _paint_node(self, painter: QPainter, node: Node, p: QPointF) -> None:
        theme = self.theme
        colour = QColor(theme.fault if node.name in self._bad else theme.ink)
        painter.setPen(QPen(colour, 1.6))
        painter.setBrush(colour if node.step else QColor(theme.surface))
        painter.drawEllipse(p, RADIUS, RADIUS)
        if node.name == self._selected:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(theme.accent), 1.6))
            painter.drawEllipse(p, RADIUS + 5.0, RADIUS + 5.0)

    def _paint_names(self, painter: QPainter, points: list[QPointF]) -> None:
        font = QFont(self.font())
        font.setPointSizeF(point_size(8.5))
        metrics = painter.fontMetrics()
        room = (points[1].x() - points[0].x() if len(points) > 1 else 200.0) - 6.0
        dropped = {a for a, _ in self._drawn.ends}
        for i, (node, p) in enumerate(zip(self._drawn.nodes, points)):
            font.setBold(node.name == self._selected)
            painter.setFont(font)
            painter.setPen(QColor(self.theme.fault if node.name in self._bad else self.theme.ink))
            text = painter.fontMetrics().elidedText(node.name, Qt.TextElideMode.ElideRight, int(max(room, 24.0)))
            wide = painter.fontMetrics().horizontalAdvance(text)
            x = min(max(p.x() - wide / 2, 0.0), self.width() - wide)
            # Beside a line that goes down, the name stands off it.
            if i in dropped:
                x = p.x() + 6.0 if p.x() + 6.0 + wide < self.width() else p.x() - wide - 6.0
            painter.drawText(QRectF(x, LINE + 9.0, wide + 2.0, metrics.height()), Qt.AlignmentFlag.AlignLeft, text)
        font.setBold(False)
        painter.setFont(font)
        painter.setPen(QColor(self.theme.liquid))
        seen: dict[int, int] = {}
        for a, stream in self._drawn.ends:
            k = seen[a] = seen.get(a, -1) + 1
            y, x = LINE + 32.0 + 16.0 * k, points[a].x() + 18.0
            room_here = self.width() - x
            text = painter.fontMetrics().elidedText(
                stream, Qt.TextElideMode.ElideRight, int(max(min(2.2 * room, room_here), 20.0))
            )
            painter.drawText(
                QRectF(x, y - metrics.height() / 2, room_here, metrics.height()), Qt.AlignmentFlag.AlignLeft, text
            )
