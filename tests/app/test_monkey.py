"""A careless user: many edits in a row, desks changed in between, and every one of them undone again."""

from __future__ import annotations

import random

import pytest
from PySide6.QtWidgets import QApplication

from window_demo import demo_document


@pytest.mark.parametrize("seed", [1, 2])
def test_whatever_is_done_can_be_undone(window, seed):
    rng = random.Random(seed)
    w = window
    actions = [
        lambda: w.desks["lab"].points.store_cells(
            {(rng.randrange(16), rng.randrange(2)): rng.choice(["5", "x", "", "-3 psig", "300 degC", "97 %"])}, "cell"
        ),
        lambda: w.desks["lab"].points.paste(rng.randrange(4), rng.randrange(2), [["1", "2"], ["a"], [], ["", "", "3"]]),
        lambda: w.desks["lab"].points.insert_row(rng.randrange(16)),
        lambda: w.desks["lab"].points.delete_rows({rng.randrange(16)}),
        lambda: w.desks["lab"].bulk._store(
            rng.choice(["density", "molar_mass", "watson_k"]), rng.choice(["", "12", "0.9 SG", "x", "-1"])
        ),
        lambda: w.desks["cuts"].add_boundary(rng.random()),
        lambda: w.desks["lab"].choose_method(
            rng.choice(["TBP", "D86", "D1160", "D2887", "EFV", "D86+D1160", "carbon-number"])
        ),
        lambda: w.desks["lab"].carbon.store_cells(
            {(rng.randrange(5), rng.randrange(4)): rng.choice(["C7", "3", "", "C20+", "x"])}, "c"
        ),
        lambda: w.desks["lab"].light_ends._choose_mode(rng.choice(["absent", "measured", "estimated"])),
        lambda: w.desks["lab"].add_named_column(rng.choice(["40 degC", "sulphur, mass%", "x y"])),
        lambda: w.desks["lab"].points.remove_column(rng.randrange(6)),
        lambda: w.desks["lab"].reading._nested("lumping", {"rule": rng.choice(["none", "whitson", "quadrature"])}),
        lambda: w.desks["lab"].reading._end("final", rng.choice(["", "900 degC", "x"])),
        w.desks["cuts"].make_automatic,
        lambda: w.desks["fluid"].parts.store_cells(
            {(rng.randrange(12), 1): rng.choice(["1", "-1", "x", ""])}, "amount"
        ),
        lambda: w.desks["model"].choose_equation(rng.choice(["SRK", "PR76", "PR78"])),
        lambda: w.desks["fluid"]._change({"basis": rng.choice(["mole", "mass", "volume"])}, "basis"),
        lambda: w.desks["map"].change_display({("logarithmic",): rng.random() < 0.5}, "log"),
        lambda: w.set_units(rng.choice(["SI", "metric", "field"])),
        w.desks["map"].pin_envelope,
        lambda: w.desks["map"].place_probe(rng.uniform(1, 2000), 10 ** rng.uniform(0, 9)),
        w.desks["map"].probe.keep_state,
        w.add_sample,
        w.add_fluid,
        w.duplicate_fluid,
        w.remove_sample,
        w.remove_fluid,
        w.toggle_theme,
    ]
    for _ in range(45):
        rng.choice(actions)()
        w.show_desk(rng.choice(list(w.desks)))
        QApplication.processEvents()
    while w.store.undo_stack.canUndo():
        w.store.undo_stack.undo()
    QApplication.processEvents()
    assert w.store.document == demo_document()
    while w.store.undo_stack.canRedo():
        w.store.undo_stack.redo()
    w.grab()
