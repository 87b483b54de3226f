"""A characterized sample."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import WATER_DENSITY_60F
from ..remarks import Remark
from .correlations import TEST_TEMPERATURES
from .curve import BoilingCurve
from .cuts import Yield
from .lab_sample import LabSample
from .methods import METHODS, Context, from_tbp
from .pressure import boiling_point_at, normal_boiling_point
from .products import Stock
from .reading import chosen_conversion
from .viscosity import at_temperature, from_index

Array = NDArray[np.float64]


@dataclass(frozen=True)
class CharacterizedSample:
    """The light ends and cuts of a sample.

    ``components`` (m,), the first ``light`` of them light ends, with fractions (m,) that sum to one. ``edges`` (m -
    light + 1,) are the distilled fractions by volume of the whole sample between the cuts, ``edge_temperatures`` K;
    ``labels`` the carbon groups of the cuts, if it is made of such; ``automatic_names`` (cuts,) what they are called
    unless the sample names them. ``curve`` is the TBP at 1 atm by volume, ``entered`` the curve as measured.
    ``density`` kg/m3, ``molar_mass`` kg/mol, ``watson_k``, ``viscosity`` (pairs of T K and m2/s) of the whole.
    ``cut_viscosity`` (cuts, 2) m2/s at 100 and 210 degF; ``quantities`` (cuts,) by name. ``stock`` holds the slices
    it was gathered from. ``unlumped`` is the sample before its fractions were lumped."""

    name: str
    curve: BoilingCurve
    entered: BoilingCurve | None
    light: int
    edges: Array
    edge_temperatures: Array
    components: tuple[Component, ...]
    labels: tuple[str, ...]
    automatic_names: tuple[str, ...]
    mole_fraction: Array
    mass_fraction: Array
    volume_fraction: Array
    density: float
    molar_mass: float
    watson_k: float
    yields: tuple[Yield, ...]
    remarks: tuple[Remark, ...]
    viscosity: tuple[tuple[float, float], ...]
    cut_viscosity: Array
    quantities: dict[str, Array]
    quantity_units: dict[str, str]
    mass_along: tuple[Array, Array]
    choices: LabSample = field(repr=False)
    stock: Stock = field(repr=False)
    unlumped: CharacterizedSample | None = None

    @property
    def cuts(self) -> tuple[Component, ...]:
        """The components without the light ends."""
        return self.components[self.light :]

    def along(self, percent: Array, basis: str) -> Array:
        """Return the fractions (n,) by volume of the whole at percents (n,) distilled on a basis."""
        x = np.asarray(percent, float) / 100.0
        volume, mass = self.mass_along
        return np.interp(x, mass, volume) if basis == "mass" else x

    def narrow(self, percent: Array, basis: str, key: str, T: float = 0.0) -> Array:
        """Return ``density`` kg/m3, ``molar_mass`` kg/mol or kinematic ``viscosity`` m2/s at T K of the narrow
        fraction (n,) at percents (n,) distilled; nan in the light ends."""
        s = self.stock
        middle = 0.5 * (s.along[1:] + s.along[:-1])
        values = {
            "density": lambda: s.amounts["mass"] / s.amounts["volume"],
            "molar_mass": lambda: s.amounts["mass"] / s.amounts["mole"],
            "viscosity": lambda: at_temperature(from_index(s.index), TEST_TEMPERATURES, T),
        }[key]()
        x = self.along(percent, basis)
        return np.where(x < s.along[0] - 1e-9, np.nan, np.interp(x, middle, values))

    def shown_as(self, method: str, fraction: Array, pressure: float | None = None) -> Array:
        """Return the temperatures (n,) K the sample would show at fractions (n,) by another method, on the method's
        own basis and at its own ``pressure`` (Pa) unless one is given; nan beyond the method, where it cannot be
        run."""
        conversion = chosen_conversion(self.choices, method)
        context = Context(self.density / WATER_DENSITY_60F, self.watson_k)
        volume, mass = self.mass_along

        def tbp(x: Array) -> Array:
            return self.curve.at(np.interp(x, mass, volume) if conversion.basis == "mass" else x)

        T = from_tbp(tbp, conversion, np.asarray(fraction, float), context)
        own = METHODS[method]
        P = own.pressure if pressure is None else pressure
        hottest = own.hottest
        if method == self.choices.method and self.choices.temperature:
            hottest = max(hottest, float(normal_boiling_point(max(self.choices.temperature), self.choices.pressure)))
        return np.where(np.greater(T, hottest + 0.01), np.nan, boiling_point_at(T, P, self.watson_k))
