"""The method notes of the documentation: a page for each method, written from the registries and docstrings that the
program itself reads, so that no page says what the program does not do. ``docs/conf.py`` writes them at every build."""

from __future__ import annotations

import ast
import inspect
import re
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "benchmarks"))

import numpy as np

import cryonome.questions  # noqa: F401
import tables
from cryonome.characterization.correlations import DEFAULTS, REGISTRY, TITLES, Correlation
from cryonome.characterization.methods import CONVERSIONS, DEFAULT_CONVERSIONS, METHODS, Conversion
from cryonome.eos.building import ENTRIES
from cryonome.eos.cubic_forms import FORMS
from cryonome.properties import PROPERTIES, VISCOSITIES, Property
from cryonome.results.correlation_choices import limits_text
from cryonome.telling import Units
from cryonome.uncertainty.precision import CURVES, PRECISIONS, TOLERANCES
from cryonome.units import KINDS, label

PACKAGES = (
    "characterization", "components", "eos", "equilibrium", "properties", "solids", "vapour_pressure", "labtests", "process", "tuning",
    "uncertainty",
)  # fmt: skip
"""The packages of physics, whose public functions name their sources in their docstrings."""

CITED = re.compile(r"\((?:[^()]*\b(?:1[89]|20)\d\d[a-z]?)\)|\b(?:ASTM|ISO|API|GPA|IAPWS)\b")
"""What a docstring that names a publication or a standard holds."""


def pages() -> dict[str, str]:
    """Return the pages by their path below ``methods/``."""
    out = {f"equations/{slug(key)}.md": equation_page(key) for key in ENTRIES}
    out |= {f"correlations/{prop}-{slug(key)}.md": correlation_page(e) for prop, key, e in correlations()}
    out |= {f"curves/{slug(c.method)}-{slug(c.key)}.md": conversion_page(c) for c in conversions()}
    out |= {f"properties/{key}.md": property_page(p) for key, p in PROPERTIES.items()}
    out |= {f"viscosity/{slug(key)}.md": page(f"Viscosity: {key}", {"Source": VISCOSITIES[key]}) for key in VISCOSITIES}
    out |= {f"precision/{slug(key)}.md": precision_page(key) for key in (*PRECISIONS, *CURVES)}
    out |= {f"functions/{name}.md": functions_page(name) for name in PACKAGES}
    return out | {"index.md": index(out)}


def slug(text: str) -> str:
    """Return a text as part of a file's name."""
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")


def page(title: str, facts: dict[str, str], *texts: str) -> str:
    """Return a page: its title, facts by what they are, and texts."""
    lines = [f"# {title}", ""]
    for what, told in facts.items():
        if told:
            lines += [f"**{what}.** {told}", ""]
    return "\n".join([*lines, *(t + "\n" for t in texts if t)])


def correlations() -> Iterator[tuple[str, str, Correlation]]:
    """Yield every correlation with its property and key."""
    for prop, entries in REGISTRY.items():
        for key, entry in entries.items():
            yield prop, key, entry


def conversions() -> Iterator[Conversion]:
    """Yield every conversion of a boiling curve."""
    for entries in CONVERSIONS.values():
        yield from entries.values()


def correlation_page(entry: Correlation) -> str:
    """Return the page of a correlation, with its deviations from pure hydrocarbons computed here."""
    rows = []
    if entry.property in tables.COMPARED:
        for family, name in tables.FAMILIES.items():
            off = np.abs(tables.deviations(entry.property, entry.key, tables.pure(family)))
            rows.append(f"| {name} | {off.mean():.1f} | {off.max():.1f} |")
    head = "| pure hydrocarbons | mean deviation, % | largest, % |\n| --- | ---: | ---: |\n"
    stated = TOLERANCES.get((entry.property, entry.key))
    facts = {
        "Equation": entry.formula,
        "Source": entry.source,
        "Range": limits_text(entry, Units.of("metric")) or "none is stated",
        "Published accuracy": f"{stated[0]:g} % on average. {stated[1]}." if stated else "",
        "Key": f"`{entry.key}` of `{entry.property}`{', the default' if DEFAULTS[entry.property] == entry.key else ''}",
    }
    own = inspect.getdoc(entry.function) or ""
    return page(f"{TITLES[entry.property]}: {entry.title}", facts, prose(own), head + "\n".join(rows) if rows else "")


def conversion_page(entry: Conversion) -> str:
    """Return the page of a conversion between boiling curves."""
    method = METHODS[entry.method]
    precision = CURVES.get(entry.method)
    facts = {
        "Equation": entry.formula,
        "Source": entry.source,
        "Range": entry.limits or "none is stated",
        "Nodes": ", ".join(f"{100 * n:g} %" for n in entry.nodes),
        "From": f"{method.title}, by {method.basis} at {method.pressure:.0f} Pa, to true boiling points by {entry.basis} at 101325 Pa, and back",
        "Precision of the method": f"as {precision.source} states it" if precision else "",
        "Key": f"`{entry.key}` of `{entry.method}`{', the default' if DEFAULT_CONVERSIONS.get(entry.method) == entry.key else ''}",
    }
    return page(f"{entry.method} to TBP: {entry.title}", facts)


