"""Where the parts are far off their figures, straight lines from the figures miss: there the lines begin where the readings
say the parts are.

Source: Iterated extended Kalman filter: Bell and Cathey, IEEE Trans. Automatic Control 38 (1993) 294 [memory].
"""

from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import tolerance_of
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.likelihood import LikelihoodTrace
from violet_dial.core.diagnosis.tolerances import has_tolerance

Array = npt.NDArray[Any]
FAR, WIDE = 1.3, 0.2  # a part with a tolerance so wide and so many standard deviations off is not on the straight line
WITHIN = 14.0  # nat behind the leader: hypotheses worth the trouble
SAME = 0.7  # standard deviations by which a beginning may be off and still do
TOUCHED = 0.3


def wanted(circuit: Circuit, hypotheses: tuple[Hypothesis, ...], followed: LikelihoodTrace) -> Array | None:
    """Where the lines should begin too, in standard deviations of each part, shape (p,); None where nothing is far off."""
    parts = [part for part in circuit.parts if has_tolerance(circuit, part)]
    wide = np.array([part.letter in "RI" and tolerance_of(circuit, part) >= WIDE for part in parts])
    if not wide.any() or not followed.counted:
        return None
    mean = followed.spread.mean[:, :-2]
    total = followed.total
    far = (np.abs(mean[:, wide]) > FAR).any(axis=1) & (total > total.max() - WITHIN) & (followed.laws == 0)
    if not far.any():
        return None
    place = int(np.flatnonzero(far)[np.argmax(total[far])])
    found: Array = np.where(wide, np.clip(mean[place], -4.0, 4.0), 0.0)
    return found if (np.abs(found) > FAR).any() else None


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


def nearer(
    circuit: Circuit, hypotheses: tuple[Hypothesis, ...], both: tuple[LikelihoodTrace, LikelihoodTrace], around: Array
) -> LikelihoodTrace:
    """Each hypothesis after the readings with the lines that begin nearer to where they end. ``around``: shape (p,)."""
    plain, other = both
    names = [part.name for part in circuit.parts if has_tolerance(circuit, part)]
    moved = {name for name, far in zip(names, np.abs(around) > TOUCHED, strict=True) if far}
    sound = np.array([not moved & {fault.part for fault in hypothesis.faults} for hypothesis in hypotheses])
    off = (np.square(each.spread.mean[:, :-2]).sum(axis=1) for each in both)
    taken = sound & (next(off) > next(off))
    column = taken[:, None]
    back = other.spread.mean.copy()
    back[:, :-2] += around
    known = tuple(
        np.where(column, np.broadcast_to(b, back.shape), np.broadcast_to(a, back.shape))
        for a, b in zip(plain.spread.known, other.spread.known, strict=True)
    )
    spread = replace(plain.spread, mean=np.where(column, back, plain.spread.mean), known=known)
    doubts = tuple(
        (piece, np.where(taken, b, a)) for (piece, a), (_, b) in zip(plain.doubts, other.doubts, strict=True)
    )
    return replace(
        plain, weight=np.where(column, other.weight, plain.weight), misfit=np.where(taken, other.misfit, plain.misfit),
        spread=spread, doubts=doubts,
    )  # fmt: skip
