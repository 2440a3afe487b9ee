"""Nodes in columns from where the current comes in, each column in the order that makes fewest lines cross.

Source: Layered drawing: columns by breadth, order by barycentres, long lines through empty places (Sugiyama, Tagawa and Toda,
IEEE Trans. SMC 11, 1981) [memory].
"""

import itertools
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field

SWEEPS = 8
NODE_ROOM, LINE_ROOM = 1.0, 0.6  # rows that a node and a line passing through take
Spot = Hashable  # a node's name, or a place that a long line passes through


@dataclass
class Layers:
    """Columns of nodes, and rows; ``through`` the places that each long line passes through, by the place of the line."""

    columns: list[list[Spot]]
    row: dict[Spot, float] = field(default_factory=dict)
    through: dict[int, list[Spot]] = field(default_factory=dict)

    def column(self) -> dict[Spot, int]:
        """The column of each."""
        return {spot: n for n, several in enumerate(self.columns) for spot in several}


def layered(nodes: Sequence[str], lines: Sequence[tuple[str, str]], starts: Sequence[str], first: Sequence[str] = ()) -> Layers:
    """Columns and rows of nodes that lines join. ``first``: kept on the first row of their columns: the main way."""
    depth = _depths(nodes, lines, starts)
    columns: list[list[Spot]] = [[] for _ in range(max(depth.values(), default=0) + 1)]
    for node in sorted(nodes, key=lambda node: node not in first):
        columns[depth[node]].append(node)
    found = Layers(columns)
    beside: dict[Spot, list[Spot]] = {}
    for place, (one, other) in enumerate(lines):
        low, high = sorted((one, other), key=lambda node: depth[node])
        chain: list[Spot] = [low]
        for column in range(depth[low] + 1, depth[high]):
            spot = (place, column)
            columns[column].append(spot)
            chain.append(spot)
        found.through[place] = chain[1:]
        chain.append(high)
        for a, b in itertools.pairwise(chain):
            beside.setdefault(a, []).append(b)
            beside.setdefault(b, []).append(a)
    _ordered(found, beside, frozenset(first))
    _rows(found, beside)
    return found


def _depths(nodes: Sequence[str], lines: Sequence[tuple[str, str]], starts: Sequence[str]) -> dict[str, int]:
    beside: dict[str, list[str]] = {node: [] for node in nodes}
    for one, other in lines:
        beside[one].append(other)
        beside[other].append(one)
    depth: dict[str, int] = {}
    for several in (list(starts), *([node] for node in nodes)):
        waiting = [node for node in several if node not in depth]
        depth |= dict.fromkeys(waiting, 0)
        while waiting:
            node = waiting.pop(0)
            for other in beside[node]:
                if other not in depth:
                    depth[other] = depth[node] + 1
                    waiting.append(other)
    return depth


def _ordered(layers: Layers, beside: dict[Spot, list[Spot]], first: frozenset[str]) -> None:
    """Each column in the order of the middle of what its spots are joined to, to and fro; the best of all is kept."""
    best, least = [list(column) for column in layers.columns], _crossings(layers.columns, beside)
    for sweep in range(SWEEPS):
        count = len(layers.columns)
        order = range(1, count) if sweep % 2 == 0 else range(count - 2, -1, -1)
        for n in order:
            before = layers.columns[n - 1 if sweep % 2 == 0 else n + 1]
            at = {spot: place for place, spot in enumerate(before)}
            here = {spot: place for place, spot in enumerate(layers.columns[n])}

            def middle(spot: Spot, at: dict[Spot, int] = at, here: dict[Spot, int] = here) -> tuple[bool, float]:
                places = [at[other] for other in beside.get(spot, ()) if other in at]
                return spot not in first, sum(places) / len(places) if places else here[spot]

            layers.columns[n].sort(key=middle)
        crossed = _crossings(layers.columns, beside)
        if crossed < least:
            best, least = [list(column) for column in layers.columns], crossed
        if least == 0:
            break
    layers.columns = best


def _crossings(columns: list[list[Spot]], beside: dict[Spot, list[Spot]]) -> int:
    """How many lines between neighbouring columns cross."""
    count = 0
    for one, other in itertools.pairwise(columns):
        at = {spot: place for place, spot in enumerate(other)}
        ends = [sorted(at[b] for b in beside.get(a, ()) if b in at) for a in one]
        for n, mine in enumerate(ends):
            for theirs in ends[n + 1 :]:
                count += sum(b < a for a in mine for b in theirs)
    return count


def _rows(layers: Layers, beside: dict[Spot, list[Spot]]) -> None:
    """Rows: near what a spot is joined to in the column before, in the order found."""
    for column in layers.columns:
        free = 0.0
        for spot in column:
            known = [layers.row[other] for other in beside.get(spot, ()) if other in layers.row and other not in column]
            wanted = sum(known) / len(known) if known else 0.0
            layers.row[spot] = max(free, round(wanted * 2) / 2)
            free = layers.row[spot] + (NODE_ROOM if isinstance(spot, str) else LINE_ROOM)
