"""Diagrams over other variables: isolines, the state pointed at, kept states, and a change of the fluid."""

from __future__ import annotations

import numpy as np
import pytest

from ask import fluid_of
from cryonome.equilibrium.phase_map import phase_map
from cryonome.fluids.diagrams import DIAGRAMS, diagram, state_of
from cryonome.fluids.states import full_states
from cryonome.results import Evaluator
from cryonome.watch import UNWATCHED
from window_demo import demo_document


def test_isobars_of_one_component_are_level_where_it_boils_and_places_lead_back():
    document = demo_document()
    model = fluid_of(document, [f.name for f in document.fluids].index("Injection carbon dioxide"))
    found = diagram(model, phase_map(model.eos, model.z), (0.0, 1.0))
    boiling = 0
    for iso in found.isolines:
        if iso.of == "pressure":
            T, S = iso.states["temperature"], iso.states["entropy"]
            assert (np.diff(S) > -1e-9).all()
            boiling += int((np.diff(T) == 0.0).sum())
    assert boiling > 3
    T, P = 320.0, 4e6
    values = full_states(model, [T], [P], ("molar_volume", "density", "enthalpy", "entropy")).values.whole
    at = {"temperature": T, "pressure": P, **{k: float(v[0]) for k, v in values.items()}}
    for pair in DIAGRAMS.values():
        found = state_of(model, {k: at[k] for k in pair}).phases
        assert (found.T[0], found.P[0]) == pytest.approx((T, P), rel=1e-7), pair
    assert state_of(model, {"density": 5000.0, "temperature": 300.0}) is None
    assert state_of(model, {"molar_volume": -1.0, "temperature": 300.0}) is None


def test_the_picture_and_the_place_pointed_at(window):
    w = window
    w.live.select_fluid("Injection carbon dioxide")
    w.show_desk("diagrams")
    w.live.come_to_rest()
    desk = w.desks["diagrams"]
    for kind in DIAGRAMS:
        desk.choose(kind)
        assert len(desk.plot.data()) > 8
    desk.choose("P–H")
    w.live.ask_place({"enthalpy": -5e3, "pressure": 30e5})
    w.live.come_to_rest()
    states = w.live.results["place"].value
    assert float(states.values.whole["enthalpy"][0]) == pytest.approx(-5e3, abs=1e-2)
    assert "liquid" in desk.shares.text()
    assert "vapour" in desk.shares.text()
    w.live.ask_place({"enthalpy": 1e9, "pressure": 30e5})
    w.live.come_to_rest()
    assert "no state" in desk.note.text()


def test_a_wet_fluid_is_whole_where_three_phases_meet():
    document = demo_document()
    project = Evaluator().at(document)
    fluid = document.fluid("Quillmoor wet stream")
    found = project.regions(fluid, UNWATCHED, (0.75,))
    shown = diagram(project.fluid(fluid), project.map(fluid, (0.0, 0.75, 1.0)), (0.0, 0.75, 1.0), found=found)
    (T, P) = found.corners[0]
    # Dew line, the boundaries without oil and without water end there in one state.
    ends = [
        (v["enthalpy"][k], v["molar_volume"][k])
        for v in [*(v for f, v in shown.lines if f in (0.0, 1.0)), *shown.water]
        for k in (0, -1)
        if abs(v["temperature"][k] / T - 1.0) < 1e-9 and abs(v["pressure"][k] / P - 1.0) < 1e-9
    ]
    assert len(ends) >= 3
    np.testing.assert_allclose(ends, [ends[0]] * len(ends), rtol=1e-5)
    assert any(f == 0.75 and v["temperature"].min() < 250.0 for f, v in shown.lines)
