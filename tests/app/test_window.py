"""The window used the way an engineer uses it: type, paste, drag, undo, save, break."""

from __future__ import annotations

import json
import time

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu, QMessageBox

from ask import dies, type_in_cell
from cryonome.app.shell.shelf import LINE
from cryonome.app.shell.store import FileChangedError, Store
from cryonome.app.widgets.theme import DARK
from cryonome.document import Autosave, load
from cryonome.document.edits import renamed
from cryonome.document.kinds import study_kinds
from cryonome.equilibrium.phases import Kind
from cryonome.fluids.states import full_states
from cryonome.questions import solve
from cryonome.units import from_si
from window_demo import demo_document

WITHOUT_SHORTCUT = ("Clear", "Rename the question…", "Remove the question")


def sample(w):
    return w.store.document.samples[0]


def probe(w):
    return w.live.results["probe"].value


def test_a_mistyped_temperature_is_marked_explained_and_mended(window):
    window.show_desk("lab")
    before = window.live.characterized()
    type_in_cell(window.desks["lab"].grid, 8, 1, "597")
    assert sample(window).distillation.points[8] == (60, "597 degF")
    assert "60 %: 597 °F is below the 606 °F at 50 %. 697 °F?" in window.desks["lab"].curve_fault.text()
    assert window.desks["lab"].points.fault(8, 1)
    assert "without this point" in window.desks["lab"].curve_note.text()
    assert window.trail.cards["lab"].state.mark == "look"
    assert not window.live.sample.old  # the curve goes on without the point
    assert window.live.characterized() is not before
    window.ledger.open(True)
    assert any("597" in window.ledger.drawer.item(i).text() for i in range(window.ledger.drawer.count()))
    window.desks["lab"]._mend()
    assert sample(window).distillation.points[8] == (60, "697 °F")
    assert not window.desks["lab"].curve_fault.isVisible()
    for _ in range(2):
        window.store.undo_stack.undo()
    assert window.store.document == demo_document()


def test_words_in_a_cell_are_kept_and_told(window):
    window.show_desk("lab")
    type_in_cell(window.desks["lab"].grid, 3, 1, "hot")
    assert sample(window).distillation.points[3] == (10, "hot")
    assert "'hot' is not a temperature" in window.desks["lab"].curve_fault.text()
    assert window.desks["lab"].points.text(3, 1) == "hot"


def test_any_unit_goes_in_any_cell(window):
    window.show_desk("lab")
    type_in_cell(window.desks["lab"].grid, 3, 1, "385.4 K")
    assert sample(window).distillation.points[3] == (10, "385.4 K")
    assert window.desks["lab"].points.text(3, 1) == f"{385.4 * 1.8 - 459.67:.6g}"
    entry = window.desks["lab"].density.entry
    entry.setFocus()
    entry.setText("51.4 lb/ft3")
    QTest.keyClick(entry, Qt.Key.Key_Return)
    assert sample(window).bulk.density == "51.4 lb/ft3"
    assert entry.text() == "51.4"  # what was typed stays, and its unit becomes the field's
    assert window.desks["lab"].density.unit_button.text() == "lb/ft³"
    window.desks["lab"].density.convert("degAPI")
    assert entry.text().startswith("40.1")
    entry.setText("5 psig")
    QTest.keyClick(entry, Qt.Key.Key_Return)
    assert "where a density belongs" in window.desks["lab"].bulk_fault.text()
    assert window.live.sample.old
    assert window.live.characterized() is not None  # the last good result stays
    window.store.undo_stack.undo()
    assert not window.live.sample.old


