"""The forms of the fluid desk: a pseudo-component, a series of them, and a recombination."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QGridLayout, QLineEdit, QVBoxLayout, QWidget

from ....characterization.pseudo import complete
from ....components import Component
from ....constants import TYPICAL_WATSON_K, WATER_DENSITY_60F
from ....document import Fluid, FluidPart
from ....document.model import Recombination
from ....document.read_fluid import read_pseudo
from ....document.reader import Reader
from ....errors import DomainError
from ....units import SETS, QuantityError, split
from ...shell.live import Live
from ...widgets.fields import ChoiceField, QuantityField, section

PSEUDO = (
    ("nbp", "Boiling point", "temperature"),
    ("specific_gravity", "Density", "density"),
    ("molar_mass", "Molar mass", "molar_mass"),
    ("Tc", "Critical temperature", "temperature"),
    ("Pc", "Critical pressure", "pressure"),
    ("omega", "Acentric factor", ""),
)
SERIES = (
    ("start", "From", "temperature"),
    ("end", "To", "temperature"),
    ("step", "In steps of", "temperature_difference"),
    ("watson_k", "Watson K", ""),
)


class PartForm(QWidget):
    """What is known of the selected pseudo-component or series; what is missing stands there estimated."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        self.row = -1
        form = QGridLayout()
        form.setVerticalSpacing(4)
        form.setColumnMinimumWidth(0, 128)
        form.setColumnStretch(3, 1)
        self.head = section("Pseudo-component")
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the part")
        self.name.editingFinished.connect(lambda: self._store("name", self.name.text().strip()))
        form.addWidget(section("Name", "mute"), 0, 0)
        form.addWidget(self.name, 0, 1, 1, 3)
        self.pseudo = {
            key: QuantityField(form, 1 + i, title, kind, partial(self._store_text, key))
            for i, (key, title, kind) in enumerate(PSEUDO)
        }
        self.series = {
            key: QuantityField(form, 8 + i, title, kind, partial(self._store_text, key))
            for i, (key, title, kind) in enumerate(SERIES)
        }
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self.head)
        layout.addLayout(form)

    def _part(self) -> FluidPart | None:
        fluid = self._live.current_fluid()
        return fluid.parts[self.row] if fluid is not None and 0 <= self.row < len(fluid.parts) else None

    def _store_text(self, key: str, text: str) -> None:
        self._store(key, text or None)

    def _store(self, key: str, value: str | None) -> None:
        part = self._part()
        which = "pseudo" if part is not None and part.pseudo is not None else "series"
        inner = getattr(part, which) if part is not None else None
        if inner is None or getattr(inner, key, None) == value:
            return
        self._live.set_fluid(f"Change {inner.name}", {("parts", self.row, which, key): value})

    def show_part(self, row: int) -> None:
        """Show the part of a row; hide where it needs no form."""
        self.row = row
        part = self._part()
        inner = (part.pseudo or part.series) if part is not None else None
        self.setVisible(inner is not None)
        if part is None or inner is None:
            return
        self.head.setText("Pseudo-component" if part.pseudo else "Series over a boiling range")
        if not self.name.hasFocus():
            self.name.setText(inner.name)
        faults = {
            f.path[-1]: f.message for f in self._live.fluid.faults if len(f.path) > 4 and f.path[2:4] == ("parts", row)
        }
        units = dict(SETS[self._live.document.display.units])
        made = _completed(part)
        for key, _, kind in PSEUDO:
            field = self.pseudo[key]
            field.set_visible(part.pseudo is not None)
            if part.pseudo is not None:
                estimate = getattr(made, key) if made is not None else None
                if key == "specific_gravity":
                    estimate = None if estimate is None else estimate * WATER_DENSITY_60F
                unit = units.get(kind, "")
                cell = getattr(part.pseudo, key)
                if key == "specific_gravity" and isinstance(cell, (int, float)):
                    cell = f"{cell:g} SG"
                field.show(cell, unit, estimate, "estimated", str(faults.get(key, "")))
        for key, _, kind in SERIES:
            field = self.series[key]
            field.set_visible(part.series is not None)
            if part.series is not None:
                estimate = TYPICAL_WATSON_K if key == "watson_k" else None
                field.show(
                    getattr(part.series, key), units.get(kind, ""), estimate, "assumed", str(faults.get(key, ""))
                )


def _completed(part: FluidPart) -> Component | None:
    try:
        return complete(read_pseudo(part.pseudo, Reader())) if part.pseudo is not None else None
    except DomainError:
        return None


class RecombinationForm(QWidget):
    """Separator liquid and gas, the gas-oil ratio, and where the liquid's volume is taken."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        form = QGridLayout()
        form.setVerticalSpacing(6)
        form.setColumnMinimumWidth(0, 128)
        form.setColumnStretch(3, 1)
        self.liquid = ChoiceField(form, 0, "Liquid", {}, lambda k: self._store("liquid", k))
        self.gas = ChoiceField(form, 1, "Gas", {}, lambda k: self._store("gas", k))
        self.ratio = QuantityField(form, 2, "Gas-oil ratio", "gas_oil_ratio", lambda t: self._store("gas_oil_ratio", t))
        places = {"separator": "of the liquid at the separator", "stock tank": "of the liquid at the stock tank"}
        self.volume = ChoiceField(form, 3, "A volume", places, lambda k: self._store("liquid_volume", k))
        self.temperature = QuantityField(form, 4, "Temperature", "temperature", lambda t: self._store("temperature", t))
        self.pressure = QuantityField(form, 5, "Pressure", "pressure", lambda t: self._store("pressure", t))
        self.note = section(
            "Gas at 60 °F and 1 atm by liquid volume, of the two fluids as they left the separator.", "mute"
        )
        self.note.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(form)
        layout.addWidget(self.note)
        layout.addStretch(1)

    def _store(self, key: str, value: str) -> None:
        fluid = self._live.current_fluid()
        if fluid is not None and fluid.recombination is not None:
            self._live.set_fluid("Change the recombination", {("recombination", key): value or None})

    def show_fluid(self, fluid: Fluid | None) -> None:
        """Show a fluid's recombination; hide where it has none."""
        made = fluid.recombination if fluid is not None else None
        self.setVisible(made is not None)
        if made is None or fluid is None:
            return
        names = {f.name: f.name for f in self._live.document.fluids if f.name != fluid.name}
        for field, key in ((self.liquid, made.liquid), (self.gas, made.gas)):
            field.fill(names)
            field.show(key)
        self.volume.show(made.liquid_volume)
        units = SETS[self._live.document.display.units]
        faults = {f.path[-1]: f.message for f in self._live.fluid.faults if "recombination" in f.path}
        ratio = "scf/bbl" if self._live.document.display.units == "field" else "sm3/m**3"
        self.ratio.show(made.gas_oil_ratio, _own_unit(made) or ratio, None, "", str(faults.get("gas_oil_ratio", "")))
        self.temperature.show(made.temperature, units["temperature"], None, "", str(faults.get("temperature", "")))
        self.pressure.show(made.pressure, units["pressure"], None, "", str(faults.get("pressure", "")))


def _own_unit(made: Recombination) -> str:
    try:
        unit = split(made.gas_oil_ratio)[1] if isinstance(made.gas_oil_ratio, str) else ""
    except QuantityError:
        return ""
    return unit if unit == "scf/bbl" else ""
