"""Skills and how they fade: a forgetting curve for each kind of fault in each kind of device, and what to practise today.

Source: Forgetting as an exponential of the time since: Ebbinghaus (1885) [memory]; a half-life that grows with each success and
shrinks with each failure: Settles and Meeder, ACL (2016) 1848 [memory]. The factors are common practice, no source.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass

FIRST_DAYS, GROWS, SHRINKS = 3.0, 2.2, 0.5  # half-life after the first time; what a success and a failure make of it
LEAST_DAYS, MOST_DAYS = 1.0, 400.0
DUE = 0.5  # chance of still knowing, below which it is due
REACH = 0.7  # share of points that is within reach: what is practised next is the hardest above it
GOOD = 50.0  # points from which an exercise went well
NEWEST = 4  # exercises of a level that say how it goes there


@dataclass(frozen=True)
class PastCase:
    """One exercise that was finished: when (``day`` from any fixed one, in UTC), kinds of faults and of device, level, points,
    chances said with whether each was right, minutes and tests with those of the best path, bits a minute with its, slips,
    needless parts, and the habit that would have saved most."""

    day: float
    kinds: tuple[str, ...]
    device: str
    level: int
    points: float
    found: bool
    said: tuple[tuple[float, bool], ...] = ()
    minutes: float = 0.0
    best_minutes: float = 0.0
    tests: int = 0
    best_tests: int = 0
    bits_a_minute: float = 0.0
    best_bits_a_minute: float = 0.0
    slips: tuple[str, ...] = ()
    needless: int = 0
    habit: str = ""

    @property
    def is_good(self) -> bool:
        return self.found and self.points >= GOOD


@dataclass(frozen=True)
class Skill:
    """A kind of fault in a kind of device: how often, how many went well, half-life in days, days since, and the chance that
    it is still known."""

    kind: str
    device: str
    count: int
    good: int
    half_life_days: float
    days: float
    chance: float
    was_good: bool = True  # the last one

    @property
    def name(self) -> str:
        return f"{self.kind}, {self.device}"

    @property
    def is_due(self) -> bool:
        return self.chance < DUE


def skills(done: Iterable[PastCase], now: float) -> tuple[Skill, ...]:
    """Every skill that was practised, least known first. ``now``: the day it is now, counted as those are."""
    found: dict[tuple[str, str], list[PastCase]] = {}
    for one in done:
        for kind in dict.fromkeys(one.kinds):
            found.setdefault((kind, one.device), []).append(one)
    every = [_skill(kind, device, times, now) for (kind, device), times in found.items()]
    return tuple(sorted(every, key=lambda one: one.chance))


def _skill(kind: str, device: str, times: list[PastCase], now: float) -> Skill:
    half_life = FIRST_DAYS
    for place, time in enumerate(times):
        factor = GROWS if time.is_good else SHRINKS
        if place or not time.is_good:
            half_life = min(max(half_life * factor, LEAST_DAYS), MOST_DAYS)
    days = max(now - max(time.day for time in times), 0.0)  # none where a clock was set back
    good = sum(time.is_good for time in times)
    chance = decay(half_life, days) * (1.0 if times[-1].is_good else 0.5)
    return Skill(kind, times[-1].device, len(times), good, half_life, days, chance, times[-1].is_good)


@dataclass(frozen=True)
class Advice:
    """What to practise today: a level, a kind of device (empty: any), and why."""

    level: int
    device: str
    why: str


def advice(done: tuple[PastCase, ...], now: float, levels: int) -> Advice:
    """Due first, else the hardest within reach. ``now``: the day it is now, counted as those are."""
    if not done:
        return Advice(1, "", "Nothing was practised yet: the easiest first.")
    due = [skill for skill in skills(done, now) if skill.is_due]
    if due:
        first = due[0]
        level = min(one.level for one in done if one.device == first.device and first.kind in one.kinds)
        said = "the last one did not go well" if first.good < first.count and first.days < 1 else f"{first.days:.0f} days ago"
        return Advice(level, first.device, f"{first.name}: {first.chance:.0%} likely still at hand ({said}).")
    level = within_reach(done, levels)
    return Advice(level, "", f"Nothing is due. Level {level} is the hardest within reach.")


def within_reach(done: tuple[PastCase, ...], levels: int) -> int:
    """The hardest level within reach: one above the highest that goes well."""
    known = 0
    for one in range(1, levels + 1):
        newest = [each for each in done if each.level == one][-NEWEST:]
        if newest and sum(each.is_good for each in newest) / len(newest) >= REACH:
            known = one
    return min(known + 1, levels)


def decay(half_life_days: float, days: float) -> float:
    """The forgetting curve: chance of still knowing."""
    return math.pow(2.0, -days / half_life_days)
