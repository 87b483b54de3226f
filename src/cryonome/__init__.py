"""Cryonome: petroleum fluids from lab data to answers. From Python, :func:`open` and :func:`open_demo` return a
project."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from .version import VERSION

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator
    from concurrent.futures import Executor
    from typing import Any

    from .many import DocumentLike
    from .scripting import Project

__version__ = VERSION


def open(source: str | Path) -> Project:
    """Return the project of a document's file, or of its text; see :mod:`cryonome.scripting`."""
    from .scripting import open_project

    return open_project(source)


def solve_many(
    documents: Iterable[DocumentLike], executor: Executor | None = None, studies: tuple[str, ...] = ()
) -> Iterator[dict[str, Any]]:
    """Yield the answers of many documents in their order, by the workers of an executor where one is given; see
    :mod:`cryonome.many`."""
    from .many import solve_many as solve

    return solve(documents, executor, studies)


def open_demo() -> Project:
    """Return the demo project."""
    from .scripting import demo_project

    return demo_project()
