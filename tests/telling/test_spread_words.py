"""A spread in words: as many digits as its band is worth, chances of limits, and where it comes from, in the reader's units."""

from __future__ import annotations

import pytest

from cryonome.telling import Units
from cryonome.telling.spread_words import (
    REST,
    UNCERTAIN,
    band_of,
    bands_say,
    difference,
    dominant,
    limit_says,
    of_read,
    spread_blocks,
    spread_line,
    spread_says,
)

METRIC, FIELD = Units.of("metric"), Units.of("field")
P = "points[0].pressure_Pa"


def read(base=2.0e7, low=1.9e7, high=2.1e7, mean=2.0e7, deviation=6e5):
    return {"base": base, "percentiles": {"5": low, "50": mean, "95": high}, "mean": mean, "standard_deviation": deviation, "missing": 0}  # fmt: skip


def answer(**changes):
    """Return a spread of one read as an answer holds it."""
    shares = {P: {"density": 0.62, "curve": 0.31, "small": 0.02, REST: 0.05}}
    base = {
        "ok": True, "samples": 200, "seed": 1, "failed": 0, "failures": [], "reads": {P: read()}, "limits": [], "shares": shares,
        "uncertain": [
            {"name": "density", "words": "the density of the crude", "kind": "density", "value": 860.0, "standard_deviation": 2.0, "cells": 1, "source": "ASTM D4052"},
            {"name": "curve", "words": "its boiling curve", "kind": "temperature_difference", "value": None, "standard_deviation": 3.0, "cells": 9, "source": "ASTM D86"},
            {"name": "small", "words": "something small", "kind": "", "value": 1.0, "standard_deviation": 0.01, "cells": 1, "source": "as given"},
        ],
    }  # fmt: skip
    return {**base, **changes}


@pytest.mark.parametrize(
    ("low", "high", "said"),
    [
        (1.9e7, 2.1e7, "200.0 bar, 190.0 to 210.0"),
        (1.9999e7, 2.0001e7, "200.000 bar, 199.990 to 200.010"),
        (0.5e7, 4.0e7, "200 bar, 50.0 to 400"),
        (2.0e7, 2.0e7, "200.0 bar, 200.0 to 200.0"),
    ],
)
def test_a_band_has_as_many_digits_as_it_is_worth(low, high, said):
    told = band_of(P, read(low=low, high=high), METRIC)
    numbers = [float(w.rstrip(",")) for w in told.replace(" bar", "").replace(" to", "").split()]
    assert numbers == pytest.approx([200.0, low / 1e5, high / 1e5], rel=5e-3 if high > 3e7 else 2e-5)
    assert len(told.split()[0]) >= len("200")
    assert told.count("bar") == 1
    assert said.split()[0][:3] == told.split()[0][:3]


def test_a_band_without_a_middle_and_one_without_an_answer():
    assert band_of(P, read(base=None), METRIC) == "190.0 to 210.0 bar"
    assert band_of(P, read(low=None), METRIC) == ""
    assert "psia" in band_of(P, read(), FIELD)


def test_of_a_list_the_widest_gap_is_told():
    many = {"base": [1e7, 2e7], "percentiles": {"5": [0.9e7, None], "95": [1.2e7, None]}, "mean": [1e7, None], "standard_deviation": [1e6, None], "missing": 0}  # fmt: skip
    assert band_of("rows[*].pressure_Pa", many, METRIC) == "of 1 within 30.0 bar at the most"
    none = {**many, "percentiles": {"5": [None, None], "95": [None, None]}}
    assert band_of("rows[*].pressure_Pa", none, METRIC) == ""


def test_bands_are_a_sentence_with_their_percents_and_samples():
    assert bands_say(answer(), METRIC).endswith("200.0 bar, 190.0 to 210.0 (5 to 95 % of 200 samples).")
    assert bands_say(answer(reads={P: read(low=None)}), METRIC) == "200 samples."
    two = answer(reads={P: read(), "points[0].temperature_K": {"base": 300.0, "percentiles": {"5": 298.0, "95": 302.0}, "mean": 300.0, "standard_deviation": 1.0, "missing": 0}})  # fmt: skip
    told = bands_say(two, METRIC)
    assert "; " in told
    assert "26.9 °C, 24.9 to 28.9" in told
    assert told[0].isupper()


