"""Whatever stands on a lab sheet or in a spreadsheet: a sentence, never a traceback, and nothing lost."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ask import cuts_of
from cryonome.characterization.methods import METHODS
from cryonome.demo import collection
from cryonome.document import DocumentError, check_document, document_text, errors, parse_document
from cryonome.exchange import read_rows
from cryonome.exchange.columns import column_meaning, column_unit
from cryonome.exchange.entries import is_header
from cryonome.questions import solve

CELL = st.one_of(
    st.none(),
    st.floats(-10, 130),
    st.sampled_from(
        [
            "",
            "12",
            "300 K",
            "80 degC",
            "x",
            "5 bar",
            "12,5",
            "-400 degF",
            "0.85 SG",
            "3 cSt",
            "2 cP",
            "C7",
            "C20+",
            "methane",
            "1e9",
        ]
    ),
)
WORDS = st.sampled_from(
    [
        "sample",
        "density",
        "method",
        "D86",
        "percent",
        "TBP (°C)",
        "component",
        "amount",
        "sulphur (ppm)",
        "light ends by",
    ]
)
PAIRS = st.lists(st.tuples(CELL, CELL), max_size=8)
ROWS = st.lists(st.lists(CELL, min_size=2, max_size=4), max_size=8)


def finite(value) -> bool:
    if isinstance(value, dict):
        return all(finite(v) for v in value.values())
    if isinstance(value, list):
        return all(finite(v) for v in value)
    return not isinstance(value, float) or math.isfinite(value)


def judged(sample: dict) -> None:
    """Check a sample, save and load it, and solve it where it is valid."""
    data = {
        "format": "cryonome/1",
        "samples": [sample],
        "studies": [{"name": "a", "kind": "characterization", "sample": sample["name"]}],
    }
    refused: list[str] = []
    try:
        document = parse_document(json.dumps(data))
    except DocumentError as error:
        refused = [str(f) for f in error.faults]
    if refused:
        assert all(f.startswith("samples[0]") for f in refused)
        return
    assert parse_document(document_text(document)) == document
    found = errors(check_document(document))
    assert all("\n" not in str(f) and "Traceback" not in str(f) for f in found)
    if not found:
        answer = solve(document)["answers"]["a"]
        assert answer["ok"] or answer["error"]
        assert finite(answer)
        if answer["ok"]:
            assert sum(c["mole_fraction"] for c in answer["components"]) == pytest.approx(1.0)


@settings(max_examples=50)
@given(
    method=st.sampled_from(list(METHODS)), points=PAIRS, density=PAIRS, mass=PAIRS, viscosity=PAIRS, quantity=PAIRS,
    bulk=st.tuples(CELL, CELL, CELL), ends=st.dictionaries(st.sampled_from(["propane", "C5", "water", "x"]), CELL, max_size=3),
    tail=PAIRS, rows=ROWS,
)  # fmt: skip
def test_any_cells_on_any_sheet(method, points, density, mass, viscosity, quantity, bulk, ends, tail, rows):
    judged(
        {
            "name": "S",
            "distillation": {
                "method": method,
                "points": points,
                "amounts": rows,
                "tail": {"points": tail} if tail else None,
            },
            "bulk": {"density": bulk[0], "molar_mass": bulk[1], "viscosity": [[bulk[2], bulk[0]]]},
            "curves": {
                "density": density,
                "molar_mass": mass,
                "viscosity": [{"at": "40 degC", "points": viscosity}],
                "quantities": [{"name": "sulphur", "points": quantity}],
            },
            "light_ends": {"mode": "measured" if ends else "absent", "amounts": ends},
        }
    )


@settings(max_examples=40)
@given(
    start=st.floats(250, 450), steps=st.lists(st.floats(1, 130), min_size=5, max_size=12), seed=st.integers(0, 9999),
    density=st.floats(600, 1150), mass=st.one_of(st.none(), st.floats(60, 900)), method=st.sampled_from(["TBP", "D86", "D2887", "EFV"]),
    basis=st.sampled_from(["volume", "mass", "mole"]), ends=st.sampled_from(["probability", "linear", "distribution"]),
    light=st.floats(0, 12), curve=st.sampled_from(["whole", "rest"]),
)  # fmt: skip
def test_any_valid_assay_has_an_answer_or_a_reason(
    start, steps, seed, density, mass, method, basis, ends, light, curve
):
    percent = np.sort(np.random.default_rng(seed).choice(np.arange(0, 101), len(steps), replace=False))
    T = np.minimum(start + np.cumsum(steps), 1200.0 + percent / 10)
    judged(
        {
            "name": "S",
            "distillation": {
                "method": method, "basis": basis, "ends": ends,
                "points": [[int(p), float(t)] for p, t in zip(percent, T)],
            },
            "bulk": {"density": density, "molar_mass": mass},
            "light_ends": {"mode": "measured", "basis": basis, "curve": curve, "amounts": {"propane": light, "n-pentane": light}},
        }
    )  # fmt: skip


@settings(max_examples=60)
@given(
    st.lists(
        st.lists(st.one_of(WORDS, st.text(max_size=10), CELL.map(lambda c: "" if c is None else str(c))), max_size=5),
        max_size=14,
    )
)
def test_any_spreadsheet_is_read_or_left(rows):
    found = read_rows(rows, "sheet")
    for thing in (*found.samples, *found.fluids):
        assert thing.name
        json.loads(thing.model_dump_json())
    assert all("\n" not in n.text for n in found.notes)


@given(st.text(max_size=20))
def test_any_header_has_a_meaning_or_none(text):
    assert column_meaning(text) is None or isinstance(column_meaning(text), str)
    assert isinstance(column_unit(text), str)
    assert not is_header([text, "12 degC"])


@pytest.mark.parametrize("count", [1, 2, 40, 150])
def test_one_cut_and_very_many(count):
    sample = collection().sample("Varnholt crude")
    cut = sample.model_copy(update={"cuts": sample.cuts.model_copy(update={"number": count, "equal": "mass"})})
    result = cuts_of(cut)
    assert len(result.components) == count
    assert result.density == pytest.approx(cuts_of(sample).density, rel=1e-9)
    assert result.molar_mass == pytest.approx(cuts_of(sample).molar_mass, rel=1e-9)
    assert len({c.name for c in result.components}) == count


def test_a_very_long_name_goes_everywhere():
    name = "N" * 300
    judged(
        {
            "name": name,
            "distillation": {"points": [[0, 290], [20, 440], [40, 540], [60, 640], [80, 770]]},
            "bulk": {"density": 860},
        }
    )
