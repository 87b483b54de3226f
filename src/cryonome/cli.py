"""The command line: open, solve, report, schema."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated

import typer

from . import __version__
from .document import Document, DocumentError, load, parse_document
from .document.files import write_atomic

app = typer.Typer(add_completion=False, no_args_is_help=False, help="Petroleum fluids: from lab data to answers.")

INVALID = 2


def _say(text: str) -> None:
    sys.stderr.write(text + "\n")


def _read(source: str) -> Document:
    """Return the document of a file name, or of standard input for ``-``; exits with 2 where it is invalid."""
    try:
        if source == "-":
            return parse_document(sys.stdin.read())
        return load(Path(source))
    except DocumentError as error:
        _say(str(error))
    except UnicodeDecodeError:
        _say("document: the text is not UTF-8, so it is not a document")
    except OSError as error:
        _say(f"document: {source} cannot be read: {(error.strerror or str(error)).lower()}")
    raise typer.Exit(INVALID)


@app.command()
def solve(
    document: Annotated[str, typer.Argument(metavar="DOC", help="A document, or - for standard input.")],
    study: Annotated[list[str] | None, typer.Option("--study", help="Only this study; may be repeated.")] = None,
    output: Annotated[Path | None, typer.Option("--output", help="Write the answers there instead.")] = None,
) -> None:
    """Answer the studies of a document as JSON."""
    from .studies import solve as solve_document

    loaded = _read(document)
    try:
        result = solve_document(loaded, study or ())
    except DocumentError as error:
        _say(str(error))
        raise typer.Exit(INVALID) from None
    text = json.dumps(result, ensure_ascii=False, indent=1, allow_nan=False) + "\n"
    if output is not None:
        try:
            write_atomic(output, text)
        except OSError as error:
            _say(f"document: {output} cannot be written: {(error.strerror or str(error)).lower()}")
            raise typer.Exit(INVALID) from None
    else:
        sys.stdout.write(text)
    if not all(answer["ok"] for answer in result["answers"].values()):
        raise typer.Exit(1)


@app.command()
def schema() -> None:
    """Print the JSON Schema of documents."""
    sys.stdout.write(json.dumps(Document.model_json_schema(), indent=1) + "\n")


@app.command()
def report(
    document: Annotated[
        str | None, typer.Argument(metavar="[DOC]", help="A document; the demo project where left out.")
    ] = None,
    output: Annotated[Path, typer.Option("--output", help="The folder to write to.")] = Path("out"),
) -> None:
    """Compute a document without a window and write a report with pictures."""
    from .app.offscreen import write_report

    loaded = _read(document) if document is not None else None
    page = write_report(loaded, output)
    sys.stdout.write(f"The report is {page}; its pictures are in {page.parent}.\n")


@app.command(name="open")
def open_window(
    document: Annotated[
        str | None, typer.Argument(metavar="[DOC]", help="A document; the demo project where left out.")
    ] = None,
) -> None:
    """Open the window."""
    from .app.main import run

    raise typer.Exit(run(Path(document) if document is not None else None))


@app.command()
def version() -> None:
    """Print the version."""
    sys.stdout.write(f"{__version__}\n")


def main() -> None:
    """Entry point."""
    app()


if __name__ == "__main__":
    main()
