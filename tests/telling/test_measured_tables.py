"""What was measured beside the model: in the reader's units, at the pressure of its row."""

from __future__ import annotations

import pytest

from cryonome import open_demo
from cryonome.telling import Units
from cryonome.telling.answers import tables
from cryonome.units import parse
from cryonome.units.endings import kind_of_key


@pytest.fixture(scope="module")
def hub():
    return open_demo()


def block_of(hub, name: str, units: str):
    blocks = [b for b in tables(hub.answer(name), Units.of(units)) if b.title == "measured"]
    assert len(blocks) == 1, name
    return blocks[0]


@pytest.mark.parametrize("units", ["metric", "field", "SI"])
@pytest.mark.parametrize(
    ("name", "key"),
    [
        ("Varnholt liberation", "oil_density_kg_m3"),
        ("Varnholt separators", "gas_oil_ratio_m3_m3"),
        ("Quillmoor dew points", "points.dew.pressure_Pa"),
    ],
)
def test_values_and_their_deviations_are_told_in_the_units_of_the_reader(hub, name, key, units):
    kind, factor = kind_of_key(key)
    answer = hub.answer(name)
    block = block_of(hub, name, units)
    assert len(block.rows) == len(answer["measured"])
    found = [(m, row) for m, row in zip(answer["measured"], block.rows) if m["key"] == key]
    assert found
    for m, row in found:
        assert "_" not in row[0]
        for text, value in ((row[2], m["ours"]), (row[3], m["theirs"])):
            told = parse(f"{text} {row[4]}".replace("−", "-"), kind) / factor
            assert told == pytest.approx(value, rel=6e-4), (row, value)
        # A standard deviation is a difference: that of a gauge pressure or of a temperature has no zero of its own.
        spread = parse(f"{row[6]} {row[4].replace('psig', 'psi').replace('barg', 'bar')}", kind) / factor
        assert spread == pytest.approx(m["uncertainty"], rel=0.06)
        assert float(row[5].replace("−", "-")) == pytest.approx(m["deviation_percent"], rel=6e-3)


def test_rows_are_told_by_their_pressure_or_amount_of_gas_and_values_keep_their_paths(hub):
    block = block_of(hub, "Varnholt expansion", "metric")
    answer = hub.answer("Varnholt expansion")
    assert block.columns[1] == ("pressure", "bar")
    for m, row, paths in zip(answer["measured"], block.rows, block.paths):
        if m["row"] is None:
            assert row[1] == ""
        else:
            assert float(row[1]) == pytest.approx(answer["rows"][m["row"]]["pressure_Pa"] / 1e5, rel=1e-4)
        assert hub.document is not None
        index = answer["measured"].index(m)
        assert paths[3] == f"measured[{index}].theirs"
    swelling = block_of(hub, "Varnholt swelling", "metric")
    assert swelling.columns[1] == ("gas moles", "")
    assert [r[1] for r in swelling.rows[:3]] == ["0.1", "0.25", "0.5"]
