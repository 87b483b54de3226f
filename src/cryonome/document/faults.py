"""What can be wrong with a document, said in one sentence at one place."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

PathParts = tuple[str | int, ...]


@dataclass(frozen=True)
class Fault:
    """Where (``path``) and what (``message``); ``severity`` is "error" or "warning"; ``proposal`` a likely value as
    text, if one is known."""

    path: PathParts
    message: str
    severity: str = "error"
    proposal: str | None = None

    def __str__(self) -> str:
        # One line a fault, whatever was quoted in it.
        return " ".join(f"{format_path(self.path)}: {self.message}".split())


class DocumentError(ValueError):
    """A document that cannot be used; ``faults`` say why."""

    def __init__(self, faults: Sequence[Fault]) -> None:
        super().__init__("\n".join(str(f) for f in faults))
        self.faults = tuple(faults)


def errors(faults: Iterable[Fault]) -> list[Fault]:
    """Return the faults that forbid a computation."""
    return [f for f in faults if f.severity == "error"]


def format_path(path: PathParts) -> str:
    """Return a path as ``fluids[0].parts[2].amount``; the whole document is ``document``."""
    text = ""
    for part in path:
        text += f"[{part}]" if isinstance(part, int) else f".{part}" if text else part
    return text or "document"


def did_you_mean(name: str, known: Iterable[str]) -> str:
    """Return ", did you mean X?" for the nearest known name, or the list of what there is."""
    known = list(known)
    near = difflib.get_close_matches(name.casefold(), [k.casefold() for k in known], n=2, cutoff=0.5)
    originals = [k for n in near for k in known if k.casefold() == n]
    if originals:
        return f"; did you mean {' or '.join(dict.fromkeys(originals))}?"
    if not known:
        return "; the document has none"
    shown = ", ".join(known[:6]) + (", ..." if len(known) > 6 else "")
    return f"; there is {shown}"
