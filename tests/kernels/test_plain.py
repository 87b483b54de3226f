"""Kernels as they are written, run by Python, give what the compiled ones give: two ways through one source."""

from __future__ import annotations

import json
import math
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import plain_answers
import pytest

from cryonome.kernels.library import PLAIN
from cryonome.kernels.plain import FAR, _flat, _matrix

SCRIPT = Path(plain_answers.__file__)


def far(ours, theirs, path=""):
    """Yield where two answers differ by more than rounding can."""
    if isinstance(ours, dict):
        assert ours.keys() == theirs.keys(), path
        for key in ours:
            yield from far(ours[key], theirs[key], f"{path}.{key}")
    elif isinstance(ours, list):
        if len(ours) != len(theirs):
            yield path, len(ours), len(theirs)
            return
        for i, (a, b) in enumerate(zip(ours, theirs)):
            yield from far(a, b, f"{path}[{i}]")
    elif isinstance(ours, float) and isinstance(theirs, float):
        if not math.isclose(ours, theirs, rel_tol=1e-7, abs_tol=1e-12):
            yield path, ours, theirs
    elif ours != theirs:
        yield path, ours, theirs


@pytest.mark.skipif(PLAIN, reason="these are the kernels as they are written")
def test_answers_are_the_same_with_and_without_a_compiler():
    own = {**os.environ, "CRYONOME_KERNELS": "plain"}
    done = subprocess.run([sys.executable, str(SCRIPT)], capture_output=True, text=True, env=own, check=True, timeout=300)  # fmt: skip
    plain = json.loads(done.stdout)
    compiled = json.loads(json.dumps(plain_answers.answers()))
    assert all(a["ok"] for a in compiled.values())
    assert not list(far(compiled, plain))


@pytest.mark.skipif(not PLAIN, reason="what coverage watches")
def test_every_answer_is_there_without_a_compiler():
    assert all(a["ok"] for a in plain_answers.answers().values())


def test_places_in_memory_are_looked_at_as_arrays():
    values = np.arange(12.0)
    assert _flat(values[4:8], 3).tolist() == [4.0, 5.0, 6.0]
    assert _matrix(values[2:4], 2, 3).tolist() == [[2.0, 3.0, 4.0], [5.0, 6.0, 7.0]]
    assert _flat(values.ctypes.data + 8, 2).tolist() == [1.0, 2.0]
    _matrix(values, 3, 4)[1, 2] = -1.0
    assert values[6] == -1.0
    assert values.size < FAR
