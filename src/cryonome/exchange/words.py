"""Words of headers, titles and lines of lab sheets in English, German, French, Spanish and Portuguese, and the units
beside them.

Patterns are matched against :func:`~.entries.folded` text. One word list a concept: a language or a laboratory's own
word is added here and is known everywhere."""

from __future__ import annotations

import re
from functools import lru_cache

from ..units import KINDS, QuantityError, fits, normal_unit
from .entries import FOOTNOTE, folded

CONCEPTS: dict[str, str] = {
    "pressure": r"press|druck|presion|presssao|pressao|\bp\b(?!\s*(?:%|-))|\bp[,_ ]?(?:res|sep)\b|\bpsi[ag]?\b|\bbar[ag]?\b|\bmpa\b|\bkpa\b|давлени",
    "temperature": r"temp|\bt\b|siede(?!beginn|ende)|ebull|boiling|\btbp\b|\bnbp\b|°\s*[cfkr]\b|\bdeg\.?\s*[cfkr]\b|d-?\s?86|d-?\s?1160|d-?\s?2887|d-?\s?2892|\befv\b|sim\.?\s?dis|температур|кипени",
    "percent": r"distill|destil|distille|\bdist\b|recover|recuper|recueilli|recolhid|\brec\b|evapor|verdampf|verdunst|vaporis|vaporiz|\boff\b|cumul|kumul|acumul|ubergegangen|uberdestill|"
    r"%|percent|prozent|pourcent|porcent|\blv\b|vol\.?-?%|fraction|fraccion|fracao|anteil|volumen recogido|отгон|выход|перегон",
    "name": r"^(?:the )?(?:component|komponente|constituant|constituent|componente|compuesto|compose|bestandteil|stoff|species|substance|compound|group|gruppe|grupo|groupe|scn|carbon ?(?:no|num|group)|"
    r"name|fraction|element|elemento|analyte|corps|cn|c ?no|c-zahl|компонент|вещество)",
    "molar_mass": r"mol(?:ecular|ekular|eculaire|ar|aire|are|es?)?[\s.-]*(?:weight|wt|w\b|mass|masse|gewicht)|\bmw\b|\bm\.w|^mol\.? ?wt|molmasse|masses? molaires?|masses? molecul|pes[oa]s? molecul|mas+as? mola|mas+as? molecul|^m$|^m[, (]|^mm\b|\bmolwt\b|молекулярная масса|молярная масса|мол\.? ?масса",
    "density": r"dens|dicht|gravity|gravedad|\bs\.?g\.?\b|\bsp\.? ?gr|masses? volumiques?|massa especifica|peso especifico|\brho\b|^ρ|\bapi\b|\brd\b|relative d|\bd15\b|\bd 15\b|\bd4\b|плотност",
    "viscosity": r"visc|viskos|\bkv\b|\bmu\b|\bnu\b|вязкост",
    "mid": r"\bmid|mittel|milieu|mitte\b|medio|\bavg|average",
    "yield": r"yield|ausbeute|rendement|rendimiento|rendimento|per cut|of cut|interval|increment|differential|individual",
    "cumulative": r"cumul|\bcum\b|kumul|acumul|summe|total",
    "injected": r"inject|gas added|added gas|gas dissolved|solvent|inyect|mol(?:e?s?)? (?:of )?gas|gas \(?mol|\bgas\b.*(?:mol|added)",
    "saturated": r"satur|sattigung|bubble|dew|burbuj|burbuja|rocio|bulle|rosee|bolha|orvalho|taupunkt|siedepunkt|\bp?[bd]\b|\bp[bd]\b|\bpsat\b|\bpsaturation\b|\bbpp\b|\bpd\b|\bpb\b|насыщени",
    "stage": r"stage|stufe|etapa|etage|\bsep(?:arator)?\b|estagio",
    "unit": r"^(?:unit|units|einheit|einheiten|unite|unites|unidad|unidades|unidade|uom|eng\.? unit)s?$",
}

