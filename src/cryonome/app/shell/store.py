"""The one place where the document is held and changed.

The document is immutable; an edit replaces it and leaves an undo command with the old and the new one. Widgets read
the present document and listen to :attr:`Store.changed`.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from pydantic_core import PydanticSerializationError
from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from ...document import Autosave, Document, load, save, signature
from ...document.drafts import checked
from ...document.following import followed

log = logging.getLogger(__name__)

AUTOSAVE_DELAY = 1200
"""ms between the first edit that is not kept and its safety copy; further edits do not put it off."""


LARGE = 10_000
"""Points of curves from which on a document takes a while to write."""


def _cells(document: Document) -> int:
    """Return about how many points of curves a document holds."""
    return sum(
        len(s.distillation.points) + len(s.curves.density) + sum(len(q.points) for q in s.curves.quantities)
        for s in document.samples
    )


class FileChangedError(OSError):
    """The file on disk is not the one that was opened or saved: another program changed it."""


class _Edit(QUndoCommand):
    def __init__(self, store: Store, text: str, old: Document, new: Document, merge: str) -> None:
        super().__init__(text)
        self._store, self._old, self._new, self._merge = store, old, new, merge

    def redo(self) -> None:
        self._store._show(self._new)

    def undo(self) -> None:
        self._store._show(self._old)

    def id(self) -> int:
        return 1 if self._merge else -1

    def mergeWith(self, other: QUndoCommand) -> bool:
        if isinstance(other, _Edit) and other._merge == self._merge:
            self._new = other._new
            return True
        return False


class Store(QObject):
    """The open document, its file, its undo stack and its safety copy."""

    replaced = Signal()
    """Another document is held; told before ``changed``."""
    changed = Signal()
    file_changed = Signal()
    message = Signal(str)

    def __init__(
        self, document: Document | None = None, path: Path | None = None, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._document = document if document is not None else Document()
        self.path = path
        self._known = signature(path) if path is not None else None
        self.shown: Callable[[Document], Document] = lambda document: document
        """Makes the document that is shown, which edits are of, out of the one that is kept."""
        self.folded: Callable[[Document], Document] = lambda document: document
        """Makes the one to keep out of what an edit led to."""
        self.saved: Callable[[Document], Document] = lambda document: document
        """Adds what a file has beside what is edited: the numbers of the answers there are."""
        self.undo_stack = QUndoStack(self)
        self.undo_stack.cleanChanged.connect(self._clean_changed)
        self.autosave = Autosave(path)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(AUTOSAVE_DELAY)
        self._timer.timeout.connect(self._keep_behind)
        self._writer = ThreadPoolExecutor(1, "safety-copy")

    def _clean_changed(self, _clean: bool) -> None:
        self.file_changed.emit()

    @property
    def document(self) -> Document:
        """The present document."""
        return self._document

    @property
    def dirty(self) -> bool:
        """Whether there are edits that the file does not have."""
        return not self.undo_stack.isClean()

    def edit(self, text: str, change: Callable[[Document], Document], merge: str = "") -> bool:
        """Apply a change as one undoable step named ``text``; edits with the same ``merge`` key join the last one.

        Returns whether anything changed.
        """
        whole = self.shown(self._document)
        new = self.folded(checked(whole, followed(whole, change(whole))))
        if new == self._document:
            return False
        try:
            new.model_dump_json()
        except (PydanticSerializationError, UnicodeEncodeError):
            self.message.emit("That text holds half of a character, which no file can hold; nothing was changed")
            self.changed.emit()
            return False
        self.undo_stack.push(_Edit(self, text, self._document, new, merge))
        return True

    def _show(self, document: Document) -> None:
        self._document = document
        # Further edits do not put the copy off, so that the work of someone who never pauses is kept too.
        if not self._timer.isActive():
            self._timer.start()
        self.changed.emit()

    def replace(self, document: Document, path: Path | None, recovered: bool = False) -> None:
        """Hold another document, with an empty undo stack; ``recovered`` marks it as not saved."""
        self._timer.stop()
        self.path = path
        self._known = signature(path) if path is not None else None
        self.autosave.discard()
        self.autosave = Autosave(path)
        self.autosave.claim()
        self._document = document
        self.undo_stack.clear()
        if recovered:
            self.undo_stack.resetClean()
            self.keep_copy()
        self.replaced.emit()
        self.changed.emit()
        self.file_changed.emit()

    def open(self, path: Path) -> None:
        """Open a file. Raises DocumentError and OSError, and then nothing has changed."""
        self.replace(load(path), path)

    def changed_on_disk(self) -> bool:
        """Tell whether another program changed the document's file since it was opened or saved here."""
        found = signature(self.path) if self.path is not None else None
        return found is not None and found != self._known

    def save(self, path: Path | None = None, over: bool = False) -> None:
        """Save to ``path`` or to the document's own file. Raises OSError; FileChangedError where that would overwrite
        what another program wrote there, unless ``over``."""
        target = path or self.path
        if target is None:
            raise ValueError("the document has no file yet")
        if not over and target == self.path and self.changed_on_disk():
            raise FileChangedError(f"{target.name} was changed by another program since it was opened")
        self._document = self.saved(self._document)
        save(target, self._document)
        self._timer.stop()
        self.autosave.discard()
        self.path, self._known = target, signature(target)
        self.autosave = Autosave(target)
        self.autosave.claim()
        self.undo_stack.setClean()
        self.file_changed.emit()

    def _keep_behind(self) -> None:
        """Write the safety copy, of a large document off the interface thread."""
        document, autosave = self._document, self.autosave
        if not self.dirty or _cells(document) < LARGE:
            self.keep_copy()
            return

        def write() -> None:
            try:
                autosave.store(document)
            except OSError as error:
                log.warning("the safety copy could not be written: %s", error)

        self._writer.submit(write)

    def keep_copy(self) -> None:
        """Write the safety copy now."""
        try:
            if self.dirty:
                self.autosave.store(self._document)
            else:
                self.autosave.clean()
        except OSError as error:
            log.warning("the safety copy could not be written: %s", error)
            self.message.emit(f"The safety copy could not be written: {error}")

    def close(self) -> None:
        """Stop the timer and forget the safety copy: the user has decided about the edits."""
        self._timer.stop()
        self.autosave.discard()
