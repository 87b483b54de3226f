"""The fit of a match: from what is asked to its answer, and the sets of parameters that are worth a try."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document import Fluid
from ..document.model import TunedChange, Tuning
from ..fluids.tuned import ids_of, mark
from ..remarks import Remark, Value
from ..results.context import Answer, Context, NoAnswerError
from ..results.evaluator import Project
from ..results.simulated_tests import telling
from ..tuning import ANY_SIGN, PROPERTIES, Base, Fit, Proposal, alike, fit, heavy_ends, propose
from ..tuning.fit import derivatives
from ..watch import Watch
from .elsewhere import elsewhere, soundness
from .match_view import Moving, view_of
from .parameters import Ask, Bench, Test, Wanted, deviations, ours, places, set_up

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Matched:
    """A fit with its bench: the parameters ``wanted``, the proposal they come from (None where they were asked), and
    the ``fit``."""

    bench: Bench
    wanted: tuple[Wanted, ...]
    proposal: Proposal | None
    fit: Fit
    remarks: tuple[Remark, ...]


@dataclass(frozen=True)
class Sensitivity:
    """What parameters can do: ``wanted`` (p,), by parameter and kind of data (p, k) how many standard deviations its
    usual width moves them as a root mean square, the ``kinds`` (k,), how ``alike`` they are (p, p), and the
    ``proposal``."""

    wanted: tuple[Wanted, ...]
    labels: tuple[str, ...]
    kinds: tuple[str, ...]
    reach: Array
    alike: Array
    proposal: Proposal


KINDS = {
    "pressure_Pa": "saturation", "relative_volume": "relative volume", "liquid_volume_fraction": "liquid", "produced_mole_fraction": "gas produced",
    "Z_gas": "Z", "Z_two_phase": "Z", "gas_Z": "Z", "Z": "Z", "oil_volume_factor": "volume factor", "saturated_oil_volume_factor": "volume factor", "total_volume_factor": "volume factor",
    "solution_gas_m3_m3": "gas-oil ratio", "saturated_solution_gas_m3_m3": "gas-oil ratio", "gas_oil_ratio_m3_m3": "gas-oil ratio", "gas_gravity": "gas gravity", "api": "density",
    "swelling_factor": "relative volume", "Y": "relative volume", "temperature_K": "saturation", "gas_volume_factor": "Z", "saturation_pressure_Pa": "saturation",
}  # fmt: skip


def kind_of(key: str) -> str:
    """Return the kind of data that a key is of."""
    last = key.rsplit(".", 1)[-1]
    if key.startswith(("gas.", "liquid.")) or ".composition." in key:
        return "composition"
    if last.endswith("density_kg_m3"):
        return "density"
    if last.endswith(("viscosity_Pa_s", "viscosity_m2_s")):
        return "viscosity"
    return KINDS.get(last, last.replace("_", " "))


def label(wanted: Wanted, base: Base) -> str:
    """Return what a parameter is called, its components by their names."""
    own = _named(wanted.components, base)
    if wanted.partners:
        pair = f"k {_named(wanted.partners, base)}–{own}"
        return {"kij": pair, "kij_factor": f"all {pair}"}.get(wanted.property, f"exponent of {pair}")
    short = {"molar_mass": "molar mass", "a": "attraction", "b": "covolume"}.get(wanted.property, wanted.property)
    return f"{short} of {own}"


def _named(names: Sequence[str], base: Base) -> str:
    by = {c.identity: c.name for c in base.components}
    told = ["heavy ends" if n == "heavy" else by.get(n, n) for n in names]
    return ", ".join(told[:3]) + (" …" if len(told) > 3 else "")


def candidates(base: Base) -> tuple[Wanted, ...]:
    """Return the parameters that are worth a look for a fluid."""
    heavy = heavy_ends(base.components)
    if not heavy:
        return ()
    wide = [Wanted(k, ("heavy",), (), PROPERTIES[k].low, PROPERTIES[k].high) for k in ("Tc", "Pc", "omega", "shift")]
    # What was measured is the molar mass of all of them together.
    own = PROPERTIES["molar_mass"]
    wide.append(Wanted("molar_mass", ("heavy",), (), own.low, own.high))
    by = {c.name: i for i, c in enumerate(base.components)}
    kij = PROPERTIES["kij"]
    if "methane" in by:
        own = PROPERTIES["kij_factor"]
        some = any(base.pairs.kij[by["methane"], i] for i in heavy)
        wide.append(
            Wanted("kij_factor", ("heavy",), ("methane",), own.low, own.high)
            if some
            else Wanted("kij", ("heavy",), ("methane",), kij.low, kij.high)
        )
    if "carbon dioxide" in by and base.z[by["carbon dioxide"]] > 0.01:
        wide.append(Wanted("kij", ("heavy",), ("carbon dioxide",), 0.0, kij.high))
    wide.append(Wanted("viscosity", ("heavy",), (), PROPERTIES["viscosity"].low, PROPERTIES["viscosity"].high))
    return tuple(wide)


def sensitivity(asked: Ask, project: Project, wanted: Sequence[Wanted] = ()) -> Sensitivity:
    """Return what parameters can move, all candidates where none are named. Raises DomainError."""
    found = set_up(asked, project, (), [])
    if not any(t.size for t in found.fitted):
        raise NoAnswerError(Remark("warning", "match.nothing_measured"))
    wanted = tuple(wanted) or candidates(found.tests[0].base)
    if not wanted:
        raise NoAnswerError(Remark("warning", "match.no_heavy"))
    found.wanted = wanted
    x = found.starts()
    prior = np.array([w.prior or PROPERTIES[w.property].prior for w in wanted])
    low, high = (np.array([getattr(w, k) for w in wanted]) for k in ("low", "high"))
    residuals = found.residuals(x[None, :], keep=True)[0]
    there = np.isfinite(residuals)
    J = derivatives(lambda v: found.residuals(v)[:, there], x, low, high, prior)
    kinds = np.array([kind_of(d.key) for t in found.fitted for d in t.data for _ in d.values])[there]
    names = tuple(dict.fromkeys(kinds.tolist()))
    reach = np.array(
        [[np.sqrt(np.mean((J[kinds == k, i] * prior[i]) ** 2)) for k in names] for i in range(len(wanted))]
    )
    labels = tuple(label(w, found.tests[0].base) for w in wanted)
    return Sensitivity(wanted, labels, names, reach, alike(J * prior), propose(J, residuals[there], prior.tolist()))


def reach_of(asked: Ask, project: Project) -> Sensitivity:
    """Return what all candidates can move of a match of the project, remembered: the page shows it, and a fit that
    proposes begins with it."""
    study = project.document.study(asked.name)
    bare = replace(asked, parameters=())
    if study is None:
        return sensitivity(bare, project)
    key = ("match reach", bare, project.content_of(study))
    return project.evaluator.cache.get(key, lambda: sensitivity(bare, project))


def matched(asked: Ask, project: Project, watch: Watch) -> Matched:
    """Return the fit of a match. Raises DomainError, Cancelled where it is withdrawn before a first step."""
    remarks: list[Remark] = []
    wanted, proposal = asked.parameters, None
    if not wanted:
        first = reach_of(asked, project)
        proposal = first.proposal
        wanted = tuple(first.wanted[k] for k in proposal.taken)
        if not wanted:
            raise NoAnswerError(Remark("warning", "match.nothing_moves"))
        remarks += proposed_words(first)
    own = set_up(asked, project, wanted, remarks)
    points = sum(t.size for t in own.fitted)
    if points == 0:
        raise NoAnswerError(*remarks, Remark("warning", "match.nothing_measured"))
    if points < len(wanted) and not all(w.prior for w in wanted):
        raise NoAnswerError(Remark("warning", "match.too_few", "", {"points": points, "parameters": len(wanted)}))
    if points < 3 * len(wanted):
        remarks.append(Remark("warning", "match.few", "", {"points": points, "parameters": len(wanted)}))
    x = own.starts()
    scale = np.array([PROPERTIES[w.property].prior for w in wanted])
    low, high = (np.array([getattr(w, k) for w in wanted]) for k in ("low", "high"))
    scale = np.minimum(scale, 0.25 * (high - low))
    prior = np.array([np.inf if w.prior is None else w.prior for w in wanted])
    base = own.tests[0].base

    def residuals(values: Array) -> Array:
        return own.residuals(values, keep=values.shape[0] == 1)

    fits = project.evaluator.fits
    untouched = own.simulated(None)

    def moved(best: Array, r: Array, steps: int) -> None:
        fits.tell(asked.name, lambda: Moving(view_of(own, untouched, own.completed(best)), steps))

    fits.ended.discard(asked.name)
    ends = replace(watch, cancelled=lambda: watch.cancelled() or asked.name in fits.ended)
    found = fit(residuals, x, low, high, scale, prior, ends, moved)
    watch.check()
    for i in np.flatnonzero(found.at_bound).tolist():
        end = low[i] if found.values[i] - low[i] < high[i] - found.values[i] else high[i]
        remarks.append(
            Remark("warning", "match.at_bound", "", {"parameter": label(wanted[i], base), "value": float(end)})
        )
    c = np.abs(found.correlation - np.eye(len(wanted)))
    for i in range(len(wanted)):
        for j in range(i):
            if c[i, j] > 0.95:
                values: dict[str, Value] = {
                    "one": label(wanted[j], base),
                    "other": label(wanted[i], base),
                    "share": float(c[i, j]),
                }
                remarks.append(Remark("warning", "match.correlated", "", values))
    silent = [label(w, base) for w, column in zip(wanted, np.nan_to_num(found.jacobian).T) if not np.any(column)]
    if silent:
        remarks.append(Remark("warning", "match.moves_nothing", "", {"parameters": tuple(silent)}))
    if np.isfinite(found.scatter) and found.scatter > 3.0:
        remarks.append(Remark("warning", "match.scatter", "", {"scatter": found.scatter}))
    return Matched(own, wanted, proposal, found, tuple(remarks))


def proposed_words(found: Sensitivity) -> list[Remark]:
    """Say which parameters were chosen and why the others were not."""
    chosen = tuple(found.labels[k] for k in found.proposal.taken)
    out = [Remark("estimate", "match.proposed", "", {"parameters": chosen})]
    for k, why, other in found.proposal.why:
        values: dict[str, Value] = {"parameter": found.labels[k]}
        if why == "alike":
            values |= {"other": found.labels[other], "share": float(abs(found.alike[k, other]))}
        out.append(Remark("estimate", f"match.{why}", "", values))
    return out


def tuning_of(found: Matched, name: str, values: Array | None = None) -> Tuning:
    """Return what a fluid takes as its tuning: the changes by component id."""
    base = found.bench.tests[0].base
    values = found.fit.values if values is None else values
    changes = []
    for w, value in zip(found.wanted, values):
        own, others = (
            tuple(base.components[i].identity for i in places(base, names)) for names in (w.components, w.partners)
        )
        changes.append(TunedChange(property=w.property, components=own, partners=others, value=float(value)))
    made = Tuning(by=name, changes=tuple(changes))
    return made.model_copy(update={"of": mark(base.components, base.z, ids_of(made))})


def with_tuning(fluid: Fluid, tuning: Tuning | None) -> Fluid:
    """Return a fluid with a tuning, or without."""
    return fluid.model_copy(update={"model": fluid.model.model_copy(update={"tuned": tuning})})


def fitted(asked: Ask, context: Context) -> Answer:
    """Return the answer of a match."""
    project = context.project
    fluid = context.fluid(asked.fluid)
    found = matched(asked, project, context.watch.part(0.0, 0.8))
    result, own = found.fit, found.bench
    before, after = own.simulated(None), own.simulated(result.values[None, :])
    tuning = tuning_of(found, asked.name)
    plain, tuned_fluid = with_tuning(fluid, None), with_tuning(fluid, tuning)
    remarks = list(found.remarks)
    # What stands on the fluid's own model answers for the tuning too: it is made from the document as anyone's would
    # be.
    old, new = project.fluid(plain), project.fluid(tuned_fluid)
    remarks += soundness(old, new, _states(own.tests))
    old_dev, new_dev = deviations(before, own.tests), deviations(after, own.tests)
    points = _points(own.tests, before, after)
    answer: Answer = {
        "parameters": [_parameter(w, i, own, result) for i, w in enumerate(found.wanted)],
        "deviations": {t.name: {"before": old_dev[t.name], "after": new_dev[t.name], "worst_after": _worst(p for p in points if p["test"] == t.name), "points": t.size, "held_out": t.held} for t in own.tests},
        "by_kind": _by_kind(points, own.tests), "points": points, "correlations": result.correlation.tolist(),
        "sensitivities": _reach(found), "proposed": found.proposal is not None, "reason": result.reason, "steps": result.steps,
        "scatter": result.scatter if np.isfinite(result.scatter) else None,
        "elsewhere": elsewhere(project, plain, tuned_fluid, context.watch.part(0.8, 1.0)),
        "tuned": tuning.model_dump(mode="json", by_alias=True),
    }  # fmt: skip
    if any(
        e["key"] == "critical_temperature_K" and e["before"] is not None and e["after"] is None
        for e in answer["elsewhere"]
    ):
        remarks.append(Remark("warning", "match.envelope"))
    if fluid.model.tuned is not None:
        remarks.append(Remark("estimate", "match.from_untuned"))
    return {**answer, "notes": [*remarks]}


def _parameter(wanted: Wanted, i: int, own: Bench, found: Fit) -> Answer:
    base = own.tests[0].base
    names, partners = (
        [base.components[k].name for k in places(base, group)] for group in (wanted.components, wanted.partners)
    )
    # A bound of the parameter bounds its interval as well: beyond it nothing was tried.
    low, high = (min(max(v, wanted.low), wanted.high) for v in found.interval[i].tolist())
    if not PROPERTIES[wanted.property].plain and wanted.property not in ANY_SIGN:
        # The range is that of a straight line; a factor ends at nothing.
        low = max(low, 0.0)
    return {
        "label": label(wanted, base),
        "property": wanted.property,
        "components": names,
        "with_components": partners,
        "start": float(own.starts()[i]),
        "value": float(found.values[i]),
        "standard_deviation": float(found.deviation[i]) if np.isfinite(found.deviation[i]) else None,
        "interval": [low if np.isfinite(low) else None, high if np.isfinite(high) else None],
        "between": [wanted.low, wanted.high],
        "at_bound": bool(found.at_bound[i]),
    }


def _states(tests: Sequence[Test]) -> list[tuple[float, float]]:
    out = []
    for test in tests:
        T = test.temperature
        if T is not None and test.how.along == "pressure_Pa" and test.kind != "separators":
            out += [(T, float(P)) for P in test.how.places(test.ready)]
    return out[:60]


def _points(tests: Sequence[Test], before: dict, after: dict) -> list[Answer]:  # type: ignore[type-arg]
    out: list[Answer] = []
    for test in tests:
        for d in test.data:
            one, other = ours(before[test.name], d), ours(after[test.name], d)
            for i, value in enumerate(d.values):
                pair = [None if v is None or not np.isfinite(v[0, i]) else float(v[0, i]) for v in (one, other)]
                out.append({
                    "test": test.name, "key": d.key, "row": None if d.rows is None else int(d.rows[i]), "measured": float(value),
                    "uncertainty": float(d.sigma[i]), "before": pair[0], "after": pair[1],
                })  # fmt: skip
    return out


def _off(points: Sequence[Answer], key: str) -> list[float]:
    return [
        100.0 * abs(p[key] / p["measured"] - 1.0)
        for p in points
        if p[key] is not None and telling(p["key"], p["measured"])
    ]


def _worst(points: object) -> float | None:
    off = _off(list(points), "after")  # type: ignore[call-overload]
    return max(off) if off else None


def _by_kind(points: Sequence[Answer], tests: Sequence[Test]) -> dict[str, Answer]:
    held = {t.name for t in tests if t.held}
    out: dict[str, Answer] = {}
    groups: dict[str, list[Answer]] = {}
    for p in points:
        name = kind_of(p["key"]) + (", held out" if p["test"] in held else "")
        groups.setdefault(name, []).append(p)
    for name, own in groups.items():
        before, after = _off(own, "before"), _off(own, "after")
        mean = [sum(v) / len(v) if v else None for v in (before, after)]
        out[name] = {
            "before": mean[0],
            "after": mean[1],
            "worst_after": max(after) if after else None,
            "points": len(own),
            "held_out": name.endswith("held out"),
        }
    return out


def _reach(found: Matched) -> dict[str, dict[str, float]]:
    kinds = np.array([kind_of(d.key) for t in found.bench.fitted for d in t.data for _ in d.values])
    J = np.nan_to_num(found.fit.jacobian)
    out: dict[str, dict[str, float]] = {}
    for i, w in enumerate(found.wanted):
        width = PROPERTIES[w.property].prior
        out[label(w, found.bench.tests[0].base)] = {
            k: float(np.sqrt(np.mean((J[kinds == k, i] * width) ** 2))) for k in dict.fromkeys(kinds.tolist())
        }
    return out


def fitted_parameters(answer: Mapping[str, Any]) -> tuple[tuple[Wanted, ...], Array]:
    """Return the parameters of an answer, by the names of their components, and their values (p,)."""
    wanted = tuple(
        Wanted(p["property"], tuple(p["components"]), tuple(p["with_components"]), *p["between"])
        for p in answer["parameters"]
    )
    return wanted, np.array([p["value"] for p in answer["parameters"]])
