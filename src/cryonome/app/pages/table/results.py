"""The property table that is looked at, its formula, and what may be chosen to stand in it."""

from __future__ import annotations

from collections.abc import Iterator

from ....document import errors
from ....document.references import about
from ....questions.kinds.table import Asked
from ....questions.tabulate import Axis, PropertyTable, choices_at, formula_of, table_of, thinned
from ....watch import Watch
from ...shell.results_table import Request, Results
from ...shell.session import BREATH, REST, Session, reading_of

LOOKED_AT = "table"
"""Under this name the page says what it looks at (``Session.wants``)."""


SHOWN_HERE = ("table", "table first", "formula", "choices")
"""The results of the page."""

FIRST_PICTURE = 16
"""Values of an axis in the first picture of a table, which is there at once."""


def declared(session: Session, results: Results) -> Iterator[tuple[str, Request]]:
    """The property table that is looked at: a coarse one first, then all of it and its formula; and what its state in
    the middle has, to choose properties by."""
    study = session.document.study(session.wants(LOOKED_AT))
    if study is None or study.kind != "table":
        return
    project = session.project
    reading = reading_of(session, study)
    asked = reading.asked
    wrong = errors(reading.faults)
    fluid = session.document.fluid(about(study))
    if wrong or not isinstance(asked, Asked) or fluid is None:
        told = wrong[0].message if wrong else "the fluid is not there"
        yield "table", Request(("table", study.name, told), None, error=told)
        return
    content = (project.fluid_key(fluid), asked.axes, tuple(asked.held.items()))
    key = ("table", *content, asked.columns, asked.whole)

    def tabulated(watch: Watch, axes: tuple[Axis, ...] = asked.axes) -> PropertyTable:
        return table_of(project, fluid, axes, asked.held, asked.columns, watch, asked.whole)

    whole, first = results["table"], thinned(asked.axes, FIRST_PICTURE)
    there = results.key("table") == key and whole.value is not None and not whole.old
    if first != asked.axes and not there:
        yield "table first", Request((*key, "first"), lambda watch: tabulated(watch, first), pause=BREATH)
    yield "table", Request(key, tabulated, pause=2 * BREATH)
    if asked.compact and there:
        wanted = asked.compact
        yield (
            "formula",
            Request(
                (*key, wanted),
                lambda watch: formula_of(
                    project, fluid, asked.axes, asked.held, asked.columns, wanted, watch, asked.whole
                ),
            ),
        )
    middle = tuple((k, (values[len(values) // 2],)) for k, values in asked.axes)
    yield (
        "choices",
        Request(
            ("choices", project.fluid_key(fluid), middle, tuple(asked.held.items())),
            lambda watch: choices_at(project.fluid(fluid), middle, asked.held, watch),
            pause=REST,
            behind=True,
        ),
    )
