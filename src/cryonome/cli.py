"""The command line: open, solve, report, schema."""

from __future__ import annotations

import json
import logging
import os
import sys
from pathlib import Path
from typing import Annotated

import typer

from . import __version__
from .document import Document, DocumentError, load, parse_document
from .document.files import write_atomic

app = typer.Typer(
    add_completion=False, no_args_is_help=False, pretty_exceptions_enable=False,
    help="Petroleum fluids: from lab data to answers.",
)  # fmt: skip

INVALID = 2
BROKEN = 70
"""Exit status where the program itself failed: no answer, and no fault of the document."""


log = logging.getLogger(__name__)
logging.basicConfig(
    level=os.environ.get("CRYONOME_LOG", "warning").upper(), format="%(levelname)s %(name)s: %(message)s"
)


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
        _write(output, text)
    else:
        sys.stdout.write(text)
    if not all(answer["ok"] for answer in result["answers"].values()):
        raise typer.Exit(1)


@app.command(name="import")
def import_samples(
    sheets: Annotated[list[Path], typer.Argument(metavar="FILE...", help="Spreadsheets with lab data: XLSX or CSV.")],
    output: Annotated[Path | None, typer.Option("--output", help="Write the document there instead.")] = None,
) -> None:
    """Read the samples of spreadsheets into a document."""
    from .document import document_text
    from .document.edits import add_sample, free_name
    from .document.sheets import ExchangeError, read_file

    document = Document()
    for path in sheets:
        try:
            found = read_file(path)
            for note in found.notes:
                _say(f"{'assumed' if note.assumed else 'not read'}: {path.name}, {note}")
            for sample in found.samples:
                name = free_name(document, sample.name)
                document = add_sample(document, sample.model_copy(update={"name": name}))
        except ExchangeError as error:
            _say(f"document: {error}")
            raise typer.Exit(INVALID) from None
        except OSError as error:
            _say(f"document: {path} cannot be read: {(error.strerror or str(error)).lower()}")
            raise typer.Exit(INVALID) from None
    text = document_text(document)
    if output is not None:
        _write(output, text)
    else:
        sys.stdout.write(text)


@app.command()
def export(
    document: Annotated[str, typer.Argument(metavar="DOC", help="A document, or - for standard input.")],
    output: Annotated[Path, typer.Argument(metavar="FILE", help="The workbook (.xlsx) or .csv to write.")],
    study: Annotated[
        str | None,
        typer.Option("--study", help="This table or sweep instead; a table to .json as an interpolation table too."),
    ] = None,
) -> None:
    """Write the samples of a document, and in a workbook their cuts, to a spreadsheet; or a table or sweep of it."""
    from .document.sheets import write_samples
    from .studies import Evaluator
    from .studies.tables import cut_tables

    loaded = _read(document)
    if study is not None:
        _export_study(loaded, study, output)
        return
    if not loaded.samples:
        _say("samples: the document holds no sample to export")
        raise typer.Exit(INVALID)
    try:
        write_samples(output, loaded.samples, cut_tables(loaded, Evaluator()))
    except OSError as error:
        _say(f"document: {output} cannot be written: {(error.strerror or str(error)).lower()}")
        raise typer.Exit(INVALID) from None


def _export_study(loaded: Document, name: str, output: Path) -> None:
    from .errors import DomainError
    from .studies import Units
    from .studies import solve as solve_document
    from .studies.table_files import write_answer

    try:
        answer = solve_document(loaded, [name])["answers"][name]
        if not answer["ok"]:
            _say(f"{name}: {answer['error']}")
            raise typer.Exit(1)
        write_answer(output, answer, Units.of(loaded.display.units))
    except DocumentError as error:
        _say(str(error))
        raise typer.Exit(INVALID) from None
    except DomainError as error:
        _say(f"{name}: {error}")
        raise typer.Exit(INVALID) from None
    except OSError as error:
        _say(f"document: {output} cannot be written: {(error.strerror or str(error)).lower()}")
        raise typer.Exit(INVALID) from None


@app.command()
def fill(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A workbook (.xlsx) or .csv with named ranges.")],
    document: Annotated[
        str | None, typer.Option("--document", help="A document whose fluids may be named too.")
    ] = None,
    units: Annotated[str, typer.Option("--units", help="Units of the results: metric, field or SI.")] = "metric",
) -> None:
    """Answer the states that named ranges of a workbook ask for, on a sheet of results."""
    from .fill import FILL_ERRORS
    from .fill import fill as fill_book
    from .units import SETS

    if units not in SETS:
        _say(f"units: unknown set '{units}'; there is {', '.join(SETS)}")
        raise typer.Exit(INVALID)
    loaded = _read(document) if document is not None else None
    try:
        found = fill_book(book, loaded, units)
    except OSError as error:
        _say(f"book: {book} cannot be read or written: {(error.strerror or str(error)).lower()}")
        raise typer.Exit(INVALID) from None
    except FILL_ERRORS as error:
        _say(f"book: {error}")
        raise typer.Exit(INVALID) from None
    for note in found.told:
        _say(note)
    sys.stdout.write(f"{found}\n")
    if found.failed:
        raise typer.Exit(1)


def _write(path: Path, text: str) -> None:
    try:
        write_atomic(path, text)
    except OSError as error:
        _say(f"document: {path} cannot be written: {(error.strerror or str(error)).lower()}")
        raise typer.Exit(INVALID) from None


@app.command()
def schema() -> None:
    """Print the JSON Schema of documents, studies and answers."""
    from .studies import document_schema

    sys.stdout.write(json.dumps(document_schema(), indent=1) + "\n")


@app.command()
def report(
    document: Annotated[
        str | None, typer.Argument(metavar="[DOC]", help="A document; the demo project where left out.")
    ] = None,
    output: Annotated[Path, typer.Option("--output", help="The folder to write to.")] = Path("out"),
) -> None:
    """Compute a document without a window and write a report with pictures."""
    from .app.report import write_report

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
    """Entry point. A fault of the program is told in a sentence and logged; it never passes for an answer."""
    try:
        app()
    except Exception as error:
        log.debug("the command failed", exc_info=True)
        _say(f"document: the program failed ({type(error).__name__}: {error}); set CRYONOME_LOG=debug to see where")
        raise SystemExit(BROKEN) from None


if __name__ == "__main__":
    main()
