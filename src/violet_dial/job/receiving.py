"""Receive's records: what was seen, tried and made sure of before anything is opened."""

from dataclasses import dataclass, field
from typing import Annotated

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.receiving.findings import Extent, FindingKind
from violet_dial.core.receiving.gate import Gate
from violet_dial.core.receiving.places import View
from violet_dial.core.receiving.walk import Result, Supply
from violet_dial.job.text import Hash, Line


@dataclass(frozen=True)
class Finding:
    """Something seen on the device: what, where on which view (0 to 1 from left and top), how much; ``photo`` a hash."""

    finding_id: Line
    kind: FindingKind
    view: View
    x: Annotated[float, Ge(0), Le(1)]
    y: Annotated[float, Ge(0), Le(1)]
    extent: Extent = "a spot"
    note: Line = ""
    photo: Hash = ""


@dataclass(frozen=True)
class TakenTrial:
    """One act of the function walk as tried."""

    act: Line
    setting: Line = ""
    supply: Supply = "battery"
    result: Result = "works"
    note: Line = ""
    at: Line = ""


@dataclass(frozen=True)
class MissingScrew:
    """A screw that is not where it should be: where, what its siblings look like, and where it was found at last."""

    screw_id: Line
    view: View
    place: Line
    siblings: Line = ""
    looked: Annotated[tuple[Line, ...], MaxLen(40)] = ()
    found: Line = ""


@dataclass(frozen=True)
class Receiving:
    """The Receive station's share of the job, beside the description."""

    findings: Annotated[tuple[Finding, ...], MaxLen(300)] = ()
    trials: Annotated[tuple[TakenTrial, ...], MaxLen(1000)] = ()
    gate: Gate = field(default_factory=Gate)
    missing: Annotated[tuple[MissingScrew, ...], MaxLen(100)] = ()
