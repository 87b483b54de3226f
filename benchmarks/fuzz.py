"""Random input, seeded and bounded in time: ``./run fuzz [documents|sheets|tables|quantities|cells|names|window|kills] [--seconds N] [--seed N]``.

Each part counts what it tried and prints every traceback, hang over two seconds and lost edit it met, with the seed that makes it
again. Never a test: `./test` holds one telling case a mechanism.
"""

from __future__ import annotations

import argparse
import copy
import json
import os
import random
import resource
import signal
import string
import subprocess
import sys
import tempfile
import time
import traceback
import warnings
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import fuzz_edits

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

BLOCK = 0.5
"""s. Longer than that the window must not be held."""

HANG = 2.0
"""s. Longer than that nobody waits for a sentence."""

SOLVED = 6.0
"""s. Longer than that no question of these documents takes."""

Trial = Callable[[random.Random], str]
"""One try of a seed: what came of it in a word. Raises what it must not."""


def memory() -> float:
    """Return the memory in use, MB."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * resource.getpagesize() / 1e6


def many(name: str, trial: Trial, seconds: float, seed: int, most: int) -> int:
    """Try seeds one after another; print what went wrong and the counts; return how many did."""
    counts: Counter[str] = Counter()
    wrong, tried, slowest, begun, start = 0, 0, 0.0, memory(), time.perf_counter()
    while time.perf_counter() - start < seconds and tried < most:
        own = seed + tried
        tried += 1
        at, word = time.perf_counter(), ""
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("error")
                word = trial(random.Random(own))
                counts[word] += 1
        except Exception:
            wrong += 1
            if wrong <= 12:
                sys.stdout.write(f"seed {own}:\n{traceback.format_exc(limit=-4)}\n")
        took = time.perf_counter() - at
        slowest = max(slowest, took)
        if took > (SOLVED if word == "answered" else HANG):
            wrong += 1
            sys.stdout.write(f"seed {own}: {took:.1f} s\n")
    told = ", ".join(f"{n} {what}" for what, n in counts.most_common(6))
    sys.stdout.write(
        f"{name}: {tried} tried in {time.perf_counter() - start:.0f} s, {wrong} wrong; {told}; slowest {slowest:.2f} s; "
        f"memory {begun:.0f} to {memory():.0f} MB\n"
    )
    return wrong


ODD: tuple[Any, ...] = (
    None, True, False, 0, -1, 1e300, 1e-300, -0.0, 10**400, "", " ", "x", "5 bar", "300 K", "-300 degC", "1e999", "2,000 psia", "5 % bar",
    "12 mscf/d", "\ud800", "\x00", "<img width=30000>", "a" * 3000, "NaN", [], {}, [[]], [1, 2, 3], {"a": 1}, "Varnholt crude", "methane",
    "C7+", "volume", "PR78", "5 K**9**9**9", 1.5, 99, 250, "40 %", "0.85 SG", "library",
)  # fmt: skip
"""Values that stand where they do not belong."""


def places(data: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Return the path of every value in JSON data."""
    inner = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    return [path, *[p for key, value in inner for p in places(value, (*path, key))]]


def spoiled(data: Any, rng: random.Random) -> Any:
    """Return JSON data with a few of its values replaced, removed, doubled or moved."""
    data = copy.deepcopy(data)
    for _ in range(rng.choice((1, 1, 2, 3, 6))):
        path = rng.choice(places(data)[1:] or [()])
        if not path:
            continue
        here = data
        for part in path[:-1]:
            here = here[part]
        what = rng.randrange(6)
        if what <= 2:
            here[path[-1]] = copy.deepcopy(rng.choice(ODD))
        elif what == 3:
            del here[path[-1]]
        elif isinstance(here, list):
            here.insert(rng.randrange(len(here) + 1), copy.deepcopy(here[path[-1]]))
            rng.shuffle(here) if what == 5 else None
        else:
            here[rng.choice(["colour", "name", "amount", "id", "points", "fluid"])] = copy.deepcopy(here[path[-1]])
    return data


