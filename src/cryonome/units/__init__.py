"""Quantities at the border of the program: what people write to SI floats, and back.

``numbers`` reads numbers as people write them, ``spelling`` units, ``kinds`` lists what can be measured, ``quantity``
joins them. pint knows the units; what it cannot express (degAPI is the inverse of a density, psig an offset of a
pressure) is converted here. Inside the program only SI floats travel; molar mass is kg/mol there and g/mol at the
border."""

from .errors import QuantityError
from .kinds import KINDS, LABELS, SETS, Kind
from .quantity import Numeral, exact, fits, fixed, format_number, from_si, label, normal_unit, parse, split, to_si

__all__ = [
    "KINDS", "LABELS", "SETS", "Kind", "QuantityError", "Numeral", "exact", "fits", "fixed", "format_number", "from_si", "label", "normal_unit", "parse", "split",
    "to_si",
]  # fmt: skip
