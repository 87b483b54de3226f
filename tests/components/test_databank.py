"""The databank against identities that catch a mistyped constant, and its search."""

from __future__ import annotations

import re

import numpy as np
import pytest

from cryonome.components import UnknownComponentError, all_components, find, ideal_gas, search, suggestions
from cryonome.equilibrium.pure import saturation_pressure
from mixtures import equation

WEIGHTS = {"C": 12.011, "H": 1.008, "O": 15.999, "N": 14.007, "S": 32.06, "Ar": 39.948, "He": 4.0026}
QUANTUM = {"hydrogen", "helium"}
SUBLIMES = {"carbon dioxide"}
ALL = all_components()


def heat_at(c, T=298.15):
    """Ideal-gas heat capacity, J/(mol K)."""
    return float(ideal_gas.heat_capacity(np.array([c.cp]), np.array([T]))[0, 0])


def test_there_are_enough_and_all_are_named_once():
    assert len(ALL) >= 90
    assert len({c.name for c in ALL}) == len({c.cas for c in ALL}) == len(ALL)
    for n in range(1, 31):
        assert find(f"C{n}H{2 * n + 2}" if n > 1 else "CH4").family == "n-alkane"


def test_formula_gives_the_molar_mass_and_cas_its_check_digit():
    for c in ALL:
        mass = sum(WEIGHTS[s] * int(k or 1) for s, k in re.findall(r"(Ar|He|[CHONS])(\d*)", c.formula))
        assert c.molar_mass * 1e3 == pytest.approx(mass, abs=2e-3), c.name
        digits = [int(d) for d in c.cas.replace("-", "")]
        assert sum(i * d for i, d in enumerate(reversed(digits[:-1]), 1)) % 10 == digits[-1], c.name


def test_vapour_pressure_at_the_boiling_point_and_at_07():
    eos = equation(list(ALL))
    nbp = np.array([c.nbp for c in ALL])
    at_boiling = np.diag(saturation_pressure(eos, nbp[:, None])) / 101325.0
    at_07 = np.diag(saturation_pressure(eos, 0.7 * eos.Tc[:, None]))
    omega = -1.0 - np.log10(at_07 / eos.Pc)
    for c, p, w in zip(ALL, at_boiling, omega):
        if c.name not in SUBLIMES | QUANTUM:
            # Their acentric factors follow the series rather than the boiling point.
            heavy = c.family == "n-alkane" and c.molar_mass > 0.35
            assert p == pytest.approx(1.0, abs=0.07 if heavy else 0.06), c.name
        assert w == pytest.approx(c.omega, abs=0.01 if c.name not in QUANTUM else 0.06), c.name


def test_acentric_factors_of_the_heavy_alkanes_rise_evenly():
    omega = [find(f"C{n}H{2 * n + 2}").omega for n in range(20, 31)]
    assert all(0.038 < step < 0.05 for step in np.diff(omega))


def test_constants_lie_where_those_of_their_kind_do():
    for c in ALL:
        assert 0.17 < c.critical_compressibility < 0.32, c.name
        assert 0.4 < c.nbp / c.Tc < 0.86, c.name
        heat = heat_at(c)
        atoms = sum(int(k or 1) for _, k in re.findall(r"(Ar|He|[CHONS])(\d*)", c.formula))
        assert 20.0 < heat < 20.8 + 10.5 * atoms, c.name
        if c.Tc > 400.0:
            assert c.rackett == pytest.approx(0.29056 - 0.08775 * c.omega, abs=0.03), c.name
            # The parameter is made from the density at 60 degF, so it must give that back.
            assert c.saturated_liquid_density(288.7056) == pytest.approx(c.specific_gravity * 999.016, rel=1e-4), c.name


def test_the_alkane_series_is_smooth():
    series = [find(f"C{n}H{2 * n + 2}") for n in range(5, 31)]
    for value, tolerance in (
        (heat_at, 0.06),
        (lambda c: c.Vc, 0.35),
        (lambda c: c.nbp, 0.25),
        (lambda c: c.specific_gravity, 0.35),
    ):
        steps = np.diff([value(c) for c in series])
        assert (steps > 0).all()
        assert np.abs(np.diff(steps) / steps[:-1]).max() < tolerance
    assert (np.diff([c.Pc for c in series]) < 0).all()
    assert (np.diff([c.omega for c in series]) > 0).all()


def test_search_by_name_alias_formula_and_number():
    assert find("nC5").name == find("pentane").name == find("109-66-0").name == "n-pentane"
    assert find(" CO2 ").name == "carbon dioxide"
    assert find("C8H18").name == "n-octane"
    assert [c.name for c in search("xylene")][:3] == ["o-xylene", "m-xylene", "p-xylene"]
    with pytest.raises(UnknownComponentError, match=r"did you mean .*methane"):
        find("metane")
    assert suggestions("propann")[0] == "propane"
    assert search("zzz") == []
