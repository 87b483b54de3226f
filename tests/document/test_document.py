"""The document: precise faults, lossless saving, recovery, edits."""

from __future__ import annotations

import json
import os
from pathlib import Path

import pytest

from ask import dies
from cryonome.demo import demo_document
from cryonome.document import (
    Autosave,
    Document,
    DocumentError,
    Fluid,
    FluidPart,
    Sample,
    check_document,
    document_text,
    edits,
    errors,
    load,
    parse_document,
    save,
)
from cryonome.document.files import LEFTOVER

POINTS = [[0, 300], [10, 330], [30, "120 degC"], [50, 450], [70, 520], [90, 620]]


def text(**parts) -> str:
    sample = {"name": "S", "distillation": {"points": POINTS}, "bulk": {"density": "33 degAPI"}}
    fluid = {"name": "F", "parts": [{"component": "methane", "amount": 50}, {"sample": "S", "amount": 50}]}
    data = {"format": "cryonome/1", "samples": [sample], "fluids": [fluid], "studies": []}
    return json.dumps({**data, **parts})


def faults(document_json: str) -> list[str]:
    try:
        return [str(f) for f in errors(check_document(parse_document(document_json)))]
    except DocumentError as error:
        return [str(f) for f in error.faults]


def with_sample(**parts) -> str:
    base = {"name": "S", "distillation": {"points": POINTS}, "bulk": {"density": "33 degAPI"}}
    return text(samples=[{**base, **parts}])


def with_part(part: dict, **fluid) -> str:
    return text(fluids=[{"name": "F", "parts": [{"component": "ethane", "amount": 1}, part], **fluid}])


def with_study(**study) -> str:
    return text(studies=[{"name": "s", "kind": "flash", "fluid": "F", **study}])


def points(*changes: tuple[int, list]) -> str:
    changed = [list(p) for p in POINTS]
    for index, pair in changes:
        changed[index] = pair
    return with_sample(distillation={"points": changed})


def test_a_good_document_has_no_faults():
    assert faults(text()) == []
    assert errors(check_document(demo_document())) == []


