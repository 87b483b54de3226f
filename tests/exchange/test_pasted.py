"""Numbers from elsewhere, pasted beside an answer: found by their names, in the units they were written in, or refused with what would be right."""

from __future__ import annotations

import pytest

from ask import answers
from cryonome.errors import DomainError
from cryonome.exchange.pasted import read_pasted

FLUID = {"name": "F", "parts": [{"component": n, "amount": a} for n, a in (("methane", 60), ("propane", 25), ("n-hexane", 15))]}  # fmt: skip
STATE = {"name": "state", "kind": "flash", "fluid": "F", "temperature": "20 degC", "pressure": "20 bar"}
P = "studies[state].pressure"
SWEEP = {"name": "sweep", "kind": "sweep", "of": "state", "vary": {"path": P, "from": "10 bar", "to": "30 bar", "steps": 2}, "read": ["vapour_fraction", "phases.liquid.density_kg_m3"]}  # fmt: skip
AXES = [{"variable": "temperature", "values": ["20 degC", "40 degC"]}, {"variable": "pressure", "values": ["10 bar", "20 bar", "30 bar"]}]  # fmt: skip
TABLE = {"name": "table", "kind": "table", "fluid": "F", "axes": AXES, "properties": ["density_kg_m3", "vapour.Z"]}
LINE = {**TABLE, "name": "line", "axes": AXES[1:], "temperature": "20 degC"}


@pytest.fixture(scope="module")
def given():
    """Return the answers of a state, a sweep of it, and two tables."""
    found = answers({"format": "cryonome/1", "fluids": [FLUID], "studies": [STATE, SWEEP, TABLE, LINE]})
    assert all(a["ok"] for a in found.values()), found
    return found


def rows(*lines):
    return "\n".join("\t".join(map(str, line)) for line in lines)


def refused(text, answer):
    with pytest.raises(DomainError) as error:
        read_pasted(text, answer)
    return str(error.value)


@pytest.mark.parametrize(
    ("line", "key", "cell"),
    [
        (("vapour fraction", 0.7), "vapour_fraction", 0.7),
        (("Vapour fraction", "70 %"), "vapour_fraction", 0.7),
        (("vapour fraction (%)", 70), "vapour_fraction", 0.7),
        (("density", "41", "kg/m3"), "density_kg_m3", "41 kg/m3"),
        (("density (lb/ft3)", 2.5), "density_kg_m3", "2.5 lb/ft3"),
        (("liquid density", "560 kg/m3"), "phases.liquid.density_kg_m3", "560 kg/m3"),
        (("vapour Z", 0.9), "phases.vapour.Z", 0.9),
        (("phases.liquid.viscosity_Pa_s", "0.0002"), "phases.liquid.viscosity_Pa_s", 0.0002),
        (("liquid viscosity (cP)", 0.2), "phases.liquid.viscosity_Pa_s", "0.2 cP"),
    ],
)
def test_a_value_is_found_by_its_name_with_its_unit(given, line, key, cell):
    found = read_pasted(rows(line, ("temperature", "20 degC")), given["state"])
    assert found.references[key] == cell


def test_a_composition_is_normalised_and_belongs_to_its_phase(given):
    found = read_pasted(rows(("[vapour]",), ("C1", 80), ("C3", 15), ("nC6", 1)), given["state"])
    assert found.references["phases.vapour.composition.methane"] == pytest.approx(80 / 96)
    assert sum(found.references.values()) == pytest.approx(1.0)
    assert found.told == ["the pasted composition of the vapour adds up to 96; it was entered to make 100 % and is normalised"]  # fmt: skip
    shares = read_pasted(rows(("liquid",), ("methane", 0.1), ("n-hexane", 0.6), ("propane", 0.28)), given["state"])
    assert "entered to make 1 and is normalised" in shares.told[0]
    assert shares.references["phases.liquid.composition.propane"] == pytest.approx(0.28 / 0.98)
    assert "say which phase the composition is of" in refused(rows(("C1", 80), ("C3", 20)), given["state"])
    assert "n-butane: the fluid has no such component" in refused(rows(("[vapour]",), ("nC4", 80), ("C3", 20)), given["state"])  # fmt: skip
    assert "adds up to nothing" in refused(rows(("[vapour]",), ("C1", 0), ("C3", 0)), given["state"])


