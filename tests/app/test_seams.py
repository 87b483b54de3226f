"""What is added stands in a file of its own: a kind of question with rows and feeds, a page with a result, an equation; nothing else is touched."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Literal

import numpy as np
import pytest
from pydantic import TypeAdapter

from cryonome.app.pages.shared import desk as desks
from cryonome.app.pages.shared.rows_model import lists_of
from cryonome.app.shell.live import Live
from cryonome.app.shell.results_table import Request
from cryonome.document import DocumentError, document_text, parse_document
from cryonome.document import edits as change
from cryonome.document import kinds as registry
from cryonome.document.field_types import Cell, FluidRef, Pressure, Temperature
from cryonome.document.kinds import StudyKind, register, study_kinds
from cryonome.document.model import Study
from cryonome.document.part import Part
from cryonome.eos.cubic_forms import FORMS, CubicForm, kappa_srk
from cryonome.questions import solve
from cryonome.questions.beginning import begun
from cryonome.results import Evaluator
from cryonome.results.common import Common


class Feed(Part):
    """A fluid, how much of it, and where it is measured."""

    fluid: FluidRef
    amount: Cell = None
    temperature: Temperature = None
    pressure: Pressure = None


class FeedsStudy(Study):
    """Asks for the molar mass of a mixture of feeds."""

    kind: Literal["feeds"]
    feeds: tuple[Feed, ...] = ()


class FeedsAnswer(Common):
    """The mixture's molar mass."""

    molar_mass_g_mol: float


def read(study, document, reader):
    amounts = [reader.at("feeds", i, "amount").number(f.amount, "an amount") for i, f in enumerate(study.feeds)]
    return None if reader.bad or None in amounts else tuple(zip((f.fluid for f in study.feeds), amounts))


def solved(asked, context):
    own = [(context.project.fluid(context.fluid(name)), n) for name, n in asked]
    mass = sum(n * float(m.z @ m.molar_mass) for m, n in own) / sum(n for _, n in own)
    return {"molar_mass_g_mol": 1e3 * mass, "notes": []}


def feeds_kind():
    return StudyKind(
        name="feeds", title="Feeds", meaning="a mixture", model=FeedsStudy, answer=FeedsAnswer, read=read, solve=solved,
        line=lambda answer, units: "", begin=lambda fluid, at: FeedsStudy(name="Feeds", kind="feeds", feeds=(Feed(fluid=fluid, amount=1),)),
    )  # fmt: skip


@pytest.fixture
def kind(monkeypatch):
    study_kinds()
    monkeypatch.setattr(registry, "_KINDS", dict(registry._KINDS))
    made = feeds_kind()
    register(made)
    return made


def document():
    fluids = [
        {"name": n, "parts": [{"component": c, "amount": 1}]}
        for n, c in (("a", "methane"), ("b", "propane"), ("c", "n-decane"))
    ]
    studies = [{"name": "mix", "kind": "feeds", "feeds": [{"fluid": "a", "amount": 1}, {"fluid": "b", "amount": 1}]}]
    return parse_document(json.dumps({"format": "cryonome/1", "fluids": fluids, "studies": studies}))


def test_a_kind_with_a_list_of_feeds_is_one_file_and_never_stale(kind):
    made, warm = document(), Evaluator()
    mass = lambda d: solve(d, (), warm)["answers"]["mix"]["molar_mass_g_mol"]  # noqa: E731
    assert mass(made) == pytest.approx((16.0425 + 44.0956) / 2, rel=1e-4)
    # A feed's own fluid is edited: the declared reference tells the answer apart.
    changed = change.set_at(made, ("fluids", 1, "parts", 0, "component"), "n-butane")
    assert mass(changed) == pytest.approx((16.0425 + 58.1222) / 2, rel=1e-4)
    assert mass(made) == pytest.approx((16.0425 + 44.0956) / 2, rel=1e-4)
    renamed = change.renamed(made, "fluids", "b", "C3")
    assert renamed.studies[0].feeds[1].fluid == "C3"
    assert mass(renamed) == mass(made)
    with pytest.raises(DocumentError, match=r"studies\[0\]\.feeds\[0\]\.fluid: unknown fluid 'a'"):
        solve(change.removed(made, "fluids", "a"))
    assert parse_document(document_text(renamed)) == renamed
    TypeAdapter(FeedsAnswer).validate_python(solve(made)["answers"]["mix"])
    assert lists_of(FeedsStudy) == (("feeds", Feed),)


