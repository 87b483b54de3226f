"""The table of a fluid's own interaction parameters: two components, a value, and what would stand there otherwise."""

from __future__ import annotations

from collections.abc import Sequence

from ....components import UnknownComponentError, find
from ....document import Fault, Fluid
from ....document.edits import fluid_path
from ....document.faults import PathParts
from ....document.reader import cell_text, plain_cell
from ....fluids.pair_parameters import library_value
from ...shell.live import Live
from ...widgets.grid import GridModel

SPARE = 1


class PairsModel(GridModel):
    """Rows of pairs. Components are shown by their present names; what is stored is what they are known by."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._pairs: tuple[tuple[object, ...], ...] = ()
        self._faults: dict[tuple[int, int], str] = {}

    def show(self, fluid: Fluid | None, faults: Sequence[Fault]) -> None:
        """Show a fluid's pairs."""
        pairs = fluid.model.kij_pairs if fluid is not None else ()
        same = len(pairs) == len(self._pairs)
        self._pairs = pairs
        self._faults = {}
        for fault in faults:
            if "kij_pairs" in fault.path and len(fault.path) > 4:
                column = fault.path[5] if len(fault.path) > 5 else 0
                self._faults[int(fault.path[4]), int(column)] = fault.message
        if same:
            self.rewrite()
        else:
            self.reload()

    def titles(self) -> list[tuple[str, str]]:
        return [("component", ""), ("with", ""), ("value", "k_ij"), ("otherwise", "k_ij")]

    def rows(self) -> int:
        return len(self._pairs) + SPARE if self._live.current_fluid() is not None else 0

    def names(self) -> list[str]:
        """Return what the components are called, for completion."""
        model = self._live.model()
        return list(model.names) if model is not None else []

    def _shown(self, key: object) -> str:
        model = self._live.model()
        if model is not None:
            found = next((c.name for c in model.components if key in (c.identity, c.name)), None)
            if found is not None:
                return found
        return str(key or "")

    def _known(self, text: str) -> str:
        """Return what a component is known by, from the name it is shown by."""
        model, text = self._live.model(), text.strip()
        if model is not None:
            for c in model.components:
                if text.casefold() in (c.name.casefold(), c.identity.casefold()):
                    return c.identity
        try:
            return find(text).name if text else ""
        except UnknownComponentError:
            return text

    def input_path(self, row: int, column: int) -> PathParts | None:
        fluid = self._live.current_fluid()
        if fluid is None or column != 2 or row >= len(self._pairs):
            return None
        return (*fluid_path(self._live.document, fluid.name), "model", "kij_pairs", row, 2)

    def text(self, row: int, column: int) -> str:
        if row >= len(self._pairs):
            return ""
        pair = self._pairs[row]
        if column < 2:
            return self._shown(pair[column])
        if column == 2:
            return cell_text(pair[2])  # type: ignore[arg-type]
        return self._otherwise(pair)

    def _otherwise(self, pair: tuple[object, ...]) -> str:
        model, fluid = self._live.model(), self._live.current_fluid()
        if model is None or fluid is None:
            return ""
        place = {c.identity: i for i, c in enumerate(model.components)} | {n: i for i, n in enumerate(model.names)}
        i, j = place.get(str(pair[0])), place.get(str(pair[1]))
        if i is None or j is None:
            return "not in it"
        if fluid.model.kij != "library":
            return "0"
        return f"{library_value(fluid.model.eos, fluid.model.alpha, model.components[i], model.components[j]):.4f}"

    def left_aligned(self, column: int) -> bool:
        return column < 2

    def muted(self, row: int, column: int) -> bool:
        return column == 3

    def fault(self, row: int, column: int) -> str:
        return self._faults.get((row, column), "")

    def editable(self, row: int, column: int) -> bool:
        return column < 3

    def choices(self, row: int, column: int) -> list[str]:
        return self.names() if column < 2 else []

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        pairs: list[list[object]] = [list(p) for p in self._pairs]
        for (row, column), value in sorted(cells.items()):
            while row >= len(pairs):
                pairs.append(["", "", ""])
            if column < 2:
                pairs[row][column] = self._known(value)
            elif column == 2:
                cell = plain_cell(value)
                pairs[row][column] = "" if cell is None else cell
        kept = tuple(tuple(p) for p in pairs if any(v not in ("", None) for v in p))
        self._live.set_fluid("Change own pairs", {("model", "kij_pairs"): kept})

    def remove(self, rows: set[int]) -> None:
        """Remove pairs."""
        kept = tuple(p for i, p in enumerate(self._pairs) if i not in rows)
        self._live.set_fluid("Remove own pairs", {("model", "kij_pairs"): kept})
