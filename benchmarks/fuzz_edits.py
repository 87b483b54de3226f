"""Random edits of a whole project, as the window makes them: any text in any cell of any kind, and anything renamed, removed and undone."""

from __future__ import annotations

import os
import random
import string
from collections.abc import Callable
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

Trial = Callable[[random.Random], str]

TEXTS = (
    "", " ", "log", "yes", "Pc of heavy", "0", "-1", "12.5", "300 K", "5 bar", "100 degF", "2,000 psia", "1e999", "-300 degC", "heavy", "methane",
    "methane 20 wt%", "a; b + c", "[]", "{}", "null", "Selden gas", "tank", "no such name", "fluids[0].parts[0].amount", "<b>x</b>", "a" * 400,
    "NaN", "40 %", "1, 2, 3", "=1+1", "\u00bd", "°", "linear", "logarithmic", "temperature", "\u2028", "'", '"',
)  # fmt: skip
"""What is typed: right, wrong and in between."""


def _project() -> Any:
    """Return the demo with a question of every kind, its store and what the window knows of it."""
    from PySide6.QtWidgets import QApplication

    from cryonome.app.shell.jobs import Jobs
    from cryonome.app.shell.live import Live
    from cryonome.app.shell.store import Store
    from cryonome.demo import demo_document
    from cryonome.document.edits import add_study
    from cryonome.document.kinds import study_kinds

    app = QApplication.instance() or QApplication([])
    document = demo_document()
    for kind in study_kinds().values():
        subject = {"fluid": "Selden gas", "sample": "Varnholt crude", "study": "tank"}.get(kind.subject, "")
        document = add_study(document, kind.begin(subject, (320.0, 6e6)))
    store = Store(document)
    store._timer.setInterval(10**8)  # no safety copies of what is thrown away
    return app, store, Live(store, Jobs())


def _opens(document: Any) -> Any:
    """Return a document saved and opened again; the same, or it is a fault."""
    from cryonome.document import document_text, parse_document

    opened = parse_document(document_text(document))
    assert document_text(opened) == document_text(document)
    return opened


FIXED = ("name", "kind", "reference", "draft", "measured")


def walked(cells: Any) -> list[tuple[str | int, ...]]:
    """Return the paths of the cells of a question, those of its rows included."""
    out: list[tuple[str | int, ...]] = []
    for key in type(cells.study).model_fields:
        value = getattr(cells.study, key)
        if key in FIXED:
            continue
        if isinstance(value, tuple) and value and hasattr(value[0], "model_fields"):
            out += [(key, i, own) for i, row in enumerate(value) for own in type(row).model_fields]
        else:
            out.append((key,))
    return out


def cells() -> Trial:
    """Any text in any cell of any question: the document opens, and the text is in its cell with what is wrong with it."""
    from cryonome.document import read_study
    from cryonome.document.drafts import drafts_below
    from cryonome.telling import Units
    from cryonome.units import QuantityError, split
    from cryonome.wording.cells import Cells

    app, store, live = _project()
    live.app = app  # kept alive
    units = Units.of("metric")

    def shown(text: str) -> str:
        return text.replace("\u2212", "-").strip()

    def trial(rng: random.Random) -> str:
        before = store.document
        study = rng.choice(before.studies)
        cells = Cells(study, before, units)
        key = rng.choice(walked(cells))
        text = (
            rng.choice(TEXTS)
            if rng.random() < 0.7
            else "".join(rng.choice(string.printable) for _ in range(rng.randrange(12)))
        )
        store.edit("fuzz", lambda _: cells.stored(key, cells.read(key, text), text))
        after = _opens(store.document)
        place = (("studies", before.studies.index(study)), key)
        word = "same"
        if after != before:
            own = after.studies[before.studies.index(study)]
            faulty = bool(read_study(own, after).faults or drafts_below(after, place[0]))
            there = key in set(walked(Cells(own, after, units)))
            cell = Cells(own, after, units).shown(key) if there else None
            told = shown(cell.text) if cell else ""
            whole = f"{told} {cell.unit}".strip() if cell else ""
            word = "draft" if after.drafts else "fault" if faulty else "taken"
            if after.drafts:
                assert next(iter(after.drafts.values())) == text, (key, text, after.drafts)
                assert faulty
            elif faulty and text.strip() and there:
                # What is wrong stands as it was typed, up to how numbers and lists are written.
                try:
                    split(text)
                except QuantityError:
                    plain = "".join(text.split()).strip(",;")
                    assert (
                        plain[:6] in "".join(told.split()) or told in ("yes", "no") or "," in told or " to " in told
                    ), (
                        key,
                        text,
                        told,
                        whole,
                    )
        while store.undo_stack.canUndo():
            store.undo_stack.undo()
        assert store.document == before
        store.undo_stack.clear()
        return word

    return trial


def names() -> Trial:
    """Anything renamed, removed, undone: nothing orphaned, nothing lost, and back where it began."""
    from cryonome.document import check_document, errors
    from cryonome.document.edits import removed, renamed, set_at

    app, store, live = _project()
    live.app = app

    def trial(rng: random.Random) -> str:
        before = store.document
        done = []
        for step in range(rng.randrange(1, 5)):
            group = rng.choice(("samples", "fluids", "studies"))
            things = getattr(store.document, group)
            if not things:
                continue
            thing = rng.choice(things)
            known = {f.path for f in errors(check_document(store.document))}
            what = rng.choice(("rename", "rename", "remove", "part"))
            if what == "rename":
                name = rng.choice((f"N {step}", "a [b].c", "ünï", "x" * 80, f"{rng.randrange(10**6)}"))
                if name in {t.name for g in ("samples", "fluids", "studies") for t in getattr(store.document, g)}:
                    continue
                store.edit("rename", lambda d, g=group, o=thing.name, n=name: renamed(d, g, o, n))
                after = errors(check_document(_opens(store.document)))
                assert {f.path for f in after} == known, (
                    [str(f) for f in after if f.path not in known],
                    thing.name,
                    name,
                )
            elif what == "remove":
                store.edit("remove", lambda d, g=group, o=thing.name: removed(d, g, o))
            elif group == "fluids" and thing.parts:
                place = store.document.fluids.index(thing)
                parts = list(thing.parts)
                parts.pop(rng.randrange(len(parts)))
                store.edit("part", lambda d, p=place, v=tuple(parts): set_at(d, ("fluids", p, "parts"), v))
            _opens(store.document)
            done.append(what)
        while store.undo_stack.canUndo():
            store.undo_stack.undo()
        assert store.document == before
        store.undo_stack.clear()
        return done[0] if done else "nothing"

    return trial
