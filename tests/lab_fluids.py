"""Fluids of fifteen components for lab tests, and an experiment with a known model behind it."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np

from cryonome.characterization import Known, complete
from cryonome.components import Component, find
from cryonome.eos.building import Interaction
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.saturation import Saturation
from cryonome.labtests import LabFluid, expand, liberate, separate
from cryonome.tuning import Base, Parameter, heavy_ends, tuned

Array = np.ndarray

LIGHT = (
    "nitrogen",
    "carbon dioxide",
    "methane",
    "ethane",
    "propane",
    "isobutane",
    "n-butane",
    "isopentane",
    "n-pentane",
    "n-hexane",
)
HEAVY = ((0.100, 0.735), (0.135, 0.785), (0.190, 0.820), (0.270, 0.852), (0.420, 0.905))
GAS = (0.6, 2.4, 70.0, 9.0, 4.5, 1.0, 1.8, 0.9, 0.9, 1.2, 3.4, 2.3, 1.2, 0.6, 0.2)
OIL = (0.4, 1.2, 39.0, 7.0, 5.5, 1.1, 2.6, 1.1, 1.5, 2.4, 9.0, 10.5, 9.0, 6.0, 3.7)
T = 370.0


@cache
def components() -> tuple[Component, ...]:
    """Return ten light components and five heavy ends."""
    made = [complete(Known(f"H{i + 1}", molar_mass=m, specific_gravity=g)) for i, (m, g) in enumerate(HEAVY)]
    return (*map(find, LIGHT), *made)


@cache
def base(amounts: tuple[float, ...] = GAS) -> Base:
    """Return a fluid before it is tuned."""
    z = np.array(amounts) / sum(amounts)
    none = np.zeros(z.size)
    return Base(
        components(),
        z,
        "PR78",
        "own",
        "density",
        Interaction(library_kij(components())),
        "corresponding-states",
        none,
        none,
    )


def condensate(sets: int = 1) -> LabFluid:
    """Return a retrograde condensate."""
    return tuned(base(GAS), (), np.zeros((sets, 0)))


def oil(sets: int = 1) -> LabFluid:
    """Return a black oil."""
    return tuned(base(OIL), (), np.zeros((sets, 0)))


PROPERTIES = ("Tc", "kij", "shift", "Pc", "viscosity", "molar_mass", "kij_factor", "amount")
HIDDEN = np.array([1.02, 0.05, 0.8, 0.96, 1.3, 1.05, 1.4, 0.95])


class Experiment:
    """Tests of the oil by a model whose first ``count`` parameters are the hidden ones, and the residuals of a fit to such data."""

    def __init__(self, count: int) -> None:
        heavy = heavy_ends(components())
        last, methane, co2 = heavy[-1], LIGHT.index("methane"), LIGHT.index("carbon dioxide")
        own = {"molar_mass": (last,), "amount": (last,)}
        partners = {"kij": (co2,), "kij_factor": (methane,)}
        names = PROPERTIES[:count]
        self.parameters = tuple(Parameter(k, own.get(k, heavy), partners.get(k, ())) for k in names)
        self.start = np.array([0.1 if k == "kij" else 1.0 for k in names])
        bounds = {"kij": (-0.1, 0.25), "shift": (-3.0, 5.0), "viscosity": (0.1, 10.0), "kij_factor": (0.0, 3.0)}
        self.low, self.high = np.array([bounds.get(k, (0.8, 1.25)) for k in names]).T
        self.scale = np.array(
            [{"kij": 0.02, "shift": 0.5, "viscosity": 1.0, "kij_factor": 0.4}.get(k, 0.05) for k in names]
        )
        self._near: Saturation | None = None
        self.truth = self.simulated(HIDDEN[None, :count])[0]

    def simulated(self, values: Array) -> Array:
        """Return what is measured, (M, n): saturation, an expansion, a liberation, a separator train."""
        m = values.shape[0]
        fluid = tuned(base(OIL), self.parameters, values)
        rows = np.zeros(m, np.intp)
        near = self._near
        started = None if near is None else near.take(rows)
        at = fluid.saturation(T, started)
        if m == 1 or near is None:
            self._near = at.take(slice(1))
        e = expand(fluid, T, np.linspace(350e5, 60e5, 12), at)
        d = liberate(fluid, T, np.array([300e5, 150e5, 110e5, 70e5, 40e5, 20e5, 101325.0]), at)
        s = separate(fluid, np.array([320.0, 288.7]), np.array([30e5, 101325.0]))
        parts = (
            at.P[:, None], e.relative_volume, e.density[:, :5], d.oil_volume_factor, d.solution_gas[:, 1:-1], d.oil_density, d.oil_viscosity,
            d.gas_Z[:, 1:], s.gas, s.api[:, None],
        )  # fmt: skip
        return np.concatenate(parts, axis=1)

    def residuals(self, measured: Array) -> Callable[[Array], Array]:
        """Return the residuals of sets in standard deviations of 1 %."""
        return lambda values: (self.simulated(values) - measured) / (0.01 * np.abs(measured))
