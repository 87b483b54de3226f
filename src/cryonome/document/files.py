"""Reading and writing documents: text to model with precise faults, and saves that leave the old or the new file
whole."""

from __future__ import annotations

import contextlib
import glob
import hashlib
import json
import os
import re
import secrets
import stat
from collections.abc import Sequence
from pathlib import Path
from typing import Any, get_args

from pydantic import BaseModel, ValidationError

from .faults import DocumentError, Fault, PathParts, did_you_mean
from .kinds import study_class
from .migrate import changed_numbers, migrated, with_ids
from .model import FORMAT, Document, Study
from .part import Part
from .strict_json import read_object


def parse_document(text: str) -> Document:
    """Return the document of a JSON text. Raises DocumentError with a fault for each thing wrong with its shape."""
    data = read_object(text)
    check_format(data.get("format"))
    try:
        return with_ids(Document.model_validate(migrated(data)))
    except ValidationError as error:
        raise DocumentError(_faults(error, data)) from None


def check_format(value: object) -> None:
    """Raise DocumentError unless ``value`` names a format this program reads."""
    if value == FORMAT:
        return
    match = re.fullmatch(r"cryonome/(\d+)", value) if isinstance(value, str) else None
    if match and int(match.group(1)) > int(FORMAT.split("/")[1]):
        message = (
            f"the document has the newer format {value}; this program reads {FORMAT}, so use a newer version of it"
        )
    elif value is None:
        message = f'this is not a Cryonome document: the key is missing; it would be "format": "{FORMAT}"'
    else:
        message = f"'{value}' is not a format of this program; it would be {FORMAT}"
    raise DocumentError([Fault(("format",), message)])


_WANTED = {
    "string_type": "a text",
    "float_type": "a number",
    "int_type": "a whole number",
    "bool_type": "true or false",
    "bool_parsing": "true or false",
    "tuple_type": "a list",
    "dict_type": "an object",
    "model_type": "an object",
    "model_attributes_type": "an object",
}


def _faults(error: ValidationError, data: Any) -> list[Fault]:
    """Return one fault a place: a cell refused as a number and as a text is one thing wrong."""
    found: dict[PathParts, list[Fault]] = {}
    for item in error.errors():
        fault = _fault(item, data)
        found.setdefault(fault.path, []).append(fault)
    out = []
    for path, here in found.items():
        if len(here) == 1:
            out.append(here[0])
        else:
            shown = here[0].message.split(" stands where ")[0]
            out.append(Fault(path, f"{shown} stands where a number or a text with a unit belongs"))
    return out


def _fault(item: Any, data: Any) -> Fault:
    """Return pydantic's finding as one sentence with the document's own path."""
    kind = item["type"]
    location: PathParts = tuple(item["loc"])
    # pydantic names the branch of a choice of types inside the path; the document has no such level.
    path = _real_path(location, data, kind == "missing")
    key = str(path[-1]) if path else ""
    shown = item.get("input")
    short = (
        str(shown).lower()
        if isinstance(shown, bool)
        else f"'{shown}'"
        if isinstance(shown, (str, int, float))
        else f"a {type(shown).__name__}".replace("a dict", "an object").replace("NoneType", "null")
    )
    if kind == "extra_forbidden":
        return Fault(path, f"unknown key '{key}'{did_you_mean(key, _known_keys(path[:-1], data))}")
    if kind == "missing":
        return Fault(path, "this key is missing")
    if kind in ("no_kind", "planned_kind", "unknown_kind"):
        return Fault((*path, "kind"), str(item["msg"]))
    if kind in ("not_an_object", "unit"):
        return Fault(path, str(item["msg"]))
    if kind == "literal_error":
        return Fault(path, f"{short} is not possible here; use {item['ctx']['expected']}")
    if kind in ("too_short", "too_long"):
        return Fault(path, f"the list has the wrong length: {item['msg'].lower()}")
    return Fault(path, f"{short} stands where {_WANTED.get(kind, 'a number or a text with a unit')} belongs")


def _real_path(location: PathParts, data: Any, missing: bool) -> PathParts:
    """Return what of a location the document has; the last of a ``missing`` key counts."""
    path: list[str | int] = []
    here: Any = data
    for i, part in enumerate(location):
        last = i == len(location) - 1
        if isinstance(part, int):
            inside = isinstance(here, list) and (part < len(here) or last)
        else:
            inside = isinstance(here, dict) and (part in here or (last and missing))
        if inside:
            path.append(part)
            try:
                here = here[part]
            except (KeyError, IndexError):
                here = None
    return tuple(path)


def _known_keys(path: PathParts, data: Any) -> list[str]:
    """Return the keys possible in the object at ``path``, by following the fields of the models."""
    model: type[BaseModel] | None = Document
    here = data
    for part in path:
        here = here[part]
        if isinstance(part, int):
            if model is Study:
                model = study_class(here)
            continue
        field = model.model_fields.get(part) if model is not None else None
        model = None if field is None else _inner_model(field.annotation)
    return list(model.model_fields) if model is not None else []