def equation_page(key: str) -> str:
    """Return the page of an equation of state."""
    entry, form = ENTRIES[key], FORMS.get(key)
    constants = (
        f"δ₁ = {form.delta1:.6g}, δ₂ = {form.delta2:.6g}, Ω_a = {form.omega_a:.8g}, Ω_b = {form.omega_b:.8g}"
        if form
        else ""
    )
    slope = prose(inspect.getdoc(form.kappa) or "") if form and form.kappa else ""
    facts = {
        "Equation": entry.formula,
        "Source": entry.source,
        "Constants": constants,
        "Alpha function": slope or ("may be chosen" if entry.alpha else ""),
        "Accuracy": "measured against published points in [accuracy](../../accuracy.md)",
        "Key": f"`{key}`",
    }
    return page(entry.title, facts, source_of(form.kappa) if form and form.kappa else "")


def property_page(entry: Property) -> str:
    """Return the page of a property."""
    unit = label(KINDS[entry.kind].si) if entry.kind in KINDS else ""
    of = " and ".join(w for w, f in (("phases", entry.function), ("the whole", entry.whole)) if f)
    facts = {
        "Meaning": entry.meaning,
        "Source": entry.source or "follows from the equation of state and the ideal-gas heat capacity",
        "Unit": f"{unit} inside; in answers `{entry.answer_key}`",
        "Of": of,
    }
    own = inspect.getdoc(entry.function) if entry.function else None
    return page(entry.name, facts, prose(own or ""), source_of(entry.function or entry.whole))


def source_of(function: Callable[..., object] | None) -> str:
    """Return a short function as it is written: its few lines are the equation."""
    if function is None or function.__name__ == "<lambda>":
        return ""
    written = inspect.getsource(function)
    body = written[written.index("def ") :]
    return f"```python\n{body}```" if body.count("\n") <= 24 else ""


def precision_page(key: str) -> str:
    """Return the page of a test method's statement of its precision."""
    entry = PRECISIONS.get(key) or CURVES[key]
    facts = {"Source": entry.source, "Key": f"`{key}`"}
    return page(f"Precision: {entry.title}", facts, prose(inspect.getdoc(entry.of) or ""))


def functions_page(package: str) -> str:
    """Return what the public functions and classes of a package say of their sources, by module."""
    folder = ROOT / "src" / "cryonome" / package
    lines = [f"# What `{package}` computes, and after whom", "", prose(module_doc(folder / "__init__.py")), ""]
    for file in sorted(folder.rglob("*.py")):
        tree = ast.parse(file.read_text(encoding="utf-8"))
        own = ast.get_docstring(tree) or ""
        found = [
            (node.name, ast.get_docstring(node) or "")
            for node in tree.body
            if isinstance(node, (ast.FunctionDef, ast.ClassDef)) and not node.name.startswith("_")
        ]
        cited = [(name, doc) for name, doc in found if CITED.search(doc)]
        if cited or CITED.search(own):
            name = ".".join(file.relative_to(folder).with_suffix("").parts)
            lines += [f"## {name}", "", prose(own), ""]
            for function, doc in cited:
                lines += [f"### {function}", "", prose(doc), ""]
    return "\n".join(lines)


def module_doc(file: Path) -> str:
    """Return the docstring of a module's file."""
    return ast.get_docstring(ast.parse(file.read_text(encoding="utf-8"))) or ""


def prose(doc: str) -> str:
    """Return a docstring as Markdown: names as code, indented lines as equations."""
    text = inspect.cleandoc(doc)
    text = re.sub(r":\w+:`~?([^`]+)`", r"`\1`", text).replace("``", "`")
    out: list[str] = []
    for block in re.split(r"\n\s*\n", text):
        if block.startswith("    "):
            out.append("```text\n" + inspect.cleandoc(block) + "\n```")
        else:
            out.append(re.sub(r"([*_<|\[])", r"\\\1", block) if "`" not in block else escaped(block))
    return "\n\n".join(out)


def escaped(block: str) -> str:
    """Return a paragraph with what Markdown would take for itself escaped outside code."""
    parts = re.split(r"(`[^`]*`)", block)
    return "".join(p if p.startswith("`") else re.sub(r"([*_<|\[])", r"\\\1", p) for p in parts)


GROUPS = {
    "equations": "Equations of state",
    "correlations": "Correlations of petroleum fractions",
    "curves": "Conversions of boiling curves",
    "properties": "Properties of phases",
    "viscosity": "Methods of viscosity",
    "precision": "Precision of test methods",
    "functions": "What each package computes, and after whom",
}


def index(found: dict[str, str]) -> str:
    """Return the page that lists the others."""
    lines = [
        "# Method notes",
        "",
        "A page for each method: its equation, source, range and accuracy. They are written at every build from what the",
        "program itself reads.",
        "",
    ]
    for group, title in GROUPS.items():
        own = sorted(path for path in found if path.startswith(f"{group}/"))
        lines += [
            f"```{{toctree}}\n:caption: {title}\n:maxdepth: 1\n",
            *(path.removesuffix(".md") for path in own),
            "```",
            "",
        ]
    return "\n".join(lines)


def write(folder: Path) -> None:
    """Write the pages below ``folder``, and nothing where they are as they were."""
    for path, text in pages().items():
        target = folder / path
        target.parent.mkdir(parents=True, exist_ok=True)
        if not target.exists() or target.read_text(encoding="utf-8") != text:
            target.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    write(ROOT / "docs" / "methods")
