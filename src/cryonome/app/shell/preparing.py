"""What is said while the solvers are compiled, once on a machine: the window is there meanwhile, and answers come
when that is done."""

from __future__ import annotations

import contextlib

from PySide6.QtCore import QObject, Signal

from ...kernels import give_up, listeners


class Preparing(QObject):
    """Tells how far the solvers are, as a sentence, from whichever thread they are waited for in."""

    said = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        listeners.append(self._hear)

    def _hear(self, done: int, whole: int) -> None:
        text = f"Compiling the solvers for this processor, once: {done} of {whole}; answers follow"
        with contextlib.suppress(RuntimeError):  # the window closed meanwhile
            self.said.emit("The solvers are compiled" if done == whole else text)

    def end(self) -> None:
        """Wait for them no more."""
        with contextlib.suppress(ValueError):
            listeners.remove(self._hear)
        give_up()
