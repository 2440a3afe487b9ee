"""A circuit as a drawing: the supply's rail straight along the top, the chassis straight along the bottom, from left to right
into the device, parts between.

Places are in columns and rows. Pinned spots stay where they were put; what goes to them is drawn straight.
"""

import itertools
from collections.abc import Mapping
from dataclasses import dataclass

from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.mapping.layered import BoardRun, Layers, layered, runs_of, starts_of
from violet_dial.core.mapping.wiring import Point, Wiring
from violet_dial.core.records.circuit import LEADS

LEAST_AT_RAIL = 4  # parts at a point of the supply, from which it is drawn as a rail
SOURCES = ("battery", "supply", "source", "photocell")
FOOT = 1.15  # rows from the lowest spot to the chassis


@dataclass(frozen=True)
class DrawnPlace:
    """A spot on the drawing, in columns and rows."""

    node: str
    x: float
    y: float


@dataclass(frozen=True)
class Rail:
    """A straight line that is one point of the circuit: the supply's, and the chassis (node 0)."""

    node: str
    y: float
    first: float
    last: float


@dataclass(frozen=True)
class Wire:
    """A part with its line, corner by corner, and where its mark stands; ``end`` None for the chassis."""

    part: str
    label: str
    kind: str
    colour: str
    place: str
    start: str
    end: str | None
    points: tuple[Point, ...]
    mark: Point
    is_block: bool = False

    @property
    def is_upright(self) -> bool:
        """Whether the line runs up and down where its mark stands."""
        x, y = self.mark
        return any(a[0] == b[0] == x and min(a[1], b[1]) <= y <= max(a[1], b[1]) for a, b in itertools.pairwise(self.points))


@dataclass(frozen=True)
class BoardDrawing:
    """Everything to draw; ``headings`` name the place in the device over a span of columns (first, last)."""

    places: tuple[DrawnPlace, ...] = ()
    rails: tuple[Rail, ...] = ()
    wires: tuple[Wire, ...] = ()
    headings: tuple[tuple[str, float, float], ...] = ()

    @property
    def wide(self) -> float:
        """Columns it takes."""
        xs = [x for wire in self.wires for x, _ in wire.points]
        return max([*xs, *(place.x for place in self.places), *(rail.last for rail in self.rails)], default=0.0)

    @property
    def tall(self) -> float:
        """Rows it takes."""
        ys = [y for wire in self.wires for _, y in wire.points]
        return max([*ys, *(place.y for place in self.places), *(rail.y for rail in self.rails)], default=0.0)


def drawn(circuit: Circuit, pinned: Mapping[str, tuple[float, float]] | None = None) -> BoardDrawing:
    """The drawing of a circuit."""
    runs = runs_of(circuit)
    rail = _rail(circuit, runs)
    blocks = _blocks(circuit, runs, rail)
    laid = [_laid(block, runs, rail) for block in blocks]
    lowest = max((row for one in laid for spot, row in one.row.items()), default=0.0) + (0.0 if rail is None else 1.0)
    wiring = Wiring(runs, rail, lowest + FOOT)
    for n, one in enumerate(laid):
        is_supply = rail is not None and n == 0 and bool(blocks[0])
        if is_supply or rail is None:
            wiring.add_block(one, 0.0)
        else:
            wiring.begin_rail()
            if n == 0:  # the supply is the rail itself
                wiring.add_straight(SOURCES)
            wiring.add_block(one, 1.0)
        if is_supply:
            wiring.begin_rail()
    wiring.begin_rail()
    wiring.add_straight()
    wiring.end_rail()
    return _drawing(circuit, wiring, dict(pinned or {}))


def _rail(circuit: Circuit, runs: tuple[BoardRun, ...]) -> str | None:
    """The point of the supply with the most parts, reached from it by leads and switches alone; None where none has many."""
    reached, waiting = set(), list(starts_of(circuit)[:1])
    while waiting:
        node = waiting.pop()
        if node in reached:
            continue
        reached.add(node)
        for run in runs:
            ends = (run.start, run.end)
            if node in ends and run.kind in (*LEADS, "switch", "fuse", "regulator"):
                waiting += [other for other in ends if other is not None and other != node]
    count = {node: sum(node in (run.start, run.end) for run in runs) for node in sorted(reached)}
    best = max(count, key=lambda node: count[node], default=None)
    return best if best is not None and count[best] >= LEAST_AT_RAIL else None


def _blocks(circuit: Circuit, runs: tuple[BoardRun, ...], rail: str | None) -> list[list[str]]:
    """Nodes that hang together without the rail; those of the supply first."""
    beside: dict[str, list[str]] = {node: [] for node in circuit.nodes}
    for run in runs:
        if run.end is not None and rail not in (run.start, run.end):
            beside[run.start].append(run.end)
            beside[run.end].append(run.start)
    found: list[list[str]] = []
    seen = {rail}
    first = starts_of(circuit)[:1]
    at_rail = [other for run in runs if rail in (run.start, run.end) for other in (run.start, run.end) if other]
    if rail is not None and first and first[0] == rail:
        found.append([])  # the supply is the rail itself
    for start in (*first, *at_rail, *circuit.nodes):
        if start in seen:
            continue
        block, waiting = [], [start]
        while waiting:
            node = waiting.pop(0)
            if node not in seen:
                seen.add(node)
                block.append(node)
                waiting += beside[node]
        found.append(block)
    return found


