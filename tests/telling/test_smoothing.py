"""Lines as they are drawn: through their points, without bumps, with corners where a phase forms."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from cryonome import open_demo
from cryonome.equilibrium.extremes import with_stable_extremes
from cryonome.equilibrium.phase_map import phase_map
from cryonome.reporting.maps import axes_of_map, behind, envelope
from cryonome.results import Evaluator
from cryonome.telling import Units
from cryonome.telling.map_view import COLDEST, HEADROOM, LEAST_TOP, summits, view_of, view_of_map
from cryonome.telling.smoothing import smoothed
from mixtures import mixture


@given(arrays(float, st.integers(4, 20), elements=st.floats(0.1, 5.0)), st.data())
def test_a_line_goes_through_its_points_and_no_higher(steps, data):
    x = np.cumsum(steps)
    y = data.draw(arrays(float, x.size, elements=st.floats(-50.0, 50.0)))
    fine, line = smoothed(x, y)
    assert fine[[0, -1]] == pytest.approx(x[[0, -1]])
    for a, b, p, q in zip(x[:-1], x[1:], y[:-1], y[1:]):
        inside = line[(fine >= a) & (fine <= b)]
        assert inside.size
        assert (inside >= min(p, q) - 1e-9).all()
        assert (inside <= max(p, q) + 1e-9).all()


@pytest.mark.parametrize("there", [True, False], ids=["a point at the corner", "none"])
def test_a_line_keeps_the_corner_where_a_phase_forms(there):
    """A relative volume: stiff above the bubble point at 200, soft below."""
    x = np.array([100.0, 140.0, 180.0, *([200.0] if there else []), 240.0, 280.0, 320.0, 360.0])
    y = np.where(x <= 200.0, (200.0 / x) ** 1.4, 1.0 - 2e-4 * (x - 200.0))
    fine, line = smoothed(x, y, [200.0])
    above = fine >= (200.0 if there else 240.0)
    assert line[above] == pytest.approx(1.0 - 2e-4 * (fine[above] - 200.0), abs=1e-9)
    if there:
        before = (fine < 200.0) & (fine > 195.0)
        slope = (line[before][-1] - 1.0) / (fine[before][-1] - 200.0)
        assert slope < 20.0 * -2e-4
    # Told from the other end it is the same line.
    back = smoothed(x[::-1], y[::-1], [200.0])
    assert np.interp(fine, *back) == pytest.approx(line, abs=1e-12)


def test_what_turns_back_and_what_is_short_is_left_as_it_is():
    for x in ([1.0, 2.0, 1.5, 3.0], [1.0, 2.0, 3.0]):
        fine, line = smoothed(np.array(x), np.arange(float(len(x))))
        assert fine.tolist() == x
        assert line.tolist() == list(range(len(x)))


@pytest.mark.parametrize("name", ["lean gas", "condensate", "crude", "sour gas"])
def test_a_map_shows_its_summits_and_marks_and_no_line_presses_it_flat(name):
    whole = phase_map(*mixture(name))
    lines = [(p.T, p.P) for p in whole.parts]
    view = view_of(lines, summits(whole))
    assert view is not None
    T = np.concatenate([a for a, _ in lines])
    assert view.hot > T.max()
    assert view.cold == (T.min() if T.max() < 300.0 else max(T.min(), COLDEST))
    assert view.top >= max(p for p in summits(whole) if p <= max(b.max() for _, b in lines)) * (1.0 - 1e-9)
    assert view.top <= max(HEADROOM * max(summits(whole)), LEAST_TOP)
    assert view_of(lines, summits(whole), [3e8]).top == 3e8
    endless = [*lines, (np.array([250.0, 249.0]), np.array([1e5, 9e8]))]
    assert view_of(endless, summits(whole)).top <= max(HEADROOM * max(summits(whole)), LEAST_TOP)
    assert view_of([]) is None


def test_a_map_of_a_wet_fluid_shows_the_summit_that_lies_on_a_boundary_of_three_phases():
    hub = open_demo()
    fluid = hub.document.fluid("Quillmoor wet stream")
    project = Evaluator().at(hub.document)
    whole, regions = project.map(fluid), project.regions(fluid)
    stable = with_stable_extremes(whole, regions).cricondenbar
    assert stable is not None
    assert max(p.P.max() for p in whole.parts if p.beta in (0.0, 1.0)) < stable.P
    view = view_of_map(whole, regions.bounds)
    assert view.top == pytest.approx(stable.P, rel=1e-3)
    assert view_of_map(whole).top < stable.P
    # So it is where the map is drawn: behind other things on paper, and as the answer to the question for it.
    axes = axes_of_map(hub.document, Units.of("SI"))
    assert behind("Quillmoor wet stream", project, axes)[1].top == view.top
    answer = hub.ask("phase envelope of Quillmoor wet stream").answer
    figure = envelope(answer, axes)
    assert answer["cricondenbar"]["pressure_Pa"] == pytest.approx(stable.P, rel=1e-6)
    assert figure.y_range[1] >= axes.P.plain(stable.P)
