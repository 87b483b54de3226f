"""Cryonome: petroleum fluids from lab data to answers. From Python, :func:`open` and :func:`open_demo` return a
project."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .scripting import Project

__version__ = "0.19.0"


def open(source: str | Path) -> Project:
    """Return the project of a document's file, or of its text; see :mod:`cryonome.scripting`."""
    from .scripting import open_project

    return open_project(source)


def open_demo() -> Project:
    """Return the demo project."""
    from .scripting import demo_project

    return demo_project()
