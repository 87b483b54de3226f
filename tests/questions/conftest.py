"""What tests of studies share."""

from __future__ import annotations

import json
import os
import time
from typing import Any

import pytest

from cryonome.demo import demo_document
from cryonome.questions import solve

PATIENCE = 900.0
"""Seconds that one worker waits for the answers another computes."""


@pytest.fixture(scope="session")
def demo_answers(tmp_path_factory, request) -> dict[str, Any]:
    """Return every answer of the demo project, computed once for all workers."""
    if not hasattr(request.config, "workerinput"):
        return solve(demo_document())["answers"]  # type: ignore[no-any-return]
    shared = tmp_path_factory.getbasetemp().parent
    whole, mine = shared / "demo-answers.json", shared / "demo-answers.lock"
    try:
        os.close(os.open(mine, os.O_CREAT | os.O_EXCL))
    except FileExistsError:
        end = time.monotonic() + PATIENCE
        while not whole.exists() and time.monotonic() < end:
            time.sleep(0.1)
        return json.loads(whole.read_text())  # type: ignore[no-any-return]
    answers = solve(demo_document())["answers"]
    part = shared / "demo-answers.part"
    part.write_text(json.dumps(answers))
    part.replace(whole)
    return answers  # type: ignore[no-any-return]
