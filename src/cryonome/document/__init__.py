"""The project document: shape, checks, files."""

from .checks import check_document, check_fluid, errors
from .faults import DocumentError, Fault, format_path
from .files import Autosave, document_text, load, parse_document, save
from .model import Document, Fluid, FluidPart, Model, Pin, Sample
from .sample_checks import check_sample

__all__ = [
    "Autosave",
    "Document",
    "DocumentError",
    "Fault",
    "Fluid",
    "FluidPart",
    "Model",
    "Pin",
    "Sample",
    "check_document",
    "check_fluid",
    "check_sample",
    "document_text",
    "errors",
    "format_path",
    "load",
    "parse_document",
    "save",
]
