"""The rows of a chain: its feeds, then its steps, each with the streams it takes and gives and what it does, typed in
a few words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ....document import Document, Fluid
from ....document.drafts import draft_of, typed
from ....document.edits import set_each, study_path
from ....document.faults import PathParts
from ....document.model import MadeBy
from ....process import KINDS
from ....questions.chains.model import Feed, Step
from ....questions.kinds.process import ProcessStudy
from ....wording.step_words import allowed, does, fed, feed_understood, renamed, streams_said, streams_taken, understood
from ...shell.live import Live
from ...widgets.grid import GridModel

FEED = "feed"
COLUMNS = ("step", "is a", "takes", "does", "gives")
NAME, IS, TAKES, DOES, GIVES = range(5)


class StepsModel(GridModel):
    """A row a feed or a step; the row below the last begins a new one, an emptied one goes."""

    def __init__(self, live: Live) -> None:
        super().__init__()
        self._live = live
        self._study: ProcessStudy | None = None
        self._faults: Mapping[str, str] = {}

    def show(self, study: ProcessStudy | None, faults: Mapping[str, str]) -> None:
        """Show a chain; ``faults`` by their path in the question."""
        before = self.rows()
        self._study, self._faults = study, faults
        if self.rows() == before:
            self.rewrite()
        else:
            self.reload()

    @property
    def feeds(self) -> list[tuple[str, Feed]]:
        """The feeds with their streams."""
        return list(self._study.feeds.items()) if self._study is not None else []

    @property
    def steps(self) -> tuple[Step, ...]:
        """The steps as they were typed."""
        return self._study.steps if self._study is not None else ()

    def name_of(self, row: int) -> str:
        """Return the step of a row, or the stream of a feed; "" below the last."""
        n = len(self.feeds)
        if row < n:
            return self.feeds[row][0]
        return self.steps[row - n].name if row - n < len(self.steps) else ""

    def row_of(self, name: str) -> int | None:
        """Return the row of a step or feed by its name."""
        return next((r for r in range(self.rows() - 1) if self.name_of(r) == name), None)

    def titles(self) -> list[tuple[str, str]]:
        return [(c, "") for c in COLUMNS]

    def rows(self) -> int:
        return len(self.feeds) + len(self.steps) + 1 if self._study is not None else 0

    def left_aligned(self, column: int) -> bool:
        return True

    def editable(self, row: int, column: int) -> bool:
        return not (row < len(self.feeds) and column in (NAME, IS))

    def _place(self, row: int) -> PathParts:
        """Return the path of a row's part in the question."""
        n = len(self.feeds)
        return ("feeds", self.feeds[row][0]) if row < n else ("steps", row - n)

    def text(self, row: int, column: int) -> str:
        n, units = len(self.feeds), self._live.units()
        if row >= n + len(self.steps):
            return ""
        if row < n:
            name, feed = self.feeds[row]
            return ("", FEED, feed.fluid, self._typed(row) or fed(feed, units), name)[column]
        step = self.steps[row - n]
        if column == DOES:
            return self._typed(row) or does(step, units)
        return (step.name, step.step, streams_said(step, "from"), "", streams_said(step, "to"))[column]

    def _typed(self, row: int) -> str:
        """Return what was typed of a row and could not be understood."""
        if self._study is None or not self._live.document.drafts:
            return ""
        draft = draft_of(self._live.document, self._draft_path(row))
        return draft or ""

    def _draft_path(self, row: int) -> PathParts:
        assert self._study is not None
        return (*study_path(self._live.document, self._study.name), *self._place(row))

    def tip(self, row: int, column: int) -> str:
        if column == IS:
            return "\n".join(f"{k.name}: {k.meaning}; takes {k.takes}, gives {k.gives}" for k in KINDS.values())
        kind = self.text(row, IS) if row < self.rows() - 1 else ""
        if column == DOES and kind in KINDS:
            own = KINDS[kind]
            said = ", ".join(k.replace("_", " ") for k in (*own.needs, *own.may))
            return f"{own.meaning.capitalize()}. In words, as: to 31 bar, 75 %. It takes {said}."
        if column == TAKES:
            return "The streams it takes, with commas between; of an exchanger the hot one first."
        if column == GIVES:
            return "The streams it gives; of a separator vapour, liquid, water in this order; of a splitter with shares, as: a 60 %, b."
        return ""

    def choices(self, row: int, column: int) -> list[str]:
        if column == IS:
            return [*KINDS, FEED]
        if column == TAKES and row < len(self.feeds):
            return [f.name for f in self._live.document.every_fluid]
        if column == TAKES:
            return self.streams()
        return []

    def closed(self, row: int, column: int) -> bool:
        return column == IS or (column == TAKES and row < len(self.feeds))

    def streams(self) -> list[str]:
        """Return every stream there is."""
        given = [n.strip() for s in self.steps for n in streams_said(s, "to").split(",")]
        return [*(name for name, _ in self.feeds), *(n for n in given if n)]

    def fault(self, row: int, column: int) -> str:
        if row >= self.rows() - 1:
            return ""
        head, key = self._place(row)
        here = f"{head}[{key}]" if head == "steps" else f"{head}.{key}"
        found = {
            p[len(here) :].lstrip("."): m
            for p, m in self._faults.items()
            if p == here or p.startswith((f"{here}.", f"{here}["))
        }
        ports = {
            NAME: ("name",), IS: ("step",), TAKES: ("from", "hot_from", "cold_from", "fluid"),
            GIVES: ("to", "hot_to", "cold_to"),
        }  # fmt: skip
        for place, keys in ports.items():
            if column == place:
                return next((m for p, m in found.items() if p.partition(".")[0] in keys), "")
        named = {k for keys in ports.values() for k in keys}
        return next((m for p, m in found.items() if p.partition(".")[0] not in named), "")

    def input_path(self, row: int, column: int) -> PathParts | None:
        """Return the cell of what a step does, where it says one number."""
        if column != DOES or row >= self.rows() - 1 or self._study is None:
            return None
        n = len(self.feeds)
        part: Any = self.feeds[row][1] if row < n else self.steps[row - n]
        keys = ("temperature", "pressure", "rate") if row < n else tuple(k for k in _said_keys(part))
        key = next((k for k in keys if getattr(part, k) not in (None, "")), None)
        return None if key is None else (*self._draft_path(row), key)

    # -- edits -------------------------------------------------------------------------------------------------------

    def store_cells(self, cells: dict[tuple[int, int], str], text: str) -> None:
        study = self._study
        if study is None:
            return
        lines: dict[int, dict[int, str]] = {}
        for (row, column), value in cells.items():
            if column < len(COLUMNS):
                lines.setdefault(row, {})[column] = value
        rows = _Rows(self, study)
        for row in sorted(lines):
            rows.take(row, lines[row])
        here = study_path(self._live.document, study.name)
        values: dict[PathParts, object] = {(*here, "feeds"): dict(rows.feeds), (*here, "steps"): rows.kept()}
        odd = {(*here, *self._place(row)): told for row, told in rows.odd.items() if row < self.rows() - 1}

        def edit(document: Any) -> Any:
            new = _followed(set_each(document, values), study.name, rows.renames)
            gone = {p for p in new.drafts if any(p == _key(q) for q in self._paths(lines))}
            new = new.model_copy(update={"drafts": {k: v for k, v in new.drafts.items() if k not in gone}})
            for path, told in odd.items():
                new = new.model_copy(update={"drafts": {**new.drafts, _key(path): told}})
            return new

        self._live.store.edit(text, edit)

    def _paths(self, rows: Mapping[int, object]) -> list[PathParts]:
        return [self._draft_path(r) for r in rows if r < self.rows() - 1]

    def insert(self, row: int, kind: str) -> None:
        """Put a new step of a kind below a row, taking what the row gives."""
        study, n = self._study, len(self.feeds)
        if study is None:
            return
        place = max(0, min(row - n + 1, len(self.steps)))
        before = self.text(row, GIVES).split(",")[0].strip() if 0 <= row < self.rows() - 1 else ""
        taken = {s.name for s in self.steps}
        name = next(f"{kind} {i}" for i in range(1, 500) if f"{kind} {i}" not in taken)
        step = _with_streams(Step(name=name, step=kind), before, f"from {name}")
        steps = (*self.steps[:place], step, *self.steps[place:])
        self._edit(steps, f"Add {name}")

    def move(self, row: int, by: int) -> int:
        """Move a step up or down; return the row where it stands then."""
        n = len(self.feeds)
        i = row - n
        j = i + by
        if not (0 <= i < len(self.steps) and 0 <= j < len(self.steps)):
            return row
        steps = list(self.steps)
        steps.insert(j, steps.pop(i))
        self._edit(tuple(steps), f"Move {steps[j].name}")
        return n + j

    def remove(self, rows: list[int]) -> None:
        """Take steps and feeds out."""
        self.store_cells({(r, c): "" for r in rows for c in range(len(COLUMNS))}, "Remove steps")

    def _edit(self, steps: tuple[Step, ...], text: str) -> None:
        assert self._study is not None
        place = (*study_path(self._live.document, self._study.name), "steps")
        self._live.store.edit(text[:60], lambda d: typed(d, place, steps, ""))


