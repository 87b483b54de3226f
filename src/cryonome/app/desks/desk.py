"""What every desk shares: it is brought up to date when it is seen, not while it is hidden."""

from __future__ import annotations

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QWidget

from ..theme import LIGHT, Theme


class Desk(QWidget):
    """A page of the window. Subclasses implement :meth:`refresh` and are asked through :meth:`update_desk`."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.theme: Theme = LIGHT
        self._behind = True

    def refresh(self) -> None:
        """Show the present results."""
        raise NotImplementedError

    def update_desk(self) -> None:
        """Refresh now where the desk is seen, else when it is opened."""
        if self.isVisible():
            self._behind = False
            self.refresh()
        else:
            self._behind = True

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._behind:
            self._behind = False
            self.refresh()
