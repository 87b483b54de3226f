"""What the window shows, in the reader's language: the one place where its texts pass on their way to Qt.

Labels, buttons, menus, tips and names for screen readers are given English. Where another language is chosen, the
functions of Qt that take a text are led through the phrasebook; where none is, nothing here is called."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import wraps
from html import escape, unescape
from typing import Any

import pyqtgraph as pg
from PySide6.QtGui import QAction, QPainter
from PySide6.QtWidgets import (
    QAbstractButton,
    QCheckBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QMenu,
    QMenuBar,
    QMessageBox,
    QPlainTextEdit,
    QPushButton,
    QRadioButton,
    QToolButton,
    QWidget,
)

from ...language import said

BETWEEN = re.compile(r"(?<=>)[^<>]+")

TAKERS: tuple[tuple[type, tuple[str, ...]], ...] = (
    (QLabel, ("__init__", "setText")),
    *((button, ("__init__",)) for button in (QPushButton, QCheckBox, QRadioButton)),
    (QAbstractButton, ("setText",)),
    (QToolButton, ("setText",)),
    (QAction, ("__init__", "setText", "setToolTip")),
    (QMenu, ("addAction", "addMenu", "setTitle")),
    (QMenuBar, ("addMenu",)),
    (QComboBox, ("addItem", "setItemText", "setPlaceholderText")),
    (QLineEdit, ("setPlaceholderText",)),
    (QPlainTextEdit, ("setPlaceholderText",)),
    (QMessageBox, ("setText", "setInformativeText")),
    (QWidget, ("setToolTip", "setAccessibleName", "setWindowTitle")),
    (pg.TextItem, ("setText", "setPlainText")),
    (pg.LabelItem, ("setText",)),
)
"""Classes with those of their functions whose first text is shown."""


def speak() -> Callable[[], None]:
    """Lead every text that the window shows through the phrasebook; what is returned leaves them as they are again."""
    before: list[tuple[type, str, Any]] = []
    for owner, names in TAKERS:
        for name in names:
            before.append((owner, name, vars(owner).get(name)))
            setattr(owner, name, _led(getattr(owner, name)))
    before.append((QPainter, "drawText", vars(QPainter).get("drawText")))
    QPainter.drawText = _led(QPainter.drawText)  # type: ignore[method-assign]

    def as_before() -> None:
        for owner, name, own in reversed(before):
            if own is None:
                delattr(owner, name)
            else:
                setattr(owner, name, own)

    return as_before


def _of_words(text: str) -> str:
    """Return a text in the reader's language; of one with marks of layout what stands between them."""
    if not text.startswith("<"):
        return said(text)
    return BETWEEN.sub(lambda m: escape(said(unescape(m[0])), quote=False), text)


def _led(taker: Callable[..., Any]) -> Callable[..., Any]:
    """Return a function whose first text is told in the reader's language."""

    @wraps(taker)
    def told(*given: Any, **named: Any) -> Any:
        for i, value in enumerate(given):
            if isinstance(value, str):
                return taker(*given[:i], _of_words(value), *given[i + 1 :], **named)
        return taker(*given, **named)

    return told
