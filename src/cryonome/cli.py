"""The command line: open, solve, ask, import, export, fill, report, desktop, schema."""

from __future__ import annotations

import contextlib
import json
import logging
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, TextIO

import typer

from .document import Document, DocumentError, load, parse_document
from .document.files import check_target, save, write_atomic
from .errors import DomainError
from .language import begin, said
from .questions import document_schema
from .questions import solve as solve_document
from .version import VERSION

if TYPE_CHECKING:
    from concurrent.futures import Executor

app = typer.Typer(
    add_completion=True,
    no_args_is_help=False,
    pretty_exceptions_enable=False,
    help="Petroleum fluids: from lab data to answers.",
)

INVALID = 2
BROKEN = 70
"""Exit status where the program itself failed: no answer, and no fault of the document."""


log = logging.getLogger(__name__)
logging.basicConfig(
    level=os.environ.get("CRYONOME_LOG", "warning").upper(), format="%(levelname)s %(name)s: %(message)s"
)


def _say(text: str) -> None:
    sys.stderr.write(said(text) + "\n")


@contextmanager
def _with_window(name: str) -> Iterator[None]:
    """End with 2 and a sentence where what the window is made of is not installed."""
    try:
        yield
    except ImportError as error:
        _say(f"{name}: this needs the window's packages ({error}); install cryonome[gui]")
        raise typer.Exit(INVALID) from None


@contextmanager
def _invalid_where(name: str, path: object, verb: str = "written") -> Iterator[None]:
    """End with 2 and a sentence where a document is invalid, a file cannot be read or written, or there is no such
    thing."""
    try:
        yield
        return
    except DocumentError as error:
        _say(str(error))
    except OSError as error:
        _say(f"{name}: {path} cannot be {verb}: {(error.strerror or str(error)).lower()}")
    except typer.Exit:
        raise
    except Exception as error:
        # The readers of sheets are imported here, since most commands never need them.
        from .exchange.cells import ExchangeError

        if not isinstance(error, ExchangeError | DomainError):
            raise
        _say(f"{name}: {error}")
    raise typer.Exit(INVALID)


def _read(source: str) -> Document:
    """Return the document of a file name, or of standard input for ``-``; exits with 2 where it is invalid."""
    with _invalid_where("document", source, "read"):
        try:
            return parse_document(sys.stdin.read()) if source == "-" else load(Path(source))
        except UnicodeDecodeError:
            _say("document: the text is not UTF-8, so it is not a document")
    raise typer.Exit(INVALID)


@app.command()
def solve(
    documents: Annotated[
        list[str], typer.Argument(metavar="DOC...", help="A document, several, or - for standard input.")
    ],
    study: Annotated[list[str] | None, typer.Option("--study", help="Only this study; may be repeated.")] = None,
    output: Annotated[Path | None, typer.Option("--output", help="Write the answers there instead.")] = None,
    jobs: Annotated[int, typer.Option("--jobs", help="Processes that work on documents and large spreads.")] = 1,
    scheduler: Annotated[
        str, typer.Option("--scheduler", metavar="ADDRESS", help="A Dask scheduler whose workers do it.")
    ] = "",
    keep: Annotated[
        bool,
        typer.Option(
            "--keep", help="Keep the answers' numbers in the document, for a later version to be held against."
        ),
    ] = False,
) -> None:
    """Answer the studies of a document as JSON; of several a line each, in their order."""
    if jobs < 1:
        _say(f"--jobs: {jobs} processes can do nothing; give 1 or more")
        raise typer.Exit(INVALID)
    if scheduler and jobs > 1:
        _say("--scheduler: give either processes of this machine or a scheduler, not both")
        raise typer.Exit(INVALID)
    if keep and (len(documents) > 1 or documents == ["-"]):
        _say("--keep: give one document that is a file; its numbers are written into it")
        raise typer.Exit(INVALID)
    with _workers(jobs, scheduler) as executor:
        if len(documents) > 1:
            _solve_several(documents, tuple(study or ()), output, executor)
        else:
            _solve_one(documents[0], study or [], output, executor, keep)


