"""Laboratory tests of reservoir fluids, simulated: expansion, depletion, liberation, separators, swelling.

A test runs for one fluid or for many sets of its parameters at once (:class:`LabFluid`), over all its pressures together where one
does not depend on the other.
"""

from .depletion import Depletion, deplete
from .expansion import Expansion, expand
from .fluid import LabFluid, Parted
from .liberation import Liberation, liberate
from .separation import Separation, separate
from .swelling import Swelling, swell

__all__ = [
    "Depletion", "Expansion", "LabFluid", "Liberation", "Parted", "Separation", "Swelling", "deplete", "expand", "liberate",
    "separate", "swell",
]  # fmt: skip
