"""The light ends of a sample: absent, measured, or estimated from the front of the curve."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtWidgets import QCompleter, QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from ....components import UnknownComponentError, all_components, find
from ....document import Fault, Sample
from ....document.model import LightEnds
from ....document.reader import cell_text, plain_cell
from ....exchange.entries import is_header
from ....telling import sentence
from ...shell.live import Live
from ...widgets.fields import ChoiceField, capital, section
from ...widgets.grid import GridModel, GridView
from ...widgets.theme import Theme
from .sheet_model import BASIS_LABELS

MODES = {"absent": "none", "measured": "measured", "estimated": "estimated from the front"}
BASES = {"volume": "volume", "mass": "mass", "mole": "mole"}
CURVES = {"whole": "the whole sample", "rest": "the rest without them"}
COMMON = ("ethane", "propane", "isobutane", "n-butane", "isopentane", "n-pentane")


class LightEndsModel(GridModel):
    """Species with their percents; estimated ones muted."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self.ends = LightEnds()
        self._name = ""
        self._faults: dict[str, str] = {}

    def show(self, sample: Sample | None, faults: Sequence[Fault]) -> None:
        """Show a sample's light ends."""
        before = self.names()
        self.ends = sample.light_ends if sample else LightEnds()
        self._name = sample.name if sample else ""
        self._faults = {}
        for fault in faults:
            if len(fault.path) == 5 and fault.path[2] == "light_ends":
                key = fault.path[4]
                names = self.names()
                self._faults[names[key] if isinstance(key, int) and key < len(names) else str(key)] = fault.message
        if before == self.names():
            self.rewrite()
        else:
            self.reload()

    def names(self) -> list[str]:
        """Return the species shown."""
        return list(self.ends.amounts) if self.ends.mode == "measured" else list(self.ends.species)

    def titles(self) -> list[tuple[str, str]]:
        return [("species", ""), ("amount", f"{BASIS_LABELS.get(self.ends.basis, '%')} of the whole")]

    def rows(self) -> int:
        return len(self.names()) + 1

    def text(self, row: int, column: int) -> str:
        names = self.names()
        if row >= len(names):
            return ""
        if column == 0:
            return names[row]
        if self.ends.mode == "measured":
            return cell_text(self.ends.amounts[names[row]])
        result = self._live.characterized()
        if result is None or self._live.sample.old:
            return ""
        shares = {"volume": result.volume_fraction, "mass": result.mass_fraction, "mole": result.mole_fraction}.get(
            self.ends.basis, result.volume_fraction
        )
        try:
            name = find(names[row]).name
        except UnknownComponentError:
            return ""
        found = [float(shares[i]) for i, c in enumerate(result.components[: result.light]) if c.name == name]
        return f"{100 * found[0]:.3f}" if found else ""

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def muted(self, row: int, column: int) -> bool:
        return column == 1 and self.ends.mode == "estimated"

    def fault(self, row: int, column: int) -> str:
        names = self.names()
        return self._faults.get(names[row], "") if row < len(names) else ""

    def editable(self, row: int, column: int) -> bool:
        return column == 0 or self.ends.mode == "measured"

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        lines = [[n, self.ends.amounts.get(n)] for n in self.names()]
        for (row, column), value in sorted(cells.items()):
            while row >= len(lines):
                lines.append(["", None])
            lines[row][column] = _known(value) if column == 0 else plain_cell(value)
        self.keep(lines, text)

    def paste(self, row: int, column: int, block: list[list[str]]) -> None:
        """Take pasted names and percents; a header row is left out; known species are matched."""
        if block and is_header(block[0]) and len(block) > 1 and len(block[0]) > 1:
            block = block[1:]
        lines = [[n, self.ends.amounts.get(n)] for n in self.names()]
        if column == 1:
            cells = {(row + i, 1): line[0] for i, line in enumerate(block) if line}
            self.store_cells(cells, "Paste light ends")
            return
        for line in block:
            if not line or not line[0].strip():
                continue
            name = _known(line[0])
            amount = plain_cell(line[1]) if len(line) > 1 else None
            place = next((p for p in lines if p[0] == name), None)
            if place is None:
                lines.append([name, amount])
            else:
                place[1] = amount
        self.keep(lines, "Paste light ends")

    def keep(self, lines: list[list[Any]], text: str) -> None:
        """Store the species as one undoable step; rows without a name go."""
        lines = [line for line in lines if line[0]]
        mode = "measured" if self.ends.mode == "absent" else self.ends.mode
        update: dict[str, object] = {"mode": mode}
        if mode == "measured":
            update["amounts"] = dict(lines)
        else:
            update["species"] = tuple(n for n, _ in lines)
        ends = self.ends.model_copy(update=update)
        self._live.set_sample(text, ("light_ends",), ends, name=self._name)


