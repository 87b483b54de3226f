"""The ledger: faults, warnings, extrapolations and estimates, each linked to its place."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout

from ..characterization import CharacterizedSample
from ..equilibrium.phase_map import PhaseMap
from ..studies.inputs import FluidModel
from .fields import elided
from .live import Live
from .theme import LIGHT, Theme

KINDS = ("fault", "warning", "extrapolation", "correction", "estimate")
LAB, CUTS, FLUID, MAP = range(4)


@dataclass(frozen=True)
class Entry:
    """One line: its kind, the sentence and the desk it belongs to."""

    kind: str
    text: str
    desk: int


def entries(live: Live) -> list[Entry]:
    """Return everything there is to say about what is shown, the gravest first."""
    out = [Entry("fault", f.message, LAB) for f in live.sample.faults]
    out += [Entry("fault", f.message, FLUID) for f in live.fluid.faults]
    if live.fluid.error and not live.fluid.faults:
        out.append(Entry("fault", live.fluid.error, FLUID))
    result, model, whole = live.sample.value, live.fluid.value, live.map.value
    if isinstance(result, CharacterizedSample):
        for remark in result.remarks:
            desk = (
                LAB
                if remark.place in ("curve", "density", "molar_mass", "watson_k") and remark.kind != "estimate"
                else CUTS
            )
            out.append(Entry(remark.kind, f"{result.name}: {remark.text}", desk))
    if isinstance(model, FluidModel):
        out += [Entry(r.kind, f"{model.name}: {r.text}", FLUID) for r in model.remarks]
    if isinstance(whole, PhaseMap):
        out += [Entry("warning", text, MAP) for text in whole.remarks]
    return sorted(out, key=lambda e: KINDS.index(e.kind))


class Ledger(QFrame):
    """The bar at the bottom with the counts, and the drawer with the entries."""

    place_chosen = Signal(int)

    def __init__(self, live: Live) -> None:
        super().__init__()
        self.setObjectName("ledger")
        self._live = live
        self.theme = LIGHT
        self.toggle = QPushButton("Ledger")
        self.toggle.setObjectName("link")
        self.toggle.setToolTip("Open or close the ledger (Ctrl+L)")
        self.toggle.clicked.connect(lambda: self.open(not self.drawer.isVisible()))
        self.counts, self.message, self.units = QLabel(""), QLabel(""), QLabel("")
        self.units.setObjectName("mute")
        self.drawer = QListWidget()
        self.drawer.setObjectName("ledgerlist")
        self.drawer.setAccessibleName("Ledger")
        self.drawer.setWordWrap(True)
        self.drawer.setFixedHeight(144)
        self.drawer.itemActivated.connect(self._jump)
        self.drawer.itemClicked.connect(self._jump)
        self.drawer.hide()
        bar = QHBoxLayout()
        bar.setContentsMargins(12, 3, 16, 3)
        bar.addWidget(self.toggle)
        bar.addSpacing(8)
        bar.addWidget(self.counts)
        bar.addStretch(1)
        bar.addWidget(self.message)
        bar.addSpacing(24)
        bar.addWidget(self.units)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(bar)
        layout.addWidget(self.drawer)
        for signal in (
            live.sample_changed,
            live.fluid_changed,
            live.map_changed,
            live.selection_changed,
        ):
            signal.connect(self.refresh)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.refresh()

    def open(self, shown: bool) -> None:
        """Open or close the drawer."""
        self.drawer.setVisible(shown)
        self.refresh()

    def say(self, text: str) -> None:
        """Show a passing message in the bar."""
        self.message.setText(elided(text, 90))
        self.message.setToolTip(text)

    def refresh(self) -> None:
        """Count the entries and, where the drawer is open, list them."""
        found = entries(self._live)
        names = {
            "fault": "fault",
            "warning": "warning",
            "extrapolation": "extrapolation",
            "correction": "correction",
            "estimate": "estimate",
        }
        pieces = []
        for kind in KINDS:
            count = sum(e.kind == kind for e in found)
            if count:
                text = f"{count} {names[kind]}{'s' if count > 1 else ''}"
                colour = self.theme.fault if kind in ("fault", "warning") else self.theme.mute
                pieces.append(f'<span style="color:{colour}">{text}</span>')
        self.counts.setText("&nbsp;&nbsp;&nbsp;".join(pieces) or "nothing to report")
        self.units.setText(f"Units: {self._live.document.display.units}")
        if not self.drawer.isVisible():
            return
        self.drawer.clear()
        signs = {"fault": "▲", "warning": "▲", "extrapolation": "↗", "correction": "↔", "estimate": "○"}
        for entry in found:
            item = QListWidgetItem(f"{signs[entry.kind]}  {entry.kind}:  {entry.text[:1].upper()}{entry.text[1:]}")
            item.setData(Qt.ItemDataRole.UserRole, entry.desk)
            item.setToolTip("Click to go there")
            self.drawer.addItem(item)

    def _jump(self, item: QListWidgetItem) -> None:
        self.place_chosen.emit(item.data(Qt.ItemDataRole.UserRole))
