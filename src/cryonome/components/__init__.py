"""Pure components and the description every component shares."""

from .component import Component
from .databank import UnknownComponentError, all_components, find, search, suggestions

__all__ = ["Component", "UnknownComponentError", "all_components", "find", "search", "suggestions"]
