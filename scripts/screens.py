"""Pictures of the window for the docs, from the demo data: ``.venv/bin/python scripts/screens.py [NAME ...]``."""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

from PySide6.QtCore import QPointF, qInstallMessageHandler
from PySide6.QtWidgets import QApplication

from cryonome.app.main import make_application
from cryonome.app.shell.window import MainWindow
from cryonome.app.widgets.theme import DARK, LIGHT, Theme
from cryonome.demo import demo_document
from cryonome.document import Document


def settle(window: MainWindow) -> None:
    """Let the window work until nothing is computed any more."""
    window.live.come_to_rest()
    QApplication.processEvents()


def lab(w: MainWindow) -> None:
    w.live.select_fluid("Varnholt recombined")
    w.show_desk("lab")


def fault(w: MainWindow) -> None:
    lab(w)
    w.desks["lab"].points.store_cells({(7, 1): "66"}, "x")


def condensate(w: MainWindow) -> None:
    w.live.select_sample("Quillmoor condensate")
    w.show_desk("lab")


def heavy(w: MainWindow) -> None:
    w.add_from_collection("Brack heavy")


def cuts(w: MainWindow) -> None:
    lab(w)
    w.show_desk("cuts")


def cuts_condensate(w: MainWindow) -> None:
    condensate(w)
    w.show_desk("cuts")


def correlations(w: MainWindow) -> None:
    cuts(w)
    w.desks["cuts"].show_page("Correlations")


def fluid(w: MainWindow) -> None:
    w.live.select_fluid("Varnholt recombined")
    w.show_desk("fluid")


def model(w: MainWindow) -> None:
    """Show the recombined crude's equation, parameters and pairs."""
    w.live.select_fluid("Varnholt recombined")
    w.show_desk("model")


def match(w: MainWindow) -> None:
    """Show the condensate's lab tests and their match."""
    w.live.select_fluid("Quillmoor reservoir gas")
    w.show_desk("match")


def match_crude(w: MainWindow) -> None:
    """Show the crude's lab tests, one of them with a number that a check finds fault with."""
    w.live.select_fluid("Varnholt recombined")
    w.show_desk("match")


def match_check(w: MainWindow) -> None:
    """Show the picture behind a check of the condensate's report."""
    match(w)
    settle(w)
    desk = w.desks["match"]
    k = next(
        k for k, (_, c) in enumerate(desk.checks._shown) if c.get("drawn", {}).get("title", "").startswith("Hoffmann")
    )
    desk.checks.links[k].click()


def isotherms(w: MainWindow) -> None:
    """Show carbon dioxide by three equations, and the roots at a point of an isotherm."""
    w.live.select_fluid("Injection carbon dioxide")
    w.show_desk("isotherms")
    settle(w)
    w.desks["isotherms"].look_at(QPointF(2.2, 34.8))


def phase_map(w: MainWindow) -> None:
    w.live.select_fluid("Varnholt recombined")
    w.show_desk("map")
    settle(w)
    w.desks["map"].place_probe(505.15, 36e5)


def map_wet(w: MainWindow) -> None:
    """Show a condensate with water: water dew line and the region of three phases."""
    w.live.select_fluid("Quillmoor wet stream")
    w.show_desk("map")
    settle(w)
    w.desks["map"].place_probe(308.15, 60e5)


def diagrams(w: MainWindow) -> None:
    """Show the live oil over enthalpy and pressure."""
    w.live.select_fluid("Varnholt recombined")
    w.show_desk("diagrams")
    settle(w)
    w.live.ask_place({"enthalpy": -2e4, "pressure": 60e5})


def diagrams_ts(w: MainWindow) -> None:
    w.live.select_fluid("Injection carbon dioxide")
    w.show_desk("diagrams")
    settle(w)
    w.desks["diagrams"].choose("T–S")


def state(w: MainWindow) -> None:
    """Show the wet condensate's state, and its flow."""
    w.live.select_fluid("Quillmoor wet stream")
    w.show_desk("state")


def state_models(w: MainWindow) -> None:
    """Show the same state by other equations."""
    state(w)
    settle(w)
    w.desks["state"]._compare("SRK")
    w.desks["state"]._compare("PC-SAFT")
    w.desks["state"].show_page("models")


def table(w: MainWindow) -> None:
    """Show the density of Selden gas over its pipeline."""
    w.open_study("Selden pipeline")


def table_surface(w: MainWindow) -> None:
    table(w)
    settle(w)
    w.desks["table"].show_page("surface")


def table_contours(w: MainWindow) -> None:
    table(w)
    settle(w)
    w.desks["table"].wide_chip.setChecked(True)
    w.desks["table"].show_page("contours")


