"""Speed, as ratios within one run and as times on this machine: ``./run bench [physics] [saft] [tables] [start] [window]``.

Never a test: the machines are noisy. The mixture is the recombined crude of the demo project, cut to thirty components.
"""

from __future__ import annotations

import os
import tempfile

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# No settings and safety copies of the user's: a question at the start would stop the clock.
os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

import json
import subprocess
import sys
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from cryonome.characterization import characterize
from cryonome.demo import demo_document
from cryonome.document import parse_document, read_sample
from cryonome.document.edits import set_at
from cryonome.eos import CubicEos
from cryonome.eos.building import SAFT, Interaction, equation_of
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.fraction_flash import flash_fraction
from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.pair_flash import flash_pair
from cryonome.equilibrium.phase_map import phase_map
from cryonome.equilibrium.phases import Phases
from cryonome.equilibrium.retrace import retraced
from cryonome.equilibrium.spinodal import spinodal
from cryonome.fluids.building import FluidModel
from cryonome.fluids.states import full_states
from cryonome.properties import evaluate
from cryonome.results import Evaluator

BEAT = 5
"""ms between two heartbeats of the interface thread."""


def best(work: Callable[[], object], repeat: int = 5) -> float:
    """Return the shortest of some runs, s."""
    times = []
    for _ in range(repeat):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def thirty() -> FluidModel:
    """Return the demo's recombined crude with wider cuts: thirty components."""
    from importlib.resources import files

    text = files("cryonome.demo").joinpath("varnholt-hub.cryo").read_text(encoding="utf-8")
    document = parse_document(text)
    sample = document.samples[0]
    cuts = sample.cuts.model_copy(update={"boundaries": tuple(f"{t:.0f} degC" for t in np.linspace(45, 700, 20))})
    document = set_at(document, ("samples", 0, "cuts"), cuts)
    fluid = document.fluid("Varnholt recombined")
    assert fluid is not None
    return Evaluator().at(document).fluid(fluid)


def whole_crude() -> FluidModel:
    """Return the demo's recombined crude as it is: some forty components."""
    document = demo_document()
    fluid = document.fluid("Varnholt recombined")
    assert fluid is not None
    return Evaluator().at(document).fluid(fluid)


def say(what: str, value: str, goal: str = "") -> None:
    sys.stdout.write(f"{what:<58}{value:>16}   {goal}\n")
    sys.stdout.flush()


def physics() -> None:
    model = thirty()
    eos, z = model.eos, model.z
    rng = np.random.default_rng(1)
    n = 10_000
    T, P = rng.uniform(230.0, 800.0, n), 10.0 ** rng.uniform(4.5, 7.6, n)
    flash_pt(eos, T[:50], P[:50], z)
    say("components", str(z.size))
    square = rng.random((800, 800))
    say("a product of 800 x 800 matrices, to compare by", f"{1e3 * best(lambda: square @ square):.0f} ms")

    os.environ["CRYONOME_THREADS"] = "1"
    alone = best(lambda: flash_pt(eos, T, P, z), 5)
    del os.environ["CRYONOME_THREADS"]
    batch = best(lambda: flash_pt(eos, T, P, z), 5)
    result = flash_pt(eos, T, P, z)
    singles = rng.choice(n, 300, replace=False)

    def one_by_one() -> None:
        for i in singles:
            flash_pt(eos, T[i], P[i], z)

    single = best(one_by_one, 3) / singles.size
    say("10 000 different states in one call, each", f"{1e6 * batch / n:.0f} us", "goal 15 us")
    say("  on one processor", f"{1e6 * alone / n:.0f} us", "goal 25 us")
    say("  quicker by all of them", f"{alone / batch:.2f}", "goal 1.7")
    say("one state, flash with stability, mean", f"{1e3 * single:.2f} ms", "goal 0.15 ms")
    say("ratio per state, one by one over batch", f"{single / (batch / n):.0f}", "goal 9")
    three = best(lambda: flash_all(eos, T, P, z), 3)
    say("up to three phases, ratio to two", f"{three / batch:.1f}", "goal 2.0")
    enthalpy = full_states(model, T, P, ["enthalpy"]).values.whole["enthalpy"]

    def measured(phases: Phases, keys: Sequence[str]) -> Mapping[str, np.ndarray]:
        return evaluate(model.substance, phases, keys).whole

    held = best(lambda: flash_pair(eos, z, {"pressure": P, "enthalpy": enthalpy}, measured), 2)
    say("pressure and enthalpy of 10 000 states, each", f"{1e6 * held / n:.0f} us", "goal 80 us")
    say("states not converged", str(int((~result.converged).sum())), "goal 0")
    say("share of two-phase states", f"{100 * result.split.mean():.0f} %")
    whole = best(lambda: full_states(model, T, P), 3)
    say("10 000 full states in one call", f"{whole:.2f} s")
    say("  ratio to the flash alone", f"{whole / batch:.2f}", "goal 1.5")
    trace = best(lambda: phase_map(eos, z), 3)
    say("envelope with critical point and extremes", f"{trace:.3f} s", "goal 0.06 s")
    old = phase_map(eos, z)
    warmer = replace(eos, Tc=1.01 * eos.Tc)
    say("  traced anew after a change of 1 %", f"{best(lambda: retraced(warmer, z, old), 3):.3f} s", "goal 0.02 s")
    say("spinodal with its critical points", f"{best(lambda: spinodal(eos, z), 3):.2f} s")
    lines = best(lambda: phase_map(eos, z, (0.1, 0.25, 0.5, 0.75, 0.9)), 2)
    say("envelope with five quality lines", f"{lines:.3f} s", "goal 0.09 s")
    say("  ratio to the bare envelope", f"{lines / trace:.1f}")
    full = best(lambda: full_states(model, [420.0], [6e6]), 20)
    say("full state under the probe", f"{1e3 * full:.1f} ms")
    bubble = best(lambda: flash_fraction(eos, z, 0.0, T=np.linspace(280, 600, 200)), 3)
    say("200 bubble points in one call", f"{bubble:.2f} s")
    n = 1000
    spread = rng.uniform(0.97, 1.03, (n, 1))
    many = CubicEos(eos.form, eos.Tc * spread, eos.Pc * np.ones((n, 1)), eos.omega * spread, np.stack([eos.kij] * n))
    warm = rng.uniform(300.0, 560.0, n)
    points = flash_fraction(many, z, 0.0, T=warm)
    took = best(lambda: flash_fraction(many, z, 0.0, T=warm), 3)
    say("1 000 bubble points with 1 000 sets of parameters", f"{took:.2f} s", "goal 0.15 s")
    say("  not found", str(int((~points.converged).sum())), "goal 0")


