"""Names of components and carbon groups as laboratories write them: IUPAC and trade names, formulas, short forms, in
five languages.

A name is folded (no capitals, accents, spaces, hyphens; lowered figures as figures) and looked up; what is no
component may be a carbon group (``C7``, ``SCN 7``, ``Heptanes``, ``Heptanes plus``), a class (``Butanes``, ``C6
paraffins``) or a total."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from functools import cache, lru_cache

from .component import Component
from .databank import all_components

STEMS = (
    "meth", "eth", "prop", "but", "pent", "hex", "hept", "oct", "non", "dec", "undec", "dodec", "tridec", "tetradec", "pentadec", "hexadec", "heptadec",
    "octadec", "nonadec", "eicos", "heneicos", "docos", "tricos", "tetracos", "pentacos", "hexacos", "heptacos", "octacos", "nonacos", "triacont",
)  # fmt: skip
"""Stems of the alkanes by carbon number, from 1."""

OTHER_STEMS = {
    "icos": 20,
    "kos": 20,
    "undek": 11,
    "dek": 10,
    "dodek": 12,
    "hendec": 11,
    "et": 2,
    "met": 1,
    "eikos": 20,
    "okt": 8,
    "tetradek": 14,
    "tridek": 13,
}

ROMANCE = ("et", "met")
"""Stems that stand before the endings of other languages alone: metano, etano."""

ENDINGS = ("anes", "anos", "ane", "ano", "ans", "anen", "an", "anas")

OTHERS: dict[str, str] = {
    "nitrogen": "n2 stickstoff azote diazote nitrogeno nitrogenio azoto", "oxygen": "o2 sauerstoff oxygene dioxygene oxigeno oxigenio",
    "argon": "ar argon", "hydrogen": "h2 wasserstoff hydrogene dihydrogene hidrogeno hidrogenio", "helium": "he helium helio",
    "carbon monoxide": "co kohlenmonoxid kohlenstoffmonoxid monoxydedecarbone monoxidodecarbono",
    "carbon dioxide": "co2 kohlendioxid kohlenstoffdioxid kohlensaure dioxydedecarbone gazcarbonique anhydridecarbonique dioxidodecarbono anhidridocarbonico gascarbonico bioxidodecarbono",
    "hydrogen sulfide": "h2s schwefelwasserstoff hydrogenesulfure sulfuredhydrogene sulfurodehidrogeno acidosulfhidrico gassulfidrico sulfetodehidrogenio hydrogensulphide hydrogensulfid acidosulfidrico",
    "carbonyl sulfide": "cos carbonylsulphide carbonylsulfid kohlenoxidsulfid oxysulfuredecarbone sulfurodecarbonilo", "sulfur dioxide": "so2 schwefeldioxid dioxydedesoufre dioxidodeazufre sulphurdioxide dioxidodeenxofre",
    "water": "h2o wasser eau agua watervapour watervapor steam moisture", "methyl mercaptan": "mesh ch3sh ch4s methanethiol methylmercaptan methylmercaptane",
    "methane": "c1", "ethane": "c2", "propane": "c3", "isobutane": "2methylpropane isobutane", "isopentane": "2methylbutane", "neopentane": "neoc5 22dimethylpropane neopentan",
    "ethylene": "c2= ethene ethylen ethen etileno ethylene", "propylene": "c3= propene propylen propen propileno", "acetylene": "ethyne acetylen acetileno", "1-butene": "but1ene 1c4= butene1 1buten",
    "isobutene": "ic4= isobutylene 2methylpropene isobuten", "trans-2-butene": "t2c4= trans2buten tbutene2 transbutene2", "cis-2-butene": "c2c4= cis2buten cbutene2 cisbutene2", "1,3-butadiene": "butadiene 13c4h6 13butadien",
    "benzene": "bz benzol benceno benzeno benzen", "toluene": "tol toluol tolueno methylbenzene toluen", "ethylbenzene": "eb etbenzene ethylbenzol etilbenceno etilbenzeno",
    "o-xylene": "ox oxylol orthoxylene oxileno", "m-xylene": "mx mxylol metaxylene mxileno", "p-xylene": "px pxylol paraxylene pxileno",
    "cyclopentane": "cyclopentan cyc5 cp ciclopentano", "cyclohexane": "cyclohexan cyc6 ch ciclohexano", "methylcyclopentane": "mcp mcyc5 mecyclopentane mecyc5 methylcyclopentan metilciclopentano",
    "methylcyclohexane": "mch mcyc6 mecyclohexane mecyc6 methylcyclohexan metilciclohexano", "methanol": "meoh methanol methylalcohol metanol", "ethanol": "etoh", "ethylene glycol": "meg monoethyleneglycol",
    "2-methylpentane": "2mp 2mc5 2methylpentan", "3-methylpentane": "3mp 3mc5", "2,2-dimethylbutane": "22dmb 22dmc4", "2,3-dimethylbutane": "23dmb 23dmc4",
}  # fmt: skip
"""Names of components in other words and languages, folded, apart by spaces."""

CYRILLIC = {
    "азот": "nitrogen", "кислород": "oxygen", "водород": "hydrogen", "гелии": "helium", "аргон": "argon", "вода": "water", "сероводород": "hydrogen sulfide", "диоксидуглерода": "carbon dioxide",
    "двуокисьуглерода": "carbon dioxide", "углекислыигаз": "carbon dioxide", "оксидуглерода": "carbon monoxide", "метан": "methane", "этан": "ethane", "пропан": "propane", "бензол": "benzene", "толуол": "toluene",
    "изобутан": "isobutane", "ибутан": "isobutane", "нбутан": "n-butane", "бутан": "n-butane", "изопентан": "isopentane", "ипентан": "isopentane", "нпентан": "n-pentane", "пентан": "n-pentane",
    "неопентан": "neopentane", "гексан": "n-hexane", "нгексан": "n-hexane", "гептан": "n-heptane", "нгептан": "n-heptane", "октан": "n-octane", "ноктан": "n-octane", "метанол": "methanol", "этилен": "ethylene", "пропилен": "propylene",
}  # fmt: skip
"""Names of components in Russian, folded."""

CYRILLIC_GROUPS = {"бутаны": 4, "пентаны": 5, "гексаны": 6, "гептаны": 7, "октаны": 8, "нонаны": 9, "деканы": 10}

TOTALS = re.compile(
    r"^(sub ?-?)?(totals?|sums?|summe|gesamt(summe)?|somme|suma|soma|σ|Σ|total general|totaux|totais|totales|zusammen|add(ition)?|all|итого|сумма|всего)\b(?!.*\bplus\b)",
)

_CARBON = re.compile(
    r"^(?:pseudo[\s-]*|fraction\s+|grupo\s+|groupe\s+)?(?:f|scn|cn|c|nc|carbon (?:number|no\.?)|grp)\s*-?\s*c?(\d{1,3})\s*(?P<end>.*)$"
)
_PLUS = re.compile(
    r"^[\s-]*(\+|p$|выше|и выше|plus\b|and (?:heavier|higher|above|plus)|& ?(?:heavier|higher|above)|(?:et|y|e|und) ?(?:plus|superieurs?|superiores|superieures|mas|mais|hohere?r?|hoher|schwerere?|pesados|lourds|\+)|hoher|heavier|or heavier|superiores|\(plus\)|and over)"
)
_PLAIN = re.compile(
    r"^[\s-]*(s|'s|’s|total|\(total\)|fraction|fract\.?|group|cut|pseudo|isomers|hydrocarbons|hc|all)?[\s.]*$"
)
_CLASS = re.compile(
    r"^[\s-]*(paraffins?|alkanes?|naphthenes?|cycloalkanes?|aromatics?|isoparaffins?|iso-?paraffins?|olefins?|n-?paraffins?|naphthenics?|[pnai])$"
)


@dataclass(frozen=True)
class Named:
    """What a name means: a ``component`` of the databank, else a carbon group of a ``number``, ``plus`` with all that
    is heavier; or a ``total``, of a carbon number where one is named. ``said`` tells in what way a component stands
    for something wider, "" where it is the very one."""

    component: str = ""
    number: int = 0
    plus: bool = False
    total: bool = False
    said: str = ""

    @property
    def label(self) -> str:
        """Return the name in the program's own words."""
        return self.component or f"C{self.number}{'+' if self.plus else ''}"


