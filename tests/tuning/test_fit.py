"""Fits: what made the data is found, within what is stated; bad trials end nothing."""

import numpy as np
import pytest

from cryonome.eos.cubic import CubicEos
from cryonome.errors import DomainError
from cryonome.tuning import Parameter, alike, fit, heavy_ends, propose, tuned
from cryonome.tuning.sanity import trends
from cryonome.watch import Watch
from lab_fluids import HIDDEN, OIL, Experiment, base, components

FREE = np.inf


def straight(x: np.ndarray) -> np.ndarray:
    """Residuals of a line through five points."""
    t = np.arange(5.0)
    return x[:, :1] + x[:, 1:] * t - np.array([1.0, 3.1, 4.9, 7.2, 8.8])


def run(residuals, start, low=-50.0, high=50.0, prior=FREE, **more):  # type: ignore[no-untyped-def]
    start = np.array(start, float)
    one = np.ones(start.size)
    return fit(residuals, start, low * one, high * one, one, prior * one, **more)


def test_a_straight_line_has_the_ranges_of_the_textbook() -> None:
    found = run(straight, [0.0, 0.0])
    A = np.column_stack([np.ones(5), np.arange(5.0)])
    y = np.array([1.0, 3.1, 4.9, 7.2, 8.8])
    best, rest, *_ = np.linalg.lstsq(A, y, rcond=None)
    assert found.values == pytest.approx(best, abs=1e-6)
    sd = np.sqrt(np.diagonal(np.linalg.inv(A.T @ A)) * rest[0] / 3)
    # Student's t of three degrees of freedom at 97.5 %.
    assert found.interval[:, 1] - found.values == pytest.approx(3.18245 * sd, rel=1e-4)
    assert found.scatter == pytest.approx(np.sqrt(rest[0] / 3), rel=1e-5)


def test_a_bound_is_kept_and_told() -> None:
    found = run(straight, [0.0, 0.0], -1.5, 1.5)
    assert found.at_bound[1]
    assert found.values[1] <= 1.5
    pulled = run(straight, [0.0, 0.0], prior=1e-3)
    assert np.abs(pulled.values).max() < 0.01


def test_a_bad_trial_does_not_end_a_fit() -> None:
    def holed(x: np.ndarray) -> np.ndarray:
        r = straight(x)
        r[x[:, 1] > 3.0] = np.nan
        return np.where((np.arange(5) == 2) & (x[:, 1:] > 1.95), np.nan, r)

    found = run(holed, [0.0, 0.0])
    assert np.isfinite(found.values).all()
    assert float(np.nansum(found.after**2)) < 0.2 * float(np.nansum(found.before**2))
    with pytest.raises(DomainError):
        run(lambda x: np.full((x.shape[0], 3), np.nan), [0.0])


def test_stopping_keeps_the_best_so_far() -> None:
    seen: list[np.ndarray] = []
    watch = Watch(cancelled=lambda: len(seen) >= 3)
    found = run(straight, [40.0, -40.0], watch=watch, told=lambda x, r, n: seen.append(x))
    assert found.reason == "stopped"
    assert found.values == pytest.approx(seen[-1])


def test_data_of_a_known_model_give_it_back() -> None:
    """Twenty such runs with eight parameters are in ./run bench lab_tests; here the data have no noise, so that every digit counts."""
    experiment = Experiment(3)
    found = fit(
        experiment.residuals(experiment.truth),
        experiment.start,
        experiment.low,
        experiment.high,
        experiment.scale,
        np.full(3, FREE),
    )
    assert found.values == pytest.approx(HIDDEN[:3], abs=2e-4)
    assert np.abs(found.after).max() < 0.01


def test_noise_is_met_and_stated() -> None:
    inside = []
    for seed in range(4):
        experiment = Experiment(3)
        rng = np.random.default_rng(seed)
        measured = experiment.truth * (1.0 + 0.01 * rng.standard_normal(experiment.truth.size))
        found = fit(
            experiment.residuals(measured),
            experiment.start,
            experiment.low,
            experiment.high,
            experiment.scale,
            np.full(3, FREE),
        )
        assert 0.7 < found.scatter < 1.3
        inside.append((found.interval[:, 0] <= HIDDEN[:3]) & (HIDDEN[:3] <= found.interval[:, 1]))
    assert np.mean(inside) > 0.8


def test_a_proposal_leaves_out_twins_and_idlers() -> None:
    rng = np.random.default_rng(1)
    J = rng.normal(size=(30, 2))
    J = np.column_stack([J[:, 0], 1.1 * J[:, 0] + 0.01 * J[:, 1], J[:, 1], 1e-4 * J[:, 0]])
    found = propose(J, J @ np.array([1.5, 0.0, -2.0, 0.0]) + 0.1 * rng.normal(size=30), [1.0] * 4)
    assert set(found.taken) in ({0, 2}, {1, 2})
    assert {why for _, why, _ in found.why} == {"alike", "weak"}
    assert alike(J)[0, 1] == pytest.approx(1.0, abs=1e-3)
    few = propose(J[:4], J[:4, 0], [1.0] * 4)
    assert len(few.taken) == 1


