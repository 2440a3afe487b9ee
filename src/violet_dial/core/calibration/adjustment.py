"""The best single adjustment: one even shift of the scale, and what it leaves.

The rule: the shift that keeps the longest unbroken span of light within tolerance; among those, the one with
the smallest worst error inside that span.
"""

from dataclasses import dataclass

import numpy as np

from violet_dial.core.calibration.readings import Array

_SAME_SPAN_EV = 1e-9
_EDGE_STOPS = 1e-9  # an error this far beyond what is allowed is one of arithmetic, not of the meter


@dataclass(frozen=True)
class Curve:
    """The meter's error at each light level, shape (m,): EV100 ascending, error, tolerance and expanded uncertainty in stops.

    A span is promised where the error with its uncertainty is within tolerance: the guard band.
    """

    ev100: Array
    error_stops: Array
    tolerance_stops: Array
    expanded_stops: Array | float = 0.0

    @property
    def allowed_stops(self) -> Array:
        """What the tolerance leaves for the error; below 0 where the uncertainty alone takes more."""
        return self.tolerance_stops - self.expanded_stops


@dataclass(frozen=True)
class Shift:
    """One even shift and what it leaves.

    ``stops`` is added to the indication (negative: the meter then reads lower). The usable span runs from
    ``usable_from_ev100`` to ``usable_to_ev100`` (None when no light is within tolerance); ``worst_error_stops``
    is the largest remaining error inside it.
    """

    stops: float
    usable_from_ev100: float | None
    usable_to_ev100: float | None
    worst_error_stops: float | None
    levels: int = 0

    @property
    def span_ev(self) -> float:
        """Width of the usable span in EV; -1 when nothing is usable."""
        if self.usable_from_ev100 is None or self.usable_to_ev100 is None:
            return -1.0
        return self.usable_to_ev100 - self.usable_from_ev100


def apply_shift(curve: Curve, stops: float) -> Shift:
    """The longest unbroken span within tolerance once ``stops`` is added to every indication.

    ``curve``: errors in stops with their expanded uncertainty and tolerance, shape (n,), over EV100.
    """
    shifted = curve.error_stops + stops
    inside = np.abs(shifted) <= curve.allowed_stops + _EDGE_STOPS
    edges = np.flatnonzero(np.diff(np.concatenate([[False], inside, [False]]).astype(int)))
    runs = [(first, last - 1) for first, last in zip(edges[::2], edges[1::2], strict=True)]
    if not runs:
        return Shift(stops, None, None, None)
    first, last = max(runs, key=lambda run: (curve.ev100[run[1]] - curve.ev100[run[0]], -_worst(shifted, run)))
    worst = _worst(shifted, (first, last))
    return Shift(stops, float(curve.ev100[first]), float(curve.ev100[last]), worst, int(last - first + 1))


def _worst(shifted: Array, run: tuple[int, int]) -> float:
    return float(np.max(np.abs(shifted[run[0] : run[1] + 1])))


def _better(candidate: Shift, than: Shift) -> bool:
    if abs(candidate.span_ev - than.span_ev) > _SAME_SPAN_EV:
        return candidate.span_ev > than.span_ev
    worst, other = candidate.worst_error_stops or 0.0, than.worst_error_stops or 0.0
    return worst < other - 1e-9 or (abs(worst - other) <= 1e-9 and abs(candidate.stops) < abs(than.stops) - 1e-9)


def best_shift(curve: Curve) -> Shift:
    """The best free shift: every unbroken window is tried, its feasible shifts intersected.

    A window from level i to j can be brought inside by any shift between max(-T - e) and min(T - e) over it; in there the
    smallest worst error is at minus the mid-range of e. ``curve``: errors in stops with their expanded uncertainty and
    tolerance, shape (n,), over EV100.
    """
    allowed = curve.allowed_stops + _EDGE_STOPS
    lower, upper = -allowed - curve.error_stops, allowed - curve.error_stops
    best = Shift(0.0, None, None, None)
    for first in range(len(curve.ev100)):
        part = slice(first, None)
        least, most = np.maximum.accumulate(lower[part]), np.minimum.accumulate(upper[part])
        middle = -0.5 * (np.maximum.accumulate(curve.error_stops[part]) + np.minimum.accumulate(curve.error_stops[part]))
        feasible = np.flatnonzero(least <= most)
        if len(feasible) == 0:
            continue
        offset = feasible[-1]  # a shorter window from the same light is never better
        last = first + int(offset)
        stops = float(np.clip(middle[offset], least[offset], most[offset]))
        worst = _worst(curve.error_stops + stops, (first, last))
        found = Shift(stops, float(curve.ev100[first]), float(curve.ev100[last]), worst, last - first + 1)
        if _better(found, best):
            best = found
    return best


def best_stepped_shift(curve: Curve, step_stops: float) -> Shift:
    """The best shift an adjuster with clicks of ``step_stops`` can give.

    ``curve``: errors in stops with their expanded uncertainty and tolerance, shape (n,), over EV100.
    """
    if len(curve.ev100) == 0:
        return Shift(0.0, None, None, None)
    reach = float(np.max(np.abs(curve.error_stops[np.isfinite(curve.error_stops)]), initial=0.0)) + step_stops
    clicks = min(int(np.ceil(reach / step_stops)), 400)
    best = apply_shift(curve, 0.0)
    for click in range(-clicks, clicks + 1):
        found = apply_shift(curve, click * step_stops)
        if _better(found, best):
            best = found
    return best
