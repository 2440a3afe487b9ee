"""A map traced without papers beside the device as it is: which joins are there, which are not, which are missing."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from violet_dial.core.mapping.board import Board, Item, node_of
from violet_dial.core.mapping.from_spice import board_from_spice

Join = frozenset[str]  # the spots that one thing is between


@dataclass(frozen=True)
class Traced:
    """Joins by their spots in words: traced and there, traced and not there, not traced."""

    right: tuple[str, ...]
    wrong: tuple[str, ...]
    missing: tuple[str, ...]

    @property
    def words(self) -> str:
        """All of it in a sentence; empty where nothing was traced."""
        if not self.right and not self.wrong:
            return ""
        wrong = f", {len(self.wrong)} that {'is' if len(self.wrong) == 1 else 'are'} not there" if self.wrong else ""
        return f"Of {len(self.right) + len(self.missing)} joins {len(self.right)} were traced{wrong}."


def traced(board: Board, text: str) -> Traced:
    """What of a map is right: a thing between the same spots as one of the device, each of them once, whatever it is taken for.

    ``text``: the device's circuit, SPICE with notes. Raises InvalidInput: the circuit cannot be read.
    """
    own, true = _joins(board.items), _joins(board_from_spice(text).items)
    return Traced(_said(own & true), _said(own - true), _said(true - own))


def _joins(items: Iterable[Item]) -> Counter[Join]:
    every = (frozenset(node_of(spot) for spot in item.spots) for item in items)
    return Counter(one for one in every if len(one) > 1)


def _said(joins: Counter[Join]) -> tuple[str, ...]:
    every = (
        " to ".join("gnd" if spot == "0" else spot for spot in sorted(element, key=lambda spot: (spot == "0", spot)))
        for element in joins.elements()
    )
    return tuple(sorted(every))
