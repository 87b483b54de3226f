"""The commands of the repository."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

import pytest

from cryonome import __version__

ROOT = Path(__file__).parents[1]


def test_run_works_from_any_folder(tmp_path):
    if not (ROOT / ".venv" / ".ready-requirements.txt").exists():
        pytest.skip("the program's own environment has not been made; ./run makes it")
    done = subprocess.run(
        ["bash", ROOT / "run", "version"], cwd=tmp_path, capture_output=True, text=True, check=False, timeout=120
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.strip() == __version__


def test_scripts_are_executable_and_well_formed():
    for name in ("run", "test", ".ci/run"):
        assert os.access(ROOT / name, os.X_OK), name
    for name in ("run", "test", ".ci/run", "scripts/environment.sh"):
        assert subprocess.run(["bash", "-n", ROOT / name], check=False).returncode == 0, name


def test_every_pinned_package_has_one_version():
    for name in ("requirements.txt", "requirements-dev.txt"):
        lines = [x for x in (ROOT / name).read_text().splitlines() if x and not x.startswith(("#", "-r"))]
        assert all("==" in line for line in lines)
        packages = [line.split("==")[0].lower() for line in lines]
        assert len(packages) == len(set(packages))


def test_every_picture_of_the_readme_exists_and_every_picture_is_shown():
    readme = (ROOT / "README.md").read_text()
    pictures = {p.name for p in (ROOT / "docs" / "screenshots").glob("*.png")}
    assert pictures == {p for p in pictures if f"docs/screenshots/{p}" in readme}
    assert readme.count("docs/screenshots/") == len(pictures)
