"""What the ending of a key measures: never the shorter of two endings, and never a pressure where it is a difference."""

from __future__ import annotations

import pytest

from cryonome.telling.sentences import Units
from cryonome.telling.table_blocks import of_key
from cryonome.units.endings import ENDINGS, kind_of_key, without_unit


def test_no_ending_hides_a_longer_one():
    for end, (kind, _) in ENDINGS.items():
        assert kind_of_key(f"something{end}" if end.startswith("_") else end)[0] == kind, end


@pytest.mark.parametrize(
    ("key", "kind", "name"),
    [
        ("vapour.surface_tension_N_m", "surface_tension", "surface_tension"), ("length_m", "length", "length"),
        ("inside_diameter_m", "diameter", "inside_diameter"), ("thermal_conductivity_W_m_K", "conductivity", "thermal_conductivity"),
        ("friction_gradient_Pa_m", "pressure_gradient", "friction_gradient"), ("joule_thomson_K_Pa", "joule_thomson", "joule_thomson"),
        ("density_by_pressure_kg_m3_Pa", "density_by_pressure", "density_by_pressure"), ("legs[2].drop_Pa", "pressure_difference", ""),
        ("points[0].reproducibility_Pa", "pressure_difference", ""), ("least.margin_K", "temperature_difference", ""),
        ("water_gas_ratio_m3_m3", "water_gas_ratio", "water_gas_ratio"), ("solution_gas_m3_m3", "gas_oil_ratio", "solution_gas"),
        ("vapour_fraction", "", "vapour_fraction"), ("Z", "", "Z"),
    ],
)  # fmt: skip
def test_a_key_tells_what_it_measures(key, kind, name):
    assert kind_of_key(key)[0] == kind
    if name:
        assert without_unit(key).rpartition(".")[2] == name


def test_a_reproducibility_has_no_zero_of_its_own():
    """0.3 psi of reproducibility stay 0.3 where pressures are read from the atmosphere."""
    units = Units({**Units.of("field").by_kind, "pressure": "psig", "pressure_difference": "psi"})
    assert float(of_key("reproducibility_Pa", units).short(0.3 * 6894.757)) == pytest.approx(0.3, rel=1e-3)
    assert of_key("surface_tension_N_m", Units.of("metric")).head == ("surface tension", "mN/m")