def _followed(document: Document, study: str, renames: Mapping[str, str]) -> Document:
    """Return a document whose fluids that are streams of a chain go by the streams' new names."""

    def of(fluid: Fluid) -> Fluid:
        made = fluid.made_by
        if made is None or made.study != study or made.stream not in renames:
            return fluid
        return fluid.model_copy(update={"made_by": MadeBy(study=study, stream=renames[made.stream])})

    return document.model_copy(update={"fluids": tuple(of(f) for f in document.fluids)}) if renames else document


def _key(path: PathParts) -> str:
    from ....document.faults import format_path

    return format_path(path)


def _said_keys(step: Step) -> list[str]:
    own = KINDS.get(step.step)
    return [*(own.needs if own is not None else ()), "temperature", "duty", "pressure_drop", "efficiency"]


def _with_streams(step: Step, takes: str, gives: str) -> Step:
    """Return a new step between streams."""
    if step.step == "exchanger":
        return step.model_copy(update={"hot_from": takes, "hot_to": f"{gives}, hot", "cold_to": f"{gives}, cold"})
    if step.step == "separator":
        return step.model_copy(
            update={"takes": takes, "gives": {"vapour": f"gas {gives}", "liquid": f"liquid {gives}"}}
        )
    if step.step == "splitter":
        return step.model_copy(update={"takes": takes, "gives": {f"one {gives}": 0.5, f"other {gives}": None}})
    return step.model_copy(update={"takes": takes, "gives": gives})


