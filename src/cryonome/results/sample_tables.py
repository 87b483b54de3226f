"""Results as plain tables, for spreadsheets."""

from __future__ import annotations

from ..characterization import CharacterizedSample
from ..document import Document, errors
from ..document.field_types import Cell
from ..errors import DomainError
from .evaluator import Evaluator

HEADER = (
    "component", "from (K)", "to (K)", "boils at (K)", "specific gravity", "molar mass (g/mol)", "Tc (K)", "Pc (Pa)",
    "omega", "Vc (m3/mol)", "mole fraction", "mass fraction", "volume fraction",
)  # fmt: skip


def cut_tables(document: Document, evaluator: Evaluator) -> dict[str, list[list[Cell]]]:
    """Return the components and yields of every sample that can be characterized, by a title."""
    out: dict[str, list[list[Cell]]] = {}
    project = evaluator.at(document)
    for sample in document.samples:
        if errors(project.read_sample(sample).faults):
            continue
        try:
            out[f"{sample.name[:22]} cuts"] = component_rows(project.characterized(sample))
        except DomainError:
            continue
    return out


def component_rows(result: CharacterizedSample) -> list[list[Cell]]:
    """Return light ends and cuts as rows under a header, and the yields below."""
    rows: list[list[Cell]] = [[*HEADER, *[f"{n} ({u})" for n, u in result.quantity_units.items()]]]
    for i, c in enumerate(result.components):
        cut = i - result.light
        low, high = (None, None) if cut < 0 else (float(v) for v in result.edge_temperatures[cut : cut + 2])
        amounts = [float(f[i]) for f in (result.mole_fraction, result.mass_fraction, result.volume_fraction)]
        named = [None if cut < 0 else float(v[cut]) for v in result.quantities.values()]
        rows.append(
            [
                c.name,
                low,
                high,
                c.nbp,
                c.specific_gravity,
                c.molar_mass * 1e3,
                c.Tc,
                c.Pc,
                c.omega,
                c.Vc,
                *amounts,
                *named,
            ]
        )
    rows += [[], ["product", "from (K)", "to (K)", "volume fraction", "mass fraction"]]
    rows += [[y.name, y.start, y.end, y.volume, y.mass] for y in result.yields]
    return rows
