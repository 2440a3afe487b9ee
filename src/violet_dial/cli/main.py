"""The command ``violet-dial``: the window, or one thing without it; the stations bring commands of their own.

Exit status: 0 done, 2 with one line on standard error when the input cannot be used.
"""

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from violet_dial import __version__
from violet_dial.core.errors import InvalidInput, VioletDialError


def _parser(stations: bool) -> argparse.ArgumentParser:
    """The arguments; those of the stations only where a command is named, since they bring much with them."""
    parser = argparse.ArgumentParser(prog="violet-dial", description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--version", action="version", version=__version__)
    parser.add_argument("--workshop", type=Path, metavar="FILE", help="the workshop file to open")
    parser.add_argument("--demo", action="store_true", help="open the demo workshop")
    parser.add_argument(
        "--shots", type=Path, metavar="DIR", help="render every main view of the demo workshop and exit"
    )
    parser.set_defaults(run=_window)
    if not stations:
        return parser
    from violet_dial.stations import STATIONS

    commands = parser.add_subparsers(metavar="COMMAND")
    for command in (command for station in STATIONS for command in station.commands):
        added = commands.add_parser(command.name, help=command.help)
        command.arguments(added)
        added.set_defaults(run=command.run)
    sheet = commands.add_parser("sheet", help="print a bundle's sheet as PDF or HTML")
    sheet.add_argument("bundle", type=Path)
    sheet.add_argument("-o", "--output", type=Path, required=True, help="OUT.pdf or OUT.html")
    sheet.set_defaults(run=_sheet)
    return parser


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command; returns the exit status."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    window_alone = all(one in ("--demo", "--version") for one in given)
    options = _parser(not window_alone).parse_args(given)
    try:
        status: int = options.run(options)
    except VioletDialError as error:
        print(f"violet-dial: {' '.join(str(error).split())}", file=sys.stderr)
        return 2
    return status


def _window(options: argparse.Namespace) -> int:
    from violet_dial.gui.start import StartOptions, start

    return start(StartOptions(options.workshop, options.demo, options.shots))


def _sheet(options: argparse.Namespace) -> int:
    from datetime import date

    from violet_dial.job.bundle import read_bundle
    from violet_dial.job.spoken import spoken_date
    from violet_dial.report.html import paper_html
    from violet_dial.report.pdf import paper_pdf
    from violet_dial.services.plain import read_path
    from violet_dial.services.sheet import sheet_of
    from violet_dial.stations import STATIONS

    suffix = options.output.suffix.lower()
    if suffix not in (".pdf", ".html"):
        raise InvalidInput("Output", str(options.output), "a name ending in .pdf or .html")
    job = read_bundle(read_path(options.bundle)).job
    paper = sheet_of(job, STATIONS, spoken_date(date.today()))
    content = paper_pdf(paper) if suffix == ".pdf" else paper_html(paper).encode()
    try:
        options.output.write_bytes(content)
    except OSError as error:
        raise InvalidInput("Output", str(options.output), f"a place that can be written ({error.strerror})") from error
    return 0


if __name__ == "__main__":
    sys.exit(main())