@pytest.mark.parametrize(
    ("document", "path", "words"),
    [
        ('{"format": "cryonome/1", "samples": [', "document", "cut off"),
        ("", "document", "empty"),
        ("no json", "document", "not JSON"),
        ("[1]", "document", "one JSON object"),
        ('{"format": "cryonome/1", "format": "cryonome/1"}', "document", "given 2 times"),
        ('{"format": "cryonome/9"}', "format", "newer"),
        ('{"a": 1}', "format", "not a Cryonome document"),
        (text(smaples=[]), "smaples", "did you mean samples"),
        (with_sample(bulk={"densty": 850}), "samples[0].bulk.densty", "did you mean density"),
        (with_sample(bulk={"density": "12 K"}), "samples[0].bulk.density", "where a density belongs"),
        (with_sample(bulk={"density": [1]}), "samples[0].bulk.density", "a number or a text"),
        (with_sample(bulk={"density": "850 kg/m**3", "molar_mass": "heavy"}), "samples[0].bulk.molar_mass", "'heavy'"),
        (with_sample(distillation={"points": POINTS[:4]}), "samples[0].distillation.points", "at least 5"),
        (with_sample(distillation={"points": [[1, 2, 3]]}), "samples[0].distillation.points[0]", "wrong length"),
        (points((3, [50, "90 degC"])), "samples[0].distillation.points[3][1]", "below"),
        (points((3, [250, 450])), "samples[0].distillation.points[3][0]", "0 to 100"),
        (points((3, ["many", 450])), "samples[0].distillation.points[3][0]", "'many'"),
        (points((3, [50, "5 psig"])), "samples[0].distillation.points[3][1]", "where a temperature belongs"),
        (points((3, [50, "-280 degC"])), "samples[0].distillation.points[3][1]", "absolute zero"),
        (points((5, [90, "1100 degC"])), "samples[0].distillation.points[5][1]", "range of boiling points"),
        (with_sample(correlations={"Tc": "twoo-1984"}), "samples[0].correlations.Tc", "did you mean twu-1984"),
        (with_part({"component": "metane", "amount": 1}), "fluids[0].parts[1].component", "did you mean"),
        (with_part({"component": "methane", "amount": -2}), "fluids[0].parts[1].amount", "zero or more"),
        (with_part({"component": "methane", "amount": "much"}), "fluids[0].parts[1].amount", "plain number"),
        (with_part({"component": "methane"}), "fluids[0].parts[1].amount", "empty"),
        (with_part({"amount": 1}), "fluids[0].parts[1]", "exactly one of"),
        (with_part({"component": "C2", "amount": 1}), "fluids[0].parts[1]", "given twice"),
        (with_part({"sample": "T", "amount": 1}), "fluids[0].parts[1].sample", "there is S"),
        (with_part({"pseudo": {"name": "X"}, "amount": 1}), "fluids[0].parts[1].pseudo", "Tc, Pc and omega"),
        (text(fluids=[{"name": "F"}]), "fluids[0].parts", "empty"),
        (text(fluids=[{"name": "F", "parts": [{"component": "C1", "amount": 0}]}]), "fluids[0].parts", "every amount is zero"),
        (text(fluids=[{"name": "F", "basis": "weight", "parts": []}]), "fluids[0].basis", "'mole', 'mass' or 'volume'"),
        (with_part({"component": "C1", "amount": 1}, model={"eos": "PR79"}), "fluids[0].model.eos", "PR78"),
        (with_part({"component": "C1", "amount": 1}, model={"alpha": "twu"}), "fluids[0].model.alpha", "alpha function"),
        (with_part({"component": "C1", "amount": 1}, model={"eos": "SRK", "volume_shift": "jhaveri-youngren"}), "fluids[0].model.volume_shift", "not made for SRK"),
        (with_part({"component": "C1", "amount": 1}, model={"kij_rule": {"scale": 3}}), "fluids[0].model.kij_rule.scale", "outside 0 to 1"),
        (with_part({"component": "C1", "amount": 1}, model={"reference": {"state": "ice"}}), "fluids[0].model.reference.state", "reference state"),
        (with_part({"pseudo": {"name": "X", "nbp": "400 K", "pc_saft": {"m": 0.4, "sigma_A": 3.8, "epsilon_K": 240}}, "amount": 1}), "fluids[0].parts[1].pseudo.pc_saft.m", "outside 1 to 200"),
        (with_part({"component": "C1", "amount": 1}, model={"kij_pairs": [["methane", "water", 0.1]]}), "fluids[0].model.kij_pairs[0][1]", "not in the fluid"),
        (with_study(temperature="300 K"), "studies[0]", "exactly two of temperature, pressure, vapour_fraction, vapour_volume_fraction"),
        (with_study(temperature="0 K", pressure="1 atm"), "studies[0].temperature", "absolute zero"),
        (with_study(temperature=300, pressure="-3 bar"), "studies[0].pressure", "above 0 Pa"),
        (with_study(temperature=300, vapour_fraction=1.2), "studies[0].vapour_fraction", "between 0 and 1"),
        (with_study(temperature=300, pressure=1e5, fluid="G"), "studies[0].fluid", "unknown fluid 'G'"),
        (with_study(kind="flsh"), "studies[0].kind", "did you mean flash"),
        (with_study(temprature=3), "studies[0].temprature", "did you mean temperature"),
        (text(studies=[{"kind": "flash"}]), "studies[0].name", "missing"),
        (text(studies=[{"name": "a", "kind": "envelope", "fluid": "F"}] * 2), "studies[1].name", "given twice"),
    ],
)  # fmt: skip
def test_each_fault_is_told_at_its_place(document, path, words):
    found = faults(document)
    assert found, "no fault was found"
    assert any(f.startswith(f"{path}: ") and words in f for f in found), found
    assert not any("\n" in f for f in found)


def test_saving_loses_nothing_that_was_entered(tmp_path):
    document = parse_document(points((3, ["50", "warm"]), (4, [None, ""])))
    path = tmp_path / "deep" / "a.cryo"
    save(path, document)
    assert load(path) == document
    assert path.read_text().count("warm") == 1
    save(path, demo_document())
    assert load(path) == demo_document()
    assert [p.name for p in path.parent.iterdir()] == ["a.cryo"]  # no temporary file stays


