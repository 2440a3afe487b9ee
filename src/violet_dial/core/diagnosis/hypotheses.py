"""Hypotheses: no fault, each single fault with each figure, pairs; and what they are worth before anything is known."""

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.faults import faults_of, prior_weight
from violet_dial.core.records.circuit import Fault

HEALTHY_WEIGHT = 0.05  # chance beforehand that nothing is wrong after all: a switch stood the other way
UNLISTED_WEIGHT = 0.15  # and that it is something which is on no list
UNLISTED = "not on the list"
COMPANY = 5.0  # a second fault is this much likelier beside a first: what corroded one lead was at its neighbours too

# How readings follow from what is predicted: plainly; anyhow (nobody knows the fault); or now as with the fault, now as
# without, as it comes and goes.
Law = Literal["plain", "unlisted", "at times"]


@dataclass(frozen=True)
class Hypothesis:
    """What may be wrong: no, one or two faults; ``log_prior`` up to a constant.

    ``spans``: for each fault how far its figure may lie about the one given, in all, as a natural logarithm.
    """

    faults: tuple[Fault, ...]
    log_prior: float
    spans: tuple[float, ...] = ()
    law: Law = "plain"

    @property
    def name(self) -> str:
        """By which hypotheses that differ only in a figure are gathered."""
        if self.law == "unlisted":
            return UNLISTED
        return " and ".join(sorted(fault.name for fault in self.faults)) or "no fault"

    @property
    def span(self) -> float:
        """The widest rung of its faults."""
        return max(self.spans, default=0.0)


@dataclass(frozen=True)
class Priors:
    """What raises or lowers chances beforehand: ``raised`` factor by part, ``weights`` by kind where edited."""

    raised: tuple[tuple[str, float], ...] = ()
    weights: tuple[tuple[str, float], ...] = ()


def singles_of(circuit: Circuit, belief: Priors, on_bench: bool = False) -> tuple[Hypothesis, ...]:
    """No fault, something that is not on the list, and every single fault; ``on_bench`` as in `faults_of`."""
    raised, edited = dict(belief.raised), dict(belief.weights)
    listed = []
    for fault, span in faults_of(circuit, on_bench):
        weight = prior_weight(circuit, fault, raised, edited)
        if weight > 0:
            listed.append(Hypothesis((fault,), math.log(weight / (1.0 - weight)), (span,)))
    total = math.log(sum(math.exp(one.log_prior) for one in listed)) if listed else 0.0
    healthy = Hypothesis((), total + math.log(HEALTHY_WEIGHT))
    unlisted = Hypothesis((), total + math.log(UNLISTED_WEIGHT), law="unlisted")
    return (healthy, unlisted, *listed)


def pair_of(one: Hypothesis, two: Hypothesis) -> Hypothesis | None:
    """Two single faults at once; None where they are of one part.

    ``one``, ``two``: single faults, each with its chance beforehand.
    """
    if not one.faults or not two.faults or {one.law, two.law} != {"plain"}:
        return None
    if {fault.part for fault in one.faults} & {fault.part for fault in two.faults}:
        return None
    prior = one.log_prior + two.log_prior + math.log(COMPANY)
    return Hypothesis((*one.faults, *two.faults), prior, (*one.spans, *two.spans))


def named(singles: Iterable[Hypothesis]) -> dict[str, list[Hypothesis]]:
    """Single faults by name, each by rising figure."""
    rungs: dict[str, list[Hypothesis]] = {}
    for single in singles:
        if len(single.faults) == 1:
            rungs.setdefault(single.name, []).append(single)
    return {name: sorted(several, key=lambda each: each.faults[0].figure) for name, several in rungs.items()}


def coarser(rungs: list[Hypothesis], most: int) -> list[Hypothesis]:
    """At most ``most`` rungs of a ladder, each standing for its neighbours too."""
    if len(rungs) <= most:
        return rungs
    step = -(-len(rungs) // most)
    found = []
    for first in range(0, len(rungs), step):
        several = rungs[first : first + step]
        middle = several[len(several) // 2]
        prior = math.log(sum(math.exp(one.log_prior) for one in several))
        found.append(replace(middle, log_prior=prior, spans=(sum(one.span for one in several),)))
    return found
