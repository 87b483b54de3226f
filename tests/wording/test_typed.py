"""Typed lines: every phrasing gives the question it means, and what is not understood is told with its place."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ask import command
from cryonome.demo import demo_document
from cryonome.document.edits import add_study
from cryonome.document.kinds import study_kinds
from cryonome.telling.sentences import Units
from cryonome.wording.scan import scanned
from cryonome.wording.spoken import spoken
from cryonome.wording.typed import understood

DEMO = demo_document()
LINES = [s for s in Path(__file__).with_name("phrasings.txt").read_text().splitlines() if s and not s.startswith("#")]
MEANT = [tuple(s.split(" => ")) for s in LINES if " => " in s]
UNCLEAR = [tuple(s.split(" ?! ")) for s in LINES if " ?! " in s]


def sentence_of(text: str) -> str:
    """Return the kind and the sentence of a typed line."""
    found = understood(text, DEMO)
    assert found.study is not None, found.unclear
    whole = add_study(DEMO, found.study)
    return f"{found.study.kind} | {spoken(whole.studies[-1], whole, Units.of('metric').of_states()).text}"


def test_fifty_phrasings_give_the_question_they_mean():
    assert len(MEANT) >= 50
    assert {kind.partition(" |")[0] for _, kind in MEANT} >= set(study_kinds()) - {"match", "viscosity"}
    for text, meant in MEANT:
        assert sentence_of(text).startswith(meant), text


def test_what_is_not_understood_is_told_at_its_place_and_never_guessed():
    for text, told in UNCLEAR:
        found = understood(text, DEMO)
        assert found.study is None, text
        assert told in "; ".join(u.message for u in found.unclear), (text, found.unclear)
        assert all(0 <= u.start <= u.end <= len(text) for u in found.unclear)
    (wrong,) = understood("hydrates of Sleden gas at 80 bar", DEMO).unclear
    assert (wrong.start, wrong.end) == (12, 22)


def test_the_order_of_the_blanks_is_free():
    one = understood("hydrates of Selden gas at 80 bar with 20 % methanol", DEMO).study
    for text in (
        "with 20 wt% methanol, 80 bar, Selden gas hydrates",
        "selden gas: 20% MeOH hydrates 80bar",
        "80 bar hydrate Selden gas methanol 20 %",
    ):
        assert understood(text, DEMO).study == one, text


@given(
    low=st.integers(-40, 60), span=st.integers(1, 80), between=st.sampled_from(["..", " to ", "-", " – "]), count=st.integers(1, 40),
    unit=st.sampled_from([("C", "degC"), ("°C", "degC"), ("deg F", "degF"), ("K", "K")]),
)  # fmt: skip
def test_ranges_are_read_however_they_are_written(low, span, between, count, unit):
    typed, own = unit
    high = low + span
    text = f"hydrates of Selden gas {low}{between}{high} {typed} in {count} steps"
    token = next(t for t in scanned(text) if t.what == "range")
    assert (token.numbers, token.unit) == ((low, high), own)
    asked = understood(text, DEMO).study.temperatures
    assert (asked.begin, asked.end, asked.steps) == (f"{low} {own}", f"{high} {own}", count)


@given(st.text(max_size=60))
def test_any_text_is_understood_or_told(text):
    found = understood(text, DEMO, "Selden gas")
    assert (found.study is None) == bool(found.unclear) or found.study is not None


def test_the_command_line_prints_sentence_and_answer(tmp_path):
    from cryonome.document import save

    path = tmp_path / "d.cryo"
    save(path, DEMO)
    told = command("ask", str(path), "dew point of Selden gas at 40 bar")
    assert told.returncode == 0
    assert told.stdout.splitlines()[0] == "Where does Selden gas begin to boil or condense at 40 bar?"
    assert told.stdout.splitlines()[1].startswith("Condenses below −13.")
    data = command("ask", str(path), "dew point of Selden gas at 40 bar", "--json")
    assert '"format": "cryonome-asked/1"' in data.stdout
    assert '"incipient"' in data.stdout
    wrong = command("ask", str(path), "hydrates of Sleden gas at 80 bar")
    assert wrong.returncode == 2
    assert wrong.stderr.splitlines()[1].strip() == "~" * len("Sleden gas")
    chosen = command("ask", str(path), "bubble point at 37.8 C", "--fluid", "Export blend")
    assert "Boils below 0.1909 bar." in chosen.stdout
    assert pytest.approx(0.1909, rel=1e-3) == float(chosen.stdout.split()[-2])


def test_every_sentence_of_the_program_typed_back_is_the_question_it_says():
    units = Units.of("metric").of_states()
    for study in DEMO.studies:
        said = spoken(study, DEMO, units).text
        found = understood(said, DEMO)
        rows = re.search(r"these (\d+) \w+", said)
        if found.study is None and rows is not None:
            # What is typed below a sentence is not in it, and is not made up.
            assert "typed below the sentence" in found.unclear[0].message, said
            continue
        assert found.study is not None, (said, found.unclear)
        whole = add_study(DEMO, found.study)
        assert spoken(whole.studies[-1], whole, units).text == said
        assert type(found.study) is type(study)
        # Said otherwise it is the same: small letters, other spaces, no mark at the end.
        again = understood("  ".join(said.rstrip("?.").split(" ")).replace("Where", "where"), DEMO).study
        assert again == found.study, said


@pytest.mark.parametrize(
    ("text", "pressures"),
    [
        ("Varnholt recombined expanded at 92 C, 300 bar, 250 bar, 1 atm", ("300 bar", "250 bar", "1 atm")),
        ("expansion of Varnholt recombined at 92 C and 300, 250 bar, 2000 psi", ("300 bar", "250 bar", "2000 psi")),
        ("expansion of Varnholt recombined at 92 C: 300, 250, 200 bar", ("300 bar", "250 bar", "200 bar")),
    ],
)
def test_every_number_of_a_list_keeps_its_unit(text, pressures):
    assert understood(text, DEMO).study.pressures == pressures
