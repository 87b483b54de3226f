"""Invented samples: the demo project and a small collection to start from."""

from importlib.resources import files

from ..document import Document, parse_document


def _read(name: str) -> Document:
    return parse_document(files(__package__).joinpath(name).read_text(encoding="utf-8"))


def demo_document() -> Document:
    """Return the demo project."""
    return _read("varnholt-hub.cryo")


def collection() -> Document:
    """Return six crudes and condensates, light to heavy, as the samples of a document."""
    return _read("collection.cryo")
