"""The command ``sheet``: a bundle's sheet or card as a file, drawn without a window."""

from argparse import Namespace
from pathlib import Path

from violet_dial.core.errors import InvalidInput
from violet_dial.report.blocks import SIZES
from violet_dial.services.station import Command, Option

ARGUMENTS = (
    Option("bundle", "a job's bundle (zip), or - for standard input", type=Path),
    Option(("-o", "--output"), "OUT.pdf or OUT.html", type=Path, required=True),
    Option("--paper", f"the paper's size (default {SIZES[0]})", "", SIZES[0], choices=SIZES),
    Option("--card", "the short card, a third of a page", action="store_true"),
)


def _sheet(options: Namespace) -> int:
    from datetime import date

    from violet_dial.job.bundle import read_bundle
    from violet_dial.job.spoken import spoken_date
    from violet_dial.report.html import paper_html
    from violet_dial.report.pdf import paper_pdf
    from violet_dial.services.files import read_given, write_file
    from violet_dial.services.sheet import card_of, sheet_of
    from violet_dial.stations import STATIONS

    suffix = options.output.suffix.lower()
    if suffix not in (".pdf", ".html"):
        raise InvalidInput("--output", str(options.output), "a name ending in .pdf or .html")
    job = read_bundle(read_given(options.bundle, "Bundle")).job
    made = card_of if options.card else sheet_of
    paper = made(job, STATIONS, spoken_date(date.today()), options.paper)
    write_file(options.output, paper_pdf(paper) if suffix == ".pdf" else paper_html(paper).encode(), "--output")
    return 0


COMMANDS = (Command("sheet", "print a bundle's sheet as PDF or HTML", ARGUMENTS, _sheet),)