def folded_name(text: str) -> str:
    """Return a name without capitals, accents, raised figures, spaces, hyphens, dots and footnote marks."""
    text = re.sub(r"[*†‡§]+$", "", text.strip())
    text = unicodedata.normalize("NFKD", unicodedata.normalize("NFKC", text).casefold())
    text = "".join(c for c in text if not unicodedata.combining(c))
    return re.sub(r"[\s\-‐‑‒–—_.,'’()\[\]/&]", "", text)


@cache
def index() -> dict[str, Component]:
    """Return the components by every folded name."""
    by_name = {c.name: c for c in all_components()}
    found: dict[str, Component] = {}
    formulas: dict[str, list[Component]] = {}
    for component in all_components():
        for name in (component.name, component.cas, *component.aliases):
            found.setdefault(folded_name(name), component)
        formulas.setdefault(folded_name(component.formula), []).append(component)
    for name, words in OTHERS.items():
        if name in by_name:
            for word in words.split():
                found.setdefault(word, by_name[name])
    for word, name in CYRILLIC.items():
        found.setdefault(word, by_name[name])
    chains = {_carbon(c): c for c in all_components() if c.family == "n-alkane"}
    branched = {4: "isobutane", 5: "isopentane", 6: "2-methylpentane"}
    for number, component in chains.items():
        found.setdefault(f"nc{number}", component)
        for stem in [STEMS[number - 1], *(s for s, n in OTHER_STEMS.items() if n == number)]:
            for ending in (
                ("ano", "an") if stem in ROMANCE else ("ane", "an", "ano", *(("anes",) if number < 4 else ()))
            ):
                for lead in ("", "n", "normal"):
                    found.setdefault(f"{lead}{stem}{ending}", component)
                if number in branched:
                    for lead in ("i", "iso"):
                        found.setdefault(f"{lead}{stem}{ending}", by_name[branched[number]])
        if number >= 4:
            found.setdefault(f"nc{number}h{2 * number + 2}", component)
        if number in (4, 5, 6):
            found.setdefault(f"ic{number}", by_name[branched[number]])
            found.setdefault(f"isoc{number}", by_name[branched[number]])
            found.setdefault(f"ic{number}h{2 * number + 2}", by_name[branched[number]])
    for formula, components in formulas.items():
        # A formula names a component only where no isomer shares it, or as the straight chain.
        straight = [c for c in components if c.family == "n-alkane"]
        if len(components) == 1 or straight:
            found.setdefault(formula, straight[0] if straight else components[0])
    return found


