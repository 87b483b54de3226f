"""Linear algebra as kernels do it, against NumPy's."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from cryonome.kernels import kernel


def solved(name: str, H: np.ndarray, g: np.ndarray) -> np.ndarray:
    n = g.size
    A, out = np.empty((n, n)), np.empty(n)
    more = (np.empty(n), np.empty(n)) if name == "descent" else ()
    kernel(name)(H.copy(), g, n, A, np.empty(n), *more, out)
    return out


@pytest.mark.parametrize("n", [1, 2, 7, 40])
def test_equations_are_solved_whether_definite_or_not(n):
    rng = np.random.default_rng(n)
    raw, g = rng.normal(size=(n, n)), rng.normal(size=n)
    for H in (raw @ raw.T + np.eye(n), raw + raw.T):
        np.testing.assert_allclose(H @ solved("solve_symmetric", H, g), g, atol=1e-12 * np.linalg.cond(H))
    # What has no solution, or is no number, leads nowhere.
    assert (solved("solve_symmetric", np.zeros((n, n)), g) == 0.0).all()
    assert (solved("solve_symmetric", np.full((n, n), np.nan), g) == 0.0).all()


@pytest.mark.parametrize("n", [1, 2, 3, 12, 40])
def test_eigenvalues_and_vectors_are_those_of_the_matrix(n):
    rng = np.random.default_rng(n)
    raw = rng.normal(size=(n, n))
    H = raw + raw.T
    H[0] = H[:, 0] = 0.0  # a row that is done already
    vectors, values = H.copy(), np.empty(n)
    assert kernel("eigen")(vectors, n, values, np.empty(n)) == 0
    np.testing.assert_allclose(np.sort(values), np.linalg.eigvalsh(H), atol=1e-12 * n)
    np.testing.assert_allclose(H @ vectors, vectors * values, atol=1e-12 * n)
    np.testing.assert_allclose(vectors.T @ vectors, np.eye(n), atol=1e-13 * n)


@pytest.mark.parametrize("name", ["descent", "damped"])
def test_a_step_always_goes_downhill(name):
    rng = np.random.default_rng(4)
    for _ in range(200):
        raw, gradient = rng.normal(size=(6, 6)), rng.normal(size=6)
        assert solved(name, raw + raw.T, gradient) @ gradient < 0.0  # indefinite on purpose
        definite = raw @ raw.T + np.eye(6)
        np.testing.assert_allclose(definite @ solved(name, definite, gradient), -gradient, atol=1e-9)


def test_extrapolation_ends_a_linear_iteration_with_two_eigenvalues():
    """Two eigenvalues are found exactly, so the extrapolated point is the limit."""
    rng = np.random.default_rng(2)
    basis = np.linalg.qr(rng.normal(size=(5, 5)))[0][:, :2]
    matrix = basis @ np.diag([0.9, 0.5]) @ basis.T
    limit = basis @ np.array([0.7, -0.4])
    x = [np.zeros(5)]
    for _ in range(4):
        x.append(matrix @ x[-1] + limit - matrix @ limit)
    older, old, step = (np.ascontiguousarray(b - a)[None] for a, b in list(pairwise(x))[:3])
    at = x[3][None].copy()
    assert kernel("extrapolate")(step, old, older, 1, 5, at) == 1
    np.testing.assert_allclose(at[0], limit, atol=1e-9)
    assert kernel("extrapolate")(step, np.zeros((1, 5)), np.zeros((1, 5)), 1, 5, at) == 0
