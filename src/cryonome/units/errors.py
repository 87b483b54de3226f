"""The error of texts that are no quantity."""

from __future__ import annotations

from ..errors import DomainError


class QuantityError(DomainError):
    """A text that is not a quantity of the wanted kind; the message says what would be."""
