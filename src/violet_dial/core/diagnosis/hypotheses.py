"""Hypotheses: no fault, each single fault with each figure, pairs; and what they are worth before anything is known."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.faults import Fault, faults_of, prior_weight

HEALTHY_WEIGHT = 0.05  # chance beforehand that nothing is wrong after all: a switch stood the other way
MOST_PAIRS = 200


@dataclass(frozen=True)
class Hypothesis:
    """What may be wrong: no, one or two faults; ``log_prior`` up to a constant."""

    faults: tuple[Fault, ...]
    log_prior: float

    @property
    def name(self) -> str:
        """By which hypotheses that differ only in a figure are gathered."""
        return " and ".join(sorted(fault.name for fault in self.faults)) or "no fault"


@dataclass(frozen=True)
class Belief:
    """What raises or lowers chances beforehand: ``raised`` factor by part, ``weights`` by kind where edited."""

    raised: tuple[tuple[str, float], ...] = ()
    weights: tuple[tuple[str, float], ...] = ()


def singles_of(circuit: Circuit, belief: Belief) -> tuple[Hypothesis, ...]:
    """No fault, and every single fault.

    Parameters
    ----------
    circuit : the circuit, values in SI units
    belief : how often each fault happens, and what was found near it
    """
    raised, edited = dict(belief.raised), dict(belief.weights)
    found = [Hypothesis((), math.log(HEALTHY_WEIGHT))]
    for fault in faults_of(circuit):
        weight = prior_weight(circuit, fault, raised, edited)
        if weight > 0:
            found.append(Hypothesis((fault,), math.log(weight / (1.0 - weight))))
    return tuple(found)


def pairs_of(
    singles: tuple[Hypothesis, ...], log_posterior: Mapping[int, float], most: int = MOST_PAIRS
) -> tuple[Hypothesis, ...]:
    """Pairs among the leading single suspects, at most ``most``: the cut. ``log_posterior`` by place in ``singles``.

    A pair is worth a look when either alone leaves something unexplained, so pairs are formed in the order of the sum
    of what the evidence says of each and its chance beforehand.
    """
    best: dict[str, int] = {}
    for place in sorted(log_posterior, key=lambda one: -log_posterior[one]):
        if singles[place].faults:
            best.setdefault(singles[place].name, place)
    leading = list(best.values())[: math.isqrt(8 * most) // 2 + 1]
    found = []
    for first_place, first in enumerate(leading):
        for second in leading[first_place + 1 :]:
            one, two = singles[first].faults[0], singles[second].faults[0]
            if one.part != two.part:
                prior = singles[first].log_prior + singles[second].log_prior
                found.append(Hypothesis((one, two), prior))
    return tuple(found[:most])


def ladders_of(
    singles: tuple[Hypothesis, ...], names: tuple[tuple[str, str], ...], stride: int
) -> tuple[Hypothesis, ...]:
    """Pairs of the named faults with every ``stride``-th figure of each.

    What a fault needs alone to explain a reading is not what it needs beside another.

    Parameters
    ----------
    singles : hypotheses of one fault each
    names : pairs of part and fault mode
    """
    rungs: dict[str, list[Hypothesis]] = {}
    for one in singles:
        if one.faults:
            rungs.setdefault(one.name, []).append(one)
    found = []
    for first, second in names:
        for one in _thinned(rungs[first], stride):
            for two in _thinned(rungs[second], stride):
                prior = one.log_prior + two.log_prior + math.log(stride if len(rungs[first]) > 1 else 1)
                prior += math.log(stride if len(rungs[second]) > 1 else 1)
                found.append(Hypothesis((*one.faults, *two.faults), prior))
    return tuple(found)


def _thinned(several: list[Hypothesis], stride: int) -> list[Hypothesis]:
    ordered = sorted(several, key=lambda one: one.faults[0].figure)
    return ordered[stride // 2 :: stride] if len(ordered) >= stride else ordered
