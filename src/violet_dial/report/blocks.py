"""Paper as a list of blocks: every word and figure decided by the stations, painted alike as PDF and as HTML."""

from dataclasses import dataclass
from enum import IntEnum
from typing import Literal, TypeAlias

from violet_dial.report.dial import Dial, MarkState

SIGNS: dict[MarkState, str] = {"inside": "●", "high": "▲", "low": "▼", "undecided": "◐", "empty": "○"}


Size = Literal["A4", "Letter", "A4 card", "Letter card"]  # a card is a third of a page
SIZES: tuple[Size, ...] = ("A4", "Letter")


NOT_SIGNED = "Not signed: a draft"


class SheetPlace(IntEnum):
    """Where a section stands on the sheet; of equals, in the order of the work."""

    FOUND = 1
    DONE = 2
    MEASURED = 3
    BATTERY = 4
    PROOF = 5
    LEFT = 6
    CARE = 7


@dataclass(frozen=True)
class Words:
    """One paragraph in one of the styles of paper; a head stays with what follows it."""

    text: str
    style: Literal["text", "quiet", "title", "head"] = "text"
    place: SheetPlace = SheetPlace.MEASURED  # of the section that a head begins
    kind: Literal["words"] = "words"


@dataclass(frozen=True)
class SheetVerdict:
    """The one thing the reader must see, with its reason."""

    headline: str
    text: str
    kind: Literal["verdict"] = "verdict"


@dataclass(frozen=True)
class Pairs:
    """Labels with their texts."""

    rows: tuple[tuple[str, str], ...]
    kind: Literal["pairs"] = "pairs"


@dataclass(frozen=True)
class Lines:
    """A list of sentences."""

    items: tuple[str, ...]
    kind: Literal["lines"] = "lines"


@dataclass(frozen=True)
class Grid:
    """A table; ``states`` gives each row the shape and colour of its cell in column ``state_at``.

    ``widths`` are shares of the page; columns before ``words_from`` hold figures.
    """

    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    widths: tuple[float, ...]
    states: tuple[MarkState, ...] = ()
    state_at: int = -1
    words_from: int = 0
    kind: Literal["grid"] = "grid"


@dataclass(frozen=True)
class Picture:
    """A dial."""

    dial: Dial
    title: str
    kind: Literal["picture"] = "picture"


@dataclass(frozen=True)
class Drawing:
    """A drawing as SVG (see `report.shapes`), what it shows in words, and how much of the page's width it takes."""

    svg: str
    title: str
    share: float = 1.0
    kind: Literal["drawing"] = "drawing"


@dataclass(frozen=True)
class Tick:
    """One line to tick: how many boxes, what, and what to mind; ``stop`` is a test before going on."""

    boxes: int
    what: str
    mind: str
    tray: str = ""
    stop: bool = False


@dataclass(frozen=True)
class Ticks:
    """Lines to tick at the bench."""

    rows: tuple[Tick, ...]
    kind: Literal["ticks"] = "ticks"


@dataclass(frozen=True)
class Signature:
    """Where it is signed."""

    by: str
    on: str
    kind: Literal["signature"] = "signature"


Block: TypeAlias = Words | SheetVerdict | Pairs | Lines | Grid | Picture | Drawing | Ticks | Signature


@dataclass(frozen=True)
class Paper:
    """Something to print: what its pages are headed with, who wrote it, and its blocks from top to bottom."""

    title: str
    number: str
    author: str
    blocks: tuple[Block, ...]
    size: Size = "A4"


def present(*pairs: tuple[str, str]) -> tuple[tuple[str, str], ...]:
    """The pairs that say something."""
    return tuple((label, text) for label, text in pairs if text.strip())


def section(head: str, *blocks: Block, place: SheetPlace = SheetPlace.MEASURED) -> tuple[Block, ...]:
    """Blocks under a head; nothing at all when none of them says anything."""
    said = tuple(block for block in blocks if _says_something(block))
    return (Words(head, "head", place), *said) if said else ()


def _says_something(block: Block) -> bool:
    if isinstance(block, (Pairs, Grid, Ticks)):
        return bool(block.rows)
    return bool(block.items) if isinstance(block, Lines) else True


@dataclass(frozen=True)
class RowsShown:
    """A page of words: headline, reason, heads and rows with their marks, a line under them."""

    headline: str
    reason: str
    heads: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()
    marks: tuple[MarkState, ...] = ()
    under: str = ""
