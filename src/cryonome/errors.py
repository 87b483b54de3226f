"""The one class of errors that are answers: the question is well put, and there is no such thing."""

from __future__ import annotations


class DomainError(ValueError):
    """Something physical stands in the way; the message is the sentence a user reads.

    Everything else that is raised (a wrong shape, a missing key) is a fault of the program and never passes for an
    answer."""
