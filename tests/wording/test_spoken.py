"""Sentences: every cell of every kind has a blank, what is shown is taken back, answers are sentences with their numbers."""

from __future__ import annotations

import pytest

from cryonome.demo import demo_document
from cryonome.document.edits import add_study, set_each
from cryonome.document.kinds import study_kinds
from cryonome.questions.beginning import begun
from cryonome.questions.solving import solve
from cryonome.results.evaluator import Evaluator
from cryonome.telling.point_tables import point_tables
from cryonome.telling.sentences import Units
from cryonome.wording.asked import said
from cryonome.wording.cells import Cells
from cryonome.wording.spoken import Below, Blank, spoken
from cryonome.wording.template import cells_in, parts_of

DEMO = demo_document()
METRIC = Units.of("metric").of_states()
ELSEWHERE = {"match": {"weights"}}
"""Cells of questions whose page has a place of its own for them."""
NO_CELLS = {"name", "kind", "reference", "draft", "measured", "uncertainty"}


def test_every_cell_of_every_kind_has_a_blank():
    for kind in study_kinds().values():
        said_cells = {c.partition(".")[0] for c in cells_in(parts_of(kind.sentence))}
        missing = set(kind.model.model_fields) - said_cells - NO_CELLS - ELSEWHERE.get(kind.name, set())
        assert not missing, (kind.name, missing)


def test_what_a_blank_shows_it_takes_back():
    """Typing what stands in a blank changes nothing, in any kind, in any units."""
    for name in ("SI", "metric", "field"):
        units = Units.of(name).of_states()
        for study in DEMO.studies:
            cells = Cells(study, DEMO, units)
            for blank in spoken(study, DEMO, units, whole=True).blanks():
                if (
                    blank.write is not None
                    or not blank.text
                    or blank.path[-1] in ("path", "read", "properties", "compact")
                ):
                    continue
                key = next((k for k, w in blank.choices.items() if w == blank.text), blank.text)
                again = set_each(study, {blank.path: cells.read(blank.path, key)})
                shown = Cells(again, set_each(DEMO, {("studies", DEMO.studies.index(study)): again}), units).shown(
                    blank.path
                )
                assert (shown.text, shown.unit) == (blank.text, blank.unit), (study.name, blank.path)


def test_a_blank_becomes_another_quantity_and_a_range_a_list():
    study = DEMO.study("reservoir")
    first = next(
        b
        for b in spoken(study, DEMO, METRIC, known={"enthalpy": "-17.75 kJ/mol"}).blanks()
        if b.path == ("temperature",)
    )
    other = next(o for o in first.others if o.words == "enthalpy")
    assert "an enthalpy of −17.75 kJ/mol" in spoken(set_each(study, other.cells), DEMO, METRIC).text
    hydrates = DEMO.study("cold line hydrates")
    blank = next(b for b in spoken(hydrates, DEMO, METRIC).blanks() if b.path == ("pressures", "begin"))
    listed = set_each(hydrates, next(o for o in blank.others if o.words == "a list").cells)
    assert "form at 20, 250 bar" in spoken(listed, DEMO, METRIC).text
    by_T = set_each(hydrates, next(o for o in blank.others if o.words == "a range of temperature").cells)
    assert "form from 0 °C to 25 °C in 10 steps" in spoken(by_T, DEMO, METRIC).text


def test_defaults_are_quiet_until_touched():
    made = begun(study_kinds()["vapour_pressure"], "Export blend", None, METRIC)
    document = add_study(DEMO, made)
    quiet = {b.path: b.quiet for b in spoken(made, document, METRIC, begun=made).blanks()}
    assert all(quiet.values())
    changed = set_each(made, {("temperature",): "20 degC"})
    document = add_study(DEMO, changed)
    assert [b.path for b in spoken(changed, document, METRIC, begun=made).blanks() if not b.quiet] == [("temperature",)]
    path = spoken(DEMO.study("cold line, normal"), DEMO, METRIC)
    assert [p.text for p in path.parts if isinstance(p, Below)] == ["these 4 stations"]
    assert next(b for b in path.parts if isinstance(b, Blank)).text == "Quillmoor wet stream"


@pytest.fixture(scope="module")
def answered():
    evaluator = Evaluator()
    names = [
        "reservoir saturation", "Wet separator", "cold line hydrates", "Selden dryness", "cold line, normal", "which equation", "roots of CO2", "export specification",
        "separator pressures", "phase envelope",
    ]  # fmt: skip
    return solve(DEMO, names, evaluator)["answers"], evaluator


def test_answers_are_sentences_with_the_number_first(answered):
    answers, evaluator = answered
    told = {n: said(DEMO.study(n), a, DEMO, METRIC, evaluator) for n, a in answers.items()}
    assert told["reservoir saturation"] == "Boils below 186.3 bar."
    assert told["cold line, normal"] == "12.5 K to spare to the hydrate limit, between Riser base and Separator."
    assert told["which equation"].startswith("PR78, PC-SAFT fit")
    assert told["roots of CO2"].startswith("Three; the gas-like 564.0 cm³/mol is stable")
    assert told["export specification"].endswith("keeps under 0.25 bar up to 62.7 °C.")
    assert told["separator pressures"] == "Vapour fraction falls from 0.5427 to 0.3098."
    field = said(
        DEMO.study("reservoir saturation"), answers["reservoir saturation"], DEMO, Units.of("field"), evaluator
    )
    assert field == "Boils below 2702 psia."
    assert all(t[0].isupper() or t[0].isdigit() for t in told.values())


def test_lines_are_tables_of_points_with_their_names(answered):
    answers, _ = answered
    envelope = answers["phase envelope"]
    lines = next(t for t in point_tables(envelope) if t.title == "lines")
    assert len(lines.rows) == sum(len(x["temperature_K"]) for x in envelope["lines"])
    assert {r[0] for r in lines.rows} == {"bubble line", "dew line", "25 % vapour", "50 % vapour", "75 % vapour"}
    first = dict(zip(lines.keys, lines.rows[0]))
    assert first["temperature_K"] == envelope["lines"][0]["temperature_K"][0]
    assert lines.plain(METRIC)[0][lines.keys.index("temperature_K")] == pytest.approx(first["temperature_K"] - 273.15)
