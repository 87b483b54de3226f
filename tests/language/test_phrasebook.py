"""Sentences in another language: the catalogue holds what the program says, and finished texts are told by it."""

from __future__ import annotations

import importlib.util
import os
import subprocess
import sys
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

import cryonome.questions  # noqa: F401
from cryonome.document import parse_document
from cryonome.document.kinds import study_kinds
from cryonome.errors import DomainError
from cryonome.language import Phrasebook, Verbatim, begin, choose, of_file, retold, said, spoken
from cryonome.language.phrasebook import FOLDER, _read
from cryonome.reporting.content import report_of
from cryonome.reporting.parts import Heading, Sentence, Table
from cryonome.telling.sentences import SENTENCES, WORDS
from cryonome.telling.table_blocks import Block

ROOT = Path(__file__).parents[2]

GERMAN = """msgid ""
msgstr "Content-Type: text/plain; charset=UTF-8\\n"

#: questions/kinds/saturation.py
msgid "{words} below {at}"
msgstr "{words} unter {at}"

msgid "no such file"
msgstr "keine solche Datei"

msgid "--jobs: {jobs} processes can do nothing; give 1 or more"
msgstr "--jobs: mindestens 1 ist nötig, nicht {jobs}"
"""

HUB = """{"format": "cryonome/1",
 "fluids": [{"name": "no such file", "parts": [{"component": "propane", "amount": 1}]}],
 "studies": [{"name": "s", "kind": "flash", "fluid": "no such file", "temperature": "300 K", "pressure": "1 bar"}]}"""
"""A fluid whose name is a sentence of the program."""


@pytest.fixture
def english():
    """Leave English behind, whatever a test chose."""
    yield
    choose(None)


def gathered() -> str:
    spec = importlib.util.spec_from_file_location("catalogue", ROOT / "scripts" / "catalogue.py")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module.gathered()


def test_the_catalogue_is_that_of_the_source_and_holds_what_is_said():
    assert gathered() == (FOLDER / "cryonome.pot").read_text(), "run: .venv/bin/python scripts/catalogue.py"
    known = set(_read(FOLDER / "cryonome.pot"))
    for code, sentence in {**SENTENCES, **WORDS}.items():
        assert sentence in known or " " not in sentence, code
    for kind in study_kinds().values():
        assert {kind.title, kind.meaning} <= known, kind.name
        assert not kind.sentence or kind.sentence in known, kind.name


WORD = st.from_regex(r"[a-z]{5,12}", fullmatch=True)
VALUE = st.from_regex(r"[0-9]{1,3}(\.[0-9])? (bar|K|kg)", fullmatch=True)


@given(st.lists(WORD, min_size=3, max_size=3, unique=True), st.lists(VALUE, min_size=2, max_size=2))
def test_values_keep_their_place_in_the_pattern_whatever_the_order_of_the_other_language(words, values):
    one, two, three = words
    book = Phrasebook({f"{one} {{a}} {two} {{b}} {three}": "<{b}|{a}>", one: "ein"})
    a, b = values
    finished = f"{one} {a} {two} {b} {three}"
    assert book.said(finished) == f"<{b}|{a}>"
    # As a sentence with its capital and full stop, beside another, and on a line of its own.
    assert book.said(f"{one.capitalize()}{finished[len(one) :]}.") == f"<{b}|{a}>."
    assert book.said(f"{finished}\n{one}\n{a}") == f"<{b}|{a}>\nein\n{a}"
    # What is told once is not told again, and what is not known stays.
    assert book.said(book.said(one)) == "ein"
    assert book.said(Verbatim(one)) == one
    assert book.said(f"{two} {three}") == f"{two} {three}"


def test_names_are_never_translated_and_sentences_inside_sentences_are():
    book = Phrasebook(
        {"no gas at {T}": "kein Gas bei {T}", "“{name}” is left out: {why}": "{why}; “{name}” fehlt", "gas": "Gas"}
    )
    assert book.said("“no gas at 3 K” is left out: no gas at 5 K") == "kein Gas bei 5 K; “no gas at 3 K” fehlt"
    assert book.said("gas") == "Gas"
    assert book.said("GAS") == "GAS"
    assert Phrasebook({"Gas": "Luft"}).said("GAS") == "LUFT"
    # A pattern of few letters takes no whole sentence for one of its values.
    short = Phrasebook({"{low} to {high}": "{low} bis {high}"})
    assert short.said("3 bar to 5 bar") == "3 bar bis 5 bar"
    assert (
        short.said("whatever is brought from a pipe to the other end of it")
        == "whatever is brought from a pipe to the other end of it"
    )


def test_data_is_retold_but_for_what_is_no_text_of_the_reader(english):
    block = Block("density", [("density", "kg/m³")], [["density", "3.1"]], [["density", ""]])
    table = Table(block)
    assert retold(table) is table
    choose(Phrasebook({"density": "Dichte"}))
    assert spoken()
    assert said("Density") == "Dichte"
    told = retold(table, ("paths",)).block
    assert (told.title, told.columns, told.rows) == ("Dichte", [("Dichte", "kg/m³")], [["Dichte", "3.1"]])
    assert told.paths == [["density", ""]]


def test_a_translation_is_checked_as_it_is_read(tmp_path, english):
    file = tmp_path / "de.po"
    for text, why in (
        (GERMAN.replace("{words} unter {at}", "{words} unter {wo}"), r"names \{wo\}"),
        (GERMAN + "\nmsgid nothing", "cannot be read"),
    ):
        file.write_text(text)
        with pytest.raises(DomainError, match=why):
            of_file(file)
    with pytest.raises(DomainError, match=r"no translation 'eo'; put it at .*languages/eo\.po"):
        begin("eo")
    file.write_text(GERMAN)
    begin(str(file))
    assert said("no such file") == "keine solche Datei"
    begin("en")
    assert said("no such file") == "no such file"


def test_the_command_line_speaks_it_and_data_stays_as_it_is(tmp_path):
    file = tmp_path / "de.po"
    file.write_text(GERMAN)
    hub = tmp_path / "hub.cryo"
    hub.write_text(HUB)

    def run(*words: str, language: str = str(file)) -> subprocess.CompletedProcess[str]:
        own = {**os.environ, "CRYONOME_LANGUAGE": language}
        return subprocess.run([sys.executable, "-m", "cryonome", *words], capture_output=True, text=True, env=own, check=False)  # fmt: skip

    told = run("solve", str(hub), "--jobs", "0")
    assert (told.returncode, told.stderr) == (2, "--jobs: mindestens 1 ist nötig, nicht 0\n")
    assert run("version", language="qq").returncode == 2
    assert "no translation 'qq'" in run("version", language="qq").stderr
    solved = run("solve", str(hub))
    assert solved.stdout == run("solve", str(hub), language="").stdout


def test_a_report_is_told_in_it(english):
    begin("xx")
    content = report_of(parse_document(HUB))
    headings = [p.text for p in content.parts if isinstance(p, Heading)]
    assert "⟦Questions and answers⟧" in headings
    # What the user named is told as it is named.
    assert "no such file" in headings
    told = [p.text for p in content.parts if isinstance(p, Sentence)]
    assert any(t.startswith("⟦What is no such file at 300 K") for t in told), told
    units = {unit for p in content.parts if isinstance(p, Table) for _, unit in p.block.columns}
    assert "⟦" not in "".join(units)
