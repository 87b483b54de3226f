"""Named values: arithmetic with units over answers, against Python's own arithmetic, and every refusal in words."""

import ast
import contextlib
import operator

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cryonome.document import parse_document
from cryonome.document.model import NamedValue
from cryonome.errors import DomainError
from cryonome.questions import solve
from cryonome.questions.expressions import Number, evaluated, parsed
from cryonome.questions.named_values import values_of

ANSWERS = {
    "tank": {"ok": True, "TVP_Pa": 11.3e3, "VPCR": [{"pressure_Pa": 9.0e3}, {"pressure_Pa": 8.0e3}]},
    "line": {"ok": True, "phases": [{"kind": "liquid", "density_kg_m3": 800.0}], "temperature_K": 298.15},
    "broken": {"ok": False, "error": "no flash"},
}


def told(**values: str) -> dict[str, object]:
    """Return what named values come to, each ``expression @ unit``."""
    own = [
        NamedValue(name=n, expression=e.partition("@")[0], unit=e.partition("@")[2].strip()) for n, e in values.items()
    ]
    return {n: v.get("value", v.get("error")) for n, v in values_of(own, ANSWERS.get, list(ANSWERS)).items()}


def test_units_if_and_other_values() -> None:
    out = told(
        dead="if [tank].TVP_Pa < 1 atm then 0.915 * [tank].VPCR[0].pressure_Pa else [tank].TVP_Pa @ psi",
        live="[tank].TVP_Pa if [tank].TVP_Pa > 1 bar else [dead] / 2 @ kPa",
        head="[line].phases.liquid.density_kg_m3 * 9.80665 m/s2 * 10 m @ bar",
        colder="[line].temperature_K - 10 K @ degC",
        warm="[line].temperature_K > 20 degC and not [tank].TVP_Pa > 1 bar",
        share="[tank].VPCR[1].pressure_Pa / [tank].VPCR[0].pressure_Pa @ %",
        guarded="if 1 < 2 then 3 else [broken].TVP_Pa",
        zero="max([tank].TVP_Pa - 20 kPa, 0)",
    )
    assert out["dead"] == pytest.approx(0.915 * 9.0e3 / 6894.757293168)
    assert out["live"] == pytest.approx(0.915 * 9.0 / 2)
    assert out["head"] == pytest.approx(0.784532)
    assert out["colder"] == pytest.approx(15.0)
    assert out["share"] == pytest.approx(800.0 / 9.0)
    assert (out["guarded"], out["zero"]) == (3.0, 0.0)
    assert "comparison, not a value" in out["warm"]


@pytest.mark.parametrize(
    ("expression", "words"),
    [
        ("[tnak].TVP_Pa", "there is no question or named value 'tnak'; did you mean tank?"),
        ("[tank]", "name what is read of 'tank', as [tank].TVP_Pa"),
        ("[tank].TVP", "has no 'TVP'; did you mean TVP_Pa"),
        ("[broken].TVP_Pa", "'broken' has no answer: no flash"),
        ("[x] + 1", "'x' asks for itself"),
        ("1 bar + 2 K", "a sum of a"),
        ("ln(2 bar)", "divide by a unit first"),
        ("[tank].TVP_Pa @ K", "of another kind"),
        ("[tank].TVP_Pa @ flops", "'flops' is no unit"),
        ("1 / (2 - 2)", "division by zero"),
        ("tank * 2", "write [tank]"),
        ("(1 + 2", "')' is wanted before the end"),
        ("1 + ", "ends where a value is wanted"),
        ("__import__('os')", "is not understood"),
        ("eval(2)", "write [eval]"),
        ("(" * 60 + "1" + ")" * 60, "more than 40 deep"),
        ("-" * 390 + "1", ""),
        ("1" + "+1" * 300, "more than 400 pieces"),
        ("9 ^ 9 ^ 9", "no finite value"),
        ("(0 - 2) ^ 0.5", "no real number"),
        ("", "is empty"),
    ],
)
def test_what_has_no_value_says_why(expression: str, words: str) -> None:
    found = told(x=expression)["x"]
    assert words in str(found)
    assert words or isinstance(found, float)


SIGNS = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Pow: operator.pow,
}
plain = st.recursive(
    st.integers(0, 9).map(str),
    lambda inner: st.one_of(
        st.tuples(inner, st.sampled_from("+-*/"), inner).map(" ".join),
        inner.map(lambda e: f"({e})"),
        st.tuples(inner, st.sampled_from("23")).map(lambda e: f"({e[0]})^{e[1]}"),
        inner.map(lambda e: f"-({e})"),
    ),
    max_leaves=12,
)


def worked(node: ast.expr) -> float:
    """Work out a tree of Python's own parser."""
    if isinstance(node, ast.Constant):
        return float(node.value)
    if isinstance(node, ast.UnaryOp):
        return -worked(node.operand)
    assert isinstance(node, ast.BinOp)
    return SIGNS[type(node.op)](worked(node.left), worked(node.right))


@given(plain)
def test_arithmetic_is_that_of_another_parser(text: str) -> None:
    try:
        theirs = worked(ast.parse(text.replace("^", "**"), mode="eval").body)
    except (ZeroDivisionError, OverflowError):
        with pytest.raises(DomainError):
            evaluated(parsed(text), lambda *_: Number(0.0))
        return
    assert evaluated(parsed(text), lambda *_: Number(0.0)).value == pytest.approx(theirs, rel=1e-12)


@given(st.text(max_size=40))
def test_any_text_is_read_or_refused(text: str) -> None:
    with contextlib.suppress(DomainError):
        evaluated(parsed(text), lambda *_: Number(1.0))


def test_a_document_tells_its_values() -> None:
    text = """{"format": "cryonome/1", "fluids": [{"name": "gas", "parts": [{"component": "methane", "amount": 0.9},
     {"component": "propane", "amount": 0.1}]}], "studies": [{"name": "cold", "kind": "flash", "fluid": "gas", "temperature": "250 K", "pressure": "20 bar"}],
     "values": [{"name": "ratio", "expression": "[cold].density_kg_m3 / (1 kg/m3)"}, {"name": "wide", "expression": "[cold].temperature_K", "unit": "degF"}]}"""
    out = solve(parse_document(text))
    assert out["values"]["ratio"]["value"] == out["answers"]["cold"]["density_kg_m3"]
    assert out["values"]["wide"] == {
        "ok": True,
        "value": pytest.approx(-9.67),
        "unit": "degF",
        "value_SI": pytest.approx(250.0),
    }
