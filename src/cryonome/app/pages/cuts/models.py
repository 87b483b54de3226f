"""The tables of the cuts desk: components, yields by product, widths by region."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from ....characterization import CharacterizedSample
from ....characterization.correlations import TEST_TEMPERATURES
from ....characterization.cuts import IN_FAHRENHEIT, PRODUCTS, REGIONS, ZERO_F
from ....characterization.viscosity import within_method
from ....constants import WATER_DENSITY_60F
from ....document import Fault
from ....document.edits import set_at, set_each, update_sample
from ....document.faults import PathParts
from ....document.model import Cuts, Product
from ....document.reader import united_cell
from ....units import fixed, format_number, from_si, label
from ...shell.live import Live
from ...widgets.fields import shown_text
from ...widgets.grid import GridModel

Value = Callable[[CharacterizedSample, int], float]


def store_cuts(live: Live, text: str, change: Callable[[Cuts], Cuts], merge: str = "") -> None:
    """Change how the selected sample is cut, as one undoable step."""
    name = live.sample_name
    live.store.edit(text, lambda d: update_sample(d, name, lambda s: set_at(s, ("cuts",), change(s.cuts))), merge)


def _viscosity(k: int, result: CharacterizedSample, i: int) -> str:
    cut = i - result.light
    value = within_method(float(result.cut_viscosity[cut, k])) if cut >= 0 else None
    return "–" if value is None else format_number(1e6 * value, 3)


class CutsModel(GridModel):
    """The components of the selected sample, light ends first."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self.units: dict[str, str] = {}
        self._columns: list[tuple[str, str, Callable[[CharacterizedSample, int], str]]] = []

    def show(self, units: dict[str, str]) -> None:
        """Show the present result in the given units by kind."""
        self.units = units
        t, p, d, m = units["temperature"], units["pressure"], units["density"], units["molar_mass"]

        def quantity(kind: str, unit: str, value: Value, digits: int = 4) -> Callable[[CharacterizedSample, int], str]:
            if kind == "temperature":
                return lambda r, i: fixed(from_si(value(r, i), unit, kind), 1)
            return lambda r, i: format_number(from_si(value(r, i), unit, kind), digits)

        self._columns = [
            ("cut", label(t), lambda r, i: range_text(r, i, t)),
            ("boils at", label(t), quantity("temperature", t, lambda r, i: r.components[i].nbp)),
            (
                "density",
                label(d),
                quantity("density", d, lambda r, i: r.components[i].specific_gravity * WATER_DENSITY_60F),
            ),
            ("molar mass", label(m), quantity("molar_mass", m, lambda r, i: r.components[i].molar_mass)),
            ("Tc", label(t), quantity("temperature", t, lambda r, i: r.components[i].Tc)),
            ("Pc", label(p), quantity("pressure", p, lambda r, i: r.components[i].Pc, 3)),
            ("omega", "–", lambda r, i: fixed(r.components[i].omega, 3)),
            *(
                (f"ν {fixed(from_si(T, t, 'temperature'), 0)} {label(t)}", "cSt", partial(_viscosity, k))
                for k, T in enumerate(TEST_TEMPERATURES.tolist())
            ),
            ("volume", "%", lambda r, i: fixed(100 * r.volume_fraction[i], 2)),
            ("mass", "%", lambda r, i: fixed(100 * r.mass_fraction[i], 2)),
            ("moles", "%", lambda r, i: fixed(100 * r.mole_fraction[i], 2)),
        ]
        self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [(title, unit) for title, unit, _ in self._columns]

    def rows(self) -> int:
        result = self._live.characterized()
        return len(result.components) if result else 0

    def text(self, row: int, column: int) -> str:
        result = self._live.characterized()
        return self._columns[column][2](result, row) if result and row < len(result.components) else ""

    def editable(self, row: int, column: int) -> bool:
        result = self._live.characterized()
        return column == 0 and result is not None and row >= result.light

    def edit_text(self, row: int, column: int) -> str:
        result = self._live.characterized()
        if result is None or column != 0:
            return self.text(row, column)
        return result.components[row].name[len(result.name) + 1 :]

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        """Rename cuts; an empty name gives the automatic one back."""
        result = self._live.characterized()
        if result is None:
            return
        renamed: dict[str, str] = {}
        ranges: set[str] = set()
        for (row, column), value in cells.items():
            if column == 0 and result.light <= row < len(result.components):
                plain = result.automatic_names[row - result.light][len(result.name) + 1 :]
                key = result.components[row].key.rpartition("/")[2]
                renamed[key] = "" if value.strip() == plain else value.strip()
                ranges.add(plain)

        def change(cuts: Cuts) -> Cuts:
            # A name is kept by the cut's identity; one that was kept by its range is dropped.
            names = {**{k: v for k, v in cuts.names.items() if k not in ranges}, **renamed}
            return set_at(cuts, ("names",), {k: v for k, v in names.items() if v})

        if renamed:
            store_cuts(self._live, "Rename a cut", change)

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def muted(self, row: int, column: int) -> bool:
        result = self._live.characterized()
        return 2 <= column <= 8 and result is not None and row >= result.light

    def tip(self, row: int, column: int) -> str:
        result = self._live.characterized()
        if result is None or row >= len(result.components):
            return ""
        return "\n".join(result.components[row].estimates) if 2 <= column <= 8 else result.components[row].name


