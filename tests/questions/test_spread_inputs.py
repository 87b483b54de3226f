"""What is uncertain of a question: cells named beside their sample, deviations in any unit, factors of correlations, and why there is nothing to draw."""

from __future__ import annotations

import json

import numpy as np
import pytest

from ask import answers, faults
from cryonome.document import parse_document
from cryonome.questions.spreading.inputs import groups_of, part_of, read_deviation, read_inputs
from cryonome.questions.spreading.stated import present
from cryonome.results import Evaluator

POINTS = [[0, "290 K"], [10, "385 K"], [30, "495 K"], [50, "592 K"], [70, "701 K"], [90, "863 K"]]
CRUDE = {"name": "Crude", "distillation": {"method": "D86", "points": [[p, f"{float(t.split()[0]) * 0.8 + 60} K"] for p, t in POINTS]}, "bulk": {"density": "33 degAPI"}}  # fmt: skip
ASSAY = {**CRUDE, "name": "Assay", "distillation": {"method": "TBP", "points": POINTS}}
GAS = {"name": "Gas", "parts": [{"component": n, "amount": a} for n, a in (("methane", 85), ("propane", 10), ("n-hexane", 5))]}  # fmt: skip
STATE = {"name": "state", "kind": "flash", "fluid": "Gas", "temperature": "300 K", "pressure": "20 bar"}
OIL = {"name": "oil state", "kind": "flash", "fluid": "Crude", "temperature": "400 K", "pressure": "1 bar"}


def document(*uncertain, of="state", **more):
    spread = {"name": "S", "kind": "spread", "of": of, "samples": 20, "uncertain": list(uncertain), **more}
    return {"format": "cryonome/1", "samples": [CRUDE, ASSAY], "fluids": [GAS], "studies": [STATE, OIL, spread]}


def groups(*uncertain, of="state", which="reproducibility"):
    """Return everything that is uncertain of a question, as it is drawn."""
    from cryonome.document import Reader

    parsed = parse_document(json.dumps(document(*uncertain, of=of)))
    project = Evaluator().at(parsed)
    reader = Reader()
    given = parsed.study("S").uncertain
    cells = read_inputs(given, parsed, reader)
    assert not reader.faults, reader.faults
    return groups_of(given, cells, parsed.study(of), which, project, [])


def deviation(cell, centre, kind, unit=""):
    """Return what a deviation reads as around a value in SI."""
    from cryonome.document import Reader
    from cryonome.questions.kinds.spread import UncertainInput

    reader = Reader()
    scale, middle = present(f"{centre} {unit}", (kind,))
    item = UncertainInput.model_validate({"path": "x", "standard_deviation": cell})
    return read_deviation(item, scale, middle, reader), [f.message for f in reader.faults]  # fmt: skip


@pytest.mark.parametrize(
    ("cell", "centre", "kind", "unit", "wanted"),
    [
        ("2 K", 300.0, "temperature", "K", 2.0), ("3.6 degF", 27.0, "temperature", "degC", 2.0), ("2", 27.0, "temperature", "degC", 2.0), (2, 80.6, "temperature", "degF", 2.0 / 1.8),
        ("1 %", 20.0, "pressure", "bar", 2e4), ("0.5 bar", 20.0, "pressure", "bar", 5e4), ("10 psi", 20.0, "pressure", "bar", 68947.57), (1, 20.0, "pressure", "bar", 1e5),
    ],
)  # fmt: skip
def test_a_deviation_is_a_difference_in_any_unit_or_a_percentage(cell, centre, kind, unit, wanted):
    found, told = deviation(cell, centre, kind, unit)
    assert told == []
    assert found == pytest.approx(wanted, rel=1e-6)


@pytest.mark.parametrize("cell", ["0 K", "-2 K", "2 bar", "wide", "nan K"])
def test_what_is_no_deviation_is_told(cell):
    found, told = deviation(cell, 300.0, "temperature", "K")
    assert found is None
    assert len(told) == 1


def test_a_cell_named_beside_its_sample_is_drawn_once_with_its_own_deviation():
    alone = groups({"sample": "Crude"}, of="oil state")
    curve = next(g for g in alone if len(g.cells) > 1)
    path = "samples[Crude].distillation.points[3][1]"
    both = groups({"path": path, "standard_deviation": "9 K"}, {"sample": "Crude"}, of="oil state")
    cells = [c for g in both for c in g.cells]
    assert len(cells) == len(set(cells)) == sum(len(g.cells) for g in alone)
    own = next(g for g in both if len(g.cells) == 1 and g.cells[0] == ("samples", 0, "distillation", "points", 3, 1))
    assert own.deviation == pytest.approx((9.0,))
    rest = next(g for g in both if len(g.cells) == len(curve.cells) - 1)
    places = [k for k, c in enumerate(curve.cells) if c != own.cells[0]]
    assert rest == part_of(curve, places)
    assert rest.deviation == tuple(curve.deviation[k] for k in places)
    if curve.correlation:
        np.testing.assert_allclose(rest.correlation, np.array(curve.correlation)[np.ix_(places, places)])


