"""The choice of correlations: each with its formula, source and range beside it, and what it changes."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from ....characterization import CharacterizedSample
from ....characterization.correlations import DEFAULTS, REGISTRY, TITLES, Correlation
from ....document import Sample
from ....results.correlation_choices import Told, limits_text, usual_values
from ....telling import Units
from ....units import format_number, from_si, label
from ...shell.live import Live
from ...widgets.fields import section, tip
from ...widgets.letters import sized


class CorrelationsPanel(QScrollArea):
    """A row a property."""

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("bare")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._live = live
        self.combos: dict[str, QComboBox] = {}
        self.effects: dict[str, QLabel] = {}
        self.sources: dict[str, QLabel] = {}
        inner = QWidget()
        form = QGridLayout()
        form.setHorizontalSpacing(12)
        form.setVerticalSpacing(3)
        form.setColumnMinimumWidth(0, 150)
        form.setColumnStretch(2, 1)
        for i, (prop, title) in enumerate(TITLES.items()):
            combo = QComboBox()
            combo.setAccessibleName(title)
            sized(combo, fixed_width=310)
            for key, entry in REGISTRY[prop].items():
                combo.addItem(_title(entry), key)
                combo.setItemData(combo.count() - 1, _about(entry), Qt.ItemDataRole.ToolTipRole)
            combo.activated.connect(lambda _i, p=prop, c=combo: self.choose(p, str(c.currentData())))
            name = section(title.replace(" at 100 and 210 °F", "").replace(" along the curve", ""))
            name.setObjectName("")
            name.setToolTip(tip(title))
            name.setBuddy(combo)
            effect, source = section("", "accent"), section("", "mute")
            effect.setWordWrap(True)
            source.setWordWrap(True)
            form.addWidget(name, 2 * i, 0)
            form.addWidget(combo, 2 * i, 1)
            form.addWidget(effect, 2 * i, 2)
            form.addWidget(source, 2 * i + 1, 0, 1, 3)
            self.combos[prop], self.effects[prop], self.sources[prop] = combo, effect, source
        layout = QVBoxLayout(inner)
        layout.setContentsMargins(0, 0, 8, 0)
        layout.addLayout(form)
        layout.addStretch(1)
        self.setWidget(inner)

    def show_choices(self, found: dict[str, dict[str, Told]], units: Units) -> None:
        """Write beside every choice what it gives for the whole sample."""
        for prop, combo in self.combos.items():
            for i in range(combo.count()):
                key = str(combo.itemData(i))
                told = found.get(prop, {}).get(key)
                words = _title(REGISTRY[prop][key]) + (f"   {told_text(told, units)}" if told is not None else "")
                if combo.itemText(i) != words:
                    combo.setItemText(i, words)
            combo.view().setMinimumWidth(combo.view().sizeHintForColumn(0) + 24)

    def choose(self, prop: str, key: str) -> None:
        """Take a correlation for a property; the default leaves no trace in the document."""
        sample = self._live.current_sample()
        if sample is not None:
            chosen = {k: v for k, v in sample.correlations.items() if k != prop}
            if key != DEFAULTS[prop]:
                chosen[prop] = key
            self._live.set_sample("Choose a correlation", ("correlations",), chosen)

    def show_sample(self, sample: Sample | None, result: CharacterizedSample | None) -> None:
        """Show the selected sample's choices and what they change against the defaults."""
        chosen = sample.correlations if sample else {}
        usual = usual_values(result) if result is not None and chosen else {}
        for prop, combo in self.combos.items():
            key = chosen.get(prop, DEFAULTS[prop])
            place = combo.findData(key)
            combo.setCurrentIndex(place)
            entry = REGISTRY[prop].get(key)
            self.sources[prop].setText(_about(entry) if entry else f"unknown correlation '{key}'")
            self.effects[prop].setText(_effect(prop, key, result, usual))


def _title(entry: Correlation) -> str:
    return entry.title if len(entry.title) < 30 else entry.title.split(",")[0]


def told_text(told: Told, units: Units) -> str:
    """Return what a choice gives, in the reader's units."""
    unit = units.unit(told.kind) if told.kind else ""
    value = from_si(told.value, unit, told.kind) if told.kind else told.value
    return f"{told.word} {format_number(value, 4)} {label(unit) if unit else ''}".strip()


def _about(entry: Correlation) -> str:
    limits = f" Range: {limits_text(entry, Units.of('metric'))}." if entry.limits else ""
    text = f"{entry.formula}. {entry.source[:1].upper()}{entry.source[1:]}.{limits}"
    return text[:1].upper() + text[1:]


def _effect(prop: str, key: str, result: CharacterizedSample | None, usual: dict[str, np.ndarray]) -> str:
    if key == DEFAULTS[prop]:
        return ""
    if result is None or prop not in ("molar_mass", "Tc", "Pc", "Vc", "omega", "parachor"):
        return "not the usual choice"
    mine = np.array([getattr(c, prop) for c in result.cuts], float)
    off = 100.0 * (mine / usual[prop] - 1.0)
    against = REGISTRY[prop][DEFAULTS[prop]].title
    return f"{off.min():+.1f} to {off.max():+.1f} % against {against}".replace("-", "−")
