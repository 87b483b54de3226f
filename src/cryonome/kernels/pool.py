"""The one pool of threads for compiled work. Kernels let go of the interpreter, so the window keeps its turn while
they run."""

from __future__ import annotations

import contextlib
import functools
import os
import threading
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait

from ..watch import UNWATCHED, Watch

STEPS = 8
"""Blocks that each processor gets of a batch, so that they end together."""

LARGEST = 1024
"""Rows of a block at most, so that progress is seen and cancelling is quick."""


@functools.cache
def _processors() -> int:
    return os.cpu_count() or 1


def _workers() -> int:
    given = os.environ.get("CRYONOME_THREADS")
    return max(1, int(given)) if given else _processors()


def _modest() -> None:
    # Whoever waits for the pool, and the window, come first.
    with contextlib.suppress(OSError, AttributeError):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), 5)


@functools.cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(_workers(), "kernels", _modest)


def in_blocks(work: Callable[[int, int], None], n: int, block: int, watch: Watch = UNWATCHED) -> None:
    """Call ``work(lo, hi)`` for contiguous rows of n, of ``block`` rows at least; a single block runs in the calling
    thread. Raises Cancelled."""
    watch.check()
    if n <= block:
        if n:
            work(0, n)
        watch.at(1.0)
        return
    size = min(max(block, -(-n // (STEPS * _workers()))), LARGEST)
    if _workers() == 1:
        for lo in range(0, n, size):
            watch.at(lo / n)
            work(lo, min(lo + size, n))
        watch.at(1.0)
        return
    starts = iter(range(0, n, size))
    running: set[Future[None]] = set()
    finished, blocks = 0, -(-n // size)
    try:
        for lo in starts:
            running.add(_pool().submit(work, lo, min(lo + size, n)))
            if len(running) < 2 * _workers():
                continue
            done, running = wait(running, return_when=FIRST_COMPLETED)
            finished += len(done)
            for each in done:
                each.result()
            watch.at(finished / blocks)
    finally:
        # What runs writes into the caller's arrays: it is waited for, whatever happened.
        wait(running)
    for each in running:
        each.result()
    watch.at(1.0)
