"""A fluid as stocks of the samples it is made of, to be cut into products."""

from __future__ import annotations

from ..characterization.products import Stock
from ..components import Component
from ..document import Fluid
from ..errors import DomainError
from ..fluids.blending import collect
from .evaluator import Project


def stocks_of(project: Project, fluid: Fluid) -> tuple[list[tuple[float, Stock]], list[tuple[float, Component]]]:
    """Return the samples of a fluid as stocks and its other components, each with its mass, kg. Raises DomainError
    where its cuts are not those of samples."""
    made = project.input_of(fluid)
    if made is None:
        project.fluid(fluid)  # says what is wrong
        raise DomainError(f"the fluid '{fluid.name}' cannot be made")
    content = collect(made, project.sources(), [])
    samples = {s.name: s for s in project.document.samples}
    masses: dict[str, float] = {}
    others: list[tuple[float, Component]] = []
    for component, shares in zip(content.components, content.shares):
        for origin, mass in shares.items():
            if origin in samples:
                masses[origin] = masses.get(origin, 0.0) + mass
            elif component.kind == "cut" and fluid.made_by is not None:
                raise DomainError(
                    f"'{fluid.name}' is what '{fluid.made_by.study}' gives, whose cuts are no longer those of a sample; ask for the yields of a fluid made of samples"
                )
            else:
                others.append((mass, component))
    if not masses:
        raise DomainError(
            f"'{fluid.name}' has no sample in it; yields are of fluids made of samples with a boiling curve"
        )
    return [(mass, project.characterized(samples[name]).stock) for name, mass in masses.items()], others
