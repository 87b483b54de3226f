"""The registry of study kinds: answers have their declared shape, the schema publishes it, a new kind is one file."""

from __future__ import annotations

import json
import pkgutil
from dataclasses import replace
from typing import Literal

import pytest
from pydantic import TypeAdapter, ValidationError
from typing_extensions import TypedDict

from cryonome.demo import collection, demo_document
from cryonome.document import DocumentError, Study, read_document
from cryonome.document import kinds as registry
from cryonome.document.files import document_text, parse_document
from cryonome.document.kinds import StudyKind, study_kinds
from cryonome.document.references import about
from cryonome.errors import DomainError
from cryonome.questions import kinds, solve
from cryonome.questions import solving as solving_module
from cryonome.questions.schema import document_schema
from cryonome.results.common import Common
from cryonome.telling.sentences import Units


@pytest.fixture
def answers(demo_answers):
    return demo_document(), demo_answers


def test_every_answer_has_exactly_its_declared_shape(answers):
    document, found = answers
    assert {s.kind for s in document.studies} == set(study_kinds())
    for study in document.studies:
        answer = found[study.name]
        shape = study_kinds()[study.kind].answer
        assert answer["ok"], study.name
        TypeAdapter(shape).validate_json(json.dumps(answer), strict=True)
        assert set(answer) <= set(shape.__annotations__) | set(Common.__annotations__), study.name
        with pytest.raises(ValidationError):
            TypeAdapter(shape).validate_python({**answer, "notes": 5})


def test_every_answer_has_a_line_and_a_study_of_its_kind_can_be_begun(answers):
    document, found = answers
    for study in document.studies:
        kind = study_kinds()[study.kind]
        for units in ("SI", "metric", "field"):
            line = kind.line(found[study.name], Units.of(units))
            assert 3 < len(line) < 60, (study.name, line)
        subject = about(study, {"fluid": "fluids", "sample": "samples", "study": "studies"}[kind.subject])
        begun = kind.begin(subject, (350.0, 5e6))
        assert begun.kind == study.kind
        others = document.studies if kind.subject == "study" else ()
        reading = read_document(document.model_copy(update={"studies": (*others, begun)}))
        assert not reading.faults, begun
        assert kind.meaning.endswith(".") or len(kind.meaning) > 20


def test_the_schema_publishes_kinds_answers_and_choices(answers):
    schema = document_schema()
    json.dumps(schema)
    assert set(schema["answers"]) == set(study_kinds())
    for reference in schema["answers"].values():
        assert reference["$ref"].removeprefix("#/$defs/") in schema["$defs"]
    flash = schema["$defs"]["FlashStudy"]["properties"]
    assert {"fluid", "temperature", "pressure"} <= set(flash)
    units = json.dumps(schema["$defs"]["Display"]["properties"]["units"])
    assert all(f'"{name}"' in units for name in ("SI", "metric", "field"))


class DoublingStudy(Study):
    """A kind made up for the test."""

    kind: Literal["doubling"]
    number: float = 1.0


class DoublingAnswer(TypedDict):
    ok: bool
    doubled: float


def doubling() -> StudyKind:
    return StudyKind(
        name="doubling", title="Doubling", meaning="Twice a number, to see that a kind is one entry.", model=DoublingStudy,
        answer=DoublingAnswer, read=lambda study, document, reader: study.number,
        solve=lambda asked, context: {"notes": [], "doubled": 2.0 * asked},
        line=lambda answer, units: f"{answer['doubled']:g}",
        begin=lambda subject, at: DoublingStudy(name=subject, kind="doubling"), subject="", order=999,
    )  # fmt: skip


def test_a_kind_is_one_entry_and_everything_reads_it(monkeypatch):
    study_kinds()
    monkeypatch.setattr(registry, "_KINDS", dict(registry._KINDS))
    registry.register(doubling())
    text = '{"format": "cryonome/1", "studies": [{"name": "x", "kind": "doubling", "number": 21}]}'
    document = parse_document(text)
    assert solve(document)["answers"]["x"] == {"ok": True, "notes": [], "doubled": 42.0}
    assert parse_document(document_text(document)) == document
    assert "DoublingStudy" in document_schema()["$defs"]
    with pytest.raises(DocumentError, match="doubling"):
        parse_document(text.replace("doubling", "doublling"))


def test_a_domain_error_is_no_answer_but_a_fault_of_the_program_is_not_hidden(monkeypatch):
    study_kinds()
    monkeypatch.setattr(registry, "_KINDS", dict(registry._KINDS))

    def refuse(asked, context):
        raise DomainError("nothing to double")

    registry.register(replace(doubling(), solve=refuse))
    document = parse_document('{"format": "cryonome/1", "studies": [{"name": "x", "kind": "doubling"}]}')
    assert solve(document)["answers"]["x"] == {"ok": False, "error": "nothing to double", "notes": []}

    def broken(asked, context):
        raise ValueError("operands could not be broadcast together")

    registry.register(replace(doubling(), solve=broken))
    told = solve(document)["answers"]["x"]
    assert not told["ok"]
    assert "the program failed on this question" in told["error"]
    assert "broadcast" in told["error"]
    registry.register(replace(doubling(), solve=lambda asked, context: {"doubled": float("nan")}))
    assert not solve(document)["answers"]["x"]["ok"]


def test_every_sample_of_the_collection_can_be_asked_about():
    for sample in collection().samples:
        kind = study_kinds()["characterization"]
        document = demo_document().model_copy(update={"samples": (sample,), "fluids": ()})
        document = document.model_copy(update={"studies": (kind.begin(sample.name, None),)})
        answer = solve(document)["answers"][document.studies[0].name]
        assert answer["ok"]
        TypeAdapter(kind.answer).validate_json(json.dumps(answer), strict=True)


def test_the_document_is_given_its_kinds_and_says_so_where_it_was_not(monkeypatch):
    assert {m.name for m in pkgutil.iter_modules(kinds.__path__)} == set(study_kinds())
    assert solving_module.ANSWERS_FORMAT == "cryonome-answers/1"
    monkeypatch.setattr(registry, "_SOURCES", [])
    with pytest.raises(RuntimeError, match=r"import cryonome.questions first"):
        list(study_kinds())
