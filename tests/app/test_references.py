"""The Qt binding keeps its references: one that does not ends the program after some minutes of work."""

from __future__ import annotations

import sys

from PySide6.QtWidgets import QLabel

CALLS = 5000


def test_calls_into_qt_do_not_lose_references_to_none(qtbot):
    label = QLabel()
    qtbot.addWidget(label)
    before = sys.getrefcount(None)
    for _ in range(CALLS):
        label.setText("x")
    # A binding that loses one a call is down by all of them; other threads may free a few meanwhile.
    assert sys.getrefcount(None) > before - CALLS // 2
