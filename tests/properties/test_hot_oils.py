"""Volume shifts of cuts slope with temperature: hot oils are as light as they are measured to be, and heats follow."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from cryonome.characterization import LabSample, characterize
from cryonome.components.oil_density import expanded_density
from cryonome.constants import T_60F, WATER_DENSITY_60F
from cryonome.eos.building import Interaction, equation_of, matched_components, volume_shift, volume_slope
from cryonome.equilibrium.flash import flash_pt
from cryonome.properties import evaluate
from cryonome.properties.substance import Substance
from mixtures import TBP


@cache
def oil(name: str, density: float) -> tuple[Substance, np.ndarray]:
    """Return a crude of a density at 60 degF, kg/m3, by an equation."""
    made = characterize(LabSample("S", *TBP, density=density))
    components = matched_components(made.components, name)
    nc = len(components)
    eos = equation_of(name, components, Interaction(np.zeros((nc, nc))))
    shift = volume_shift("density", name, components, eos)
    slope = volume_slope("density", components, eos, shift)
    return Substance(eos, tuple(components), shift, slope=slope), made.mole_fraction


@pytest.mark.parametrize("name", ["PR78", "SRK", "PC-SAFT"])
@pytest.mark.parametrize("density", [820.0, 870.0, 930.0])
def test_hot_oils_have_the_density_of_the_standard(name, density):
    """ASTM D1250 from the oil's own density at 60 degF, to 150 degC."""
    substance, z = oil(name, density)
    T = np.array([T_60F, 273.15, 333.15, 373.15, 398.15, 423.15])
    found = evaluate(substance, flash_pt(substance.eos, T, 1e6, z), ("density",)).phase["density"]
    rho = np.nanmax(found, axis=1)
    assert rho / expanded_density(rho[0] / WATER_DENSITY_60F, T) == pytest.approx(1.0, abs=0.01)


def test_heats_and_derivatives_follow_the_sloping_shift():
    substance, z = oil("PR78", 870.0)
    keys = (
        "enthalpy", "entropy", "gibbs", "molar_volume", "heat_capacity_p", "heat_capacity_v", "isothermal_compressibility", "thermal_expansion",
        "internal_energy",
    )  # fmt: skip

    def at(T: float, P: float) -> dict[str, float]:
        found = evaluate(substance, flash_pt(substance.eos, [T], [P], z), keys).phase
        return {k: float(np.nanmax(found[k])) if k != "gibbs" else float(np.nanmin(found[k])) for k in keys}

    T, P, h, s = 420.0, 2e7, 0.02, 2e3
    here, hot, cold, up, down = at(T, P), at(T + h, P), at(T - h, P), at(T, P + s), at(T, P - s)

    def by_T(k: str) -> float:
        return (hot[k] - cold[k]) / (2.0 * h)

    def by_P(k: str) -> float:
        return (up[k] - down[k]) / (2.0 * s)

    assert np.abs(substance.slope).max() > 0.0
    assert by_T("enthalpy") == pytest.approx(here["heat_capacity_p"], rel=1e-6)
    assert by_T("gibbs") == pytest.approx(-here["entropy"], rel=1e-6)
    assert by_P("gibbs") == pytest.approx(here["molar_volume"], rel=1e-6)
    assert by_T("molar_volume") == pytest.approx(here["molar_volume"] * here["thermal_expansion"], rel=1e-6)
    assert by_P("molar_volume") == pytest.approx(-here["molar_volume"] * here["isothermal_compressibility"], rel=1e-6)
    # Cp - Cv = T V alpha2/kappa.
    gap = T * here["molar_volume"] * here["thermal_expansion"] ** 2 / here["isothermal_compressibility"]
    assert here["heat_capacity_p"] - here["heat_capacity_v"] == pytest.approx(gap, rel=1e-9)
