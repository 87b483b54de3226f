"""The pictures of a question's answer, from the answer alone: what a report shows is what it tells.

*How to give a kind a picture.* Most have panels (:mod:`cryonome.telling.panels`), which are drawn without more. What
needs other axes has a function here, entered in :data:`FIGURES`."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..document import Study
from ..document.field_types import STUDIES
from ..document.references import about
from ..results.evaluator import Project
from ..telling.banded import banded
from ..telling.colours import LIGHT
from ..telling.panels import panels_of
from ..telling.sentences import Units
from ..telling.spread_words import REST
from ..telling.table_blocks import Shown, axes_of, inputs_of, of_key, varied_of
from . import maps
from .figure import DASHED, Figure, Mark, Stroke, heading, of_panel

MOST = 4
"""Pictures of one question."""
CURVES = 6
"""Values of a table's second axis that are drawn as lines."""


@dataclass(frozen=True)
class Told:
    """A question with its answer, the project they are of, and the reader's units."""

    study: Study
    answer: Mapping[str, Any]
    project: Project
    units: Units

    @property
    def axes(self) -> maps.Axes:
        """Temperature and pressure as the map shows them."""
        return maps.axes_of_map(self.project.document, self.units)


def figures_of(told: Told) -> list[Figure]:
    """Return the pictures of an answer, at most :data:`MOST`; none where there is none to be drawn."""
    if not told.answer.get("ok"):
        return []
    make = FIGURES.get(told.study.kind)
    if make is not None:
        found = make(told)
    else:
        found = [of_panel(p, told.units) for p in panels_of(told.study.kind, told.answer)]
    return [f for f in found if not f.empty][:MOST]


def _panels(told: Told) -> list[Figure]:
    return [of_panel(p, told.units) for p in banded(told.study.kind, dict(told.answer))]


def _envelope(told: Told) -> list[Figure]:
    return [maps.envelope(told.answer, told.axes)]


def _saturation(told: Told) -> list[Figure]:
    axes = told.axes
    marks = [axes.mark(p["kind"], p["temperature_K"], p["pressure_Pa"]) for p in told.answer["points"]]
    return [maps.on_map(told.study, told.project, axes, marks)]


def _flash(told: Told) -> list[Figure]:
    axes, a = told.axes, told.answer
    return [
        maps.on_map(told.study, told.project, axes, [axes.mark(told.study.name, a["temperature_K"], a["pressure_Pa"])])
    ]


def _hydrate(told: Told) -> list[Figure]:
    return [maps.hydrate(told.answer, told.axes)]


def _path(told: Told) -> list[Figure]:
    axes, stations = told.axes, told.answer["stations"]
    T, P = [s["temperature_K"] for s in stations], [s["pressure_Pa"] for s in stations]
    marks = [replace(axes.mark("", t, p, marker="o"), text=s["name"]) for s, t, p in zip(stations, T, P)]
    first = maps.on_map(told.study, told.project, axes, marks, [axes.stroke("path", T, P, LIGHT.ink)])
    return [first, *(replace(f, columns=tuple(s["name"] for s in stations), x_title="") for f in _panels(told))]


def _process(told: Told) -> list[Figure]:
    axes = told.axes
    marks = [
        Mark(
            name,
            axes.T.plain(s["temperature_K"]),
            axes.P.plain(s["pressure_Pa"]),
            LIGHT.of_share(s["vapour_fraction"]),
            "o",
        )
        for name, s in told.answer["streams"].items()
        if s.get("temperature_K") is not None and s.get("vapour_fraction") is not None
    ]
    return [replace(axes.figure((), marks), title="Streams")]