def test_a_failed_save_leaves_the_old_file(tmp_path, monkeypatch):
    path = tmp_path / "a.cryo"
    save(path, demo_document())
    before = path.read_bytes()
    monkeypatch.setattr("os.fsync", lambda _fd: (_ for _ in ()).throw(OSError("disk full")))
    with pytest.raises(OSError, match="disk full"):
        save(path, Document())
    assert path.read_bytes() == before
    assert list(tmp_path.iterdir()) == [path]


def test_foreign_bytes_are_refused(tmp_path):
    path = tmp_path / "x.cryo"
    path.write_bytes(b"\x89PNG\r\n\xff\xfe")
    with pytest.raises(DocumentError, match="not a text file"):
        load(path)


def test_recovery_after_a_crash(tmp_path):
    path = tmp_path / "a.cryo"
    save(path, demo_document())
    state = tmp_path / "state"
    kept = Autosave(path, state)
    changed = edits.renamed(demo_document(), "samples", "Varnholt crude", "V")
    kept.store(changed)
    path.chmod(0o644)
    kept.store(changed)
    # Its owner's alone, whatever the file is.
    assert kept.file.stat().st_mode & 0o777 == 0o600
    assert Autosave(path, state).left() == []  # its program lives
    dies(kept)
    (left,) = Autosave(path, state).left(path)
    assert left.document == changed
    assert Autosave(path, state).left(tmp_path / "another.cryo") == []
    path.unlink()
    assert Autosave(None, state).left()[0].document == changed
    save(path, changed)
    assert Autosave(path, state).left() == []  # the file has it all
    kept.file.write_text("{half")
    assert Autosave(path, state).left() == []
    newer = {"path": "", "pid": 1, "born": "0", "document": '{"format": "cryonome/9"}'}
    kept.file.write_text(json.dumps(newer))
    assert Autosave(path, state).left() == []
    assert kept.file.exists()  # the version it belongs to will offer it


def test_new_files_have_the_mode_of_any_new_file_and_leave_nothing_behind(tmp_path):
    path = tmp_path / "a.cryo"
    old = os.umask(0o027)
    try:
        save(path, Document())
    finally:
        os.umask(old)
    assert path.stat().st_mode & 0o777 == 0o640
    path.chmod(0o600)
    left = tmp_path / f".a.cryo-999999999-abcd{LEFTOVER}"
    left.write_text("killed in its last instant")
    save(path, demo_document())
    assert path.stat().st_mode & 0o777 == 0o600
    assert list(tmp_path.iterdir()) == [path]


def test_edits_keep_references_whole():
    document = demo_document()
    renamed = edits.renamed(document, "samples", "Varnholt crude", "V")
    assert errors(check_document(renamed)) == []
    assert "Varnholt crude" not in document_text(renamed)
    renamed = edits.renamed(renamed, "fluids", "Varnholt recombined", "R")
    assert errors(check_document(renamed)) == []
    without = edits.removed(edits.removed(renamed, "samples", "V"), "fluids", "R")
    # Nothing goes with them; what named them says so.
    assert len(without.studies) == len(document.studies)
    told = [str(f) for f in errors(check_document(without))]
    assert any("unknown sample 'V'" in t for t in told)
    assert all("unknown fluid 'R'" in t or "unknown sample 'V'" in t or "cannot be" in t for t in told), told
    assert edits.free_name(renamed, "V") == "V 2"
    more = edits.add_fluid(
        edits.add_sample(document, Sample(name="T")), Fluid(name="T 2", parts=(FluidPart(sample="T", amount=1),))
    )
    assert edits.free_name(more, "T") == "T 3"


def test_the_published_schema_describes_the_demo():
    schema = Document.model_json_schema()
    assert set(schema["properties"]) >= {"format", "samples", "fluids", "studies"}
    assert Path(__file__).parents[2].joinpath("docs", "format.md").exists()
