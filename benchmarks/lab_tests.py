"""Speed of lab tests and of a fit, and whether a fit finds what made its data.

``./run bench lab_tests [RUNS]`` prints times for a fluid of 15 components, then RUNS (20) fits to data of a known model with 1 % noise: whether the data are
met within the noise, and the parameters within their stated ranges.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import numpy as np

from cryonome.labtests import deplete, expand, liberate, separate
from cryonome.tuning import fit
from cryonome.tuning.fit import derivatives
from lab_fluids import HIDDEN, Experiment, condensate, oil

Array = np.ndarray


def timed(what: str, call: Callable[[], object], turns: int = 7) -> None:
    """Print the least time of several."""
    call()
    times = []
    for _ in range(turns):
        start = time.perf_counter()
        call()
        times.append(time.perf_counter() - start)
    sys.stdout.write(f"{what:<46}{1e3 * min(times):9.1f} ms\n")


def main(runs: int = 20) -> None:
    """Print times, then what fits find."""
    gas, black = condensate(), oil()
    T = 370.0
    P = np.linspace(400e5, 40e5, 20)
    steps = np.linspace(220e5, 30e5, 10)
    timed("expansion of 20 pressures, 15 components", lambda: expand(gas, T, P))
    near = gas.saturation(T)
    timed("  beginning from a point near", lambda: expand(gas, T, P, near))
    timed("depletion of 10 steps", lambda: deplete(gas, T, steps))
    timed("  beginning from a point near", lambda: deplete(gas, T, steps, near))
    timed("liberation of 10 steps, oil", lambda: liberate(black, T, np.append(steps[:-1], 101325.0)))
    timed(
        "separators of 3 stages",
        lambda: separate(black, np.array([320.0, 300.0, 288.7]), np.array([30e5, 5e5, 101325.0])),
    )
    experiment = Experiment(8)
    sys.stdout.write(f"a fit of {experiment.start.size} parameters to {experiment.truth.size} values:\n")
    took, inside, met = [], [], 0
    for run in range(runs):
        rng = np.random.default_rng(run)
        measured = experiment.truth * (1.0 + 0.01 * rng.standard_normal(experiment.truth.size))
        own = Experiment(8)
        start = time.perf_counter()
        found = fit(own.residuals(measured), own.start, own.low, own.high, own.scale, np.full(own.start.size, np.inf))
        took.append(time.perf_counter() - start)
        within = (found.interval[:, 0] <= HIDDEN[: own.start.size]) & (HIDDEN[: own.start.size] <= found.interval[:, 1])
        inside.append(within)
        met += bool(found.scatter < 1.3)
    share = np.array(inside)
    sys.stdout.write(
        f"  {np.median(took):.2f} s (median of {runs}); data met within the noise in {met} of {runs}; "
        f"all parameters in their range in {share.all(axis=1).sum()}, each in {100 * share.mean():.1f} % of its ranges (95 % stated)\n"
    )
    own = Experiment(8)
    r = own.residuals(own.truth)
    timed("all sensitivities of it, one call", lambda: derivatives(r, own.start, own.low, own.high, own.scale), 3)


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
