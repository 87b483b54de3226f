"""What tables of a sheet are to each other: properties of a curve, light ends, compositions of the steps of a
depletion; and how a table is shown."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from .amounts import Composition
from .context import Context
from .entries import entry_of
from .found import Block, Test
from .raw import cell_at

MOST_SHOWN = 400
"""Rows of a table that are kept to be shown."""


def table_shown(ctx: Context) -> tuple[tuple[str, ...], tuple[tuple[str, int, int], ...], tuple[tuple[str, ...], ...]]:
    """Return headers, keys of choices and cells of a table, its columns in their order."""
    table = ctx.table
    order = sorted({table.axis, *table.columns})
    rows = sorted([*table.body, *table.sides], key=lambda r: r[0])[:MOST_SHOWN]
    return (
        tuple(table.head(j) for j in order),
        tuple(ctx.key(j) for j in order),
        tuple(tuple(cell_at(c, j) for j in order) for _, c in rows),
    )


def with_curves(before: Block, block: Block) -> Block:
    """Return a block with the property curves of the table below it."""
    sample, extra = before.samples[0], block.samples[0]
    whole = {
        k: getattr(extra.bulk, k)
        for k in ("density", "molar_mass", "watson_k")
        if getattr(extra.bulk, k) is not None and getattr(sample.bulk, k) is None
    }
    curves = {k: v for k in ("density", "molar_mass", "viscosity", "quantities") if (v := getattr(extra.curves, k))}
    joined = sample.model_copy(
        update={"curves": sample.curves.model_copy(update=curves), "bulk": sample.bulk.model_copy(update=whole)}
    )
    return replace(
        before,
        samples=(joined,),
        columns=(*before.columns, *block.columns),
        notes=(*before.notes, *[n for n in block.notes if "method" not in n.text]),
    )


def with_light_ends(blocks: list[Block]) -> list[Block]:
    """Put light ends into the sample whose curve stands on the same sheet."""
    out: list[Block] = []
    for block in blocks:
        if block.kind != "light ends":
            out.append(block)
    for block in blocks:
        if block.kind == "light ends":
            k = next(
                (
                    k
                    for k, b in enumerate(out)
                    if b.sheet == block.sheet and b.samples and b.samples[0].distillation.points
                ),
                None,
            )
            if k is None:
                continue
            host = out[k]
            own = host.samples[0].model_copy(update={"light_ends": block.samples[0].light_ends})
            out[k] = replace(
                host,
                samples=(own, *host.samples[1:]),
                columns=(*host.columns, *block.columns),
                notes=(*host.notes, *block.notes),
            )
    return out


def with_step_compositions(read: Sequence[list[Any]]) -> None:
    """Give a depletion the compositions that a table beside it lists under the pressures of its steps; they are no
    fluids of their own."""
    depletions = [t for own in read for t in own if isinstance(t, Test) and t.kind == "depletion"]
    for own in read:
        steps = [c for c in own if isinstance(c, Composition)]
        heads = [entry_of(c.title, "point") for c in steps]
        if len(steps) < 2 or not all(h.is_number and not h.unit for h in heads):
            continue
        for test in depletions:
            pressures = [entry_of(str(p), "point").value for p in test.columns["pressure"]]
            places = [
                next((k for k, p in enumerate(pressures) if abs(p - h.value) <= 1e-3 * abs(p)), None) for h in heads
            ]
            if all(k is not None for k in places):
                for composition, k in zip(steps, places):
                    _put(test, composition, int(k or 0), len(pressures))
                own.clear()
                break


def _put(test: Test, composition: Composition, step: int, count: int) -> None:
    for line, percent in zip(composition.lines, composition.amounts.percents):
        if line.name is not None and percent is not None:
            column = test.columns.setdefault(f"gas.{line.name.label}", [None] * count)
            column[step] = float(f"{percent / 100.0:.12g}")
