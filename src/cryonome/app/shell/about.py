"""What this program is: versions, and where it keeps its log, settings and kernels."""

from __future__ import annotations

import platform
from collections.abc import Sequence
from importlib.metadata import PackageNotFoundError, version

import PySide6
from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QDesktopServices, QGuiApplication
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from ...kernels.library import folders
from ...logs import log_file, settings_file
from ...version import VERSION

PACKAGES = ("numpy", "scipy", "pint", "pydantic", "openpyxl", "pyqtgraph")


def facts() -> list[tuple[str, str]]:
    """Return what is told, name by name."""
    found = [("Cryonome", VERSION), ("Python", platform.python_version()), ("Qt for Python", PySide6.__version__)]
    for name in PACKAGES:
        try:
            found.append((name, version(name)))
        except PackageNotFoundError:
            continue
    found += [("system", platform.platform()), ("log", str(log_file())), ("settings", str(settings_file()))]
    return [*found, ("compiled kernels", str(next((f for f in folders() if f.is_dir()), folders()[-1])))]


class About(QDialog):
    """Versions and places, to be read and copied."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("About Cryonome")
        self.facts: Sequence[tuple[str, str]] = facts()
        heading = QLabel(f"Cryonome {VERSION}")
        heading.setObjectName("title")
        below = QLabel("Petroleum fluids, from lab data to answers. Apache License 2.0.")
        below.setObjectName("mute")
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        for row, (name, text) in enumerate(self.facts[1:]):
            title, value = QLabel(name), QLabel(text)
            title.setObjectName("mute")
            value.setTextFormat(Qt.TextFormat.PlainText)
            value.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            value.setWordWrap(True)
            value.setMinimumWidth(360)
            grid.addWidget(title, row, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(value, row, 1)
        copy, log, done = QPushButton("copy all"), QPushButton("open the log's folder"), QPushButton("close  Esc")
        for button in (copy, log):
            button.setObjectName("link")
        done.setObjectName("quiet")
        copy.clicked.connect(self.copy)
        log.clicked.connect(self.open_log)
        done.clicked.connect(self.accept)
        row_of_buttons = QHBoxLayout()
        for button in (copy, log):
            row_of_buttons.addWidget(button)
        row_of_buttons.addStretch(1)
        row_of_buttons.addWidget(done)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 20, 24, 16)
        layout.addWidget(heading)
        layout.addWidget(below)
        layout.addSpacing(8)
        layout.addLayout(grid)
        layout.addSpacing(8)
        layout.addLayout(row_of_buttons)

    def copy(self) -> None:
        """Copy everything as text."""
        QGuiApplication.clipboard().setText("\n".join(f"{name}: {text}" for name, text in self.facts))

    def open_log(self) -> None:
        """Open the folder of the log in the desktop's file manager."""
        folder = log_file().parent
        folder.mkdir(parents=True, exist_ok=True)
        QDesktopServices.openUrl(QUrl.fromLocalFile(str(folder)))