def _laid(block: list[str], runs: tuple[BoardRun, ...], rail: str | None) -> Layers:
    """Columns and rows of a block: it begins where the supply is, or where it hangs on the rail."""
    here = set(block)
    lines = [(run.start, run.end) for run in runs if run.end is not None and run.start in here and run.end in here]
    at_rail = {end for run in runs if rail in (run.start, run.end) for end in (run.start, run.end) if end in here}
    if not block:
        return Layers([])
    starts = block[:1]
    main = _way(block[0], {one for one in at_rail if one}, lines) if at_rail else ()
    return layered(block, lines, starts, main)


def _way(start: str, goals: set[str], lines: list[tuple[str, str]]) -> tuple[str, ...]:
    """The shortest way from a node to one that hangs on the rail."""
    before: dict[str, str] = {start: ""}
    waiting = [start]
    while waiting:
        node = waiting.pop(0)
        if node in goals:
            way = [node]
            while before[way[-1]]:
                way.append(before[way[-1]])
            return tuple(way)
        for one, other in lines:
            for here, there in ((one, other), (other, one)):
                if here == node and there not in before:
                    before[there] = node
                    waiting.append(there)
    return ()


def _drawing(circuit: Circuit, wiring: Wiring, pinned: dict[str, tuple[float, float]]) -> BoardDrawing:
    at = {**wiring.at, **{node: place for node, place in pinned.items() if node in circuit.nodes}}
    places = tuple(DrawnPlace(node, *at[node]) for node in circuit.nodes if node in at)
    lines: dict[str, tuple[Point, ...]] = {}
    for run in wiring.runs:
        lines[run.part] = wiring.points[run.part]
        if run.start in pinned or run.end in pinned:
            x, y = at[run.start]
            lines[run.part] = ((x, y), at[run.end] if run.end is not None else (x, wiring.foot))
    marks = _marks(lines)
    wires = [
        Wire(run.part, run.label, run.kind, run.colour, run.place, run.start, run.end, lines[run.part], marks[run.part],
             run.is_block)
        for run in wiring.runs
    ]  # fmt: skip
    foot = [x for wire in wires if wire.end is None for x in (wire.points[-1][0],)]
    rails = [Rail(GROUND, wiring.foot, min(foot), max(foot))] if foot else []
    if wiring.rail is not None and wiring.rail not in pinned:
        rails.insert(0, Rail(wiring.rail, 0.0, wiring.rail_first, max(wiring.rail_last, wiring.rail_first + 0.6)))
    return BoardDrawing(places, tuple(rails), tuple(wires), _headings(wires))


def _marks(lines: dict[str, tuple[Point, ...]]) -> dict[str, Point]:
    """Where the mark of each part stands on its line: in the middle of its longest stretch, or where others leave room."""
    found: dict[str, Point] = {}
    for part in sorted(lines, key=lambda name: _length(lines[name])):
        best, least = lines[part][0], float("inf")
        for one, other in zip(lines[part], lines[part][1:], strict=False):
            size = abs(other[0] - one[0]) + abs(other[1] - one[1])
            for share in (0.5, 0.35, 0.65, 0.2, 0.8):
                at = one[0] + share * (other[0] - one[0]), one[1] + share * (other[1] - one[1])
                near = min((abs(at[0] - x) + 1.3 * abs(at[1] - y) for x, y in found.values()), default=9.0)
                cost = 2.0 * max(0.75 - near, 0.0) + 0.25 * abs(share - 0.5) - 0.3 * min(size, 1.5)
                if cost < least:
                    best, least = at, cost
        found[part] = best
    return found


def _length(points: tuple[Point, ...]) -> float:
    return sum(abs(b[0] - a[0]) + abs(b[1] - a[1]) for a, b in itertools.pairwise(points))


def _headings(wires: list[Wire]) -> tuple[tuple[str, float, float], ...]:
    """Where in the device the parts of each column sit: the commonest place of each, neighbours of one name joined."""
    commonest: dict[int, dict[str, int]] = {}
    for wire in wires:
        if wire.place:
            at = commonest.setdefault(int(wire.mark[0]), {})
            at[wire.place] = at.get(wire.place, 0) + 1
    found: list[tuple[str, float, float]] = []
    for at_x in sorted(commonest):
        place = max(commonest[at_x], key=lambda name: commonest[at_x][name])
        if found and found[-1][0] == place:
            found[-1] = (place, found[-1][1], at_x + 1.0)
        else:
            found.append((place, float(at_x), at_x + 1.0))
    return tuple(found)
