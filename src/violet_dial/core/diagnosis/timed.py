"""How long an electronic shutter is held open under each hypothesis: its timing capacitor filled until the magnet lets go.

The capacitor is noted with the magnet it times (``times=Rmag``). It fills slowly, so that all else stands still: at each of its
volts the circuit is solved with the capacitor held there, which gives the current into it and whether the magnet still holds.

Source
------
t = integral of C dV / I: any textbook of circuits. How far the parts' values let a time differ: common practice, no source.
"""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.diagnosis.evidence import NEVER_HOLDS_S, NEVER_LETS_GO_S
from violet_dial.core.diagnosis.hypotheses import Hypothesis

Array = npt.NDArray[np.float64]
STEPS = np.array([0.0, 0.5, 0.8, 0.95, 1.05, 1.3, 1.8, 3.0])  # of the volts at which the magnet of a sound one lets go
HALVINGS = 14
SPREAD = 0.09  # of log10 s: a capacitor's 20 % and a cell's; without end where it never lets go
NO_TIME_U = 0.5


def held_at(circuit: Circuit, capacitor: Part, volts: float) -> Circuit:
    """The circuit with its timing capacitor held at so many volts."""
    return circuit.with_parts(
        tuple(replace(one, letter="V", value=volts) if one is capacitor else one for one in circuit.parts)
    )


def lets_go_v(holds: Callable[[float], bool], most_v: float) -> float:
    """The volts on the capacitor at which the magnet lets go, by halving; ``most_v`` where it never does.

    Parameters
    ----------
    holds : whether it holds with so many volts there
    """
    low, high = 0.0, most_v
    if holds(high):
        return most_v
    for _ in range(HALVINGS):
        half = (low + high) / 2
        low, high = (half, high) if holds(half) else (low, half)
    return (low + high) / 2


def times(
    farads: Array, volts: Array, into_a: Array, holds: npt.NDArray[np.bool_], exact: float
) -> tuple[Array, Array]:
    """Log10 of the time under each hypothesis, and one standard deviation.

    Parameters
    ----------
    farads : of the timing capacitor under each, shape (h,)
    volts : at which it was held, shape (k,)
    into_a : current into it, shape (k, h)
    holds : whether the magnet holds, shape (k, h)
    exact : volts at which that of a sound one lets go
    """
    mean, sigma = np.full(len(farads), np.nan), np.full(len(farads), SPREAD)
    for place in range(len(farads)):
        if not holds[0, place]:
            mean[place], sigma[place] = np.log10(NEVER_HOLDS_S), NO_TIME_U
            continue
        gone = np.flatnonzero(~holds[:, place])
        if not len(gone) or (into_a[: gone[0], place] <= 0).any():
            mean[place], sigma[place] = np.log10(NEVER_LETS_GO_S), NO_TIME_U
            continue
        last = int(gone[0])
        end = exact if volts[last - 1] < exact <= volts[last] else (volts[last - 1] + volts[last]) / 2
        at = np.append(volts[:last], end)
        slow = 1.0 / np.append(into_a[:last, place], into_a[last - 1, place])
        time_s = farads[place] * float(np.trapezoid(slow, at))
        mean[place] = np.log10(np.clip(time_s, NEVER_HOLDS_S, NEVER_LETS_GO_S))
    return mean, sigma


def farads_of(capacitor: Part, hypotheses: tuple[Hypothesis, ...]) -> Array:
    """What the timing capacitor is under each hypothesis."""
    found = np.full(len(hypotheses), capacitor.value)
    for place, one in enumerate(hypotheses):
        for fault in one.faults:
            if fault.part == capacitor.name and fault.mode.startswith("open"):
                found[place] *= 1e-3
            elif fault.part == capacitor.name and fault.mode in ("too high", "too low"):
                found[place] *= fault.figure
    return found


def without_value(capacitor: Part, hypotheses: tuple[Hypothesis, ...]) -> tuple[Hypothesis, ...]:
    """The hypotheses without what changes nothing but the capacitor's own value: while it is held that is of no account."""
    return tuple(
        replace(one, faults=tuple(f for f in one.faults if f.part != capacitor.name or f.mode in ("leaky", "short")))
        for one in hypotheses
    )
