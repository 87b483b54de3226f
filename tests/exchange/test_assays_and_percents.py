"""Assays by boiling ranges, and compositions told twice: what is taken, what is compared, what is said of it."""

from __future__ import annotations

import numpy as np
import pytest

from ask import cuts_of
from cryonome.exchange import read_text

ASSAY = [
    ("IBP-80", 5.1, 0.662, 0.01), ("80-150", 11.4, 0.741, 0.02), ("150-230", 13.0, 0.792, 0.08), ("230-350", 22.5, 0.853, 0.61),
    ("350-550", 30.0, 0.921, 1.4), ("550+", 18.0, 1.012, 2.9),
]  # fmt: skip
"""An invented crude by cuts: range in °C, yield wt%, density g/cm3, sulphur wt%."""
ENDS = [(5.1, 80.0), (16.5, 150.0), (29.5, 230.0), (52.0, 350.0), (82.0, 550.0)]


def sheet(rows, *heads):
    return "\n".join("\t".join(map(str, r)) for r in (*heads, *rows)) + "\n"


def read(text):
    found = read_text(text, "assay")
    return found, [str(n) for n in found.notes]


def points(sample):
    return [(p, float(str(t).split()[0])) for p, t in sample.distillation.points]


def cumulated(rows):
    total, out = 0.0, []
    for name, share, *rest in rows:
        total += share
        out.append((name, round(total, 6), *rest))
    return out


HEAD = ("Cut", "Yield", "Density", "Sulphur"), ("°C", "wt%", "g/cm3", "wt%")


@pytest.mark.parametrize(
    "text",
    [
        sheet(ASSAY, *HEAD),
        sheet(cumulated(ASSAY), ("Cut, °C", "Cumulative wt%", "Density, g/cm3", "Sulphur, wt%")),
        sheet([(n, y, c[1], *r) for (n, y, *r), c in zip(ASSAY, cumulated(ASSAY))], ("Cut (degC)", "Yield wt%", "Cumulative wt%", "Density (g/cm3)", "Sulphur (wt%)")),
        sheet([(n.replace("IBP-", "<").replace("550+", ">550"), *r) for n, *r in ASSAY], *HEAD),
        sheet([(n.replace("-", " - "), *r) for n, *r in ASSAY], *HEAD),
        sheet([(n, *(str(v).replace(".", ",") for v in r)) for n, *r in ASSAY], *HEAD),
    ],
    ids=["yields", "cumulative", "both", "signs", "spaces", "decimal commas"],
)  # fmt: skip
def test_yields_of_ranges_are_points_at_their_ends_and_properties_at_their_middles(text):
    found, _ = read(text)
    (sample,) = found.samples
    own = sample.distillation
    assert (own.method, own.basis) == ("TBP", "mass")
    assert points(sample) == ENDS
    curves = sample.curves
    middles = [2.55, 10.8, 23.0, 40.75, 67.0, 91.0]
    assert [p for p, _ in curves.density] == middles
    assert [float(str(v).split()[0]) for _, v in curves.density] == [d for _, _, d, _ in ASSAY]
    (sulphur,) = curves.quantities
    assert (sulphur.name, sulphur.basis) == ("Sulphur", "mass")
    assert list(sulphur.points) == list(zip(middles, (s for *_, s in ASSAY)))


def test_an_assay_by_cuts_gives_the_sample_it_was_taken_from():
    """Cut at its own ranges the sample has the yields that were read, and its densities are those of the sheet."""
    found, _ = read(sheet(ASSAY, *HEAD))
    made = cuts_of(found.samples[0])
    masses = made.mole_fraction * np.array([c.molar_mass for c in made.components])
    masses /= masses.sum()
    nbp = np.array([c.nbp for c in made.components]) - 273.15
    for percent, end in ENDS[1:-1]:
        assert 100.0 * masses[nbp < end].sum() == pytest.approx(percent, abs=2.5)


