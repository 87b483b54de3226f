"""Pages are made when they are first asked for, and are what they would have been from the start."""

from __future__ import annotations

import time

import pytest
from PySide6.QtWidgets import QApplication

from cryonome.app.pages.shared.desk import Desk, desk_entries
from cryonome.app.shell.made_pages import MadePages
from cryonome.app.shell.menus import all_actions
from cryonome.app.widgets.theme import DARK

KEYS = [e.key for e in desk_entries()]


def kinds(window) -> set[str]:
    return {type(d).__name__ for d in window.desks.made()}


def test_a_window_begins_with_the_page_that_is_seen(window):
    assert kinds(window) == {"MapDesk"}
    assert list(window.desks) == KEYS
    assert len(window.desks) == len(KEYS)
    assert "lab" in window.desks
    window.show_desk("cuts")
    assert kinds(window) == {"MapDesk", "CutsDesk"}
    assert window.desks["cuts"] is window.desks["cuts"]
    assert window.stack.currentWidget().widget() is window.desks["cuts"]


def test_what_a_page_offers_is_in_the_menus_and_makes_it(window):
    actions = {a.text(): a for _, a in all_actions(window)}
    for entry in desk_entries():
        for offered in entry.make.actions_offered():
            assert offered.text in actions, offered.text
            assert actions[offered.text].shortcut().toString() or not offered.key
    assert kinds(window) == {"MapDesk"}
    actions["Tabulate properties"].trigger()
    window.live.come_to_rest(60)
    assert window.current == "table"
    assert kinds(window) == {"MapDesk", "TableDesk"}
    assert window.desks["table"].study().kind == "table"
    # What a page does it does without being seen: here it goes to its sheet.
    actions["Choose the model"].trigger()
    assert window.current == "model"
    assert window.desks["model"].equation.combo.isVisible()


def test_a_page_that_comes_later_has_theme_and_letters_of_the_window_and_tells_it_what_happens(window, qtbot):
    window.set_theme(DARK)
    desk = window.desks["points"]
    assert desk.theme is DARK
    assert all(p.theme is DARK for p in desk.plots)
    said = []
    window.ledger.say, before = said.append, window.ledger.say
    try:
        window.desks["components"].grids[0].copied.emit("Copied")
    finally:
        window.ledger.say = before
    window.show_desk("components")
    window.live.come_to_rest(60)
    assert window.desks["components"].grids[0].model().rowCount() > 5


def test_the_others_are_made_ahead_one_by_one_and_a_window_may_go_meanwhile(window, qtbot):
    ended = []
    window.make_pages_ahead(lambda: ended.append(True))
    qtbot.waitUntil(lambda: len(window.desks.made()) > 3, timeout=10_000)
    before = len(window.desks.made())
    assert before < len(KEYS)
    assert window._ahead.isActive()
    # What is being typed waits for one page at the most.
    longest, last = 0.0, time.perf_counter()
    while len(window.desks.made()) < len(KEYS) and longest < 5.0:
        QApplication.processEvents()
        now = time.perf_counter()
        longest, last = max(longest, now - last), now
    qtbot.waitUntil(lambda: not window._ahead.isActive(), timeout=10_000)
    assert len(window.desks.made()) == len(KEYS)
    assert {type(d) for d in window.desks.made()} == {e.make for e in desk_entries()}
    assert longest < 5.0
    assert ended == [True]


def test_a_key_that_is_no_page_makes_nothing():
    made: list[str] = []

    def make(key: str) -> Desk:
        made.append(key)
        raise RuntimeError(key)

    pages = MadePages(make)
    with pytest.raises(KeyError, match="nowhere"):
        pages["nowhere"]
    assert pages.get("nowhere") is None
    assert made == []
    with pytest.raises(RuntimeError, match="map"):
        pages["map"]
    # What failed is tried anew, and counts as not made.
    assert pages.made() == []
