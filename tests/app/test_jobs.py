"""Background work: newest wins, failures become sentences."""

from __future__ import annotations

import threading

from cryonome.app.shell.jobs import Jobs
from cryonome.errors import DomainError
from cryonome.watch import HERE, Cancelled


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


def test_what_is_behind_gives_way_to_what_is_waited_for_and_hurries_when_it_is_waited_for_itself(qtbot):
    jobs, got, begun, gate = Jobs(), [], threading.Event(), threading.Event()
    jobs.finished.connect(lambda outcome: got.append(outcome.slot))

    def behind(watch):
        begun.set()
        gate.wait(5)
        watch.check()  # here it stands while the road is taken
        return 1

    road = threading.Event()
    jobs.submit("later", 1, behind, behind=True)
    assert begun.wait(5)
    jobs.submit("now", 1, lambda _w: road.wait(5))
    gate.set()
    qtbot.wait(150)
    assert got == []
    assert jobs.busy("later")
    road.set()
    qtbot.waitUntil(lambda: len(got) == 2, timeout=5000)
    assert got == ["now", "later"]
    # A computation that another waits for goes on, whatever else is at work.
    hurry, road = [], threading.Event()

    def waited_for(watch):
        hurry.append(HERE.hurry)
        watch.check()
        gate.wait(5)
        hurry[0]()
        watch.check()
        return 2

    gate.clear()
    jobs.submit("later", 2, waited_for, behind=True)
    qtbot.waitUntil(lambda: bool(hurry), timeout=5000)
    jobs.submit("now", 2, lambda _w: road.wait(5))
    gate.set()
    qtbot.waitUntil(lambda: "later" in got[2:], timeout=5000)
    assert "now" not in got[2:]
    road.set()
    qtbot.waitUntil(lambda: got[2:] == ["later", "now"], timeout=5000)
    jobs.shut_down()


def test_progress_is_told_by_the_hundredth_and_stop_withdraws_all(qtbot):
    jobs, told, got = Jobs(), [], []
    jobs.progress.connect(lambda slot, share: told.append(share))
    jobs.finished.connect(got.append)

    def counts(watch):
        for k in range(1, 2001):
            watch.at(k / 2000)
        return "done"

    jobs.submit("map", 1, counts)
    qtbot.waitUntil(lambda: bool(got), timeout=5000)
    assert 90 <= len(told) <= 101
    assert told == sorted(told)
    assert told[-1] <= 1.0
    gate = threading.Event()

    def waits(watch):
        while not gate.wait(0.01):
            watch.check()

    for slot in ("map", "probe"):
        jobs.submit(slot, 2, waits)
        jobs.submit(slot, 3, lambda _w: "never")
    assert jobs.stop()
    qtbot.waitUntil(lambda: not jobs.any_busy(), timeout=5000)
    assert len(got) == 1  # neither what was at work nor what waited for it
    assert not jobs.stop()
    jobs.submit("map", 2, lambda _w: "again")
    qtbot.waitUntil(lambda: len(got) == 2, timeout=5000)
    assert got[-1].value == "again"
    jobs.shut_down()
