"""The page State: conditions held and let go, results taken over, three phases, other equations, nonsense told."""

from __future__ import annotations

import pytest


@pytest.fixture
def desk(window):
    window.live.select_fluid("Quillmoor wet stream")
    window.show_desk("state")
    window.live.come_to_rest()
    return window.desks["state"]


def rows(desk) -> dict[str, list[str]]:
    table = desk.table
    return {table.text(r, 0): [table.text(r, c) for c in range(1, len(table.titles()))] for r in range(table.rows())}


def test_a_result_is_held_instead_and_the_state_stays(window, desk):
    assert desk.held() == ["temperature", "pressure"]
    assert [t for t, _ in desk.table.titles()][1:5] == ["whole", "vapour", "liquid", "aqueous"]
    before = desk.answer()
    desk.hold("enthalpy")
    window.live.come_to_rest()
    # The temperature was held longest; it is let go and comes out as it was.
    assert desk.held() == ["pressure", "enthalpy"]
    assert desk.answer()["temperature_K"] == pytest.approx(before["temperature_K"], rel=1e-7)
    assert desk.study().temperature is None
    desk._store("density", "200 kg/m3")
    window.live.come_to_rest()
    assert desk.held() == ["enthalpy", "density"]
    assert desk.answer()["density_kg_m3"] == pytest.approx(200.0, rel=1e-8)
    window.store.undo_stack.undo()
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert set(desk.held()) == {"temperature", "pressure"}
    assert desk.answer()["density_kg_m3"] == pytest.approx(before["density_kg_m3"])


def test_nonsense_and_what_cannot_be_is_told_in_a_sentence(window, desk):
    desk._store("pressure", "a lot")
    window.live.come_to_rest()
    assert "a lot" in desk.told.text()
    assert "a lot" in desk.fields["pressure"].entry.toolTip()
    desk._store("pressure", "60 bar")
    desk._store("density", "5000 kg/m3")
    desk._store("temperature", "20 degC")
    window.live.come_to_rest()
    assert "above what this fluid can be packed to" in desk.told.text()


def test_tables_of_properties_compositions_and_equations(window, desk):
    assert rows(desk)["Density"][-1] == "kg/m³"
    desk.search.setText("sound")
    assert list(rows(desk)) == ["Speed of sound"]
    desk.search.clear()
    desk.show_page("composition")
    assert len(rows(desk)) == 13
    assert float(rows(desk)["water"][2]) > 99.0
    desk.show_page("models")
    desk._compare("SRK")
    window.live.come_to_rest()
    table = rows(desk)
    assert table["phases"][:2] == ["V + L + A", "V + L + A"]
    own, other = (float(v) for v in table["Vapour · Density"][:2])
    assert own != other
    assert own == pytest.approx(other, rel=0.05)
    desk._store("rate", "12 MMscf/day")
    window.live.come_to_rest()
    assert "flow" in desk.shares.text()
