"""A map alone as a file: JSON of its records, read by the same limits as a job's."""

import json

from pydantic import ValidationError

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Board
from violet_dial.job.records import door

KEY, VERSION = "map_version", 1
MOST_BYTES = 8_000_000
EXPECTED = "a map written by Violet Dial (JSON)"


def write_map(board: Board) -> bytes:
    """A map as JSON, UTF-8."""
    return json.dumps(
        {KEY: VERSION, "board": json.loads(door(Board).dump_json(board))}, ensure_ascii=False, indent=1
    ).encode()


def read_map(data: bytes) -> Board:
    """The map in a file.

    Raises
    ------
    InvalidInput
        Not JSON, too large, a newer version, or a field with a wrong value.
    """
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
        board: Board = door(Board).validate_json(json.dumps(raw.get("board")))
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(one) for one in first["loc"])
        raise InvalidInput(f"Map file, {where or 'board'}", str(first.get("input"))[:60], str(first["msg"])) from error
    return board
