"""What a field of the document may say of itself: that its text names something else, or is one of a few words.

A field declares it by its type, ``fluid: FluidRef``; :mod:`references` and :mod:`choices` read that. Renaming,
removing, what an answer depends on and what is not possible in a cell all follow from the declaration, so that a new
kind of question has nothing to enter anywhere."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import GetJsonSchemaHandler, Strict
from pydantic_core import CoreSchema

SAMPLES, FLUIDS, STUDIES = "samples", "fluids", "studies"
CELL, ANSWER, COMPONENT = "cell", "answer", "component"


@dataclass(frozen=True)
class Names:
    """Marks a text that names something: of the group ``what`` of the document (:data:`SAMPLES`, :data:`FLUIDS`,
    :data:`STUDIES`), a cell of it by its path, a value of an answer by its path, or a component. ``needed`` is False
    where the part stands by itself without it, and ``depends`` where nothing follows from it but where the part came
    from."""

    what: str
    needed: bool = True
    depends: bool = True


@dataclass(frozen=True)
class OneOf:
    """Marks a text that is one of ``choices``. Another text stays as it was typed, and is a fault of its cell."""

    choices: tuple[str, ...]

    def __get_pydantic_json_schema__(self, core: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {**handler(core), "enum": list(self.choices)}


@dataclass(frozen=True)
class OfKind:
    """Marks a cell, or all cells inside a field, as quantities of a ``kind`` (a key of :data:`cryonome.units.KINDS`):
    in the window a bare number there means the unit shown. "" is a plain number, :data:`STEP` a difference of what
    the field around is of, :data:`RATE` an amount by time of any kind, :data:`SHARE` a percentage by mass."""

    kind: str


STEP, RATE, SHARE = "step", "rate", "share"

Cell = Annotated[float, Strict()] | Annotated[int, Strict()] | str | None
"""A quantity as entered; None for an empty cell. Strict, since ``true`` is no number."""

Temperature = Annotated[Cell, OfKind("temperature")]
Pressure = Annotated[Cell, OfKind("pressure")]
Difference = Annotated[Cell, OfKind("temperature_difference")]
PressureDifference = Annotated[Cell, OfKind("pressure_difference")]
Fraction = Annotated[Cell, OfKind("fraction")]
Density = Annotated[Cell, OfKind("density")]
Enthalpy = Annotated[Cell, OfKind("enthalpy")]
Entropy = Annotated[Cell, OfKind("entropy")]
Power = Annotated[Cell, OfKind("power")]
Length = Annotated[Cell, OfKind("length")]
Elevation = Annotated[Cell, OfKind("elevation")]
Diameter = Annotated[Cell, OfKind("diameter")]
Gradient = Annotated[Cell, OfKind("pressure_gradient")]
Velocity = Annotated[Cell, OfKind("velocity")]
Momentum = Annotated[Cell, OfKind("momentum")]
HeatTransfer = Annotated[Cell, OfKind("heat_transfer")]
Conductance = Annotated[Cell, OfKind("conductance")]
MolarVolume = Annotated[Cell, OfKind("molar_volume")]
Rate = Annotated[Cell, OfKind(RATE)]
Plain = Annotated[Cell, OfKind("")]
Shares = Annotated[Mapping[str, Cell], OfKind(SHARE)]
Temperatures = Annotated[tuple[Cell, ...], OfKind("temperature")]
Pressures = Annotated[tuple[Cell, ...], OfKind("pressure")]


@dataclass(frozen=True)
class Suggested:
    """Marks a text that is usually one of ``choices``, which are offered; others may be right as well."""

    choices: tuple[str, ...]


SampleRef = Annotated[str, Names(SAMPLES)]
"""A sample by its name."""

FluidRef = Annotated[str, Names(FLUIDS)]
"""A fluid by its name."""

StudyRef = Annotated[str, Names(STUDIES)]
"""A question by its name."""

CellPath = Annotated[str, Names(CELL)]
"""A cell of the document by its path, ``fluids[Selden gas].parts[n-butane].amount``."""

AnswerPath = Annotated[str, Names(ANSWER)]
"""A value of an answer by its path, ``phases.liquid.composition.methane``."""

ComponentRef = Annotated[str, Names(COMPONENT)]
"""A component by its name or its identity."""
