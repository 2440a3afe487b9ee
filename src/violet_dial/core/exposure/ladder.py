"""The ladder of a shutter's speeds: marked against measured, in stops; what is decided, and which speed to fire next.

Error in stops is log2 of the time measured over the true time of the mark: positive is slow, the picture brighter. A speed is
judged by the mean of its firings with guard bands; how much a shutter scatters is learned from all its speeds together.

Source: Guard bands: JCGM 106:2012 [memory], as at Light. Tolerance 1/3 stop, 1/2 for the two fastest: common practice, no
source. Pooled variance: any textbook of statistics.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from violet_dial.core.errors import InvalidInput

State = Literal["inside", "high", "low", "undecided", "empty"]
USUAL_SCATTER, USUAL_COUNT = 0.06, 4.0  # stops, and as how many firings that counts: common practice, no source
OWN_COUNT = 2.0  # firings' worth of the whole shutter's scatter in that of one speed
COMMON_U = 0.01  # stops: the clock of the recorder and where half amplitude lies, common to all
MOST_AT_ONE, MOST_FIRINGS = 6, 2_000  # firings of one speed, after which it is at its tolerance; firings of a ladder
LONGEST_S, SHORTEST_S = 120.0, 2e-5


@dataclass(frozen=True)
class Timed:
    """One firing: the true time of its mark, the time measured and its standard uncertainty, s; ``since_rest``: how many were
    fired since the shutter rested; ``taper_stops``: last side of the frame over the first, where several sensors saw it."""

    marked_s: float
    time_s: float
    u_s: float = 0.0
    since_rest: int | None = None
    taper_stops: float | None = None

    def __post_init__(self) -> None:
        for name, value in (("Marked time", self.marked_s), ("Time", self.time_s)):
            if not SHORTEST_S <= value <= LONGEST_S:
                raise InvalidInput(name, f"{value:g} s", f"{SHORTEST_S:g} to {LONGEST_S:g} s")
        if not (math.isfinite(self.u_s) and 0 <= self.u_s <= self.time_s):
            raise InvalidInput("Uncertainty", f"{self.u_s:g} s", "0 to the time itself")

    @property
    def stops(self) -> float:
        """How much too long, stops."""
        return math.log2(self.time_s / self.marked_s)

    @property
    def u_stops(self) -> float:
        """Standard uncertainty of it as measured."""
        return self.u_s / self.time_s / math.log(2.0)


@dataclass(frozen=True)
class SpeedTolerance:
    """Stops allowed; ``fastest`` for the two fastest speeds."""

    stops: float = 1 / 3
    fastest: float = 0.5

    def __post_init__(self) -> None:
        for value in (self.stops, self.fastest):
            if not 0.02 <= value <= 3:
                raise InvalidInput("Tolerance", f"{value:g} stop", "0.02 to 3 stops")


@dataclass(frozen=True)
class Rung:
    """One speed: its firings in stops, their mean, the scatter of one and the uncertainty of the mean, one standard deviation."""

    marked_s: float
    tolerance_stops: float
    errors: tuple[float, ...]
    mean_stops: float
    scatter_stops: float
    u_stops: float

    @property
    def state(self) -> State:
        """Within tolerance, beyond it, or too near to it to call."""
        if not self.errors:
            return "empty"
        away, doubt = abs(self.mean_stops), 2.0 * self.u_stops
        if away + doubt <= self.tolerance_stops:
            return "inside"
        if away - doubt > self.tolerance_stops:
            return "high" if self.mean_stops > 0 else "low"
        return "undecided"

    @property
    def decided(self) -> bool:
        """Whether it needs no further firing: judged, or fired so often that it stands at its tolerance."""
        return self.state in ("inside", "high", "low") or len(self.errors) >= MOST_AT_ONE


@dataclass(frozen=True)
class Ladder:
    """All speeds, the slowest first; the scatter of one firing over all of them, stops."""

    rungs: tuple[Rung, ...]
    scatter_stops: float

    @property
    def fired(self) -> int:
        """How many firings there are."""
        return sum(len(rung.errors) for rung in self.rungs)

    @property
    def decided(self) -> bool:
        """Whether every speed is."""
        return all(rung.decided for rung in self.rungs)


def ladder(marked: Sequence[float], firings: Sequence[Timed], tolerance: SpeedTolerance | None = None) -> Ladder:
    """The ladder as it stands.

    Raises InvalidInput: no speed, or more than 2,000 firings.

    Parameters
    ----------
    marked : true times of the marks, s, each once
    tolerance : what is allowed; the usual when None
    """
    tolerance = tolerance or SpeedTolerance()
    if not marked and not firings:
        raise InvalidInput("Speeds", "none", "one marked speed at least")
    if len(firings) > MOST_FIRINGS:
        raise InvalidInput("Firings", len(firings), f"at most {MOST_FIRINGS}")
    times = sorted({*marked, *(firing.marked_s for firing in firings)}, reverse=True)
    errors: dict[float, list[float]] = {mark: [] for mark in times}
    variances = dict.fromkeys(times, 0.0)  # of the firings as measured, summed
    for firing in firings:
        errors[firing.marked_s].append(firing.stops)
        variances[firing.marked_s] += firing.u_stops**2
    scatter = _scatter(list(errors.values()))
    fastest = set(times[-2:]) if len(times) > 2 else set()
    rungs = [
        _rung(mark, some, variances[mark], (tolerance.fastest if mark in fastest else tolerance.stops, scatter))
        for mark, some in errors.items()
    ]
    return Ladder(tuple(rungs), scatter)


def _scatter(groups: Sequence[Sequence[float]]) -> float:
    """Scatter of one firing: what the speeds show together, beside what is usual."""
    squares, count = USUAL_COUNT * USUAL_SCATTER**2, USUAL_COUNT
    for errors in groups:
        if len(errors) > 1:
            mean = sum(errors) / len(errors)
            squares += sum((error - mean) ** 2 for error in errors)
            count += len(errors) - 1
    return math.sqrt(squares / count)


def _rung(mark: float, errors: list[float], variance: float, by: tuple[float, float]) -> Rung:
    n, (allowed, scatter) = len(errors), by
    if not n:
        return Rung(mark, allowed, (), 0.0, scatter, math.inf)
    mean = sum(errors) / n
    squares = sum((error - mean) ** 2 for error in errors)
    own = math.sqrt((OWN_COUNT * scatter**2 + squares) / (OWN_COUNT + n - 1))
    return Rung(mark, allowed, tuple(errors), mean, own, math.hypot(own / math.sqrt(n), math.sqrt(variance) / n, COMMON_U))


def next_speed(found: Ladder) -> Rung | None:
    """The speed to fire next: first each once, both ends and the middle before the rest; then the one that is decided soonest.
    None when all are.
    """
    empty = [place for place, rung in enumerate(found.rungs) if not rung.errors]
    if empty:
        return found.rungs[min(empty, key=lambda place: (_order(len(found.rungs)).index(place), place))]
    open_ = [rung for rung in found.rungs if not rung.decided]
    return min(open_, key=lambda one: (to_decide(one), -one.marked_s), default=None)


def _order(count: int) -> list[int]:
    """Places in the order of a first round: ends, middle, then between."""
    found = [count - 1, 0] if count > 1 else [0]
    gaps = [(0, count - 1)]
    while gaps:
        low, high = gaps.pop(0)
        middle = (low + high) // 2
        if middle not in (low, high):
            found.append(middle)
            gaps += [(low, middle), (middle, high)]
    return found


def to_decide(rung: Rung) -> int:
    """How many firings more this speed is likely to take, going on as it does; at most those that are left to it."""
    left = MOST_AT_ONE - len(rung.errors)
    gap = abs(abs(rung.mean_stops) - rung.tolerance_stops)
    for more in range(1, left + 1):
        if 2.0 * math.hypot(rung.scatter_stops / math.sqrt(len(rung.errors) + more), COMMON_U) <= gap:
            return more
    return max(left, 1)
