"""How the curve was measured: method, basis and pressure."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QWidget

from ....characterization.methods import CARBON, METHODS, TWO_PART
from ....document import Sample
from ....document.model import Tail
from ....wording.entry import taken_as
from ...shell.live import Live
from ...widgets.fields import repolish, section, tip
from ...widgets.letters import sized
from .sheet_model import store_distillation

BASES = {"volume": "by volume", "mass": "by mass", "mole": "by mole"}


def own_basis(method: str) -> str:
    """Return the basis a method is reported on."""
    return METHODS[method].basis if method in METHODS else "volume"


class MethodBar(QWidget):
    """One line above the sheet."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        self.method, self.basis = QComboBox(), QComboBox()
        self.method.setAccessibleName("Method")
        self.basis.setAccessibleName("Basis")
        for key, method in METHODS.items():
            self.method.addItem("carbon number" if key == CARBON else key, key)
            self.method.setItemData(self.method.count() - 1, method.title, Qt.ItemDataRole.ToolTipRole)
        for key, text in BASES.items():
            self.basis.addItem(text, key)
        self.method.activated.connect(lambda _i: self.choose_method(str(self.method.currentData())))
        self.basis.activated.connect(lambda _i: self._store({"basis": self.basis.currentData()}, "Choose the basis"))
        self.pressure = QLineEdit()
        self.pressure.setAccessibleName("Pressure of the distillation")
        sized(self.pressure, fixed_width=84)
        self.pressure.editingFinished.connect(self._store_pressure)
        self._shown = ""
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addWidget(self.method, 1)
        layout.addWidget(self.basis)
        layout.addWidget(section("at", "mute"))
        layout.addWidget(self.pressure)

    def _store(self, update: dict[str, object], text: str) -> None:
        store_distillation(self._live, update, text)

    def choose_method(self, method: str) -> None:
        """Read the sheet as another method's; pressure and basis go back to the method's own, what was typed stays."""
        sample = self._live.current_sample()
        if sample is None or sample.distillation.method == method:
            return
        update: dict[str, object] = {"method": method, "pressure": None, "basis": None, "conversion": None}
        if method == TWO_PART and sample.distillation.tail is None:
            update["tail"] = Tail()
        elif method != TWO_PART and sample.distillation.tail is not None and not sample.distillation.tail.points:
            update["tail"] = None
        self._store(update, f"Read as {method}")

    def _store_pressure(self) -> None:
        text = self.pressure.text().strip()
        sample = self._live.current_sample()
        if sample is None or text == self._shown:
            return
        curve = sample.distillation
        now = curve.tail.pressure if curve.method == TWO_PART and curve.tail is not None else curve.pressure
        text = str(taken_as(text, now, "pressure", self._live.units()) or "")
        if sample.distillation.method == TWO_PART:
            tail = (sample.distillation.tail or Tail()).model_copy(update={"pressure": text or "10 mmHg"})
            self._store({"tail": tail}, "Change the pressure of the tail")
        else:
            self._store({"pressure": text or None}, "Change the pressure")

    def show_sample(self, sample: Sample | None) -> None:
        """Show how the selected sample was measured."""
        if sample is None:
            return
        curve = sample.distillation
        for combo, key in ((self.method, curve.method), (self.basis, curve.basis or own_basis(curve.method))):
            place = combo.findData(key)
            if place < 0:
                combo.addItem(str(key), key)
                place = combo.count() - 1
            combo.setCurrentIndex(place)
        two = curve.method == TWO_PART
        stored = (curve.tail.pressure if curve.tail else None) if two else curve.pressure
        text = "" if stored is None else str(stored) if isinstance(stored, str) else f"{stored:g} Pa"
        self._shown = text
        if not self.pressure.hasFocus() or self.pressure.text() != text:
            self.pressure.setText(text)
        own = METHODS.get(curve.method, METHODS["TBP"]).pressure
        self.pressure.setPlaceholderText("10 mmHg" if own < 1e5 else "1 atm")
        faults = [
            f.message
            for f in self._live.sample.faults
            if f.path[2:3] == ("distillation",) and f.path[-1] in ("pressure", "method", "basis")
        ]
        usual = "the pressure of the vacuum tail" if two else "the pressure it was distilled at"
        self.pressure.setToolTip(tip(faults[0] if faults else usual))
        repolish(self.pressure, "fault", bool(faults))
        self.pressure.setEnabled(curve.method != CARBON)
