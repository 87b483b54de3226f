"""The header of an answer's table: columns hidden, moved, sorted and in other units, and what is copied then."""

from __future__ import annotations

import itertools

import pytest
from PySide6.QtWidgets import QApplication


@pytest.fixture
def desk(window):
    window.open_study("Varnholt cuts")
    window.live.come_to_rest(60)
    return window.desks[window.current]


def titles(desk):
    return [t for t, _ in desk.shown.titles()]


def words(menu):
    return [a.text() for a in menu.actions() if a.text()]


def act(menu, text):
    next(a for a in menu.actions() if a.text() == text).trigger()


def column(desk, row):
    return [desk.shown.text(k, row) for k in range(desk.shown.rows())]


def test_a_column_is_hidden_stays_hidden_and_is_shown_again(desk, window):
    columns = desk.columns
    named = [i for i, t in enumerate(titles(desk)) if t]
    chosen = named[1]
    act(columns.menu(chosen), "Hide this column")
    assert chosen not in columns.seen()
    window.store.edit("", lambda d: d)
    desk.refresh()
    assert desk.answer_grid.isColumnHidden(chosen)
    shown = next(a.menu() for a in columns.menu(-1).actions() if a.text() == "Columns")
    action = next(a for a in shown.actions() if a.text().split(", ")[0] == titles(desk)[chosen])
    assert not action.isChecked()
    action.trigger()
    assert chosen in columns.seen()
    # The last one stays.
    for i in range(len(titles(desk))):
        columns.hide(i)
    assert len(columns.seen()) >= 1


def test_rows_are_sorted_by_a_column_and_come_back(desk):
    columns = desk.columns
    i = titles(desk).index("molar mass")

    def shown():
        """Return the numbers of the first table; others follow it under their own heads."""
        texts = [t.replace("−", "-") for t in column(desk, i)]
        return [
            float(t)
            for t in itertools.takewhile(lambda t: t[:1].isdigit(), itertools.dropwhile(lambda t: not t, texts))
        ]

    before = shown()
    assert len(set(before)) > 2
    columns.sort(i)
    assert shown() == sorted(before)
    columns.sort(i)
    assert shown() == sorted(before, reverse=True)
    assert "In the answer's order" in words(columns.menu(i))
    act(columns.menu(i), "In the answer's order")
    assert shown() == before


def test_a_column_takes_another_unit(desk):
    columns = desk.columns
    i = titles(desk).index("boiling point")
    menu = columns.units_menu(i)
    assert columns.units_menu(titles(desk).index("name")) is None
    unit = desk.shown.titles()[i][1]
    before = column(desk, i)
    other = next(a.text() for a in menu.actions() if a.text() not in ("as usual", unit) and a.text())
    act(menu, other)
    assert desk.shown.titles()[i][1] == other
    assert column(desk, i) != before
    act(columns.units_menu(i), "as usual")
    assert desk.shown.titles()[i][1] == unit
    assert column(desk, i) == before


def test_what_is_seen_is_what_is_copied(desk):
    columns = desk.columns
    grid = desk.answer_grid
    named = [i for i, t in enumerate(titles(desk)) if t]
    columns.hide(named[-1])
    grid.selectAll()
    grid.copy()
    lines = QApplication.clipboard().text().splitlines()
    assert lines
    assert max(len(line.split("\t")) for line in lines) <= len(columns.seen())
