"""Make ``eos/alpha.csv``: parameters of alpha functions that meet published vapour pressures.

    .venv/bin/python scripts/alpha_parameters.py

For every substance the attraction at which the equation boils at the published pressure is found at forty temperatures, and
the function is fitted through them: Mathias and Copeman's for polar substances, Twu's for the others. Twu's is held to fall,
curve upward and stay positive to fifteen times Tc (Le Guennec, Privat and Jaubert, Fluid Phase Equilib. 429, 301, 2016). Of
hydrogen and helium the measured second virial coefficients join the vapour pressures, since at the temperatures of use
they are what matters.
"""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from cryonome.components import find
from cryonome.constants import R
from cryonome.eos.alpha import MathiasCopeman, Twu
from cryonome.eos.cubic_forms import FORMS, CubicForm
from cryonome.eos.matching import matched_root_alpha

Array = NDArray[np.float64]
TABLE = Path(__file__).parent.parent / "src" / "cryonome" / "eos" / "alpha.csv"

WAGNER = "1 1.5 3 6"
BOOK = "Reid, Prausnitz and Poling (1987), appendix A"
SATURATION: dict[str, tuple[float, float, float, str, str, str]] = {
    "methane": (190.564, 4.5922e6, 90.7, "-6.036219 1.409353 -0.4945199 -1.443048", "1 1.5 2 4.5", "Setzmann and Wagner (1991)"),
    "ethane": (305.322, 4.8722e6, 120.0, "-6.48647577 1.47010078 -1.66261122 3.57898378 -4.79105705", "1 1.5 2.5 3.5 4",
               "Bücker and Wagner (2006)"),
    "propane": (369.89, 4.2512e6, 150.0, "-6.7722 1.6938 -1.3341 -3.1876 0.94937", "1 1.5 2.2 4.8 6.2",
                "Lemmon, McLinden and Wagner (2009)"),
    "n-butane": (425.2, 3.80e6, 170.0, "-6.88709 1.15157 -1.99873 -3.13003", WAGNER, BOOK),
    "isobutane": (408.2, 3.65e6, 165.0, "-6.95579 1.50090 -2.52717 -1.49776", WAGNER, BOOK),
    "n-pentane": (469.7, 3.37e6, 195.0, "-7.28936 1.53679 -3.08367 -1.02456", WAGNER, BOOK),
    "n-hexane": (507.5, 3.01e6, 220.0, "-7.46765 1.44211 -3.28222 -2.50941", WAGNER, BOOK),
    "n-heptane": (540.3, 2.74e6, 240.0, "-7.67468 1.37068 -3.53620 -3.20243", WAGNER, BOOK),
    "n-octane": (568.8, 2.49e6, 259.0, "-7.91211 1.38007 -3.80435 -4.50132", WAGNER, BOOK),
    "ethylene": (282.4, 5.04e6, 105.0, "-6.32055 1.16819 -1.55935 -1.83552", WAGNER, BOOK),
    "propylene": (364.9, 4.60e6, 140.0, "-6.64231 1.21857 -1.81005 -2.48212", WAGNER, BOOK),
    "cyclohexane": (553.5, 4.07e6, 293.0, "-6.96009 1.31328 -2.75683 -2.45491", WAGNER, BOOK),
    "benzene": (562.2, 4.89e6, 288.0, "-6.98273 1.33213 -2.62863 -3.33399", WAGNER, BOOK),
    "toluene": (591.8, 4.10e6, 309.0, "-7.28607 1.38091 -2.83433 -2.79168", WAGNER, BOOK),
    "nitrogen": (126.192, 3.3958e6, 63.2, "-6.12445284 1.26327220 -0.765910082 -1.77570564", "1 1.5 2.5 5", "Span et al. (2000)"),
    "oxygen": (154.6, 5.04e6, 54.4, "-6.28275 1.73619 -1.81349 -0.0253645", WAGNER, BOOK),
    "argon": (150.8, 4.87e6, 84.0, "-5.90501 1.12627 -0.76787 -1.62721", WAGNER, BOOK),
    "carbon monoxide": (132.9, 3.50e6, 71.0, "-6.20798 1.27885 -1.34533 -2.56842", WAGNER, BOOK),
    "carbon dioxide": (304.1282, 7.3773e6, 216.6, "-7.0602087 1.9391218 -1.6463597 -3.2995634", "1 1.5 2 4", "Span and Wagner (1996)"),
    "hydrogen sulfide": (373.1, 9.0e6, 187.7, "-6.5884 2.1582 -1.6054 -2.3870", "1 1.5 2 4.8", "after Lemmon and Span (2006)"),
    "water": (647.096, 22.064e6, 273.16, "-7.85951783 1.84408259 -11.7866497 22.6807411 -15.9618719 1.80122502", "1 1.5 3 3.5 4 7.5",
              "Wagner and Pruß (1993)"),
    "methanol": (512.6, 8.09e6, 230.0, "-8.54796 0.76982 -3.10850 1.54481", WAGNER, BOOK),
    "ethanol": (513.9, 6.14e6, 260.0, "-8.51838 0.34163 -5.73683 8.32581", WAGNER, BOOK),
}  # fmt: skip
"""Tc K, Pc Pa, lowest T K, coefficients of ln(P/Pc) = Tc/T sum a (1 - T/Tc)^n, their powers, and the source."""

