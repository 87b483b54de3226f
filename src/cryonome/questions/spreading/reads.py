"""What is read of every sample: numbers and lists of an answer by their path, and the curves of its picture."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...document.faults import did_you_mean
from ...errors import DomainError
from ...results.answer_paths import value_at
from ...results.context import Answer
from ...results.evaluator import Project
from ..asking import numbers_in
from ..value_reading import Read, number_read

Array = NDArray[np.float64]

MOST_NUMBERS = 20_000
"""Numbers of one list."""

BULK = "bulk"

HEADLINES: dict[str, tuple[str, ...]] = {
    "envelope": ("cricondentherm.temperature_K", "cricondenbar.pressure_Pa"),
    "hydrate": ("points[0].temperature_K", "points[0].pressure_Pa"),
    "vapour_pressure": ("TVP_Pa", "RVP_Pa"),
    "inhibitor_dose": ("aqueous_mass_percent",),
    "yields": ("yields[*].volume_fraction",),
    "characterization": (f"{BULK}.molar_mass_g_mol", f"{BULK}.density_kg_m3", "components[*].nbp_K"),
    "flash": ("vapour_fraction", "density_kg_m3"),
    "expansion": ("saturation.pressure_Pa", "rows[*].relative_volume"),
    "depletion": ("saturation.pressure_Pa", "rows[*].liquid_volume_fraction"),
    "liberation": ("saturation.pressure_Pa", "rows[*].oil_volume_factor", "rows[*].solution_gas_m3_m3"),
    "separators": ("gas_oil_ratio_m3_m3", "api"),
    "match": ("parameters[*].value",),
    "water_content": ("rows[*].vapour_water_kg_mol",),
}
"""What is read of a kind of question where nothing is named; of others the first numbers of the answer."""
FIRST = 3


def headlines(kind: str, answer: Answer) -> tuple[str, ...]:
    """Return the paths that are read of an answer where none are named."""
    found = []
    if kind == "path":
        # The order of limits hangs on the sample: each is read by its name.
        names = [least["limit"] for least in answer.get("least", ())]
        return tuple(f"least.{name}.margin_K" for name in ("hydrate", "ice", "frost") if name in names)
    if kind == "saturation":
        # A laboratory sees the highest of several.
        points = answer["points"]
        at = max(range(len(points)), key=lambda i: (points[i]["pressure_Pa"], points[i]["temperature_K"]))
        return f"points[{at}].pressure_Pa", f"points[{at}].temperature_K"
    if kind == "table":
        return tuple(f"properties.{key}" for key in answer["properties"])
    for path in HEADLINES.get(kind, ()):
        try:
            values = value_of(path, answer)
        except DomainError:
            continue
        if np.isfinite(values).any():
            found.append(path.replace("[*]", "[0]") if values.shape == (1,) else path)
    return tuple(found) or tuple(path for path, _ in numbers_in(answer)[:FIRST])


def value_of(path: str, answer: Mapping[str, Any]) -> Array:
    """Return what stands at a path as an array: a number (), a list (n,), a list of lists; null as nan. ``rows[*].Z``
    is the list of a key of every row. Raises DomainError where there are no numbers."""
    found = _thing(path, answer, path)
    try:
        out = np.array(_numbers(found), dtype=float)
    except (TypeError, ValueError):
        raise DomainError(f"'{path}' of the answer holds no numbers{_hint(path, found, answer)}") from None
    if out.size > MOST_NUMBERS:
        raise DomainError(f"'{path}' of the answer holds {out.size} numbers; read at most {MOST_NUMBERS}")
    return out


def _thing(path: str, answer: Any, whole: str) -> Any:
    head, star, tail = path.partition("[*]")
    found = value_at(answer, head) if head else answer
    if not star:
        return found
    if not isinstance(found, (list, tuple)):
        raise DomainError(f"'{head}' of the answer is no list; leave [*] out of '{whole}'")
    rest = tail.removeprefix(".")
    return [_thing(rest, item, whole) if rest else item for item in found]


def _numbers(found: Any) -> Any:
    if isinstance(found, (list, tuple)):
        return [_numbers(v) for v in found]
    if found is None:
        return float("nan")
    if isinstance(found, bool) or not isinstance(found, (int, float)):
        raise TypeError
    return found


def _hint(path: str, found: Any, answer: Mapping[str, Any]) -> str:
    first = found[0] if isinstance(found, (list, tuple)) and found else None
    if isinstance(first, Mapping):
        key = next((k for k, v in first.items() if isinstance(v, float)), "")
        return f"; name a key of its rows, for example {path}[*].{key}" if key else ""
    return did_you_mean(path, [p for p, _ in numbers_in(answer)])


def read_of(reads: Sequence[Read], answer: Answer, of: str, project: Project) -> list[Array | DomainError]:
    """Return each of the reads of a sample's answer, of one that is not there why."""
    out: list[Array | DomainError] = []
    for read in reads:
        try:
            if read.tree is not None:
                out.append(np.array(number_read(read, answer, of, project)))
            else:
                out.append(value_of(read.key, answer))
        except DomainError as error:
            out.append(error)
    return out
