"""A wheel, built without a network, put beside the installed packages and used; what the desktop is told."""

from __future__ import annotations

import configparser
import json
import os
import shutil
import subprocess
import sys
import xml.etree.ElementTree as ET
import zipfile
from pathlib import Path

import pytest

from ask import command
from cryonome import desktop, logs
from cryonome.kernels.library import folders
from cryonome.version import VERSION

ROOT = Path(__file__).parents[1]


def ran(*args, cwd, **environment):
    clean = {k: v for k, v in os.environ.items() if not k.startswith("PYTHON")}
    return subprocess.run(
        args, cwd=cwd, capture_output=True, text=True, check=False, timeout=240, env={**clean, **environment}
    )


@pytest.fixture(scope="module")
def wheel(tmp_path_factory):
    folder = tmp_path_factory.mktemp("wheel")
    source = folder / "source"
    source.mkdir()
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, source)
    shutil.copytree(
        ROOT / "src", source / "src", ignore=shutil.ignore_patterns("__pycache__", "compiled", "*.egg-info")
    )
    done = ran(
        sys.executable, "-m", "pip", "wheel", ".", "--no-build-isolation", "--no-deps", "--no-index", "--quiet",
        "--disable-pip-version-check", "--wheel-dir", str(folder), cwd=source,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    return next(folder.glob("*.whl"))


def test_the_wheel_holds_what_the_program_reads(wheel):
    assert wheel.name.startswith(f"cryonome-{VERSION}-")
    inside = set(zipfile.ZipFile(wheel).namelist())
    for path in (ROOT / "src" / "cryonome").rglob("*"):
        if path.is_file() and not {"__pycache__", "compiled"} & set(path.parts):
            assert str(path.relative_to(ROOT / "src")) in inside
    for name, folder in desktop.PLACES.items():
        assert f"cryonome-{VERSION}.data/data/share/{folder}/{name}" in inside
    meta = zipfile.ZipFile(wheel).read(f"cryonome-{VERSION}.dist-info/METADATA").decode()
    assert "Provides-Extra: gui" in meta
    assert "PySide6-Essentials" in meta


def test_the_wheel_works_where_it_is_put(wheel, tmp_path):
    target = tmp_path / "site"
    done = ran(sys.executable, "-m", "pip", "install", "--no-deps", "--no-index", "--quiet", "--target", str(target), str(wheel), cwd=tmp_path)  # fmt: skip
    assert done.returncode == 0, done.stderr
    # The kernels that are compiled already serve the copy as well: their key is what is in them.
    kernels = next(f for f in folders() if f.is_dir())
    own = {"PYTHONPATH": str(target), "CRYONOME_KERNELS": str(kernels), "QT_QPA_PLATFORM": "offscreen"}
    where = ran(sys.executable, "-c", "import cryonome; print(cryonome.__file__)", cwd=tmp_path, **own)
    assert where.stdout.startswith(str(target))
    gas = {"name": "G", "parts": [{"component": "methane", "amount": 90}, {"component": "propane", "amount": 10}]}
    asked = {"name": "a", "kind": "flash", "fluid": "G", "temperature": "220 K", "pressure": "20 bar"}
    (tmp_path / "d.cryo").write_text(json.dumps({"format": "cryonome/1", "fluids": [gas], "studies": [asked]}))
    solved = ran(sys.executable, "-m", "cryonome", "solve", "d.cryo", cwd=tmp_path, **own)
    assert solved.returncode == 0, solved.stderr
    assert json.loads(solved.stdout)["answers"]["a"]["ok"]
    told = ran(sys.executable, "-m", "cryonome", "report", "d.cryo", "--output", "out", cwd=tmp_path, **own)
    assert told.returncode == 0, told.stderr
    assert (tmp_path / "out" / "report.pdf").exists()


def test_version_and_completion():
    assert command("--version").stdout == command("version").stdout == f"{VERSION}\n"
    own = Path(sys.executable).with_name("cryonome")
    done = ran(own, cwd=ROOT, _CRYONOME_COMPLETE="complete_bash", COMP_WORDS="cryonome re", COMP_CWORD="1")
    assert "report" in done.stdout
    script = ran(own, cwd=ROOT, _CRYONOME_COMPLETE="source_bash")
    assert "cryonome" in script.stdout


def test_the_page_of_the_manual_is_that_of_the_command_line():
    sys.path.insert(0, str(ROOT / "scripts"))
    import man_page

    assert man_page.PAGE.read_text(encoding="utf-8") == man_page.page()


def test_the_desktop_is_told_and_told_otherwise(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    done = command("desktop")
    assert done.returncode == 0
    files = [Path(line) for line in done.stdout.split("\n") if line]
    assert [f.name for f in files] == list(desktop.PLACES)
    entry = configparser.RawConfigParser()
    entry.optionxform = str
    entry.read(files[0], encoding="utf-8")
    own = entry["Desktop Entry"]
    assert own["MimeType"] == "application/x-cryonome;"
    program, verb, field = own["Exec"].rsplit(" ", 2)
    assert Path(program.strip('"')).is_absolute()
    assert (verb, field) == ("open", "%f")
    kind = ET.parse(files[2]).getroot()[0]
    assert kind.get("type") == "application/x-cryonome"
    assert kind.find("{*}glob").get("pattern") == "*.cryo"
    assert command("desktop", "--remove").stdout == done.stdout
    assert not any(f.exists() for f in files)
    assert "nothing was there" in command("desktop", "--remove").stderr


@pytest.mark.parametrize(("path", "line"), [
    ("/opt/cryonome", "/opt/cryonome"), ("/home/a b/cryonome", '"/home/a b/cryonome"'),
    ("/home/$x/50%", '"/home/\\$x/50%%"'),
])  # fmt: skip
def test_a_path_is_quoted_as_an_entry_wants_it(path, line):
    assert desktop._quoted(path) == line


def test_the_log_is_where_the_platform_keeps_logs(tmp_path, monkeypatch):
    import logging

    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    before = list(logging.getLogger().handlers)
    assert logs.log_to_file()
    new = [h for h in logging.getLogger().handlers if h not in before]
    try:
        logging.getLogger("cryonome.x").warning("something odd")
        assert "something odd" in (tmp_path / "cryonome" / "log" / "cryonome.log").read_text()
    finally:
        for handler in new:
            logging.getLogger().removeHandler(handler)
            handler.close()
