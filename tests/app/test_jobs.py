"""Background work: newest wins, failures become sentences."""

from __future__ import annotations

import threading

from cryonome.app.jobs import Jobs
from cryonome.studies import Cancelled


def test_only_the_newest_request_counts(qtbot):
    jobs, gate, got = Jobs(), threading.Event(), []
    jobs.finished.connect(lambda outcome: got.append((outcome.key, outcome.value)))

    def slow(cancelled):
        gate.wait(5)
        if cancelled():
            raise Cancelled
        return "old"

    jobs.submit("map", 1, slow)
    jobs.submit("map", 2, lambda _c: "between")
    jobs.submit("map", 3, lambda _c: "new")
    gate.set()
    qtbot.waitUntil(lambda: bool(got), timeout=5000)
    qtbot.waitUntil(lambda: not jobs.busy("map"), timeout=5000)
    assert got == [(3, "new")]
    jobs.shut_down()


def test_a_failure_arrives_as_a_sentence(qtbot):
    jobs, got = Jobs(), []
    jobs.finished.connect(got.append)

    def fail(_cancelled):
        raise ValueError("no answer here")

    jobs.submit("x", 1, fail)
    qtbot.waitUntil(lambda: bool(got), timeout=5000)
    assert got[0].error == "no answer here"
    jobs.shut_down()
