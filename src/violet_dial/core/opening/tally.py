"""Tallies: everything that came off has an end."""

from dataclasses import dataclass
from typing import Literal, NamedTuple

from violet_dial.core.opening.relations import refit_before, relate
from violet_dial.core.opening.steps import Step

TallyState = Literal["planned", "open", "short", "whole", "over"]


class Tally(NamedTuple):
    """How many of a step's things have an end: ``found`` came off, ``ended`` are accounted for."""

    found: int
    ended: int
    state: TallyState

    @property
    def words(self) -> str:
        """The tally said: ``11 of 12, one short``."""
        if self.state == "planned":
            return "not off yet"
        if self.state in ("whole", "open"):
            return f"{self.ended} of {self.found}"
        missing = abs(self.found - self.ended)
        return f"{self.ended} of {self.found}, {'one' if missing == 1 else missing} {self.state}"


def tally(step: Step) -> Tally:
    """The tally of one step."""
    if not step.ends or step.planned:
        return Tally(step.count, 0, "planned" if step.planned else "open")
    ended = sum(end.count for end in step.ends)
    state: TallyState = "whole" if ended == step.count else "short" if ended < step.count else "over"
    return Tally(step.count, ended, state)


@dataclass(frozen=True)
class Totals:
    """Things off, with an end, and the places of steps that are short or over."""

    found: int
    ended: int
    wrong: tuple[int, ...]

    @property
    def all_back(self) -> bool:
        return self.found == self.ended and not self.wrong


def totals(steps: tuple[Step, ...]) -> Totals:
    """The tallies of a whole strip-down."""
    each = [tally(step) for step in steps]
    off = [one for one in each if one.state != "planned"]
    wrong = tuple(place for place, one in enumerate(each) if one.state in ("short", "over"))
    return Totals(sum(one.found for one in off), sum(one.ended for one in off), wrong)


def open_beneath(steps: tuple[Step, ...], place: int) -> tuple[int, ...]:
    """Places of steps that should be back before this one goes on and are not whole yet.

    ``place``: the step's place in the order.
    """
    needs = refit_before(steps, relate(steps))
    seen: set[int] = set()
    waiting = list(needs[place])
    while waiting:
        one = waiting.pop()
        if one not in seen:
            seen.add(one)
            waiting.extend(needs[one])
    return tuple(sorted(one for one in seen if tally(steps[one]).state in ("open", "short", "over")))