def saft() -> None:
    """Measure PC-SAFT: a batch of flashes, and the envelope of the demo's largest fluid."""
    model = thirty()
    eos = equation_of(SAFT, model.components, Interaction(library_kij(model.components, SAFT)))
    rng = np.random.default_rng(1)
    n = 3000
    T, P = rng.uniform(230.0, 800.0, n), 10.0 ** rng.uniform(4.5, 7.6, n)
    found = flash_pt(eos, T, P, model.z)
    took = best(lambda: flash_pt(eos, T, P, model.z), 3)
    say("PC-SAFT, flash in a batch, each", f"{1e6 * took / n:.0f} us", "goal 150 us")
    say("  states not converged", str(int((~found.converged).sum())), "goal 0")
    large = whole_crude()
    eos = equation_of(SAFT, large.components, Interaction(library_kij(large.components, SAFT)))
    took = best(lambda: phase_map(eos, large.z), 3)
    say(f"PC-SAFT, envelope of {large.z.size} components", f"{took:.2f} s", "goal 3 s")


def tables() -> None:
    """Measure a property table of ten thousand states."""
    model = whole_crude()
    keys = [
        "density", "enthalpy", "entropy", "heat_capacity_p", "heat_capacity_v", "speed_of_sound", "viscosity",
        "thermal_conductivity", "joule_thomson", "molar_mass",
    ]  # fmt: skip
    T, P = np.meshgrid(np.linspace(280.0, 620.0, 100), np.geomspace(1e5, 4e7, 100))
    took = best(lambda: full_states(model, T, P, keys), 3)
    say(f"table of 100 by 100, ten properties, {model.z.size} components", f"{took:.2f} s", "goal 0.4 s")


def commands() -> None:
    """Measure the command line: one flash, and a document with a mistyped key, whole processes."""
    one = {
        "format": "cryonome/1",
        "fluids": [{"name": "gas", "parts": [{"component": "methane", "amount": "0.8"}, {"component": "n-butane", "amount": "0.2"}]}],
        "studies": [{"name": "f", "kind": "flash", "fluid": "gas", "temperature": "300 K", "pressure": "50 bar"}],
    }  # fmt: skip
    typo = json.dumps(one).replace('"amount": "0.2"', '"amuont": "0.2"')
    for what, text, goal in (("one flash", json.dumps(one), "1.0 s"), ("a refused typo", typo, "0.6 s")):
        work = lambda text=text: subprocess.run(  # noqa: E731
            [sys.executable, "-m", "cryonome", "solve", "-"], input=text, text=True, capture_output=True, check=False
        )
        say(f"./run solve of {what}, whole process", f"{best(work):.2f} s", f"goal {goal}")


