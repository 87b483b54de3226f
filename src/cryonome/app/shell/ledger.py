"""The ledger: faults, warnings, extrapolations and estimates, each linked to its place."""

from __future__ import annotations

import time
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QToolButton,
    QVBoxLayout,
)

from ...document import Fault
from ...remarks import KINDS, Remark
from ...telling import sentence
from ...units import SETS
from ...wording.changed_words import summary
from ..pages.lab.page import is_blank
from ..pages.shared.desk import Place, place_of
from ..widgets.fields import elided, tip
from ..widgets.theme import LIGHT, Theme
from .live import Live
from .results_table import Shown
from .what_changed import known_changes

SINGLY = 3
"""So many lines of one origin stand by themselves; more are gathered."""

SIGNS = {"fault": "▲", "warning": "▲", "extrapolation": "↗", "correction": "↔", "estimate": "○"}


@dataclass(frozen=True)
class Entry:
    """One line: its kind, the sentence, the place where it acts, and what lines of the same origin share."""

    kind: str
    text: str
    place: Place | None
    group: str = ""


def entries(live: Live) -> list[Entry]:
    """Return everything there is to say about what is shown, the gravest first."""
    units = live.units()
    out: list[Entry] = []
    if not is_blank(live.current_sample()):
        out += _of_result(live.sample, ("samples",))
    out += _of_result(live.fluid, ("fluids",))
    result, model, whole = live.characterized(), live.model(), live.envelope()
    groups: list[tuple[str, str, tuple[Remark, ...]]] = []
    if result is not None:
        groups.append(("sample", f"{result.name}: ", result.remarks))
    if model is not None:
        groups.append(("fluid", f"{model.name}: ", model.remarks))
    if whole is not None:
        groups.append(("map", "", whole.remarks))
    for group, name, remarks in groups:
        for remark in remarks:
            place = place_of((group, remark.place, remark.kind))
            out.append(Entry(remark.kind, f"{name}{sentence(remark, units)}", place, f"{name}{remark.code}"))
    changed, compared, _ = known_changes(live)
    if changed:
        out.append(Entry("warning", f"{summary(changed, compared)} Help ▸ What changed tells by how much", None))
    for study in live.document.studies:
        out += [Entry(*_kind(f), place_of(f.path, f)) for f in live.answer(study.name).faults]
    return sorted(out, key=lambda e: KINDS.index(e.kind))


def _kind(fault: Fault) -> tuple[str, str]:
    return ("fault" if fault.severity == "error" else "warning"), fault.message


def _of_result(shown: Shown, group: tuple[str]) -> list[Entry]:
    out = [Entry(*_kind(f), place_of(f.path, f)) for f in shown.faults]
    if shown.error and not any(f.message == shown.error for f in shown.faults):
        out.append(Entry("fault", shown.error, place_of((*group, 0, "name"))))
    return out


class Ledger(QFrame):
    """The bar at the bottom with the counts, and the drawer with the entries."""

    place_chosen = Signal(object)
    units_chosen = Signal(str)

    def __init__(self, live: Live) -> None:
        super().__init__()
        self.setObjectName("ledger")
        self._live = live
        self._opened: set[tuple[str, str]] = set()
        self._turned = 0.0
        self.theme = LIGHT
        self.toggle = QPushButton("Ledger")
        self.toggle.setObjectName("link")
        self.toggle.setToolTip("Open or close the ledger (Ctrl+L)")
        self.toggle.clicked.connect(self.open_or_close)
        self.counts, self.message, self.units = QLabel(""), QLabel(""), QToolButton()
        self.message.setTextFormat(Qt.TextFormat.PlainText)
        self.message.setMinimumWidth(1)
        self.units.setObjectName("link")
        self.units.setToolTip("Choose the units of the whole project; a single number's unit is chosen where it stands")
        self.units.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        choices = QMenu(self.units)
        for name in SETS:
            choices.addAction(name, partial(self.units_chosen.emit, name))
        self.units.setMenu(choices)
        self.drawer: QListWidget = QListWidget()
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
        live.after(self, {"sample", "fluid", "map", "lines", "answer", "selection"}, self.refresh)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.theme = theme
        self.refresh()

    def open_or_close(self) -> None:
        """Open the drawer, or close it."""
        self.open(not self.drawer.isVisible())

    def open(self, shown: bool) -> None:
        """Open or close the drawer."""
        self.drawer.setVisible(shown)
        self.refresh()

    def say(self, text: str) -> None:
        """Show a passing message in the bar."""
        self.message.setText(elided(text, 90))
        self.message.setToolTip(tip(text))

    def refresh(self) -> None:
        """Count the entries and, where the drawer is open, list them."""
        found = entries(self._live)
        pieces = []
        for kind in KINDS:
            count = sum(e.kind == kind for e in found)
            if count:
                text = f"{count} {kind}{'s' if count > 1 else ''}"
                colour = self.theme.fault if kind in ("fault", "warning") else self.theme.mute
                pieces.append(f'<span style="color:{colour}">{text}</span>')
        self.counts.setText("&nbsp;&nbsp;&nbsp;".join(pieces) or "nothing to report")
        self.units.setText(f"Units: {self._live.document.display.units}")
        if not self.drawer.isVisible():
            return
        self.drawer.clear()
        counts: dict[tuple[str, str], int] = {}
        for entry in found:
            counts[entry.kind, entry.group] = counts.get((entry.kind, entry.group), 0) + 1
        begun: set[tuple[str, str]] = set()
        for entry in found:
            key = entry.kind, entry.group
            many = bool(entry.group) and counts[key] > SINGLY
            if many and key not in begun:
                begun.add(key)
                sign = "▾" if key in self._opened else "▸"
                self._add(
                    f"{sign}  {counts[key]} {entry.kind}s of one kind, the first:  {entry.text}",
                    key,
                    "Click to see each",
                )
            if not many or key in self._opened:
                indent = "        " if many else ""
                tip_text = "Click to go there" if entry.place is not None else ""
                text = f"{entry.text[:1].upper()}{entry.text[1:]}"
                self._add(f"{indent}{SIGNS[entry.kind]}  {entry.kind}:  {text}", entry, tip_text)

    def _add(self, text: str, data: object, note: str) -> None:
        item = QListWidgetItem(text)
        item.setData(Qt.ItemDataRole.UserRole, data)
        item.setToolTip(note)
        self.drawer.addItem(item)

    def _jump(self, item: QListWidgetItem) -> None:
        data = item.data(Qt.ItemDataRole.UserRole)
        if isinstance(data, Entry):
            self.place_chosen.emit(data)
            return
        # A double click is a click and an activation: it opens once.
        if time.monotonic() - self._turned < 0.3:
            return
        self._turned = time.monotonic()
        row = self.drawer.row(item)
        self._opened ^= {tuple(data)}
        self.refresh()
        self.drawer.setCurrentRow(row)
