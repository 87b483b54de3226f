"""What every test stands on: no settings, caches or threads of one test reach another."""

from __future__ import annotations

import os
import sys
import threading
from pathlib import Path

import pytest
from hypothesis import settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent))
# Published points and random mixtures stand with the benchmarks, which measure against them too.
sys.path.insert(1, str(Path(__file__).parents[1] / "benchmarks"))

# These machines are noisy: a slow example is no failure, and a fixed seed makes a failure repeatable.
settings.register_profile("checks", deadline=None, derandomize=True, max_examples=40)
settings.load_profile("checks")


@pytest.fixture(autouse=True)
def _own_folders(tmp_path, monkeypatch):
    """Keep settings and safety copies inside the test's folder."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))


@pytest.fixture(autouse=True)
def _no_leaked_threads():
    """Fail a test that leaves a Python thread behind."""
    before = set(threading.enumerate())
    yield
    # The pool of compiled work is one for the whole program and stays.
    left = [t for t in threading.enumerate() if t not in before and not t.daemon and not t.name.startswith("kernels")]
    assert not left, f"threads left behind: {left}"
