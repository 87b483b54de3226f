"""What the lines of a sheet say of its tables: titles, and lines of a word and a value, each with its unit, in any of
five languages."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Sequence

from ..characterization.methods import METHODS
from ..units import QuantityError, normal_unit, split
from .entries import Entry, Style, entry_of, folded
from .fact import GAS_GRAVITY, KINDS_OF, NEEDING, Fact, cell_of, of_plus
from .report_words import kind_by_words
from .sentences import in_sentence, said_in, temperature_in
from .words import TEMPERATURE, as_unit, basis_of, line_word, means, method_of, unit_in

WHOLE = "whole sample "
"""What a line of the whole sample's value of a named quantity begins with."""


_WATSON = re.compile(r"watson|\buop k|\bkw\b|\bk[\s-]?factor|characteri[sz]ation factor")


_FACTOR = re.compile(
    r"formation vol|\bfvf\b|volume factor|\bbofb?\b|\bbob?\b|facteur vol|factor vol|\bbtb?\b|fator vol"
)


_RESIDUAL = re.compile(r"resid")


_IN_PLACE = re.compile(
    r"\bbubble|\bdew\b|satur|sattig|burbuj|rocio|rosee|bulle|taupunkt|orvalho|bolha|reservoir|in.?situ"
)
"""Words of a density at pressure."""


_DISTILLED = re.compile(
    r"(?:distill?\w*|destill?\w*|recover\w*|evap\w*|\bd\s?-?\s?86\b|\btbp\b|\bt|at|volume|vol\.?)\D{0,18}?(?P<percent>\d{1,2}(?:[.,]\d+)?)\s*(?:%|vol\.?\s?%|percent)(?!\w)"
)


_SHORT_POINT = re.compile(r"^t\s?-?(?P<percent>\d{1,2})\b")


_END = re.compile(
    r"(?P<end>\bibp\b|^initial(?: point)?$|^final(?: point)?$|\bfbp\b|\bep\b|initial boiling|final boiling|end point|siedebeginn|siedeende|punto inicial|punto final|point initial|point final|ponto inicial|ponto final)"
)


def facts_of(row: tuple[int, list[str]], style: Style, plus: bool = False) -> list[Fact]:
    """Return what a line says; ``plus`` tells that it stands under a heading of the plus fraction."""
    number, cells = row
    full = [j for j, c in enumerate(cells) if c.strip()]
    if not full:
        return []
    first = full[0]
    label = cells[first].strip()
    if len(full) >= 2:
        fact = labelled(
            label, cells[full[1]].strip(), cells[full[2]].strip() if len(full) > 2 else "", style, number, full[1], plus
        )
        if fact is not None:
            others = [
                f
                for j in full[1:]
                if not (one := entry_of(cells[j], style)).is_number or any(c.isdigit() for c in one.unit)
                for f in said_in(cells[j], number, j, style)
                if f.what in ("saturation", "temperature") and f.what != fact.what
            ]
            at = temperature_in(label, style) if fact.what == "saturation" else ""
            if at and not any(f.what == "temperature" for f in others):
                others.append(Fact("temperature", at, number, first, text=label))
            more = [
                other
                for j in full[2:]
                if fact.of_plus
                and entry_of(cells[j], style).is_number
                and (other := labelled(label, cells[j].strip(), "", style, number, j, plus)) is not None
            ]
            return [*more, fact, *others] if fact.what not in ("note", "name", "place") else [fact]
        if not _heads_a_test(label):
            # A number under a word that is not known, a flash point or a share of sulphur, is nothing of a table's.
            full = [first, *(j for j in full[1:] if not entry_of(cells[j].strip(), style).is_number)]
    return [f for j in full for f in said_in(cells[j], number, j, style)]


def _heads_a_test(label: str) -> bool:
    """Tell whether a word before a number is the title of what it belongs to: a test, a method, its conditions."""
    titled = kind_by_words([label]) or method_of(label) or basis_of(label)
    return bool(titled or re.search(r"condition|bedingung|condicion|condicao|\btest\b|\bat\b", folded(label)))