class _Rows:
    """Feeds and steps while typed cells are taken into them."""

    def __init__(self, model: StepsModel, study: ProcessStudy) -> None:
        self.feeds: list[tuple[str, Feed]] = list(study.feeds.items())
        self.steps: list[Step] = list(study.steps)
        self.odd: dict[int, str] = {}
        self.renames: dict[str, str] = {}
        self._units = model._live.units()
        self._first = len(self.feeds)
        self._fluid = model._live.fluid_name
        self._gone: set[int] = set()
        self._feeds_gone: set[int] = set()

    def take(self, row: int, cells: Mapping[int, str]) -> None:
        """Take the typed cells of a row."""
        cells = {c: v.strip() for c, v in cells.items()}
        if row < self._first:
            self._take_feed(row, cells)
            return
        place = row - self._first
        if place >= len(self.steps):
            if not any(cells.values()):
                return
            if cells.get(IS) == FEED:
                self._new_feed(cells)
                return
            self.steps.append(Step(name=f"Step {len(self.steps) + 1}", step=""))
            place = len(self.steps) - 1
        elif len(cells) == len(COLUMNS) and not any(cells.values()):
            self._gone.add(place)
            return
        self.steps[place] = self._step(self.steps[place], cells, row)

    def kept(self) -> tuple[Step, ...]:
        """Return the steps that stay."""
        return tuple(s for i, s in enumerate(self.steps) if i not in self._gone)

    def _step(self, step: Step, cells: Mapping[int, str], row: int) -> Step:
        before = streams_said(step, "to")
        if cells.get(NAME):
            step = step.model_copy(update={"name": cells[NAME]})
        if IS in cells and cells[IS] != step.step:
            step = _turned(step, cells[IS])
        if TAKES in cells:
            step = step.model_copy(update=streams_taken(cells[TAKES], step.step, "from"))
        if GIVES in cells:
            step = step.model_copy(update=streams_taken(cells[GIVES], step.step, "to"))
            old, new = ([n.strip() for n in text.split(",")] for text in (before, streams_said(step, "to")))
            if len(old) == len(new):
                # A stream that is renamed is renamed in the steps that take it too.
                for a, b in zip(old, new):
                    if a and b and a != b:
                        self.renames[a] = b
                        self.steps = list(renamed(self.steps, a, b))
                        step = renamed((step,), a, b)[0]
        if DOES in cells:
            found, odd = understood(cells[DOES], step.step, self._units)
            step = step.model_copy(update=found)
            if odd:
                self.odd[row] = cells[DOES]
        return step

    def _take_feed(self, row: int, cells: Mapping[int, str]) -> None:
        name, feed = self.feeds[row]
        if len(cells) == len(COLUMNS) and not any(cells.values()):
            self.feeds[row] = ("", feed)
            self.feeds = [f for f in self.feeds if f[0]]
            self._first = len(self.feeds)
            return
        if cells.get(TAKES):
            feed = feed.model_copy(update={"fluid": cells[TAKES]})
        if DOES in cells:
            found, odd = feed_understood(cells[DOES], self._units)
            feed = feed.model_copy(update=found)
            if odd:
                self.odd[row] = cells[DOES]
        if cells.get(GIVES) and cells[GIVES] != name:
            self.steps = list(renamed(self.steps, name, cells[GIVES]))
            self.renames[name] = cells[GIVES]
            name = cells[GIVES]
        self.feeds[row] = (name, feed)

    def _new_feed(self, cells: Mapping[int, str]) -> None:
        names = {n for n, _ in self.feeds}
        name = cells.get(GIVES) or next(f"feed {i}" for i in range(2, 500) if f"feed {i}" not in names)
        first = self.feeds[0][1] if self.feeds else Feed(fluid=self._fluid)
        feed = first.model_copy(update={"fluid": cells.get(TAKES) or first.fluid})
        if cells.get(DOES):
            feed = feed.model_copy(update=feed_understood(cells[DOES], self._units)[0])
        self.feeds.append((name, feed))


def _turned(step: Step, kind: str) -> Step:
    """Return a step made one of another kind: its streams stay, and the numbers that kind takes too."""
    takes, gives = streams_said(step, "from"), streams_said(step, "to")
    mine = allowed(kind)
    plain = {k: None for k in Step.model_fields if k in allowed("") and k not in mine}
    cleared: dict[str, Any] = {"takes": "", "gives": "", "hot_from": "", "hot_to": "", "cold_from": "", "cold_to": ""}
    if kind not in KINDS or "efficiency_kind" not in KINDS[kind].words:
        cleared["efficiency_kind"] = "polytropic"
    if kind != "exchanger":
        cleared["arrangement"] = "counter"
    step = step.model_copy(update={**plain, **cleared, "step": kind})
    return step.model_copy(update={**streams_taken(takes, kind, "from"), **streams_taken(gives, kind, "to")})
