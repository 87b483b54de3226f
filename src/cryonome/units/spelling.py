"""Units as people write them, to what they measure: a small grammar of our own over pint's registry.

A unit is a product of atoms with whole powers. Atoms are a table here, with the trade's own prefixes (M a thousand
and MM a million of standard cubic feet, barrels and pounds); what has two readings is refused with both. pint holds
the definitions and converts; its own reading of expressions is never used, since it takes much that is no unit."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

from ..constants import ATM, T_60F, WATER_DENSITY_60F, R
from .errors import QuantityError
from .kinds import KINDS
from .numbers import plain

T_15C = 288.15
"""K. Temperature of the standard cubic metre; that of the standard cubic foot is 60 °F."""


@dataclass(frozen=True)
class Scale:
    """A unit of one kind: SI is ``factor`` times the number plus ``offset``, or, ``inverse``, 141.5/(number + 131.5)
    as °API."""

    factor: float
    offset: float = 0.0
    inverse: bool = False


@cache
def registry() -> Any:
    """Return pint's registry with the trade's units; built on first need, since that takes a while."""
    import pint

    known: Any = pint.UnitRegistry(
        autoconvert_offset_to_baseunit=True, on_redefinition="ignore", cache_folder=_definitions()
    )
    for definition in (
        f"trade_scf = {ATM * 0.3048**3 / (R * T_60F)!r} mol",
        f"trade_sm3 = {ATM / (R * T_15C)!r} mol",
        f"trade_nm3 = {ATM / (R * 273.15)!r} mol",
        f"trade_gas = {ATM / (R * T_60F)!r} mol",
        "trade_lbmol = 453.59237 * mol",
        "trade_bbl = 42 * gallon",
        # The International Table Btu, by which the trade counts: 2326 J/kg is 1 Btu/lb (GPA 2172, 2019).
        "trade_btu = 1055.05585262 * joule",
    ):
        known.define(definition)
    return known


def _definitions() -> Path | None:
    """Return where pint keeps its definitions read, which takes a third of a second else; None where nothing can be
    kept."""
    import platformdirs

    folder = Path(platformdirs.user_cache_dir("cryonome")) / "units"
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError:
        return None
    return folder if os.access(folder, os.W_OK) else None


def _same(unit: str, *spellings: str) -> dict[str, str]:
    return dict.fromkeys(spellings, unit)


ATOMS: dict[str, str] = {
    **_same("m", "m", "meter", "metre", "meters", "metres"), **_same("cm", "cm"), **_same("mm", "mm"), **_same("dm", "dm"),
    **_same("km", "km"), **_same("foot", "ft", "foot", "feet"), **_same("inch", "in", "inch", "inches"),
    **_same("liter", "l", "lit", "liter", "litre", "liters", "litres", "ltr"), **_same("milliliter", "ml", "cc", "ccm"),
    **_same("kiloliter", "kl"), **_same("gallon", "gal", "gals", "gallon", "gallons", "usgal", "usg"),
    **_same("trade_bbl", "bbl", "bbls", "barrel", "barrels", "stb", "stbo", "bo", "b", "stbbl"),
    **_same("g", "g", "gm", "gr", "gram", "grams", "gramme", "grammes"), **_same("kg", "kg", "kgs", "kilogram", "kilograms", "kilo"),
    **_same("mg", "mg"), **_same("metric_ton", "t", "te", "mt", "tonne", "tonnes", "mton"),
    **_same("pound", "lb", "lbs", "lbm", "lbsm", "pound", "pounds"), **_same("short_ton", "shortton", "uston"),
    **_same("long_ton", "longton", "ukton"),
    **_same("mol", "mol", "mols", "mole", "moles", "gmol", "gmole", "gmoles"),
    **_same("kilomole", "kmol", "kmols", "kmole", "kmoles", "kgmol", "kgmole", "kgmoles"),
    **_same("trade_lbmol", "lbmol", "lbmols", "lbmole", "lbmoles", "poundmole", "poundmoles"),
    **_same("second", "s", "sec", "secs", "second", "seconds"), **_same("minute", "min", "mins", "minute", "minutes"),
    **_same("hour", "h", "hr", "hrs", "hour", "hours"), **_same("day", "d", "day", "days"), **_same("year", "yr", "year", "years", "a"),
    **_same("pascal", "pa", "pascal", "pascals"), **_same("hectopascal", "hpa"), **_same("kilopascal", "kpa"),
    **_same("bar", "bar", "bars"), **_same("millibar", "mbar"), **_same("psi", "psi"), **_same("kilogram_force/centimeter**2", "ksc"),
    **_same("atmosphere", "atm", "atms", "atmosphere", "atmospheres"), **_same("technical_atmosphere", "at"),
    **_same("mmHg", "mmhg", "torr"), **_same("cmHg", "cmhg"), **_same("inch_Hg", "inhg"),
    **_same("newton", "n", "newton", "newtons"), **_same("kilonewton", "kn"), **_same("kilogram_force", "kgf", "kp"),
    **_same("pound_force", "lbf"), **_same("dyne", "dyn", "dyne", "dynes"),
    **_same("joule", "j", "joule", "joules"), **_same("kilojoule", "kj"), **_same("calorie", "cal", "cals"),
    **_same("kilocalorie", "kcal"), **_same("trade_btu", "btu", "btus"), **_same("watt", "w", "watt", "watts"), **_same("kilowatt", "kw"),
    **_same("horsepower", "hp", "bhp"), **_same("mile", "mi", "mile", "miles"),
    **_same("poise", "p", "poise", "poises"), **_same("centipoise", "cp", "cps", "cpoise", "centipoise", "centipoises"),
    **_same("stokes", "st", "stoke", "stokes"), **_same("centistokes", "cst", "csts", "cstoke", "cstokes", "centistoke", "centistokes"),
    **_same("kelvin", "k", "kelvin", "degk", "°k"), **_same("delta_degree_Celsius", "degc", "c", "celsius", "°c"),
    **_same("delta_degree_Fahrenheit", "degf", "f", "°f"),
    **_same("degree_Rankine", "degr", "r", "rankine", "°r", "°ra"),
    **_same("trade_scf", "scf", "scuft"), **_same("trade_sm3", "sm^3", "scm"), **_same("trade_nm3", "nm^3", "ncm"),
    **_same("millipascal*second", "mpas"), **_same("pascal*second", "pas"),
    "#gas": "trade_gas", "#grain": "grain",
}  # fmt: skip
"""pint's unit by spelling, in small letters; where capitals matter :data:`EXACT` comes first."""

