"""The derived results the desks show, kept in step with the document."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from ..characterization import CharacterizedSample
from ..document import Document, Fault, Fluid, Model, Pin, Sample, check_fluid, check_sample, errors
from ..equilibrium.phase_map import PhaseMap
from ..studies import Evaluator
from ..studies.inputs import FluidModel
from ..studies.lumping import RESERVOIR, LumpingEffect
from ..studies.states import State, state_at
from ..units import QuantityError, parse
from .jobs import Jobs, Outcome
from .store import Store

PAUSE = 50
"""ms between showing an envelope and tracing its quality lines."""

BREATH = 30
"""ms between an edit and the tracing it asks for: what follows at once is painted first, on an idle processor."""

QUALITY = (0.1, 0.25, 0.5, 0.75, 0.9)


@dataclass
class Shown:
    """A result on screen: the value last computed, whether it is older than the input, and why."""

    value: Any = None
    old: bool = False
    error: str = ""
    faults: list[Fault] = field(default_factory=list)


class Live(QObject):
    """Holds what is selected and the results for it; recomputes what an edit touched."""

    selection_changed = Signal()
    sample_changed = Signal()
    fluid_changed = Signal()
    map_changed = Signal()
    pins_changed = Signal()
    probe_changed = Signal()
    margins_changed = Signal()
    lumping_changed = Signal()

    def __init__(self, store: Store, jobs: Jobs, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.store, self.jobs = store, jobs
        self.evaluator = Evaluator()
        self.sample_name = ""
        self.fluid_name = ""
        self.sample = Shown()
        self.fluid = Shown()
        self.map = Shown()
        self.probe: State | None = None
        self.probe_error = ""
        self.margins: dict[str, tuple[float, float] | None] | None = None
        self.pin_maps: dict[str, PhaseMap] = {}
        self.lumping: LumpingEffect | None = None
        self.lumping_temperature = RESERVOIR
        self._lumping_key: object = None
        self._sample_key: object = None
        self._shown: object = None
        self._pins: object = None
        self._fluid_key: object = None
        self._wanted: tuple[float, float] | None = None
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(180)
        self._rest.timeout.connect(self._ask_margins)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(PAUSE)
        self._later.timeout.connect(self._ask_rest)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(BREATH)
        self._soon.timeout.connect(self._ask_now)
        # Counted from the next turn of the event loop: an edit may itself take longer than the pause.
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.setInterval(0)
        self._turn.timeout.connect(self._soon.start)
        store.changed.connect(self.refresh)
        jobs.finished.connect(self._arrived)

    def pending(self) -> bool:
        """Tell whether something is about to be asked for."""
        return self._rest.isActive() or self._later.isActive() or self._soon.isActive() or self._turn.isActive()

    # -- what is selected ----------------------------------------------------------------------------------------

    @property
    def document(self) -> Document:
        """The present document."""
        return self.store.document

    def current_sample(self) -> Sample | None:
        """The selected sample."""
        return self.document.sample(self.sample_name)

    def current_fluid(self) -> Fluid | None:
        """The selected fluid."""
        return self.document.fluid(self.fluid_name)

    def sample_index(self) -> int:
        """Place of the selected sample in the document, or -1."""
        return next((i for i, s in enumerate(self.document.samples) if s.name == self.sample_name), -1)

    def fluid_index(self) -> int:
        """Place of the selected fluid in the document, or -1."""
        return next((i for i, f in enumerate(self.document.fluids) if f.name == self.fluid_name), -1)

    def select_sample(self, name: str) -> None:
        """Show another sample."""
        if name != self.sample_name:
            self.sample_name, self.sample, self._sample_key = name, Shown(), None
        self.refresh()
        self.selection_changed.emit()

    def select_fluid(self, name: str) -> None:
        """Show another fluid, and its first sample unless the selected one is part of it."""
        if name != self.fluid_name:
            self.fluid_name, self.fluid, self.map, self._fluid_key = name, Shown(), Shown(), None
            self.probe, self.margins, self._wanted = None, None, None
        fluid = self.current_fluid()
        used = [p.sample for p in fluid.parts if p.sample] if fluid else []
        if used and self.sample_name not in used and self.document.sample(used[0]):
            self.select_sample(used[0])
        self.refresh()
        self.selection_changed.emit()

    # -- recomputing ---------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Bring every shown result in step with the document."""
        document = self.document
        shown = (document.display, [s.name for s in document.samples], [(f.name, f.note) for f in document.fluids])
        if shown != self._shown:
            # Units, names and the shelf: everything is written anew, nothing computed.
            self._shown, self._sample_key, self._fluid_key, self._pins = shown, None, None, None
            self.selection_changed.emit()
        if self.current_sample() is None:
            names = [s.name for s in self.document.samples]
            self.sample_name, self.sample, self._sample_key = (names[0] if names else ""), Shown(), None
            self.selection_changed.emit()
        if self.current_fluid() is None:
            names = [f.name for f in self.document.fluids]
            self.fluid_name, self.fluid, self.map, self._fluid_key = (
                (names[-1] if names else ""),
                Shown(),
                Shown(),
                None,
            )
            self.probe = None
            self.selection_changed.emit()
        self._refresh_sample()
        self._refresh_fluid()
        self._refresh_pins()

    def _refresh_sample(self) -> None:
        sample = self.current_sample()
        if sample is None:
            self.sample = Shown()
            self.sample_changed.emit()
            return
        if self._sample_key == sample:
            return
        self._sample_key = sample
        faults = check_sample(sample, ("samples", self.sample_index()))
        shown = Shown(self.sample.value, True, "", faults)
        # A curve goes on without its faulty points; every other fault keeps the last good result.
        blocking = [f for f in errors(faults) if not _is_point(f)]
        if blocking:
            shown.error = blocking[0].message
        else:
            try:
                shown.value, shown.old = self.evaluator.sample(sample), False
            except (ValueError, ArithmeticError) as error:
                shown.error = str(error)
        self.sample = shown
        self.sample_changed.emit()

    def _refresh_fluid(self) -> None:
        fluid = self.current_fluid()
        if fluid is None:
            self.fluid, self.map = Shown(), Shown()
            self.fluid_changed.emit()
            self.map_changed.emit()
            return
        key = (self.evaluator.fluid_key(fluid, self.document), self.document.display.map.quality_lines)
        if key == self._fluid_key:
            return
        self._fluid_key = key
        faults = check_fluid(fluid, self.document, ("fluids", self.fluid_index()))
        shown = Shown(self.fluid.value, True, "", faults)
        blocked = errors(faults)[:1] or self._sample_faults(fluid)[:1]
        if blocked:
            shown.error = blocked[0].message
        else:
            try:
                shown.value, shown.old = self.evaluator.fluid(fluid, self.document), False
            except (ValueError, ArithmeticError) as error:
                shown.error = str(error)
        self.fluid = shown
        self.map = Shown(self.map.value, self.map.value is not None, shown.error)
        if not shown.error:
            self._turn.start()
        self.fluid_changed.emit()
        self.map_changed.emit()

    def _sample_faults(self, fluid: Fluid) -> list[Fault]:
        out: list[Fault] = []
        for part in fluid.parts:
            sample = self.document.sample(part.sample) if part.sample else None
            if sample is not None:
                index = self.document.samples.index(sample)
                out += [f for f in errors(check_sample(sample, ("samples", index))) if not _is_point(f)]
        return out

    def _fractions(self) -> tuple[float, ...]:
        return QUALITY if self.document.display.map.quality_lines else ()

    def _ask_now(self) -> None:
        """Ask for the envelope and the probe's state of the fluid shown."""
        fluid = self.current_fluid()
        if fluid is not None and not self.fluid.error:
            self._ask_map(fluid)
            if self._wanted is not None:
                self.ask_probe(*self._wanted)
            self.map_changed.emit()

    def _ask_map(self, fluid: Fluid) -> None:
        document, fractions = self.document, self._fractions()
        key = self.evaluator.map_key(fluid, document, fractions)
        kept = self.evaluator.cache.peek(key)
        if kept is not None:
            self.jobs.cancel("map")
            self.map = Shown(kept)
            return
        # The bare envelope first, since the quality lines take longer and can follow.
        stage = () if fractions and self._bare() is None else fractions
        evaluator = self.evaluator
        stage_key = self.evaluator.map_key(fluid, document, stage)
        self.jobs.submit("map", stage_key, lambda cancelled: evaluator.map(fluid, document, stage, cancelled))

    def _ask_rest(self) -> None:
        """Ask for the quality lines of the fluid shown, unless an edit has asked for something newer."""
        fluid = self.current_fluid()
        if fluid is not None and self._bare() is not None and not self.fluid.error and not self.jobs.busy("map"):
            self._ask_map(fluid)

    def _bare(self) -> PhaseMap | None:
        """The present fluid's envelope without quality lines, if it is known."""
        fluid = self.current_fluid()
        kept = self.evaluator.cache.peek(self.evaluator.map_key(fluid, self.document, ())) if fluid else None
        return kept if isinstance(kept, PhaseMap) else None

    def _refresh_pins(self) -> None:
        if self._pins == self.document.pins:
            return
        self._pins = self.document.pins
        pins = [p for p in self.document.pins if p.frozen_fluid is not None]
        known = {p.name for p in pins}
        self.pin_maps = {n: m for n, m in self.pin_maps.items() if n in known}
        for pin in pins:
            if pin.name not in self.pin_maps:
                self._ask_pin(pin)
        self.pins_changed.emit()

    def _ask_pin(self, pin: Pin) -> None:
        fluid = pin.frozen_fluid
        assert fluid is not None
        document = Document(samples=pin.frozen_samples, fluids=(fluid,))
        evaluator = self.evaluator
        self.jobs.submit(f"pin {pin.name}", pin, lambda cancelled: evaluator.map(fluid, document, (), cancelled))

    def ask_lumping(self, T: float | None = None) -> None:
        """Ask what lumping does to the selected sample's saturation pressure, at T K or the temperature of before."""
        sample, result = self.current_sample(), self.characterized()
        self.lumping_temperature = T = self.lumping_temperature if T is None else T
        if sample is None or result is None or result.unlumped is None or self.sample.old:
            self.jobs.cancel("lumping")
            self.lumping, self._lumping_key = None, None
            self.lumping_changed.emit()
            return
        key = (sample.model_dump_json(exclude={"note", "display"}), T)
        if key == self._lumping_key:
            return
        self.lumping, self._lumping_key = None, key
        evaluator = self.evaluator
        self.jobs.submit("lumping", key, lambda cancelled: evaluator.lumping(sample, T, Model(), cancelled))
        self.lumping_changed.emit()

    # -- the probe -----------------------------------------------------------------------------------------------

    def ask_probe(self, T: float, P: float) -> None:
        """Ask for the full state at T K, P Pa."""
        self._wanted = (T, P)
        model = self.fluid.value
        if isinstance(model, FluidModel) and not self.fluid.error:
            self.jobs.submit(
                "probe", (self._fluid_key, T, P), lambda _cancelled: state_at(model, T, P, check_third=False)
            )
            self._rest.start()

    def _ask_margins(self) -> None:
        """Once the pointer rests: the distances to the lines, and whether a third phase would form."""
        whole, wanted, model = self.map.value, self._wanted, self.fluid.value
        if wanted is not None and isinstance(model, FluidModel) and not self.fluid.error:
            self.jobs.submit("probe", (self._fluid_key, *wanted, "third"), lambda _cancelled: state_at(model, *wanted))
        if not isinstance(whole, PhaseMap) or self.map.old or wanted is None:
            return
        T, P = wanted

        def work(_cancelled: Any) -> dict[str, tuple[float, float] | None]:
            found: dict[str, tuple[float, float] | None] = {}
            for name, beta in (("bubble", 0.0), ("dew", 1.0)):
                at_T = [p.P for p in whole.crossings([beta], T=T)]
                at_P = [p.T for p in whole.crossings([beta], P=P)]
                found[f"{name} at T"] = (min(at_T, key=lambda v: abs(v - P)) - P, P) if at_T else None
                found[f"{name} at P"] = (min(at_P, key=lambda v: abs(v - T)) - T, T) if at_P else None
            return found

        self.jobs.submit("margins", (self._fluid_key, T, P), work)

    def _arrived(self, outcome: Outcome) -> None:
        if outcome.slot == "map":
            fluid = self.current_fluid()
            if fluid is None:
                return
            fractions = self._fractions()
            final = outcome.key == self.evaluator.map_key(fluid, self.document, fractions)
            if not final and outcome.key != self.evaluator.map_key(fluid, self.document, ()):
                return
            self.map = Shown(self.map.value, True, outcome.error) if outcome.error else Shown(outcome.value)
            self.map_changed.emit()
            self._rest.start()
            if not final and not outcome.error:
                # After the envelope has been painted: painting would have to share the processor with the tracer.
                self._later.start()
        elif outcome.slot == "probe":
            self.probe, self.probe_error = outcome.value, outcome.error
            self.probe_changed.emit()
        elif outcome.slot == "margins":
            self.margins = outcome.value
            self.margins_changed.emit()
        elif outcome.slot == "lumping":
            if outcome.key == self._lumping_key:
                self.lumping = outcome.value
                self.lumping_changed.emit()
        elif outcome.slot.startswith("pin ") and not outcome.error:
            self.pin_maps[outcome.slot[4:]] = outcome.value
            self.pins_changed.emit()

    def characterized(self) -> CharacterizedSample | None:
        """The selected sample's cuts, the last good ones."""
        value = self.sample.value
        return value if isinstance(value, CharacterizedSample) else None


def _is_point(fault: Fault) -> bool:
    """Tell whether a fault is of a single point of the curve, so that the others can go on."""
    return (
        fault.path[2:3] in (("distillation",), ("curves",))
        and isinstance(fault.path[-1], int)
        and "amounts" not in fault.path
    )


def pin_position(pin: Pin) -> tuple[float, float] | None:
    """Return T K and P Pa of a pinned state, None for a pinned envelope."""
    try:
        return parse(pin.temperature, "temperature"), parse(pin.pressure, "pressure")  # type: ignore[arg-type]
    except QuantityError:
        return None
