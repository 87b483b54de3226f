"""Answers as files: CSV holds what a workbook holds, and a picture is as large as it was asked for."""

from __future__ import annotations

import csv
import itertools
import json

import openpyxl
import pytest
from PySide6.QtGui import QImage

from ask import command

GAS = {"name": "G", "parts": [{"component": "methane", "amount": 70}, {"component": "n-heptane", "amount": 30}]}
STUDIES = [
    {"name": "oil", "kind": "black_oil", "fluid": "G", "temperature": "60 degC", "pressures": ["100 bar", "50 bar"], "stages": [{"temperature": "15 degC", "pressure": "1 atm"}]},
    {"name": "cold", "kind": "flash", "fluid": "G", "temperature": "300 K", "pressure": "50 bar"},
    {"name": "half", "kind": "goal", "of": "cold", "vary": {"path": "studies[cold].pressure", "between": ["20 bar", "150 bar"]}, "read": "vapour_fraction", "target": 0.5},
    {"name": "map", "kind": "envelope", "fluid": "G"},
]  # fmt: skip


@pytest.fixture(scope="module")
def hub(tmp_path_factory):
    path = tmp_path_factory.mktemp("hub") / "hub.cryo"
    path.write_text(json.dumps({"format": "cryonome/1", "fluids": [GAS], "studies": STUDIES}))
    return path


def sheets_of_csv(path):
    """Return the tables of a CSV by the title above each; the first has none."""
    title, out = "", {"": []}
    rows = list(csv.reader(path.read_text(encoding="utf-8").splitlines()))
    for row, before in zip(rows, [["first"], *rows]):
        if not before:
            title = row[0]
            out[title] = []
        elif row:
            out[title].append(row)
    return out


@pytest.mark.parametrize("name", ["oil", "half", "map", "cold"])
def test_csv_holds_every_sheet_of_the_workbook(hub, tmp_path, name):
    for ending in ("csv", "xlsx"):
        done = command("export", str(hub), str(tmp_path / f"x.{ending}"), "--study", name)
        assert done.returncode == 0, done.stderr
    book = openpyxl.load_workbook(tmp_path / "x.xlsx")
    plain = sheets_of_csv(tmp_path / "x.csv")
    assert list(plain)[1:] == book.sheetnames[1:]
    for sheet in book:
        rows = [[str(c) if c is not None else "" for c in row] for row in sheet.iter_rows(values_only=True)]
        own = plain[sheet.title if sheet.title in plain else ""]
        told = [r + [""] * (len(rows[0]) - len(r)) for r in own]
        assert len(told) == len(rows)
        for ours, theirs in zip(told, rows):
            for one, other in zip(ours, theirs):
                # A workbook keeps sixteen digits, and has no apostrophe before what could be a formula.
                assert one.lstrip("'") == other or float(one) == pytest.approx(float(other), rel=1e-12)


def test_a_black_oil_table_has_a_branch_at_each_saturation_and_no_negative_compressibility(hub, tmp_path):
    command("export", str(hub), str(tmp_path / "oil.csv"), "--study", "oil")
    tables = sheets_of_csv(tmp_path / "oil.csv")
    heads, *rows = tables["branches"]
    at, pressure, factor = (heads.index(h) for h in ("saturation pressure (bar)", "pressure (bar)", "volume factor"))
    saturated = {r[0] for r in tables[""][1:]}
    assert {r[at] for r in rows} == saturated
    for own in saturated:
        branch = [(float(r[pressure]), float(r[factor])) for r in rows if r[at] == own]
        first = next(float(r[tables[""][0].index("oil volume factor")]) for r in tables[""][1:] if r[0] == own)
        values = [first, *(b for _, b in sorted(branch))]
        assert all(a > b for a, b in itertools.pairwise(values))
    assert "bubble pressure" in {r[0] for r in tables["values"]}


def test_a_goal_tells_what_it_found_with_units_and_the_state_there(hub, tmp_path):
    command("export", str(hub), str(tmp_path / "half.csv"), "--study", "half")
    tables = sheets_of_csv(tmp_path / "half.csv")
    found = {r[0]: (float(r[1]), r[2]) for r in tables[""][1:]}
    assert found["pressure"][1] == "bar"
    assert found["vapour fraction"][0] == pytest.approx(0.5, abs=1e-6)
    assert {r[0] for r in tables["phases"][1:]} == {"vapour", "liquid"}


def test_a_picture_is_as_large_as_it_was_asked_for(hub, tmp_path):
    done = command("export", str(hub), str(tmp_path / "m.png"), "--study", "map", "--width", "120", "--height", "80", "--dpi", "200")  # fmt: skip
    assert done.returncode == 0, done.stderr
    image = QImage(str(tmp_path / "m.png"))
    assert (image.width(), image.height()) == (945, 630)
    assert image.dotsPerMeterX() == pytest.approx(200 / 0.0254, rel=1e-3)
    assert len({image.pixel(x, y) for x in range(0, 945, 5) for y in range(0, 630, 5)}) > 20
    assert command("export", str(hub), str(tmp_path / "m.svg"), "--study", "map", "--width", "120").returncode == 0
    assert 'width="340.157pt"' in (tmp_path / "m.svg").read_text()


@pytest.mark.parametrize(("args", "says"), [
    (["--study", "map", "--picture", "9"], "map has 1 picture"), (["--study", "map", "--width", "0"], "out of reach"),
    (["--study", "map", "--dpi", "1e9"], "out of reach"), ([], ".xlsx"),
])  # fmt: skip
def test_a_picture_that_cannot_be_is_refused(hub, tmp_path, args, says):
    done = command("export", str(hub), str(tmp_path / "m.svg"), *args)
    assert done.returncode == 2
    assert says in done.stderr
    assert not (tmp_path / "m.svg").exists()