def table_formula(w: MainWindow) -> None:
    table(w)
    settle(w)
    w.desks["table"].show_page("formula")


def sweep(w: MainWindow) -> None:
    w.open_study("separator pressures")


def goal(w: MainWindow) -> None:
    w.open_study("half vapour by mole")


def hydrates(w: MainWindow) -> None:
    """Show the cold line's hydrate limits by dose."""
    w.open_study("cold line hydrates")


def dose(w: MainWindow) -> None:
    w.open_study("methanol dose")


def path(w: MainWindow) -> None:
    """Show the cold line when it is shut in."""
    w.open_study("cold line, shut-in")


def steps(w: MainWindow) -> None:
    """Open a gas train at its exchanger."""
    w.open_study("gas train")
    w.show_desk("steps")
    settle(w)
    w.desks["steps"].choose("gas-gas")


def line_size(w: MainWindow) -> None:
    """Open a flowline's sizes."""
    w.show_desk("sizes")
    w.open_study("flowline size")


def profile(w: MainWindow) -> None:
    """Open a cold line as it is computed."""
    w.show_desk("path")
    w.open_study("cold line, computed")


def vapour(w: MainWindow) -> None:
    w.open_study("export specification")


def map_limits(w: MainWindow) -> None:
    """Show the cold line's paths and limits on the map."""
    w.live.select_fluid("Quillmoor wet stream")
    w.show_desk("map")
    settle(w)
    w.desks["map"].place_probe(281.15, 110e5)


def map_export(w: MainWindow) -> None:
    """Show the export blend's vapour pressures, their limit, and what a goal makes of them, on the map."""
    w.live.select_fluid("Export blend")
    w.show_desk("map")
    settle(w)
    w.desks["map"].change_display({("logarithmic",): True}, "log P")
    settle(w)
    w.desks["map"].plot.fit_x(0.0, 110.0)
    w.desks["map"].plot.fit_y(-1.3, 1.6)
    settle(w)
    w.store.undo_stack.setClean()


def points(w: MainWindow) -> None:
    w.open_study("reservoir saturation")
    w.show_desk("points")


def products(w: MainWindow) -> None:
    w.open_study("export yields")
    w.show_desk("products")


def spread(w: MainWindow) -> None:
    w.live.select_fluid("Quillmoor wet stream")
    w.open_study("cold line, how sure")
    w.show_desk("spread")


def components(w: MainWindow) -> None:
    w.open_study("Selden components")
    w.show_desk("components")


def values(w: MainWindow) -> None:
    w.live.select_fluid("Export blend")
    w.show_desk("values")


PACKAGE = {
    "Composition": "Quillmoor-3 reservoir fluid\nComponent|Mol %|Wt %|Mol. weight|Density g/cc\nCO2|1.92|2.71\nNitrogen|0.41|0.37\nMethane|71.02|36.6\nEthane|8.11|7.83\nPropane|4.02|5.69\n"
    "i-Butane|0.77|1.44\nn-Butane|1.61|3.0\ni-Pentane|0.62|1.44\nn-Pentane|0.71|1.64\nHexanes|1.22|3.3|84|0.685\nHeptanes plus|9.59|35.98|117|0.771\nTotal|100|100",
    "CCE": "Constant composition expansion at 121 °C\nDew point = 331 bara\nPressure (bara)|Relative volume|Z\n450|0.8621|1.21\n400|0.9122|1.11\n331|1|0.98\n280|1.101\n220|1.302\n150|1.81",
    "CVD": "Depletion at 121 °C\nPressure (bara)|Liquid dropout, vol% of Vd|Produced, cum. mol %|Z gas\n331|0|0|0.98\n276|7.8|7.91|0.935\n221|14.2|21.38|0.885\n166|16.9|38.7|0.866\n110|16.4|58.02|0.879",
    "Condensate": "Sample|Quillmoor condensate\nASTM D86\nDensity at 15 °C|768.4|kg/m3\nvol %|Temp. °C|Sulphur\nIBP|38\n10|71|0.01\n30|104|0.01\n50|143|0.02\n70|201\n90|292|0.05\nFBP|352\nLoss|0.6\nResidue|1.2",
}
"""A made-up report of four sheets."""


def importing(w: MainWindow) -> None:
    """Show what was read of a workbook of four sheets, its boiling curve chosen."""
    import openpyxl

    book = openpyxl.Workbook()
    book.remove(book.active)
    for title, text in PACKAGE.items():
        sheet = book.create_sheet(title)
        for line in text.strip().split("\n"):
            sheet.append([float(c) if c.replace(".", "", 1).isdigit() else c for c in line.split("|")])
    path = Path(tempfile.mkdtemp()) / "quillmoor-3.xlsx"
    book.save(path)
    w.import_paths([path])
    settle(w)
    w.preview.list.setCurrentRow(3)


