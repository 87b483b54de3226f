"""The curves of an answer that may carry a band: where its samples lie, as a picture shows them.

*How to let a kind have bands.* Its panels do (:mod:`.panels`); a kind with a picture of its own has a function here,
entered in :data:`BANDED`, and says in :data:`PATHS` which keys of its answer that needs."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from .panels import PANELS, Answer, Curve, Panel, curve, panels_of

TEMPERATURE, PRESSURE = "temperature_K", "pressure_Pa"


def _line(name: str, line: dict[str, Any], share: float | None) -> Curve:
    return Curve(name, tuple(line[TEMPERATURE]), tuple(line[PRESSURE]), share=share)


def _envelope(answer: Answer) -> list[Panel]:
    """Return every line, named by its vapour fraction, and the boundaries of water and of three phases."""
    names = {0.0: "bubble line", 1.0: "dew line"}
    curves, seen = [], dict[str, int]()

    def add(name: str, line: dict[str, Any], share: float | None) -> None:
        seen[name] = seen.get(name, 0) + 1
        curves.append(_line(name if seen[name] == 1 else f"{name} {seen[name]}", line, share))

    for line in answer.get("lines", ()):
        f = line["vapour_fraction"]
        add(names.get(f, f"{f:g} vapour"), line, f)
    for line in answer.get("volume_lines", ()):
        f = line["vapour_volume_fraction"]
        add(f"{f:g} vapour by volume", line, f)
    for line in answer.get("water_dew", ()):
        add("water", line, None)
    for line in answer.get("three_phase", ()):
        add("three phases", line, None)
    return [Panel(TEMPERATURE, PRESSURE, tuple(curves))]


def _hydrate(answer: Answer) -> list[Panel]:
    """Return the limit of what forms first, and of each structure."""
    points = [p for p in answer["points"] if p["hydrate_side"] in ("above", "colder")]
    first: dict[float, dict[str, Any]] = {}
    for p in points:
        if p["stable"]:
            first.setdefault(p[TEMPERATURE if p["hydrate_side"] == "above" else PRESSURE], p)
    return [Panel(TEMPERATURE, PRESSURE, (curve("hydrate", list(first.values()), TEMPERATURE, PRESSURE, share=None),))]


def _vapour_pressure(answer: Answer) -> list[Panel]:
    out = []
    if answer.get("curve"):
        out.append(
            Panel(TEMPERATURE, "TVP_Pa", (curve("true vapour pressure", answer["curve"], TEMPERATURE, "TVP_Pa"),))
        )
    if len(answer.get("VPCR", ())) > 1:
        out.append(
            Panel("ratio", PRESSURE, (curve("VPCR", answer["VPCR"], "ratio", PRESSURE),), "vapour to liquid, by volume")
        )
    return out


MARGINS = {
    "hydrate_margin_K": "hydrate",
    "ice_margin_K": "ice",
    "frost_margin_K": "solid carbon dioxide",
    "dew_margin_K": "hydrocarbon dew point",
    "water_margin_K": "water dew point",
}


def _path(answer: Answer) -> list[Panel]:
    """Return the margins in kelvin, station by station."""
    curves = []
    for key, name in MARGINS.items():
        rows = [
            {"station": float(i + 1), "margin_K": s["margins"][key]}
            for i, s in enumerate(answer["stations"])
            if s["margins"].get(key) is not None
        ]
        curves.append(curve(name, rows, "station", "margin_K", share=None if key == "hydrate_margin_K" else 1.0))
    return [Panel("station", "margin_K", tuple(c for c in curves if c.x), "station", "to spare", {"limit": 0.0})]


def _table(answer: Answer) -> list[Panel]:
    """Return each property of a table of one axis over it."""
    if len(answer["axes"]) != 1:
        return []
    axis = {"temperature": TEMPERATURE, "pressure": PRESSURE}.get(answer["variables"][0], answer["variables"][0])
    rows = [
        {axis: x, **{key: values[i] for key, values in answer["properties"].items()}}
        for i, x in enumerate(answer["axes"][0])
    ]
    return [Panel(axis, key, (curve(key, rows, axis, key),)) for key in answer["properties"]]


BANDED: dict[str, Callable[[Answer], list[Panel]]] = {
    "envelope": _envelope,
    "hydrate": _hydrate,
    "vapour_pressure": _vapour_pressure,
    "path": _path,
    "table": _table,
}
PATHS: dict[str, tuple[str, ...]] = {
    "envelope": ("lines",),
    "path": tuple(f"stations[*].margins.{key}_margin_K" for key in ("hydrate", "ice", "frost")),
    "hydrate": ("points[*].temperature_K", "points[*].pressure_Pa"),
    "vapour_pressure": ("VPCR", "curve"),
}
"""Keys of the answer that the curves of a kind are made of, of kinds that give some of their answer alone."""
NONE = ("spread", "lumping", "components", "advice", "separator_optimum")
"""Kinds whose pictures are no curves that a sample would move."""


def banded(kind: str, answer: Answer) -> list[Panel]:
    """Return the panels of an answer whose lines may carry bands; none where it is no curve."""
    if kind in BANDED:
        return [p for p in BANDED[kind](answer) if any(len(c.x) > 1 for c in p.curves)]
    if kind not in PANELS or kind in NONE:
        return []
    return [
        Panel(p.x, p.y, lines, p.x_title, p.y_title)
        for p in panels_of(kind, answer)
        if (lines := tuple(c for c in p.curves if not c.dots and len(c.x) > 1))
    ]
