"""Many documents answered, by this process or by any number of them."""

from __future__ import annotations

import json
import logging
from collections.abc import Iterable, Iterator, Mapping
from concurrent.futures import Executor
from itertools import tee
from pathlib import Path
from typing import Any

from .document import Document, DocumentError, parse_document
from .questions import solve
from .questions.solving import ANSWERS_FORMAT
from .questions.spreading.shared import has_large_spread, sharing
from .results import Evaluator
from .sharing import AHEAD, Lost, in_order

log = logging.getLogger(__name__)

DocumentLike = Document | Mapping[str, Any] | str | Path
"""A document, its data, its text where that begins with a brace, or the path of its file."""


def solve_many(
    documents: Iterable[DocumentLike], executor: Executor | None = None, studies: tuple[str, ...] = ()
) -> Iterator[dict[str, Any]]:
    """Yield the answers of documents in their order, each as :func:`cryonome.questions.solve` gives them, of all
    studies or the named ones.

    With an ``executor`` of ``concurrent.futures`` the documents go to its workers, at most 64 ahead of the first that
    is not back, so that ten thousand take the memory of a few; a document with a spread of many samples is solved
    here, and its samples go to the workers. A document that cannot be answered gives ``{"format", "error"}`` and,
    where it is invalid, ``faults``; nothing is raised for it, and a worker that dies costs no document."""
    if executor is None:
        for document in documents:
            yield answered(*_text_of(document), studies)
        return
    # The documents are gone through twice; the first pass is ahead by as many as are being computed.
    first, second = tee(_text_of(d) for d in documents)
    found = in_order(answered_text, ((t, e, studies) for t, e in first if not _is_large(t)), executor, AHEAD)
    for text, error in second:
        if _is_large(text):
            yield answered(text, error, studies, executor)
            continue
        answer = next(found)
        yield {"format": ANSWERS_FORMAT, "error": answer.reason} if isinstance(answer, Lost) else json.loads(answer)


def _text_of(document: DocumentLike) -> tuple[str, str]:
    """Return the text of a document, or why there is none."""
    if isinstance(document, Document):
        return document.model_dump_json(exclude_defaults=True, by_alias=True), ""
    if isinstance(document, Mapping):
        return json.dumps(document), ""
    if isinstance(document, str) and document.lstrip().startswith("{"):
        return document, ""
    try:
        return Path(document).read_text(encoding="utf-8"), ""
    except UnicodeDecodeError:
        return "", f"{document}: the text is not UTF-8, so it is not a document"
    except OSError as error:
        return "", f"{document} cannot be read: {(error.strerror or str(error)).lower()}"


def _is_large(text: str) -> bool:
    """Tell whether a document holds a spread whose samples are better shared than the document."""
    return '"spread"' in text and has_large_spread(text)


def answered_text(text: str, error: str, studies: tuple[str, ...]) -> str:
    """Return the answers of a document's text as JSON, which travels as it is."""
    return json.dumps(answered(text, error, studies), allow_nan=False)


def answered(text: str, error: str, studies: tuple[str, ...] = (), executor: Executor | None = None) -> dict[str, Any]:
    """Return the answers of a document's text, or of one that has none why; its large spreads go to ``executor``."""
    if error:
        return {"format": ANSWERS_FORMAT, "error": error}
    try:
        evaluator = Evaluator()
        with sharing(executor):
            return solve(parse_document(text), studies, evaluator)
    except DocumentError as found:
        lines = str(found).splitlines()
        return {"format": ANSWERS_FORMAT, "error": "the document is invalid", "faults": lines}
    except Exception as found:
        # A fault of the program is told as such, and costs this document alone.
        log.exception("a document failed")
        told = f"{type(found).__name__}: {found}".rstrip(": ")
        return {"format": ANSWERS_FORMAT, "error": f"the program failed on this document ({told})"}
