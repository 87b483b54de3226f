"""Heats of combustion are those of ISO 6976 at each of its temperatures."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.properties.heating import heats_at

GROSS = {
    "methane": (892.92, 891.51, 891.05, 890.58), "ethane": (1564.35, 1562.14, 1561.42, 1560.69), "propane": (2224.03, 2221.10, 2220.13, 2219.17),
    "hydrogen": (286.64, 286.15, 285.99, 285.83), "carbon monoxide": (282.80, 282.91, 282.95, 282.98), "hydrogen sulfide": (562.93, 562.38, 562.19, 562.01),
    "water": (45.064, 44.431, 44.222, 44.013),
}  # fmt: skip
"""kJ/mol burnt at 0, 15, 20 and 25 degC; ISO 6976 (2016), table 3."""
NET = {"methane": 802.65, "ethane": 1428.84, "propane": 2043.37}
"""kJ/mol burnt at 15 degC."""


def test_heats_are_those_of_the_standard():
    components = [find(name) for name in GROSS]
    cp = np.array([c.cp for c in components])
    for i, T in enumerate((273.15, 288.15, 293.15, 298.15)):
        gross, net = heats_at(components, cp, T)
        assert gross / 1e3 == pytest.approx([g[i] for g in GROSS.values()], abs=0.04)
        if i == 1:
            assert net[: len(NET)] / 1e3 == pytest.approx(list(NET.values()), abs=0.04)


def test_what_does_not_burn_has_no_heat():
    components = [find(name) for name in ("nitrogen", "carbon dioxide", "oxygen", "argon", "helium")]
    gross, net = heats_at(components, np.array([c.cp for c in components]), 288.15)
    assert not gross.any()
    assert not net.any()
