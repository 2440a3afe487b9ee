"""A circuit as wiring between named spots: where each stands on a grid, which parts run between them.

Ground is not drawn as a wire: what goes to ground hangs down from its spot. Columns run from the battery into the
device; pinned spots stay where they were put.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part
from violet_dial.core.circuit.trade import kind_of

BLOCKS = ("block", "regulator")  # drawn between what they answer to and what they give
MOST_COLUMNS = 9  # spots side by side before a circuit goes on in the next line
HANG_ROWS = 0.9  # room a part needs that hangs to ground


@dataclass(frozen=True)
class Place:
    """A spot on the grid."""

    node: str
    column: float
    row: float


@dataclass(frozen=True)
class Run:
    """A part between two spots, or hanging to ground (``end`` None); ``lane`` tells parallel ones apart."""

    part: str
    label: str
    kind: str
    colour: str
    place: str
    start: str
    end: str | None
    lane: int
    of_lanes: int


@dataclass(frozen=True)
class CircuitMap:
    """Everything to draw; ``headings`` name the place in the device over a span of columns (first, last)."""

    places: tuple[Place, ...]
    runs: tuple[Run, ...]
    headings: tuple[tuple[str, float, float], ...]

    @property
    def columns(self) -> float:
        return max((one.column for one in self.places), default=0.0)

    @property
    def rows(self) -> float:
        return max((one.row for one in self.places), default=0.0)


def map_circuit(circuit: Circuit, pinned: Mapping[str, tuple[float, float]], columns: int = MOST_COLUMNS) -> CircuitMap:
    """The map of a circuit; ``pinned`` holds column and row of spots that stay, ``columns`` fit side by side."""
    depth = _depths(circuit)
    rows = _rows(circuit, depth)
    tallest = max(rows.values(), default=0.0)
    folded = {node: _folded(depth[node], rows[node], tallest, columns) for node in circuit.nodes}
    places = tuple(Place(node, *pinned.get(node, folded[node])) for node in circuit.nodes)
    runs = _runs(circuit)
    deepest = max(depth.values(), default=0)
    headings = _headings(circuit, {node: float(depth[node]) for node in circuit.nodes}) if deepest < columns else ()
    return CircuitMap(places, runs, headings)


def _folded(column: int, row: float, tallest: float, columns: int) -> tuple[float, float]:
    """Long circuits go on in a line below, backwards, so that the join between lines is short."""
    line, at = divmod(column, columns)
    return (float(at if line % 2 == 0 else columns - 1 - at), row + line * (tallest + HANG_ROWS + 0.6))


def _hangs(circuit: Circuit, node: str) -> bool:
    """Whether something goes from a spot to ground."""
    return any(
        part.letter != "Q" and node in part.nodes and GROUND in part.nodes and not _watched(circuit, part)
        for part in circuit.parts
    )


def _watched(circuit: Circuit, part: Part) -> str:
    """The spot a block answers to: of those it looks at the one with the fewest parts, a rail having many."""
    looked_at = list(dict.fromkeys(part.expression.nodes)) if part.expression else []
    looked_at = [node for node in looked_at if node not in part.nodes]
    return min(looked_at, key=lambda node: len(circuit.at(node)), default="")


def _links(circuit: Circuit) -> dict[str, list[str]]:
    """Neighbours of each spot over parts, and from what a block looks at to what it gives."""
    found: dict[str, list[str]] = {node: [] for node in circuit.nodes}
    for part in circuit.parts:
        nodes = [node for node in part.nodes if node != GROUND]
        watched = _watched(circuit, part)
        seen = [*nodes, *([watched] if watched else ()), *(part.control if part.letter in "EG" else ())]
        for first in seen:
            for second in nodes:
                if first != second and first in found:
                    found[first].append(second)
                    found[second].append(first)
    return found


def _depths(circuit: Circuit) -> dict[str, int]:
    """Columns: steps from the battery's plus, or from the first source."""
    links = _links(circuit)
    sources = sorted(circuit.parts, key=lambda part: (kind_of(circuit, part) != "battery", part.letter not in "VI"))
    starts = [node for part in sources[:1] for node in part.nodes if node != GROUND]
    depth: dict[str, int] = {}
    for start in [
        *starts[:1],
        *(other for part in sources if part.letter in "VI" for other in part.nodes),
        *circuit.nodes,
    ]:
        if start in depth or start == GROUND:
            continue
        depth[start] = 0
        waiting = [start]
        while waiting:
            node = waiting.pop(0)
            for other in links[node]:
                if other not in depth:
                    depth[other] = depth[node] + 1
                    waiting.append(other)
    return depth


