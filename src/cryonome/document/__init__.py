"""The project document: shape, reading, files."""

from .autosave import Autosave, Kept
from .checks import Reading, StudyReading, check_document, read_document, read_study
from .faults import DocumentError, Fault, errors, format_path
from .files import document_text, load, opened, parse_document, save, signature
from .model import Document, Fluid, FluidPart, Ghost, Model, Sample, Study
from .read_fluid import FluidInput, FluidReading, read_fluid
from .read_sample import SampleReading, read_sample
from .reader import Reader

__all__ = [
    "Autosave",
    "Document",
    "DocumentError",
    "Fault",
    "Fluid",
    "FluidInput",
    "FluidPart",
    "FluidReading",
    "Ghost",
    "Kept",
    "Model",
    "Reader",
    "Reading",
    "Sample",
    "SampleReading",
    "Study",
    "StudyReading",
    "check_document",
    "document_text",
    "errors",
    "format_path",
    "load",
    "opened",
    "parse_document",
    "read_document",
    "read_fluid",
    "read_sample",
    "read_study",
    "save",
    "signature",
]
