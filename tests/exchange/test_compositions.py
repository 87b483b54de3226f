"""Compositions as laboratories list them: which column is the amounts, on which basis and in which unit, what is no component, and what is only compared."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.components import find
from cryonome.exchange import Choice, read_rows, read_text

GAS = (("N2", 1.0), ("CO2", 2.0), ("C1", 85.0), ("C2", 7.0), ("C3", 5.0))


def lines(*rows, sep=";"):
    return "\n".join(sep.join(str(c) for c in r) for r in rows) + "\n"


def read(text):
    """Return the amounts of the one fluid or sample of a text by name, its basis, and the notes."""
    found = read_text(text, "gas")
    notes = [n.text for n in found.notes]
    if found.fluids:
        (fluid,) = found.fluids
        return {p.component or p.pseudo.name: p.amount for p in fluid.parts}, fluid.basis, notes
    (sample,) = found.samples
    own = sample.distillation
    return {a[0]: a[1] for a in own.amounts}, own.basis or "mass", notes


@pytest.mark.parametrize(
    ("heads", "factor", "basis", "said"),
    [
        (("Component", "mol %"), 1.0, "mole", ""),
        (("Component", "Mole fraction"), 0.01, "mole", ""),
        (("Component", "y"), 0.01, "mole", ""),
        (("Component", "wt%"), 1.0, "mass", ""),
        (("Komponente", "Gew.-%"), 1.0, "mass", ""),
        (("Component", "Vol.-%"), 1.0, "mole", "volume percents of a gas are read as mole percents"),
        (("Component", "Liquid volume %"), 1.0, "volume", ""),
        (("Component", "ppm mol"), 1e4, "mole", ""),
        (("Component", "ppb mol"), 1e7, "mole", ""),
        (("Component", "Amount"), 1.0, "mole", "nothing says on which basis the amounts are; mol % is assumed"),
        (("Component", "Amount"), 0.01, "mole", "amounts that add up to 1 are read as fractions of the whole"),
        (("Component", ""), 1.0, "mole", "nothing says on which basis"),
    ],
)
def test_amounts_are_percents_on_the_basis_of_their_header(heads, factor, basis, said):
    amounts, own, notes = read(lines(heads, *((n, f"{factor * a:.10g}") for n, a in GAS)))
    assert own == basis
    assert amounts == pytest.approx({"nitrogen": 1, "carbon dioxide": 2, "methane": 85, "ethane": 7, "propane": 5})
    assert any(said in n for n in notes) if said else not notes, notes


@given(st.lists(st.floats(0.01, 50.0), min_size=5, max_size=5), st.sampled_from(["%", "", "ppm"]))
def test_a_unit_beside_each_row_is_the_unit_of_the_row(values, odd):
    """One row may be told in parts per million among percents; nothing else moves."""
    factor = 1e4 if odd == "ppm" else 1.0
    unit = {"ppm": "ppm mol"}.get(odd, "mol %")
    rows = [(n, f"{v * (factor if k == 0 else 1.0):.12g}", unit if k == 0 else "mol %") for k, ((n, _), v) in enumerate(zip(GAS, values))]  # fmt: skip
    amounts, basis, _ = read(lines(("Component", "Amount", "Unit"), *rows))
    assert basis == "mole"
    assert list(amounts.values()) == pytest.approx(values, rel=1e-9)


def test_what_is_below_a_limit_absent_or_a_word_is_told_and_left_out():
    rows = (("N2", "<0.01"), ("CO2", "n.d."), ("He", "nil"), ("H2S", "bottle broken"), ("C1", 91.0), ("C2", 9.0))
    amounts, _, notes = read(lines(("Component", "mol %"), *rows))
    assert amounts == {"methane": 91.0, "ethane": 9.0}
    assert "N2: '<0.01' is below what can be told, and is left out" in notes
    assert "CO2: 'n.d.' is read as none" in notes
    assert "H2S: 'bottle broken' is no amount and is not read" in notes
    assert not any(n.startswith("He") for n in notes)  # nil says that there is none


def test_a_unit_that_is_none_of_an_amount_loses_its_row_aloud():
    rows = (("N2", 1.0, "mol %"), ("CO2", 2.0, "bar"), ("C1", 85.0, "mol %"), ("C2", 7.0, "wt %"), ("C3", 5.0, "mol %"))
    amounts, basis, notes = read(lines(("Component", "Amount", "Unit"), *rows))
    assert (basis, amounts) == ("mole", {"nitrogen": 1.0, "methane": 85.0, "propane": 5.0})
    assert "CO2: 'bar' is no unit of an amount; the row is not read" in notes
    assert "C2: wt % stands among mol %; the row is not read" in notes
    assert any("the amounts add up to 91 %" in n for n in notes)


def test_totals_are_checked_and_are_no_components():
    body = [(n, a) for n, a in GAS]
    amounts, _, notes = read(lines(("Component", "mol %"), *body, ("Total", 100.0)))
    assert len(amounts) == 5
    assert notes == []
    _, _, notes = read(lines(("Component", "mol %"), *body, ("Total", 98.0)))
    assert "the rows that are read add up to 100 %, the sheet's total is 98 %" in notes
    amounts, _, notes = read(lines(("Component", "mol %"), *body, ("", 100.0)))
    assert len(amounts) == 5
    assert notes == []
    _, _, notes = read(lines(("Component", "mol %"), *body, ("", 7.5)))
    assert "an amount without a name is not read" in notes
    # A total of a group counts only where its members are not listed.
    alone, _, _ = read(lines(("Component", "mol %"), ("C1", 90), ("C2", 5), ("Butanes (total)", 5)))
    assert alone == {"methane": 90, "ethane": 5, "n-butane": 5}
    split, _, _ = read(lines(("Component", "mol %"), ("C1", 95), ("iC4", 2), ("nC4", 3), ("Butanes (total)", 5)))
    assert split == {"methane": 95, "isobutane": 2, "n-butane": 3}


def test_a_plus_fraction_beside_its_groups_is_their_sum():
    groups = (("C7", 3.0), ("C8", 2.0), ("C9", 1.5), ("C10+", 3.5))
    light = (("C1", 80.0), ("C6", 10.0))
    amounts, _, notes = read(lines(("Component", "mol %"), *light, ("C7+", 10.0), *groups))
    assert "C7+" not in amounts
    assert sum(amounts.values()) == pytest.approx(100.0)
    assert "C7+ is the sum of the rows from C7 on and is left out" in notes
    other, _, notes = read(lines(("Component", "mol %"), *light, ("C7+", 4.0), *groups))
    assert other["C7+"] == 4.0  # it is not their sum: nothing is dropped, and the whole tells it
    assert any("add up to 104 %" in n for n in notes)


def test_names_of_the_same_component_are_added_and_unknown_ones_told():
    rows = (("Methane", 80), ("C1", 10), ("Unobtanium", 4), ("m&p-xylene", 6))
    amounts, _, notes = read(lines(("Component", "mol %"), *rows))
    assert amounts == {"methane": 90, "m-xylene": 6}
    assert "'Unobtanium' with 4 is not read; no component or carbon group of that name is known" in notes
    assert any(n.startswith("'m&p-xylene': ") for n in notes)


def test_molar_masses_and_densities_stand_with_their_groups():
    rows = (("C1", 60, 16, ""), ("C6", 10, 84, 0.685), ("C7", 15, 96, 0.722), ("C8+", 15, 220, 0.85))
    found = read_text(lines(("Component", "mol %", "MW", "SG"), *rows), "oil")
    (sample,) = found.samples
    assert sample.distillation.amounts == (
        ("methane", 60.0), ("C6", 10.0, "84 g/mol", "0.685 SG"), ("C7", 15.0, "96 g/mol", "0.722 SG"), ("C8+", 15.0, "220 g/mol", "0.85 SG"),
    )  # fmt: skip
    assert not [n for n in found.notes if "is not read" in n.text]
    other = read_text(lines(("Component", "mol %", "MW", "Recovery factor"), *rows), "oil")
    assert any("'Recovery factor' is not read" in n.text for n in other.notes)


def test_a_gas_with_a_small_heavy_end_keeps_it_as_a_pseudo_component():
    text = lines(("Component", "mol %"), ("C1", 95), ("C2", 4.5), ("C6+", 0.5))
    found = read_text(text, "gas")
    (fluid,) = found.fluids
    heavy = fluid.parts[-1].pseudo
    assert heavy.name == "C6+"
    # C6 to C8 by 60, 30 and 10 mol %, groups of Katz and Firoozabadi (1978): 84, 96 and 107 g/mol.
    assert heavy.molar_mass == pytest.approx(0.6 * 84 + 0.3 * 96 + 0.1 * 107, rel=2e-3)
    assert any("nothing is said of C6+" in n.text for n in found.notes)
    told = read_text(text + "Molecular weight of C6+: 91\nDensity of C6+: 0.70 g/cc\n", "gas")
    (fluid,) = told.fluids
    assert fluid.parts[-1].pseudo.molar_mass in ("91 g/mol", 91.0)
    assert fluid.parts[-1].pseudo.specific_gravity == pytest.approx(0.70 / 0.999016, rel=1e-4)


def test_samples_side_by_side_are_one_each_and_a_second_column_of_the_same_is_told():
    rows = [(n, a, b) for (n, a), b in zip(GAS, (2.0, 3.0, 80.0, 9.0, 6.0))]
    found = read_text(lines(("Component", "Well 1, mol %", "Well 2, mol %"), *rows), "gas")
    assert [[p.amount for p in f.parts] for f in found.fluids] == [[a for _, a in GAS], [2.0, 3.0, 80.0, 9.0, 6.0]]
    assert [f.name for f in found.fluids] == ["Well 1", "Well 2"]
    again = read_text(lines(("Component", "mol %", "Mole percent"), *rows), "gas")
    assert len(again.fluids) == 1
    assert any("is a second column of amounts and is not read" in n.text for n in again.notes)


def test_mole_and_mass_percents_of_a_gas_are_compared():
    masses = {n: a * find(n).molar_mass for n, a in GAS}
    whole = sum(masses.values())
    good = [(n, a, f"{100 * masses[n] / whole:.4f}") for n, a in GAS]
    _, basis, notes = read(lines(("Component", "Mol %", "Wt %"), *good))
    assert basis == "mole"
    assert notes == ["the amounts are taken in mol %; those in mass % are only compared with them"]
    bad = [(n, a, f"{100 * masses[n] / whole * (1.2 if n == 'C2' else 1.0):.4f}") for n, a in GAS]
    _, _, notes = read(lines(("Component", "Mol %", "Wt %"), *bad))
    assert [n for n in notes if "disagree" in n] == ["C2: its mole and mass percents disagree by 20 %"]


def test_a_basis_and_a_unit_that_are_chosen_stand():
    rows = [["Component", "Amount"], *([n, str(a)] for n, a in GAS)]
    first = read_rows(rows, "gas")
    (block,) = first.blocks
    keys = dict(zip(block.heads, block.keys))
    mass = read_rows(rows, "gas", {keys["Amount"]: Choice(basis="mass")})
    assert mass.fluids[0].basis == "mass"
    assert not any("assumed" in n.text for n in mass.notes)
