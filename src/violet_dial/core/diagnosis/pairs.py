"""Two faults at once: which pairs are worth holding.

What a fault needs alone to explain a reading is not what it needs beside another, so every fault is tried beside the
leading ones, at first with few figures each; the best pairs are then held with all their figures.
"""

from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.diagnosis.faults import rebuilt
from violet_dial.core.diagnosis.hypotheses import Hypothesis, coarser, named, pair_of

Array = npt.NDArray[Any]
LEADING, FIRM = 8, 4  # names that every other is tried beside; while the first few of them stay, so do all
MOST_RUNGS, MOST_RUNGS_OF_MANY = 5, 2  # of each fault, coarsely: of many parts rather more pairs with fewer figures
MOST_COARSE, MOST_COARSE_BENT = 8_000, 3_000  # pairs tried; fewer where junctions have to be solved
EXPANDED, MOST_FINE = 6, 2_000
OF_PARTS = 30  # up to so many parts; of a larger circuit as many less as a pair costs more


def _at_most(most: int, parts: int) -> int:
    return max(int(most * min(1.0, OF_PARTS / max(parts, 1)) ** 1.5), 400)


def leaders_of(singles: tuple[Hypothesis, ...], log_total: Array) -> list[str]:
    """Names of the leading single faults. ``log_total``: log chance of each after the evidence, shape (h,)."""
    best: dict[str, float] = {}
    for single, total in zip(singles, log_total.tolist(), strict=True):
        if len(single.faults) == 1 and single.law == "plain":
            best[single.name] = max(best.get(single.name, -np.inf), total)
    return sorted(best, key=lambda name: -best[name])[:LEADING]


def pairable(circuit: Circuit, singles: tuple[Hypothesis, ...]) -> tuple[Hypothesis, ...]:
    """Single faults that may be held beside another: those that need the circuit built anew cost too much."""
    return tuple(
        single
        for single in singles
        if single.law == "plain" and all(rebuilt(circuit, each) is None for each in single.faults)
    )


def coarse_pairs(circuit: Circuit, singles: tuple[Hypothesis, ...], leading: list[str]) -> tuple[Hypothesis, ...]:
    """Each leading fault beside every other, with few figures each; the likeliest beforehand where they are too many."""
    each = MOST_RUNGS if len(circuit.parts) < 2 * OF_PARTS else MOST_RUNGS_OF_MANY
    rungs = {name: coarser(several, each) for name, several in named(singles).items()}
    has_bends = any(part.letter in "DQB" for part in circuit.parts)
    most = _at_most(MOST_COARSE_BENT if has_bends else MOST_COARSE, len(circuit.parts))
    found: list[Hypothesis] = []
    done: set[frozenset[str]] = set()
    for first in sorted(leading):
        for second, others in rungs.items():
            if first not in rungs or first == second or frozenset((first, second)) in done:
                continue
            done.add(frozenset((first, second)))
            for one in rungs[first]:
                for two in others:
                    pair = pair_of(one, two)
                    if pair is not None:
                        found.append(pair)
    found.sort(key=lambda one: -one.log_prior)
    return tuple(found[:most])


def fine_pairs(
    circuit: Circuit, singles: tuple[Hypothesis, ...], coarse: tuple[Hypothesis, ...], log_total: Array
) -> tuple[tuple[Hypothesis, ...], set[str]]:
    """The best pairs with all their figures, and their names.

    ``log_total``: log chance of each after the evidence, shape (pairs,).
    """
    rungs, most = named(singles), _at_most(MOST_FINE, len(circuit.parts))
    best: dict[str, tuple[float, Hypothesis]] = {}
    for one, total in zip(coarse, log_total.tolist(), strict=True):
        if total > best.get(one.name, (-np.inf, one))[0]:
            best[one.name] = (total, one)
    found: list[Hypothesis] = []
    names: set[str] = set()
    for name in sorted(best, key=lambda each: -best[each][0])[:EXPANDED]:
        first, second = (rungs[fault.name] for fault in best[name][1].faults)
        made = [pair for one in first for two in second if (pair := pair_of(one, two)) is not None]
        if len(found) + len(made) > most:
            break
        found += made
        names.add(name)
    return tuple(found), names