def report(w: MainWindow) -> None:
    """Show the report at its first question."""
    w.live.select_fluid("Varnholt recombined")
    w.show_desk("map")
    settle(w)
    w.show_report()
    while w.report.ready is None:
        w.live.come_to_rest(5.0)
    w.report.view.show_page(next(p for t, _, p in w.report.ready.pages.places if t == "phase envelope"))


def palette(w: MainWindow) -> None:
    phase_map(w)
    settle(w)
    from cryonome.app.shell.menus import all_actions
    from cryonome.app.shell.palette import Palette

    w.shown = Palette(all_actions(w), w)
    w.shown.entry.setText("keep")
    w.shown.show()


def empty(w: MainWindow) -> None:
    w.show_desk("lab")


SCREENS: dict[str, tuple[Callable[[MainWindow], None], Theme]] = {
    "empty": (empty, LIGHT), "empty-dark": (empty, DARK), "lab-data": (lab, LIGHT), "lab-data-fault": (fault, LIGHT),
    "lab-data-condensate": (condensate, LIGHT), "condensate-dark": (condensate, DARK), "lab-data-heavy": (heavy, LIGHT),
    "cuts": (cuts, LIGHT), "cuts-dark": (cuts, DARK), "cuts-condensate": (cuts_condensate, LIGHT),
    "match": (match, LIGHT), "match-dark": (match, DARK), "match-crude": (match_crude, LIGHT), "match-crude-dark": (match_crude, DARK),
    "match-check": (match_check, LIGHT),
    "correlations": (correlations, LIGHT), "fluid": (fluid, LIGHT), "model": (model, LIGHT), "model-dark": (model, DARK),
    "isotherms": (isotherms, LIGHT), "isotherms-dark": (isotherms, DARK), "map": (phase_map, LIGHT), "map-dark": (phase_map, DARK),
    "diagrams": (diagrams, LIGHT), "diagrams-dark": (diagrams_ts, DARK),
    "table": (table, LIGHT), "table-surface": (table_surface, DARK), "table-contours": (table_contours, LIGHT),
    "table-formula": (table_formula, LIGHT), "sweep": (sweep, LIGHT), "goal": (goal, DARK),
    "hydrates": (hydrates, LIGHT), "hydrates-dark": (hydrates, DARK), "dose": (dose, LIGHT), "path": (path, LIGHT), "path-dark": (path, DARK),
    "steps": (steps, LIGHT), "steps-dark": (steps, DARK), "line-size": (line_size, LIGHT), "line-size-dark": (line_size, DARK),
    "profile": (profile, LIGHT), "profile-dark": (profile, DARK),
    "vapour": (vapour, LIGHT), "vapour-dark": (vapour, DARK), "map-limits": (map_limits, LIGHT), "map-limits-dark": (map_limits, DARK),
    "map-export": (map_export, LIGHT), "map-export-dark": (map_export, DARK),
    "state": (state, LIGHT), "state-dark": (state, DARK), "state-models": (state_models, LIGHT),
    "map-water": (map_wet, LIGHT), "map-water-dark": (map_wet, DARK),
    "import": (importing, LIGHT), "points": (points, LIGHT), "yields": (products, DARK), "components": (components, LIGHT), "values": (values, LIGHT), "spread": (spread, LIGHT), "report": (report, LIGHT), "palette": (palette, LIGHT), "palette-dark": (palette, DARK),
}  # fmt: skip


def main(names: list[str], folder: Path) -> None:
    """Save the pictures."""
    qInstallMessageHandler(lambda *_: None)
    make_application()
    for name in names or SCREENS:
        make, theme = SCREENS[name]
        window = MainWindow(Document() if name.startswith(("empty", "import")) else demo_document())
        window.set_theme(theme)
        window.resize(1280, 760)
        window.show()
        settle(window)
        make(window)
        settle(window)
        picture = window.grab()
        shown = getattr(window, "shown", None)
        if shown is not None:
            from PySide6.QtGui import QPainter

            painter = QPainter(picture)
            painter.drawPixmap((window.width() - shown.width()) // 2, 110, shown.grab())
            painter.end()
            shown.close()
        picture.save(str(folder / f"{name}.png"))
        window.store.undo_stack.setClean()
        window.close()
        window.deleteLater()


if __name__ == "__main__":
    out = Path(os.environ.get("SCREENS", Path(__file__).parents[1] / "docs" / "screenshots"))
    main(sys.argv[1:], out)
