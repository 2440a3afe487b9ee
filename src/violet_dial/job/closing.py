"""Return's record: what goes back with the device, and what stays at the bench."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le, MaxLen

from violet_dial.job.text import Line, Text

Count = Annotated[int, Ge(1), Le(100_000)]
Minutes = Annotated[float, Ge(0), Le(100_000)]


@dataclass(frozen=True)
class PartUsed:
    """A part out of the drawer, and how many."""

    name: Line
    count: Count = 1


@dataclass(frozen=True)
class Counted:
    """So many of a part were counted in the drawer then; what is used afterwards is taken off."""

    name: Line
    count: Annotated[int, Ge(0), Le(100_000)]
    at: Line = ""


@dataclass(frozen=True)
class Thought:
    """Minutes that a station was thought to take."""

    station: Line
    minutes: Minutes


@dataclass(frozen=True)
class Closing:
    """What goes back with the device: done, left, battery, care, when to check it again, signature; what stays at the bench:
    the lesson, what the next one of this model should begin with, minutes thought, parts used, parts counted."""

    done: Text = ""
    left: Text = ""
    battery: Line = ""
    care: Text = ""
    recheck_on: Line = ""
    lesson: Text = ""
    begins: Text = ""
    signed_by: Line = ""
    signed_on: Line = ""
    thought: Annotated[tuple[Thought, ...], MaxLen(20)] = ()
    parts: Annotated[tuple[PartUsed, ...], MaxLen(200)] = ()
    counted: Annotated[tuple[Counted, ...], MaxLen(200)] = ()
