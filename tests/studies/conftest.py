"""What tests of studies share."""

from __future__ import annotations

from typing import Any

import pytest

from cryonome.demo import demo_document
from cryonome.studies import solve


@pytest.fixture(scope="session")
def demo_answers() -> dict[str, Any]:
    """Return every answer of the demo project, computed once."""
    return solve(demo_document())["answers"]  # type: ignore[no-any-return]
