"""Lines of a drawing, corner by corner: along rows between columns, straight up to the rail, straight down to the chassis;
side by side where two would lie on each other."""

import itertools
from dataclasses import dataclass, field

from violet_dial.core.mapping.layered import BoardRun, Layers, Spot

Point = tuple[float, float]
SIDE = 0.62  # columns between lines that go up or down side by side
APART = 0.34  # rows between lines that run side by side
BEND = 0.2  # columns from a column to where a line turns


@dataclass
class Column:
    """A column at ``x``: the stretches of rows that each line beside it takes, and whether its own line is taken above the
    highest and below the lowest spot."""

    x: float
    spots: list[Spot]
    sides: list[list[tuple[float, float]]] = field(default_factory=list)
    own: list[tuple[float, float]] = field(default_factory=list)

    def lane(self, first: float, last: float, straight: bool) -> float:
        """The x of a free line from one row to another; the column's own where that may be taken."""
        low, high = min(first, last), max(first, last)
        if straight and _is_free(self.own, low, high):
            self.own.append((low, high))
            return self.x
        for n, taken in enumerate(self.sides):
            if _is_free(taken, low, high):
                taken.append((low, high))
                return self.x + SIDE * (n + 1)
        self.sides.append([(low, high)])
        return self.x + SIDE * len(self.sides)


def _is_free(taken: list[tuple[float, float]], low: float, high: float) -> bool:
    return all(high <= one or low >= other for one, other in taken)


