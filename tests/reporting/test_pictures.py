"""Pictures drawn without a window: nothing outside the frame, round ticks, names that lie apart."""

from __future__ import annotations

import math
import re
import xml.etree.ElementTree as ET

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.reporting import ticks
from cryonome.reporting.figure import Area, Figure, Mark, Stroke
from cryonome.reporting.svg import HEIGHT, WIDTH, draw, extent

FRAME = (44.0, 18.0, WIDTH - 12.0, HEIGHT - 32.0)
NAME = "{http://www.w3.org/2000/svg}"


def drawn(figure):
    return ET.fromstring(draw(figure))


def points_of(svg, tag):
    return [[tuple(map(float, p.split(","))) for p in e.get("points").split()] for e in svg.iter(f"{NAME}{tag}")]


@given(
    st.lists(st.tuples(st.floats(-3, 3), st.floats(-3, 3)), min_size=2, max_size=30),
    st.floats(0.2, 1.0),
)
def test_lines_and_areas_are_clipped_at_the_frame_and_run_on_inside(corners, half):
    x, y = zip(*corners)
    figure = Figure(
        "x", "y", (Stroke("", x, y),), (Area(x, y, "#123456"),), x_range=(-half, half), y_range=(-half, half)
    )
    svg = drawn(figure)
    for line in [*points_of(svg, "polyline"), *points_of(svg, "polygon")]:
        for a, b in line:
            assert FRAME[0] - 0.02 <= a <= FRAME[2] + 0.02
            assert FRAME[1] - 0.02 <= b <= FRAME[3] + 0.02
    inside = [k for k in range(len(x)) if abs(x[k]) < half and abs(y[k]) < half]
    drawn_points = [p for line in points_of(svg, "polyline") for p in line]
    moving = any(c != corners[0] for c in corners)
    for k in inside if moving else ():
        at = (
            FRAME[0] + (x[k] + half) / (2 * half) * (FRAME[2] - FRAME[0]),
            FRAME[3] - (y[k] + half) / (2 * half) * (FRAME[3] - FRAME[1]),
        )
        assert min(math.dist(at, p) for p in drawn_points) < 0.02


@given(st.floats(-1e5, 1e5), st.floats(1e-3, 1e6))
def test_ticks_are_round_lie_within_and_are_told_apart(low, span):
    high = low + span
    found = ticks.linear(low, high)
    step = found[1] - found[0] if len(found) > 1 else span
    assert all(low - 1e-6 * span <= v <= high + 1e-6 * span for v in found)
    assert 2 <= len(found) <= 13
    lead = step / 10.0 ** math.floor(math.log10(step) + 1e-9)
    assert min(abs(lead - s) for s in (1.0, 2.0, 5.0)) < 1e-6
    if max(map(abs, found)) < 1e6 and step > 1e-4 * max(map(abs, found)):
        texts = [ticks.text(v, step) for v in found]
        assert len(set(texts)) == len(texts)


def test_names_of_marks_and_lines_do_not_lie_on_one_another():
    marks = tuple(Mark(f"station {i}", 50.0 + i % 3, 50.0 + i // 3) for i in range(9))
    lines = tuple(Stroke(f"line {i}", (0.0, 100.0), (10.0 * i, 10.0 * i + 5.0)) for i in range(9))
    svg = drawn(Figure("x", "y", lines, (), marks))
    boxes = []
    for e in svg.iter(f"{NAME}text"):
        if e.text.startswith(("station", "line")):
            half, x, y = 0.5 * extent(e.text, 7.5), float(e.get("x")), float(e.get("y"))
            boxes.append((x - half, y - 7.5, x + half, y))
    assert len(boxes) >= 12
    for i, a in enumerate(boxes):
        for b in boxes[:i]:
            assert not (a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3])


@pytest.mark.parametrize("figure", [
    Figure("x", "y", (Stroke("<&>", (1.0, 1.0), (2.0, 2.0)),)),
    Figure("x", "y", (Stroke("one", (5.0,), (5.0,), marker="o"),)),
    Figure("x", "y", (Stroke("log", (0.0, 1e-3, 1e3), (1.0, 2.0, math.nan)),), x_log=True),
    Figure("x", "y", (Stroke("", (1.0, 2.0), (0.0, 1.0), marker="d"),), rows=("a very long name " * 9, "b")),
])  # fmt: skip
def test_strange_pictures_are_still_pictures(figure):
    svg = draw(figure)
    ET.fromstring(svg)
    assert not re.search(r"\bnan\b|\binf\b", svg)
