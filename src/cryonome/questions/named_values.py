"""Named values of a document: expressions over its answers, each with the unit it is told in."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, NotRequired

from typing_extensions import TypedDict

from ..document.faults import did_you_mean
from ..document.model import NamedValue
from ..errors import DomainError
from ..results.answer_paths import number_at
from ..units import KINDS, QuantityError, fits, from_si, normal_unit
from ..units.endings import kind_of_key
from .expressions import ExpressionError, Number, dimension_of, evaluated, parsed, quantity

Answers = Callable[[str], Mapping[str, Any] | None]
"""Gives the answer of a question by its name, None where there is no such question."""


class ValueAnswer(TypedDict):
    """A named value: in its ``unit`` and in SI, or why it has none."""

    ok: bool
    value: NotRequired[float]
    unit: NotRequired[str]
    value_SI: NotRequired[float]
    error: NotRequired[str]


def values_of(values: Sequence[NamedValue], answers: Answers, names: Sequence[str]) -> dict[str, ValueAnswer]:
    """Return every named value by its name; ``names`` are those of the questions, for what is mistyped."""
    known = {v.name: v for v in values}
    found: dict[str, Number | ExpressionError] = {}

    def of(name: str, waiting: tuple[str, ...]) -> Number:
        if name in waiting:
            raise ExpressionError(f"'{name}' asks for itself, through {' and '.join(waiting[waiting.index(name) :])}")
        if name not in found:
            try:
                found[name] = evaluated(parsed(known[name].expression), lambda n, p: resolve(n, p, (*waiting, name)))
            except DomainError as error:
                found[name] = error if isinstance(error, ExpressionError) else ExpressionError(str(error))
        value = found[name]
        if isinstance(value, ExpressionError):
            raise value
        return value

    def resolve(name: str, path: str, waiting: tuple[str, ...]) -> Number:
        if name in known and not path:
            return of(name, waiting)
        answer = answers(name)
        if answer is None:
            raise ExpressionError(f"there is no question or named value '{name}'{did_you_mean(name, [*names, *known])}")
        if not path:
            raise ExpressionError(f"name what is read of '{name}', as [{name}].{_example(answer)}")
        if not answer.get("ok"):
            raise ExpressionError(f"'{name}' has no answer: {answer.get('error', '')}")
        kind, factor = kind_of_key(path)
        return Number(number_at(answer, path) * factor, dimension_of(kind))

    return {v.name: _told(v, lambda v=v: of(v.name, ())) for v in values}  # type: ignore[misc]


def _example(answer: Mapping[str, Any]) -> str:
    return next((k for k, v in answer.items() if isinstance(v, float)), "temperature_K")


def _told(value: NamedValue, ask: Callable[[], Number]) -> ValueAnswer:
    try:
        number = ask()
        return {"ok": True, **in_unit(number, value.unit), "value_SI": number.value}  # type: ignore[typeddict-item]
    except DomainError as error:
        return {"ok": False, "error": str(error)}


def in_unit(number: Number, unit: str) -> dict[str, Any]:
    """Return a value in a unit; in SI where none is named. Raises ExpressionError for a unit of another kind."""
    if not unit:
        kind = next(
            (
                k
                for k in KINDS
                if k != "temperature_difference" and number.dimension and dimension_of(k) == number.dimension
            ),
            "",
        )
        return {"value": number.value, "unit": KINDS[kind].si if kind else ""}
    if unit == "%" and number.plain:
        return {"value": 100.0 * number.value, "unit": "%"}
    try:
        known = normal_unit(unit)
    except QuantityError:
        known = ""
    own = next((k for k in KINDS if known and fits(known, k) and dimension_of(k) == number.dimension), None)
    if own is None:
        one = quantity(1.0, unit)
        if one is None:
            raise ExpressionError(f"'{unit}' is no unit")
        if one.dimension == number.dimension:
            return {"value": number.value / one.value, "unit": unit}
        raise ExpressionError(f"the value cannot be told in {unit}, which is of another kind")
    return {"value": from_si(number.value, known, own), "unit": known}