POLAR = ("water", "methanol", "ethanol")

VIRIAL: dict[str, tuple[tuple[float, ...], tuple[float, ...]]] = {
    "hydrogen": ((60.0, 100.0, 150.0, 200.0, 300.0, 400.0), (-23.6, -2.5, 7.1, 11.3, 14.8, 15.9)),
    "helium": ((10.0, 20.0, 50.0, 100.0), (-22.9, -3.3, 8.9, 11.4)),
}
"""T K and second virial coefficients in cm3/mol: Dymond and Smith (1980)."""


MILD = {"PR78": (0.1, 1.0, 1.0)}
"""Hydrogen with Peng-Robinson, whose small covolume would ask for an attraction that vanishes in mixtures: set between the
virial coefficients and the solubilities in hydrocarbons."""


def boiling(name: str) -> tuple[Array, Array]:
    """Return temperatures (n,) K and published vapour pressures (n,) Pa."""
    Tc, Pc, low, factors, powers, _ = SATURATION[name]
    T = np.linspace(max(low, 0.4 * Tc), 0.97 * Tc, 40)
    tau = 1.0 - T / Tc
    ln_p = sum(float(a) * tau ** float(n) for a, n in zip(factors.split(), powers.split()))
    return T, Pc * np.exp(Tc / T * np.asarray(ln_p))


def fit(form: CubicForm, name: str) -> tuple[str, Array]:
    """Return the kind of function and its three parameters."""
    c = find(name)
    if name in VIRIAL:
        T, B = (np.array(v) for v in VIRIAL[name])
        b, a = form.omega_b * R * c.Tc / c.Pc, form.omega_a * (R * c.Tc) ** 2 / c.Pc
        Tr, root = T / c.Tc, np.sqrt(np.maximum((b - 1e-6 * B) * R * T / a, 0.01))
        weight = a / (R * T) * root * 1e6 / 5.0
    else:
        T, P = boiling(name)
        Tr = T / c.Tc
        root = matched_root_alpha(form, Tr, P / c.Pc)
        weight = np.ones_like(Tr)
    if name == "hydrogen" and form.name in MILD:
        return "Twu", np.array(MILD[form.name])
    kind = MathiasCopeman if name in POLAR else Twu
    hot = np.linspace(1.0, 15.0, 60)

    def misses(p: Array) -> Array:
        function = kind(*p[:, None])
        off = (function.root(Tr[:, None])[0][:, 0] / root - 1.0) * weight
        if kind is MathiasCopeman:
            return off
        value, slope, curvature = (v[:, 0] for v in function.root(hot[:, None]))
        bend = value * curvature + slope * slope
        return np.concatenate([off, np.maximum(value * slope + 1e-4, 0.0), np.maximum(-bend, 0.0)])

    limits = (-np.inf, np.inf) if name in SATURATION else ([0.0, 0.5, 0.05], [3.0, 1.0, 1.0])
    starts = (
        ([0.7, -0.3, 0.3],)
        if kind is MathiasCopeman
        else ([0.2, 0.85, 0.9], [0.2, 0.85, 2.0], [0.5, 0.9, 1.0], [0.1, 0.9, 3.0])
    )
    tried = (least_squares(misses, np.minimum(s, limits[1]), bounds=limits, xtol=1e-14, ftol=1e-14) for s in starts)
    best = min(tried, key=lambda r: r.cost)
    return kind.__name__, best.x


def main() -> None:
    """Write the table."""
    with TABLE.open("w", newline="", encoding="utf-8") as file:
        out = csv.writer(file, lineterminator="\n")
        out.writerow(["name", "family", "function", "p1", "p2", "p3", "source"])
        for name in (*SATURATION, *VIRIAL):
            for form in ("PR78", "SRK"):
                kind, p = fit(FORMS[form], name)
                source = (
                    f"vapour pressure, {SATURATION[name][-1]}"
                    if name in SATURATION
                    else "second virial coefficients, Dymond and Smith (1980)"
                )
                out.writerow([name, "PR" if form == "PR78" else "RK", kind, *(f"{v:.8g}" for v in p), source])


if __name__ == "__main__":
    main()