EXACT: dict[str, str] = {
    "MPa": "megapascal", "MPA": "megapascal", "GPa": "gigapascal", "MJ": "megajoule", "MW": "megawatt", "Mg": "megagram", "P": "poise",
    "mW": "milliwatt", "mN": "millinewton",
    "mPa": "millipascal", "µPa": "micropascal", "μPa": "micropascal", "uPa": "micropascal", "mJ": "millijoule", "mmol": "millimole", "Mm": "megameter",
}  # fmt: skip

AMBIGUOUS = {
    "ton": "'ton' has three meanings; write t (1000 kg), short ton or long ton",
    "tons": "'tons' has three meanings; write t (1000 kg), short ton or long ton",
    "MG": "'MG' can be megagram or milligram; write t or mg",
    "Mbar": "'Mbar' is a megabar, a million bar; write mbar or bar",
    "MW": "'MW' is a megawatt; write g/mol for a molar mass",
    "mb": "'mb' can be a millibar or a thousand barrels; write mbar or Mbbl",
    "mpa": "'{unit}' can be megapascal or millipascal; write MPa or kPa",
}
"""Sentences about what is refused for having several readings."""

_TRADE = re.compile(
    r"^(mm|m|k|b)(scf|cf|cuft|ft\^3|bbls?|stb|bo|b|lbs?|lbm|btu|gals?|sm\^3|nm\^3|scm|ncm)$", re.IGNORECASE
)
_METRIC = ("sm^3", "nm^3", "scm", "ncm")

