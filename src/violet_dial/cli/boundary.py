"""The edge of the command line: what goes wrong is one line on standard error and an exit status, never a traceback.

0 done; 2 what came cannot be used, or what was made cannot be written; 1 a fault of the program; 130 interrupted;
141 the reader of the output went away.
"""

import codecs
import io
import os
import sys
import traceback
from collections.abc import Callable
from typing import TextIO

from violet_dial.core.errors import VioletDialError

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