def test_repeatability_is_narrower_than_reproducibility():
    wide = groups({"sample": "Crude"}, of="oil state")
    narrow = groups({"sample": "Crude"}, of="oil state", which="repeatability")
    assert [g.cells for g in narrow] == [g.cells for g in wide]
    assert max(narrow[0].deviation) < max(wide[0].deviation)


def test_a_factor_of_a_correlation_has_its_published_deviation_or_the_one_given():
    given = groups({"sample": "Crude", "correlation": "molar_mass", "standard_deviation": "3 %"}, of="oil state")
    (factor,) = given
    assert factor.cells == (("samples", 0, "factors", "molar_mass"),)
    assert (factor.centre, factor.deviation) == ((1.0,), pytest.approx((0.03,)))
    assert (factor.least, factor.most) == ((0.5,), (2.0,))
    found = groups({"sample": "Crude", "correlation": "Tc"}, of="oil state")[0]
    assert 0.001 < found.deviation[0] < 0.1
    told = [f.message for f in faults(document({"sample": "Crude", "correlation": "colour"}, of="oil state"))]
    assert told == ["'colour' is not possible here; use 'molar_mass' or 'Tc' or 'Pc'"]
    told = [f.message for f in faults(document({"fluid": "Gas", "correlation": "Tc"}, of="oil state"))]
    assert any("a correlation is that of a sample; name the sample as well" in m for m in told)


def test_nothing_that_is_uncertain_is_said_with_what_would_do():
    (answer,) = [a for n, a in answers(document(of="oil state", uncertain=[])).items() if n == "S"]
    assert answer["ok"]  # D86 states its precision
    data = document()
    data["studies"][1]["fluid"] = "Assay"
    data["studies"][2]["of"] = "oil state"
    (density,) = answers(data)["S"]["uncertain"]  # TBP states no precision, the density's method does
    assert density["source"] == "reproducibility of density, ASTM D4052"
    lone = {"format": "cryonome/1", "fluids": [{"name": "P", "parts": [{"component": "propane", "amount": 1}]}], "studies": [{**STATE, "fluid": "P"}, {"name": "S", "kind": "spread", "of": "state", "samples": 20}]}  # fmt: skip
    told = answers(lone)["S"]
    assert not told["ok"]
    assert "name the inputs under uncertain, each with its standard deviation" in told["error"]


@pytest.mark.parametrize(
    ("item", "words"),
    [
        ({"match": "none"}, "unknown match 'none'"),
        ({"match": "state"}, "'state' is a question of kind flash; name a match"),
        ({"sample": "Nobody"}, "Nobody"),
        ({"fluid": "Nobody"}, "Nobody"),
        ({"path": "fluids[Gas].parts[methane].amount", "standard_deviation": "1 %", "repeatability": "2 %"}, "give either a standard deviation or a repeatability"),
        ({"path": "fluids[Gas].parts[methane].amount"}, "how uncertain it is is missing"),
        ({"path": "fluids[Gas].parts[methane].component", "standard_deviation": "1 %"}, "cannot be varied"),
    ],
)  # fmt: skip
def test_an_input_that_is_none_is_told(item, words):
    told = [f.message for f in faults(document(item))]
    assert any(words in m for m in told), told


def test_a_repeatability_is_that_of_two_results_of_one_operator():
    """r is 2.77 standard deviations (ISO 4259-1, 2017, 3.6)."""
    by_r = groups({"path": "studies[state].temperature", "repeatability": "2.77 K"})[0]
    by_s = groups({"path": "studies[state].temperature", "standard_deviation": "1 K"})[0]
    assert by_r.deviation[0] == pytest.approx(by_s.deviation[0], rel=1e-3)


def test_a_composition_is_drawn_as_one_and_stays_closed():
    (group,) = groups({"fluid": "Gas"})
    assert len(group.cells) == 3
    assert group.closed
    assert sum(group.centre) == pytest.approx(100.0)
    assert part_of(group, [0, 2]).cells == (group.cells[0], group.cells[2])
    assert not part_of(group, [0, 2]).closed
