"""How a kernel is written: what its arguments are, and what is called from outside.

``@inner`` is a helper of other kernels. ``@entry`` is called from Python through :mod:`..library`; its annotations
are its signature: ``F1``, ``F2`` and ``F3`` arrays of float64 of that many axes, ``I1`` and ``I2`` of int64,
C-contiguous, ``int`` and ``float``. ``@unit`` is an entry that other kernels call as well, by its name, compiled by
itself: what is large and called from several places is compiled once. ``@tabled`` is a function of an equation's
table (:mod:`.table`), called by address; its arrays are bare places in memory (``Place``), looked at through
:func:`view` and :func:`square`.

Kernels own no memory: what they need is handed to them, so that the compiled code stands without any runtime. They
raise nothing: what may fail returns a code. ``contract`` and ``reassoc`` are allowed where sums are taken, no flag
that drops nan, infinity or signed zero."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, TypeVar, cast, get_type_hints

import numpy as np
from numba import carray, njit, types
from numba.extending import intrinsic
from numpy.typing import NDArray

F1 = Annotated[NDArray[np.float64], "F1"]
F2 = Annotated[NDArray[np.float64], "F2"]
F3 = Annotated[NDArray[np.float64], "F3"]
F4 = Annotated[NDArray[np.float64], "F4"]
I1 = Annotated[NDArray[np.int64], "I1"]
I2 = Annotated[NDArray[np.int64], "I2"]
Place = Annotated[NDArray[np.float64], "p"]

Function = TypeVar("Function", bound=Callable[..., Any])

OPTIONS = {"nogil": True, "error_model": "numpy", "boundscheck": False}

ENTRIES: dict[str, Callable[..., Any]] = {}
"""Every function that is compiled for itself, by its name."""


def inner(function: Function) -> Function:
    """Mark a helper of other kernels."""
    return cast(Function, njit(**OPTIONS)(function))


def summing(function: Function) -> Function:
    """Mark a helper whose sums may be taken in any order, which is what lets the processor take eight at a time."""
    return cast(Function, njit(**OPTIONS, fastmath={"reassoc", "contract"})(function))


def fused(function: Function) -> Function:
    """Mark a helper whose products and sums may be taken in one step, but in no other order."""
    return cast(Function, njit(**OPTIONS, fastmath={"contract"})(function))


def entry(function: Function) -> Function:
    """Mark a kernel that Python calls."""
    ENTRIES[function.__name__] = function
    return function


def tabled(function: Function) -> Function:
    """Mark a function of an equation's table."""
    ENTRIES[function.__name__] = function
    return function


PREFIX = "cryonome_"
"""Of the symbols of units."""

_SCALARS = {int: "i", float: "f"}


def letters_of(function: Callable[..., Any]) -> tuple[tuple[str, ...], str]:
    """Return the letters of a kernel's arguments (F1 to F4, I1, I2, p, i, f) and of what it returns."""
    hints = get_type_hints(function, include_extras=True)
    result = _SCALARS[hints.pop("return")]
    return tuple(_SCALARS[h] if h in _SCALARS else h.__metadata__[0] for h in hints.values()), result


def unit(function: Function) -> Function:
    """Mark a kernel that Python and other kernels call: these by its symbol, which the loader provides."""
    from llvmlite import binding, ir

    ENTRIES[function.__name__] = function
    # Only compiling happens here, no call: any address will do.
    binding.add_symbol(PREFIX + function.__name__, 1)
    letters, result = letters_of(function)
    double, whole = ir.DoubleType(), ir.IntType(64)
    plain = {"f": double, "i": whole}
    element = {"F": types.float64, "I": types.int64}

    def build(typing: Any, given: tuple[Any, ...]) -> Any:
        wanted = [types.Array(element[k[0]], int(k[1]), "C") if len(k) > 1 else _KINDS[k] for k in letters]

        def generate(context: Any, builder: Any, sig: Any, values: Any) -> Any:
            passed = []
            for letter, type_, value in zip(letters, sig.args, values):
                if len(letter) == 1:
                    passed.append(value)
                    continue
                array = context.make_array(type_)(context, builder, value)
                sizes = [builder.extract_value(array.shape, k) for k in range(int(letter[1]))]
                passed += [array.data, *sizes]
            shape = ir.FunctionType(plain[result], [v.type for v in passed])
            name = PREFIX + function.__name__
            symbol = builder.module.globals.get(name) or ir.Function(builder.module, shape, name)
            return builder.call(symbol, passed)

        return _KINDS[result](*wanted), generate

    names = ", ".join(f"a{k}" for k in range(len(letters)))
    space: dict[str, Any] = {"build": build}
    exec(f"def {function.__name__}(typing, {names}):\n    return build(typing, ({names},))\n", space)
    return cast(Function, intrinsic(space[function.__name__]))


