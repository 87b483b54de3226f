"""What titles and sentences say: conditions, methods, properties in running words."""

from __future__ import annotations

import re

from .entries import Style, entry_of, folded
from .fact import GAS_GRAVITY, Fact, cell_of, of_plus
from .words import PRESSURE, TEMPERATURE, as_unit, basis_of, method_of

DOUBT = "two readings"
"""Stands in place of what stands before a pressure whose number has two readings."""


def temperature_in(text: str, style: Style) -> str:
    """Return the temperature a sentence names, "" where it names none: the one with a degree sign, at a letter, or
    behind "at"."""
    best, rank = "", 0
    for found in TEMPERATURE.finditer(text):
        before = text[max(0, found.start() - 5) : found.start()]
        if re.search(r"[\w.,/]$", before) and not re.search(r"(?:at|@|=)$", before.rstrip()):
            continue
        led = re.search(r"(?:\bat|@|=|\bà|\ba|\bbei|\btemp\w*\.?:?|\bT)\s*$", before, re.IGNORECASE) is not None
        own = (
            4
            if found["a"]
            else 3
            if led
            else 2
            if found.end("number") == found.start("unit")
            else 1
            if float(re.sub("[,]", ".", found["number"].lstrip("-−–+"))) >= 50
            else 0
        )
        if own > rank:
            one = entry_of(re.sub("[–−]", "-", found["number"]), style or "point")
            letter = (found["a"] or found["b"]).upper()
            best, rank = cell_of(one.value, {"C": "degC", "F": "degF", "K": "K", "R": "degR"}[letter]), own
    return best


def pressures_in(text: str, style: Style) -> list[tuple[str, str]]:
    """Return the pressures of a sentence with what stands before each."""
    out = []
    for found in PRESSURE.finditer(text):
        one = entry_of(found["number"].strip(), style)
        unit = as_unit(found["unit"] + (found["more"] or ""), "pressure")
        if one.kind == "doubt" and unit:
            out.append((DOUBT, found.group()))
        elif one.is_number and unit:
            out.append((text[max(0, found.start() - 40) : found.start()], cell_of(one.value, unit)))
    return out


def in_sentence(what: str, label: str, text: str, style: Style, row: int, column: int) -> Fact | None:
    """Return a temperature or a pressure that stands in words beside its ``label``."""
    if what == "temperature":
        value = temperature_in(text, style)
        return Fact("temperature", value, row, column, text=label) if value else None
    found = [value for before, value in pressures_in(text, style) if before != DOUBT]
    return Fact(what, found[0], row, column, text=label) if found else Fact("unread", text, row, column, text=text)


_API = re.compile(
    r"(?:°\s*)?\bapi\b(?: gravity)?\s*[:=]?\s*(?P<a>\d[\d.,]*\d|\d)|(?P<b>\d[\d.,]*\d)\s*°\s*api", re.IGNORECASE
)


_MW = re.compile(
    r"\b(?:mw|m\.w\.|mol(?:ecular|ar)?\.? ?(?:wt|weight|mass)|M(?=\s*(?:of\s*)?C\d))\b\s*(?:of\s*)?(?:C\d+\s?\+?\s*)?(?:=|:)?\s*(?P<a>\d[\d.,]*\d)",
    re.IGNORECASE,
)


_SG = re.compile(
    r"\b(?:sg|s\.g\.|sp\.? ?gr\.?|specific gravity)\b(?:\s*60/60(?:\s*°?F)?)?\s*(?:of|=|:)?\s*(?P<a>0[.,]\d+|1[.,]\d+)",
    re.IGNORECASE,
)


_DENSITY = re.compile(
    r"dens\w*[^:=]*[:=]\s*(?P<a>\d[\d.,]*\d)\s*(?P<unit>g/cm3|g/cc|kg/m3|g/cm³|kg/m³|g/ml)?", re.IGNORECASE
)


def said_in(text: str, row: int, column: int, style: Style) -> list[Fact]:
    """Return what a title says: a method, a basis, conditions, properties."""
    out: list[Fact] = []
    method = method_of(text)
    if method:
        out.append(Fact("method", method, row, column, text=text))
    basis = (
        basis_of(text)
        if re.search(r"%|percent|basis|fraction|prozent|pourcent|porcent|molar|\bmol\b", folded(text))
        else ""
    )
    if basis:
        out.append(Fact("basis", basis, row, column, text=text))
    temperature = temperature_in(text, style)
    if temperature and not re.search(r"\bdens|\bgravity|thermal expan|compressib", folded(text)):
        out.append(Fact("temperature", temperature, row, column, text=text))
    for before, value in pressures_in(text, style) if not re.search(r"thermal expan|compressib", folded(text)) else ():
        if before == DOUBT:
            out.append(
                Fact(
                    "unread",
                    value,
                    row,
                    column,
                    text=text,
                    assumed=f"'{value}' has two readings, and nothing on the sheet tells which; it is not read. Write it with a point for its decimals, without marks between thousands",
                )
            )
            continue
        near = folded(before)
        saturated = re.search(r"satur|sattig|bubble|dew|burbuj|rocio|bulle|rosee|\bp[bd]\b|psat|taup", near) is not None
        out.append(Fact("saturation" if saturated else "pressure", value, row, column, text=text))
    heavy = of_plus(text)
    for what, pattern, unit in (
        ("density", _API, "degAPI"),
        ("molar_mass", _MW, "g/mol"),
        ("density", _SG, "SG"),
        ("density", _DENSITY, ""),
    ):
        found = pattern.search(text)
        digits = next((g for k, g in found.groupdict().items() if g and k in "ab"), "") if found else ""
        one = entry_of(digits, style) if digits else None
        if found is None or one is None or not one.is_number or any(f.what == what for f in out):
            continue
        own = unit or as_unit(found.groupdict().get("unit") or "", "density")
        assumed = ""
        if not own:
            if not 0.3 <= one.value <= 1.3:
                continue
            own, assumed = "g/cm**3", f"{one.text} is read as g/cm³"
        if what == "density" and unit == "SG" and GAS_GRAVITY.search(folded(text)):
            continue
        out.append(Fact(what, cell_of(one.value, own), row, column, "", assumed, heavy, text))
    return out