_CONCEPTS = {name: re.compile(pattern) for name, pattern in CONCEPTS.items()}


@lru_cache(maxsize=8192)
def means(text: str, concept: str) -> bool:
    """Tell whether a text names a concept of :data:`CONCEPTS`."""
    return bool(text) and _CONCEPTS[concept].search(folded(text)) is not None


LINE_WORDS: tuple[tuple[str, str], ...] = (
    (
        "name",
        r"sample(?: ?(?:name|id|no\.?|description|identification))?|name|probe(?:nname|nbezeichnung)?|muestra|amostra|echantillon|stream|strom|corriente|corrente|fluid|product|produkt|producto|produit|produto|crude|bezeichnung|"
        r"sample name|material|designation|identification",
    ),
    (
        "method",
        r"(?:test |assay )?method|methode|metodo|norm|norma|norme|standard|procedure|verfahren|prufverfahren|essai",
    ),
    ("basis", r"basis|base|grundlage"),
    ("note", r"notes?|remarks?|comments?|bemerkung(?:en)?|observaciones|remarque"),
)
"""Words of a line that names something, folded; what the lines of quantities say is found by :func:`means`."""

_LINE_WORDS = tuple((name, re.compile(rf"(?:{pattern})\s*:?")) for name, pattern in LINE_WORDS)

_PLACES = re.compile(
    r"(?:well|bohrung|pozo|puits|poco|field|feld|campo|champ|station|location|site|ort|lab(?:or(?:atory|atorio|atoire|atorium)?)?|client|customer|company|operator|date|datum|fecha|data|report|bericht|"
    r"informe|cylinder|bottle|flasche|instrument|analyst|operador|sampl(?:ing|ed)|sampled? (?:point|date|by)|sample (?:point|type|date|source)|prepared|pages?|tank|reservoir$|job|ref|unit|depth|"
    r"ponto|punto|point|project|issued|revision|order|batch|lot|source|origin|herkunft|entnahme)\b"
)


def line_word(text: str) -> str:
    """Return what the word of a line names (``name``, ``method``, ``basis``, ``note``, ``place``: who, where and
    when), "" for another."""
    words = folded(text).rstrip(" :")
    for name, pattern in _LINE_WORDS:
        if pattern.fullmatch(words):
            return name
    return "place" if _PLACES.match(words) else ""


METHODS: tuple[tuple[str, str], ...] = (
    ("D1160", r"d\s?-?\s?1160"),
    (
        "D2887",
        r"d\s?-?\s?(?:2887|7169|7213|6352|7500)|sim(?:ulated|\.|uliert\w*)?\s?-?\s?dis(?:t|\b|\.|till)|simdis|destillation simul|distillation simul|destilacion simul|iso 3924|ip ?406",
    ),
    ("D86", r"d\s?-?\s?86\b|iso 3405|ip ?123"),
    ("TBP", r"\btbp\b|d\s?-?\s?2892|d\s?-?\s?5236|true boiling"),
    ("EFV", r"\befv\b|equilibrium flash|flash vaporis|flash vaporiz"),
)

_METHODS = tuple((name, re.compile(pattern)) for name, pattern in METHODS)


def method_of(text: str) -> str:
    """Return the distillation method a text names, "" for none."""
    words = folded(text)
    return next((name for name, pattern in _METHODS if pattern.search(words)), "")


ATMOSPHERIC = re.compile(
    r"\baet\b|\baebp\b|atmospheric equiv|atm\.? equiv|equivalente? atmosf|at 760 ?mm|corrected to 760|\b760 ?mm"
)
"""Words for temperatures that are given as at one atmosphere."""

