"""The cheapest joins that part two spots when they are all taken away.

Source: Largest flow and smallest cut (Ford and Fulkerson, Canadian J. Math. 8, 1956; shortest ways first: Edmonds and Karp, J.
ACM 19, 1972) [memory].
"""

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Join:
    """Between two ends, what it is known by, and what it costs to take it away."""

    one: int
    other: int
    known: int
    cost: float


def cheapest_cut(joins: Sequence[Join], one: int, other: int, most: float) -> list[int] | None:
    """What the joins are known by that part two ends when they are gone; None where that costs more than ``most``."""
    flow = [0.0] * len(joins)
    at: dict[int, list[tuple[int, int]]] = {}
    for n, join in enumerate(joins):
        at.setdefault(join.one, []).append((n, 1))
        at.setdefault(join.other, []).append((n, -1))
    total = 0.0
    while total <= most:
        reached = _reached(joins, flow, at, one)
        if other not in reached:
            return [join.known for join in joins if (join.one in reached) != (join.other in reached)]
        way, place = [], other
        while place != one:
            n, turn = reached[place]
            way.append((n, turn))
            place = joins[n].one if turn > 0 else joins[n].other
        more = min(joins[n].cost - turn * flow[n] for n, turn in way)
        for n, turn in way:
            flow[n] += turn * more
        total += more
    return None


def _reached(
    joins: Sequence[Join], flow: list[float], at: dict[int, list[tuple[int, int]]], start: int
) -> dict[int, tuple[int, int]]:
    """Each end that more may flow to, with the join and the way it comes."""
    found = {start: (-1, 0)}
    waiting = [start]
    while waiting:
        place = waiting.pop(0)
        for n, turn in at.get(place, ()):
            beyond = joins[n].other if turn > 0 else joins[n].one
            if beyond not in found and joins[n].cost - turn * flow[n] > 1e-9:
                found[beyond] = (n, turn)
                waiting.append(beyond)
    return found
