"""How feeds and steps stand in a document."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated

from pydantic import ConfigDict, Field

from ...document.field_types import (
    Cell,
    Conductance,
    Density,
    Difference,
    Enthalpy,
    Entropy,
    FluidRef,
    Fraction,
    OneOf,
    Plain,
    Power,
    Pressure,
    PressureDifference,
    Rate,
    Suggested,
    Temperature,
)
from ...document.part import Part
from ...process import KINDS


class Feed(Part):
    """A stream that comes from outside: its ``fluid``, two conditions of a flash, and its ``rate``; one by volume is
    ``rate_by`` ``actual``, ``standard liquid`` or ``standard gas``."""

    fluid: FluidRef
    temperature: Temperature = None
    pressure: Pressure = None
    vapour_fraction: Fraction = None
    vapour_volume_fraction: Fraction = None
    enthalpy: Enthalpy = None
    entropy: Entropy = None
    density: Density = None
    internal_energy: Enthalpy = None
    rate: Rate = None
    rate_by: Annotated[str, Suggested(("actual", "standard liquid", "standard gas"))] = "actual"


Takes = str | tuple[str, ...]
"""A stream by its name, or several."""
Gives = str | tuple[str, ...] | Mapping[str, Cell]
"""A stream by its name; of a separator the streams by what they hold; of a splitter their shares by name."""


class Step(Part):
    """A step of a chain: its ``name``, what it is (``step``), the streams it takes (``from``) and gives (``to``), of
    an exchanger ``hot_from``, ``hot_to``, ``cold_from`` and ``cold_to``, and the numbers of its kind."""

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)

    name: str
    step: Annotated[str, OneOf(tuple(KINDS))] = ""
    takes: Takes = Field(default="", alias="from")
    gives: Gives = Field(default="", alias="to")
    pressure: Pressure = None
    ratio: Plain = None
    power: Power = None
    temperature: Temperature = None
    duty: Power = None
    vapour_fraction: Fraction = None
    superheat: Difference = None
    subcooling: Difference = None
    pressure_drop: PressureDifference = None
    efficiency: Fraction = None
    efficiency_kind: Annotated[str, OneOf(("polytropic", "isentropic"))] = "polytropic"
    mechanical_efficiency: Fraction = None
    discharge_limit: Temperature = None
    stages: Plain = None
    stage_temperature: Temperature = None
    stage_drop: PressureDifference = None
    hot_from: str = ""
    hot_to: str = ""
    cold_from: str = ""
    cold_to: str = ""
    arrangement: Annotated[str, OneOf(("counter", "co"))] = "counter"
    hot_temperature: Temperature = None
    cold_temperature: Temperature = None
    least_approach: Difference = None
    ua: Conductance = None
    hot_pressure_drop: PressureDifference = None
    cold_pressure_drop: PressureDifference = None


NUMBERS: dict[str, str] = {
    "pressure": "pressure", "ratio": "", "power": "power", "temperature": "temperature", "duty": "power", "vapour_fraction": "fraction",
    "superheat": "temperature_difference", "subcooling": "temperature_difference", "pressure_drop": "pressure_difference",
    "efficiency": "fraction", "mechanical_efficiency": "fraction", "discharge_limit": "temperature", "stages": "",
    "stage_temperature": "temperature", "stage_drop": "pressure_difference", "hot_temperature": "temperature",
    "cold_temperature": "temperature", "least_approach": "temperature_difference", "ua": "conductance",
    "hot_pressure_drop": "pressure_difference", "cold_pressure_drop": "pressure_difference",
}  # fmt: skip
"""The numbers of steps by their key, with the kind of quantity; "" for a plain number."""

PORTS = ("hot_from", "hot_to", "cold_from", "cold_to")
"""Where the streams of an exchanger are named."""
