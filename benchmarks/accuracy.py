"""Write docs/accuracy.md: the models against published measurements, untuned.

.venv/bin/python benchmarks/accuracy.py
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

import aqueous_accuracy
import hydrate_accuracy
import lab_reports
import published
import span_wagner
import unseen

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "scripts"))

import alpha_parameters  # noqa: E402

from cryonome.components import find  # noqa: E402
from cryonome.components.saturation_data import SATURATION  # noqa: E402
from cryonome.constants import ATM, R  # noqa: E402
from cryonome.document import parse_document  # noqa: E402
from cryonome.eos.building import Interaction, equation_of, shift_fits, volume_shift  # noqa: E402
from cryonome.equilibrium.critical import critical_point  # noqa: E402
from cryonome.equilibrium.flash import flash_pt  # noqa: E402
from cryonome.equilibrium.pure import saturation_pressure  # noqa: E402
from cryonome.properties import Substance, evaluate  # noqa: E402
from cryonome.questions import solve  # noqa: E402

Array = NDArray[np.float64]
MODELS = (
    ("PR78", "own"), ("PR78", "published"), ("SRK", "own"), ("SRK", "published"), ("PC-SAFT", "own"), ("RK", "own"), ("VDW", "own"),
)  # fmt: skip
NONE = Interaction(np.zeros((1, 1)))
PSI = 6894.757293168


def told(percent: Array) -> str:
    """Return average and worst of deviations in percent, nan left out."""
    there = np.abs(percent[np.isfinite(percent)])
    return f"{there.mean():.2f}, {there.max():.1f}" if there.size else "–"


def vapour_pressures() -> list[str]:
    """Return the table of vapour pressures at Tr 0.5 to 0.95."""
    heads = [f"{e}{', fitted alpha' if a == 'published' else ''}" for e, a in MODELS]
    rows = [f"| component | {' | '.join(heads)} |", "| --- |" + " --- |" * len(MODELS)]
    total: list[list[Array]] = [[] for _ in MODELS]
    for name in alpha_parameters.SATURATION:
        T, P = alpha_parameters.boiling(name)
        c = find(name)
        inside = (0.5 * c.Tc <= T) & (0.95 * c.Tc >= T)
        cells = []
        for k, (form, alpha) in enumerate(MODELS):
            eos = equation_of(form, [c], NONE, alpha)
            off = 100.0 * (saturation_pressure(eos, T[inside, None])[:, 0] / P[inside] - 1.0)
            total[k].append(off)
            cells.append(told(off))
        rows.append(f"| {name} | {' | '.join(cells)} |")
    rows.append(f"| **all** | {' | '.join(f'**{told(np.concatenate(t))}**' for t in total)} |")
    return rows


def liquid_densities() -> list[str]:
    """Return the table of saturated liquid densities at Tr 0.5 to 0.9."""
    ways = [
        (e, s)
        for e in ("PR78", "SRK", "PC-SAFT")
        for s in ("none", "peneloux", "jhaveri-youngren", "density")
        if shift_fits(s, e)
    ]
    rows = [f"| component | {' | '.join(f'{e}, {s}' for e, s in ways)} |", "| --- |" + " --- |" * len(ways)]
    for name, data in SATURATION.items():
        T = np.linspace(max(0.5 * data.Tc, data.lowest), 0.9 * data.Tc, 20)
        _, measured, _ = data.at(T)
        cells = []
        for form, shift in ways:
            c = [find(name)]
            eos = equation_of(form, c, NONE, "published")
            P = saturation_pressure(eos, T[:, None])[:, 0]
            V = (
                eos.prepare(T, P).ln_phi(np.ones((T.size, 1)), "liquid")[1] * R * T / P
                - volume_shift(shift, form, c, eos)[0]
            )
            cells.append(told(100.0 * (measured / V - 1.0)))
        rows.append(f"| {name} | {' | '.join(cells)} |")
    return rows


def states() -> list[str]:
    """Return the table of properties at single states."""
    ways = (
        ("PR78", "fitted-states"), ("PR78", "corresponding-states"), ("PR78", "lbc"), ("PC-SAFT", "fitted-states"),
    )  # fmt: skip
    rows = [
        "| property | states | PR78 | PR78, Pedersen–Fredenslund | PR78, Lohrenz–Bray–Clark | PC-SAFT |", "| --- | --- | --- | --- | --- | --- |",
    ]  # fmt: skip
    for key, points in published.STATES.items():
        cells = []
        for form, viscosity in ways:
            off = []
            for name, T, P, value in points:
                c = (find(name),)
                eos = equation_of(form, c, NONE)
                own = Substance(eos, c, volume_shift("density", form, c, eos), viscosity=viscosity)
                found = evaluate(own, flash_pt(eos, [T], [P], np.ones(1)), (key,)).phase[key][0, 0]
                off.append(100.0 * (found / value - 1.0))
            cells.append(told(np.array(off)) if key == "viscosity" or viscosity == "fitted-states" else "")
        rows.append(f"| {key.replace('_', ' ')} | {len(points)} | {' | '.join(cells)} |")
    return rows


def solubilities() -> list[str]:
    """Return the table of gas solubilities."""
    forms = ("PR78", "SRK", "PC-SAFT")
    gases = dict.fromkeys(g for g, _ in published.SOLUBILITIES)
    rows = ["| gas | liquids | PR78 | SRK | PC-SAFT |", "| --- | --- | --- | --- | --- |"]
    for gas in gases:
        pairs = [(s, x) for (g, s), x in published.SOLUBILITIES.items() if g == gas]
        cells = []
        for form in forms:
            off = []
            for solvent, measured in pairs:
                eos = unseen.pairs_of((gas, solvent), form)
                at = eos.prepare([298.15], [ATM])
                dissolved = at.ln_phi(np.array([[1e-9, 1 - 1e-9]]), "liquid")[0][0, 0]
                pure = at.ln_phi(np.array([[1 - 1e-9, 1e-9]]), "vapour")[0][0, 0]
                off.append(100.0 * (1e4 * np.exp(pure - dissolved) / measured - 1.0))
            cells.append(told(np.array(off)))
        rows.append(f"| {gas} | {len(pairs)} | {' | '.join(cells)} |")
    return rows


def carbon_dioxide() -> list[str]:
    """Return the table of carbon dioxide over 280 to 400 K and 1 to 30 MPa."""
    T, P = np.linspace(280.0, 400.0, 13), np.array([1, 2, 4, 6, 8, 10, 12, 15, 20, 25, 30]) * 1e6
    grid = np.array([(t, p) for t in T for p in P])
    c = (find("carbon dioxide"),)
    ways = [
        ("PR78", "none"),
        ("PR78", "peneloux"),
        ("PR78", "density"),
        ("SRK", "density"),
        ("PC-SAFT", "none"),
        ("PC-SAFT", "density"),
    ]
    rows = ["| equation, shift | all | away from the critical point |", "| --- | --- | --- |"]
    reference = None
    for form, shift in ways:
        eos = equation_of(form, c, NONE, "published")
        own = Substance(eos, c, volume_shift(shift, form, c, eos))
        found = evaluate(own, flash_pt(eos, grid[:, 0], grid[:, 1], np.ones(1)), ("density",)).phase["density"][:, 0]
        if reference is None:
            reference = np.array([span_wagner.density(t, p, near) for (t, p), near in zip(grid, found)])
        off = 100.0 * (found / reference - 1.0)
        near = (np.abs(grid[:, 0] / span_wagner.TC - 1) < 0.08) & (np.abs(grid[:, 1] / 7.3773e6 - 1) < 0.7)
        rows.append(f"| {form}, {shift} | {told(off)} | {told(off[~near])} |")
    return rows


def critical_tops() -> list[str]:
    """Return the table of highest critical pressures."""
    forms = ("PR78", "SRK", "PC-SAFT")
    rows = ["| pair | measured, psia | PR78 | SRK | PC-SAFT |", "| --- | --- | --- | --- | --- |"]
    for (one, other), (measured, source) in published.CRITICAL_TOPS.items():
        cells = []
        for form in forms:
            eos, both = unseen.pairs_of((one, other), form), (find(one), find(other))
            T, P = (float(v[1]) for v in eos.pure_critical()[:2])
            top = 0.0
            # The locus is followed from the heavier component.
            for x in np.arange(0.02, 0.95, 0.01):
                point = critical_point(eos, np.array([x, 1 - x]), T, P)
                if point is not None:
                    T, P, top = point.T, point.P, max(top, point.P / PSI)
                    # Beyond its top it falls, or goes over into liquids that part.
                    if 0.98 * top > P / PSI or both[1].Tc * 0.55 > T:
                        break
            off = f"{top:.0f} ({100.0 * (top / measured - 1.0):+.1f} %)".replace("-", "−")
            cells.append(off if top < 2.0 * measured else "no top: liquids part instead")
        rows.append(f"| {one}, {other} ({source}) | {measured:.0f} | {' | '.join(cells)} |")
    return rows


def reservoir_fluids() -> list[str]:
    """Return the table of untuned saturation pressures."""
    forms = ("PR78", "SRK", "PC-SAFT")
    rows = ["| fluid | measured, psia | PR78 | SRK | PC-SAFT |", "| --- | --- | --- | --- | --- |"]
    for title, (pure, c6, (number, percent, mass, sg), T, measured) in published.RESERVOIR.items():
        amounts = [*([n, a] for n, a in pure.items()), ["C6", c6], [f"C{number}+", percent]]
        sample = {"name": "S", "distillation": {"method": "carbon-number", "basis": "mole", "amounts": amounts,
                  "plus": {"molar_mass": mass, "density": f"{sg} SG"}}}  # fmt: skip
        cells = []
        for form in forms:
            fluid = {"name": "F", "parts": [{"sample": "S", "amount": 1}], "model": {"eos": form}}
            study = {"name": "a", "kind": "saturation", "fluid": "F", "temperature": T}
            document = {"format": "cryonome/1", "samples": [sample], "fluids": [fluid], "studies": [study]}
            answer = solve(parse_document(json.dumps(document)))["answers"]["a"]
            top = max(p["pressure_Pa"] for p in answer["points"]) / PSI
            cells.append(f"{top:.0f} ({100.0 * (top / measured - 1.0):+.1f} %)".replace("-", "−"))
        rows.append(f"| {title} | {measured:.0f} | {' | '.join(cells)} |")
    return rows


def page() -> str:
    """Return docs/accuracy.md."""
    return "\n".join([
        "# Accuracy", "",
        "The models against published measurements; made by `benchmarks/accuracy.py`. Cells are average and largest deviation in percent. Below each title stands "
        "what its numbers are to the program: *fitted* (constants were made from them), *chosen by* (a default was picked by them) or *never seen*.",
        "", "## Vapour pressures, Tr 0.5 to 0.95", "",
        "Fitted in the columns of the fitted alpha, of cubics otherwise only through the acentric factor, of PC-SAFT fitted by its authors. Against the published equations named in `scripts/alpha_parameters.py`, which the fitted alphas were made from: their columns show how well the "
        "functions can follow.", "", *vapour_pressures(), "",
        "## Saturated liquid densities, Tr 0.5 to 0.9", "", "Never seen but for one point of each component, which `density` meets. Against the auxiliary equations of the reference equations, by equation and volume shift.", "",
        *liquid_densities(), "",
        "## Properties at single states", "",
        "Never seen, but for viscosities of n-alkanes from pentane on, which the first column was fitted to. Gases and liquids of methane, nitrogen, carbon dioxide, propane, n-hexane, n-decane, n-hexadecane, toluene and cyclohexane "
        "(`benchmarks/published.py`), volumes shifted to the density. A cubic's liquids are too soft: sound in them is 5 to 20 % slow.", "",
        *states(), "",
        "## Gas solubilities at 298.15 K and 1 atm", "",
        "Fitted. Against Wilhelm and Battino, Chem. Rev. 73, 1 (1973). Most were what the library was fitted to ([interaction.md](interaction.md)); helium is beyond any "
        "interaction parameter.", "", *solubilities(), "",
        "## Density of carbon dioxide, 280 to 400 K, 1 to 30 MPa", "",
        "Never seen. 143 states against the reference equation of Span and Wagner (1996). The last column leaves out 8 % around Tc within 70 % around Pc.", "",
        *carbon_dioxide(), "",
        "## Highest critical pressures of pairs", "", "Methane with n-decane was fitted; of these never seen. As read from drawn loci, to some 2 %.", "", *critical_tops(), "",
        "## Azeotropes", "", "Never seen as such; the parameters of the first two are from vapour–liquid equilibria. Those with an alcohol stand below.", "", *unseen.azeotropes(), "",
        "## Gases: second virial and Joule–Thomson coefficients", "", "Never seen.", "", *unseen.gases(), "",
        "## Reservoir fluids", "", "The rule for methane was chosen by the first and the third; the second never seen. Plus fractions split by the gamma distribution to C30, densities after Søreide.", "", *reservoir_fluids(), "",
        *lab_reports.section(),
        *aqueous_accuracy.section(), "",
        *hydrate_accuracy.tables(), "",
        "## Quadruple points", "", "Never seen: where hydrate, water, gas and liquid meet.", "", *unseen.quadruple_points(), "",
    ])  # fmt: skip


if __name__ == "__main__":
    (ROOT / "docs" / "accuracy.md").write_text(page(), encoding="utf-8")