def labelled(
    label: str, text: str, beside: str, style: Style, row: int, column: int, plus: bool = False
) -> Fact | None:
    """Return what a line of a word and a value says, its unit behind the value, in the cell ``beside``, or with the
    word; None where its word is not known."""
    words = folded(label).rstrip(" :")
    own = _own_word(label, words, text, style, row, column)
    if own is not None:
        return own
    word = line_word(label)
    if word in ("name", "note") or (word in ("method", "basis") and not entry_of(text, style).is_number):
        return _worded(word, text, row, column)
    one = entry_of(text, style)
    if re.search(r"recover\w* at|at \d+ ?°? ?[cf]\b.*%", words) and one.is_number:
        return Fact("unread", text, row, column, text=label)
    what = _what(words, plus)
    # A tank is a place, but its oil has a density.
    of_place = what in ("pressure", "temperature", "saturation") or (
        what == "density" and re.search(r"\boil\b|liquid", words)
    )
    if what == "" or (word == "place" and not of_place):
        return Fact("place", f"{label.rstrip(' :')}: {text}", row, column) if word == "place" else None
    if not one.is_number or any(c.isdigit() for c in one.unit.replace("60/60", "").replace("2", "").replace("3", "")):
        if what in ("saturation", "temperature", "pressure"):
            return in_sentence(what, label, text, style, row, column)
        return (
            Fact("unread", text, row, column, text=label)
            if one.kind != "absent"
            else Fact("absent", text, row, column, text=label)
        )
    plus = plus or of_plus(label)
    if what == "viscosity":
        return _viscosity(label, one, beside, row, column)
    if what in ("residue", "loss", "recovery", "watson_k", "volume_factor", "gas_oil_ratio", "gas_gravity"):
        unit = one.unit or (beside if what == "gas_oil_ratio" and as_unit(beside, "gas_oil_ratio") else "")
        if what == "gas_oil_ratio":
            unit = as_unit(unit, what) or unit_in(label, what)
        return Fact(
            what,
            cell_of(one.value, unit) if what == "gas_oil_ratio" else cell_of(one.value, ""),
            row,
            column,
            text=label,
        )
    kind = KINDS_OF.get(what, what)
    at = ""
    if what == "point":
        found = _DISTILLED.search(words) or _SHORT_POINT.search(words)
        at = entry_of(found["percent"], style or "point").text if found else ""
    unit, assumed = _unit(what, kind, label, one, beside)
    if what == "density" and (_other_temperature(label) or (_IN_PLACE.search(words) and not plus)):
        return Fact(
            "unread",
            text,
            row,
            column - 1,
            text=label,
            assumed=f"'{label}' with {text} is not read; give the density at 15 °C or 60 °F",
        )
    if kind in NEEDING and not unit:
        example = {"pressure": "mmHg", "temperature": "degC", "density": "kg/m3"}[kind]
        return Fact(
            "unread",
            text,
            row,
            column,
            text=label,
            assumed=f"{one.text} has no unit; write for example {one.text} {example}",
        )
    return Fact(what, cell_of(one.value, unit), row, column, at, assumed, plus, label)


def _own_word(label: str, words: str, text: str, style: Style, row: int, column: int) -> Fact | None:
    """Return what a line says that this program wrote itself: words that laboratories do not use."""
    if words in ("light ends by", "curve of"):
        return Fact("light_basis" if words == "light ends by" else "light_curve", folded(text), row, column)
    one = entry_of(text, style)
    if words == "tail pressure" and one.is_number:
        return Fact("tail_pressure", cell_of(one.value, as_unit(one.unit, "pressure")), row, column)
    if words in ("plus molar mass", "plus density") and one.is_number:
        kind = words.removeprefix("plus ").replace(" ", "_")
        unit, assumed = _unit(kind, kind, label, one, "")
        return Fact(kind, cell_of(one.value, unit), row, column, "", assumed, True, label)
    if words.startswith(WHOLE) and one.is_number:
        return Fact("whole_quantity", cell_of(one.value, ""), row, column, text=label.strip()[len(WHOLE) :])
    return None


def _worded(word: str, text: str, row: int, column: int) -> Fact:
    if word == "method":
        method = next((m for m in METHODS if m.casefold() == text.strip().casefold()), "") or method_of(text)
        if not method:
            return Fact("unread", text, row, column, text=text, assumed=f"'{text[:40]}' is not a method that is known")
        return Fact("method", method, row, column, text=text)
    if word == "basis":
        return Fact("basis", basis_of(text), row, column, text=text)
    return Fact(word, text, row, column)


