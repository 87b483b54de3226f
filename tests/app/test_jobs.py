"""Background work: newest wins, failures become sentences."""

from __future__ import annotations

import threading

from cryonome.app.shell.jobs import Jobs
from cryonome.errors import DomainError
from cryonome.watch import Cancelled


def test_only_the_newest_request_counts(qtbot):
    jobs, gate, got = Jobs(), threading.Event(), []
    jobs.finished.connect(lambda outcome: got.append((outcome.key, outcome.value)))

    def slow(cancelled):
        gate.wait(5)
        if cancelled():
            raise Cancelled
        return "old"

    jobs.submit("map", 1, slow)
    jobs.submit("map", 2, lambda _w: "between")
    jobs.submit("map", 3, lambda _w: "new")
    gate.set()
    qtbot.waitUntil(lambda: bool(got), timeout=5000)
    qtbot.waitUntil(lambda: not jobs.busy("map"), timeout=5000)
    assert got == [(3, "new")]
    jobs.shut_down()


def test_a_failure_arrives_as_a_sentence(qtbot):
    jobs, got = Jobs(), []
    jobs.finished.connect(got.append)

    def fail(_watch):
        raise DomainError("no answer here")

    def break_down(_watch):
        raise ValueError("shapes (3,) and (4,) do not fit")

    jobs.submit("x", 1, fail)
    qtbot.waitUntil(lambda: bool(got), timeout=5000)
    assert got[0].error == "no answer here"
    jobs.submit("x", 2, break_down)  # a fault of the program never passes for an answer
    qtbot.waitUntil(lambda: len(got) == 2, timeout=5000)
    assert "failed unexpectedly (ValueError" in got[1].error
    jobs.shut_down()


def test_slots_work_side_by_side_and_can_be_cancelled(qtbot):
    jobs, got, gate = Jobs(), [], threading.Event()
    jobs.finished.connect(lambda outcome: got.append(outcome.slot))

    told = []
    jobs.progress.connect(lambda slot, share: told.append((slot, share)))

    def wait(watch):
        watch.at(0.5)
        while True:
            watch.check()
            gate.wait(0.01)

    jobs.submit("map", 1, wait)
    jobs.submit("probe", 1, lambda _w: 5)
    qtbot.waitUntil(lambda: got == ["probe"], timeout=5000)
    assert jobs.busy("map")
    jobs.submit("map", 1, wait)  # the same request again changes nothing
    assert jobs.busy("map")
    jobs.cancel("map")
    qtbot.waitUntil(lambda: not jobs.busy("map"), timeout=5000)
    assert got == ["probe"]
    assert told == [("map", 0.5)]
    jobs.shut_down()


def test_a_probe_answer_that_was_overtaken_is_still_shown(qtbot):
    jobs, got, gate = Jobs(), [], threading.Event()
    jobs.finished.connect(lambda outcome: got.append(outcome.key))
    jobs.submit("probe", 1, lambda _w: gate.wait(5), moving=True)
    jobs.submit("probe", 2, lambda _w: 2, moving=True)
    gate.set()
    qtbot.waitUntil(lambda: len(got) == 2, timeout=5000)
    assert got == [1, 2]  # the pointer keeps moving, and so must the reading
    jobs.shut_down()