_WORDS: tuple[tuple[re.Pattern[str], str], ...] = tuple(
    (re.compile(pattern, re.IGNORECASE), replacement)
    for pattern, replacement in (
        (r"\*\*", "^"),
        (r"\bper\b", "/"),
        (r"\b(millimet(?:er|re)s?|mm)[\s.\-]*(?:of\s+)?(?:hg|mercury)", "mmHg"),
        (r"\b(centimet(?:er|re)s?|cm)[\s.\-]*(?:of\s+)?(?:hg|mercury)", "cmHg"),
        (r"(\binch(?:es)?|\bin|\")[\s.\-]*(?:of\s+)?(?:hg|mercury)", "inHg"),
        (r"(\binch(?:es)?|\bin|\")[\s.\-]*(?:of\s+)?(?:h2o|water|w\.?c\.?|w\.?g\.?)(?![a-z])", "inH2O"),
        (r"\b(?:ft|feet|foot)[\s.\-]*(?:of\s+)?(?:h2o|water|w\.?c\.?)(?![a-z])", "ftH2O"),
        (r"\b(mm|cm|m)[\s.\-]*(?:of\s+)?(?:h2o|water|w\.?c\.?|w\.?g\.?)(?![a-z])", r"\1H2O"),
        (r"\b(lbm|lb|kg|g|k)[\s\-]*mol(?:e?s?)\b(?!\s*\^?-\d)", r"\1mol"),
        (r"\bpound[\s\-]*mol(?:e?s?)\b", "lbmol"),
        (r"\bu\.?s\.?[\s\-]*(?:gal(?:lon)?s?)\b", "gal"),
        (r"\b(us|short)[\s\-]*tons?\b", "shortton"),
        (r"\b(uk|long|imperial)[\s\-]*tons?\b", "longton"),
        (r"\bmetric[\s\-]*ton(?:ne)?s?\b", "t"),
        (r"\b(?:standard|std)\.?\s*(?:cubic\s*f(?:ee|oo)t|cu\.?\s*ft\.?|ft\^?3|cf)", "scf"),
        (r"\b(?:standard|std)\.?\s*(?:cubic\s*met(?:re|er)s?|cu\.?\s*m|m\^?3)", "sm^3"),
        (r"\b(?:normal)\.?\s*(?:cubic\s*met(?:re|er)s?|cu\.?\s*m|m\^?3)", "nm^3"),
        (r"\b(?:stock[\s\-]*tank)\s*(?:barrels?|bbl)", "stb"),
        (r"\bcu(?:bic|\.)?[\s.]*(?:feet|foot|ft)\.?", "ft^3"),
        (r"\bcu(?:bic|\.)?[\s.]*(?:met(?:re|er)s?|m)\b\.?", "m^3"),
        (r"\bcu(?:bic|\.)?[\s.]*(?:centimet(?:re|er)s?|cm)\b\.?", "cm^3"),
        (r"\bsq(?:uare|\.)?[\s.]*(?:inch(?:es)?|in)\b\.?", "in^2"),
        (r"\bsq(?:uare|\.)?[\s.]*(?:cm|centimet(?:re|er)s?)\b\.?", "cm^2"),
        (r"\bsq(?:uare|\.)?[\s.]*(?:met(?:re|er)s?|m)\b\.?", "m^2"),
        (r"\bcf\b", "ft^3"),
        (r"\bppg\b", "lb/gal"),
        (r"\bpcf\b", "lb/ft^3"),
        (r"\b(us)?gpm\b", "gal/min"),
        (r"\bcfm\b", "ft^3/min"),
        (r"\blpm\b", "l/min"),
        (r"\bscfb\b", "scf/bbl"),
        (r"^(k|m|mm|)b(?:o|w|f|l)?pd$", r"\1bbl/day"),
        (r"^(k|m|mm|)(stb|bbl)(?:p)?d$", r"\1\2/day"),
        (r"^(k|m|mm|b|)s?cf(?:p)?d$", r"\1scf/day"),
        (r"^(k|m|mm|b|)s?cf(?:p)?h$", r"\1scf/hour"),
        (r"^(t|mt)pd$", "t/day"),
        (r"^tph$", "t/hour"),
        (r"\b([ns])cm(d|h)\b", r"\1m^3/\2"),
    )
)
"""Spellings of several words, and whole words for a quotient, as atoms."""

_TOKEN = re.compile(r"\s*(?:(?P<atom>[A-Za-z°µμ]+(?:2O)?(?:Hg)?)(?:\^?(?P<power>-?\d))?|(?P<mark>[/*.()\-]))|\s*$")
_GAUGE = re.compile(r"^(?P<base>.*?[\w²)])[\s_\-]*\(?(?P<suffix>abs(?:olute)?|gauge|gage|[ag])\)?$", re.IGNORECASE)


