"""The page State: conditions held and let go, results taken over, three phases, other equations, nonsense told."""

from __future__ import annotations

import pytest

from ask import become, fill


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
    assert desk.bar.text() == "What is Quillmoor wet stream at 35 °C and 60 bar?"
    assert [t for t, _ in desk.table.titles()][1:5] == ["whole", "vapour", "liquid", "aqueous"]
    before = desk.answer()
    become(desk, ("temperature",), "enthalpy")
    window.live.come_to_rest()
    # The temperature is let go for the enthalpy that the state has, and comes out as it was.
    assert "at 60 bar and an enthalpy of" in desk.bar.text()
    assert desk.answer()["temperature_K"] == pytest.approx(before["temperature_K"], rel=1e-5)
    assert desk.study().temperature is None
    become(desk, ("pressure",), "density")
    window.live.come_to_rest()
    fill(desk, ("density",), "200 kg/m3")
    window.live.come_to_rest()
    assert desk.answer()["density_kg_m3"] == pytest.approx(200.0, rel=1e-8)
    for _ in range(3):
        window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert desk.bar.text() == "What is Quillmoor wet stream at 35 °C and 60 bar?"
    assert desk.answer()["density_kg_m3"] == pytest.approx(before["density_kg_m3"])


def test_nonsense_and_what_cannot_be_is_told_in_a_sentence(window, desk):
    fill(desk, ("pressure",), "a lot")
    window.live.come_to_rest()
    assert "a lot" in desk.told.text()
    assert "a lot" in desk.bar.fields[("pressure",)].toolTip()
    fill(desk, ("pressure",), "60 bar")
    window.live.come_to_rest()
    become(desk, ("pressure",), "density")
    fill(desk, ("density",), "5000 kg/m3")
    window.live.come_to_rest()
    assert "above what this fluid can be packed to" in desk.told.text()


def test_tables_of_properties_compositions_and_equations(window, desk):
    assert rows(desk)["Density"][-1] == "kg/m³"
    desk.search.setText("sound")
    assert list(rows(desk)) == ["Speed of sound"]
    desk.search.clear()
    desk.show_page("composition")
    assert len(rows(desk)) == 13
    assert float(rows(desk)["water"][3]) > 99.0
    by_mole = float(rows(desk)["methane"][0])
    desk.by.setCurrentIndex(desk.by.findData("mass"))
    desk.refresh()
    assert float(rows(desk)["methane"][0]) < by_mole
    desk.show_page("models")
    desk.edit_study({("equations",): ("SRK",)}, "x")
    window.live.come_to_rest()
    table = rows(desk)
    assert table["phases"][:2] == ["V + L + A", "V + L + A"]
    own, other = (float(v) for v in table["Vapour · Density"][:2])
    assert own != other
    assert own == pytest.approx(other, rel=0.05)
    fill(desk, ("rate",), "12 MMscf/day")
    window.live.come_to_rest()
    assert "flow" in desk.flows.text()
