"""Critical points: the two conditions checked by an independent route."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.constants import R
from cryonome.equilibrium.critical import conditions, critical_point
from cryonome.equilibrium.phase_map import phase_map
from mixtures import NAMES, mixture
from reference import attraction, log_term


def helmholtz(eos, T: float, V: float, n: np.ndarray):
    """Return A/(R T) of mole numbers n (complex allowed) at T and V, up to terms linear in n."""
    a_i = attraction(eos, T)
    b_i = eos.form.omega_b * R * eos.Tc / eos.Pc
    a = n @ (np.sqrt(np.outer(a_i, a_i)) * (1 - eos.kij)) @ n
    b = n @ b_i
    total = n.sum()
    return n @ np.log(n) - total * np.log(V - b) - a / (R * T * b) * log_term(eos, V, b)


@pytest.mark.parametrize("form", ["PR78", "RK", "VDW"])
@pytest.mark.parametrize("name", [n for n in NAMES if n != "crude"])
def test_the_forms_are_derivatives_of_the_helmholtz_energy(name, form):
    eos, z = mixture(name, form)
    c = phase_map(eos, z).critical_points[0]
    eigenvalue, cubic = conditions(eos, z, c.T, c.V)
    assert abs(eigenvalue) < 1e-9
    assert abs(cubic) < 1e-8
    # The direction of the zero eigenvalue, from second differences of the Helmholtz energy itself.
    scale = np.sqrt(z)
    nc, h = z.size, 1e-20
    gradient = lambda n: np.array([helmholtz(eos, c.T, c.V, n + 1j * h * np.eye(nc)[i]).imag / h for i in range(nc)])  # noqa: E731
    step = 1e-5
    hessian = np.array(
        [
            (gradient(z + step * z[j] * np.eye(nc)[j]) - gradient(z - step * z[j] * np.eye(nc)[j])) / (2 * step * z[j])
            for j in range(nc)
        ]
    )
    scaled = scale[:, None] * 0.5 * (hessian + hessian.T) * scale
    values, vectors = np.linalg.eigh(scaled)
    assert abs(values[0]) < 1e-6
    assert values[1] > 1e-3
    direction = scale * vectors[:, 0]
    along = [helmholtz(eos, c.T, c.V, z + s * direction) for s in (-2e-3, -1e-3, 1e-3, 2e-3)]
    third = (-along[0] + 2 * along[1] - 2 * along[2] + along[3]) / (2 * 1e-9)
    ordinary = abs(np.sum(direction**3 / z**2))
    assert abs(third) < 1e-3 * max(1.0, ordinary)


def test_absent_components_and_poor_guesses():
    eos, z = mixture("close binary")
    good = critical_point(eos, z, 384.0, 5.4e6)
    assert good is not None
    for T, P in ((370.0, 4.5e6), (400.0, 6.5e6)):
        again = critical_point(eos, z, T, P)
        assert again is not None
        assert pytest.approx(good.T, rel=1e-9) == again.T
    three = type(eos)(eos.form, *(np.append(v, v[0]) for v in (eos.Tc, eos.Pc, eos.omega)), np.zeros((3, 3)))
    two = type(eos)(eos.form, eos.Tc, eos.Pc, eos.omega, np.zeros((2, 2)))
    with_absent = critical_point(three, np.append(z, 0.0), 384.0, 5.4e6)
    assert with_absent is not None
    assert pytest.approx(critical_point(two, z, 384.0, 5.4e6).P, rel=1e-9) == with_absent.P


def test_pressure_and_volume_belong_to_the_equation():
    eos, z = mixture("sour gas")
    c = phase_map(eos, z).critical_points[0]
    Z = eos.prepare([c.T], [c.P]).ln_phi(z[None])[1][0]
    assert pytest.approx(c.V, rel=1e-6) == Z * R * c.T / c.P
