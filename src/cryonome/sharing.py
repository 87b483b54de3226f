"""Work shared among processes, here or elsewhere: any executor of ``concurrent.futures`` does it, in order, and no
task is lost with a worker."""

from __future__ import annotations

import logging
import multiprocessing
import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from typing import Any

log = logging.getLogger(__name__)

AHEAD = 64
"""Tasks that are handed out before the first of them is back: what is waiting in memory."""
THREADS = "CRYONOME_THREADS"
"""Says how many threads the kernels of a process take."""


@dataclass(frozen=True)
class Lost:
    """What is left of a task that ended whoever worked on it, twice."""

    reason: str


def in_order(
    work: Callable[..., Any], tasks: Iterable[tuple[Any, ...]], executor: Executor, ahead: int = AHEAD
) -> Iterator[Any]:
    """Yield what ``work`` makes of each task's arguments, in their order, ``ahead`` of them underway at a time.

    ``work`` is a function of a module and tells of failures by what it returns, so an error means that a worker was
    lost: its task is done again by itself, in a process of its own, and one that ends that as well comes back as
    :class:`Lost`. An executor that is broken for good costs its tasks nothing but time."""
    waiting: deque[tuple[Future[Any] | None, tuple[Any, ...]]] = deque()
    alone = _Alone()
    try:
        for task in tasks:
            waiting.append((_handed(executor, work, task), task))
            while len(waiting) >= ahead:
                yield _result(waiting.popleft(), work, alone)
        while waiting:
            yield _result(waiting.popleft(), work, alone)
    finally:
        for future, _ in waiting:
            if future is not None:
                future.cancel()
        alone.end()


def _handed(executor: Executor, work: Callable[..., Any], task: tuple[Any, ...]) -> Future[Any] | None:
    try:
        return executor.submit(work, *task)
    except RuntimeError as error:
        log.warning("the workers take nothing more (%s); this goes on in a process of its own", error)
        return None


def _result(handed: tuple[Future[Any] | None, tuple[Any, ...]], work: Callable[..., Any], alone: _Alone) -> Any:
    future, task = handed
    if future is not None:
        try:
            return future.result()
        # Executors raise errors of many kinds when a worker is gone.
        except Exception as error:
            log.warning("a worker was lost (%s: %s); its work is done again", type(error).__name__, error)
    return alone.result(work, task)


class _Alone:
    """A process for one task at a time."""

    def __init__(self) -> None:
        self._pool: ProcessPoolExecutor | None = None

    def result(self, work: Callable[..., Any], task: tuple[Any, ...]) -> Any:
        """Return what a task gives, :class:`Lost` where it ends the process."""
        if self._pool is None:
            self._pool = processes(1)
        try:
            return self._pool.submit(work, *task).result()
        except BrokenProcessPool:
            self._pool = None
            return Lost("the process that worked on it ended, twice")

    def end(self) -> None:
        """Let the process go."""
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)


def processes(count: int) -> ProcessPoolExecutor:
    """Return a pool of fresh processes, which share the processors among them."""
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    share = max(1, (os.cpu_count() or 1) // count)
    return ProcessPoolExecutor(count, multiprocessing.get_context("spawn"), _share_processors, (share,))


def _share_processors(threads: int) -> None:
    os.environ[THREADS] = str(threads)


class Workers(Executor):
    """A pool of ``count`` processes that is made anew where one of them is lost."""

    def __init__(self, count: int) -> None:
        self._count = count
        self._pool = processes(count)

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        """Hand a task to the pool."""
        try:
            return self._pool.submit(fn, *args, **kwargs)
        except BrokenProcessPool:
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = processes(self._count)
            return self._pool.submit(fn, *args, **kwargs)

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """End the processes."""
        self._pool.shutdown(wait, cancel_futures=cancel_futures)
