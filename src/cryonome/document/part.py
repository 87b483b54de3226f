"""What every part of the document is."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Part(BaseModel):
    """Base of every part of the document."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=False, allow_inf_nan=False)
