"""Parts as lines to be drawn, each between two points or from one to the chassis; nodes in columns from where the current
comes in, each column in the order that makes fewest lines cross.

Source: Layered drawing: columns by breadth, order by barycentres, long lines through empty places (Sugiyama, Tagawa and Toda,
IEEE Trans. SMC 11, 1981) [memory].
"""

import itertools
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part
from violet_dial.core.circuit.trade import kind_of

BLOCKS = ("block", "regulator")  # drawn between what they answer to and what they give
AIR_OHM = 9e8  # insulation that holds a spot nothing is joined to: not drawn


@dataclass(frozen=True)
class BoardRun:
    """A part between two points; ``end`` None for the chassis."""

    part: str
    label: str
    kind: str
    colour: str
    place: str
    start: str
    end: str | None

    @property
    def is_block(self) -> bool:
        """Whether it looks at its first point, and no current flows from there."""
        return self.kind in BLOCKS and self.end is not None


def part_label(circuit: Circuit, part: Part) -> str:
    """What stands beside a part on the drawing: its noted name, colour, or designator."""
    note = circuit.note(part.name)
    if "name" in note:
        return note["name"]
    if "colour" in note:
        return f"{note['colour']} {kind_of(circuit, part)}"
    return part.name


def runs_of(circuit: Circuit) -> tuple[BoardRun, ...]:
    """Every part that is drawn, in the order of the circuit."""
    found = []
    for part in circuit.parts:
        live = [node for node in dict.fromkeys(part.nodes) if node != GROUND]
        note = circuit.note(part.name)
        if not live or (part.letter == "R" and part.value > AIR_OHM and note.get("healthy_always")):
            continue
        start, end = _ends(circuit, part, live)
        found.append(
            BoardRun(part.name, part_label(circuit, part), kind_of(circuit, part), note.get("colour", ""),
                note.get("place", ""), start, end)
        )  # fmt: skip
    return tuple(found)


def _ends(circuit: Circuit, part: Part, live: list[str]) -> tuple[str, str | None]:
    if part.letter == "Q":
        collector, base, emitter = part.nodes
        joined = [(base, other) for other in (collector, emitter) if other != base and GROUND not in (base, other)]
        return joined[0] if joined else (live[0], None)
    looks_at = watched(circuit, part)
    if looks_at:
        return looks_at, live[0]
    return live[0], live[1] if len(live) > 1 else None


def watched(circuit: Circuit, part: Part) -> str:
    """The point a block answers to: of those it looks at the one with the fewest parts, a rail having many."""
    looked_at = list(dict.fromkeys(part.expression.nodes)) if part.expression else []
    looked_at = [node for node in looked_at if node not in part.nodes and node != GROUND]
    return min(looked_at, key=lambda node: len(circuit.at(node)), default="")


def starts_of(circuit: Circuit) -> list[str]:
    """Where the current comes in: the battery's plus, or the first source; then all others."""
    sources = sorted(circuit.parts, key=lambda part: (kind_of(circuit, part) != "battery", part.letter not in "VI"))
    first = [node for part in sources if part.letter in "VI" for node in part.nodes if node != GROUND]
    return list(dict.fromkeys([*first, *circuit.nodes]))


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
