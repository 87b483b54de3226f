"""What is to be seen of a match: every test with what was measured and what the untuned and the tuned model give, as
pictures without a painter."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..results.evaluator import Project
from ..results.simulated_tests import Simulated, telling
from .parameters import Ask, Bench, Test, Wanted, ours, set_up

Array = NDArray[np.float64]

TITLES = {
    "relative_volume": "Relative volume", "liquid_volume_fraction": "Liquid, of the volume at saturation", "density_kg_m3": "Density", "produced_mole_fraction": "Gas produced",
    "Z_gas": "Z of the gas", "Z_two_phase": "Two-phase Z", "oil_volume_factor": "Oil volume factor", "solution_gas_m3_m3": "Gas in solution",
    "oil_density_kg_m3": "Oil density", "oil_viscosity_Pa_s": "Oil viscosity", "gas_gravity": "Gas gravity", "gas_Z": "Z of the gas", "gas_oil_ratio_m3_m3": "Gas–oil ratio",
    "saturation_pressure_Pa": "Saturation pressure", "swelling_factor": "Swelling factor", "viscosity_Pa_s": "Viscosity", "total_volume_factor": "Total volume factor",
}  # fmt: skip


@dataclass(frozen=True)
class Panel:
    """A picture: what it is of (``key`` in an answer), the tests it is made of by name, the ``x_key`` it is drawn
    over, places ``x`` (n,) of the lines with the ``before`` and the ``after`` (n,), None without a tuning; the
    measured places, values and standard deviations (m,), and which rows of the answer they are."""

    name: str
    key: str
    tests: tuple[str, ...]
    x_key: str
    x: Array
    before: Array
    after: Array | None
    at: Array
    measured: Array
    sigma: Array
    rows: tuple[int, ...]
    held: bool

    def deviation(self, lines: Array | None) -> float | None:
        """Return the average absolute deviation in percent of the measured values from a line, None without one."""
        if lines is None:
            return None
        order = np.argsort(self.x)
        own = np.interp(self.at, self.x[order], lines[order])
        told = [100.0 * abs(o / v - 1.0) for o, v in zip(own, self.measured) if telling(self.key, v) and np.isfinite(o)]
        return sum(told) / len(told) if told else None


@dataclass(frozen=True)
class Single:
    """A single measured value: the test and key, the value, its standard deviation, before and after."""

    test: str
    key: str
    measured: float
    sigma: float
    before: float | None
    after: float | None


@dataclass(frozen=True)
class MatchView:
    """Pictures and single values of a match."""

    panels: tuple[Panel, ...]
    singles: tuple[Single, ...]
    points: int
    tests: int


@dataclass(frozen=True)
class Moving:
    """A fit on its way: what is to be seen of it, and the steps so far."""

    view: MatchView
    steps: int


def match_view(asked: Ask, project: Project, wanted: Sequence[Wanted], values: Array | None) -> MatchView:
    """Return what is to be seen of a match with parameters ``wanted`` at ``values`` (p,), or none. Raises
    DomainError."""
    bench = set_up(asked, project, wanted, [])
    before = bench.simulated(None)
    after = None if values is None else bench.simulated(values[None, :])
    fine = bench.finer(None), bench.finer(values) if values is not None else None
    return view_of(bench, before, after, fine)


Fine = tuple[Mapping[str, tuple[Any, Simulated]], Mapping[str, tuple[Any, Simulated]] | None]
"""Tests at places between, before and after."""


def view_of(
    bench: Bench, before: Mapping[str, Simulated], after: Mapping[str, Simulated] | None, fine: Fine | None = None
) -> MatchView:
    """Return pictures of what was simulated, their lines of ``fine`` places where there are any."""
    panels: list[Panel] = []
    singles: list[Single] = []
    for test in bench.tests:
        for datum in test.measured:
            if datum.rows is None:
                one, other = (None if s is None else ours(s[test.name], datum) for s in (before, after))
                pair = [None if v is None or not np.isfinite(v[0, 0]) else float(v[0, 0]) for v in (one, other)]
                singles.append(Single(test.name, datum.key, float(datum.values[0]), float(datum.sigma[0]), *pair))
                continue
            if datum.key.startswith(("gas.", "liquid.")) and test.kind != "depletion":
                continue
            x = np.array(test.how.places(getattr(test.ready, "asked", test.ready)), float)
            lines = [None if s is None else s[test.name].values(datum.key, True) for s in (before, after)]
            at = x[datum.rows]
            if fine is not None and test.name in fine[0]:
                x = np.array(test.how.places(fine[0][test.name][0]), float)
                lines = [None if s is None else s[test.name][1].values(datum.key, True) for s in fine]
            if lines[0] is None:
                continue
            title = TITLES.get(datum.key, _plain(datum.key))
            panels.append(
                Panel(
                    f"{title}, {_where(test)}", datum.key, (test.name,), test.how.along, x, lines[0][0], None if lines[1] is None else lines[1][0], at,
                    datum.values, datum.sigma, tuple(datum.rows.tolist()), test.held,
                )
            )  # fmt: skip
    for test in bench.tests:
        if not test.measured and test.kind not in ("saturation", "flash"):
            panels += _unmeasured(test, before, after)
    panels = [p for p in panels if not p.key.startswith("gas.")] + [p for p in panels if p.key.startswith("gas.")]
    saturated = _saturations(bench, before, after)
    return MatchView(
        ((saturated, *panels) if saturated is not None else tuple(panels)),
        tuple(singles),
        sum(t.size for t in bench.tests),
        len(bench.tests),
    )


def _unmeasured(test: Test, before: Mapping[str, Simulated], after: Mapping[str, Simulated] | None) -> list[Panel]:
    """Return pictures of a test that nothing was measured of."""
    out = []
    x = np.array(test.how.places(getattr(test.ready, "asked", test.ready)), float)
    none = np.zeros(0)
    for key in test.how.drawn:
        lines = [None if s is None else s[test.name].values(key, True) for s in (before, after)]
        if lines[0] is not None and np.isfinite(lines[0]).any():
            other = None if lines[1] is None else lines[1][0]
            name = f"{TITLES.get(key, _plain(key))}, {_where(test)}"
            out.append(
                Panel(name, key, (test.name,), test.how.along, x, lines[0][0], other, none, none, none, (), test.held)
            )
    return out


def _plain(key: str) -> str:
    phase, _, name = key.partition(".")
    return f"{name[:1].upper()}{name[1:]} in the {phase}" if name else key.replace("_", " ")


def _where(test: Test) -> str:
    T = test.temperature
    return test.name if T is None or test.kind == "separators" else f"{test.kind}"


def _saturations(bench: Bench, before: Mapping[str, Simulated], after: Mapping[str, Simulated] | None) -> Panel | None:
    """Return the saturation pressures measured in any test over their temperatures, None with fewer than two."""
    found: list[tuple[float, float, float, float, float, str]] = []
    for test in bench.tests:
        T = test.temperature
        for d in test.measured:
            if T is None or d.rows is not None or not d.key.endswith("pressure_Pa") or test.held:
                continue
            one, other = (None if s is None else ours(s[test.name], d) for s in (before, after))
            if one is not None:
                found.append(
                    (
                        T,
                        float(one[0, 0]),
                        np.nan if other is None else float(other[0, 0]),
                        float(d.values[0]),
                        float(d.sigma[0]),
                        test.name,
                    )
                )
    if len(found) < 2:
        return None
    found.sort()
    x, one, other, values, sigma = (np.array([f[k] for f in found], float) for k in range(5))
    names = tuple(dict.fromkeys(f[5] for f in found))
    return Panel(
        "Saturation pressure",
        "pressure_Pa",
        names,
        "temperature_K",
        x,
        one,
        None if after is None else other,
        x,
        values,
        sigma,
        (),
        False,
    )
