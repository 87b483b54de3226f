"""The pages of limits and their layers of the map: numbers of the answers, doses and stations dragged, stations pasted."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QMouseEvent

from ask import fill
from cryonome.app.widgets.theme import DARK
from cryonome.document import FluidPart
from cryonome.document.edits import add_study, set_each
from cryonome.document.kinds import study_kinds
from cryonome.fluids.map_lines import curves
from cryonome.results.hydrates import HydrateLines
from cryonome.wording.cells import named_cells

STREAM = "Quillmoor wet stream"


def opened(window, name: str):
    window.open_study(name)
    window.live.come_to_rest()
    return window.desks[window.current]


def drag(desk, start: tuple[float, float], end: tuple[float, float]) -> None:
    """Drag on a plot from one place to another, T K and P Pa."""
    plot, frame = desk.plots[0], (desk.frame if hasattr(desk, "frame") else desk._frame)()
    places = []
    for T, P in (start, end):
        x, y = frame.xy(T, P)
        places.append(QPointF(plot.view.mapFromScene(plot.box.mapViewToScene(QPointF(float(x[0]), float(y[0]))))))
    kinds = (QEvent.Type.MouseButtonPress, QEvent.Type.MouseMove, QEvent.Type.MouseButtonRelease)
    for kind, place in zip(kinds, (places[0], places[1], places[1])):
        held = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseButtonRelease else Qt.MouseButton.LeftButton
        button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else Qt.MouseButton.LeftButton
        event = QMouseEvent(
            kind, place, plot.view.viewport().mapToGlobal(place), button, held, Qt.KeyboardModifier.NoModifier
        )
        QGuiApplication.sendEvent(plot.view.viewport(), event)


def test_the_handle_doses_the_water_and_the_limit_follows(window):
    desk = opened(window, "cold line hydrates")
    assert window.current == "hydrates"
    before = desk.answer()["points"][0]["temperature_K"]
    lines = desk.lines()
    assert isinstance(lines, HydrateLines)
    assert lines.doses[:3] == ((), (("methanol", 0.25),), (("methanol", 0.1),))
    assert "Without methanol it would be" in desk.found.text()
    steps = window.store.undo_stack.count()
    desk.handle.setSliderDown(True)
    for value in (260, 300, 320):
        desk.handle.setValue(value)
    desk.handle.setSliderDown(False)
    window.live.come_to_rest()
    study = window.store.document.study("cold line hydrates")
    assert study.inhibitors == {"methanol": "32 wt%"}
    assert window.store.undo_stack.count() == steps + 1
    assert desk.answer()["points"][0]["temperature_K"] < before - 3.0
    assert desk.lines().doses[1] == (("methanol", 0.32),)
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert desk.answer()["points"][0]["temperature_K"] == before
    window.set_theme(DARK)
    assert not desk.grab().isNull()


def test_a_water_content_is_read_among_the_limits_in_the_units_chosen(window):
    desk = opened(window, "Selden dryness")
    assert window.current == "hydrates"
    rows = desk.answer()["rows"]
    driest = min(r["vapour_water_kg_mol"] for r in rows)
    assert desk.found.text() == "11.1 mg/Sm³ at −20.0 °C and 100.0 bar, then hydrate II forms."
    assert driest * 1e6 / 0.0236448 == pytest.approx(11.06, abs=0.05)
    assert len(desk._points(desk.study(), desk.answer())) == len(rows) == 22
    assert desk.shown.titles()[3:5] == [("vapour water", "mg/Sm³"), ("over liquid water", "mg/Sm³")]
    window.store.edit("x", lambda d: set_each(d, {("display", "units"): "field"}))
    window.live.come_to_rest()
    assert "lb/MMscf at −4.0 °F" in desk.found.text()


def test_inhibitors_are_typed_as_they_are_said_and_wrong_ones_told(window):
    assert named_cells("methanol 20 wt%, NaCl: 3") == {"methanol": "20 wt%", "NaCl": 3}
    desk = opened(window, "cold line hydrates")
    assert "with 25 wt% methanol" in desk.bar.text()
    fill(desk, ("inhibitors", "methanol"), "30 wt% ethylene glycol, NaCl 2 wt%")
    window.live.come_to_rest()
    assert "with 30 wt% ethylene glycol and 2 wt% NaCl" in desk.bar.text()
    fill(desk, ("inhibitors", "NaCl"), "")
    # The handle doses what is there under another name as well.
    fill(desk, ("inhibitors", "ethylene glycol", "key"), "MeOH")
    window.live.come_to_rest()
    desk.handle.setValue(150)
    window.live.come_to_rest()
    assert window.store.document.study("cold line hydrates").inhibitors == {"MeOH": "15 wt%"}
    fill(desk, ("inhibitors", "MeOH", "key"), "sugar")
    window.live.come_to_rest()
    assert "activities of water with 'sugar'" in desk.told.text()
    dose = opened(window, "methanol dose")
    assert dose.found.text().startswith("31.6 wt% in the water")


def test_stations_are_pasted_dragged_and_taken_back(window):
    desk = opened(window, "cold line, shut-in")
    assert window.current == "path"
    assert "inside the hydrate limit, at Riser base" in desk.found.text()
    assert desk.stations.text(1, 5).startswith("−")
    desk.stations.paste(3, 0, [["Flare", "2 degC", "20 bar"], ["Tank", "60 degF", "14.7 psia"]])
    window.live.come_to_rest()
    assert [s.name for s in window.store.document.study("cold line, shut-in").stations][3:] == ["Flare", "Tank"]
    assert desk.stations.rows() == 6
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    asked = window.live.asked(desk.study())
    steps = window.store.undo_stack.index()
    drag(desk, (asked.T[1], asked.P[1]), (290.0, 1.6e7))
    window.live.come_to_rest()
    moved = window.live.asked(desk.study())
    assert moved.T[1] == pytest.approx(290.0, abs=0.3)
    assert moved.P[1] == pytest.approx(1.6e7, rel=0.02)
    assert window.store.undo_stack.index() == steps + 1
    assert window.store.document.study("cold line, shut-in").stations[1].temperature.endswith("degC")
    assert desk.answer()["stations"][1]["margins"]["hydrate_margin_K"] > 5.0
    desk.stations.store_cells({(0, 1): "hot"}, "x")
    window.live.come_to_rest()
    assert "temperature" in desk.told.text()
    assert desk.stations.fault(0, 1)


def test_the_map_carries_limits_and_paths_of_its_fluid(window):
    window.live.select_fluid(STREAM)
    window.show_desk("map")
    window.live.come_to_rest()
    desk = window.desks["map"]
    assert [p.name for p in desk.layers.paths()] == ["cold line, normal", "cold line, shut-in"]
    lines = desk.layers.hydrates()
    assert lines.doses == ((), (("methanol", 0.25),))
    shown = window.live.answer("cold line hydrates").value["points"]
    first = [p for p in shown if p["stable"]]
    on_map = np.interp(np.log([p["pressure_Pa"] for p in first]), np.log(lines.P), lines.first[1])
    assert on_map == pytest.approx([p["temperature_K"] for p in first], abs=0.05)
    start = window.live.asked(window.store.document.study("cold line, normal"))
    drag(desk, (start.T[1], start.P[1]), (340.0, 1.5e7))
    window.live.come_to_rest()
    assert window.live.asked(window.store.document.study("cold line, normal")).T[1] == pytest.approx(340.0, abs=1.0)
    desk.chips["paths"].click()
    desk.chips["hydrates"].click()
    window.live.come_to_rest()
    assert (desk.layers.paths(), desk.layers.hydrates()) == ([], None)


def test_the_vapour_pressure_page_marks_limit_and_tests(window):
    desk = opened(window, "export specification")
    assert window.current == "vapour"
    assert "keeps under 0.25 bar up to 62.7 °C" in desk.found.text()
    assert desk._data()[0][2][1][0] == pytest.approx(desk.answer()["curve"][0]["TVP_Pa"] / 1e5)
    fill(desk, ("limit",), "1 atm")
    window.live.come_to_rest()
    assert desk.answer()["limit_temperature_K"] > 380.0
    # Dissolved air is on or off, in words.
    desk.bar.show_whole()
    air = desk.bar.fields[("air",)]
    assert (air.edit.text(), list(air.blank.choices.values())) == (
        "saturated with air",
        ["saturated with air", "free of air"],
    )
    with_air = desk.answer()["RVP_Pa"]
    fill(desk, ("air",), "free of air")
    window.live.come_to_rest()
    assert window.store.document.study("export specification").air is False
    assert desk.answer()["RVP_Pa"] < with_air
    # A word that says neither is kept and told at its cell.
    fill(desk, ("air",), "perhaps")
    window.live.come_to_rest()
    assert desk.bar.fields[("air",)].edit.text() == "perhaps"
    assert "neither yes nor no" in desk.bar.fields[("air",)].blank.fault
    fill(desk, ("air",), "yes")
    window.live.come_to_rest()
    assert desk.answer()["RVP_Pa"] == with_air


def test_the_map_carries_the_vapour_pressure_and_the_blend_that_a_goal_finds(window):
    goal = study_kinds()["goal"].model(
        name="butane", kind="goal", of="export specification", read="RVP_Pa", target="0.3 bar",
        vary={"path": "fluids[Varnholt stock-tank oil].parts[n-butane].amount", "between": (0, 20)},
    )  # fmt: skip
    butane = FluidPart(component="n-butane", amount=1)
    path = next(i for i, f in enumerate(window.store.document.fluids) if f.name == "Varnholt stock-tank oil")
    parts = (*window.store.document.fluids[path].parts, butane)
    window.store.edit("x", lambda d: add_study(set_each(d, {("fluids", path, "parts"): parts}), goal))
    window.live.select_fluid("Varnholt stock-tank oil")
    window.show_desk("map")
    window.live.come_to_rest()
    desk = window.desks["map"]
    _, plain, blend = desk.layers.vapour_pressures()
    # The corner of the limit lies on the bubble line that is traced; the blend's line passes the Reid pressure a little above, without air.
    (T, P), *_ = [(T, P) for _, T, P in curves(window.live.envelope(), [0.0]) if T.min() < plain.hold < T.max()]
    rising = np.argsort(T)
    assert np.exp(np.interp(plain.hold, T[rising], np.log(P[rising]))) == pytest.approx(plain.limit, rel=0.01)
    assert {n: P for n, _, P in plain.marks}["TVP"] == window.live.answer(plain.name).value["TVP_Pa"]
    found = window.live.answer("butane").value
    assert blend.name == "butane"
    assert np.interp(310.95, *blend.curve) == pytest.approx(3e4, rel=0.12)
    assert found["answer"]["RVP_Pa"] == pytest.approx(3e4, rel=1e-8)
    desk.chips["vapour_pressures"].click()
    window.live.come_to_rest()
    assert desk.layers.vapour_pressures() == []
    assert not any(item.isVisible() for key, (_, item) in desk.plot._items.items() if key.startswith("line blend"))
