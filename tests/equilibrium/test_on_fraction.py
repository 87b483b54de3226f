"""States of a given vapour fraction and a measured quantity: there and back, and close below the summit of a line."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.components import find
from cryonome.eos.building import Interaction, equation_of, family_of, volume_shift
from cryonome.eos.interaction import library_kij
from cryonome.equilibrium.pair_flash import flash_pair
from cryonome.equilibrium.phase_map import phase_map
from cryonome.properties import Substance, evaluate

PARTS = ("methane", "carbon dioxide", "n-butane", "n-decane")
Z = np.array([0.5, 0.1, 0.25, 0.15])


@pytest.fixture(scope="module", params=["PR78", "SRK"])
def fluid(request):
    parts = tuple(find(n) for n in PARTS)
    eos = equation_of(request.param, parts, Interaction(library_kij(parts, family_of(request.param))), "published")
    return eos, Substance(eos, parts, volume_shift("density", request.param, parts, eos))


def solved(fluid, beta, key, targets):
    eos, substance = fluid
    n = len(targets)
    given = {"vapour_fraction": np.full(n, beta), key: np.asarray(targets, float)}
    return flash_pair(eos, Z, given, lambda phases, keys: evaluate(substance, phases, keys).whole).phases


@pytest.mark.parametrize("beta", [0.0, 0.3, 1.0])
@pytest.mark.parametrize("key", ["enthalpy", "entropy", "density"])
def test_a_state_of_a_line_is_found_by_what_it_has(fluid, beta, key):
    eos, substance = fluid
    whole = phase_map(eos, Z, (beta,) if 0.0 < beta < 1.0 else ())
    part = max((p for p in whole.parts if abs(p.beta - beta) < 1e-12), key=lambda p: len(p.u))
    rows = np.linspace(0.2, 0.7, 4) * len(part.u)
    T, P = part.T[rows.astype(int)], part.P[rows.astype(int)]
    # Of a state a little inside the two phases the quantity is that of the line.
    value = [float(v) for v in _along(fluid, whole, beta, T, key)]
    found = solved(fluid, beta, key, value)
    assert found.converged.all()
    again = evaluate(substance, found, (key,)).whole[key]
    assert again == pytest.approx(value, rel=1e-7)
    assert found.vapour_fraction == pytest.approx(beta, abs=1e-9)
    # Both phases have the fugacities of equilibrium.
    prepared = eos.prepare(found.T, found.P)
    light, heavy = (np.log(w) + prepared.ln_phi(w)[0] for w in (found.light, found.heavy))
    assert light == pytest.approx(heavy, abs=1e-6)
    assert P.size == 4


def test_a_target_that_a_traced_point_has_to_the_last_digit_is_found(fluid):
    """Nothing changes its sign between neighbours there."""
    eos, _ = fluid
    whole = phase_map(eos, Z, (0.3,))
    part = next(p for p in whole.parts if p.beta == 0.3)
    T = part.T[5:-25:7]
    for key in ("enthalpy", "entropy", "internal_energy", "density"):
        assert solved(fluid, 0.3, key, list(_along(fluid, whole, 0.3, T, key))).converged.all(), key


def _along(fluid, whole, beta, T, key):
    """Return a quantity at points of a line at given temperatures, the lowest pressure of each."""
    _, substance = fluid
    from cryonome.equilibrium.line_states import two_phases

    for t in T:
        point = whole.crossings([beta], T=float(t))[0]
        at, own = np.array([point.T]), np.array([point.P])
        state = two_phases(whole.eos, whole.z, at, own, np.array([beta]), point.x[None], point.y[None])
        yield evaluate(substance, state, (key,)).whole[key][0]


def test_targets_close_below_the_summit_of_the_dew_line_have_a_state_and_those_above_it_none(fluid):
    eos, _ = fluid
    whole = phase_map(eos, Z)
    dew = max((p for p in whole.parts if p.beta == 1.0), key=lambda p: len(p.u))
    T = np.linspace(dew.T.max() - 60.0, dew.T.max() - 1e-3, 400)
    values = np.array(list(_along(fluid, whole, 1.0, T, "enthalpy")))
    top = float(values.max())
    inside = 0 < int(values.argmax()) < values.size - 1
    if not inside:
        pytest.skip("the enthalpy of this dew line rises to the cricondentherm")
    found = solved(fluid, 1.0, "enthalpy", [top - 1e-4 * abs(top), top - 1e-3 * abs(top), top + 0.2 * abs(top)])
    assert found.converged.tolist() == [True, True, False]
