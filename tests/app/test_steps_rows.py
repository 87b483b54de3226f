"""The rows of a chain: feeds typed, renamed and taken out, kinds turned, streams followed wherever they are named."""

from __future__ import annotations

import pytest

from cryonome.app.pages.steps.model import _turned
from cryonome.app.shell.menus import all_actions
from cryonome.demo import demo_document as whole_demo
from cryonome.document.edits import add_study, removed
from cryonome.process.steps import KINDS
from cryonome.questions.chains.model import Step

NAME, IS, TAKES, DOES, GIVES = range(5)


@pytest.fixture
def desk(window):
    study = whole_demo().study("gas train")
    if window.store.document.study("gas train") is None:
        window.store.edit("Add", lambda d: add_study(d, study))
    window.open_study("gas train")
    window.live.come_to_rest(60)
    return window.desks["steps"]


def study(window):
    return window.store.document.study("gas train")


def test_a_feed_is_typed_as_a_row_and_its_new_name_is_followed(window, desk):
    model = desk.steps
    assert len(model.feeds) == 1
    old = model.feeds[0][0]
    takers = [
        s.name for s in study(window).steps if old in (s.takes if isinstance(s.takes, (list, tuple)) else [s.takes])
    ]
    model.store_cells({(0, GIVES): "wellhead gas"}, "Rename")
    window.live.come_to_rest(60)
    assert list(study(window).feeds) == ["wellhead gas"]
    for name in takers:
        step = next(s for s in study(window).steps if s.name == name)
        assert "wellhead gas" in str(step.takes)
        assert old not in str(step.takes).replace("wellhead gas", "")
    model.store_cells({(0, DOES): "30 degC, 12 bar, 4 MMscf/day"}, "Type")
    feed = study(window).feeds["wellhead gas"]
    assert (feed.temperature, feed.pressure, feed.rate) == ("30 degC", "12 bar", "4 MMscf/day")
    model.store_cells({(0, TAKES): "Quillmoor reservoir gas"}, "Other fluid")
    assert study(window).feeds["wellhead gas"].fluid == "Quillmoor reservoir gas"
    for _ in range(3):
        window.store.undo_stack.undo()
    assert list(study(window).feeds) == [old]


def test_a_row_that_is_emptied_is_gone_and_a_feed_can_be_added(window, desk):
    model = desk.steps
    last = model.rows() - 1
    model.store_cells(
        {(last, IS): "feed", (last, TAKES): "Selden gas", (last, DOES): "20 degC, 11 bar, 1 kg/s"}, "Add a feed"
    )
    window.live.come_to_rest(60)
    names = list(study(window).feeds)
    assert len(names) == 2
    made = study(window).feeds[names[1]]
    assert (made.fluid, made.pressure, made.rate) == ("Selden gas", "11 bar", "1 kg/s")
    model.remove([1])
    assert list(study(window).feeds) == names[:1]
    steps = [s.name for s in study(window).steps]
    model.remove([len(model.feeds)])
    assert [s.name for s in study(window).steps] == steps[1:]
    window.store.undo_stack.undo()
    assert [s.name for s in study(window).steps] == steps


def test_cells_say_what_may_stand_there(window, desk):
    model = desk.steps
    first = len(model.feeds)
    assert set(model.choices(first, IS)) == {*KINDS, "feed"}
    assert "Selden gas" in model.choices(0, TAKES)
    assert set(model.choices(first, TAKES)) == set(model.streams())
    assert {"hot gas", "cool gas"} <= set(model.streams())
    assert model.choices(first, DOES) == []
    assert model.closed(first, IS)
    assert model.closed(0, TAKES)
    assert not model.closed(first, TAKES)
    for kind in KINDS:
        assert kind in model.tip(first, IS)
    assert "It takes" in model.tip(first, DOES)
    assert "exchanger" in model.tip(first, TAKES)
    assert "separator" in model.tip(first, GIVES)
    assert model.tip(first, NAME) == ""
    # The cell of what a step does leads to its number, for a sweep or a goal.
    assert model.input_path(first, DOES)[-1] == "pressure"
    assert model.input_path(0, DOES)[-1] == "temperature"
    assert model.input_path(first, NAME) is None


def test_what_is_not_understood_stays_as_it_was_typed_and_is_told(window, desk):
    model = desk.steps
    first = len(model.feeds)
    before = study(window).steps[0]
    model.store_cells({(first, DOES): "to 31 parrots, 75 %"}, "Type")
    window.live.come_to_rest(60)
    assert "parrots" in " ".join(
        [model.text(first, DOES), model.fault(first, DOES), *window.store.document.drafts.values()]
    )
    model.store_cells({(first, DOES): "to 31 bar, 75 %"}, "Type")
    assert study(window).steps[0].pressure == before.pressure
    assert not window.store.document.drafts


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_a_step_turned_into_another_kind_keeps_its_streams_and_nothing_that_kind_does_not_take(kind):
    step = Step(
        name="K",
        step="compressor",
        takes="feed",
        gives="out",
        pressure="31 bar",
        efficiency="75 %",
        mechanical_efficiency="98 %",
    )
    turned = _turned(step, kind)
    assert turned.step == kind
    assert turned.name == "K"
    own = KINDS[kind]
    allowed = {*own.needs, *own.may}
    for key in ("pressure", "efficiency", "mechanical_efficiency"):
        value = getattr(turned, key)
        assert (value not in (None, "")) <= (key in allowed), (kind, key)
    told = str(turned.model_dump(exclude_defaults=True))
    assert "feed" in told
    assert "out" in told
    # There and back again its pressure is where it can be kept all the way.
    if "pressure" in allowed:
        assert _turned(turned, "compressor").pressure == "31 bar"


def test_steps_move_within_their_rows_only(window, desk):
    model = desk.steps
    n = len(model.feeds)
    names = [s.name for s in study(window).steps]
    assert model.move(n, -1) == n
    assert [s.name for s in study(window).steps] == names
    assert model.move(n, 1) == n + 1
    assert [s.name for s in study(window).steps][:2] == [names[1], names[0]]
    last = n + len(names) - 1
    assert model.move(last, 1) == last
    assert model.move(0, 1) == 0


def test_steps_are_never_moved_unseen_nor_those_of_a_chain_that_is_gone(window, desk):
    up = next(a for _, a in all_actions(window) if a.text() == "Move the step up")
    names = [s.name for s in study(window).steps]
    desk.steps_grid.setCurrentIndex(desk.steps.index(len(desk.steps.feeds) + 1, DOES))
    window.show_desk("map")
    up.trigger()
    assert window.current == "steps"
    assert [s.name for s in study(window).steps] == [names[1], names[0], *names[2:]]
    window.show_desk("map")
    window.store.edit("Remove", lambda d: removed(d, "studies", "gas train"))
    up.trigger()
    # What is seen now is moved, which is the draft of another chain.
    assert window.current == "steps"
    assert "gas train" not in {s.name for s in window.store.document.studies}
    assert desk.steps._study.name == desk.study().name
