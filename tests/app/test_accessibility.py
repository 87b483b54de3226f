"""The window for those who hear it, who use no mouse, or who need larger letters and clear colours."""

from __future__ import annotations

import itertools

import pyqtgraph as pg
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QComboBox,
    QHeaderView,
    QLineEdit,
    QPlainTextEdit,
    QScrollBar,
    QTextEdit,
    QWidget,
)

from cryonome.app.pages.shared.desk import desk_entries
from cryonome.app.widgets.grid import GridView
from cryonome.app.widgets.letters import (
    LEAST,
    LETTERS,
    MOST,
    POINTS,
    USUAL,
    base_font,
    fit_sizes,
    letter_scale,
    pixels,
    remembered,
    sized,
)
from cryonome.app.widgets.text_rows import TextRows
from cryonome.telling.colours import DARK, LIGHT, contrast, legible

PATIENCE = 1.5
"""Seconds given to an answer: the controls of a page do not wait for a long one."""
CONTROLS = (QAbstractButton, QLineEdit, QComboBox, QAbstractItemView, QAbstractSlider, QPlainTextEdit, QTextEdit)


def controls(page: QWidget):
    """Return what can be reached with the keyboard on a page."""
    return [
        c
        for c in page.findChildren(QWidget)
        if isinstance(c, CONTROLS)
        and not isinstance(c, (QScrollBar, QHeaderView))
        and c.isVisibleTo(page)
        and c.focusPolicy() != Qt.FocusPolicy.NoFocus
        and not c.objectName().startswith("qt_")
    ]


def told(widget: QWidget) -> str:
    found = QAccessible.queryAccessibleInterface(widget)
    return widget.accessibleName() or (found.text(QAccessible.Text.Name) if found else "")


def test_every_control_has_a_name_and_a_place(window, qapp):
    window.show_lessons()
    without = []
    for entry in desk_entries():
        window.show_desk(entry.key)
        window.live.come_to_rest(PATIENCE)
        # What has no place on its page would stand on the desktop as a window.
        assert [w for w in qapp.topLevelWidgets() if w.isVisible() and w is not window] == [], entry.key
        without += [(entry.key, type(c).__name__, c.objectName()) for c in controls(window.desks[entry.key]) if not told(c).strip()]  # fmt: skip
    for part in (window.shelf, window.trail, window.ledger, window.lessons, window.welcome, window.report):
        without += [(type(part).__name__, type(c).__name__, c.objectName()) for c in controls(part) if not told(c).strip()]  # fmt: skip
    assert not without


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=lambda t: t.name)
def test_text_can_be_read_on_every_ground_it_stands_on(theme):
    for colour, ground in itertools.product(("ink", "mute", "accent", "fault"), ("paper", "surface", "sunk", "tint")):
        assert contrast(getattr(theme, colour), getattr(theme, ground)) >= 4.5, (colour, ground)
    assert contrast(theme.fault, theme.fault_ground) >= 4.5
    for share in (0.0, 0.1, 0.25, 0.5, 0.75, 0.9, 1.0):
        # A line may be pale; what is written in its colour is not.
        assert contrast(legible(theme.of_share(share), theme.surface, theme.ink), theme.surface) >= 4.5


def test_contrast_is_that_of_the_guidelines():
    assert contrast("#000000", "#FFFFFF") == pytest.approx(21.0)
    assert contrast("#777777", "#FFFFFF") == pytest.approx(4.48, abs=0.005)


@pytest.fixture
def usual_letters(qapp):
    """Leave letters of the usual size behind."""
    yield
    qapp.setFont(base_font())


