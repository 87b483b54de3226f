"""Where compiled kernels are kept, how they are loaded and called.

A kernel is compiled once for a processor and a source (:mod:`.building`) and kept as a file of machine code, in the
package where that can be written to, else in the user's cache. Loading one takes a millisecond and needs neither
compiler nor Numba; calls let go of the interpreter. What is missing when it is first called is compiled then
(:mod:`.compiling`)."""

from __future__ import annotations

import ctypes
import functools
import hashlib
import json
import os
import re
import tempfile
import threading
from collections.abc import Sequence
from dataclasses import dataclass
from importlib import metadata
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..watch import UNWATCHED, Watch

PLAIN = os.environ.get("CRYONOME_KERNELS") == "plain"
"""Whether kernels run as they are written, without a compiler."""
SOURCE = Path(__file__).with_name("source")
ENDING = ".kernel"


@functools.cache
def sources() -> dict[str, str]:
    return {path.stem: path.read_text(encoding="utf-8") for path in sorted(SOURCE.glob("*.py"))}


@functools.cache
def names() -> dict[str, str]:
    """Return every kernel that is compiled for itself with the name of its file."""
    found = {}
    for file, text in sources().items():
        for match in re.finditer(r"^@(?:entry|tabled|unit)\ndef (\w+)", text, re.MULTILINE):
            found[match.group(1)] = file
    return found


def file_of(name: str) -> str:
    """Return the file of a kernel."""
    return names()[name]


@functools.cache
def _reached(file: str) -> frozenset[str]:
    """Return a file with all it imports of its own kind."""
    out, todo = {file}, [file]
    while todo:
        text = sources()[todo.pop()]
        for match in re.finditer(r"^from \.(\w*) import ([^(\n]*)", text, re.MULTILINE):
            whole = (
                [match.group(1)] if match.group(1) else [w.split(" as ")[0].strip() for w in match.group(2).split(",")]
            )
            for name in whole:
                if name in sources() and name not in out:
                    out.add(name)
                    todo.append(name)
    return frozenset(out)


@functools.cache
def _machine() -> str:
    """Return what compiled code hangs on beside its source."""
    import llvmlite.binding as llvm

    own = llvm.get_host_cpu_name(), sorted(k for k, v in llvm.get_host_cpu_features().items() if v)
    builder = (Path(__file__).with_name("building.py")).read_text(encoding="utf-8")
    return json.dumps([metadata.version("numba"), metadata.version("llvmlite"), own, builder])


@functools.cache
def _key(file: str) -> str:
    told = hashlib.sha256(_machine().encode())
    for part in sorted(_reached(file)):
        told.update(sources()[part].encode())
    return told.hexdigest()[:20]


@functools.cache
def folders() -> tuple[Path, ...]:
    """Return where kernels are looked for: the package's own folder, the user's cache."""
    import platformdirs

    given = os.environ.get("CRYONOME_KERNELS")
    if given:
        return (Path(given),)
    return Path(__file__).with_name("compiled"), Path(platformdirs.user_cache_dir("cryonome")) / "kernels"


@dataclass(frozen=True)
class Kept:
    """A compiled kernel: the name of its symbol, the letters of its arguments, whether it returns a float, the units it
    calls, and its machine code."""

    symbol: str
    letters: tuple[str, ...]
    floating: bool
    needs: tuple[str, ...]
    code: bytes

    def store(self, name: str) -> None:
        """Keep it under its name, in the first folder that can be written to; whole or not at all."""
        told = {
            "symbol": self.symbol,
            "letters": self.letters,
            "floating": self.floating,
            "needs": self.needs,
            "sha256": hashlib.sha256(self.code).hexdigest(),
        }
        head = json.dumps(told).encode()
        for folder in folders():
            try:
                folder.mkdir(parents=True, exist_ok=True)
                with tempfile.NamedTemporaryFile(dir=folder, delete=False) as out:
                    out.write(head + b"\n" + self.code)
                Path(out.name).replace(folder / f"{name}-{_key(file_of(name))}{ENDING}")
            except OSError:
                continue
            return
        raise OSError(f"no folder for compiled kernels can be written to: {', '.join(map(str, folders()))}")

    @staticmethod
    def found(name: str) -> Kept | None:
        """Return the kernel of that name where it is kept, whole."""
        for folder in folders():
            try:
                head, code = (folder / f"{name}-{_key(file_of(name))}{ENDING}").read_bytes().split(b"\n", 1)
                told = json.loads(head)
                if told["sha256"] != hashlib.sha256(code).hexdigest():
                    continue
                return Kept(told["symbol"], tuple(told["letters"]), told["floating"], tuple(told["needs"]), code)
            except (OSError, ValueError, KeyError):
                continue
        return None


