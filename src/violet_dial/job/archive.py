"""Zip files in and out: the same bytes for the same content; read within bounds, nothing written anywhere."""

import io
import zipfile
from collections.abc import Callable
from typing import TypeVar

from violet_dial.core.errors import InvalidInput

MOST_MEMBERS = 700
MOST_TOTAL_BYTES = 400_000_000
_FIXED_DATE = (1980, 1, 1, 0, 0, 0)  # so that the same content gives the same bytes
_CHUNK = 1 << 20
Found = TypeVar("Found")


def put(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    """A member."""
    info = zipfile.ZipInfo(name, _FIXED_DATE)
    info.compress_type = zipfile.ZIP_DEFLATED
    archive.writestr(info, data)


def read_zip(data: bytes, what: str, expected: str, read: Callable[[zipfile.ZipFile, set[str]], Found]) -> Found:
    """What ``read`` finds in a zip, given its members' names.

    Raises InvalidInput: too large, damaged, too many members, one out of place or two of one name.
    """
    if len(data) > MOST_TOTAL_BYTES:
        raise InvalidInput(what, f"{len(data)} bytes", f"at most {MOST_TOTAL_BYTES} bytes")
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return read(archive, _names(archive, what))
    except InvalidInput:
        raise
    except (zipfile.BadZipFile, EOFError, OSError, ValueError, RuntimeError, NotImplementedError) as error:
        raise InvalidInput(what, str(error) or "damaged data", expected) from error
    except Exception as error:  # zlib.error and struct.error are raised bare by zipfile on hostile data
        if type(error).__module__ not in ("zlib", "struct", "lzma", "builtins"):
            raise
        raise InvalidInput(what, "damaged data", expected) from error


def _names(archive: zipfile.ZipFile, what: str) -> set[str]:
    members = archive.infolist()
    if len(members) > MOST_MEMBERS:
        raise InvalidInput(what, f"{len(members)} members", f"at most {MOST_MEMBERS}")
    for member in members:
        stem = member.filename.removeprefix("photos/")
        if member.filename.startswith("/") or "\\" in member.filename or ".." in member.filename or "/" in stem.rstrip("/"):
            raise InvalidInput(what, member.filename, "members named job.json, NAME.csv, circuit.cir or photos/…")
    names = {member.filename for member in members}
    if len(names) != len(members):
        raise InvalidInput(what, "two members of one name", "each member once")
    return names


def member(archive: zipfile.ZipFile, name: str, most: int, what: str) -> bytes:
    """Content of one member, read in pieces so that a lying size cannot fill the memory.

    Raises InvalidInput: more than ``most`` bytes.
    """
    pieces: list[bytes] = []
    size = 0
    with archive.open(name) as stream:
        while piece := stream.read(_CHUNK):
            size += len(piece)
            if size > most:
                raise InvalidInput(what, f"{name}: more than {most} bytes", f"at most {most} bytes")
            pieces.append(piece)
    return b"".join(pieces)
