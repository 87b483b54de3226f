"""The things of a project as the shelf offers them: samples, fluids and questions added, renamed, copied, removed,
and fluids made of answers."""

from __future__ import annotations

from PySide6.QtWidgets import QInputDialog

from ...document import Fluid, FluidPart, Sample, Study
from ...document import edits as change
from ...document.kinds import study_kinds
from ...document.model import MadeBy
from ...document.references import users
from ..pages.shared.desk import desk_entries
from .project_files import ProjectFiles


class Things(ProjectFiles):
    """The part of the main window that has to do with samples, fluids and questions by name."""

    def add_sample(self, wanted: str = "New sample") -> None:
        """Add an empty sample."""
        name = change.free_name(self.store.document, wanted)
        self.store.edit("Add a sample", lambda d: change.add_sample(d, Sample(name=name)))
        self.live.select_sample(name)
        self.show_desk("lab")

    def add_fluid(self) -> None:
        """Add a fluid made of the selected sample, or an empty one."""
        sample = self.live.current_sample()
        parts = (FluidPart(sample=sample.name, amount=100),) if sample else ()
        wanted = f"{sample.name} fluid" if sample else "New fluid"
        name = change.free_name(self.store.document, wanted)
        self.store.edit("Add a fluid", lambda d: change.add_fluid(d, Fluid(name=name, parts=parts)))
        self.live.select_fluid(name)
        self.show_desk("fluid")

    def rename_study(self) -> None:
        """Ask for another name of the chosen question."""
        old = self.live.session.study_name
        new = self._ask_name("Rename the question", old) if old else None
        if new:
            self.live.follow_rename(old, new)
            self.store.edit("Rename the question", lambda d: change.renamed(d, "studies", old, new))

    def open_question(self, name: str) -> None:
        """Open the page of a question."""
        study = self.store.document.study(name)
        if study is not None:
            self.live.select_study(name)
            self.show_desk(page_of(study))

    def make_fluid(self) -> None:
        """Add a fluid that is what the chosen question gives, and follows it."""
        study = self.live.current_study()
        gives = study_kinds()[study.kind].gives if study is not None else None
        if study is None or gives is None:
            able = ", ".join(k.title.lower() for k in study_kinds().values() if k.gives is not None)
            self.tell("The chosen question gives no fluid.", f"Choose one of these kinds: {able}.")
            return
        answer = self.live.answer(study.name).value
        streams = gives.streams(answer) if answer and answer.get("ok") else []
        if not streams:
            self.tell("There is no answer yet that a fluid could follow.", "Wait for it, or mend the question.")
            return
        stream = streams[0]
        if len(streams) > 1:
            stream, ok = QInputDialog.getItem(self, "A fluid that follows this question", "Stream", streams, 0, False)
            if not ok:
                return
        wanted = f"{study.name}, {stream}" if stream else f"{study.name}, fluid"
        name = change.free_name(self.store.document, wanted)
        made = Fluid(name=name, made_by=MadeBy(study=study.name, stream=stream))
        self.store.edit("Add a fluid that follows a question", lambda d: change.add_fluid(d, made))
        self.live.select_fluid(name)
        self.show_desk("fluid")

    def remove_study(self) -> None:
        """Remove the chosen question; undo brings it back."""
        name = self.live.session.study_name
        if name:
            self.store.edit("Remove the question", lambda d: change.removed(d, "studies", name))
            self._removed("studies", name)

    def duplicate_sample(self) -> None:
        """Copy the selected sample."""
        sample = self.live.current_sample()
        if sample is not None:
            name = change.free_name(self.store.document, f"{sample.name}, copy")
            copy = change.set_at(sample, ("name",), name)
            self.store.edit("Duplicate the sample", lambda d: change.add_sample(d, copy))
            self.live.select_sample(name)

    def duplicate_fluid(self) -> None:
        """Copy the selected fluid."""
        chosen = self.live.current_fluid()
        if chosen is not None:
            name = change.free_name(self.store.document, f"{chosen.name}, copy")
            copy = change.set_at(chosen, ("name",), name)
            self.store.edit("Duplicate the fluid", lambda d: change.add_fluid(d, copy))
            self.live.select_fluid(name)

    def rename_sample(self) -> None:
        """Ask for another name of the selected sample."""
        old = self.live.sample_name
        new = self._ask_name("Rename the sample", old) if old else None
        if new:
            self.live.follow_rename(old, new)
            self.store.edit("Rename the sample", lambda d: change.renamed(d, "samples", old, new))

    def rename_fluid(self) -> None:
        """Ask for another name of the selected fluid."""
        old = self.live.fluid_name
        new = self._ask_name("Rename the fluid", old) if old else None
        if new:
            self.live.follow_rename(old, new)
            self.store.edit("Rename the fluid", lambda d: change.renamed(d, "fluids", old, new))

    def _ask_name(self, title: str, old: str) -> str | None:
        new, ok = QInputDialog.getText(self, title, "Name", text=old)
        new = new.strip()
        if not ok or not new or new == old:
            return None
        document = self.store.document
        if document.sample(new) or document.fluid(new) or document.study(new):
            self.tell(
                f"The name '{new}' is taken.", "Samples, fluids and questions have different names; choose another."
            )
            return None
        return new

    def remove_sample(self) -> None:
        """Remove the selected sample; what is made of it says so, and undo brings it back."""
        name = self.live.sample_name
        if name:
            self.store.edit("Remove the sample", lambda d: change.removed(d, "samples", name))
            self._removed("samples", name)

    def remove_fluid(self) -> None:
        """Remove the selected fluid; undo brings it back."""
        name = self.live.fluid_name
        if name:
            self.store.edit("Remove the fluid", lambda d: change.removed(d, "fluids", name))
            self._removed("fluids", name)

    def _removed(self, group: str, name: str) -> None:
        """Say what was removed, and what still names it."""
        left = [t.name for t in users(self.store.document, group, name)]
        more = f" and {len(left) - 3} more" if len(left) > 3 else ""
        told = f"; {', '.join(left[:3])}{more} asked for it and say{'s' if len(left) == 1 else ''} so" if left else ""
        self.ledger.say(f"{name} removed, undo brings it back{told}")


def page_of(study: Study) -> str:
    """Return the desk a question opens on: of a test that carries measured values the one where it is matched."""
    found = [e.key for e in desk_entries() if study.kind in e.kinds]
    if len(found) > 1 and not getattr(study, "measured", None):
        return found[-1]
    return found[0] if found else "other"
