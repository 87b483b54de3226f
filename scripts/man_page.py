"""Writes the page of the manual from the command line itself: ``.venv/bin/python scripts/man_page.py``."""

from __future__ import annotations

from pathlib import Path

import typer

from cryonome.cli import app
from cryonome.version import VERSION

PAGE = Path(__file__).parents[1] / "src" / "cryonome" / "desktop" / "cryonome.1"


def escaped(text: str) -> str:
    """Return a text as troff takes it."""
    plain = " ".join(text.split()).replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{plain}" if plain.startswith((".", "'")) else plain


def page() -> str:
    """Return the page as troff."""
    group = typer.main.get_command(app)
    out = [
        f'.TH CRYONOME 1 "" "Cryonome {VERSION}" "User Commands"',
        ".SH NAME",
        "cryonome \\- petroleum fluids, from lab data to answers",
        ".SH SYNOPSIS",
        ".B cryonome",
        ".I COMMAND",
        "[\\fIARGUMENTS\\fR]",
        ".SH DESCRIPTION",
        "A document (*.cryo, JSON) says what is known of samples and fluids, and what is asked. The window edits it; the",
        "commands below answer, report and exchange it without a window. Without a command the help is shown.",
        ".SH COMMANDS",
    ]
    for name, command in sorted(group.commands.items()):  # type: ignore[attr-defined]
        if command.hidden:
            continue
        arguments = [p for p in command.params if p.param_type_name == "argument"]
        out += [".TP", f".B {escaped(name)}{''.join(f' {escaped(a.metavar or a.name.upper())}' for a in arguments)}"]
        out.append(escaped(command.help or ""))
        for option in (p for p in command.params if p.param_type_name == "option" and p.name != "help"):
            value = "" if option.is_flag else f" \\fI{escaped(option.name.upper())}\\fR"
            out += [".RS", ".TP", f"\\fB{escaped(option.opts[0])}\\fR{value}", escaped(option.help or ""), ".RE"]
    out += [
        ".SH EXIT STATUS",
        "0: everything was answered. 1: something could not be answered, and its answer says why. 2: the document or an",
        "argument is wrong. 70: the program itself failed.",
        ".SH ENVIRONMENT",
        ".TP",
        ".B CRYONOME_LOG",
        "How much is logged: debug, info, warning (as without it), error.",
        ".TP",
        ".B CRYONOME_KERNELS",
        "The folder of compiled kernels, in place of the package's or the user's cache.",
        ".SH FILES",
        ".TP",
        ".I $XDG_CONFIG_HOME/cryonome/cryonome.conf",
        "Settings of the window.",
        ".TP",
        ".I $XDG_STATE_HOME/cryonome/log/cryonome.log",
        "What went wrong in the window.",
    ]
    return "\n".join(out) + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
