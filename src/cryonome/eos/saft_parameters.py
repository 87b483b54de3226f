"""PC-SAFT parameters of components: published ones of the databank, given ones, else fitted to boiling point and
density.

What has no published set gets its segment number from its molar mass, by the line through the n-alkanes of Gross and
Sadowski (2001) as Tihic, Kontogeorgis, von Solms and Michelsen give it, Fluid Phase Equilib. 248, 29 (2006), table 6,

    m = 0.02569 M + 0.8709,   M in g/mol,

shortened for naphthenic and aromatic fractions by their Watson factor; then segment size and energy are found at
which it boils at its boiling point and has its liquid density at 60 degF."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray

from ..components import Component
from ..constants import ATM, R
from .saft import SaftEos
from .saft_critical import reduced_temperature
from .volume_shift import reference_liquid, vapour_pressures

Array = NDArray[np.float64]

PARAFFINIC, AROMATIC = 12.6, 10.0
"""Watson factors of an n-alkane, and of an aromatic whose chain has two thirds of the alkane's segments."""

ROUNDS = 60

MOST_KEPT = 2000
_FITTED: dict[Component, SaftSet] = {}
"""Fits made so far; a component is a value, so its fit is too."""


@dataclass(frozen=True)
class SaftSet:
    """Segment number, segment diameter in angstrom, energy over k in K, and where they are from ("" where
    estimated)."""

    m: float
    sigma: float
    epsilon: float
    source: str


@cache
def published() -> dict[str, SaftSet]:
    """Return the published sets by component name."""
    rows = csv.DictReader(files(__package__).joinpath("pc_saft.csv").read_text(encoding="utf-8").splitlines())
    return {r["name"]: SaftSet(float(r["m"]), float(r["sigma_A"]), float(r["epsilon_K"]), r["source"]) for r in rows}


def segment_number(component: Component) -> float:
    """Return the segment number of a component without a published set."""
    line = 0.02569e3 * component.molar_mass + 0.8709
    watson = (1.8 * component.nbp) ** (1 / 3) / component.specific_gravity
    short = float(np.clip((PARAFFINIC - watson) / (PARAFFINIC - AROMATIC), 0.0, 1.2))
    heavy = component.family in ("", "n-alkane", "isoalkane", "naphthene", "aromatic", "olefin")
    return max(line * (1.0 - short / 3.0) if heavy else line, 1.0)


def saft_sets(components: Sequence[Component]) -> tuple[SaftSet, ...]:
    """Return the parameters of components (nc,): given, published, or fitted."""
    known = published()
    out: list[SaftSet | None] = []
    for c in components:
        given = c.pc_saft
        if given is not None:
            out.append(SaftSet(*given, "given"))
        else:
            out.append(known.get(c.name) if c.kind == "pure" else None)
    places = [i for i, s in enumerate(out) if s is None]
    new = [components[i] for i in places if components[i] not in _FITTED]
    if new:
        if len(_FITTED) > MOST_KEPT:
            _FITTED.clear()
        m = np.array([segment_number(c) for c in new])
        sigma, epsilon = fitted(new, m)
        for c, one, size, depth in zip(new, m.tolist(), sigma.tolist(), epsilon.tolist()):
            _FITTED[c] = SaftSet(one, size, depth, "")
    for i in places:
        out[i] = _FITTED[components[i]]
    return tuple(s for s in out if s is not None)


def fitted(components: Sequence[Component], m: Array) -> tuple[Array, Array]:
    """Return segment diameters in angstrom and energies in K (n,) at which components boil at their boiling points at
    1 atm and have the liquid densities of :func:`volume_shift.reference_liquid`.

    Newton's method in the logarithms of both, by differences.
    """
    nbp = np.array([c.nbp for c in components])
    T, molar = reference_liquid(components)
    Tc, Pc, omega = (np.array([getattr(c, k) for c in components]) for k in ("Tc", "Pc", "omega"))
    volume = 1e30 * molar / 6.02214076e23 * 0.47
    u = np.stack([np.log(np.cbrt(volume / m * 6.0 / np.pi)), np.log(Tc / (1.02 * reduced_temperature(m)))])
    one = np.ones((nbp.size, 1))
    # What boils above that temperature has less than an atmosphere there.
    light = np.flatnonzero(nbp < T)

    def misses(u: Array) -> Array:
        sigma, epsilon = np.exp(u)
        eos = SaftEos(m, 1e-10 * sigma, epsilon, np.zeros((m.size, m.size)), Tc, Pc, omega).pure()
        at = eos.prepare(nbp, np.full(nbp.size, ATM))
        boils = (at.ln_phi(one, "liquid")[0] - at.ln_phi(one, "vapour")[0])[:, 0]
        P = np.full(T.shape, ATM)
        if light.size:
            P[light] = vapour_pressures(eos.take(light), T[light], Pc[light])
        Z = eos.prepare(T, P).ln_phi(one, "liquid")[1]
        return np.stack([boils, np.log(Z * R * T / P / molar)])

    for _ in range(ROUNDS):
        now = misses(u)
        h = 1e-5
        by = [(misses(u + h * np.eye(2)[k][:, None]) - now) / h for k in (0, 1)]
        det = by[0][0] * by[1][1] - by[0][1] * by[1][0]
        with np.errstate(divide="ignore", invalid="ignore"):
            step = np.stack(
                [
                    (now[0] * by[1][1] - now[1] * by[1][0]) / det,
                    (by[0][0] * now[1] - by[0][1] * now[0]) / det,
                ]
            )
        step = np.where(np.isfinite(step), np.clip(step, -0.08, 0.08), 0.03)
        u = u - step
        if np.abs(step).max() < 1e-9:
            break
    return np.exp(u[0]), np.exp(u[1])