def _solve_one(document: str, study: list[str], output: Path | None, executor: Executor | None, keep: bool) -> None:
    from .questions.changed import keeping
    from .results import Evaluator

    loaded, evaluator = _read(document), Evaluator()
    with _invalid_where("document", document), _shared(executor):
        result = solve_document(loaded, study, evaluator)
    if keep:
        with _invalid_where("document", document):
            save(Path(document), keeping(loaded, evaluator.at(loaded)))
    text = json.dumps(result, ensure_ascii=False, indent=1, allow_nan=False) + "\n"
    for answer in result["answers"].values():
        for fault in answer.get("faults", ()):
            _say(f"{fault['path']}: {fault['message']}")
    if output is not None:
        _write(output, text, document)
    else:
        sys.stdout.write(text)
    if not all(answer["ok"] for answer in result["answers"].values()):
        raise typer.Exit(1)


def _solve_several(
    documents: list[str], studies: tuple[str, ...], output: Path | None, executor: Executor | None
) -> None:
    """Write a line of JSON for each document as it is answered, in their order: the lines there are stand when it is
    stopped. Ends with the gravest status of any."""
    from .many import solve_many

    status = 0
    named = [sys.stdin.read() if d == "-" else Path(d) for d in documents]
    target = contextlib.nullcontext(sys.stdout) if output is None else _opened(output)
    with target as stream:
        for name, result in zip(documents, solve_many(named, executor, studies), strict=True):
            stream.write(json.dumps({"document": name, **result}, ensure_ascii=False, allow_nan=False) + "\n")
            stream.flush()
            if "answers" not in result:
                for line in result.get("faults", ()) or [result["error"]]:
                    _say(f"{name}: {line}")
                status = max(status, INVALID)
            elif not all(answer["ok"] for answer in result["answers"].values()):
                status = max(status, 1)
    if status:
        raise typer.Exit(status)


def _opened(output: Path) -> TextIO:
    with _invalid_where("--output", output):
        return output.open("w", encoding="utf-8")
    raise typer.Exit(INVALID)


@contextmanager
def _workers(jobs: int, scheduler: str) -> Iterator[Executor | None]:
    """Give who works on documents: nobody else, processes of this machine, or the workers of a Dask scheduler."""
    if scheduler:
        try:
            from distributed import Client
        except ImportError:
            _say("--scheduler: Dask's scheduler is not installed; install cryonome[distributed]")
            raise typer.Exit(INVALID) from None
        try:
            client = Client(scheduler, timeout="10s", set_as_default=False)
        except (OSError, ValueError, TimeoutError) as error:
            _say(f"--scheduler: there is no Dask scheduler at '{scheduler}' ({error}); write one like tcp://host:8786")
            raise typer.Exit(INVALID) from None
        with client:
            yield client.get_executor(pure=False)
    elif jobs > 1:
        from .sharing import Workers

        with Workers(jobs) as executor:
            yield executor
    else:
        yield None


@contextmanager
def _shared(executor: Executor | None) -> Iterator[None]:
    """Share the samples of large spreads among workers, where there are any."""
    if executor is None:
        yield
        return
    from .questions.spreading.shared import sharing

    with sharing(executor):
        yield


@app.command()
def ask(
    document: Annotated[str, typer.Argument(metavar="DOC", help="A document, or - for standard input.")],
    question: Annotated[
        str, typer.Argument(metavar="QUESTION", help="For example 'dew point of Selden gas at 40 bar'.")
    ],
    json_: Annotated[bool, typer.Option("--json", help="Print the question and the answer's data as JSON.")] = False,
    fluid: Annotated[str, typer.Option("--fluid", help="The fluid that is meant where the question names none.")] = "",
) -> None:
    """Answer a question that is typed: its sentence, and its answer as one."""
    from .wording.asked import answered, underlined
    from .wording.typed import understood

    loaded = _read(document)
    if fluid and loaded.fluid(fluid) is None:
        _say(f"--fluid: the document has no fluid '{fluid}'; there is {', '.join(f.name for f in loaded.every_fluid)}")
        raise typer.Exit(INVALID)
    found = understood(question, loaded, fluid)
    if found.study is None:
        _say(underlined(question, found))
        raise typer.Exit(INVALID)
    with _invalid_where("document", document):
        told = answered(found.study, loaded, found.wanted)
    if json_:
        data = {
            "format": "cryonome-asked/1",
            "question": told.sentence,
            "study": told.study,
            "sentence": told.says,
            "answer": told.answer,
        }
        sys.stdout.write(json.dumps(data, ensure_ascii=False, indent=1, allow_nan=False) + "\n")
    else:
        sys.stdout.write(f"{told.sentence}\n{said(told.says)}\n")
    if not told.answer["ok"]:
        raise typer.Exit(1)


