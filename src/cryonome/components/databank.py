"""The pure components: read once from ``pure.csv`` and ``ideal_gas.csv``, in its order; :mod:`lookup` finds one by
any of its names."""

from __future__ import annotations

import csv
from functools import cache
from importlib.resources import files

from ..constants import R
from .component import Component


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
