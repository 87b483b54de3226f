"""A fluid as plain tables: what is written is read back as the same fluid, and what is wrong in them is told."""

from __future__ import annotations

import json
import re

import numpy as np
import pytest

from ask import command
from cryonome.demo import demo_document
from cryonome.document import load, parse_document, save
from cryonome.document.edits import add_fluid, set_at
from cryonome.equilibrium.flash import flash_pt
from cryonome.exchange.cells import csv_sheet, read_sheets
from cryonome.exchange.fluid_sheets import write_fluid
from cryonome.exchange.reading import read_sheets_of
from cryonome.results import Evaluator


@pytest.fixture(scope="module")
def project():
    return Evaluator().at(demo_document())


def back(path, project):
    """Return the fluid of a file of tables, ready to compute, in the project it came from."""
    found = read_sheets_of(read_sheets(path), "x").fluids[0].model_copy(update={"name": "back"})
    other = project.evaluator.at(add_fluid(project.document, found))
    assert not other.read_fluid(found).faults
    return other.fluid(found)


def differ(a, b):
    a, b = np.asarray(a, float), np.asarray(b, float)
    return float((np.abs(a - b) / np.maximum(np.abs(a), 1e-300)).max())


@pytest.mark.parametrize("ending", ["csv", "xlsx"])
@pytest.mark.parametrize("name", [f.name for f in demo_document().fluids])
def test_a_fluid_is_the_same_when_it_is_read_back(project, tmp_path, name, ending):
    fluid = project.document.fluid(name)
    model = project.fluid(fluid)
    write_fluid(tmp_path / f"f.{ending}", fluid, model)
    own = back(tmp_path / f"f.{ending}", project)
    assert own.names == model.names
    # A workbook keeps sixteen digits.
    assert differ(model.z, own.z) < 1e-15
    assert differ(model.kij, own.kij) < 1e-15
    for key in ("molar_mass", "Tc", "Pc", "omega", "Vc", "nbp", "specific_gravity"):
        assert differ([getattr(c, key) for c in model.components], [getattr(c, key) for c in own.components]) < 1e-15
    assert differ(model.substance.shift, own.substance.shift) < 1e-15
    T, P = np.array([320.0]), np.array([60e5])
    ours, theirs = (flash_pt(m.eos, T, P, m.z[None, :]) for m in (model, own))
    assert ours.fraction == pytest.approx(theirs.fraction, abs=1e-10)


@pytest.mark.parametrize("eos", ["SRK", "PC-SAFT", "CPA"])
def test_other_equations_are_read_back(project, tmp_path, eos):
    document = project.document
    place = next(i for i, f in enumerate(document.fluids) if f.name == "Quillmoor reservoir gas")
    document = set_at(document, ("fluids", place, "model", "eos"), eos)
    changed = project.evaluator.at(document)
    fluid = document.fluids[place]
    write_fluid(tmp_path / "f.csv", fluid, changed.fluid(fluid))
    ours, theirs = changed.fluid(fluid), back(tmp_path / "f.csv", changed)
    T, P = np.array([320.0]), np.array([60e5])
    found = [flash_pt(m.eos, T, P, m.z[None, :]) for m in (ours, theirs)]
    assert found[0].fraction == pytest.approx(found[1].fraction, abs=1e-9)
    assert pytest.approx(found[1].Z, rel=1e-9, nan_ok=True) == found[0].Z


def test_through_the_command_line(tmp_path):
    save(tmp_path / "hub.cryo", demo_document())
    assert (
        command("export", str(tmp_path / "hub.cryo"), str(tmp_path / "g.xlsx"), "--fluid", "Selden gas").returncode == 0
    )
    done = command("import", str(tmp_path / "g.xlsx"), "--output", str(tmp_path / "g.cryo"))
    assert done.returncode == 0, done.stderr
    read = load(tmp_path / "g.cryo")
    assert [f.name for f in read.fluids] == ["Selden gas"]
    assert all(p.component for p in read.fluids[0].parts)  # these are the databank's own
    wrong = command("export", str(tmp_path / "hub.cryo"), str(tmp_path / "g.csv"), "--fluid", "Seldn gas")
    assert wrong.returncode == 2
    assert "did you mean" in wrong.stderr


TABLE = """fluid,Mine
equation of state,PR78
component,mole fraction,molar mass (g/mol),Tc (degF),Pc (psia),omega
methane,0.7,16.043,-116.66,667.0,0.0115
heavy,0.3,142.3,652.2,306,0.49
interaction parameters,Mine
,methane
heavy,0.04
"""


def test_tables_from_elsewhere_are_read_in_their_units():
    fluid = read_sheets_of([csv_sheet(TABLE, "t")], "x").fluids[0]
    document = parse_document(json.dumps({"format": "cryonome/1"}))
    document = add_fluid(document, fluid)
    model = Evaluator().at(document).fluid(fluid)
    assert model.components[1].Tc == pytest.approx((652.2 + 459.67) / 1.8)
    assert model.components[1].Pc == pytest.approx(306 * 6894.757, rel=1e-6)
    assert model.kij[0, 1] == 0.04


@pytest.mark.parametrize(("old", "new", "says"), [
    ("652.2", "warm", "heavy: Tc is 'warm'"), ("omega", "colour", "the column 'colour' is not known"),
    ("heavy,0.04", "heavier,0.04", "'heavier' is not among the components"), ("0.04", "inf", "a finite number"),
    ("heavy,0.3", "methane,0.3", "stands twice"), (",0.49", ",", "omega of 'heavy' is missing"),
    (",omega", "", "the column 'omega' is missing"), ("component,", "substance,", "'component' is missing"),
])  # fmt: skip
def test_what_is_wrong_in_a_table_is_told_with_its_place(tmp_path, old, new, says):
    (tmp_path / "t.csv").write_text(TABLE.replace(old, new, 1))
    done = command("import", str(tmp_path / "t.csv"))
    assert done.returncode == 2
    assert says in done.stderr
    assert re.search(r"row \d", done.stderr)


def test_a_shift_of_its_own_stands_in_place_of_the_rule_and_is_checked():
    gas = {"name": "G", "parts": [{"component": "methane", "amount": 1}, {"component": "propane", "amount": 1}]}

    def of(shifts):
        return parse_document(json.dumps({"format": "cryonome/1", "fluids": [{**gas, "model": {"shifts": shifts}}]}))

    plain, own = (Evaluator().at(d).fluid(d.fluids[0]) for d in (of([]), of([["propane", "-5 cm**3/mol"]])))
    assert own.substance.shift[1] == pytest.approx(-5e-6)
    assert own.substance.shift[0] == plain.substance.shift[0]
    for shifts, says in (([["butane", 0]], "not in the fluid"), ([["propane", "1 m**3/mol"]], "beyond"), ([["propane", "5 bar"]], "bar")):  # fmt: skip
        document = of(shifts)
        told = [str(f) for f in Evaluator().at(document).faults()]
        assert len(told) == 1
        assert says in told[0]
