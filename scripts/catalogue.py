"""The catalogue of every sentence the program can say, gathered from its source: ``python scripts/catalogue.py``
writes ``src/cryonome/language/cryonome.pot``; a test holds the two together.

A sentence is a text of words in the source that is no documentation, pattern, key or name of a file. The values of an
f-string become names in braces. What sheets are read by (words of laboratories in their own languages) is no sentence.
"""

from __future__ import annotations

import ast
import io
import re
import sys
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any, get_args

from babel.messages.catalog import Catalog
from babel.messages.pofile import write_po
from typing_extensions import get_type_hints, is_typeddict

import cryonome.questions  # noqa: F401 - kinds register as they are imported
from cryonome.document.kinds import study_kinds
from cryonome.telling.answers import words
from cryonome.telling.sentences import Units
from cryonome.telling.table_blocks import of_key
from cryonome.units import KINDS, label

SOURCE = Path(__file__).parents[1] / "src" / "cryonome"
WHERE = SOURCE / "language" / "cryonome.pot"

SILENT_CALLS = frozenset(
    [
        "compile",
        "search",
        "match",
        "fullmatch",
        "findall",
        "finditer",
        "sub",
        "split",
        "rsplit",
        "join",
        "replace",
        "startswith",
        "endswith",
        "strip",
        "lstrip",
        "rstrip",
        "removesuffix",
        "removeprefix",
        "partition",
        "encode",
        "decode",
        "getattr",
        "setattr",
        "hasattr",
        "setObjectName",
        "setStyleSheet",
        "setProperty",
        "property",
        "log",
        "debug",
        "info",
        "exception",
        "environ",
        "get",
        "getenv",
        "connect",
        "kernel",
        "glob",
        "rglob",
        "open",
        "read_text",
        "joinpath",
        "with_suffix",
        "index",
        "count",
        "find",
        "isdigit",
        "physical",
        "frozenset",
        "set",
        "warning",
        "fromkeys",
        "TypeVar",
        "Literal",
        "NewType",
        "Names",
        "About",
        "addFont",
        "family",
        "setFontFamily",
    ]
)
"""Functions whose texts are patterns, keys or names of files."""
SILENT_KEYWORDS = frozenset(["source", "sources", "reference", "cited", "pattern", "phrases", "key", "keys", "name", "key_", "unit", "units", "kind", "file", "files", "alias", "suffix", "metavar"])  # fmt: skip
SILENT_FILES = frozenset(
    [
        "questions/compact.py",
        "exchange/words.py",
        "exchange/report_words.py",
        "wording/vocabulary.py",
        "app/widgets/theme.py",
        "units/spellings.py",
        "sharing.py",
    ]
)
"""What sheets and typed questions are read by, and what a style is made of."""
SHOWN_CALLS = frozenset(
    [
        "section",
        "link",
        "page_button",
        "tip",
        "Action",
        "DeskEntry",
        "StudyKind",
        "QLabel",
        "QPushButton",
        "QAction",
        "QCheckBox",
        "addAction",
        "addMenu",
        "addItem",
        "setText",
        "setToolTip",
        "setAccessibleName",
        "setPlaceholderText",
        "setWindowTitle",
        "setInformativeText",
        "_add",
        "Panel",
        "Block",
        "Layer",
        "LayerChip",
        "TextRows",
        "Column",
        "set_titles",
        "Heading",
        "Sentence",
        "Picture",
        "Table",
        "QuantityField",
        "ChoiceField",
        "page",
        "chip",
        "Plot",
        "setLabel",
        "fault",
        "note",
    ]
)
"""Functions that show what they are given: even one word is a sentence there."""
SHOWN_FOLDERS = ("app/pages/", "app/shell/", "telling/", "reporting/")
"""Folders in which a single word that is no key is shown."""
WORDS = re.compile(r"[^\W\d_]{2,}[^\w]* [^\w]*[^\W\d_]+|[^\W\d_]{3,} \{|\} [^\W\d_]{3,}")
WORD = re.compile(r"&?[^\W\d_]{2,}…?")
STYLE = re.compile(
    r"\(\d{4}\)|^\w+ = \{|\(\?:|\x00|\{\s*[\w-]+:\s|;\s*[\w-]+:\s\S+;|<[a-z/]|^\s*[\w.]+\(|\\[dwsb]|^[\w./-]+$(?<! )|^#|^rgb"
)


def name_of(node: ast.expr) -> str:
    """Return a name for the value of an f-string."""
    if isinstance(node, ast.Name):
        return node.id
    if isinstance(node, ast.Attribute):
        return node.attr
    if isinstance(node, ast.Call):
        inner = node.args[0] if node.args else node.func
        return name_of(inner) if isinstance(inner, (ast.Name, ast.Attribute, ast.Subscript)) else name_of(node.func)
    if isinstance(node, ast.Subscript):
        key = node.slice
        return key.value if isinstance(key, ast.Constant) and isinstance(key.value, str) else name_of(node.value)
    return "value"


def pattern_of(node: ast.JoinedStr) -> str:
    """Return an f-string as a pattern."""
    out, seen = [], set()
    for part in node.values:
        if isinstance(part, ast.Constant):
            out.append(str(part.value).replace("{", "{{").replace("}", "}}"))
        elif isinstance(part, ast.FormattedValue):
            base = re.sub(r"\W", "_", name_of(part.value)).strip("_") or "value"
            name = base
            while name in seen:
                name = f"{base}_{sum(s.startswith(base) for s in seen) + 1}"
            seen.add(name)
            out.append(f"{{{name}}}")
    return "".join(out)


