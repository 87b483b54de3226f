"""What a person would rather look at: answers as curves and points over axes, as data. Knows no screen; values are in
the units of their keys.

*How to give a kind of question a picture.* A function here that makes panels of its answer, entered in :data:`PANELS`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from .read_words import read_words

Values = tuple[float, ...]


@dataclass(frozen=True)
class Curve:
    """A line or, as ``dots``, points: its name, values over both axes, and the share of vapour that its colour tells
    (None for ink)."""

    name: str
    x: Values
    y: Values
    dots: bool = False
    share: float | None = 0.0
    measured: bool = False


@dataclass(frozen=True)
class Shade:
    """What lies between two lines of as many points: where samples of a curve lie. ``share`` tells its colour as of a
    curve."""

    name: str
    low: tuple[Values, Values]
    high: tuple[Values, Values]
    share: float | None = 0.0


@dataclass(frozen=True)
class Panel:
    """Curves over a pair of axes, each by the key of an answer, which tells its unit; ``levels`` are values of y that
    stand as lines, by name; ``upright`` of x; ``shades`` lie below the curves."""

    x: str
    y: str
    curves: tuple[Curve, ...]
    x_title: str = ""
    y_title: str = ""
    levels: Mapping[str, float] | None = None
    upright: Mapping[str, float] | None = None
    from_zero: bool = False
    shades: tuple[Shade, ...] = ()

    @property
    def corners(self) -> list[float]:
        """Values of x at which a phase forms, so that curves have corners there."""
        return [value for name, value in (self.upright or {}).items() if name in ("bubble", "dew")]


Answer = Mapping[str, Any]


def panels_of(kind: str, answer: Answer) -> list[Panel]:
    """Return the panels of an answer of a kind of question; none where there is nothing to draw."""
    make = PANELS.get(kind)
    return [p for p in make(answer) if any(c.x for c in p.curves)] if make is not None else []


def curve(
    name: str, rows: Sequence[Mapping[str, Any]], x: str, y: str, dots: bool = False, share: float | None = 0.0
) -> Curve:
    """Return a curve of two keys of rows, without those that have no value."""
    found = [(r[x], r[y]) for r in rows if r.get(x) is not None and r.get(y) is not None]
    return Curve(name, tuple(a for a, _ in found), tuple(b for _, b in found), dots, share)


def _measured(answer: Answer, key: str, x: str) -> list[Curve]:
    """Return what was measured of a key of the rows, as points."""
    rows = answer["rows"]
    found = [
        (rows[m["row"]][x], m["theirs"])
        for m in answer.get("measured", ())
        if m["key"] == key and m.get("row") is not None and m["row"] < len(rows) and m["theirs"] is not None
    ]
    return (
        [Curve("measured", tuple(a for a, _ in found), tuple(b for _, b in found), True, None, True)] if found else []
    )


def _over_pressure(*keys: tuple[str, str, float]) -> Callable[[Answer], list[Panel]]:
    """Return what draws keys of rows over pressure, each in a panel of its own: key, title and the share its colour
    tells."""

    def make(answer: Answer) -> list[Panel]:
        at = answer.get("saturation") or {}
        upright = {str(at["kind"]): at["pressure_Pa"]} if at else None
        out = []
        for key, title, share in keys:
            own = curve(title, answer["rows"], "pressure_Pa", key, share=share)
            out.append(
                Panel("pressure_Pa", key, (own, *_measured(answer, key, "pressure_Pa")), y_title=title, upright=upright)
            )
        return out

    return make


def _swelling(answer: Answer) -> list[Panel]:
    rows = answer["rows"]
    out = []
    for key, title in (("saturation_pressure_Pa", "saturation pressure"), ("swelling_factor", "swelling factor")):
        own = curve(title, rows, "gas_moles", key)
        out.append(Panel("gas_moles", key, (own, *_measured(answer, key, "gas_moles")), "gas, mol/mol of fluid", title))
    return out


def _characterization(answer: Answer) -> list[Panel]:
    curves = []
    for i, (name, own) in enumerate(answer["curves"].items()):
        points = [(p, t) for p, t in own["points"] if t is not None]
        if name in ("TBP", "D86", "D2887") and points:
            on = "" if own["basis"] == "volume" else f", on {own['basis']}"
            curves.append(
                Curve(f"{name}{on}", tuple(float(p) for p, _ in points), tuple(t for _, t in points), share=0.45 * i)
            )
    shares, at = [], 0.0
    for c in answer["components"]:
        middle = at + 50.0 * c["volume_fraction"]
        at += 100.0 * c["volume_fraction"]
        if c["nbp_K"] is not None:
            shares.append((middle, c["nbp_K"]))
    dots = Curve("components", tuple(a for a, _ in shares), tuple(b for _, b in shares), True, None)
    first = Panel("percent", "temperature_K", (*curves, dots), "distilled, %", "temperature")
    densities = [
        (c["nbp_K"], c["specific_gravity"])
        for c in answer["components"]
        if c["nbp_K"] is not None and c.get("specific_gravity")
    ]
    second = Curve("specific gravity", tuple(a for a, _ in densities), tuple(b for _, b in densities), True, 0.0)
    return [first, Panel("nbp_K", "specific_gravity", (second,), "boiling point", "specific gravity")]


def _black_oil(answer: Answer) -> list[Panel]:
    rows = answer["rows"]
    oil = answer["branch_of"] == "oil"
    at = answer.get("saturation") or {}
    upright = {str(at["kind"]): at["pressure_Pa"]} if at else None
    pairs = (
        [
            ("oil_volume_factor", "oil volume factor", 0.0),
            ("solution_gas_m3_m3", "gas in solution", 0.5),
            ("oil_viscosity_Pa_s", "oil viscosity", 0.0),
        ]
        if oil
        else [("gas_volume_factor", "gas volume factor", 1.0), ("oil_gas_volume_ratio", "oil in gas", 0.5)]
    )
    out = []
    for key, title, share in pairs:
        own = [curve(title, rows, "pressure_Pa", key, share=share)]
        inner = {
            "oil_volume_factor": "volume_factor",
            "oil_viscosity_Pa_s": "viscosity_Pa_s",
            "gas_volume_factor": "volume_factor",
        }.get(key)
        for branch in answer.get("branches", ()):
            if inner in branch:
                own.append(Curve("above saturation", tuple(branch["pressure_Pa"]), tuple(branch[inner]), share=share))
        out.append(Panel("pressure_Pa", key, tuple(own), y_title=title, upright=upright))
    return out


def _optimum(answer: Answer) -> list[Panel]:
    curves = [
        Curve(f"separator {c['stage']}", tuple(c["pressure_Pa"]), tuple(c["relative_liquid"]), share=0.3 * i)
        for i, c in enumerate(answer["curves"])
    ]
    best = {f"best {i + 1}": s["pressure_Pa"] for i, s in enumerate(answer["stages"][:-1])}
    return [
        Panel(
            "pressure_Pa",
            "relative_liquid",
            tuple(curves),
            "pressure of the separator",
            "stock-tank oil, of the most",
            upright=best,
        )
    ]


def _separators(answer: Answer) -> list[Panel]:
    gas = curve("gas of each separator", answer["rows"], "pressure_Pa", "gas_oil_ratio_m3_m3", share=1.0)
    oil = curve("oil of each separator", answer["rows"], "pressure_Pa", "oil_density_kg_m3", share=0.0)
    marked = [Curve(c.name, c.x, c.y, True, c.share) for c in (gas, oil)]
    return [
        Panel("pressure_Pa", "gas_oil_ratio_m3_m3", (gas, marked[0]), y_title="gas of each separator"),
        Panel("pressure_Pa", "oil_density_kg_m3", (oil, marked[1]), y_title="density of its oil"),
    ]


def _lumping(answer: Answer) -> list[Panel]:
    tests = [t for t in (answer.get("tests") or {}).values() if t["difference_percent"] is not None]
    x = tuple(float(i + 1) for i in range(len(tests)))
    changed = Curve("changed by the lumping", x, tuple(t["difference_percent"] for t in tests), True, 0.5)
    return [
        Panel("test", "difference_percent", (changed,), "test, in the order of the table", "change, %", from_zero=True)
    ]


def _components(answer: Answer) -> list[Panel]:
    rows = answer["components"]
    return [
        Panel("molar_mass_g_mol", "Tc_K", (curve("components", rows, "molar_mass_g_mol", "Tc_K", True),), "molar mass", "critical temperature"),
        Panel("molar_mass_g_mol", "Pc_Pa", (curve("components", rows, "molar_mass_g_mol", "Pc_Pa", True),), "molar mass", "critical pressure"),
    ]  # fmt: skip


def _yields(answer: Answer) -> list[Panel]:
    """Return the share of each product as a stair over the boiling point, and its density."""
    rows = [y for y in answer["yields"] if y["volume_fraction"] > 1e-6]
    x = tuple(v for y in rows for v in (y["from_K"], y["to_K"]))
    at, distilled = [], []
    below = 0.0
    for y in rows:
        at += [y["from_K"], y["to_K"]]
        distilled += [100.0 * below, 100.0 * (below + y["volume_fraction"])]
        below += y["volume_fraction"]
    density = tuple(v for y in rows for v in (y["density_kg_m3"], y["density_kg_m3"]))
    first = Panel(
        "temperature_K",
        "percent",
        (Curve("below", tuple(at), tuple(distilled), share=0.45),),
        "boils below",
        "of the whole, vol%",
    )
    return [
        first,
        Panel(
            "temperature_K",
            "density_kg_m3",
            (Curve("density", x, density, share=0.0),),
            "boils between",
            "density of the product",
        ),
    ]


def _line_size(answer: Answer) -> list[Panel]:
    """Return velocity and gradient over the inside diameter, with the limits as lines."""
    rows = [r for r in answer["sizes"] if not r["chokes"]]
    limits = answer["limits"]
    least = next((r for r in rows if r["nominal"] == answer["least"]), None)
    upright = {f"{least['nominal']} in": least["inside_diameter_m"]} if least is not None else None
    # What is far beyond every limit would press the rest to the axis.
    shown = [r for r in rows if least is None or 0.45 <= r["inside_diameter_m"] / least["inside_diameter_m"] <= 2.4]
    x = "inside_diameter_m"
    speed = (
        curve("velocity", shown, x, "velocity_m_s", share=1.0),
        curve("erosional", shown, x, "erosional_velocity_m_s", share=0.5),
    )
    marks = curve("", shown, x, "velocity_m_s", dots=True, share=1.0), curve("", shown, x, "gradient_Pa_m", dots=True)
    return [
        Panel(x, "velocity_m_s", (*speed, marks[0]), "inside diameter", "velocity", {"limit": limits["velocity_m_s"]} if "velocity_m_s" in limits else None, upright, True),
        Panel(x, "gradient_Pa_m", (curve("gradient", shown, x, "gradient_Pa_m"), marks[1]), "inside diameter", "gradient", {"limit": limits["gradient_Pa_m"]} if "gradient_Pa_m" in limits else None, upright, True),
    ]  # fmt: skip


def _line_profile(answer: Answer) -> list[Panel]:
    """Return temperature with the hydrate limit at the pressure there, and elevation, over distance."""
    rows, x = answer["points"], "distance_m"
    limit = [
        {x: p[x], "temperature_K": p["temperature_K"] - p["margins"]["hydrate_margin_K"]}
        for p in rows
        if p["margins"]["hydrate_margin_K"] is not None
    ]
    upright = {s["name"]: s[x] for s in answer["stations"][1:-1]}
    curves = (
        curve("temperature", rows, x, "temperature_K", share=1.0),
        curve("hydrate", limit, x, "temperature_K", share=None),
    )
    return [
        Panel(x, "temperature_K", curves, "distance", "temperature", None, upright),
        Panel(
            x,
            "elevation_m",
            (curve("elevation", rows, x, "elevation_m", share=None),),
            "distance",
            "elevation",
            None,
            upright,
        ),
        Panel(x, "pressure_Pa", (curve("pressure", rows, x, "pressure_Pa"),), "distance", "pressure", None, upright),
    ]


def _glycol_contact(answer: Answer) -> list[Panel]:
    """Return the dew point over the strength."""
    rows, x = answer["curve"], "strength_mass_percent"
    upright = {f"{answer[x]:.2f} wt%": answer[x]}
    own = curve("dew point", rows, x, "dew_point_K", share=0.0)
    return [Panel(x, "dew_point_K", (own,), "strength, wt%", "water dew point", None, upright)]


def _boiling_curve(answer: Answer) -> list[Panel]:
    """Return bubble and dew temperatures over the share of glycol, a pair at every pressure."""
    x, curves = "mass_percent", []
    for i, P in enumerate(dict.fromkeys(p["pressure_Pa"] for p in answer["points"])):
        own = [p for p in answer["points"] if p["pressure_Pa"] == P]
        curves += [
            curve("boils", own, x, "bubble_temperature_K", share=0.3 * i),
            curve("all vapour", own, x, "dew_temperature_K", share=1.0),
        ]
    return [Panel(x, "temperature_K", tuple(curves), "in the liquid, wt%", "temperature")]


def shade_of(band: Mapping[str, Any]) -> Shade | None:
    """Return the band of a curve in an answer about samples as a shade, None where too few reach."""
    rows = [
        row for row in zip(band["low"]["x"], band["low"]["y"], band["high"]["x"], band["high"]["y"]) if None not in row
    ]
    if len(rows) < 2:
        return None
    low_x, low_y, high_x, high_y = (tuple(v) for v in zip(*rows))
    return Shade(band["name"], (low_x, low_y), (high_x, high_y), band["share"])


def _spread(answer: Answer) -> list[Panel]:
    """Return how single numbers are distributed, and every picture with its bands."""
    out = []
    for path, told in answer["reads"].items():
        levels = told.get("distribution")
        if levels and levels[0] < levels[-1]:
            below = tuple(100.0 * i / (len(levels) - 1) for i in range(len(levels)))
            upright = {"as it stands": told["base"]} if told["base"] is not None else None
            own = Curve("below", tuple(levels), below, share=0.45)
            out.append(Panel(path, "percent", (own,), read_words(path), "samples below, %", upright=upright))
    for place in sorted({b["panel"] for b in answer["bands"]}):
        bands = [b for b in answer["bands"] if b["panel"] == place]
        curves = tuple(Curve(b["name"], tuple(b["line"]["x"]), tuple(b["line"]["y"]), share=b["share"]) for b in bands)
        shades = tuple(s for b in bands if (s := shade_of(b)) is not None)
        out.insert(place, Panel(bands[0]["x"], bands[0]["y"], curves, shades=shades))
    return out


PANELS: dict[str, Callable[[Answer], list[Panel]]] = {
    "expansion": _over_pressure(("relative_volume", "relative volume", 0.0), ("liquid_volume_fraction", "liquid, of the volume", 0.0)),
    "depletion": _over_pressure(("liquid_volume_fraction", "liquid, of the volume", 0.0), ("produced_mole_fraction", "produced", 1.0)),
    "liberation": _over_pressure(("oil_volume_factor", "oil volume factor", 0.0), ("solution_gas_m3_m3", "gas in solution", 0.5)),
    "viscosity": _over_pressure(("viscosity_Pa_s", "viscosity", 0.0)),
    "swelling": _swelling, "characterization": _characterization, "black_oil": _black_oil, "separator_optimum": _optimum,
    "separators": _separators, "lumping": _lumping, "components": _components, "yields": _yields,
    "glycol_contact": _glycol_contact, "boiling_curve": _boiling_curve,
    "spread": _spread, "line_size": _line_size, "line_profile": _line_profile,
}  # fmt: skip
"""What draws the answers of each kind; kinds with a picture of their own have none here."""
