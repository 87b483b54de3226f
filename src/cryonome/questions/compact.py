"""A formula fitted to a table: a polynomial in one or two conditions, its order chosen by what it makes of points
left out.

Chebyshev polynomials of each condition, scaled to -1..1, make the least-squares problem well conditioned; the formula
is handed over in powers of the scaled conditions, which is exact for the orders used. Pressures and densities that
vary by more than a factor of :data:`WIDE` enter by their logarithm, and so does a property that does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.polynomial import chebyshev
from numpy.typing import NDArray

from ..errors import DomainError
from ..watch import UNWATCHED, Watch

Array = NDArray[np.float64]

WIDE = 3.0
MOST_ORDER = 9
FOLDS = 5
GOOD = 1.2
"""Of orders whose error on points left out is within this factor of the least, the one of fewest coefficients is
taken."""
ENOUGH = 900
"""Points that the orders are chosen by."""
FEWEST = 6
"""Points of an axis that a formula needs."""
LETTERS = {
    "temperature": "T",
    "pressure": "P",
    "vapour_fraction": "x",
    "vapour_volume_fraction": "w",
    "enthalpy": "h",
    "entropy": "s",
    "density": "d",
    "internal_energy": "u",
}
"""The name of a condition in a formula."""


class OtherRegionError(DomainError):
    """A formula would cross a phase boundary; ``part`` is the largest part of the table that would do, (low, high) of
    each axis in SI, empty where none is large enough."""

    def __init__(self, told: str, part: Sequence[tuple[float, float]] = ()) -> None:
        super().__init__(told)
        self.part = tuple(part)


@dataclass(frozen=True)
class Compact:
    """A formula of a property ``key``.

    ``variables`` are the conditions with their SI ``units``; each enters as (v - middle)/half of its value or, where
    ``by_logarithm``, of its natural logarithm. ``coefficients`` (orders + 1 of each) are of the powers of those; the
    property is the sum, or its exponential where ``logarithm``. ``average_error`` and ``worst_error`` are relative,
    at points left out of a fit."""

    key: str
    variables: tuple[str, ...]
    units: tuple[str, ...]
    ranges: tuple[tuple[float, float], ...]
    by_logarithm: tuple[bool, ...]
    middles: tuple[float, ...]
    halves: tuple[float, ...]
    logarithm: bool
    orders: tuple[int, ...]
    coefficients: Array
    average_error: float
    worst_error: float

    def __call__(self, *values: Array | float) -> Array:
        """Return the property at values of the conditions, SI, of any shapes that broadcast."""
        scaled = [
            (np.log(np.asarray(v, float)) - m) / h if by_log else (np.asarray(v, float) - m) / h
            for v, by_log, m, h in zip(values, self.by_logarithm, self.middles, self.halves)
        ]
        table = self.coefficients.reshape(self.coefficients.shape[0], -1)
        total: Array | float = 0.0
        for row in table[::-1]:
            inner: Array | float = 0.0
            for c in row[::-1]:
                inner = inner * scaled[-1] + c if len(scaled) > 1 else c
            total = total * scaled[0] + inner
        return np.asarray(np.exp(total) if self.logarithm else total)

    def _scaled(self, log: str) -> list[str]:
        letters = [LETTERS[v] for v in self.variables]
        return [
            f"(({log}({name}) - {m!r})/{h!r})" if by_log else f"(({name} - {m!r})/{h!r})"
            for name, by_log, m, h in zip(letters, self.by_logarithm, self.middles, self.halves)
        ]

    def formula(self) -> str:
        """Return the formula for a spreadsheet, whose names T, P, ... are to be replaced by cells in SI units."""
        text = _nest(self.coefficients, self._scaled("LN"))
        return f"=EXP({text})" if self.logarithm else f"={text}"

    def python(self) -> str:
        """Return the formula as the text of a Python function."""
        letters = [LETTERS[v] for v in self.variables]
        names = [chr(ord("a") + i) for i in range(len(letters))]
        where = "; ".join(
            f"{letter} {low:.6g} to {high:.6g} {unit}".rstrip()
            for letter, (low, high), unit in zip(letters, self.ranges, self.units)
        )
        body = _nest(self.coefficients, names)
        lines = [
            "from math import exp, log",
            "",
            "",
            f"def compact({', '.join(letters)}):",
            f'    """Return {self.key}. Holds for {where}; worst error {100 * self.worst_error:.2g} %."""',
            *(f"    {n} = {s}" for n, s in zip(names, self._scaled("log"))),
            f"    return exp({body})" if self.logarithm else f"    return {body}",
        ]
        return "\n".join(lines) + "\n"


def _nest(coefficients: Array, names: Sequence[str]) -> str:
    """Return a polynomial in Horner's form."""

    def series(parts: list[str], name: str) -> str:
        text = parts[-1]
        for part in reversed(parts[:-1]):
            text = f"({part} + {name}*{text})"
        return text

    if coefficients.ndim == 1:
        return series([f"({float(c)!r})" for c in coefficients], names[0])
    return series([_nest(row, names[1:]) for row in coefficients], names[0])


