"""Special words of typed questions: doses, equations, steps, results and components."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..components.lookup import UnknownComponentError, find
from ..document.field_types import Cell
from ..fluids.columns import OF_PHASE, OF_WHOLE
from ..results.hydrates import own_name
from .scan import Token
from .typed_pieces import SIZES, STEPS, Filling, Piece, Unclear, UnclearError
from .vocabulary import PHASES, SILENT, equation_words, folded


@dataclass
class SpecialWords(Filling):
    """Words that mean more than a quantity: doses, equations, numbers of steps, results, components."""

    def _second_fluid(self) -> None:
        named = list(dict.fromkeys(self.reader.names.get("fluids", ())))
        if self.kind.name == "swelling":
            if len(named) > 2:
                raise UnclearError(self.reader.at_name(named[2], "swelling is of one fluid by one gas"))
            if len(named) == 2:
                self._set(("fluid",), named[0])
                self._set(("gas",), named[1])

    def _inhibitors(self) -> None:
        """Take doses: an amount beside the name of what is dosed."""
        fields = type(self.study).model_fields
        meant = next((key for key in ("inhibitor", "glycol", "solvent") if key in fields), "")
        dosed: dict[str, Cell] = {}
        asked = ""
        for i, piece in enumerate(self.pieces):
            if piece.used or not piece.word:
                continue
            name, count = self._inhibitor_at(i)
            if not name:
                continue
            run = self.pieces[i : i + count]
            amount = self._amount_beside(i, count)
            if amount is not None and "inhibitors" in fields:
                amount.used = True
                token = amount.token
                if token.unit not in ("%", "wt%"):
                    raise self._fail(token, f"a dose is percent by mass of the aqueous liquid, as 20 wt% {name}")
                dosed[name] = f"{token.numbers[0]:.10g} wt%"
            elif meant and not asked:
                asked = name
            elif "inhibitors" in fields:
                raise self._fail(
                    run[0].token, f"how much {name}? Write its share of the aqueous liquid, as 20 wt% {name}"
                )
            else:
                continue
            for p in run:
                p.used = True
        if asked:
            self._set((meant,), asked)
        if dosed:
            self._set(("inhibitors",), dosed)

    def _inhibitor_at(self, i: int) -> tuple[str, int]:
        for count in (2, 1):
            run = self.pieces[i : i + count]
            if len(run) < count or any(p.used or not p.word for p in run):
                continue
            words = " ".join(p.token.text for p in run)
            if folded(words) in SILENT or folded(words) in PHASES:
                continue
            name = own_name(words)
            if name:
                return name, count
        return "", 0

    def _amount_beside(self, i: int, count: int) -> Piece | None:
        before = [p for p in self.pieces[max(i - 2, 0) : i] if p.word not in ("of",)]
        if (
            before
            and not before[-1].used
            and before[-1].token.what == "number"
            and before[-1].token.unit in ("%", "wt%", "mol%", "vol%")
        ):
            return before[-1]
        after = self.pieces[i + count : i + count + 1]
        if (
            after
            and not after[0].used
            and after[0].token.what == "number"
            and after[0].token.unit in ("%", "wt%", "mol%", "vol%")
        ):
            return after[0]
        return None

    def _equations(self) -> None:
        fields = type(self.study).model_fields
        known = equation_words()
        found: list[tuple[int, str]] = []
        for count in (3, 2, 1):
            for i in range(len(self.pieces) - count + 1):
                run = self.pieces[i : i + count]
                if any(p.used or not p.word for p in run):
                    continue
                name = known.get(" ".join(p.word for p in run)) or known.get(
                    "".join(p.token.text.casefold() for p in run)
                )
                if name and ("equations" in fields or "equation" in fields):
                    found.append((i, name))
                    for p in run:
                        p.used = True
        names = tuple(dict.fromkeys(name for _, name in sorted(found)))
        if names and "equations" in fields:
            self._set(("equations",), names)
        elif names:
            self._set(("equation",), names[0])

    def _counts(self) -> None:
        """Keep numbers of steps and their sizes for the range before them."""
        for i, piece in enumerate(self.pieces):
            token = piece.token
            if piece.used or token.what != "number":
                continue
            after = self.pieces[i + 1] if i + 1 < len(self.pieces) else None
            if after is not None and after.word in ("logarithmic", "log") and i + 2 < len(self.pieces):
                after = self.pieces[i + 2]
            before = self.pieces[i - 1] if i else None
            if not token.unit and after is not None and after.word in STEPS:
                count = round(token.numbers[0]) - (1 if after.word in ("values", "points") else 0)
                if count < 1 or abs(token.numbers[0] - round(token.numbers[0])) > 1e-9:
                    raise self._fail(token, f"'{token.text}' is no number of {after.word}")
                self.steps.append((i, count))
                piece.used = after.used = True
            elif token.unit and after is not None and after.word in ("step", "steps"):
                self.sizes.append((i, token))
                piece.used = after.used = True
            elif (
                before is not None
                and before.word in SIZES
                and not before.used
                and any(p.token.what == "range" for p in self.pieces[:i])
            ):
                self.sizes.append((i, token))
                piece.used = before.used = True

    def _stepped(self, i: int, token: Token) -> dict[str, Any]:
        """Return the steps of a range at a place: those said next behind it, else ten."""
        following = next(
            (j for j in range(i + 1, len(self.pieces)) if self.pieces[j].token.what == "range"), len(self.pieces)
        )
        for place, count in self.steps:
            if i < place < following:
                return {"steps": count}
        for place, size in self.sizes:
            if i < place < following:
                unit = size.unit or token.unit
                difference = {"degC": "K", "degF": "degF", "K": "K"}.get(unit, unit)
                return {"step": f"{size.numbers[0]:.10g} {difference}" if difference else size.numbers[0]}
        return {"steps": 10}

    def _results(self) -> None:
        """Take the properties named: of a table those tabulated, of a sweep or goal what is read."""
        keys = self.reader.properties
        if not keys:
            return
        if self.kind.name == "table":
            self._set(("properties",), tuple(dict.fromkeys(k for key in keys for k in of_phases(key))))
        elif self.kind.name == "sweep":
            self._set(("read",), tuple(dict.fromkeys(read_path(k) for key in keys for k in of_phases(key))))
        elif self.kind.name == "goal":
            self._set(("read",), read_path(keys[0]))
        elif self.kind.name not in ("flash", "viscosity", "components", "characterization"):
            word = keys[0].rpartition(".")[2].split("_")[0]
            raise UnclearError(
                Unclear(
                    0,
                    len(self.reader.text),
                    f"{self.kind.title} is not asked by a property such as {word}; ask for a table, or leave it out",
                )
            )

    def _component_names(self) -> None:
        names: list[str] = []
        for i, piece in enumerate(self.pieces):
            if piece.used or not piece.word or piece.word in SILENT:
                continue
            for count in (3, 2, 1):
                run = self.pieces[i : i + count]
                if len(run) < count or any(p.used or not p.word for p in run):
                    continue
                try:
                    names.append(find(" ".join(p.token.text for p in run)).name)
                except UnknownComponentError:
                    continue
                for p in run:
                    p.used = True
                break
        if names:
            self._set(("names",), tuple(dict.fromkeys(names)))
            self._set(("fluid",), "")

    def _choices(self) -> None:
        """Take words that pick: the water as given, a container, no air, a glycol, a formula of the first property."""
        for piece in self.pieces if self.kind.name == "table" and self.reader.properties else ():
            if piece.word == "formula" and not piece.used and ("compact",) not in self.filled_paths:
                piece.used = True
                self._set(("compact",), of_phases(self.reader.properties[0])[0])
        text = folded(self.reader.text)
        for words, path, value in (
            ("water as given", ("water",), "as given"),
            ("own water", ("water",), "as given"),
            ("free water", ("water",), "free"),
            ("without air", ("air",), False),
            ("air free", ("air",), False),
            ("absent phases continued", ("absent",), "continued"),
            ("without holes", ("absent",), "continued"),
            ("no holes", ("absent",), "continued"),
            ("dead", ("container",), "dead"),
            ("live", ("container",), "live"),
            ("over teg", ("glycol",), "triethylene glycol"),
            ("over deg", ("glycol",), "diethylene glycol"),
            ("over meg", ("glycol",), "ethylene glycol"),
            ("over triethylene glycol", ("glycol",), "triethylene glycol"),
            ("over diethylene glycol", ("glycol",), "diethylene glycol"),
            ("over ethylene glycol", ("glycol",), "ethylene glycol"),
        ):
            if words in text and path[0] in type(self.study).model_fields:
                wanted = words.split()
                for i in range(len(self.pieces) - len(wanted) + 1):
                    run = self.pieces[i : i + len(wanted)]
                    if [p.word for p in run] == wanted:
                        for p in run:
                            p.used = True
                        self._set(path, value)
                        break


def of_phases(key: str) -> tuple[str, ...]:
    """Return a property as it can be asked for: one that is of a phase and of no whole of both, vapour and liquid."""
    if "." in key or key in OF_WHOLE or key not in OF_PHASE:
        return (key,)
    return (f"vapour.{key}", f"liquid.{key}")


def read_path(key: str) -> str:
    """Return the path in a flash's answer of a property of a phase."""
    phase, dot, own = key.partition(".")
    return f"phases.{phase}.{own}" if dot and phase in PHASES.values() else key
