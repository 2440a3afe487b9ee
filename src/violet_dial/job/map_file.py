"""A map alone as a file: JSON of its records, read by the same limits as a job's; or a zip of it with its photos, and with
what anybody can look at."""

import hashlib
import io
import json
import zipfile
from collections.abc import Mapping

from pydantic import ValidationError

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board
from violet_dial.job.archive import MOST_TOTAL_BYTES, member, put, read_zip
from violet_dial.job.records import validator

KEY, VERSION = "map_version", 1
MOST_BYTES = 8_000_000
MEMBER, MOST_PHOTO_BYTES = "map.json", 40_000_000
EXPECTED = "a map written by Violet Dial (JSON)"


def write_map(board: Board) -> bytes:
    """A map as JSON, UTF-8."""
    return json.dumps(
        {KEY: VERSION, "board": json.loads(validator(Board).dump_json(board))}, ensure_ascii=False, indent=1
    ).encode()


def read_map(data: bytes) -> Board:
    """The map in a file. Raises InvalidInput: not JSON, too large, a newer version, or a field with a wrong value."""
    if len(data) > MOST_BYTES:
        raise InvalidInput("Map file", f"{len(data)} bytes", f"at most {MOST_BYTES} bytes")
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise InvalidInput("Map file", data[:40].decode("utf-8", "replace"), EXPECTED) from error
    if not isinstance(raw, dict) or KEY not in raw:
        raise InvalidInput("Map file", type(raw).__name__, EXPECTED)
    if raw[KEY] != VERSION:
        raise InvalidInput("Map version", str(raw[KEY])[:40], f"version {VERSION}; open it with a newer Violet Dial")
    try:
        board: Board = validator(Board).validate_json(json.dumps(raw.get("board")))
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(one) for one in first["loc"])
        raise InvalidInput(f"Map file, {where or 'board'}", str(first.get("input"))[:60], str(first["msg"])) from error
    return board


def write_map_zip(board: Board, members: Mapping[str, bytes], photos: Mapping[str, bytes]) -> bytes:
    """A map as a zip: ``map.json``, what goes with it to be looked at, and its photos by SHA-256."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        put(archive, MEMBER, write_map(board))
        for name, content in members.items():
            put(archive, name, content)
        for sha256, content in photos.items():
            put(archive, f"photos/{sha256}", content)
    return out.getvalue()


def read_map_zip(data: bytes) -> tuple[Board, dict[str, bytes]]:
    """The map in a zip, and the content of those of its photos that are there, by SHA-256.

    Raises InvalidInput: no such zip, a member out of place or too large, a map that cannot be read, a photo that is not what
    its name says.
    """
    return read_zip(data, "Map", "a map written by Violet Dial (a zip file)", _read_zip)


def _read_zip(archive: zipfile.ZipFile, names: set[str]) -> tuple[Board, dict[str, bytes]]:
    if MEMBER not in names:
        raise InvalidInput("Map", f"a zip without {MEMBER}", "a map written by Violet Dial (a zip file)")
    board = read_map(member(archive, MEMBER, MOST_BYTES, "Map"))
    photos: dict[str, bytes] = {}
    for ground in board.grounds:
        name = f"photos/{ground.photo}"
        if name not in names or ground.photo in photos:
            continue
        content = member(archive, name, MOST_PHOTO_BYTES, "Map")
        if hashlib.sha256(content).hexdigest() != ground.photo or sum(map(len, photos.values())) > MOST_TOTAL_BYTES:
            raise InvalidInput("Map", name, "a photo whose content matches its name, in bounded size")
        photos[ground.photo] = content
    return board, photos
