"""Plays the lessons in the real window, and takes their pictures: ``.venv/bin/python scripts/lessons.py [KEY ...]``.

Each step of a play is a step of the text: what it says in bold is looked for in the text and in the window both, so that
a lesson that is no longer true fails its test."""

from __future__ import annotations

import os
import re
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication

from ask import type_in_cell
from cryonome.app.shell.ask_line import AskLine
from cryonome.app.shell.window import MainWindow
from cryonome.app.widgets.theme import LIGHT
from cryonome.lessons import FOLDER, Lesson, lessons

REST = 120.0
"""Seconds that the window may take to come to rest."""


class Play:
    """A lesson being played: the window, its text, and the pictures still to be taken."""

    def __init__(self, window: MainWindow, lesson: Lesson, pictures: bool) -> None:
        self.window, self.live, self.lesson = window, window.live, lesson
        self._pictures, self.taken = pictures, 0
        self.told: set[str] = set()

    def rest(self) -> None:
        """Let the window come to rest."""
        assert self.live.come_to_rest(REST), f"{self.lesson.key}: the window does not come to rest"
        QApplication.processEvents()

    def says(self, words: str, shown: str) -> None:
        """Check that the text says something in bold, and that it is what is shown."""
        assert f"**{words}**" in self.lesson.text.replace("\n", " "), f"the text does not say {words!r}"
        assert words.rstrip(".") in shown, f"{self.lesson.key}: {words!r} is not in {shown!r}"
        self.told.add(words)

    def asks(self, text: str) -> str:
        """Type a question of the text, and return the answer's sentence."""
        assert f"    {text}\n" in self.lesson.text
        line = AskLine(self.live, LIGHT, self.window)
        line.line.setPlainText(text)
        assert line.study is not None, line.wrong.text()
        self.window.show_draft(line.study)
        line.close()
        self.rest()
        return str(self.desk.found.text())

    def opens(self, name: str) -> str:
        """Open a question of the shelf, and return the answer's sentence."""
        assert f"**{name}**" in self.lesson.text
        self.window.open_study(name)
        self.rest()
        self.told.add(name)
        return str(self.desk.found.text())

    def chooses(self, fluid: str, page: str) -> None:
        """Choose a fluid of the shelf and a page."""
        self.says(fluid, fluid)
        self.live.select_fluid(fluid)
        self.window.show_desk(page)
        self.rest()

    @property
    def desk(self):  # each page has its own parts
        """The page that is open."""
        return self.window.desks[self.window.current]

    def picture(self) -> None:
        """Take the next picture of the text, or see that it is there."""
        self.taken += 1
        name = f"{self.lesson.key}-{self.taken}.png"
        assert f"(pictures/{name})" in self.lesson.text
        if self._pictures:
            self.rest()
            _small(self.window.grab().toImage()).save(str(FOLDER / "pictures" / name), "PNG", 0)
        assert (FOLDER / "pictures" / name).exists()


def _small(image: QImage) -> QImage:
    """Return a picture as wide as a text of the documentation."""
    image = image.scaledToWidth(900, Qt.TransformationMode.SmoothTransformation)
    return image.convertToFormat(QImage.Format.Format_RGB888)


def assay_to_map(p: Play) -> None:
    w = p.window
    p.says("Varnholt crude", "Varnholt crude")
    p.live.select_sample("Varnholt crude")
    w.show_desk("lab")
    p.rest()
    filled = [r for r in range(p.desk.points.rows()) if p.desk.points.text(r, 1)]
    assert len(filled) == 13
    p.picture()
    row = next(r for r in filled if p.desk.points.text(r, 0) == "50")
    p.says("66", "66")
    p.desk.points.store_cells({(row, 1): "66"}, "Type")
    p.rest()
    w.ledger.open(True)
    p.says("50 %: 66 °F is below the 518 °F at 40 %.", w.ledger.drawer.item(0).text())
    w.ledger.open(False)
    w.store.undo_stack.undo()
    w.show_desk("cuts")
    p.rest()
    result = p.live.characterized()
    assert result is not None
    p.says("30 cuts", f"{len(result.components) - result.light} cuts")
    p.chooses("Varnholt recombined", "map")
    whole = p.live.envelope()
    assert whole is not None
    assert whole.cricondenbar is not None
    p.says("225.5 bar", f"{whole.cricondenbar.P / 1e5:.1f} bar")
    p.picture()
    p.says("Boils below 186.3 bar.", p.asks("bubble point of Varnholt recombined at 92 °C"))
    w.keep_question()
    assert w.store.document.studies[-1].kind == "saturation"


