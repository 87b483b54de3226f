"""Pure components and the description every component shares."""

from .component import Component
from .databank import all_components
from .lookup import UnknownComponentError, find, search, suggestions
from .names import Named, named

__all__ = ["Component", "Named", "UnknownComponentError", "all_components", "find", "named", "search", "suggestions"]
