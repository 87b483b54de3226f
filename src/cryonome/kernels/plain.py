"""Kernels as they are written, run by Python itself: ``CRYONOME_KERNELS=plain``.

Nothing is compiled, so that a debugger stops in a kernel and coverage sees its lines; a state takes some hundred times
as long. It is another way through the same source, and the tests hold one against the other."""

from __future__ import annotations

import ctypes
import functools
import importlib
import math
from collections.abc import Callable, Sequence
from types import ModuleType
from typing import Any

import numpy as np
from numpy.lib.stride_tricks import as_strided

from ..watch import UNWATCHED, Watch

FAR = 1 << 24
"""Numbers that are looked at where only their place in memory is known; those beyond the array are never touched."""


def _flat(values: Any, n: int) -> Any:
    """Return n numbers from where an array begins, or from a place in memory."""
    if isinstance(values, int):
        values = np.ctypeslib.as_array((ctypes.c_double * FAR).from_address(values))
    return as_strided(values, (n,), (8,))


def _matrix(values: Any, n: int, m: int) -> Any:
    """Return n rows of m numbers from there."""
    return as_strided(_flat(values, 1), (n, m), (8 * m, 8))


def _calling(_result: str, _arguments: str) -> Callable[..., Any]:
    """Return a function that calls another by its number in :func:`_entries`."""
    return lambda place, *values: _entries()[1][place - 1](*values)


def _like_c(function: Callable[..., float]) -> Callable[..., Any]:
    """Return a function of ``math`` that gives nan and infinity in place of raising, as compiled code does."""
    own: dict[str, Callable[..., Any]] = {
        "log": np.log,
        "log1p": np.log1p,
        "exp": np.exp,
        "sqrt": np.sqrt,
        "expm1": np.expm1,
        "acos": np.arccos,
    }

    def told(*values: float) -> Any:
        try:
            return np.float64(function(*values))
        except (ValueError, OverflowError):
            return np.float64(own[function.__name__](*values)) if function.__name__ in own else np.float64(np.nan)

    return told


def _as_it_is(function: Any) -> Any:
    return function


@functools.cache
def _sources() -> ModuleType:
    """Return the marks of kernels with every one of them doing nothing; the files of kernels come after it."""
    marks = importlib.import_module(".source.marks", __package__)
    entry = marks.entry
    for name in ("inner", "summing", "fused"):
        setattr(marks, name, _as_it_is)
    marks.unit = marks.tabled = entry  # type: ignore[attr-defined]
    marks.view, marks.flat, marks.matrix = _flat, _flat, _matrix  # type: ignore[attr-defined]
    marks.square = lambda place, n: _matrix(place, n, n)  # type: ignore[attr-defined]
    marks.bits_of = lambda value: int(np.float64(value).view(np.int64))  # type: ignore[attr-defined]
    marks.float_of = lambda value: np.uint64(value % (1 << 64)).view(np.float64)  # type: ignore[attr-defined]
    marks.calling = _calling  # type: ignore[attr-defined]
    return marks


@functools.cache
def _entries() -> tuple[dict[str, int], list[Callable[..., Any]]]:
    """Return the number of every kernel from one on, and the kernels in that order."""
    from .library import sources

    marks = _sources()
    known = {getattr(math, name) for name in dir(math) if callable(getattr(math, name))}
    for file in sources():
        if file in ("__init__", "marks"):
            continue
        module = importlib.import_module(f".source.{file}", __package__)
        for name, value in list(vars(module).items()):
            if callable(value) and value in known:
                setattr(module, name, _like_c(value))
    names = list(marks.ENTRIES)
    return {name: k for k, name in enumerate(names, 1)}, [marks.ENTRIES[name] for name in names]


class PlainKernel:
    """A kernel that is called like a compiled one."""

    def __init__(self, name: str) -> None:
        numbers, functions = _entries()
        self.name, self.address = name, numbers[name]
        self._function = functions[self.address - 1]
        self.letters = _sources().letters_of(self._function)[0]

    def bound(self, letters: Sequence[str], values: Sequence[Any]) -> list[Any]:
        """Return the values. Raises TypeError where one is not what the kernel takes."""
        from .library import Kernel

        Kernel.bound(self, letters, values)  # type: ignore[arg-type]
        return list(values)

    def __call__(self, *values: Any) -> Any:
        with np.errstate(all="ignore"):
            return self._function(*self.bound(self.letters, values))

    def over(self, n: int, memory: int, values: Sequence[Any], watch: Watch = UNWATCHED, *, block: int = 64) -> None:
        """Run rows 0 to n, as :meth:`~cryonome.kernels.library.Kernel.over` does."""
        from . import pool

        passed = self.bound(self.letters[3:], values)

        def work(lo: int, hi: int) -> None:
            with np.errstate(all="ignore"):
                self._function(lo, hi, np.empty(max(memory, 1)), *passed)

        pool.in_blocks(work, n, block, watch)
