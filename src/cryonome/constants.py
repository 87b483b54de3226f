"""Physical constants and the standard conditions of the trade, in SI units.

Sources: CODATA 2018 (exact SI values) for the gas constant; ISO 13443 and API MPMS chapter 11.1 for the
trade's standard conditions; API MPMS 11.1 for the density of water at 60 degF.
"""

from __future__ import annotations

R = 8.31446261815324
"""Gas constant, J/(mol K)."""

ATM = 101325.0
"""Standard atmosphere, Pa."""

T_60F = 288.70555555555556
"""60 degF in K, the trade's standard temperature."""

WATER_DENSITY_60F = 999.016
"""Density of water at 60 degF and 1 atm, kg/m3; the reference of specific gravity 60/60 degF."""

T_REF = 298.15
"""Reference temperature of enthalpy and entropy, K."""

P_REF = ATM
"""Reference pressure of entropy, Pa."""

PSI = 6894.757293168
"""Pound-force per square inch, Pa."""

CUBIC_FOOT_PER_POUND_MOLE = 6.242796057614e-5
"""ft3/lbmol in m3/mol."""

TYPICAL_WATSON_K = 11.9
"""Watson factor of a paraffinic crude, assumed where nothing tells it."""

AIR_MOLAR_MASS = 28.9647e-3
"""kg/mol, dry air; the reference of gas gravity. ISO 6976 gives 28.9655, GPA 2172 28.9625."""
