"""How the measured curve is read: corrections, conversion, interpolation, ends, whom to trust; the plus fraction."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QCheckBox, QGridLayout, QScrollArea, QVBoxLayout, QWidget

from ....characterization.carbon_analysis import DENSITIES, LAST, LUMPINGS, SPLITS
from ....characterization.curve import ENDS, INTERPOLATIONS
from ....characterization.methods import CARBON, CONVERSIONS, DEFAULT_CONVERSIONS, TWO_PART
from ....document import Sample
from ....document.reader import plain_cell
from ....document.sample_points import temperature_unit
from ...shell.live import Live
from ...widgets.fields import ChoiceField, QuantityField, capital, section
from .sheet_model import store_distillation

TRUST = {"scale": "scale the curve to it", "keep": "keep the curve"}
TRUSTED = {"density": "Density measured:", "molar_mass": "Molar mass measured:", "viscosity": "Viscosity measured:"}


class ReadingPanel(QScrollArea):
    """The choices between what was measured and the curve that is cut."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("bare")
        self.setWidgetResizable(True)
        self._live = live
        inner = QWidget()
        form = QGridLayout()
        form.setVerticalSpacing(5)
        form.setColumnMinimumWidth(0, 128)
        form.setColumnStretch(3, 1)
        self.conversion = ChoiceField(form, 0, "Turned into TBP by", {}, self._choose_conversion)
        self.source = section("", "mute")
        self.source.setWordWrap(True)
        form.addWidget(self.source, 1, 0, 1, 4)
        self.cracking = QCheckBox("Correct for thermal cracking above 246 °C")
        self.cracking.clicked.connect(lambda on: self._store({"cracking": bool(on)}, "Cracking correction"))
        form.addWidget(self.cracking, 2, 0, 1, 4)
        self.interpolation = ChoiceField(
            form, 3, "Between the points", INTERPOLATIONS, lambda k: self._store({"interpolation": k}, "Interpolation")
        )
        self.ends = ChoiceField(form, 4, "At the ends", ENDS, lambda k: self._store({"ends": k}, "Closing of the ends"))
        self.initial = QuantityField(form, 5, "Initial point", "temperature", lambda t: self._end("initial", t))
        self.final = QuantityField(form, 6, "Final point", "temperature", lambda t: self._end("final", t))
        self.trust = {
            key: ChoiceField(form, 7 + i, title, TRUST, partial(self._choose_trust, key))
            for i, (key, title) in enumerate(TRUSTED.items())
        }
        self.split = ChoiceField(form, 12, "Split by", SPLITS, lambda k: self._nested("split", {"model": k}))
        self.shape = QuantityField(
            form, 13, "Shape alpha", "", lambda t: self._nested("split", {"shape": plain_cell(t)})
        )
        self.last = QuantityField(
            form, 14, "Last group, C", "", lambda t: self._nested("split", {"last": plain_cell(t)})
        )
        self.densities = ChoiceField(
            form, 15, "Densities by", DENSITIES, lambda k: self._nested("split", {"density": k})
        )
        self.rule = ChoiceField(form, 16, "Lumped by", LUMPINGS, lambda k: self._nested("lumping", {"rule": k}))
        self.lumps = QuantityField(form, 17, "Into", "", lambda t: self._nested("lumping", {"number": plain_cell(t)}))
        self.fault = section("", "fault")
        self.fault.setWordWrap(True)
        layout = QVBoxLayout(inner)
        layout.setContentsMargins(0, 0, 6, 0)
        layout.addLayout(form)
        layout.addWidget(self.fault)
        layout.addStretch(1)
        self.setWidget(inner)

    # -- edits ---------------------------------------------------------------------------------------------------

    def _store(self, update: dict[str, object], text: str) -> None:
        store_distillation(self._live, update, text)

    def _choose_conversion(self, key: str) -> None:
        sample = self._live.current_sample()
        if sample is not None and sample.distillation.method in CONVERSIONS:
            default = DEFAULT_CONVERSIONS[sample.distillation.method]
            self._store({"conversion": None if key == default else key}, "Choose a conversion")

    def _end(self, key: str, text: str) -> None:
        self._store({key: text or None, "ends": "given"} if text else {key: None}, f"Change the {key} point")

    def _nested(self, part: str, update: dict[str, object]) -> None:
        for key, value in update.items():
            self._live.set_sample("Change the plus fraction", ("distillation", part, key), value)

    def _choose_trust(self, key: str, choice: str) -> None:
        sample = self._live.current_sample()
        if sample is not None:
            keep = tuple(k for k in sample.curves.keep if k != key)
            kept = (*keep, key) if choice == "keep" else keep
            self._live.set_sample("Choose what to trust", ("curves", "keep"), kept)

    # -- showing -------------------------------------------------------------------------------------------------

    def show_sample(self, sample: Sample | None) -> None:
        """Show the selected sample's choices."""
        self.setEnabled(sample is not None)
        if sample is None:
            return
        curve = sample.distillation
        carbon = curve.method == CARBON
        convertible = curve.method in CONVERSIONS and len(CONVERSIONS[curve.method]) > 0 and curve.method != "TBP"
        self.conversion.set_visible(convertible)
        self.source.setVisible(convertible)
        if convertible:
            entries = CONVERSIONS[curve.method]
            key = curve.conversion or DEFAULT_CONVERSIONS[curve.method]
            self.conversion.fill({k: c.title for k, c in entries.items()})
            self.conversion.show(key)
            if key in entries:
                chosen = entries[key]
                limits = f" Range: {chosen.limits}." if chosen.limits else ""
                self.source.setText(f"{chosen.formula}. {chosen.source}.{limits}")
        self.cracking.setVisible(curve.method in ("D86", TWO_PART))
        self.cracking.setChecked(curve.cracking)
        self._show_curve(sample, carbon)
        self._show_carbon(sample, carbon)
        has = {
            "density": bool(sample.curves.density) and sample.bulk.density not in (None, ""),
            "molar_mass": bool(sample.curves.molar_mass) and sample.bulk.molar_mass not in (None, ""),
            "viscosity": bool(sample.curves.viscosity) and bool(sample.bulk.viscosity),
        }
        for key, field in self.trust.items():
            field.set_visible(has[key])
            field.show("keep" if key in sample.curves.keep else "scale")
        keys = ("points", "amounts", "tail", "method", "basis", "pressure", "plus")
        mine = [
            f
            for f in self._live.sample.faults
            if len(f.path) > 3 and f.path[2] == "distillation" and f.path[3] not in keys
        ]
        self.fault.setText(capital(mine[0].message) if mine else "")
        self.fault.setVisible(bool(mine))

    def _faults(self, *path: str) -> str:
        found = [f.message for f in self._live.sample.faults if tuple(f.path[3:]) == path]
        return found[0] if found else ""

    def _show_curve(self, sample: Sample, carbon: bool) -> None:
        curve = sample.distillation
        self.interpolation.show(curve.interpolation)
        self.ends.show(curve.ends)
        unit = temperature_unit(sample)
        result = self._live.characterized()
        entered = result.entered if result is not None and not self._live.sample.old else None
        ends = (None, None) if entered is None else (float(entered.temperature[0]), float(entered.temperature[-1]))
        for field, key, estimate in ((self.initial, "initial", ends[0]), (self.final, "final", ends[1])):
            field.show(getattr(curve, key), unit, estimate, "estimated" if estimate else "", self._faults(key))
            field.set_visible(not carbon)
        for choice in (self.interpolation, self.ends):
            choice.set_visible(not carbon)

    def _show_carbon(self, sample: Sample, carbon: bool) -> None:
        curve = sample.distillation
        for field in (self.shape, self.last, self.lumps):
            field.set_visible(carbon)
        for choice in (self.split, self.densities, self.rule):
            choice.set_visible(carbon)
        if not carbon:
            return
        self.split.show(curve.split.model)
        self.densities.show(curve.split.density)
        self.rule.show(curve.lumping.rule)
        gamma = curve.split.model == "gamma"
        self.shape.set_visible(gamma)
        self.shape.show(curve.split.shape, "", None, "", self._faults("split", "shape"))
        self.last.show(curve.split.last, "", float(LAST), "usual", self._faults("split", "last"))
        lumped = curve.lumping.rule != "none"
        self.lumps.set_visible(lumped)
        result = self._live.characterized()
        count = float(len(result.cuts)) if result is not None and lumped else None
        self.lumps.show(curve.lumping.number, "", count, "by the rule", self._faults("lumping", "number"))