def heartbeat() -> None:
    """Measure how long the interface thread is kept while the envelope is traced, and the probe's rate."""
    from PySide6.QtCore import QEventLoop, QTimer
    from PySide6.QtWidgets import QApplication

    from cryonome.app.main import make_application, settle_memory
    from cryonome.app.shell.window import MainWindow
    from cryonome.app.widgets.theme import LIGHT

    make_application()
    start = time.perf_counter()
    window = MainWindow(demo_document())
    window.set_theme(LIGHT)
    window.show()
    QApplication.processEvents()
    say("window with the demo project shown after", f"{time.perf_counter() - start:.2f} s")
    window.live.come_to_rest()
    settle_memory()
    window.show_desk("map")
    gaps, last = [0.0], [time.perf_counter()]

    def beat() -> None:
        now = time.perf_counter()
        gaps.append(now - last[0])
        last[0] = now

    timer = QTimer()
    timer.setInterval(BEAT)
    timer.timeout.connect(beat)
    timer.start()
    # Each is new to this window, so that nothing of it is remembered.
    for eos in ("SRK", "PR76", "RK"):
        window.live.come_to_rest()
        del gaps[:]
        start = last[0] = time.perf_counter()
        window.desks["model"].choose_equation(eos)
        bare = lines = 0.0
        while window.live.pending():
            # Waiting for events, as a running program does; spinning would take the processor from the tracer.
            QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
            if not bare and not window.live.map.old:
                bare = time.perf_counter() - start
            if not lines and not window.live.results["lines"].old and bare:
                lines = time.perf_counter() - start
        say(f"  interface thread held at most, tracing with {eos}", f"{1e3 * max(gaps) - BEAT:.0f} ms", "goal 30 ms")
        say(f"  envelope on screen after ({eos})", f"{bare:.2f} s", "goal 0.25 s")
        say(f"  five quality lines on screen after ({eos})", f"{lines:.2f} s")
        say(f"  every kept question answered after ({eos})", f"{time.perf_counter() - start:.2f} s", "goal 2 s")
    window.live.come_to_rest()
    answers = []
    window.live.on({"probe"}, lambda: answers.append(time.perf_counter()))
    step = [0]

    def move() -> None:
        step[0] += 1
        window.desks["map"].probe.point_at(380.0 + 0.05 * (step[0] % 4000), 6e6)

    # A mouse tells of its way 125 times a second.
    mouse = QTimer()
    mouse.setInterval(8)
    mouse.timeout.connect(move)
    mouse.start()
    start = time.perf_counter()
    while time.perf_counter() - start < 3.0:
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
    mouse.stop()
    say("probe updates a second while the pointer moves", f"{len(answers) / 3.0:.0f}", "goal 60")
    timer.stop()
    chain(window)
    window.live.come_to_rest()
    window.store.undo_stack.setClean()
    window.close()


def chain(window) -> None:
    """Measure an edited cell to cuts and yields on screen, and to the envelope; median and worst of several edits."""
    from PySide6.QtCore import QEventLoop
    from PySide6.QtWidgets import QApplication

    window.show_desk("lab")
    for name in ("Varnholt crude", "Brack heavy", "Tarn light"):
        if window.store.document.sample(name) is None:
            window.add_from_collection(name)
            window.add_fluid()
            window.show_desk("lab")
        window.live.select_sample(name)
        window.live.come_to_rest()
        times, traced, alone = [], [], []
        for k in range(6):
            cell = window.desks["lab"].points.text(3, 1)
            start = time.perf_counter()
            window.desks["lab"].points.store_cells({(3, 1): f"{float(cell) + (0.3 if k % 2 else -0.4):.4g}"}, "x")
            QApplication.processEvents()
            times.append(time.perf_counter() - start)
            lab = read_sample(window.live.current_sample()).lab
            alone.append(best(lambda lab=lab: characterize(lab), 3))
            while window.live.map.old or window.live.map.value is None:
                QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
            traced.append(time.perf_counter() - start)
            window.live.come_to_rest()
        text = f"{1e3 * float(np.median(times)):.0f} ms, at most {1e3 * max(times):.0f}"
        say(f"edited cell to cuts and yields, {name}", text, "goal 50 ms")
        say("  ratio to characterizing alone", f"{np.median(np.array(times) / np.array(alone)):.1f}", "goal 2.5")
        say(
            f"  to the bare envelope of {window.live.fluid_name}"[:57],
            f"{np.median(traced):.2f} s, at most {max(traced):.2f}",
            "goal 0.25 s",
        )


def start_up() -> None:
    """Measure from the command to the usable window, in a process of its own."""
    code = (
        "import time\n"
        "import cryonome.app.main as m\n"
        "from PySide6.QtCore import QTimer\n"
        "from PySide6.QtWidgets import QApplication\n"
        "m.make_application()\n"
        "def usable():\n"
        "    QApplication.processEvents()\n"
        "    print(time.time(), flush=True)\n"
        "    QApplication.instance().quit()\n"
        "QTimer.singleShot(0, usable)\n"
        "m.run(None)\n"
    )
    times = []
    for _ in range(3):
        start = time.time()
        done = subprocess.run([sys.executable, "-c", code], check=False, capture_output=True, text=True, timeout=60)
        times.append(float(done.stdout.split()[-1]) - start)
    say("process start to a window that answers", f"{min(times):.2f} s", "goal 2 s")


if __name__ == "__main__":
    parts = {
        "physics": physics, "saft": saft, "tables": tables, "commands": commands, "start": start_up, "window": heartbeat,
    }  # fmt: skip
    for name in sys.argv[1:] or parts:
        parts[name]()