UNUSED = (
    "NRT_Free",
    "NRT_MemInfo_call_dtor",
    "numba_do_raise",
    "numba_gil_ensure",
    "numba_gil_release",
    "numba_runtime_build_excinfo_struct",
    "numba_unpickle",
)
"""Functions of the compiler's runtime that compiled code names in ways it never takes."""

_char, _addressof = ctypes.c_char.from_buffer, ctypes.addressof


def address(values: NDArray[Any]) -> int:
    """Return where an array begins."""
    try:
        # Seven times as quick as asking the array.
        return _addressof(_char(values))  # type: ignore[arg-type]
    except (TypeError, ValueError):
        return int(values.__array_interface__["data"][0])


CHARACTERS = {"F": "d", "I": np.dtype(np.int64).char}

_lock = threading.RLock()
_engines: list[Any] = []


@functools.cache
def _machine_target() -> Any:
    import llvmlite.binding as llvm

    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    # What a wrapper calls where its kernel raises or gives memory back; none does.
    nothing = ctypes.CFUNCTYPE(None)(lambda: None)
    _engines.append(nothing)
    for name in UNUSED:
        llvm.add_symbol(name, ctypes.cast(nothing, ctypes.c_void_p).value)
    return llvm.Target.from_default_triple().create_target_machine(jit=True)


class Kernel:
    """A compiled kernel: call it with arrays and numbers in the order of its arguments."""

    def __init__(self, name: str, kept: Kept, address: int) -> None:
        self.name, self.letters, self.address = name, kept.letters, address
        types: list[Any] = []
        for letter in kept.letters:
            if letter[0] in "FI":
                types += [ctypes.c_void_p, *[ctypes.c_ssize_t] * int(letter[1])]
            else:
                types.append({"p": ctypes.c_void_p, "i": ctypes.c_ssize_t, "f": ctypes.c_double}[letter])
        self._function = ctypes.CFUNCTYPE(ctypes.c_double if kept.floating else ctypes.c_ssize_t, *types)(address)

    def bound(self, letters: Sequence[str], values: Sequence[Any]) -> list[Any]:
        """Return what is passed for values: an array as its place and shape. Raises TypeError where one is not what
        the kernel takes."""
        passed: list[Any] = []
        for letter, value in zip(letters, values, strict=True):
            if len(letter) == 1:
                passed.append(value)
                continue
            if (
                value.dtype.char != CHARACTERS[letter[0]]
                or value.ndim != int(letter[1])
                or not value.flags.c_contiguous
            ):
                raise TypeError(f"{self.name} takes {letter}, not {value.dtype} of shape {value.shape}")
            passed += (address(value), *value.shape)
        return passed

    def __call__(self, *values: Any) -> Any:
        return self._function(*self.bound(self.letters, values))

    def over(self, n: int, memory: int, values: Sequence[Any], watch: Watch = UNWATCHED, *, block: int = 64) -> None:
        """Run rows 0 to n of a kernel whose first arguments are ``lo``, ``hi`` and work of ``memory`` numbers: in
        blocks, over all processors.

        What comes of a row does not depend on the others, so the number of threads changes no bit. Raises Cancelled
        where ``watch`` says so, between blocks."""
        from . import pool

        passed = self.bound(self.letters[3:], values)

        def work(lo: int, hi: int) -> None:
            own = np.empty(max(memory, 1))
            self._function(lo, hi, address(own), memory, *passed)

        pool.in_blocks(work, n, block, watch)


@functools.cache
def _loaded(name: str) -> Kernel:
    with _lock:
        kept = Kept.found(name)
        if kept is None:
            from .compiling import compile_all

            compile_all()
            kept = Kept.found(name)
            if kept is None:
                raise RuntimeError(f"the kernel {name} could not be compiled")
        import llvmlite.binding as llvm

        machine = _machine_target()
        for need in kept.needs:
            llvm.add_symbol(f"cryonome_{need}", kernel(need).address)
        engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), machine)
        engine.add_object_file(llvm.ObjectFileRef.from_data(kept.code))
        engine.finalize_object()
        _engines.append(engine)
        return Kernel(name, kept, engine.get_function_address(kept.symbol))


def kernel(name: str) -> Kernel:
    """Return a kernel, loaded, and compiled first where it never was; as it is written where that is asked for."""
    return _plain(name) if PLAIN else _loaded(name)


@functools.cache
def _plain(name: str) -> Any:
    from .plain import PlainKernel

    return PlainKernel(name)


@functools.cache
def table(family: str) -> NDArray[np.int64]:
    """Return the addresses of an equation's functions in the order of ``source/table.py``; those it has not are
    zero."""
    order = re.search(r"^ORDER = \(([^)]*)\)", sources()["table"], re.MULTILINE)
    assert order is not None
    places = re.findall(r'"(\w+)"', order.group(1))
    own = [f"{family}_{place}" for place in places]
    return np.array([kernel(name).address if name in names() else 0 for name in own], dtype=np.int64)