def _rows(circuit: Circuit, depth: dict[str, int]) -> dict[str, float]:
    """Rows: near the neighbours in the column before; what hangs to ground gets room beneath."""
    links = _links(circuit)
    rows: dict[str, float] = {}
    for column in range(max(depth.values(), default=0) + 1):
        here = [node for node in circuit.nodes if depth[node] == column]
        wanted = {node: _mean([rows[other] for other in links[node] if other in rows]) for node in here}
        free = 0.0
        for node in sorted(here, key=lambda one: wanted[one]):
            rows[node] = max(free, wanted[node])
            free = rows[node] + 1.0 + (HANG_ROWS if _hangs(circuit, node) else 0.0)
    return rows


def _mean(values: list[float]) -> float:
    return sum(values) / len(values) if values else 0.0


def part_label(circuit: Circuit, part: Part) -> str:
    """What stands beside a part on the map: its noted name, colour, or designator."""
    note = circuit.note(part.name)
    if "name" in note:
        return note["name"]
    if "colour" in note:
        return f"{note['colour']} {kind_of(circuit, part)}"
    return part.name


def _runs(circuit: Circuit) -> tuple[Run, ...]:
    between: dict[tuple[str, str | None], list[tuple[Part, str, str | None]]] = {}
    for part in circuit.parts:
        live = [node for node in dict.fromkeys(part.nodes) if node != GROUND]
        if not live:
            continue
        start: str
        end: str | None
        if part.letter == "Q":
            collector, base, emitter = part.nodes
            joined = [(base, other) for other in (collector, emitter) if other != base and GROUND not in (base, other)]
            start, end = joined[0] if joined else (live[0], None)
        elif _watched(circuit, part):
            start, end = _watched(circuit, part), live[0]
        else:
            start, end = live[0], live[1] if len(live) > 1 else None
        key = (min(start, end), max(start, end)) if end else (start, None)
        between.setdefault(key, []).append((part, start, end))
    runs = []
    for several in between.values():
        for lane, (part, start, end) in enumerate(several):
            note = circuit.note(part.name)
            label = part_label(circuit, part)
            runs.append(
                Run(
                    part.name,
                    label,
                    kind_of(circuit, part),
                    note.get("colour", ""),
                    note.get("place", ""),
                    start,
                    end,
                    lane,
                    len(several),
                )
            )
    return tuple(runs)


def _headings(circuit: Circuit, column: dict[str, float]) -> tuple[tuple[str, float, float], ...]:
    """Where in the device the parts between columns sit: the commonest place of each, neighbours of one name joined."""
    commonest: dict[int, dict[str, int]] = {}
    for part in circuit.parts:
        place = circuit.note(part.name).get("place", "")
        nodes = [column[node] for node in part.nodes if node in column]
        if place and nodes:
            at = int(min(nodes))
            commonest.setdefault(at, {})
            commonest[at][place] = commonest[at].get(place, 0) + 1
    found: list[tuple[str, float, float]] = []
    for at in sorted(commonest):
        place = max(commonest[at], key=lambda name: commonest[at][name])
        if found and found[-1][0] == place:
            found[-1] = (place, found[-1][1], at + 1.0)
        else:
            found.append((place, float(at), at + 1.0))
    return tuple(found)
