"""Finished English sentences in another language, by a catalogue of the patterns they are made from.

Sentences stand in the source where they are made, in plain English. ``scripts/catalogue.py`` gathers all of them into
``cryonome.pot``; a translation of it is a file in the same open format (gettext PO). What is shown is looked up as it is
shown: a text that is an entry, or that a pattern of the catalogue with its values makes, is told in the language, and
anything else stays as it is. So no sentence needs a mark of its own, and nothing is lost where a translation is old.
"""

from __future__ import annotations

import re
import string
from collections.abc import Collection, Mapping
from dataclasses import fields, is_dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

from ..errors import DomainError
from ..logs import settings_file

FOLDER = Path(__file__).parent
"""Where the catalogue stands, and translations that come with the program."""
WORD = re.compile(r"[^\W\d_]+")
QUOTED = re.compile(r"“[^”]*”")
"""Names are the user's and are never translated."""
ENDS = re.compile(r"((?<=[.;:?!]) +|(?<=,) +| · )")
"""Where texts that were put together come apart again."""
DEEP = 3
"""How many times a value of a pattern may be a sentence itself."""
STRONG, BRIEF = 10, 20
"""Letters from which on a pattern tells a sentence by itself; of one with fewer, as ``{low} to {high}``, values are no
longer than this."""


class Verbatim(str):
    """A text that is shown as it stands: it is told already, or a name."""

    __slots__ = ()


def pieces(pattern: str) -> list[tuple[str, str | None]] | None:
    """Return the words of a pattern with the name of the value behind each, None where it is no pattern."""
    try:
        return [(words, name) for words, name, _, _ in string.Formatter().parse(pattern)]
    except ValueError:
        return None


def filled(pattern: str, values: Mapping[str, str]) -> str:
    """Return a pattern with its values, which are finished texts, put in; one that is not known leaves nothing."""
    found = pieces(pattern) or [(pattern, None)]
    return "".join(words + (values.get(name, "") if name is not None else "") for words, name in found)


class _Pattern:
    """A pattern that a finished text is held against."""

    def __init__(self, words: list[tuple[str, str | None]], told: str) -> None:
        self.told, self.names = told, [name for _, name in words if name is not None]
        self.quoted = {name for before, name in words if before[-1:] in ("“", "'")}
        """Values in quotation marks: names, and what was typed."""
        self.weight = sum(len(part) for w, _ in words for part in WORD.findall(w))
        shape = "".join(
            re.escape(w) + (("(.*?)" if self.weight >= STRONG else f"(.{{0,{BRIEF}}}?)") if name is not None else "")
            for w, name in words
        )
        self.shape = re.compile(shape)

    def values(self, text: str) -> dict[str, str] | None:
        found = self.shape.fullmatch(text)
        return dict(zip(self.names, found.groups())) if found else None


class Phrasebook:
    """Translations of ``sentences``, English to told; a pattern names its values in braces, as ``{T}``."""

    def __init__(self, sentences: Mapping[str, str]) -> None:
        self._fixed: dict[str, str] = {}
        self._by_word: dict[str, list[_Pattern]] = {}
        for english, told in sentences.items():
            if not told:
                continue
            # The sentence of a question is looked up whole, before its blanks are filled in.
            self._fixed[english] = told
            found = pieces(english)
            if found is None or all(name is None for _, name in found):
                continue
            words = WORD.findall(" ".join(w for w, _ in found))
            if words:
                # Looked for by its longest word only, so that a text is held against few patterns.
                self._by_word.setdefault(max(words, key=len), []).append(_Pattern(found, told))
        self._known = lru_cache(8192)(self._told)

    def __len__(self) -> int:
        return len(self._fixed)

    def said(self, text: str) -> str:
        """Return a finished text in the language, as it is where the catalogue does not know it."""
        if isinstance(text, Verbatim) or not WORD.search(text):
            return text
        return Verbatim("\n".join(self._known(line, 0) or line for line in text.split("\n")))

    def _told(self, text: str, depth: int) -> str | None:
        known = self._whole(text, depth)
        if known is not None:
            return known
        if text.isupper() and len(text) > 2:
            known = self._whole(text.capitalize(), depth)
            return known.upper() if known is not None else None
        # A fault is told as a sentence, with a capital and a full stop; parts of a text end in what joins them.
        bare = text.rstrip(".,;:")
        for plain in dict.fromkeys((bare, text[:1].lower() + text[1:], bare[:1].lower() + bare[1:])):
            known = self._whole(plain, depth) if plain and plain != text else None
            if known is not None:
                begun = known if plain[:1] == text[:1] else known[:1].upper() + known[1:]
                return begun + (text[len(bare) :] if len(plain) == len(bare) else "")
        apart = ENDS.split(text)
        if len(apart) < 2 or depth >= DEEP:
            return None
        told = [self._known(part, depth + 1) if i % 2 == 0 else None for i, part in enumerate(apart)]
        return "".join(t or part for t, part in zip(told, apart)) if any(told) else None

    def _whole(self, text: str, depth: int) -> str | None:
        if text in self._fixed:
            return self._fixed[text]
        best: tuple[int, _Pattern, dict[str, str]] | None = None
        for word in set(WORD.findall(QUOTED.sub("", text))):
            for pattern in self._by_word.get(word, ()):
                if best is None or pattern.weight > best[0]:
                    values = pattern.values(text)
                    if values is not None:
                        best = (pattern.weight, pattern, values)
        if best is None:
            return None
        _, pattern, values = best
        if depth < DEEP:
            values = {n: v if n in pattern.quoted else self._value(v, depth + 1) for n, v in values.items()}
        return filled(pattern.told, values)

    def _value(self, text: str, depth: int) -> str:
        # A single word may be a name of the user's; what has several is a sentence or a phrase of the program.
        if " " not in text.strip() or QUOTED.fullmatch(text):
            return text
        return self._known(text, depth) or text


