"""Whole-sample numbers: density, molar mass, Watson K and viscosities, each measured or visibly estimated."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QGridLayout, QLineEdit, QVBoxLayout, QWidget

from ....characterization import CharacterizedSample
from ....characterization.methods import CARBON
from ....characterization.viscosity import within_method
from ....document import Fault, Sample
from ....document.edits import sample_path
from ....document.faults import PathParts
from ....document.sample_points import temperature_unit
from ....units import SETS, QuantityError, from_si, label, normal_unit, split
from ...shell.live import Live
from ...widgets.fields import QuantityField, capital, repolish, section
from ...widgets.letters import sized


class ViscosityRow:
    """One viscosity: the temperature it was measured at and its value."""

    def __init__(self, form: QGridLayout, row: int, index: int, live: Live) -> None:
        self._live, self._index = live, index
        self.value = QuantityField(form, row, "Viscosity at", "", lambda t: self._store(1, t))
        self.temperature = QLineEdit()
        self.temperature.setAccessibleName(f"Temperature of viscosity {index + 1}")
        self.temperature.setPlaceholderText("at")
        sized(self.temperature, fixed_width=84)
        form.removeWidget(self.value.remark)
        form.addWidget(self.temperature, row, 3)
        self.temperature.editingFinished.connect(self._temperature_edited)
        self._unit = "degC"
        self._shown = ""

    def set_visible(self, visible: bool) -> None:
        """Show or hide the row."""
        self.value.set_visible(visible)
        self.value.remark.hide()
        self.temperature.setVisible(visible)

    def _temperature_edited(self) -> None:
        text = self.temperature.text().strip()
        if text == self._shown:
            return
        try:
            if text and not split(text)[1]:
                text = f"{text} {self._unit}"
        except QuantityError:
            pass
        self._store(0, text)

    def _store(self, cell: int, text: str) -> None:
        sample = self._live.current_sample()
        if sample is None:
            return
        rows = [list(v) for v in sample.bulk.viscosity]
        while len(rows) <= self._index:
            rows.append([None, None])
        rows[self._index][cell] = text or None
        while rows and rows[-1] == [None, None]:
            rows.pop()
        stored = tuple((a, b) for a, b in rows)
        self._live.set_sample("Change the viscosity", ("bulk", "viscosity"), stored)

    def show(self, sample: Sample | None, result: CharacterizedSample | None, faults: dict[PathParts, str]) -> None:
        """Show the stored viscosity, and the blend of the cuts where there is none."""
        rows = sample.bulk.viscosity if sample else ()
        at, value = rows[self._index] if self._index < len(rows) else (None, None)
        self._unit = temperature_unit(sample) if sample else "degC"
        self._shown = _as_entered(at)
        self.temperature.setText(self._shown)
        text = str(value) if isinstance(value, str) else ""
        try:
            unit = split(text)[1] if text else "cSt"
        except QuantityError:
            unit = ""
        kind = "dynamic_viscosity" if unit in ("cP", "mPa*s", "Pa*s", "mPa·s", "Pa·s") else "kinematic_viscosity"
        self.value.kind = kind
        estimate, remark = None, ""
        self.temperature.setPlaceholderText("at")
        if result is not None and value in (None, "") and self._index < len(result.viscosity):
            T, found = result.viscosity[self._index]
            estimate = within_method(found)
            remark = "" if estimate is not None else "beyond the method"
            self.temperature.setPlaceholderText(f"{from_si(T, self._unit, 'temperature'):.1f} {label(self._unit)}")
            unit, self.value.kind = "cSt", "kinematic_viscosity"
        self.value.show(value, unit or "cSt", estimate, remark, faults.get(("viscosity", self._index, 1), ""))
        self.temperature.setToolTip(
            faults.get(("viscosity", self._index, 0), "") or "the temperature it was measured at"
        )
        repolish(self.temperature, "fault", ("viscosity", self._index, 0) in faults)


def _as_entered(cell: object) -> str:
    """Return a temperature as it was typed, its unit as it is printed."""
    if cell is None or cell == "":
        return ""
    try:
        number, unit = split(cell) if isinstance(cell, str) else (float(cell), "K")  # type: ignore[arg-type]
    except QuantityError:
        return str(cell)
    return f"{number:g} {label(normal_unit(unit) or 'K')}".replace("-", "−")


class BulkForm(QWidget):
    """The numbers of the whole sample."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._live = live
        form = QGridLayout()
        form.setHorizontalSpacing(8)
        form.setVerticalSpacing(4)
        form.setColumnStretch(3, 1)
        form.setColumnMinimumWidth(0, 96)
        self.density = QuantityField(form, 0, "Density", "density", lambda t: self._store("density", t))
        self.molar_mass = QuantityField(form, 1, "Molar mass", "molar_mass", lambda t: self._store("molar_mass", t))
        self.watson = QuantityField(form, 2, "Watson K", "", lambda t: self._store("watson_k", t))
        for field, key in ((self.density, "density"), (self.molar_mass, "molar_mass"), (self.watson, "watson_k")):
            field.input_path = partial(self._input_path, key)
        self.viscosity = [ViscosityRow(form, 3 + i, i, live) for i in range(2)]
        # What the report of a carbon-number analysis gives beside the reservoir fluid's own numbers.
        self.plus_mass = QuantityField(form, 5, "Plus: molar mass", "molar_mass", lambda t: self._plus("molar_mass", t))
        self.plus_density = QuantityField(form, 6, "Plus: density", "density", lambda t: self._plus("density", t))
        self.density.on_unit = lambda u: self.store_display("density", u)
        self.molar_mass.on_unit = lambda u: self.store_display("molar_mass", u)
        self.fault = section("", "fault")
        self.fault.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(form)
        layout.addWidget(self.fault)

    def _input_path(self, key: str) -> PathParts | None:
        """Return where a number of the whole sample stands in the document, None where none was measured."""
        sample = self._live.current_sample()
        if sample is None or getattr(sample.bulk, key) in (None, ""):
            return None
        return (*sample_path(self._live.document, sample.name), "bulk", key)

    def _store(self, key: str, text: str) -> None:
        self._live.set_sample(f"Change the {key.replace('_', ' ')}", ("bulk", key), text or None)

    def _plus(self, key: str, text: str) -> None:
        self._live.set_sample("Change the plus fraction", ("distillation", "plus", key), text or None)

    def store_display(self, key: str, unit: str) -> None:
        """Choose the unit of a quantity."""
        self._live.set_sample("Choose a unit", ("display", key), unit)

    def show_sample(self, sample: Sample | None) -> None:
        """Show the selected sample's numbers."""
        bulk = sample.bulk if sample else None
        result = self._live.characterized()
        units = dict(SETS[self._live.document.display.units])
        if sample:
            units.update({k: v for k, v in sample.display.model_dump().items() if v})
        mine = [f for f in self._live.sample.faults if len(f.path) > 3 and f.path[2] == "bulk"]
        faults = {f.path[3]: f.message for f in mine}
        cells = {tuple(f.path[3:]): f.message for f in mine}
        fresh = result if result is not None and not self._live.sample.old else None
        for field, key, remark in (
            (self.density, "density", "estimated"),
            (self.molar_mass, "molar_mass", "estimated"),
            (self.watson, "watson_k", "from both"),
        ):
            cell = getattr(bulk, key) if bulk else None
            estimate = getattr(fresh, key) if fresh else None
            field.show(cell, units.get(key, ""), estimate, remark if fresh else "", faults.get(key, ""))
        for row in self.viscosity:
            row.show(sample, fresh, cells)
        self._show_kind(sample, units)
        rest = [f for f in self._live.sample.faults if self._is_told_here(f)]
        self.fault.setText(capital(rest[0].message) if rest else "")
        self.fault.setVisible(bool(rest))

    def _show_kind(self, sample: Sample | None, units: dict[str, str]) -> None:
        """Ask for what the report of such a sample gives: of a gas no Watson K and no viscosity, but its plus
        fraction."""
        carbon = sample is not None and sample.distillation.method == CARBON
        self.watson.set_visible(not carbon)
        for row in self.viscosity:
            row.set_visible(not carbon)
        self.density.title.setText("Fluid: density" if carbon else "Density")
        self.molar_mass.title.setText("Fluid: molar mass" if carbon else "Molar mass")
        faults = {f.path[-1]: f.message for f in self._live.sample.faults if f.path[2:4] == ("distillation", "plus")}
        for field, key in ((self.plus_mass, "molar_mass"), (self.plus_density, "density")):
            field.set_visible(carbon)
            if carbon and sample is not None:
                cell = getattr(sample.distillation.plus, key)
                field.show(cell, units.get(key, ""), None, "", faults.get(key, ""))

    @staticmethod
    def _is_told_here(fault: Fault) -> bool:
        return len(fault.path) > 2 and fault.path[2] in ("bulk", "correlations", "cuts", "conversions", "name")
