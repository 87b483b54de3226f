"""The limits of hydrate and ice of the question that is looked at, fanned by dose."""

from __future__ import annotations

from collections.abc import Iterator

from ....document.references import about
from ....results.hydrates import Dose, fan_of
from ...shell.results_table import Request, Results
from ...shell.session import Session, limits_request, reading_of

LOOKED_AT = "hydrates"
"""Under this name the page says what it looks at (``Session.wants``)."""


def declared(session: Session, _results: Results) -> Iterator[tuple[str, Request]]:
    """The limits for every dose of the fan; of a question without doses the one of plain water."""
    study = session.document.study(session.wants(LOOKED_AT))
    own = session.document.fluid(about(study)) if study is not None else None
    asked = reading_of(session, study).asked if study is not None else None
    if study is None or own is None or asked is None:
        return
    dosed = hasattr(asked, "dose") or hasattr(asked, "beside")
    dose: Dose = getattr(asked, "dose", getattr(asked, "beside", ()))
    fan = fan_of(dose, getattr(asked, "inhibitor", "")) if dosed else ()
    yield "hydrate fan", limits_request(session.project, own, ((), *fan))
