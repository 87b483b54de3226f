"""Compiles kernels: ``python -m cryonome.kernels.building`` reads names from its input, one a line, and tells each
that is done.

Runs as a process of its own, since compiling keeps the interpreter busy for seconds at a time and what computes needs
no compiler."""

from __future__ import annotations

import importlib
import sys
from typing import Any

from .library import UNUSED, Kept, file_of

SHAPES = {"F": "float64", "I": "int64"}
KNOWN = frozenset(
    [
        "acos",
        "cos",
        "exp",
        "expm1",
        "fabs",
        "hypot",
        "log",
        "log1p",
        "memcpy",
        "memmove",
        "memset",
        "pow",
        "sin",
        "sqrt",
        "tanh",
    ]
)
"""Functions of C that kernels may call."""


def compiled(name: str) -> Kept:
    """Return a kernel compiled."""
    import numba

    module = importlib.import_module(f".source.{file_of(name)}", __package__)
    marks = importlib.import_module(".source.marks", __package__)
    function = marks.ENTRIES[name]
    letters, result = marks.letters_of(function)
    returned = {"f": "float64", "i": "int64"}[result]
    types, names, given = [], [], []
    for k, letter in enumerate(letters):
        if letter[0] in SHAPES:
            axes = [f"a{k}_{i}" for i in range(int(letter[1]))]
            types += [f"CPointer({SHAPES[letter[0]]})", *["int64"] * len(axes)]
            names += [f"a{k}", *axes]
            given.append(f"carray(a{k}, ({', '.join(axes)},))")
        else:
            types.append({"p": "CPointer(float64)", "i": "int64", "f": "float64"}[letter])
            names.append(f"a{k}")
            given.append(f"a{k}")
    space: dict[str, Any] = {"work": marks.inner(function), "carray": numba.carray}
    code = f"def {name}({', '.join(names)}):\n    return work({', '.join(given)})\n"
    exec(compile(code, module.__file__ or "", "exec"), space)
    made = numba.cfunc(f"{returned}({', '.join(types)})", **marks.OPTIONS)(space[name])
    declared = {f.name for f in made._library._final_module.functions if f.is_declaration}
    needs = sorted(d.removeprefix(marks.PREFIX) for d in declared if d.startswith(marks.PREFIX))
    wanted = {d for d in declared if not d.startswith(("llvm.", "Py", "_Py", marks.PREFIX))} - set(UNUSED) - KNOWN
    if wanted:
        raise RuntimeError(f"the kernel {name} needs what is not there where it runs: {', '.join(sorted(wanted))}")
    _, _, (data, _) = made._library.serialize_using_object_code()
    return Kept(made._wrapper_name, letters, returned == "float64", tuple(needs), data)


def main() -> None:
    """Compile what is asked for."""
    for line in sys.stdin:
        name = line.strip()
        compiled(name).store(name)
        sys.stdout.write(name + "\n")
        sys.stdout.flush()


if __name__ == "__main__":
    main()