def fit_table(
    key: str,
    variables: Sequence[str],
    units: Sequence[str],
    axes: Sequence[Array],
    values: Array,
    kinds: NDArray[np.int8],
    watch: Watch = UNWATCHED,
) -> Compact:
    """Fit a formula to ``values`` over one or two axes; ``kinds`` (..., p) tell the phases at every point.

    Raises DomainError where the phases change over the table, or the property does not exist all over it, with the
    part of the table that would do; and where there are too few points. Raises Cancelled."""
    there = np.isfinite(values)
    same = there & (kinds == kinds[tuple(s // 2 for s in values.shape)]).all(axis=-1)
    if not same.all():
        raise _other_region(key, variables, axes, kinds, there)
    short = next((v for v, a in zip(variables, axes) if a.size < FEWEST), None)
    if short is not None:
        raise DomainError(f"a formula needs at least {FEWEST} values of {short.replace('_', ' ')}; give more steps")
    by_logarithm = tuple(
        v in ("pressure", "density") and float(a.min()) > 0.0 and float(a.max() / a.min()) > WIDE
        for v, a in zip(variables, axes)
    )
    own = [np.log(a) if by_log else a for a, by_log in zip(axes, by_logarithm)]
    middles = tuple(float(0.5 * (a.max() + a.min())) for a in own)
    halves = tuple(float(0.5 * (a.max() - a.min())) for a in own)
    scaled = [
        g.reshape(-1) for g in np.meshgrid(*((a - m) / h for a, m, h in zip(own, middles, halves)), indexing="ij")
    ]
    flat = values.reshape(-1)
    logarithm = bool((flat > 0.0).all() and flat.max() / flat.min() > WIDE)
    target = np.log(flat) if logarithm else flat
    orders = _orders(scaled, target, [a.size for a in axes], flat, logarithm, watch)
    fitted = _fit(scaled, target, orders)
    average, worst = _left_out(scaled, target, orders, flat, logarithm)
    return Compact(
        key, tuple(variables), tuple(units), tuple((float(a.min()), float(a.max())) for a in axes), by_logarithm, middles, halves,
        logarithm, orders, _powers(fitted.reshape([o + 1 for o in orders])), average, worst,
    )  # fmt: skip


def _design(scaled: Sequence[Array], orders: Sequence[int]) -> Array:
    """Return the Chebyshev polynomials of every point, (points, coefficients)."""
    if len(scaled) == 1:
        return np.asarray(chebyshev.chebvander(scaled[0], orders[0]))
    return np.asarray(chebyshev.chebvander2d(scaled[0], scaled[1], list(orders)))


def _fit(scaled: Sequence[Array], target: Array, orders: Sequence[int]) -> Array:
    return np.asarray(np.linalg.lstsq(_design(scaled, orders), target, rcond=None)[0])


def _left_out(
    scaled: Sequence[Array], target: Array, orders: Sequence[int], values: Array, logarithm: bool
) -> tuple[float, float]:
    """Return the average and the worst relative error at points left out of the fit, each fold in its turn."""
    design = _design(scaled, orders)
    fold = np.random.default_rng(0).permutation(target.size) % FOLDS
    errors = np.empty(target.size)
    for k in range(FOLDS):
        out = fold == k
        found = design[out] @ np.linalg.lstsq(design[~out], target[~out], rcond=None)[0]
        errors[out] = (np.exp(found) if logarithm else found) - values[out]
    relative = np.abs(errors) / relative_size(values)
    return float(relative.mean()), float(relative.max())


def relative_size(values: Array) -> Array:
    """Return what deviations from values (...) are relative to: each value, or the largest where some come near
    zero."""
    size = np.abs(values)
    most = float(size.max())
    return np.where(size > 0.0, size, 1.0) if (size > 1e-3 * most).all() else np.full(values.shape, most or 1.0)


def _orders(
    scaled: Sequence[Array], target: Array, counts: Sequence[int], values: Array, logarithm: bool, watch: Watch
) -> tuple[int, ...]:
    """Return the orders whose formula does best on points left out, the simplest of those about as good."""
    # A polynomial of as many coefficients as points would swing between them.
    most = [min(MOST_ORDER, (2 * n) // 3 - 1) for n in counts]
    choices = [(i,) for i in range(most[0] + 1)]
    if len(counts) > 1:
        choices = [(i, j) for i in range(most[0] + 1) for j in range(most[1] + 1) if abs(i - j) < 4]  # type: ignore[misc]
    # A part of a large table is enough to find which orders are needed.
    if target.size > ENOUGH:
        some = np.random.default_rng(1).permutation(target.size)[:ENOUGH]
        scaled, target, values = [s[some] for s in scaled], target[some], values[some]
    found = []
    for c in choices:
        watch.check()
        found.append((c, _left_out(scaled, target, c, values, logarithm)[1]))
    least = min(error for _, error in found)
    good = [c for c, error in found if error <= GOOD * least + 1e-13]
    return min(good, key=lambda c: (int(np.prod([i + 1 for i in c])), c))


def _powers(coefficients: Array) -> Array:
    """Return the coefficients of powers from those of Chebyshev polynomials."""
    out = coefficients
    for axis in range(coefficients.ndim):
        order = coefficients.shape[axis]
        matrix = np.zeros((order, order))
        for k in range(order):
            powers = chebyshev.cheb2poly(np.eye(order)[k])
            matrix[: len(powers), k] = powers
        out = np.moveaxis(np.tensordot(matrix, out, axes=([1], [axis])), 0, axis)
    return np.asarray(out)


def _other_region(
    key: str, variables: Sequence[str], axes: Sequence[Array], kinds: NDArray[np.int8], there: NDArray[np.bool_]
) -> OtherRegionError:
    """Return why the table will not do, with the largest part of it that would."""
    best: tuple[int, tuple[tuple[int, int], ...]] | None = None
    flat = kinds.reshape(-1, kinds.shape[-1])
    for pattern in np.unique(flat, axis=0):
        mask = there & (kinds == pattern).all(axis=-1)
        found = _largest(mask if mask.ndim > 1 else mask[:, None])
        if best is None or found[0] > best[0]:
            best = found
    whole = bool(there.all())
    why = "the phases change over the table" if whole else f"{key} does not exist all over the table"
    if best is None or best[0] < FEWEST ** len(axes):
        return OtherRegionError(f"{why}, and no part of it is large enough for a formula; choose another range")
    parts = [
        f"{v.replace('_', ' ')} {format(a[i], '.6g')} to {format(a[j], '.6g')}"
        for v, a, (i, j) in zip(variables, axes, best[1])
    ]
    told = f"{why}; a formula holds where they stay the same, the largest part is {', '.join(parts)} (SI)"
    return OtherRegionError(told, [(float(a[i]), float(a[j])) for a, (i, j) in zip(axes, best[1])])


def _largest(mask: NDArray[np.bool_]) -> tuple[int, tuple[tuple[int, int], ...]]:
    """Return the size and the (first, last) rows and columns of the largest rectangle of a mask (n, m)."""
    n, m = mask.shape
    best: tuple[int, tuple[tuple[int, int], ...]] = (0, ((0, 0), (0, 0)))
    height = np.zeros(m, dtype=int)
    for row in range(n):
        height = np.where(mask[row], height + 1, 0)
        stack: list[tuple[int, int]] = []
        for column in range(m + 1):
            h = int(height[column]) if column < m else 0
            start = column
            while stack and stack[-1][1] >= h:
                start, tall = stack.pop()
                area = tall * (column - start)
                if area > best[0]:
                    best = (area, ((row - tall + 1, row), (start, column - 1)))
            stack.append((start, h))
    return best
