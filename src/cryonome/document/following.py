"""What names something follows it: references after a part was renamed, moved or removed, by whatever edit.

One comparison of two documents tells which part became which; every declared reference (:mod:`references`) is then
brought along. So a name typed in a grid is followed as one changed in a dialog, and a row that is taken out of a
table moves the paths that count rows."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import BaseModel

from .cell_paths import NoPathError, item_names, path_parts, resolved, writable
from .faults import PathParts
from .field_types import CELL, COMPONENT
from .model import Document, Fluid, NamedValue, Sample
from .references import GROUPS, Reference, reached, references

REMOVED = "removed"
"""Stands in a path in place of the number of a row that is gone and had no name, so that no other row is taken for
it."""

HOLDERS = {
    "composition": COMPONENT, "detailed": COMPONENT, "incipient": COMPONENT, "gas": COMPONENT, "liquid": COMPONENT, "small": COMPONENT,
    "medium": COMPONENT, "large": COMPONENT, "deviations": "studies", "tests": "studies", "checks": "studies",
}  # fmt: skip
"""Keys of answers whose values go by names of the document, and what these are."""

Renamed = Mapping[str, str]


def moved(old: Sequence[Any], new: Sequence[Any]) -> dict[int, int]:
    """Return the new index of each item by its old one, without those that are gone: the same object, else the same
    identity, else the same name, else, in a list as long as before, the same place."""
    if old is new:
        return {i: i for i in range(len(old))}
    out: dict[int, int] = {}
    free = dict.fromkeys(range(len(new)))
    places = {id(item): j for j, item in reversed(list(enumerate(new)))}

    def match(keys: Sequence[Any], others: Sequence[Any]) -> None:
        where = {k: j for j in reversed(list(free)) if (k := others[j]) not in (None, "")}
        for i, key in enumerate(keys):
            if i not in out and key not in (None, "") and where.get(key) in free:
                out[i] = where[key]
                free.pop(where[key])

    match([id(v) if id(v) in places else None for v in old], [id(v) for v in new])
    for told in (_ids, item_names):
        match(told(old), told(new))
    if len(old) == len(new):
        for i in range(len(old)):
            if i not in out and i in free:
                out[i] = i
                free.pop(i)
    return out


def _ids(items: Sequence[Any]) -> list[str]:
    return [str(getattr(item, "id", "") or "") for item in items]


def followed(old: Document, new: Document) -> Document:
    """Return the new document with every reference brought along with what it names; the new one itself where nothing
    moved."""
    if all(getattr(old, g) is getattr(new, g) for g in (*GROUPS, "values")):
        return new
    names = {g: _renamed(getattr(old, g), getattr(new, g)) for g in (*GROUPS, "values")}
    # A sample without a fluid of its name is that fluid by default.
    own = {f.name for f in old.fluids}
    names["fluids"] |= {a: b for a, b in names["samples"].items() if a not in own and a not in names["fluids"]}
    components = _renamed_components(old, new)
    update: dict[str, Any] = {}
    for group in GROUPS:
        before = {j: getattr(old, group)[i] for i, j in moved(getattr(old, group), getattr(new, group)).items()}
        parts = tuple(_part(p, before.get(j), names, components, old, new) for j, p in enumerate(getattr(new, group)))
        if any(a is not b for a, b in zip(parts, getattr(new, group))):
            update[group] = parts
    values = tuple(_value(v, {**names["studies"], **names["values"]}) for v in new.values)
    if values != new.values:
        update["values"] = values
    for key in ("display", "report"):
        now = _called(getattr(new, key), names)
        if now is not getattr(new, key):
            update[key] = now
    answered = tuple(_called(kept, names) for kept in new.answered)
    if any(a is not b for a, b in zip(answered, new.answered)):
        update["answered"] = answered
    out = new.model_copy(update=update) if update else new
    drafts = {_path_after(path, old, out) if path in old.drafts else path: text for path, text in out.drafts.items()}
    drafts = {p: t for p, t in drafts.items() if f"[{REMOVED}]" not in p and _has_part(out, p)}
    return out if drafts == out.drafts else out.model_copy(update={"drafts": drafts})


def _called(part: Any, names: Mapping[str, Mapping[str, str]]) -> Any:
    """Return a part that only names things, with their new names."""
    return _with(part, [(r, names[r.what].get(r.name, r.name)) for r in references(part)])


def _has_part(document: Document, path: str) -> bool:
    """Tell whether the sample, fluid or question that a path leads through is there."""
    try:
        resolved(path[: path.index("]") + 1] if "]" in path else path, document)
    except NoPathError:
        return False
    return True


def _renamed(old: Sequence[Any], new: Sequence[Any]) -> dict[str, str]:
    """Return the new names of what was renamed, by the old ones."""
    if old is new:
        return {}
    pairs = [(old[i].name, new[j].name) for i, j in moved(old, new).items()]
    kept = {b for a, b in pairs if a == b}
    return {a: b for a, b in pairs if a != b and a not in kept}


def _renamed_components(old: Document, new: Document) -> dict[str, dict[str, str]]:
    """Return the new names of components by the old ones, by the name of the sample or fluid (as it is called now)
    they are in."""
    out: dict[str, dict[str, str]] = {}
    for group in ("samples", "fluids"):
        before, after = getattr(old, group), getattr(new, group)
        for i, j in moved(before, after).items() if before is not after else ():
            if before[i] is after[j]:
                continue
            own = _sample_names(before[i], after[j]) if group == "samples" else _fluid_names(before[i], after[j])
            if own:
                out[after[j].name] = own
    return out


def _sample_names(old: Sample, new: Sample) -> dict[str, str]:
    found = {}
    if old.name != new.name:
        # Cuts are called by the sample and their range.
        found[old.name] = new.name
    for key, name in old.cuts.names.items():
        now = new.cuts.names.get(key, name)
        if now != name:
            found |= {name: now, f"{old.name} {name}": f"{new.name} {now}"}
    if old.distillation.amounts is not new.distillation.amounts:
        rows = (old.distillation.amounts, new.distillation.amounts)
        if len(rows[0]) == len(rows[1]):
            changed = [(str(a[0]), str(b[0])) for a, b in zip(*rows) if a and b and a[0] and b[0] and a[0] != b[0]]
            for a, b in changed:
                found |= {a: b, f"{old.name} {a}": f"{new.name} {b}"}
    return found


def _fluid_names(old: Fluid, new: Fluid) -> dict[str, str]:
    found = {}
    for i, j in moved(old.parts, new.parts).items():
        one, other = old.parts[i], new.parts[j]
        a, b = (p.pseudo or p.series for p in (one, other))
        if a is not None and b is not None and a.name != b.name and a.name:
            found[a.name] = b.name
    return found


def _part(
    part: Any,
    before: Any,
    names: Mapping[str, Renamed],
    components: Mapping[str, Renamed],
    old: Document,
    new: Document,
) -> Any:
    """Return a part of the new document with its references brought along: those that it had ``before``, since what
    an edit itself wrote is meant."""
    given = references(part)
    if not given or before is None:
        return part
    kept = given if part is before else set(references(before))
    changes: list[tuple[Reference, str]] = []
    own: dict[str, str] | None = None
    for r in given:
        if r not in kept:
            continue
        told = r.name
        if r.what in GROUPS:
            told = names[r.what].get(r.name, r.name)
        elif r.what == CELL:
            told = _path_after(r.name, old, new)
        elif r.name.startswith("["):
            told = f"[{names['values'].get(r.name[1:-1].strip(), r.name[1:-1])}]"
        elif components or names["studies"]:
            if own is None:
                inside = reached(_with(part, changes), new)
                own = {}
                for thing in (part, *inside.samples, *inside.fluids):
                    own |= components.get(thing.name, {}) if isinstance(thing, (Sample, Fluid)) else {}
            told = _component(r.name, own) if r.what == COMPONENT else _answer(r.name, own, names["studies"])
        if told != r.name:
            changes.append((r, told))
    return _with(part, changes)


def _value(value: NamedValue, renamed: Renamed) -> NamedValue:
    """Return a named value whose expression names what was renamed by its new name."""
    told = re.sub(r"\[([^\[\]]+)\]", lambda m: f"[{renamed.get(m[1].strip(), m[1])}]", value.expression)
    return value if told == value.expression else value.model_copy(update={"expression": told})


def _component(name: str, renamed: Renamed) -> str:
    if name in renamed:
        return renamed[name]
    return next((f"{b}{name[len(a) :]}" for a, b in renamed.items() if name.startswith(f"{a} ")), name)


def _answer(path: str, components: Renamed, studies: Renamed) -> str:
    """Return a path of an answer with the names in it changed."""
    for holder, what in HOLDERS.items():
        found = re.search(rf"(?:^|\.){holder}\.", path)
        if found is None:
            continue
        head, rest = path[: found.end()], path[found.end() :]
        renamed = components if what == COMPONENT else studies
        for name in sorted(renamed, key=len, reverse=True):
            if rest == name or rest.startswith((f"{name}.", f"{name}[")):
                return head + renamed[name] + rest[len(name) :]
        if what == COMPONENT:
            return head + _component(rest, components)
    return path


def _path_after(text: str, old: Document, new: Document) -> str:
    """Return the path of a cell of the old document as it is written in the new one."""
    try:
        before = resolved(text, old)
        written = path_parts(text)
    except (NoPathError, ValueError):
        return text
    one: Any = old
    other: Any = new
    out = ""
    for k, (step, said) in enumerate(zip(before, written)):
        if isinstance(step, int):
            names = item_names(one)
            place = moved(one, other).get(step) if isinstance(other, (tuple, list)) else None
            if place is None:
                gone = f"[{names[step] if writable(names[step], names) else REMOVED}]"
                tail = zip(before[k + 1 :], written[k + 1 :])
                return out + gone + "".join(f"[{w}]" if isinstance(b, int) else f".{w}" for b, w in tail)
            now = item_names(other)
            by_name = isinstance(said, str) and writable(now[place], now)
            out += f"[{now[place] if by_name else place}]"
            one, other = one[step], other[place]
            continue
        out += f".{said}" if out else str(said)
        one, other = _next(one, step), _next(other, step)
    return out


def _next(thing: Any, step: str) -> Any:
    return getattr(thing, step, None) if isinstance(thing, BaseModel) else (thing or {}).get(step)


def _with(part: Any, changes: Sequence[tuple[Reference, str]]) -> Any:
    """Return a part with names replaced; keys of objects keep their order."""
    for reference, name in changes:
        if name == reference.name:
            continue
        if reference.key:
            *holder, last = reference.path
            part = _changed(
                part, tuple(holder), lambda d, a=last, b=name: {b if k == a else k: v for k, v in d.items()}
            )
        else:
            part = _changed(part, reference.path, lambda _, b=name: b)
    return part


def _changed(thing: Any, path: PathParts, change: Any) -> Any:
    if not path:
        return change(thing)
    first, rest = path[0], path[1:]
    if isinstance(thing, BaseModel):
        return thing.model_copy(update={str(first): _changed(getattr(thing, str(first)), rest, change)})
    if isinstance(thing, Mapping):
        return {k: _changed(v, rest, change) if k == first else v for k, v in thing.items()}
    return tuple(_changed(v, rest, change) if i == first else v for i, v in enumerate(thing))
