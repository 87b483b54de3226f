"""The size of letters, and of what is measured by them: rows, cards and fields grow with the letters of the reader."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QFont, QFontDatabase, QGuiApplication
from PySide6.QtWidgets import QApplication, QWidget

POINTS = 9.5
"""The usual size of letters, which the style sheet is made for."""
USUAL = "usual sizes"
STEP, LEAST, MOST = 0.1, 0.8, 2.0
"""How letters grow at each step, and between which sizes, beside the usual one."""
LETTERS = "letters"
"""The name of the setting."""
SIZES: dict[str, Callable[[QWidget, int], None]] = {
    "fixed_width": QWidget.setFixedWidth,
    "fixed_height": QWidget.setFixedHeight,
    "least_width": QWidget.setMinimumWidth,
    "least_height": QWidget.setMinimumHeight,
    "most_width": QWidget.setMaximumWidth,
    "most_height": QWidget.setMaximumHeight,
}


def base_font(points: float = POINTS) -> QFont:
    """Return the text font: Inter where it is installed, else the system's sans, with tabular figures."""
    family = "Inter" if "Inter" in QFontDatabase.families() else ""
    font = QFont(family) if family else QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont)
    font.setPointSizeF(points)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


def in_steps(scale: float) -> float:
    """Return a scale of letters as one of the steps between the least and the most."""
    return min(max(round(scale / STEP) * STEP, LEAST), MOST)


def remembered(setting: object) -> float:
    """Return the scale of letters that a file of settings holds, the usual one where it holds anything else."""
    try:
        return in_steps(float(str(setting)))
    except (ValueError, OverflowError):
        return 1.0


def point_size(usual: float) -> float:
    """Return a size of letters in points, from what it is beside letters of the usual size."""
    return usual * QApplication.font().pointSizeF() / POINTS


def letter_scale() -> float:
    """Return how many times as large as usual letters are on the screen: by their size, and by what the desktop makes
    of a point."""
    screen = QGuiApplication.primaryScreen()
    dots = screen.logicalDotsPerInch() / 96.0 if screen is not None else 1.0
    return QApplication.font().pointSizeF() / POINTS * dots


def pixels(usual: float) -> int:
    """Return a length in pixels, from what it is beside letters of the usual size."""
    return round(usual * letter_scale())


def sized(widget: QWidget, **usual: int) -> None:
    """Give a widget sizes of :data:`SIZES` in pixels beside letters of the usual size; it keeps them as letters grow."""
    widget.setProperty(USUAL, usual)
    _fit(widget, usual)


def fit_sizes(window: QWidget) -> None:
    """Give every widget of a window that has a usual size the one that goes with the letters now."""
    for widget in window.findChildren(QWidget):
        usual = widget.property(USUAL)
        if usual:
            _fit(widget, usual)


def _fit(widget: QWidget, usual: dict[str, int]) -> None:
    for name, length in usual.items():
        SIZES[name](widget, pixels(length))
