"""What a line in bench words says."""

from dataclasses import dataclass

from violet_dial.core.mapping.board import Fact, Item, SolderPoint, Touch


@dataclass(frozen=True)
class Said:
    """What a line says: something on the board, a spot, something known of a box, or a touch; in ``words``."""

    words: str
    item: Item | None = None
    spot: SolderPoint | None = None
    fact: Fact | None = None
    touch: Touch | None = None
