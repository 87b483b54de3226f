"""The variants of a fluid: its tunings as words, to keep, use, compare on the map and drop; each is one step that can
be undone."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ....document.edits import update_fluid
from ....document.model import Fluid, Tuning, Variant
from ....document.model import Ghost as Kept
from ...shell.live import Live
from ...widgets.fields import elided, link, page_button, section


class Variants(QWidget):
    """The words under their heading. ``laid_over`` tells that envelopes were put on the map."""

    laid_over = Signal()

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._answer: dict[str, Any] | None = None
        self._match = ""
        self.keep = link("keep this tuning", self.keep_tuning)
        self.overlay = link("lay over one another on the map", self.lay_over)
        head = QHBoxLayout()
        head.addWidget(section("Variants"))
        head.addStretch(1)
        head.addWidget(self.keep)
        self.row = QHBoxLayout()
        self.row.setSpacing(6)
        self.row.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(5)
        layout.addLayout(head)
        layout.addLayout(self.row)
        layout.addWidget(self.overlay, 0, Qt.AlignmentFlag.AlignLeft)

    def fluid(self) -> Fluid | None:
        """Return the chosen fluid."""
        return self._live.current_fluid()

    def show_answer(self, match: str, answer: dict[str, Any] | None) -> None:
        """Show the variants of the chosen fluid beside the answer of a match by its name."""
        self._match, self._answer = match, answer
        fluid = self.fluid()
        while self.row.count() > 1:
            item = self.row.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.setParent(None)
                widget.deleteLater()
        if fluid is None:
            return
        now = fluid.model.tuned
        words = [
            ("untuned", None, "the fluid as it was characterized"),
            *((v.name, v.tuned, v.note) for v in fluid.variants),
        ]
        for name, tuned, note in words:
            word = page_button(elided(name, 26), lambda _on=False, t=tuned, n=name: self.use(t, n), note)
            word.setChecked(tuned == now)
            if tuned is not None:
                word.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
                word.customContextMenuRequested.connect(lambda _at, n=name: self.drop(n))
                word.setToolTip(f"{note}\nA right click drops it.")
            self.row.insertWidget(self.row.count() - 1, word)
        kept = answer is not None and any(_same(v.tuned, answer["tuned"]) for v in fluid.variants)
        self.keep.setEnabled(answer is not None and not kept)
        self.keep.setText("kept" if kept else "keep this tuning")
        self.overlay.setVisible(bool(fluid.variants))

    def keep_tuning(self, _on: bool = False) -> None:
        """Take the tuning over to the fluid, and keep it as a variant beside the untuned one, as one step."""
        answer, fluid = self._answer, self.fluid()
        if answer is None or fluid is None:
            return
        tuned = Tuning.model_validate(answer["tuned"])
        words = " and ".join(dict.fromkeys(p["label"].partition(" of ")[0] for p in answer["parameters"]))
        name, number = words, 2
        while name in [v.name for v in fluid.variants]:
            name, number = f"{words} {number}", number + 1
        done = [
            d
            for d in answer["deviations"].values()
            if d["before"] is not None and d["after"] is not None and not d["held_out"]
        ]
        points = sum(d["points"] for d in done) or 1
        before, after = (sum(d[k] * d["points"] for d in done) / points for k in ("before", "after"))
        when = f"{datetime.now():%Y-%m-%d %H:%M}"
        changes = ", ".join(f"{p['label']} {p['start']:.4g} to {p['value']:.4g}" for p in answer["parameters"])
        note = f"{self._match}, {when}: {before:.2f} % to {after:.2f} % in {points} points; {changes}"

        def change(f: Fluid) -> Fluid:
            kept = (*f.variants, Variant(name=name, tuned=tuned, note=note))
            return f.model_copy(update={"variants": kept, "model": f.model.model_copy(update={"tuned": tuned})})

        self._live.store.edit("Keep a tuning", lambda d: update_fluid(d, fluid.name, change))

    def use(self, tuned: Tuning | None, name: str) -> None:
        """Let the fluid have a variant's tuning, or none."""
        self._live.set_fluid(f"Use {name}", {("model", "tuned"): tuned})

    def drop(self, name: str) -> None:
        """Drop a variant; where the fluid has its tuning, it is untuned again."""
        fluid = self.fluid()
        found = next((v for v in fluid.variants if v.name == name), None) if fluid is not None else None
        if fluid is None or found is None:
            return

        def change(f: Fluid) -> Fluid:
            model = f.model.model_copy(update={"tuned": None}) if f.model.tuned == found.tuned else f.model
            return f.model_copy(update={"variants": tuple(v for v in f.variants if v.name != name), "model": model})

        self._live.store.edit(f"Drop {name}", lambda d: update_fluid(d, fluid.name, change))

    def lay_over(self, _on: bool = False) -> None:
        """Keep the envelopes of the other variants as ghosts of the map, and show it."""
        fluid = self.fluid()
        if fluid is None:
            return
        document = self._live.document
        others = [("untuned", None), *((v.name, v.tuned) for v in fluid.variants)]
        ghosts = list(document.ghosts)
        for name, tuned in others:
            title = f"{fluid.name}, {name}"
            if tuned == fluid.model.tuned or title in [g.name for g in ghosts]:
                continue
            made = fluid.model_copy(update={"variants": (), "model": fluid.model.model_copy(update={"tuned": tuned})})
            ghosts.append(
                Kept(
                    name=title,
                    fluid=made,
                    inside=tuple(f for f in document.fluids if f.name != fluid.name),
                    samples=document.samples,
                )
            )
        self._live.store.edit("Lay variants over the map", lambda d: d.model_copy(update={"ghosts": tuple(ghosts)}))
        self.laid_over.emit()


def _same(one: Tuning, other: dict[str, Any]) -> bool:
    made = Tuning.model_validate(other)
    if [(c.property, c.components, c.partners) for c in one.changes] != [
        (c.property, c.components, c.partners) for c in made.changes
    ]:
        return False
    pairs = [(float(a.value or 0.0), float(b.value or 0.0)) for a, b in zip(one.changes, made.changes)]
    return all(abs(a - b) <= 1e-9 * abs(b) for a, b in pairs)