def range_text(result: CharacterizedSample, i: int, unit: str) -> str:
    """Return how a component is called in the table: its own name, its group, or its boiling range."""
    cut = i - result.light
    if cut < 0:
        return result.components[i].name
    if result.components[i].name != result.automatic_names[cut]:
        return result.components[i].name[len(result.name) + 1 :]
    if result.labels:
        return result.labels[cut]
    low, high = (from_si(float(result.edge_temperatures[k]), unit, "temperature") for k in (cut, cut + 1))
    return f"{low:.0f} – {high:.0f}".replace("-", "−")


class YieldsModel(GridModel):
    """The yields by product range; names and end temperatures can be edited, a row below takes another product."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self.unit = "degC"
        self._faults: dict[tuple[int, int], str] = {}

    def show(self, unit: str, faults: Sequence[Fault]) -> None:
        """Show the present yields with temperatures in a unit."""
        self.unit = unit
        self._faults = {}
        for fault in faults:
            if len(fault.path) == 6 and fault.path[2:4] == ("cuts", "products"):
                self._faults[int(fault.path[4]), 0 if fault.path[5] == "name" else 2] = fault.message
        self.reload()

    def products(self) -> list[Product]:
        """Return the products as stored, else the usual ones."""
        sample = self._live.current_sample()
        if sample is not None and sample.cuts.products:
            return list(sample.cuts.products)
        last = len(PRODUCTS) - 1
        return [
            Product(name=p.name, end=None if i == last else f"{p.end - 273.15:g} degC") for i, p in enumerate(PRODUCTS)
        ]

    def _first(self) -> int:
        """Rows before the products: the light ends."""
        result = self._live.characterized()
        return len(result.yields) - len(result.choices.products) if result else 0

    def titles(self) -> list[tuple[str, str]]:
        return [("product", ""), ("from", label(self.unit)), ("to", label(self.unit)), ("volume", "%"), ("mass", "%")]

    def rows(self) -> int:
        return self._first() + len(self.products()) + 1 if self._live.current_sample() else 0

    def text(self, row: int, column: int) -> str:
        result = self._live.characterized()
        place, products = row - self._first(), self.products()
        if place >= len(products):
            return ""
        if place >= 0 and column == 0:
            return products[place].name
        if place >= 0 and column == 2 and products[place].end is not None:
            return shown_text(products[place].end, self.unit, "temperature")
        if result is None or row >= len(result.yields):
            return ""
        y = result.yields[row]
        if column == 0:
            return y.name
        if column in (1, 2):
            return format_number(from_si((y.start, y.end)[column - 1], self.unit, "temperature"), 4)
        return fixed(100 * (y.volume, y.mass)[column - 3], 2)

    def editable(self, row: int, column: int) -> bool:
        return row >= self._first() and column in (0, 2)

    def fault(self, row: int, column: int) -> str:
        return self._faults.get((row - self._first(), column), "")

    def muted(self, row: int, column: int) -> bool:
        place = row - self._first()
        return column == 1 or (column == 2 and (place < 0 or place == len(self.products()) - 1))

    def left_aligned(self, column: int) -> bool:
        return column == 0

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        products = self.products()
        for (row, column), value in sorted(cells.items()):
            place = row - self._first()
            if place < 0 or column not in (0, 2):
                continue
            if place >= len(products):
                if column == 0 and value.strip():
                    # The new product takes over from the last one, which ends half way.
                    products.append(Product(name=value.strip()))
                continue
            update = {"name": value.strip()} if column == 0 else {"end": united_cell(value, self.unit)}
            products[place] = products[place].model_copy(update=update)
        products = [p for p in products if p.name]
        self._keep(products, text)

    def remove(self, rows: set[int]) -> None:
        """Remove products; the one before reaches up to where the removed one ended."""
        chosen = {r - self._first() for r in rows}
        products = [p for i, p in enumerate(self.products()) if i not in chosen]
        if products:
            products[-1] = products[-1].model_copy(update={"end": None})
        self._keep(products, "Remove products")

    def usual(self) -> None:
        """Go back to the usual products."""
        store_cuts(self._live, "The usual products", lambda c: set_at(c, ("products",), None))

    def _keep(self, products: list[Product], text: str) -> None:
        stored = tuple(products) or None
        store_cuts(self._live, text, lambda c: set_at(c, ("products",), stored))


class RegionsModel(GridModel):
    """Cut widths by temperature region: up to, width; the last region has no end."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self.unit = "degC"
        self._faults: dict[tuple[int, int], str] = {}

    def show(self, unit: str, faults: Sequence[Fault]) -> None:
        """Show the regions with temperatures in a unit."""
        self.unit = unit
        self._faults = {
            (int(f.path[4]), int(f.path[5])): f.message
            for f in faults
            if len(f.path) == 6 and f.path[2:4] == ("cuts", "regions")
        }
        self.reload()

    def regions(self) -> list[list[Any]]:
        """Return the regions as stored, else the usual ones."""
        sample = self._live.current_sample()
        if sample is not None and sample.cuts.regions:
            return [list(r) for r in sample.cuts.regions]
        if sample is not None and sample.cuts.unit == "degF":
            return [
                [None if end > 1e6 else f"{1.8 * (end - ZERO_F):.6g} degF", f"{1.8 * width:.6g} degF"]
                for end, width in IN_FAHRENHEIT
            ]
        return [[None if end > 1e6 else f"{end - 273.15:g} degC", f"{width:g} K"] for end, width in REGIONS]

    def titles(self) -> list[tuple[str, str]]:
        return [("up to", label(self.unit)), ("width", "°F" if self.unit in ("degF", "degR") else "K")]

    def rows(self) -> int:
        return len(self.regions()) + 1 if self._live.current_sample() else 0

    def text(self, row: int, column: int) -> str:
        regions = self.regions()
        if row >= len(regions):
            return ""
        kind = ("temperature", "temperature_difference")[column]
        unit = self.unit if column == 0 else "degF" if self.unit in ("degF", "degR") else "K"
        if column == 0 and regions[row][0] is None:
            return "the end" if row == len(regions) - 1 else ""
        return shown_text(regions[row][column], unit, kind)

    def fault(self, row: int, column: int) -> str:
        return self._faults.get((row, column), "")

    def editable(self, row: int, column: int) -> bool:
        return True

    def muted(self, row: int, column: int) -> bool:
        return self.text(row, column) == "the end"

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        regions = self.regions()
        for (row, column), value in sorted(cells.items()):
            if column > 1:
                continue  # a wider block was pasted: a region is a limit and a width
            while row >= len(regions):
                regions.append([None, regions[-1][1] if regions else "20 K"])
            unit = self.unit if column == 0 else "degF" if self.unit in ("degF", "degR") else "K"
            regions[row][column] = united_cell("" if value == "the end" else value, unit)
        regions = [r for r in regions if r[1] is not None]
        stored = tuple((a, b) for a, b in regions) or None
        values: dict[PathParts, object] = {("regions",): stored, ("boundaries",): None, ("ids",): (), ("number",): None}
        store_cuts(self._live, text, lambda c: set_each(c, values))