def _atom(text: str, kind: str) -> tuple[str, float]:
    """Return pint's unit of an atom and a factor. Raises QuantityError where it is none, or more than one."""
    small = text.casefold()
    if text in EXACT:
        if text == "mPa" and kind == "pressure":
            raise QuantityError(AMBIGUOUS["mpa"].format(unit=text))
        if text in ("MPa", "MPA") and kind == "dynamic_viscosity":
            raise QuantityError(f"'{text}' is a megapascal; write mPa*s or cP for a viscosity")
        return EXACT[text], 1.0
    if small == "mpa" and kind == "dynamic_viscosity":
        return "millipascal", 1.0
    if small == "mb" and kind == "pressure" and text[0] == "m":
        return "millibar", 1.0
    if text in ("MB", "Mb") and kind in ("volume", "volume_rate", "actual_rate"):
        return ATOMS["bbl"], 1e3
    for spelling in (text, small):
        if spelling in AMBIGUOUS:
            raise QuantityError(AMBIGUOUS[spelling].format(unit=text))
    if small in ATOMS and not (text == "Mt" and kind in ("mass", "mass_rate")):
        return ATOMS[small], 1.0
    if text == "Mt":
        return "metric_ton", 1e6
    if small == "kpsi":
        return "psi", 1e3
    trade = _TRADE.match(text)
    if trade:
        prefix, base = trade.group(1), trade.group(2)
        unit = ATOMS.get({"cf": "scf", "cuft": "scf", "ft^3": "scf"}.get(base.casefold(), base.casefold()))
        if prefix == "m":
            raise QuantityError(f"'{text}' has two readings; write M{base} for a thousand or MM{base} for a million")
        thousand = 1e6 if base.casefold() in _METRIC else 1e3
        factor = {"mm": 1e6, "m": thousand, "k": 1e3, "b": 1e9}[prefix.casefold()]
        if unit is not None:
            return unit, factor
    raise QuantityError("")


def _tokens(text: str) -> Iterator[tuple[str, int] | str]:
    at = 0
    while at < len(text):
        found = _TOKEN.match(text, at)
        if found is None or found.end() == at:
            raise QuantityError("")
        at = found.end()
        if found["atom"]:
            yield found["atom"], int(found["power"] or 1)
        elif found["mark"]:
            yield found["mark"]


def _product(text: str, kind: str, far: bool) -> Any:
    """Return a quantity of one of the unit; ``far`` tells that a stroke divides by all that follows."""
    known = registry()
    total, sign, depth = known.Quantity(1.0), 1, 0
    inside = [1]
    for token in _tokens(text):
        if isinstance(token, str):
            if token == "/":
                if sign < 0 and far:
                    raise QuantityError("")
                sign = -1
            elif token == "(":
                inside.append(sign * inside[-1])
                sign, depth = 1, depth + 1
            elif token == ")":
                if depth == 0:
                    raise QuantityError("")
                inside.pop()
                sign, depth = 1, depth - 1
            continue
        atom, power = token
        meant = (
            _volume_atom(f"{atom}^3", kind, sign * inside[-1])
            if power == 3
            else _volume_atom(atom, kind, sign * inside[-1])
        )
        if meant and power == 3:
            power = 1
        if kind == "heating_value" and meant in ("ft^3", "m^3"):
            meant, power = meant[:-2], 3 * power
        unit, factor = _atom(meant or atom, kind)
        total = total * known.Quantity(factor, unit) ** (power * sign * inside[-1])
        if not far or depth:
            sign = 1
    if depth:
        raise QuantityError("")
    return total


GAS = ("amount", "molar_rate", "gas_rate", "gas_oil_ratio")
LIQUID = ("volume", "volume_rate", "density", "mass", "mass_rate")


