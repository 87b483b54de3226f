"""Asking by typing in the window: words are offered and completed, what is not understood is underlined, Enter asks."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from cryonome.app.shell.ask_line import EXAMPLES, OFFERED, AskLine
from cryonome.app.widgets.theme import LIGHT


@pytest.fixture
def line(window, qtbot):
    made = AskLine(window.live, LIGHT, window)
    qtbot.addWidget(made)
    made.show()
    return made


def typed(line, text):
    line.line.setPlainText("")
    QTest.keyClicks(line.line, text)


def offered(line):
    return [line.list.item(i).text() for i in range(line.list.count())]


def test_a_question_is_said_back_while_it_is_typed(line, qtbot):
    assert line.said.text() == EXAMPLES
    typed(line, "dew point of Selden gas at 40 bar")
    assert line.study.kind == "saturation"
    assert "Selden gas" in line.said.text()
    assert not line.wrong.isVisible()
    with qtbot.waitSignal(line.accepted):
        QTest.keyClick(line.line, Qt.Key.Key_Return)


def test_what_is_not_understood_is_underlined_and_enter_says_so(line):
    typed(line, "dew point of Selden gas at 40 zorks ")
    assert line.study is None
    marks = line.line.extraSelections()
    assert marks
    text = line.text()
    assert any("zorks" in text[m.cursor.selectionStart() : m.cursor.selectionEnd()] for m in marks)
    assert "zorks" in line.wrong.text()
    QTest.keyClick(line.line, Qt.Key.Key_Enter)
    assert line.isVisible()
    assert line.wrong.isVisible()
    typed(line, "")
    assert line.line.extraSelections() == []


def test_a_word_that_is_begun_is_no_mistake_yet_and_tab_completes_it(line):
    typed(line, "hydrates of Seld")
    assert not line.wrong.text()
    words = offered(line)
    assert "Selden gas" in words
    assert len(words) <= OFFERED
    line.list.setCurrentRow(words.index("Selden gas"))
    QTest.keyClick(line.line, Qt.Key.Key_Tab)
    assert line.text() == "hydrates of Selden gas "
    # Nothing is completed where nothing is begun.
    typed(line, "")
    line.complete()
    assert line.text() == ""


def test_the_words_offered_are_gone_through_by_keys(line):
    typed(line, "v")
    typed(line, "va")
    count = line.list.count()
    assert count > 1
    assert line.list.currentRow() == 0
    QTest.keyClick(line.line, Qt.Key.Key_Down)
    assert line.list.currentRow() == 1
    for _ in range(OFFERED + 2):
        QTest.keyClick(line.line, Qt.Key.Key_Down)
    assert line.list.currentRow() == count - 1
    for _ in range(OFFERED + 2):
        QTest.keyClick(line.line, Qt.Key.Key_Up)
    assert line.list.currentRow() == 0
    chosen = line.list.item(0)
    line.list.itemClicked.emit(chosen)
    assert line.text().endswith(" ")


def test_what_is_asked_in_the_window_is_a_question_on_the_shelf(window, monkeypatch):
    def run(dialog):
        dialog.line.setPlainText("dew point of Selden gas at 40 bar")
        return bool(dialog.study is not None)

    monkeypatch.setattr(AskLine, "exec", run)
    before = {s.name for s in window.store.document.studies}
    window.ask_by_typing()
    window.live.come_to_rest(60)
    asked = [s for s in window.live.document.studies if s.name not in before]
    assert [s.kind for s in asked] == ["saturation"]
    assert window.live.answer(asked[0].name).value["ok"]
