"""The surface of a table: what is painted where, what hides what, and how it is turned."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QWheelEvent
from PySide6.QtTest import QTest

from cryonome.app.widgets.heat import heat
from cryonome.app.widgets.surface import MOST, SHADES, Surface, SurfaceData
from cryonome.app.widgets.theme import DARK, LIGHT


@pytest.fixture
def surface(qapp, qtbot):
    widget = Surface("Surface")
    qtbot.addWidget(widget)
    widget.resize(600, 480)
    widget.show()
    return widget


def plane(n=9, m=7, hole=()):
    x, y = np.linspace(10.0, 50.0, n), np.linspace(1.0, 4.0, m)
    values = x[:, None] + 0.0 * y[None, :]
    for i, j in hole:
        values[i, j] = np.nan
    return SurfaceData(x, y, values, ("Temperature, °C", "Pressure, bar", "Density"))


def pixel(widget, i, j):
    """Return the colour in the middle of cell i, j of the surface."""
    x, y, z = widget._unit
    corners = [widget._project(x[a], y[b], z[a, b])[:2] for a in (i, i + 1) for b in (j, j + 1)]
    at = np.mean(corners, axis=0)
    return widget.picture(1.0).pixelColor(round(float(at[0])), round(float(at[1])))


def near(a: QColor, b: QColor, within=14):
    return all(abs(p - q) <= within for p, q in zip(a.getRgb()[:3], b.getRgb()[:3]))


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=["light", "dark"])
def test_a_cell_has_the_colour_of_its_value(surface, theme):
    surface.set_theme(theme)
    surface.show_data(plane())
    surface.tilt = 1.5  # seen from above nothing hides anything
    for i in (0, 3, 7):
        share = (i + 0.5) / 8.0
        tone = heat(theme, (int(share * SHADES) + 0.5) / SHADES)
        ground = QColor(theme.paper)
        part = tone.alphaF()
        mixed = QColor.fromRgbF(
            *(part * a + (1.0 - part) * b for a, b in zip(tone.getRgbF()[:3], ground.getRgbF()[:3]))
        )
        assert near(pixel(surface, i, 3), mixed), i


def test_a_state_without_a_value_is_a_hole(surface):
    surface.tilt = 1.5
    surface.show_data(plane(hole=[(4, 3)]))
    for i, j in ((3, 2), (3, 3), (4, 2), (4, 3)):
        assert np.isnan(surface._unit[2][4, 3])
        corners_there = np.isfinite(surface._unit[2][i : i + 2, j : j + 2]).all()
        assert not corners_there
    whole = surface.picture(1.0)
    surface.show_data(plane())
    assert surface.picture(1.0) != whole
    # A table of nothing but holes is an empty page, no error.
    empty = plane()
    surface.show_data(SurfaceData(empty.x, empty.y, np.full(empty.values.shape, np.nan), empty.titles))
    surface.picture(1.0)


def test_what_stands_in_front_hides_what_is_behind(surface):
    """A wall in the middle row, seen low: the floor behind it is not seen, and from the other side that before it is not."""
    x = y = np.linspace(0.0, 1.0, 21)
    values = np.zeros((21, 21))
    values[:, 10:12] = 1.0
    surface.show_data(SurfaceData(x, y, values, ("a", "b", "c")))
    surface.turn, surface.tilt = 0.0, 0.15
    ux, uy, _ = surface._unit

    def seen(j):
        """Return the colour painted where the floor at row j lies."""
        px, py, _ = surface._project(ux[10], uy[j], -1.0)
        return surface.picture(1.0).pixelColor(round(float(px)), round(float(py)))

    front = [surface._project(ux[10], uy[j], -1.0)[2] for j in (3, 17)]
    behind, before = (3, 17) if front[0] > front[1] else (17, 3)
    assert not near(seen(behind), seen(before), 4)
    surface.turn = np.pi
    assert not near(seen(before), seen(behind), 4)


def test_it_is_turned_by_dragging_by_keys_and_brought_near_by_the_wheel(surface):
    surface.show_data(plane())
    turn, tilt = surface.turn, surface.tilt
    QTest.mousePress(surface, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(100, 100))
    QTest.mouseMove(surface, QPoint(150, 120))
    QTest.mouseRelease(surface, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(150, 120))
    assert (surface.turn, surface.tilt) == (pytest.approx(turn + 0.5), pytest.approx(tilt + 0.2))
    QTest.mouseMove(surface, QPoint(300, 300))
    assert surface.turn == pytest.approx(turn + 0.5)
    for key, (by_turn, by_tilt) in {Qt.Key.Key_Left: (-0.1, 0.0), Qt.Key.Key_Down: (0.0, 0.1)}.items():
        before = surface.turn, surface.tilt
        QTest.keyClick(surface, key)
        assert (surface.turn, surface.tilt) == (pytest.approx(before[0] + by_turn), pytest.approx(before[1] + by_tilt))
    # Never from below, never quite from above, never through it.
    surface.rotate(0.0, 100.0)
    assert surface.tilt == 1.5
    surface.rotate(0.0, -100.0)
    assert surface.tilt == 0.05
    for delta, end in ((120000, 4.0), (-120000, 0.5)):
        event = QWheelEvent(
            QPointF(10, 10), QPointF(10, 10), QPoint(), QPoint(0, delta), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        surface.wheelEvent(event)
        assert surface.near == end


def test_of_a_large_table_some_rows_are_painted_both_ends_among_them(surface):
    n = 5 * MOST
    x = np.linspace(-3.0, 8.0, n)
    surface.show_data(SurfaceData(x, x, np.add.outer(x, x), ("a", "b", "c")))
    ux, uy, uz = surface._unit
    assert ux.size <= MOST
    assert (ux[0], ux[-1], uy[0], uy[-1]) == (-1.0, 1.0, -1.0, 1.0)
    assert (uz[0, 0], uz[-1, -1]) == (-1.0, 1.0)


def test_a_picture_is_as_large_as_it_is_asked_for(surface):
    surface.show_data(plane())
    image = surface.picture(3.0)
    assert (image.width(), image.height()) == (3 * surface.width(), 3 * surface.height())
    # Axes tell their ends: the words are there in ink that the surface does not have.
    assert any(
        image.pixelColor(x, y) == QColor(LIGHT.ink)
        for x in range(0, image.width(), 2)
        for y in range(0, image.height(), 2)
    )