def _isotherms(told: Told) -> list[Figure]:
    v, p = of_key("molar_volume_m3_mol", told.units), of_key("pressure_Pa", told.units)
    out = []
    measured = told.answer.get("measured") or {}
    for own in told.answer["equations"]:
        strokes = []
        top = 0.0
        for i, line in enumerate(own["isotherms"]):
            colour = LIGHT.of_share(i / max(len(own["isotherms"]) - 1, 1))
            T = told.units.of_states()
            name = f"{of_key('temperature_K', T).short(line['temperature_K'])} {of_key('temperature_K', T).head[1]}"
            strokes.append(Stroke(name, *_pair(v, p, line["molar_volume_m3_mol"], line["pressure_Pa"]), colour))
        line = own.get("saturation_line") or {}
        for side in ("liquid_m3_mol", "vapour_m3_mol"):
            if line.get(side):
                strokes.append(
                    Stroke("saturation", *_pair(v, p, line[side], line["pressure_Pa"]), LIGHT.mute, 1.2, DASHED)
                )
        for side in ("liquid_m3_mol", "vapour_m3_mol"):
            if measured.get(side):
                strokes.append(
                    Stroke("measured", *_pair(v, p, measured[side], measured["pressure_Pa"]), LIGHT.ink, marker="s")
                )
        at = own.get("critical")
        marks = []
        if at:
            marks = [Mark("critical", v.plain(at["molar_volume_m3_mol"]), p.plain(at["pressure_Pa"]))]
            top = 2.2 * p.plain(at["pressure_Pa"])
            low = 0.25 * v.plain(at["molar_volume_m3_mol"])
            found = [x for s in strokes for x in s.x]
            x_range = (low, max(min(max(found), 160.0 * low), 20.0 * low)) if found else None
            out.append(
                Figure(heading(v), heading(p), tuple(strokes), (), tuple(marks), x_range=x_range, y_range=(0.0, top), x_log=True, title=own["equation"])
            )  # fmt: skip
        else:
            out.append(Figure(heading(v), heading(p), tuple(strokes), x_log=True, title=own["equation"]))
    return out


def _roots(told: Told) -> list[Figure]:
    v, p = of_key("molar_volume_m3_mol", told.units), of_key("pressure_Pa", told.units)
    line, P = told.answer["isotherm"], told.answer["pressure_Pa"]
    real = [r for r in told.answer["roots"] if abs(r["Z_imaginary"]) < 1e-12 and r.get("molar_volume_m3_mol")]
    marks = [
        Mark(f"Z = {r['Z_real']:.4g}{', stable' if r['stable'] else ''}", v.plain(r["molar_volume_m3_mol"]), p.plain(P), LIGHT.good if r["stable"] else LIGHT.mute, "o")
        for r in real
    ]  # fmt: skip
    stroke = Stroke(
        "isotherm", *_pair(v, p, line["molar_volume_m3_mol"], line["pressure_Pa"]), LIGHT.liquid, named=False
    )
    volumes = [m.x for m in marks]
    x_range = (0.6 * min(volumes), 2.5 * max(volumes)) if volumes else None
    inside = [b for a, b in zip(stroke.x, stroke.y) if x_range and 0.95 * min(volumes) <= a <= 1.3 * max(volumes)]
    low, high = min([*inside, 0.0]), max([*inside, p.plain(P)])
    return [Figure(heading(v), heading(p), (stroke,), (), tuple(marks), level=(("asked", p.plain(P)),), x_range=x_range, y_range=(low - 0.05 * (high - low), high + 0.3 * (high - low)), x_log=True)]  # fmt: skip


def _pair(x: Shown, y: Shown, xs: Sequence[float], ys: Sequence[float]) -> tuple[tuple[float, ...], tuple[float, ...]]:
    found = [(x.plain(a), y.plain(b)) for a, b in zip(xs, ys) if a is not None and b is not None]
    return tuple(a for a, _ in found), tuple(b for _, b in found)


