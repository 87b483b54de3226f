"""The kinds of questions, one file each. A file registers its kind where it is imported; nothing else names it, and
each is imported when it is asked for."""

import importlib
import pkgutil

from ...document.kinds import Source, give

give(
    Source(
        names=lambda: frozenset(found.name for found in pkgutil.iter_modules(__path__)),
        load=lambda name: importlib.import_module(f".{name}", __name__),
    )
)
