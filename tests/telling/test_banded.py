"""The curves that may carry a band are those of the answer, named one by one, and none where a sample would move no curve."""

from __future__ import annotations

import numpy as np
import pytest

from ask import answers
from cryonome.telling.banded import BANDED, MARGINS, NONE, PATHS, banded
from cryonome.telling.panels import PANELS

FLUID = {"name": "Gas", "parts": [{"component": n, "amount": a} for n, a in (("methane", 85), ("ethane", 8), ("propane", 4), ("n-butane", 3))]}  # fmt: skip
ASKED = {
    "envelope": {"vapour_fractions": [0, 0.5, 1], "vapour_volume_fractions": [0.2]},
    "hydrate": {"pressures": {"from": "20 bar", "to": "100 bar", "steps": 4}},
    "path": {"stations": [{"name": n, "temperature": t, "pressure": p} for n, t, p in (("well", "60 degC", "120 bar"), ("base", "8 degC", "100 bar"), ("top", "6 degC", "95 bar"))]},
    "table": {"axes": [{"variable": "pressure", "values": ["10 bar", "50 bar", "90 bar"]}], "temperature": "40 degC", "properties": ["density_kg_m3", "vapour.Z"]},
}  # fmt: skip


@pytest.fixture(scope="module")
def given():
    """Return an answer of each kind that has a picture of its own."""
    studies = [{"name": k, "kind": k, "fluid": "Gas", **cells} for k, cells in ASKED.items()]
    found = answers({"format": "cryonome/1", "fluids": [FLUID], "studies": studies})
    assert all(a["ok"] for a in found.values()), {k: a.get("error") for k, a in found.items()}
    return found


def test_every_line_of_an_envelope_has_a_name_of_its_own(given):
    (panel,) = banded("envelope", given["envelope"])
    names = [c.name for c in panel.curves]
    assert len(set(names)) == len(names)
    assert {"bubble line", "dew line", "0.5 vapour", "0.2 vapour by volume"} <= set(names)
    for curve, line in zip(panel.curves, given["envelope"]["lines"]):
        np.testing.assert_array_equal(curve.x, line["temperature_K"])
        np.testing.assert_array_equal(curve.y, line["pressure_Pa"])
        assert curve.share == line["vapour_fraction"]
    twice = {"lines": [given["envelope"]["lines"][0]] * 2}
    assert [c.name for c in banded("envelope", twice)[0].curves][1].endswith(" 2")


def test_a_hydrate_limit_is_that_of_what_forms_first(given):
    (panel,) = banded("hydrate", given["hydrate"])
    (curve,) = panel.curves
    stable = [p for p in given["hydrate"]["points"] if p["stable"] and p["hydrate_side"] == "colder"]
    assert len(curve.x) == 5
    assert sorted(curve.y) == pytest.approx([2e6, 4e6, 6e6, 8e6, 1e7])
    by_pressure = {p["pressure_Pa"]: p["temperature_K"] for p in reversed(stable)}
    for T, P in zip(curve.x, curve.y):
        assert pytest.approx(by_pressure[P]) == T


def test_margins_go_station_by_station(given):
    (panel,) = banded("path", given["path"])
    names = [c.name for c in panel.curves]
    assert set(names) <= set(MARGINS.values())
    assert "hydrate" in names
    own = panel.curves[names.index("hydrate")]
    assert list(own.x) == [1.0, 2.0, 3.0]
    assert list(own.y) == [s["margins"]["hydrate_margin_K"] for s in given["path"]["stations"]]


def test_a_table_of_one_axis_has_a_curve_a_property_and_one_of_two_none(given):
    panels = banded("table", given["table"])
    assert [p.y for p in panels] == ["density_kg_m3", "vapour.Z"]
    for panel in panels:
        (curve,) = panel.curves
        np.testing.assert_allclose(curve.x, [1e6, 5e6, 9e6])
        np.testing.assert_allclose(curve.y, given["table"]["properties"][panel.y])
    assert banded("table", {**given["table"], "axes": [[1.0], [2.0]]}) == []


def test_a_vapour_pressure_has_its_curve_and_its_ratios_where_there_are_several():
    curve = [{"temperature_K": 300.0, "TVP_Pa": 1e5}, {"temperature_K": 310.0, "TVP_Pa": 1.4e5}]
    ratios = [{"ratio": 0.02, "pressure_Pa": 2e5}, {"ratio": 4.0, "pressure_Pa": 1e5}]
    both = banded("vapour_pressure", {"curve": curve, "VPCR": ratios})
    assert [p.curves[0].name for p in both] == ["true vapour pressure", "VPCR"]
    assert banded("vapour_pressure", {"curve": curve, "VPCR": ratios[:1]})[0].curves[0].name == "true vapour pressure"
    assert banded("vapour_pressure", {"VPCR": ratios[:1]}) == []


def test_kinds_without_curves_have_no_bands(given):
    for kind in NONE:
        assert banded(kind, {}) == []
    assert banded("no such kind", {}) == []
    assert set(PATHS) <= set(BANDED)
    assert not set(BANDED) & set(NONE)
    assert set(NONE) <= set(PANELS) | {"advice", "components", "lumping", "separator_optimum", "spread"}