def documents() -> Trial:
    """Spoiled documents: parsed, judged, and one valid one in a hundred solved with its studies."""
    from cryonome.demo import collection, demo_document
    from cryonome.document import DocumentError, check_document, document_text, errors, parse_document
    from cryonome.questions import solve

    whole = json.loads(document_text(demo_document()))
    small = {
        "format": "cryonome/1",
        "samples": json.loads(document_text(collection()))["samples"][:1],
        "fluids": [{"name": "F", "parts": [{"component": "methane", "amount": 70}, {"component": "n-decane", "amount": 30}]},
                   {"name": "G", "parts": [{"fluid": "F", "amount": 1}, {"pseudo": {"name": "P", "Tc": "600 K", "Pc": "20 bar",
                    "omega": 0.4, "molar_mass": 150}, "amount": 2}]}],
        "studies": [{"name": "s", "kind": "flash", "fluid": "G", "temperature": "300 K", "pressure": "20 bar"},
                    {"name": "c", "kind": "characterization", "sample": collection().samples[0].name}],
        "display": {"units": "metric", "map": {"temperature": "degC"}},
    }  # fmt: skip

    def trial(rng: random.Random) -> str:
        text = json.dumps(spoiled(small if rng.random() < 0.8 else whole, rng))
        if rng.random() < 0.05:
            text = text[: rng.randrange(len(text))]
        try:
            document = parse_document(text)
        except DocumentError:
            return "refused by shape"
        if errors(check_document(document)):
            return "faults told"
        if rng.random() < 0.01 and len(document.samples) < 2:
            answers = solve(document)["answers"]
            json.dumps(answers, allow_nan=False)
            return "answered"
        return "valid"

    return trial


CELLS = (
    "percent", "vol%", "TBP (°F)", "T [K]", "density", "API", "33.1", "0.86", "5", "10", "30,5", "1,234", "50 %", "IBP", "FBP", "95 degC", "",
    "", "component", "C7", "C20+", "methane", "n-butane", "amount (wt%)", "sample", "x", "viscosity at 40 C", "5 cSt", "method", "D86",
    "=1+1", "'", '"', "\x07", "1e999", "total", "MW", "wt%", "°F", "2'000", "12.345.678", "sulphur (ppm)", "basis", "mass", "é" * 50,
)  # fmt: skip


def sheets() -> Trial:
    """Random sheets as CSV bytes in any encoding, and workbooks cut anywhere: read, judged, and written again."""
    import openpyxl

    from cryonome.document import read_sample
    from cryonome.exchange import ExchangeError, read_file
    from cryonome.exchange.writing import write_samples

    folder = Path(tempfile.mkdtemp())

    def trial(rng: random.Random) -> str:
        rows = [[rng.choice(CELLS) for _ in range(rng.randrange(6))] for _ in range(rng.randrange(20))]
        if rng.random() < 0.7:
            rows += [["percent", rng.choice(["TBP (°F)", "D86, C", "D2887_K"]), rng.choice(CELLS)]]
            rows += [[str(p), str(100 + 5 * p), rng.choice(CELLS)] for p in range(0, 100, rng.choice([5, 10, 30]))]
        if rng.random() < 0.25:
            path = folder / "a.xlsx"
            book = openpyxl.Workbook()
            for row in rows:
                for j, cell in enumerate(row, 1):
                    if "\x07" not in cell:
                        book.active.cell(rows.index(row) + 1, j, cell)
            if rng.random() < 0.3:
                book.active.cell(rng.choice([9, 70_000, 1_048_576]), rng.choice([3, 300, 16_384]), "stray")
            book.save(path)
            data = bytearray(path.read_bytes())
            if rng.random() < 0.4:
                for _ in range(rng.randrange(1, 30)):
                    data[rng.randrange(len(data))] = rng.randrange(256)
                data = data[: rng.randrange(1, len(data))] if rng.random() < 0.5 else data
                path.write_bytes(data)
        else:
            path = folder / "a.csv"
            text = rng.choice(["\n", "\r\n", "\r"]).join(rng.choice([",", ";", "\t"]).join(r) for r in rows)
            path.write_bytes(text.encode(rng.choice(["utf-8", "utf-16", "cp1252", "utf-16-be"]), errors="replace"))
        try:
            found = read_file(path)
        except ExchangeError:
            return "refused"
        for sample in found.samples:
            read_sample(sample)
        out = folder / rng.choice(["out.csv", "out.xlsx"])
        write_samples(out, found.samples)
        try:
            read_file(out)
        except ExchangeError:
            return "nothing to write"
        return "read with notes" if found.notes else "read"

    return trial


def tables() -> Trial:
    """True samples and reports written in random layouts, words, units and styles: what was read is what was written, or a word about it."""
    sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
    from cryonome.exchange import read_rows
    from sheet_writer import any_sheet, differences

    def trial(rng: random.Random) -> str:
        truth, rows = any_sheet(rng)
        found = read_rows(rows, "sheet")
        wrong = differences(truth, found)
        if wrong:
            raise AssertionError(f"{truth.kind}: {'; '.join(wrong[:3])}")
        return "read" if not found.notes else "read with a word"

    return trial


