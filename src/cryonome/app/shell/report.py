"""The report of a document: its questions with their answers, and plots of its own. No window is needed or made."""

from __future__ import annotations

import json
import logging
import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from jinja2 import Environment, PackageLoader
from PySide6.QtCore import QSize, qInstallMessageHandler
from PySide6.QtWidgets import QApplication

from ...demo import demo_document
from ...document import Document, Study
from ...document.field_types import SAMPLES
from ...document.files import write_atomic
from ...document.kinds import study_kinds
from ...document.references import about
from ...errors import DomainError
from ...questions import solve
from ...results import Evaluator, Project
from ...telling import Units
from ...telling.answers import tables
from ...telling.table_blocks import Block
from ...units import SETS, label
from ..main import make_application
from ..pages.lab.carbon_picture import composition, draw_composition
from ..pages.lab.curve_plots import draw_cuts, draw_line, draw_points, label_products
from ..pages.shared import map_picture
from ..widgets.plot import Plot
from ..widgets.theme import LIGHT

log = logging.getLogger(__name__)

SIZE = QSize(840, 520)


@dataclass(frozen=True)
class Part:
    """One question of the report: its name, what it asks, its answer in a line and as tables, notes, and its
    pictures."""

    name: str
    title: str
    asks: str
    line: str
    blocks: list[Block]
    notes: list[str]
    error: str
    pictures: list[str]


def _message(_kind: object, _context: object, text: str) -> None:
    # Qt's offscreen platform remarks on every window that it has no screen.
    if "propagateSizeHints" not in text:
        log.warning("%s", text)


def _plot(name: str) -> Plot:
    plot = Plot(name)
    plot.set_theme(LIGHT)
    plot.resize(SIZE)
    plot.show()
    QApplication.processEvents()
    return plot


def _map_plot(study: Study, project: Project) -> Plot | None:
    fluid = project.document.fluid(about(study))
    if fluid is None:
        return None
    whole = project.map(fluid, project.document.display.map.quality if study.kind == "envelope" else ())
    units = SETS[project.document.display.units]
    shown = project.document.display.map
    frame = map_picture.Frame(shown.temperature or units["temperature"], shown.pressure or units["pressure"])
    plot = _plot(study.name)
    plot.set_titles(f"Temperature, {label(frame.temperature)}", f"Pressure, {label(frame.pressure)}")
    map_picture.fit(plot, frame, whole)
    QApplication.processEvents()
    map_picture.Picture(
        frame, LIGHT, whole, project.document.display.map.quality if study.kind == "envelope" else ()
    ).draw(plot)
    return plot


def _sample_plot(study: Study, project: Project) -> Plot | None:
    sample = project.document.sample(about(study, SAMPLES))
    if sample is None:
        return None
    result = project.characterized(sample)
    unit = sample.display.temperature or SETS[project.document.display.units]["temperature"]
    plot = _plot(study.name)
    plot.begin()
    if result.labels:
        plot.set_titles("Carbon number", "Composition, %")
        draw_composition(plot, composition(sample, result), False, LIGHT)
    else:
        plot.set_titles("Distilled, vol%", f"Boiling point, {label(unit)}")
        low, high = draw_cuts(plot, result, unit, LIGHT)
        draw_line(plot, "tbp", result.curve, unit, LIGHT.ink)
        if sample.distillation.method == "TBP":
            draw_points(plot, sample, unit, LIGHT)
        plot.fit_x(0.0, 100.0)
        plot.fit_y(low, high, 0.03)
        label_products(plot, result, unit, LIGHT)
    plot.end()
    return plot


PICTURES: dict[str, Callable[[Study, Project], Plot | None]] = {
    "envelope": _map_plot,
    "saturation": _map_plot,
    "characterization": _sample_plot,
}
"""What is drawn for a question, by its kind; the others have rows only."""


def _pictures(study: Study, project: Project, folder: Path) -> list[str]:
    """Draw what belongs to a question, and save it as picture, vector graphic and data."""
    draw = PICTURES.get(study.kind)
    try:
        plot = draw(study, project) if draw is not None else None
    except DomainError:
        return []
    if plot is None:
        return []
    QApplication.processEvents()
    stem = re.sub(r"[^A-Za-z0-9]+", "-", study.name).strip("-").lower()[:60] or "plot"
    if (folder / f"{stem}.png").exists():
        stem = f"{stem}-{project.document.studies.index(study) + 1}"
    for suffix in (".png", ".svg"):
        plot.save(folder / f"{stem}{suffix}")
    plot.close()
    plot.deleteLater()
    return [f"{stem}.png"]


def write_report(document: Document | None, folder: Path) -> Path:
    """Write answers, plots and a page that shows them; return the page. Raises OSError, DocumentError."""
    folder.mkdir(parents=True, exist_ok=True)
    document = document if document is not None else demo_document()
    evaluator = Evaluator()
    answers = solve(document, (), evaluator)
    text = json.dumps(answers, ensure_ascii=False, indent=1, allow_nan=False)
    write_atomic(folder / "answers.json", text)
    qInstallMessageHandler(_message)
    make_application()
    project, units = evaluator.at(document), Units.of(document.display.units)
    for old in folder.glob("*.png"):
        old.unlink()
    parts = []
    for study in (s for s in document.studies if not s.draft):
        answer, kind = answers["answers"][study.name], study_kinds()[study.kind]
        asked = {k: v for k, v in study.model_dump(exclude_defaults=True).items() if k not in ("name", "kind")}
        parts.append(
            Part(
                study.name,
                kind.title,
                ", ".join(f"{k.replace('_', ' ')}: {_told(v)}" for k, v in asked.items()),
                kind.line(answer, units) if answer["ok"] else "",
                tables(answer, units) if answer["ok"] else [],
                answer["notes"],
                answer.get("error", ""),
                _pictures(study, project, folder) if answer["ok"] else [],
            )
        )
    environment = Environment(loader=PackageLoader("cryonome.app", "templates"), autoescape=True)
    page = folder / "report.html"
    write_atomic(page, environment.get_template("report.html.j2").render(document=document, parts=parts))
    return page


def _told(value: object) -> str:
    if isinstance(value, (tuple, list, np.ndarray)):
        return ", ".join(str(v) for v in value)
    return str(value)
