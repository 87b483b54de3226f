"""The line a chain is drawn as: its order, what goes back, what leaves by the side."""

from cryonome.app.pages.steps.strip import ChainStrip, gives_of, in_order, laid_out, takes_of
from cryonome.demo import demo_document
from cryonome.questions.chains.model import Step


def test_the_demos_train_is_drawn_from_feed_to_end():
    train = demo_document().study("gas train")
    drawn = laid_out(list(train.feeds), train.steps)
    names = [n.name for n in drawn.nodes]
    assert names == ["feed", "K-1", "cooler", "gas-gas", "chiller", "valve", "drum", "condensate"]
    back = [(names[a], names[b], s) for a, b, s in drawn.links if b <= a]
    assert back == [("drum", "gas-gas", "overhead")]
    assert [s for _, s in drawn.ends] == ["sales gas"]


def test_rows_in_any_order_are_drawn_alike():
    train = demo_document().study("gas train")
    turned = laid_out(list(train.feeds), tuple(reversed(train.steps)))
    assert {n.name for n in turned.nodes} == {n.name for n in laid_out(list(train.feeds), train.steps).nodes}
    assert [s.name for s in in_order(["feed"], tuple(reversed(train.steps)))][:3] == ["K-1", "cooler", "gas-gas"]


def test_what_is_taken_and_given_by_name():
    split = Step(name="S", step="splitter", takes="a", gives={"b": 0.5, "c": None})
    assert (takes_of(split), gives_of(split)) == (["a"], ["b", "c"])
    pair = Step(name="E", step="exchanger", hot_from="h", hot_to="hh", cold_from="c", cold_to="cc")
    assert (takes_of(pair), gives_of(pair)) == (["h", "c"], ["hh", "cc"])
    assert laid_out([], ()).nodes == ()


def test_a_click_and_the_arrow_keys_choose(qapp, qtbot):
    from PySide6.QtCore import QPoint, Qt

    train = demo_document().study("gas train")
    strip = ChainStrip()
    qtbot.addWidget(strip)
    strip.resize(900, 104)
    strip.show_chain(laid_out(list(train.feeds), train.steps), "K-1", frozenset({"valve"}))
    strip.show()
    with qtbot.waitSignal(strip.chosen) as caught:
        p = strip.places()[3]
        qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(round(p.x()), round(p.y())))
    assert caught.args == ["gas-gas"]
    with qtbot.waitSignal(strip.chosen) as caught:
        qtbot.keyClick(strip, Qt.Key.Key_Right)
    assert caught.args == ["cooler"]
    assert not strip.grab().isNull()
