"""Laboratory tests of reservoir fluids, simulated: expansion, depletion, liberation, separators, swelling, viscosity.

A test runs for one fluid or for many sets of its parameters at once (:class:`LabFluid`), over all its pressures
together where one does not depend on the other."""

from .depletion import Depletion, deplete
from .expansion import Expansion, expand
from .fluid import LabFluid, Parted
from .liberation import Liberation, liberate
from .separation import Separation, separate
from .swelling import Swelling, swell
from .viscosity import Thickness, thickness

__all__ = [
    "Depletion", "Expansion", "LabFluid", "Liberation", "Parted", "Separation", "Swelling", "Thickness", "deplete", "expand", "liberate",
    "separate", "swell", "thickness",
]  # fmt: skip
