"""How the desktop meets the program: its entry in the menu, its icon, its file type and its page of the manual.

A wheel brings the same files under ``share``, where an installation for all finds them; :func:`install` puts them where
the desktop of one user looks, with the path of this program in them."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).parent

PLACES = {
    "cryonome.desktop": "applications",
    "cryonome.svg": "icons/hicolor/scalable/apps",
    "cryonome.xml": "mime/packages",
    "cryonome.1": "man/man1",
}
"""Where each file belongs below the folder of shared data."""

REFRESH = (("update-mime-database", "mime"), ("update-desktop-database", "applications"))
"""Programs of the desktop that read what is new, with the folder they are told."""


def data_home() -> Path:
    """Return where the data of programs of one user are, as the XDG base directory specification says."""
    given = os.environ.get("XDG_DATA_HOME", "")
    return Path(given) if given.startswith("/") else Path.home() / ".local" / "share"


def command() -> str:
    """Return how this program is started, by its whole path, for an entry in a menu."""
    beside = Path(sys.executable).with_name("cryonome")
    if beside.exists():
        return _quoted(str(beside))
    found = shutil.which("cryonome")
    return _quoted(found) if found else f"{_quoted(sys.executable)} -m cryonome"


def _quoted(path: str) -> str:
    """Return a path as the Exec line of a desktop entry wants it."""
    if not set(path) & set(" \t\"'\\><~|&;$*?#()`%"):
        return path
    inner = "".join(f"\\{c}" if c in '"`$\\' else c for c in path).replace("%", "%%")
    return f'"{inner}"'


def install() -> list[Path]:
    """Put entry, icon, file type and manual where this user's desktop looks; return the files. Raises OSError."""
    out = []
    for name, folder in PLACES.items():
        target = data_home() / folder / name
        target.parent.mkdir(parents=True, exist_ok=True)
        text = (HERE / name).read_text(encoding="utf-8")
        if name.endswith(".desktop"):
            text = text.replace("Exec=cryonome ", f"Exec={command()} ")
        target.write_text(text, encoding="utf-8")
        out.append(target)
    _refresh()
    return out


def remove() -> list[Path]:
    """Take away what :func:`install` put there; return the files that were. Raises OSError."""
    out = [p for name, folder in PLACES.items() if (p := data_home() / folder / name).exists()]
    for path in out:
        path.unlink()
    _refresh()
    return out


def _refresh() -> None:
    for program, folder in REFRESH:
        # Where the desktop has no such program it reads the files itself.
        if shutil.which(program):
            with contextlib.suppress(OSError, subprocess.SubprocessError):
                subprocess.run([program, str(data_home() / folder)], check=False, capture_output=True, timeout=60)
