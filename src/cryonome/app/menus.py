"""The menu bar: every action of the program with its shortcut."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtGui import QAction, QActionGroup, QKeySequence
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QMessageBox

from ..demo import collection
from ..units import SETS
from .grid import GridView
from .theme import DARK, LIGHT

if TYPE_CHECKING:
    from .window import MainWindow

Key = QKeySequence.StandardKey


def _add(menu: QMenu, text: str, call: Callable[[], object], key: object = None) -> QAction:
    action = QAction(text, menu)
    if key is not None:
        action.setShortcut(QKeySequence(key))
    action.triggered.connect(lambda _checked=False: call())
    menu.addAction(action)
    return action


def build_menus(w: MainWindow) -> None:
    """Fill the menu bar of the window."""
    bar = w.menuBar()
    _file_menu(bar.addMenu("&File"), w)
    _edit_menu(bar.addMenu("&Edit"), w)
    sample = bar.addMenu("&Sample")
    _add(sample, "Add sample", w.add_sample, "Ctrl+Shift+N")
    _collection_menu(sample, w)
    _add(sample, "Duplicate sample", w.duplicate_sample, "Ctrl+D")
    _add(sample, "Rename sample…", w.rename_sample, "F2")
    _add(sample, "Remove sample", w.remove_sample, "Ctrl+Shift+Backspace")
    sample.addSeparator()
    _add(sample, "Insert row", w.lab.insert_row, "Ctrl+I")
    _add(sample, "Delete rows", w.lab.delete_rows, "Ctrl+K")
    sample.addSeparator()
    _add(sample, "Add a column…", w.lab.ask_column, "Ctrl+Alt+N")
    sample.addSeparator()
    _add(sample, "Merge selected cuts", w.cuts.merge_selected, "Ctrl+M")
    _add(sample, "Split selected cuts", w.cuts.split_selected, "Ctrl+Shift+M")
    _add(sample, "Automatic cut widths", w.cuts.make_automatic, "Ctrl+Shift+A")
    fluid = bar.addMenu("F&luid")
    _add(fluid, "Add fluid", w.add_fluid, "Ctrl+Shift+F")
    _add(fluid, "Duplicate fluid", w.duplicate_fluid, "Ctrl+Shift+D")
    _add(fluid, "Rename fluid…", w.rename_fluid, "Shift+F2")
    _add(fluid, "Remove fluid", w.remove_fluid, "Ctrl+Alt+Backspace")
    fluid.addSeparator()
    _add(fluid, "Add component", w.start_adding_component, "Ctrl+Return")
    _add(fluid, "Add a pseudo-component", w.fluid.add_pseudo, "Ctrl+Alt+A")
    _add(fluid, "Add a series over a boiling range", w.fluid.add_series, "Ctrl+Alt+E")
    _add(fluid, "Recombine a liquid and a gas", w.fluid.recombine, "Ctrl+Alt+R")
    _add(fluid, "Back to parts", w.fluid.back_to_parts, "Ctrl+Alt+B")
    _add(fluid, "Remove selected parts", w.fluid.remove_parts, "Ctrl+Shift+K")
    _map_menu(bar.addMenu("&Map"), w)
    _view_menu(bar.addMenu("&View"), w)
    help_menu = bar.addMenu("&Help")
    _add(help_menu, "Shortcuts", lambda: show_shortcuts(w), "F1")
    _add(help_menu, "About Cryonome", w.about, "Ctrl+F1")


def _collection_menu(menu: QMenu, w: MainWindow) -> None:
    """Offer the samples of the collection, read when the menu is opened."""
    inner = menu.addMenu("Add from the collection")

    def fill() -> None:
        if not inner.actions():
            for k, sample in enumerate(collection().samples):
                action = _add(inner, sample.name, lambda n=sample.name: w.add_from_collection(n), f"Alt+{k + 1}")
                action.setToolTip(sample.note)

    fill()


def _file_menu(menu: QMenu, w: MainWindow) -> None:
    _add(menu, "New", w.new, Key.New)
    _add(menu, "Open…", w.open_dialog, Key.Open)
    _add(menu, "Open the demo project", w.open_demo, "Ctrl+Shift+O")
    menu.addSeparator()
    _add(menu, "Save", w.save, Key.Save)
    _add(menu, "Save as…", w.save_as, "Ctrl+Shift+S")
    menu.addSeparator()
    _add(menu, "Import samples…", w.import_samples, "Ctrl+Shift+I")
    _add(menu, "Export samples…", w.export_samples, "Ctrl+Shift+E")
    menu.addSeparator()
    _add(menu, "Save plot as PNG…", lambda: w.save_plot("png"), "Ctrl+Alt+P")
    _add(menu, "Save plot as SVG…", lambda: w.save_plot("svg"), "Ctrl+Alt+G")
    _add(menu, "Save plot data as CSV…", lambda: w.save_plot("csv"), "Ctrl+Alt+C")
    menu.addSeparator()
    _add(menu, "Quit", w.close, "Ctrl+Q")


def _edit_menu(menu: QMenu, w: MainWindow) -> None:
    undo = w.store.undo_stack.createUndoAction(menu, "Undo")
    undo.setShortcut(QKeySequence(Key.Undo))
    redo = w.store.undo_stack.createRedoAction(menu, "Redo")
    redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
    menu.addActions([undo, redo])
    menu.addSeparator()

    def on_focus(grid_call: str, line_call: str) -> Callable[[], None]:
        def call() -> None:
            widget = QApplication.focusWidget()
            if isinstance(widget, QLineEdit):
                getattr(widget, line_call)()
                return
            grid = w.focus_grid()
            if isinstance(grid, GridView):
                if grid_call == "cut":
                    grid.copy()
                    grid.clear_selected("Cut")
                elif grid_call == "clear":
                    grid.clear_selected("Clear cells")
                else:
                    getattr(grid, grid_call)()

        return call

    _add(menu, "Cut", on_focus("cut", "cut"), Key.Cut)
    _add(menu, "Copy", on_focus("copy", "copy"), Key.Copy)
    _add(menu, "Paste", on_focus("paste", "paste"), Key.Paste)
    _add(menu, "Clear", on_focus("clear", "clear"))
    menu.addSeparator()
    _add(menu, "Copy whole table", w.copy_table, "Ctrl+Shift+C")


def _map_menu(menu: QMenu, w: MainWindow) -> None:
    _add(menu, "Pin the state", w.map.pin_state, "P")
    _add(menu, "Pin the envelope", w.map.pin_envelope, "Shift+P")
    _add(menu, "Remove all pins of this fluid", w.map.clear_pins, "Ctrl+Shift+P")
    menu.addSeparator()
    display = lambda: w.store.document.display.map  # noqa: E731
    _add(
        menu,
        "Quality lines",
        lambda: w.map.change_display({"quality_lines": not display().quality_lines}, "Quality lines"),
        "Ctrl+Shift+Q",
    )
    _add(
        menu,
        "Logarithmic pressure",
        lambda: w.map.change_display({"logarithmic": not display().logarithmic}, "Pressure scale"),
        "Ctrl+Shift+L",
    )
    _add(
        menu,
        "Unit of temperature…",
        lambda: w.map.choose_unit("temperature", w.mapToGlobal(QPoint(500, 400))),
        "Ctrl+T",
    )
    _add(menu, "Unit of pressure…", lambda: w.map.choose_unit("pressure", w.mapToGlobal(QPoint(300, 200))), "Ctrl+P")
    _add(menu, "Show everything", w.map.plot.show_all, "Ctrl+0")
    _add(menu, "Stop tracing", lambda: w.jobs.cancel("map"), "Esc")


def _check_units(group: QActionGroup, w: MainWindow) -> None:
    for action in group.actions():
        action.setChecked(action.text() == f"Units: {w.store.document.display.units}")


def _view_menu(menu: QMenu, w: MainWindow) -> None:
    from .window import TITLES

    for i, title in enumerate(TITLES):
        _add(menu, title, lambda i=i: w.show_desk(i), f"Ctrl+{i + 1}")
    menu.addSeparator()
    _add(menu, "Ledger", lambda: w.ledger.open(not w.ledger.drawer.isVisible()), "Ctrl+L")
    menu.addSeparator()
    group = QActionGroup(menu)
    for units, key in zip(SETS, ("Ctrl+Alt+1", "Ctrl+Alt+2", "Ctrl+Alt+3")):
        action = _add(menu, f"Units: {units}", lambda u=units: w.set_units(u), key)
        action.setCheckable(True)
        group.addAction(action)
    menu.aboutToShow.connect(lambda: _check_units(group, w))
    menu.addSeparator()
    _add(menu, "Light theme", lambda: w.set_theme(LIGHT), "Ctrl+Alt+L")
    _add(menu, "Dark theme", lambda: w.set_theme(DARK), "Ctrl+Alt+D")


def show_shortcuts(w: MainWindow) -> None:
    """List every shortcut."""
    lines = []
    for menu_action in w.menuBar().actions():
        menu = menu_action.menu()
        for action in menu.actions() if isinstance(menu, QMenu) else []:
            key = action.shortcut().toString()
            if key:
                lines.append(
                    f"<tr><td>{action.text().replace('&', '')}&nbsp;&nbsp;&nbsp;</td><td><b>{key}</b></td></tr>"
                )
    half = (len(lines) + 1) // 2
    tables = "".join(f"<td valign='top'><table>{''.join(part)}</table></td>" for part in (lines[:half], lines[half:]))
    QMessageBox.information(w, "Shortcuts", f"<table cellspacing='12'><tr>{tables}</tr></table>")
