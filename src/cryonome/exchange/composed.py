"""Compositions as fluids, as carbon-number samples where they have a heavy end, and as the light ends of a sample."""

from __future__ import annotations

from ..characterization.carbon_analysis import Group, group_properties
from ..characterization.methods import CARBON
from ..components import Named, find
from ..constants import WATER_DENSITY_60F
from ..document import Fluid, FluidPart, Sample
from ..document.field_types import Cell
from ..document.model import Bulk, Distillation, LightEnds, PlusFraction, Pseudo
from ..units import QuantityError, parse
from .amounts import BASES, Composition
from .context import Context, joined


def heavy_end(one: Composition) -> bool:
    """Tell whether a composition has a heavy end that makes it a carbon-number sample rather than a gas."""
    groups = [
        (x.name, p)
        for x, p in zip(one.lines, one.amounts.percents)
        if x.name is not None and p and not x.name.component
    ]
    able = all(n.number >= 6 for n, _ in groups)
    share = sum(p for n, p in groups if n.number >= 7 or (n.plus and n.number >= 6))
    measured = any(one.mass.get(k) and x.name is not None and x.name.plus for k, x in enumerate(one.lines))
    return able and bool(groups) and (share > 1.5 or (len(groups) >= 3 and share > 1.0) or (measured and share > 0.6))


def made(ctx: Context, one: Composition, name: str, alone: bool) -> Sample | Fluid:
    """Return the sample or the fluid of a composition."""
    _note_sum(ctx, one)
    said = ctx.last("method")
    carbon = heavy_end(one) or (said is not None and said.value == CARBON)
    return _sample(ctx, one, name, alone) if carbon else _fluid(ctx, one, name)


def _note_sum(ctx: Context, one: Composition) -> None:
    total = one.amounts.total()
    if total and not 98.0 <= total <= 102.0:
        ctx.note(ctx.head_row(), one.amounts.column, f"the amounts add up to {total:.5g} %", True)


def _joined_rows(one: Composition) -> list[tuple[Named, float, int]]:
    """Return name, percent and place of every line, those of one name added."""
    out: dict[str, tuple[Named, float, int]] = {}
    for k, (line, percent) in enumerate(zip(one.lines, one.amounts.percents)):
        assert line.name is not None
        assert percent is not None
        label = line.name.label
        before = out.get(label)
        out[label] = (line.name, float(f"{before[1] + percent:.12g}"), before[2]) if before else (line.name, percent, k)
    return list(out.values())


def _sample(ctx: Context, one: Composition, name: str, alone: bool) -> Sample:
    rows: list[tuple[Cell, ...]] = []
    heads = [r for r in _joined_rows(one) if not r[0].plus] + [r for r in _joined_rows(one) if r[0].plus]
    for named_, percent, k in heads:
        row: list[Cell] = [named_.label, percent, one.mass.get(k), one.density.get(k)]
        while len(row) > 2 and row[-1] is None:
            row.pop()
        rows.append(tuple(row))
    mass, density = (ctx.near(w, True, one.amounts.column, one.beside) for w in ("molar_mass", "density"))
    plus = PlusFraction(molar_mass=mass.value if mass else None, density=density.value if density else None)
    for fact in (mass, density):
        if fact is not None:
            ctx.note_fact(fact, f"'{fact.text[:60]}' is read as the plus fraction's {fact.value}", True)
    bulk = Bulk()
    if alone:
        whole = {w: ctx.last(w) for w in ("density", "molar_mass", "watson_k")}
        for fact in whole.values():
            if fact is not None and fact.assumed:
                ctx.note_fact(fact, fact.assumed, True)
        bulk = Bulk(
            **{w: f.value for w, f in whole.items() if f is not None and _is(f.value, w)},
            viscosity=tuple((f.at, f.value) for f in ctx.all("viscosity")),
        )
    line = ctx.last("basis")
    kept = line is not None and line.text == line.value == one.amounts.basis
    basis = None if one.amounts.basis == "mass" and not kept else one.amounts.basis
    return Sample(
        name=name, distillation=Distillation(method=CARBON, basis=basis, amounts=tuple(rows), plus=plus), bulk=bulk
    )


def _is(value: str, kind: str) -> bool:
    if kind == "watson_k":
        return True
    try:
        return parse(value, kind) > 0.0
    except QuantityError:
        return False


def _fluid(ctx: Context, one: Composition, name: str) -> Fluid:
    parts = []
    supplied: list[str] = []
    mass, density = (ctx.near(w, True, one.amounts.column, one.beside) for w in ("molar_mass", "density"))
    for named_, percent, k in _joined_rows(one):
        if named_.component:
            parts.append(FluidPart(component=named_.component, amount=percent))
            continue
        cells = {"molar_mass": one.mass.get(k), "specific_gravity": one.density.get(k)}
        if named_.plus:
            cells = {
                "molar_mass": cells["molar_mass"] or (mass.value if mass else None),
                "specific_gravity": cells["specific_gravity"] or (density.value if density else None),
            }
        if cells["molar_mass"] is None:
            own_mass = usual(named_)
            supplied.append(f"{named_.label} {own_mass:.4g} g/mol")
            cells["molar_mass"] = float(f"{own_mass:.4g}")
        cells["specific_gravity"] = _gravity(cells["specific_gravity"])
        parts.append(FluidPart(pseudo=Pseudo(name=named_.label, **cells), amount=percent))
    if supplied:
        ctx.note(
            ctx.head_row(),
            ctx.table.axis,
            f"nothing is said of {joined(s.split()[0] for s in supplied)}: the molar mass is that of the carbon groups ({', '.join(supplied)}; of a plus fraction as "
            "60, 30 and 10 mol % of its first three)",
            True,
        )
    return Fluid(name=name, basis=one.amounts.basis, parts=tuple(parts))


def _gravity(cell: Cell) -> Cell:
    try:
        return float(f"{parse(cell, 'density') / WATER_DENSITY_60F:.6g}") if cell is not None else None
    except QuantityError:
        return cell


def usual(name: Named) -> float:
    """Return the molar mass g/mol of a carbon group; of a plus fraction of a gas those of its first three groups by
    60, 30 and 10 mol %, the split that gas chromatographs which end at hexanes plus usually report. C2 to C5 as the
    straight chain."""
    shares = ((0, 0.6), (1, 0.3), (2, 0.1)) if name.plus else ((0, 1.0),)
    mass = 0.0
    for step, share in shares:
        number = name.number + step
        if number < 6:
            pure = find({2: "ethane", 3: "propane", 4: "n-butane", 5: "n-pentane"}[number])
            own = pure.molar_mass
        else:
            own = group_properties(Group(number, 1.0))[2]
        mass += share * own
    return 1e3 * mass


def light_ends(ctx: Context, one: Composition) -> LightEnds:
    """Return a composition as the light ends of a sample whose boiling curve stands beside it."""
    amounts: dict[str, Cell] = {n.label: p for n, p, _ in _joined_rows(one) if n.component}
    basis, curve = ctx.last("light_basis"), ctx.last("light_curve")
    by = basis.value if basis is not None and basis.value in BASES else one.amounts.basis
    return LightEnds(mode="measured", basis=by, amounts=amounts, curve=curve.value if curve is not None else "whole")
