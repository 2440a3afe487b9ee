"""What a trace shows of a supply that a meter does not: how far it swings, by a stated rule.

A regulator with its stabilising capacitor in place holds its output still. Without it, or with one that is a decade too small,
most regulators swing: a sawtooth of a few tenths of the output instead of a flat line. Elsewhere nothing is said.

Source
------
A regulator that oscillates because its stabilising capacitor has gone shows a sawtooth: common practice, no source. How far it
swings differs from one kind to the next, and is left as wide as that.
"""

import numpy as np
import numpy.typing as npt

from violet_dial.core.circuit.netlist import GROUND, Circuit
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.records.circuit import LEADS

Array = npt.NDArray[np.float64]
SWINGS, SWINGS_U = 0.4, 0.25  # of the output, peak to peak, and one standard deviation
STILL_U = 0.02  # V: what an ordinary oscilloscope shows of a still line
TOO_SMALL = 0.25  # of its value, below which a capacitor no longer steadies


def regulated(circuit: Circuit, node: str) -> tuple[str, ...]:
    """The capacitors that steady a point, where a regulator feeds it; none where none does."""
    group = _group(circuit, node)
    if not any(kind_of(circuit, one) == "regulator" and one.nodes[0] in group for one in circuit.parts):
        return ()
    return tuple(
        one.name
        for one in circuit.parts
        if one.letter == "C" and GROUND in one.nodes and group & {*one.nodes} - {GROUND}
    )


def _group(circuit: Circuit, node: str) -> set[str]:
    """Points joined to one by leads alone."""
    group, grown = {node}, True
    while grown:
        grown = False
        for part in circuit.parts:
            ends = {*part.nodes[:2]}
            if kind_of(circuit, part) in LEADS and ends & group and not ends <= group and GROUND not in ends:
                group, grown = group | ends, True
    return group


def ripple(capacitors: tuple[str, ...], hypotheses: tuple[Hypothesis, ...], level: Array) -> tuple[Array, Array]:
    """Peak to peak under each hypothesis and one standard deviation, V, shape (h,) each.

    Parameters
    ----------
    level : V at the point under each, shape (h,)
    """
    mean, sigma = np.zeros(len(hypotheses)), np.full(len(hypotheses), STILL_U)
    for place, one in enumerate(hypotheses):
        gone = any(
            fault.part in capacitors
            and (fault.mode.startswith("open") or (fault.mode == "too low" and fault.figure <= TOO_SMALL))
            for fault in one.faults
        )
        if gone:
            mean[place] = SWINGS * abs(level[place])
            sigma[place] = np.hypot(STILL_U, SWINGS_U * abs(level[place]))
    return mean, sigma