def _carbon(component: Component) -> int:
    found = re.match(r"C(\d*)H", component.formula)
    return int(found.group(1) or 1) if found else 0


@cache
def _plurals() -> dict[str, int]:
    """Return the carbon number by words that name all isomers of it: butanes, hexanos, Heptane (German)."""
    words: dict[str, int] = {}
    for number, stem in [*((n, s) for n, s in enumerate(STEMS, 1)), *((n, s) for s, n in OTHER_STEMS.items())]:
        if number >= 4:
            for ending in ("anes", "anos", "anen"):
                words[stem + ending] = number
    return words


def known(text: str) -> Component | None:
    """Return the component that a name, alias, formula or CAS number means in any usual way of writing it, or None."""
    return index().get(folded_name(text))


@lru_cache(maxsize=1 << 16)
def named(text: str, plural: bool = False) -> Named | None:
    """Return what a name in a table of components means, None where it is not known.

    ``plural`` tells that the table is in a language whose plural is the English singular (Hexane, Heptane: all of
    that number)."""
    shown = unicodedata.normalize("NFKC", text).strip()
    words = "".join(c for c in unicodedata.normalize("NFKD", shown.casefold()) if not unicodedata.combining(c))
    words = re.sub(r"[‐‑‒–—]", "-", words)
    words = re.sub(r"[*†‡§]+$|\s*\((?:\d|[a-z])\)$", "", words).replace("_", " ")
    words = re.sub(r"\s+", " ", words).strip(" :;")
    if not words or len(words) > 60:
        return None
    if TOTALS.match(words):
        return Named(total=True)
    whole = re.search(r"[\s(]*\b(total|sum|summe|suma|soma|somme)\b\)?$", words)
    if whole is not None and not words.startswith("total"):
        part = named(words[: whole.start()].strip())
        if part is not None and not part.total:
            return Named(number=part.number or _carbon(known(part.component) or all_components()[0]), total=True)
    exact = known(words)
    if exact is not None and not (plural and re.fullmatch(r"(hex|hept|oct|non|dec)ane?", words)):
        return Named(exact.name)
    return _group(words, plural) or _class(words) or _without_note(words, plural)


