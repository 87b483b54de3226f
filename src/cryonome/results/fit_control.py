"""Who follows fits as they go on, and may end them with the best they have."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field


@dataclass
class FitControl:
    """``told`` gets the name of a match and how far it is; ``ended`` holds the names of those that are to end with
    what they have."""

    told: Callable[[str, object], None] | None = None
    ended: set[str] = field(default_factory=set)

    def tell(self, name: str, moving: Callable[[], object]) -> None:
        """Tell who follows, where anybody does; what is told is made for that alone."""
        if self.told is not None:
            self.told(name, moving())
