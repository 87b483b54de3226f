"""Rates of flow as people give them: by moles, by mass, or by a volume that must say at which conditions it is."""

from __future__ import annotations

from ..units import QuantityError, fits, split
from .field_types import Cell
from .reader import EMPTY, Reader

BY = {"actual": "actual", "standard liquid": "liquid", "standard gas": "gas"}
"""Measure of a volume rate by the word of the document."""


def read_rate(rate: Cell, rate_by: str, reader: Reader) -> tuple[str, float] | None:
    """Return which measure a ``rate`` is (of :data:`cryonome.fluids.standard.RATES`) and its value in SI; None where
    it is empty or, with a fault, no rate. ``reader`` stands above both cells."""
    known = reader.at("rate_by").known(rate_by, BY, "measure of a volume rate")
    if rate in EMPTY:
        return None
    here = reader.at("rate")
    unit = ""
    if isinstance(rate, str):
        try:
            unit = split(rate)[1]
        except QuantityError as error:
            here.fault(str(error))
            return None
    kinds = {"molar_rate": "mole", "mass_rate": "mass", "volume_rate": BY[rate_by] if known else "actual"}
    kind = next((k for k in kinds if unit and fits(unit, k)), None)
    if kind is None:
        here.fault(
            "a rate has a unit of moles, mass or volume by time, for example 12 MMscf/day, 4000 kg/h or 850 bbl/day"
        )
        return None
    value = here.quantity(rate, kind)
    if value is None:
        return None
    if value <= 0.0:
        here.fault("a rate must be above zero")
        return None
    return kinds[kind], value