def test_pasting_a_spreadsheet_range_replaces_the_curve(window):
    window.show_desk("lab")
    rows = "\r\n".join(
        f"{p}\t{t:.1f}".replace(".", ",") for p, t in zip((2, 10, 30, 50, 70, 90), (40, 95.5, 190, 280, 390, 540))
    )
    QGuiApplication.clipboard().setText(f"Distilled (vol%)\tTBP (°C)\r\n{rows}\r\n")
    window.desks["lab"].grid.setCurrentIndex(window.desks["lab"].points.index(0, 0))
    window.desks["lab"].grid.setFocus()
    QTest.keyClick(window.desks["lab"].grid, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert sample(window).distillation.points[1] == (10, "95.5 degC")
    assert len(sample(window).distillation.points) == 6
    assert not window.live.sample.faults
    assert window.live.characterized().curve.at(np.array([0.1]))[0] == pytest.approx(368.65)
    window.desks["lab"].grid.copy_all()
    copied = QGuiApplication.clipboard().text().split("\n")
    assert (
        copied[0]
        == "distilled (vol%)\tboiling point (°F)\tdensity (°API)\tmolar mass (g/mol)\tviscosity 100 °F (cSt)\tsulphur (mass%)"
    )
    assert any(line.startswith("10\t203.9\t") for line in copied)
    window.store.undo_stack.undo()
    assert window.store.document == demo_document()
    QGuiApplication.clipboard().setText("101\n102\n103")
    window.desks["lab"].grid.setCurrentIndex(window.desks["lab"].points.index(1, 1))
    window.desks["lab"].grid.paste()
    assert [p[1] for p in sample(window).distillation.points[1:4]] == ["101 degF", "102 degF", "103 degF"]


def test_a_sample_from_nothing(window):
    window.add_sample()
    assert window.live.sample_name == "New sample"
    assert window.live.characterized() is None
    assert window.trail.cards["lab"].state.mark == "open"  # an empty sheet asks, it has no fault
    assert not window.desks["lab"].curve_fault.isVisible()
    assert "fifth point" in window.desks["lab"].curve_note.text()
    window.live.come_to_rest()
    for row, (p, t) in enumerate(((0, "300 K"), (20, "380 K"), (40, "460 K"), (60, "550 K"), (80, "680 K"))):
        type_in_cell(window.desks["lab"].grid, row, 0, str(p))
        type_in_cell(window.desks["lab"].grid, row, 1, t)
    window.desks["lab"].density.entry.setText("0.84 SG")
    window.desks["lab"].density.entry.editingFinished.emit()
    assert window.live.sample.faults == ()
    assert len(window.live.characterized().components) > 10
    window.desks["lab"].grid.selectAll()
    window.desks["lab"].grid.clear_selected("Clear cells")
    assert window.store.document.sample("New sample").distillation.points == ()
    assert window.live.sample.old


def test_a_dragged_boundary_moves_the_cuts_in_one_undo_step(window):
    window.show_desk("cuts")
    desk = window.desks["cuts"]
    count = window.store.undo_stack.count()
    before = window.live.characterized().edges.copy()
    line = desk._lines[10]
    for shift in (0.2, 0.4, 0.6):
        line.setPos(100 * before[11] + shift)
    line.sigPositionChangeFinished.emit(line)
    after = window.live.characterized().edges
    assert window.store.undo_stack.count() == count + 1
    assert after[11] == pytest.approx(before[11] + 0.006, abs=2e-6)
    np.testing.assert_allclose(np.delete(after, 11), np.delete(before, 11), atol=2e-6)
    assert desk.model.text(10, 9) == f"{100 * (after[11] - after[10]):.2f}"
    desk.add_boundary(0.5 * (after[11] + after[12]))
    assert len(window.live.characterized().components) == len(before)
    desk.grid.selectRow(3)
    desk.grid.selectionModel().select(desk.model.index(4, 0), desk.grid.selectionModel().SelectionFlag.Select)
    desk.merge_selected()
    assert len(window.live.characterized().components) == len(before) - 1
    desk.make_automatic()
    np.testing.assert_allclose(window.live.characterized().edges, before)


def test_units_change_what_is_shown_not_what_is_stored(window):
    window.show_desk("lab")
    stored = sample(window).distillation
    window.desks["lab"]._store_display("temperature", "degC")
    assert sample(window).distillation == stored
    assert window.desks["lab"].points.titles()[1] == ("boiling point", "°C")
    assert float(window.desks["lab"].points.text(7, 1)) == pytest.approx((606 - 32) / 1.8, abs=1e-3)
    window.set_units("field")
    assert window.desks["map"].units() == ("degF", "psia")
    window.desks["map"].change_display({("pressure",): "barg", ("logarithmic",): True}, "x")
    assert window.desks["map"].units()[1] == "barg"
    T, P = 350.0, 5e6
    frame = window.desks["map"]._frame()
    x, y = frame.xy(T, P)
    assert frame.state(float(x[0]), float(y[0])) == pytest.approx((T, P))


def test_the_probe_reads_the_state_under_the_pointer(window, qtbot):
    window.show_desk("map")
    window.live.come_to_rest()
    view = window.desks["map"].plot.view
    box = window.desks["map"].plot.box.sceneBoundingRect()
    scene = QPointF(box.left() + 0.4 * box.width(), box.top() + 0.7 * box.height())
    spot = view.mapFromScene(scene)
    QTest.mouseMove(view.viewport(), QPoint(spot.x() - 5, spot.y()))
    QTest.mouseMove(view.viewport(), spot)
    window.live.come_to_rest()
    T, P = window.desks["map"].probe.position
    found = probe(window).phases
    assert pytest.approx((T, P)) == (found.T[0], found.P[0])
    direct = full_states(window.live.model(), [T], [P])
    assert found.vapour_fraction == pytest.approx(direct.phases.vapour_fraction)
    liquid = {key: values[0, 1] for key, values in direct.values.phase.items()}
    shown = [window.desks["map"].readout.state.text(r, 1) for r in range(6)]
    assert float(shown[1]) == pytest.approx(liquid["density"], rel=1e-3)
    assert float(shown[3]) == pytest.approx(liquid["Z"], abs=1e-4)
    assert window.desks["map"].readout.composition.rows() == len(window.live.fluid.value.z)
    assert f"{100 * direct.phases.fraction[0, 1]:.2f} mol%" in window.desks["map"].readout.low.text()
    margins = window.live.results["margins"].value
    assert margins.bubble_P == pytest.approx(window.live.map.value.crossings([0.0], T=T)[0].P, rel=1e-9)


def test_a_typed_probe_takes_any_unit_and_refuses_nonsense(window):
    window.show_desk("map")
    r = window.desks["map"].readout
    window.desks["map"].place_probe(400.0, 4e6)
    window.live.come_to_rest()
    r.temperature.setFocus()
    r.temperature.setText("212 degF")
    QTest.keyClick(r.temperature, Qt.Key.Key_Return)
    window.live.come_to_rest()
    assert pytest.approx(373.15) == probe(window).phases.T[0]
    r.pressure.setFocus()
    r.pressure.setText("-3 bar")
    QTest.keyClick(r.pressure, Qt.Key.Key_Return)
    assert r.pressure.property("fault")
    assert "above zero" in r.pressure.toolTip()
    assert pytest.approx(373.15) == probe(window).phases.T[0]


def test_what_is_kept_of_the_map_is_a_question_or_a_ghost(window):
    window.show_desk("map")
    desk = window.desks["map"]
    desk.place_probe(400.0, 4e6)
    window.live.come_to_rest()
    shown = probe(window)
    desk.probe.keep_state()
    kept = window.store.document.studies[-1]
    assert (kept.kind, kept.temperature, kept.pressure) == ("flash", "126.85 degC", "40 bar")
    window.live.come_to_rest()
    answer = window.live.answer(kept.name).value
    assert answer["vapour_fraction"] == pytest.approx(float(shown.phases.vapour_fraction[0]), rel=1e-9)
    assert answer == solve(window.store.document)["answers"][kept.name]  # a batch gives the same numbers
    lines = [window.shelf.studies.item(i).data(LINE) for i in range(window.shelf.studies.count())]
    assert f"vapour {100 * answer['vapour_fraction']:.1f} mol%" in lines[-1]
    desk.keep_map()
    assert window.store.document.studies[-1].kind == "envelope"
    desk.pin_envelope()
    old = window.live.map.value
    window.desks["model"].choose_equation("SRK")
    window.live.come_to_rest()
    ghost = window.live.ghost_maps()["Varnholt recombined, PR78"]
    assert pytest.approx(old.cricondenbar.P) == ghost.cricondenbar.P
    assert pytest.approx(old.cricondenbar.P, rel=1e-4) != window.live.map.value.cricondenbar.P
    desk.unpin("Varnholt recombined, PR78")
    assert window.store.document.ghosts == ()
    window.open_study("first separator")
    assert desk.probe.position[0] == pytest.approx(328.15)


def test_the_fluid_desk_adds_names_and_refuses_parts(window):
    window.show_desk("fluid")
    desk = window.desks["fluid"]
    desk.entry.setText("hydrogen sulfidd")
    desk.add_part()
    assert "did you mean hydrogen sulfide" in desk.fault.text()
    assert len(window.live.current_fluid().parts) == 10
    desk.entry.setText("H2S")
    desk.amount.setText("2")
    desk.add_part()
    window.live.come_to_rest()
    assert window.live.current_fluid().parts[-1].component == "hydrogen sulfide"
    names = window.live.model().names
    assert window.live.map.value.z[list(names).index("hydrogen sulfide")] > 0.0
    desk.entry.setText("methane")
    desk.add_part()
    assert "in the fluid already" in desk.fault.text()
    type_in_cell(desk.grid, 2, 1, "-5")
    assert window.live.fluid.old
    assert "zero or more" in desk.fault.text()
    assert window.live.map.value is not None  # the last good map stays, marked as old
    assert window.live.map.old
    window.store.undo_stack.undo()
    window.live.come_to_rest()
    assert not window.live.map.old
    window.show_desk("model")
    own = window.desks["model"]
    for column, text in enumerate(("methane", "Hydrogen sulfide", "0.09")):
        type_in_cell(own.pairs, 0, column, text)
    window.live.come_to_rest()
    assert own.pairs_model.text(0, 3) == "0.0800"  # what the library would say
    model = window.live.fluid.value
    i, j = (model.names.index(n) for n in ("methane", "hydrogen sulfide"))
    assert model.eos.kij[i, j] == model.eos.kij[j, i] == 0.09
    own.pairs_model.remove({0})
    window.show_desk("fluid")
    assert window.live.current_fluid().model.kij_pairs == ()
    desk.grid.selectAll()
    desk.remove_parts()
    assert "empty" in desk.fault.text()
    QGuiApplication.clipboard().setText("Component\tmol%\nC1\t80\nethane\t20\n")
    desk.grid.clearSelection()
    desk.parts.paste(0, 0, [["Component", "mol%"], ["C1", "80"], ["ethane", "20"]])
    window.live.come_to_rest()
    assert window.live.fluid.value.names == ("methane", "ethane")
    assert window.live.map.value.z.size == 2


def test_save_open_and_recover(window, tmp_path, monkeypatch):
    path = tmp_path / "hub.cryo"
    window.show_desk("lab")
    type_in_cell(window.desks["lab"].grid, 3, 1, "240")
    assert window.store.dirty
    window.store.save(path)
    assert not window.store.dirty
    assert "hub.cryo  ·  saved" in window.file_label.text()
    assert load(path) == window.store.document
    type_in_cell(window.desks["lab"].grid, 3, 1, "241")
    window.store.keep_copy()
    edited = window.store.document
    # The program dies here; whatever became of the file, the next start finds the copy.
    dies(window.store.autosave)
    window.store.autosave = Autosave(path)
    again = Store(load(path), path)
    assert [k.document for k in again.autosave.left(path)] == [edited]
    path.rename(tmp_path / "renamed.cryo")
    (found,) = Store(None, None).autosave.left()
    assert (found.document, found.source) == (edited, path)
    path.write_text("{half")
    monkeypatch.setattr(QMessageBox, "exec", lambda _box: QMessageBox.StandardButton.Yes)
    assert window.open_path(path)
    assert window.store.document == edited
    assert window.store.dirty
    assert window.store.path == path
    window.store.save(over=True)
    assert Store(None, None).autosave.left() == []


def test_two_windows_on_one_file_keep_their_own_and_ask_before_overwriting(window, tmp_path, monkeypatch):
    path = tmp_path / "hub.cryo"
    window.store.save(path)
    other = Store(load(path), path)
    other.autosave.claim()
    assert window.store.autosave.open_elsewhere()
    other.edit("x", lambda d: renamed(d, "samples", "Varnholt crude", "Theirs"))
    other.keep_copy()
    other.save()
    window.store.edit("x", lambda d: renamed(d, "samples", "Varnholt crude", "Ours"))
    window.store.keep_copy()
    with pytest.raises(FileChangedError):
        window.store.save()
    assert window.store.autosave.file.exists()
    monkeypatch.setattr(QMessageBox, "exec", lambda _box: QMessageBox.StandardButton.No)
    assert not window.save()
    assert load(path).samples[0].name == "Theirs"
    monkeypatch.setattr(QMessageBox, "exec", lambda _box: QMessageBox.StandardButton.Yes)
    assert window.save()
    assert load(path).samples[0].name == "Ours"
    other.close()
    assert not window.store.autosave.open_elsewhere()


def test_a_busy_users_work_is_kept_and_what_cannot_be_saved_is_refused(window, qtbot):
    store, told = window.store, []
    store.message.connect(told.append)
    start = time.monotonic()
    name, n = "Varnholt crude", 0
    while not store.autosave.file.exists():
        n += 1
        store.edit("x", lambda d, old=name, new=f"V{n}": renamed(d, "samples", old, new))
        name = f"V{n}"
        qtbot.wait(100)
        assert time.monotonic() - start < 10.0
    assert time.monotonic() - start < 3.0  # 1.2 s after the first edit, though none of the pauses was as long
    assert not store.edit("x", lambda d: renamed(d, "samples", name, "half \ud800"))
    assert store.document.samples[0].name == name
    assert "half of a character" in told[-1]


def test_a_broken_file_changes_nothing(window, tmp_path, monkeypatch):
    told = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: told.append((box.text(), box.informativeText())))
    path = tmp_path / "cut.cryo"
    path.write_text(json.dumps(demo_document().model_dump(mode="json"))[:400])
    assert not window.open_path(path)
    assert "cut.cryo cannot be opened" in told[0][0]
    assert "cut off" in told[0][1]
    assert window.store.document == demo_document()
    assert not window.open_path(tmp_path / "nothing.cryo")
    assert len(told) == 2


