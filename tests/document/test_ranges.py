"""Ranges and pairs of conditions: the values they stand for, and the sentence of everything they cannot be."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ask import answers, faults
from cryonome.document import format_path
from cryonome.document.conditions import CONDITIONS
from cryonome.document.ranges import MOST, Range, read_range
from cryonome.document.reader import Reader

FLUID = {"name": "F", "parts": [{"component": "methane", "amount": 80}, {"component": "n-butane", "amount": 20}]}


def read(**given):
    """Return the values of a range of pressures in Pa and the sentences of its faults by their place."""
    reader = Reader()
    found = read_range(
        Range.model_validate(given), reader, lambda c, r: r.pressure(c), lambda c, r: r.quantity(c, "pressure")
    )
    return found, {format_path(f.path): f.message for f in reader.faults}


@given(
    st.floats(1.0, 400.0), st.floats(1.001, 20.0), st.integers(1, 60), st.sampled_from(["linear", "logarithmic"]), st.sampled_from(["bar", "psia", "kPa"]),
)  # fmt: skip
def test_a_range_has_its_ends_and_even_steps_whatever_the_unit(low, factor, steps, scale, unit):
    found, told = read(**{"from": f"{low!r} {unit}", "to": f"{low * factor!r} {unit}", "steps": steps, "scale": scale})
    assert not told
    values = np.array(found)
    size = {"bar": 1e5, "psia": 6894.757293168, "kPa": 1e3}[unit]
    assert values[[0, -1]] == pytest.approx([low * size, low * factor * size], rel=1e-12)
    assert values.size == steps + 1
    even = np.diff(values) if scale == "linear" else values[1:] / values[:-1]
    assert even == pytest.approx(even[0], rel=1e-7)


@given(st.floats(1.0, 50.0), st.floats(0.1, 9.0), st.integers(1, 40))
def test_a_size_of_step_and_a_number_of_steps_are_one_range(low, size, count):
    high = low + count * size
    by_size, told = read(**{"from": f"{low!r} bar", "to": f"{high!r} bar", "step": f"{size!r} bar"})
    assert not told
    assert by_size == pytest.approx(
        read(**{"from": f"{low!r} bar", "to": f"{high!r} bar", "steps": count})[0], rel=1e-9
    )


@pytest.mark.parametrize(
    ("given", "place", "words"),
    [
        ({"from": "20 bar", "to": "10 bar", "steps": 4}, "", "reversed"),
        ({"from": "10 bar", "to": "10 bar", "steps": 4}, "", "the same"),
        ({"from": "10 bar", "to": "20 bar", "steps": 0}, "steps", "whole number from 1 on"),
        ({"from": "10 bar", "to": "20 bar", "steps": 2.5}, "steps", "2.5 is no number of steps"),
        ({"from": "10 bar", "to": "20 bar", "steps": "many"}, "steps", "many"),
        ({"from": "10 bar", "to": "20 bar", "steps": MOST}, "steps", f"at most {MOST}"),
        ({"from": "10 bar", "to": "20 bar", "step": "3 bar"}, "", "3 steps come nearest"),
        ({"from": "10 bar", "to": "20 bar", "step": "30 bar"}, "step", "larger than the range"),
        ({"from": "10 bar", "to": "20 bar", "step": "-1 bar"}, "step", "above"),
        ({"from": "10 bar", "to": "20 bar", "step": "1 bar", "steps": 10}, "", "not both"),
        ({"from": "10 bar", "to": "20 bar", "step": "1 bar", "scale": "logarithmic"}, "step", "give steps"),
        ({"from": "10 bar", "to": "20 bar", "steps": 2, "values": ["10 bar"]}, "", "not both"),
        ({"values": []}, "values", "at least one"),
        ({"values": ["10 bar", "ten bar"]}, "values[1]", "ten bar"),
        ({"from": "10 degC", "to": "20 bar", "steps": 2}, "from", "degC"),
        ({"to": "20 bar", "steps": 2}, "from", ""),
    ],
)  # fmt: skip
def test_what_is_no_range_is_told_where_it_stands(given, place, words):
    found, told = read(**given)
    assert found is None
    assert len(told) == 1
    ((where, sentence),) = told.items()
    assert where.startswith(place) or not place
    assert words in sentence


def flash(**conditions):
    return {
        "format": "cryonome/1",
        "fluids": [FLUID],
        "studies": [{"name": "f", "kind": "flash", "fluid": "F", **conditions}],
    }


@pytest.mark.parametrize("count", [0, 1, 3])
def test_a_flash_takes_two_conditions_and_says_which_were_given(count):
    values = {"temperature": "300 K", "pressure": "10 bar", "enthalpy": "0 J/mol"}
    given = dict(list(values.items())[:count])
    (told,) = faults(flash(**given))
    assert "exactly two" in told.message
    assert ("none given" if not count else f"{', '.join(given)} given") in told.message


OUT_OF_REACH = {
    ("temperature", "enthalpy"): ("300 K", "900 kJ/mol"),
    ("pressure", "enthalpy"): ("10 bar", "5000 kJ/mol"),
    ("pressure", "entropy"): ("10 bar", "-9000 J/mol/K"),
    ("temperature", "density"): ("300 K", "4000 kg/m3"),
    ("pressure", "density"): ("10 bar", "3000 kg/m3"),
    ("pressure", "internal_energy"): ("10 bar", "9000 kJ/mol"),
    ("temperature", "vapour_fraction"): ("700 K", 0.5),
    ("pressure", "vapour_fraction"): ("900 bar", 0.5),
    ("temperature", "vapour_volume_fraction"): ("700 K", 0.5),
}


@pytest.mark.parametrize("pair", OUT_OF_REACH, ids=" and ".join)
def test_a_pair_that_no_state_has_is_refused_in_a_sentence(pair):
    found = answers(flash(**dict(zip(pair, OUT_OF_REACH[pair]))))["f"]
    assert not found["ok"]
    assert "temperature_K" not in found
    # It says what there is, or which condition cannot be.
    assert len(found["error"]) > 20
    assert any(word in found["error"] for word in ("from", "between", "no ", "above", "beyond", "out of reach")), found[
        "error"
    ]


@pytest.mark.parametrize(
    ("conditions", "words"),
    [
        ({"temperature": "300 K", "vapour_fraction": 1.2}, "1.2"), ({"temperature": "300 K", "vapour_fraction": -0.1}, "0.1"),
        ({"pressure": "10 bar", "density": "-3 kg/m3"}, "kg/m3"), ({"pressure": "-2 bar", "temperature": "300 K"}, "bar"),
        ({"pressure": "10 bar", "temperature": "-300 degC"}, "absolute zero"), ({"pressure": "10 kg", "temperature": "300 K"}, "kg"),
        ({"pressure": "10 bar", "enthalpy": "3 J/mol/K"}, "J/mol/K"), ({"pressure": "ten", "temperature": "300 K"}, "ten"),
    ],
)  # fmt: skip
def test_a_condition_that_cannot_be_is_told_at_its_cell(conditions, words):
    told = faults(flash(**conditions))
    assert len(told) == 1
    assert words in told[0].message
    assert told[0].path[-1] in conditions


def test_conditions_by_mass_and_by_mole_are_the_same_state():
    one = answers(flash(pressure="10 bar", enthalpy="-2 kJ/mol"))["f"]
    mass = one["molar_mass_g_mol"]
    other = answers(flash(pressure="10 bar", enthalpy=f"{-2000.0 / mass!r} kJ/kg"))["f"]
    assert other["temperature_K"] == pytest.approx(one["temperature_K"], abs=1e-6)
    assert set(CONDITIONS) >= {"temperature", "pressure", "enthalpy", "entropy", "density", "internal_energy"}
