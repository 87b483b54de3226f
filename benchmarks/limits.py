"""How long hydrate limits, fans of doses and paths take: ``./run bench limits``. Thirty components, free water, two structures."""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import numpy as np

from cryonome.demo import demo_document
from cryonome.document import Document
from cryonome.document.edits import set_at
from cryonome.results import Evaluator
from cryonome.results.hydrates import icy
from cryonome.results.paths import follow
from cryonome.solids.branches import pressures
from cryonome.solids.formation import Chart, Wanted, temperatures
from run import best, say

STATIONS = ([351.15, 334.15, 292.15, 290.15], [190e5, 165e5, 118e5, 62e5])


def thirty() -> Document:
    """Return the demo with its crude cut to thirty components when recombined."""
    document = demo_document()
    cuts = document.samples[0].cuts.model_copy(
        update={"boundaries": tuple(f"{t:.0f} degC" for t in np.linspace(45, 700, 20))}
    )
    return set_at(document, ("samples", 0, "cuts"), cuts)


def main() -> None:
    """Measure and tell."""
    document = thirty()
    project = Evaluator().at(document)
    fluid = document.fluid("Varnholt recombined")
    assert fluid is not None
    host = icy(project, fluid).chart.host
    say("components", str(host.z.size))
    say("chart", f"{best(lambda: Chart.of(host)):.3f} s")
    T, P = np.linspace(262.0, 295.0, 40), np.geomspace(5e5, 3e7, 40)
    say(
        "pressures at 40 temperatures, every branch",
        f"{best(lambda: pressures(host, T, [{}])):.3f} s",
        "0.5 s",
    )
    doses = [{}, *({"methanol": np.array([w])} for w in (0.1, 0.2, 0.3, 0.4, 0.5))]
    fan = lambda: temperatures(Chart.of(host), Wanted.grid(P, len(doses)), doses)  # noqa: E731
    say("fan of five doses, chart and all", f"{best(fan):.3f} s", "goal 0.06 s")
    for name in ("Quillmoor reservoir gas", "Quillmoor wet stream"):
        own = document.fluid(name)
        assert own is not None
        follow(project, own, *STATIONS, ())
        moved = ([*STATIONS[0][:2], STATIONS[0][2] - 3.0, STATIONS[0][3]], STATIONS[1])
        say(
            f"path of four stations once the map is there, {name}",
            f"{best(lambda own=own, m=moved: follow(project, own, *m, ())):.3f} s",
            "goal 0.05 s",
        )


main()
