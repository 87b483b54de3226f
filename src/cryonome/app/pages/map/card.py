"""The card of the answers in the trail: what of the map is told there."""

from __future__ import annotations

from ....document.references import is_about
from ....equilibrium.extremes import with_stable_extremes
from ....remarks import measure
from ....units import SETS, format_number, from_si, label
from ...shell.live import Live


def line(live: Live) -> str:
    """Return the line below the card: the least margin of paths, or how far the envelope goes."""
    whole = live.envelope()
    if live.jobs.busy("map"):
        return "tracing the envelope …"
    if whole is None:
        return "nothing yet"
    worst = worst_margin(live)
    if worst is not None:
        return worst
    regions = live.results["regions"]
    top = with_stable_extremes(whole, None if regions.old else regions.value).cricondenbar
    unit = live.document.display.map.pressure or SETS[live.document.display.units]["pressure"]
    if top is None:
        return "open envelope"
    return f"envelope to {format_number(from_si(top.P, unit, 'pressure'), 3)} {label(unit)}"


def worst_margin(live: Live) -> str | None:
    """Return the least margin of all kept paths about the chosen fluid in a few words, None where there is none."""
    found = []
    for study in live.kept():
        answer = live.answer(study.name).value if study.kind == "path" and is_about(study, live.fluid_name) else None
        found += [m for m in (answer or {}).get("least", ()) if m["limit"] in ("hydrate", "ice")]
    if not found:
        return None
    least = min(found, key=lambda m: m["margin_K"])
    amount = live.units().text(measure(abs(least["margin_K"]), "temperature_difference", 1))
    return f"{amount} {'to' if least['margin_K'] >= 0 else 'inside'} {least['limit'].replace('_', ' ')}"


def mark(live: Live) -> str:
    """Return the state of the card."""
    if live.jobs.busy("map"):
        return "work"
    if live.map.value is None:
        return "open"
    return "look" if live.map.old or live.map.error else "done"
