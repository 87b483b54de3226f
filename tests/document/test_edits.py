"""Changing a place of a document: one way for all, and everything else shared."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.demo import demo_document
from cryonome.document import edits as change
from cryonome.document.edits import get_at, set_at, set_each

PATHS = [
    ("title",),
    ("samples", 0, "name"),
    ("samples", 1, "note"),
    ("samples", 0, "distillation", "points"),
    ("samples", 0, "bulk", "density"),
    ("fluids", 2, "parts", 0, "amount"),
    ("fluids", 2, "model", "eos"),
    ("display", "units"),
    ("display", "map", "quality_lines"),
]


@given(st.sampled_from(PATHS), st.integers())
def test_what_is_set_is_there_and_nothing_else_moved(path, value):
    document = demo_document()
    changed = set_at(document, path, value)
    assert get_at(changed, path) == value
    assert set_at(changed, path, get_at(document, path)) == document
    for other in PATHS:
        if other[:2] != path[:2]:
            assert get_at(changed, other) is get_at(document, other)
    # What is beside the way is shared, not copied.
    for group in ("samples", "fluids", "studies"):
        if path[0] != group:
            assert getattr(changed, group) is getattr(document, group)


def test_one_past_the_end_is_one_more_and_what_is_not_there_is_an_error():
    document = demo_document()
    more = set_at(document, ("samples", len(document.samples)), document.samples[0])
    assert len(more.samples) == len(document.samples) + 1
    with pytest.raises(IndexError):
        set_at(document, ("samples", 99, "name"), "x")
    with pytest.raises(KeyError, match="nothing can be set"):
        set_at(document, ("title", "x"), "y")
    with pytest.raises(KeyError):
        change.sample_path(document, "no such sample")
    values = {("title",): "other", ("samples", 0, "note"): "mine"}
    both = set_each(document, values)
    assert {p: get_at(both, p) for p in values} == values


def test_a_question_gets_a_name_of_its_own():
    document = demo_document()
    study = document.studies[1]
    twice = change.add_study(document, study)
    assert twice.studies[-1].name == f"{study.name} 2"
    assert twice.studies[-1].kind == study.kind


def test_a_kept_envelope_brings_what_it_is_made_of():
    document = demo_document()
    fluid = document.fluid("Varnholt recombined")
    kept = change.add_ghost(document, "before", fluid)
    ghost = kept.ghosts[-1]
    assert ghost.fluid is fluid
    assert {s.name for s in ghost.samples} == {"Varnholt crude"}
    changed = set_at(kept, ("fluids", 2, "model", "eos"), "SRK")
    assert changed.ghosts[-1] is ghost
    assert change.add_ghost(kept, "before", fluid).ghosts[-1].name == "before 2"
    assert not change.without(kept, "ghosts", "before").ghosts