def quantities() -> Trial:
    """Random texts of numbers and units: a finite number or a sentence."""
    from cryonome.units import KINDS, QuantityError, parse

    units = [u for k in KINDS.values() for u in k.units] + [
        "(g)",
        "abs",
        "M",
        "MM",
        "m",
        "k",
        "^",
        "**",
        "/",
        "·",
        "³",
        "°",
        "%",
        "per",
        "std",
    ]
    numbers = [
        "5",
        "2,000",
        "1.5e3",
        "1 500,5",
        "2'000",
        "½",
        "-",
        "10^",
        "x10^3",
        "9" * 60,
        "1e999",
        ".",
        ",",
        "１２",
        "5 5",
        "(5)",
    ]

    def trial(rng: random.Random) -> str:
        text = (
            rng.choice(numbers)
            + rng.choice(["", " ", "\u00a0"])
            + "".join(rng.choice(units) for _ in range(rng.randrange(4)))
        )
        if rng.random() < 0.3:
            text += "".join(rng.choice(string.printable) for _ in range(rng.randrange(8)))
        try:
            value = parse(text, rng.choice(list(KINDS)))
        except QuantityError:
            return "refused"
        assert value - value == 0.0, text
        return "read"

    return trial


def window(seconds: float, seed: int) -> int:
    """Do random things in one window; print what no slot caught, and memory every minute."""
    os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()
    from PySide6.QtWidgets import QApplication, QMessageBox

    from cryonome.app.main import make_application
    from cryonome.app.shell.menus import all_actions
    from cryonome.app.shell.window import MainWindow
    from cryonome.app.widgets.theme import LIGHT
    from cryonome.demo import collection, demo_document

    caught: list[str] = []
    sys.excepthook = lambda kind, error, trace: caught.append("".join(traceback.format_exception(kind, error, trace)))
    make_application()
    QMessageBox.exec = lambda _box: QMessageBox.StandardButton.Cancel  # type: ignore[method-assign]
    QMessageBox.question = staticmethod(lambda *_a, **_k: QMessageBox.StandardButton.Discard)  # type: ignore[method-assign]
    w = MainWindow(demo_document())
    w.set_theme(LIGHT)
    w.show()
    rng = random.Random(seed)
    blocks = ([["1"]], [["5", "x", "300 K"]], [[]], [["", ""], ["a"]], [[str(i), str(2 * i)] for i in range(600)], [["x"] * 30],
              [["component", "mol%"], ["C1", "80"]], [["\ud800"]], [["<b>x</b>", "9" * 400]], [["100 degC", "5", "7"]] * 3)  # fmt: skip
    dialogs = (
        "…",
        "Quit",
        "Open",
        "Save",
        "Import",
        "Export",
        "Find an action",
        "Help",
        "About",
        "Rename",
        "report",
        "What changed",
    )

    def act() -> str:
        what = rng.randrange(8)
        if what == 0:
            w.show_desk(rng.choice(list(w.desks)))
            return "desk"
        if what in (1, 2):
            # What is seen: nobody reaches another.
            grids = [g for g in w.desks[w.current].grids if g.isVisible()]
            if not grids:
                return "no grid"
            model = rng.choice(grids).grid()
            row, column = rng.randrange(max(model.rows(), 1)), rng.randrange(max(len(model.titles()), 1))
            if what == 1:
                model.paste(row, column, rng.choice(blocks))
            else:
                model.store_cells({(row, column): str(rng.choice(ODD))[:60]}, "fuzz")
            return f"{type(model).__name__} {row},{column}"
        if what == 3:
            for _ in range(rng.randrange(1, 6)):
                w.store.undo_stack.undo() if rng.random() < 0.7 else w.store.undo_stack.redo()
            return "undo"
        if what == 4:
            fluids, samples = w.store.document.fluids, w.store.document.samples
            names = [f.name for f in fluids]
            rng.choice([
                lambda: w.live.select_fluid(rng.choice(names)) if names else None,
                lambda: w.live.select_sample(rng.choice(samples).name) if samples else None,
                lambda: w.add_from_collection(rng.choice(collection().samples).name),
                lambda: w.resize(rng.randrange(300, 1900), rng.randrange(200, 1200)),
                lambda: w.paste_text("\n".join("\t".join(r) for r in rng.choice(blocks)).replace("\ud800", "?")),
                lambda: w.desks["map"].place_probe(10 ** rng.uniform(0, 4), 10 ** rng.uniform(-3, 12)),
                lambda: w.desks["cuts"].add_boundary(rng.random()),
            ])()  # fmt: skip
            return "choice"
        actions = [a for _, a in all_actions(w) if a.isEnabled() and not any(d in a.text() for d in dialogs)]
        action = rng.choice(actions)
        action.trigger()
        return action.text()

    start = told = time.perf_counter()
    n = slow = 0
    begun = memory()
    while time.perf_counter() - start < seconds:
        n += 1
        at = time.perf_counter()
        try:
            name = act()
        except Exception:
            caught.append(traceback.format_exc(limit=-6))
            name = "?"
        QApplication.processEvents()
        if time.perf_counter() - at > BLOCK:
            slow += 1
            sys.stdout.write(f"{name}: {time.perf_counter() - at:.1f} s\n")
        for text in caught:
            sys.stdout.write(f"after {n} actions, {name}:\n{text}\n")
        slow += len(caught)
        caught.clear()
        if len(w.store.document.samples) + len(w.store.document.fluids) > 14:
            w.store.replace(demo_document(), None)
        if time.perf_counter() - told > 60.0:
            told = time.perf_counter()
            sys.stdout.write(f"  {n} actions, memory {memory():.0f} MB\n")
            sys.stdout.flush()
    sys.stdout.write(f"window: {n} actions, {slow} wrong; memory {begun:.0f} to {memory():.0f} MB\n")
    w.jobs.shut_down()
    w.store.undo_stack.setClean()
    w.close()
    return slow


