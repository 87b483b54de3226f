"""Conditions of typed questions that are ranges or pairs: what is varied, axes, stages."""

from __future__ import annotations

from dataclasses import dataclass

from ..document.conditions import CONDITIONS
from ..questions.kinds.sweep import Variation
from ..questions.kinds.table import TableAxis
from .scan import Token
from .typed_asking import Asking
from .typed_pieces import Piece, Unclear, UnclearError
from .vocabulary import condition_words


@dataclass
class Conditions(Asking):
    """Ranges and pairs of conditions: what is varied, the axes of a table, the stages of a train."""

    def _varied(self) -> None:
        """Find the input of a sweep or a goal: a condition of the question that is asked."""
        of = getattr(self.study, "of", "")
        subject = self.reader.document.study(of)
        words = condition_words()
        found = ""
        for count in (3, 2, 1):
            for i in range(len(self.pieces) - count + 1):
                run = self.pieces[i : i + count]
                text = " ".join(p.word for p in run)
                if (
                    not found
                    and text in words
                    and all(p.word for p in run)
                    and (not any(p.used for p in run))
                    and hasattr(subject, words[text])
                ):
                    found = words[text]
                    for p in run:
                        p.used = True
        if not found:
            # The unit of the range tells.
            for piece in self.pieces:
                if piece.token.what == "range" and not found:
                    found = next(
                        (
                            k
                            for k, c in CONDITIONS.items()
                            if c.kind in piece.token.kinds and getattr(subject, k, None) is not None
                        ),
                        "",
                    )
        if not found:
            raise UnclearError(
                Unclear(
                    0,
                    len(self.reader.text),
                    f"which input of {of} is varied? Say its temperature or pressure, with a range",
                )
            )
        path = f"studies[{of}].{found}"
        kind = CONDITIONS[found].kind
        for i, piece in enumerate(self.pieces):
            token = piece.token
            if (
                piece.used
                or token.what != "range"
                or (token.unit and kind not in token.kinds and not (kind == "fraction" and token.unit == "%"))
            ):
                continue
            piece.used = True
            if self.kind.name == "sweep":
                self._set(
                    ("vary",), Variation(path=path, begin=token.cell(0), end=token.cell(1), **self._stepped(i, token))
                )
            else:
                self._set(("vary", "path"), path)
                self._set(("vary", "between"), (token.cell(0), token.cell(1)))
            break
        else:
            if self.kind.name == "sweep":
                raise UnclearError(
                    Unclear(
                        len(self.reader.text),
                        len(self.reader.text),
                        f"over which {CONDITIONS[found].title}? Write a range, as 5..60 bar",
                    )
                )
            self._set(("vary", "path"), path)
        if self.kind.name == "goal":
            self._target()

    def _target(self) -> None:
        for piece in self.pieces:
            if not piece.used and piece.token.what == "number":
                piece.used = True
                token = piece.token
                self._set(("target",), f"{token.numbers[0]:.10g} {token.unit}" if token.unit else token.numbers[0])
                return
        raise UnclearError(
            Unclear(len(self.reader.text), len(self.reader.text), "what is it to be? Write the value wanted, as 50 %")
        )

    def _stages(self) -> None:
        """Take pairs of a temperature and a pressure, one behind the other, as the stages of a train."""
        found = [
            p
            for p in self.pieces
            if not p.used and p.token.what == "number" and p.token.kinds & {"temperature", "pressure"}
        ]
        pairs: list[tuple[Piece, Piece]] = []
        i = 0
        while i + 1 < len(found):
            one, other = found[i], found[i + 1]
            kinds = [("temperature" in p.token.kinds, "pressure" in p.token.kinds) for p in (one, other)]
            if kinds[0][0] and kinds[1][1]:
                pairs.append((one, other))
                i += 2
            elif kinds[0][1] and kinds[1][0]:
                pairs.append((other, one))
                i += 2
            else:
                i += 1
        if self.kind.name == "black_oil" and len(pairs) < 2:
            return
        if pairs:
            stage = type(self.study.stages[0])  # type: ignore[attr-defined]
            self._set(("stages",), tuple(stage(temperature=t.token.cell(), pressure=p.token.cell()) for t, p in pairs))
            for t, p in pairs:
                t.used = p.used = True

    def _axes(self) -> None:
        """Take ranges and lists of conditions as the axes of a table, a single value as what is held."""
        axes: list[TableAxis] = []
        for i, piece in enumerate(self.pieces):
            token = piece.token
            if piece.used or token.what not in ("range", "list"):
                continue
            key = self._condition_of(token, [a.variable for a in axes])
            piece.used = True
            if token.what == "range":
                axes.append(TableAxis(variable=key, begin=token.cell(0), end=token.cell(1), **self._stepped(i, token)))
            else:
                axes.append(TableAxis(variable=key, values=tuple(token.cell(k) for k in range(len(token.numbers)))))
        for piece in self.pieces:
            token = piece.token
            if piece.used or token.what != "number" or not token.unit:
                continue
            names = [a.variable for a in axes]
            key = self._condition_of(token, names)
            piece.used = True
            if len(axes) == 2:
                raise self._fail(token, "two ranges are two axes; a condition held beside them is one too many")
            self._set((key,), token.cell())
        if not axes:
            if any(p != ("properties",) for p in self.filled_paths):
                axes = [a for a in self.study.axes if (a.variable,) not in self.filled_paths]  # type: ignore[attr-defined]
            else:
                return
        held = [k for k in CONDITIONS if (k,) in self.filled_paths]
        if len(axes) == 1 and not held:
            other = next(a for a in self.study.axes if a.variable != axes[0].variable)  # type: ignore[attr-defined]
            missing = CONDITIONS[other.variable].title
            raise UnclearError(
                Unclear(
                    len(self.reader.text),
                    len(self.reader.text),
                    f"at which {missing}? A table over {CONDITIONS[axes[0].variable].title} holds another condition, or has a second range",
                )
            )
        if len(axes) > 2:
            raise UnclearError(Unclear(0, len(self.reader.text), "a table has one or two axes; three ranges are given"))
        self._set(("axes",), tuple(axes))

    def _condition_of(self, token: Token, taken: list[str]) -> str:
        found = [
            k
            for k, c in CONDITIONS.items()
            if (
                c.kind in token.kinds
                or (c.by_mass or "") in token.kinds
                or (c.kind == "fraction" and token.unit == "%")
            )
            and k not in taken
        ]
        if not token.unit:
            raise self._fail(token, f"{self._text(token)} needs its unit: temperature or pressure?")
        if not found:
            raise self._fail(token, f"{self._text(token)} is no condition of a state that is still free")
        return found[0]