@app.command()
def changed(
    document: Annotated[str, typer.Argument(metavar="DOC", help="A document, or - for standard input.")],
    json_: Annotated[bool, typer.Option("--json", help="Print the changes as JSON.")] = False,
) -> None:
    """Tell which answers differ from those that another version kept in the document, by how much, and why."""
    from .wording.changed_words import as_data, as_text, held_against

    loaded = _read(document)
    found = held_against(loaded)
    if json_:
        sys.stdout.write(json.dumps(as_data(found), ensure_ascii=False, indent=1, allow_nan=False) + "\n")
    else:
        sys.stdout.write(said(as_text(found, loaded.display.units)))


@app.command(name="import")
def import_sheets(
    sheets: Annotated[
        list[Path], typer.Argument(metavar="FILE...", help="Spreadsheets with lab data or lab reports: XLSX or CSV.")
    ],
    output: Annotated[Path | None, typer.Option("--output", help="Write the document there instead.")] = None,
    document: Annotated[
        str | None, typer.Option("--document", help="Add to this document; - for standard input.")
    ] = None,
    report_of: Annotated[
        str | None, typer.Option("--report-of", help="The sheets are lab reports of this fluid of the document.")
    ] = None,
) -> None:
    """Read spreadsheets into a document: samples, fluids, and lab tests of the one fluid in them or of the one
    named."""
    from .document import document_text
    from .document.faults import did_you_mean
    from .exchange import read_file
    from .exchange.taking import taken

    loaded = Document() if document is None else _read(document)
    names = [f.name for f in loaded.every_fluid]
    if report_of is not None and report_of not in names:
        _say(
            f"--report-of: unknown fluid '{report_of}'{did_you_mean(report_of, names) or '; give the document it is in by --document'}"
        )
        raise typer.Exit(INVALID)
    for path in sheets:
        with _invalid_where("document", path, "read"):
            found = read_file(path)
        for note in found.notes:
            _say(f"{'assumed' if note.assumed else 'not read'}: {path.name}, {note}")
        if not (found.tests or found.brines if report_of is not None else found.holds):
            wanted = "lab test" if report_of is not None else "sample, composition or lab test"
            _say(
                f"{path.name}: no {wanted} that is known; a table is wanted whose header names its columns with their units"
            )
            raise typer.Exit(INVALID)
        loaded, told = taken(loaded, found, report_of)
        for sentence in told:
            _say(f"not read: {path.name}, {sentence}")
    text = document_text(loaded)
    if output is not None:
        # A document may be added to itself.
        _write(output, text, *map(str, sheets))
    else:
        sys.stdout.write(text)


@app.command()
def export(
    document: Annotated[str, typer.Argument(metavar="DOC", help="A document, or - for standard input.")],
    output: Annotated[Path, typer.Argument(metavar="FILE", help="The workbook (.xlsx) or .csv to write.")],
    study: Annotated[
        str | None,
        typer.Option(
            "--study",
            help="The answer of this question instead; a table to .json as an interpolation table too, a picture to .svg or .png.",
        ),
    ] = None,
    fluid: Annotated[
        str | None, typer.Option("--fluid", help="This fluid's components and interaction parameters instead.")
    ] = None,
    picture: Annotated[int, typer.Option("--picture", help="Which of its pictures, from 1.")] = 1,
    width: Annotated[float, typer.Option("--width", help="Of a picture, in mm.")] = 170.0,
    height: Annotated[float, typer.Option("--height", help="Of a picture, in mm.")] = 105.0,
    dpi: Annotated[float, typer.Option("--dpi", help="Dots per inch of a PNG.")] = 300.0,
) -> None:
    """Write the samples of a document, and in a workbook their cuts, to a spreadsheet; or the answer of a question, or
    a picture of it."""
    from .exchange.writing import write_samples
    from .results import Evaluator
    from .results.sample_tables import cut_tables

    loaded = _read(document)
    with _invalid_where("export", output):
        check_target(output, (*TABLES, *DRAWN) if study is not None else (".xlsx", ".csv"), _files(document))
    if fluid is not None:
        if study is not None:
            _say("export: give either --study or --fluid")
            raise typer.Exit(INVALID)
        _export_fluid(loaded, fluid, output)
        return
    if study is not None and output.suffix.lower() in DRAWN:
        _export_picture(loaded, study, output, picture, (width, height), dpi)
        return
    if study is not None:
        _export_study(loaded, study, output)
        return
    if not loaded.samples:
        _say("samples: the document holds no sample to export")
        raise typer.Exit(INVALID)
    with _invalid_where("document", output):
        write_samples(output, loaded.samples, cut_tables(loaded, Evaluator()))