_MASS = re.compile(
    r"масс|\bw(?:eigh)?t\b|weight|\bmass(?:e|a|en)?\b|massique|\bmas+as?\b|\bpes[oa]s?\b|poids|\bgew\b|gewicht|\bm/m\b|\bw/w\b|\bma\.?\s?-?\s?%|\bm\.?-?%|\bm\s%|\bmg/kg|ppm\s?\(?(?:w\b|m/m|wt|mass)|\bg/100 ?g|\b%\s?m\b|massen"
)
_MOLE = re.compile(
    r"\bмол|\bmol(?:e|es|s)?\b|mol[\s.-]*%|molar(?:es)?\b|molaires?|mol/mol|\bmol\.?-?ant|molenbruch|molprozent|stoffmenge|\bn/n\b|ppm\s?\(?(?:v\b|mol)|molefraction|"
    r"^[xyz]i?$|^[xyz]i?[\s,(]|\bmole?frac|\b(?:frac|fraction) of mole|\bmol-"
)
_VOLUME = re.compile(
    r"\bоб\b|объем|\bvol(?:ume|umen|umes|umique|\.)?\b|\bvol[\s.-]*%|\blv\b|\bl\.v\b|\blvp?c?\b|\bv/v\b|liq(?:uid)?\.? ?vol|volumen|volum|\bv\.?-?%|\bv\s%|raumteil|liq\.?\s?%"
)


@lru_cache(maxsize=4096)
def basis_of(text: str) -> str:
    """Return the basis of amounts that a text names: ``mole``, ``mass``, ``volume``, "" for none."""
    words = folded(text)
    words = re.sub(CONCEPTS["molar_mass"].replace("^m$|^m[, (]|", ""), " ", words)
    for basis, pattern in (("mole", _MOLE), ("mass", _MASS), ("volume", _VOLUME)):
        if pattern.search(words):
            return basis
    return ""


def says_liquid(text: str) -> bool:
    """Tell whether a text names volumes of liquid: LV %, liquid volume."""
    return re.search(r"\blv\b|\bl\.v\b|liq|flussig|liquide", folded(text)) is not None


AMOUNT = re.compile(
    r"compos|amount|result|resultat|resultad|\bvalue|\bvalor|\bwert|messwert|anteil|gehalt|conc|konz|content|teneur|contenido|concentra|percent|prozent|pour ?cent|porcent|%|cantidad|quantidade|zusammensetz|"
    r"fraction|fraccion|fracao|share|analysis|analyse|analisis|measured|\bppm|mol\b|mole|\bz\b|\bx\b|\by\b|normali[sz]ed|as found|un-?normali[sz]ed"
)
NO_AMOUNT = re.compile(
    r"\bgpm\b|gal/|\bbtu|heat|ghv|ncv|gcv|uncert|incert|unsicher|\bdate\b|limit|\bstd\b|error|rel\.? ?dens|factor|\bk-?val|g/m3|mg/m3|vapou?r press|\btc\b|\bpc\b|omega|rsd|repeat|method|remark|\bcas\b|boiling|\bnbp\b|retention|area|peak"
)


# -- units
# ----------------------------------------------------------------------------------------------------------------

_GAUGE_WORDS = re.compile(
    r"\b(?:man(?:o(?:metrica?|metrique)?)?\.?|gauge|gage|relat(?:iv|iva|ive|if)?|rel\.?|efectiva|eff?\.?|uberdruck|ue|u)\b\.?"
)
_ABS_WORDS = re.compile(r"\b(?:abs(?:olut[aeo]?|olute)?\.?)\b\.?")
_NOT_UNIT = re.compile(
    r"\b(?:of )?(?:residual oil|residual|res\.? oil|stock tank oil|tank oil|sto|oil|air ?= ?1(?:\.0+)?|std|of mixture|of oil)\b"
)


@lru_cache(maxsize=8192)
def unit_in(text: str, *kinds: str) -> str:
    """Return the unit that a header names of one of some kinds of quantity, in the program's spelling, "" where it
    names none."""
    bound, loose = _pieces(text)
    for piece in (*bound, *(p for p in loose if _may_be_unit(p, text))):
        for kind in kinds:
            unit = as_unit(piece, kind)
            if unit:
                return unit
    return ""


