"""What may be done to what: sealant schools, cleaning by material, and the bath by kind of part."""

from dataclasses import dataclass
from typing import Literal

from violet_dial.core.facts import facts
from violet_dial.core.opening.steps import Sealant, StepKind

Verdict = Literal["good", "with care", "never"]


@dataclass(frozen=True)
class School:
    """One way of securing loose hardware, and why people hold with it."""

    sealant: Sealant
    title: str
    why: str


SCHOOLS: tuple[School, ...] = tuple(School(*school) for school in facts("care")["schools"])


@dataclass(frozen=True)
class CleaningAdvice:
    """How one agent suits one material."""

    verdict: Verdict
    reason: str


CLEANING: dict[str, dict[str, CleaningAdvice]] = {
    material: {agent: CleaningAdvice(*advice) for agent, advice in rows.items()}
    for material, rows in facts("care")["cleaning"].items()
}


def bath_advice(kind: StepKind, no_bath: bool) -> str:
    """Whether this goes into the cleaning bath; empty when it may."""
    if why := facts("care")["no_bath"].get(kind):
        return f"Not into the bath: {why}."
    return "Not into the bath, as noted." if no_bath else ""
