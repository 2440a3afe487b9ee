"""Files from and to outside: measured before they are read, written whole or not at all, links not written through."""

import os
import stat
import sys
from pathlib import Path

from violet_dial.core.errors import InvalidInput
from violet_dial.store.placing import sync

MOST_BYTES = 400_000_000
STANDARD_INPUT = "-"


def read_file(path: Path, most: int = MOST_BYTES, what: str = "File") -> bytes:
    """Content of a file. Raises InvalidInput: it cannot be read, is no plain file, or is larger than ``most`` bytes."""
    try:
        # what is no plain file (a pipe, a device) is not waited for
        descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with open(descriptor, "rb") as stream:
            about = os.fstat(descriptor)
            if not stat.S_ISREG(about.st_mode):
                raise InvalidInput(what, str(path), "a plain file")
            if about.st_size > most:
                raise InvalidInput(what, f"{path.name}, {about.st_size} bytes", f"at most {most} bytes")
            return stream.read(most)
    except InvalidInput:
        raise
    except OSError as error:
        raise InvalidInput(what, str(path), f"a file that can be read ({error.strerror})") from error
    except ValueError as error:
        raise InvalidInput(what, repr(str(path)), "the name of a file") from error


def read_given(path: Path, what: str, most: int = MOST_BYTES) -> bytes:
    """Content of a file named on the command line; ``-`` is standard input. Raises InvalidInput: as `read_file`."""
    if str(path) != STANDARD_INPUT:
        return read_file(path, most, what)
    data = sys.stdin.buffer.read(most + 1)
    if len(data) > most:
        raise InvalidInput(what, "standard input", f"at most {most} bytes")
    return data


def circuit_given(path: Path, what: str, takes_includes: bool) -> str:
    """SPICE text named on the command line, with the files beside it that it includes where that is asked for.

    Raises InvalidInput: as `read_file`; binary data; an include that is no file beside it.
    """
    from violet_dial.core.circuit.spice import MOST_BYTES as MOST_INCLUDED
    from violet_dial.core.circuit.spice import with_includes
    from violet_dial.core.circuit.text import circuit_text

    text = circuit_text(read_given(path, what), path.name)
    if not takes_includes:
        return text
    folder = path.resolve().parent if str(path) != STANDARD_INPUT else Path.cwd()
    return with_includes(text, lambda name: circuit_text(read_file(folder / name, MOST_INCLUDED, "Included file"), name))


def write_file(path: Path, content: bytes, what: str = "File") -> None:
    """Write a file whole or not at all: into a neighbour first, then renamed over.

    Raises InvalidInput: it cannot be written; what stood there before is untouched.
    """
    beside = path.with_name(f".{path.name[:200]}.part")
    try:
        if path.is_dir():
            raise IsADirectoryError(21, "it is a folder")
        beside.unlink(missing_ok=True)
        descriptor = os.open(beside, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, 0o666)
        with open(descriptor, "wb") as out:
            out.write(content)
            out.flush()
            os.fsync(descriptor)
        beside.replace(path)
        sync(path.parent)
    except (OSError, ValueError) as error:
        beside.unlink(missing_ok=True)
        why = getattr(error, "strerror", None) or "no name of a file"
        raise InvalidInput(what, str(path), f"a place that can be written ({why})") from error
