"""Pipes of a schedule as a table in the reader's units."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from .sentences import Units
from .table_blocks import Block, of_key

COLUMNS = (
    "inside_diameter_m", "velocity_m_s", "gradient_Pa_m", "erosional_velocity_m_s", "momentum_Pa", "holdup", "regime", "drop_Pa", "reynolds",
    "friction_factor",
)  # fmt: skip
TITLES = {
    "inside_diameter_m": "inside",
    "erosional_velocity_m_s": "erosional",
    "momentum_Pa": "ρv²",
    "drop_Pa": "drop",
    "friction_factor": "friction factor",
}


def size_block(answer: Mapping[str, Any], units: Units) -> Block:
    """Return the sizes, a row each: whether it passes, and what flows in it."""
    units = units.of_states()
    sizes = answer["sizes"]
    keys = [k for k in COLUMNS if any(s.get(k) is not None for s in sizes)]
    if all(s["regime"] in (None, "single phase") for s in sizes):
        keys.remove("regime")
    heads = [("size", "in"), ("", "")]
    heads += [(TITLES.get(k, of_key(k, units).head[0]), of_key(k, units).head[1]) for k in keys]
    rows, paths = [], []
    for i, s in enumerate(sizes):
        verdict = _verdict(s, answer["least"])
        cells, own = [s["nominal"], verdict], ["", ""]
        for k in keys:
            value = s.get(k)
            cells.append("" if value is None else value if isinstance(value, str) else of_key(k, units).short(value))
            own.append(f"sizes[{i}].{k}" if isinstance(value, float) else "")
        rows.append(cells)
        paths.append(own)
    return Block("", heads, rows, paths)


def _verdict(size: Mapping[str, Any], least: str | None) -> str:
    """Return whether a size passes, else what it fails farthest, and by how many limits more."""
    if size["passes"]:
        return "least" if size["nominal"] == least else "passes"
    if size["chokes"]:
        return "chokes"
    more = len(size["fails"]) - 1
    return f"{size['fails'][0]}, {more} more" if more else str(size["fails"][0])


POINTS = (
    "distance_m", "elevation_m", "temperature_K", "pressure_Pa", "velocity_m_s", "holdup", "regime", "margins.hydrate_margin_K",
    "margins.dew_margin_K", "margins.water_margin_K",
)  # fmt: skip
NAMED = {
    "margins.hydrate_margin_K": "to hydrate",
    "margins.dew_margin_K": "to dew",
    "margins.water_margin_K": "to water",
}


def point_block(answer: Mapping[str, Any], units: Units) -> Block:
    """Return the points of a line's profile, a row each; stations have their name."""
    units = units.of_states()
    points = answer["points"]
    names = {s["distance_m"]: s["name"] for s in answer["stations"]}
    keys = [k for k in POINTS if any(_at(p, k) is not None for p in points)]
    heads = [("at", ""), *((NAMED.get(k, of_key(k, units).head[0]), of_key(k, units).head[1]) for k in keys)]
    rows, paths = [], []
    for i, p in enumerate(points):
        cells, own = [names.get(p["distance_m"], "")], [""]
        for k in keys:
            value = _at(p, k)
            cells.append("" if value is None else value if isinstance(value, str) else of_key(k, units).short(value))
            own.append(f"points[{i}].{k}" if isinstance(value, float) else "")
        rows.append(cells)
        paths.append(own)
    return Block("points", heads, rows, paths)


def _at(point: Mapping[str, Any], key: str) -> Any:
    head, _, inner = key.partition(".")
    return point[head][inner] if inner else point[head]
