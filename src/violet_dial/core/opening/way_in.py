"""The way in: the cheapest set of parts to take off to reach one, when parts may be reached in several ways.

A part has one or more ways; a way needs other parts off first (all of them) and takes minutes. A part taken off once
serves every later part, so the sum is over the parts taken off, each once. The search is branch and bound: exact
unless its budget runs out, and then it says so.
"""

import math
from collections.abc import Hashable
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter

from violet_dial.core.errors import InvalidInput

BUDGET = 4_000  # nodes of the search; keeps the answer under a tenth of a second


@dataclass(frozen=True)
class Way:
    """One way to reach and take off ``part``: all ``needs`` off first, then ``minutes``; ``source`` says whence known."""

    part: str
    needs: tuple[str, ...] = ()
    minutes: float = 1.0
    source: str = ""


@dataclass(frozen=True)
class WayIn:
    """Ways in the order of work, total minutes; ``proven`` when no cheaper one exists among those known."""

    ways: tuple[Way, ...]
    minutes: float
    proven: bool


def cheapest_way_in(ways: tuple[Way, ...], target: str) -> WayIn:
    """The cheapest way to take off ``target``.

    ``ways``: known ways in, minutes each. Raises InvalidInput: no way to the target is known, or every way to it asks for
    itself.
    """
    search = _WayTree(ways, target)
    return search.run()


def alternatives(ways: tuple[Way, ...], target: str, most: int = 3) -> tuple[WayIn, ...]:
    """The cheapest way and up to ``most`` - 1 others that differ from it in at least one choice, cheapest first.

    ``ways``: known ways in, minutes each.
    """
    best = cheapest_way_in(ways, target)
    choices = {part for part in (way.part for way in ways) if sum(way.part == part for way in ways) > 1}
    found = {best.ways: best}
    for chosen in best.ways:
        if chosen.part in choices:
            left = tuple(way for way in ways if way != chosen)
            try:
                other = cheapest_way_in(left, target)
            except InvalidInput:
                continue
            found.setdefault(other.ways, other)
    return tuple(sorted(found.values(), key=lambda one: one.minutes)[:most])


class _WayTree:
    """Branch and bound over the choice of a way for each part needed."""

    def __init__(self, ways: tuple[Way, ...], target: str) -> None:
        self.ways: dict[str, list[Way]] = {}
        for way in ways:
            self.ways.setdefault(way.part, []).append(way)
        if target not in self.ways:
            raise InvalidInput("Part", target, "a part of the list, to which a way is known")
        self.target = target
        self.least = _floors(self.ways, sharing=True)
        self.summed = _floors(self.ways, sharing=False)
        if not math.isfinite(self.summed.get(target, math.inf)):
            raise InvalidInput("Way in", target, "parts that do not ask for each other in a ring")
        self.best: dict[str, Way] = self._greedy()
        self.best_minutes = sum(way.minutes for way in self.best.values())
        self.left = BUDGET

    def run(self) -> WayIn:
        self._branch({}, frozenset({self.target}), 0.0)
        return WayIn(_in_order(self.best), self.best_minutes, self.left > 0)

    def _greedy(self) -> dict[str, Way]:
        """Each part by the way with the smallest sum, sharing ignored: a valid first answer."""
        chosen: dict[str, Way] = {}
        waiting = [self.target]
        while waiting:
            part = waiting.pop()
            if part not in chosen:
                chosen[part] = min(self.ways[part], key=self._summed_through)
                waiting.extend(chosen[part].needs)
        return chosen

    def _summed_through(self, way: Way) -> float:
        return way.minutes + sum(self.summed.get(need, math.inf) for need in way.needs)

    def _branch(self, chosen: dict[str, Way], pending: frozenset[str], minutes: float) -> None:
        chosen, pending, minutes = self._forced(dict(chosen), set(pending), minutes)
        self.left -= 1
        if self.left <= 0 or minutes + self._floor(pending) >= self.best_minutes - 1e-9:
            return
        if not pending:
            if _acyclic(chosen):
                self.best, self.best_minutes = chosen, minutes
            return
        part = min(pending, key=lambda one: (len(self.ways[one]), one))
        for way in sorted(self.ways[part], key=self._summed_through):
            new = frozenset(need for need in way.needs if need not in chosen and need != part)
            self._branch({**chosen, part: way}, (pending - {part}) | new, minutes + way.minutes)

    def _forced(self, chosen: dict[str, Way], pending: set[str], minutes: float) -> tuple[dict[str, Way], frozenset[str], float]:
        """Take every part that has only one way."""
        single = [part for part in pending if len(self.ways.get(part, ())) == 1]
        while single:
            part = single.pop()
            pending.discard(part)
            if part in chosen:
                continue
            way = self.ways[part][0]
            chosen[part] = way
            minutes += way.minutes
            for need in way.needs:
                if need not in chosen and need not in pending:
                    pending.add(need)
                    if len(self.ways.get(need, ())) == 1:
                        single.append(need)
        return chosen, frozenset(pending), minutes

    def _floor(self, pending: frozenset[str]) -> float:
        """No completion is cheaper than this: the dearest cheapest way of any one part, or the sum of own minutes."""
        if not pending:
            return 0.0
        if any(part not in self.ways for part in pending):
            return math.inf
        own = sum(min(way.minutes for way in self.ways[part]) for part in pending)
        return max(own, *(self.least[part] for part in pending))


def _floors(ways: dict[str, list[Way]], sharing: bool) -> dict[str, float]:
    """Least minutes to each part, with the needs' costs summed, or (a floor when parts are shared) the dearest only.

    Source: Knuth, A generalization of Dijkstra's algorithm, Inf. Proc. Lett. 6 (1977) 1 [memory].
    """
    import heapq

    users: dict[str, list[Way]] = {}
    waiting: dict[int, int] = {}
    heap: list[tuple[float, str]] = []
    for several in ways.values():
        for way in several:
            waiting[id(way)] = len(set(way.needs))
            for need in set(way.needs):
                users.setdefault(need, []).append(way)
            if not way.needs:
                heap.append((way.minutes, way.part))
    heapq.heapify(heap)
    done: dict[str, float] = {}
    while heap:
        minutes, part = heapq.heappop(heap)
        if part in done:
            continue
        done[part] = minutes
        for way in users.get(part, ()):
            waiting[id(way)] -= 1
            if waiting[id(way)] == 0:
                costs = [done[need] for need in set(way.needs)]
                heapq.heappush(heap, (way.minutes + (max(costs) if sharing else sum(costs)), way.part))
    return {part: done.get(part, math.inf) for part in ways}


def _graph(chosen: dict[str, Way]) -> dict[Hashable, tuple[str, ...]]:
    return {part: way.needs for part, way in sorted(chosen.items())}


def _acyclic(chosen: dict[str, Way]) -> bool:
    try:
        TopologicalSorter(_graph(chosen)).prepare()
    except CycleError:
        return False
    return True


def _in_order(chosen: dict[str, Way]) -> tuple[Way, ...]:
    return tuple(chosen[str(part)] for part in TopologicalSorter(_graph(chosen)).static_order())