def report_to_tuned_fluid(p: Play) -> None:
    p.chooses("Quillmoor reservoir gas", "match")
    side = p.desk.side
    answer = side.answer()
    assert answer is not None
    p.picture()
    dew = answer["deviations"]["Quillmoor dew points"]
    p.says("8.25 %", f"{dew['before']:.2f} %")
    p.says("three", {3: "three"}[len(answer["parameters"])])
    p.says("Tc of heavy ends", side.fit.text(0, 0))
    p.says("0.08 %", f"{dew['after']:.2f} %")
    assert answer["deviations"]["Quillmoor separators"]["held_out"]
    side.variants.keep_tuning()
    p.rest()
    fluid = p.window.store.document.fluid("Quillmoor reservoir gas")
    assert fluid.model.tuned is not None
    p.picture()
    side.variants.use(None, "untuned")
    assert p.window.store.document.fluid("Quillmoor reservoir gas").model.tuned is None


def cold_line(p: Play) -> None:
    p.says("3.6 K inside the hydrate limit, at Riser base.", p.opens("cold line, shut-in"))
    p.picture()
    told = p.asks("hydrates of Quillmoor wet stream at 110 bar with 30 % methanol")
    p.says("3.1 °C", told)
    p.says("18.8 °C", told)
    told = p.opens("methanol dose")
    p.says("31.6 wt% in the water", told)
    assert "2359 kg/h" in told
    p.picture()
    p.window.show_desk("map")
    p.rest()


def gas_train(p: Play) -> None:
    p.says("285.6 kW at the shafts", p.opens("gas train"))
    p.picture()
    desk = p.desk
    row = next(r for r in range(desk.steps.rows()) if desk.steps.name_of(r) == "K-1")
    p.says("K-1", desk.steps.name_of(row))
    type_in_cell(desk.steps_grid, row, 3, "to 40 bar, 75 %")
    p.rest()
    p.says("361.6 kW", desk.found.text())
    p.window.store.undo_stack.undo()
    p.rest()
    desk.strip.chosen.emit("gas-gas")
    p.rest()
    numbers = {desk.numbers.text(r, 0): desk.numbers.text(r, 1) for r in range(desk.numbers.rows())}
    p.says("5.000 K", f"{numbers['Least approach']} K")
    p.picture()


def table_for_a_spreadsheet(p: Play) -> None:
    told = p.opens("Selden pipeline")
    p.says("19 × 19 states", told)
    p.picture()
    for view in ("curves", "contours", "surface", "choose", "formula"):
        p.desk.show_page(view)
        p.rest()
    p.says("0.00054 %", told)
    p.picture()
    from ask import command
    from cryonome.document import save

    with tempfile.TemporaryDirectory() as folder:
        save(Path(folder) / "hub.cryo", p.window.store.document)
        line = next(x.strip() for x in p.lesson.text.splitlines() if x.startswith("    cryonome export"))
        words = [w.strip('"') for w in re.findall(r'"[^"]*"|\S+', line)][1:]
        done = command(*(str(Path(folder) / w) if w.endswith((".cryo", ".xlsx")) else w for w in words))
        assert done.returncode == 0, done.stderr
        assert (Path(folder) / "pipeline.xlsx").exists()


PLAYS: dict[str, Callable[[Play], None]] = {
    "assay-to-map": assay_to_map, "report-to-tuned-fluid": report_to_tuned_fluid, "cold-line": cold_line,
    "gas-train": gas_train, "table-for-a-spreadsheet": table_for_a_spreadsheet,
}  # fmt: skip


def play(window: MainWindow, lesson: Lesson, pictures: bool = False) -> None:
    """Play a lesson in a window that shows the demo project. Raises AssertionError where it is not true."""
    p = Play(window, lesson, pictures)
    PLAYS[lesson.key](p)
    bold = {b.replace("\n", " ") for b in re.findall(r"\*\*(.+?)\*\*", lesson.text, re.DOTALL)}
    assert bold == p.told, f"{lesson.key}: nobody looked at {sorted(bold - p.told)}"
    assert p.taken == lesson.text.count("](pictures/")


def main(keys: list[str]) -> None:
    """Play lessons and take their pictures."""
    os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()
    from cryonome.app.main import make_application
    from cryonome.demo import demo_document

    make_application()
    for lesson in lessons():
        if not keys or lesson.key in keys:
            window = MainWindow(demo_document())
            window.set_theme(LIGHT)
            window.resize(1180, 720)
            window.show()
            play(window, lesson, True)
            sys.stdout.write(f"{lesson.key}\n")
            window.store.undo_stack.setClean()
            window.close()


if __name__ == "__main__":
    main(sys.argv[1:])
