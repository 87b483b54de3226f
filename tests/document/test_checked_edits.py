"""Whatever is typed, the document stays one that opens, the text is found in its cell again, and what is wrong with it is told there."""

from __future__ import annotations

import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import BaseModel

from cryonome.demo import demo_document
from cryonome.document import Document, DocumentError, check_document, document_text, parse_document
from cryonome.document.drafts import checked, draft_of, drafts_below, typed
from cryonome.document.edits import add_study, get_at, removed, renamed, set_at
from cryonome.document.faults import format_path
from cryonome.document.kinds import study_kinds
from cryonome.questions import solve

FIXED = ("name", "kind", "fluid", "sample")


def leaves(part, path=()):
    """Yield every cell of a question: what holds no further parts."""
    for name in type(part).model_fields:
        value, own = getattr(part, name), (*path, name)
        if isinstance(value, BaseModel):
            yield from leaves(value, own)
        elif isinstance(value, tuple) and value and all(isinstance(v, BaseModel) for v in value):
            for i, item in enumerate(value):
                yield from leaves(item, (*own, i))
        elif path or name not in FIXED:
            yield own


def with_every_kind(document):
    for kind in study_kinds().values():
        subject = {"fluid": "Selden gas", "sample": "Varnholt crude", "study": "tank"}.get(kind.subject, "")
        document = add_study(document, kind.begin(subject, (320.0, 6e6)))
    return document


DEMO = demo_document()
# One sample, one gas and what is asked of them: a small document for many trials.
DOCUMENT = with_every_kind(
    Document(
        samples=DEMO.samples[:1],
        fluids=tuple(f for f in DEMO.fluids if f.name in ("Selden gas", "Varnholt stock-tank oil")),
        studies=tuple(s for s in DEMO.studies if s.name == "tank"),
    )
)
CELLS = [
    ("studies", i, *path) for i, study in enumerate(DOCUMENT.studies) for path in leaves(study) if path != ("draft",)
]

TEXTS = st.one_of(
    st.sampled_from([
        "log", "yes", "Pc of heavy", "", "-1", "1e400", "nan", "0 K", "300", "5 bar", "100 degF", "heavy", "[]", "{}", "null", "true", "a, b; c",
        "fluids[0].parts[99].amount", "phases.liquid.x", "\u0000", "«ü»", "10 to 20", "=1+1", "'", '"', "1;2;3", "5 %",
    ]),
    st.text(max_size=30).filter(lambda t: "\ud800" not in t),
)  # fmt: skip


@settings(max_examples=200, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.sampled_from(CELLS), TEXTS)
def test_any_text_in_any_cell_is_kept_with_its_fault_and_opens_again(path, text):
    try:
        json.dumps(text).encode("utf-8")
        text.encode("utf-8")
    except UnicodeEncodeError:
        return
    made = typed(DOCUMENT, path, text, text)
    opened = parse_document(document_text(made))
    written = next(iter(made.drafts), None) or format_path(path)
    found = opened.drafts.get(written, get_at(opened, path) if written not in opened.drafts else None)
    assert found == text or (text == "" and found in (None, ""))
    told = [f for f in check_document(opened) if f.path[:2] == path[:2]]
    if opened.drafts:
        assert any(format_path(f.path) == written for f in told)
        assert drafts_below(opened, path[:2])
    # Typing over it takes the draft away.
    assert not typed(opened, path, get_at(DOCUMENT, path), "").drafts


def test_what_the_shape_refuses_becomes_a_draft_and_the_place_keeps_what_it_had():
    i = next(k for k, s in enumerate(DEMO.studies) if s.name == "Quillmoor match")
    wrong = set_at(DEMO, ("studies", i, "parameters"), ("Pc of heavy",))
    kept = checked(DEMO, wrong)
    path = f"studies[{i}].parameters[0]"
    assert kept.drafts == {path: "Pc of heavy"}
    assert kept.studies[i].parameters == DEMO.studies[i].parameters
    assert parse_document(document_text(kept)).drafts == kept.drafts
    answers = solve(kept, ["Quillmoor match", "tank"])["answers"]
    assert answers["tank"]["ok"]
    assert [f["path"] for f in answers["Quillmoor match"]["faults"]] == [path]
    assert "cannot stand here" in answers["Quillmoor match"]["error"]
    assert draft_of(kept, ("studies", i, "parameters", 0)) == "Pc of heavy"


def test_a_draft_follows_its_cell_where_rows_and_questions_move():
    i = next(k for k, s in enumerate(DEMO.studies) if s.name == "Quillmoor match")
    kept = typed(DEMO, ("studies", i, "tests"), "not a list", "not a list")
    moved = removed(kept, "studies", "phase envelope")
    assert list(moved.drafts) == [f"studies[{i - 1}].tests"]
    assert renamed(kept, "studies", "Quillmoor match", "M").drafts == kept.drafts
    assert not removed(kept, "studies", "Quillmoor match").drafts


def test_one_faulty_cell_silences_what_uses_it_alone():
    data = {
        "format": "cryonome/1",
        "fluids": [
            {"name": "good", "parts": [{"component": "propane", "amount": 1}]},
            {"name": "bad", "parts": [{"component": "propane", "amount": "many"}]},
        ],
        "studies": [
            {"name": n, "kind": "flash", "fluid": f, "temperature": T, "pressure": "1 bar"}
            for n, f, T in (("a", "good", "300 K"), ("b", "bad", "300 K"), ("c", "good", "warm"))
        ],
    }
    answers = solve(parse_document(json.dumps(data)))["answers"]
    assert [answers[n]["ok"] for n in "abc"] == [True, False, False]
    assert answers["b"]["faults"][0]["path"] == "fluids[1].parts[0].amount"
    assert answers["c"]["faults"][0]["path"] == "studies[2].temperature"
    # Where nothing can be answered the document is invalid, as a script expects.
    data["studies"] = data["studies"][1:]
    with pytest.raises(DocumentError, match=r"fluids\[1\]"):
        solve(parse_document(json.dumps(data)))
