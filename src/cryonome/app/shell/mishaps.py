"""Faults of the program itself: caught at one place, written down with the document they happened on, and told to the
user."""

from __future__ import annotations

import logging
import sys
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from platformdirs import user_state_path

from ...document import Document, document_text
from ...document.files import write_atomic

log = logging.getLogger(__name__)

MOST_REPORTS = 20
"""Reports that are kept; a fault that happens again and again must not fill the disk."""


class Mishaps:
    """Stands where Python hands over what no slot caught."""

    def __init__(
        self, document: Callable[[], Document], tell: Callable[[str, str], None], folder: Path | None = None
    ) -> None:
        self._document, self._tell = document, tell
        self.folder = folder if folder is not None else user_state_path("cryonome") / "mishaps"
        self._told: set[str] = set()
        self._busy = False

    def install(self) -> None:
        """Catch from now on."""
        sys.excepthook = self.caught

    def caught(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Write down and tell what happened; the same fault at the same place is told once."""
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        if self._busy:
            # Showing the message failed too; no second window is tried.
            log.error("a fault while telling of a fault", exc_info=(kind, error, trace))
            return
        self._busy = True
        try:
            lines = traceback.format_exception(kind, error, trace)
            log.error("a fault of the program: %s", "".join(lines))
            place = "".join(lines[-2:])
            if place in self._told:
                return
            self._told.add(place)
            report = self._written(lines)
            where = f" What happened is written down in {report}." if report is not None else ""
            self._tell(
                "Something went wrong in the program; your work is kept.",
                f"{kind.__name__}: {str(error)[:200]}. Undo the last step (Ctrl+Z) if something looks wrong, and save.{where}",
            )
        finally:
            self._busy = False

    def _written(self, lines: list[str]) -> Path | None:
        try:
            old = sorted(self.folder.glob("*.txt"), key=lambda p: p.stat().st_mtime) if self.folder.exists() else []
            for file in old[: max(0, len(old) - MOST_REPORTS + 1)]:
                file.unlink(missing_ok=True)
            report = self.folder / f"{time.strftime('%Y%m%d-%H%M%S')}-{len(self._told)}.txt"
            report.parent.mkdir(parents=True, exist_ok=True)
            write_atomic(report, "".join(lines) + "\n" + document_text(self._document()))
        except Exception:
            log.exception("the report of a fault could not be written")
            return None
        return report
