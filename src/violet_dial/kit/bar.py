"""The reading bar as a page sees it: fields to be typed in, what was understood of them, and whether Take works."""

from dataclasses import dataclass
from typing import Protocol


@dataclass(frozen=True)
class BarField:
    """One field: its key, what it is called, what was understood, whether that is wrong.

    With ``choices`` it is a choice of a few (its value is the text chosen), ``editable`` also of anything typed.
    """

    key: str
    label: str
    name: str  # for a screen reader
    said: str = ""
    wrong: bool = False
    choices: tuple[str, ...] = ()
    editable: bool = False


@dataclass(frozen=True)
class BarState:
    """The fields of the station in view, and whether what was typed may be taken."""

    fields: tuple[BarField, ...]
    ready: bool = False


class Bar(Protocol):
    """What a page may do with the bar."""

    def value(self, key: str) -> str:
        """What stands in a field; empty when the field is not there."""

    def put(self, key: str, text: str) -> None:
        """Put a text into a field."""

    def show_bar(self, state: BarState | None) -> None:
        """Draw fields; None when the station in view has none."""

    def focus_field(self, key: str) -> None:
        """The keys to a field, its text chosen."""
