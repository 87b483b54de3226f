"""A report laid out on pages: title page, contents with page numbers, heads of tables on every page they reach."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtGui import QPageSize

from ...reporting.parts import Content, Heading, Part, Picture, Points, Sentence, Table
from ...reporting.svg import HEIGHT, ROW, WIDTH, draw
from ..widgets.theme import LIGHT
from .columns import GAP, Laid, fitted
from .type_setting import Drawing, Face, Rule, Sheet, Text, wrapped

PAPERS = {"A4": QPageSize.PageSizeId.A4, "Letter": QPageSize.PageSizeId.Letter}
SIZES = {"A4": (595.28, 841.89), "Letter": (612.0, 792.0)}
"""Points."""
MARGIN, FOOT = 56.0, 34.0
"""Points: of a page all around, and from its end to the base line of the foot."""

TITLE, BODY, STRONG = Face(24.0, True), Face(9.0), Face(10.0, True)
HEADS = {1: Face(16.0, True), 2: Face(12.0, True), 3: Face(9.0, True, LIGHT.mute)}
LOOKS = {"": BODY, "mute": Face(9.0, colour=LIGHT.mute), "strong": STRONG, "fault": Face(9.0, colour=LIGHT.fault)}
CELL, HEAD, SMALL = Face(7.5), Face(7.5, True, LIGHT.mute), Face(8.0, colour=LIGHT.mute)
BEFORE = {1: 0.0, 2: 20.0, 3: 9.0}
ROW_ROOM = 3.2
"""Points between the rows of a table."""
FOLD, FOLDED, MOST_BESIDE = 26.0, 10, 4
"""Points between the halves of a folded table, the rows from which on one is folded, and how often at most."""
TOGETHER = 110.0
"""Points of what follows that a heading stays with."""


@dataclass(frozen=True)
class Pages:
    """A report on pages: their size in points, the pages, and the page that each heading of the contents is on."""

    size: tuple[float, float]
    sheets: tuple[Sheet, ...]
    places: tuple[tuple[str, int, int], ...] = ()
    """Text, level and page number of the headings."""


def laid_out(content: Content) -> Pages:
    """Return a report on pages of its paper."""
    size = SIZES[content.paper]
    flow = _Flow(size)
    for part in content.parts:
        flow.put(part)
    first = [_title_page(content, size)]
    listed = flow.places if content.contents else []
    count = len(_contents(listed, size, 0)) if listed else 0
    offset = len(first) + count
    contents = _contents(listed, size, offset) if listed else []
    body = flow.sheets if content.parts else []
    sheets = [*first, *contents, *body]
    for number, sheet in enumerate(sheets, 1):
        if number > 1:
            _foot(sheet, content.title, number, len(sheets), size)
    return Pages(size, tuple(sheets), tuple((t, level, page + offset) for t, level, page in flow.places))


def _foot(sheet: Sheet, title: str, number: int, of: int, size: tuple[float, float]) -> None:
    y = size[1] - FOOT
    sheet.items.append(Rule(MARGIN, size[0] - MARGIN, y - 11.0))
    shown = wrapped(title, SMALL, size[0] - 2.0 * MARGIN - 80.0)[0]
    sheet.items.append(Text(MARGIN, y, shown, SMALL))
    sheet.items.append(Text(size[0] - MARGIN, y, f"{number} of {of}", SMALL, 1))


def _title_page(content: Content, size: tuple[float, float]) -> Sheet:
    sheet, room = Sheet(), size[0] - 2.0 * MARGIN
    y = 0.3 * size[1]
    for line in wrapped(content.title, TITLE, room)[:6]:
        sheet.items.append(Text(MARGIN, y, line, TITLE))
        y += TITLE.line
    if content.below:
        sheet.items.append(Text(MARGIN, y, wrapped(content.below, STRONG, room)[0], STRONG))
        y += STRONG.line
    sheet.items.append(Rule(MARGIN, MARGIN + 90.0, y - 6.0, LIGHT.accent, 2.0))
    y += 26.0
    for name, value in content.facts:
        sheet.items.append(Text(MARGIN, y, name, LOOKS["mute"]))
        for line in wrapped(value, BODY, room - 90.0):
            sheet.items.append(Text(MARGIN + 90.0, y, line, BODY))
            y += BODY.line
        y += 3.0
    return sheet


def _contents(places: list[tuple[str, int, int]], size: tuple[float, float], offset: int) -> list[Sheet]:
    """Return the pages of contents: every heading with the number of its page."""
    sheets, right = [Sheet()], size[0] - MARGIN
    y = MARGIN + HEADS[1].size
    sheets[0].items.append(Text(MARGIN, y, "Contents", HEADS[1]))
    y += 26.0
    for text, level, page in places:
        face = Face(9.5, True) if level == 1 else BODY
        y += 5.0 if level == 1 else 0.0
        if y > size[1] - MARGIN - 18.0:
            sheets.append(Sheet())
            y = MARGIN + face.size
        x = MARGIN + (0.0 if level == 1 else 14.0)
        shown = wrapped(text, face, right - x - 40.0)[0]
        number = str(page + offset)
        sheets[-1].items += [Text(x, y, shown, face), Text(right, y, number, face, 1)]
        start, end = x + face.width(shown) + 5.0, right - face.width(number) - 5.0
        if end > start:
            sheets[-1].items.append(Rule(start, end, y - 2.0))
        y += face.line + 1.0
    return sheets


class _Flow:
    """Parts one below the other, page by page."""

    def __init__(self, size: tuple[float, float]) -> None:
        self.width, self.bottom = size[0] - 2.0 * MARGIN, size[1] - MARGIN - 14.0
        self.sheets = [Sheet()]
        self.y = MARGIN
        self.places: list[tuple[str, int, int]] = []
        self.pictures = 0

    def put(self, part: Part) -> None:
        """Put a part below the last one."""
        if isinstance(part, Heading):
            self._heading(part)
        elif isinstance(part, Sentence):
            self._lines(wrapped(part.text, LOOKS[part.look], self.width), LOOKS[part.look])
            self.y += 5.0
        elif isinstance(part, Points):
            for text in part.texts:
                self._lines(wrapped(text, SMALL, self.width - 12.0), SMALL, 12.0, "–")
            self.y += 4.0
        elif isinstance(part, Picture):
            self._picture(part)
        else:
            self._table(part)

    def _turn(self) -> None:
        self.sheets.append(Sheet())
        self.y = MARGIN

    def _need(self, height: float) -> None:
        if self.y + height > self.bottom and self.y > MARGIN:
            self._turn()

    def _heading(self, part: Heading) -> None:
        face = HEADS[part.level]
        if part.level == 1 and self.y > MARGIN:
            self._turn()
        if self.y > MARGIN:
            self.y += BEFORE[part.level]
        self._need((TOGETHER if part.level < 3 else 40.0) + face.line)
        if part.level < 3:
            self.places.append((part.text, part.level, len(self.sheets)))
        self._lines(wrapped(part.text, face, self.width), face)
        if part.level == 1:
            self.sheets[-1].items.append(Rule(MARGIN, MARGIN + self.width, self.y, LIGHT.accent, 1.0))
        self.y += {1: 14.0, 2: 4.0, 3: 1.0}[part.level]

    def _lines(self, lines: list[str], face: Face, indent: float = 0.0, sign: str = "") -> None:
        for i, line in enumerate(lines):
            self._need(face.line)
            base = self.y + face.size
            if sign and i == 0:
                self.sheets[-1].items.append(Text(MARGIN, base, sign, face))
            self.sheets[-1].items.append(Text(MARGIN + indent, base, line, face))
            self.y += face.line

    def _picture(self, part: Picture) -> None:
        self.pictures += 1
        rows = part.figure.rows
        height = 46.0 + ROW * len(rows) if rows else HEIGHT * 0.86
        width = min(self.width, WIDTH)
        self._need(height + 22.0)
        drawing = draw(part.figure, width, height)
        self.sheets[-1].items.append(Drawing(MARGIN, self.y, width, height, drawing))
        self.y += height + 2.0
        self._lines(wrapped(f"Figure {self.pictures}. {part.caption}", SMALL, self.width), SMALL)
        self.y += 10.0

    def _table(self, part: Table) -> None:
        title = f"{part.block.title[:1].upper()}{part.block.title[1:]}"
        groups = fitted(part, self.width, CELL, HEAD)
        for k, laid in enumerate(groups):
            more = f"{title or 'The table'}, {k + 1} of {len(groups)}" if len(groups) > 1 else title
            rows = min(len(part.block.rows), 5) * (1.2 * CELL.size + ROW_ROOM)
            self._need(rows + HEAD.line * laid.head_lines + BODY.line + 16.0)
            if more:
                self._lines(wrapped(more, Face(9.0, True), self.width), Face(9.0, True))
            beside = int((self.width + FOLD) // (laid.width + FOLD))
            if beside > 1 and len(part.block.rows) >= FOLDED and len(groups) == 1:
                self._folded(part, laid, min(beside, MOST_BESIDE))
            else:
                self._rows(part.block.rows, laid)
        if part.hidden:
            self._lines([f"{part.hidden} more rows are not shown here."], SMALL)
        self.y += 8.0

    def _folded(self, part: Table, laid: Laid, beside: int) -> None:
        """Put a long narrow table as columns of rows side by side."""
        rows = part.block.rows
        row_height = 1.2 * CELL.size + ROW_ROOM
        while rows:
            room = self.bottom - self.y - laid.head_lines * 1.2 * HEAD.size - 12.0
            fit = int(room // row_height)
            if fit < min(4, len(rows)):
                self._turn()
                continue
            each = min(-(-len(rows) // beside), fit)
            top, lowest = self.y, self.y
            for k in range(beside):
                self.y = top
                self._rows(rows[k * each : (k + 1) * each], laid, k * (laid.width + FOLD))
                lowest = max(lowest, self.y)
            self.y, rows = lowest, rows[beside * each :]

    def _rows(self, rows: list[list[str]], laid: Laid, shift: float = 0.0) -> None:
        if not rows:
            return
        left_edge = MARGIN + shift
        self._heads(laid, left_edge)
        for row in rows:
            lines = laid.lines(row, CELL)
            height = max(map(len, lines), default=1) * 1.2 * CELL.size + ROW_ROOM
            if self.y + height > self.bottom:
                self._turn()
                self._heads(laid, left_edge)
            x = left_edge
            for cell, width, left in zip(lines, laid.widths, laid.left):
                for i, line in enumerate(cell):
                    base = self.y + CELL.size + 1.2 * CELL.size * i
                    place = Text(x, base, line, CELL) if left else Text(x + width, base, line, CELL, 1)
                    self.sheets[-1].items.append(place)
                x += width + GAP
            self.y += height
            self.sheets[-1].items.append(Rule(left_edge, left_edge + laid.width, self.y - 1.2, LIGHT.hair, 0.3))
        self.y += 5.0

    def _heads(self, laid: Laid, left_edge: float) -> None:
        if not laid.head_lines:
            return
        x, high = left_edge, laid.head_lines * 1.2 * HEAD.size
        for head, width, left in zip(laid.heads, laid.widths, laid.left):
            top = self.y + high - len(head) * 1.2 * HEAD.size
            for i, line in enumerate(head):
                base = top + HEAD.size + 1.2 * HEAD.size * i
                self.sheets[-1].items.append(
                    Text(x, base, line, HEAD) if left else Text(x + width, base, line, HEAD, 1)
                )
            x += width + GAP
        self.y += high + 2.5
        self.sheets[-1].items.append(Rule(left_edge, left_edge + laid.width, self.y - 1.0, LIGHT.mute, 0.6))
        self.y += 1.5
