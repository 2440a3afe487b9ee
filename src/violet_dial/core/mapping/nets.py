"""Which spots hang together by leads, whichever doubts are the truth: nets, where two of them may touch, and the joins."""

import itertools
import math

import numpy as np
import numpy.typing as npt

from violet_dial.core.mapping.board import Board, key_of
from violet_dial.core.mapping.cuts import Join
from violet_dial.core.mapping.doubts import Doubt
from violet_dial.core.mapping.neighbours import groups_of
from violet_dial.core.mapping.taken import is_whole

Array = npt.NDArray[np.float64]
Rows = npt.NDArray[np.intp]


class Nets:
    """Which spots leads join, by number, whichever doubts are the truth."""

    def __init__(self, board: Board, doubts: tuple[Doubt, ...], first: list[int]) -> None:
        """``first`` of the doubts of each place."""
        self._keys = [key_of(one.name) for one in board.spots]
        self._row = row = {key: n for n, key in enumerate(self._keys)}
        self._doubts = doubts
        self.ends = {n: (row[key_of(doubts[n].a)], row[key_of(doubts[n].b)]) for n in first}
        self._leads = [
            (item.name, row[key_of(item.spots[0])], row[key_of(item.spots[1])])
            for item in board.items
            if is_whole(item)
        ]
        self._touching = [n for n in first if doubts[n].what == "touching"]
        self._start: dict[object, int] = {_place(doubts[n]): n for n in first}

    def start_of(self, doubt: Doubt) -> int | None:
        """The first doubt about the place of a doubt, if it is one of these."""
        return self._start.get(_place(doubt))

    def row(self, name: str) -> int:
        """The place of a spot."""
        return self._row[key_of(name)]

    def joins(self, turned: frozenset[int], change: Array) -> list[Join]:
        """Leads that are whole, each known by the doubt that it is missing; and what touches, known by that doubt."""
        cut = {self._doubts[n].item for n in turned if self._doubts[n].item}
        ends = [(one, other, self._start.get(name, -1)) for name, one, other in self._leads if name not in cut]
        ends += [(*self.ends[n], n) for n in turned if self._doubts[n].what == "touching"]
        return [Join(one, other, n, math.inf if n < 0 else max(-float(change[n]), 0.1)) for one, other, n in ends]

    def numbers(self, turned: frozenset[int]) -> list[int]:
        """The net of each spot, in the order of the board's spots."""
        cut = {self._doubts[n].item for n in turned if self._doubts[n].item}
        joins = [self.ends[n] for n in turned if self._doubts[n].what == "touching"]
        joins += [(one, other) for name, one, other in self._leads if name not in cut]
        found = groups_of(list(range(len(self._keys))), joins)
        return list(found.values())

    def by_key(self, turned: frozenset[int]) -> dict[str, int]:
        """The net of each spot, by its key."""
        return dict(zip(self._keys, self.numbers(turned), strict=True))

    def places(self, turned: frozenset[int]) -> dict[tuple[int, int], list[int]]:
        """Where each two nets may touch: places of doubts by the numbers of both nets, the lower first."""
        nets = self.numbers(turned)
        found: dict[tuple[int, int], list[int]] = {}
        for n in self._touching:
            one, other = nets[self.ends[n][0]], nets[self.ends[n][1]]
            if one != other and n not in turned:
                found.setdefault((min(one, other), max(one, other)), []).append(n)
        return found


def _place(doubt: Doubt) -> object:
    return doubt.item or (doubt.a, doubt.b)


def through(first: dict[tuple[int, int], int], nets: Nets, turned: frozenset[int]) -> Rows:
    """Two nets with a third between, (k, 4): a doubt and its outer side (0 or 1), and the same of the other."""
    number = nets.numbers(turned)
    around: dict[int, list[tuple[int, int]]] = {}
    for n in first.values():
        for side in (0, 1):
            around.setdefault(number[nets.ends[n][1 - side]], []).append((n, side))
    pairs = [(*one, *other) for several in around.values() for one, other in itertools.combinations(several, 2)]
    return np.array(pairs, dtype=np.intp).reshape(-1, 4)