class Wiring:
    """Places of spots and lines of parts, block by block from left to right."""

    def __init__(self, runs: tuple[BoardRun, ...], rail: str | None, foot: float) -> None:
        self.runs, self.rail, self.foot = runs, rail, foot
        self.at: dict[str, Point] = {}
        self.points: dict[str, tuple[Point, ...]] = {}
        self.rail_first = self.rail_last = 0.0
        self._cursor = 0.0
        self._begun = False
        self._taken: dict[tuple[float, float], list[float]] = {}  # between two columns: rows of lines

    def begin_rail(self) -> None:
        """The rail begins here."""
        if not self._begun and self.rail is not None:
            self._begun = True
            self.rail_first = self.rail_last = self._cursor
            self.at[self.rail] = (self._cursor, 0.0)

    def add_block(self, layers: Layers, down: float) -> None:
        """A block to the right of what there is, ``down`` rows below the rail."""
        if not layers.columns:
            return
        column = layers.column()
        nodes = [spot for spot in column if isinstance(spot, str)]
        here = set(nodes)
        rows = {spot: row + down for spot, row in layers.row.items()}
        columns = [Column(0.0, sorted(several, key=lambda spot: rows[spot])) for several in layers.columns]
        inner = [run for run in self.runs if run.end is not None and run.start in here and run.end in here]
        self._sides(columns, column, rows, here, inner)
        for one in columns:
            one.x, one.own, sides = self._cursor, [], len(one.sides)
            one.sides = []
            self._cursor += max(1.0, 0.45 + SIDE * sides + 0.45)
        for node in nodes:
            self.at[node] = (columns[column[node]].x, rows[node])
        self._sides(columns, column, rows, here, inner)
        self._across(layers, columns, column, rows, inner)

    def _sides(
        self, columns: list[Column], column: dict[Spot, int], rows: dict[Spot, float], here: set[str], inner: list[BoardRun]
    ) -> None:
        """Lines up to the rail, down to the chassis, and within a column."""
        for run in inner:
            if run.end is not None and column[run.start] == column[run.end]:
                self._within(columns[column[run.start]], run, rows)
        for run in self.runs:
            ends = {run.start, run.end}
            node = next((end for end in ends if end in here), None)
            if node is None or run in inner:
                continue
            one, y = columns[column[node]], rows[node]
            if self.rail is not None and self.rail in ends:
                is_top = rows[one.spots[0]] == y
                self._to_rail(run, one, y, is_top)
            elif run.end is None:
                x = one.lane(y, self.foot, rows[one.spots[-1]] == y)
                self.points[run.part] = _cornered((one.x, y), (x, y), (x, self.foot))

    def _to_rail(self, run: BoardRun, one: Column, y: float, is_top: bool) -> None:
        if not self._begun:  # the way of the supply: straight on into the rail
            self.points[run.part] = ((one.x, y), (one.x, y))
            return
        x = one.lane(y, 0.0, is_top)
        self.rail_last = max(self.rail_last, x)
        self.points[run.part] = self._turned(run, _cornered((one.x, y), (x, y), (x, 0.0)))

    def _within(self, column: Column, run: BoardRun, rows: dict[Spot, float]) -> None:
        first, last = rows[run.start], rows[run.end or ""]
        low, high = min(first, last), max(first, last)
        is_next = not any(low < rows[spot] < high for spot in column.spots)
        x = column.lane(first, last, is_next)
        self.points[run.part] = _cornered((column.x, first), (x, first), (x, last), (column.x, last))

    def _across(
        self, layers: Layers, columns: list[Column], column: dict[Spot, int], rows: dict[Spot, float], inner: list[BoardRun]
    ) -> None:
        """Lines from column to column, through the places kept free for long ones."""
        for place, run in enumerate(inner):
            if run.end is None or column[run.start] == column[run.end]:
                continue
            low, high = sorted((run.start, run.end), key=lambda node: column[node])
            chain: list[Spot] = [low, *layers.through.get(place, []), high]
            points: list[Point] = [(columns[column[low]].x, rows[low])]
            for one, other in itertools.pairwise(chain):
                points += self._gap(columns[column[one]], columns[column[other]], rows[one], rows[other])
            points = points if low == run.start else points[::-1]
            self.points[run.part] = _cornered(*points)

    def _gap(self, one: Column, other: Column, first: float, last: float) -> list[Point]:
        """From a spot of one column to one of the next: along the row of the second, of the first, or beside."""
        taken = self._taken.setdefault((one.x, other.x), [])
        beside = [last + APART * step for step in (1, -1, 2, -2, 3, -3)]
        row = next((y for y in (last, first, *beside) if all(abs(y - there) > 0.2 for there in taken)), last)
        taken.append(row)
        turn, back = other.x - 0.9 + BEND, other.x - BEND
        turn = max(turn, one.x + BEND)
        return [(turn, first), (turn, row), (back, row), (back, last), (other.x, last)]

    def add_straight(self, kinds: tuple[str, ...] = ()) -> None:
        """What goes from the rail straight to the chassis, of some kinds or all that is left."""
        for run in self.runs:
            wanted = run.kind in kinds or not kinds
            if wanted and run.part not in self.points and run.start == self.rail and run.end is None:
                x = self._cursor
                self._cursor += 0.9
                self.points[run.part] = ((x, 0.0), (x, self.foot))
                self.rail_last = max(self.rail_last, x)

    def end_rail(self) -> None:
        """The ends of the supply's way, into the rail."""
        for run in self.runs:
            if self.rail is not None and self.rail in (run.start, run.end) and len(set(self.points.get(run.part, ()))) == 1:
                (x, y), _ = self.points[run.part]
                self.points[run.part] = self._turned(run, self._into_rail(x, y))

    def _turned(self, run: BoardRun, points: tuple[Point, ...]) -> tuple[Point, ...]:
        """A line to the rail, from the part's first point to its second."""
        return points[::-1] if run.start == self.rail else points

    def _into_rail(self, x: float, y: float) -> tuple[Point, ...]:
        taken = self._taken.setdefault((-1.0, self.rail_first), [])
        row = next(level for level in (0.0, *(0.4 * n for n in range(1, 90))) if level not in taken)
        taken.append(row)
        if row == 0.0 and y == 0.0:
            return (x, 0.0), (self.rail_first, 0.0)
        near = self.rail_first - 0.25
        return _cornered((x, y), (min(x + BEND, near), y), (min(x + BEND, near), row), (near, row), (near, 0.0),
                         (self.rail_first, 0.0))  # fmt: skip


def _cornered(*points: Point) -> tuple[Point, ...]:
    """A line without corners that are none."""
    found: list[Point] = []
    for point in points:
        if found and found[-1] == point:
            continue
        if len(found) > 1 and (found[-2][0] == found[-1][0] == point[0] or found[-2][1] == found[-1][1] == point[1]):
            found[-1] = point
        else:
            found.append(point)
    return tuple(found) if len(found) > 1 else (points[0], points[-1])
