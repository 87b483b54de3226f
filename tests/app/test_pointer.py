"""Plots read out: the nearest line by name, values typed on an axis with their crossings, axes that fit again."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPointF

from cryonome.app.widgets.plot import Plot, pen
from cryonome.units import QuantityError


@pytest.fixture
def plot(qtbot):
    plot = Plot("Test")
    qtbot.addWidget(plot)
    plot.resize(500, 400)
    plot.show()
    plot.set_titles("Temperature, °C", "Pressure, bar")
    x = np.linspace(0.0, 100.0, 51)
    plot.begin("a")
    plot.line("straight", x, 2.0 * x, pen("#000000"), name="rising")
    plot.line("arch", x, 100.0 - (x - 50.0) ** 2 / 25.0, pen("#000000"), name="arch")
    plot.line("nameless", x, 0.0 * x, pen("#000000"))
    plot.end()
    plot.fit_to("first", x, [0.0, 200.0])
    return plot


def pixel(plot, x: float, y: float) -> QPointF:
    return QPointF(plot.view.mapFromScene(plot.box.mapViewToScene(QPointF(x, y))))


def test_the_pointer_tells_values_and_the_nearest_line(plot):
    plot.pointer.point_at(pixel(plot, 80.0, 158.0))
    value, name = plot.pointer.told.text().split("\n")
    assert name == "rising"
    x, y = (float(part.split()[0]) for part in value.split("   "))
    assert (x, y) == (pytest.approx(80.0, abs=0.6), pytest.approx(158.0, abs=1.2))
    assert "°C" in value
    assert value.endswith("bar")
    plot.pointer.point_at(pixel(plot, 20.0, 180.0))
    assert "\n" not in plot.pointer.told.text()  # no line is near


def test_a_typed_value_stays_with_its_crossings_in_any_unit_of_the_axis(plot):
    plot.pointer.mark("64", False)
    found = {(c.name, round(c.x, 3)) for c in plot.pointer.crossings(plot.pointer.marks[0])}
    # The arch crosses 64 at 50 ± 30, between whose points it is straight; the line at 32.
    assert found == {("rising", 32.0), ("arch", 20.0), ("arch", 80.0)}
    assert "rising  32.00 °C" in plot.pointer.listed.text()
    plot.pointer.mark("1450.38 psi", False)
    assert plot.pointer.marks[1].value == pytest.approx(100.0, rel=1e-4)
    plot.pointer.mark("122 degF", True)
    assert plot.pointer.crossings(plot.pointer.marks[2])[0].y == pytest.approx(100.0)
    with pytest.raises(QuantityError, match="no unit of this axis"):
        plot.pointer.mark("3 kg", True)
    # The crossings follow what is drawn.
    plot.begin("a")
    plot.line("straight", [0.0, 100.0], [0.0, 100.0], pen("#000000"), name="rising")
    plot.end()
    assert "rising  64.00 °C" in plot.pointer.listed.text()
    plot.pointer.clear()
    assert not plot.pointer.listed.isVisible()


def test_axes_fit_again_after_a_change_that_leaves_them_and_keep_a_view_otherwise(plot):
    x = np.linspace(0.0, 100.0, 51)
    plot.box.setXRange(40.0, 60.0, padding=0.0)
    inside = np.linspace(45.0, 55.0, 20)
    plot.fit_to("first", inside, inside)
    assert plot.box.viewRange()[0] == pytest.approx([40.0, 60.0])
    plot.fit_to("first", 10.0 * x, x)
    assert plot.box.viewRange()[0][1] > 1000.0
    plot.box.setXRange(0.0, 1.0, padding=0.0)
    plot.show_all()
    assert plot.box.viewRange()[0][1] > 1000.0
