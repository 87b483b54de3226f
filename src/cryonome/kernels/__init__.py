"""Compiled kernels: what runs for every state. :mod:`.library` loads and calls them, ``source/`` is how they are written."""

from .library import Kernel, compile_all, kernel, missing, table

__all__ = ["Kernel", "compile_all", "kernel", "missing", "table"]
