"""Practise's records: the sealed device, the coaching, what was said with a chance, slips, how it ended, what came of it."""

from dataclasses import dataclass
from typing import Annotated, Literal, get_args

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.records.circuit import Evidence, Fault
from violet_dial.job.exposing import Exposing
from violet_dial.job.light import LightCheck
from violet_dial.job.text import Line
from violet_dial.job.tracing import Tracing

Coaching = Literal["silent", "a nod", "next after a minute", "everything"]
COACHINGS: tuple[Coaching, ...] = get_args(Coaching)  # the more that is told, the later
Ended = Literal["", "found", "given up", "ended by a slip"]
Share = Annotated[float, Ge(0), Le(1)]
Minutes = Annotated[float, Ge(0), Le(1e6)]
Count = Annotated[int, Ge(0), Le(100_000)]
Stamp = Annotated[str, MaxLen(40)]  # ISO 8601 with offset
MOST_READ = 1000  # readings of an exercise
HIDDEN = "Suspects and Next are yours to find: this is an exercise (Practise says how you are coached)."


@dataclass(frozen=True)
class SaidFault:
    """A fault said to be the one, with a chance, after so many tests, repairs and slips."""

    fault: Fault
    chance: Share
    after: Count = 0
    at: Stamp = ""


@dataclass(frozen=True)
class Slipped:
    """A slip by its kind, after so many tests and repairs."""

    kind: Line
    after: Count = 0
    at: Stamp = ""


@dataclass(frozen=True)
class TestRead:
    """A reading of a device that is judged by readings alone: its test by name, stops off, and the repairs before it."""

    test: Line
    value: Annotated[float, Ge(-100), Le(100)]
    repairs: Count = 0
    at: Stamp = ""


@dataclass(frozen=True)
class Path:
    """What another made of the same device: a player's tests with bits and minutes, and whether it was found."""

    player: Line
    minutes: Minutes
    tests: Count
    found: bool
    bits: Annotated[tuple[float, ...], MaxLen(2000)] = ()
    at_minutes: Annotated[tuple[Minutes, ...], MaxLen(2000)] = ()


@dataclass(frozen=True)
class Replayed:
    """One step of one's own with the test that was best there: what it would have brought, and why."""

    words: Line
    minutes: Minutes
    bits: float
    best: Line = ""
    best_bits: float = 0.0
    best_minutes: Minutes = 0.0
    why: Line = ""
    ask: Evidence | None = None  # the best test


@dataclass(frozen=True)
class Outcome:
    """What came of it: points with their terms, minutes and tests, the steps, the paths beside it, the habit that would have
    saved most."""

    points: float
    said: float
    time: float
    minutes: Minutes
    money: Minutes
    tests: Count
    steps: Annotated[tuple[Replayed, ...], MaxLen(2000)] = ()
    paths: Annotated[tuple[Path, ...], MaxLen(10)] = ()
    needless: Annotated[tuple[Line, ...], MaxLen(200)] = ()
    habit: Line = ""
    coached: Coaching = "silent"


@dataclass(frozen=True)
class Practising:
    """Practise's share of the job; empty in a job that is none of its exercises. ``faults`` and ``kinds`` are plain once it has
    ended. ``helped`` is the most that was told before ``coaching`` was changed last. While it is replayed, Trace's share of the
    job, or Light's and Expose's, is what was known after ``step`` tests and repairs, and ``whole`` and its like keep all of
    it."""

    sealed: Annotated[str, MaxLen(700_000)] = ""
    level: Annotated[int, Ge(0), Le(99)] = 0
    kind: Line = ""
    coaching: Coaching = "a nod"
    helped: Coaching = "silent"
    readings: Annotated[tuple[TestRead, ...], MaxLen(MOST_READ)] = ()
    said: Annotated[tuple[SaidFault, ...], MaxLen(500)] = ()
    slips: Annotated[tuple[Slipped, ...], MaxLen(500)] = ()
    ended: Ended = ""
    ended_at: Stamp = ""
    faults: Annotated[tuple[Fault, ...], MaxLen(20)] = ()
    kinds: Annotated[tuple[Line, ...], MaxLen(20)] = ()
    outcome: Outcome | None = None
    whole: Tracing | None = None
    whole_light: LightCheck | None = None
    whole_exposing: Exposing | None = None
    step: Count = 0
    set_name: Line = ""
    set_place: Count = 0

    @property
    def is_one(self) -> bool:
        """Whether the job is an exercise."""
        return bool(self.sealed)

    @property
    def is_open(self) -> bool:
        """Whether it is still worked on."""
        return self.is_one and not self.ended

    @property
    def is_replayed(self) -> bool:
        """Whether the job stands at a step of its replay."""
        return self.whole is not None

    @property
    def coached(self) -> Coaching:
        """The most that was told."""
        return max(self.helped, self.coaching, key=COACHINGS.index)

    @property
    def hides(self) -> bool:
        """Whether suspects and Next are the trainee's to find."""
        return self.is_open and self.coaching != "everything"