def of_file(path: Path) -> Phrasebook:
    """Return the translations of a PO file. Raises DomainError where it cannot be read, and where a translation names
    a value that its sentence does not have."""
    found = {english: told for english, told in _read(path).items() if told}
    for english, told in found.items():
        strange = _names(told) - _names(english)
        if strange:
            raise DomainError(
                f"{path}: the translation of “{english}” names {{{min(strange)}}}, which the sentence does not have"
            )
    return Phrasebook(found)


def marked() -> Phrasebook:
    """Return a language for trying: every sentence of the catalogue in brackets, so that one outside is seen."""
    return Phrasebook({english: f"⟦{english}⟧" for english in _read(FOLDER / "cryonome.pot")})


def _read(path: Path) -> dict[str, str]:
    # Imported here, since nobody who reads English needs it.
    from babel.messages.pofile import PoFileError, read_po

    try:
        with path.open("rb") as file:
            catalogue = read_po(file, abort_invalid=True)
    except (OSError, ValueError, PoFileError) as error:
        raise DomainError(f"{path}: the translations cannot be read ({error})") from None
    return {m.id: str(m.string or "") for m in catalogue if m.id and isinstance(m.id, str) and not m.fuzzy}


def _names(pattern: str) -> set[str]:
    return {name for _, name in pieces(pattern) or () if name is not None}


_chosen: Phrasebook | None = None


def choose(book: Phrasebook | None) -> None:
    """Tell everything in a language from now on, in English without one."""
    global _chosen  # noqa: PLW0603 - one reader, one language
    _chosen = book


def begin(wanted: str) -> None:
    """Choose a language by the path of its PO file or by its code: ``de`` is ``languages/de.po`` in the folder of the
    settings or ``language/de.po`` of the program, ``xx`` the one for trying; nothing, or ``en``, is English.

    Raises DomainError where there is no such language, or its file cannot be read."""
    if wanted in ("", "en"):
        choose(None)
        return
    if wanted == "xx":
        choose(marked())
        return
    own = settings_file().parent / "languages" / f"{wanted}.po"
    places = [Path(wanted)] if wanted.endswith(".po") else [own, FOLDER / f"{wanted}.po"]
    for place in places:
        if place.is_file():
            choose(of_file(place))
            return
    raise DomainError(f"there is no translation '{wanted}'; put it at {places[0]}")


def spoken() -> bool:
    """Tell whether a language other than English is chosen."""
    return _chosen is not None


def said(text: str) -> str:
    """Return a finished text in the reader's language."""
    return text if _chosen is None else _chosen.said(text)


def retold(value: Any, silent: Collection[str] = ()) -> Any:
    """Return data with every text in it in the reader's language, but for fields of a name that is ``silent``."""
    if _chosen is None:
        return value
    if isinstance(value, str):
        return said(value)
    if isinstance(value, (list, tuple)):
        return type(value)(retold(part, silent) for part in value)
    if is_dataclass(value) and not isinstance(value, type):
        names = [f.name for f in fields(value) if f.init and f.name not in silent]
        return replace(value, **{name: retold(getattr(value, name), silent) for name in names})
    return value
