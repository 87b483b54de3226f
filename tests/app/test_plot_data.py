"""What plots and tables give away: the map's extremes and layers as data, isotherms named, estimates that are never copied."""

from __future__ import annotations

import pytest

from ask import type_in_cell
from cryonome.app.widgets.grid import table_text
from cryonome.units import from_si


def test_the_maps_extremes_are_a_table_and_its_layers_are_data(window):
    window.live.select_fluid("Quillmoor wet stream")
    window.show_desk("map")
    window.live.come_to_rest()
    desk = window.desks["map"]
    # The traced turn is metastable beside water; the boundary of three phases has the one that is there.
    highest = max(b.P.max() for b in window.live.results["regions"].value.bounds)
    assert 0.95 * highest > window.live.envelope().cricondenbar.P
    model = desk.readout.extreme_points
    rows = {model.text(i, 0): model.text(i, 2) for i in range(model.rows())}
    assert float(rows["cricondenbar"]) == pytest.approx(from_si(highest, "bar", "pressure"), rel=2e-3)
    copied = table_text(model, list(range(model.rows())), [0, 1, 2], True).splitlines()
    assert copied[0] == "\tT (°C)\tP (bar)"
    assert len(copied) == model.rows() + 1
    tables = {title: columns for title, _, columns in desk.plot.data()}
    assert {"bubble", "dew", "hydrate", "hydrate with 25 % methanol", "water", "cold line, normal"} <= set(tables)
    lines = desk.layers.hydrates()
    P = tables["hydrate"][1]
    assert min(P) >= from_si(lines.P.min(), "bar", "pressure") * 0.999
    desk.chips["hydrates"].click()
    window.live.come_to_rest()
    assert "hydrate" not in {title for title, _, _ in desk.plot.data()}


def test_isotherms_are_named_by_temperature_and_equations_by_colour(window):
    window.open_study("isotherms of CO2")
    window.live.come_to_rest()
    desk = window.desks["isotherms"]
    desk._name_lines()
    said = {
        item.toPlainText()
        for key, (_, item) in desk.plot._items.items()
        if hasattr(item, "toPlainText") and item.isVisible()
    }
    assert {"PR78", "SRK", "van der Waals"} <= said
    assert any("31" in text for text in said)


def test_estimates_stand_in_the_sheet_until_they_are_typed_over(window):
    window.live.select_fluid("Varnholt recombined")
    window.show_desk("lab")
    window.live.come_to_rest()
    desk = window.desks["lab"]
    sheet, sample = desk.points, window.live.current_sample()
    column = next(c for c, (title, _) in enumerate(sheet.titles()) if title == "density")
    grey = [r for r in range(sheet.rows()) if sheet.muted(r, column)]
    assert grey
    row = grey[0]
    assert float(sheet.text(row, column).replace("−", "-")) > 0.0
    assert (sheet.edit_text(row, column), sheet.copy_text(row, column)) == ("", "")
    # Nothing of it is in the document, and a typed value takes its place.
    count = len(sample.curves.density)
    type_in_cell(desk.grid, row, column, "70")
    window.live.come_to_rest()
    assert len(window.live.current_sample().curves.density) == count + 1
    assert not sheet.muted(row, column)
    assert sheet.text(row, column) == "70"


def test_a_curve_is_drawn_by_several_methods_and_kept(window):
    window.live.select_fluid("Varnholt recombined")
    window.show_desk("lab")
    window.live.come_to_rest()
    desk = window.desks["lab"]
    for key in ("D86", "EFV"):
        desk.shown_as[key].click()
    window.live.come_to_rest()
    assert window.live.current_sample().display.shown_as == ("D86", "EFV")
    assert {"as D86", "as EFV"} <= {name for name, _, _ in desk.curve.named_lines()}
    assert [t for t, _, _ in desk.curve.data() if t in ("D86", "EFV")] == ["D86", "EFV"]
    desk.shown_as["D86"].click()
    assert window.live.current_sample().display.shown_as == ("EFV",)


def test_yields_of_a_blend_are_read_from_their_page(whole_window):
    w = whole_window
    w.open_study("export yields")
    w.live.come_to_rest()
    desk = w.desks["products"]
    (block,) = desk.blocks(desk.answer())
    heads = [name for name, _ in block.columns]
    assert heads[2:] == ["light ends", "naphtha", "kerosene", "diesel", "gas oil", "residue"]
    rows = {row[0]: row for row in block.rows}
    assert sum(float(v) for v in rows["volume"][2:]) == pytest.approx(100.0, abs=0.05)
    assert rows["cetane index"][heads.index("diesel")].startswith("~")
    assert rows["flash point"][heads.index("light ends")] == "–"
    assert "sulphur" in rows


def test_metastable_lines_of_a_wet_fluid_are_a_layer_that_is_off(window):
    window.live.select_fluid("Quillmoor wet stream")
    window.show_desk("map")
    window.live.come_to_rest()
    desk = window.desks["map"]

    def metastable() -> list[str]:
        return [k for k, (_, i) in desk.plot._items.items() if k.startswith("line metastable") and i.isVisible()]

    assert not metastable()
    assert "266.4 bar" in desk.found.text()
    desk.chips["metastable"].click()
    window.live.come_to_rest()
    assert len(metastable()) >= 2
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert not metastable()
    # What goes far beyond the view is not kept as a picture: such a one is drawn at the wrong place once the view moves.
    desk.plot.fit_y(0.0, 50.0)
    kept = [i for _, i in desk.plot._items.values() if i.cacheMode() == i.CacheMode.DeviceCoordinateCache]
    assert all(i.yData.max() <= 50.0 for i in kept if getattr(i, "kept_as_picture", False))
    assert any(
        i.cacheMode() == i.CacheMode.NoCache
        for _, i in desk.plot._items.values()
        if getattr(i, "kept_as_picture", False)
    )
