"""The command line: each command does its work, leaves what it was not asked to touch, and refuses in one sentence with status 2."""

from __future__ import annotations

import json

import pytest

from ask import command
from cryonome.document import load
from cryonome.questions import solve

GAS = {
    "format": "cryonome/1",
    "fluids": [
        {"name": "Gas", "parts": [{"component": "methane", "amount": 85}, {"component": "propane", "amount": 10}, {"component": "n-hexane", "amount": 5}]},
    ],
    "studies": [
        {"name": "cold", "kind": "flash", "fluid": "Gas", "temperature": "-10 degC", "pressure": "30 bar"},
        {"name": "warm", "kind": "flash", "fluid": "Gas", "temperature": "60 degC", "pressure": "30 bar"},
    ],
}  # fmt: skip
SHEET = "vol%;TBP, °C;density, kg/m3\n5;77;716\n10;112;746\n30;222;814\n50;319;864\n70;428;912\n90;590;978\n"
EXPANSION = "Constant composition expansion at 60 °C\nPressure (bar);Relative volume\n90;0.95\n60;1.0\n30;1.9\n"


@pytest.fixture
def gas(tmp_path):
    """Return the file of a document of one gas and two states."""
    path = tmp_path / "gas.cryo"
    path.write_text(json.dumps(GAS))
    return path


def one_sentence(done, status=2):
    """Return what a command says where it refuses: one line, and nothing else."""
    assert done.returncode == status, done.stderr
    assert done.stdout == ""
    (line,) = done.stderr.splitlines()
    assert "Traceback" not in line
    return line


def test_chosen_studies_are_answered_to_a_file_that_is_no_other(gas, tmp_path):
    target = tmp_path / "answers.json"
    done = command("solve", str(gas), "--study", "warm", "--output", str(target))
    assert (done.returncode, done.stdout, done.stderr) == (0, "", "")
    written = json.loads(target.read_text())
    assert written == solve(load(gas), ["warm"])
    assert list(written["answers"]) == ["warm"]
    before = gas.read_text()
    assert "it is the very file that is read" in one_sentence(command("solve", str(gas), "--output", str(gas)))
    assert gas.read_text() == before


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (("solve", "{gas}", "--study", "hot"), "unknown study 'hot'"),
        (("solve", "{gas}", "--jobs", "0"), "--jobs: 0 processes can do nothing"),
        (("solve", "{gas}", "--jobs", "2", "--scheduler", "tcp://x:1"), "either processes of this machine or a scheduler"),
        (("solve", "-", "--keep"), "--keep: give one document that is a file"),
        (("solve", "{dir}"), "cannot be read: is a directory"),
        (("solve", "{gas}", "--output", "{dir}/none/a.json"), "cannot be written: there is no folder"),
        (("ask", "{gas}", "dew point of Gas", "--fluid", "Oil"), "the document has no fluid 'Oil'; there is Gas"),
        (("import", "{dir}/none.csv"), "no such file"),
        (("export", "{gas}", "{dir}/a.pdf"), ".xlsx or .csv"),
        (("export", "{gas}", "{dir}/a.xlsx"), "the document holds no sample to export"),
        (("export", "{gas}", "{dir}/a.csv", "--study", "hot"), "unknown study 'hot'"),
        (("export", "{gas}", "{dir}/a.csv", "--fluid", "Gass"), "unknown fluid 'Gass'; did you mean Gas"),
        (("export", "{gas}", "{dir}/a.csv", "--fluid", "Gas", "--study", "cold"), "give either --study or --fluid"),
        (("export", "{gas}", "{gas}", "--study", "cold"), "its ending is '.cryo'; write .xlsx or .csv or .json or .svg or .png"),
        (("export", "{gas}", "{dir}/a.svg", "--study", "cold", "--width", "5"), "--width: 5 is out of reach; give 20 to 2000"),
        (("fill", "{dir}/none.xlsx"), "cannot be read or written: no such file"),
        (("fill", "{gas}", "--units", "imperial"), "unknown set 'imperial'; there is"),
        (("report", "{gas}", "--paper", "A3"), "there is no paper 'A3' here; use A4 or Letter"),
        (("changed", "{dir}/none.cryo"), "cannot be read"),
    ],
)  # fmt: skip
def test_what_cannot_be_done_is_refused_in_a_sentence(gas, tmp_path, args, says):
    before = sorted(p.name for p in tmp_path.iterdir())
    said = one_sentence(command(*(a.format(gas=gas, dir=tmp_path) for a in args)))
    assert says in said
    assert sorted(p.name for p in tmp_path.iterdir()) == before  # nothing half done is left


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "empty"),
        ("{half", "cut off at line 1"),
        ("[1, 2]", "object"),
        ('{"format": "cryonome/1", "fluids": 3}', "fluids"),
        ('{"format": "other/9"}', "format"),
        ("\ud800".encode("utf-8", "surrogatepass").decode("latin-1"), ""),
    ],
)
def test_a_broken_document_is_refused_by_every_command_that_reads_one(tmp_path, text, says):
    path = tmp_path / "d.cryo"
    path.write_text(text, encoding="latin-1")
    for args in (("solve",), ("changed",), ("ask",), ("export",), ("report",)):
        more = {"ask": ("dew point of Gas",), "export": (str(tmp_path / "x.xlsx"),), "report": ("--output", str(tmp_path / "out"))}  # fmt: skip
        done = command(*args, str(path), *more.get(args[0], ()))
        assert done.returncode == 2, done
        assert done.stdout == ""
        assert says.casefold() in done.stderr.casefold()
        assert "Traceback" not in done.stderr
    assert not (tmp_path / "x.xlsx").exists()


