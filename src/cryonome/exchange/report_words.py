"""What titles and headers say of laboratory tests: their kinds, and the quantity of a column."""

from __future__ import annotations

import re
from collections.abc import Sequence

from ..components import named
from .context import Context
from .entries import folded
from .fact import of_plus
from .found import UNREAD
from .words import means

KINDS: tuple[tuple[str, str], ...] = (
    ("depletion", r"deplet|deplec|\bcvd\b|volume constant|volumen constante|constant[ -]volume|produced wellstream|konstantes volumen|volumekonstant"),
    ("liberation", r"liberat|liberac|differential|differentielle|diferencial|\bdle?\b|\bdv\b|differentialentgasung|vaporization test"), ("separators", r"separator|separador|separateur|stage test|multistage|flash test"),
    ("swelling", r"swell|solubility|quell|gonflement|hinchamiento"), ("viscosity", r"viscos|viskos"),
    ("expansion", r"expansion|constant.composition|constant.mass|\bcce\b|\bcme\b|pressure.volume|\bpv\b|p-v|presion.volumen|composition constante|masse constante|volumetric"),
    ("saturation", r"saturation|bubble|dew|rosee|rocio|burbuja|quality check"),
)  # fmt: skip
"""Kinds of tests and what a title says of them, the more telling first."""


COLUMNS: dict[str, tuple[tuple[str, str], ...]] = {
    "expansion": (
        ("relative_volume", r"rel\w*\.? ?vol|v/v|volume relat|volumen relat|relativ\w* volum|v ?rel|vrel|volume ratio|^v/"),
        ("Y", r"^y\b|y.?func|funct\w* y|fonction y|funcion y"),
        ("liquid_volume_fraction", r"liq|dropout|retrograd|\bsl\b|depot|deposito|flussig"), ("viscosity_Pa_s", r"visc|viskos|\bmu"), ("density_kg_m3", r"dens|dicht|\brho|mass[ae] (?:volum|espec)|peso espec|^ρ"),
        ("Z", r"^z\b|z.?factor|\bz\b|deviation|compressibility fac|super ?compress|facteur de compress|factor de compress|realgas"),
    ),
    "depletion": (
        ("Z_two_phase", r"(?:two|2|bi).?phas\w*|zweiphas|diphas|bifas|\bz ?2p|z2"), ("gas_viscosity_Pa_s", r"visc|viskos|\bmu"), ("gas_gravity", r"gravity|gravedad|\bsg\b|rel\w*\.? dens|densite|dichteverh"),
        ("produced_mole_fraction", r"produc|cumul|recover|np/n|removed|withdrawn|produkt|gp/g|entnommen|produite|producid"),
        ("liquid_volume_fraction", r"liq|dropout|retrograd|\bsl\b|depot|deposito|flussig|condens"),
        ("Z_gas", r"^z\b|z.?factor|\bz\b|deviation|compressibility fac|super ?compress|\bzg\b|facteur de compress|factor de compress|realgas"),
    ),
    "liberation": (
        ("total_volume_factor", r"total (?:form|vol|rel)|\bbtd?b?\b|two.phase (?:form|vol)"), ("gas_volume_factor", r"\bbg\b|gas (?:form|vol)\w*.*fac|gas fvf|fvf,? gas|expansion factor"),
        ("gas_viscosity_Pa_s", r"(?:gas|\bg\b).*visc|visc\w*.*gas|mu ?g\b"), ("oil_viscosity_Pa_s", r"visc|viskos|mu ?o?\b"),
        ("gas_gravity", r"gasdichte|luft ?= ?1|aire? ?= ?1|gas.*(?:gravity|gravedad|rel\w*\.? dens|dens\w* rel)|(?:gravity|gravedad).*gas|air ?= ?1|incremental.*gravity|gravity of"),
        ("liberated", r"liber|evolved|removed|abgegeben|degag"),
        ("solution_gas_m3_m3", r"\brsd?b?\b|in solution|solution|dissol|dissous|disuelto|dissolvid|gelost|gas.?oil|\bgor\b|\brgp\b"),
        ("oil_volume_factor", r"\bbod?b?\b|(?:oil|form)\w*.*fac|volume factor|\bfvf\b|rel\w*\.? oil vol|relative (?:oil )?vol|facteur volum|factor volum|fator volum|volumenfaktor|\bboi?\b"),
        ("gas_Z", r"^z\b|z.?factor|\bz\b|deviation|compressibility fac|\bzg\b|facteur de compress|factor de compress|realgas"),
        ("oil_density_kg_m3", r"dens|dicht|\brho|mass[ae] (?:volum|espec)|peso espec|^ρ"),
    ),
    "separators": (
        ("gas_oil_ratio_m3_m3", r"gas.?[/-]?oil|\bgor\b|\brgp\b|\brsi?\b|gas.?/.?oil"), ("gas_gravity", r"gas.*(?:gravity|gravedad|rel\w*\.? dens|\bsg\b)|(?:gravity|\bsg\b).*gas|air ?= ?1|\bsg gas"),
        ("tank", r"tank.*(?:gravity|dens|api)|\bapi\b.*tank|^°? ?api\b"), ("oil_density_kg_m3", r"dens|dicht|mass[ae] (?:volum|espec)|peso espec|oil.*gravity|liquid.*gravity"),
        ("sep_fvf", r"separator vol|shrink"), ("fvf", r"\bbod?b?\b|volume factor|\bfvf\b|shrink|separator volume"),
    ),
    "swelling": (
        ("density_kg_m3", r"dens|dicht"), ("swelling_factor", r"swell|swoll|volume|quell|gonfl|hincham|v/v|vsat/"), ("viscosity", r"visc"), ("gas_oil_ratio", r"\bgor\b|gas.?oil ratio"),
    ),
    "viscosity": (
        ("ratio", r"ratio|verhalt"), ("gas", r"gas.*visc|visc\w*.*gas|mu ?g\b"), ("viscosity_Pa_s", r"visc|viskos|\bmu|\beta\b|\bcp\b|mpa"), ("density_kg_m3", r"dens|dicht|\brho|mass[ae] (?:volum|espec)|peso espec"),
    ),
}  # fmt: skip
"""What a header may name, by kind of test; the more telling patterns first."""