def test_its_rows_are_typed_in_the_window(kind, window):
    window.set_units("field")
    window.begin_asking(begun(study_kinds()["feeds"], "Selden gas", None, window.live.units()))
    study = window.live.current_study()
    desk = window.desks["other"]
    desk.kinds = ("feeds",)
    window.show_desk("other")
    desk.refresh()
    grid, model = desk.row_grids[0], desk.rows[0]
    assert grid.isVisible()
    assert [t for t, _ in model.titles()] == ["fluid", "amount", "temperature", "pressure"]
    assert [u for _, u in model.titles()] == ["", "", "°F", "psia"]
    model.store_cells({(0, 2): "100"}, "x")
    model.store_cells({(1, 0): "Selden gas", (1, 1): "3", (1, 3): "20 bar"}, "x")
    own = window.store.document.study(study.name).feeds
    assert (own[0].temperature, own[1].fluid, own[1].amount, own[1].pressure) == ("100 degF", "Selden gas", 3, "20 bar")
    assert model.choices(1, 0) == [f.name for f in window.store.document.fluids]
    model.store_cells({(1, c): "" for c in range(4)}, "x")
    assert len(window.store.document.study(study.name).feeds) == 1
    window.store.undo_stack.undo()
    assert len(window.store.document.study(study.name).feeds) == 2


def test_a_page_declares_its_results_itself(monkeypatch, window):
    def declared(session, results):
        wanted = session.wants("doubled")
        if wanted:
            yield "doubled", Request(("doubled", wanted), lambda watch: 2 * len(wanted), at_once=True)

    live: Live = window.live
    entry = replace(desks.desk_entries()[0], key="double", declares=(declared,))
    live.declare(entry.declares)
    live.want("doubled", "abc", "doubled")
    assert live.results["doubled"].value == 6
    live.want("doubled", "")
    assert live.results["doubled"].value is None


def test_an_equation_is_one_entry(monkeypatch):
    """A cubic of the family with other volume constants, entered in the table of forms alone, solves, draws and is judged."""
    from cryonome.eos import building

    form = CubicForm("TST", 3.0, -0.5, 0.4709276, 0.0740740740740741, kappa_srk, "Twu, Sim and Tassone, Chem. Eng. Prog. 98(11), 58 (2002)", title="TST",
                     formula="<i>P</i>", colour=1)  # fmt: skip
    monkeypatch.setitem(FORMS, "TST", form)
    monkeypatch.setitem(building.EQUATIONS, "TST", form.source)
    monkeypatch.setitem(building.ENTRIES, "TST", building.Entry("TST", form.source, form.formula, True, 1))
    data = {
        "format": "cryonome/1",
        "fluids": [{"name": "P", "parts": [{"component": "propane"}], "model": {"eos": "TST"}}],
        "studies": [
            {"name": "s", "kind": "saturation", "fluid": "P", "temperature": "300 K"},
            {"name": "i", "kind": "isotherms", "fluid": "P", "temperatures": ["300 K"]},
            {"name": "w", "kind": "advice", "fluid": "P"},
        ],
    }
    found = solve(parse_document(json.dumps(data)))["answers"]
    assert all(a["ok"] for a in found.values())
    # Propane at 300 K boils at 9.98 bar; the alpha function here is another equation's.
    assert found["s"]["points"][0]["pressure_Pa"] == pytest.approx(9.98e5, rel=0.2)
    critical = found["i"]["equations"][0]["critical"]
    # Zc of this form is 0.296 (same source).
    Zc = critical["pressure_Pa"] * critical["molar_volume_m3_mol"] / (8.31446261815324 * critical["temperature_K"])
    assert np.isclose(Zc, 0.2963, atol=2e-4)
    assert "TST" in [r["eos"] for r in found["w"]["ranked"]]
