"""The ledger: faults, warnings, extrapolations and estimates, each linked to its place."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout

from ..characterization import CharacterizedSample, Remark
from ..characterization.correlations import REGISTRY
from ..document import Fault
from ..equilibrium.phase_map import PhaseMap
from ..studies.inputs import FluidModel
from .desks.lab import ON_SHEET
from .fields import elided
from .live import Live
from .theme import LIGHT, Theme

KINDS = ("fault", "warning", "extrapolation", "correction", "estimate")
LAB, CUTS, FLUID, MAP = range(4)


@dataclass(frozen=True)
class Entry:
    """One line: its kind, the sentence, the desk and the page of it where it acts, and the fault of a cell."""

    kind: str
    text: str
    desk: int
    page: int = 0
    cell: Fault | None = None


def entries(live: Live) -> list[Entry]:
    """Return everything there is to say about what is shown, the gravest first."""
    out = [
        Entry("fault" if f.severity == "error" else "warning", f.message, *_fault_place(f)) for f in live.sample.faults
    ]
    if live.sample.error and not any(f.message == live.sample.error for f in live.sample.faults):
        out.append(Entry("fault", live.sample.error, LAB))
    out += [Entry("fault", f.message, FLUID) for f in live.fluid.faults]
    if live.fluid.error and not live.fluid.faults and not any(e.text == live.fluid.error for e in out):
        out.append(Entry("fault", live.fluid.error, FLUID))
    result, model, whole = live.sample.value, live.fluid.value, live.map.value
    if isinstance(result, CharacterizedSample):
        for remark in result.remarks:
            out.append(Entry(remark.kind, f"{result.name}: {remark.text}", *_remark_place(remark)))
    if isinstance(model, FluidModel):
        out += [Entry(r.kind, f"{model.name}: {r.text}", FLUID) for r in model.remarks]
    if isinstance(whole, PhaseMap):
        out += [Entry("warning", text, MAP) for text in whole.remarks]
    return sorted(out, key=lambda e: KINDS.index(e.kind))


def _fault_place(fault: Fault) -> tuple[int, int, Fault]:
    """Return desk and page of a fault of the sample."""
    part = fault.path[2] if len(fault.path) > 2 else ""
    if part in ("cuts", "correlations"):
        regions = len(fault.path) > 3 and fault.path[3] in ("regions", "number")
        return CUTS, 2 if part == "correlations" else 1 if regions else 0, fault
    if part == "light_ends":
        return LAB, 1, fault
    reading = part == "distillation" and len(fault.path) > 3 and fault.path[3] not in ON_SHEET
    return LAB, 2 if reading else 0, fault


def _remark_place(remark: Remark) -> tuple[int, int]:
    """Return desk and page where a remark acts: what was measured, else the choice of correlations."""
    if remark.place == "light_ends":
        return LAB, 1
    if remark.place in ("curve", "carbon"):
        return LAB, 2
    if remark.place == "cuts":
        return CUTS, 0
    if (remark.place in REGISTRY and remark.kind in ("estimate", "extrapolation")) or remark.place == "correlations":
        return CUTS, 2
    return LAB, 0


class Ledger(QFrame):
    """The bar at the bottom with the counts, and the drawer with the entries."""

    place_chosen = Signal(object)

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
            item.setData(Qt.ItemDataRole.UserRole, entry)
            item.setToolTip("Click to go there")
            self.drawer.addItem(item)

    def _jump(self, item: QListWidgetItem) -> None:
        self.place_chosen.emit(item.data(Qt.ItemDataRole.UserRole))
