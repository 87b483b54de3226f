"""Colours, type and the style sheet of the light and the dark theme."""

from __future__ import annotations

import re
from pathlib import Path

from PySide6.QtGui import QColor, QPalette
from PySide6.QtWidgets import QApplication, QWidget

from ...telling import colours
from ...telling.colours import Colours
from .letters import fit_sizes, letter_scale

ICONS = (Path(__file__).parents[1] / "icons").as_posix()


class Theme(Colours):
    """The colours of one theme, for Qt."""

    def phase(self, fraction: float) -> QColor:
        """Return the colour of a vapour fraction."""
        return QColor(self.of_share(fraction))


LIGHT, DARK = Theme(**vars(colours.LIGHT)), Theme(**vars(colours.DARK))


def apply_theme(app: QApplication, window: QWidget, theme: Theme) -> None:
    """Give the application the palette of a theme, and a window and its dialogs the style sheet.

    The sheet hangs on the window: on the application Qt polishes every widget several times over, which takes seconds.
    """
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: theme.paper,
        QPalette.ColorRole.Base: theme.surface,
        QPalette.ColorRole.AlternateBase: theme.sunk,
        QPalette.ColorRole.Text: theme.ink,
        QPalette.ColorRole.WindowText: theme.ink,
        QPalette.ColorRole.ButtonText: theme.ink,
        QPalette.ColorRole.Button: theme.surface,
        QPalette.ColorRole.Highlight: theme.accent,
        QPalette.ColorRole.HighlightedText: theme.surface,
        QPalette.ColorRole.ToolTipBase: theme.surface,
        QPalette.ColorRole.ToolTipText: theme.ink,
        QPalette.ColorRole.PlaceholderText: theme.mute,
        QPalette.ColorRole.Link: theme.accent,
    }
    for role, colour in roles.items():
        palette.setColor(role, QColor(colour))
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.WindowText, QPalette.ColorRole.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(theme.mute))
    app.setPalette(palette)
    window.setStyleSheet(lettered(style_sheet(theme), letter_scale()))
    fit_sizes(window)


def lettered(sheet: str, times: float) -> str:
    """Return a style sheet with its letters so many times as large: they go with those of the application."""
    return re.sub(r"font-size: (\d+)px", lambda m: f"font-size: {round(int(m.group(1)) * times)}px", sheet)


