"""The table of results without a window: what is asked, kept, told old, and dropped because it came late."""

from __future__ import annotations

from dataclasses import dataclass

import pytest

from cryonome.app.shell.results_table import NOTHING, Request, Results, Shown
from cryonome.app.shell.session import DECLARATIONS, Session, fluids_of, trail_of
from cryonome.document import Document, Fault
from cryonome.document.edits import set_at
from cryonome.errors import DomainError
from cryonome.results import Evaluator
from cryonome.watch import UNWATCHED
from window_demo import demo_document


@dataclass(frozen=True)
class Input:
    """A session made up for the test."""

    number: float = 1.0
    wanted: bool = True
    about: str = "this"
    error: str = ""


def square(session, _results):
    if session.wanted:
        yield "square", Request(session.number, lambda _w: session.number**2, at_once=True, error=session.error)


def slow(session, results):
    if results["square"].value is not None:
        yield "slow", Request(results["square"].value, lambda _w: -results["square"].value)
        yield "moving", Request((session.about, session.number), lambda _w: session.number, moving=True)


@pytest.fixture
def table():
    return Results((square, slow))


def test_what_is_quick_is_there_at_once_and_the_rest_is_asked_for(table):
    changed, wanted = table.refresh(Input(3.0))
    assert changed == {"square", "slow", "moving"}
    assert set(wanted) == {"slow", "moving"}
    assert table["square"] == Shown(9.0)
    assert table["slow"] == Shown(None, True)
    assert wanted["slow"].work(UNWATCHED) == -9.0
    assert table.arrive("slow", 9.0, -9.0, "")
    assert table["slow"] == Shown(-9.0)
    assert table.refresh(Input(3.0)) == (set(), {})
    changed, wanted = table.refresh(Input(-3.0))
    # The square is the same, so that what hangs on it is not asked again.
    assert changed == {"square", "moving"}
    assert set(wanted) == {"moving"}
    assert wanted["moving"].moving


def test_the_last_good_value_stays_while_it_is_computed_anew_and_when_the_input_is_wrong(table):
    table.refresh(Input(2.0))
    table.arrive("slow", 4.0, -4.0, "")
    table.refresh(Input(5.0))
    assert table["slow"] == Shown(-4.0, True)
    table.arrive("slow", 25.0, None, "it did not converge")
    assert table["slow"] == Shown(-4.0, True, "it did not converge")
    table.refresh(Input(6.0, error="no such number"))
    assert table["square"] == Shown(25.0, True, "no such number")


def test_what_comes_late_is_dropped_except_a_moving_reading(table):
    table.refresh(Input(2.0))
    table.refresh(Input(3.0))
    assert not table.arrive("slow", 4.0, -4.0, "")
    assert table["slow"] == Shown(None, True)
    assert table.arrive("moving", ("this", 2.0), 2.0, "", moving=True)
    assert table["moving"] == Shown(2.0, True)
    assert not table.arrive("moving", ("another", 3.0), 5.0, "", moving=True)  # what it is about is not shown any more
    assert table["moving"] == Shown(2.0, True)
    assert table.arrive("moving", ("this", 3.0), 3.0, "", moving=True)
    assert table["moving"] == Shown(3.0)
    assert not table.arrive("nothing", 1, 1, "")


def test_what_is_not_declared_any_more_goes_and_what_is_forgotten_is_asked_again(table):
    table.refresh(Input(2.0))
    table.arrive("slow", 4.0, -4.0, "")
    table.forget("slow")
    assert table["slow"] == NOTHING
    assert "slow" in table.refresh(Input(2.0))[1]
    changed, _ = table.refresh(Input(2.0, wanted=False))
    assert "square" in changed
    assert table["square"] == NOTHING


def test_a_refusal_of_quick_work_is_an_error_and_a_bug_is_not_hidden():
    def refuse(_session, _results):
        def work(_watch):
            raise DomainError("below absolute zero")

        yield "x", Request(1, work, at_once=True, faults=(Fault(("samples", 0), "cold"),))

    table = Results((refuse,))
    table.refresh(Input())
    assert table["x"].error == "below absolute zero"
    assert table["x"].faults[0].message == "cold"

    def broken(_session, _results):
        yield "x", Request(1, lambda _w: 1 / 0, at_once=True)

    with pytest.raises(ZeroDivisionError):
        Results((broken,)).refresh(Input())


def test_families_are_found_by_their_prefix():
    table = Results((lambda s, r: ((f"answer:{n}", Request(n, lambda _w, n=n: n, at_once=True)) for n in "ab"),))
    table.refresh(Input())
    assert {n: s.value for n, s in table.family("answer").items()} == {"a": "a", "b": "b"}


def test_the_sessions_results_follow_the_document_without_a_window():
    document = demo_document()
    session = Session(document, Evaluator(), "Varnholt crude", "Varnholt recombined", probe=(380.0, 5e6))
    table = Results(DECLARATIONS)
    _, wanted = table.refresh(session)
    assert table["sample"].value is not None
    assert table["fluid"].value is not None
    assert {"map", "probe"} <= set(wanted)
    assert {f"answer:{s.name}" for s in document.studies} <= set(wanted)
    assert not table.refresh(session)[1]
    probe = wanted["probe"]
    assert table.arrive("probe", probe.key, probe.work(UNWATCHED), "")
    assert not table.refresh(session)[1]

    noted = set_at(document, ("samples", 0, "note"), "another note")
    assert not table.refresh(
        Session(noted, session.evaluator, "Varnholt crude", "Varnholt recombined", probe=(380.0, 5e6))
    )[1]
    other = set_at(document, ("fluids", 2, "model", "eos"), "SRK")
    _, again = table.refresh(
        Session(other, session.evaluator, "Varnholt crude", "Varnholt recombined", probe=(380.0, 5e6))
    )
    assert "map" in again
    about = {s.name for s in document.studies if getattr(s, "fluid", "") == "Varnholt recombined"}
    about |= {s.name for s in document.studies if getattr(s, "of", "") in about}
    assert {n.partition(":")[2] for n in again if n.startswith("answer:")} == about


def test_a_trail_belongs_together():
    document = demo_document()
    for fluid in document.fluids:
        for sample in document.samples:
            chosen_fluid, chosen_sample = trail_of(document, fluid.name, sample.name)
            assert chosen_fluid == fluid.name
            # A fluid without a sample of its own stands alone.
            assert chosen_fluid in fluids_of(document, chosen_sample) or chosen_sample == ""
    assert trail_of(document, "Varnholt recombined", "Quillmoor condensate")[1] == "Varnholt crude"
    assert trail_of(document, "", "Quillmoor condensate") == ("", "Quillmoor condensate")
    assert trail_of(Document(), "a", "b") == ("", "")
