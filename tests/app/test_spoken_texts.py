"""The window in another language: what it shows passes the phrasebook, whichever widget shows it."""

from __future__ import annotations

import re

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QMenu, QTableView, QWidget

from conftest import SHARED
from cryonome.app.shell import live
from cryonome.app.shell.menus import all_actions
from cryonome.app.shell.window import MainWindow
from cryonome.app.widgets.grid import GridModel
from cryonome.app.widgets.spoken_texts import speak
from cryonome.demo import collection
from cryonome.language import begin, choose
from cryonome.units import KINDS, label
from window_demo import demo_document

UNITS = {label(u) for kind in KINDS.values() for u in kind.units}
SYMBOLS = re.compile(r"(i|n)?C\d|k_ij|[A-Z0-9-]+|[\d.,−% ]+\S*|Ω|°")


@pytest.fixture
def told(qapp, qtbot, monkeypatch):
    """Return a window in the language for trying, with every sentence in brackets."""
    begin("xx")
    as_before = speak()
    monkeypatch.setattr(live, "Evaluator", lambda: SHARED)
    w = MainWindow(demo_document())
    w.live.select_fluid("Varnholt recombined")
    w.show()
    w.live.come_to_rest(60)
    yield w
    choose(None)
    as_before()
    w.close()
    w.deleteLater()


def texts(w: QWidget):
    """Return what the visible labels, buttons and grids show, a line at a time."""
    for c in w.findChildren(QWidget):
        if not c.isVisible():
            continue
        shown = []
        if isinstance(c, QLabel | QAbstractButton) and c.objectName() not in ("said", "saidquiet"):
            shown.append(c.text())
        if isinstance(c, QTableView) and isinstance(c.model(), GridModel):
            m = c.model()
            shown += [str(m.headerData(j, Qt.Orientation.Horizontal) or "") for j in range(m.columnCount())]
        yield from (line for text in shown for line in text.split("\n") if re.search(r"[^\W\d_]{2,}", line))


def test_all_that_a_page_shows_is_told(told):
    names = {x.name for part in (told.store.document.samples, told.store.document.fluids, told.store.document.studies) for x in part}  # fmt: skip
    for key in ("map", "state", "cuts", "hydrates"):
        told.show_desk(key)
        told.live.come_to_rest(60)
        shown = set(texts(told))
        outside = {t for t in shown if "⟦" not in t and t not in UNITS | names and not SYMBOLS.match(t)}
        assert len(shown) > 25
        assert len(outside) <= 0.1 * len(shown), outside
    words = [t for t in told.desks["map"].bar.box.findChildren(QLabel) if t.objectName() == "said"]
    assert "".join(w.text() for w in words).startswith("⟦Where")


def test_menus_tips_and_names_for_readers_are_told_and_names_of_the_user_are_not(told):
    own = {s.name for s in (*told.store.document.samples, *collection().samples)}
    for _, action in all_actions(told):
        assert "⟦" in action.text() or action.text() in own or len(action.text()) < 6 or "·" in action.text(), action.text()  # fmt: skip
    named = [c.accessibleName() for c in told.desks["map"].findChildren(QWidget) if c.accessibleName()]
    assert len(named) > 10
    assert sum("⟦" in n for n in named) > 0.9 * len(named), named
    assert not any("⟦" in s.name for s in told.store.document.samples)
    assert "⟦" not in told.store.document.fluids[0].name


def test_qt_is_as_it_was_afterwards(qapp, qtbot):
    begin("xx")
    as_before = speak()
    try:
        assert QLabel("Ledger").text() == "⟦Ledger⟧"
        assert QAction("Ledger").text() == "⟦Ledger⟧"
        label = QLabel()
        label.setText("<b>Ledger</b> &amp; <i>Ledger</i>")
        assert label.text() == "<b>⟦Ledger⟧</b> &amp; <i>⟦Ledger⟧</i>"
        label.setToolTip("Ledger")
        box = QComboBox()
        box.addItem("Ledger", "Ledger")
        assert (label.toolTip(), box.itemText(0), box.itemData(0)) == ("⟦Ledger⟧", "⟦Ledger⟧", "Ledger")
    finally:
        choose(None)
        as_before()
    assert "setText" not in vars(QLabel) or "told" not in QLabel.setText.__qualname__
    assert QMenu("Ledger").title() == "Ledger"
    label.setText("Ledger")
    assert label.text() == "Ledger"