WRITER = """
import sys, time
from pathlib import Path
from PySide6.QtCore import QCoreApplication, QTimer
from cryonome.app.shell.store import Store
from cryonome.document import load
from cryonome.document.edits import set_at
app = QCoreApplication([])
path = Path(sys.argv[1])
store = Store(load(path), path)
store.autosave.claim()
n = 0
def edit():
    global n
    n += 1
    store.edit("x", lambda d: set_at(d, ("title",), f"{n} {time.time():.3f}"))
    if n % 23 == 0:
        store.save()
    print(f"{n} {time.time():.3f}", flush=True)
timer = QTimer(); timer.setInterval(40); timer.timeout.connect(edit); timer.start()
app.exec()
"""


def kills(count: int, seed: int) -> int:
    """Kill a program that edits and saves all the time, and count what was lost: at most two seconds, and no leftover."""
    from cryonome.demo import demo_document
    from cryonome.document import Autosave, load, save

    rng, wrong, worst = random.Random(seed), 0, 0.0
    home = Path(tempfile.mkdtemp())
    os.environ["XDG_STATE_HOME"] = str(home)
    path = home / "work" / "a.cryo"
    for k in range(count):
        save(path, demo_document())
        child = subprocess.Popen(
            [sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE, text=True, bufsize=1
        )
        assert child.stdout is not None
        last = child.stdout.readline()
        end = time.time() + rng.uniform(0.05, 4.0)
        while time.time() < end:
            last = child.stdout.readline() or last
        child.send_signal(signal.SIGKILL)
        child.wait()
        made = float(last.split()[1])
        kept = [load(path).title, *[one.document.title for one in Autosave(path).left(path)]]
        newest = max((float(t.split()[1]) for t in kept if t[:1].isdigit()), default=None)
        lost = made - newest if newest is not None else made - (end - 4.0)
        worst = max(worst, lost if newest is not None else 0.0)
        for one in Autosave(path).left():
            one.discard()
        load(path)
        left = [p.name for p in home.rglob(".*part")]
        if (lost > 2.0 and newest is not None) or left:
            wrong += 1
            sys.stdout.write(f"kill {k}: {lost:.2f} s lost, left {left}\n")
    sys.stdout.write(f"kills: {count}, {wrong} wrong; at most {worst:.2f} s lost\n")
    return wrong


def main() -> int:
    """Run the parts asked for."""
    parser = argparse.ArgumentParser(prog="./run fuzz", description=__doc__.split("\n")[0])
    parser.add_argument(
        "part", nargs="*", default=["documents", "sheets", "quantities", "cells", "names", "window", "kills"]
    )
    parser.add_argument("--seconds", type=float, default=60.0, help="at most that long each")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--most", type=int, default=10**6, help="at most that many tries each")
    given = parser.parse_args()
    trials = {
        "documents": documents, "sheets": sheets, "tables": tables, "quantities": quantities, "cells": fuzz_edits.cells, "names": fuzz_edits.names,
    }  # fmt: skip
    wrong = 0
    for part in given.part:
        if part in trials:
            wrong += many(part, trials[part](), given.seconds, given.seed, given.most)
        elif part == "window":
            wrong += window(given.seconds, given.seed)
        elif part == "kills":
            wrong += kills(min(given.most, max(1, int(given.seconds / 5.0))), given.seed)
        else:
            parser.error(f"there is no part {part}")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
