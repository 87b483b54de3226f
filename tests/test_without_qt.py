"""The core needs no Qt: it imports, solves and writes where the window's packages cannot be imported at all."""

from __future__ import annotations

import json
import subprocess
import sys

import pytest

CODE = """
import sys
class Refuse:
    def find_spec(self, name, path=None, target=None):
        if name.partition(".")[0] in ("PySide6", "shiboken6", "pyqtgraph", "contourpy"):
            raise ImportError(f"{name} is not to be had")
sys.meta_path.insert(0, Refuse())
import importlib, pkgutil
import cryonome
for found in pkgutil.walk_packages(cryonome.__path__, "cryonome."):
    if not found.name.startswith(("cryonome.app.", "cryonome.__main__")):
        importlib.import_module(found.name)
for name in ("results_table", "session"):
    importlib.import_module(f"cryonome.app.shell.{name}")
from cryonome import cli
sys.argv = ["cryonome", *sys.argv[1:]]
cli.main()
"""


def run(*args, stdin=""):
    return subprocess.run(
        [sys.executable, "-c", CODE, *args], input=stdin, capture_output=True, text=True, check=False, timeout=120
    )


def test_the_core_imports_and_solves_where_qt_cannot_be_imported():
    document = {
        "format": "cryonome/1",
        "fluids": [{"name": "F", "parts": [{"component": "propane"}]}],  # alone it needs no amount
        "studies": [{"name": "s", "kind": "saturation", "fluid": "F", "temperature": "300 K"}],
    }
    done = run("solve", "-", stdin=json.dumps(document))
    assert done.returncode == 0, done.stderr
    # Vapour pressure of propane at 300 K: 9.98 bar (Lemmon, McLinden and Wagner, J. Chem. Eng. Data 54, 3141 (2009)).
    assert json.loads(done.stdout)["answers"]["s"]["points"][0]["pressure_Pa"] == pytest.approx(9.98e5, rel=0.01)


def test_the_window_says_what_is_missing_where_qt_cannot_be_imported():
    done = run("open")
    assert done.returncode == 2
    assert "cryonome[gui]" in done.stderr