SHARES = ("liquid_volume_fraction", "produced_mole_fraction", "gas")
"""Keys of shares, which a report may write in percent."""


RATIOS = (
    "relative_volume",
    "Y",
    "Z",
    "Z_gas",
    "Z_two_phase",
    "gas_Z",
    "oil_volume_factor",
    "total_volume_factor",
    "gas_gravity",
    "swelling_factor",
    "fvf",
)
"""Keys of plain numbers, in whatever volumes a header writes them."""


GAS_FACTOR = {
    "bbl/scf": 5.614583333,
    "rb/scf": 5.614583333,
    "bbl/mscf": 5.614583333e-3,
    "rb/mscf": 5.614583333e-3,
    "bbl/kscf": 5.614583333e-3,
    "rb/kscf": 5.614583333e-3,
}
"""Cubic metres a standard cubic metre, by the unit of a gas's formation volume factor."""


def kind_by_words(texts: Sequence[str]) -> str:
    """Return the test that titles name, "" for none; the nearest title counts first."""
    weak = ""
    for text in reversed(texts):
        words = folded(text)
        found = next((kind for kind, pattern in KINDS if re.search(pattern, words)), "")
        if found and not re.search(r"^separator (?:gas|liquid|pressure|temp)", words):
            if found != "saturation":
                return found
            weak = weak or found
    return weak


def match_key(kind: str, head: str) -> str:
    words = folded(head)
    if not words or (
        re.search(r"compressibility(?! ?fac)|compresib\w+(?! ?fac)", words)
        and not re.search(r"\bz\b|z.?fac|deviation", words)
    ):
        return ""
    return next((key for key, pattern in COLUMNS[kind] if re.search(pattern, words)), "")


def key_of_column(ctx: Context, kind: str, column: int) -> str:
    """Return what a column of a test holds, "" for nothing that is known."""
    head = ctx.table.head(column)
    chosen = ctx.choice(column).meaning
    if chosen:
        return "" if chosen == UNREAD else chosen
    if kind == "separators" and re.search(r"temp|^t\b", folded(head)):
        return "temperature"
    if kind == "separators" and means(head, "stage") and not match_key(kind, head):
        return "stage"
    key = match_key(kind, head)
    if key and not (key == "gas_gravity" and of_plus(head)):
        return key
    if kind == "depletion" and not key:
        found = named(re.sub(r"[,(\[].*$|mol\w*\s*%.*$", "", head).strip() or head)
        if found is not None and not found.total:
            return f"gas.{found.label}"
    return ""
