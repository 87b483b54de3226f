"""Compiling what is missing, by processes of their own: it takes a minute once, and keeps neither a window nor a
thread's interpreter busy meanwhile."""

from __future__ import annotations

import contextlib
import os
import subprocess
import sys
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from .library import Kept, file_of, names, sources

listeners: list[Callable[[int, int], None]] = []
"""Called with how many kernels are compiled and how many there are to be, while that lasts; from any thread."""


class NotCompiled(RuntimeError):
    """A kernel could not be compiled, or nobody waits for it any more."""


def missing() -> list[str]:
    """Return the kernels that are not compiled yet."""
    return [name for name in names() if Kept.found(name) is None]


_whole: list[bool] = []


def ready() -> bool:
    """Tell whether every kernel is compiled, so that none keeps its caller waiting."""
    if not _whole and not missing():
        _whole.append(True)
    return bool(_whole)


_at_work: list[subprocess.Popen[str]] = []


def give_up() -> None:
    """End what is being compiled: nobody waits for it any more."""
    for process in list(_at_work):
        process.terminate()


def compile_all(progress: Callable[[int, int], None] = lambda done, all_: None) -> None:
    """Compile what is missing, with as many processes as the machine has processors. Raises NotCompiled where that
    fails or was given up."""
    todo = missing()
    if not todo:
        return
    # What takes longest comes first, from the end.
    todo.sort(key=lambda name: len(sources()[file_of(name)]))
    whole, done, lock = len(todo), 0, threading.Lock()

    def tell(more: int) -> None:
        nonlocal done
        done += more
        for hear in (progress, *listeners):
            hear(done, whole)

    def one_process() -> None:
        command = [sys.executable, "-m", f"{__package__}.building"]
        process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        _at_work.append(process)
        try:
            assert process.stdin is not None
            assert process.stdout is not None
            while True:
                with lock:
                    name = todo.pop() if todo else None
                if name is None:
                    break
                try:
                    process.stdin.write(name + "\n")
                    process.stdin.flush()
                    made = process.stdout.readline().strip()
                except OSError:
                    made = ""
                if made != name:
                    raise NotCompiled(f"the solver {name} could not be compiled; python -m cryonome.kernels tells why")
                with lock:
                    tell(1)
        finally:
            process.terminate()
            _at_work.remove(process)
            for pipe in (process.stdin, process.stdout):
                # A process that ended by itself leaves a pipe that cannot be emptied.
                with contextlib.suppress(OSError):
                    pipe.close()  # type: ignore[union-attr]
            process.wait()

    tell(0)
    count = max(1, min(os.cpu_count() or 1, whole))
    with ThreadPoolExecutor(count) as pool:
        for each in [pool.submit(one_process) for _ in range(count)]:
            each.result()