def _what(words: str, plus: bool) -> str:
    """Return what the word of a line means, "" where it is not known."""
    if re.search(
        r"cetane|flash ?point|pour|cloud|cold filter|freez|sulph|sulf|\bgpm\b|heating|wobbe|z[- ]factor|compressib|octane|opening|thermal expan|salt|wax|asphalt|number of",
        words,
    ):
        return ""
    if re.search(
        r"\bbubble|\bdew|satur|sattig|burbuj|rocio|rosee|bulle|taupunkt|orvalho|bolha|\bpsat\b|^p[bd]$|^p[bd]\b", words
    ):
        if _FACTOR.search(words):
            return "volume_factor"
        if not re.search(r"dens|visc|temp|compres|volume|\bgor\b|\bratio|\brs\b", words):
            return "saturation"
        if "temp" in words and "press" not in words:
            return "temperature"
    if _FACTOR.search(words):
        return "volume_factor"
    if _RESIDUAL.search(words) and means(words, "density"):
        return "residual_density"
    if re.search(r"\bgor\b|gas[\s/-]*oil|gas[\s/]oil ratio|\brs\b", words):
        return "gas_oil_ratio"
    if _WATSON.search(words):
        return "watson_k"
    if re.search(r"visc|viskos", words):
        return "viscosity"
    if means(words, "molar_mass") and not words.startswith("m/"):
        return "molar_mass"
    if means(words, "density"):
        return "gas_gravity" if GAS_GRAVITY.search(words) and not re.search(r"oil|liquid|crude", words) else "density"
    end = _END.search(words)
    if end is not None:
        return "initial" if re.search(r"ibp|initial|inicial|beginn", end["end"]) else "final"
    if _DISTILLED.search(words) and not re.search(r"recover\w* at \d", words):
        return "point"
    if _SHORT_POINT.search(words):
        return "point"
    if re.search(r"residue|ruckstand|residu\b|residuo|loss\b|verlust|perte|perdida|perda", words):
        return "loss" if re.search(r"loss|verlust|perte|perdida|perda", words) else "residue"
    if re.search(r"^(?:total )?recovery|^recuperad|^ausbeute|^recovered|^recuperacion", words) and "°" not in words:
        return "recovery"
    if re.search(r"press|druck|presion|presao|pressao|pression|barom|vacuum", words):
        return "pressure"
    if re.search(r"temp|^t$|^t[_ ]?res$", words):
        return "temperature"
    return ""


def _unit(what: str, kind: str, label: str, one: Entry, beside: str) -> tuple[str, str]:
    """Return the unit of a value, and what was assumed of it."""
    for text in (one.unit, beside):
        unit = as_unit(text, kind) if text else ""
        if unit:
            return unit, ""
        if text and kind == "density" and "api" in folded(text):
            return "degAPI", ""
    if one.unit:
        with contextlib.suppress(QuantityError):
            split(f"1 {one.unit}")
        normal = normal_unit(one.unit)
        if as_unit(normal, kind):
            return normal, ""
    words = folded(label)
    if kind == "density":
        if "api" in words:
            return "degAPI", ""
        unit = unit_in(re.sub(TEMPERATURE, " ", label), kind)
        if unit:
            return unit, ""
        if re.search(r"specific|\bs\.?g\.?\b|sp\.? ?gr|60/60|relative", words):
            return "SG", ""
        if 0.3 <= one.value <= 1.3:
            if TEMPERATURE.search(label):
                return "g/cm**3", f"{one.text} is read as g/cm³"
            return "SG", f"{one.text} is read as a specific gravity"
        return ("kg/m**3", f"{one.text} is read as kg/m³") if 300 <= one.value <= 1300 else ("", "")
    if kind == "molar_mass":
        return unit_in(label, kind) or "g/mol", ""
    unit = unit_in(label, kind)
    return unit, "" if unit else f"{one.text} has no unit"


def _other_temperature(label: str) -> bool:
    found = TEMPERATURE.search(label)
    if found is None:
        return False
    value = float(found["number"].replace(",", ".").lstrip("+"))
    return not (
        (found["unit"][-1].upper() == "C" and 14.9 <= value <= 15.7)
        or (found["unit"][-1].upper() == "F" and 58.9 <= value <= 60.1)
    )


def _viscosity(label: str, one: Entry, beside: str, row: int, column: int) -> Fact:
    at = temperature_in(label, "point") or temperature_in(label, "comma")
    rest = TEMPERATURE.sub(" ", label)
    unit = ""
    for text in (one.unit, beside):
        unit = unit or next((u for k in ("kinematic_viscosity", "dynamic_viscosity") if (u := as_unit(text, k))), "")
    unit = unit or unit_in(rest, "kinematic_viscosity", "dynamic_viscosity")
    if not at or not unit:
        told = (
            "a viscosity needs its temperature; write viscosity at 40 degC"
            if not at
            else f"{one.text} has no unit; write {one.text} cSt or {one.text} cP"
        )
        return Fact("unread", one.text, row, column if at else column - 1, text=label, assumed=told)
    return Fact("viscosity", cell_of(one.value, unit), row, column, at)


def heads_plus(cells: Sequence[str]) -> bool:
    """Tell whether a row is a heading of properties of the plus fraction."""
    full = [c for c in cells if c.strip()]
    return (
        len(full) == 1
        and of_plus(full[0])
        and not any(ch in full[0] for ch in "=:")
        and re.search(r"propert|eigenschaft|propri|char", folded(full[0])) is not None
    )
