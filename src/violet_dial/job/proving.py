"""Prove's records: every firing of the log, the claim, rounds of cleaning, the exercise, the seal roll, readings over time."""

from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.proof.contacts import How
from violet_dial.core.proof.log import School, Supply
from violet_dial.core.proof.seams import Hinge, Shape, Side
from violet_dial.core.steady.samples import Capture

Short = Annotated[str, MaxLen(60)]
Share = Annotated[float, Ge(0), Le(1)]
Volts = Annotated[float, Ge(0), Le(1000)]
Hours = Annotated[float, Ge(0), Le(100_000)]
Ohms = Annotated[float, Ge(0), Le(1e9)]
Stamp = Annotated[str, MaxLen(40)]  # ISO 8601 with offset
Iso = Annotated[str, MaxLen(10)]  # a day, ISO 8601


@dataclass(frozen=True)
class Stand:
    """What the device stands on from now on: its setting, battery and volts, supply, cold, position, lens."""

    setting: Short = ""
    battery_v: Volts | None = None
    supply: Supply = ""
    cold: bool = False
    position: Short = ""
    lens: bool | None = None


@dataclass(frozen=True)
class Logged:
    """One firing: how it stood, the kind of failure (empty: clean), the repair before it (empty: as it came), hours of rest
    before it where known, the time measured (s), where it was counted."""

    stand: Stand
    failed: Short = ""
    after: Short = ""
    rest_h: Hours | None = None
    time_s: Annotated[float, Ge(1e-5), Le(120)] | None = None
    source: Literal["hand", "heard", "film", "file"] = "hand"
    at: Stamp = ""


@dataclass(frozen=True)
class Wish:
    """What is to be claimed: fewer than ``share`` fail, with ``confidence``, by a school; settings and frames of a film."""

    share: Share = 0.05
    confidence: Share = 0.95
    school: School = "sequential"
    settings: Annotated[tuple[Short, ...], MaxLen(40)] = ()
    frames: Annotated[int, Ge(1), Le(1000)] = 36


@dataclass(frozen=True)
class NamedRepair:
    """A repair as the log of firings names it."""

    words: Short
    at: Stamp = ""


@dataclass(frozen=True)
class ContactRead:
    """A position of a contact read: ohm, and what an instrument gave."""

    where: Short
    ohm: Ohms
    capture: Capture | None = None


@dataclass(frozen=True)
class Cleaning:
    """One round at a contact: how it was cleaned before, what its positions then read, whether black came off, its
    positions that stand beside their mark."""

    how: How = "as it came"
    readings: Annotated[tuple[ContactRead, ...], MaxLen(400)] = ()
    black: bool | None = None
    beside_mark: Annotated[tuple[Short, ...], MaxLen(40)] = ()
    at: Stamp = ""


@dataclass(frozen=True)
class ExercisePlan:
    """The exercise as planned."""

    begins_on: Iso
    days: Annotated[int, Ge(1), Le(60)] = 5
    a_day: Annotated[int, Ge(1), Le(200)] = 15
    rest_days: Annotated[int, Ge(0), Le(60)] = 3


@dataclass(frozen=True)
class ExerciseDay:
    """A day of it as it was done."""

    on: Iso
    fired: Annotated[int, Ge(0), Le(2000)]
    failed: Annotated[int, Ge(0), Le(2000)] = 0


@dataclass(frozen=True)
class FrameSeen:
    """One frame of the seal roll: what was open, its fog as the picture is seen upright; no shape: clean."""

    number: Annotated[int, Ge(1), Le(1000)]
    open: Short
    shape: Shape | None = None
    side: Side = "middle"
    border: bool | None = None
    source: Annotated[str, MaxLen(200)] = ""


@dataclass(frozen=True)
class SoakRead:
    """One reading over time, and what an instrument gave."""

    at: Stamp
    value: Annotated[float, Ge(-1e9), Le(1e9)]
    capture: Capture | None = None


@dataclass(frozen=True)
class Soaking:
    """Readings over hours or days of one thing: its unit, how far it may go, minutes between readings that are taken by
    themselves."""

    unit: Short = "A"
    allowed: Annotated[float, Ge(0), Le(1e9)] | None = None
    every_min: Annotated[float, Ge(0.02), Le(10_000)] = 10.0
    readings: Annotated[tuple[SoakRead, ...], MaxLen(2000)] = ()


@dataclass(frozen=True)
class Proving:
    """The Prove station's share of the job."""

    stand: Stand = field(default_factory=Stand)
    rested_h: Hours | None = None  # said for the next firing alone
    wish: Wish = field(default_factory=Wish)
    log: Annotated[tuple[Logged, ...], MaxLen(5000)] = ()
    mends: Annotated[tuple[NamedRepair, ...], MaxLen(40)] = ()
    switch: Short = ""
    rounds: Annotated[tuple[Cleaning, ...], MaxLen(60)] = ()
    exercise: ExercisePlan | None = None
    days: Annotated[tuple[ExerciseDay, ...], MaxLen(200)] = ()
    hinge: Hinge = "right"
    roll: Annotated[int, Ge(0), Le(100)] = 0
    frames: Annotated[tuple[FrameSeen, ...], MaxLen(400)] = ()
    soak: Soaking = field(default_factory=Soaking)