def style_sheet(t: Theme) -> str:
    """Return the style sheet: one rule colour, no box around a box."""
    return f"""
QWidget {{ color: {t.ink}; }}
QMainWindow, QWidget#page {{ background: {t.paper}; }}
QMenuBar {{ background: {t.paper}; border-bottom: 1px solid {t.hair}; padding: 2px 8px; }}
QMenuBar::item {{ padding: 4px 10px; background: transparent; border-radius: 4px; }}
QMenuBar::item:selected {{ background: {t.tint}; }}
QTreeWidget {{ background: {t.surface}; }}
QTreeWidget::item:selected {{ background: {t.tint}; color: {t.ink}; }}
QMenu {{ background: {t.surface}; border: 1px solid {t.hair}; padding: 4px; }}
QMenu::item {{ padding: 5px 24px 5px 22px; border-radius: 4px; }}
QMenu::item:selected {{ background: {t.tint}; color: {t.ink}; }}
QMenu::item:disabled {{ color: {t.mute}; }}
QMenu::separator {{ height: 1px; background: {t.hair}; margin: 4px 8px; }}
QToolTip {{ background: {t.surface}; color: {t.ink}; border: 1px solid {t.hair}; padding: 4px; }}
QFrame#trail {{ background: {t.surface}; border-bottom: 1px solid {t.hair}; }}
QFrame#shelf {{ background: {t.paper}; border-right: 1px solid {t.hair}; }}
QFrame#ledger {{ background: {t.surface}; border-top: 1px solid {t.hair}; }}
QLabel#title {{ font-size: 20px; font-weight: 700; }}
QLabel#title2 {{ font-size: 14px; font-weight: 600; }}
QLabel#answer {{ font-size: 16px; font-weight: 700; }}
QLabel#answer[old="true"] {{ color: {t.mute}; }}
QLabel#said {{ font-size: 15px; }}
QLabel#saidquiet {{ font-size: 15px; color: {t.mute}; }}
QFrame#blank {{ background: {t.tint}; border: none; border-bottom: 2px solid {t.accent}; }}
QFrame#blank[quiet="true"] {{ background: transparent; border-bottom: 1px dotted {t.mute}; }}
QFrame#blank[fault="true"] {{ background: {t.fault_ground}; border-bottom: 2px solid {t.fault}; }}
QFrame#blank QLineEdit {{ background: transparent; border: none; padding: 0 1px; font-size: 15px; font-weight: 600; color: {t.accent}; }}
QFrame#blank QLineEdit[quiet="true"] {{ color: {t.mute}; font-weight: 500; }}
QFrame#blank QLineEdit[blankfault="true"] {{ color: {t.fault}; }}
QLabel#blankunit {{ color: {t.mute}; font-size: 14px; }}
QToolButton#blankmore {{ background: transparent; border: none; color: {t.accent}; font-size: 12px; padding: 0 1px 3px 0; }}
QToolButton#page {{ background: transparent; border: none; border-bottom: 2px solid transparent; color: {t.mute}; padding: 6px 1px 4px 1px; margin: 0 2px; }}
QToolButton#page:hover {{ color: {t.ink}; }}
QToolButton#page:checked {{ color: {t.ink}; font-weight: 700; border-bottom: 2px solid {t.accent}; }}
QLabel#shelfhead {{ font-size: 11px; font-weight: 600; color: {t.mute}; }}
QLabel#small {{ font-size: 12px; }}
QLabel#section {{ font-size: 14px; font-weight: 700; }}
QLabel#mute, QLabel#unit {{ color: {t.mute}; }}
QLabel#estimate {{ color: {t.mute}; }}
QLabel#accent, QToolButton#link, QPushButton#link {{ color: {t.accent}; }}
QLabel#fault {{ color: {t.fault}; font-weight: 600; }}
QLabel#readout {{ background: {t.surface}; border: 1px solid {t.hair}; border-radius: 4px; padding: 4px 7px; }}
QLabel#axis {{ font-weight: 600; }}
QPushButton#link, QToolButton#link {{ background: transparent; border: none; padding: 2px 4px; font-weight: 600; }}
QPushButton#link:hover, QToolButton#link:hover {{ text-decoration: underline; }}
QToolButton#plus {{ background: transparent; border: none; font-size: 15px; color: {t.mute}; padding: 0 6px; }}
QToolButton#plus:hover {{ color: {t.accent}; }}
QLineEdit {{ background: {t.surface}; border: 1px solid {t.hair}; border-radius: 4px; padding: 3px 6px;
  selection-background-color: {t.accent}; selection-color: {t.surface}; }}
QLineEdit:focus {{ border: 1px solid {t.accent}; }}
QLineEdit[fault="true"] {{ background: {t.fault_ground}; border: 1px solid {t.fault}; color: {t.fault}; }}
QLineEdit[filled="true"] {{ font-weight: 600; }}
QLineEdit#reading {{ font-size: 21px; font-weight: 500; background: transparent; border: 1px solid transparent; padding: 0; }}
QLineEdit#reading:hover {{ border-bottom: 1px solid {t.hair}; }}
QLineEdit#reading:focus {{ border-bottom: 1px solid {t.accent}; }}
QLineEdit#reading[fault="true"] {{ color: {t.fault}; border-bottom: 1px solid {t.fault}; background: transparent; }}
QComboBox {{ background: {t.surface}; border: 1px solid {t.hair}; border-radius: 4px; padding: 3px 8px; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox::down-arrow {{ image: url({ICONS}/down.svg); width: 10px; height: 6px; }}
QComboBox:focus {{ border: 1px solid {t.accent}; }}
QComboBox QAbstractItemView {{ background: {t.surface}; border: 1px solid {t.hair};
  selection-background-color: {t.tint}; selection-color: {t.ink}; }}
QTableView {{ background: {t.surface}; border: none; border-bottom: 1px solid {t.hair}; gridline-color: {t.hair};
  selection-background-color: {t.tint}; selection-color: {t.ink}; outline: 0; }}
QTableView::item {{ padding: 0 4px; }}
QTableView::item:selected {{ background: {t.tint}; color: {t.ink}; }}
QTableView QLineEdit {{ border: 1px solid {t.accent}; border-radius: 0; padding: 0 4px; }}
QHeaderView {{ background: {t.sunk}; border: none; }}
QHeaderView::section {{ background: {t.sunk}; border: none; padding: 4px 6px; }}
QTableCornerButton::section {{ background: {t.sunk}; border: none; }}
QListWidget {{ background: transparent; border: none; outline: 0; }}
QListWidget#blocks::item {{ background: {t.surface}; color: {t.ink}; padding: 7px 8px; margin-bottom: 4px; border-radius: 4px; }}
QListWidget#blocks::item:selected {{ background: {t.tint}; color: {t.ink}; }}
QListWidget#blocks::indicator {{ width: 13px; height: 13px; border: 1px solid {t.mute}; border-radius: 3px; background: {t.paper}; }}
QListWidget#blocks::indicator:checked {{ background: {t.accent}; border: 1px solid {t.accent}; }}
QPushButton#quiet {{ background: transparent; border: none; padding: 2px 4px; color: {t.mute}; }}
QPushButton#quiet:hover {{ text-decoration: underline; }}
QListWidget#ledgerlist {{ background: {t.surface}; }}
QListWidget#ledgerlist::item {{ padding: 3px 8px; border-radius: 4px; }}
QListWidget#ledgerlist::item:selected {{ background: {t.tint}; color: {t.ink}; }}
QScrollArea#bare, QScrollArea#bare > QWidget > QWidget {{ background: transparent; border: none; }}
QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
QScrollBar::handle {{ background: {t.hair}; border-radius: 4px; min-height: 24px; min-width: 24px; margin: 1px; }}
QScrollBar::handle:hover {{ background: {t.mute}; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QSplitter::handle {{ background: transparent; }}
QPushButton {{ background: {t.surface}; border: 1px solid {t.hair}; border-radius: 4px; padding: 4px 12px; }}
QPushButton:hover {{ border: 1px solid {t.accent}; }}
QMessageBox, QInputDialog, QDialog {{ background: {t.paper}; }}
"""
