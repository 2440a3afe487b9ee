"""Files asked for, read and written, with the operating system's faults said plainly."""

import os
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from violet_dial.core.errors import InvalidInput


def ask_open(parent: QWidget, title: str, kinds: str) -> Path | None:
    """A file to read, or None when the person thought better of it."""
    name, _ = QFileDialog.getOpenFileName(parent, title, str(Path.home()), kinds)
    return Path(name) if name else None


def ask_open_many(parent: QWidget, title: str, kinds: str) -> list[str]:
    """Files to read; empty when the person thought better of it."""
    names, _ = QFileDialog.getOpenFileNames(parent, title, str(Path.home()), kinds)
    return list(names)


def ask_save(parent: QWidget, title: str, name: str, kinds: str) -> Path | None:
    """A place to write, or None when the person thought better of it."""
    chosen, _ = QFileDialog.getSaveFileName(parent, title, str(Path.home() / name), kinds)
    return Path(chosen) if chosen else None


def read_file(path: Path) -> bytes:
    """Content of a file.

    Raises
    ------
    InvalidInput
        It cannot be read.
    """
    try:
        return path.read_bytes()
    except OSError as error:
        raise InvalidInput("File", str(path), f"a file that can be read ({error.strerror})") from error


def write_file(path: Path, content: bytes) -> None:
    """Write a file whole or not at all: into a neighbour first, then renamed over.

    Raises
    ------
    InvalidInput
        It cannot be written; what stood there before is untouched.
    """
    beside = path.with_name(f".{path.name}.part")
    try:
        with open(beside, "wb") as out:
            out.write(content)
            out.flush()
            os.fsync(out.fileno())
        beside.replace(path)
    except OSError as error:
        beside.unlink(missing_ok=True)
        raise InvalidInput("File", str(path), f"a place that can be written ({error.strerror})") from error
