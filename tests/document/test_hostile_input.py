"""Whatever is thrown at the document and its grids: a sentence, never a traceback, nothing lost."""

from __future__ import annotations

import json
import math
from itertools import pairwise

import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from cryonome.characterization import check_points, close_curve
from cryonome.demo import demo_document
from cryonome.document import DocumentError, check_document, document_text, errors, parse_document
from cryonome.document.edits import clean_points, update_sample
from cryonome.document.sample_points import boiling_points
from cryonome.questions import solve
from cryonome.units import KINDS, QuantityError, parse, split

TEXT = document_text(demo_document())
ODD = st.one_of(
    st.none(), st.booleans(), st.integers(-(10**9), 10**9), st.floats(allow_nan=False, allow_infinity=False),
    st.text(max_size=12), st.lists(st.integers(), max_size=3), st.dictionaries(st.text(max_size=4), st.integers(), max_size=2),
    st.sampled_from(["12 degC", "-5 psig", "3 %", "1e999 K", "nan K", "methane", "S 1 to 2 °C", "°", "−", "0x10", "1 degAPI"]),
)  # fmt: skip


def places(value, path=()):
    """Yield every path of a JSON value."""
    yield path
    if isinstance(value, dict):
        for key, item in value.items():
            yield from places(item, (*path, key))
    elif isinstance(value, list):
        for i, item in enumerate(value):
            yield from places(item, (*path, i))


PLACES = [p for p in places(json.loads(TEXT)) if p]


def judge(text: str) -> list[str]:
    """Return the faults of a document text, the way ``solve`` finds them."""
    try:
        return [str(f) for f in errors(check_document(parse_document(text)))]
    except DocumentError as error:
        return [str(f) for f in error.faults]


@settings(max_examples=60)
@given(st.sampled_from(PLACES), ODD)
def test_any_value_at_any_place_is_taken_or_told_where_it_stands(path, value):
    data = json.loads(TEXT)
    here = data
    for part in path[:-1]:
        here = here[part]
    here[path[-1]] = value
    found = judge(json.dumps(data))
    assert all(": " in f and "\n" not in f and "Traceback" not in f for f in found)
    # A fault names the place of the change or one that hangs on it: a name, a list, the whole object.
    assert all(f.split(": ")[0] for f in found)


@settings(max_examples=25)
@given(st.sampled_from(PLACES), st.text(alphabet="abcdefgh_", min_size=1, max_size=8))
def test_an_unknown_key_anywhere_is_named(path, key):
    data = json.loads(TEXT)
    here = data
    for part in path[:-1]:
        here = here[part]
    assume(isinstance(here, dict) and key not in here and path[-1] not in ("correlations", "curves"))
    here[key] = 1
    known = {"format", "title", "note", "name", "kind", "fluid", "sample", "basis", "bulk"}
    assume(key not in known)
    assert any(key in f.split(": ")[0] or f"'{key}'" in f for f in judge(json.dumps(data)))


@settings(max_examples=25)
@given(st.integers(1, len(TEXT) - 3))
def test_a_file_cut_anywhere_is_told(length):
    found = judge(TEXT[:length])
    assert len(found) == 1
    assert "cut off" in found[0] or "not JSON" in found[0]


@given(st.text(max_size=24), st.sampled_from(sorted(KINDS)))
def test_no_text_breaks_a_quantity(text, kind):
    try:
        value = parse(text, kind)
    except QuantityError:
        return
    assert math.isfinite(value)
    assert split(text)


@settings(max_examples=60)
@example([(0.0, 174.0), (1.8e-199, 175.0), (1.0, 176.0), (2.0, 174.0)])
@given(st.lists(st.tuples(st.floats(-20, 130), st.floats(100, 1400)), max_size=14))
def test_what_is_left_after_the_faults_is_a_curve(points):
    percent = [p for p, _ in points]
    temperature = [t for _, t in points]
    faults = check_points(percent, temperature)
    bad = {f.index for f in faults}
    assert all(0 <= i < len(points) for i in bad)
    kept = [(p, t) for i, (p, t) in enumerate(points) if i not in bad]
    assert all(a[0] < b[0] and a[1] < b[1] for a, b in pairwise(kept))
    if len(kept) >= 5:
        curve = close_curve([p for p, _ in kept], [t for _, t in kept])
        assert (curve.fraction[0], curve.fraction[-1]) == (0.0, 1.0)
        assert (curve.temperature[1:] > curve.temperature[:-1]).all()


