"""The cache of derived results: content decides, cancelling leaves nothing behind."""

from __future__ import annotations

import threading

import pytest

from cryonome.demo import demo_document
from cryonome.fluids.map_lines import curves, metastable, smooth
from cryonome.results import Evaluator
from cryonome.results.evaluator import Cache
from cryonome.watch import Cancelled, Watch


def test_the_cache_drops_what_was_not_used_for_longest():
    cache, made = Cache(size=2), []

    def make(key):
        return lambda: made.append(key) or key

    for key in ("a", "b", "a", "c", "a", "b"):
        assert cache.get(key, make(key)) == key
    assert made == ["a", "b", "c", "b"]
    assert cache.peek("c") is None
    assert cache.peek("a") == "a"


def test_the_cache_serves_several_threads():
    cache, errors = Cache(size=8), []

    def work(offset: int) -> None:
        try:
            for i in range(300):
                key = (i + offset) % 12
                assert cache.get(key, lambda k=key: k * k) == key * key
        except AssertionError as error:
            errors.append(error)

    threads = [threading.Thread(target=work, args=(k,)) for k in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert errors == []


def test_a_cancelled_trace_is_not_kept():
    evaluator, document = Evaluator(), demo_document()
    fluid = document.fluid("Varnholt recombined")
    calls = []

    def after_some() -> bool:
        calls.append(1)
        return len(calls) > 6

    project = evaluator.at(document)
    with pytest.raises(Cancelled):
        project.map(fluid, (), Watch(after_some))
    assert project.known_map(fluid) is None
    whole = project.map(fluid)
    assert whole.critical_points
    assert project.map(fluid) is whole
    more = project.map(fluid, (0.5,))
    assert more.lines[: len(whole.lines)] == whole.lines  # the bare envelope is not traced again


def test_lines_are_joined_to_the_critical_point_and_smoothed_through_their_points():
    evaluator, document = Evaluator(), demo_document()
    whole = evaluator.at(document).map(document.fluid("Varnholt recombined"), (0.5,))
    c = whole.critical_points[0]
    ends = []
    for _, T, P in curves(whole, [0.0, 0.5, 1.0]):
        ends += [(T[0], P[0]), (T[-1], P[-1])]
        fine_T, fine_P = smooth(T, P)
        assert fine_T.size > 2 * T.size
        for t, p in list(zip(T, P))[1:-1:7]:
            assert min(abs(fine_T / t - 1) + abs(fine_P / p - 1)) < 1e-9
    assert sum(abs(t / c.T - 1) < 1e-12 and abs(p / c.P - 1) < 1e-12 for t, p in ends) == 3
    stretches = metastable(whole)
    assert stretches
    for beta, T, _ in stretches:
        assert beta in (0.0, 1.0)
        assert T.max() < 300.0  # the cold end of the bubble line, not where anyone works
