"""The page *Yields* of a sample or blend: what each product holds, its properties and the tests it would show."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QWidget

from ....telling.sentences import Units
from ....telling.table_blocks import Block, of_key
from ...shell.live import Live
from ..shared.desk import DeskEntry, register
from ..shared.panel_desk import PanelDesk

COLUMNS = {
    "from_K": "from", "to_K": "to", "volume_fraction": "volume", "mass_fraction": "mass", "density_kg_m3": "density", "api": "°API", "molar_mass_g_mol": "M",
    "watson_k": "Watson K", "d86_10_K": "D86 10 %", "d86_50_K": "D86 50 %", "d86_90_K": "D86 90 %", "flash_point_K": "flash point", "freezing_point_K": "freezing point",
    "smoke_point_mm": "smoke point", "cetane_index": "cetane index",
}  # fmt: skip
"""What is told of a product, in its order, with the head of its column."""


class ProductsDesk(PanelDesk):
    """Products of a fluid that is made of samples."""

    kinds = ("yields",)
    name = "Yields"

    def __init__(self, live: Live, parent: QWidget | None = None) -> None:
        super().__init__(live, parent)
        self.body.setSizes([330, 710])

    def blocks(self, answer: dict[str, Any]) -> list[Block]:
        """Return a column a product, a row a property, in the reader's units; what lies outside a published range is
        marked by a tilde."""
        units = self._live.units_of(self.study()).of_states()
        products = answer["yields"]
        lines = [_property(key, words, products, units) for key, words in COLUMNS.items()]
        lines += _viscosities(products, units)
        lines += [_quantity(n, products) for n in dict.fromkeys(n for p in products for n in p["quantities"])]
        heads = [("", ""), ("unit", ""), *((p["name"], "") for p in products)]
        return [Block("", heads, [row for row, _ in lines], [paths for _, paths in lines])]


Line = tuple[list[str], list[str]]
"""The texts of a row, and the paths of its numbers."""


def _line(words: str, unit: str, texts: list[str], paths: list[str]) -> Line:
    return [words, unit, *texts], ["", "", *paths]


def _property(key: str, words: str, products: list[dict[str, Any]], units: Units) -> Line:
    """Return the row of a key of the products; what lies outside a published range is marked."""
    shown, share = of_key(key, units), key.endswith("_fraction")

    def told(product: dict[str, Any]) -> str:
        value = product[key]
        text = "–" if value is None else f"{100 * value:.4g}" if share else shown.text(value)
        return f"~ {text}" if key in product["beyond"] and value is not None else text

    unit = "%" if share else "mm" if key.endswith("_mm") else shown.head[1]
    paths = [f"yields[{i}].{key}" if p[key] is not None else "" for i, p in enumerate(products)]
    return _line(words, unit, [told(p) for p in products], paths)


def _viscosities(products: list[dict[str, Any]], units: Units) -> list[Line]:
    """Return a row for each temperature that viscosities are told at."""
    key, place = "kinematic_viscosity_m2_s", of_key("temperature_K", units)
    shown = of_key(key, units)
    out = []
    for k, at in enumerate(next((p["kinematic_viscosity"] for p in products if p["kinematic_viscosity"]), [])):
        found = [p["kinematic_viscosity"][k][key] if p["kinematic_viscosity"] else None for p in products]
        words = f"viscosity at {place.short(at['temperature_K'])} {place.head[1]}"
        texts = ["–" if v is None else shown.text(v) for v in found]
        paths = [f"yields[{i}].kinematic_viscosity[{k}].{key}" if v is not None else "" for i, v in enumerate(found)]
        out.append(_line(words, shown.head[1], texts, paths))
    return out


def _quantity(name: str, products: list[dict[str, Any]]) -> Line:
    """Return the row of a quantity of the samples."""
    held = [p["quantities"].get(name) for p in products]
    unit = next(h["unit"] for h in held if h is not None)
    paths = [f"yields[{i}].quantities.{name}.value" if h is not None else "" for i, h in enumerate(held)]
    return _line(name, unit, ["–" if h is None else f"{h['value']:.4g}" for h in held], paths)


register(
    DeskEntry(
        key="products", title="Yields", order=21, make=ProductsDesk, mark=lambda live: "done" if live.fluid_name else "open", card="cuts",
        kinds=ProductsDesk.kinds, needs="fluid", line=lambda _live: "products of the fluid",
        help=(
            "What a sample, or a blend of samples, yields between temperatures: volumes at 60 °F and masses add up to the whole.",
            "Without temperatures the product ranges of the page Cuts are taken; 'cut at' takes your own, in any unit, as 200, 350, 650 degF.",
            "Light ends, and single components up to n-pentane, stand in front.",
            "Density, molar mass and quantities such as sulphur add up; viscosities blend by the index of ASTM D7152 by mass.",
            "D86 temperatures are of the product alone, by the API conversion of 1994.",
            "Flash point: Riazi and Daubert (1987). Freezing and smoke point: API procedures 2B11.1 and 2B10.1. Cetane index: ASTM D4737.",
            "~ marks a number beyond the published range of its method; far beyond nothing is told.",
            "A fluid that a question gives has no yields: its cuts are no longer those of a sample.",
            "Ctrl+Enter keeps a draft on the shelf; copy gives the table with its headers.",
            "`cryonome solve` answers the kept question alike.",
        ),
    )
)  # fmt: skip