CELL = st.one_of(
    st.none(), st.floats(-10, 110), st.sampled_from(["", "12", "300 K", "80 degC", "x", "5 bar", "12,5", "-400 degF"])
)


@settings(max_examples=40)
@given(st.lists(st.tuples(CELL, CELL), max_size=10))
def test_a_grid_may_hold_anything_and_saves_it(rows):
    document = update_sample(
        demo_document(),
        "Varnholt crude",
        lambda s: s.model_copy(
            update={"distillation": s.distillation.model_copy(update={"points": clean_points(rows)})}
        ),
    )
    again = parse_document(document_text(document))
    assert again == document
    points = boiling_points(again.samples[0])
    kept, percents, temperatures, faults = points.rows, points.percents, points.values, points.faults
    assert len(kept) == len(percents) == len(temperatures)
    assert all(f.path[:2] == ("distillation", "points") for f in faults)
    touched = set(kept) | {f.path[2] for f in faults if len(f.path) > 2}
    filled = {
        i for i, (a, b) in enumerate(again.samples[0].distillation.points) if a not in (None, "") or b not in (None, "")
    }
    assert touched == filled  # every row is either used or told


@settings(max_examples=12)
@given(
    st.lists(st.tuples(st.sampled_from(["methane", "CO2", "nC5", "H2S", "nC10", "N2", "benzene"]), st.floats(0, 1e6)), min_size=1, max_size=5, unique_by=lambda t: t[0]),
    st.floats(1.0, 2000.0),
    st.floats(1e-3, 1e9),
)  # fmt: skip
def test_any_fluid_anywhere_gets_a_finite_answer_or_a_reason(parts, T, P):
    fluid = {"name": "F", "parts": [{"component": c, "amount": a} for c, a in parts]}
    study = {"name": "s", "kind": "flash", "fluid": "F", "temperature": T, "pressure": P}
    text = json.dumps({"format": "cryonome/1", "fluids": [fluid], "studies": [study]})
    if not any(a > 0 for _, a in parts):
        assert "every amount is zero" in judge(text)[0]
        return
    answer = solve(parse_document(text))["answers"]["s"]
    if answer["ok"]:
        assert (
            sum(p["fraction"] for p in answer["phases"]) == 1.0
            or abs(sum(p["fraction"] for p in answer["phases"]) - 1) < 1e-12
        )
        json.dumps(answer, allow_nan=False)
    else:
        assert answer["error"]


def chain(length: int, closed: bool = False) -> str:
    first = [{"component": "methane", "amount": 60}, {"component": "n-decane", "amount": 40}]
    if closed:
        first.append({"fluid": f"F{length - 1}", "amount": 1})
    fluids = [{"name": "F0", "parts": first}]
    fluids += [{"name": f"F{i}", "parts": [{"fluid": f"F{i - 1}", "amount": 1}]} for i in range(1, length)]
    return json.dumps({"format": "cryonome/1", "fluids": fluids})


def test_fluids_inside_one_another_have_an_end():
    assert not errors(check_document(parse_document(chain(25))))
    assert any("more than 30 deep" in f.message for f in check_document(parse_document(chain(500))))
    assert any("cannot hold itself" in f.message for f in check_document(parse_document(chain(300, True))))


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ('{"format": "cryonome/1", "title": "\\ud800"}', "half of a character"),
        ('{"format": "cryonome/1", "samples": [{"name": "S", "bulk": {"density": 1e999}}]}', "not a finite number"),
        ('{"format": "cryonome/1", "samples": [{"name": "S", "bulk": {"density": ' + "9" * 400 + "}}]}", "400 digits"),
        (
            '{"format": "cryonome/1", "display": {"map": {"temperature": "furlong"}}}',
            "not a unit that a temperature is shown in",
        ),
        ('{"format": "cryonome/1", "title": 1, "title": 2}', "given 2 times"),
    ],
)
def test_numbers_and_text_no_document_can_hold_are_sentences(text, words):
    with pytest.raises(DocumentError) as error:
        parse_document(text)
    assert words in str(error.value)


def test_a_display_unit_is_kept_in_the_programs_spelling():
    document = parse_document('{"format": "cryonome/1", "display": {"map": {"temperature": "°F", "pressure": "psi"}}}')
    assert (document.display.map.temperature, document.display.map.pressure) == ("degF", "psia")
