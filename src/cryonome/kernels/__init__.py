"""Compiled kernels: what runs for every state. :mod:`.library` loads and calls them, ``source/`` is how they are
written."""

from .compiling import compile_all, give_up, listeners, missing, ready
from .library import Kernel, kernel, table

__all__ = ["Kernel", "compile_all", "give_up", "kernel", "listeners", "missing", "ready", "table"]