def test_what_bears_the_same_name_in_another_document_is_another_thing(window, tmp_path):
    parts = [{"component": "methane", "amount": 90}, {"component": "n-butane", "amount": 10}]
    fluid = window.live.fluid_name
    name = next(s.name for s in window.store.document.studies if s.kind == "flash")
    asked = {"name": name, "kind": "saturation", "fluid": fluid, "temperature": "-30 degC"}
    data = {"format": "cryonome/1", "fluids": [{"name": fluid, "parts": parts}], "studies": [asked]}
    path = tmp_path / "other.cryo"
    path.write_text(json.dumps(data), encoding="utf-8")
    assert "points" not in window.live.answer(name).value
    before = window.live.envelope()
    assert before is not None
    shown = []
    window.live.on(
        (f"answer:{name}", "map"), lambda: shown.append((window.live.answer(name).value, window.live.envelope()))
    )
    assert window.open_path(path)
    # Never, not even for a moment, is anything of the other document shown.
    assert window.live.answer(name).value is None
    assert window.live.envelope() is not before
    window.live.come_to_rest()
    assert window.live.answer(name).value["points"]
    assert shown
    assert all((value is None or "points" in value) and found is not before for value, found in shown)


def test_plots_give_pictures_and_data(window, tmp_path):
    window.show_desk("map")
    window.live.come_to_rest()
    for kind in ("png", "svg", "csv"):
        window.desks["map"].plot.save(tmp_path / f"map.{kind}")
        assert (tmp_path / f"map.{kind}").stat().st_size > 1000
    lines = (tmp_path / "map.csv").read_text().splitlines()
    heads = [h.partition(":")[0] for h in lines[0].split(",")]
    assert {"bubble", "dew", "critical", "cricondenbar", "cricondentherm"} <= set(heads)
    column = [h for h in lines[0].split(",") if h.startswith("cricondenbar")]
    value = lines[1].split(",")[lines[0].split(",").index(column[1])]
    assert float(value) == pytest.approx(from_si(window.live.map.value.cricondenbar.P, "bar", "pressure"), rel=1e-8)
    window.desks["map"].plot.save(tmp_path / "no" / "such.csv")
    assert "could not be saved" in window.ledger.message.text()


