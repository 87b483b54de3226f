"""What every answer carries."""

from __future__ import annotations

from typing import NotRequired

from typing_extensions import TypedDict

from .references import ReferenceAnswer


class Common(TypedDict):
    """What every answer carries: whether it could be given, sentences about it, why not, and numbers from elsewhere
    beside its own."""

    ok: bool
    notes: list[str]
    error: NotRequired[str]
    reference: NotRequired[list[ReferenceAnswer]]
