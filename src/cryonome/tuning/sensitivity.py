"""Which parameters can move which data, which are alike, and a small set that is worth fitting."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

ALIKE = 0.95
"""Cosine of two columns above which one parameter does what the other does."""
WEAK = 0.5
"""Standard deviations, as a root mean square of the data, below which a parameter's whole prior width moves too
little."""
POINTS_EACH = 3
"""Measured values a parameter should have."""
MOST = 6


@dataclass(frozen=True)
class Proposal:
    """Parameters by place in the order they were taken, and for each left out why: ``weak``, ``alike`` with which, or
    ``enough``."""

    taken: tuple[int, ...]
    why: tuple[tuple[int, str, int], ...]


def alike(J: Array) -> Array:
    """Return the cosines (p, p) of the columns of sensitivities J (n, p), zero for a column of nothing."""
    length = np.linalg.norm(J, axis=0)
    unit = J / np.where(length > 0.0, length, 1.0)
    return np.asarray(unit.T @ unit)


def propose(J: Array, residuals: Array, prior: Sequence[float]) -> Proposal:
    """Return a small set from sensitivities J (n, p) of residuals (n,), all in standard deviations, and prior widths
    (p,).

    Parameters are taken one by one, each time the one whose share that the others do not have already takes most off
    what is left of the residuals within its prior width (a forward selection on the linear model); what moves too
    little, does what a taken one does, or would leave too few data for each, is left out."""
    width = np.asarray(prior, float)
    S = J * width
    n, p = S.shape
    reach = np.linalg.norm(S, axis=0) / np.sqrt(max(n, 1))
    cosines = np.abs(alike(S))
    most = max(1, min(MOST, n // POINTS_EACH))
    taken: list[int] = []
    why: list[tuple[int, str, int]] = [(k, "weak", -1) for k in range(p) if reach[k] < WEAK]
    waiting = [k for k in range(p) if reach[k] >= WEAK]
    left = residuals.astype(float).copy()
    while waiting and len(taken) < most:
        gains = []
        for k in waiting:
            some = [*taken, k]
            # A ridge of one prior width each keeps a step plausible.
            A = np.vstack([S[:, some], np.eye(len(some))])
            b = np.concatenate([residuals, np.zeros(len(some))])
            step = np.linalg.lstsq(A, -b, rcond=None)[0]
            after = residuals + S[:, some] @ step
            gains.append((float(left @ left - after @ after), k))
        gain, k = max(gains)
        if taken and gain < max(2.0, 0.02 * float(left @ left)):
            break
        taken.append(k)
        A = np.vstack([S[:, taken], np.eye(len(taken))])
        step = np.linalg.lstsq(A, -np.concatenate([residuals, np.zeros(len(taken))]), rcond=None)[0]
        left = residuals + S[:, taken] @ step
        waiting.remove(k)
        for other in [w for w in waiting if cosines[w, k] > ALIKE]:
            waiting.remove(other)
            why.append((other, "alike", k))
    why += [(k, "enough", -1) for k in waiting]
    return Proposal(tuple(taken), tuple(why))