def test_factors_move_attraction_covolume_and_critical_point() -> None:
    one = tuned(base(OIL), (Parameter("a", (14,)), Parameter("b", (14,))), np.array([[1.1, 1.05]])).eos
    plain = tuned(base(OIL), (), np.zeros((1, 0))).eos
    assert isinstance(one, CubicEos)
    assert isinstance(plain, CubicEos)
    assert one.a_critical[0, 14] == pytest.approx(1.1 * plain.a_critical[0, 14], rel=1e-12)
    assert one.b[0, 14] == pytest.approx(1.05 * plain.b[0, 14], rel=1e-12)
    Tc, Pc, Vc = one.pure_critical()
    alone = one.single(0).of(np.array([14]))
    V = np.array([Vc[0, 14]])
    at = alone.at_temperature(np.array([Tc[0, 14]]))
    x = np.ones((1, 1))
    assert at.pressure(V, x)[0] == pytest.approx(Pc[0, 14], rel=1e-6)
    assert at.pressure_slope(V, x)[0] * V[0] / Pc[0, 14] == pytest.approx(0.0, abs=1e-6)


def test_trends_are_kept_or_named() -> None:
    fluid = tuned(base(OIL), (), np.zeros((1, 0)))
    found = {t.key: t for t in trends(components(), fluid.eos.single(0), fluid.shift[0])}
    assert all(t.kept for t in found.values())
    heavy = heavy_ends(components())
    odd = tuned(base(OIL), (Parameter("Tc", heavy[2:3]),), np.array([[1.15]]))
    from cryonome.tuning.parameters import single

    made = single(base(OIL), (Parameter("Tc", heavy[2:3]),), np.array([1.15]))
    broken = {t.key: t for t in trends(made.components, odd.eos.single(0), odd.shift[0])}
    assert not broken["Tc"].kept
    assert broken["Tc"].broken == (heavy[2], heavy[3])


MISRA_X = np.array([77.6, 114.9, 141.1, 190.8, 239.9, 289.0, 332.8, 378.4, 434.8, 477.3, 536.8, 593.1, 689.1, 760.0])
MISRA_Y = np.array([10.07, 14.73, 17.94, 23.93, 29.61, 35.18, 40.02, 44.82, 50.76, 55.05, 61.01, 66.40, 75.47, 81.78])
DANWOOD_X = np.array([1.309, 1.471, 1.490, 1.565, 1.611, 1.680])
DANWOOD_Y = np.array([2.138, 3.421, 3.597, 4.340, 4.882, 5.660])

CERTIFIED = {
    "Misra1a": (MISRA_X, MISRA_Y, lambda b, x: b[0] * (1.0 - np.exp(-b[1] * x)), [250.0, 5e-4],
                [2.3894212918e2, 5.5015643181e-4], [2.7070075241, 7.2668688436e-6], 1.2455138894e-1),
    "Misra1b": (MISRA_X, MISRA_Y, lambda b, x: b[0] * (1.0 - (1.0 + 0.5 * b[1] * x) ** -2), [300.0, 2e-4],
                [3.3799746163e2, 3.9039091287e-4], [3.1643950207, 4.2547321834e-6], 7.5464681533e-2),
    "DanWood": (DANWOOD_X, DANWOOD_Y, lambda b, x: b[0] * x ** b[1], [0.7, 4.0],
                [7.6886226176e-1, 3.8604055871], [1.8281973860e-2, 5.1726610913e-2], 4.3173084083e-3),
}  # fmt: skip
"""Nonlinear data sets with certified parameters, their standard deviations and sums of squares: NIST, Statistical
Reference Datasets, SRD 140 (2003); starts of the second set."""


@pytest.mark.parametrize("name", CERTIFIED)
def test_certified_data_sets_give_certified_parameters_and_deviations(name) -> None:
    x, y, model, start, best, deviation, squares = CERTIFIED[name]
    first = np.array(start)
    found = fit(
        lambda sets: np.array([model(b, x) - y for b in sets]), first, 0.01 * first, 100.0 * first, 0.1 * first,
        np.full(2, FREE), most=200,
    )  # fmt: skip
    assert found.values == pytest.approx(best, rel=1e-6)
    assert float(found.after @ found.after) == pytest.approx(squares, rel=1e-8)
    assert found.scatter**2 * (x.size - 2) == pytest.approx(squares, rel=1e-8)
    assert found.deviation == pytest.approx(deviation, rel=1e-4)
    assert not found.at_bound.any()