def _volume_atom(text: str, kind: str, side: int) -> str:
    """Return the atom meant by a volume, whole with its power, by what is measured: of gas above, of liquid below.
    Nothing where it is an atom as any other.

    A gas-oil ratio by volume is one of volumes at the same conditions, those of stock-tank liquids.
    """
    small = text.casefold()
    if small in ("gr", "grs") and kind == "water_content":
        return "#grain"  # of a gas's water it is a grain
    if kind == "heating_value" and small in ("scf", "scuft", "sm^3", "scm"):
        return "ft^3" if small.startswith("scf") or small == "scuft" else "m^3"
    if small in _METRIC:
        if kind in LIQUID or (kind == "gas_oil_ratio" and side < 0):
            return "kl" if small.startswith("s") else ""
        return "#gas" if kind == "gas_oil_ratio" and small.startswith("s") else small
    if kind in GAS and side > 0:
        if small == "ft^3":
            return "scf"
        if small == "m^3" and kind == "gas_oil_ratio":
            return "#gas"
    return text if _TRADE.match(text) else ""


def _factor(text: str, kind: str) -> float:
    """Return SI per unit for a unit without an offset. Raises QuantityError, with nothing to say where it is no
    unit."""
    known = KINDS[kind]
    for pattern, replacement in _WORDS:
        text = pattern.sub(replacement, text.strip())
    if not text or text[0] in "-*./)" or text[-1] in "-*/(":
        raise QuantityError("")  # an operator with nothing on one side, such as the minus of "5- bar"
    refusal = ""
    under = re.match(r"^1\s*/\s*(?=\D)", text)
    for far in (False, True):
        try:
            found = _product(text[under.end() :], kind, far) ** -1 if under else _product(text, kind, far)
            return float(found.to(known.si).magnitude)
        except QuantityError as error:
            refusal = refusal or str(error)
        except Exception:  # pint raises many kinds; all mean that the unit does not fit
            continue
    raise QuantityError(refusal)


_TEMPERATURE = re.compile(
    r"^(?:°|o(?=[cfkr]$)|deg(?:ree)?s?)?[\s.\-_]*(?P<name>c|f|k|r|ra|celsius|centigrade|fahrenheit|kelvin|rankine)\s*°?$",
    re.IGNORECASE,
)
_DELTA = re.compile(r"^(?:delta[\s_]*|[Δ∆][\s_]*)", re.IGNORECASE)
_SCALES = {
    "c": Scale(1.0, 273.15),
    "f": Scale(5.0 / 9.0, 459.67 * 5.0 / 9.0),
    "k": Scale(1.0),
    "r": Scale(5.0 / 9.0),
}
_API = re.compile(r"^(?:°|deg(?:ree)?s?[\s.]*)?\s*api(?:\s*gravity)?(?:\s*(?:at|@)?\s*60\s*°?\s*f)?$", re.IGNORECASE)
_SG = re.compile(
    r"^(?:s\.?g\.?|sp\.?\s*gr?\.?|spgr|specific gravity|rel(?:ative)?\.?\s*dens(?:ity)?\.?|d)?\s*(?:60\s*°?\s*f?\s*/\s*60\s*°?\s*f?)?$",
    re.IGNORECASE,
)
_AT_STANDARD = re.compile(r"\s*(?:at|@)\s*(?:15\s*°?\s*c|15\.6\s*°?\s*c|60\s*°?\s*f)$", re.IGNORECASE)
_SHARES = re.compile(
    r"^(?P<of>(?:mol|mole|molar|wt|weight|mass|vol|volume)?[\s\-.]*)(?P<unit>%|percent|per cent|pct|ppm[vwm]?|ppb[vwm]?|frac(?:tion)?)?$",
    re.IGNORECASE,
)


