"""What the goal that is looked at reads over the whole range of its input."""

from __future__ import annotations

from collections.abc import Iterator

from ....questions.kinds.goal import Asked, goal_curve
from ....results import Context
from ...shell.results_table import Request, Results
from ...shell.session import BREATH, Session, reading_of

LOOKED_AT = "goal"
"""Under this name the page says what it looks at (``Session.wants``)."""


def declared(session: Session, _results: Results) -> Iterator[tuple[str, Request]]:
    """What the goal that is looked at reads over the whole range of its input."""
    study = session.document.study(session.wants(LOOKED_AT))
    if study is None or study.kind != "goal":
        return
    project = session.project
    asked = reading_of(session, study).asked
    if not isinstance(asked, Asked):
        yield (
            "goal curve",
            Request(("goal curve", study.model_dump_json()), None, error="the goal cannot be asked as it is"),
        )
        return
    yield (
        "goal curve",
        Request(
            ("goal curve", project.content(study), project.content_of(study)),
            lambda watch: goal_curve(asked, Context(project, watch)),
            pause=BREATH,
        ),
    )
