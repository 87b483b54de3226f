"""The match that is looked at: what parameters can move, and its tests drawn before and after."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ....document import Study
from ....document.kinds import study_kinds
from ....document.model import measured_of
from ....document.references import about
from ....matching.fitting import fitted_parameters, reach_of
from ....matching.match_view import match_view
from ....matching.parameters import Ask
from ....questions.kinds.match import MatchStudy
from ...shell.results_table import Request, Results
from ...shell.session import BREATH, Session, reading_of

LOOKED_AT = "match"
"""Under this name the page says what it looks at (``Session.wants``)."""


def declared(session: Session, results: Results) -> Iterator[tuple[str, Request]]:
    """The match that is looked at: what parameters can move, and its tests drawn before and after."""
    study = session.document.study(session.wants(LOOKED_AT))
    project = session.project
    if study is None:
        return
    if not isinstance(study, MatchStudy):
        yield from _tests_alone(session, study)
        return
    asked = reading_of(session, study).asked
    if asked is None:
        return
    content = project.content_of(study)
    bare = replace(asked, parameters=())
    yield (
        "match reach",
        Request(("match reach", bare, content), lambda watch: reach_of(bare, project), pause=BREATH, behind=True),
    )
    shown = results[f"answer:{study.name}"]
    answer = shown.value if shown.value and shown.value.get("ok") else None
    wanted, values = ((), None) if answer is None else fitted_parameters(answer)
    key = ("match view", bare, content, wanted, None if values is None else tuple(values.tolist()))
    yield "match view", Request(key, lambda watch: match_view(bare, project, wanted, values), pause=BREATH)


def _tests_alone(session: Session, study: Study) -> Iterator[tuple[str, Request]]:
    """The tests of a fluid that no match is asked of, the one looked at first."""
    project, fluid = session.project, about(study)
    own = [s for s in measured_of(session.document, fluid) if study_kinds()[s.kind].test is not None]
    ready = [s for s in own if (s is study or s.measured) and reading_of(session, s).asked is not None]
    if study not in ready:
        return
    asked = Ask("", fluid, tuple(s.name for s in ready), (), (), ())
    content = tuple((project.content(s), project.content_of(s)) for s in ready)
    yield (
        "match view",
        Request(("match view", asked, content), lambda watch: match_view(asked, project, (), None), pause=BREATH),
    )