@lru_cache(maxsize=4096)
def scale_of(unit: str, kind: str) -> Scale:
    """Return the scale of a unit as people write it. Raises QuantityError; its message is empty where the unit is
    unknown."""
    text = plain(unit)
    if kind in ("temperature", "temperature_difference"):
        return _temperature(text, kind == "temperature_difference")
    if kind == "fraction":
        return _share(text)
    if kind == "density":
        if _API.match(text):
            return Scale(WATER_DENSITY_60F, inverse=True)
        if text and _SG.match(text):
            return Scale(WATER_DENSITY_60F)
        text = _AT_STANDARD.sub("", text)
    if kind == "molar_mass":
        if text.casefold() in ("da", "dalton", "daltons", "amu", "u"):
            return Scale(1e-3)
        if re.fullmatch(r"(lb|lbs|lbm|pounds?)\s*/\s*mole?s?", text, re.IGNORECASE):
            raise QuantityError(f"'{unit}' has two readings; write lb/lbmol (the same number as g/mol)")
    if kind == "gas_oil_ratio" and text.casefold() in ("v/v", "vol/vol"):
        text = "m^3/m^3"
    text = text.rstrip(" .") if len(text) > 1 else text
    text = re.sub(r"\bp\.?s\.?i\.?(a|g)?\.?(?![a-z])", r"psi\1", text, flags=re.IGNORECASE)
    if not text:
        raise QuantityError("")
    if kind == "power" and text == "MW":
        return Scale(1e6)
    if kind == "pressure_gradient":
        # Gradients are told by a hundred feet or a thousand metres.
        hundred = re.fullmatch(
            r"(?P<of>.*?)/\s*\(?\s*(?P<count>1000|100|10)\s*(?P<rest>ft|feet|m)\)?", text, re.IGNORECASE
        )
        if hundred:
            return Scale(scale_of(f"{hundred['of']}/{hundred['rest']}", kind).factor / float(hundred["count"]))
    if kind in ("compressibility", "pressure_gradient"):
        text = re.sub(r"\bpsi[ag]\b", "psi", text, flags=re.IGNORECASE)  # a difference has no zero
    if kind == "pressure":
        return _pressure(text)
    return Scale(_factor(text, kind))


def _temperature(text: str, difference: bool) -> Scale:
    if difference:
        text = _DELTA.sub("", text)
    match = _TEMPERATURE.match(text.rstrip("."))
    if match is None:
        raise QuantityError("")
    scale = _SCALES["r" if match["name"][:2].casefold() == "ra" else match["name"][0].casefold()]
    return Scale(scale.factor) if difference else scale


def _share(text: str) -> Scale:
    match = _SHARES.match(text.rstrip(".")) if text not in ("-",) else None
    if text in ("", "-"):
        return Scale(1.0)
    if match is None or not match["unit"]:
        raise QuantityError("")
    name = match["unit"].casefold()
    return Scale(
        1e-6 if name.startswith("ppm") else 1e-9 if name.startswith("ppb") else 1.0 if name.startswith("frac") else 0.01
    )


_WATER = {"inH2O": 249.0889, "ftH2O": 12.0 * 249.0889, "mmH2O": 9.80665, "cmH2O": 98.0665, "mH2O": 9806.65}
"""Pa. Columns of water of 1000 kg/m3 (4 °C); the inch of water is that of ISO 80000-4, annex C."""


def _pressure(text: str) -> Scale:
    """Return the scale of a pressure; the gauge's zero is at one standard atmosphere."""
    refusal = ""
    vacuum = re.match(r"^(?P<base>.*\S)\s+(?:of\s+)?vac(?:uum)?\.?$", text, re.IGNORECASE)
    if vacuum:
        # So far below the atmosphere.
        return Scale(-_pressure(vacuum["base"]).factor, ATM)
    forms = [(text, "")]
    suffixed = _GAUGE.match(text)
    if suffixed:
        forms.append((suffixed["base"], suffixed["suffix"][0].casefold()))
    for base, suffix in forms:
        words = base
        for pattern, replacement in _WORDS:
            words = pattern.sub(replacement, words.strip())
        if re.search(r"[\s.]w\.?\s*g\.?$|inwg$|mmwg$|cmwg$", base, re.IGNORECASE):
            suffix = suffix or "g"  # a water gauge reads from the atmosphere
        column = next((f for name, f in _WATER.items() if words.casefold() == name.casefold()), None)
        try:
            # A kilogram upon a square centimetre is a kilogram-force there, and so is a pound upon a square inch.
            weight = re.sub(r"^kgs?\b(?=\s*/\s*cm)", "kgf", words, flags=re.IGNORECASE)
            weight = re.sub(r"^(?:lbs?|pounds?)\b(?=\s*/\s*in)", "lbf", weight, flags=re.IGNORECASE)
            factor = column if column is not None else _factor(weight, "pressure")
        except QuantityError as error:
            refusal = refusal or str(error)
            continue
        return Scale(factor, ATM if suffix == "g" else 0.0)
    raise QuantityError(refusal)
