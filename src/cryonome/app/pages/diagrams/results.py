"""The envelope over other variables, once somebody looks at it, and the place pointed at there."""

from __future__ import annotations

from collections.abc import Iterator

from ....equilibrium.phase_map import PhaseMap
from ....equilibrium.regions import Regions
from ....fluids.building import FluidModel
from ....fluids.diagrams import diagram, state_of
from ...shell.results_table import Request, Results
from ...shell.session import PROBED, REST, Session, volumes_of

LOOKED_AT = "diagram"
"""Under this name the page says what it looks at (``Session.wants``)."""


def declared(session: Session, results: Results) -> Iterator[tuple[str, Request]]:
    """The envelope over other variables, once somebody looks at it, and the place pointed at there."""
    fluid, model, whole = session.fluid, results["fluid"].value, results["map"]
    if not session.wants(LOOKED_AT) or fluid is None or not isinstance(model, FluidModel) or results["fluid"].error:
        return
    if isinstance(whole.value, PhaseMap) and not whole.old:
        lines, volumes = results["lines"], results["volumes"]
        own = session.document.display.map.quality_lines and not session.document.display.map.by_volume
        traced = lines.value if own and isinstance(lines.value, PhaseMap) and not lines.old else whole.value
        fractions = (0.0, *session.document.display.map.quality, 1.0) if traced is not whole.value else (0.0, 1.0)
        known = results["regions"]
        found = known.value if isinstance(known.value, Regions) and not known.old else None
        by_volume = volumes_of(session, volumes.value if not volumes.old else None)
        yield (
            "diagram",
            Request(
                ("diagram", id(traced), tuple(map(id, by_volume)), id(found), results.key("fluid")),
                lambda watch: diagram(model, traced, fractions, by_volume, watch, found),
                pause=REST,
                behind=True,
            ),
        )
    if session.place:
        at = dict(session.place)
        key = (results.key("fluid"), session.place)
        yield "place", Request(key, lambda watch: state_of(model, at, PROBED, watch) or False, moving=True)
