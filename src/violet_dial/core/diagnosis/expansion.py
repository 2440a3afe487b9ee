"""Where the parts are far off their figures, straight lines from the figures miss: there the lines begin where the readings say
the parts are.

What a fault needs alone to explain a reading is not what it needs beside another, so every fault is tried beside the leading
ones, at first with few figures each; the best pairs are then held with all their figures.

Source: Iterated extended Kalman filter: Bell and Cathey, IEEE Trans. Automatic Control 38 (1993) 294 [memory].
"""

from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import lights_of, tolerance_of
from violet_dial.core.diagnosis.faults import rebuilt
from violet_dial.core.diagnosis.hypotheses import Hypothesis, coarser, named, pair_of
from violet_dial.core.diagnosis.likelihood import LikelihoodTrace
from violet_dial.core.diagnosis.tolerances import blurring

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
        single for single in singles if single.law == "plain" and all(rebuilt(circuit, each) is None for each in single.faults)
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


FAR, WIDE = 1.3, 0.2  # a part with a tolerance so wide and so many standard deviations off is not on the straight line; nor is
# a light as far off as that makes
WITHIN = 14.0  # nat behind the leader: hypotheses worth the trouble
SAME = 0.7  # standard deviations by which a beginning may be off and still do
TOUCHED = 0.3


def wanted(circuit: Circuit, hypotheses: tuple[Hypothesis, ...], followed: LikelihoodTrace) -> Array | None:
    """Where the lines should begin too, in standard deviations of each part, shape (p,); None where nothing is far off."""
    parts = [circuit.part(name) for name in blurring(circuit)]
    limits = np.array([
        *(FAR if part.letter in "RI" and tolerance_of(circuit, part) >= WIDE else np.inf for part in parts),
        *(FAR * WIDE / u for u in lights_of(circuit)),
    ])  # fmt: skip
    if not np.isfinite(limits).any() or not followed.counted:
        return None
    mean = followed.spread.mean[:, :-2]
    total = followed.total
    far = (np.abs(mean) > limits).any(axis=1) & (total > total.max() - WITHIN) & (followed.laws == 0)
    if not far.any():
        return None
    place = followed.healthy if far[followed.healthy] else int(np.flatnonzero(far)[np.argmax(total[far])])
    found: Array = np.where(np.isfinite(limits), np.clip(mean[place], -4.0, 4.0), 0.0)
    return found


def still_does(before: Array | None, now: Array) -> bool:
    """Whether a beginning worked out before is near enough to the one wanted now.

    ``before``, ``now``: standard deviations of each part, shape (p,).
    """
    return before is not None and bool(np.abs(before - now).max() < SAME)


def begun_at(start: LikelihoodTrace, around: Array) -> LikelihoodTrace:
    """What is known before any reading, seen from where the lines begin. ``around``: where the lines begin, shape (p,)."""
    mean = start.spread.mean.copy()
    mean[:, :-2] -= around
    return replace(start, spread=replace(start.spread, mean=mean))


def from_figures(other: LikelihoodTrace, around: Array) -> LikelihoodTrace:
    """What was seen from where the lines began, seen from the figures again. ``around``: shape (p,)."""
    mean = other.spread.mean.copy()
    mean[:, :-2] += around
    return replace(other, spread=replace(other.spread, mean=mean))


def nearer(
    circuit: Circuit, hypotheses: tuple[Hypothesis, ...], both: tuple[LikelihoodTrace, LikelihoodTrace], around: Array
) -> LikelihoodTrace:
    """Each hypothesis after the readings with the lines that begin nearer to where they end. ``around``: shape (p,)."""
    plain, other = both
    names = [*blurring(circuit), *("" for _ in lights_of(circuit))]
    moved = {name for name, far in zip(names, np.abs(around) > TOUCHED, strict=True) if far}
    sound = np.array([not moved & {fault.part for fault in hypothesis.faults} for hypothesis in hypotheses])
    off = (np.square(each.spread.mean[:, :-2]).sum(axis=1) for each in both)
    taken = sound & (next(off) > next(off))
    column = taken[:, None]
    back = from_figures(other, around).spread.mean
    known = tuple(
        np.where(column, np.broadcast_to(b, back.shape), np.broadcast_to(a, back.shape))
        for a, b in zip(plain.spread.known, other.spread.known, strict=True)
    )
    spread = replace(plain.spread, mean=np.where(column, back, plain.spread.mean), known=known)
    doubts = tuple((piece, np.where(taken, b, a)) for (piece, a), (_, b) in zip(plain.doubts, other.doubts, strict=True))
    return replace(
        plain, weight=np.where(column, other.weight, plain.weight), misfit=np.where(taken, other.misfit, plain.misfit),
        spread=spread, doubts=doubts,
    )  # fmt: skip