def _table(told: Told) -> list[Figure]:
    """Return each property over the first axis, a line for some values of the second."""
    answer = told.answer
    if len(answer["axes"]) == 1:
        return _panels(told)
    axes = axes_of(answer, told.units)
    first, second = answer["axes"]
    step = max(1, -(-len(second) // CURVES))
    chosen = sorted({*range(0, len(second), step), len(second) - 1})
    out = []
    for key, rows in answer["properties"].items():
        shown = of_key(key, told.units)
        strokes = []
        for j in chosen:
            name = f"{axes[1].exact(second[j])} {axes[1].head[1]}".strip()
            colour = LIGHT.of_share(j / max(len(second) - 1, 1))
            strokes.append(Stroke(name, *_pair(axes[0], shown, first, [row[j] for row in rows]), colour, 1.6))
        out.append(Figure(heading(axes[0]), heading(shown), tuple(strokes)))
    return out


def _sweep(told: Told) -> list[Figure]:
    answer = told.answer
    shown = inputs_of(answer, told.units)
    rows = [r for r in answer["rows"] if r.get("ok", True)]
    out = []
    for k, path in enumerate(answer["paths"]):
        y = of_key(path, told.units)
        if any(isinstance(r["read"][k], str) for r in rows):
            continue
        if len(shown) == 1:
            pair = _pair(shown[0], y, [varied_of(r)[0] for r in rows], [r["read"][k] for r in rows])
            own = LIGHT.of_share(0.0)
            strokes = [Stroke(y.name, *pair, own, named=False), Stroke("", *pair, own, marker="o")]
        else:
            others = sorted({varied_of(r)[1] for r in rows})
            step = max(1, -(-len(others) // CURVES))
            strokes = []
            for j in range(0, len(others), step):
                line = [r for r in rows if varied_of(r)[1] == others[j]]
                name = f"{shown[1].exact(others[j])} {shown[1].head[1]}".strip()
                pair = _pair(shown[0], y, [varied_of(r)[0] for r in line], [r["read"][k] for r in line])
                strokes.append(Stroke(name, *pair, LIGHT.of_share(j / max(len(others) - 1, 1))))
        out.append(Figure(heading(shown[0]), heading(y), tuple(strokes)))
    return out


def _goal(told: Told) -> list[Figure]:
    """Return the pictures of what was asked, with the value that was found."""
    other = told.project.document.study(about(told.study, STUDIES))
    inner = told.answer.get("answer")
    if other is None or not isinstance(inner, Mapping):
        return []
    return figures_of(Told(other, inner, told.project, told.units))


def _match(told: Told) -> list[Figure]:
    """Return the deviation of every test before and after."""
    tests = told.answer["deviations"]
    names = tuple(f"{name}{', held out' if t['held_out'] else ''}" for name, t in tests.items())
    found = list(tests.values())
    strokes = [
        Stroke(words, tuple(t[key] for t in found if t[key] is not None), tuple(float(i) for i, t in enumerate(found) if t[key] is not None), colour, marker=marker)
        for key, words, colour, marker in (("before", "before", LIGHT.mute, "o"), ("after", "after", LIGHT.accent, "d"))
    ]  # fmt: skip
    return [Figure("Average deviation, %", "", tuple(strokes), rows=names, from_zero=True)]


def _spread(told: Told) -> list[Figure]:
    """Return what the spread comes from, and the distributions and bands."""
    words = {u["name"]: u["words"] for u in told.answer["uncertain"]}
    shares: Mapping[str, Any] = next(iter(told.answer["shares"].values()), {})
    found = [(words.get(name, name), own) for name, own in shares.items() if name != REST and isinstance(own, float)]
    rows = sorted(found, key=lambda row: -row[1])
    out = [of_panel(p, told.units) for p in panels_of("spread", told.answer)]
    if rows:
        names = tuple(name for name, _ in rows[:8])
        values = tuple(100.0 * share for _, share in rows[:8])
        places = tuple(float(i) for i in range(len(names)))
        out.append(
            Figure("Share of the spread, %", "", (Stroke("", values, places, LIGHT.accent, marker="d"),), rows=names, from_zero=True)
        )  # fmt: skip
    return out


def _water_content(told: Told) -> list[Figure]:
    rows = told.answer["rows"]
    x, y = of_key("temperature_K", told.units.of_states()), of_key("vapour_water_kg_mol", told.units)
    strokes = []
    pressures = sorted({r["pressure_Pa"] for r in rows})
    p = of_key("pressure_Pa", told.units.of_states())
    for j, P in enumerate(pressures):
        line = [r for r in rows if r["pressure_Pa"] == P]
        name = f"{p.exact(P)} {p.head[1]}"
        pair = _pair(x, y, [r["temperature_K"] for r in line], [r["vapour_water_kg_mol"] for r in line])
        strokes.append(Stroke(name, *pair, LIGHT.of_share(j / max(len(pressures) - 1, 1))))
    return [Figure(heading(x), heading(y), tuple(strokes), y_log=True)]


FIGURES: dict[str, Callable[[Told], list[Figure]]] = {
    "envelope": _envelope, "saturation": _saturation, "flash": _flash, "hydrate": _hydrate, "path": _path,
    "process": _process, "isotherms": _isotherms, "roots": _roots, "table": _table, "sweep": _sweep, "goal": _goal,
    "match": _match, "spread": _spread, "vapour_pressure": _panels, "water_content": _water_content,
}  # fmt: skip
"""What draws the answers of each kind that has no panels, or wants more than they are."""
