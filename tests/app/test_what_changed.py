"""What another version changed, in the window: kept at every save, told in the ledger, read on its page."""

from __future__ import annotations

import json

from PySide6.QtWidgets import QApplication

from cryonome.app.shell.ledger import entries
from cryonome.app.shell.what_changed import WhatChanged, known_changes
from cryonome.document import document_text, load, parse_document
from cryonome.reporting.content import checksum
from cryonome.version import VERSION


def test_a_save_keeps_the_numbers_there_are_and_a_later_version_is_held_against_them(window, tmp_path):
    file = tmp_path / "hub.cryo"
    window.store.save(file)
    saved = load(file)
    names = [s.name for s in window.live.kept()]
    assert names
    assert {k.study for k in saved.answered} <= set(names)
    assert "first separator" in {k.study for k in saved.answered}
    assert {k.version for k in saved.answered} == {VERSION}
    # What is open is what the file holds: the report's checksum is that of the file.
    assert checksum(window.store.document) == checksum(saved)
    assert not window.store.dirty
    assert not any("differ" in e.text for e in entries(window.live))

    data = json.loads(document_text(saved))
    for kept in data["answered"]:
        kept["version"] = "0.18.0"
        if kept["study"] == "first separator":
            kept["values"]["density_kg_m3"] *= 1.05
    window.store.replace(parse_document(json.dumps(data)), file)
    window.live.come_to_rest(60)
    found, compared, missing = known_changes(window.live)
    assert [(c.study, c.path) for c in found] == [("first separator", "density_kg_m3")]
    assert (len(compared), missing) == (len(saved.answered), 0)
    told = [e.text for e in entries(window.live) if e.kind == "warning" and "What changed" in e.text]
    assert len(told) == 1
    assert f"1 differs by {VERSION}" in told[0]

    page = WhatChanged(window.live, window)
    assert page.table[0][0] == "first separator"
    assert "0.19.0" in page.text.toPlainText()
    page.copy()
    assert QApplication.clipboard().text().splitlines()[0].split("\t") == [
        "question",
        "value",
        "before",
        "now",
        "change",
    ]
    page.deleteLater()

    # Saved by this version, the new numbers are what a later one is held against.
    window.store.save(file)
    assert {k.version for k in load(file).answered} == {VERSION}