def _group(words: str, plural: bool) -> Named | None:
    cyrillic = re.match(r"([а-я]+)\s*(.*)$", words)
    if cyrillic is not None and cyrillic.group(1) in CYRILLIC_GROUPS:
        heavier = re.search(r"\+|выше|высш|тяжел|плюс", cyrillic.group(2)) is not None
        return (
            _of_group(CYRILLIC_GROUPS[cyrillic.group(1)], False)
            if not heavier
            else Named(number=CYRILLIC_GROUPS[cyrillic.group(1)], plus=True)
        )
    found = _CARBON.match(words)
    if found is not None:
        number, end = int(found.group(1)), found["end"]
        if 4 <= number <= 200 and _PLAIN.match(end):
            return _of_group(number, False)
        if 2 <= number <= 200 and _PLUS.match(end):
            return Named(number=number, plus=True)
        kind = _CLASS.match(end)
        return _of_class(number, kind.group(1)) if kind is not None and 4 <= number <= 10 else None
    first = re.match(r"^(?:pseudo[\s-]*)?(?:n-|normal )?([a-z]+?)(?=[\s+-]|$)", words)
    if first is None:
        return None
    word, end = first.group(1), words[first.end() :].strip(" -")
    stem = next((s for s in (*STEMS, *OTHER_STEMS) if any(word == s + e for e in ENDINGS)), None)
    if stem is None:
        return None
    number = OTHER_STEMS.get(stem) or STEMS.index(stem) + 1
    if number >= 2 and _PLUS.match(end):
        return Named(number=number, plus=True)
    if number >= 4 and (word in _plurals() or plural) and _PLAIN.match(end):
        return _of_group(number, False)
    if number >= 4 and end in ("fraction", "isomers", "group", "s"):
        return _of_group(number, False)
    kind = _CLASS.match(end)
    return _of_class(number, kind.group(1)) if kind is not None and 4 <= number <= 10 else None


def _of_group(number: int, plus: bool) -> Named:
    if number in (4, 5) and not plus:
        name = {4: "n-butane", 5: "n-pentane"}[number]
        return Named(name, number, said=f"all of C{number} is read as {name}")
    return Named(number=number, plus=plus)


def _of_class(number: int, kind: str) -> Named | None:
    family = {"n": "naphthene", "a": "aromatic", "i": "iso", "p": "paraffin"}[kind[0] if kind[:3] != "cyc" else "n"]
    if kind in ("nparaffins", "n-paraffins", "n-paraffin", "alkane", "alkanes"):
        family = "paraffin"
    if kind.startswith(("olefin",)):
        return None
    table = {
        "naphthene": {5: "cyclopentane", 6: "methylcyclopentane", 7: "methylcyclohexane"},
        "aromatic": {6: "benzene", 7: "toluene", 8: "m-xylene"},
        "iso": {4: "isobutane", 5: "isopentane", 6: "2-methylpentane", 7: "2-methylhexane", 8: "2-methylheptane"},
    }
    name = (
        table[family].get(number)
        if family in table
        else next((c.name for c in all_components() if c.family == "n-alkane" and _carbon(c) == number), None)
    )
    return None if name is None else Named(name, number, said=f"all of it is read as {name}")


def _class(words: str) -> Named | None:
    """Return what a mixture of isomers is read as."""
    if re.fullmatch(r"[mp]\W*(?:and|und|et|y|e)?\W*[mp]\W*(?:xylenes?|xylole?|xilenos?)|m-xylene\W+p-xylene", words):
        return Named("m-xylene", said="m- and p-xylene are read as m-xylene")
    if words in ("xylene", "xylenes", "xylol", "xylole", "xilenos", "c8 aromatics"):
        return Named("m-xylene", said="all xylenes are read as m-xylene")
    return None


def _without_note(words: str, plural: bool) -> Named | None:
    """Return what a name means without what stands behind it in brackets: Methane (C1), CO2 (by difference)."""
    found = re.match(r"^([^(\[]+?)\s*[(\[][^)\]]*[)\]]$", words)
    if found is not None:
        return named(found.group(1), plural)
    found = re.match(r"^(c\d+|[a-z]{1,2}\d?[a-z]?\d?)\s*[-:,]?\s+(.+)$", words)
    if found is not None and known(found.group(1)) is not None and known(found.group(1)) is known(found.group(2)):
        return Named(known(found.group(1)).name)  # type: ignore[union-attr]
    return None
