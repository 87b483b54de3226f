"""The tables of a model's parameters by themselves, without a window: what each equation shows, what may be typed, and how cuts fold together."""

from __future__ import annotations

import contextlib
import json
from types import SimpleNamespace

import pytest

from cryonome.app.pages.model.pairs_model import PairsModel
from cryonome.app.pages.model.tables import ALPHA_FROM, IN_WATER, OMEGA_A, OMEGA_B, PairsMatrix, ParametersModel
from cryonome.app.widgets.theme import LIGHT
from cryonome.components import find
from cryonome.document import parse_document
from cryonome.document.edits import set_each
from cryonome.eos import FORMS
from cryonome.errors import DomainError
from cryonome.results import Evaluator

WET = [{"component": n, "amount": a} for n, a in (("methane", 70), ("carbon dioxide", 10), ("n-hexane", 15), ("water", 5))]  # fmt: skip


class Session:
    """What the tables ask of the window: the fluid chosen, its model, and edits of it."""

    def __init__(self, parts, **model):
        data = {"format": "cryonome/1", "fluids": [{"name": "F", "parts": parts, "model": model}]}
        self.document = parse_document(json.dumps(data))
        self.steps = []
        self.fluid = SimpleNamespace(old=False, faults=())

    def current_fluid(self):
        return self.document.fluids[0]

    def model(self):
        """Return the last good model, as the window does."""
        with contextlib.suppress(DomainError):
            self.good = Evaluator().at(self.document).fluid(self.document.fluids[0])
        return self.good

    def set_fluid(self, text, cells):
        self.steps.append(text)
        fluids = (set_each(self.document.fluids[0], cells),)
        self.document = self.document.model_copy(update={"fluids": fluids})


def shown(session, T=300.0):
    """Return the table of parameters and its columns by title."""
    table = ParametersModel(session)
    own = session.current_fluid().model
    table.show_model(session.model(), own.eos, own.alpha, T, "at 26.85 °C")
    return table, {title: k for k, (title, _) in enumerate(table.titles())}


def column(table, place):
    return [str(table.text(i, place)).replace("−", "-") for i in range(table.rows())]


@pytest.mark.parametrize("eos", ["PR78", "SRK", "VDW"])
def test_constants_of_a_cubic_are_those_of_its_form(eos):
    session = Session(WET[:3], eos=eos)
    table, at = shown(session)
    form = FORMS[eos]
    for i, name in enumerate(("methane", "carbon dioxide", "n-hexane")):
        c = find(name)
        assert table.text(i, 0) == name
        assert float(column(table, at["a at Tc"])[i]) == pytest.approx(form.omega_a * (8.314462618 * c.Tc) ** 2 / c.Pc, rel=1e-3)  # fmt: skip
        assert float(column(table, at["b"])[i]) == pytest.approx(
            1e6 * form.omega_b * 8.314462618 * c.Tc / c.Pc, rel=1e-3
        )
    alpha = [float(v) for v in column(table, at["alpha"])]
    if eos == "VDW":
        assert alpha == [1.0, 1.0, 1.0]
    else:
        assert alpha[0] < 1.0 < alpha[2]  # methane is above its critical temperature
    assert [float(v) for v in column(table, at[OMEGA_A])] == pytest.approx([form.omega_a] * 3, abs=1e-5)
    assert IN_WATER not in at  # there is no water
    assert table.muted(0, at[ALPHA_FROM])
    assert table.left_aligned(at[ALPHA_FROM])


def test_a_constant_of_ones_own_is_typed_kept_bold_and_emptied():
    session = Session(WET)
    table, at = shown(session)
    assert table.editable(0, at[OMEGA_A])
    assert not table.editable(0, at["b"])
    assert not table.editable(9, at[OMEGA_A])
    assert table.tip(0, at[OMEGA_A]) == "Type a value of your own"
    table.store_cells({(0, at[OMEGA_A]): "0.44", (0, at["b"]): "9"}, "type")
    assert session.current_fluid().model.omegas == {"methane": (0.44, pytest.approx(FORMS["PR78"].omega_b))}
    table, at = shown(session)
    assert table.bold(0, at[OMEGA_A])
    assert table.bold(0, at[OMEGA_B])
    assert not table.bold(1, at[OMEGA_A])
    assert table.edit_text(0, at[OMEGA_A]) == "0.44"
    assert table.tip(0, at[OMEGA_A]) == "Your own; empty it for the equation's"
    table.store_cells({(0, at[OMEGA_B]): ""}, "type")
    assert session.current_fluid().model.omegas == {}
    assert session.steps == ["Change parameters of components"] * 2


def test_the_parameter_with_water_is_apart_and_water_has_none_with_itself():
    session = Session(WET)
    table, at = shown(session)
    in_water = at[IN_WATER]
    assert table.text(3, in_water) == "–"
    assert not table.editable(3, in_water)
    assert table.edit_text(3, in_water) == ""
    assert "apart from the one of all other phases" in table.tip(0, in_water)
    library = float(column(table, in_water)[0])
    table.store_cells({(0, in_water): "-0.2"}, "type")
    assert session.current_fluid().model.aqueous_pairs == (("methane", -0.2),)
    table, at = shown(session)
    assert table.bold(0, at[IN_WATER])
    assert float(column(table, at[IN_WATER])[0]) == pytest.approx(-0.2)
    table.store_cells({(0, at[IN_WATER]): ""}, "type")
    table, at = shown(session)
    assert float(column(table, at[IN_WATER])[0]) == pytest.approx(library)
    assert column(table, at[ALPHA_FROM])[3].startswith("Mathias")


