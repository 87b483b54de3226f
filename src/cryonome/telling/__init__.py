"""Remarks and answers told in the reader's units: as sentences, lines, tables and pictures as data."""

from .sentences import Units, sentence

__all__ = ["Units", "sentence"]
