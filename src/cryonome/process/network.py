"""The order of a chain's steps, and where its loops are opened.

Nodes take and give streams by name. Steps that hang on each other in a ring are opened at the fewest unknowns: the
duty of an exchanger is one number, a stream is its flows, its enthalpy and its pressure (the minimum weighted
feedback set, here by trying sets in the order of their cost, since rings of a chain are few)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter
from itertools import combinations

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

MOST_TORN = 4
"""Streams opened together at the most."""


@dataclass(frozen=True)
class Node:
    """A step, or a part of one: the names it takes and gives."""

    key: str
    takes: tuple[str, ...]
    gives: tuple[str, ...]


@dataclass(frozen=True)
class Block:
    """Nodes in the order they are done, and what is ``torn`` to do so: nothing where they hang together in no ring."""

    nodes: tuple[Node, ...]
    torn: tuple[str, ...] = ()


def blocks(nodes: Sequence[Node], cost: Mapping[str, int]) -> list[Block]:
    """Return the blocks of a chain in the order they are done; ``cost`` tells how many unknowns a name stands for.

    Raises ValueError where more than :data:`MOST_TORN` names of one ring would have to be opened."""
    giver = {name: i for i, node in enumerate(nodes) for name in node.gives}
    edges = [(giver[name], i) for i, node in enumerate(nodes) for name in node.takes if name in giver]
    n = len(nodes)
    start, end = (np.array([e[k] for e in edges], dtype=int) for k in (0, 1))
    graph = csr_array((np.ones(len(edges)), (start, end)), shape=(n, n))
    _, label = connected_components(graph, directed=True, connection="strong")
    groups: dict[int, set[int]] = {int(g): set() for g in label}
    for a, b in edges:
        if label[a] != label[b]:
            groups[int(label[b])].add(int(label[a]))
    # Sorted first, so that where two orders are possible that of the rows is kept.
    order = TopologicalSorter({g: sorted(groups[g]) for g in sorted(groups, key=lambda g: int(np.argmax(label == g)))})
    return [_block([nodes[i] for i in np.flatnonzero(label == g).tolist()], cost) for g in order.static_order()]


def _block(nodes: Sequence[Node], cost: Mapping[str, int]) -> Block:
    sequence = ordered(nodes, ())
    if sequence is not None:
        return Block(sequence)
    given = {name for node in nodes for name in node.gives}
    inner = sorted({name for node in nodes for name in node.takes if name in given}, key=lambda s: (cost[s], s))
    best: Block | None = None
    least = float("inf")
    for count in range(1, MOST_TORN + 1):
        # The cheapest of so many names; where even these are no cheaper, more of them are not either.
        if sum(cost[s] for s in inner[:count]) >= least:
            break
        for names in sorted(combinations(inner, count), key=lambda c: sum(cost[s] for s in c)):
            total = sum(cost[s] for s in names)
            if total >= least:
                break
            sequence = ordered(nodes, names)
            if sequence is not None:
                best, least = Block(sequence, names), total
                break
    if best is not None:
        return best
    raise ValueError(
        f"the ring through {', '.join(n.key for n in nodes)} would have to be opened at more than {MOST_TORN} streams"
    )


def ordered(nodes: Sequence[Node], torn: Sequence[str]) -> tuple[Node, ...] | None:
    """Return nodes in an order where each comes after what it takes, ``torn`` names being known; None where there is
    none."""
    giver = {name: node.key for node in nodes for name in node.gives if name not in torn}
    by_key = {node.key: node for node in nodes}
    sorter = TopologicalSorter({node.key: [giver[s] for s in node.takes if s in giver] for node in nodes})
    try:
        return tuple(by_key[key] for key in sorter.static_order())
    except CycleError:
        return None