def test_what_an_assay_does_not_say_is_assumed_aloud():
    found, told = read("Cut;Yield vol%\n-20-80;4,5\n80-160;15,5\n160-240;20\n240-370;32\n>370;28\n")
    assert any("names no unit; the ranges are read as °C" in t for t in told)
    assert any("read as TBP" in t for t in told)
    own = found.samples[0].distillation
    assert own.basis in (None, "volume")
    assert points(found.samples[0]) == [(0.0, -20.0), (4.5, 80.0), (20.0, 160.0), (40.0, 240.0), (72.0, 370.0)]
    found, told = read("Cut °F\tYield\n100-300\t20\n300-500\t35\n500-700\t45\n")
    assert found.samples[0].distillation.basis == "mass"
    assert any("mass % is assumed" in t for t in told)
    assert found.samples[0].distillation.points[1] == (20.0, "300 degF")


# -- compositions ------------------------------------------------------------------------------------------------------

MOLAR = {"N2": 28.014, "C1": 16.043, "C2": 30.07, "C3": 44.097, "nC4": 58.123, "nC5": 72.15}
MOLES = {"N2": 0.5, "C1": 70.0, "C2": 10.0, "C3": 6.0, "nC4": 3.0, "nC5": 4.5}


def told_twice(plus_mass=147.0, wrong=None):
    """Return a composition by mole and by mass whose plus fraction has a molar mass; one mass may be ``wrong``."""
    moles = {**MOLES, "C7+": 6.0}
    masses = {n: x * MOLAR.get(n, plus_mass) for n, x in moles.items()}
    whole = sum(masses.values())
    shares = {n: 100.0 * m / whole for n, m in masses.items()}
    if wrong is not None:
        shares[wrong] *= 1.5
    rows = [(n, f"{moles[n]:.4f}", f"{shares[n]:.4f}") for n in moles]
    return sheet(rows, ("Component", "Mol %", "Wt %"))


def test_a_plus_fractions_molar_mass_follows_from_mole_and_mass_percents():
    found, told = read(told_twice())
    plus = next(a for a in found.samples[0].distillation.amounts if a[0] == "C7+")
    assert float(plus[2].split()[0]) == pytest.approx(147.0, rel=1e-3)
    assert any("follows from its mole and mass percents" in t for t in told)
    assert any("taken in mol %" in t for t in told)
    assert not any("disagree" in t for t in told)


def test_percents_that_disagree_are_told_by_their_row():
    _, told = read(told_twice(wrong="C3"))
    (said,) = [t for t in told if "disagree" in t]
    assert "C3: its mole and mass percents disagree by 50 %" in said


def test_a_column_of_marks_is_no_column_of_units_and_no_row_is_lost():
    rows = [("C1", 70, "", "gas"), ("C3", 10, 0.507, ""), ("C7", 10, 0.74, "x"), ("C8", 10, 0.76, "y")]
    found, told = read(sheet(rows, ("Component", "Mol %", "Density", "Notes")))
    amounts = found.samples[0].distillation.amounts
    assert [a[:2] for a in amounts] == [("methane", 70.0), ("propane", 10.0), ("C7", 10.0), ("C8", 10.0)]
    assert [a[3] for a in amounts[2:]] == ["0.74 g/cm**3", "0.76 g/cm**3"]
    assert any("names no unit; its values are read as g/cm³" in t for t in told)
    assert not any("no unit of an amount" in t for t in told)


@pytest.mark.parametrize(
    ("head", "values", "unit"),
    [
        ("Density", (740, 760), "kg/m**3"), ("API gravity", (59.7, 54.7), "degAPI"), ("Specific gravity", (0.74, 0.76), "SG"),
        ("Density kg/m3", (740, 760), "kg/m**3"),
    ],
)  # fmt: skip
def test_densities_of_groups_have_their_unit_or_the_one_their_size_tells(head, values, unit):
    rows = [("C1", 70, ""), ("C3", 10, ""), ("C7", 10, values[0]), ("C8", 10, values[1])]
    found, _ = read(sheet(rows, ("Component", "Mol %", head)))
    assert [a[3].split()[1] for a in found.samples[0].distillation.amounts[2:]] == [unit, unit]
