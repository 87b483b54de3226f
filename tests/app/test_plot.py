"""Plots keep their items, dim what is old behind a veil, and never draw a million decades."""

from __future__ import annotations

import time

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication

from cryonome.app.pages.shared.map_picture import Frame, Picture, Pinned, fit
from cryonome.app.widgets.fields import tip
from cryonome.app.widgets.plot import Plot, pen
from cryonome.app.widgets.theme import DARK, LIGHT
from cryonome.equilibrium.phase_map import phase_map
from mixtures import mixture


@pytest.fixture
def plot(qtbot):
    made = Plot("test")
    qtbot.addWidget(made)
    made.resize(640, 420)
    made.show()
    QApplication.processEvents()
    return made


def shown(plot: Plot) -> set[str]:
    return {key for key, (_, item) in plot._items.items() if item.isVisible()}


def test_a_layer_is_drawn_anew_without_the_others(plot):
    plot.begin("lines")
    plot.line("a", [0, 1], [0, 1], pen("#000"))
    plot.line("b", [0, 1], [1, 0], pen("#000"))
    plot.end()
    plot.begin("labels")
    plot.text("a", "here", 0.5, 0.5, "#000")
    plot.end()
    kept = plot._items["line a"][1]
    plot.begin("lines")
    plot.line("a", [0, 2], [0, 1], pen("#000"))
    plot.end()
    assert shown(plot) == {"line a", "text a"}
    assert plot._items["line a"][1] is kept
    plot.begin("labels")
    plot.end()
    assert shown(plot) == {"line a"}


def test_what_is_old_lies_behind_a_veil_that_covers_the_view(plot):
    plot.begin()
    plot.dots("x", [0.5], [0.5], pen("#000"))
    plot.end()
    plot.fit_x(0.0, 10.0)
    plot.fit_y(0.0, 5.0)
    bright = plot.picture(1.0)
    plot.set_faint(True)
    assert plot._veil.rect().contains(0.0, 0.0)
    assert plot._veil.rect().contains(10.0, 5.0)
    plot.fit_x(100.0, 200.0)
    assert plot._veil.rect().contains(200.0, 5.0)
    plot.fit_x(0.0, 10.0)
    assert plot.picture(1.0) != bright
    plot.set_theme(DARK)
    plot.set_faint(False)
    assert not plot._veil.isVisible()


@pytest.mark.parametrize("top", [1.0, 250.0, 2.5e7, 1e12])
def test_a_logarithmic_axis_leaves_a_range_that_was_meant_plainly(plot, top):
    plot.fit_y(0.0, top)
    start = time.perf_counter()
    plot.set_logarithmic(True)
    QApplication.processEvents()
    plot.grab()
    low, high = plot.box.viewRange()[1]
    assert -30.0 <= low < high <= 30.0
    assert high - low <= max(15.0, 1.0)
    plot.box.setYRange(-1e9, 1e9)  # nor does a drag or a wheel get there
    assert plot.box.viewRange()[1][1] <= 30.0
    plot.set_logarithmic(False)
    plot.fit_y(0.0, 2.5e7)
    assert plot.box.viewRange()[1][1] == pytest.approx(2.5e7)
    assert time.perf_counter() - start < 2.0


@pytest.mark.parametrize("logarithmic", [False, True])
@pytest.mark.parametrize("units", [("degC", "bar"), ("degF", "mmHg"), ("K", "Pa")])
def test_a_maps_lines_and_labels_are_drawn_in_any_unit(plot, units, logarithmic):
    eos, z = mixture("condensate")
    whole = phase_map(eos, z, (0.5,))
    frame = Frame(*units, logarithmic)
    plot.set_logarithmic(logarithmic)
    fit(plot, frame, whole)
    picture = Picture(frame, LIGHT, whole, (0.5,), (), (Pinned("kept <b>state</b>", 300.0, 1e6),))
    picture.draw(plot)
    keys = shown(plot)
    assert sum(k.startswith("line map") for k in keys) >= 3
    assert {"dots pin 0", "dots critical 0", "text critical 0"} <= keys
    text = plot._items["text pin 0"][1] if "text pin 0" in plot._items else None
    assert text is None or text.toPlainText() == "kept <b>state</b>"
    T, P = frame.state(*(float(v[0]) for v in frame.xy(300.0, 1e6)))
    assert pytest.approx((300.0, 1e6)) == (T, P)
    drawn = plot._items["line map 0.5 " + next(k.split()[-1] for k in keys if k.startswith("line map 0.5"))][1]
    assert np.isfinite(drawn.xData).all()
    assert np.isfinite(drawn.yData).all()


def test_tips_show_text_as_it_stands():
    assert "&lt;img" in tip("<img width=30000>")
    assert tip("") == ""
    assert len(tip("x" * 10000)) < 2100
