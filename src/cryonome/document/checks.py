"""A whole document read once: everything it says in SI, and every fault at its place."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

from .drafts import draft_faults
from .faults import Fault
from .kinds import study_kinds
from .marks import read_marks
from .model import Document, Study
from .read_fluid import FluidReading, read_fluid
from .read_measured import MeasuredValues, read_measured, read_references
from .read_sample import SampleReading, read_sample
from .reader import Reader

T = TypeVar("T")


@dataclass(frozen=True)
class StudyReading:
    """What a study asks, None where a fault forbids an answer, and its faults."""

    asked: Any
    faults: tuple[Fault, ...]
    references: Mapping[str, float] = field(default_factory=dict)
    measured: Mapping[str, MeasuredValues] = field(default_factory=dict)


@dataclass(frozen=True)
class Reading:
    """A document as it was read: samples, fluids and studies in its order, and all faults."""

    samples: tuple[SampleReading, ...]
    fluids: tuple[FluidReading, ...]
    studies: tuple[StudyReading, ...]
    faults: tuple[Fault, ...]


def read_document(document: Document) -> Reading:
    """Return everything a document says, and every fault of it, in its order."""
    samples = tuple(read_sample(s, ("samples", i)) for i, s in enumerate(document.samples))
    fluids = tuple(read_fluid(f, document, ("fluids", i)) for i, f in enumerate(document.fluids))
    studies = tuple(read_study(s, document, ("studies", i)) for i, s in enumerate(document.studies))
    faults = [*unique_names(document), *draft_faults(document)]
    for found in (*(s.faults for s in samples), *(f.faults for f in fluids), *(s.faults for s in studies)):
        faults += found
    return Reading(samples, fluids, studies, tuple(faults))


def check_document(document: Document) -> list[Fault]:
    """Return every fault of the document, in its order."""
    return list(read_document(document).faults)


def read_study(study: Study, document: Document, path: tuple[str | int, ...] = ()) -> StudyReading:
    """Return what a study asks, and what is wrong with it."""
    kind = study_kinds()[study.kind]
    reader = Reader(path)
    read_marks(study, document, reader)
    asked = kind.read(study, document, reader)
    references = read_references(study.reference, reader.at("reference"))
    measured = read_measured(study, kind.answer, reader)
    return StudyReading(None if reader.bad else asked, tuple(dict.fromkeys(reader.faults)), references, measured)


def unique_names(document: Document) -> Iterator[Fault]:
    """Return faults of names that are empty or given twice, at their places."""
    for group in ("samples", "fluids", "studies"):
        seen: dict[str, int] = {}
        for i, item in enumerate(getattr(document, group)):
            if not item.name.strip():
                yield Fault((group, i, "name"), "the name is empty; give it one")
            elif item.name in seen:
                text = f"the name '{item.name}' is given twice, first at {group}[{seen[item.name]}]"
                yield Fault((group, i, "name"), text)
            seen.setdefault(item.name, i)


class Remembered:
    """The last results of functions of immutable objects, found by identity: an edit shares what it did not touch.

    Safe for threads; what is computed may itself ask for what is remembered.
    """

    def __init__(self, size: int = 256) -> None:
        self._size = size
        self._lock = threading.Lock()
        self._kept: OrderedDict[tuple[int, ...], tuple[tuple[object, ...], Any]] = OrderedDict()

    def get(self, key: tuple[object, ...], compute: Callable[[], T]) -> T:
        """Return what was computed for these very objects, computing it where they are new."""
        ids = tuple(map(id, key))
        with self._lock:
            if ids in self._kept:
                self._kept.move_to_end(ids)
                return self._kept[ids][1]  # type: ignore[no-any-return]
        value = compute()
        with self._lock:
            # The objects are kept with the result, so that no other can have their identity meanwhile.
            self._kept[ids] = (key, value)
            while len(self._kept) > self._size:
                self._kept.popitem(last=False)
        return value
