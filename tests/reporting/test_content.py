"""The report of a document as data and as a page of HTML."""

from __future__ import annotations

import json
import re

import pytest

from cryonome.demo import demo_document
from cryonome.document import document_text, parse_document
from cryonome.document.edits import set_at
from cryonome.document.following import followed
from cryonome.questions import solve
from cryonome.reporting.content import checksum, report_of
from cryonome.reporting.html import page
from cryonome.reporting.parts import Heading, Picture, Points, Sentence, Table
from cryonome.results import Evaluator

GAS = {"name": "G <1>", "note": "lean & dry", "parts": [{"component": "methane", "amount": 90}, {"component": "propane", "amount": 10}]}  # fmt: skip
STUDIES = [
    {"name": "cold flash", "kind": "flash", "fluid": "G <1>", "temperature": "220 K", "pressure": "20 bar"},
    {"name": "no point", "kind": "saturation", "fluid": "G <1>", "temperature": "400 K"},
    {"name": "map", "kind": "envelope", "fluid": "G <1>"},
]


def document(**report):
    data = {"format": "cryonome/1", "title": "A & B", "fluids": [GAS], "studies": STUDIES, "report": report}
    return parse_document(json.dumps(data))


@pytest.fixture(scope="module")
def evaluator():
    return Evaluator()


def of(parts, kind):
    return [p for p in parts if isinstance(p, kind)]


def test_it_tells_the_answers_of_solve_in_sentences_pictures_and_tables(evaluator):
    content = report_of(document(), evaluator)
    answers = solve(document())["answers"]
    assert {n: a["ok"] for n, a in content.answers.items()} == {"cold flash": True, "no point": False, "map": True}
    text = page(content)
    assert "A &amp; B" in text
    assert "G &lt;1&gt;" in text
    assert "lean &amp; dry" in text
    assert f"Vapour {100 * answers['cold flash']['vapour_fraction']:.1f}, liquid" in text
    assert "There is no bubble or dew point at 126.85 °C" in text
    assert [p.caption for p in of(content.parts, Picture)] == ["cold flash", "map"]
    assert text.count("<svg") == 2
    assert not re.search(r'(src|href)="(?!#)', text)  # one file: nothing is fetched
    assert "Robinson and Peng, GPA RR-28 (1978)" in text
    assert f"SHA-256 {checksum(document())}" in text


def test_units_are_the_readers(evaluator):
    field = set_at(document(), ("display", "units"), "field")
    # The question itself keeps the units it was asked in.
    told = " ".join(p.text for p in of(report_of(field, evaluator).parts, Sentence) if p.look != "mute")
    assert "lb/ft³ of gas" in told
    assert "260.33 °F" in told
    assert not re.search(r"\d °C|\d bar\b", told)


def test_what_is_left_out_is_not_there_and_what_comes_later_is(evaluator):
    all_of_it = report_of(document(), evaluator)
    without = report_of(document(without=["pictures", "sources"], without_studies=["map"]), evaluator)
    assert not of(without.parts, Picture)
    assert [h.text for h in of(without.parts, Heading) if h.level == 1] == ["Fluids", "Questions and answers", "Assumptions"]  # fmt: skip
    assert "map" not in without.answers
    assert {h.text for h in without.headings} < {h.text for h in all_of_it.headings}
    later = set_at(document(without_studies=["map"]), ("studies", 3), parse_document(json.dumps({"format": "cryonome/1", "fluids": [GAS], "studies": [{**STUDIES[0], "name": "later"}]})).studies[0])  # fmt: skip
    assert "later" in report_of(later, evaluator).answers


def test_a_question_that_is_left_out_stays_so_under_another_name():
    old = document(without_studies=["map"], without_fluids=["G <1>"])
    new = followed(old, set_at(set_at(old, ("studies", 2, "name"), "chart"), ("fluids", 0, "name"), "Gas"))
    assert new.report.without_studies == ("chart",)
    assert new.report.without_fluids == ("Gas",)
    assert parse_document(document_text(new)).report == new.report


def test_the_checksum_tells_any_change_and_survives_saving():
    one = document()
    assert checksum(parse_document(document_text(one))) == checksum(one)
    assert checksum(set_at(one, ("fluids", 0, "parts", 0, "amount"), 91)) != checksum(one)


def test_faults_are_told_where_they_are(evaluator):
    wrong = set_at(document(), ("fluids", 0, "parts", 0, "amount"), "ninety")
    content = report_of(wrong, Evaluator())
    told = [s.text for s in of(content.parts, Sentence) if s.look == "fault"]
    assert sum("'ninety'" in t for t in told) == 1 + len(STUDIES)
    empty = report_of(parse_document('{"format": "cryonome/1"}'))
    assert "asks nothing" not in page(empty)
    assert of(empty.parts, Table)


def test_the_demo_is_told_from_lab_data_to_sources():
    demo = demo_document()
    chosen = [
        "Varnholt cuts",
        "Quillmoor dew points",
        "cold line, normal",
        "separator pressures",
        "half vapour by mole",
        "roots of CO2",
    ]
    left = tuple(s.name for s in demo.studies if s.name not in chosen)
    content = report_of(demo.model_copy(update={"report": demo.report.model_copy(update={"without_studies": left})}))
    tables = {t.block.title: t.block for t in of(content.parts, Table)}
    assert tables["Against the percent distilled"].columns[1] == ("boiling point", "°F")  # as it was entered
    cuts = tables["Components of Varnholt crude"]
    assert len(cuts.rows) == len(content.answers["Varnholt cuts"]["components"])
    assert sum(float(r[1]) for r in cuts.rows) == pytest.approx(100.0, abs=0.05)
    said = " ".join(t for p in of(content.parts, Points) for t in p.texts)
    assert "Varnholt crude: The curve is continued to 100 %" in said
    named = [p.caption for p in of(content.parts, Picture)]
    for name in chosen:
        assert any(c.startswith(name) for c in named), name
    assert all(len(t.block.rows) <= 40 for t in of(content.parts, Table) if t.hidden)
