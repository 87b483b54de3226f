"""Expressions over answers: arithmetic with units, comparisons, if, then and else. A grammar of our own, bounded in
length and depth; nothing is ever run.

``0.915 * [export blend].VPCR[3].pressure_Pa``, ``if [a].TVP_Pa < 1 atm then [a].TVP_Pa else [b]``. A name in brackets
is a question with a path into its answer, or another named value. Quantities are SI with their dimension: what does
not go together is refused."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..errors import DomainError
from ..units import KINDS, QuantityError, fits, split, to_si
from ..units.spelling import registry

LONGEST, DEEPEST, MOST_TOKENS = 2000, 40, 400
"""Characters, nesting and pieces of one expression."""

WORDS = ("if", "then", "else", "and", "or", "not")
FUNCTIONS = ("min", "max", "abs", "sqrt", "exp", "ln", "log10", "round")
PLAIN = ("exp", "ln", "log10", "round")
"""Functions that take plain numbers alone."""

_PIECE = re.compile(
    r"\s*(?:(?P<number>(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d+)?)|(?P<ref>\[[^\[\]]+\](?:\.\"[^\"]+\"|\.[^\W\d]\w*(?:-[^\W\d]\w*)*|\[\d+\])*)"
    r"|(?P<word>[^\W\d]\w*)|(?P<op><=|>=|==|!=|[-+*/^(),<>−×·]))"
)
_UNIT = re.compile(r"\s*(?P<unit>[^\W\d_°%µ]*[°%µ]?[^\W\d_]*(?:[²³]|\^?-?\d)?(?:/[^\W\d_]+(?:[²³]|\^?-?\d)?)*)")


class ExpressionError(DomainError):
    """An expression that cannot be read or has no value, told with where."""


@dataclass(frozen=True)
class Number:
    """A quantity in SI with its dimension (pint's), None for a plain number."""

    value: float
    dimension: Any = None

    @property
    def plain(self) -> bool:
        """Whether it is a plain number."""
        return not self.dimension


Resolve = Callable[[str, str], Number]
"""Gives the value of a reference: the name in brackets and the path behind it, "" for none."""

Node = tuple[Any, ...]


@dataclass(frozen=True)
class Piece:
    """A token: its kind, text, place, and the quantity of a number."""

    kind: str
    text: str
    at: int
    number: Number = Number(0.0)


def pieces_of(text: str) -> list[Piece]:
    """Return the tokens of an expression. Raises ExpressionError."""
    if len(text) > LONGEST:
        raise ExpressionError(f"the expression has {len(text)} characters; at most {LONGEST} are read")
    out: list[Piece] = []
    at = 0
    while text[at:].strip():
        found = _PIECE.match(text, at)
        if found is None:
            raise ExpressionError(
                f"'{text[at:].strip()[:12]}' is not understood; write numbers with units, [question].path, and + - * / ^ ( )"
            )
        kind = found.lastgroup or ""
        piece, start, at = found.group(kind), found.start(kind), found.end()
        if kind == "number":
            number, at = _quantity(text, float(piece), at)
            out.append(Piece(kind, text[start:at], start, number))
        else:
            out.append(Piece(kind, {"−": "-", "×": "*", "·": "*"}.get(piece, piece), start))
        if len(out) > MOST_TOKENS:
            raise ExpressionError(
                f"the expression has more than {MOST_TOKENS} pieces; split it into several named values"
            )
    return out


def _quantity(text: str, value: float, at: int) -> tuple[Number, int]:
    """Return a number with the unit behind it, the longest there is, and where it ends."""
    found = _UNIT.match(text, at)
    unit = found.group("unit") if found is not None else ""
    while unit:
        if unit.casefold() not in WORDS:
            number = quantity(value, unit)
            if number is not None and found is not None:
                return number, found.start("unit") + len(unit)
        unit = unit.rpartition("/")[0]
    return Number(value), at


def quantity(value: float, unit: str) -> Number | None:
    """Return a number with a unit in SI, None where that is no unit. Temperatures are absolute."""
    if unit == "%":
        return Number(value / 100.0)
    try:
        own = split(f"1 {unit}")[1]
    except QuantityError:
        own = ""
    kind = next((k for k in KINDS if k != "temperature_difference" and own and fits(own, k)), None)
    if kind is not None:
        return Number(to_si(value, own, kind), dimension_of(kind))
    found = _any_unit(unit)
    return None if found is None else Number(value * found.value, found.dimension)


def _any_unit(unit: str) -> Number | None:
    """Return one of a unit that none of the kinds has, as m/s2, in SI; None where that is no unit."""
    try:
        own = registry().Quantity(1.0, re.sub(r"(?<=[a-zA-Z])\^?(-?\d)", r"**\1", unit)).to_base_units()
    except Exception:  # pint raises whatever its parser does
        return None
    return Number(float(own.magnitude), own.dimensionality or None)


def dimension_of(kind: str) -> Any:
    """Return the dimension of a kind of quantity, None of a plain one."""
    unit = KINDS[kind].si if kind in KINDS else ""
    return (registry().get_dimensionality(unit) or None) if unit else None


# -- reading -----------------------------------------------------------------------------------------------------------


class _Parser:
    def __init__(self, pieces: list[Piece]) -> None:
        self._pieces, self._next, self._depth = pieces, 0, 0

    def whole(self) -> Node:
        node = self._choice()
        if self._next < len(self._pieces):
            raise ExpressionError(f"'{self._pieces[self._next].text}' stands where the expression should end")
        return node

    def _peek(self) -> str:
        piece = self._pieces[self._next] if self._next < len(self._pieces) else None
        return "" if piece is None or piece.kind in ("number", "ref") else piece.text

    def _take(self, *texts: str) -> str:
        text = self._peek()
        if text and text in texts:
            self._next += 1
            return text
        return ""

    def _expect(self, text: str) -> None:
        if not self._take(text):
            here = self._pieces[self._next].text if self._next < len(self._pieces) else "the end"
            raise ExpressionError(f"'{text}' is wanted before {here}")

    def _choice(self) -> Node:
        self._depth += 1
        if self._depth > DEEPEST:
            raise ExpressionError(
                f"the expression is nested more than {DEEPEST} deep; split it into several named values"
            )
        node = self._choice_here()
        self._depth -= 1
        return node

    def _choice_here(self) -> Node:
        if self._take("if"):
            condition = self._or()
            self._take(",")
            self._expect("then")
            yes = self._choice()
            self._take(",")
            self._expect("else")
            return "if", condition, yes, self._choice()
        node = self._or()
        if self._take("if"):
            condition = self._or()
            self._take(",")
            self._expect("else")
            return "if", condition, node, self._choice()
        return node

    def _or(self) -> Node:
        node = self._and()
        while self._take("or"):
            node = "or", node, self._and()
        return node

    def _and(self) -> Node:
        node = self._not()
        while self._take("and"):
            node = "and", node, self._not()
        return node

    def _not(self) -> Node:
        if self._take("not"):
            return "not", self._not()
        node = self._sum()
        sign = self._take("<", "<=", ">", ">=", "==", "!=")
        return ("compare", sign, node, self._sum()) if sign else node

    def _sum(self) -> Node:
        node = self._product()
        while sign := self._take("+", "-"):
            node = sign, node, self._product()
        return node

    def _product(self) -> Node:
        node = self._unary()
        while sign := self._take("*", "/"):
            node = sign, node, self._unary()
        return node

    def _unary(self) -> Node:
        if self._take("-"):
            return "negative", self._unary()
        self._take("+")
        node = self._atom()
        return ("^", node, self._unary()) if self._take("^") else node

    def _atom(self) -> Node:
        if self._next >= len(self._pieces):
            raise ExpressionError("the expression ends where a value is wanted")
        piece = self._pieces[self._next]
        self._next += 1
        if piece.kind == "number":
            return "number", piece.number
        if piece.kind == "ref":
            name, _, path = piece.text[1:].partition("]")
            return "ref", name.strip(), path.removeprefix(".").replace('"', "")
        if piece.text == "(":
            node = self._choice()
            self._expect(")")
            return node
        if piece.text in FUNCTIONS:
            self._expect("(")
            args = [self._choice()]
            while self._take(","):
                args.append(self._choice())
            self._expect(")")
            return "call", piece.text, tuple(args)
        raise ExpressionError(
            f"'{piece.text}' is no value; write [{piece.text}] for a question or a named value"
            if piece.kind == "word"
            else f"a value is wanted before '{piece.text}'"
        )


def parsed(text: str) -> Node:
    """Return an expression as a tree. Raises ExpressionError."""
    if not text.strip():
        raise ExpressionError("the expression is empty")
    return _Parser(pieces_of(text)).whole()


def names_in(node: Node) -> list[str]:
    """Return the names that an expression refers to."""
    if node[0] == "ref":
        return [node[1]]
    out: list[str] = []
    for part in node[1:]:
        for own in part if isinstance(part, tuple) and not (part and isinstance(part[0], str)) else [part]:
            if isinstance(own, tuple):
                out += names_in(own)
    return out


# -- evaluating --------------------------------------------------------------------------------------------------------


def evaluated(node: Node, resolve: Resolve) -> Number:
    """Return the value of an expression; of a choice only the branch that holds is asked for. Raises ExpressionError,
    and what ``resolve`` raises."""
    found = _value(node, resolve)
    if isinstance(found, bool):
        raise ExpressionError("the expression is a comparison, not a value; write if ... then ... else ...")
    if not math.isfinite(found.value):
        raise ExpressionError("the expression has no finite value")
    return found


def _value(node: Node, resolve: Resolve) -> Number | bool:
    head = node[0]
    if head == "number":
        return node[1]  # type: ignore[no-any-return]
    if head == "ref":
        return resolve(node[1], node[2])
    if head == "if":
        return _value(node[2] if _truth(node[1], resolve) else node[3], resolve)
    if head in ("and", "or"):
        first = _truth(node[1], resolve)
        return first and _truth(node[2], resolve) if head == "and" else first or _truth(node[2], resolve)
    if head == "not":
        return not _truth(node[1], resolve)
    if head == "compare":
        return _compared(node[1], _number(node[2], resolve), _number(node[3], resolve))
    if head == "negative":
        own = _number(node[1], resolve)
        return Number(-own.value, own.dimension)
    if head == "call":
        return _called(node[1], [_number(a, resolve) for a in node[2]])
    return _combined(head, _number(node[1], resolve), _number(node[2], resolve))


def _truth(node: Node, resolve: Resolve) -> bool:
    found = _value(node, resolve)
    if not isinstance(found, bool):
        raise ExpressionError("a comparison is wanted after if, and, or and not, as TVP < 1 atm")
    return found


def _number(node: Node, resolve: Resolve) -> Number:
    found = _value(node, resolve)
    if isinstance(found, bool):
        raise ExpressionError("a comparison stands where a value is wanted")
    return found


def _alike(one: Number, other: Number, what: str) -> None:
    # A plain zero is a zero of anything.
    if (one.dimension or None) != (other.dimension or None) and not any(
        n.plain and n.value == 0.0 for n in (one, other)
    ):
        raise ExpressionError(
            f"{what} of a {_told(one)} and a {_told(other)} has no meaning; give both the same kind of unit"
        )


def _told(number: Number) -> str:
    return (
        "plain number"
        if number.plain
        else f"quantity in {'·'.join(f'{k}^{v:g}' if v != 1 else str(k) for k, v in number.dimension.items())}"
    )


def _compared(sign: str, one: Number, other: Number) -> bool:
    _alike(one, other, "a comparison")
    a, b = one.value, other.value
    return {"<": a < b, "<=": a <= b, ">": a > b, ">=": a >= b, "==": a == b, "!=": a != b}[sign]


def _combined(sign: str, one: Number, other: Number) -> Number:
    a, b = one.value, other.value
    if sign in ("+", "-"):
        _alike(one, other, "a sum" if sign == "+" else "a difference")
        return Number(a + b if sign == "+" else a - b, one.dimension or other.dimension)
    if sign == "*":
        return Number(a * b, _product(one.dimension, other.dimension, 1))
    if sign == "/":
        if b == 0.0:
            raise ExpressionError("a division by zero")
        return Number(a / b, _product(one.dimension, other.dimension, -1))
    if not other.plain:
        raise ExpressionError("an exponent is a plain number")
    try:
        value = a**b
    except (OverflowError, ZeroDivisionError):
        raise ExpressionError(f"{a:g} to the power of {b:g} has no finite value") from None
    if isinstance(value, complex):
        raise ExpressionError(f"{a:g} to the power of {b:g} is no real number")
    return Number(value, (one.dimension**b or None) if one.dimension else None)


def _product(one: Any, other: Any, power: int) -> Any:
    if not one and not other:
        return None
    empty = registry().get_dimensionality("")
    return ((one or empty) * (other or empty) ** power) or None


def _called(name: str, args: list[Number]) -> Number:
    if name in ("min", "max"):
        for other in args[1:]:
            _alike(args[0], other, name)
        value = (min if name == "min" else max)(a.value for a in args)
        return Number(value, next((a.dimension for a in args if a.dimension), None))
    if len(args) != 1 and not (name == "round" and len(args) == 2):
        raise ExpressionError(f"{name} takes one value")
    own = args[0]
    if name in PLAIN and not all(a.plain for a in args):
        raise ExpressionError(f"{name} is of plain numbers; divide by a unit first, as {name}([a].TVP_Pa / 1 bar)")
    try:
        if name == "abs":
            return Number(abs(own.value), own.dimension)
        if name == "sqrt":
            return Number(math.sqrt(own.value), own.dimension**0.5 if own.dimension else None)
        if name == "round":
            return Number(round(own.value, int(args[1].value) if len(args) > 1 else 0))
        return Number({"exp": math.exp, "ln": math.log, "log10": math.log10}[name](own.value))
    except (ValueError, OverflowError):
        raise ExpressionError(f"{name}({own.value:g}) has no value") from None
