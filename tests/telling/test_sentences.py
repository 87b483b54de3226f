"""Remarks and their sentences: every code has one, none is left over, and they speak the reader's units."""

from __future__ import annotations

import re
import string
from pathlib import Path

import pytest

import cryonome
from cryonome.remarks import KINDS, Measure, Remark, Word, kelvin, pascal
from cryonome.telling.sentences import SENTENCES, WORDS, Units, sentence

SOURCE = Path(cryonome.__file__).parent
GROUPS = {code.partition(".")[0] for code in (*SENTENCES, *WORDS)}


def codes_in_source() -> set[str]:
    """Return every string of the source that looks like a code of a remark, those with a varying part as patterns."""
    found: set[str] = set()
    for path in SOURCE.rglob("*.py"):
        if path.name != "sentences.py":
            for text in re.findall(r'f?"([a-z_]+\.(?:[a-z_]|\{[^}]*\})+)"', path.read_text()):
                if text.partition(".")[0] in GROUPS:
                    found.add(text)
    return found


def test_every_code_has_a_sentence_and_every_sentence_a_code():
    used = codes_in_source()
    patterns = [re.compile(re.sub(r"\\{[^}]*\\}", "[a-z_A-Z]+", re.escape(code))) for code in used]
    unused = [c for c in (*SENTENCES, *WORDS) if not any(p.fullmatch(c) for p in patterns)]
    unknown = [c for c, p in zip(used, patterns) if not any(p.fullmatch(k) for k in (*SENTENCES, *WORDS))]
    assert not unused
    assert not unknown


def test_no_sentence_holds_a_unit_that_a_reader_may_not_have_chosen():
    """Measures bring their unit; the ones named in a text belong to a standard's own definition."""
    allowed = {"60 °F", "298.15 K", "101325 Pa", "1 atm", "100 and 210 °F"}
    for code, text in {**SENTENCES, **WORDS}.items():
        for standard in allowed:
            text = text.replace(standard, "")
        assert not re.search(
            r"(°C|°F|\bbar\b|\bpsi\b|\bkPa\b|\bMPa\b|\bPa\b|\bK\b(?! of))", text.replace("Watson K", "")
        ), code
        assert text[0].isupper() or text[0] == "{" or code in WORDS, code


@pytest.mark.parametrize(
    ("units", "T", "P"), [("SI", "400.0 K", "2.000 MPa"), ("metric", "126.9 °C", "20"), ("field", "260.3 °F", "290")]
)
def test_the_same_remark_is_told_in_the_readers_units(units, T, P):
    remark = Remark("warning", "map.pressure_limit", "map", {"fraction": 0.25, "T": kelvin(400.0), "P": pascal(2e6)})
    told = sentence(remark, Units.of(units))
    assert T in told
    assert P in told
    assert told.startswith("The line of vapour fraction 0.25") or "0.25" in told


def test_values_of_every_kind_can_be_told_and_a_forgotten_one_is_an_error():
    by_hand = {"property": Word("property.Tc"), "by": "Lee–Kesler"}
    assert sentence(Remark("estimate", "cuts.estimated", "", by_hand), Units.of("metric")) == (
        "Critical temperature of the cuts by Lee–Kesler."
    )
    listed = {"properties": (Word("property.Tc"), Word("property.Pc")), "ranges": Word("beyond.both"), "low": 2.0, "high": 97.0,
              "by": "X", "limits": (Measure(300.0, "temperature", 0), Word("limit.sg"))}  # fmt: skip
    told = sentence(Remark("extrapolation", "cuts.beyond", "", listed), Units.of("metric"))
    assert "Critical temperature, critical pressure: the cuts" in told
    assert "below 2 % and above 97 %" in told
    with pytest.raises(KeyError):
        sentence(Remark("estimate", "cuts.estimated"), Units.of("metric"))
    with pytest.raises(KeyError):
        sentence(Remark("estimate", "no.such_code"), Units.of("metric"))


def test_kinds_used_are_the_published_ones_and_fields_are_plain_names():
    for path in SOURCE.rglob("*.py"):
        for kind in re.findall(r'Remark\(\s*"([a-z]+)"', path.read_text()):
            assert kind in KINDS, path
    for code, text in SENTENCES.items():
        fields = {name for _, name, _, _ in string.Formatter().parse(text) if name}
        assert all(re.fullmatch(r"[a-zA-Z_]+", name) for name in fields), code