def test_a_study_without_an_answer_is_status_one_and_told_by_its_cell(gas, tmp_path):
    data = json.loads(gas.read_text())
    data["studies"][0]["temperature"] = "cold"
    gas.write_text(json.dumps(data))
    done = command("solve", str(gas))
    assert done.returncode == 1
    assert done.stderr.startswith("studies[0].temperature: 'cold' is not a temperature")
    answers = json.loads(done.stdout)["answers"]
    assert (answers["cold"]["ok"], answers["warm"]["ok"]) == (False, True)
    refused = command("export", str(gas), str(tmp_path / "a.csv"), "--study", "cold")
    assert refused.returncode in (1, 2)
    assert not (tmp_path / "a.csv").exists()


def test_sheets_are_added_to_a_document_which_may_be_its_own_target(gas, tmp_path):
    (tmp_path / "oil.csv").write_text(SHEET)
    done = command("import", str(tmp_path / "oil.csv"), "--document", str(gas), "--output", str(gas))
    assert done.returncode == 0, done.stderr
    grown = load(gas)
    assert [f.name for f in grown.fluids] == ["Gas"]
    assert [s.name for s in grown.samples] == ["oil"]
    assert [s.name for s in grown.studies] == ["cold", "warm"]
    (tmp_path / "expansion.csv").write_text(EXPANSION)
    done = command("import", str(tmp_path / "expansion.csv"), "--document", str(gas), "--report-of", "Gas")
    assert done.returncode == 0, done.stderr
    added = json.loads(done.stdout)["studies"][2:]
    assert [(s["kind"], s.get("fluid")) for s in added] == [("expansion", "Gas"), ("match", "Gas")]
    sheet = tmp_path / "expansion.csv"
    said = one_sentence(command("import", str(sheet), "--document", str(gas), "--report-of", "Gass"))
    assert "unknown fluid 'Gass'; did you mean Gas" in said
    oil = str(tmp_path / "oil.csv")
    assert "it is the very file that is read" in one_sentence(command("import", oil, "--output", oil))
    assert (tmp_path / "oil.csv").read_text() == SHEET


def test_samples_cuts_and_a_fluid_are_exported_and_read_back(gas, tmp_path):
    (tmp_path / "oil.csv").write_text(SHEET)
    command("import", str(tmp_path / "oil.csv"), "--document", str(gas), "--output", str(gas))
    book, table = tmp_path / "all.xlsx", tmp_path / "gas.csv"
    assert command("export", str(gas), str(book)).returncode == 0
    back = command("import", str(book))
    assert json.loads(back.stdout)["samples"][0]["name"] == "oil"
    assert command("export", str(gas), str(table), "--fluid", "Gas").returncode == 0
    fluid = json.loads(command("import", str(table)).stdout)["fluids"][0]
    amounts = [p["amount"] for p in fluid["parts"]]
    assert [a / sum(amounts) for a in amounts] == pytest.approx([0.85, 0.10, 0.05])


def test_a_named_range_is_filled_with_the_fluids_of_a_document(gas, tmp_path):
    book = tmp_path / "states.csv"
    book.write_text("[states_Gas]\ntemperature (degC),pressure (bar)\n-10,30\n60,30\nhot,30\n")
    done = command("fill", str(book), "--document", str(gas))
    assert done.returncode == 1
    assert "2 states answered" in done.stdout
    assert "A5: 'hot'" in done.stderr + done.stdout
    rows = (tmp_path / "states results.csv").read_text(encoding="utf-8-sig").splitlines()
    head = next(i for i, r in enumerate(rows) if "Vapour fraction" in r)
    place = rows[head].split(",").index("Vapour fraction")
    own = [float(r.split(",")[place]) for r in rows[head + 1 : head + 3]]
    answers = solve(load(gas))["answers"]
    assert own == pytest.approx([answers["cold"]["vapour_fraction"], answers["warm"]["vapour_fraction"]], rel=1e-9)


def test_a_fault_of_the_program_is_told_as_one_and_is_no_answer(gas, monkeypatch):
    def broken(*_args, **_kwargs):
        raise RuntimeError("shapes (3,) and (4,)")

    monkeypatch.setattr("cryonome.cli.solve_document", broken)
    said = one_sentence(command("solve", str(gas)), 70)
    assert "the program failed (RuntimeError: shapes (3,) and (4,)); set CRYONOME_LOG=debug" in said
