"""What stands in place of parts where a question gives the fluid: which question, and the choice to keep what it
gives now."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ....document import Fluid
from ....document.edits import set_at, update_fluid
from ....document.kinds import study_kinds
from ....document.migrate import with_ids
from ....errors import DomainError
from ...shell.live import Live
from ...widgets.fields import capital, elided, section


class MadeForm(QWidget):
    """The question that gives a fluid. It follows the answer until it is kept as it is."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._fluid: Fluid | None = None
        self.told, self.note = section("", ""), section("", "fault")
        self.told.setWordWrap(True)
        self.note.setWordWrap(True)
        self.open_button, self.freeze_button = QPushButton("Open the question"), QPushButton("Keep it as it is now")
        self.freeze_button.setToolTip(
            "Write the composition and constants it has now into the fluid, which then follows no more"
        )
        for button in (self.open_button, self.freeze_button):
            button.setObjectName("link")
        self.open_button.clicked.connect(self.open_question)
        self.freeze_button.clicked.connect(self.freeze)
        buttons = QHBoxLayout()
        buttons.addWidget(self.open_button)
        buttons.addWidget(self.freeze_button)
        buttons.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.told)
        layout.addLayout(buttons)
        layout.addWidget(self.note)
        layout.addStretch(1)

    def show_fluid(self, fluid: Fluid | None) -> None:
        """Show what gives a fluid; hide for one of parts."""
        self._fluid = fluid
        made = fluid.made_by if fluid is not None else None
        self.setVisible(made is not None)
        if made is not None:
            what = f"the {made.stream} of " if made.stream else "what it gives, "
            self.told.setText(f"{capital(what + elided(made.study)).rstrip('.')}. It follows that question's answer.")
            self.note.setText("")

    def open_question(self) -> None:
        """Choose the question that gives the fluid, and open its page."""
        if self._fluid is not None and self._fluid.made_by is not None:
            self._live.select_study(self._fluid.made_by.study)
            window = self.window()
            if hasattr(window, "open_question"):
                window.open_question(self._fluid.made_by.study)

    def freeze(self) -> None:
        """Keep the fluid as its question gives it now."""
        fluid = self._fluid
        if fluid is None or fluid.made_by is None:
            return
        project, made = self._live.session.project, fluid.made_by
        try:
            found = project.giver(made.study, made.stream)
            gives = study_kinds()[found.study.kind].gives
            part = gives.part(found.study, found.answer, made.stream, project) if gives is not None else None
        except DomainError as error:
            self.note.setText(capital(str(error)))
            return
        if isinstance(part, Fluid):
            kept = part.model_copy(
                update={"id": fluid.id, "name": fluid.name, "note": fluid.note or part.note, "made_by": None}
            )
            self._live.store.edit(
                "Keep the fluid as it is",
                lambda d: with_ids(update_fluid(d, fluid.name, lambda f: set_at(kept, ("id",), f.id))),
            )
