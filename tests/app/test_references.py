"""The Qt binding keeps its references: one that does not ends the program after some minutes of work."""

from __future__ import annotations

import sys


def test_calls_into_qt_do_not_lose_references_to_none(window):
    before = sys.getrefcount(None)
    for _ in range(20):
        window.shelf.refresh()
        window.trail.update()
    assert sys.getrefcount(None) > before - 50
