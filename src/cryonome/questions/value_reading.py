"""What a sweep or a goal reads: a value of the answer by its path, or a named value of the document as ``[name]``."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..document import Document, Reader
from ..document.faults import did_you_mean, errors
from ..document.model import NamedValue
from ..results.answer_paths import number_at
from ..results.context import Answer
from ..results.evaluator import Project
from ..units import KINDS, QuantityError, fits, parse, split
from ..units.endings import ENDINGS, kind_of_key, parse_as
from .expressions import ExpressionError, Node, Number, dimension_of, evaluated, names_in, parsed


@dataclass(frozen=True)
class Read:
    """What is read: its ``key`` as answers tell it, and of a named value its ``tree``, in which other named values
    are written out."""

    key: str
    tree: Node | None = None


def value_name(text: str) -> str:
    """Return the named value that a text to read names, "" where it is a path."""
    plain = text.strip()
    return plain[1:-1].strip() if plain.startswith("[") and plain.endswith("]") and "]" not in plain[:-1] else ""


def _value(name: str, document: Document) -> NamedValue | None:
    return next((v for v in document.values if v.name == name), None)


def kind_of_value(value: NamedValue) -> str:
    """Return what a named value measures, by its unit; "" for a plain number or what no kind has."""
    kinds = (k for k in KINDS if k != "temperature_difference")
    return next((k for k in kinds if value.unit and value.unit != "%" and fits(value.unit, k)), "")


def key_of_value(value: NamedValue) -> str:
    """Return the key under which a named value is told: its name with the ending of what it measures."""
    kind = kind_of_value(value)
    ending = next((e for e, (own, factor) in ENDINGS.items() if kind and own == kind and factor == 1.0), "")
    return f"{value.name}{ending}"


def told_key(text: str, document: Document) -> str:
    """Return the key under which what is read is told."""
    value = _value(value_name(text), document)
    return text if value is None else key_of_value(value)


def needed(texts: Sequence[str], document: Document) -> tuple[str, ...]:
    """Return the questions that named values which are read ask for, however deep."""
    out: dict[str, None] = {}
    known = {v.name: v for v in document.values}
    waiting = [name for name in map(value_name, texts) if name in known]
    seen: set[str] = set()
    while waiting:
        name = waiting.pop()
        if name in seen:
            continue
        seen.add(name)
        try:
            names = names_in(parsed(known[name].expression))
        except ExpressionError:
            continue
        for other in names:
            if other in known:
                waiting.append(other)
            else:
                out[other] = None
    return tuple(out)


def read_what(text: str, document: Document, reader: Reader) -> Read | None:
    """Return what is read; None with a fault where a named value is none or cannot be read."""
    name = value_name(text)
    if not name:
        return Read(text)
    value = _value(name, document)
    if value is None:
        known = [v.name for v in document.values]
        reader.fault(f"there is no named value '{name}'{did_you_mean(name, known)}")
        return None
    try:
        return Read(key_of_value(value), _written_out(parsed(value.expression), document, (name,)))
    except ExpressionError as error:
        reader.fault(f"the named value '{name}': {error}")
        return None


def _written_out(node: Node, document: Document, inside: tuple[str, ...]) -> Node:
    if node[0] == "ref":
        value = _value(node[1], document) if not node[2] else None
        if value is None:
            return node
        if value.name in inside:
            raise ExpressionError(f"'{value.name}' asks for itself")
        return _written_out(parsed(value.expression), document, (*inside, value.name))

    def part(own: object) -> object:
        if not isinstance(own, tuple):
            return own
        if own and isinstance(own[0], str):
            return _written_out(own, document, inside)
        return tuple(part(o) for o in own)

    return tuple(part(own) for own in node)


def number_read(read: Read, answer: Answer, of: str, project: Project) -> float:
    """Return what is read of an answer ``of`` a question, of a named value in SI from it and from the other questions
    of the project. Raises DomainError."""
    if read.tree is None:
        return number_at(answer, read.key)

    def resolve(name: str, path: str) -> Number:
        found = answer if name == of else _other(name, project)
        kind, factor = kind_of_key(path)
        return Number(number_at(found, path) * factor, dimension_of(kind))

    number = evaluated(read.tree, resolve)
    kind, factor = kind_of_key(read.key)
    if kind and dimension_of(kind) != number.dimension:
        raise ExpressionError(f"the value is no {kind.replace('_', ' ')}, as its unit says")
    return number.value / factor


def _other(name: str, project: Project) -> Answer:
    study = project.document.study(name)
    if study is None:
        raise ExpressionError(f"there is no question '{name}'")
    wrong = errors(project.read_study(study).faults)
    if wrong:
        raise ExpressionError(f"'{name}' has no answer: {wrong[0].message}")
    answer = project.answer(study)
    if not answer.get("ok"):
        raise ExpressionError(f"'{name}' has no answer")
    return answer


def target_of(text: str, cell: object, document: Document) -> float:
    """Return a target in the unit of what is read: of a named value in its own unit where it has none. Raises
    QuantityError."""
    value = _value(value_name(text), document)
    if value is None:
        return parse_as(text, cell)  # type: ignore[arg-type]
    kind = kind_of_value(value)
    if not kind:
        return parse_as("", f"{cell} %" if value.unit == "%" and _bare(cell) else cell)  # type: ignore[arg-type]
    _, factor = kind_of_key(key_of_value(value))
    return parse(cell, kind, value.unit) / factor  # type: ignore[arg-type]


def _bare(cell: object) -> bool:
    try:
        return not isinstance(cell, str) or not split(cell)[1]
    except QuantityError:
        return False