def test_what_names_nothing_is_told_and_nothing_at_all_is_refused(given):
    found = read_pasted(rows(("density", "41 kg/m3"), ("colour", "dark"), ("weight", 3)), given["state"])
    assert found.told == ["2 of 3 rows name nothing of this answer: colour, weight"]
    assert "none of the 1 pasted rows gives a value of this answer" in refused("colour\tdark", given["state"])
    assert "nothing was pasted" in refused(" \n \n", given["state"])
    assert "'bar' is no unit of density" in refused(rows(("density", 41, "bar")), given["state"])


def test_results_of_a_sweep_stand_by_row_and_heading(given):
    text = rows(("vapour fraction", "liquid density (lb/ft3)"), (0.8, 36), (0.7, 35), ("", 34))
    found = read_pasted(text, given["sweep"])
    assert found.references["rows[0].read[0]"] == 0.8
    assert "rows[2].read[0]" not in found.references
    assert found.references["rows[2].read[1]"] == pytest.approx(34 * 16.01846337396)
    assert found.values == ()
    other = read_pasted(rows(("pressure (psia)", "vapour fraction"), (150, 0.8), (300, 0.7)), given["sweep"])
    assert other.values == ("150 psia", "300 psia")
    assert "the pasted grid has 2 rows and the sweep 3" in refused(rows(("vapour fraction",), (0.8,), (0.7,)), given["sweep"])  # fmt: skip
    assert "no heading of the pasted grid names a result of the sweep" in refused(rows(("colour",), (1,)), given["sweep"])  # fmt: skip
    assert "row 3 of the pasted grid has 'high' for pressure (bar)" in refused(rows(("pressure (bar)", "vapour fraction"), (10, 0.8), ("high", 0.7)), given["sweep"])  # fmt: skip
    assert "the first row of a pasted grid names its columns" in refused(rows((10, 0.8), (20, 0.7)), given["sweep"])
    assert "'thick'" in refused(rows(("vapour fraction",), (0.8,), ("thick",), (0.6,)), given["sweep"])


def test_a_grid_over_two_axes_may_bring_its_own_axes(given):
    numbers = [[8, 17, 27], [7, 15, 24]]
    plain = read_pasted(rows(*numbers), given["table"])
    assert plain.references == {"properties.density_kg_m3[0]": (8, 17, 27), "properties.density_kg_m3[1]": (7, 15, 24)}
    assert plain.told == ["2 × 3 values of density stand beside ours"]
    framed = rows(("density (kg/m3)", 10, 20, 30), (20, *numbers[0]), (40, *numbers[1]))
    found = read_pasted(framed, given["table"])
    assert [str(v) for v in found.references["properties.density_kg_m3[0]"]] == ["8 kg/m3", "17 kg/m3", "27 kg/m3"]
    named = read_pasted(rows(("Z of vapour", 10, 20, 30), (20, 0.9, 0.8, 0.7), (40, 0.95, 0.9, 0.8)), given["table"])
    assert set(named.references) == {"properties.vapour.Z[0]", "properties.vapour.Z[1]"}
    assert "the pasted grid has 1 × 3 numbers and the table 2 × 3" in refused(rows(numbers[0]), given["table"])


def test_columns_of_a_table_of_one_axis_are_found_by_their_headings(given):
    found = read_pasted(rows(("pressure (bar)", "density (g/cm3)", "vapour Z"), (10, 0.008, 0.95), (20, 0.017, 0.9), (30, 0.027, 0.85)), given["line"])  # fmt: skip
    assert found.references["properties.vapour.Z"] == (0.95, 0.9, 0.85)
    assert [str(c) for c in found.references["properties.density_kg_m3"]] == [
        "0.008 g/cm3",
        "0.017 g/cm3",
        "0.027 g/cm3",
    ]
    assert "2 rows and the table 3" in refused(rows(("density",), (1,), (2,)), given["line"])
    assert "no heading of the pasted grid names a property of the table" in refused(rows(("colour",), (1,), (2,), (3,)), given["line"])  # fmt: skip
