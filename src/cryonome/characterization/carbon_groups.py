"""The single-carbon-number groups of petroleum: average properties of what boils between two n-alkanes.

Katz and Firoozabadi, J. Pet. Technol. 30, 1649 (1978), as tabulated by Whitson, SPE J. 23, 683 (1983), table 1, whose
molar masses agree with boiling points and specific gravities above C21.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class CarbonGroups:
    """Groups C6 to C45: ``number`` (n,), ``nbp`` K, ``specific_gravity`` 60/60 degF, ``molar_mass`` kg/mol."""

    number: Array
    nbp: Array
    specific_gravity: Array
    molar_mass: Array


_RANKINE = (
    607, 658, 702, 748, 791, 829, 867, 901, 936, 971, 1002, 1032, 1055, 1077, 1101, 1124, 1146, 1167, 1187, 1207,
    1226, 1244, 1262, 1277, 1294, 1310, 1326, 1341, 1355, 1368, 1382, 1394, 1407, 1419, 1432, 1442, 1453, 1464, 1477, 1487,
)  # fmt: skip
_GRAVITY = (
    0.690, 0.727, 0.749, 0.768, 0.782, 0.793, 0.804, 0.815, 0.826, 0.836, 0.843, 0.851, 0.856, 0.861, 0.866, 0.871,
    0.876, 0.881, 0.885, 0.888, 0.892, 0.896, 0.899, 0.902, 0.905, 0.909, 0.912, 0.915, 0.917, 0.920, 0.922, 0.925,
    0.927, 0.929, 0.931, 0.933, 0.934, 0.936, 0.938, 0.940,
)  # fmt: skip
_MASS = (
    84, 96, 107, 121, 134, 147, 161, 175, 190, 206, 222, 237, 251, 263, 275, 291, 300, 312, 324, 337, 349, 360, 372,
    382, 394, 404, 415, 426, 437, 445, 456, 464, 475, 484, 495, 502, 512, 521, 531, 539,
)  # fmt: skip

CARBON_GROUPS = CarbonGroups(
    np.arange(6.0, 46.0), np.array(_RANKINE) / 1.8, np.array(_GRAVITY), np.array(_MASS, float) * 1e-3
)
