"""What is gathered of a sample with a boiling curve: put together from columns and lines, and made a sample of the
document."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from ..characterization.methods import METHODS, TWO_PART
from ..constants import ATM
from ..document import Sample
from ..document.field_types import Cell
from ..document.model import Bulk, Curves, Distillation, Quantity, Tail, ViscosityCurve
from ..units import QuantityError, parse
from .context import Context
from .entries import entry_of, folded, title_and_unit
from .fact import Fact, cell_of
from .words import as_unit, method_of


@dataclass
class Gathered:
    """What is gathered of one sample."""

    title: str = ""
    method: str = ""
    basis: str = ""
    basis_kept: bool = False
    """Whether a line of its own gives the basis, so that it is kept also where it is the method's usual one."""
    pressure: str = ""
    points: list[tuple[Cell, Cell]] = field(default_factory=list)
    curves: dict[str, list[tuple[Cell, Cell]]] = field(default_factory=dict)
    units: dict[str, str] = field(default_factory=dict)
    whole: dict[str, Cell] = field(default_factory=dict)
    viscosity: list[tuple[Cell, Cell]] = field(default_factory=list)
    loss: float | None = None
    residue: float | None = None
    recovered: float | None = None
    tail: list[tuple[Cell, Cell]] = field(default_factory=list)
    tail_pressure: str = ""


def take(ctx: Context, one: Gathered, fact: Fact) -> None:
    """Put a fact into a sample."""
    if fact.assumed:
        ctx.note_fact(fact, fact.assumed, True)
    if fact.what in ("density", "molar_mass", "watson_k"):
        if fact.what == "watson_k" or _valid(fact.value, fact.what):
            one.whole[fact.what] = float(fact.value) if fact.what == "watson_k" else fact.value
    elif fact.what == "viscosity":
        one.viscosity.append((fact.at, fact.value))
    elif fact.what in ("initial", "final"):
        if _valid(fact.value, "temperature"):
            one.whole[fact.what] = fact.value
    elif fact.what in ("loss", "residue", "recovery"):
        value = entry_of(fact.value, "point").value
        if fact.what == "loss":
            one.loss = value
        elif fact.what == "residue":
            one.residue = value
        else:
            one.recovered = value
    elif fact.what == "method":
        one.method = one.method or fact.value
    elif fact.what == "basis":
        one.basis = one.basis or fact.value
    elif fact.what == "pressure":
        one.pressure = one.pressure or _near_atmosphere(fact.value)


def _valid(value: str, kind: str) -> bool:
    try:
        parse(value, kind)
    except QuantityError:
        return False
    return not (kind == "density" and value.replace(".", "").isdigit())


def _near_atmosphere(value: str) -> str:
    """Return a pressure a distillation can have been made at, "" for any other."""
    try:
        return value if 1.0 <= parse(value, "pressure") <= 1.1 * ATM and any(c.isalpha() for c in value) else ""
    except QuantityError:
        return ""


def pressure(text: str, ctx: Context) -> str:
    one = entry_of(text, ctx.style)
    unit = as_unit(one.unit, "pressure")
    return _near_atmosphere(cell_of(one.value, unit)) if unit else ""


def complete(ctx: Context, one: Gathered, alone: bool) -> None:
    """Complete a sample by what the lines around its table say."""
    axis = ctx.table.head(ctx.table.axis)
    method = ctx.last("method")
    one.method = one.method or method_of(axis) or (method.value if method else "") or method_of(ctx.sheet)
    whats = (
        ("density", "molar_mass", "watson_k", "initial", "final", "loss", "residue", "recovery", "pressure")
        if alone
        else ("pressure",)
    )
    for what in whats:
        fact = ctx.last(what)
        if fact is not None and what not in one.whole:
            take(ctx, one, fact)
    if alone:
        for fact in ctx.all("viscosity"):
            take(ctx, one, fact)
    if alone:
        for fact in ctx.all("whole_quantity"):
            name, unit = title_and_unit(fact.text)
            one.whole[f"quantity {name}"] = float(fact.value)
            one.units.setdefault(name, unit or "mass%")
    if one.tail:
        vacuum = ctx.last("tail_pressure")
        one.tail_pressure = vacuum.value if vacuum is not None else "10 mmHg"
        one.method = TWO_PART if one.method in ("", "D86", "D1160", TWO_PART) else one.method
    if not one.method:
        reported = (
            one.loss is not None
            or one.residue is not None
            or any(
                re.search(r"recover|flash point|cetane", folded(t))
                for t in [axis, *ctx.titles, *[f.text for f in ctx.facts]]
            )
        )
        observed = one.pressure not in ("", "1 atm") and parse(one.pressure, "pressure") < 0.2 * ATM
        one.method = (
            "D1160"
            if observed
            else "D86"
            if reported
            else "D2887"
            if one.basis == "mass" and len(one.points) > 25
            else "TBP"
        )
        ctx.note(ctx.head_row(), ctx.table.axis, f"no method is named; the curve is read as {one.method}", True)
    if one.pressure and one.pressure != "1 atm" and one.method in ("D2887", "EFV"):
        one.pressure = ""
    if one.pressure and one.method in ("D86", "TBP") and abs(parse(one.pressure, "pressure") / ATM - 1.0) < 0.005:
        one.pressure = ""


def sample_of(one: Gathered, name: str) -> Sample:
    """Return a gathered sample as the document keeps it."""
    basis = one.basis or None
    if basis == METHODS[one.method].basis and not one.basis_kept:
        basis = None
    points = one.points
    if all(isinstance(p, (int, float)) for p, _ in points):
        points = sorted(points, key=lambda p: float(p[0] or 0.0))
    own = one.curves
    names = list(dict.fromkeys(k.removeprefix("quantity ") for k in (*own, *one.whole) if k.startswith("quantity ")))
    return Sample(
        name=name,
        distillation=Distillation(
            method=one.method, tail=Tail(pressure=one.tail_pressure, points=tuple(one.tail)) if one.tail else None, basis=basis, pressure=one.pressure or None, points=tuple(points), loss=one.loss,
            residue=one.residue, initial=one.whole.get("initial"), final=one.whole.get("final"),
        ),
        bulk=Bulk(
            density=one.whole.get("density"), molar_mass=one.whole.get("molar_mass"), watson_k=one.whole.get("watson_k"), viscosity=tuple(one.viscosity),
        ),
        curves=Curves(
            density=tuple(own.get("density", ())), molar_mass=tuple(own.get("molar_mass", ())),
            viscosity=tuple(ViscosityCurve(at=k.removeprefix("viscosity "), points=tuple(p)) for k, p in own.items() if k.startswith("viscosity ")),
            quantities=tuple(Quantity(name=n, unit=one.units.get(n, "mass%"), bulk=one.whole.get(f"quantity {n}"), points=tuple(own.get(f"quantity {n}", ()))) for n in names),
        ),
    )  # fmt: skip