_WORDS_TOO = frozenset(("at", "in", "a", "b", "d", "s", "h", "m", "g", "l", "t", "p", "n", "of", "to", "st"))
"""Units that are words or letters of plain text as well: units only where they stand in brackets or behind a comma."""

_OF_TEMPERATURES = re.compile(
    r"temp|boil|bp\b|point|punt|ponto|tbp|^t\b|\bt[ ,_]|d-?\s?\d{2,4}|efv|dist|dest|siede|ebull|sim"
)


def _may_be_unit(piece: str, text: str) -> bool:
    """Tell whether some words of a header, in no brackets, can be its unit; a single letter only beside a word for
    temperatures."""
    words = piece.strip(" .:;=").casefold()
    if words in _WORDS_TOO:
        return False
    return (
        words not in ("c", "f", "k", "r") or words == folded(text) or _OF_TEMPERATURES.search(folded(text)) is not None
    )


@lru_cache(maxsize=8192)
def as_unit(piece: str, kind: str) -> str:
    """Return a text as a unit of a kind where it is one, else ""."""
    text = piece.strip("[]{} .:;,=")
    while text[:1] == "(" and text[-1:] == ")":
        text = text[1:-1].strip()
    if text.count("(") != text.count(")"):
        text = text.strip("()")
    if not text or len(text) > 40:
        return ""
    if kind in ("fraction", ""):
        return ""
    if kind == "temperature":
        degrees = re.fullmatch(
            r"(?:°|º|o|deg(?:rees?)?\.?|grad)?\s*(celsius|fahrenheit|kelvin|rankine|[cfkr])\b\.?", text, re.IGNORECASE
        )
        if degrees is not None:
            return {"c": "degC", "f": "degF", "k": "K", "r": "degR"}[degrees.group(1)[0].casefold()]
        return ""
    words = folded(text)
    if kind == "pressure":
        words = re.sub(r"\(?ü\)?$", " u", text.casefold().strip()) if words.endswith(("u", "u)")) else words
        gauge, absolute = _GAUGE_WORDS.search(words), _ABS_WORDS.search(words)
        bare = _ABS_WORDS.sub("", _GAUGE_WORDS.sub("", words)).strip(" ().")
        if (gauge or absolute) and bare:
            text = f"{bare}({'g' if gauge else 'a'})"
            text = next((k for k in (text, text.replace("mpa", "MPa")) if _fits(k, kind)), text)
            for small, large in (("mpa", "MPa"), ("kpa", "kPa")):
                text = text.replace(small, large)
        elif words.startswith("mpa"):
            text = text.replace("MPA", "MPa")
    if kind == "density" and words in (
        "sg",
        "s.g.",
        "sp gr",
        "sp. gr.",
        "60/60",
        "sg 60/60",
        "60/60 °f",
        "60/60f",
        "60/60 f",
        "rel",
    ):
        return "SG"
    if kind == "density":
        text = re.sub(r"\bcu\.?\s*ft\b", "ft3", text, flags=re.IGNORECASE)
    text = _NOT_UNIT.sub("", text) if _NOT_UNIT.search(folded(text)) else text
    if kind == "gas_oil_ratio":
        text = re.sub(r"\s*(?:STO|sto)\b", "", text)
    text = text.strip()
    if len(text) == 1 and kind not in ("temperature",):
        return ""
    return normal_unit(text, kind) if text and _fits(text, kind) else ""


def _fits(unit: str, kind: str) -> bool:
    if kind not in KINDS:
        return False
    try:
        return fits(unit, kind)
    except QuantityError:
        return False