def _known(text: str) -> str:
    try:
        return find(text.strip()).name
    except UnknownComponentError:
        return text.strip()


class LightEndsPanel(QWidget):
    """Mode, basis, what the curve is of, and the grid of species."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        form = QGridLayout()
        form.setVerticalSpacing(4)
        form.setColumnMinimumWidth(0, 128)
        form.setColumnStretch(3, 1)
        self.mode = ChoiceField(form, 0, "Light ends", MODES, self._choose_mode)
        self.basis = ChoiceField(
            form, 1, "Percents by", BASES, lambda k: self._store({"basis": k}, "Basis of the light ends")
        )
        self.curve = ChoiceField(
            form, 2, "The boiling curve is of", CURVES, lambda k: self._store({"curve": k}, "What the curve is of")
        )
        self.model = LightEndsModel(live)
        self.grid = GridView(self.model)
        self.grid.setAccessibleName("Light ends")
        self.entry = QLineEdit()
        self.entry.setPlaceholderText("Add a species")
        self.entry.setAccessibleName("Add a species")
        completer = QCompleter(QStringListModel([c.name for c in all_components()], self), self)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.entry.setCompleter(completer)
        self.entry.returnPressed.connect(self.add_species)
        self.common = QPushButton("C2 to C5")
        self.common.setToolTip("Add ethane, propane, the butanes and the pentanes")
        self.common.clicked.connect(self.add_common)
        self.fault = section("", "fault")
        self.fault.setWordWrap(True)
        self.note = section("", "mute")
        self.note.setWordWrap(True)
        adding = QHBoxLayout()
        adding.addWidget(self.entry, 1)
        adding.addWidget(self.common)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addLayout(form)
        layout.addWidget(self.grid, 1)
        layout.addLayout(adding)
        layout.addWidget(self.fault)
        layout.addWidget(self.note)

    def set_theme(self, theme: Theme) -> None:
        """Paint in a theme."""
        self.grid.set_theme(theme)

    def _store(self, update: dict[str, object], text: str) -> None:
        self._live.set_sample(text, ("light_ends",), self.model.ends.model_copy(update=update))

    def _choose_mode(self, mode: str) -> None:
        ends = self.model.ends
        update: dict[str, object] = {"mode": mode}
        # The species stay when the way they are known changes.
        if mode == "estimated" and not ends.species:
            update["species"] = tuple(ends.amounts) or COMMON[1:]
        if mode == "measured" and not ends.amounts:
            update["amounts"] = dict.fromkeys(ends.species or COMMON[1:])
        self._store(update, "Light ends")

    def add_species(self) -> None:
        """Add the species the entry names."""
        text = self.entry.text().strip()
        if text:
            lines = [[n, self.model.ends.amounts.get(n)] for n in self.model.names()]
            self.model.keep([*lines, [_known(text), None]], f"Add {text}")
            self.entry.clear()

    def add_common(self) -> None:
        """Add ethane to the pentanes where they are not there yet."""
        names = self.model.names()
        lines = [[n, self.model.ends.amounts.get(n)] for n in names]
        self.model.keep([*lines, *[[n, None] for n in COMMON if n not in names]], "Add C2 to C5")

    def show_sample(self, sample: Sample | None) -> None:
        """Show the selected sample's light ends."""
        self.model.show(sample, self._live.sample.faults)
        ends = self.model.ends
        self.mode.show(ends.mode)
        self.basis.show(ends.basis)
        self.curve.show(ends.curve)
        shown = ends.mode != "absent"
        for field in (self.basis, self.curve):
            field.set_visible(shown)
        for part in (self.grid, self.entry, self.common):
            part.setVisible(shown)
        mine = [f for f in self._live.sample.faults if len(f.path) > 2 and f.path[2] == "light_ends"]
        self.fault.setText(capital(mine[0].message) if mine else "")
        self.fault.setVisible(bool(mine))
        result = self._live.characterized()
        text = ""
        if result is not None and not self._live.sample.old:
            units = self._live.units()
            told = [sentence(r, units) for r in result.remarks if r.place == "light_ends" and r.kind == "warning"]
            share = 100 * float(result.volume_fraction[: result.light].sum())
            text = " ".join([f"Together {share:.2f} vol% of the sample."] * (result.light > 0) + told[:1])
        if not shown:
            text = "The curve is cut from its first point on; nothing stands in front of it."
        self.note.setText(text)
