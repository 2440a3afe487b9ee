"""The command ``violet-dial``: the window, or one thing without it; the stations bring commands of their own."""

import argparse
import codecs
import io
import os
import sys
import traceback
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn, TextIO

from violet_dial import __version__
from violet_dial.core.errors import InvalidInput, VioletDialError

DONE, FAULT, WRONG, INTERRUPTED, READER_GONE = 0, 1, 2, 130, 141


_PLAIN = str.maketrans({
    "×": "x", "·": "-", "−": "-", "–": "-", "—": "-", "±": "+/-", "Ω": "ohm", "µ": "u", "μ": "u", "°": " deg", "²": "2",
    "³": "3", "…": "...", "“": '"', "”": '"', "‘": "'", "’": "'", "′": "'", "→": "->", "⏎": "Enter", "≈": "~", "½": "1/2",
    "⅓": "1/3", "≤": "<=", "≥": ">=", "\u2009": " ", "\u202f": " ", "\u00a0": " ",
})  # fmt: skip


def _plainly(error: UnicodeError) -> tuple[str, int]:
    """Characters a terminal does not have, as near as its letters come."""
    if not isinstance(error, UnicodeEncodeError):
        raise error
    text = error.object[error.start : error.end].translate(_PLAIN)
    coding = error.encoding or "ascii"
    return text.encode(coding, "replace").decode(coding), error.end


def guarded(run: Callable[[], int]) -> int:
    """Run a command; returns the exit status."""
    codecs.register_error("violet-dial-plainly", _plainly)
    sys.stdout = sys.stdout or _nowhere()  # closed by whoever started this
    sys.stderr = sys.stderr or _nowhere()
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="violet-dial-plainly")
    try:
        return _flushed(run())
    except VioletDialError as error:
        return _say(" ".join(str(error).split()), WRONG)
    except KeyboardInterrupt:
        return _say("interrupted", INTERRUPTED)
    except BrokenPipeError:
        return _reader_gone()
    except OSError as error:
        return _say(f"the output could not be written: {error.strerror}", WRONG)
    except MemoryError:
        return _say("there is not enough memory for this", WRONG)
    except Exception as error:  # noqa: BLE001 - the one place that catches everything
        return _say(f"a fault of the program ({type(error).__name__}: {error}); {_reported()}", FAULT)


def _nowhere() -> TextIO:
    return os.fdopen(os.open(os.devnull, os.O_WRONLY), "w", encoding="utf-8")


def _flushed(status: int) -> int:
    sys.stdout.flush()
    return status


def _say(sentence: str, status: int) -> int:
    try:
        print(f"violet-dial: {sentence}", file=sys.stderr)
        sys.stderr.flush()
    except OSError:
        pass
    _let_go(sys.stdout)
    return status


def _reader_gone() -> int:
    _let_go(sys.stdout)
    return READER_GONE


def _let_go(stream: TextIO) -> None:
    """What could not be written is not tried again at the end of the process."""
    try:
        stream.flush()
    except (OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), stream.fileno())


def _reported() -> str:
    """The trace in a file that can be sent; where it is, in words."""
    from violet_dial.services.places import state_folder

    folder = state_folder() / "faults"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        path = folder / "command.txt"
        path.write_text(traceback.format_exc(), encoding="utf-8")
    except OSError:
        return "no report could be written"
    return f"what is known of it is in {path}"


if TYPE_CHECKING:
    from violet_dial.services.station import Command

STATUS = "Exit status: 0 done, 2 what came cannot be used (one line says what and why), 1 a fault, 130 interrupted."


def _commands(named: str) -> "tuple[Command, ...]":
    """The commands there are; those of the stations only where one may be meant, since they bring much with them."""
    from violet_dial.cli import quick, sheet, upkeep

    own = (*quick.COMMANDS, *upkeep.COMMANDS, *sheet.COMMANDS)
    if any(command.name == named for command in own):
        return own
    from violet_dial.stations import commands_of

    brought = commands_of(named)
    if any(command.name == named for command in brought):
        return (*brought, *own)
    from violet_dial import practise

    return (*brought, *practise.STATION.commands, *own)


class OneLine(argparse.ArgumentParser):
    """A parser that refuses in one line."""

    def error(self, message: str) -> NoReturn:
        self.exit(2, f"violet-dial: {message}; {self.prog} --help says what there is\n")


def _parser(given: list[str]) -> argparse.ArgumentParser:
    parser = OneLine(prog="violet-dial", description=(__doc__ or "").splitlines()[0], epilog=STATUS)
    parser.add_argument("--version", action="version", version=__version__)
    parser.add_argument("--workshop", type=Path, metavar="FILE", help="the workshop file (default: one's own)")
    parser.add_argument("--demo", action="store_true", help="open the demo workshop")
    parser.add_argument("--shots", type=Path, metavar="DIR", help="render every main view of the demo workshop and exit")
    parser.set_defaults(run=_window, file=None)
    named = _command_named(given)
    if not named and not any(one in given for one in ("-h", "--help")):
        parser.add_argument("file", nargs="?", type=Path, help="a workshop file or a bundle to open")
        return parser
    added = parser.add_subparsers(metavar="COMMAND")
    for command in _commands(named):
        one = added.add_parser(command.name, help=command.help, description=command.help, epilog=STATUS)
        for option in command.arguments:
            one.add_argument(*option.names, **option.how)
        one.set_defaults(run=command.run)
    return parser


def _command_named(given: list[str]) -> str:
    """The first word that is neither an option, an option's value nor a file."""
    words = iter(given)
    for word in words:
        if word in ("--workshop", "--shots"):
            next(words, None)
        elif not word.startswith("-"):
            return "" if Path(word).suffix.lower() in (".violet", ".zip") or "/" in word else word
    return ""


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command; returns the exit status."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    return guarded(lambda: _run(given))


def _run(given: list[str]) -> int:
    try:
        options = _parser(given).parse_args(given)
    except SystemExit as ended:  # argparse has said what is wrong, or the help
        return int(ended.code or 0)
    status: int = options.run(options)
    return status


def _window(options: argparse.Namespace) -> int:
    from violet_dial.gui.start import StartOptions, start

    if options.demo and options.workshop is not None:
        raise InvalidInput("--demo", f"with --workshop {options.workshop}", "one of the two: the demo is a workshop of its own")
    workshop, bundle = options.workshop, None
    if options.file is not None:
        if options.file.suffix.lower() == ".zip":
            bundle = options.file
        else:
            workshop = options.file
    return start(StartOptions(workshop, options.demo, options.shots, bundle))


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
