"""The program's icon."""

from __future__ import annotations

from PySide6.QtGui import QIcon

from ..desktop import HERE


def icon() -> QIcon:
    """Return the icon, drawn as large as it is wanted."""
    return QIcon(str(HERE / "cryonome.svg"))