TABLES, DRAWN = (".xlsx", ".csv", ".json"), (".svg", ".png")


def _export_picture(
    loaded: Document, name: str, output: Path, number: int, size: tuple[float, float], dpi: float
) -> None:
    """Write one picture of a question's answer."""
    from .reporting.figures import Told, figures_of
    from .reporting.svg import draw
    from .results import Evaluator
    from .telling import Units

    for option, value, low, high in (
        ("--width", size[0], 20, 2000),
        ("--height", size[1], 20, 2000),
        ("--dpi", dpi, 20, 2400),
    ):
        if not low <= value <= high:
            _say(f"{option}: {value:g} is out of reach; give {low} to {high}")
            raise typer.Exit(INVALID)
    evaluator = Evaluator()
    with _invalid_where(name, output):
        answer = solve_document(loaded, [name], evaluator)["answers"][name]
    if not answer["ok"]:
        _say(f"{name}: {answer['error']}")
        raise typer.Exit(1)
    study = loaded.study(name)
    assert study is not None
    found = figures_of(Told(study, answer, evaluator.at(loaded), Units.of(loaded.display.units)))
    if not 1 <= number <= len(found):
        _say(
            f"--picture: {name} has {len(found) or 'no'} picture{'' if len(found) == 1 else 's'}; there is no number {number}"
        )
        raise typer.Exit(INVALID)
    # A page's point is 1/72 inch, a millimetre 1/25.4.
    svg = draw(found[number - 1], *(side / 25.4 * 72.0 for side in size))
    with _invalid_where("output", output):
        if output.suffix.lower() == ".svg":
            write_atomic(output, svg)
            return
        with _with_window("export"):
            os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
            from .app.reporting.offscreen import png_without_window
        wide, high = (round(side / 25.4 * dpi) for side in size)
        png_without_window(svg, output, wide, high, dpi)


def _export_fluid(loaded: Document, name: str, output: Path) -> None:
    """Write a fluid as plain tables, which ``import`` reads back."""
    from .document.faults import did_you_mean
    from .exchange.fluid_sheets import write_fluid
    from .results import Evaluator

    found = loaded.fluid(name)
    if found is None:
        _say(f"--fluid: unknown fluid '{name}'{did_you_mean(name, [f.name for f in loaded.every_fluid])}")
        raise typer.Exit(INVALID)
    project = Evaluator().at(loaded)
    wrong = [*project.read_fluid(found).faults]
    with _invalid_where(name, output):
        if wrong:
            raise DocumentError(wrong)
        write_fluid(output, found, project.fluid(found))


def _export_study(loaded: Document, name: str, output: Path) -> None:
    from .exchange.table_files import write_answer
    from .telling import Units

    with _invalid_where(name, output):
        answer = solve_document(loaded, [name])["answers"][name]
        if not answer["ok"]:
            _say(f"{name}: {answer['error']}")
            raise typer.Exit(1)
        write_answer(output, answer, Units.of(loaded.display.units))


@app.command()
def fill(
    book: Annotated[Path, typer.Argument(metavar="BOOK", help="A workbook (.xlsx) or .csv with named ranges.")],
    document: Annotated[
        str | None, typer.Option("--document", help="A document whose fluids may be named too.")
    ] = None,
    units: Annotated[str, typer.Option("--units", help="Units of the results: metric, field or SI.")] = "metric",
) -> None:
    """Answer the states that named ranges of a workbook ask for, on a sheet of results."""
    from .exchange.workbooks import fill as fill_book
    from .units import SETS

    if units not in SETS:
        _say(f"units: unknown set '{units}'; there is {', '.join(SETS)}")
        raise typer.Exit(INVALID)
    loaded = _read(document) if document is not None else None
    with _invalid_where("book", book, "read or written"):
        found = fill_book(book, loaded, units)
    for note in found.told:
        _say(note)
    sys.stdout.write(f"{found}\n")
    if found.failed:
        raise typer.Exit(1)


