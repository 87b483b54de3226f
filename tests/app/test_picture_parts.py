"""Pictures by themselves: what can move what by mouse and keys, measured points beside the model, and values marked on an axis."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QHelpEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog, QToolTip

from cryonome.app.pages.match.picture import draw_panel, panel_data, titled, told
from cryonome.app.pages.match.reach import HEAD, ROW, Reach, ReachRow
from cryonome.app.widgets.plot import Plot, pen
from cryonome.app.widgets.theme import DARK
from cryonome.matching.match_view import Panel
from cryonome.telling import Units

METRIC = Units.of("metric")
ROWS = (ReachRow("Tc of the heavy ends", True, (3.2, 0.4)), ReachRow("Pc of the heavy ends", False, (0.1, 0.0)), ReachRow("k of methane", False, (9.0, 2.0)))  # fmt: skip


@pytest.fixture
def reach(qtbot):
    made = Reach()
    qtbot.addWidget(made)
    made.resize(460, 120)
    made.show_rows(("saturation", "density"), ROWS)
    made.show()
    made.said = []
    made.toggled.connect(made.said.append)
    return made


def test_a_click_on_a_row_takes_its_parameter_in_or_out(reach):
    QTest.mouseClick(reach, Qt.MouseButton.LeftButton, pos=QPoint(40, HEAD + ROW + 5))
    QTest.mouseClick(reach, Qt.MouseButton.LeftButton, pos=QPoint(400, HEAD + 2 * ROW + 5))
    QTest.mouseClick(reach, Qt.MouseButton.LeftButton, pos=QPoint(40, 5))  # the heads are no row
    assert reach.said == ["Pc of the heavy ends", "k of methane"]


def test_keys_go_from_row_to_row_and_stop_at_the_ends(reach):
    reach.setFocus()
    for key, said in (
        (Qt.Key.Key_Space, "Tc of the heavy ends"),
        (Qt.Key.Key_Down, None),
        (Qt.Key.Key_Return, "Pc of the heavy ends"),
        (Qt.Key.Key_Down, None),
        (Qt.Key.Key_Down, None),
        (Qt.Key.Key_Space, "k of methane"),
        (Qt.Key.Key_Up, None),
        (Qt.Key.Key_Space, "Pc of the heavy ends"),
    ):
        before = len(reach.said)
        QTest.keyClick(reach, key)
        assert reach.said[before:] == ([said] if said else [])
    reach.show_rows((), ())
    QTest.keyClick(reach, Qt.Key.Key_Space)
    QTest.keyClick(reach, Qt.Key.Key_Down)
    assert reach.said[-1] == "Pc of the heavy ends"


def test_rows_are_read_out_and_their_bars_painted(reach, monkeypatch):
    assert reach.accessibleDescription() == "Tc of the heavy ends, fitted; Pc of the heavy ends, not fitted; k of methane, not fitted"  # fmt: skip
    shown = []
    monkeypatch.setattr(QToolTip, "showText", lambda _at, text, _w: shown.append(text))
    at = QPoint(40, HEAD + 5)
    assert reach.event(QHelpEvent(QEvent.Type.ToolTip, at, reach.mapToGlobal(at)))
    assert "Tc of the heavy ends, over its usual width, moves in standard deviations" in shown[0]
    assert "saturation: 3.2" in shown[0]
    light = reach.grab().toImage()
    reach.set_theme(DARK)
    assert reach.grab().toImage() != light
    reach.show_rows(("saturation", "density"), (ReachRow("Tc of the heavy ends", False, (3.2, 0.4)), *ROWS[1:]))
    assert reach.accessibleDescription().startswith("Tc of the heavy ends, not fitted")


def panel(**changes):
    """Return the picture of a density over pressure: three measured values, the model before and after a fit."""
    x = np.array([1e6, 2e6, 3e6, 4e6])
    base = {
        "name": "density", "key": "density_kg_m3", "tests": ("expansion",), "x_key": "pressure_Pa", "x": x, "before": np.array([700.0, 705.0, 710.0, 715.0]),
        "after": np.array([720.0, 726.0, 731.0, 736.0]), "at": x[:3], "measured": np.array([721.0, 726.0, 730.0]), "sigma": np.full(3, 2.0), "rows": (0, 1, 2), "held": False,
    }  # fmt: skip
    return Panel(**{**base, **changes})


@pytest.fixture
def plot(qtbot):
    made = Plot("Match")
    qtbot.addWidget(made)
    made.resize(420, 320)
    made.show()
    return made


def drawn(plot, key):
    kept = plot._items.get(key)
    return tuple(np.asarray(v) for v in kept[1].getData()) if kept is not None and kept[1].isVisible() else None


def test_measured_values_stand_with_their_width_beside_both_models(plot):
    draw_panel(plot, panel(), METRIC)
    for key, values in (("before", panel().before), ("after", panel().after)):
        x, y = drawn(plot, f"line {key}")
        np.testing.assert_allclose(x, [10, 20, 30, 40])
        np.testing.assert_allclose(y, values)
    x, y = drawn(plot, "dots good")
    np.testing.assert_allclose(x, [10, 20, 30])
    np.testing.assert_allclose(y, [721, 726, 730])
    np.testing.assert_allclose(drawn(plot, "line width 1")[1], [724.0, 728.0])
    (low, high), (bottom, top) = plot.box.viewRange()
    assert low < 10.0
    assert 30.0 < high < 40.0  # the view is of what was measured
    assert bottom < 700.0
    assert top > 732.0
    assert plot.x_title.text() == "Pressure, bar"
    assert titled(panel(), METRIC) == "density, kg/m³"


def test_a_bad_row_is_marked_and_what_is_held_out_has_another_sign(plot):
    draw_panel(plot, panel(), METRIC, bad=(1,))
    assert drawn(plot, "dots bad")[0].tolist() == [20.0]
    assert drawn(plot, "dots good")[0].tolist() == [10.0, 30.0]
    draw_panel(plot, panel(held=True), METRIC)
    assert drawn(plot, "dots bad") is None
    assert plot._items["dots good"][1].opts["symbol"] == "s"


def test_one_place_and_no_number_at_all_are_drawn_without_a_line(plot):
    one = panel(x=np.array([2e6]), before=np.array([705.0]), after=None, at=np.array([2e6]), measured=np.array([726.0]), sigma=np.array([2.0]), rows=(0,))  # fmt: skip
    draw_panel(plot, one, METRIC)
    assert drawn(plot, "line before") is None
    assert drawn(plot, "dots one before")[1].tolist() == [705.0]
    nothing = panel(before=np.full(4, np.nan), after=None, measured=np.full(3, np.nan))
    draw_panel(plot, nothing, METRIC)
    assert drawn(plot, "dots good") is None
    assert not plot.framed()


def test_deviations_are_told_before_and_after_and_data_are_given_in_units():
    own = panel()
    before = 100 * np.mean(np.abs(own.before[:3] / own.measured - 1.0))
    after = 100 * np.mean(np.abs(own.after[:3] / own.measured - 1.0))
    assert told(own) == f"before {before:.1f} %   after {after:.1f} %"
    assert told(own, short=True) == f"{after:.1f} %"
    assert told(panel(after=None)) == f"{before:.1f} % off"
    assert told(panel(held=True)).endswith("held out")
    tables = panel_data(own, Units.of("field"))
    assert [t[0] for t in tables] == ["measured", "untuned", "tuned"]
    assert tables[0][1] == ["pressure, psia", "density, lb/ft³"]
    np.testing.assert_allclose(tables[0][2][0], own.at / 6894.757, rtol=1e-6)
    np.testing.assert_allclose(tables[2][2][1], own.after / 16.01846, rtol=1e-6)
    assert [t[0] for t in panel_data(panel(after=None), METRIC)] == ["measured", "untuned"]


def test_a_value_is_marked_by_typing_it_and_nonsense_is_told(plot, monkeypatch):
    plot.set_titles("Temperature, °C", "Pressure, bar")
    plot.begin()
    plot.line("a", [0.0, 100.0], [1.0, 3.0], pen("#000"), name="a")
    plot.end()
    plot.fit_to("a", [0.0, 100.0], [1.0, 3.0])
    said = []
    plot.saved.connect(said.append)
    actions = {a.text(): a for a in plot.menu().actions()}
    assert "Remove the marks" not in actions
    for answer, count in ((("50", True), 1), (("122 degF", True), 2), (("soon", True), 2), (("", True), 2), (("7", False), 2)):  # fmt: skip
        monkeypatch.setattr(QInputDialog, "getText", lambda *_a, answer=answer: answer)
        actions["Mark a value on the horizontal axis…"].trigger()
        assert len(plot.pointer.marks) == count
    assert len(said) == 1
    assert "soon" in said[0]
    assert plot.pointer.marks[1].value == pytest.approx(50.0)
    plot.set_logarithmic(True)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a: ("-3", True))
    plot.pointer.ask(False)
    assert "write a value above zero" in said[-1]
    {a.text(): a for a in plot.menu().actions()}["Remove the marks"].trigger()
    assert plot.pointer.marks == []


def test_a_double_click_shows_everything_again(plot):
    plot.begin()
    plot.line("a", [0.0, 100.0], [1.0, 3.0], pen("#000"))
    plot.end()
    plot.fit_to("a", [0.0, 100.0], [1.0, 3.0])
    plot.fit_x(40.0, 41.0)
    click = type("Click", (), {"double": lambda _self: True})()
    plot.pointer._clicked(click)
    low, high = plot.box.viewRange()[0]
    assert low < 0.0
    assert high > 100.0
    plot.pointer.point_at(QPointF(-50.0, -50.0))
    assert not plot.pointer.told.isVisible()
