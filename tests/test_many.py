"""Many documents: in their order, by any executor, no document lost with a worker, the same numbers everywhere."""

from __future__ import annotations

import json
import os
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

import cryonome
from ask import command
from cryonome.questions.spreading import shared
from cryonome.sharing import Lost, Workers, in_order

FLUID = {"name": "G", "parts": [{"component": "methane", "amount": 90}, {"component": "propane", "amount": 10}]}


def document(T: float, **more):
    state = {"name": "a", "kind": "flash", "fluid": "G", "temperature": f"{T} K", "pressure": "10 bar"}
    return {"format": "cryonome/1", "fluids": [FLUID], "studies": [state, *more.get("studies", ())]}


@pytest.fixture
def workers():
    with Workers(2) as found:
        yield found


def test_answers_come_in_order_and_one_that_fails_says_which(workers, tmp_path):
    file = tmp_path / "one.cryo"
    file.write_text(json.dumps(document(260)))
    wrong = {"format": "cryonome/1", "studies": [{"name": "x", "kind": "flash", "fluid": "H"}]}
    given = [document(250), file, json.dumps(document(270)), wrong, tmp_path / "none.cryo", document(280)]
    alone = list(cryonome.solve_many(given))
    assert [a["answers"]["a"]["temperature_K"] for a in alone if "answers" in a] == [250.0, 260.0, 270.0, 280.0]
    assert "studies[0].fluid" in " ".join(alone[3]["faults"])
    assert "none.cryo cannot be read" in alone[4]["error"]
    with ThreadPoolExecutor(2) as threads:
        for executor in (workers, threads):
            assert list(cryonome.solve_many(iter(given), executor)) == alone


def test_a_stream_is_read_no_farther_than_what_is_underway(workers):
    seen = []

    def given():
        for i in range(400):
            seen.append(i)
            yield "no document"

    found = cryonome.solve_many(given(), workers)
    next(found)
    assert len(seen) <= 65


def kill(path: str) -> str:
    """End the process that works on it, the first time for good."""
    if path == "always" or not Path(path).exists():
        if path != "always":
            Path(path).write_text("")
        os._exit(3)
    return "done"


def well(text: str) -> str:
    """Return a text."""
    return text


def test_a_worker_that_dies_loses_nothing_and_what_kills_twice_is_told(tmp_path):
    with Workers(2) as pool:
        assert list(in_order(kill, [(str(tmp_path / "mark"),)], pool)) == ["done"]
        assert isinstance(next(in_order(kill, [("always",)], pool)), Lost)
        # The pool is made anew.
        assert list(in_order(well, [(str(i),) for i in range(5)], pool)) == list("01234")


SPREAD = {
    "name": "S", "kind": "spread", "of": "a", "samples": 260, "uncertain": [{"fluid": "G"}, {"path": "studies[a].pressure", "standard_deviation": "0.3 bar"}],
    "limits": [{"read": "density_kg_m3", "at_most": "8 kg/m**3"}],
}  # fmt: skip


def test_a_large_spread_gives_the_same_bits_on_one_and_two_workers(workers, monkeypatch):
    monkeypatch.setattr(shared, "LARGE", 200)
    given = document(260, studies=[SPREAD])
    alone = list(cryonome.solve_many([given]))
    assert alone[0]["answers"]["S"]["samples"] == 260
    with Workers(1) as single:
        assert list(cryonome.solve_many([given], single)) == alone
    assert list(cryonome.solve_many([given], workers)) == alone


def test_dask_does_the_same_and_goes_on_where_a_worker_is_lost(tmp_path):
    distributed = pytest.importorskip("distributed")
    given = [document(250.0 + i) for i in range(8)]
    alone = list(cryonome.solve_many(given))
    options = {"n_workers": 2, "threads_per_worker": 1, "dashboard_address": None, "silence_logs": 60}
    with distributed.LocalCluster(**options) as cluster, distributed.Client(cluster) as client:
        executor = client.get_executor(pure=False)
        assert list(cryonome.solve_many(given, executor)) == alone
        mark = str(tmp_path / "dask")
        assert list(in_order(kill, [(mark,)], executor)) == ["done"]
        names = [tmp_path / f"{i}.cryo" for i in range(2)]
        for name, one in zip(names, given):
            name.write_text(json.dumps(one))
        out = tmp_path / "out.jsonl"
        address = ("--scheduler", cluster.scheduler_address, "--output", str(out))
        assert command("solve", *map(str, names), *address).returncode == 0
        lines = [json.loads(line) for line in out.read_text().splitlines()]
        assert [line.pop("document") for line in lines] == [str(n) for n in names]
        assert lines == alone[:2]


def test_the_command_line_tells_the_gravest_of_several(tmp_path):
    good, wrong, cold = (tmp_path / f"{n}.cryo" for n in ("good", "wrong", "cold"))
    good.write_text(json.dumps(document(260)))
    wrong.write_text("{")
    dew = {"name": "d", "kind": "saturation", "fluid": "G", "temperature": "900 K"}
    cold.write_text(json.dumps(document(260, studies=[dew])))
    for files, status in (([good, good], 0), ([good, cold], 1), ([good, cold, wrong], 2)):
        ended = command("solve", *map(str, files))
        assert ended.returncode == status
        assert len(ended.stdout.splitlines()) == len(files)
    for words, told in ((["--jobs", "0"], "give 1 or more"), (["--jobs", "2", "--scheduler", "tcp://x"], "not both")):
        ended = command("solve", str(good), *words)
        assert (ended.returncode, told in ended.stderr) == (2, True)