def _files(*names: str) -> list[Path]:
    """Return the files among sources, which may be standard input."""
    return [Path(n) for n in names if n != "-"]


def _write(path: Path, text: str, *sources: str) -> None:
    with _invalid_where("output", path):
        check_target(path, (), _files(*sources))
        write_atomic(path, text)


@app.command()
def schema() -> None:
    """Print the JSON Schema of documents, studies and answers."""

    sys.stdout.write(json.dumps(document_schema(), indent=1) + "\n")


@app.command()
def report(
    document: Annotated[
        str | None, typer.Argument(metavar="[DOC]", help="A document, or -; the demo project where left out.")
    ] = None,
    output: Annotated[Path, typer.Option("--output", help="The folder to write to.")] = Path("out"),
    paper: Annotated[
        str | None, typer.Option("--paper", help="A4 or Letter, in place of what the document says.")
    ] = None,
) -> None:
    """Write what a document tells, from lab data to answers, as a page of HTML, and as PDF beside it."""
    from .demo import demo_document
    from .reporting.content import report_of
    from .reporting.files import PAPER, write_report
    from .results import Evaluator

    loaded = demo_document() if document is None else _read(document)
    chosen: str = loaded.report.paper
    if paper is not None:
        known = {"a4": "A4", "letter": "Letter"}
        if paper.lower() not in known:
            _say(f"--paper: there is no paper '{paper}' here; use A4 or Letter")
            raise typer.Exit(INVALID)
        chosen = known[paper.lower()]
    with _invalid_where("output", output):
        output.mkdir(parents=True, exist_ok=True)
        evaluator = Evaluator()
        # The paper chosen here is not part of the document, so the checksum stays.
        content = replace(report_of(loaded, evaluator), paper=chosen)
        wrong = evaluator.at(loaded).faults()
        if wrong and not any(a["ok"] for a in content.answers.values()):
            raise DocumentError(wrong)
        written = write_report(content, output)
    beside = f"; its {written.pictures} pictures are in {written.page.parent / 'pictures'}" if written.pictures else ""
    try:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        from .app.reporting.offscreen import pdf_without_window
    except ImportError as error:
        sys.stdout.write(f"The report is {written.page}{beside}.\n")
        _say(f"report: no PDF, which needs the window's packages ({error}); install cryonome[gui], or print the page")
        return
    with _invalid_where("output", output):
        pages = pdf_without_window(content, output / PAPER)
    sys.stdout.write(f"The report is {written.page}, and on {pages} pages {output / PAPER}{beside}.\n")


@app.command(name="open")
def open_window(
    document: Annotated[
        str | None, typer.Argument(metavar="[DOC]", help="A document; the demo project where left out.")
    ] = None,
) -> None:
    """Open the window."""
    with _with_window("open"):
        from .app.main import run

    raise typer.Exit(run(Path(document) if document is not None else None))


@app.command()
def desktop(
    remove: Annotated[bool, typer.Option("--remove", help="Take it away again.")] = False,
) -> None:
    """Enter the program in this user's desktop: menu, icon, manual, and a double click on a .cryo file."""
    from . import desktop as own

    with _invalid_where("desktop", own.data_home()):
        found = own.remove() if remove else own.install()
    for path in found:
        sys.stdout.write(f"{path}\n")
    if not found:
        _say("desktop: nothing was there to be taken away")


@app.command()
def version() -> None:
    """Print the version."""
    sys.stdout.write(f"{VERSION}\n")


def _version(wanted: bool) -> None:
    if wanted:
        version()
        raise typer.Exit


@app.callback()
def _options(
    _wanted: Annotated[
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Print the version.")
    ] = False,
) -> None:
    pass


def main() -> None:
    """Entry point. A fault of the program is told in a sentence and logged; it never passes for an answer."""
    try:
        begin(os.environ.get("CRYONOME_LANGUAGE", ""))
    except DomainError as error:
        _say(f"CRYONOME_LANGUAGE: {error}")
        raise SystemExit(INVALID) from None
    try:
        app()
    except Exception as error:
        log.debug("the command failed", exc_info=True)
        _say(f"document: the program failed ({type(error).__name__}: {error}); set CRYONOME_LOG=debug to see where")
        raise SystemExit(BROKEN) from None


if __name__ == "__main__":
    main()
