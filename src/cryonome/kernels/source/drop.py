"""A fluid beside a drop of water, of one state: what :mod:`cryonome.solids.surroundings` asks for every state of a
hydrate's limit."""

from math import exp

from . import table as eos
from .marks import F1, F2, I1, entry, matrix


@entry
def drop_states(
    lo: int, hi: int, work: F1, table: I1, p: F2, memory: int, T: F1, P: F1, dry: F2, water: int, steps: int, mostly: float,
    f: F2, held: F1,
) -> int:  # fmt: skip
    """Put fugacities f (N, nc), Pa, of ``dry`` fluids (N, nc), without water, beside a drop of it in place, and the
    water they hold (N,).

    Water of the fluid and what dissolves in the drop follow from equal fugacities, by ``steps`` substitutions; the
    drop stays ``mostly`` water at least."""
    nc = dry.shape[1]
    st = work[:memory]
    w = matrix(work[memory:], 4, nc)
    wet, x, ln_wet, ln_drop = w[0], w[1], w[2], w[3]
    for n in range(lo, hi):
        q = p[n if p.shape[0] > 1 else 0]
        eos.prepare(table, q, st, nc, T[n], P[n])
        share = 0.0
        for i in range(nc):
            x[i] = 1.0 if i == water else 0.0
        for _ in range(steps):
            for i in range(nc):
                wet[i] = share if i == water else (1.0 - share) * dry[n, i]
            eos.ln_phi(table, q, st, nc, wet, 0, ln_wet)
            eos.ln_phi(table, q, st, nc, x, 1, ln_drop)
            others = 0.0
            for i in range(nc):
                f[n, i] = wet[i] * exp(ln_wet[i]) * P[n]
                if i != water:
                    x[i] = wet[i] * exp(ln_wet[i] - ln_drop[i])
                    others += x[i]
            x[water] = max(1.0 - others, mostly)
            whole = others + x[water]
            for i in range(nc):
                x[i] /= whole
            drop = x[water] * exp(ln_drop[water])
            f[n, water] = drop * P[n]
            share = min(drop / exp(ln_wet[water]), 1.0 - mostly)
        held[n] = share
    return 0