@pytest.mark.parametrize(
    ("limit", "said"),
    [
        ({"at_most": 2.05e7, "chance_broken": 0.2, "between": [0.15, 0.26]}, "comes above 205 bar in 20 % of cases (by so many samples 15 % to 26 %)."),
        ({"at_least": 1.5e7, "chance_broken": 0.0, "between": [0.0, 0.018]}, "comes below 150 bar in 0 % of cases (by so many samples 0 % to 1.8 %)."),
        ({"at_most": 2.05e7, "chance_broken": 0.995, "between": [0.97, 1.0]}, "in 99.5 % of cases (by so many samples 97 % to 100 %)."),
        ({"at_most": 2.05e7, "chance_broken": None, "between": [0.0, 1.0]}, "comes above 205 bar no sample tells."),
    ],
)  # fmt: skip
def test_the_chance_of_a_broken_limit_is_told_with_what_so_many_samples_tell(limit, said):
    told = limit_says({"read": P, **limit}, METRIC)
    assert told.endswith(said), told
    assert told.startswith("Whether " if limit["chance_broken"] is None else of_read(P, METRIC).name[:1].upper())


@pytest.mark.parametrize(
    ("shares", "said"),
    [
        ({"density": 0.62, "curve": 0.31}, "Six tenths of the spread of the"),
        ({"density": 0.97, "curve": 0.03}, "All but a little of the spread of the"),
        ({"density": 0.52, "curve": 0.48}, "Half of the spread of the"),
        ({"density": 0.1, "curve": 0.02}, "A tenth of the spread of the"),
        ({"density": 0.03, "curve": 0.02}, ""),
        ({REST: 1.0}, ""),
    ],
)
def test_what_dominates_is_told_in_tenths(shares, said):
    told = dominant(answer(shares={P: shares}), METRIC)
    assert bool(told) == bool(said)
    if told:
        assert told[0].startswith(said)
        assert "the density of the crude" in told[0]
        assert ("its boiling curve" in told[0]) == (shares["curve"] >= 0.05 and shares["density"] < 0.9)
        assert (" come from " in told[0]) == said.startswith("Six")


def test_a_line_and_sentences_begin_with_a_limit_or_a_band():
    limit = {"read": P, "at_most": 2.05e7, "chance_broken": 0.2, "between": [0.15, 0.26]}
    assert spread_line(answer(), METRIC) == "200.0 bar, 190.0 to 210.0"
    assert spread_line(answer(limits=[limit]), METRIC) == "broken in 20 % of cases"
    assert spread_line(answer(reads={P: read(low=None)}), METRIC) == "200 samples"
    told = spread_says(answer(limits=[limit]), METRIC)
    assert told.index("to 210.0") < told.index("in 20 % of cases") < told.index("tenths of the spread")


def test_a_deviation_on_a_bent_scale_is_half_of_what_it_spans():
    api = of_read("api", METRIC)
    assert float(difference(of_read(P, METRIC), 6e5, 2e7)) == pytest.approx(6.0)
    assert float(difference(of_read("points[0].temperature_K", FIELD), 10.0, 300.0)) == pytest.approx(18.0)
    assert float(difference(api, 0.5, 33.0)) == pytest.approx(0.5)


def test_tables_hold_reads_limits_shares_and_inputs_with_their_paths():
    limit = {"read": P, "at_most": 2.05e7, "chance_broken": 0.2, "between": [0.15, 0.26]}
    failures = [{"reason": "no bubble point", "samples": 3}]
    sobol = {P: {"first": {"density": 0.6, "curve": 0.3}, "total": {"density": 0.65, "curve": 0.35}}}
    blocks = {b.title: b for b in spread_blocks(answer(limits=[limit], failures=failures, sobol=sobol), METRIC)}
    reads = blocks["What is read"]
    assert [h for h, _ in reads.columns] == ["", "as it stands", "5 %", "50 %", "95 %", "mean", "deviation"]
    assert [float(str(c)) for c in reads.rows[0][1:]] == pytest.approx([200, 190, 200, 210, 200, 6], rel=1e-3)
    assert reads.paths[0] == ["", f"reads.{P}.base", f"reads.{P}.percentiles.5", f"reads.{P}.percentiles.50", f"reads.{P}.percentiles.95", f"reads.{P}.mean", ""]  # fmt: skip
    assert blocks["Limits"].rows[0][1:] == ["20", "15", "26"]
    shares = blocks["Where the spread comes from"]
    assert [r[0] for r in shares.rows] == ["the density of the crude", "its boiling curve", "something small", REST]
    assert [r[1] for r in shares.rows] == ["62.0", "31.0", "2.0", "5.0"]
    (indices,) = (b for t, b in blocks.items() if t.startswith("Sobol indices"))
    assert indices.rows[0][1:] == ["60.0", "65.0"]
    inputs = blocks[UNCERTAIN]
    assert [float(r[1].split()[0]) for r in inputs.rows] == [2.0, 3.0, 0.01]
    assert [r[1].partition(" ")[2] for r in inputs.rows[::2]] == ["kg/m³", ""]
    assert [r[2] for r in inputs.rows] == ["", "9", ""]
    assert blocks["Samples without an answer, or without a part of it"].rows == [["no bubble point", "3"]]