def test_other_equations_show_what_they_are_made_of():
    table, at = shown(Session(WET[:3], eos="PC-SAFT"))
    # Gross and Sadowski (2001), table 2: methane, carbon dioxide, n-hexane.
    assert [float(v) for v in column(table, at["m"])] == pytest.approx([1.0, 2.0729, 3.0576], abs=1e-4)
    assert [float(v) for v in column(table, at["σ"])] == pytest.approx([3.7039, 2.7852, 3.7983], abs=1e-4)
    assert [float(v) for v in column(table, at["ε/k"])] == pytest.approx([150.03, 169.21, 236.77], abs=0.01)
    table, at = shown(Session(WET, eos="CPA"))
    assert column(table, at["bonds"])[0] == "–"
    assert column(table, at["bonds"])[3] == "2 + 2"
    assert column(table, at[ALPHA_FROM])[3] == "published, with bonds"
    assert float(column(table, at["b"])[3]) == pytest.approx(14.515, rel=1e-3)  # Kontogeorgis et al. (1999)
    (fluid,) = ({"component": "propane", "amount": 1},)
    table, at = shown(Session([fluid], eos="reference"))
    assert table.rows() == 1
    assert float(column(table, at["Tc"])[0]) == pytest.approx(369.89, abs=0.01)  # Lemmon et al. (2009)
    assert "Lemmon" in column(table, at["from"])[0]
    assert not table.editable(0, 1)
    empty = ParametersModel(Session(WET))
    empty.show_model(None, "PR78", "own", 300.0, "")
    assert empty.rows() == 0


def test_the_matrix_is_symmetric_painted_by_size_and_takes_own_pairs():
    session = Session(WET)
    matrix = PairsMatrix(session)
    matrix.show(session.model())
    kij = session.model().kij
    assert [t for t, _ in matrix.titles()] == ["k_ij", "C1", "CO2", "nC6", "H2O"]
    for i in range(4):
        assert matrix.text(i, i + 1) == ""
        assert matrix.ground(i, i + 1, LIGHT) is None
        for j in range(4):
            assert matrix.text(i, j + 1) == matrix.text(j, i + 1)
            if i != j and abs(kij[i, j]) > 5e-4:
                assert float(str(matrix.text(i, j + 1)).replace("−", "-")) == pytest.approx(kij[i, j], abs=5.01e-4)
    strong, weak = matrix.ground(0, 4, LIGHT), matrix.ground(0, 3, LIGHT)
    assert strong.alphaF() > (weak.alphaF() if weak is not None else 0.0)
    matrix.store_cells({(0, 2): "0.2", (3, 3): "0.1", (1, 0): "x", (2, 3): "9"}, "type")
    assert session.current_fluid().model.kij_pairs == (("carbon dioxide", "methane", 0.2), ("n-hexane", "water", 0.1))
    matrix.show(session.model())
    assert matrix.bold(0, 2)
    assert matrix.bold(1, 1)
    assert "your own; empty it for the library's" in matrix.tip(0, 2)
    assert "type a value of your own" in matrix.tip(0, 3)
    assert matrix.tip(2, 0) == "n-hexane"
    matrix.store_cells({(1, 1): ""}, "type")  # from the other side
    assert session.current_fluid().model.kij_pairs == (("n-hexane", "water", 0.1),)
    assert matrix.edit_text(0, 3) == f"{kij[0, 2]:.4f}"


def test_cuts_fold_into_one_row_that_tells_their_range():
    cuts = [{"pseudo": {"name": f"H{k}", "molar_mass": 120 + 40 * k, "specific_gravity": 0.78 + 0.02 * k}, "amount": 3} for k in range(4)]  # fmt: skip
    session = Session([*WET[:2], *cuts])
    matrix = PairsMatrix(session)
    matrix.show(session.model())
    assert matrix.rows() == 6  # few enough to stand alone
    matrix.folded = True
    matrix.show(session.model())
    names = [matrix.text(i, 0) for i in range(matrix.rows())]
    count = sum(c.kind == "cut" for c in session.model().components)
    if count > 1:
        assert names[-1] == f"{count} cuts"
        assert "…" in matrix.text(0, len(names))
        assert not matrix.editable(0, len(names))
    matrix.show(None)
    assert matrix.rows() == 0


def test_own_pairs_are_rows_that_tell_what_would_stand_there_otherwise():
    session = Session(WET)
    table = PairsModel(session)
    table.show(session.current_fluid(), ())
    assert table.rows() == 1  # the one to type in
    table.store_cells({(0, 0): "C1", (0, 1): "Carbon Dioxide", (0, 2): "0.15"}, "type")
    table.show(session.current_fluid(), ())
    assert session.current_fluid().model.kij_pairs == (("methane", "carbon dioxide", 0.15),)
    assert [table.text(0, k) for k in range(3)] == ["methane", "carbon dioxide", "0.15"]
    plain = Session(WET).model().kij
    assert float(table.text(0, 3)) == pytest.approx(plain[0, 1], abs=1e-4)
    assert table.muted(0, 3)
    assert not table.editable(0, 3)
    assert table.input_path(0, 2) == ("fluids", 0, "model", "kij_pairs", 0, 2)
    assert table.input_path(0, 1) is None
    assert set(table.choices(1, 0)) == {"methane", "carbon dioxide", "n-hexane", "water"}
    table.store_cells({(1, 0): "unobtanium", (1, 2): "0.1"}, "type")
    table.show(session.current_fluid(), ())
    assert table.text(1, 3) == "not in it"
    table.remove({0})
    assert [p[0] for p in session.current_fluid().model.kij_pairs] == ["unobtanium"]
