"""Lab sheets as spreadsheets: what is written is read back, and what people write is understood."""

from __future__ import annotations

import json

import pytest

from ask import cuts_of, lab_of
from cryonome.demo import collection
from cryonome.document import parse_document
from cryonome.exchange import ExchangeError, read_file, read_rows
from cryonome.exchange.writing import write_samples
from cryonome.results import Evaluator
from cryonome.results.sample_tables import cut_tables

MEASURED = (
    "name", "percent", "temperature", "density", "molar_mass", "watson_k", "method", "basis", "pressure", "tail",
    "viscosity", "density_curve", "molar_mass_curve", "viscosity_curves", "light_ends",
)  # fmt: skip


@pytest.mark.parametrize("ending", ["xlsx", "csv"])
def test_the_collection_comes_back_as_it_was_written(tmp_path, ending):
    document = collection()
    path = tmp_path / f"samples.{ending}"
    write_samples(path, document.samples, cut_tables(document, Evaluator()))
    back = read_file(path).samples
    assert len(back) == 6
    for before, after in zip(document.samples, back):
        one, two = lab_of(before), lab_of(after)
        for key in MEASURED:
            assert getattr(one, key) == getattr(two, key), (before.name, key)
        assert [q.points for q in one.quantities] == [q.points for q in two.quantities]
        if one.carbon is not None:
            assert one.carbon.groups == two.carbon.groups
            assert one.carbon.plus == two.carbon.plus
            assert one.carbon.components == two.carbon.components


def test_a_sheet_as_a_laboratory_writes_it():
    rows = [
        ["Crude assay report", ""],
        ["Density:", "33,1", "°API"],
        ["Viscosity at 40 degC", "6,2 cSt"],
        [],
        ["% distilled", "TBP (°C)", "Specific gravity", "Sulphur (wt%)", "MW"],
        ["5", "77", "0,712", "0,01", "82"],
        ["10", "112", "0,744", "0,02", ""],
        ["30", "222", "0,812", "0,2", "161"],
        ["50", "319", "0,861", "0,8", "246"],
        ["70", "428", "0,908", "1,5", ""],
        ["90", "590", "0,973", "2,8", ""],
        [],
        ["Component", "Amount (vol%)"],
        ["propane", "0,4"],
        ["n-butane", "0,9"],
    ]
    (sample,) = read_rows(rows, "page 1").samples
    lab = lab_of(sample)
    assert sample.name == "page 1"
    assert lab.density == pytest.approx(141.5 / 164.6 * 999.016, rel=1e-4)
    assert lab.percent == (5, 10, 30, 50, 70, 90)
    assert lab.temperature[0] == pytest.approx(350.15)
    assert lab.density_curve.value[0] == pytest.approx(0.712 * 999.016, rel=1e-4)
    assert lab.molar_mass_curve.percent == (5, 30, 50)
    assert lab.quantities[0].name == "Sulphur"
    assert lab.quantities[0].unit == "wt%"
    assert [c.name for c in lab.light_ends.components] == ["propane", "n-butane"]
    assert cuts_of(sample).density == pytest.approx(lab.density)


def test_several_samples_on_one_sheet():
    table = [["percent", "D86 (degF)"], *[[str(p), str(150 + 4 * p)] for p in (0, 10, 30, 50, 70, 90)]]
    rows = [["sample", "A"], ["method", "d86"], *table, [], ["sample", "B"], ["density", "0.8 g/cm3"], *table]
    first, second = read_rows(rows, "x").samples
    assert (first.name, first.distillation.method) == ("A", "D86")
    assert (second.name, second.bulk.density) == ("B", "0.8 g/cm**3")
    assert second.distillation.points[0] == (0, "150 degF")


def test_a_file_without_a_sample_is_told(tmp_path):
    empty = tmp_path / "empty.csv"
    empty.write_text("a,b\n1,2\n")
    assert not read_file(empty).holds
    broken = tmp_path / "broken.xlsx"
    broken.write_bytes(b"PK\x03\x04 cut in half")
    with pytest.raises(ExchangeError, match="is not a workbook"):
        read_file(broken)
    with pytest.raises(OSError):
        read_file(tmp_path / "missing.csv")


def test_bare_numbers_are_written_in_the_unit_of_their_header(tmp_path):
    points = [[p, 300.0 + 4 * p] for p in (0, 10, 30, 50, 70, 90)]
    data = {
        "format": "cryonome/1",
        "samples": [
            {
                "name": "S",
                "distillation": {"points": points},
                "curves": {"density": [[10, 740]], "viscosity": [{"at": 313.15, "points": [[30, 2e-6], [60, 9e-6]]}]},
            }
        ],
    }
    sample = parse_document(json.dumps(data)).samples[0]
    path = tmp_path / "si.csv"
    write_samples(path, [sample])
    one, two = lab_of(sample), lab_of(read_file(path).samples[0])
    assert two.temperature == pytest.approx(one.temperature, rel=1e-9)
    assert two.density_curve.value == pytest.approx((740.0,))
    assert two.viscosity_curves[0].temperature == pytest.approx(313.15)
    assert two.viscosity_curves[0].points.value == pytest.approx((2e-6, 9e-6))
