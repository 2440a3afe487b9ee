"""Readings of a meter against reference light, tolerances, and the state of a single reading.

Error in stops = indicated EV100 - reference EV100. Positive: the meter reads high, pictures come out dark.

Source: Combination and expanded uncertainty: JCGM 100:2008. Guard bands: JCGM 106:2012 [memory]. Default tolerances: common
practice, no source.
"""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from violet_dial.core.records.light import LightReading, Tolerance

Array = npt.NDArray[np.float64]
State = Literal["inside", "outside", "undecided"]

LEVEL_WIDTH_EV = 0.25  # reference lights within this are one level


def state_of(error_stops: float, expanded_stops: float, tolerance_stops: float) -> State:
    """Inside, outside, or undecided, with guard bands of the expanded uncertainty.

    Example
    -------
    Parameters
    ----------
    error_stops : indicated less reference, stops
    expanded_stops : expanded uncertainty U = 2u, stops
    tolerance_stops : allowed either way, stops

    >>> state_of(0.1, 0.2, 1 / 3), state_of(0.68, 0.2, 1 / 3), state_of(0.3, 0.2, 1 / 3)
    ('inside', 'outside', 'undecided')
    """
    if abs(error_stops) + expanded_stops <= tolerance_stops:
        return "inside"
    return "outside" if abs(error_stops) - expanded_stops > tolerance_stops else "undecided"


@dataclass(frozen=True)
class ReadingsTable:
    """Readings as arrays of shape (n,), in the order they were taken.

    ``reference`` and ``indicated`` EV100; ``sigma`` combined standard uncertainty, ``u_reference`` its common
    part; ``level`` index of the light level, ``levels`` mean EV100 of each level (ascending, shape (m,)).
    """

    reference: Array
    indicated: Array
    sigma: Array
    u_reference: Array
    level: npt.NDArray[np.intp]
    levels: Array
    direction: npt.NDArray[np.str_]
    attitude: npt.NDArray[np.str_]

    @property
    def error(self) -> Array:
        return self.indicated - self.reference

    @property
    def u_reading(self) -> Array:
        """What is each reading's alone, stops, shape (n,): the reference's part is one and the same in all."""
        found: Array = np.sqrt(np.maximum(np.square(self.sigma) - np.square(self.u_reference), 1e-12))
        return found

    @property
    def u_common(self) -> float:
        """Standard uncertainty of the reference, common to all readings, stops."""
        return float(np.sqrt(np.mean(np.square(self.u_reference)))) if len(self) else 0.0

    def __len__(self) -> int:
        return len(self.reference)


def tabulate(readings: tuple[LightReading, ...]) -> ReadingsTable:
    """Readings as arrays, with near-equal reference lights gathered into levels.

    ``readings``: reference and indication in EV100, uncertainties in stops.
    """
    reference = np.array([r.reference_ev100 for r in readings], dtype=float)
    level = np.zeros(len(readings), dtype=np.intp)
    current, start = -1, -math.inf
    for index in np.argsort(reference, kind="stable"):
        if reference[index] - start > LEVEL_WIDTH_EV:
            current, start = current + 1, reference[index]
        level[index] = current
    counts = np.bincount(level, minlength=max(current + 1, 0))
    levels = np.bincount(level, weights=reference, minlength=len(counts)) / np.maximum(counts, 1)
    return ReadingsTable(
        reference=reference,
        indicated=np.array([r.indicated_ev100 for r in readings], dtype=float),
        sigma=np.array([r.standard_uncertainty_stops for r in readings], dtype=float),
        u_reference=np.array([r.u_reference for r in readings], dtype=float),
        level=level,
        levels=levels if len(readings) else np.zeros(0),
        direction=np.array([r.direction for r in readings], dtype=str),
        attitude=np.array([r.attitude for r in readings], dtype=str),
    )


def tolerance_at(tolerance: Tolerance, ev100: Array, span: tuple[float, float]) -> Array:
    """Tolerance in stops at each light, shape of ``ev100``; ``span`` is the meter's range (lowest, highest EV100)."""
    ev100 = np.asarray(ev100, dtype=float)
    close = 1e-9 + min(tolerance.end_width_ev, (span[1] - span[0]) / 3)
    at_end = (ev100 - span[0] <= close) | (span[1] - ev100 <= close)
    if span[1] - span[0] < 1e-9:
        at_end = np.zeros_like(ev100, dtype=bool)
    return np.where(at_end, tolerance.ends_stops, tolerance.mid_stops)
