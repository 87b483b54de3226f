"""Safety copies of open documents, one for each window, kept outside the file until it is saved.

A copy carries the process it belongs to. While that lives nobody else touches it; once it is gone the copy is what
was left of unsaved work, and is offered, whether its file is still there, was renamed, or is damaged."""

from __future__ import annotations

import contextlib
import json
import os
import secrets
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from platformdirs import user_state_path

from .faults import DocumentError
from .files import LEFTOVER, document_text, load, parse_document, write_atomic
from .model import Document


def _born(pid: int) -> str:
    """Return when a process began, as the system tells it; nothing where there is none."""
    try:
        return Path(f"/proc/{pid}/stat").read_text(encoding="ascii", errors="replace").rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return ""


@dataclass(frozen=True)
class Kept:
    """What was left of a window that ended: the copy, the file it was of (None where it had none), when, and the
    document."""

    copy: Path
    source: Path | None
    when: float
    document: Document

    def discard(self) -> None:
        """Forget it."""
        self.copy.unlink(missing_ok=True)


class Autosave:
    """The safety copy of one open document."""

    def __init__(self, path: Path | None, folder: Path | None = None) -> None:
        self.folder = folder if folder is not None else user_state_path("cryonome") / "autosave"
        self.source = path.resolve() if path is not None else None
        self.discarded = False
        self.file = self.folder / f"{os.getpid()}-{secrets.token_hex(6)}.json"

    def claim(self) -> None:
        """Tell other windows that this one has the file open. A folder that cannot be written is no reason to stop."""
        if self.source is not None:
            with contextlib.suppress(OSError):
                self._write(None)

    def store(self, document: Document) -> None:
        """Keep the document's present state; nothing once it is discarded, since a copy may be written behind. Raises
        OSError."""
        if not self.discarded:
            self._write(document_text(document))
        if self.discarded:
            self.file.unlink(missing_ok=True)

    def _write(self, text: str | None) -> None:
        pid = os.getpid()
        data = {"path": str(self.source or ""), "pid": pid, "born": _born(pid), "when": time.time(), "document": text}
        self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        # The safety copy may lie where others can look, so that only its owner may read it, whatever the file allows.
        write_atomic(self.file, json.dumps(data, ensure_ascii=False), 0o600)

    def clean(self) -> None:
        """Forget what was kept, since the file has it all; the claim stays."""
        if self.source is None:
            self.file.unlink(missing_ok=True)
        else:
            self.claim()

    def discard(self) -> None:
        """Forget copy and claim, after a deliberate close."""
        self.discarded = True
        self.file.unlink(missing_ok=True)

    def _entries(self) -> list[tuple[Path, dict[str, Any]]]:
        out = []
        with contextlib.suppress(OSError):
            for file in sorted(self.folder.glob("*.json")):
                try:
                    data = json.loads(file.read_text(encoding="utf-8"))
                except (OSError, ValueError):
                    continue
                if file != self.file and isinstance(data, dict):
                    out.append((file, data))
        return out

    @staticmethod
    def _lives(data: dict[str, Any]) -> bool:
        pid = data.get("pid")
        return isinstance(pid, int) and pid > 0 and bool(data.get("born")) and _born(pid) == data.get("born")

    def open_elsewhere(self) -> bool:
        """Tell whether another window has the file open."""
        source = str(self.source or "")
        return bool(source) and any(d.get("path") == source and self._lives(d) for _, d in self._entries())

    def left(self, only: Path | None = None) -> list[Kept]:
        """Return what windows that ended left behind, the newest first, of the file ``only`` or of any; what their
        files have already is cleared away, what cannot be read is left."""
        wanted = str(only.resolve()) if only is not None else None
        out: list[Kept] = []
        for file, data in self._entries():
            if self._lives(data) or (wanted is not None and data.get("path") != wanted):
                continue
            try:
                kept = self._read(file, data)
            except DocumentError:
                continue  # a copy of another version: it is left for that
            if kept is None:
                file.unlink(missing_ok=True)
            else:
                out.append(kept)
        self._sweep()
        return sorted(out, key=lambda k: -k.when)

    @staticmethod
    def _read(file: Path, data: dict[str, Any]) -> Kept | None:
        """Return a copy, None where it holds nothing that its file has not. Raises DocumentError where it cannot be
        read."""
        text = data.get("document")
        if not isinstance(text, str):
            return None
        document = parse_document(text)
        source = Path(str(data["path"])) if data.get("path") else None
        if source is not None:
            with contextlib.suppress(DocumentError, OSError):
                if load(source) == document:
                    return None
        when = data.get("when")
        return Kept(file, source, float(when) if isinstance(when, (int, float)) else 0.0, document)

    def _sweep(self) -> None:
        """Remove what killed saves left in the folder."""
        with contextlib.suppress(OSError):
            for left in self.folder.glob(f".*{LEFTOVER}"):
                if time.time() - left.stat().st_mtime > 60.0:
                    left.unlink(missing_ok=True)