class _Reader(ast.NodeVisitor):
    """Gathers the sentences of a file; ``shown`` where every word of it may be."""

    def __init__(self, shown: bool) -> None:
        self.found: list[str] = []
        self.shown = shown
        """Whether what is read stands in a call that shows it."""

    def _body(self, node: ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef) -> None:
        for statement in node.body:
            # A text that stands alone documents what is before it.
            if not (isinstance(statement, ast.Expr) and isinstance(statement.value, ast.Constant)):
                self.visit(statement)

    visit_Module = visit_ClassDef = _body

    def visit_FunctionDef(self, node: ast.FunctionDef) -> None:
        for default in (*node.args.defaults, *node.args.kw_defaults):
            if default is not None:
                self.visit(default)
        self._body(node)

    def visit_Constant(self, node: ast.Constant) -> None:
        text = node.value
        if not isinstance(text, str) or (STYLE.search(text) and not (self.shown and WORD.fullmatch(text))):
            return
        if WORDS.search(text) or (WORD.fullmatch(text) and (self.shown or (text[0].isupper() and len(text) > 3))):
            self.found.append(text)

    def visit_JoinedStr(self, node: ast.JoinedStr) -> None:
        pattern = pattern_of(node)
        words = "".join(str(p.value) for p in node.values if isinstance(p, ast.Constant))
        if not STYLE.search(words) and (WORDS.search(pattern) or (re.search(r"[^\W\d_]{3,}", words) and " " in words)):
            self.found.append(pattern)
        for part in node.values:
            if isinstance(part, ast.FormattedValue):
                self.visit(part.value)

    def visit_Call(self, node: ast.Call) -> None:
        function = node.func
        called = function.attr if isinstance(function, ast.Attribute) else getattr(function, "id", "")
        if isinstance(function, ast.Attribute):
            self.visit(function.value)
        if called in SILENT_CALLS:
            for argument in node.args:
                if (
                    not isinstance(argument, (ast.Constant, ast.JoinedStr, ast.Set, ast.Tuple, ast.List))
                    or called == "join"
                ):
                    self.visit(argument)
            return
        before, self.shown = self.shown, self.shown or called in SHOWN_CALLS
        for argument in node.args:
            self.visit(argument)
        for keyword in node.keywords:
            if keyword.arg not in SILENT_KEYWORDS:
                self.visit(keyword.value)
        self.shown = before

    def visit_Compare(self, node: ast.Compare) -> None:
        """What is compared is a key."""

    def visit_Set(self, node: ast.Set) -> None:
        """What is looked up in is a list of keys."""

    def visit_Subscript(self, node: ast.Subscript) -> None:
        self.visit(node.value)

    def visit_AnnAssign(self, node: ast.AnnAssign) -> None:
        if node.value is not None:
            self.visit(node.value)

    def visit_Dict(self, node: ast.Dict) -> None:
        for value in node.values:
            self.visit(value)


def sentences_of(text: str, shown: bool = False) -> list[str]:
    """Return the sentences of a source file in their order, each once; ``shown``: single words too."""
    reader = _Reader(shown)
    reader.visit(ast.parse(text))
    return list(dict.fromkeys(reader.found))


def files() -> Iterator[tuple[str, str]]:
    """Return the files of the program with their text; compiled kernels say nothing."""
    for path in sorted(SOURCE.rglob("*.py")):
        where = path.relative_to(SOURCE).as_posix()
        if not where.startswith("kernels/") and where not in SILENT_FILES:
            yield where, path.read_text()


def of_questions() -> list[str]:
    """Return the sentences of questions, and what the values of answers are called: their keys in words."""
    out: dict[str, None] = {}
    seen: set[Any] = set()
    units = Units.of("SI")

    def walk(of: Any) -> None:
        if of in seen:
            return
        seen.add(of)
        if is_typeddict(of):
            for key, inner in get_type_hints(of).items():
                out.setdefault(words(key))
                out.setdefault(of_key(key, units).name)
                walk(inner)
        for inner in get_args(of):
            if not isinstance(inner, (str, int)):
                walk(inner)

    for kind in study_kinds().values():
        walk(kind.answer)
    # Whole sentences of questions, with their clauses and blanks as ``wording/template.py`` reads them.
    # Kinds come in the order they were imported in, which is not always the same.
    return [*sorted(k.sentence for k in study_kinds().values() if k.sentence), *sorted(filter(WORD.search, out))]


def gathered() -> str:
    """Return the catalogue as the text of a PO template, the same for the same source."""
    fixed = datetime(2026, 1, 1)
    catalogue = Catalog(project="Cryonome", version="", creation_date=fixed, revision_date=fixed, charset="utf-8")
    catalogue.header_comment = (
        "# Every sentence of Cryonome. Values stand in braces. docs/translating.md tells how to translate it."
    )
    found = [(where, s) for where, text in files() for s in sentences_of(text, where.startswith(SHOWN_FOLDERS))]
    units = {label(unit) for kind in KINDS.values() for unit in kind.units}
    for where, sentence in [*found, *(("questions/kinds", name) for name in of_questions())]:
        if sentence in units:
            continue
        flags = {"python-brace-format"} if re.search(r"\{\w", sentence) else ()
        catalogue.add(sentence, locations=[(where, 0)], flags=flags)
    out = io.BytesIO()
    write_po(out, catalogue, width=0, include_lineno=False)
    return out.getvalue().decode()


if __name__ == "__main__":
    WHERE.write_text(gathered())
    sys.stdout.write(f"{WHERE.relative_to(Path.cwd())}: {WHERE.read_text().count('msgid') - 1} sentences\n")