def test_names_however_long_and_themes(window):
    name = "A very long name of a sample that nobody would give but somebody will " * 3
    window.live.follow_rename("Varnholt crude", name)
    from cryonome.document.edits import renamed

    window.store.edit("Rename", lambda d: renamed(d, "samples", "Varnholt crude", name))
    window.set_theme(DARK)
    window.live.come_to_rest()
    for key in window.desks:
        window.show_desk(key)
        assert window.width() <= 1280
    assert window.minimumSizeHint().width() <= 1280
    assert window.live.fluid.value is not None


def test_closing_while_tracing_ends_the_threads(window):
    window.desks["model"].choose_equation("RK")
    for _ in range(200):
        QApplication.processEvents()
        if window.jobs.busy("map"):
            break
        QTest.qWait(2)
    assert window.jobs.busy("map")
    window.close()
    assert not window.jobs.busy("map")


def test_every_action_has_a_menu_and_a_shortcut_of_its_own(window):
    keys = []
    for top in window.menuBar().actions():
        menu = top.menu()
        assert isinstance(menu, QMenu)
        inner = [a for outer in menu.actions() if outer.menu() for a in outer.menu().actions()]
        for action in [a for a in menu.actions() if not a.menu()] + inner:
            if not action.isSeparator():
                keys += [k.toString() for k in action.shortcuts()]
                plain = action.text() in WITHOUT_SHORTCUT or action.text() in [k.title for k in study_kinds().values()]
                assert action.shortcut().toString() or plain, action.text()
    assert len(keys) == len(set(keys))


def test_an_empty_project_is_no_dead_end(window):
    window.store.undo_stack.setClean()
    window.new()
    window.live.come_to_rest()
    for key in window.desks:
        window.show_desk(key)
        window.grab()
    window.add_fluid()
    assert "empty" in window.desks["fluid"].fault.text()
    window.desks["fluid"].entry.setText("propane")
    window.desks["fluid"].amount.setText("1")
    window.desks["fluid"].add_part()
    window.live.come_to_rest()
    assert window.live.map.value.critical_points[0].T == 369.83
    window.show_desk("map")
    window.desks["map"].place_probe(300.0, 1e5)
    window.live.come_to_rest()
    assert probe(window).phases.kind[0].tolist() == [Kind.VAPOUR, Kind.ABSENT, Kind.ABSENT]


def test_a_window_that_is_closed_ends_the_program(window, qtbot):
    window.show_desk("steps")
    window.live.come_to_rest()
    with qtbot.waitSignal(window.closed, timeout=2000):
        assert window.close()