@inner
def view(place: Place, n: int) -> F1:
    """Return n numbers at a place."""
    return carray(place, (n,))


@inner
def square(place: Place, n: int) -> F2:
    """Return an n by n matrix at a place."""
    return carray(place, (n, n))


def _reader(axes: int) -> Any:
    """Return a function that looks at an array's numbers in another shape: what ``reshape`` does by the compiler's
    runtime, which is not there."""
    shape = types.Array(types.float64, axes, "C")

    def build(typing: Any, given: Any, sizes: tuple[Any, ...]) -> Any:
        def generate(context: Any, builder: Any, sig: Any, values: Any) -> Any:
            from numba.np.arrayobj import make_array, populate_array

            data = make_array(sig.args[0])(context, builder, values[0]).data
            strides: list[Any] = []
            step = context.get_constant(types.intp, 8)
            for size in reversed(values[1:]):
                strides.insert(0, step)
                step = builder.mul(step, size)
            out = make_array(shape)(context, builder)
            eight = context.get_constant(types.intp, 8)
            populate_array(out, data, list(values[1:]), strides, eight, None)
            return out._getvalue()

        return shape(given, *[types.int64] * axes), generate

    names = ", ".join(f"n{k}" for k in range(axes))
    space: dict[str, Any] = {"build": build}
    exec(f"def f(typing, given, {names}):\n    return build(typing, given, ({names},))\n", space)
    return intrinsic(space["f"])


flat = _reader(1)
"""``flat(a, n)``: n numbers from where an array begins."""
matrix = _reader(2)
"""``matrix(a, n, m)``: n rows of m numbers from there."""


def _bits(source: Any, result: Any, words: str) -> Any:
    """Return a function that takes the 64 bits of a number for another kind of number."""

    def reading(typing: Any, value: Any) -> Any:
        def generate(context: Any, builder: Any, sig: Any, values: Any) -> Any:
            return builder.bitcast(values[0], context.get_value_type(result))

        return result(source), generate

    reading.__doc__ = words
    return intrinsic(reading)


bits_of = _bits(types.float64, types.int64, "Return the bits of a float as a whole number.")
float_of = _bits(types.int64, types.float64, "Return the float that has these bits.")


_KINDS = {"f": types.float64, "i": types.int64}


def calling(result: str, arguments: str) -> Any:
    """Return a function that calls one of C's by its address: ``f`` is a float, ``i`` an integer, ``p`` the data of
    an array."""
    from llvmlite import ir

    double, whole = ir.DoubleType(), ir.IntType(64)
    native = {"f": double, "i": whole, "p": double.as_pointer()}
    names = [f"a{k}" for k in range(len(arguments))]

    def build(typing: Any, address: Any, given: tuple[Any, ...]) -> Any:
        wanted = [given[k] if kind == "p" else _KINDS[kind] for k, kind in enumerate(arguments)]
        signature = _KINDS[result](types.int64, *wanted)

        def generate(context: Any, builder: Any, sig: Any, values: Any) -> Any:
            passed = []
            for kind, type_, value in zip(arguments, sig.args[1:], values[1:]):
                passed.append(context.make_array(type_)(context, builder, value).data if kind == "p" else value)
            shape = ir.FunctionType(native[result], [native[k] for k in arguments])
            return builder.call(builder.inttoptr(values[0], shape.as_pointer()), passed)

        return signature, generate

    # Numba passes the arguments of an intrinsic by these names.
    space: dict[str, Any] = {"build": build}
    exec(
        f"def f(typing, address, {', '.join(names)}):\n    return build(typing, address, ({', '.join(names)},))\n",
        space,
    )
    return intrinsic(space["f"])
