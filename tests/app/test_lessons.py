"""The lessons, played in the real window; the ways to begin; what the program says of itself."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest
from PySide6.QtGui import QGuiApplication

sys.path.insert(0, str(Path(__file__).parents[2] / "scripts"))

from lessons import play  # the script that takes the pictures

from cryonome.app.shell.about import About
from cryonome.demo import demo_document
from cryonome.lessons import FOLDER, lessons
from cryonome.version import VERSION


@pytest.mark.parametrize("lesson", lessons(), ids=lambda lesson: lesson.key)
def test_a_lesson_is_true_step_by_step(whole_window, lesson):
    play(whole_window, lesson)


def test_lessons_stand_beside_the_page_with_their_pictures(window, qtbot):
    assert not window.lessons.isVisible()
    window.show_lessons()
    panel = window.lessons
    assert panel.choice.count() == len(lessons()) == 5
    for k, lesson in enumerate(lessons()):
        panel.choice.setCurrentIndex(k)
        shown = panel.text.document()
        assert lesson.title in shown.toPlainText()
        images = shown.toHtml().count("<img")
        assert images == lesson.text.count("](pictures/") == 2
        assert shown.size().width() <= panel.text.viewport().width() + 1
    assert not panel.next.isEnabled()
    assert window.width() <= 1280
    panel.text.setFocus()
    window.escape()
    assert not panel.isVisible()


def test_every_picture_of_a_lesson_is_used():
    text = "".join(one.text for one in lessons())
    assert all(p.name in text for p in (FOLDER / "pictures").glob("*.png"))


def test_the_ways_to_begin(window, qtbot, monkeypatch):
    window.show_welcome()
    assert window.stack.currentWidget() is window.welcome
    window.welcome.buttons["empty"].click()
    assert not window.store.document.samples
    window.show_welcome()
    window.welcome.buttons["lessons"].click()
    assert window.store.document == demo_document()
    assert window.lessons.isVisible()
    assert window.current == "map"
    assert window.settings.value("welcomed")


def test_the_program_tells_its_versions_and_its_log(window):
    about = About(window)
    about.copy()
    told = QGuiApplication.clipboard().text()
    assert f"Cryonome: {VERSION}" in told
    assert "cryonome.log" in told
    assert "PySide" in told or "Qt for Python" in told
