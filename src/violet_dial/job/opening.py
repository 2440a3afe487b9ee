"""Open's records: the strip-down and the lessons about the way in."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.opening.steps import Sealant, Step
from violet_dial.job.text import Line


@dataclass(frozen=True)
class ShorterWay:
    """A lesson: a part can be reached through other parts in so many minutes."""

    part: Line
    through: Annotated[tuple[Line, ...], MaxLen(40)] = ()
    minutes: Annotated[float, Ge(0), Le(600)] = 5.0
    note: Line = ""


@dataclass(frozen=True)
class Opening:
    """The Open station's share of the job: the strip-down in the order of removal, and lessons about the way in."""

    steps: Annotated[tuple[Step, ...], MaxLen(1500)] = ()
    shorter_ways: Annotated[tuple[ShorterWay, ...], MaxLen(50)] = ()
    sealant: Sealant = "soft"  # the school followed where a step says nothing