@lru_cache(maxsize=8192)
def _pieces(text: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the parts of a header that may be its unit, the more telling first: what stands in brackets or behind
    the last comma, and its words."""
    plain = text.replace("º", "°")
    # A unit whose gauge or absolute stands in brackets of its own: bar(ü), psi (g).
    out: list[str] = [
        f"{a}({b})"
        for a, b in re.findall(r"([A-Za-z/²2]+)\s?[(\[](g|a|abs\.?|gauge|gage|ü|man\.?)[)\]]", plain, re.IGNORECASE)
    ]
    out += re.findall(r"[(\[{]([^()\[\]{}]*(?:\([^()]*\))?[^()\[\]{}]*)[)\]}]", plain)[::-1]
    if "(" in plain:
        out.append(plain[plain.index("(") + 1 :].rstrip(") "))
    if "[" in plain:
        out.append(plain[plain.index("[") + 1 :].rstrip("] "))
    if "," in plain:
        out.append(plain.rpartition(",")[2])
    out += re.findall(r"°\s*[CFKR]\b", plain)
    bare = FOOTNOTE.sub("", re.sub(r"[(\[{][^)\]}]*[)\]}]", " ", plain))
    words = [w for w in re.split(r"[\s,;:|_]+", bare) if w]
    loose = [" ".join(words[k : k + size]) for size in (4, 3, 2, 1) for k in range(len(words) - size, -1, -1)]
    bound = tuple(dict.fromkeys(p.strip() for p in out if p.strip()))
    return bound, tuple(dict.fromkeys(p.strip() for p in loose if p.strip()))


TEMPERATURE = re.compile(
    r"(?<![A-Za-z\d.,])(?P<number>[-−–+]?\d+(?:[.,]\d+)?)\s*(?P<unit>(?:°|º|deg(?:rees?)?\.?\s?|degrés?\s?|grad\s)\s*(?P<a>[CFKR])(?![a-z])|(?P<b>[CFK])(?![\w'’/]))",
    re.IGNORECASE,
)
_PRESSURE_UNITS = r"psi\s?\(?[ag]?\)?|psi[ag]|bar\s?\(?[ag]?\)?|bar[ag]|mbar|MPa\s?\(?(?:abs|[ag])?\)?|kPa\s?\(?(?:abs|[ag])?\)?|hPa|Pa|mm\s?Hg|torr|atm|in\.?\s?Hg|kg[f]?/cm[2²]\s?\(?(?:man|abs|[ag])?\.?\)?"
PRESSURE = re.compile(
    rf"(?P<number>\d[\d.,\u00a0\u202f' ]*\d|\d)\s*(?P<unit>{_PRESSURE_UNITS})(?![\w])(?P<more>\s*(?:abs|gauge|absolute|man)\b\.?)?",
    re.IGNORECASE,
)


def names_temperature(text: str) -> bool:
    """Tell whether a cell of a header is a temperature and not a value: at 140 °F, 150 °F."""
    found = TEMPERATURE.search(text)
    return found is not None and len(text) - len(found.group()) <= 14


@lru_cache(maxsize=2048)
def is_unit_word(text: str) -> bool:
    """Tell whether a cell holds a unit and nothing else."""
    words = folded(text).strip("()[] ")
    if words in (
        "",
        "-",
        "–",
        "%",
        "fraction",
        "frac",
        "air=1",
        "air = 1",
        "wt%",
        "mol%",
        "vol%",
        "mass%",
        "ppm",
        "v/v",
        "v/vsat",
        "mole %",
        "mol %",
        "wt %",
        "vol. %",
        "vol.-%",
        "mol-%",
        "gew.-%",
        "lv%",
        "% vol",
        "% v/v",
        "% m/m",
        "c",
        "f",
        "k",
        "(1)",
        "(2)",
    ):
        return True
    if basis_of(text) and "%" in text and len(words) <= 10:
        return True
    return any(
        as_unit(text, kind)
        for kind in ("temperature", "pressure", "density", "molar_mass", "dynamic_viscosity", "kinematic_viscosity", "gas_oil_ratio", "compressibility", "heating_value")
    )  # fmt: skip


def is_unit_row(cells: list[str]) -> bool:
    """Tell whether a row of a header holds units."""
    return bool(cells) and all(is_unit_word(c) or names_temperature(c) for c in cells)
