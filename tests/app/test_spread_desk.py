"""How sure an answer is, in the window: asked of a question, seen on its page and on the map."""

from __future__ import annotations

from cryonome.questions.kinds.spread import SpreadStudy

HYDRATES = "cold line hydrates"


def _asked(window, study=HYDRATES, samples=30):
    window.live.select_fluid("Quillmoor wet stream")
    window.live.select_study(study)
    desk = window.desks["spread"]
    desk.begin()
    made = window.live.current_study()
    assert isinstance(made, SpreadStudy)
    desk.edit_study({("samples",): samples}, "Fewer samples")
    window.live.come_to_rest()
    return desk


def test_a_question_is_asked_how_sure_it_is_and_its_page_says_so(window):
    desk = _asked(window)
    assert desk.study().of == HYDRATES
    assert "5 to 95 % of 30 samples" in desk.found.text()
    bands, below = desk.plots
    assert any(key.startswith("region band") for key in bands._items)
    assert below.named_lines()[0][0] == "below"
    told = [[desk.shown.text(r, c) for c in range(2)] for r in range(desk.shown.rows())]
    assert ["Where the spread comes from", ""] in told
    # Asked again it is the same one that is shown.
    window.live.select_study(HYDRATES)
    desk.begin()
    assert window.live.current_study().name == desk.study().name
    hydrates = window.desks["hydrates"]
    window.show_desk("hydrates")
    window.live.select_study(HYDRATES)
    window.live.come_to_rest()
    assert hydrates.sure.text().startswith("How sure: Temperature")


def test_the_layer_of_the_map_is_off_until_asked(window):
    _asked(window)
    window.show_desk("map")
    window.live.come_to_rest()
    plot = window.desks["map"].plot

    def bands():
        return [k for k, item in plot._items.items() if "region band" in k and item[1].isVisible()]

    assert not bands()
    window.desks["map"].chips["spread"].click()
    window.live.come_to_rest()
    assert len(bands()) == 1
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert not bands()


def test_wrong_inputs_are_told_in_their_cells_and_undone(window):
    desk = _asked(window)
    grid = desk.rows[0]
    grid.store_cells({(0, 0): "studies[cold line hydrates].inhibitors.methanol", (0, 5): "3 bar"}, "x")
    window.live.come_to_rest()
    assert "3 bar" in desk.told.text() or "bar" in desk.told.text()
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert not desk.told.isVisible()


def test_a_page_without_a_question_shows_a_draft_of_the_state(window):
    window.live.select_fluid("Selden gas")
    window.show_desk("spread")
    window.live.come_to_rest()
    desk = window.desks["spread"]
    assert desk.study().draft
    assert "samples" in desk.found.text()