def _inner_model(annotation: Any) -> type[BaseModel] | None:
    """Return the model class inside a field's annotation, such as a tuple or a choice of it and nothing."""
    if isinstance(annotation, type) and issubclass(annotation, Part):
        return annotation
    return next((m for m in map(_inner_model, get_args(annotation)) if m is not None), None)


def document_text(document: Document) -> str:
    """Return a document as JSON text; what stands at its default is left out, except format and edition."""
    data = {
        "format": document.format,
        "edition": document.edition,
        **document.model_dump(mode="json", exclude_defaults=True),
    }
    return json.dumps(data, ensure_ascii=False, indent=1) + "\n"


def load(path: Path) -> Document:
    """Return the document of a file. Raises DocumentError; OSError where it cannot be read."""
    return opened(path)[0]


def opened(path: Path) -> tuple[Document, str]:
    """Return the document of a file, and the sentence that tells what changed since it was saved. Raises as
    :func:`load`."""
    clear_leftovers(path)
    try:
        text = path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError:
        raise DocumentError([Fault((), f"{path.name} is not a text file in UTF-8, so it is not a document")]) from None
    return parse_document(text), changed_numbers(read_object(text))


def write_atomic(path: Path, content: str | bytes, mode: int | None = None) -> None:
    """Write a file so that a crash at any moment leaves the old or the new one whole.

    The new file has the ``mode`` asked for, else that of the old, else that of any new file. It has no name until it is
    complete, so that a killed save leaves nothing behind.
    """
    path = path.resolve()
    path.parent.mkdir(parents=True, exist_ok=True)
    data = content.encode("utf-8") if isinstance(content, str) else content
    clear_leftovers(path)
    if mode is None:
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
    temporary = path.with_name(f".{path.name[:60]}-{os.getpid()}-{secrets.token_hex(4)}{LEFTOVER}")
    handle = _unnamed(path.parent)
    named = handle is None
    if handle is None:
        handle = os.open(temporary, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fchmod(handle, mode)
            os.fsync(handle)
            if not named:
                _give_name(handle, temporary)
        temporary.replace(path)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise


LEFTOVER = ".part"


def _unnamed(folder: Path) -> int | None:
    """Return a handle of a new file without a name, None where the file system has no such files."""
    try:
        return os.open(folder, os.O_WRONLY | os.O_TMPFILE, 0o600)
    except (OSError, AttributeError):
        return None


def _give_name(handle: int, path: Path) -> None:
    folder = os.open(path.parent, os.O_RDONLY)
    try:
        # With a folder's handle the link is followed to the file itself, which is what names it.
        os.link(f"/proc/self/fd/{handle}", path.name, dst_dir_fd=folder, follow_symlinks=True)
    finally:
        os.close(folder)


def clear_leftovers(path: Path) -> None:
    """Remove what saves of this file left that were killed in their last instant."""
    with contextlib.suppress(OSError):
        for left in path.parent.glob(f".{glob.escape(path.name[:60])}-*{LEFTOVER}"):
            writer = left.name.removesuffix(LEFTOVER).split("-")[-2:][0]
            if not (writer.isdigit() and Path(f"/proc/{writer}").exists() and int(writer) != os.getpid()):
                left.unlink(missing_ok=True)


def _umask() -> int:
    """Return the mask of new files' modes, without touching it: that would be seen by other threads."""
    try:
        status = Path("/proc/self/status").read_text(encoding="ascii", errors="replace")
        return int(next(line.split()[1] for line in status.splitlines() if line.startswith("Umask:")), 8)
    except (OSError, StopIteration, ValueError):
        return 0o022


def save(path: Path, document: Document) -> None:
    """Save a document atomically."""
    write_atomic(path, document_text(document))


Signature = tuple[int, int, int, str]
"""What a file is known by, to notice that another program changed it: time, size, number, and what it holds, since a
time may be coarse."""


def signature(path: Path) -> Signature | None:
    """Return what a file is known by, None where there is none."""
    try:
        told = path.stat()
        held = hashlib.sha256(path.read_bytes()).hexdigest() if stat.S_ISREG(told.st_mode) else ""
    except OSError:
        return None
    return told.st_mtime_ns, told.st_size, told.st_ino, held


def check_target(path: Path, suffixes: Sequence[str] = (), sources: Sequence[Path] = ()) -> None:
    """Refuse a file that must not be written: one in a folder that is not there, what is no file, an ending that
    means another format, or one of the ``sources`` that were read. Raises OSError with the reason."""
    if suffixes and path.suffix.lower() not in suffixes:
        raise OSError(f"its ending is '{path.suffix}'; write {' or '.join(suffixes)}")
    if not path.parent.is_dir():
        raise OSError(f"there is no folder {path.parent}")
    if path.exists() and not path.is_file():
        raise OSError("it is there and is no file")
    if any(s.exists() and path.exists() and s.samefile(path) for s in sources):
        raise OSError("it is the very file that is read; name another one")
