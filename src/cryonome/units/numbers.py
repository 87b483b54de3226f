"""Numbers as people write them: signs, groups of thousands, decimal commas, powers of ten; read without guessing, or
refused.

The rules: an apostrophe or a no-break space parts thousands; a blank does before exactly three digits; of a comma and
a point together the last is the decimal one; several of one kind part thousands; a single point is a decimal one; a
single comma is too, except before exactly three digits, where it could be either and is refused."""

from __future__ import annotations

import math
import re
import unicodedata
from functools import lru_cache

from .errors import QuantityError

LONGEST = 200
"""Characters of the longest text that is read as a quantity."""

_SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻", "0123456789+-")
_VULGAR = {
    "½": " 1/2",
    "¼": " 1/4",
    "¾": " 3/4",
    "⅓": " 1/3",
    "⅔": " 2/3",
    "⅛": " 1/8",
    "⅜": " 3/8",
    "⅝": " 5/8",
    "⅞": " 7/8",
}
_CHARACTERS = {
    **dict.fromkeys("‐‑‒–—−﹣－⁃", "-"), **dict.fromkeys("’ʼ′‘`´＇", "'"), **dict.fromkeys("“”″", '"'),
    **dict.fromkeys("º˚ᵒ∘", "°"), "℃": "°C", "℉": "°F", **dict.fromkeys("·⋅∙•∗", "*"), "×": "x", "÷": "/", "∕": "/",
    **dict.fromkeys("\u00a0\u2007\u2009\u202f\u2008", "\u00a0"),
    **_VULGAR,
}  # fmt: skip
_POWERS = re.compile("[⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻]+")

_BODY = r"(?:\d+(?:[.,']\d+|[ \u00a0]\d{3}(?![\d/]))*\.?(?!\d)|[.,]\d+)"
_TEN = r"(?:[eE][+-]?\d{1,4}(?![\d.])|\s*[xX*]\s*10\s*(?:\^|\*\*)\s*\(?[+-]?\d{1,3}\)?)"
_NUMBER = re.compile(
    rf"^(?P<sign>[+-]|minus\s)?\s*(?P<body>{_BODY})(?P<ten>{_TEN})?(?P<rest>.*)$", re.DOTALL | re.IGNORECASE
)
_MIXED = re.compile(
    r"^(?P<sign>[+-])?\s*(?P<whole>\d+)\s+(?P<top>\d)/(?P<bottom>[2348]|16)(?P<rest>(?!\d).*)$", re.DOTALL
)
_SHARE = re.compile(r"^(\d{1,6})\s*/\s*(\d{1,6})$")
_COUNTS = {"million": 1e6, "thousand": 1e3, "billion": 1e9}
_COUNT = re.compile(rf"^({'|'.join(_COUNTS)})\b\s*(.*)$", re.IGNORECASE | re.DOTALL)


@lru_cache(maxsize=4096)
def plain(text: str) -> str:
    """Return a text in plain characters: one kind of minus, of apostrophe, of degree sign; powers as ``^3``; digits
    of any script."""
    text = _POWERS.sub(lambda m: "^" + m.group().translate(_SUPERSCRIPTS), text)
    text = "".join(_CHARACTERS.get(c, c) for c in text)
    return "".join(c if c == "\u00a0" else unicodedata.normalize("NFKC", c) for c in text).strip(" \t\r\n\u00a0")


@lru_cache(maxsize=4096)
def read_number(text: str) -> tuple[float, str]:
    """Return a number and what follows it, both from plain characters. Raises QuantityError with what is wrong."""
    if len(text) > LONGEST:
        raise QuantityError(f"a text of {len(text)} characters is not a quantity")
    told = plain(text)
    quoted = re.match(r'^"([^"]*)"(.*)$', told)
    told = (quoted.group(1) + quoted.group(2)) if quoted else told
    told = told.lstrip("~≈ \u00a0") or told
    mixed = _MIXED.match(told)
    if mixed and int(mixed["top"]) < int(mixed["bottom"]):
        value = int(mixed["whole"]) + int(mixed["top"]) / int(mixed["bottom"])
        return -value if mixed["sign"] == "-" else value, mixed["rest"].strip(" \u00a0")
    match = _NUMBER.match(told)
    if match is None:
        raise QuantityError(f"'{text.strip()}' is not a number")
    digits = _body(match["body"], text.strip())
    if match["ten"]:
        # The power is joined as text, so that the number is the one nearest to what was written.
        power = re.sub(r".*?([+-]?\d+)\)?$", r"\1", match["ten"], flags=re.DOTALL)
        digits = f"{digits}e{power}"
    number = float(digits) * (1.0 if match["sign"] in (None, "+") else -1.0)
    if math.isinf(number):
        raise QuantityError(f"'{text.strip()}' must be a finite number")
    rest = match["rest"].strip(" \t\r\n\u00a0")
    count = _COUNT.match(rest)
    if count:
        number, rest = number * _COUNTS[count.group(1).lower()], count.group(2)
    if re.match(r"[\d.,'^]", rest) and not rest.startswith("60/60"):
        raise QuantityError(f"'{text.strip()}' holds more than one number")
    return number, rest


def read_share(text: str) -> float | None:
    """Return a share written as one number over another, None where it is none."""
    match = _SHARE.match(plain(text))
    return int(match.group(1)) / int(match.group(2)) if match and int(match.group(2)) else None


def _body(body: str, text: str) -> str:
    """Return the digits of a number with a point before its decimals and nothing else. Raises QuantityError."""
    marks = re.findall(r"[^\d]", body)
    kinds = set(marks)
    if not marks:
        return body
    groups = re.split(r"[^\d]", body)
    decimal = ""
    if kinds <= {".", ","} and len(kinds) == 2:
        decimal = marks[-1]
    elif kinds & {"'", " ", "\u00a0"} and kinds & {".", ","}:
        decimal = marks[-1] if marks[-1] in ".," else "?"
    elif kinds == {"."} and len(marks) == 1:
        decimal = "."
    elif kinds == {","} and len(marks) == 1:
        whole, part = groups
        if len(part) != 3 or whole in ("", "0") or len(whole) > 3:
            decimal = ","
        else:
            one, other = f"{whole}{part}", f"{whole}.{part}"
            raise QuantityError(
                f"'{text}' can be read as {one} or as {other}; write the one that is meant, without the comma"
            )
    if decimal:
        if decimal == "?" or marks.count(decimal) != 1 or marks[-1] != decimal:
            raise QuantityError(
                f"'{text}' mixes the marks of thousands and decimals; write it with a point and no other mark"
            )
        *whole_groups, part = groups
    else:
        whole_groups, part = groups, ""
    thousands = {m for m in marks if m != decimal} if decimal else kinds
    if len(thousands - {" ", "\u00a0"}) + bool(thousands & {" ", "\u00a0"}) > 1 or not _grouped(whole_groups):
        raise QuantityError(
            f"'{text}' mixes the marks of thousands and decimals; write it with a point and no other mark"
        )
    return f"{''.join(whole_groups) or '0'}.{part or '0'}"


def _grouped(groups: list[str]) -> bool:
    """Tell whether groups of digits are those of thousands."""
    return len(groups) == 1 or (1 <= len(groups[0]) <= 3 and all(len(g) == 3 for g in groups[1:]))
