"""Additive quantities the user named (sulphur, say), along the curve."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..remarks import Remark, Value, Word
from .assay import CLASH, Assay
from .lab_sample import LabSample
from .property_curves import beyond, continued

Array = NDArray[np.float64]


def slice_quantities(sample: LabSample, assay: Assay, remarks: list[Remark]) -> dict[str, tuple[Array, str, str]]:
    """Return the values (n,) of every named quantity in the slices, with its basis and unit.

    Light ends count as free of it. A curve that does not add up to the whole sample's value is scaled to it unless
    the sample keeps its curve.
    """
    out: dict[str, tuple[Array, str, str]] = {}
    for quantity in sample.quantities:
        amount = assay.amounts(quantity.basis)
        middle = 0.5 * (assay.x[1:] + assay.x[:-1])
        values = continued(quantity.points, middle) if quantity.points else np.full(middle.shape, quantity.bulk or 0.0)
        if quantity.points:
            remarks += beyond(quantity.points, quantity.name, "curve.beyond_quantity", {"name": quantity.name})
        whole = float(amount.sum() + assay.light_amounts(quantity.basis).sum())
        own = float(values @ amount) / whole
        if quantity.bulk is not None and own > 0.0 and quantity.points:
            off = own / quantity.bulk - 1.0 if quantity.bulk > 0.0 else np.inf
            scaled = quantity.name not in sample.keep
            values_told: dict[str, Value] = {
                "name": quantity.name,
                "unit": quantity.unit,
                "own": own,
                "off": 100 * float(off),
                "given": quantity.bulk,
                "end": Word("end.scaled" if scaled else "end.kept_curve"),
            }
            kind = "warning" if abs(off) > CLASH else "correction"
            remarks.append(Remark(kind, "quantity.adds_up", quantity.name, values_told))
            if scaled:
                values = values * quantity.bulk / own
        out[quantity.name] = values, quantity.basis, quantity.unit
    return out
