"""The pure components: read once from ``pure.csv`` and ``ideal_gas.csv``, found by name, alias or formula."""

from __future__ import annotations

import csv
import difflib
from functools import cache, lru_cache
from importlib.resources import files

from ..constants import R
from .component import Component


class UnknownComponentError(LookupError):
    """A component that is not in the databank; the message names the nearest ones."""

    def __init__(self, name: str, near: list[str]) -> None:
        hint = f"; did you mean {_either(near)}?" if near else ""
        super().__init__(f"unknown component '{name}'{hint}")
        self.near = near


def _either(names: list[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} or {names[-1]}"


def _table(name: str) -> list[list[str]]:
    return list(csv.reader(files(__package__).joinpath(name).read_text(encoding="utf-8").splitlines()))


@cache
def all_components() -> tuple[Component, ...]:
    """Return every pure component of the databank, in its order."""
    heat = {row[0]: tuple(R * float(v) for v in row[2:]) for row in _table("ideal_gas.csv")[1:]}
    heads, *lines = _table("pure.csv")
    rows = [dict(zip(heads, line)) for line in lines]
    return tuple(
        Component(
            name=row["name"],
            kind="pure",
            molar_mass=float(row["molar_mass_g_mol"]) / 1000.0,
            Tc=float(row["Tc_K"]),
            Pc=float(row["Pc_bar"]) * 1e5,
            Vc=float(row["Vc_cm3_mol"]) * 1e-6,
            omega=float(row["omega"]),
            nbp=float(row["nbp_K"]),
            specific_gravity=float(row["specific_gravity"]),
            cp=heat[row["name"]],
            formula=row["formula"],
            cas=row["cas"],
            aliases=tuple(a for a in row["aliases"].split(";") if a),
            family=row["family"],
            parachor=float(row["parachor"]),
            formation=(1e3 * float(row["hf_kJ_mol"]), 1e3 * float(row["gf_kJ_mol"])),
        )
        for row in rows
    )


def _key(text: str) -> str:
    return "".join(text.casefold().split())


@cache
def _index() -> dict[str, Component]:
    index: dict[str, Component] = {}
    formulas: dict[str, list[Component]] = {}
    for component in all_components():
        for name in (component.name, component.cas, *component.aliases):
            index.setdefault(_key(name), component)
        formulas.setdefault(_key(component.formula), []).append(component)
    for formula, components in formulas.items():
        # A formula names a component only where no isomer shares it, or as the straight chain.
        chains = [c for c in components if c.family == "n-alkane"]
        if len(components) == 1 or chains:
            index.setdefault(formula, chains[0] if chains else components[0])
    return index


def find(name: str) -> Component:
    """Return the component of that name, alias, formula or CAS number; case and spaces do not matter.

    A formula shared by isomers means the straight-chain alkane. Raises :class:`UnknownComponentError`.
    """
    component = _index().get(_key(name))
    if component is None:
        raise UnknownComponentError(name, suggestions(name))
    return component


LONGEST_NAME = 80
"""Characters beyond which nothing was a name, so that no nearest one is looked for."""


@lru_cache(maxsize=2048)
def _nearest(name: str, count: int) -> tuple[str, ...]:
    """Return the nearest names of the databank; remembered, since comparing with all of it takes a millisecond."""
    if len(name) > LONGEST_NAME:
        return ()
    index = _index()
    near = difflib.get_close_matches(_key(name), index, n=3 * count, cutoff=0.55)
    return tuple(dict.fromkeys(index[key].name for key in near))[:count]


def suggestions(name: str, count: int = 3) -> list[str]:
    """Return up to ``count`` names of the databank nearest to a mistyped one, nearest first."""
    return list(_nearest(name, count))


def search(text: str) -> list[Component]:
    """Return the components whose name, alias, formula or CAS number contains ``text``, best matches first."""
    wanted = _key(text)
    if not wanted:
        return list(all_components())

    def rank(component: Component) -> int:
        keys = [_key(k) for k in (component.name, component.formula, component.cas, *component.aliases)]
        if wanted in keys:
            return 0
        if any(k.startswith(wanted) for k in keys):
            return 1
        return 2 if any(wanted in k for k in keys) else 3

    ranked = [(rank(c), i, c) for i, c in enumerate(all_components())]
    return [c for r, _, c in sorted(ranked, key=lambda t: t[:2]) if r < 3]
