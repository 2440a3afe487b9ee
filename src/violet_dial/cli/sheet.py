"""The command ``sheet``: a bundle's sheet as a file, drawn without a window."""

from argparse import ArgumentParser, Namespace
from pathlib import Path

from violet_dial.core.errors import InvalidInput
from violet_dial.services.command import Command


def _arguments(parser: ArgumentParser) -> None:
    parser.add_argument("bundle", type=Path, help="a job's bundle (zip), or - for standard input")
    parser.add_argument("-o", "--output", type=Path, required=True, help="OUT.pdf or OUT.html")


def _sheet(options: Namespace) -> int:
    from datetime import date

    from violet_dial.job.bundle import read_bundle
    from violet_dial.job.spoken import spoken_date
    from violet_dial.report.html import paper_html
    from violet_dial.report.pdf import paper_pdf
    from violet_dial.services.files import read_given, write_file
    from violet_dial.services.sheet import sheet_of
    from violet_dial.stations import STATIONS

    suffix = options.output.suffix.lower()
    if suffix not in (".pdf", ".html"):
        raise InvalidInput("--output", str(options.output), "a name ending in .pdf or .html")
    job = read_bundle(read_given(options.bundle, "Bundle")).job
    paper = sheet_of(job, STATIONS, spoken_date(date.today()))
    write_file(options.output, paper_pdf(paper) if suffix == ".pdf" else paper_html(paper).encode(), "--output")
    return 0


COMMANDS = (Command("sheet", "print a bundle's sheet as PDF or HTML", _arguments, _sheet),)
