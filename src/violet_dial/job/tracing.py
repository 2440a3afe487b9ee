"""Trace's records: the circuit, how the device stands, evidence between repairs, spots on the map."""

from dataclasses import dataclass, field
from typing import Annotated

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.mapping.board import Board
from violet_dial.core.records.circuit import Evidence, Fault, Prefer, Setting
from violet_dial.core.steady.samples import Capture
from violet_dial.job.text import Line

CircuitText = Annotated[str, MaxLen(200_000)]


@dataclass(frozen=True)
class TakenEvidence:
    """Evidence with what was typed and when, or with what an instrument gave."""

    evidence: Evidence
    typed: Line = ""
    at: Line = ""
    capture: Capture | None = None


@dataclass(frozen=True)
class TakenRepair:
    """A fault put right: the evidence of the epoch before was taken with it; ``place`` it had among the suspects then, from 1, 0
    where that is not known."""

    fault: Fault
    words: Line = ""
    at: Line = ""
    place: Annotated[int, Ge(0), Le(10_000)] = 0


@dataclass(frozen=True)
class PinnedNode:
    """Where a point of the circuit is pinned on the map: columns and rows of its grid."""

    node: Line
    column: Annotated[float, Ge(-5), Le(60)]
    row: Annotated[float, Ge(-5), Le(60)]


@dataclass(frozen=True)
class Tracing:
    """The Trace station's share of the job: circuit, how the device stands, evidence in epochs between repairs; the map that the
    circuit is made of, where it was traced."""

    circuit_name: Line = ""
    circuit_text: CircuitText = ""
    setting: Setting = field(default_factory=Setting)
    epochs: Annotated[tuple[Annotated[tuple[TakenEvidence, ...], MaxLen(500)], ...], MaxLen(60)] = ((),)
    repairs: Annotated[tuple[TakenRepair, ...], MaxLen(60)] = ()
    pinned: Annotated[tuple[PinnedNode, ...], MaxLen(500)] = ()
    weights: Annotated[tuple[tuple[Line, float], ...], MaxLen(60)] = ()
    prefer: Prefer = "least minutes"
    board: Board = field(default_factory=Board)

    @property
    def now(self) -> tuple[TakenEvidence, ...]:
        """Evidence since the last repair."""
        return self.epochs[-1] if self.epochs else ()

    @property
    def is_only_compared(self) -> bool:
        """Whether nothing was read but what stands beside a working unit's figure at the same points."""
        every = [taken.evidence for epoch in self.epochs for taken in epoch]
        there = {(one.plus, one.minus, one.setting) for one in every if one.sister}
        return all(one.sister or (one.plus, one.minus, one.setting) in there for one in every)
