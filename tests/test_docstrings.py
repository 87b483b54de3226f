"""What the core says of its functions: a docstring each, with shapes of arrays and the errors that are raised."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

PACKAGE = Path(__file__).parents[1] / "src" / "cryonome"
CORE = (
    "units", "components", "eos", "equilibrium", "properties", "solids", "vapour_pressure", "labtests", "process", "tuning",
    "uncertainty", "characterization",
)  # fmt: skip
ERRORS = ("DomainError", "ValueError", "QuantityError")
REGISTERED = ("phase_property", "whole_property", "whole_of")
"""Decorators that say what their function is: name, meaning, unit and source stand there."""


def public(folder):
    for path in sorted((PACKAGE / folder).rglob("*.py")):
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(node, (ast.FunctionDef, ast.ClassDef)) and not node.name.startswith("_"):
                yield path.relative_to(PACKAGE), node


def registered(node):
    return any(isinstance(d, ast.Call) and ast.unparse(d.func) in REGISTERED for d in node.decorator_list)


def takes_arrays(node):
    hints = [a.annotation for a in node.args.args] + [node.returns]
    told = [ast.unparse(h) for h in hints if h is not None]
    return any("Array" in h or "NDArray" in h for h in told if not h.startswith("Callable"))


@pytest.mark.parametrize("folder", CORE)
def test_every_public_function_says_what_it_takes_gives_and_raises(folder):
    wanting = []
    for path, node in public(folder):
        told = ast.get_docstring(node)
        if told is None:
            wanting += [] if registered(node) else [f"{path}: {node.name} says nothing"]
            continue
        if not isinstance(node, ast.FunctionDef):
            continue
        if takes_arrays(node) and "(" not in told:
            wanting.append(f"{path}: {node.name} does not tell the shapes of its arrays")
        raised = {ast.unparse(x.exc.func) for x in ast.walk(node) if isinstance(x, ast.Raise) and isinstance(x.exc, ast.Call)}  # fmt: skip
        wanting += [
            f"{path}: {node.name} raises {r} and does not say so" for r in raised & set(ERRORS) if r not in told
        ]
    assert not wanting
