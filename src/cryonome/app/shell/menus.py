"""The menu bar: every action of the program with its shortcut, the window's own and those the desks offer."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QActionGroup, QKeySequence
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu

from ...demo import collection
from ...document.kinds import study_kinds
from ...units import SETS
from ..pages.shared.desk import Action, desk_entries
from ..widgets.fields import tip
from ..widgets.grid import GridView
from ..widgets.theme import DARK, LIGHT

if TYPE_CHECKING:
    from .window import MainWindow

Key = QKeySequence.StandardKey


def _add(
    menu: QMenu, text: str, call: Callable[[], object], key: str | QKeySequence.StandardKey | None = None
) -> QAction:
    action = QAction(text, menu)
    if key:
        action.setShortcut(QKeySequence(key))
    action.triggered.connect(lambda _checked=False: call())
    menu.addAction(action)
    return action


def build_menus(w: MainWindow) -> None:
    """Fill the menu bar of the window."""
    bar = w.menuBar()
    menus = {
        title: bar.addMenu(title) for title in ("&File", "&Edit", "&Sample", "F&luid", "&Answers", "&View", "&Help")
    }
    _file_menu(menus["&File"], w)
    _edit_menu(menus["&Edit"], w)
    sample, fluid, answers = menus["&Sample"], menus["F&luid"], menus["&Answers"]
    _add(sample, "Add a sample", w.add_sample, "Ctrl+Shift+N")
    _collection_menu(sample, w)
    _add(sample, "Duplicate the sample", w.duplicate_sample, "Ctrl+D")
    _add(sample, "Rename the sample…", w.rename_sample, "F2")
    _add(sample, "Remove the sample", w.remove_sample, "Ctrl+Shift+Backspace")
    _add(fluid, "Add a fluid", w.add_fluid, "Ctrl+Shift+F")
    _add(fluid, "Duplicate the fluid", w.duplicate_fluid, "Ctrl+Shift+D")
    _add(fluid, "Rename the fluid…", w.rename_fluid, "Shift+F2")
    _add(fluid, "Export the fluid as tables…", w.export_fluid, "Ctrl+Alt+Shift+T")
    _add(fluid, "Remove the fluid", w.remove_fluid, "Ctrl+Alt+Backspace")
    _question_menu(answers, w)
    for entry in desk_entries():
        for offered in entry.make.actions_offered():
            _offered(menus[offered.menu], offered, partial(w.on_page, entry.key, offered))
    _view_menu(menus["&View"], w)
    help_menu = menus["&Help"]
    _add(help_menu, "Find an action…", w.find_action, "F1")
    _add(help_menu, "Lessons", w.show_lessons, "Ctrl+Shift+F1")
    _add(help_menu, "Ways to begin", w.show_welcome, "Ctrl+Shift+B")
    _add(help_menu, "What changed since another version", w.show_changes, "Ctrl+Alt+F1")
    help_menu.addSeparator()
    _add(help_menu, "About this desk", w.show_help, "Shift+F1")
    _add(help_menu, "About Cryonome", w.about, "Ctrl+F1")


def _offered(menu: QMenu, offered: Action, call: Callable[[], object]) -> None:
    if offered.separate:
        menu.addSeparator()
    _add(menu, offered.text, call, offered.key)


def all_actions(w: MainWindow) -> list[tuple[str, QAction]]:
    """Return every action of the menus with the menu it stands in."""
    out: list[tuple[str, QAction]] = []

    def collect(title: str, menu: QMenu) -> None:
        for action in menu.actions():
            inner = action.menu()
            if isinstance(inner, QMenu):
                collect(action.text(), inner)
            elif action.text():
                out.append((title.replace("&", ""), action))

    for top in w.menuBar().actions():
        menu = top.menu()
        if isinstance(menu, QMenu):
            collect(top.text(), menu)
    return out


def _collection_menu(menu: QMenu, w: MainWindow) -> None:
    """Offer the samples of the collection."""
    inner = menu.addMenu("Add from the collection")
    for k, sample in enumerate(collection().samples):
        action = _add(inner, sample.name, partial(w.add_from_collection, sample.name), f"Alt+{k + 1}")
        action.setToolTip(tip(sample.note))


def _question_menu(menu: QMenu, w: MainWindow) -> None:
    """Offer a question of every kind about what is chosen."""
    _add(menu, "Ask by typing…", w.ask_by_typing, "Ctrl+K")
    _add(menu, "Stop, or leave the page", w.escape, "Esc")
    _add(menu, "Keep the question", w.keep_question, "Ctrl+Return")
    inner = menu.addMenu("Ask")
    for kind in study_kinds().values():
        action = _add(inner, f"{kind.title}", partial(w.add_study, kind.name))
        action.setToolTip(kind.meaning)
    _add(menu, "Rename the question…", w.rename_study)
    _add(menu, "Remove the question", w.remove_study)
    _add(menu, "A fluid that follows this question…", w.make_fluid, "Ctrl+Alt+Shift+F")
    menu.addSeparator()


def _file_menu(menu: QMenu, w: MainWindow) -> None:
    _add(menu, "New", w.new, Key.New)
    _add(menu, "Open…", w.open_dialog, Key.Open)
    _add(menu, "Open the demo project", w.open_demo, "Ctrl+Shift+O")
    menu.addSeparator()
    _add(menu, "Save", w.save, Key.Save)
    _add(menu, "Save as…", w.save_as, "Ctrl+Shift+S")
    menu.addSeparator()
    _add(menu, "Import lab sheets…", w.import_samples, "Ctrl+Shift+I")
    _add(menu, "Export samples…", w.export_samples, "Ctrl+Shift+E")
    _add(menu, "Watch a workbook…", w.watch_book, "Ctrl+Shift+W")
    _add(menu, "Watch no workbook", w.watch_none, "Ctrl+Alt+W")
    menu.addSeparator()
    _add(menu, "Save the plot as PNG…", lambda: w.save_plot("png"), "Ctrl+Alt+P")
    _add(menu, "Save the plot as SVG…", lambda: w.save_plot("svg"), "Ctrl+Alt+G")
    _add(menu, "Save the plot's data as CSV…", lambda: w.save_plot("csv"), "Ctrl+Alt+C")
    menu.addSeparator()
    _add(menu, "Report…", w.show_report, Key.Print)
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
    _add(menu, "Paste", w.paste, Key.Paste)
    _add(menu, "Clear", on_focus("clear", "clear"))
    menu.addSeparator()
    _add(menu, "Copy the plot and its numbers", w.copy_plot, "Ctrl+Alt+Shift+C")
    _add(menu, "Copy the whole table", w.copy_table, "Ctrl+Shift+C")


def _check_units(group: QActionGroup, w: MainWindow) -> None:
    for action in group.actions():
        action.setChecked(action.text() == f"Units: {w.store.document.display.units}")


def _view_menu(menu: QMenu, w: MainWindow) -> None:
    pages = [e for e in desk_entries() if e.there()]
    first = {e.card or e.key: e for e in reversed(pages)}
    # The first page of every card, then the others.
    keys = sorted(range(len(pages)), key=lambda k: pages[k] is not first[pages[k].card or pages[k].key])
    for k, entry in enumerate(pages):
        i = keys.index(k)
        _add(
            menu,
            entry.title,
            partial(w.show_desk, entry.key),
            f"Ctrl+{i + 1}"
            if i < 9
            else f"Alt+Shift+{i - 8}"
            if i < 18
            else f"Ctrl+Alt+Shift+{i - 17}"
            if i < 27
            else "",
        )
    menu.addSeparator()
    _add(menu, "Ledger", w.ledger.open_or_close, "Ctrl+L")
    menu.addSeparator()
    group = QActionGroup(menu)
    for units, key in zip(SETS, ("Ctrl+Alt+1", "Ctrl+Alt+2", "Ctrl+Alt+3")):
        action = _add(menu, f"Units: {units}", partial(w.set_units, units), key)
        action.setCheckable(True)
        group.addAction(action)
    menu.aboutToShow.connect(lambda: _check_units(group, w))
    menu.addSeparator()
    _add(menu, "Larger letters", partial(w.larger_letters, 1), Key.ZoomIn)
    _add(menu, "Smaller letters", partial(w.larger_letters, -1), Key.ZoomOut)
    _add(menu, "Letters of the usual size", partial(w.set_letters, 1.0), "Ctrl+Alt+0")
    menu.addSeparator()
    _add(menu, "Light theme", lambda: w.set_theme(LIGHT), "Ctrl+Alt+L")
    _add(menu, "Dark theme", lambda: w.set_theme(DARK), "Ctrl+Alt+D")
