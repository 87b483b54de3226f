"""The colours of a quantity from low to high, in the hand of the theme."""

from __future__ import annotations

from PySide6.QtGui import QColor

from .theme import Theme

GROUND = 0.42
"""How far the colour behind a number goes, so that the number stays readable."""


def heat(theme: Theme, share: float, most: float = 0.92) -> QColor:
    """Return the colour of a ``share`` between 0 and 1, from the ground to the accent."""
    w = most * min(max(share, 0.0), 1.0)
    low, high = QColor(theme.surface), QColor(theme.accent)
    pairs = ((low.red(), high.red()), (low.green(), high.green()), (low.blue(), high.blue()))
    return QColor(*(round((1.0 - w) * a + w * b) for a, b in pairs))
