"""Results as plain data: what commands print."""

import json
from pathlib import Path

from violet_dial.core.errors import InvalidInput

MOST_FILE_BYTES = 400_000_000


def as_json(data: dict[str, object]) -> str:
    """Plain data as JSON text without NaN or infinity."""
    return json.dumps(data, indent=2, ensure_ascii=False, allow_nan=False)


def read_path(path: Path) -> bytes:
    """Content of a file named on the command line.

    Raises
    ------
    InvalidInput
        It cannot be read, or is too large to be anything that is read here.
    """
    try:
        size = path.stat().st_size
        if size > MOST_FILE_BYTES:
            raise InvalidInput("File", f"{path}, {size} bytes", f"at most {MOST_FILE_BYTES} bytes")
        with open(path, "rb") as stream:
            return stream.read(MOST_FILE_BYTES)
    except OSError as error:
        raise InvalidInput("File", str(path), f"a file that can be read ({error.strerror})") from error