def test_nothing_is_cut_off_with_letters_half_as_large_again(window, usual_letters):
    small = window.desks["map"].found.fontMetrics().height()
    for chip in window.trail.chips.values():
        assert chip.isHidden() or chip.width() >= chip.sizeHint().width() - 1, chip.text()
    window.resize(1280, 760)
    window.set_letters(1.5)
    for entry in desk_entries():
        window.show_desk(entry.key)
        window.live.come_to_rest(PATIENCE)
        desk = window.desks[entry.key]
        # A page that needs more room than there is scrolls; the window does not grow.
        assert (window.width(), window.height()) == (1280, 760), entry.key
        for button in desk.findChildren(QAbstractButton):
            if button.isVisibleTo(desk) and button.text():
                assert button.height() >= button.fontMetrics().height() - 2, (entry.key, button.text())
        # Rows are as high as what stands in them, and one below the other without overlap.
        for grid in desk.findChildren(GridView):
            if grid.isVisible() and grid.model().rowCount():
                assert grid.rowHeight(0) >= grid.fontMetrics().height() + 2, (entry.key, grid.accessibleName())
        # Names of pages go on in a second line, and are never shortened.
        for chip in window.trail.chips.values():
            assert chip.isHidden() or chip.width() >= chip.sizeHint().width() - 1, chip.text()
        assert window.desks["map"].found.fontMetrics().height() > 1.4 * small


@pytest.mark.parametrize(
    ("setting", "scale"),
    [
        (None, 1.0),
        ("large", 1.0),
        ("nan", 1.0),
        ("inf", 1.0),
        ("", 1.0),
        ("1.5", 1.5),
        (1.23, 1.2),
        ("-4", LEAST),
        ("90", MOST),
    ],
)
def test_a_file_of_settings_may_hold_anything(setting, scale):
    assert remembered(setting) == pytest.approx(scale)


def test_lengths_go_with_the_letters_and_tables_keep_their_lines(qapp, qtbot, usual_letters):
    grid = GridView(TextRows([("a", "unit"), ("b", "")]))
    qtbot.addWidget(grid)
    field = QLineEdit()
    qtbot.addWidget(field)
    sized(field, fixed_width=84, least_height=20)
    window = QWidget()
    qtbot.addWidget(window)
    field.setParent(window)
    grid.keep_lines(3)
    high = grid.height()
    for scale in (2.0, 0.8, 1.0):
        qapp.setFont(base_font(POINTS * scale))
        fit_sizes(window)
        grid.set_theme(LIGHT)
        assert (field.width(), field.minimumHeight()) == (pixels(84), pixels(20))
        assert pixels(84) == round(84 * letter_scale())
        # Three rows and the header, whatever the letters.
        header = grid.horizontalHeader().sizeHint().height()
        assert grid.height() == header + 3 * grid.verticalHeader().defaultSectionSize() + 3
    assert grid.height() == high
    grid.set_row_height(40)
    assert grid.verticalHeader().defaultSectionSize() == pixels(40)


def test_all_that_is_painted_grows_with_the_letters_and_the_size_is_remembered(window, qtbot, usual_letters):
    window.show_desk("map")
    window.live.come_to_rest(60)
    plot, trail, shelf = window.desks["map"].plot, window.trail, window.shelf
    card = next(iter(trail.cards.values()))

    def sizes():
        labels = [
            i.textItem.font().pointSizeF()
            for i in plot.box.allChildren()
            if isinstance(i, pg.TextItem) and i.isVisible()
        ]
        ticks = plot.item.getAxis("left").style["tickFont"].pointSizeF()
        row = window.desks["map"].readout.table.rowHeight(0)
        return [max(labels), ticks, card.height(), shelf.fluids.sizeHintForRow(0), row, shelf.width()]

    before = sizes()
    for _ in range(5):
        qtbot.keyClick(window, Qt.Key.Key_Plus, Qt.KeyboardModifier.ControlModifier)
    window.live.come_to_rest(60)
    window.desks["map"].refresh()
    assert letter_scale() == pytest.approx(1.5, abs=0.01)
    # Labels are placed anew once the view has come to rest.
    qtbot.waitUntil(lambda: sizes()[0] > 1.3 * before[0])
    for was, now in zip(before, sizes()):
        assert 1.2 * was <= now <= 1.7 * was, (before, sizes())
    assert float(str(window.settings.value(LETTERS))) == pytest.approx(1.5)
    # Fields are as wide as their numbers want.
    window.show_desk("lab")
    widths = [e.width() for e in window.desks["lab"].findChildren(QLineEdit) if e.property(USUAL)]
    assert widths
    assert set(widths) == {126}
    window.set_letters(9.0)
    assert letter_scale() == pytest.approx(MOST)
    window.set_letters(1.0)
    window.live.come_to_rest(60)
    window.show_desk("map")
    window.desks["map"].refresh()
    qtbot.waitUntil(lambda: sizes() == before)
