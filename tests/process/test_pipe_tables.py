"""The table of pipes digit by digit, and names of sizes as people write them."""

from __future__ import annotations

import pytest

from cryonome.process.pipe_sizes import INCH, SCHEDULES, pipe_sizes, size_named

# ASME B36.10M (2018), table 1: outside diameters and walls, in.
OUTSIDE = {"1/2": 0.840, "3/4": 1.050, "1": 1.315, "1-1/4": 1.660, "1-1/2": 1.900, "2": 2.375, "2-1/2": 2.875, "3": 3.5, "3-1/2": 4.0, "4": 4.5, "5": 5.563, "6": 6.625,
           "8": 8.625, "10": 10.75, "12": 12.75, "14": 14, "16": 16, "18": 18, "20": 20, "22": 22, "24": 24, "26": 26, "28": 28, "30": 30, "32": 32, "34": 34, "36": 36,
           "38": 38, "40": 40, "42": 42, "44": 44, "46": 46, "48": 48}  # fmt: skip
WALLS = {
    "STD": {"1/2": 0.109, "3/4": 0.113, "1": 0.133, "1-1/4": 0.140, "1-1/2": 0.145, "2": 0.154, "2-1/2": 0.203, "3": 0.216, "3-1/2": 0.226, "4": 0.237, "5": 0.258, "6": 0.280, "8": 0.322, "10": 0.365, "12": 0.375, "24": 0.375, "36": 0.375, "48": 0.375},
    "XS": {"1/2": 0.147, "3/4": 0.154, "1": 0.179, "1-1/4": 0.191, "1-1/2": 0.200, "2": 0.218, "2-1/2": 0.276, "3": 0.300, "3-1/2": 0.318, "4": 0.337, "5": 0.375, "6": 0.432, "8": 0.500, "10": 0.500, "12": 0.500, "24": 0.500, "36": 0.500},
    "XXS": {"1/2": 0.294, "3/4": 0.308, "1": 0.358, "1-1/4": 0.382, "1-1/2": 0.400, "2": 0.436, "2-1/2": 0.552, "3": 0.600, "4": 0.674, "5": 0.750, "6": 0.864, "8": 0.875, "10": 1.000, "12": 1.000},
    "40": {"1": 0.133, "4": 0.237, "8": 0.322, "10": 0.365, "12": 0.406, "14": 0.438, "16": 0.500, "18": 0.562, "20": 0.594, "24": 0.688},
    "80": {"1": 0.179, "4": 0.337, "8": 0.500, "10": 0.594, "12": 0.688, "14": 0.750, "16": 0.844, "18": 0.938, "20": 1.031, "24": 1.219},
    "160": {"1/2": 0.188, "3/4": 0.219, "1": 0.250, "1-1/4": 0.250, "1-1/2": 0.281, "2": 0.344, "2-1/2": 0.375, "3": 0.438, "4": 0.531, "5": 0.625, "6": 0.719, "8": 0.906, "10": 1.125, "12": 1.312, "14": 1.406, "16": 1.594, "18": 1.781, "20": 1.969, "24": 2.344},
    "20": {"8": 0.250, "10": 0.250, "12": 0.250, "14": 0.312, "16": 0.312, "18": 0.312, "20": 0.375, "24": 0.375},
    "30": {"8": 0.277, "10": 0.307, "12": 0.330, "14": 0.375, "16": 0.375, "18": 0.438, "20": 0.500, "24": 0.562},
}  # fmt: skip


def test_outside_diameters_are_those_of_the_standard():
    assert {s.nominal for s in pipe_sizes()} == set(OUTSIDE)
    for size in pipe_sizes():
        assert size.outside == pytest.approx(OUTSIDE[size.nominal] * INCH), size.nominal


@pytest.mark.parametrize("schedule", WALLS)
def test_walls_are_those_of_the_standard(schedule):
    assert schedule in SCHEDULES
    for nominal, wall in WALLS[schedule].items():
        size = size_named(nominal)
        assert size.walls[schedule] == pytest.approx(wall * INCH, abs=1e-9), nominal
        assert size.inside(schedule) == pytest.approx((OUTSIDE[nominal] - 2.0 * wall) * INCH, abs=1e-9)


@pytest.mark.parametrize(
    ("written", "nominal"),
    [("4", "4"), ("4 in", "4"), ('4"', "4"), (" 1 1/2 inch ", "1-1/2"), ("1-1/2", "1-1/2"), ("1 1/2", "1-1/2"), ("4.5", None), ("", None), ("7", None)],
)  # fmt: skip
def test_a_size_is_found_as_it_is_written(written, nominal):
    found = size_named(written)
    assert (found.nominal if found else None) == nominal


def test_a_pipe_the_standard_does_not_have_has_no_bore():
    assert size_named("1/2").inside("20") is None
    assert size_named("48").inside("160") is None
